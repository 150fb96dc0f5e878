"""The Contact phase: which objects' shapes meet.

Candidate pairs come from a grid. Only pairs of kinds that a running rule asks about, and only objects that
moved, are looked at.
"""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Candidates, Rows
from gatillo.kernels import COMPILED, column, nearness, room, shapes
from gatillo.kernels.mathematics import doublings
from gatillo.level.roles import Role
from gatillo.sim.collision.scene import FEW, scene_of
from gatillo.sim.collision.shapes import separation
from gatillo.sim.program.bodies import NONE
from gatillo.sim.spatial.grid import Grid
from gatillo.sim.spatial.neighbour_list import RESTS, TICKS_AHEAD, TOO_SHORT, Neighbours
from gatillo.sim.world.world import World

SKIN = 0.001
"""Shapes no farther apart than this (level units) touch, so that what rests on a wall touches it."""

MOST_PAIRS = 500_000
"""So many near pairs are looked at in a tick; the rest is left out, with a fault."""
MOST_AT_ONCE = 2_000_000
"""So many pairs of neighbouring cells are held at a time."""

_FEW_PAIRS = 4_000 if COMPILED else 200
_MOST_TRIES = 40_000 if COMPILED else 200
"""Up to so many pairs, contacts are settled pair by pair: only those of which one has moved are looked at."""
_ALL_PAIRS_UP_TO = 30_000
_NO_PAIRS = np.zeros(0, dtype=np.int64)
_LOW = np.int64(0xFFFFFFFF)

Floats = NDArray[np.float64]
Codes = NDArray[np.int64]
"""Pairs of ids, the lower one in the upper half."""


def settle_contacts(world: World) -> None:
    """Find the contacts of this tick and which of them began and ended."""
    if not world.caches.any_moved:
        world.contacts.begun = world.contacts.ended = _NO_PAIRS
        if len(world.caches.stirred):
            world.caches.stirred = np.zeros(len(world.id), dtype=bool)
        return
    before = world.contacts.touching
    if _few_settle(world, before):
        return
    now = _joined(_meeting_now(world), *world.contacts.hits, _still_touching(world, before))
    world.contacts.hits = ()
    if len(now) > MOST_PAIRS:
        now = _within_bound(world, now, before)
    if len(now) == len(before) and (not len(now) or now.tobytes() == before.tobytes()):
        world.contacts.begun = world.contacts.ended = _NO_PAIRS
    else:
        world.contacts.begun, world.contacts.ended = _not_in(now, before), _not_in(before, now)
        world.contacts.touching = now
    if world.program.tick_tables.physical:
        world.caches.stirred = world.moved.copy()
    if world.caches.grids:
        world.caches.grids = tuple(
            (rows, grid, astray | world.moved) for rows, grid, astray in world.caches.grids
        )
    world.last_moved[world.moved] = world.tick
    world.moved[:] = False
    world.caches.any_moved = False


def _few_settle(world: World, before: Codes) -> bool:
    """Do what `settle_contacts` does, pair by pair; return False, with nothing done, where there are too many."""
    sensed = _with_contact(world, "sensed", world.program.tick_tables.sensed)
    tries = len(sensed) * len(sensed)
    if tries > _MOST_TRIES or len(world.id) > FEW or world.contacts.hits or world.caches.grids:
        return False
    if world.program.tick_tables.physical:
        world.caches.stirred = world.moved.copy()
    met = np.empty(tries + len(before), dtype=np.int64)
    many = shapes.settle(scene_of(world), column(sensed), column(before), SKIN, world.tick, column(met))
    world.caches.any_moved = False
    if many < 0:
        world.contacts.begun = world.contacts.ended = _NO_PAIRS
        return True
    now = np.unique(met[:many]) if many else _NO_PAIRS
    if len(now) > MOST_PAIRS:
        now = _within_bound(world, now, before)
    world.contacts.begun, world.contacts.ended = _not_in(now, before), _not_in(before, now)
    world.contacts.touching = now
    return True


