"""Reading a typed line that says several lines of a rule, or a whole rule.

The line is parted where a part of a rule may begin: at *when*, *if*, *then*, *else*, at *and*, *or*, commas and semicolons, and before
a verb with which an action can begin. Of all ways to part it, the one whose pieces are read best is taken (dynamic programming
over the places where it may be parted).
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace
from typing import Any
from weakref import WeakKeyDictionary

from msgspec.structs import replace as with_fields

from gatillo.catalogue.entries.timed_moves import UNTIL_THERE
from gatillo.language.alignment import UNREAD
from gatillo.language.alternatives import UNLESS, with_alternatives
from gatillo.language.degrees import by_variables
from gatillo.language.firing_phrases import becomes_true, without_firing
from gatillo.language.for_a_while import after_a_while, for_a_while
from gatillo.language.level_names import names_of
from gatillo.language.line_marks import OTHER_PART
from gatillo.language.line_places import Place, places_of, with_subjects
from gatillo.language.line_reading import readings
from gatillo.language.own_words import with_owners
from gatillo.language.pronouns import (
    HE,
    IT,
    as_both_named,
    subject_of,
    what_it_may_be,
    with_objects,
    with_the_only_other,
)
from gatillo.language.qualified import Read, qualified
from gatillo.language.reading import ACTIONS, Reading
from gatillo.language.retold import retellings
from gatillo.language.turns_of_phrase import as_written
from gatillo.language.typed_words import TypedWord, split_words
from gatillo.level.edits import Part
from gatillo.level.model import Clause
from gatillo.level.roles import Index

_AFTER: dict[Part, tuple[Part, ...]] = {
    "when": ("do", "if", "when"),
    "if": ("if", "do", "when"),
    "do": ("do", "when", "if"),
    "else": ("else",),
}
"""By part: the parts that may follow without a word that says so."""
_AFTER_WHEN: dict[str, tuple[Part, ...]] = {"or": ("when",), "and": ("if", "do", "when")}
"""What may follow an occasion after these words."""
_A_LINE = 0.3
"""What each further line costs: one sentence for all words is better, if it is read as well."""
_UNSAID = 0.5
"""What it costs to part a line at a verb alone."""
_NOT_OR = 0.5
"""How much dearer an action may be than a second occasion that does not follow an “or”: two occasions are alternatives."""
_EMPTY = 0.4
"""What each slot costs that a line leaves empty."""
_VERB_ALONE = 1.0
"""What it costs besides if a line says nothing but its verb."""
_CARRIED = 0.5
"""What it costs to carry the beginning of the piece before over to a piece."""
_WELL = 0.7
"""A piece that costs less is read well without that."""
_OTHER = 0.3
"""What a piece costs that is of another part than the one before, if it can also be a second one of that part."""
_POOR = 1.9
"""A piece that costs more is no line."""
_RETOLD = 0.3
"""What it costs to take a line that says what happens for an action."""
_GOOD = 1.0
"""A single sentence that costs less is not parted at verbs alone."""
_BOTH = re.compile(r"\b(?:both(?: of them)?|them both|the two of them)\b", re.IGNORECASE)
_ITS_VERBS = frozenset(
    ["owns", "keeps", "is", "isn't", "has", "hasn't", "holds", "carries", "touches", "stands", "lies", "moves", "faces", "looks",
     "sees", "holding", "carrying", "touching", "facing", "can", "can't", "cannot", "doesn't", "does", "walks", "rests", "hits", "overlaps"]
)  # fmt: skip
"""Verbs with which a further condition of the same object can begin."""
_WIDEST = 5
"""How many places one piece may reach over, at most."""
_MOST_WORDS = 80
"""Words that are read; further ones are said to be unread."""
_ROUGHLY = 1.0
"""What a reading that fits only roughly costs beside one that leaves a word out."""
_LEAST_OF_A_GROUP = 2
"""Words by which a group of conditions is meant."""
_CHANGES_IT = re.compile(
    r"(?:set|reset|change|increase|decrease|raise|lower|reduce|double|halve|multiply|keep|limit) it\b",
    re.IGNORECASE,
)
"""Where “it” is a number rather than an object."""
_IS_A_VALUE = re.compile(
    r"(?P<what>.+?) (?:is|are) (?P<value>-?\d+(?:\.\d+)?|yes|no|true|false)", re.IGNORECASE
)
_ASKS = re.compile(r"(?:when|whenever|if|unless|while|until|as soon as|every time)\b", re.IGNORECASE)
_ASKED_TIMER = re.compile(r'timer\("([^"]+)"\)')
_LONGEST = 24
"""Words that one piece may have."""


class _Memory:
    """What pieces of lines were read as, for the next key press."""

    def __init__(self) -> None:
        self.pieces: dict[tuple[object, ...], Reading | None] = {}

    def best(
        self, index: Index, text: str, parts: tuple[Part, ...], here: tuple[str, ...], ended: bool
    ) -> Reading | None:
        """Return the best reading of a piece of a line as one sentence."""
        key = (text, parts, here, ended)
        if key not in self.pieces:
            if len(self.pieces) > 4_000:
                self.pieces.clear()
            found = readings(index, text, parts, here=here, most=1, ended=ended)
            self.pieces[key] = _or_several(index, text, found[0] if found else None, parts, here)
        return self.pieces[key]


def _or_several(
    index: Index, text: str, found: Reading | None, parts: tuple[Part, ...], here: tuple[str, ...]
) -> Reading | None:
    """Return the reading of an action as several lines, if it is for some seconds or some objects only; else the one that was found."""
    if found is not None and not (found.all_unread or found.offers) and found.part not in ACTIONS:
        return found
    # a line that begins with “when” has no action to read
    asks = _ASKS.match(text) is not None

    def read(words: str, part: Part) -> Reading | None:
        one = readings(index, words, (part,), here=here, most=1)
        return one[0] if one else None

    is_now = _IS_A_VALUE.fullmatch(text) if set(parts) <= {*ACTIONS} else None
    if is_now is not None:
        # “then the speed is 20” sets it
        set_ = read(f"set {is_now['what']} to {is_now['value']}", parts[0])
        if set_ is not None and set_.is_whole:
            return set_
    for part in ACTIONS:
        if part not in parts:
            continue
        while_ = for_a_while(text, read, part) if not asks else None
        if while_ is not None and not (found and found.entry.times and found.cost < while_.cost):
            return while_
        later = (
            after_a_while(text, read, part) if not asks and (found is None or not found.is_whole) else None
        )
        if later is not None:
            return later
        if found is None or found.all_unread or found.offers or found.cost > _GOOD:
            some = qualified(text, read, part)
            if some is not None and (found is None or found.all_unread or some.cost < found.cost):
                return some
    if not asks and (found is None or found.all_unread or found.offers):
        retold = _retold(index, text, read, parts)
        if retold is not None:
            return retold
    return found


def _retold(index: Index, text: str, read: Read, parts: tuple[Part, ...]) -> Reading | None:
    """Return the action that a line tells as if it happened; None if it tells none."""
    part: Part = next((one for one in ACTIONS if one in parts), "when")
    for command in retellings(index, text) if part in ACTIONS else ():
        for found in (read(command, part), qualified(command, read, part)):
            open_ = found is None or found.all_unread or any(line.empty_slots() for line in found.all_lines)
            if (
                found is not None
                and not open_
                and not any(o for line in found.all_lines for o in line.offers)
            ):
                return replace(found, cost=found.cost + _RETOLD) if found.cost < _GOOD else None
    return None


_MEMORY: WeakKeyDictionary[Index, _Memory] = WeakKeyDictionary()


def read_line(
    index: Index,
    text: str,
    parts: Iterable[Part] = ("when", "if", "do"),
    *,
    here: Iterable[str] = (),
    most: int = 12,
    cards: bool = False,
    after: str = "",
) -> list[Reading]:
    """Return the best readings of a typed line, best first: as one sentence, or as several lines of a rule.

    A reading of several lines has them in `lines`. What it says of how often its rule fires is in `rule`. Parameters are as of `readings`.
    """
    said: dict[str, Any] = {}
    asked = text
    if not cards:
        text, said = without_firing(text)
    found = _read(index, text, tuple(parts), tuple(here), most=most, cards=cards, after=after)
    if cards or not text.strip():
        return found
    made = []
    for reading in found:
        fields = {"fires": "on becoming true"} | said if becomes_true(asked, reading) else said
        made.append(replace(reading, rule=fields) if fields else reading)
    return made


def _read(
    index: Index,
    text: str,
    allowed: tuple[Part, ...],
    known: tuple[str, ...],
    *,
    most: int,
    cards: bool,
    after: str,
) -> list[Reading]:
    """Return the readings of a line that says nothing of how often its rule fires."""
    names = names_of(index)
    if "when" in allowed:
        text = names.with_rule_first(names.with_messages(text))
    text = names.with_timers(text)
    text = by_variables(index, text)
    text = with_owners(index, as_written(text, occasions="when" in allowed, names=names.several_words))
    words = split_words(text)
    if not words:
        return readings(index, text, allowed, here=known, most=most, cards=cards, after=after)
    if len(words) > _MOST_WORDS:
        rest = tuple(word.text for word in words[_MOST_WORDS:])
        shorter = text[: words[_MOST_WORDS - 1].end]
        found = _read(index, shorter, allowed, known, most=most, cards=cards, after=after)
        return [replace(reading, unread=(*reading.unread, *rest)) for reading in found]
    places = _not_in_names(places_of(words), words, text, names.several_words)
    if any(place.strong for place in places[1:]):
        # it says itself that it is several lines
        several = _several(index, text, places, allowed, known, cards=cards)
        if several is not None and not several.all_unread:
            return [several]
    found = readings(index, text, allowed, here=known, most=most, cards=cards, after=after)
    first = _or_several(index, text, found[0] if found else None, allowed, known)
    if first is not None and first not in found[:1]:
        found = [first, *found]
    single = [
        replace(reading, lines=tuple(with_objects(list(reading.lines))))
        if reading.lines
        else with_objects([reading])[0]
        for reading in found
    ]
    # one that leaves a word out may be nearer to what was meant than one that twists all of them
    single.sort(key=lambda reading: reading.cost + (_ROUGHLY if reading.is_rough else 0.0))
    plain = not any(p.parts or p.joint for p in places[1:])
    # the last word may be half typed
    read = bool(single) and single[0].cost < _GOOD + UNREAD and set(single[0].unread) <= {words[-1].text}
    if (len(places) < 2 and not (places[0].parts and (not single or single[0].all_unread))) or (
        plain and read and (single[0].unread or single[0].cost < _GOOD)
    ):
        return single
    several = _several(index, text, places, allowed, known, cards=cards)
    if not (several and set(several.all_unread) <= {words[-1].text}) and any(place.parts for place in places):
        # “if the wind is more than 5 the moth moves left”
        more = with_subjects(index, words, places)
        better = _several(index, text, more, allowed, known, cards=cards) if more else None
        several = better if better is not None and not better.all_unread else several
    if several is None and not single:
        several = _several(index, text, places, allowed, known, poor=UNREAD, cards=cards)
    if several is None:
        return single
    if single and single[0].lines:
        same = [line.clause for line in single[0].lines] == [line.clause for line in several.lines]
        single = single[1:] if same else single
    if single and single[0].cost + _open(single[0]) <= several.cost:
        return [single[0], several, *single[1:]][:most]
    return [several, *(r for r in single if r.cost <= several.cost + UNREAD)][:most]


def _not_in_names(
    places: list[Place], words: tuple[TypedWord, ...], text: str, names: Iterable[str]
) -> list[Place]:
    """Return the places that do not lie within a name of several words: “porch step” is not parted before “step”."""
    lower = text.lower()
    held = [name for name in names if name in lower]
    if not held:
        return places
    spans = [found.span() for name in held for found in re.finditer(rf"\b{re.escape(name)}\b", lower)]
    return [
        place
        for place in places
        if not any(start < words[place.at].start < end for start, end in spans) or not place.at
    ]


def _open(reading: Reading) -> float:
    """Return what a reading costs for the slots that it leaves open, beside another that leaves none."""
    return _VERB_ALONE * len(reading.empty_slots())


def _several(
    index: Index,
    text: str,
    places: list[Place],
    allowed: tuple[Part, ...],
    here: tuple[str, ...],
    poor: float = _POOR,
    *,
    cards: bool = False,
) -> Reading | None:
    """Return the best reading of a line as several lines; None if it is but one. A piece that costs more than `poor` is no line."""
    words = split_words(text)
    memory = _MEMORY.setdefault(index, _Memory())
    # by place and the part that was read last: cost, the lines so far, what joins each, and whether it comes after “then”
    best: dict[
        tuple[int, Part | None], tuple[float, tuple[Reading, ...], tuple[str, ...], tuple[bool, ...]]
    ] = {(0, None): (0.0, (), (), ())}
    ends = [p.at for p in places[1:]] + [len(words)]
    for n, place in enumerate(places):
        for last in (None, "when", "if", "do", "else"):
            so_far = best.get((n, last))
            if so_far is None:
                continue
            for m in range(n + 1, len(places) + 1):
                start, end = place.at + place.skips, ends[m - 1]
                if m > n + _WIDEST or (m > n + 1 and places[m - 1].strong):
                    break
                if start >= end or end - start > _LONGEST:
                    continue
                piece = text[words[start].start : words[end - 1].end]
                if start and piece.lower() == "once":
                    # “send bang once” is not said of the level's start
                    continue
                parts = place.parts or (_AFTER[last] if last is not None else allowed)
                if last == "when" and not place.parts and place.joint in _AFTER_WHEN:
                    parts = _AFTER_WHEN[place.joint]
                if parts == ("do",) and last == "else":
                    parts = ("else",)
                reading = _piece(memory, index, piece, parts, here, so_far[1], place, m == len(places))
                after = places[m].parts if m < len(places) else ()
                opens = (
                    not start
                    and "do" in parts
                    and (after == ("when",) or ("if" in after and "do" not in after and m == len(places) - 1))
                )
                if opens and reading is not None and reading.part == "when" and not place.parts:
                    # “the door opens when pods is 3” is an action and when it is done
                    done_ = _piece(memory, index, piece, ("do",), here, (), place, False)
                    reading = done_ if done_ is not None and done_.is_whole else reading
                if reading is not None and reading.entry.joins and end - start < _LEAST_OF_A_GROUP:
                    # “one” alone is no group of conditions
                    continue
                if reading is None or reading.cost > poor + UNREAD * len(reading.unread):
                    continue
                cost = (
                    so_far[0]
                    + reading.cost
                    + (_A_LINE if so_far[1] else 0.0)
                    + _EMPTY * len(reading.empty_slots())
                )
                if reading.entry.slots and not reading.clause.slots:
                    cost += _VERB_ALONE
                if so_far[1] and not place.parts and not place.joint:
                    cost += _UNSAID + (_GOOD if _lacks(reading) or _lacks(so_far[1][-1]) else 0.0)
                key = (m, reading.part)
                if key not in best or cost < best[key][0]:
                    joint = UNLESS if piece.lower().startswith(f"{UNLESS} ") else place.joint
                    others = len(reading.all_lines) - 1
                    joined = any(word.plain == "then" for word in words[place.at : start])
                    best[key] = (
                        cost,
                        (*so_far[1], reading),
                        (*so_far[2], joint, *[""] * others),
                        (*so_far[3], joined, *[False] * others),
                    )
    done = [best[key] for key in best if key[0] == len(places) and len(best[key][1]) > 1]
    if not done:
        return None
    cost, lines, joints, thens = min(done, key=lambda d: d[0])
    each = with_objects([one for line in lines for one in line.all_lines])
    each, joints = _in_turn(with_the_only_other(index, each), joints, thens)
    lines = tuple(with_alternatives(each, list(joints), cards=cards))
    if len(lines) == 1:
        return replace(lines[0], cost=cost)
    unread = tuple(w for line in lines for w in line.unread)
    if len(unread) > len(lines):
        return None
    first = lines[0]
    return Reading(
        first.clause, first.part, cost, remark=next((r.remark for r in lines if r.remark), ""), lines=lines
    )


def _in_turn(
    lines: list[Reading], joints: tuple[str, ...], thens: tuple[bool, ...]
) -> tuple[list[Reading], tuple[str, ...]]:
    """Return lines with a wait before each that comes “then”, after a movement over a time."""
    made: list[tuple[Reading, str]] = []
    for line, joint, then in zip(lines, joints, thens, strict=True):
        before = made[-1][0] if made else None
        if (
            then
            and before is not None
            and before.part == line.part
            and before.entry.derived.over_a_time
            and not line.entry.derived.waits
        ):
            waits = Clause(use=UNTIL_THERE, slots={"who": before.clause.slots.get("who", "")})
            made.append((Reading(waits, before.part, 0.0), ""))
        made.append((line, joint))
    return [line for line, _ in made], tuple(joint for _, joint in made)


def _piece(
    memory: _Memory,
    index: Index,
    piece: str,
    parts: tuple[Part, ...],
    here: tuple[str, ...],
    before: tuple[Reading, ...],
    place: Place,
    ended: bool,
) -> Reading | None:
    """Return the reading of one piece. Where it says less than a sentence, the beginning of the piece before is carried over."""

    def best(text: str) -> Reading | None:
        """Return the best reading of a text; what happens after an occasion is done, unless “or” says that it is another one."""
        read = memory.best(index, text, parts, here, ended)
        happens = read is not None and (
            read.part == "when"
            # “…, wait 2 s, lamp on”: no condition follows an action without “if”
            or (read.part == "if" and before and before[-1].part in ACTIONS and not place.parts)
        )
        if read is not None and happens and before and place.joint != "or" and "do" in parts:
            done = memory.best(index, text, ("do",), here, ended)
            if done is not None and done.is_whole and done.cost < read.cost + _NOT_OR:
                return done
        return read

    found = best(piece)
    pair = _both(memory, index, piece, parts, here, before) if _BOTH.search(piece) else None
    if pair is not None and (found is None or not found.is_whole):
        return pair
    both = as_both_named(index, piece, before)
    if both:
        other = memory.best(index, both[0], parts, here, ended)
        if other is not None and other.is_whole:
            return other
    # what can be done with one of them is said of that one: “it goes out” of a lamp, not of what it touches
    likely: Reading | None = None
    for name in what_it_may_be(index, piece, before):
        other = best(IT.sub(name, piece))
        if (
            other is not None
            and not other.unread
            # “it” in a text is a word of the text
            and not any(slot.kind.holds == "text" for slot in other.entry.slots.values())
            and (found is None or other.unread < found.unread or other.cost <= found.cost)
        ):
            likely = other if likely is None or other.is_whole else likely
            if other.is_whole:
                break
    found = likely or found
    if HE.match(piece) and (subject := subject_of(before)):
        for tried in (("do",), parts) if "do" in parts else (parts,):
            other = memory.best(index, HE.sub(subject, piece), tried, here, ended)
            if other is not None and other.is_whole:
                return other
    timer = _timer_of(before[-1].all_lines[-1]) if before else ""
    if timer and IT.search(piece):
        # “when the oven reaches 3 s stop it”
        other = memory.best(index, IT.sub(f'timer "{timer}"', piece), parts, here, ended)
        if other is not None and other.is_whole:
            return other
    if _CHANGES_IT.match(piece) and before:
        # “if lamp.fuel < 0 set it to 0”
        variables = set(
            re.findall(
                r"\b[^\W\d]\w*\.[^\W\d]\w*\b", " ".join(before[-1].all_lines[-1].clause.slots.values())
            )
        )
        if len(variables) == 1:
            other = memory.best(index, IT.sub(variables.pop(), piece), parts, here, ended)
            if other is not None and other.is_whole:
                return other
    if piece.lower().startswith(("it ", "it's ")) and before and "if" in parts:
        # “it” may be the number that was spoken of
        last = before[-1]
        slot = next((n for n, s in last.entry.slots.items() if s.kind.holds == "variable"), "")
        if slot and last.clause.slots.get(slot):
            rest = (
                piece.partition(" ")[2]
                if piece.lower().startswith("it ")
                else f"is {piece.partition(' ')[2]}"
            )
            other = memory.best(index, f"{last.clause.slots[slot]} {rest}", ("if",), here, ended)
            if other is not None and not other.unread and (found is None or other.cost <= found.cost + 0.5):
                found = other
    if (found is None or found.unread or _lacks(found) or found.cost > _GOOD) and parts == ("when",):
        # “when pods is 0” is asked as a condition
        other = memory.best(index, piece, ("if",), here, ended)
        if other is not None and not other.unread and (found is None or found.unread or not _lacks(other)):
            found = replace(other, cost=other.cost + OTHER_PART)
    if parts == ("if",) and not before and (found is None or found.unread or found.cost > _GOOD):
        # “if the gardener enters the yard” is an occasion
        other = memory.best(index, piece, ("when",), here, ended)
        if (
            other is not None
            and other.is_whole
            and (found is None or other.cost + OTHER_PART < found.cost or found.unread)
        ):
            found = replace(other, cost=other.cost + OTHER_PART)
    if place.joint not in ("and", "or", ",", "but") or not before:
        return found
    last = before[-1]
    same = _of_the_same(memory, index, piece, last, here) if "if" in parts else None
    if same is not None and (found is None or same.cost < found.cost + _CARRIED or _lacks(found)):
        return same
    well = found is not None and not found.unread and not found.empty_slots() and found.cost < _WELL
    if found is not None and well and found.part == last.part:
        return found
    if last.part not in parts and last.part != "else":
        return found
    for carried in _beginnings(last):
        again = memory.best(index, f"{carried} {piece}", (last.part,), here, ended)
        if again is None or again.unread or again.clause.use != last.clause.use or _lacks(again):
            continue
        if found is None or again.cost + (_CARRIED / 2 if well else _CARRIED) < found.cost + (
            _OTHER if well else 0
        ):
            found = replace(again, cost=again.cost + _CARRIED)
    if found is not None and found.part in ACTIONS and found.empty_slots() and _says_what_it_does(piece):
        # “the moth faces the lamp and moves to it”
        first = next((n for n, s in last.entry.slots.items() if s.kind.holds == "role"), "")
        again = memory.best(
            index, f"{last.clause.slots.get(first, last.named)} {piece}", (found.part,), here, ended
        )
        if again is not None and again.is_whole:
            return again
    return _with_their_object(found, last) if found is not None else None


def _timer_of(line: Reading) -> str:
    """Return the timer that a line names, in a slot or in a formula; "" if it names none."""
    slots = line.clause.slots
    asked = _ASKED_TIMER.search(" ".join(slots.values()))
    return slots.get("timer", "") or (asked[1] if asked is not None else "")


def _says_what_it_does(piece: str) -> bool:
    """Whether a piece begins with what an object does: “moves”."""
    return re.match(r"[a-z]{3,}s ", piece, re.IGNORECASE) is not None


def _with_their_object(reading: Reading, last: Reading) -> Reading:
    """Return a line with the object of the line before, if both are the same action and it names none: “a key and 2 tools”."""
    if reading.lines or reading.clause.use != last.clause.use or reading.part != last.part:
        return reading
    slots = dict(reading.clause.slots)
    for name in reading.empty_slots():
        if reading.entry.slots[name].kind.holds in ("role", "where") and last.clause.slots.get(name):
            slots[name] = last.clause.slots[name]
    if slots == reading.clause.slots:
        return reading
    ordered = {name: slots[name] for name in ("graph", *reading.entry.slots) if name in slots}
    return replace(reading, clause=with_fields(reading.clause, slots=ordered))


def _both(
    memory: _Memory,
    index: Index,
    piece: str,
    parts: tuple[Part, ...],
    here: tuple[str, ...],
    before: tuple[Reading, ...],
) -> Reading | None:
    """Return “remove both” as two actions: one for each of the two objects of a line before. None if no line has two."""
    for line in reversed([one for reading in before for one in reading.all_lines]):
        roles = [
            t
            for n, s in line.entry.slots.items()
            if s.kind.holds == "role" and (t := line.clause.slots.get(n, ""))
        ]
        if len(roles) != 2:
            continue
        pair = [memory.best(index, _BOTH.sub(role, piece), parts, here, True) for role in roles]
        whole = [one for one in pair if one is not None and one.is_whole and not one.lines]
        if len(whole) < 2 or whole[0].clause.use != whole[1].clause.use:
            return None
        first, second = whole
        cost = first.cost + second.cost + _A_LINE
        return Reading(first.clause, first.part, cost, named=second.named, lines=(first, second))
    return None


def _of_the_same(
    memory: _Memory, index: Index, piece: str, last: Reading, here: tuple[str, ...]
) -> Reading | None:
    """Return a piece that begins with its verb as a condition of the object that the piece before it speaks of: “and has a key”."""
    if piece.split(" ", 1)[0].lower() not in _ITS_VERBS or last.part not in ("when", "if"):
        return None
    first = next((n for n, slot in last.entry.slots.items() if slot.kind.holds == "role"), "")
    role = last.subject or last.clause.slots.get(first, "") or last.named
    if not role:
        return None
    found = memory.best(index, f"{role} {piece}", ("if",), here, True)
    return found if found is not None and not found.all_unread and not _lacks(found) else None


def _lacks(reading: Reading) -> bool:
    return any(not offer.filled for offer in reading.offers)


def _beginnings(reading: Reading) -> list[str]:
    """Return the beginnings of a sentence that may be meant for a second one too: “add”, “set Gardener”."""
    filled: list[str] = []
    made: list[str] = []
    for text, slot in reading.entry.parts():
        if slot is None:
            filled += text.split()
        else:
            value = reading.clause.slots.get(slot, "")
            owner, dot, _ = value.rpartition(".")
            if dot and reading.entry.slots[slot].kind.holds == "variable":
                made.append(" ".join([*filled, owner]))
            filled.append(value)
        made.append(" ".join(filled))
    return [m for m in dict.fromkeys(made) if m.strip()][:-1][:4]
