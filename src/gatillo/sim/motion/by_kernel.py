"""Behaviours of a few objects by kernels: what they are given is bound once, until somebody comes or goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Rows, Where
from gatillo.kernels import COMPILED, column, walking
from gatillo.kernels.columns import Columns, Settings, Walk
from gatillo.level.roles import Role
from gatillo.sim.collision.proximity import near_rows
from gatillo.sim.program.bodies import BUSY, WALK, Behaviour
from gatillo.sim.program.kind_tables import STOP_WIDTH
from gatillo.sim.world.world import World

FEW = 2_000 if COMPILED else A_HANDFUL
"""Up to so many objects are taken one by one."""
FEW_IN_PAIRS = 1_000_000 if COMPILED else 0
"""Up to so many are taken pair by pair."""


class _Moving(Protocol):
    """What the Motion phase of a tick has: see `phase.BehaviourContext`."""

    world: World
    dt: float
    columns: Columns | None
    """The world's columns, once they have been bound in this tick."""

    def all_driven(self) -> NDArray[np.int8]: ...

    def all_urges(self) -> NDArray[np.float64]: ...


@dataclass(slots=True)
class Bound:
    """What a kernel is given of a behaviour, and the arrays that it was made from."""

    rows: Rows
    others: Rows | None
    settings: Settings
    found: Rows
    role: Role | None
    keys: tuple[str, ...]
    where: Where | None
    """Where it aims at, if that may be another point in each tick."""
    message: str


def acts_by_kernel(moving: _Moving, behaviour: Behaviour, rows: Rows) -> bool:
    """Let a behaviour act on objects by its kernel. Return False, with nothing done, where it must be worked out over arrays."""
    kernel = behaviour.kernel
    if kernel is None or (len(rows) > FEW and (kernel.in_pairs is None or FEW_IN_PAIRS <= 0)):
        return False
    world = moving.world
    bound = _bound(world, behaviour, rows)
    if bound is None:
        return False
    columns = world.caches.columns
    if columns is None or columns is not moving.columns:
        columns = _bind_columns(moving)
    many = kernel.run(columns, bound.settings, moving.dt)
    if many < 0 and kernel.in_pairs is not None and kernel.reach is not None and len(rows) <= FEW_IN_PAIRS:
        assert bound.others is not None
        at, near = near_rows(world, rows, bound.others, kernel.reach(bound.settings))
        many = kernel.in_pairs(columns, bound.settings, column(at), column(near), moving.dt)
    if many > 0:
        (world.touch_rows if kernel.does == "puts" else world.turned)(bound.found[:many])
    return many >= 0


def asked_by_kernel(world: World, behaviour: Behaviour, rows: Rows) -> int:
    """Return what a kernel that changes nothing answers: -1 where it must be worked out over arrays."""
    kernel, caches = behaviour.kernel, world.caches
    if kernel is None or len(rows) > FEW:
        return -1
    bound = _bound(world, behaviour, rows)
    if bound is None:
        return -1
    if caches.columns is None:
        caches.columns = columns_of(world)
    return kernel.run(caches.columns, bound.settings, world.dt)


def _bound(world: World, behaviour: Behaviour, rows: Rows) -> Bound | None:
    """Return what a behaviour's kernel is given, bound anew where somebody came or went; None where it aims at what no kernel knows."""
    bound: Bound | None = world.caches.bound.get(behaviour.identity)
    if bound is None or bound.rows is not rows:
        bound = _bind(world, behaviour, rows)
        if bound is None:
            return None
        world.caches.bound[behaviour.identity] = bound
    if bound.role is not None:
        others = world.rows_of(bound.role)
        if bound.others is not others:
            bound.others = others
            bound.settings.others = column(others)
    if bound.keys:
        held = world.input.held
        bound.settings.keys = sum(1 << at for at, key in enumerate(bound.keys) if key in held)
    if bound.message:
        bound.settings.heard = int(bool(world.messages.heard_from.get(bound.message)))
    if bound.where is not None:
        bound.settings.to_x, bound.settings.to_y = world.input.pointer_x, world.input.pointer_y
    return bound


