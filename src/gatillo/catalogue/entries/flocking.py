"""Flocking: many objects move as one, each by what is near it.

Reynolds, Flocks, herds, and schools: a distributed behavioral model, SIGGRAPH 1987; Steering behaviors for
autonomous characters, GDC 1999. Each urge steers from the present velocity toward a wanted one at top speed;
their weighted sum is cut to the top acceleration.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Rows, Where
from gatillo.catalogue.declare.entry import Kernel, Slot, behaviour, choice, number, role
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.entries.steering import FACES, KEEPS_FACING
from gatillo.kernels import flocking as kernel
from gatillo.kernels.mathematics import atan2d, length
from gatillo.level.roles import Role

SUBJECT = Subject("flocking", place=220)

Floats = NDArray[np.float64]

ONWARD, REACTION, SLOW = kernel.TERMS
"""Weight of the urge to go on, what an urge of weight 1 changes in a second, and the speed from which it faces its way."""


def _urges(world: BehaviourApi, rows: Rows, *, others: Role, speed: Floats, **settings: Any) -> list[Urge]:
    """Return the urges of a flock by the settings of its behaviour."""
    terms = {name: value for name, value in settings.items() if name not in ("acceleration", "facing")}
    return urges_of(world, rows, others, Terms(**terms, top=np.maximum(speed, 0.0)))


@behaviour(
    "flock with {others}: keep {apart} apart, weight {apart_weight}; go their way within {aligned}, weight "
    "{aligned_weight}; gather within {together}, weight {together_weight}; top speed {speed}, "
    "top acceleration {acceleration}, {facing}",
    "Keeps its distance from neighbours, aligns with them, and stays with them. Alone it goes straight "
    "on. “be drawn” and “keep away” add to its urges.",
    urges=_urges,
    kernel=Kernel(kernel.flock, "turns", kernel.flock_in_pairs, kernel.reach),
    others=role("the objects it flocks with"),
    apart=number("24", "units"),
    apart_weight=number("1.5"),
    aligned=number("60", "units"),
    aligned_weight=number("1"),
    together=number("60", "units"),
    together_weight=number("1"),
    speed=number("90", "units a second"),
    acceleration=number("240", "units a second per second"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "swarm/school/herd with {others}",
        "move as a group/swarm/flock/herd",
        "boids",
        "stay together",
    ],
)
def flock(
    world: BehaviourApi,
    rows: Rows,
    others: Role,
    apart: Floats,
    apart_weight: Floats,
    aligned: Floats,
    aligned_weight: Floats,
    together: Floats,
    together_weight: Floats,
    speed: Floats,
    acceleration: Floats,
    facing: str,
) -> None:
    vx, vy = world.velocity(rows)
    top = np.maximum(speed, 0.0)
    # every urge is a wish for top speed some way, less the present velocity, by its weight
    wish_x, wish_y, wishes = world.urged(rows)
    terms = Terms(apart, apart_weight, aligned, aligned_weight, together, together_weight, top)
    for urge in urges_of(world, rows, others, terms):
        wish_x, wish_y, wishes = wish_x + urge.x, wish_y + urge.y, wishes + urge.weight
    ax, ay = REACTION * (wish_x * top - wishes * vx), REACTION * (wish_y * top - wishes * vy)
    ax, ay = _cut(ax, ay, np.maximum(acceleration, 0.0))
    vx, vy = _cut(vx + ax * world.dt, vy + ay * world.dt, top)
    _go(world, rows, vx, vy, facing)


def _go(world: BehaviourApi, rows: Rows, vx: Floats, vy: Floats, facing: str) -> None:
    world.set_velocity(rows, vx, vy)
    if facing == FACES:
        goes = length(vx, vy) > SLOW
        if goes.any():
            world.face(rows[goes], atan2d(vy[goes], vx[goes]))


@dataclass(frozen=True, slots=True)
class Terms:
    """Ranges and weights of a flock's urges, and its top speed; arrays of shape (n,)."""

    apart: Floats
    apart_weight: Floats
    aligned: Floats
    aligned_weight: Floats
    together: Floats
    together_weight: Floats
    top: Floats


@dataclass(frozen=True, slots=True)
class Urge:
    """A wish to go some way: its direction times its weight, and the weight; arrays of shape (n,)."""

    name: str
    x: Floats
    y: Floats
    weight: Floats