def _within_bound(world: World, now: Codes, before: Codes) -> Codes:
    """Return, of more contacts than are kept, those that continue and as many new ones as there is room for."""
    new = _not_in(now, before)
    on = _not_in(now, new)[:MOST_PAIRS]
    rows = world.rows_of_ids(new[:1000] >> 32)
    world.cut_off(
        f"more than {MOST_PAIRS:,} pairs touch at once, mostly “{world.mostly(rows[rows >= 0])}”; the rest is not noticed. "
        "Spread them, or let their kinds have no contact"
    )
    return np.sort(np.concatenate((on, new[: MOST_PAIRS - len(on)])))


def _meeting_now(world: World) -> Codes:
    """Return which of the pairs that are asked for meet, of those of which one has moved."""
    sensed = _with_contact(world, "sensed", world.program.tick_tables.sensed)
    if len(sensed) * len(sensed) <= _FEW_PAIRS:
        if not len(sensed):
            return _NO_PAIRS
        met = np.empty(len(sensed) * len(sensed), dtype=np.int64)
        many = shapes.meeting_among(scene_of(world), column(sensed), SKIN, column(met))
        return met[:many] if many else _NO_PAIRS
    moving = sensed[world.moved[sensed]]
    if not len(moving):
        return _NO_PAIRS
    i, j = near_pairs(world, moving, _of_interest(world, moving))
    senses, kind = world.program.tick_tables.senses, world.kind
    if len(i) <= A_HANDFUL:
        if not len(i):
            return _NO_PAIRS
        met = np.empty(len(i), dtype=np.int64)
        pairs = column(np.ascontiguousarray(i)), column(np.ascontiguousarray(j))
        many = shapes.meeting(scene_of(world), *pairs, SKIN, column(met))
        return met[:many] if many else _NO_PAIRS
    keep = senses[kind[i], kind[j]]
    i, j = i[keep], j[keep]
    if not len(i):
        return _NO_PAIRS
    meet = separation(world, i, j)[0] <= SKIN
    one, other = world.id[i[meet]], world.id[j[meet]]
    codes: Codes = (np.minimum(one, other) << 32) | np.maximum(one, other)
    return codes


def pair_code(one: int, other: int) -> int:
    """Two ids as one number, the lower in its upper half."""
    return min(one, other) << 32 | max(one, other)


def pair_codes(one: NDArray[np.int64], other: NDArray[np.int64]) -> Codes:
    """Return pairs of ids as one number each, the lower id in its upper half; shape (n,)."""
    codes: Codes = (np.minimum(one, other) << 32) | np.maximum(one, other)
    return codes


def _still_touching(world: World, before: Codes) -> Codes:
    """Return the pairs that touched before and of which neither has moved."""
    if len(before) <= A_HANDFUL:
        still = [c for c in before.tolist() if _stands(world, c >> 32) and _stands(world, c & 0xFFFFFFFF)]
        return np.array(still, dtype=np.int64) if still else _NO_PAIRS
    rows_a, rows_b = world.rows_of_ids(before >> 32), world.rows_of_ids(before & _LOW)
    stand: Codes = before[(rows_a >= 0) & (rows_b >= 0) & ~world.moved[rows_a] & ~world.moved[rows_b]]
    return stand


def _stands(world: World, object_id: int) -> bool:
    row = world.row_of_id(object_id)
    return row >= 0 and not world.moved.item(row)


def _joined(*parts: Codes) -> Codes:
    """Return each code that is in any of them once, sorted."""
    some = [part for part in parts if len(part)]
    if not some:
        return _NO_PAIRS
    if sum(map(len, some)) <= A_HANDFUL:
        return np.array(sorted({code for part in some for code in part.tolist()}), dtype=np.int64)
    return np.unique(np.concatenate(some))


def _not_in(codes: Codes, others: Codes) -> Codes:
    """Return the codes that are not among others; both sorted."""
    if not len(others) or not len(codes):
        return codes
    at = np.minimum(np.searchsorted(others, codes), len(others) - 1)
    left: Codes = codes[others[at] != codes]
    return left


