"""Reading “hide the cart for 2 seconds”: an action, a wait, and the action that undoes it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.language.qualified import qualified
from gatillo.language.reading import Reading
from gatillo.level.edits import Part
from gatillo.level.model import Clause

Read = Callable[[str, Part], Reading | None]
"""Reads a text as one line of a part of a rule."""

_FOR = re.compile(
    r"(?P<what>.+?),? (?:for|during) (?P<time>(?:\S+ |half an? |a )?(?:\S+? ?(?:s|secs?|seconds?|ms|mins?|minutes?)))\s*",
    re.IGNORECASE,
)
_LATER = re.compile(
    r"(?P<what>.+?),? (?:after|in|with a delay of|delayed by) (?P<time>(?:\S+ |half an? |a )?(?:\S+? ?(?:s|secs?|seconds?|ms|mins?|minutes?)))\s*",
    re.IGNORECASE,
)
_SOON = re.compile(
    r"in (?P<time>(?:\S+ |half an? |a )(?:s|secs?|seconds?|ms|mins?|minutes?)),? (?P<what>.+)", re.IGNORECASE
)
_OTHER = {"yes": "no", "no": "yes"}
_A_WHILE = 0.1


_TIME_LATER = re.compile(
    r"(?P<what>.+?),? (?P<time>(?:\d\S* ?|an? |one |half an? )(?:s|secs?|seconds?|ms|mins?|minutes?)) later\s*",
    re.IGNORECASE,
)
"""“Light the lamp one second later”."""


def after_a_while(text: str, read: Read, part: Part = "do") -> Reading | None:
    """Return a line that ends in “after … seconds”, or begins with “in … seconds”, as a wait and an action; None if it is no such line."""
    later = _LATER.fullmatch(text) or _SOON.fullmatch(text) or _TIME_LATER.fullmatch(text)
    if later is None:
        return None
    moved = read(f"move {text}", part)
    if moved is not None and moved.is_whole and moved.entry.derived.over_a_time:
        # “the lift up 50 in 2 s” takes so long
        return moved
    action, wait = read(later["what"], part), read(f"wait {later['time']}", part)
    if action is None or wait is None or not action.is_whole or not wait.is_whole:
        return None
    if not wait.entry.times:
        return None
    cost = action.cost + wait.cost + _A_WHILE
    return Reading(wait.clause, part, cost, named=action.named, lines=(wait, action))


def for_a_while(text: str, read: Read, part: Part = "do") -> Reading | None:
    """Return a line that ends in “for … seconds” as three actions; None if it is no such line, or cannot be undone."""
    said = _FOR.fullmatch(text)
    if said is None:
        return None
    first = read(said["what"], part)
    before: tuple[Reading, ...] = ()
    if first is None or first.unread or first.lines or first.empty_slots():
        # “hide the nearest lamp for 2 seconds”
        some = qualified(said["what"], read, part)
        *before_, first = some.lines if some is not None else (None,)
        before = tuple(one for one in before_ if one is not None)
    wait = read(f"wait {said['time']}", part)
    if first is None or wait is None or not wait.entry.times or wait.unread or first.unread:
        return None
    undone = _undone(first.clause)
    if undone is None or first.empty_slots():
        return None
    last = replace(first, clause=undone, offers=(), remark="")
    lines = (*before, first, wait, last)
    cost = sum(one.cost for one in lines[:-1]) + _A_WHILE
    return Reading(lines[0].clause, lines[0].part, cost, named=first.named, lines=lines)


def _undone(clause: Clause) -> Clause | None:
    """Return the action that undoes one; None if there is none."""
    entry = CATALOGUE.get(clause.use)
    undoing = CATALOGUE.get(entry.undone_by) if entry is not None else None
    if entry is None or undoing is None:
        return None
    slots = {name: clause.slots.get(name, "") for name in undoing.slots}
    if undoing is entry:
        # the same action, with the other value
        for name in (n for n, slot in entry.slots.items() if slot.type == "value"):
            if slots[name] not in _OTHER:
                return None
            slots[name] = _OTHER[slots[name]]
    return Clause(use=undoing.name, slots=slots)
