"""Solid bodies, a handful at a time: what solids.py does over arrays, in plain numbers.

A level with a dozen bodies spends its ticks on the making of arrays of one. For so few, loops take a tenth of the
time. Both ways do the same arithmetic in the same order: the results are equal to the last bit.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.contact import pair_code
from gatillo.sim.shapes import separation_of
from gatillo.sim.world import World

DEEP = 1e-9
"""Overlaps of less, in level units, are rounding."""
UPRIGHT = 0.5
"""From this part of a contact's direction on that is vertical, the upper one rests on the lower."""
SETTLED = 0.05
"""What moves less in a tick than this part of what it would fall from rest lies still."""

Hit = tuple[int, int, float, float, float]
"""Two rows, the gap between them (below 0), and the unit normal from the first to the second."""


def overlaps(world: World, i: Rows, j: Rows, held: NDArray[np.bool_]) -> list[Hit]:
    """Of near pairs those that overlap and are to be parted now: of each object its deepest."""
    movable, kind, bonds = world.program.movables, world.kind.item, world.bonds
    found: dict[tuple[int, int], Hit] = {}
    for a, b in zip(i.tolist(), j.tolist(), strict=True):
        gap, nx, ny = separation_of(world, a, b)
        if not gap < -DEEP:
            continue
        if bonds and ((held.item(a) and held.item(b)) or bound(world, a, b)):
            continue
        # each pair once, and in an order that depends on the objects alone: sums of floats depend on it
        if b < a and movable[kind(b)]:
            a, b, nx, ny = b, a, -nx, -ny
        found.setdefault((a, b), (a, b, gap, nx, ny))
    hits = [found[pair] for pair in sorted(found)]
    if len(hits) < 2:
        return hits
    deepest: dict[int, Hit] = {}
    for hit in hits:
        for row in hit[:2] if movable[kind(hit[1])] else hit[:1]:
            if row not in deepest or hit[2] < deepest[row][2]:
                deepest[row] = hit
    chosen = {id(hit) for hit in deepest.values()}
    return [hit for hit in hits if id(hit) in chosen]


def bound(world: World, a: int, b: int) -> bool:
    """Whether two rows are an object and its carrier."""
    bonds, one, other = world.bonds, world.id.item(a), world.id.item(b)
    return (one in bonds and bonds[one].carrier == other) or (other in bonds and bonds[other].carrier == one)


