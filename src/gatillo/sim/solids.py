"""Solid bodies: kept apart, springing back, rubbing, resting on one another.

Overlaps are taken apart pair by pair, the deepest of each object first, with impulses by mass and bounce (Baraff,
Physically Based Modeling, SIGGRAPH course notes 1997); what rests on something that rests is not pressed into
it (shock propagation: Guendelman, Bridson & Fedkiw, Nonconvex Rigid Bodies with Stacking, SIGGRAPH 2003).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.contact import SKIN, near_pairs
from gatillo.sim.handful import DEEP, SETTLED, UPRIGHT, Parting, bound, overlaps, settle
from gatillo.sim.shapes import A_HANDFUL, separation
from gatillo.sim.world import World

ROUNDS = 4
STACK_ROUNDS = 24
"""A push can lead into the next thing: so many rounds settle corners, and so many stacks."""
PAIRS_LOOKED_THROUGH = 12
"""With more pairs, one of them is hardly ever alone."""

Floats = NDArray[np.float64]


def attached(world: World) -> Rows:
    """Rows of what is attached to a carrier."""
    rows = world.rows_of_ids(np.array(sorted(world.bonds), dtype=np.int64))
    return rows[rows >= 0]


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
        held[attached(world)] = True
    for _ in range(STACK_ROUNDS if falling else ROUNDS):
        i, j = near_pairs(world, movers, others)
        if 0 < len(i) <= A_HANDFUL:
            hits = overlaps(world, i, j, held)
            if not hits:
                break
            movers = Parting(world, was_grounded, held, dt).part(hits)
        else:
            pairs = _overlaps(world, i, j, held) if len(i) else None
            if pairs is None:
                break
            movers = _part(world, *pairs, was_grounded, held, dt)
        if _each_alone(i, j):
            # nothing else is near that one could have been pushed into
            break
    if whole and falling:
        _settle(world)


def _each_alone(i: Rows, j: Rows) -> bool:
    """Whether each of those that move is near to one thing only."""
    if len(i) > PAIRS_LOOKED_THROUGH:
        return False
    near, movers = j.tolist(), i.tolist()
    return len(set(movers)) == len(movers) and set(near).isdisjoint(movers)


def _overlaps(
    world: World, i: Rows, j: Rows, held: NDArray[np.bool_]
) -> tuple[Rows, Rows, Floats, Floats, Floats] | None:
    """Of near pairs those that overlap and are to be parted now: of each object its deepest. None if there are none."""
    gap, nx, ny = separation(world, i, j)
    deep = (gap < -DEEP).nonzero()[0]
    if world.bonds and len(deep):
        deep = deep[~(held[i[deep]] & held[j[deep]])]
        pairs = zip(i[deep].tolist(), j[deep].tolist(), strict=True)
        deep = deep[[not bound(world, a, b) for a, b in pairs]]
    if not len(deep):
        return None
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
    at_hit = np.sqrt(np.maximum(into * into - 2.0 * weight * depth, 0.0))
    since = np.minimum(2.0 * depth / np.maximum(into + at_hit, 1e-12), dt)
    back = bounce * at_hit - weight * since
    further = bounce * at_hit * since - weight * (since * since) / 2
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
    np.add.at(column, i, to_i)
    np.add.at(column, j, to_j)


def _settle(world: World) -> None:
    """What rests on something and has hardly moved in this tick lies exactly where it lay."""
    rows = (world.grounded & world.moved & world.alive).nonzero()[0]
    if len(rows) <= A_HANDFUL:
        settle(world, rows.tolist())
        return
    before_x, before_y = world.before
    hardly = SETTLED * world.gravity[rows] * world.dt**2
    still = (np.abs(world.x[rows] - before_x[rows]) <= hardly) & (
        np.abs(world.y[rows] - before_y[rows]) <= hardly
    )
    vx, vy = world.vx[rows], world.vy[rows]
    still &= np.sqrt(vx * vx + vy * vy) <= world.gravity[rows] * world.dt
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
