"""Solid bodies: flying, falling, sliding to a stop, springing back, resting on one another.

Flight under gravity and drag is worked out in closed form, so that a path does not depend on the tick rate.
Overlaps are taken apart pair by pair, the deepest of each object first, with impulses by mass and bounce (Baraff,
Physically Based Modeling, SIGGRAPH course notes 1997); what rests on something that rests is not pressed into
it (shock propagation: Guendelman, Bridson & Fedkiw, Nonconvex Rigid Bodies with Stacking, SIGGRAPH 2003). What
would go farther in a tick than it is wide goes in several steps, so that it does not pass through a wall.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.contact import SKIN, near_pairs, separation
from gatillo.sim.world import World

FARTHEST = 1e12
"""What flies off stops here, in level units: infinity never enters the level."""
SIDEWAYS, BOTH = 1, 2
"""Of `driven`: a behaviour has given the velocity along x only, or the whole of it."""
DEEP = 1e-9
"""Overlaps of less, in level units, are rounding."""
ROUNDS = 4
STACK_ROUNDS = 24
"""A push can lead into the next thing: so many rounds settle corners, and so many stacks."""
MOST_STEPS = 512
"""Of its own half width; what is faster flies no farther in a tick."""
UPRIGHT = 0.5
"""From this part of a contact's direction on that is vertical, the upper one rests on the lower."""
AT_ONCE = 1e5
"""The rate (1/s) at which all of a speed is lost."""
SETTLED = 0.05
"""What moves less in a tick than this part of what it would fall from rest lies still."""
TENTHS = 10.0
"""Friction says what is lost in a tenth of a second."""

Floats = NDArray[np.float64]


def integrate(world: World, driven: NDArray[np.int8] | None, slowing: Floats | None) -> None:
    """Take everything that has a velocity, or is pulled down, as far as it flies in a tick.

    `driven` says whose velocity a behaviour has given, `slowing` the part of its speed that each loses in a second.
    """
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
    long = np.hypot(world.vx[far], world.vy[far]) * dt / _least_half(world, far)
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
        pull[_attached(world)] = 0.0
    return pull


def _attached(world: World) -> Rows:
    rows = world.rows_of_ids(np.array(sorted(world.bonds), dtype=np.int64))
    return rows[rows >= 0]


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
        np.hypot(world.vx[rows], world.vy[rows]) * world.dt > _least_half(world, rows)
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


def push_apart(world: World, movers: Rows | None = None, dt: float = 0.0) -> None:
    """Take movable objects out of fixed ones and apart from one another, by their masses.

    Without `movers`, all that have moved in this tick, which then settle where they rest.
    """
    whole = movers is None
    dt = dt or world.dt
    falling = world.program.physical and bool(np.any(world.gravity > 0))
    was_grounded = world.grounded
    if movers is None:
        movers = world.rows_where("movable", world.program.movable)
        movers = movers[world.moved[movers]]
        if falling:
            # what has not moved rests where it did
            world.grounded = was_grounded & ~world.moved
    if not len(movers):
        return
    others = world.rows_where("solid", world.program.solid)
    held = np.zeros(len(world.id), dtype=bool)
    if world.bonds:
        held[_attached(world)] = True
    for _ in range(STACK_ROUNDS if falling else ROUNDS):
        i, j = near_pairs(world, movers, others)
        pairs = _overlaps(world, i, j, held) if len(i) else None
        if pairs is None:
            break
        movers = _part(world, *pairs, was_grounded, held, dt)
        if len(i) == 1:
            # nothing else is near that it could have been pushed into
            break
    if whole and falling:
        _settle(world)


def _overlaps(
    world: World, i: Rows, j: Rows, held: NDArray[np.bool_]
) -> tuple[Rows, Rows, Floats, Floats, Floats] | None:
    """Of near pairs those that overlap and are to be parted now: of each object its deepest. None if there are none."""
    gap, nx, ny = separation(world, i, j)
    deep = (gap < -DEEP).nonzero()[0]
    if world.bonds and len(deep):
        deep = deep[~(held[i[deep]] & held[j[deep]])]
        deep = deep[~_bound(world, i[deep], j[deep])]
    if not len(deep):
        return None
    if len(deep) == len(i) == 1 and not (world.program.movable[world.kind.item(j.item())] and j < i):
        return i, j, gap, nx, ny
    i, j, gap, nx, ny = i[deep], j[deep], gap[deep], nx[deep], ny[deep]
    # each pair once, and in an order that depends on the objects alone: sums of floats depend on it
    turned = world.program.movable[world.kind[j]] & (j < i)
    i, j = np.where(turned, j, i), np.where(turned, i, j)
    sign = np.where(turned, -1.0, 1.0)
    nx, ny = nx * sign, ny * sign
    if len(i) > 1:
        _, first = np.unique((i << 32) | j, return_index=True)
        i, j, gap, nx, ny = i[first], j[first], gap[first], nx[first], ny[first]
    n = len(i)
    if n > 1:
        each = np.concatenate((i, np.where(world.program.movable[world.kind[j]], j, -1)))
        depth, pair = np.concatenate((gap, gap)), np.concatenate((np.arange(n), np.arange(n)))
        order = np.lexsort((pair, depth, each))
        heads = np.unique(each[order], return_index=True)[1]
        chosen = np.unique(pair[order[heads[each[order[heads]] >= 0]]])
        if len(chosen) < n:
            i, j, gap, nx, ny = i[chosen], j[chosen], gap[chosen], nx[chosen], ny[chosen]
    return i, j, gap, nx, ny