def urges_of(world: BehaviourApi, rows: Rows, others: Role, terms: Terms) -> list[Urge]:
    """Return what drives each of a flock: to keep apart, to go the others' way, to gather, to go on."""
    n = len(rows)
    vx, vy = world.velocity(rows)
    # each keeps going the way it goes, at top speed; what is waits to be moved
    found = [_urge("onward", vx, vy, SLOW, np.full(n, ONWARD))]
    reach = float(max(terms.apart.max(), terms.aligned.max(), terms.together.max(), 0.0))
    at, near = world.near(rows, others, reach)
    if not len(at):
        return found
    x, y = world.place(rows)
    other_x, other_y = world.place(near)
    dx, dy = other_x - x[at], other_y - y[at]
    away = np.sqrt(dx * dx + dy * dy)
    away[away < 1e-9] = 1e-9
    # every neighbour counts the more the nearer it is, and nothing at the edge of the range: without jumps
    # the path hardly depends on the tick rate
    count = _nearness(away, terms.apart, at) / away
    found.append(
        _urge("apart", _sums(at, -count * dx, n), _sums(at, -count * dy, n), 1.0, terms.apart_weight)
    )
    count = _nearness(away, terms.aligned, at)
    other_vx, other_vy = world.velocity(near)
    many = _sums(at, count, n)
    share = terms.aligned_weight * np.minimum(many, 1.0)
    part = np.divide(share, many * np.maximum(terms.top, 1e-9), out=np.zeros(n), where=many > 0)
    way_x, way_y = part * _sums(at, count * other_vx, n), part * _sums(at, count * other_vy, n)
    found.append(Urge("their way", way_x, way_y, share))
    count = _nearness(away, terms.together, at)
    many = np.maximum(_sums(at, count, n), 1.0)
    to_x, to_y = _sums(at, count * dx, n) / many, _sums(at, count * dy, n) / many
    half = np.maximum(terms.together, 1e-9) / 2
    found.append(_urge("together", to_x, to_y, half, terms.together_weight))
    return found


def _nearness(away: Floats, reach: Floats, at: NDArray[np.int64]) -> Floats:
    """1 for a neighbour at the same place, 0 for one at the edge of the range and beyond."""
    if np.all(reach == reach[0]):
        near: Floats = np.maximum(1.0 - away / reach[0], 0.0) if reach[0] > 0 else np.zeros(len(away))
        return near
    return np.maximum(1.0 - away / np.maximum(reach, 1e-9)[at], 0.0)


def _sums(at: NDArray[np.int64], values: Floats, n: int) -> Floats:
    """Sums over the neighbours of each."""
    return np.asarray(np.bincount(at, values, n), dtype=np.float64)


def _urge(name: str, to_x: Floats, to_y: Floats, full: Floats | float, weight: Floats) -> Urge:
    """Return the wish to go along a vector; one shorter than `full` counts the less."""
    long = np.sqrt(to_x * to_x + to_y * to_y)
    strength = weight * np.minimum(long / full, 1.0)
    part = np.divide(strength, long, out=np.zeros(len(long)), where=long > 1e-12)
    return Urge(name, part * to_x, part * to_y, strength)


def _cut(x: Floats | float, y: Floats | float, most: Floats) -> tuple[Floats, Floats]:
    """Return a vector, no longer than the most."""
    long = np.sqrt(x * x + y * y)
    part = np.minimum(1.0, most / np.maximum(long, 1e-12))
    return x * part, y * part


@behaviour(
    "be drawn to {target} within {radius}, weight {weight}",
    "A flocking object makes for a place, or for the nearest of the objects named, if it is near enough.",
    phase="urge",
    wants="flock",
    kernel=Kernel(kernel.be_drawn, "turns"),
    target=Slot("where", objects=True),
    radius=number("400", "units"),
    weight=number("1"),
    says=[
        "be attracted/pulled to/by {target}",
        "seek {target}",
        "attraction to {target}",
        "fly to {target}",
    ],
)
def be_drawn(world: BehaviourApi, rows: Rows, target: Where, radius: Floats, weight: Floats) -> None:
    _toward(world, rows, target, radius, weight, 1.0)


@behaviour(
    "keep away from {target} within {radius}, weight {weight}",
    "A flocking object turns away from a place, or from the nearest of the objects named, more strongly the nearer it is.",
    phase="urge",
    wants="flock",
    kernel=Kernel(kernel.keep_away, "turns"),
    target=Slot("where", objects=True),
    radius=number("110", "units"),
    weight=number("3"),
    says=[
        "avoid/flee {target}",
        "run away from {target}",
        "be repelled by {target}",
        "shy away from {target}",
    ],
)
def keep_away(world: BehaviourApi, rows: Rows, target: Where, radius: Floats, weight: Floats) -> None:
    _toward(world, rows, target, radius, weight, -1.0)


def _toward(
    world: BehaviourApi, rows: Rows, target: Where, radius: Floats, weight: Floats, way: float
) -> None:
    found, to_x, to_y = world.aimed(rows, target)
    there = found >= 0
    if not there.any():
        return
    some, to_x, to_y = rows[there], to_x[there], to_y[there]
    x, y = world.place(some)
    dx, dy = way * (to_x - x), way * (to_y - y)
    away = length(dx, dy)
    near = (away < radius[there]) & (away > 0)
    if not near.any():
        return
    # what is to be kept away from pushes the more the nearer it is; what draws draws the same from everywhere
    strength = np.maximum(radius[there] / np.maximum(away, 1e-6) - 1.0, 0.0) if way < 0 else 1.0
    wish = weight[there] * strength * near
    part = np.divide(wish, away, out=np.zeros(len(some)), where=near)
    world.urge(some, part * dx, part * dy, wish)
