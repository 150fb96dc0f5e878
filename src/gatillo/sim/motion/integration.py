"""Flying, falling and sliding to a stop.

Flight under gravity and drag is worked out in closed form, so that a path does not depend on the tick rate. Solid
things whose ways can cross within the tick are taken from hit to hit (hits.py); all others fly through.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Rows
from gatillo.kernels import column, flying
from gatillo.kernels.mathematics import exp, log1p
from gatillo.sim.collision.body import UPRIGHT, Body
from gatillo.sim.collision.contacts import SKIN, near_pairs
from gatillo.sim.collision.crowd import Crowd
from gatillo.sim.collision.hits import Hits, Neighbours
from gatillo.sim.collision.scene import FEW, NO_ROWS, scene_of, work_room
from gatillo.sim.collision.shapes import separation
from gatillo.sim.program.bodies import FIXED, MOVABLE
from gatillo.sim.world.world import World

(FARTHEST,) = flying.BOUND
"""What flies off stops here, in level units: infinity never enters the level."""
NO_FALLS = np.zeros(0)
SIDEWAYS, BOTH = 1, 2
"""Of `driven`: a behaviour has given the velocity along x only, or the whole of it."""
AT_ONCE, TENTHS = flying.RATES
MOST_CROSSING = 40_000
"""So many pairs of solid things can come upon one another in a tick; the rest is parted later, and that is told."""
A_FEW = 600
"""Up to so many possible pairs are looked at one by one."""
SKIN_AND_MORE = 1e-6
"""Units by which ways that meet may miss one another in the last digit."""
MOST_IN_TURN = 150
"""Up to so many pairs that can hit are taken from hit to hit, more in rounds."""
MOST_DRIFTING = 4_000
"""Up to so many pairs of what flies and what is solid are looked at one by one."""
NOT_DRIVEN = np.zeros(0, dtype=np.int8)
NOT_GUIDED = np.zeros(0, dtype=np.uint8)

Floats = NDArray[np.float64]


def integrate(
    world: World,
    driven: NDArray[np.int8] | None,
    slowing: Floats | None,
    guided: NDArray[np.bool_] | None = None,
) -> None:
    """Take everything that has a velocity, or is pulled down, as far as it flies in a tick.

    `driven` says whose velocity a behaviour has given, `slowing` the part of its speed that each loses in a second,
    `guided` who is moved otherwise in this tick; shape (rows,) each.
    """
    dt = world.dt
    world.caches.clear = frozenset()
    if slowing is None and len(world.id) <= FEW and _drift(world, driven, guided):
        return
    going = (world.vx != 0) | (world.vy != 0)
    physical = world.program.tick_tables.physical
    pull: Floats | None = None
    if physical:
        if world.asleep.any():
            _wake(world, going)
        pull = _pull(world, driven)
        going |= pull != 0
        world.caches.before = world.x.copy(), world.y.copy()
    if guided is not None:
        going &= ~guided
    rows = (going & world.alive).nonzero()[0]
    if not len(rows):
        return
    drag = _drag(world, rows, driven, slowing) if physical else None
    falls = pull[rows] if pull is not None else None
    solid = world.rows_in_contact(MOVABLE, FIXED)
    flies = _take_hits(world, rows, drag, falls, driven, solid) if len(solid) > 1 else None
    if physical and world.grounded.any():
        world.grounded[rows if flies is None else rows[flies]] = False
    if flies is None:
        _fly(world, rows, dt, drag, falls)
    elif flies.any():
        _fly(world, rows[flies], dt, _some(drag, flies), _some(falls, flies))


def _drift(world: World, driven: NDArray[np.int8] | None, guided: NDArray[np.bool_] | None) -> bool:
    """Fly by the kernel where no ways of solid things can cross and nothing sleeps; return False, with nothing done, elsewhere."""
    physical = world.program.tick_tables.physical
    solid = world.rows_in_contact(MOVABLE, FIXED)
    (pulls, way), found = work_room(world)
    held = world.attached_rows() if world.movement.bonds else NO_ROWS
    parts: list[Any] = [solid, NOT_DRIVEN if driven is None else driven]
    parts += [NOT_GUIDED if guided is None else guided.view(np.uint8), held, pulls, way, found]
    before = (world.x.copy(), world.y.copy()) if physical else None
    most, room = MOST_DRIFTING, SKIN + SKIN_AND_MORE
    drift: Any = flying.drift
    many: int = drift(scene_of(world), *map(column, parts), physical, most, world.dt, room)
    if many < 0:
        return False
    if before is not None:
        world.caches.before = before
    if many:
        if world.program.tick_tables.poses_asked:
            world.touch_rows(found[:many])
        world.caches.any_moved = True
        if many <= A_HANDFUL and len(solid) > 1:
            world.caches.clear = frozenset(found[:many].tolist())
    return True


def _take_hits(
    world: World,
    rows: Rows,
    drag: Floats | None,
    falls: Floats | None,
    driven: NDArray[np.int8] | None,
    solid: Rows,
) -> NDArray[np.bool_] | None:
    """Take solid things whose ways cross from hit to hit; gives which rows fly through, None for all of them."""
    dt = world.dt
    if len(rows) <= A_HANDFUL and not _few_near(world, rows, falls, solid):
        world.caches.clear = frozenset(rows.tolist())
        return None
    goes = world.contact[rows] >= MOVABLE
    if not goes.any():
        return None
    way = np.zeros(len(world.id))
    way[rows] = (np.abs(world.vx[rows]) + np.abs(world.vy[rows])) * dt
    if falls is not None:
        way[rows] += np.abs(falls) * (dt * dt / 2)
    i, j = _crossing(world, rows[goes], solid, way)
    if not len(i):
        return None
    if len(i) > A_HANDFUL:
        closes = _can_close(world, i, j, way, falls is None and drag is None)
        if not closes.any():
            return None
        still = (world.vx == 0) & (world.vy == 0) & (world.grounded | (world.contact == FIXED))
        if np.count_nonzero(closes & ~(still[i] & still[j])) > MOST_IN_TURN:
            return _take_crowd(world, rows, drag, falls, driven, i, j)
        i, j = i[closes], j[closes]
    number = {row: at for at, row in enumerate(rows.tolist())}
    held = set(world.movement.bonds)
    all_driven = driven.tolist() if driven is not None else None

    def make(row: int) -> Body:
        at = number.get(row)
        slowed = drag.item(at) if drag is not None and at is not None else 0.0
        is_held = bool(held) and world.id.item(row) in held
        how = all_driven[row] if all_driven is not None else 0
        pulled = 0.0 if is_held or how == BOTH else world.gravity.item(row)
        return Body(world, row, slowed, pulled, bool(how), is_held)

    hits = Hits(world, dt)
    for a, b in zip(i.tolist(), j.tolist(), strict=True):
        for row in (a, b):
            if row not in hits.bodies:
                hits.add(make(row))
        hits.join(hits.bodies[a], hits.bodies[b])
    hits.run(Neighbours(world, solid, way[solid], make))
    _put(world, hits)
    flying = np.ones(len(rows), dtype=bool)
    flying[[number[row] for row in hits.bodies if row in number]] = False
    return flying


def _can_close(world: World, i: Rows, j: Rows, way: Floats, straight: bool) -> NDArray[np.bool_]:
    """Return which pairs can come to touch: others stay apart along the line that is between them now."""
    gap, nx, ny = separation(world, i, j)
    if straight:
        closing = (world.vx[i] - world.vx[j]) * nx + (world.vy[i] - world.vy[j]) * ny
        closes: NDArray[np.bool_] = gap <= closing * world.dt + 1e-6
        return closes
    able = gap <= way[i] + way[j] + 1e-6
    return able


def _take_crowd(
    world: World,
    rows: Rows,
    drag: Floats | None,
    falls: Floats | None,
    driven: NDArray[np.int8] | None,
    i: Rows,
    j: Rows,
) -> NDArray[np.bool_]:
    """Move solid bodies in rounds, where too many hit to be taken one after another. Return which rows fly freely."""
    many = len(world.id)
    gravity, slowed = np.zeros(many), np.zeros(many)
    if falls is not None:
        gravity[rows] = falls
    if drag is not None:
        slowed[rows] = drag
    by_behaviour = driven > 0 if driven is not None else np.zeros(many, dtype=bool)
    crowd = Crowd(world, gravity, slowed, by_behaviour, world.attached_rows())
    crowd.run(i, j, world.dt)
    taken = np.unique(np.concatenate((i, j)))
    x, y, vx, vy = crowd.state(taken, world.dt)
    world.grounded[taken] = False
    goes = (x != world.x[taken]) | (y != world.y[taken])
    world.x[taken], world.y[taken] = np.clip(x, -FARTHEST, FARTHEST), np.clip(y, -FARTHEST, FARTHEST)
    world.vx[taken], world.vy[taken] = vx, vy
    world.asleep[taken[goes]] = False
    world.touch_rows(taken[goes])
    world.contacts.hits = (*world.contacts.hits, *crowd.hit)
    flying = np.ones(many, dtype=bool)
    flying[taken] = False
    left: NDArray[np.bool_] = flying[rows]
    return left


def _crossing(world: World, rows: Rows, solid: Rows, way: Floats) -> tuple[Rows, Rows]:
    """Return pairs of solid things that can come to touch within the tick; `way` is how far each row goes at most."""
    if len(rows) * len(solid) <= A_FEW:
        return _few_crossing(world, rows, solid, way)
    usual = float(np.median(way[rows])) * 4 + 1e-6
    far = way[rows] > usual
    slow = rows[~far]
    i, j = near_pairs(world, slow, solid, 2 * usual, MOST_CROSSING) if len(slow) else (rows[:0], rows[:0])
    if far.any():
        # a few that are fast are tried against everything
        more_i, more_j = _every_crossing(world, rows[far], solid, way)
        i, j = np.concatenate((i, more_i)), np.concatenate((j, more_j))
    if not len(i):
        return i, j
    fixed = world.contact[i] == FIXED
    both = fixed & (world.contact[j] == FIXED)
    i, j = i[~both], j[~both]
    i, j = np.minimum(i, j), np.maximum(i, j)
    if len(i) > 1:
        _, first = np.unique(i * len(world.id) + j, return_index=True)
        i, j = i[first], j[first]
    if len(i) > A_HANDFUL:
        near = separation(world, i, j)[0] <= way[i] + way[j] + 1e-6
        i, j = i[near], j[near]
    return i, j


def _few_crossing(world: World, rows: Rows, solid: Rows, way: Floats) -> tuple[Rows, Rows]:
    """Like `_crossing`, in plain loops for a few rows: return pairs whose swept bounding boxes overlap."""
    wide, high = world.reach()
    columns = (world.x, world.y, wide, high, way)
    others = list(zip(solid.tolist(), *(column[solid].tolist() for column in columns), strict=True))
    fixed = world.contact
    pairs: set[tuple[int, int]] = set()
    for i, x, y, half_wide, half_high, own in zip(
        rows.tolist(), *(of_all[rows].tolist() for of_all in columns), strict=True
    ):
        for j, at_x, at_y, its_wide, its_high, its_way in others:
            room = own + its_way + SKIN_AND_MORE
            if (
                abs(at_x - x) <= half_wide + its_wide + room
                and abs(at_y - y) <= half_high + its_high + room
                and i != j
            ):
                pairs.add((i, j) if i < j else (j, i))
    found = sorted(p for p in pairs if not (fixed.item(p[0]) == FIXED == fixed.item(p[1])))
    if not found:
        return rows[:0], rows[:0]
    one, other = np.array(found, dtype=np.int64).T
    return one, other


def _few_near(world: World, rows: Rows, falls: Floats | None, solid: Rows) -> bool:
    """Return whether the ways of a few things can cross at all: the boxes about them, looked at before anything is worked out."""
    # a little more, for sums that are rounded otherwise
    room = SKIN + SKIN_AND_MORE
    parts: list[Any] = [world.x, world.y, world.vx, world.vy, *world.reach(), world.contact, rows]
    parts += [NO_FALLS if falls is None else falls, solid, np.zeros(len(world.id))]
    can_cross: Any = flying.can_cross
    return bool(can_cross(*map(column, parts), world.dt, room))


def _every_crossing(world: World, rows: Rows, solid: Rows, way: Floats) -> tuple[Rows, Rows]:
    wide, high = world.reach()
    x, y = world.x[solid], world.y[solid]
    found_i: list[Rows] = []
    found_j: list[Rows] = []
    step = max(1, 1_000_000 // len(solid))
    for start in range(0, len(rows), step):
        some = rows[start : start + step]
        room = way[some][:, None] + way[solid] + 1e-6
        near = np.abs(world.x[some][:, None] - x) <= wide[some][:, None] + wide[solid] + room
        near &= np.abs(world.y[some][:, None] - y) <= high[some][:, None] + high[solid] + room
        a, b = near.nonzero()
        found_i.append(some[a])
        found_j.append(solid[b])
    i, j = np.concatenate(found_i), np.concatenate(found_j)
    return i[i != j], j[i != j]


def _put(world: World, hits: Hits) -> None:
    """Where all have come to at the tick's end, and what lies on what."""
    touched: list[int] = []
    for row in sorted(hits.bodies):
        body = hits.bodies[row]
        if (body.fixed and not (body.vx or body.vy)) or (world.asleep.item(row) and not body.version):
            continue
        x, y, vx, vy = body.state(hits.length)
        x, y = min(max(x, -FARTHEST), FARTHEST), min(max(y, -FARTHEST), FARTHEST)
        stays = x == world.x.item(row) and y == world.y.item(row)
        if not stays:
            touched.append(row)
        if vx or vy or not stays:
            world.asleep[row] = False
        world.x[row], world.y[row], world.vx[row], world.vy[row] = x, y, vx, vy
        below = next((s for s in body.supports if s[2] < -UPRIGHT), None)
        world.grounded[row] = below is not None
        if below is not None:
            world.rests_on[row] = world.id[below[0].row]
            if stays and body.still and len(body.supports) == 1:
                world.asleep[row] = True
    if touched:
        world.touch_rows(np.array(touched))
    if hits.codes:
        world.contacts.hits = (*world.contacts.hits, np.array(sorted(hits.codes), dtype=np.int64))