def _of_interest(world: World, moving: Rows) -> Rows:
    """Return rows of every kind whose contact with a kind that moves is asked for."""
    if len(moving) <= A_HANDFUL:
        kinds = sorted({world.kind.item(row) for row in moving.tolist()})
    else:
        kinds = np.bincount(world.kind[moving]).nonzero()[0].tolist()
    key = _sensed_by(tuple(kinds))
    known = world.program.tick_tables.sensed_by.get(key)
    if known is None:
        known = world.program.tick_tables.sensed_by[key] = np.asarray(
            world.program.tick_tables.senses[kinds].any(axis=0)
        )
    return _with_contact(world, key, known)


@cache
def _sensed_by(kinds: tuple[int, ...]) -> str:
    return f"sensed by {kinds}"


@cache
def _and_contact(what: str) -> str:
    return f"{what}, with contact"


def _with_contact(world: World, what: str, of_kind: NDArray[np.bool_]) -> Rows:
    """Return rows of the objects of some kinds that have a contact, kept until objects come or go or that changes."""
    name = _and_contact(what)
    rows = world.rows_known(name)
    if rows is None:
        rows = world.rows_where(what, of_kind)
        rows = world.know_rows(name, rows[world.contact[rows] != NONE])
    return rows


def near_pairs(
    world: World, some: Rows, all_rows: Rows, margin: float = 0.0, most: int = 0
) -> tuple[Rows, Rows]:
    """Return pairs (row of `some`, row of `all_rows`) whose upright boxes come within a margin; a pair may come twice.

    No more than `most` (MOST_PAIRS if it is 0): the rest is left out, with a fault.
    """
    most = most or MOST_PAIRS
    i, j = _near_pairs(world, some, all_rows, margin, most)
    if len(i) > most:
        world.cut_off(
            f"more than {most:,} pairs of “{world.mostly(i)}” and what is near them lie upon one another at once; "
            "the rest is left out. Spread them, or let their kinds have no contact"
        )
        i, j = i[:most], j[:most]
    return i, j


def _near_pairs(world: World, some: Rows, all_rows: Rows, margin: float, most: int) -> tuple[Rows, Rows]:
    tries = len(some) * len(all_rows)
    if tries <= _FEW_PAIRS:
        return _few_pairs(world, some, all_rows, margin)
    if tries <= _ALL_PAIRS_UP_TO:
        return _every_pair(world, some, all_rows, margin, most)
    # a few large shapes would blow up the grid's cells: they are tried against everything
    small, large, usual = _by_size(world, all_rows)
    big = np.maximum(*world.reach())[some] > usual
    few = some[~big] if big.any() else some
    parts = [_grid_pairs(world, few, small, usual, margin, most)]
    if len(large):
        parts.append(_every_pair(world, few, large, margin, most))
    if len(few) < len(some):
        parts.append(_every_pair(world, some[big], all_rows, margin, most))
    return np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts])


def _by_size(world: World, rows: Rows) -> tuple[Rows, Rows, float]:
    """Return the rows of usual size, those far larger, and the reach that divides them."""
    reaches = world.reach()
    kept = world.caches.sizes
    if kept is not None and kept[0] is rows and kept[1] is reaches:
        return kept[2]
    reach = np.maximum(*reaches)[rows]
    most = 4.0 * float(np.median(reach)) + SKIN
    large = reach > most
    small = rows[~large] if large.any() else rows
    most = float(reach[~large].max())
    found = (small, rows[large], most)
    world.caches.sizes = (rows, reaches, found)
    return found


def _few_pairs(world: World, some: Rows, all_rows: Rows, margin: float) -> tuple[Rows, Rows]:
    """Like `_every_pair`, pair by pair: for few objects that is much faster than arrays."""
    half_width, half_height = world.reach()
    found = room(2, len(some) * len(all_rows))
    x, y, wide, high = (column(part) for part in (world.x, world.y, half_width, half_height))
    many = nearness.overlapping(x, y, wide, high, column(some), column(all_rows), SKIN, margin, column(found))
    return found[0, :many], found[1, :many]


