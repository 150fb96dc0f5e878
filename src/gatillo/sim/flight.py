"""Flying, falling and sliding to a stop.

Flight under gravity and drag is worked out in closed form, so that a path does not depend on the tick rate. What
would go farther in a tick than it is wide goes in several steps, so that it does not pass through a wall.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.shapes import A_HANDFUL
from gatillo.sim.solids import attached, push_apart
from gatillo.sim.world import World

FARTHEST = 1e12
"""What flies off stops here, in level units: infinity never enters the level."""
SIDEWAYS, BOTH = 1, 2
"""Of `driven`: a behaviour has given the velocity along x only, or the whole of it."""
MOST_STEPS = 512
"""Of its own half width; what is faster flies no farther in a tick."""
AT_ONCE = 1e5
"""The rate (1/s) at which all of a speed is lost."""
TENTHS = 10.0
"""Friction says what is lost in a tenth of a second."""

Floats = NDArray[np.float64]


def integrate(world: World, driven: NDArray[np.int8] | None, slowing: Floats | None) -> None:
    """Take everything that has a velocity, or is pulled down, as far as it flies in a tick.

    `driven` says whose velocity a behaviour has given, `slowing` the part of its speed that each loses in a second.
    """
    if len(world.id) <= A_HANDFUL and _integrate_few(world, driven, slowing):
        return
    dt = world.dt
    going = (world.vx != 0) | (world.vy != 0)
    physical = world.program.physical
    if physical:
        if world.asleep.any():
            _wake(world, going)
        pull = _pull(world, driven)
        going |= pull != 0
        world.before = world.x.copy(), world.y.copy()
    rows = (going & world.alive).nonzero()[0]
    if not len(rows):
        return
    drag = _drag(world, rows, driven, slowing) if physical else None
    falls = pull[rows] if physical else None
    fast = _fast(world, rows)
    if fast is None:
        _fly(world, rows, dt, drag, falls)
        return
    slow = ~fast
    _fly(world, rows[slow], dt, _some(drag, slow), _some(falls, slow))
    far = rows[fast]
    long = _speed(world, far) * dt / _least_half(world, far)
    if (long > MOST_STEPS).any():
        world.vx[far] *= np.minimum(1.0, MOST_STEPS / long)
        world.vy[far] *= np.minimum(1.0, MOST_STEPS / long)
    steps = min(max(math.ceil(float(long.max())), 1), MOST_STEPS)
    drag, falls = _some(drag, fast), _some(falls, fast)
    for _ in range(steps):
        _fly(world, far, dt / steps, drag, falls)
        push_apart(world, far, dt / steps)


def _wake(world: World, going: NDArray[np.bool_]) -> None:
    """Wake what has got a velocity, was moved or let go, or lies on what has stirred or is gone."""
    if not len(world.stirred):
        # objects came or went: each finds out anew what it lies on
        world.asleep[:] = False
        return
    rows = world.asleep.nonzero()[0]
    if len(rows) <= A_HANDFUL:
        for row, on in zip(rows.tolist(), world.rests_on[rows].tolist(), strict=True):
            under = world.row_of_id(on)
            still = not going.item(row) and not world.moved.item(row) and world.gravity.item(row) > 0
            if not still or under < 0 or world.stirred.item(under) or world.moved.item(under):
                world.asleep[row] = False
        return
    on = world.rows_of_ids(world.rests_on[rows])
    wakes = going[rows] | (world.gravity[rows] <= 0) | (on < 0)
    stirs = world.stirred | world.moved
    wakes |= stirs[on] | world.moved[rows]
    world.asleep[rows[wakes]] = False


def _some(values: Floats | None, which: NDArray[np.bool_]) -> Floats | None:
    return None if values is None else values[which]


def _pull(world: World, driven: NDArray[np.int8] | None) -> Floats:
    """What pulls each row down: nothing, where a behaviour or a carrier holds it."""
    pull = world.gravity
    if world.asleep.any():
        pull = np.where(world.asleep, 0.0, pull)
    if (driven is not None and (driven == BOTH).any()) or world.bonds:
        pull = pull.copy()
        if driven is not None:
            pull[driven == BOTH] = 0.0
        pull[attached(world)] = 0.0
    return pull


def _drag(world: World, rows: Rows, driven: NDArray[np.int8] | None, slowing: Floats | None) -> Floats | None:
    """The rate (1/s) at which each row's speed falls off by itself."""
    friction = world.friction[rows]
    # with no gravity the level is seen from above, and everything slides on its ground
    slides = (friction > 0) & (world.gravity[rows] == 0) & world.program.movable[world.kind[rows]]
    if driven is not None:
        slides &= driven[rows] == 0
    if slowing is None and not slides.any():
        return None
    if slowing is None:
        return np.where(slides, TENTHS * _rate_of(friction), 0.0)
    drag = _rate_of(slowing[rows])
    return np.where(slides, drag + TENTHS * _rate_of(friction), drag) if slides.any() else drag