def _wake(world: World, going: NDArray[np.bool_]) -> None:
    """Wake what has got a velocity, was moved or let go, or lies on what has stirred or is gone."""
    if not len(world.caches.stirred):
        # objects came or went: each finds out again what it lies on
        world.asleep[:] = False
        return
    rows = world.asleep.nonzero()[0]
    if len(rows) <= A_HANDFUL:
        for row, on in zip(rows.tolist(), world.rests_on[rows].tolist(), strict=True):
            under = world.row_of_id(on)
            still = not going.item(row) and not world.moved.item(row) and world.gravity.item(row) > 0
            if not still or under < 0 or world.caches.stirred.item(under) or world.moved.item(under):
                world.asleep[row] = False
        return
    on = world.rows_of_ids(world.rests_on[rows])
    wakes = going[rows] | (world.gravity[rows] <= 0) | (on < 0)
    stirs = world.caches.stirred | world.moved
    wakes |= stirs[on] | world.moved[rows]
    world.asleep[rows[wakes]] = False


def _some(values: Floats | None, which: NDArray[np.bool_]) -> Floats | None:
    return None if values is None else values[which]


def _pull(world: World, driven: NDArray[np.int8] | None) -> Floats:
    """Return what pulls each row down: nothing, where a behaviour or a carrier holds it."""
    pull = world.gravity
    if world.asleep.any():
        pull = np.where(world.asleep, 0.0, pull)
    if (driven is not None and (driven == BOTH).any()) or world.movement.bonds:
        pull = pull.copy()
        if driven is not None:
            pull[driven == BOTH] = 0.0
        if world.movement.bonds:
            pull[world.attached_rows()] = 0.0
    return pull


