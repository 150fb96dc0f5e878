"""What a running level holds beside its columns: waits, movements, bonds, clips, prompts, and what rules remember."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(slots=True)
class Wait:
    """Matches whose action list goes on later."""

    due: int
    serial: int
    turn: int
    part: str
    line: int
    ids: dict[str, NDArray[np.int64]]
    n: int
    keys: list[Any]
    made: dict[str, tuple[NDArray[np.int64], NDArray[np.int64]]] = field(default_factory=dict)
    until: str = ""
    """The slot, in the line before, with the formula that is waited for."""


@dataclass(frozen=True, slots=True)
class Tween:
    """Objects on their way to points over a time; arrays of shape (n,)."""

    ids: NDArray[np.int64]
    start_x: NDArray[np.float64]
    start_y: NDArray[np.float64]
    end_x: NDArray[np.float64]
    end_y: NDArray[np.float64]
    begins: float
    lasts: float
    easing: str
    message: str


@dataclass(frozen=True, slots=True)
class Bond:
    """An object attached to a carrier: its offset in the carrier's frame, and how many seconds it lags."""

    carrier: int
    along: float
    across: float
    turn: float
    lag: float
    held: bool = False
    """Carried in front of one who carries: it turns with the carrier's facing."""


@dataclass(frozen=True, slots=True)
class Playing:
    """A clip being played on an object: from which pose and time (s) on, how fast and how."""

    object: int
    clip: str
    x: float
    y: float
    angle: float
    axes: float
    """Degrees by which the clip's axes are turned."""
    begins: float
    speed: float
    how: str


@dataclass(frozen=True, slots=True)
class Offer:
    """A prompt offered to an object in a tick; `since` when its key is held (s), None if it is not."""

    prompt: int
    by: int
    key: str
    since: float | None
    hold: float
    behaviour: int


@dataclass(frozen=True, slots=True)
class Answering:
    """A prompt whose key is held: since when, and for how long it must be (s)."""

    prompt: int
    since: float
    hold: float


@dataclass(frozen=True, slots=True)
class Menu:
    """The menu that a prompt opened, and for whom."""

    prompt: int
    by: int
    key: str
    entries: tuple[str, ...]


@dataclass(slots=True)
class Memory:
    """What a rule remembers between ticks."""

    held_tick: int = -1
    held: set[Any] = field(default_factory=set)
    fired: set[Any] = field(default_factory=set)
    rests_until: dict[Any, int] = field(default_factory=dict)

    def copy(self) -> Memory:
        return Memory(self.held_tick, self.held, set(self.fired), dict(self.rests_until))