def _rate_of(part: Floats) -> Floats:
    """The rate at which something falls off that loses this part of itself in each unit of time."""
    whole = part >= 1.0
    rate: Floats = np.where(whole, AT_ONCE, -np.log1p(-np.where(whole, 0.0, part)))
    return rate


def _speed(world: World, rows: Rows) -> Floats:
    vx, vy = world.vx[rows], world.vy[rows]
    speed: Floats = np.sqrt(vx * vx + vy * vy)
    return speed


def _least_half(world: World, rows: Rows) -> Floats:
    sizes = world.program.boxes[world.kind[rows]] * np.abs(world.scale[rows])[:, None]
    half: Floats = np.where(sizes[:, 2] > 0, sizes[:, 2], np.minimum(sizes[:, 0], sizes[:, 1]))
    return np.maximum(half, 0.25)


def _fast(world: World, rows: Rows) -> NDArray[np.bool_] | None:
    """Which rows could pass through something solid in a tick."""
    if not len(world.rows_where("movable", world.program.movable)):
        return None
    far = np.abs(world.vx[rows]) + np.abs(world.vy[rows])
    if float(far.max()) * world.dt <= world.program.least_half:
        return None
    fast = world.program.movable[world.kind[rows]] & (
        _speed(world, rows) * world.dt > _least_half(world, rows)
    )
    return fast if fast.any() else None


def _fly(world: World, rows: Rows, dt: float, drag: Floats | None, falls: Floats | None) -> None:
    """Free flight over a time, exact for constant gravity and drag in proportion to speed."""
    if not len(rows):
        return
    vx, vy = world.vx[rows], world.vy[rows]
    reach: Floats | float = dt
    drop: Floats | float = dt * dt / 2
    left: Floats | float = 1.0
    if drag is not None:
        left = np.exp(-drag * dt)
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


# a handful of bodies, in plain numbers: the same to the last bit


def _integrate_few(world: World, driven: NDArray[np.int8] | None, slowing: Floats | None) -> bool:
    """The same body by body; False, with nothing done, where one is so fast that it goes in steps."""
    physical = world.program.physical
    moving = [v or w for v, w in zip(world.vx.tolist(), world.vy.tolist(), strict=True)]
    if physical and world.asleep.any():
        _wake(world, np.array(moving) != 0)
    flights: list[tuple[int, float, float]] = []
    # what goes no farther than this in a tick passes through nothing
    slow = world.program.least_half / world.dt
    bonds, vx, vy = world.bonds, world.vx, world.vy
    alive, asleep, gravity = world.alive.tolist(), world.asleep.tolist(), world.gravity.tolist()
    for row, (lives, sleeps, pull) in enumerate(zip(alive, asleep, gravity, strict=True)):
        way = driven.item(row) if driven is not None else 0
        held = bonds and world.id.item(row) in bonds
        falls = 0.0 if not physical or sleeps or way == BOTH or held else pull
        if lives and (moving[row] or falls):
            if abs(vx.item(row)) + abs(vy.item(row)) > slow and _is_fast(world, row):
                return False
            drag = _drag_of(world, row, way, slowing) if physical else 0.0
            flights.append((row, drag, falls))
    if physical:
        world.before = world.x.copy(), world.y.copy()
    for flight in flights:
        _fly_one(world, *flight)
    if flights:
        world.touch_rows(np.array([row for row, _, _ in flights]))
    return True


def _is_fast(world: World, row: int) -> bool:
    kind = world.kind.item(row)
    if not world.program.movables[kind]:
        return False
    wide, high, radius = world.program.sizes[kind]
    scale = abs(world.scale.item(row))
    half = max(radius * scale or min(wide, high) * scale, 0.25)
    return math.sqrt(world.vx.item(row) ** 2 + world.vy.item(row) ** 2) * world.dt > half


def _drag_of(world: World, row: int, driven: int, slowing: Floats | None) -> float:
    friction = world.friction.item(row)
    drag = _one_rate(slowing.item(row)) if slowing is not None else 0.0
    slides = friction > 0 and not driven and not world.gravity.item(row)
    if slides and world.program.movables[world.kind.item(row)]:
        return drag + TENTHS * _one_rate(friction)
    return drag


@lru_cache(maxsize=1024)
def _one_rate(part: float) -> float:
    return AT_ONCE if part >= 1.0 else float(-np.log1p(-part))


def _fly_one(world: World, row: int, drag: float, falls: float) -> None:
    dt = world.dt
    vx, vy = world.vx.item(row), world.vy.item(row)
    reach, drop, left = dt, dt * dt / 2, 1.0
    if drag:
        left = float(np.exp(-drag * dt))
        if drag > 1e-9:
            reach = (1.0 - left) / drag
            drop = (dt - reach) / drag
    dy = vy * reach
    if falls or drag:
        dy = dy - falls * drop
        world.vy[row] = vy * left - falls * reach
        world.vx[row] = vx * left
    world.x[row] = min(max(world.x.item(row) + vx * reach, -FARTHEST), FARTHEST)
    world.y[row] = min(max(world.y.item(row) + dy, -FARTHEST), FARTHEST)