def _drag(world: World, rows: Rows, driven: NDArray[np.int8] | None, slowing: Floats | None) -> Floats | None:
    """Return the rate (1/s) at which each row's speed falls off by itself."""
    if slowing is None and len(rows) <= A_HANDFUL and not _any_slides(world, rows, driven):
        return None
    friction = world.friction[rows]
    # with no gravity the level is seen from above, and everything slides on its ground
    slides = (friction > 0) & (world.gravity[rows] == 0) & (world.contact[rows] == MOVABLE)
    if driven is not None:
        slides &= driven[rows] == 0
    if slowing is None and not slides.any():
        return None
    drag = _rates_of(slowing[rows]) if slowing is not None else np.zeros(len(rows))
    return np.where(slides, drag + TENTHS * _rates_of(friction), drag) if slides.any() else drag


def _any_slides(world: World, rows: Rows, driven: NDArray[np.int8] | None) -> bool:
    return any(
        world.friction.item(row) > 0
        and world.gravity.item(row) == 0
        and world.contact.item(row) == MOVABLE
        and (driven is None or driven.item(row) == 0)
        for row in rows.tolist()
    )


def _rates_of(parts: Floats) -> Floats:
    """Return the rate at which something falls off that loses this part of itself in each unit of time."""
    if len(parts) <= A_HANDFUL:
        return np.array([_rate_of(part) for part in parts.tolist()])
    whole = parts >= 1.0
    rate: Floats = np.where(whole, AT_ONCE, -log1p(-np.where(whole, 0.0, parts)))
    return rate


