"""What a catalogue entry may ask of the running level, and do to it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.level.roles import Role

Rows = NDArray[np.int64]
Numbers = Any
"""One float for all matches, or an array with one per match."""


@dataclass(slots=True)
class Candidates:
    """Candidate matches: how many, and the world row of each role's object in each."""

    n: int
    rows: dict[str, Rows] = field(default_factory=dict)


NOBODY = Candidates(0)
ONCE = Candidates(1)


@dataclass(frozen=True, slots=True)
class Target:
    """A variable to be written: the level's (rows is None) or that of an object per match."""

    name: str
    rows: Rows | None


class Where(Protocol):
    """Where something is to be: worked out anew for each object."""

    @property
    def point(self) -> Callable[[Any], tuple[Any, Any]]:
        """x and y, from the frame they are asked for in."""


class Asked(Protocol):
    """The world, as occasions and conditions see it."""

    tick: int
    dt: float

    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        """(pressed in this tick, held, released in this tick)."""

    def contacts(self, state: str, a: Role, b: Role) -> Candidates:
        """Pairs of the two roles whose contact is `begun`, `touching` or `ended` in this tick."""

    def heard(self, message: str) -> int:
        """How often the message was sent in the tick before."""

    def tagged(self, rows: Rows, tag: str) -> NDArray[np.bool_]:
        """Which of the rows carry the tag."""


class Deed(Protocol):
    """The world, as an action being carried out over `n` matches sees it."""

    n: int
    dt: float

    def assign(self, target: Target, value: Any) -> None:
        """Set the variable; when several matches write one object's, the last stands."""

    def increase(self, target: Target, by: Numbers) -> None:
        """Add to the variable, once per match."""

    def shift(self, rows: Rows, dx: Numbers, dy: Numbers) -> None:
        """Move objects by an offset along the level's axes, once per match."""

    def angles(self, rows: Rows) -> NDArray[np.float64]:
        """Facing of the objects in degrees."""

    def rotate(self, rows: Rows, by: Numbers) -> None:
        """Turn objects by degrees, once per match."""

    def remove(self, rows: Rows) -> None:
        """Take objects out of the level."""

    def create(self, kind: str, where: Where, count: Numbers) -> None:
        """Make objects of a kind, `count` of them for each match, each at a point of its own."""

    def send(self, message: str) -> None:
        """Send a message, once per match; it is heard in the next tick."""

    def say(self, rows: Rows, text: Any, time: Numbers) -> None:
        """Show a text at objects for some seconds."""

    def pause(self, time: Numbers) -> None:
        """Let the rest of the action list wait for some seconds."""


class Motion(Protocol):
    """The world, as a behaviour sees it in the Motion phase."""

    dt: float

    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        """(pressed in this tick, held, released in this tick)."""

    def rotate(self, rows: Rows, by: Numbers) -> None:
        """Turn objects by degrees."""

    def go(self, rows: Rows, speed: Numbers) -> None:
        """Give objects a velocity along the way they face, in units a second; negative goes back."""
