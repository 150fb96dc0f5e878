"""Reading a typed line as one sentence: which of the catalogue's it may be, with their slots filled in, and what was not read.

A line is laid along the sentence and the further wordings of each entry (alignment.py); what its words make in slots is in
slot_fits.py. A line that says several lines of a rule is read in rule_lines.py.
"""

from __future__ import annotations

import re
from collections.abc import Container, Iterable
from dataclasses import replace
from itertools import pairwise

from msgspec.structs import replace as with_fields

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES, FORMULA
from gatillo.catalogue.declare.entry import Entry, Group, Slot
from gatillo.language.alignment import UNREAD, Alignment, Line, align
from gatillo.language.amount_phrases import amount_readings, changed_amounts
from gatillo.language.fits import PRONOUN, Missing
from gatillo.language.formula_fits import A_PERCENTAGE, A_SECOND, PER_SECOND
from gatillo.language.level_names import names_of
from gatillo.language.line_marks import OTHER_PART, Way, sets_a_value, ways_of
from gatillo.language.listed_readings import about_a_name, all_sentences, own_node_readings
from gatillo.language.reading import GROUPS_OF, ROUGH, Offer, Reading
from gatillo.language.slot_fits import SlotFits
from gatillo.language.state_phrases import state_readings
from gatillo.language.typed_words import ARTICLES, SMALL, TypedWord, split_words, stem
from gatillo.language.wordings import Pattern, pattern_index
from gatillo.level.edits import Part
from gatillo.level.graphs import OWN
from gatillo.level.model import Clause
from gatillo.level.naming import is_point_formula, token
from gatillo.level.naming import spoken as in_words
from gatillo.level.roles import Index

_CONTINUING = 0.05
_LATER_PART = 0.1
_WORST = 2.6
_PERCENTAGES = frozenset(["percent", "share"])
"""The names of slots for percentages."""
_TOGETHER = frozenset(["all", "both"])
_NOT_OF_ALL = 0.6
"""What it costs to take “all” of some objects for any of them."""
_ASKS = 0.5
_NOT_ITS_OWN = ROUGH
_GOOD, _NEAR = 0.5, 1.6
"""Beside a reading that costs less than the first, those are looked at that cost at most so much more."""
_WHERE_IT_IS = re.compile(
    r"(?<=\S )where ((?:the )?[^\W\d]\w*(?: \d+)?) (?:is|stands|lies|was|are)\b(?! (?:going|heading))",
    re.IGNORECASE,
)
"""“Where the gardener is” names a place as “at the gardener” does."""
_COMMANDS = ("let", "make")
_OF_A_TIME = frozenset(["at", "on", "by", "before", "during"])
"""Words with which a time begins, but no action: “at the end” ends nothing."""
_MOST_WORDS = 40
"""Words of one sentence that are read; further ones are said to be unread."""


def readings(
    index: Index,
    text: str,
    parts: Iterable[Part] = ("when", "if", "do"),
    *,
    here: Iterable[str] = (),
    most: int = 12,
    cards: bool = False,
    after: str = "",
    ended: bool = True,
) -> list[Reading]:
    """Return the best readings of a typed line as one sentence, best first.

    It may begin with `when`, `if`, `do` or `else`, which then says the part; *not* and the like turn a condition round.
    With `cards` it may also be a card that only graphs have, or an own node by its name. With no words, every sentence that
    may stand there is given: first those that are likeliest after the line or card `after`, then all, part by part, in the order
    of subjects. A line that is only a name gives the sentences that can speak of it, likeliest first. `here` are the roles that
    the rule speaks of already: they are preferred. `ended` is false for a piece of a line: its last word is whole, and nothing
    is still to be typed.
    """
    allowed, known = tuple(parts), tuple(here)
    text = _WHERE_IT_IS.sub(r"at \1", text)
    if not text.strip():
        return all_sentences(index, allowed, known, cards, after)
    found: dict[tuple[object, ...], Reading] = {}
    if cards and "do" in allowed:
        for reading in own_node_readings(index, text, allowed.index("do") * _LATER_PART):
            found["do", OWN, False, reading.clause.slots["graph"]] = reading
    for way in ways_of(text, allowed):
        if way.more >= OTHER_PART and any(r.cost < _GOOD and not r.unread for r in found.values()):
            # what the word before it says has been found
            continue
        states = [
            *state_readings(index, way.text, way.parts, known),
            *amount_readings(index, way.text, way.parts),
            *changed_amounts(index, way.text, way.parts),
        ]
        states = [
            replace(
                r,
                cost=r.cost + way.more,
                clause=with_fields(r.clause, negated=r.clause.negated != way.negated),
            )
            for r in states
            if not (way.negated and r.part != "if")
        ]
        for reading in [*states, *_read(index, way, known, cards, ended)]:
            clause = reading.clause
            key = (
                reading.part,
                clause.use,
                clause.negated,
                clause.slots.get("graph") if clause.use == OWN else None,
            )
            if key not in found or reading.cost < found[key].cost:
                found[key] = reading
    if ended and all(reading.cost > _ASKS + 1 or reading.unread for reading in found.values()):
        about = about_a_name(index, text.strip(), allowed, known, cards, after)
        if about:
            return about[:most]
    ordered = sorted(found.values(), key=lambda r: r.cost)
    return [r for r in ordered[:most] if r.cost <= ordered[0].cost + _WORST]