@lru_cache(maxsize=1024)
def _rate_of(part: float) -> float:
    return AT_ONCE if part >= 1.0 else -log1p(-part)


def _fly(world: World, rows: Rows, dt: float, drag: Floats | None, falls: Floats | None) -> None:
    """Free flight over a time, exact for constant gravity and drag in proportion to speed."""
    if drag is None and len(rows) <= A_HANDFUL:
        _few_fly(world, rows, dt, falls)
        return
    vx, vy = world.vx[rows], world.vy[rows]
    reach: Floats | float = dt
    drop: Floats | float = dt * dt / 2
    left: Floats | float = 1.0
    if drag is not None:
        left = exp(-drag * dt)
        slow = drag > 1e-9
        safe = np.where(slow, drag, 1.0)
        reach = np.where(slow, (1.0 - left) / safe, dt)
        drop = np.where(slow, (dt - reach) / safe, dt * dt / 2)
    dy = vy * reach
    if falls is not None:
        dy = dy - falls * drop
        world.vy[rows] = vy * left - falls * reach
        world.vx[rows] = vx * left
    world.x[rows] = np.clip(world.x[rows] + vx * reach, -FARTHEST, FARTHEST)
    world.y[rows] = np.clip(world.y[rows] + dy, -FARTHEST, FARTHEST)
    world.touch_rows(rows)


def _few_fly(world: World, rows: Rows, dt: float, falls: Floats | None) -> None:
    """Integrate a few rows without drag, in plain numbers."""
    parts: list[Any] = [world.x, world.y, world.vx, world.vy, rows, NO_FALLS if falls is None else falls]
    fly: Any = flying.fly
    fly(*map(column, parts), dt)
    world.touch_rows(rows)
