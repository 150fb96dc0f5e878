"""Pushing overlapping solid bodies apart: all at once, by the least movement, and never into fixed bodies.

Hits are taken at their moments (hits.py); what overlaps here was put, led or pressed there. Each heap of touching things
is parted at once by the least movement of all, weighted by their masses (complementarity.py), as often as that lays new
ones upon one another. What then still lies in something fixed is taken out of that alone.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.kernels import column, shapes
from gatillo.sim.collision.body import DRIVE, UPRIGHT
from gatillo.sim.collision.complementarity import Contacts, moved, pushes
from gatillo.sim.collision.contacts import SKIN, near_pairs, pair_codes
from gatillo.sim.collision.hits import CLOSE
from gatillo.sim.collision.scene import FEW, scene_of
from gatillo.sim.collision.shapes import separation
from gatillo.sim.program.bodies import FIXED, MOVABLE
from gatillo.sim.world.world import World

DEEP = 1e-9
"""Overlaps of less, in level units, are rounding."""
ROUNDS = 12
"""A push can lead into the next thing: so often is looked again."""
MOST_OVERLAPS = 60_000
"""So many near pairs are looked at for being parted in a tick; the rest is left out, with a fault."""
MOST_SWEPT = 300_000
MOST_APART = 20_000
"""Up to so many pairs are looked at one by one for whether any overlaps."""
MOST_CONTACTS = 4_000
EACH_AT_ONCE = 3
"""Of more contacts so many of each object are parted at once."""
MANY, ROUNDS_OF_MANY = 300, 3
"""Of more than so many it is looked again less often; what still overlaps is parted in the next tick."""
SETTLED = 0.05
"""What moves less in a tick than this part of what it would fall from rest lies still."""

Floats = NDArray[np.float64]


def push_apart(world: World, driven: NDArray[np.int8] | None = None) -> None:
    """Take movable objects out of fixed ones and apart from one another, by the least movement of all.

    `driven` says whose velocity a behaviour has given in this tick; shape (rows,).
    """
    movable = world.rows_in_contact(MOVABLE)
    if not len(movable):
        return
    solid = world.rows_in_contact(MOVABLE, FIXED)
    if len(world.contacts.unparted):
        again = world.rows_of_ids(world.contacts.unparted)
        world.touch_rows(again[again >= 0])
        world.contacts.unparted = world.contacts.unparted[:0]
    stirred = solid[world.moved[solid]]
    clear = world.caches.clear
    if clear and len(stirred) <= len(clear) and clear.issuperset(stirred.tolist()):
        # on the way here they came near nothing, and nothing else has moved
        return
    few = len(world.id) <= FEW and len(stirred) * len(solid) <= MOST_APART
    if few and (not len(stirred) or shapes.lie_apart(scene_of(world), column(solid), SKIN, DEEP)):
        return
    near = near_pairs(world, stirred, solid, 0.0, MOST_OVERLAPS) if len(stirred) else None
    if near is not None and len(near[0]):
        light = np.zeros(len(world.id))
        light[movable] = 1.0 / world.mass[movable]
        if driven is not None:
            light = np.where(driven > 0, light / DRIVE, light)
        if world.movement.bonds:
            light[world.attached_rows()] = 0.0
        parted: list[Rows] = []
        begun = len(world.rules.cut)
        for _ in range(ROUNDS if len(stirred) <= MANY else ROUNDS_OF_MANY):
            stirred = _part_once(
                world, near or near_pairs(world, stirred, solid, 0.0, MOST_OVERLAPS), solid, light
            )
            near = None
            if not len(stirred):
                break
            parted.append(stirred)
            if len(world.rules.cut) > begun:
                # more of them in the next tick
                world.contacts.unparted = world.id[movable[world.moved[movable]]]
                break
        else:
            world.contacts.unparted = world.id[stirred]
            _out_of_fixed(world, movable[world.moved[movable]], light)
        if parted and world.program.tick_tables.physical and np.any(world.gravity > 0):
            _settle(world, np.unique(np.concatenate(parted)))


def _part_once(world: World, pairs: tuple[Rows, Rows], solid: Rows, light: Floats) -> Rows:
    """Part what overlaps among `pairs`, of those that have stirred and what is near them; gives who was moved."""
    i, j = _pairs(world, *pairs, light)
    if not len(i):
        return i
    gap, nx, ny = separation(world, i, j)
    deepest = float(-gap.min())
    if deepest <= DEEP:
        return i[:0]
    # what is near enough to be pushed into counts too, or it would be passed through
    room = 2 * deepest + SKIN
    rows = np.unique(np.concatenate((i, j)))
    more_i, more_j = _pairs(world, *near_pairs(world, rows, solid, room, MOST_OVERLAPS), light)
    more_gap, more_nx, more_ny = separation(world, more_i, more_j)
    if len(more_i) and float(more_gap.min()) < -DEEP:
        # unless so much was left out that none of those that overlap is among them
        i, j, gap, nx, ny = more_i, more_j, more_gap, more_nx, more_ny
    near = gap <= room
    if np.count_nonzero(near) > MOST_CONTACTS:
        near &= _deepest(i, j, np.where(near, gap, np.inf), len(world.id))
    i, j, gap, nx, ny = i[near], j[near], gap[near], nx[near], ny[near]
    parted = [
        _part_heap(world, i[heap], j[heap], gap[heap], nx[heap], ny[heap], light)
        for heap in _heaps(i, j, light)
        if float(gap[heap].min()) < -DEEP
    ]
    rows = np.asarray(np.unique(np.concatenate(parted)))
    world.touch_rows(rows)
    world.asleep[rows] = False
    return rows


def _deepest(i: Rows, j: Rows, gap: Floats, many: int) -> NDArray[np.bool_]:
    """Return the deepest few overlaps of each object, of too many pairs; the others are pushed apart later."""
    kept = np.zeros(len(i), dtype=bool)
    for rows in (i, j):
        order = np.lexsort((gap, rows))
        begins = np.concatenate(([True], rows[order][1:] != rows[order][:-1]))
        place = np.arange(len(i))
        rank = place - np.maximum.accumulate(np.where(begins, place, 0))
        kept[order[rank < EACH_AT_ONCE]] = True
    return kept & np.isfinite(gap)


def _pairs(world: World, i: Rows, j: Rows, light: Floats) -> tuple[Rows, Rows]:
    """Return each pair of which one gives way once, the older first; without what is bound to one another."""
    gives = (light[i] > 0) | (light[j] > 0)
    one, other = np.minimum(i, j)[gives], np.maximum(i, j)[gives]
    if len(one) > 1:
        _, first = np.unique(one * len(world.id) + other, return_index=True)
        one, other = one[first], other[first]
    if world.movement.bonds and len(one):
        bonds = world.movement.bonds
        ids = zip(world.id[one].tolist(), world.id[other].tolist(), strict=True)
        free = [
            not ((a in bonds and bonds[a].carrier == b) or (b in bonds and bonds[b].carrier == a))
            for a, b in ids
        ]
        one, other = one[free], other[free]
    return one, other


def _heaps(i: Rows, j: Rows, light: Floats) -> list[NDArray[np.int64]]:
    """Return the pairs by heaps: those that hang together through what gives way."""
    above: dict[int, int] = {}

    def top(row: int) -> int:
        while above[row] != row:
            above[row] = above[above[row]]
            row = above[row]
        return row

    some, others = i.tolist(), j.tolist()
    gives_i, gives_j = (light[i] > 0).tolist(), (light[j] > 0).tolist()
    for a, b, one, other in zip(some, others, gives_i, gives_j, strict=True):
        for row, gives in ((a, one), (b, other)):
            if gives:
                above.setdefault(row, row)
        if one and other:
            a, b = top(a), top(b)
            if a != b:
                above[max(a, b)] = min(a, b)
    heaps: dict[int, list[int]] = {}
    for at, (a, b, one) in enumerate(zip(some, others, gives_i, strict=True)):
        heaps.setdefault(top(a if one else b), []).append(at)
    return [np.array(heap, dtype=np.int64) for heap in heaps.values()]


def _contacts(i: Rows, j: Rows, nx: Floats, ny: Floats, light: Floats) -> tuple[Rows, Contacts]:
    rows, both = np.unique(np.concatenate((i, j)), return_inverse=True)
    return rows, Contacts(both[: len(i)], both[len(i) :], nx, ny, light[rows])


def _part_heap(world: World, i: Rows, j: Rows, gap: Floats, nx: Floats, ny: Floats, light: Floats) -> Rows:
    """Part one heap, and let nothing in it that touches close any more; gives who was moved."""
    rows, contacts = _contacts(i, j, nx, ny, light)
    x, y = moved(contacts, pushes(contacts, -gap))
    world.x[rows] += x
    world.y[rows] += y
    after = gap + (x[contacts.b] - x[contacts.a]) * nx + (y[contacts.b] - y[contacts.a]) * ny
    touch = after <= CLOSE
    rows_moved: Rows = rows[(x != 0) | (y != 0)]
    i, j, nx, ny = i[touch], j[touch], nx[touch], ny[touch]
    if not len(i):
        return rows_moved
    some, contacts = _contacts(i, j, nx, ny, light)
    closing = (world.vx[i] - world.vx[j]) * nx + (world.vy[i] - world.vy[j]) * ny
    if (closing > 0).any():
        impulses = pushes(contacts, closing)
        x, y = moved(contacts, impulses)
        world.vx[some] += x
        world.vy[some] += y
        _rub(world, i, j, nx, ny, impulses, light)
    _note_rest(world, i, j, ny)
    _note_hits(world, i, j)
    return rows_moved


def _rub(world: World, i: Rows, j: Rows, nx: Floats, ny: Floats, impulses: Floats, light: Floats) -> None:
    """Friction between what is pressed together: it takes away sliding, by Coulomb's law the more the harder.

    Friction f rubs with coefficient f / (1 - f), and only where there is gravity.
    """
    friction = np.maximum(world.friction[i], world.friction[j])
    rubs = (friction > 0) & ((world.gravity[i] > 0) | (world.gravity[j] > 0)) & (impulses > 0)
    for at in rubs.nonzero()[0].tolist():
        a, b = i.item(at), j.item(at)
        tx, ty = -ny.item(at), nx.item(at)
        both = light.item(a) + light.item(b)
        along = (world.vx.item(a) - world.vx.item(b)) * tx + (world.vy.item(a) - world.vy.item(b)) * ty
        most = impulses.item(at) * friction.item(at) / max(1.0 - friction.item(at), 1e-12)
        impulse = min(max(along / both, -most), most)
        for row, by in ((a, -impulse * light.item(a)), (b, impulse * light.item(b))):
            world.vx[row] += by * tx
            world.vy[row] += by * ty


def _note_rest(world: World, i: Rows, j: Rows, ny: Floats) -> None:
    pulled = (world.gravity[i] > 0) | (world.gravity[j] > 0)
    for upper, lower, lies in ((i, j, pulled & (ny < -UPRIGHT)), (j, i, pulled & (ny > UPRIGHT))):
        if lies.any():
            world.grounded[upper[lies]] = True
            world.rests_on[upper[lies]] = world.id[lower[lies]]


def _note_hits(world: World, i: Rows, j: Rows) -> None:
    """What is parted has touched in this tick, though it may not at its end."""
    sensed = world.program.tick_tables.senses[world.kind[i], world.kind[j]]
    if sensed.any():
        world.contacts.hits = (*world.contacts.hits, pair_codes(world.id[i[sensed]], world.id[j[sensed]]))
    if world.caches.all_hits is not None:
        world.caches.all_hits += pair_codes(world.id[i], world.id[j]).tolist()


def _out_of_fixed(world: World, rows: Rows, light: Floats) -> None:
    """Whatever else overlaps: nothing stays in what is fixed."""
    fixed = world.rows_in_contact(FIXED)
    if not len(fixed) or not len(rows):
        return
    for _ in range(ROUNDS):
        i, j = near_pairs(world, rows, fixed)
        i, j = i[light[i] > 0], j[light[i] > 0]
        if not len(i):
            return
        gap, nx, ny = separation(world, i, j)
        if float(gap.min()) >= -DEEP:
            return
        for row in np.unique(i[gap < -DEEP]).tolist():
            mine = i == row
            at, contacts = _contacts(i[mine], j[mine], nx[mine], ny[mine], light)
            x, y = moved(contacts, pushes(contacts, -gap[mine]))
            world.x[at] += x
            world.y[at] += y
        world.touch_rows(rows)


def _settle(world: World, rows: Rows) -> None:
    """Put what rests on something and has hardly moved in this tick back to where it was."""
    rows = rows[world.grounded[rows] & world.alive[rows]]
    if not len(rows):
        return
    before_x, before_y = world.caches.before
    hardly = SETTLED * world.gravity[rows] * (world.dt * world.dt)
    still = (np.abs(world.x[rows] - before_x[rows]) <= hardly) & (
        np.abs(world.y[rows] - before_y[rows]) <= hardly
    )
    vx, vy = world.vx[rows], world.vy[rows]
    still &= np.sqrt(vx * vx + vy * vy) <= world.gravity[rows] * world.dt
    rows = rows[still]
    world.x[rows], world.y[rows] = before_x[rows], before_y[rows]
    world.vx[rows] = world.vy[rows] = 0.0


def part_rows(world: World, rows: Rows, gap: float) -> None:
    """Move objects apart, by the least movement of all, until none comes nearer to another than the gap."""
    light = np.zeros(len(world.id))
    light[rows] = 1.0
    for _ in range(ROUNDS):
        i, j, all_of_them = pairs_within(world, rows, gap)
        if not len(i):
            return
        space, nx, ny = separation(world, i, j)
        short = gap - space
        if float(short.max()) <= DEEP:
            return
        # those that could come too near by this
        room = 2 * float(short.max())
        i, j, all_of_them = pairs_within(world, rows, gap + room)
        space, nx, ny = separation(world, i, j)
        near = space <= gap + room
        if np.count_nonzero(near) > MOST_CONTACTS:
            all_of_them = False
            near &= _deepest(i, j, np.where(near, space, np.inf), len(world.id))
        i, j, short, nx, ny = i[near], j[near], gap - space[near], nx[near], ny[near]
        for heap in _heaps(i, j, light):
            if float(short[heap].max()) > DEEP:
                at, contacts = _contacts(i[heap], j[heap], nx[heap], ny[heap], light)
                x, y = moved(contacts, pushes(contacts, short[heap]))
                world.x[at] += x
                world.y[at] += y
        world.touch_rows(rows)
        if not all_of_them:
            world.cut_off(
                f"so many “{world.mostly(rows)}” lie upon one another that they are not parted at once; move them apart in several ticks"
            )
            return


def pairs_within(world: World, rows: Rows, gap: float) -> tuple[Rows, Rows, bool]:
    """Return each pair of rows once whose upright boxes come within a gap, in the order of their ages; and whether that is all."""
    half_width, half_height = world.reach()
    wide, high = half_width[rows] + gap / 2 + SKIN, half_height[rows] + gap / 2 + SKIN
    order = np.argsort(world.x[rows] - wide, kind="stable")
    left, right = (world.x[rows] - wide)[order], (world.x[rows] + wide)[order]
    # sweep along x: those that begin before this one ends
    ends = np.searchsorted(left, right, side="right")
    counts = np.maximum(ends - np.arange(len(rows)) - 1, 0)
    whole = int(counts.sum()) <= MOST_SWEPT
    if not whole:
        # of each the next few along x
        counts = np.minimum(counts, max(1, MOST_SWEPT // max(1, len(rows))))
    i = np.repeat(np.arange(len(rows)), counts)
    j = i + 1 + np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)
    a, b = order[i], order[j]
    near = np.abs(world.y[rows[a]] - world.y[rows[b]]) <= high[a] + high[b]
    one, other = np.minimum(rows[a[near]], rows[b[near]]), np.maximum(rows[a[near]], rows[b[near]])
    by_age = np.lexsort((other, one))
    return one[by_age], other[by_age], whole
