"""What can wake a rule: facts of a tick. Occasions name them when a rule is compiled, and the tick when they come true.

Both use these types, so that a fact that is never noticed cannot be named: sim/run/tick.py has to say for each of them how it is
noticed, and is an error at import when it does not.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal, TypeVar


class Fact:
    """Something that can come true in a tick."""

    __slots__ = ()


T = TypeVar("T", bound=type[Fact])

FACTS: list[type[Fact]] = []
"""Every type of fact there is."""


def fact(made: T) -> T:
    """Declare a type of fact."""
    FACTS.append(made)
    return made


@fact
@dataclass(frozen=True, slots=True)
class EveryTick(Fact):
    """Comes true in every tick: the rule is always looked at."""


@fact
@dataclass(frozen=True, slots=True)
class LevelStarts(Fact):
    """The first tick."""


@fact
@dataclass(frozen=True, slots=True)
class KeyState(Fact):
    """A key was pressed or released in this tick, or is held in it."""

    state: Literal["pressed", "held", "released"]
    key: str


@fact
@dataclass(frozen=True, slots=True)
class Heard(Fact):
    """A message is heard."""

    message: str


@fact
@dataclass(frozen=True, slots=True)
class TopicChosen(Fact):
    """A topic was chosen in a conversation."""

    topic: str


@fact
@dataclass(frozen=True, slots=True)
class PromptChanged(Fact):
    """Something happened to some prompt."""

    what: Literal["begun", "completed", "broken off", "chosen"]


@fact
@dataclass(frozen=True, slots=True)
class Arrival(Fact):
    """Somebody arrived at a goal, a stop or an end."""

    what: Literal["goal", "stop", "end"]


@fact
@dataclass(frozen=True, slots=True)
class FocusChanged(Fact):
    """Somebody's focus is on something else."""


@fact
@dataclass(frozen=True, slots=True)
class ClipEnded(Fact):
    """A clip ended on an object."""

    clip: str


@fact
@dataclass(frozen=True, slots=True)
class PointerMoved(Fact):
    """The pointer was moved."""


@fact
@dataclass(frozen=True, slots=True)
class UnderPointer(Fact):
    """Something lies under the pointer."""


@fact
@dataclass(frozen=True, slots=True)
class UnderPointerChanged(Fact):
    """Something else lies under the pointer than in the tick before."""


@fact
@dataclass(frozen=True, slots=True)
class AreaOccupied(Fact):
    """Somebody is in an area."""

    area: str


@fact
@dataclass(frozen=True, slots=True)
class AreaChanged(Fact):
    """Somebody may have come into an area or left it."""

    area: str


@fact
@dataclass(frozen=True, slots=True)
class Contact(Fact):
    """Objects of two kinds begin to touch, touch, or stop touching; the kinds by name, in order."""

    state: Literal["begun", "touching", "ended"]
    one: str
    other: str


Wakes = Callable[..., Iterable[Fact]]


def checked(found: Iterable[Fact], whose: str) -> list[Fact]:
    """Facts as they are. Raises TypeError for one whose type is not declared here."""
    facts = list(found)
    for one in facts:
        if type(one) not in FACTS:
            raise TypeError(f"{whose} waits for {one!r}, which is no fact that a tick notices")
    return facts
