"""Hits within a tick: each at its own moment and place, in the order of their moments.

Between hits everything flies in closed form, so the moment of the next hit follows from where two shapes stand and
how they move: their gap along the line between them closes no sooner than in a known time, and stepping by that time
again and again ends at the hit (conservative advancement: Mirtich, Impulse-based Dynamic Simulation, 1996; for straight
flight it is Newton's method on a convex function). What touches then is solved together: springing back pair by pair,
the fastest first, and what does not spring back by the least change of all velocities (complementarity.py).

What lies on something that stands still slides on it, or rests, in closed form until it is hit or leaves its edge.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from gatillo.sim.collision.body import HOP, NEVER, THERE, UPRIGHT, Body, Floats, Pair
from gatillo.sim.collision.complementarity import Contacts, moved, pushes
from gatillo.sim.collision.contacts import SKIN, pair_code
from gatillo.sim.collision.shapes import between, passes
from gatillo.sim.collision.time_of_impact import closing_time, closing_time_slowed, stopping_time
from gatillo.sim.world.world import World

STEPS = 48
CLOSE = 1e-7
"""What is no farther apart than this is hit together, and carries what lies on it."""
SUNK = 0.02
"""What has come to rest may lie so deep in what it lies on, or above it, in level units: it was left where it lay."""
IN_TURN = 6
"""With gravity, up to so many contacts that touch spring back one after another, more at once."""
MOST_HITS_EACH = 32
"""So many hits of one body in a tick are worked out; then it stays where it is until the next."""


class Hits:
    """The hits of one tick among some bodies; `length` is the tick's, in seconds."""

    def __init__(self, world: World, length: float) -> None:
        self.world = world
        self.length = length
        self.bodies: dict[int, Body] = {}
        self.pairs: dict[tuple[int, int], Pair] = {}
        self.queue: list[tuple[float, int, int, int, int]] = []
        self.codes: set[int] = set()
        """Pairs of ids that have hit one another, and whose contact a rule asks for."""
        self.bonds = world.movement.bonds

    def add(self, body: Body) -> None:
        """Take a body in."""
        self.bodies[body.row] = body

    def join(self, a: Body, b: Body) -> Pair | None:
        """Watch two bodies for hits; None if they do not push one another."""
        if (a.fixed and b.fixed) or a is b:
            return None
        one, other = (a, b) if a.row < b.row else (b, a)
        pair = self.pairs.get((one.row, other.row))
        if pair is None:
            if self.bonds and _bound(self.world, a.row, b.row):
                return None
            pair = self.pairs[(one.row, other.row)] = Pair(one, other)
            one.pairs.append(pair)
            other.pairs.append(pair)
        return pair

    # the tick

    def run(self, neighbours: Neighbours) -> None:
        """Take all bodies to the tick's end."""
        self.neighbours = neighbours
        if any(b.gravity for b in self.bodies.values()):
            self._lay(0.0)
        for pair in self.pairs.values():
            self._await(pair, 0.0)
        for body in self.bodies.values():
            self._await_turn(body)
        while self.queue:
            t, one, other, version, _ = heapq.heappop(self.queue)
            if t >= self.length:
                break
            if other < 0:
                body = self.bodies[one]
                if body.version == version:
                    self._turn(body, t)
                continue
            pair = self.pairs[(one, other)]
            if pair.a.version + pair.b.version == version:
                self._hit(pair, t)

    def _await(self, pair: Pair, now: float) -> None:
        t = self.next_hit(pair, now)
        if t < self.length:
            version = pair.a.version + pair.b.version
            heapq.heappush(self.queue, (t, pair.a.row, pair.b.row, version, len(self.queue)))

    def _await_turn(self, body: Body) -> None:
        if body.changes[0] < self.length:
            heapq.heappush(self.queue, (body.changes[0], body.row, -1, body.version, len(self.queue)))

    def next_hit(self, pair: Pair, now: float) -> float:
        """Return the time at which two bodies hit one another next, if nothing else happens to them."""
        a, b = pair.a, pair.b
        if a.hits > MOST_HITS_EACH or b.hits > MOST_HITS_EACH:
            return NEVER
        t = now
        for _ in range(STEPS):
            xa, ya, vxa, vya = a.state(t)
            xb, yb, vxb, vyb = b.state(t)
            gap, nx, ny = between(a.outline, b.outline, xb - xa, yb - ya)
            wx, wy = vxa - vxb, vya - vyb
            closing = wx * nx + wy * ny
            if gap > CLOSE:
                pair.pressed = None
            elif pair.weighs(closing, t):
                return NEVER
            if gap <= THERE and closing > _hardly(wx, wy):
                if passes(a.outline, b.outline, xb - xa, yb - ya, wx, wy):
                    return NEVER
                return t
            more = (a.ax - a.drag * vxa - b.ax + b.drag * vxb) * nx + (
                a.ay - a.drag * vya - b.ay + b.drag * vyb
            ) * ny
            if gap <= CLOSE and closing > -THERE and more > 0 and closing <= _hardly(wx, wy):
                pair.pressed = t
                return NEVER
            left = self.length - t
            if a.drag or b.drag:
                step = self._slowed(a, b, nx, ny, t, gap, closing, left)
            else:
                step = closing_time(max(gap, 0.0), closing, more, left)
            if step >= left or t + step <= t:
                return NEVER
            t += step
        return NEVER

    def _slowed(
        self, a: Body, b: Body, nx: float, ny: float, t: float, gap: float, closing: float, left: float
    ) -> float:
        """Return a time in which a gap surely does not close between things that are slowed as they go."""
        gap = max(gap, 0.0)
        pulled = (a.ax - b.ax) * nx + (a.ay - b.ay) * ny
        away_a, away_b = a.drag * max(-(a.vx * nx + a.vy * ny), 0.0), b.drag * max(b.vx * nx + b.vy * ny, 0.0)
        most = max(pulled, 0.0) + away_a + away_b
        if gap > max(closing, 0.0) * left + most * left * left / 2:
            return NEVER
        if closing > 0:
            # it closes no faster than if only what draws it nearer acted
            return closing_time(gap, closing, most, left)
        return closing_time_slowed(a, b, nx, ny, t, gap, left)

    # what lies on something

    def _lay(self, t: float) -> None:
        """Find what lies on what, from below upward."""
        for body in sorted(self.bodies.values(), key=lambda b: (b.y, b.row)):
            if not body.fixed and body.gravity and not body.still:
                self.press(body, t)

    def press(self, body: Body, t: float) -> None:
        """Find on what a body lies at its time `t`, and with it how it goes on."""
        for other, _, _ in body.supports:
            if body in other.carries:
                other.carries.remove(body)
        body.supports = []
        body.ax, body.ay = 0.0, -body.gravity
        body.still = False
        body.changes = (NEVER, "")
        if body.fixed or not body.gravity:
            return
        x, y, vx, vy = body.state(t)
        found: list[tuple[Body, float, float, float, float]] = []
        for pair in body.pairs:
            other = pair.b if pair.a is body else pair.a
            if pair.left or not (other.fixed or other.still):
                continue
            ox, oy, ovx, ovy = other.state(t)
            gap, nx, ny = between(body.outline, other.outline, ox - x, oy - y)
            if gap > (SUNK if body.rested else SKIN) or gap < -SUNK or ny >= -THERE:
                continue
            if not other.fixed and ny > -UPRIGHT:
                continue
            wx, wy = vx - ovx, vy - ovy
            closing = wx * nx + wy * ny
            if abs(closing) > _hardly(wx, wy) or passes(
                body.outline, other.outline, ox - x, oy - y, wx, wy - 1.0
            ):
                continue
            found.append((other, nx, ny, ovx, ovy))
        if found:
            self._support(body, t, found)

    def _support(self, body: Body, t: float, found: list[tuple[Body, float, float, float, float]]) -> None:
        g = body.gravity
        # what is left of gravity along one support, if no other is in the way of it
        for at, (other, nx, ny, ovx, ovy) in enumerate(found):
            load = -g * ny
            ax, ay = -load * nx, -g - load * ny
            if any(ax * mx + ay * my > THERE * g for _, mx, my, _, _ in found):
                continue
            self._slide(body, t, other, nx, ny, ovx, ovy, load)
            found = [found[at], *found[:at], *found[at + 1 :]]
            break
        else:
            body.ax = body.ay = 0.0
        body.supports = [(other, nx, ny) for other, nx, ny, _, _ in found]
        for other, _, _ in body.supports:
            other.carries.append(body)
        body.still = not (body.vx or body.vy or body.ax or body.ay)

    def _slide(
        self, body: Body, t: float, other: Body, nx: float, ny: float, ovx: float, ovy: float, load: float
    ) -> None:
        """Make a body slide along what it lies on, slowed by friction, or rest on it."""
        if body.t != t:
            body.advance(t)
        tx, ty = -ny, nx
        pull = -body.gravity * ty
        speed = (body.vx - ovx) * tx + (body.vy - ovy) * ty
        friction = 0.0 if body.driven else max(body.friction, other.friction)
        rubs = load * friction / max(1.0 - friction, 1e-12)
        along = pull
        if abs(speed) > THERE:
            along = pull - math.copysign(rubs, speed)
        elif abs(pull) <= rubs:
            speed = along = 0.0
        else:
            along = pull - math.copysign(rubs, pull)
        if ovx or ovy:
            body.drag = 0.0
        if body.driven:
            along = 0.0
        body.vx, body.vy = ovx + speed * tx, ovy + speed * ty
        body.ax, body.ay = along * tx, along * ty
        if not (speed or along):
            return
        stops = NEVER
        if rubs and speed * along < 0:
            stops = t + stopping_time(speed, along, body.drag)
        leaves = self._leaves(body, other, t, min(self.length, stops), nx, ny)
        body.changes = (leaves, "leaves") if leaves < stops else (stops, "stops")

    def _leaves(self, body: Body, other: Body, t: float, end: float, nx: float, ny: float) -> float:
        """Return when a body that slides along another comes to its edge."""

        def holds(at: float) -> bool:
            x, y, _, _ = body.state(at)
            ox, oy, _, _ = other.state(at)
            gap, mx, my = between(body.outline, other.outline, ox - x, oy - y)
            return abs(gap) <= SUNK and mx * nx + my * ny > 1.0 - THERE

        if holds(end):
            return NEVER
        low, high = t, end
        for _ in range(50):
            middle = (low + high) / 2
            low, high = (middle, high) if holds(middle) else (low, middle)
        return high

    def _turn(self, body: Body, t: float) -> None:
        """A body that slides has come to rest, or to an edge."""
        what = body.changes[1]
        body.advance(t)
        if what == "leaves":
            lies_on = body.supports[0][0]
            for pair in body.pairs:
                if lies_on is pair.a or lies_on is pair.b:
                    pair.left = True
        elif body.supports:
            other, nx, ny = body.supports[0]
            _, _, ovx, ovy = other.state(t)
            into = (body.vx - ovx) * nx + (body.vy - ovy) * ny
            body.vx, body.vy = ovx + into * nx, ovy + into * ny
            if not (ovx or ovy):
                body.vx = body.vy = 0.0
        self._changed([body], t)

    # hits

    def _hit(self, pair: Pair, t: float) -> None:
        touching = self._together(pair, t)
        bodies = {id(b): b for p, _, _ in touching for b in (p.a, p.b)}
        for body in bodies.values():
            if not body.fixed:
                body.advance(t)
        pair.hit = True
        for body in (pair.a, pair.b):
            body.hits += 1
        before = {key: (b.vx, b.vy) for key, b in bodies.items()}
        self._spring(touching, t)
        self._changed([b for key, b in bodies.items() if (b.vx, b.vy) != before[key]], t)

    def _together(self, pair: Pair, t: float) -> list[tuple[Pair, float, float]]:
        """Return all that touch at a time, from one pair on through whatever can move, with their normals."""
        found: dict[int, tuple[Pair, float, float]] = {}
        waiting, seen = [pair.a, pair.b], {id(pair.a), id(pair.b)}
        while waiting:
            body = waiting.pop()
            if body.fixed:
                continue
            x, y, vx, vy = body.state(t)
            for p in body.pairs:
                if id(p) in found:
                    continue
                other = p.b if p.a is body else p.a
                ox, oy, ovx, ovy = other.state(t)
                gap, nx, ny = between(body.outline, other.outline, ox - x, oy - y)
                if gap > CLOSE and p is not pair:
                    continue
                if p is not pair and passes(body.outline, other.outline, ox - x, oy - y, vx - ovx, vy - ovy):
                    continue
                found[id(p)] = (p, nx, ny) if p.a is body else (p, -nx, -ny)
                if id(other) not in seen:
                    seen.add(id(other))
                    waiting.append(other)
        return sorted(found.values(), key=lambda c: (c[0].a.row, c[0].b.row))

    def _spring(self, touching: list[tuple[Pair, float, float]], t: float) -> None:
        weighs = any(p.a.gravity or p.b.gravity for p, _, _ in touching)
        in_turn = 4 * len(touching) + 16 if not weighs or len(touching) <= IN_TURN else 0
        for _ in range(in_turn):
            fastest, most = None, 0.0
            dull = True
            for contact in touching:
                pair, nx, ny = contact
                wx, wy = pair.a.vx - pair.b.vx, pair.a.vy - pair.b.vy
                closing = wx * nx + wy * ny
                if closing <= _hardly(wx, wy):
                    continue
                springs = self._bounce(pair, closing)
                dull = dull and not springs
                if closing > most:
                    fastest, most = contact, closing
            if fastest is None:
                return
            if dull and len(touching) > 1:
                break
            self._push(*fastest, most)
        self._give_way(touching, spring=not in_turn)

    def _bounce(self, pair: Pair, closing: float) -> float:
        """Return the part of its closing speed with which a pair springs back."""
        a, b = pair.a, pair.b
        bounce = max(a.bounce, b.bounce)
        if not bounce or (a.driven and not b.light) or (b.driven and not a.light):
            return 0.0
        return 0.0 if closing * closing <= 2.0 * max(a.gravity, b.gravity) * HOP else bounce

    def _lightness(self, pair: Pair, ny: float) -> tuple[float, float]:
        a, b = pair.a, pair.b
        light_a, light_b = a.light, b.light
        # what rests carries what falls on it, and is not pressed down by it
        if ny < -UPRIGHT and b.still and a.gravity:
            light_b = 0.0
        elif ny > UPRIGHT and a.still and b.gravity:
            light_a = 0.0
        return light_a, light_b

    def _push(self, pair: Pair, nx: float, ny: float, closing: float) -> None:
        """Make a pair spring back, and rub if there is gravity."""
        a, b = pair.a, pair.b
        light_a, light_b = self._lightness(pair, ny)
        both = light_a + light_b
        if not both:
            return
        change = closing * (1.0 + self._bounce(pair, closing))
        impulse = change / both
        self._apply(pair, nx, ny, impulse, light_a, light_b)
        if a.gravity or b.gravity:
            self._rub(pair, nx, ny, impulse, light_a, light_b)
        self._note(a, b)

    def _apply(
        self, pair: Pair, nx: float, ny: float, impulse: float, light_a: float, light_b: float
    ) -> None:
        a, b = pair.a, pair.b
        a.vx -= impulse * light_a * nx
        a.vy -= impulse * light_a * ny
        b.vx += impulse * light_b * nx
        b.vy += impulse * light_b * ny

    def _rub(self, pair: Pair, nx: float, ny: float, impulse: float, light_a: float, light_b: float) -> None:
        a, b = pair.a, pair.b
        both = light_a + light_b
        friction = 0.0 if a.driven or b.driven else max(a.friction, b.friction)
        if not friction or not both:
            return
        along = (a.vx - b.vx) * -ny + (a.vy - b.vy) * nx
        most = impulse * friction / max(1.0 - friction, 1e-12)
        rubs = min(max(along / both, -most), most)
        self._apply(pair, -ny, nx, rubs, light_a, light_b)

    def _give_way(self, touching: list[tuple[Pair, float, float]], spring: bool) -> None:
        """Change velocities, by the least change, so that nothing that touches closes any more; or make all spring back at once."""
        bodies = list({id(b): b for p, _, _ in touching for b in (p.a, p.b)}.values())
        number = {id(b): at for at, b in enumerate(bodies)}
        contacts = Contacts(
            np.array([number[id(p.a)] for p, _, _ in touching]),
            np.array([number[id(p.b)] for p, _, _ in touching]),
            np.array([nx for _, nx, _ in touching]),
            np.array([ny for _, _, ny in touching]),
            np.array([b.light for b in bodies]),
        )
        closing = np.array([(p.a.vx - p.b.vx) * nx + (p.a.vy - p.b.vy) * ny for p, nx, ny in touching])
        if spring:
            some = zip(touching, closing.tolist(), strict=True)
            back = [self._bounce(p, into) * into if into > 0 else 0.0 for (p, _, _), into in some]
            closing = closing + np.array(back)
        impulses = pushes(contacts, closing)
        x, y = moved(contacts, impulses)
        for body, dx, dy in zip(bodies, x.tolist(), y.tolist(), strict=True):
            body.vx += dx
            body.vy += dy
        for (pair, nx, ny), impulse in zip(touching, impulses.tolist(), strict=True):
            if impulse > 0:
                if pair.a.gravity or pair.b.gravity:
                    self._rub(pair, nx, ny, impulse, pair.a.light, pair.b.light)
                self._note(pair.a, pair.b)

    def _note(self, a: Body, b: Body) -> None:
        world = self.world
        all_hits = world.caches.all_hits
        senses = world.program.tick_tables.senses.item(world.kind.item(a.row), world.kind.item(b.row))
        if not senses and all_hits is None:
            return
        code = pair_code(world.id.item(a.row), world.id.item(b.row))
        if senses:
            self.codes.add(code)
        if all_hits is not None:
            all_hits.append(code)

    def _changed(self, bodies: Iterable[Body], t: float) -> None:
        """Look again at what can come of bodies that go on otherwise."""
        some = list(bodies)
        touched: dict[int, Body] = {id(b): b for b in some}
        for body in some:
            self.neighbours.find(self, body, t)
        if any(b.gravity or b.carries for b in some):
            # what lay on one that now moves falls off it
            for body in some:
                for upper in list(body.carries):
                    if id(upper) not in touched:
                        upper.advance(t)
                        touched[id(upper)] = upper
            for body in sorted(touched.values(), key=lambda b: (b.y, b.row)):
                self.press(body, t)
        for body in touched.values():
            body.version += 1
            body.rested = False
        watched = {id(p): p for b in touched.values() for p in b.pairs}
        for pair in watched.values():
            self._await(pair, t)
        for body in touched.values():
            self._await_turn(body)


