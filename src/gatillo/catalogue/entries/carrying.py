"""Behaviours that lead and carry objects: trailing, dragging, being picked up."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import A_HANDFUL, Rows
from gatillo.catalogue.declare.entry import any_key, behaviour, choice, number, role, seconds
from gatillo.catalogue.declare.subjects import Subject
from gatillo.kernels.mathematics import atan2d, exp, length
from gatillo.level.roles import Role

SUBJECT = Subject("leading and carrying", place=250)

Floats = NDArray[np.float64]

FRONT = "the front-most only"
LIGHT, HEAVY = "light", "heavy"
TOGGLED, HELD = "until the next press", "while it is held"
NEAREST, POINTED = "what is nearest", "what the pointer is on"
STOPS, FLIES_ON = "it stops there", "it keeps the speed of who carried it"
HEAVY_LAG = 0.15
"""Seconds by which a heavy thing lags behind who carries it."""
_DRAG_AXES = ("both axes", "the x axis only", "the y axis only")


@behaviour(
    "trail {leader} by {lag} s",
    "Follows the nearest of the objects named smoothly: it covers 63 % of the remaining way in this time.",
    phase="follow",
    remembers={"follows": 0.0, "lead_x": 0.0, "lead_y": 0.0},
    leader=role("the object it follows"),
    lag=seconds("0.3"),
    says=[
        "follow {leader} [by] {lag}",
        "tag along after/behind {leader}",
        "lag behind {leader} [by] {lag}",
        "be pulled behind {leader}",
    ],
)
def trail(world: BehaviourApi, rows: Rows, leader: Role, lag: Floats) -> None:
    found = world.nearest(rows, leader)
    there = found >= 0
    x, y = world.place(rows)
    lead_x, lead_y = world.place(np.where(there, found, rows))
    ids = np.where(there, world.ids(np.where(there, found, rows)), 0)
    follows = (world.recall("follows") == ids) & there
    # of one that it has only now begun to follow, where that came from in this tick
    speed_x, speed_y = world.velocity(np.where(there, found, rows))
    was_x = np.where(follows, world.recall("lead_x"), lead_x - speed_x * world.dt)
    was_y = np.where(follows, world.recall("lead_y"), lead_y - speed_y * world.dt)
    for name, value in (("follows", ids), ("lead_x", lead_x), ("lead_y", lead_y)):
        world.remember(name, value)
    # exact for a leader that goes straight within a tick, so that the path is the same at every tick rate
    late = np.maximum(lag, 1e-9)
    left = exp(-world.dt / late)
    behind_x, behind_y = (lead_x - was_x) / world.dt * late, (lead_y - was_y) / world.dt * late
    new_x = lead_x - behind_x + (x - was_x + behind_x) * left
    new_y = lead_y - behind_y + (y - was_y + behind_y) * left
    world.put(rows[there], new_x[there], new_y[there])


@behaviour(
    "be dragged by the pointer along {axes}, {front}, {sensitivity} of its way",
    "A press on it takes hold of it; it follows the pointer until the button is released, anywhere.",
    remembers={"held": 0.0, "grip_x": 0.0, "grip_y": 0.0, "from_x": 0.0, "from_y": 0.0},
    axes=choice(*_DRAG_AXES),
    front=choice(FRONT, "all under the pointer"),
    sensitivity=number("1", "how far it goes for each unit of the pointer's way"),
    says=[
        "drag with/by the pointer/mouse",
        "draggable/movable by/with the pointer/mouse",
        "follow the pointer/mouse while pressed",
        "drag and drop",
    ],
)
def be_dragged(world: BehaviourApi, rows: Rows, axes: str, front: str, sensitivity: Floats) -> None:
    pressed, held, released = world.key_state("pointer left")
    grips = world.recall("held") > 0
    pointer_x, pointer_y = world.pointer()
    x, y = world.place(rows)
    if pressed:
        taken = np.isin(rows, world.under_pointer(front == FRONT))
        grips = grips | taken
        for name, now, was in (
            ("from_x", x, "from_x"),
            ("from_y", y, "from_y"),
            ("grip_x", pointer_x, "grip_x"),
            ("grip_y", pointer_y, "grip_y"),
        ):
            world.remember(name, np.where(taken, now, world.recall(was)))
    if not held and not released:
        grips = np.zeros(len(rows), dtype=bool)
    if grips.any():
        new_x = world.recall("from_x") + sensitivity * (pointer_x - world.recall("grip_x"))
        new_y = world.recall("from_y") + sensitivity * (pointer_y - world.recall("grip_y"))
        new_x = new_x if axes != _DRAG_AXES[2] else x
        new_y = new_y if axes != _DRAG_AXES[1] else y
        world.put(rows[grips], new_x[grips], new_y[grips])
    world.remember("held", grips & (not released))


def _few_let_go(
    world: BehaviourApi, rows: Rows, held_by: list[int], carriers: Rows, far: Floats, flies: bool
) -> None:
    """Release what is held back too far from its carrier, of a few, in a tick in which the key is not pressed."""
    at = dict(zip(world.ids(carriers).tolist(), carriers.tolist(), strict=True))
    held = [n for n, carrier in enumerate(held_by) if carrier in at]
    if not held:
        return
    x, y = (column.tolist() for column in world.place(rows))
    carrier_x, carrier_y = world.place(np.array([at[held_by[n]] for n in held]))
    places = zip(held, carrier_x.tolist(), carrier_y.tolist(), strict=True)
    lost = [n for n, to_x, to_y in places if length(x[n] - to_x, y[n] - to_y) > far.item(n)]
    if lost:
        world.release(rows[lost], flies)


@behaviour(
    "be carried by {by}: {key} picks up {what} within {reach}, held {ahead} ahead, {weight}, {how}, let go beyond "
    "{far}; let go, {after}",
    "The key or pointer button picks up the nearest such object within reach and within 60° of where its carrier "
    "faces, or the one under the pointer that is within reach. It is released by the next press, or as soon as the "
    "key is up. A heavy one lags behind; one that is held back farther than its limit is lost. An object that is "
    "carried cannot be taken by another.",
    phase="follow",
    by=role("who can carry it"),
    key=any_key("E"),
    what=choice(NEAREST, POINTED),
    reach=number("50", "units between the middles"),
    ahead=number("26", "units between the middles"),
    weight=choice(LIGHT, HEAVY),
    how=choice(TOGGLED, HELD),
    far=number("90", "units between the middles"),
    after=choice(STOPS, FLIES_ON),
    says=[
        "be picked up by {by}",
        "pick up and carry with {key}",
        "carryable/portable/grabbable by {by}",
        "be held by {by}",
    ],
)
def be_carried(
    world: BehaviourApi,
    rows: Rows,
    by: Role,
    key: str,
    what: str,
    reach: Floats,
    ahead: Floats,
    weight: str,
    how: str,
    far: Floats,
    after: str,
) -> None:
    pressed, down, up = world.key_state(key)
    flies = after == FLIES_ON
    if how == HELD and world.anything_attached() and (up or not down):
        carried = np.isin(world.carrier_of(rows), world.ids(world.rows_of(by)))
        world.release(rows[carried], flies)
    if not pressed and not world.anything_attached():
        return
    held_by = world.carrier_of(rows)
    if not pressed and not any(held_by.tolist()):
        return
    if not pressed and len(rows) <= A_HANDFUL:
        _few_let_go(world, rows, held_by.tolist(), world.rows_of(by), far, flies)
        return
    carriers = world.rows_of(by)
    carrier_ids = world.ids(carriers)
    held = (held_by[:, None] == carrier_ids[None, :]).any(axis=1)
    if not pressed and not held.any():
        return
    x, y = world.place(rows)
    if held.any():
        at = carriers[np.minimum(np.searchsorted(carrier_ids, held_by[held]), len(carriers) - 1)]
        carrier_x, carrier_y = world.place(at)
        lost = length(x[held] - carrier_x, y[held] - carrier_y) > far[held]
        world.release(rows[held][lost], flies)
    if not pressed:
        return
    for carrier, object_id in zip(carriers.tolist(), carrier_ids.tolist(), strict=True):
        mine = held_by == object_id
        if mine.any():
            world.release(rows[mine], flies)
            continue
        # one thing at a time, whatever its kind
        if world.carries_something(object_id):
            continue
        one = np.array([carrier])
        carrier_x, carrier_y = world.place(one)
        dx, dy = x - carrier_x, y - carrier_y
        away = length(dx, dy)
        aside = np.abs(np.mod(atan2d(dy, dx) - world.facing(one) + 180.0, 360.0) - 180.0)
        # what lies where the carrier is has no direction: rounding must not decide whether it is ahead
        free = (held_by == 0) & (away <= reach) & (rows != carrier)
        free &= world.pointed(rows) if what == POINTED else (aside <= 60.0) | (away < 1e-6)
        if free.any():
            nearest = int(np.argmin(np.where(free, away, np.inf)))
            lag = HEAVY_LAG if weight == HEAVY else 0.0
            world.carry(int(rows[nearest]), carrier, float(ahead[nearest]), lag)
            held_by[nearest] = object_id