def _every_pair(
    world: World, some: Rows, all_rows: Rows, margin: float, most: int = 1 << 60
) -> tuple[Rows, Rows]:
    half_width, half_height = world.reach()
    x, y = world.x[all_rows], world.y[all_rows]
    wide, high = half_width[all_rows] + SKIN + margin, half_height[all_rows] + SKIN + margin
    found: list[tuple[Rows, Rows]] = []
    step = max(1, 2_000_000 // max(1, len(all_rows)))
    for start in range(0, len(some), step):
        part = some[start : start + step]
        near = np.abs(world.x[part][:, None] - x) <= half_width[part][:, None] + wide
        near &= np.abs(world.y[part][:, None] - y) <= half_height[part][:, None] + high
        a, b = near.nonzero()
        found.append((part[a], all_rows[b]))
        if sum(len(f[0]) for f in found) > most:
            break
    i = np.concatenate([f[0] for f in found]) if found else _NO_PAIRS
    j = np.concatenate([f[1] for f in found]) if found else _NO_PAIRS
    different = i != j
    return i[different], j[different]


def _grid_pairs(
    world: World, some: Rows, all_rows: Rows, usual: float, margin: float, most: int
) -> tuple[Rows, Rows]:
    """Return pairs of objects that reach no farther than `usual`, found cell by cell."""
    if not len(all_rows) or not len(some):
        return _NO_PAIRS, _NO_PAIRS
    listed = _listed_pairs(world, some, all_rows, usual) if not margin and not world.caches.crowded else None
    if listed is not None:
        return listed
    # in steps of two, so that the grid of what stands still serves again and again
    cell = 2 * (usual + SKIN)
    if margin > 0:
        cell += usual * math.ldexp(1.0, max(-2, doublings(margin / usual)))
    found: list[tuple[Rows, Rows]] = []
    total, at = 0, 0
    step = len(some)
    while at < len(some) and total <= most:
        pairs = _around(world, some[at : at + step], all_rows, cell, MOST_AT_ONCE if step > 1 else 1 << 60)
        if pairs is None:
            # too many in these cells to be looked at together
            world.caches.crowded = True
            step = max(1, step // 8)
            continue
        at += step
        found.append(_meeting(world, *pairs, margin))
        total += len(found[-1][0])
    if not found:
        return _NO_PAIRS, _NO_PAIRS
    return np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])


def _around(
    world: World, some: Rows, all_rows: Rows, cell: float, most: int = 1 << 60
) -> tuple[Rows, Rows] | None:
    """Return pairs of objects in neighbouring cells; None where there would be more than `most`."""
    grid, astray = _standing_grid(world, all_rows, cell)
    if grid.many_around(world.x[some], world.y[some]) > most:
        return None
    i, j = grid.around(world.x[some], world.y[some])
    i = some[i]
    # what has moved since the grid was made stands elsewhere now
    stale = astray[j]
    if stale.any():
        i, j = i[~stale], j[~stale]
    loose = all_rows[astray[all_rows]]
    if len(loose):
        others = Grid(loose, world.x[loose], world.y[loose], cell)
        if others.many_around(world.x[some], world.y[some]) > most:
            return None
        more_i, more_j = others.around(world.x[some], world.y[some])
        i, j = np.concatenate((i, some[more_i])), np.concatenate((j, more_j))
    return i, j


def _meeting(world: World, i: Rows, j: Rows, margin: float) -> tuple[Rows, Rows]:
    """Return the pairs whose upright boxes come within a margin of one another."""
    wide, high = world.reach()
    for along, reach in ((world.x, wide), (world.y, high)):
        away = along.take(i)
        away -= along.take(j)
        room = reach.take(i)
        room += reach.take(j)
        room += SKIN + margin
        at = (np.abs(away, out=away) <= room).nonzero()[0]
        i, j = i.take(at), j.take(at)
    different = i != j
    return (i, j) if different.all() else (i[different], j[different])


