"""Reading “remove the pods in the yard”: an action for some of its objects, as a condition or a pick and the action."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from msgspec.structs import replace as with_fields

from gatillo.language.reading import Reading
from gatillo.language.typed_words import ARTICLES, NUMBERS, SMALL, TypedWord, split_words
from gatillo.language.wordings import pattern_index
from gatillo.level.edits import Part

Read = Callable[[str, Part], Reading | None]
"""Reads a text as one line of a part of a rule."""

_THAT = frozenset(["that", "which", "who"])
_WHERE = frozenset(
    ["in", "inside", "within", "outside", "touching", "near", "close", "on", "closer", "farther", "further", "holding", "carrying",
     "older", "younger", "facing", "attached", "not"]
)  # fmt: skip
_PICKED = frozenset(["nearest", "closest", "farthest", "furthest", "random", "first", "frontmost", "topmost"])
_ALIKE = {"closest": "nearest", "topmost": "front-most", "frontmost": "front-most"}
_UNTIL = frozenset(["to", "from"])
_BEFORE_A_NAME = ARTICLES | _UNTIL
_WITH_MOST = re.compile(
    r"(?P<before>.+?)(?:the )?(?P<kind>\w+) (?:with|that has|which has) (?:the )?"
    r"(?P<end>most|least|highest|lowest|largest|smallest|greatest|biggest) (?P<what>[\w.]+)(?P<after> .+)?",
    re.IGNORECASE,
)
"""“Hide the lamp with the most fuel”."""
_MORE = frozenset(
    [
        "at",
        "by",
        "with",
        "over",
        "for",
        "up",
        "down",
        "left",
        "right",
        "forward",
        "back",
        "toward",
        "towards",
        "away",
    ]
)
"""Words that go on with an action after what is picked."""
_COST = 0.25
_BEGUN = 0.8
"""An action that costs more has only been begun."""


def qualified(text: str, read: Read, part: Part = "do") -> Reading | None:
    """Return a line about some objects only as a condition or a pick, and an action; None if it is no such line."""
    words = split_words(text)
    plain = [w.plain for w in words]
    for n in range(2, len(words) - 1):
        # “the pod the gardener touches”
        other = plain[n] in ARTICLES and plain[n - 1] not in SMALL and len(words) - n > 2
        if plain[n] not in _THAT and plain[n] not in _WHERE and not other:
            continue
        action = _whole(read(text[: words[n - 1].end], part))
        if action is None and plain[n] in _THAT:
            picked = _of_a_kind_and_picked(text, words, n, read, part)
            if picked is not None:
                return picked
        if action is None or not action.named or action.cost > _BEGUN or action.empty_slots():
            continue
        rest = text[words[n].end :].strip() if plain[n] in _THAT else text[words[n].start :].strip()
        tried = [f"{action.named} {rest}"] if plain[n] in _THAT else [f"{action.named} is {rest}"]
        if other or plain[n] in _THAT:
            tried = [*(tried if not other else ()), f"{rest} {action.named}"]
        for about in tried:
            condition = _whole(read(about, "if"))
            if condition is None or condition.empty_slots() or condition.cost >= _BEGUN:
                continue
            if not other or condition.entry.group == "condition":
                return _together(condition, action)
    found = _qualified_before_more(text, words, read, part)
    if found is not None:
        return found
    most = _WITH_MOST.fullmatch(text)
    if most is not None:
        action = _whole(read(f"{most['before']}{most['kind']}{most['after'] or ''}", part))
        pick = read(f"keep the {most['kind']} with the {most['end']} {most['what']}", "if")
        picks = pick is not None and pick.is_whole and pick.entry.group == "pick"
        if pick is not None and picks and action is not None and not action.empty_slots():
            return _together(pick, action)
    for n in range(1, len(words) - 1):
        if plain[n] not in _PICKED:
            continue
        found = _first_few(text, words, n, read, part) or _picked(
            text, words[n].start, words[n].end, read, part
        )
        if found is not None:
            return found
    return None


def _of_a_kind_and_picked(
    text: str, words: tuple[TypedWord, ...], n: int, read: Read, part: Part
) -> Reading | None:
    """Return “hide the nearest lamp that is lit”: of those that are lit the nearest is picked. “That” is word `n`."""
    kind = words[n - 1].text
    more = next((m for m in range(n + 2, len(words)) if words[m].plain in _MORE | _UNTIL), len(words))
    for end in dict.fromkeys((len(words), more)):
        after = text[words[end].start :] if end < len(words) else ""
        acts = qualified(f"{text[: words[n - 1].end]} {after}".strip(), read, part)
        if acts is None or acts.all_unread or len(acts.lines) != 2 or acts.lines[0].entry.group != "pick":
            continue
        which = _whole(read(f"{kind} {text[words[n].end : words[end - 1].end].strip()}", "if"))
        if which is None or which.empty_slots() or which.cost >= _BEGUN:
            continue
        lines = (which, *acts.lines)
        return Reading(which.clause, which.part, which.cost + acts.cost, named=acts.named, lines=lines)
    return None


def _qualified_before_more(text: str, words: tuple[TypedWord, ...], read: Read, part: Part) -> Reading | None:
    """Return the reading of “move the moths in the yard up by 10”: the action goes on after what says which are meant."""
    plain = [w.plain for w in words]
    last = len(words) - 1
    for n in range(2, last - 1):
        if plain[n] not in _THAT and plain[n] not in _WHERE:
            continue
        # “let the moths in the yard face the gate”: the action goes on at its verb
        verbs = pattern_index().first_words if plain[0] in ("let", "make") else frozenset()
        ends = [
            m for m in range(n + 2, last + 1) if plain[m] in _MORE | _UNTIL or m == last or plain[m] in verbs
        ]
        for end in ends:
            action = _whole(read(f"{text[: words[n - 1].end]} {text[words[end].start :]}", part))
            if action is None or not action.named or action.cost > _BEGUN or action.empty_slots():
                continue
            which = text[words[n].start : words[end - 1].end]
            about = which.split(" ", 1)[1] if plain[n] in _THAT else f"is {which}"
            who = _named_before(action, text[: words[n - 1].end])
            condition = _whole(read(f"{who} {about}", "if")) if who else None
            if condition is not None and not condition.empty_slots() and condition.cost < _BEGUN:
                return _together(condition, action)
    return None


def _named_before(action: Reading, before: str) -> str:
    """Return the object of an action with whose name a text ends; "" if it ends with none."""
    roles = [
        action.clause.slots.get(n, "")
        for n, s in action.entry.slots.items()
        if s.kind.holds in ("role", "where")
    ]
    ends = before.lower().rstrip("s")
    return next((r for r in (*roles, action.named) if r and ends.endswith(r.lower().rstrip("s"))), "")


def _first_few(text: str, words: tuple[TypedWord, ...], n: int, read: Read, part: Part) -> Reading | None:
    """Return the reading of “remove the first 3 pods” as a pick and an action."""
    many = NUMBERS.get(words[n + 1].plain, words[n + 1].plain)
    if words[n].plain != "first" or not many.isdigit() or n + 2 >= len(words):
        return None
    action = _whole(read(f"{text[: words[n].start]}{text[words[n + 1].end :].strip()}", part))
    pick = read(f"keep the first {many}", "if")
    if action is None or action.empty_slots() or not action.named or pick is None or pick.all_unread:
        return None
    return _together(pick, action)


def _picked(text: str, start: int, end: int, read: Read, part: Part) -> Reading | None:
    """Return the reading of “hide the nearest lamp to the gardener” as a pick and an action."""
    which = _ALIKE.get(text[start:end].lower(), text[start:end])
    words = split_words(text[end:])
    ends = [n for n, w in enumerate(words) if w.plain in _UNTIL and n > 0] if which != "random" else []
    found: list[Reading] = []
    for n in (len(words), *ends):
        what = text[end : end + words[n - 1].end].strip()
        action = _whole(read(f"{text[:start]}{what}", part))
        if (
            action is None
            or action.empty_slots()
            or action.offers
            or not action.named
            or action.cost > _BEGUN
        ):
            continue
        pick = read(f"keep the {which} {what} {text[end + words[n - 1].end :].strip()}".strip(), "if")
        if which == "random":
            pick = read("keep a random one", "if")
        pick = _seen_from(pick, action)
        if pick is not None and not pick.all_unread and not pick.offers and pick.entry.group == "pick":
            found.append(_together(pick, action))
    if found:
        return min(found, key=lambda reading: reading.cost)
    return _picked_before_more(text, start, end, read, part)


def _picked_before_more(text: str, start: int, end: int, read: Read, part: Part) -> Reading | None:
    """Like `_picked`, where more of the action follows what is picked: “move the moth toward the nearest lamp at 40”."""
    words = split_words(text[end:])
    before_verb = _before_its_verb(text, start, end, read, part)
    if before_verb is not None:
        return before_verb
    last = next((n for n, w in enumerate(words) if (w.plain in _MORE or w.plain == "to") and n > 0), 0)
    if not last:
        return None
    action = _whole(read(f"{text[:start]}{text[end:].strip()}", part))
    which = _ALIKE.get(text[start:end].lower(), text[start:end])
    pick = read(f"keep the {which} {text[end : end + words[last - 1].end].strip()}", "if")
    if action is None or action.empty_slots() or action.offers or pick is None:
        return None
    pick = _seen_from(pick, action)
    if pick is None or pick.all_unread or pick.offers or pick.entry.group != "pick":
        return None
    return _together(pick, action)


def _before_its_verb(text: str, start: int, end: int, read: Read, part: Part) -> Reading | None:
    """Return the reading of “let the nearest moth to the lamp face the gate”: what is picked ends before its verb."""
    words = split_words(text[end:])
    verbs = pattern_index().first_words
    verb = next(
        (
            n
            for n, w in enumerate(words)
            if n > 0 and w.plain in verbs and words[n - 1].plain not in _BEFORE_A_NAME
        ),
        0,
    )
    if not verb:
        return None
    to = next((n for n, w in enumerate(words[:verb]) if w.plain in _UNTIL and n > 0), verb)
    what = text[end : end + words[to - 1].end].strip()
    action = _whole(read(f"{text[:start]}{what} {text[end + words[verb].start :]}", part))
    which = _ALIKE.get(text[start:end].lower(), text[start:end])
    pick = read(f"keep the {which} {text[end : end + words[verb - 1].end].strip()}", "if")
    if action is None or action.empty_slots() or not action.named:
        return None
    pick = _seen_from(pick, action)
    if pick is None or pick.all_unread or pick.offers or pick.empty_slots() or pick.entry.group != "pick":
        return None
    return _together(pick, action)


def _seen_from(pick: Reading | None, action: Reading) -> Reading | None:
    """Return a pick with the other object of its action as what is nearest to, where it names none: “to the nearest lamp”."""
    empty = [n for n in pick.empty_slots() if pick.entry.slots[n].kind.holds == "where"] if pick else []
    if pick is None or not empty:
        return pick
    named = pick.clause.slots.values()
    roles = [n for n, s in action.entry.slots.items() if s.kind.holds in ("role", "where")]
    other = next((t for n in roles if (t := action.clause.slots.get(n, "")) and t not in named), "")
    slots = {**pick.clause.slots, empty[0]: other} if other else pick.clause.slots
    return replace(pick, clause=with_fields(pick.clause, slots=slots))


def _together(condition: Reading, action: Reading) -> Reading:
    cost = condition.cost + action.cost + _COST
    return Reading(condition.clause, condition.part, cost, named=action.named, lines=(condition, action))


def _whole(reading: Reading | None) -> Reading | None:
    """Return a reading that leaves nothing open; None for any other."""
    if reading is None or reading.all_unread or reading.lines or any(not o.filled for o in reading.offers):
        return None
    return replace(reading, cost=max(reading.cost, 0.0))
