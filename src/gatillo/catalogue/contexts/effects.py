"""What a method reads and writes, and of which objects: the words for it, and the decorator with which each method says it.

    @touches(reads="x y of rows; message named message", writes="angle of rows")

The names are those of the method's own parameters.
"""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, TypeVar

from gatillo.level.properties import stored

ANYBODY = "anybody"
"""In the place of a slot: any object of the level."""
SELF = "self"
"""In the place of a slot: who has the behaviour."""
DT = "dt"

OBJECTS = frozenset(
    [
        *stored(),
        "there",
        "tag",
        "item",
        "variable",
        "on",
        "setting",
        "bond",
        "tween",
        "clip",
        "route",
        "focus",
        "offer",
        "touching",
        "inside",
        "arrival",
        "pointed",
        "saying",
        "colour",
        "look",
        "end",
    ]
)
"""What objects have. `there`: whether they are in the level; `pointed`: whether they lie under the pointer; `end`: a clip's;
`on` and `setting`: of a behaviour; `tween` and `route`: what moves them over a time."""
LEVEL = frozenset(
    [
        "variable",
        "timer",
        "message",
        "input",
        "talk",
        "switch",
        "fired",
        "wait",
        "over",
        "telling",
        "note",
        "chance",
        "clock",
        "own",
    ]
)
"""What belongs to no object. `switch`: whether a rule or a section is on; `own`: what a line or a behaviour keeps for itself;
`over`: whether the trial was ended; `note`: a text in the trace, which nothing reads."""

ATTRIBUTES = {
    "tick": "clock",
    "time": "clock",
    "pointer_moved": "input",
    "chosen": "talk",
    "in_conversation": "talk",
    "dt": "",
    "rate": "",
    "n": "",
}
"""What is read as an attribute of the world as entries see it; "" for what never changes."""


@dataclass(frozen=True, slots=True)
class Touch:
    """One thing that is read or written: what, of which, and which of several."""

    what: str
    """`{SLOT}` for what the word in a slot says."""
    of: str = ""
    """A parameter, a slot, `anybody` or `self`; "" for what belongs to the level."""
    named: str = ""
    """A parameter or a slot with the name of which variable, message, timer …; "" for any."""


@dataclass(frozen=True, slots=True)
class Touches:
    """All that something reads and writes."""

    reads: frozenset[Touch] = frozenset()
    writes: frozenset[Touch] = frozenset()
    seen: frozenset[Touch] = frozenset()
    """Of the reads those whose value the entry itself works with. A method that both reads and writes a thing, such as one that
    adds to it, answers for several matches by itself, unless it says that it `sees`."""
    adds: frozenset[str] = frozenset()
    """The parameters, or the slots, with what is added to what is there."""

    def __or__(self, other: Touches) -> Touches:
        return Touches(
            self.reads | other.reads,
            self.writes | other.writes,
            self.seen | other.seen,
            self.adds | other.adds,
        )


Method = TypeVar("Method", bound=Callable[..., Any])
_PART = re.compile(r"(?P<whats>[\w{} ]+?)(?: of (?P<of>\w+))?(?: named (?P<named>\w+))?")


def touches(
    *, reads: str = "", writes: str = "", sees: bool = False, adds: str = ""
) -> Callable[[Method], Method]:
    """Say what a method touches: `WHAT … of PARAMETER named PARAMETER`, parted by semicolons.

    `{PARAMETER}` in the place of what is for the property named there. With `sees`, what the method writes depends on what
    was there before, once for each object: several matches about one object must be carried out one after the other.
    `adds` names the parameters whose values are added to what is there.
    Raises TypeError for what there is not.
    """

    def declare(method: Method) -> Method:
        known = set(inspect.signature(method).parameters) | {ANYBODY, SELF}
        read, written = frozenset(_parsed(reads, known)), frozenset(_parsed(writes, known))
        added = frozenset(adds.split())
        if added - known:
            raise TypeError(f"{method.__name__} has no parameters {sorted(added - known)} to add")
        seen = read if sees else read - written
        method.__touches__ = Touches(read, written, seen, added)  # type: ignore[attr-defined]
        return method

    return declare


def _parsed(text: str, known: set[str]) -> Iterator[Touch]:
    for part in filter(None, text.split("; ")):
        found = _PART.fullmatch(part)
        if found is None:
            raise TypeError(f"this does not say what is touched: {part!r}")
        of, named = found["of"] or "", found["named"] or ""
        for what in found["whats"].split():
            there = {what.strip("{}")} if what.startswith("{") else set()
            unknown = ({of, named, *there} - {""}) - known
            if unknown or not (there or what in (OBJECTS if of else LEVEL)):
                raise TypeError(f"{part!r} speaks of what there is not: {sorted(unknown) or what}")
            yield Touch(what, of, named)