def _read(index: Index, way: Way, here: tuple[str, ...], cards: bool, ended: bool) -> list[Reading]:
    words = split_words(way.text)
    if not words:
        return []
    rest = tuple(word.text for word in words[_MOST_WORDS:])
    words = words[:_MOST_WORDS]
    fits = SlotFits(index, way.text, words, here)
    line = Line(fits, ended=ended)
    groups: dict[Group, list[tuple[int, Part]]] = {}
    for place, part in enumerate(way.parts):
        for group in GROUPS_OF[part]:
            groups.setdefault(group, []).append((place, part))
    best: dict[str, Alignment] = {}
    cheapest = UNREAD * len(words)
    for pattern in _candidates(line):
        entry = pattern.entry
        if entry.group not in groups or (entry.name in CARD_ENTRIES and not cards):
            continue
        if pattern.negated and entry.group != "condition":
            continue
        key = f"{entry.name}{pattern.negated}"
        far = _NEAR if cheapest < _GOOD else _WORST + 0.5
        limit = min(cheapest + far, best[key].cost if key in best else UNREAD * 99)
        laid = align(pattern, line, limit)
        if laid is not None and pattern.known and any(fit.missing or fit.begun for _, fit in laid.fits):
            continue
        if laid is None or (not pattern.content and _is_a_guess(laid, way, cards)):
            continue
        best[key] = laid
        cheapest = min(cheapest, laid.cost)
    made: list[Reading] = []
    for laid in best.values():
        entry = laid.pattern.entry
        for place, part in groups[entry.group]:
            more = way.more + _LATER_PART * place
            if entry.name == FORMULA and not laid.pattern.content:
                # a bare word is more often the beginning of a sentence
                more += _ASKS
            if entry.continuing and not way.continues:
                more += _CONTINUING
            together: tuple[str, ...] = ()
            if part in ("when", "if") and entry.group != "pick":
                # “all moths are gone” is not about any moth
                at = [
                    n
                    for n, w in enumerate(line.plain)
                    if w in _TOGETHER and stem(w) not in laid.pattern.stems
                ]
                counted = any("count" in fit.text for _, fit in laid.fits)
                together = tuple(words[n].text for n in at if n not in laid.unread and not counted)
                more += _NOT_OF_ALL * bool(at)
            if not way.marked and part == "if" and sets_a_value(way.text) and "do" in way.parts:
                # “pods = 5” alone sets; after “if” it compares
                more += _ASKS
            if entry.group != "action" and (
                line.plain[0] in _COMMANDS or _commands(line.plain[0], laid.pattern)
            ):
                more += _ASKS
            if way.continues and entry.group == "occasion" and not entry.continuing:
                more += _ASKS
            reading = _made(index, laid, line, words, part, way, more, here)
            taken = _RATHER_A_VARIABLE * _is_a_variable(index, laid.pattern, reading, line)
            taken += _A_KIND * _passes_over_a_kind(index, laid, reading, line)
            lost = (*together, *rest, *_time_before(line, entry))
            if lost or taken:
                reading = replace(reading, cost=reading.cost + taken, unread=(*reading.unread, *lost))
            made.append(reading)
    return made


def _is_a_variable(index: Index, pattern: Pattern, reading: Reading, line: Line) -> bool:
    """Whether a word that a pattern has for what it does names a variable of the object: “set the weight of the crate”."""
    slots = pattern.entry.slots
    if any(slot.kind.holds == "variable" for slot in slots.values()):
        return False
    roles = (index.role(reading.clause.slots.get(n, "")) for n, s in slots.items() if s.kind.holds == "role")
    kinds = {kind for role in roles if role is not None for kind in role.kinds}
    named = {stem(v.name.lower()) for kind in kinds for v in index.kinds[kind].variables}
    filled = (
        reading.clause.slots.get(n, "") for n, s in slots.items() if s.type in ("setting", "look", "tag")
    )
    does = {stem(text.rpartition(": ")[2].lower()) for text in filled}
    does |= pattern.stems if pattern.entry.group == "action" else frozenset()
    return not named.isdisjoint(does) and not named.isdisjoint(map(stem, line.plain))


