"""Pairs of objects within a distance of one another, found without comparing all with all."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.formula.values import spread
from gatillo.kernels import COMPILED, column, nearness, room
from gatillo.kernels.mathematics import length
from gatillo.sim.spatial.grid import Grid
from gatillo.sim.world.world import World

FEW_WITHIN = 4_000 if COMPILED else 96
"""Up to so many pairs are looked at in plain numbers."""
_ALL_PAIRS_UP_TO = 20_000
_AT_ONCE = 2_000_000
_FARTHEST_CELL = 1e9
_NOTHING = np.zeros(0, dtype=np.int64)
_MOST_NEAR = 3_000_000
"""So many near pairs a behaviour looks at in a tick; of each object the rest is left out, with a fault."""


def within_reach(
    world: World, a: Rows, b: Rows, reach: Any, most: int
) -> tuple[NDArray[np.int64], Rows, bool]:
    """Return pairs (position in `a`, row of `b`) whose middles lie within the reach of each a, in both their orders.

    `reach` is one number or one for each of `a`, in level units. An object is near itself. Looking ends
    when more than `most` are found: then the last answer is yes.
    """
    if len(a) * len(b) <= FEW_WITHIN:
        return _few_within(world, a, b, reach, most)
    if len(a) == 1 and len(b) <= _AT_ONCE:
        row = a.item()
        away = length(world.x.item(row) - world.x[b], world.y.item(row) - world.y[b])
        rows = b[away <= reach]
        return np.zeros(min(len(rows), most + 1), dtype=np.int64), rows[: most + 1], len(rows) > most
    reach = spread(reach, len(a))
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
            away = length(world.x[some[at]] - world.x[rows], world.y[some[at]] - world.y[rows])
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


def nobody_within(world: World, a: Rows, b: Rows, reach: float) -> bool:
    """Return whether it is certain that no pair of rows lies within a reach; False where it was not looked."""
    if len(a) * len(b) > FEW_WITHIN:
        return False
    x, y, some, others = map(column, (world.x, world.y, a, b))
    return not nearness.any_within(x, y, some, others, reach)


def _few_within(
    world: World, a: Rows, b: Rows, reach: Any, most: int
) -> tuple[NDArray[np.int64], Rows, bool]:
    reaches = np.full(len(a), reach) if isinstance(reach, float) else _contiguous(spread(reach, len(a)))
    found = room(2, min(len(a) * len(b), most + 1))
    x, y, some, others = (column(part) for part in (world.x, world.y, a, b))
    many = nearness.within(x, y, some, others, column(reaches), most + 1, column(found))
    return found[0, :many], found[1, :many], many > most


def _contiguous(values: NDArray[Any]) -> NDArray[np.float64]:
    return np.ascontiguousarray(values, dtype=np.float64)


def _together(found: list[tuple[NDArray[np.int64], Rows]], most: int) -> tuple[NDArray[np.int64], Rows]:
    nothing = np.zeros(0, dtype=np.int64)
    at = np.concatenate([nothing, *(f[0] for f in found)])[:most]
    return at, np.concatenate([nothing, *(f[1] for f in found)])[:most]


def _crowded(world: World, rows: Rows, reach: float) -> bool:
    """Return whether so many stand in squares as wide as half the reach, where all are near all, that there are too many pairs."""
    side = max(reach, 1e-9) / 2
    columns, lines = (np.floor(at / side) for at in (world.x[rows], world.y[rows]))
    low, span = lines.min(), lines.max() - lines.min() + 1
    if not np.isfinite(span) or np.abs(columns).max() * span > 2**62:
        return False
    _, counts = np.unique(columns * span + (lines - low), return_counts=True)
    return float(np.square(counts.astype(np.float64)).sum()) > _MOST_NEAR / 4


def _some_near(world: World, rows: Rows, among: Rows, reach: float) -> tuple[NDArray[np.int64], Rows]:
    """Return the nearest few of each object, of too many near pairs."""
    from scipy.spatial import cKDTree

    each = max(2, min(_MOST_NEAR // max(1, len(rows)), 65, len(among)))
    world.cut_off(
        f"so many “{world.mostly(among)}” are near one another that each goes by the nearest {each - 1} only"
    )
    points = np.column_stack((world.x[rows], world.y[rows]))
    away, found = cKDTree(np.column_stack((world.x[among], world.y[among]))).query(points, k=each)
    near = away <= reach
    pairs = (np.arange(len(rows))[:, None] * len(among) + found)[near]
    pairs.sort()
    at, to = np.divmod(pairs, len(among))
    other = rows[at] != among[to]
    return at[other], among[to[other]]


def nearest_rows(world: World, rows: Rows, among: Rows) -> Rows:
    """Return for each row the nearest other one of `among`, the older of two equally near; -1 if there is none."""
    found = np.full(len(rows), -1, dtype=np.int64)
    if not len(among) or not len(rows):
        return found
    if len(among) == 1:
        found[rows != among[0]] = among[0]
        return found
    if len(rows) * len(among) <= FEW_WITHIN:
        return _few_nearest(world, rows, among)
    if len(rows) * len(among) <= _ALL_PAIRS_UP_TO:
        away = length(
            world.x[among][None, :] - world.x[rows][:, None], world.y[among][None, :] - world.y[rows][:, None]
        )
        away[rows[:, None] == among[None, :]] = np.inf
        at = np.argmin(away, axis=1)
        there = np.isfinite(away[np.arange(len(rows)), at])
        found[there] = among[at[there]]
        return found
    # half a second to import: only where it is used
    from scipy.spatial import cKDTree

    here = np.column_stack((world.x[rows], world.y[rows]))
    tree = cKDTree(np.column_stack((world.x[among], world.y[among])))
    away, at = tree.query(here, k=min(_NEAREST, len(among)))
    others = among[at]
    exact = length(world.x[others] - here[:, :1], world.y[others] - here[:, 1:])
    exact[others == rows[:, None]] = np.inf
    least = exact.min(axis=1)
    found[:] = np.where(exact == least[:, None], others, np.iinfo(np.int64).max).min(axis=1)
    # where the last of these is no farther off than the nearest, there may be older ones among the rest
    open_ = ((away[:, -1] <= least * _ALIKE) & (len(among) > _NEAREST)).nonzero()[0]
    if len(open_):
        found[open_] = _oldest_at(world, rows[open_], among, least[open_])
    return found


_NEAREST = 6
"""So many of the nearest are looked at first: one of them may be the object itself, the others as near as one another."""
_ALIKE = 1.0 + 1e-14
"""Distances that differ by a smaller factor may be equal: the tree and NumPy round differently."""
_A_LITTLE_MORE = 1.0 + 1e-12


def _oldest_at(world: World, rows: Rows, among: Rows, least: NDArray[np.float64]) -> Rows:
    """Return, for each row, the oldest other of `among` that lies exactly at its least distance.

    Objects that lie at one point are looked at as one: a crowd at a point costs no more than its oldest two.
    """
    from scipy.spatial import cKDTree

    x, y = world.x[among], world.y[among]
    order = np.lexsort((among, y, x))
    starts = np.ones(len(order), dtype=bool)
    starts[1:] = (np.diff(x[order]) != 0) | (np.diff(y[order]) != 0)
    first = starts.nonzero()[0]
    oldest = among[order[first]]
    after = np.minimum(first + 1, len(order) - 1)
    next_oldest = np.where(starts[after], -1, among[order[after]])
    next_oldest[first == after] = -1
    tree = cKDTree(np.column_stack((world.x[oldest], world.y[oldest])))
    nearest_from: dict[tuple[float, float, float], list[tuple[int, int]]] = {}

    def points_from(x: float, y: float, away: float) -> list[tuple[int, int]]:
        points = np.array(tree.query_ball_point((x, y), away * _ALIKE), dtype=np.int64)
        exact = length(world.x[oldest[points]] - x, world.y[oldest[points]] - y) == away
        points = points[exact]
        return list(zip(oldest[points].tolist(), next_oldest[points].tolist(), strict=True))

    found = np.empty(len(rows), dtype=np.int64)
    for place, (row, away) in enumerate(zip(rows.tolist(), least.tolist(), strict=True)):
        key = world.x.item(row), world.y.item(row), away
        if key not in nearest_from:
            nearest_from[key] = points_from(*key)
        others = (second if first == row else first for first, second in nearest_from[key])
        found[place] = min(other for other in others if other >= 0)
    return found


def _few_nearest(world: World, rows: Rows, among: Rows) -> Rows:
    found = np.empty(len(rows), dtype=np.int64)
    nearness.nearest(*map(column, (world.x, world.y, rows, among, found)))
    return found


def near_rows(world: World, rows: Rows, among: Rows, reach: float) -> tuple[NDArray[np.int64], Rows]:
    """Return pairs (position in `rows`, row of `among`) whose middles lie within one reach, never of an object with itself.

    Their order depends on where all stand and on nothing else: sums over them come out the same in every run.
    """
    if len(rows) * len(among) <= _ALL_PAIRS_UP_TO:
        at, others, _ = within_reach(world, rows, among, reach, _MOST_NEAR)
        other = rows[at] != others
        return at[other], others[other]
    # half a second to import: only where it is used
    from scipy.spatial import cKDTree

    tree = cKDTree(np.column_stack((world.x[rows], world.y[rows])))
    if _crowded(world, among, reach):
        return _some_near(world, rows, among, reach)
    # the tree rounds in its own way: it finds a little more, of which we choose, in an order of its own, which we do not keep
    if rows is among or np.array_equal(rows, among):
        pairs = tree.query_pairs(reach * _A_LITTLE_MORE, output_type="ndarray")
        one, other = _near_of(world, rows, among, pairs[:, 0], pairs[:, 1], reach)
        return np.concatenate((one, other)), among[np.concatenate((other, one))]
    found = tree.sparse_distance_matrix(
        cKDTree(np.column_stack((world.x[among], world.y[among]))),
        reach * _A_LITTLE_MORE,
        output_type="coo_matrix",
    )
    at, to = _near_of(world, rows, among, found.row.astype(np.int64), found.col.astype(np.int64), reach)
    apart = rows[at] != among[to]
    return at[apart], among[to[apart]]


def _near_of(
    world: World, rows: Rows, among: Rows, at: NDArray[np.int64], to: NDArray[np.int64], reach: float
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return, of pairs of positions, those within a reach, in the order of both."""
    x, y = world.x, world.y
    dx, dy = x[rows][at] - x[among][to], y[rows][at] - y[among][to]
    near = length(dx, dy) <= reach
    pairs = (at * len(among) + to)[near]
    pairs.sort()
    return np.divmod(pairs, len(among))
