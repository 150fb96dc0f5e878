"""Behaviours of a few objects by kernels: what they are given is bound once, until somebody comes or goes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Rows
from gatillo.kernels import COMPILED, column
from gatillo.kernels.columns import Columns, Settings
from gatillo.level.roles import Role
from gatillo.sim.program.bodies import Behaviour
from gatillo.sim.world.world import World

FEW = 2_000 if COMPILED else A_HANDFUL
"""Up to so many objects are taken one by one."""


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


def acts_by_kernel(moving: _Moving, behaviour: Behaviour, rows: Rows) -> bool:
    """Let a behaviour act on objects by its kernel. Return False, with nothing done, where it must be worked out over arrays."""
    kernel = behaviour.entry.kernel
    if kernel is None or len(rows) > FEW:
        return False
    world = moving.world
    caches = world.caches
    bound: Bound | None = caches.bound.get(behaviour.identity)
    if bound is None or bound.rows is not rows:
        bound = _bind(world, behaviour, rows)
        caches.bound[behaviour.identity] = bound
    if bound.role is not None:
        others = world.rows_of(bound.role)
        if bound.others is not others:
            bound.others = others
            bound.settings.others = column(others)
    columns = caches.columns
    if columns is None or columns is not moving.columns:
        columns = _bind_columns(moving)
    many = kernel.run(columns, bound.settings, moving.dt)
    if many > 0:
        (world.touch_rows if kernel.does == "puts" else world.turned)(bound.found[:many])
    return many >= 0


def _bind_columns(moving: _Moving) -> Columns:
    """Bind what begins anew in a tick, and the world's columns where they have been replaced."""
    caches = moving.world.caches
    if caches.columns is None:
        caches.columns = columns_of(moving.world)
    columns: Columns = caches.columns
    columns.of_tick(column(moving.all_driven()), column(moving.all_urges()))
    moving.columns = columns
    return columns


def can_act(behaviour: Behaviour) -> bool:
    """Return whether a behaviour's kernel can do what its words say: it goes by objects of their own, not by references to them."""
    return not any(isinstance(word, Role) and word.source == "reference" for word in behaviour.words.values())


def columns_of(world: World) -> Columns:
    """Return a world's columns as kernels take them."""
    drawn = world.program.kind_tables.drawn_facing
    parts = (world.x, world.y, world.vx, world.vy, world.angle, world.kind, drawn)
    return Columns(*map(column, parts))


def _bind(world: World, behaviour: Behaviour, rows: Rows) -> Bound:
    entry, n = behaviour.entry, len(rows)
    word, role = 0, None
    for name, slot in entry.slots.items():
        if slot.type == "choice":
            word = slot.options.index(behaviour.words[name])
        elif slot.type == "role":
            role = behaviour.words[name]
    found, room, sums = np.empty(n, dtype=np.int64), np.empty((4, n)), np.empty((8, n))
    settings: Any = Settings(column(rows), word, column(found), [column(part) for part in room], column(sums))
    numbers = [name for name in entry.slots if name in behaviour.columns]
    for at, name in enumerate(numbers):
        setattr(settings, f"n{at}", column(world.variables[behaviour.columns[name]]))
    for at, name in enumerate(entry.remembers):
        setattr(settings, f"m{at}", column(world.variables[behaviour.remembered[name]]))
    return Bound(rows, None, settings, found, role)
