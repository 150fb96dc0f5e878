"""Neighbour lists: candidate pairs kept over several ticks.

Verlet, Physical Review 159 (1967), 98: pairs are searched with a margin, and the list holds until two
objects can have come nearer by that margin. What is found with it does not depend on it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.int64]
Floats = NDArray[np.float64]

TICKS_AHEAD = 8
"""For how many ticks at least, of the fastest object's present pace, a list is made."""

TOO_SHORT = 3
"""A list that held for fewer ticks was not worth its making."""

RESTS = 30
"""Ticks without a list after one that was not worth its making."""


@dataclass(frozen=True, slots=True)
class Neighbours:
    """Pairs (i, j) of rows that may come near one another, and what must hold for that to be all of them."""

    among: Rows
    """The rows that j stands for; compared by identity."""
    reach: object
    """The sizes it was made with; compared by identity."""
    covers: NDArray[np.bool_]
    """By row: whether its pairs are in the list."""
    count: int
    """How many rows that are."""
    i: Rows
    j: Rows
    x: Floats
    y: Floats
    margin: float
    made: int
    """The tick in which it was made."""

    def holds(self, some: Rows, all_rows: Rows, reach: object, x: Floats, y: Floats) -> bool:
        """Return whether every near pair of `some` and `all_rows` is still in the list."""
        if self.among is not all_rows or self.reach is not reach or not self.covers[some].all():
            return False
        gone = np.maximum(np.abs(x - self.x), np.abs(y - self.y))
        # a jump to nowhere (or from it) is no number: not held
        return bool(gone[some].max() + gone[all_rows].max() <= self.margin)