def walk_by_kernel(moving: _Moving, *, again: bool = False) -> bool:
    """Take all who walk a route through the tick, or give them its velocities once more.

    Return False, with nothing done, where somebody ends or comes to a stop, or there are too many objects.
    """
    world = moving.world
    if len(world.id) > FEW or world.program.moving_stops:
        return False
    columns = world.caches.columns
    if columns is None or columns is not moving.columns:
        columns = _bind_columns(moving)
    walk = columns.walk
    many = walking.walk_again(columns, walk) if again else walking.walk_on(columns, walk, moving.dt)
    if many > 0:
        world.turned(np.asarray(walk.found)[:many])
    return many >= 0


def _bind_columns(moving: _Moving) -> Columns:
    """Bind the arrays that a tick starts with, and the world's columns where they have been replaced."""
    caches = moving.world.caches
    if caches.columns is None:
        caches.columns = columns_of(moving.world)
    columns: Columns = caches.columns
    columns.of_tick(column(moving.all_driven()), column(moving.all_urges()))
    moving.columns = columns
    return columns


def columns_of(world: World) -> Columns:
    """Return a world's columns as kernels take them."""
    drawn = world.program.kind_tables.drawn_facing
    parts = (world.x, world.y, world.vx, world.vy, world.angle, world.kind, drawn)
    columns = Columns(*map(column, parts))
    if world.program.tick_tables.walking:
        columns.walk = _walk_of(world)
    return columns


def _walk_of(world: World) -> Walk:
    n, program, nobody = len(world.id), world.program, np.zeros(len(world.id))
    on = np.ones(n, dtype=bool)
    for behaviour in program.behaviours:
        if behaviour.entry.walks:
            rows = world.rows_of_kind(behaviour.kind)
            on[rows] &= world.variables[behaviour.on][rows]
    stops = program.kind_tables.stops
    first = np.cumsum([0, *(len(of_one) for of_one in stops)], dtype=np.int64)
    all_stops = np.concatenate((np.zeros((0, STOP_WIDTH)), *stops))
    busy = world.variables.get(BUSY, nobody)
    room = (np.empty(n, dtype=np.int64), np.empty(n, dtype=np.int64), np.empty(n), np.empty(n))
    return Walk(
        {name: column(world.variables[at]) for name, at in WALK.items()},
        column(all_stops),
        column(first),
        column(busy),
        column(on.view(np.uint8)),
        column(world.alive.view(np.uint8)),
        tuple(map(column, room)),
    )


def _aim(where: Where) -> str:
    """Return what a place is to a kernel: a point, the pointer, the nearest of some objects, or nothing that it knows."""
    reads = {what for _, what in where.reads}
    if where.area is not None or where.formula is not None:
        return ""
    if not where.reads:
        return "point"
    if reads == {"x", "y"}:
        return "nearest" if where.roles else "pointer"
    return ""


def _bind(world: World, behaviour: Behaviour, rows: Rows) -> Bound | None:
    entry, n = behaviour.entry, len(rows)
    words: list[int] = []
    role, where, aims, message = None, None, "", ""
    for name, slot in entry.slots.items():
        if slot.type == "choice":
            words.append(slot.options.index(behaviour.words[name]))
        elif slot.type == "route":
            words.append(list(world.program.index.routes).index(behaviour.words[name]))
        elif slot.type == "role":
            role = behaviour.words[name]
        elif slot.type == "message":
            message = behaviour.words[name]
        elif slot.type == "where":
            where = behaviour.words[name]
            aims = _aim(where)
            if aims == "nearest":
                role = world.program.index.role_tokens[where.roles[0]]
            if not (aims == "nearest" or (aims and entry.kernel is not None and entry.kernel.points)):
                return None
            if role is not None and role.source == "reference":
                return None
    found, room, sums = np.empty(n, dtype=np.int64), np.empty((3, n)), np.empty((8, n))
    settings: Any = Settings(
        column(rows), (*words, 0, 0, 0, 0)[:4], column(found), [column(part) for part in room], column(sums)
    )
    settings.aims = {"": 0, "nearest": 2}.get(aims, 1)
    if aims == "point":
        assert where is not None
        settings.to_x, settings.to_y = where.point(None)
    numbers = [name for name in entry.slots if name in behaviour.columns]
    for at, name in enumerate(numbers):
        setattr(settings, f"n{at}", column(world.variables[behaviour.columns[name]]))
    for at, name in enumerate(entry.remembers):
        setattr(settings, f"m{at}", column(world.variables[behaviour.remembered[name]]))
    keys = tuple(behaviour.words[name] for name, slot in entry.slots.items() if slot.kind.presses)
    return Bound(rows, None, settings, found, role, keys, where if aims == "pointer" else None, message)
