"""Rays: the first thing along one, and whether the view between two objects is clear.

Ray against circle and against box (slabs): Ericson, Real-Time Collision Detection, 2005, ch. 5.3.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.world import World

Floats = NDArray[np.float64]

_MOST_AT_ONCE = 1_000_000


def first_hits(world: World, rows: Rows, angle: Any, reach: Any) -> Rows:
    """Row of the first thing along a ray from the middle of each row, -1 where there is none within reach.

    `angle` in degrees is where the ray points, `reach` in units how far; kinds without contact are not met.
    """
    solid = world.rows_where("met by rays", world.program.meets)
    found = np.full(len(rows), -1, dtype=np.int64)
    if not len(solid):
        return found
    angle, reach = (np.broadcast_to(np.asarray(v, dtype=np.float64), (len(rows),)) for v in (angle, reach))
    step = max(1, _MOST_AT_ONCE // len(solid))
    for start in range(0, len(rows), step):
        some = slice(start, start + step)
        turned = np.radians(angle[some])
        away = distances(world, rows[some], np.cos(turned), np.sin(turned), solid)
        away[rows[some][:, None] == solid[None, :]] = np.inf
        nearest = np.argmin(away, axis=1)
        gap = away[np.arange(len(nearest)), nearest]
        found[some] = np.where(gap <= reach[some], solid[nearest], -1)
    return found


def clear_views(world: World, a: Rows, b: Rows) -> NDArray[np.bool_]:
    """Whether no fixed object lies between the middles of each pair of rows."""
    fixed = world.rows_where("fixed", np.asarray(world.program.solids == 2))
    if not len(fixed):
        return np.ones(len(a), dtype=bool)
    dx, dy = world.x[b] - world.x[a], world.y[b] - world.y[a]
    length = np.hypot(dx, dy)
    safe = np.where(length > 0, length, 1.0)
    clear = np.ones(len(a), dtype=bool)
    step = max(1, _MOST_AT_ONCE // len(fixed))
    for start in range(0, len(a), step):
        some = slice(start, start + step)
        away = distances(world, a[some], dx[some] / safe[some], dy[some] / safe[some], fixed)
        away[(a[some][:, None] == fixed[None, :]) | (b[some][:, None] == fixed[None, :])] = np.inf
        clear[some] = (away >= length[some][:, None]).all(axis=1)
    return clear


def distances(world: World, rows: Rows, dx: Floats, dy: Floats, targets: Rows) -> Floats:
    """How far along each ray (unit direction dx, dy) each target is met, infinite if never; shape (rays, targets)."""
    sizes = world.program.boxes[world.kind[targets]] * np.abs(world.scale[targets])[:, None]
    off_x = world.x[targets][None, :] - world.x[rows][:, None]
    off_y = world.y[targets][None, :] - world.y[rows][:, None]
    dx, dy = dx[:, None], dy[:, None]
    with np.errstate(all="ignore"):
        # circles: nearest approach, then back along the ray by half the chord
        along = off_x * dx + off_y * dy
        half_chord = np.sqrt(sizes[None, :, 2] ** 2 - (off_x * dy - off_y * dx) ** 2)
        disc = np.where(along + half_chord >= 0, np.maximum(along - half_chord, 0.0), np.inf)
        disc = np.where(np.isnan(disc), np.inf, disc)
        # boxes: enter the last slab before leaving the first, in the frame of the box
        turned = np.radians(world.angle[targets])[None, :]
        cos, sin = np.cos(turned), np.sin(turned)
        enters, ends = np.full(off_x.shape, -np.inf), np.full(off_x.shape, np.inf)
        for offset, direction, half in (
            (off_x * cos + off_y * sin, dx * cos + dy * sin, sizes[None, :, 0]),
            (off_y * cos - off_x * sin, dy * cos - dx * sin, sizes[None, :, 1]),
        ):
            one, other = (offset - half) / direction, (offset + half) / direction
            parallel = np.abs(direction) < 1e-12
            low, high = np.minimum(one, other), np.maximum(one, other)
            inside = np.abs(offset) <= half
            low = np.where(parallel, np.where(inside, -np.inf, np.inf), low)
            high = np.where(parallel, np.where(inside, np.inf, -np.inf), high)
            enters, ends = np.maximum(enters, low), np.minimum(ends, high)
        box = np.where((ends >= enters) & (ends >= 0), np.maximum(enters, 0.0), np.inf)
    result: Floats = np.where(sizes[None, :, 2] > 0, disc, box)
    return result
