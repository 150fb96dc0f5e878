"""Types of the values that entries are given and give back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.formula import Formula
from gatillo.level.model import Area
from gatillo.level.roles import Role

A_HANDFUL = 12
"""Up to this many rows are processed in a scalar loop, bit-identical to arrays, whose calls would take ten times as long."""
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
    """Where something is to be: worked out again for each object."""

    @property
    def point(self) -> Callable[[Any], tuple[Any, Any]]:
        """X and y, from the frame they are asked for in."""

    @property
    def roles(self) -> tuple[str, ...]:
        """The tokens of the roles it speaks of."""

    @property
    def reads(self) -> tuple[tuple[str, str], ...]:
        """What it reads: whose, and what of it."""

    @property
    def formula(self) -> Formula | None:
        """The formula that gives it, where it is not a name."""

    @property
    def area(self) -> Area | None:
        """The area in which it is drawn, if it is."""


@dataclass(frozen=True, slots=True)
class Watched:
    """A variable that an occasion watches: the level's (role is None) or a role's objects'."""

    role: Role | None
    name: str


@dataclass(frozen=True, slots=True)
class PromptTerms:
    """What the prompts of a kind share: what is offered to which, on which key, and how."""

    text: Any
    by: Role
    key: str
    clear_view: bool
    entries: tuple[str, ...]
