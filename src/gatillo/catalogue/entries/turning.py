"""Behaviours that turn and circle, and one that keeps facing something."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Rows, Where
from gatillo.catalogue.declare.entry import Kernel, Slot, behaviour, choice, number, role, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.formula.formula import Formula
from gatillo.kernels import turning as kernel
from gatillo.kernels.mathematics import atan2d, cosd, sind
from gatillo.level.roles import Role

SUBJECT = Subject("circling and turning", place=230)

Floats = NDArray[np.float64]

EVENLY = "evenly spread"
IN_THE_PLANE, OVER_ITS_HEIGHT = "in the plane", "flipping over its height"
_AXES = (IN_THE_PLANE, OVER_ITS_HEIGHT, "flipping over its width")


@behaviour(
    "circle around {centre} at {radius}, {speed}° a second, from {start}°, {spread}",
    "Circles a place, or the nearest of the objects named, counter-clockwise for a speed above 0. Spread evenly, "
    "the objects of its kind on one circle keep equal angles between them.",
    phase="follow",
    kernel=Kernel(kernel.circle_around, "puts"),
    remembers={"turned": 0.0},
    centre=Slot("where", objects=True),
    radius=number("80", "units"),
    speed=number("60", "degrees a second, counter-clockwise"),
    start=number("0", "degrees, where it begins"),
    spread=choice(EVENLY, "each from its own angle"),
    says=[
        "orbit {centre}",
        "go/move/fly/revolve around/round {centre}",
        "circle {centre}",
    ],
)
def circle_around(
    world: BehaviourApi, rows: Rows, centre: Where, radius: Floats, speed: Floats, start: Floats, spread: str
) -> None:
    found, x, y = world.aimed(rows, centre)
    there = found >= 0
    turned = world.recall("turned") + speed * world.dt
    world.remember("turned", np.mod(turned, 360.0))
    angle = turned + start
    if spread == EVENLY:
        angle = _spread(angle, found)
    if not there.all():
        rows, x, y, angle, radius = rows[there], x[there], y[there], angle[there], radius[there]
    world.put(rows, x + radius * cosd(angle), y + radius * sind(angle))


def _spread(angle: Floats, found: NDArray[np.int64]) -> Floats:
    """Angles evenly spread about each centre, from that of the oldest on; they stand in the order of their age."""
    n = len(found)
    if (found == found[0]).all():
        evenly: Floats = angle[0] + 360.0 / n * np.arange(n)
        return evenly
    order = np.argsort(found, kind="stable")
    centres, first, counts = np.unique(found[order], return_index=True, return_counts=True)
    rank = np.empty(n)
    rank[order] = np.arange(n) - np.repeat(first, counts)
    circle = np.searchsorted(centres, found)
    spread: Floats = angle[order[first]][circle] + 360.0 * rank / counts[circle]
    return spread


@behaviour(
    "spin by {speed}° a second {about}",
    "Turns in the plane, or flips over an axis in the plane, which is drawn as getting narrow and wide "
    "again.",
    kernel=Kernel(kernel.spin, "turns"),
    remembers={"flip": 0.0},
    speed=number("90", "degrees a second, counter-clockwise"),
    about=choice(*_AXES),
    says=[
        "rotate/turn [constantly/steadily/around]",
        "keep turning/rotating",
        "whirl/twirl",
    ],
)
def spin(world: BehaviourApi, rows: Rows, speed: Floats, about: str) -> None:
    if about == IN_THE_PLANE:
        if speed.any():
            world.rotate(rows, speed * world.dt)
        return
    turned = world.recall("flip") + speed * world.dt
    # kept in (-180, 180], as angles are
    world.remember("flip", -(np.mod(-turned + 180.0, 360.0) - 180.0))


@behaviour(
    "keep facing {target}, turning at most {speed}° a second",
    "Turns the shorter way to face a place, the nearest of the objects named, or the pointer; never past it.",
    faces=True,
    phase="follow",
    kernel=Kernel(kernel.keep_facing, "turns", points=True),
    target=slot("where"),
    speed=number("360", "degrees a second"),
    says=[
        "look/point/aim at {target}",
        "turn toward/towards/to {target}",
        "face {target}",
    ],
)
def keep_facing(world: BehaviourApi, rows: Rows, target: Where, speed: Floats) -> None:
    _turn_to(world, rows, *world.point(rows, target), speed)


@behaviour(
    "keep facing the nearest {target} for which {only}, turning at most {speed}° a second",
    "Keeps facing only objects for which a condition holds, such as Moth.awake; with none, it keeps its "
    "direction.",
    faces=True,
    phase="follow",
    target=role("the objects it faces"),
    only=slot("yes/no formula"),
    speed=number("360", "degrees a second"),
    says=[
        "look/point/aim at the nearest/closest {target}",
        "turn toward/towards the nearest {target}",
        "face only those {target}",
    ],
)
def keep_facing_those(world: BehaviourApi, rows: Rows, target: Role, only: Formula, speed: Floats) -> None:
    found = world.nearest(rows, target, only)
    there = found >= 0
    if there.any():
        _turn_to(world, rows[there], *world.place(found[there]), speed[there])


def _turn_to(world: BehaviourApi, rows: Rows, to_x: Floats, to_y: Floats, speed: Floats) -> None:
    x, y = world.place(rows)
    dx, dy = to_x - x, to_y - y
    # standing on it there is no direction: it keeps its own
    some = (dx != 0) | (dy != 0)
    if not some.any():
        return
    wanted = atan2d(dy[some], dx[some])
    now = world.facing(rows[some])
    left = np.mod(wanted - now + 180.0, 360.0) - 180.0
    most = np.maximum(speed[some], 0.0) * world.dt
    reached = np.abs(left) <= most
    world.face(rows[some], np.where(reached, wanted, now + np.minimum(np.maximum(left, -most), most)))
