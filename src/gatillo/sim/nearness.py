"""Pairs of objects within a distance of one another, found without comparing all with all."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.grid import Grid
from gatillo.sim.world import World

_ALL_PAIRS_UP_TO = 20_000
_AT_ONCE = 2_000_000
_FARTHEST_CELL = 1e9


def within_reach(
    world: World, a: Rows, b: Rows, reach: Any, most: int
) -> tuple[NDArray[np.int64], Rows, bool]:
    """Pairs (position in `a`, row of `b`) whose middles lie within the reach of each a, in both their orders.

    `reach` is one number or one for each of `a`, in level units. An object is near itself. Looking ends
    when more than `most` are found: then the last answer is yes.
    """
    reach = np.broadcast_to(np.asarray(reach, dtype=np.float64), (len(a),))
    found: list[tuple[NDArray[np.int64], Rows]] = []
    total = 0
    if len(a) and len(b) and float(reach.max()) >= 0:
        farthest = float(reach.max())
        # the positions of b ascend within each a, whichever way they are found
        grid = None
        if len(a) * len(b) > _ALL_PAIRS_UP_TO and farthest < _FARTHEST_CELL:
            grid = Grid(b, world.x[b], world.y[b], max(farthest, 1e-3))
        step = max(1, _AT_ONCE // len(b))
        for start in range(0, len(a), step):
            some = a[start : start + step]
            if grid is not None:
                at, rows = grid.around(world.x[some], world.y[some])
            else:
                at, rows = np.repeat(np.arange(len(some)), len(b)), np.tile(b, len(some))
            away = np.hypot(world.x[some[at]] - world.x[rows], world.y[some[at]] - world.y[rows])
            near = away <= reach[start + at]
            at, rows = at[near], rows[near]
            if grid is not None:
                order = np.lexsort((rows, at))
                at, rows = at[order], rows[order]
            found.append((at + start, rows))
            total += len(at)
            if total > most:
                return (*_together(found, most + 1), True)
    return (*_together(found, total), False)


def _together(found: list[tuple[NDArray[np.int64], Rows]], most: int) -> tuple[NDArray[np.int64], Rows]:
    nothing = np.zeros(0, dtype=np.int64)
    at = np.concatenate([nothing, *(f[0] for f in found)])[:most]
    return at, np.concatenate([nothing, *(f[1] for f in found)])[:most]