def _bound(world: World, i: Rows, j: Rows) -> NDArray[np.bool_]:
    """Which pairs are an object and its carrier."""
    bonds = world.bonds
    return np.fromiter(
        (
            (a in bonds and bonds[a].carrier == b) or (b in bonds and bonds[b].carrier == a)
            for a, b in zip(world.id[i].tolist(), world.id[j].tolist(), strict=True)
        ),
        dtype=bool,
        count=len(i),
    )


def _part(
    world: World,
    i: Rows,
    j: Rows,
    gap: Floats,
    nx: Floats,
    ny: Floats,
    was_grounded: NDArray[np.bool_],
    held: NDArray[np.bool_],
    dt: float,
) -> Rows:
    """Part overlapping pairs (n points from i to j) and let them spring back; gives who was moved."""
    movable = world.program.movable[world.kind[j]]
    light_i = np.where(held[i], 0.0, 1.0 / world.mass[i])
    light_j = np.where(held[j] | ~movable, 0.0, 1.0 / world.mass[j])
    pulled = (world.gravity[i] > 0) | (world.gravity[j] > 0)
    if pulled.any():
        rests = world.grounded | was_grounded
        # what rests carries what lies on it, and is not pressed down by it
        light_j = np.where(pulled & (ny < -UPRIGHT) & (rests[j] | ~movable), 0.0, light_j)
        light_i = np.where(pulled & (ny > UPRIGHT) & rests[i] & (light_j > 0), 0.0, light_i)
        for upper, lower, lies in (
            (i, j, pulled & (ny < -UPRIGHT) & (light_j == 0)),
            (j, i, pulled & (ny > UPRIGHT) & (light_i == 0) & movable),
        ):
            if lies.any():
                world.grounded[upper[lies]] = True
                world.rests_on[upper[lies]] = world.id[lower[lies]]
    both = light_i + light_j
    some = both > 0
    if not some.all():
        i, j, gap, nx, ny = i[some], j[some], gap[some], nx[some], ny[some]
        light_i, light_j, both = light_i[some], light_j[some], both[some]
    depth = -gap
    into = np.maximum((world.vx[i] - world.vx[j]) * nx + (world.vy[i] - world.vy[j]) * ny, 0.0)
    # gravity along the contact, of what hits less of what is hit
    weight = np.where(light_i > 0, world.gravity[i], 0.0) - np.where(light_j > 0, world.gravity[j], 0.0)
    back, further = _sprung(into, depth, -weight * ny, np.maximum(world.bounce[i], world.bounce[j]), dt)
    impulse, shift = (into + back) / both, (depth + further) / both
    push_i, push_j = impulse * light_i, impulse * light_j
    _add(world.vx, i, -push_i * nx, j, push_j * nx)
    _add(world.vy, i, -push_i * ny, j, push_j * ny)
    push_i, push_j = shift * light_i, shift * light_j
    _add(world.x, i, -push_i * nx, j, push_j * nx)
    _add(world.y, i, -push_i * ny, j, push_j * ny)
    _rub(world, i, j, nx, ny, light_i, light_j, into + back)
    # what hits and springs back within a tick has touched in it
    sensed = world.program.senses[world.kind[i], world.kind[j]]
    if sensed.any():
        one, other = world.id[i[sensed]], world.id[j[sensed]]
        world.hits = (*world.hits, (np.minimum(one, other) << 32) | np.maximum(one, other))
    moved = np.concatenate((i[light_i > 0], j[light_j > 0]))
    if len(moved) > 1:
        moved = np.unique(moved)
    world.touch_rows(moved)
    world.asleep[moved] = False
    return moved


def _sprung(into: Floats, depth: Floats, weight: Floats, bounce: Floats, dt: float) -> tuple[Floats, Floats]:
    """Speed away from one another at the tick's end, and how far apart that has brought them already.

    It hit within the tick: what it went too deep since then, it goes back in the same time.
    """
    springs = (bounce > 0) & (into > 2.5 * np.abs(weight) * dt) & (into > 1e-6)
    if not springs.any():
        return np.zeros(len(into)), np.zeros(len(into))
    at_hit = np.sqrt(np.maximum(into**2 - 2.0 * weight * depth, 0.0))
    since = np.minimum(2.0 * depth / np.maximum(into + at_hit, 1e-12), dt)
    back = bounce * at_hit - weight * since
    further = bounce * at_hit * since - weight * since**2 / 2
    springs &= (back > 0) & (further >= 0)
    return np.where(springs, back, 0.0), np.where(springs, further, 0.0)