def _listed_pairs(world: World, some: Rows, all_rows: Rows, most: float) -> tuple[Rows, Rows] | None:
    """Return the pairs near one another from a neighbour list that is valid for several ticks; None if it would not pay."""
    reach = world.reach()
    listed = next((n for n in world.caches.neighbours if n.among is all_rows), None)
    if listed is None or not listed.holds(some, all_rows, reach, world.x, world.y):
        if world.tick < world.caches.lists_rest_until:
            return None
        if listed is not None and world.tick - listed.made < TOO_SHORT:
            world.caches.lists_rest_until = world.tick + RESTS
            world.caches.neighbours = ()
            return None
        listed = _list_pairs(world, some, all_rows, reach, most)
        if listed is None:
            world.caches.crowded = True
            return None
        world.caches.neighbours = (*(n for n in world.caches.neighbours if n.among is not all_rows), listed)
    i, j = listed.i, listed.j
    if listed.count > len(some):
        wanted = np.zeros(len(world.id), dtype=bool)
        wanted[some] = True
        at = wanted[i].nonzero()[0]
        i, j = i[at], j[at]
    return _meeting(world, i, j, 0.0)


def _list_pairs(
    world: World, some: Rows, all_rows: Rows, reach: tuple[Floats, Floats], most: float
) -> Neighbours | None:
    fastest = float(np.maximum(np.abs(world.vx[some]), np.abs(world.vy[some])).max()) * world.dt
    # in steps of two, so that the grid of what stands still serves again and again
    steps = min(4, max(0, doublings(max(TICKS_AHEAD * fastest / most, 1e-9))))
    margin = math.ldexp(most, steps)
    pairs = _around(world, some, all_rows, 2 * (most + SKIN) + margin, MOST_AT_ONCE)
    if pairs is None:
        return None
    i, j = _meeting(world, *pairs, margin)
    covers = np.zeros(len(world.id), dtype=bool)
    covers[some] = True
    x, y = world.x.copy(), world.y.copy()
    return Neighbours(all_rows, reach, covers, len(some), i, j, x, y, margin, world.tick)


def _standing_grid(world: World, rows: Rows, cell: float) -> tuple[Grid, NDArray[np.bool_]]:
    """Return the grid of what stands still, kept from tick to tick, and which rows have left their place in it."""
    for kept_rows, kept, astray in world.caches.grids:
        if kept_rows is rows and kept.cell == cell:
            now = astray | world.moved
            still = int(np.count_nonzero(now)) - int(np.count_nonzero(world.moved))
            # rebuilt when much that stands still again is not in it
            if still <= max(64, len(rows) // 20):
                return kept, now
    astray = world.moved.copy()
    standing = rows[~astray[rows]]
    grid = Grid(standing, world.x[standing], world.y[standing], cell)
    world.caches.grids = (*(g for g in world.caches.grids if g[0] is not rows), (rows, grid, astray))
    return grid, astray


def contact_candidates(world: World, state: str, a: Role, b: Role) -> Candidates:
    """Return pairs of two roles whose contact is in that state, ordered by age of the first, then the second."""
    codes = {
        "begun": world.contacts.begun,
        "touching": world.contacts.touching,
        "ended": world.contacts.ended,
    }[state]
    if not len(codes):
        return Candidates(0)
    one, other = world.rows_of_ids(codes >> 32), world.rows_of_ids(codes & _LOW)
    there = (one >= 0) & (other >= 0)
    one, other = one[there], other[there]
    is_a, is_b = world.member(a), world.member(b)
    forth, back = is_a[one] & is_b[other], is_a[other] & is_b[one]
    rows_a = np.concatenate((one[forth], other[back]))
    rows_b = np.concatenate((other[forth], one[back]))
    order = np.lexsort((rows_b, rows_a))
    return Candidates(len(rows_a), {a.token: rows_a[order], b.token: rows_b[order]})