class Neighbours:
    """What a body can come upon within the tick: all solid things whose ways can cross."""

    def __init__(self, world: World, solids: NDArray[np.int64], reach: Floats, make: object) -> None:
        self.world = world
        self.solids = solids
        self.x, self.y = world.x[solids], world.y[solids]
        wide, high = world.reach()
        self.wide, self.high = wide[solids] + CLOSE, high[solids] + CLOSE
        self.reach = reach
        """How far each can come from where it stood at the tick's start, shape (solids,)."""
        self.number = {row: at for at, row in enumerate(solids.tolist())}
        self.make = make

    def find(self, hits: Hits, body: Body, t: float) -> None:
        """Watch all that a body can come upon, now that it goes on from its time `t` otherwise."""
        if body.fixed:
            return
        at = self.number[body.row]
        left = hits.length - t
        gone = abs(body.x - self.x.item(at)) + abs(body.y - self.y.item(at))
        can = gone + (abs(body.vx) + abs(body.vy)) * left + abs(body.gravity) * left * left / 2
        if can > self.reach.item(at):
            self.reach[at] = can
        own = self.reach.item(at)
        near = np.abs(self.x - self.x.item(at)) <= self.wide + (self.wide.item(at) + own) + self.reach
        near &= np.abs(self.y - self.y.item(at)) <= self.high + (self.high.item(at) + own) + self.reach
        for row in self.solids[near].tolist():
            if row != body.row:
                other = hits.bodies.get(row)
                if other is None:
                    other = self.make(row)  # type: ignore[operator]
                    hits.add(other)
                hits.join(body, other)


def _bound(world: World, a: int, b: int) -> bool:
    """Return whether two rows are an object and its carrier."""
    bonds, one, other = world.movement.bonds, world.id.item(a), world.id.item(b)
    return (one in bonds and bonds[one].carrier == other) or (other in bonds and bonds[other].carrier == one)


def _hardly(wx: float, wy: float) -> float:
    """So slow is no closing at all, beside the speed at which they pass."""
    return 1e-9 + 1e-8 * (abs(wx) + abs(wy))
