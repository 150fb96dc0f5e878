"""A sorted uniform grid: finds near objects without comparing all pairs.

Ericson, Real-Time Collision Detection, 2005, ch. 7.1: cells as large as the reach of the largest
pair, so that neighbours lie in the 3 × 3 cells about one. Cells are sorted by a code in which the
three cells of a column follow each other, so that each column is one range.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.int64]
Floats = NDArray[np.float64]

_COLUMN = np.int64(1 << 31)
_AROUND = np.array([-1, 0, 1])


class Grid:
    """Objects sorted into cells; `cell` is a cell's side in level units."""

    def __init__(self, rows: Rows, x: Floats, y: Floats, cell: float) -> None:
        code = _cells(x, cell) * _COLUMN + _cells(y, cell)
        order = np.argsort(code, kind="stable")
        self.cell = cell
        self.rows = rows[order]
        self._code = code[order]

    def many_around(self, x: Floats, y: Floats) -> int:
        """Return how many pairs `around` would give."""
        columns = (_cells(x, self.cell)[:, None] + _AROUND) * _COLUMN + _cells(y, self.cell)[:, None]
        low = np.searchsorted(self._code, (columns - 1).ravel(), side="left")
        return int((np.searchsorted(self._code, (columns + 1).ravel(), side="right") - low).sum())

    def around(self, x: Floats, y: Floats) -> tuple[Rows, Rows]:
        """Return for points of shape (n,) the pairs (number of the point, row) of all rows in the cells about each."""
        columns = (_cells(x, self.cell)[:, None] + _AROUND) * _COLUMN + _cells(y, self.cell)[:, None]
        low = np.searchsorted(self._code, (columns - 1).ravel(), side="left")
        counts = np.searchsorted(self._code, (columns + 1).ravel(), side="right") - low
        some = counts.nonzero()[0]
        low, counts = low[some], counts[some]
        total = int(counts.sum())
        starts = np.cumsum(counts) - counts
        at = np.arange(total) + np.repeat(low - starts, counts)
        return np.repeat(some // 3, counts), self.rows[at]


def _cells(at: Floats, cell: float) -> NDArray[np.int64]:
    return np.floor(at / cell).astype(np.int64)