def _rub(
    world: World, i: Rows, j: Rows, nx: Floats, ny: Floats, light_i: Floats, light_j: Floats, pressed: Floats
) -> None:
    """Friction between what is pressed together: it takes away sliding, by Coulomb's law the more the harder.

    `pressed` is by how much the speed toward one another has changed; friction f rubs with coefficient f / (1 - f).
    """
    friction = np.maximum(world.friction[i], world.friction[j])
    rubs = (friction > 0) & ((world.gravity[i] > 0) | (world.gravity[j] > 0))
    if not rubs.any():
        return
    i, j, nx, ny, friction = i[rubs], j[rubs], nx[rubs], ny[rubs], friction[rubs]
    light_i, light_j = light_i[rubs], light_j[rubs]
    along = (world.vx[i] - world.vx[j]) * -ny + (world.vy[i] - world.vy[j]) * nx
    most = pressed[rubs] * friction / np.maximum(1.0 - friction, 1e-12)
    impulse = np.clip(along, -most, most) / (light_i + light_j)
    push_i, push_j = impulse * light_i, impulse * light_j
    _add(world.vx, i, push_i * ny, j, -push_j * ny)
    _add(world.vy, i, -push_i * nx, j, push_j * nx)


def _add(column: Floats, i: Rows, to_i: Floats, j: Rows, to_j: Floats) -> None:
    """Add to rows i and j, which may come more than once."""
    if len(i) == 1:
        column[i] += to_i
        column[j] += to_j
    else:
        np.add.at(column, i, to_i)
        np.add.at(column, j, to_j)


def _settle(world: World) -> None:
    """What rests on something and has hardly moved in this tick lies exactly where it lay."""
    rows = (world.grounded & world.moved & world.alive).nonzero()[0]
    if not len(rows):
        return
    before_x, before_y = world.before
    hardly = SETTLED * world.gravity[rows] * world.dt**2
    still = (np.abs(world.x[rows] - before_x[rows]) <= hardly) & (
        np.abs(world.y[rows] - before_y[rows]) <= hardly
    )
    still &= np.hypot(world.vx[rows], world.vy[rows]) <= world.gravity[rows] * world.dt
    rows = rows[still]
    world.x[rows], world.y[rows] = before_x[rows], before_y[rows]
    world.vx[rows] = world.vy[rows] = 0.0
    # what lies on something that lies still itself can be left alone
    on = world.rows_of_ids(world.rests_on[rows])
    calm = (on >= 0) & (~world.moved[on] | world.asleep[on])
    world.asleep[rows[calm]] = True


def part_rows(world: World, rows: Rows, gap: float) -> None:
    """Move objects apart, half each, until none comes nearer to another than the gap (or 8 rounds are over)."""
    for _ in range(8):
        i, j = _pairs_within(world, rows, gap)
        if not len(i):
            return
        space, nx, ny = separation(world, i, j)
        near = space < gap - DEEP
        if not near.any():
            return
        i, j, push = i[near], j[near], (gap - space[near]) / 2
        np.add.at(world.x, i, -push * nx[near])
        np.add.at(world.y, i, -push * ny[near])
        np.add.at(world.x, j, push * nx[near])
        np.add.at(world.y, j, push * ny[near])
        world.touch_rows(rows)


def _pairs_within(world: World, rows: Rows, gap: float) -> tuple[Rows, Rows]:
    """Each pair of rows once whose upright boxes come within a gap, in the order of their ages."""
    half_width, half_height = world.reach()
    wide, high = half_width[rows] + gap / 2 + SKIN, half_height[rows] + gap / 2 + SKIN
    order = np.argsort(world.x[rows] - wide, kind="stable")
    left, right = (world.x[rows] - wide)[order], (world.x[rows] + wide)[order]
    # sweep along x: those that begin before this one ends
    ends = np.searchsorted(left, right, side="right")
    counts = np.maximum(ends - np.arange(len(rows)) - 1, 0)
    i = np.repeat(np.arange(len(rows)), counts)
    j = i + 1 + np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)
    a, b = order[i], order[j]
    near = np.abs(world.y[rows[a]] - world.y[rows[b]]) <= high[a] + high[b]
    one, other = np.minimum(rows[a[near]], rows[b[near]]), np.maximum(rows[a[near]], rows[b[near]])
    by_age = np.lexsort((other, one))
    return one[by_age], other[by_age]
