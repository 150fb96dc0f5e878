"""A world's columns as the kernels for flight and contact take them, bound once for as long as nobody comes or goes."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.kernels import COMPILED, column, shapes
from gatillo.sim.world.world import World

FEW = 2_000 if COMPILED else 12
"""In a world of so many rows at most, all of them are walked through one by one."""

NO_ROWS = np.zeros(0, dtype=np.int64)


def scene_of(world: World) -> shapes.Scene:
    """Return where things stand, what shape they have and how they move, as kernels take it."""
    wide, high = world.reach()
    caches = world.caches
    if caches.scene is not None and caches.scene_of is wide:
        known: shapes.Scene = caches.scene
        return known
    tables = world.program.kind_tables
    parts: tuple[Any, ...] = (world.x, world.y, world.angle, world.scale, world.kind, world.id, wide, high)
    flight: tuple[Any, ...] = (world.vx, world.vy, world.gravity, world.friction)
    marks: tuple[Any, ...] = (world.alive, world.moved, world.asleep, world.grounded)
    scene = shapes.Scene(
        tuple(map(column, parts)),
        tuple(map(column, flight)),
        (*(column(mark.view(np.uint8)) for mark in marks), column(world.last_moved)),
        column(world.contact),
        column(tables.boxes),
        column(world.program.tick_tables.senses.view(np.uint8)),
    )
    caches.scene, caches.scene_of = scene, wide
    return scene


def work_room(world: World) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Return room to work in: two numbers for each row, and a row for each."""
    caches, many = world.caches, len(world.id)
    if caches.room is None or len(caches.room[1]) != many:
        caches.room = np.empty((2, many)), np.empty(many, dtype=np.int64)
    return caches.room