def _passes_over_a_kind(index: Index, laid: Alignment, reading: Reading, line: Line) -> bool:
    """Whether a word that names a kind is taken for a word of the sentence: “the button is pressed”, where Button is a kind."""
    exact = names_of(index).roles.exact
    named = [
        role
        for n, word in enumerate(line.plain)
        if n not in laid.unread and word in laid.pattern.words and (role := exact.get(word)) in index.kinds
    ]
    filled = " ".join(reading.clause.slots.values()).lower()
    return any(role.lower() not in filled for role in named)


def _time_before(line: Line, entry: Entry) -> tuple[str, ...]:
    """Return the word that makes a time of an action's verb: the “at” of “at the end”."""
    plain = [word for word in line.plain[:3] if word not in ARTICLES]
    before = entry.group == "action" and len(plain) > 1 and plain[0] in _OF_A_TIME
    return (plain[0],) if before and plain[1] in pattern_index().first_words else ()


def _commands(word: str, pattern: Pattern) -> bool:
    """Whether a first word is a command, and a pattern has it only in another form: “destroy” of “is destroyed”."""
    if word in SMALL:
        return False
    return word in pattern_index().first_words and not any(word in piece.words for piece in pattern.pieces)


def _is_a_guess(laid: Alignment, way: Way, cards: bool) -> bool:
    """Whether words that name nothing would be taken for a formula, without a sign that they are one."""
    if not any(fit.missing for _, fit in laid.fits):
        # “no” alone is no condition, if nothing says that it is one; a card of it can take a wire
        return not (way.marked or cards) and any(fit.text in ("yes", "no") for _, fit in laid.fits)
    formula_like = way.parts == ("if",) or re.search(r"[.=<>(*/+]", way.text) is not None
    return not formula_like or len(laid.fits) < len(laid.pattern.pieces)


def _candidates(line: Line) -> list[Pattern]:
    """Return the patterns of which a word is typed, and those that are nearly all slots."""
    patterns = pattern_index()
    found: dict[int, Pattern] = {id(p): p for p in patterns.wordless}
    for word in line.all_likes:
        for pattern in patterns.by_word.get(word, ()):
            found[id(pattern)] = pattern
    # those of which most is typed come first: what costs much more than they is not looked at to the end
    return sorted(found.values(), key=lambda p: len(p.content) - 2 * line.met_words(p))