class Parting:
    """Parts overlapping bodies and lets them spring back, all at once."""

    def __init__(
        self, world: World, was_grounded: NDArray[np.bool_], held: NDArray[np.bool_], dt: float
    ) -> None:
        self.world = world
        self.was_grounded = was_grounded
        self.held = held
        self.dt = dt

    def part(self, hits: list[Hit]) -> Rows:
        """Part them; gives who was moved, in the order of their rows."""
        world = self.world
        parts = [p for p in self._lightness(hits) if p[1] + p[2] > 0]
        pushes = [self._push(*p) for p in parts]
        vx, vy, x, y = world.vx, world.vy, world.x, world.y
        # all firsts, then all seconds, as over arrays
        for side in (0, 1):
            for (hit, _, _), push in zip(parts, pushes, strict=True):
                row, along, shift = hit[:2][side], push[side], push[side + 2]
                vx[row] += along * hit[3]
                vy[row] += along * hit[4]
                x[row] += shift * hit[3]
                y[row] += shift * hit[4]
        rubs = [self._rub(*p, push[4]) for p, push in zip(parts, pushes, strict=True)]
        if any(rubs):
            for side in (0, 1):
                for (hit, _, _), rub in zip(parts, rubs, strict=True):
                    if rub:
                        row = hit[:2][side]
                        vx[row] += rub[side] * hit[4]
                        vy[row] -= rub[side] * hit[3]
        self._note_hits(parts)
        moved = sorted(
            {
                row
                for (i, j, *_), light_i, light_j in parts
                for row, light in ((i, light_i), (j, light_j))
                if light > 0
            }
        )
        rows = np.array(moved, dtype=np.int64)
        world.touch_rows(rows)
        world.asleep[rows] = False
        return rows

    def _lightness(self, hits: list[Hit]) -> list[tuple[Hit, float, float]]:
        """How much each gives way, by its mass; what rests is noted."""
        world, held = self.world, self.held
        found: list[tuple[Hit, float, float]] = []
        upon: list[tuple[int, int]] = []
        under: list[tuple[int, int]] = []
        for hit in hits:
            i, j, _, _, ny = hit
            movable = world.program.movables[world.kind.item(j)]
            light_i = 0.0 if held.item(i) else 1.0 / world.mass.item(i)
            light_j = 1.0 / world.mass.item(j) if movable and not held.item(j) else 0.0
            if world.gravity.item(i) > 0 or world.gravity.item(j) > 0:
                # what rests carries what lies on it, and is not pressed down by it
                if ny < -UPRIGHT and (not movable or self._rests(j)):
                    light_j = 0.0
                if ny > UPRIGHT and light_j > 0 and self._rests(i):
                    light_i = 0.0
                if ny < -UPRIGHT and light_j == 0:
                    upon.append((i, j))
                if ny > UPRIGHT and light_i == 0 and movable:
                    under.append((j, i))
            found.append((hit, light_i, light_j))
        for upper, lower in upon + under:
            world.grounded[upper] = True
            world.rests_on[upper] = world.id[lower]
        return found

    def _rests(self, row: int) -> bool:
        return bool(self.world.grounded.item(row) or self.was_grounded.item(row))

    def _push(self, hit: Hit, light_i: float, light_j: float) -> tuple[float, float, float, float, float]:
        """Along the contact, of the first and the second: changes of speed, shifts; and how far their closing speed changed."""
        world = self.world
        i, j, gap, nx, ny = hit
        both = light_i + light_j
        depth = -gap
        vx, vy = world.vx, world.vy
        into = max((vx.item(i) - vx.item(j)) * nx + (vy.item(i) - vy.item(j)) * ny, 0.0)
        # gravity along the contact, of what hits less of what is hit
        weight = (world.gravity.item(i) if light_i > 0 else 0.0) - (
            world.gravity.item(j) if light_j > 0 else 0.0
        )
        bounce = max(world.bounce.item(i), world.bounce.item(j))
        back, further = self._sprung(into, depth, -weight * ny, bounce)
        impulse, shift = (into + back) / both, (depth + further) / both
        return -(impulse * light_i), impulse * light_j, -(shift * light_i), shift * light_j, into + back

    def _sprung(self, into: float, depth: float, weight: float, bounce: float) -> tuple[float, float]:
        dt = self.dt
        if not (bounce > 0 and into > 2.5 * abs(weight) * dt and into > 1e-6):
            return 0.0, 0.0
        at_hit = math.sqrt(max(into * into - 2.0 * weight * depth, 0.0))
        since = min(2.0 * depth / max(into + at_hit, 1e-12), dt)
        back = bounce * at_hit - weight * since
        further = bounce * at_hit * since - weight * (since * since) / 2
        return (back, further) if back > 0 and further >= 0 else (0.0, 0.0)

    def _rub(self, hit: Hit, light_i: float, light_j: float, pressed: float) -> tuple[float, float] | None:
        """Across the contact, of the first and the second: changes of speed by friction."""
        world = self.world
        i, j, _, nx, ny = hit
        friction = max(world.friction.item(i), world.friction.item(j))
        if not (friction > 0 and (world.gravity.item(i) > 0 or world.gravity.item(j) > 0)):
            return None
        vx, vy = world.vx, world.vy
        along = (vx.item(i) - vx.item(j)) * -ny + (vy.item(i) - vy.item(j)) * nx
        most = pressed * friction / max(1.0 - friction, 1e-12)
        impulse = min(max(along, -most), most) / (light_i + light_j)
        return impulse * light_i, -(impulse * light_j)

    def _note_hits(self, parts: list[tuple[Hit, float, float]]) -> None:
        """What hits and springs back within a tick has touched in it."""
        world = self.world
        senses, kind = world.program.senses, world.kind.item
        codes = []
        for (i, j, *_), _, _ in parts:
            if senses.item(kind(i), kind(j)):
                codes.append(pair_code(world.id.item(i), world.id.item(j)))
        if codes:
            world.hits = (*world.hits, np.array(codes, dtype=np.int64))


def settle(world: World, rows: list[int]) -> None:
    """Of what rests on something: what has hardly moved in this tick lies exactly where it lay."""
    before_x, before_y = world.before
    calm: list[int] = []
    for row in rows:
        gravity = world.gravity.item(row)
        hardly = SETTLED * gravity * world.dt**2
        x, y, vx, vy = before_x.item(row), before_y.item(row), world.vx.item(row), world.vy.item(row)
        if (
            abs(world.x.item(row) - x) <= hardly
            and abs(world.y.item(row) - y) <= hardly
            and math.sqrt(vx * vx + vy * vy) <= gravity * world.dt
        ):
            world.x[row], world.y[row] = x, y
            world.vx[row] = world.vy[row] = 0.0
            # what lies on something that lies still itself can be left alone
            on = world.row_of_id(world.rests_on.item(row))
            if on >= 0 and (not world.moved.item(on) or world.asleep.item(on)):
                calm.append(row)
    world.asleep[calm] = True
