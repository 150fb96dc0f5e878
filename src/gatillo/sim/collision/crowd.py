"""Hits within a tick where there are too many to take one after another: rounds over arrays.

In each round every pair's next hit is found as in hits.py (conservative advancement), and those hits that are the next
for both of their bodies are taken, all at once. Two hits of one body are taken in their order; what else happens near by
in the same tick may come in another order than its own. What is left after the rounds is parted like all that overlaps.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.kernels.mathematics import exp
from gatillo.sim.collision.body import DRIVE, HOP, THERE
from gatillo.sim.collision.contacts import pair_codes
from gatillo.sim.collision.shapes import separation_by_arrays
from gatillo.sim.program.bodies import MOVABLE
from gatillo.sim.world.world import World

Floats = NDArray[np.float64]

ROUNDS = 4
_STEPS = 10


class Crowd:
    """Solid bodies in flight; arrays by row of the world, so that they are indexed by its pairs."""

    def __init__(
        self, world: World, gravity: Floats, drag: Floats, driven: NDArray[np.bool_], held: Rows
    ) -> None:
        self.world = world
        self.x, self.y = world.x.copy(), world.y.copy()
        self.vx, self.vy = world.vx.copy(), world.vy.copy()
        self.gravity, self.drag, self.driven = gravity, drag, driven
        self.t = np.zeros(len(world.id))
        self.light = np.where(world.contact == MOVABLE, 1.0 / world.mass, 0.0)
        self.light = np.where(driven, self.light / DRIVE, self.light)
        self.light[held] = 0.0
        self.hit: list[Rows] = []

    def state(self, rows: Rows, t: Floats | float) -> tuple[Floats, Floats, Floats, Floats]:
        """x, y and velocity of rows at times of their own."""
        d = t - self.t[rows]
        drag, g = self.drag[rows], self.gravity[rows]
        slow = drag > 1e-9
        safe = np.where(slow, drag, 1.0)
        left = exp(-drag * d)
        reach = np.where(slow, (1.0 - left) / safe, d)
        drop = np.where(slow, (d - reach) / safe, d * d / 2)
        vx, vy = self.vx[rows], self.vy[rows]
        return (
            self.x[rows] + vx * reach,
            self.y[rows] + vy * reach - g * drop,
            vx * left,
            vy * left - g * reach,
        )

    def run(self, i: Rows, j: Rows, length: float) -> None:
        """Take the hits of these pairs within a tick of that length (s)."""
        for _ in range(ROUNDS):
            t, nx, ny = self._next(i, j, length)
            comes = (t < length).nonzero()[0]
            if not len(comes):
                return
            first = np.full(len(self.t), np.inf)
            np.minimum.at(first, i[comes], t[comes])
            np.minimum.at(first, j[comes], t[comes])
            # what is fast can be hit by many at once
            free_i, free_j = self.light[i[comes]] > 0, self.light[j[comes]] > 0
            next_i, next_j = t[comes] <= first[i[comes]], t[comes] <= first[j[comes]]
            taken = comes[(next_i | ~free_i) & (next_j | ~free_j)]
            # of hits at one moment of one body, the first pair's
            seen: set[int] = set()
            alone = np.zeros(len(taken), dtype=bool)
            for at, (a, b) in enumerate(zip(i[taken].tolist(), j[taken].tolist(), strict=True)):
                movable = [row for row in (a, b) if self.light.item(row) > 0]
                if seen.isdisjoint(movable):
                    alone[at] = True
                    seen.update(movable)
            taken = taken[alone]
            self._spring(i[taken], j[taken], t[taken], nx[taken], ny[taken])
            # only who has been hit goes on otherwise
            changed = np.zeros(len(self.t), dtype=bool)
            changed[i[taken]] = changed[j[taken]] = True
            again = changed[i] | changed[j]
            again[comes] = True
            i, j = i[again], j[again]

    def _next(self, i: Rows, j: Rows, length: float) -> tuple[Floats, Floats, Floats]:
        """Return the time at which each pair hits next, infinity for never, and the normal there."""
        t = np.maximum(self.t[i], self.t[j])
        when = np.full(len(i), np.inf)
        nx, ny = np.zeros(len(i)), np.zeros(len(i))
        looks = np.arange(len(i))
        for _ in range(_STEPS):
            a, b = i[looks], j[looks]
            xa, ya, vxa, vya = self.state(a, t[looks])
            xb, yb, vxb, vyb = self.state(b, t[looks])
            gap, mx, my = separation_by_arrays(self.world, a, b, (xb - xa, yb - ya))
            nx[looks], ny[looks] = mx, my
            wx, wy = vxa - vxb, vya - vyb
            closing = wx * mx + wy * my
            hits = (gap <= 1e-7) & (closing > 1e-9 + 1e-8 * (np.abs(wx) + np.abs(wy)))
            when[looks[hits]] = t[looks[hits]]
            # no slower than without drag, along the line between them
            more = np.maximum((self.gravity[b] - self.gravity[a]) * my, 0.0)
            fast = np.maximum(closing, 0.0)
            slowed = (self.drag[a] > 0) | (self.drag[b] > 0)
            if slowed.any():
                apart = np.maximum(vxa * mx + vya * my, 0.0) + np.maximum(-(vxb * mx + vyb * my), 0.0)
                fast = np.where(slowed, apart, fast)
            space = np.maximum(gap, 0.0)
            below = fast + np.sqrt(fast * fast + 2.0 * more * space)
            step = np.where(below > 0, 2.0 * space / np.where(below > 0, below, 1.0), np.inf)
            goes_on = ~hits & (t[looks] + step < length) & (step > THERE * length)
            t[looks] += np.where(goes_on, step, 0.0)
            looks = looks[goes_on]
            if not len(looks):
                break
        return when, nx, ny

    def _spring(self, i: Rows, j: Rows, t: Floats, nx: Floats, ny: Floats) -> None:
        world = self.world
        for rows in (i, j):
            x, y, vx, vy = self.state(rows, t)
            moves = self.light[rows] > 0
            rows = rows[moves]
            self.x[rows], self.y[rows], self.vx[rows], self.vy[rows] = (
                x[moves],
                y[moves],
                vx[moves],
                vy[moves],
            )
            self.t[rows] = t[moves]
        light_i, light_j = self.light[i], self.light[j]
        closing = (self.vx[i] - self.vx[j]) * nx + (self.vy[i] - self.vy[j]) * ny
        bounce = np.maximum(world.bounce[i], world.bounce[j])
        bounce = np.where((self.driven[i] & (light_j == 0)) | (self.driven[j] & (light_i == 0)), 0.0, bounce)
        pressed = np.maximum(self.gravity[i], self.gravity[j])
        bounce = np.where(closing * closing <= 2.0 * pressed * HOP, 0.0, bounce)
        impulse = closing * (1.0 + bounce) / (light_i + light_j)
        for rows, light, sign in ((i, light_i, -1.0), (j, light_j, 1.0)):
            moves = light > 0
            self.vx[rows[moves]] += (sign * impulse * light * nx)[moves]
            self.vy[rows[moves]] += (sign * impulse * light * ny)[moves]
        sensed = world.program.tick_tables.senses[world.kind[i], world.kind[j]]
        if sensed.any():
            self.hit.append(pair_codes(world.id[i[sensed]], world.id[j[sensed]]))
        if world.caches.all_hits is not None:
            world.caches.all_hits += pair_codes(world.id[i], world.id[j]).tolist()