def _made(
    index: Index,
    laid: Alignment,
    line: Line,
    words: tuple[TypedWord, ...],
    part: Part,
    way: Way,
    more: float,
    here: tuple[str, ...],
) -> Reading:
    entry = laid.pattern.entry
    slots: dict[str, str] = {}
    offers: list[Offer] = []
    unread = [words[j].text for j in laid.unread]
    remark = named = subject = ""
    a_second: list[str] = []
    cost = laid.cost + more
    for name, fit in laid.fits:
        slot, text = laid.pattern.slots[name], fit.text
        if text == PRONOUN and slot.kind.holds in ("role", "where"):
            text = here[-1] if here else PRONOUN
        if (
            slot.kind.holds == "role"
            and not slot.kind.all_matches
            and text in slots.values()
            and text != PRONOUN
        ):
            # a second role of one kind is distinguished
            other = f"another {text.removeprefix('any ')}"
            if index.role(other) is not None:
                text = other
        if fit.remark == A_PERCENTAGE and name not in _PERCENTAGES:
            text = f"{float(text) / 100:.6g}"
        slots[name] = text
        if slot.kind.holds == "where" and (text == PRONOUN or index.role(text) is not None):
            # of two sentences that differ in this only, the one that speaks of objects is meant
            cost += _AN_OBJECT
        if slot.kind.holds in ("role", "where") and text not in (PRONOUN, "pointer", "all matches"):
            named = text
            subject = subject or (text if slot.kind.holds == "role" else "")
        elif slot.kind.holds == "variable" and not named and index.role(text.rpartition(".")[0]) is not None:
            named = text.rpartition(".")[0]
        elif slot.kind.has_formulas and not named:
            # of “pod.age > 5” it is the pod that is spoken of
            spoken = [t for t in re.findall(r"([^\W\d]\w*)\.", text) if t in index.role_tokens]
            named = index.role_tokens[spoken[-1]].text if spoken else ""
        offers += [
            Offer(name, m.typed, m.make, m.owner) for m in fit.missing if _is_missing(index, entry, slot, m)
        ]
        offers += [Offer(name, typed, "", "", filled) for typed, filled in fit.begun]
        if fit.remark == PER_SECOND:
            a_second.append(name)
        elif fit.remark != A_PERCENTAGE:
            remark = remark or fit.remark
    typed = set(slots)
    slots |= dict.fromkeys(_to_be_asked(entry, slots), "")
    unread += _fill_by_wording(laid.pattern, slots)
    _ask_for_amounts(laid.pattern, slots, typed)
    if a_second and entry.group == "action":
        adds = [name for name, slot in entry.slots.items() if slot.adds and slots.get(name, "0") != "0"]
        for name in adds:
            if "* dt" in slots[name]:
                continue
            plain = re.fullmatch(r"-?[\w.]+", slots[name]) is not None
            slots[name] = f"{slots[name]} * dt" if plain else f"({slots[name]}) * dt"
            remark = PER_SECOND
        if not adds and not all(name in entry.slots and entry.slots[name].is_rate for name in a_second):
            unread += _a_second(words)
    # a name in a slot of the wording alone stands in the formula that it fills
    filled = next(iter(laid.pattern.filled), "")
    if not filled:
        unread += [o.typed for o in offers if o.slot not in entry.slots]
    offers = [
        o if o.slot in entry.slots else replace(o, slot=filled)
        for o in offers
        if o.slot in entry.slots or filled
    ]
    cost += _of_one_type(index, entry, slots, offers, laid.pattern.filled) + _not_its_own(index, entry, slots)
    cost += _half_a_point(slots, offers)
    ordered = {name: slots[name] for name in ("graph", *entry.slots) if name in slots}
    negated = way.negated != laid.pattern.negated
    clause = Clause(use=entry.name, slots=ordered, negated=negated)
    return Reading(clause, part, cost, tuple(unread), tuple(offers), remark, named, subject)


def _to_be_asked(entry: Entry, slots: dict[str, str]) -> list[str]:
    """Return the slots that are left open rather than given their default: a key, and the one time that an entry asks for."""
    if entry.group == "action":
        return []
    times = [name for name, slot in entry.slots.items() if slot.type == "seconds"]
    open_ = [name for name, slot in entry.slots.items() if slot.type == "key"]
    return [name for name in (*open_, *(times if len(times) == 1 else ())) if name not in slots]


def _ask_for_amounts(pattern: Pattern, slots: dict[str, str], typed: set[str]) -> None:
    """Leave open both amounts of an action if neither was typed and it would do nothing: “push the crate”."""
    entry = pattern.entry
    amounts = [name for name, slot in entry.slots.items() if slot.type == "number" and slot.default == "0"]
    if entry.group != "action" or len(amounts) < 2 or not typed.isdisjoint(amounts):
        return
    if all(slots.get(name, "0") == "0" for name in amounts):
        said = {name for name, text in pattern.filled.items() if "{" not in text}
        slots |= {name: "" for name in amounts if name not in said}


def _a_second(words: tuple[TypedWord, ...]) -> list[str]:
    """Return the words of a line that say “per second”."""
    pairs = pairwise(words)
    return next(([one.text, two.text] for one, two in pairs if (one.plain, two.plain) in A_SECOND), [])


def _is_missing(index: Index, entry: Entry, slot: Slot, missing: Missing) -> bool:
    """Whether a name is really missing: a free one, such as of a message, may be there already; a card names its own ports."""
    if entry.name in CARD_ENTRIES and slot.type == "entry":
        return False
    known = names_of(index).table(slot).exact if slot.kind.holds == "name" else {}
    return missing.typed.lower() not in known


def _fill_by_wording(pattern: Pattern, slots: dict[str, str]) -> list[str]:
    """Fill the slots that a wording's own words fill: a number is worked out, a formula put in brackets.

    Return what was typed for slots that only a formula uses which could not be made.
    """
    lost: list[str] = []
    typed = {name: slot.default for name, slot in pattern.entry.slots.items() if slot.default} | slots
    for name, template in pattern.filled.items():
        named = re.findall(r"\{(\w+)\}", template)
        if any(n not in typed for n in named):
            lost += [slots[n] for n in named if n in slots and n not in pattern.entry.slots]
            continue
        text = template
        if any(re.search(r"\bdt\b", typed[n]) for n in named):
            # an amount in each tick was typed already
            text = text.replace(" * dt", "")
        for n in named:
            in_formula = pattern.entry.slots[name].kind.has_formulas and template != f"{{{n}}}"
            of_object = in_formula and pattern.slots[n].kind.holds in ("role", "where")
            # a formula writes a name of several words as one
            inner = token(typed[n]) if of_object else typed[n]
            plain = re.fullmatch(r"[\w.]+", inner) or template == f"{{{n}}}"
            text = text.replace(f"{{{n}}}", inner if plain else f"({inner})")
        sum_ = re.fullmatch(r"(-?\d+(?:\.\d+)?) ([-+/*]) (\d+(?:\.\d+)?)", text)
        if sum_:
            left, right = float(sum_[1]), float(sum_[3])
            worked = {
                "+": left + right,
                "-": left - right,
                "*": left * right,
                "/": left / right if right else 0.0,
            }[sum_[2]]
            text = f"{worked:.12g}" if sum_[2] != "/" or right else text
        slots[name] = "0" if text == "-0" else text.removeprefix("--")
    return list(dict.fromkeys(lost))


def _not_its_own(index: Index, entry: Entry, slots: dict[str, str]) -> float:
    """Return what it costs to set a behaviour that the object does not have: “the speed of the crate” is no speed of a spin."""
    setting = next((slots.get(n, "") for n, s in entry.slots.items() if s.type == "setting"), "")
    role = next(
        (index.role(slots.get(n, "")) for n, s in entry.slots.items() if s.kind.holds == "role"), None
    )
    if not setting or role is None:
        return 0.0
    behaviour = setting.partition(": ")[0]
    has = any(in_words(b.use) == behaviour for kind in role.kinds for b in index.kinds[kind].behaviours)
    return 0.0 if has else _NOT_ITS_OWN


_AN_OBJECT = 0.004
"""What it costs to read an object where a place may stand, so that a sentence about objects comes first."""
_A_KIND = 0.4
"""What it costs to take the name of a kind for a word of the sentence."""
_RATHER_A_VARIABLE = 0.3
"""What it costs to take a word for what an action does that is the name of a variable of its object."""
_NO_VALUE = 5.0
"""What it costs to read the name of an object or a place alone as a value."""
_HALF_A_POINT = 0.6
"""What it costs to read a name of which nobody knows what it is as the x of a point whose y was not typed."""


def _half_a_point(slots: dict[str, str], offers: list[Offer]) -> float:
    """Return what it costs that only one of x and y is given, by a name that is missing."""
    given = [name for name in ("x", "y") if name in slots]
    return _HALF_A_POINT if len(given) == 1 and any(o.slot == given[0] for o in offers) else 0.0


_EMPTY = {"text": '""', "yes/no": "no"}
"""What a variable holds after it has been cleared, by its type, where that is not 0."""


def _of_one_type(
    index: Index, entry: Entry, slots: dict[str, str], offers: list[Offer], filled: Container[str]
) -> float:
    """Let a value be of its variable's type: a word for a text variable is a text. Return what it costs if it is not.

    `filled` are the slots that the wording itself fills.
    """
    variable = next((n for n, s in entry.slots.items() if s.kind.holds == "variable"), None)
    value = next((n for n, s in entry.slots.items() if s.type == "value"), None)
    if value is None or value not in slots:
        return 0.0
    text = slots[value]
    names_an_object = text in index.role_tokens
    names_a_place = names_an_object or text == "pointer" or text in index.place_tokens
    if variable is None or variable not in slots:
        # a name alone is not a value
        return _NO_VALUE if names_a_place else 0.0
    owner, _, name = slots[variable].rpartition(".")
    if owner == "level":
        known = index.level_tokens.get(token(name))
    else:
        found = names_of(index).variable_of(owner, name)
        known = found[1] if found is not None else None
    if known == "text" and re.fullmatch(r"[^\W\d]\w*", text) and any(o.slot == value for o in offers):
        slots[value] = f'"{text}"'
        offers[:] = [o for o in offers if o.slot != value]
        return -0.7
    if value in filled and text == "0" and known in _EMPTY:
        # “clear the mood”: what a wording fills in is of the variable's type
        slots[value] = _EMPTY[known]
        return 0.0
    if value in filled and text in ("yes", "no") and known == "text":
        return _NOT_ITS_OWN
    if known == "number" and text in ("yes", "no"):
        return 0.5
    if known == "point" and is_point_formula(text):
        return 0.0
    if names_a_place:
        fits = known == "point" or (known == "object" and names_an_object)
        return 0.0 if fits else _NOT_ITS_OWN
    return 0.0
