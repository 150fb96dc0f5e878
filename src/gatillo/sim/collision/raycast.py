"""Rays: the first thing along one, and whether the view between two objects is clear.

Ray against circle and against box (slabs): Ericson, Real-Time Collision Detection, 2005, ch. 5.3.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.formula.values import spread
from gatillo.kernels import COMPILED, column, rays
from gatillo.kernels.mathematics import cosd, sind
from gatillo.sim.program.bodies import FIXED, MOVABLE, SENSED
from gatillo.sim.world.world import World

Floats = NDArray[np.float64]

_MOST_AT_ONCE = 1_000_000
FEW_MEETINGS = 1_000_000_000 if COMPILED else 64
"""Up to so many rays times targets are tried one by one."""
MOST_MEETINGS = 100_000_000
"""So many rays times targets are tried at once; the rays beyond meet nothing and give no clear view."""


def first_hits(world: World, rows: Rows, angle: Any, reach: Any) -> Rows:
    """Return row of the first thing along a ray from the middle of each row, -1 if there is none within reach.

    `angle` in degrees is where the ray points, `reach` in units how far; kinds without contact are not met.
    """
    solid = world.rows_in_contact(SENSED, MOVABLE, FIXED)
    found = np.full(len(rows), -1, dtype=np.int64)
    if not len(solid):
        return found
    if len(rows) * len(solid) > MOST_MEETINGS:
        angle, reach = spread(angle, len(rows)), spread(reach, len(rows))
        most = _allowed(world, len(rows), len(solid))
        found[:most] = first_hits(world, rows[:most], angle[:most], reach[:most])
        return found
    if len(rows) * len(solid) <= FEW_MEETINGS:
        return _few_first_hits(world, rows, angle, reach, solid)
    angle, reach = spread(angle, len(rows)), spread(reach, len(rows))
    step = max(1, _MOST_AT_ONCE // len(solid))
    for start in range(0, len(rows), step):
        some = rows[start : start + step]
        turned = angle[start : start + step]
        ray, target, away = meetings(world, some, cosd(turned), sind(turned), solid)
        other = (some[ray] != target) & (away <= reach[start : start + step][ray])
        ray, target, away = ray[other], target[other], away[other]
        # of each ray the nearest; of two equally near the older
        order = np.lexsort((target, away, ray))
        first = order[np.unique(ray[order], return_index=True)[1]]
        found[start + ray[first]] = target[first]
    return found


def clear_views(world: World, a: Rows, b: Rows) -> NDArray[np.bool_]:
    """Return whether no fixed object lies between the middles of each pair of rows."""
    fixed = world.rows_in_contact(FIXED)
    clear = np.ones(len(a), dtype=bool)
    if not len(fixed):
        return clear
    if len(a) * len(fixed) > MOST_MEETINGS:
        most = _allowed(world, len(a), len(fixed))
        clear[:most], clear[most:] = clear_views(world, a[:most], b[:most]), False
        return clear
    if len(a) * len(fixed) <= FEW_MEETINGS:
        shapes, targets = shapes_of(world), column(fixed)
        for at, (one, other) in enumerate(zip(a.tolist(), b.tolist(), strict=True)):
            clear[at] = rays.is_clear(shapes, one, other, targets)
        return clear
    return _clear(world, a, world.x[b], world.y[b], fixed, b)


def clear_to(world: World, a: Rows, x: Floats, y: Floats) -> NDArray[np.bool_]:
    """Return whether no fixed object lies between the middle of each row and a point; x, y of shape (len(a),).

    One in which the point lies is between, the object of the row itself is not.
    """
    fixed = world.rows_in_contact(FIXED)
    if not len(fixed):
        return np.ones(len(a), dtype=bool)
    if len(a) * len(fixed) > MOST_MEETINGS:
        most = _allowed(world, len(a), len(fixed))
        clear = np.zeros(len(a), dtype=bool)
        clear[:most] = _clear(world, a[:most], x[:most], y[:most], fixed, None)
        return clear
    return _clear(world, a, x, y, fixed, None)


def _clear(
    world: World, a: Rows, x: Floats, y: Floats, fixed: Rows, except_for: Rows | None
) -> NDArray[np.bool_]:
    """Return whether nothing fixed is met on the way from each row to a point, but for itself and a row of `except_for`."""
    clear = np.ones(len(a), dtype=bool)
    dx, dy = x - world.x[a], y - world.y[a]
    length = np.sqrt(dx * dx + dy * dy)
    safe = np.where(length > 0, length, 1.0)
    step = max(1, _MOST_AT_ONCE // len(fixed))
    for start in range(0, len(a), step):
        some = slice(start, start + step)
        ray, target, away = meetings(world, a[some], dx[some] / safe[some], dy[some] / safe[some], fixed)
        between = (away < length[some][ray]) & (a[some][ray] != target)
        if except_for is not None:
            between &= except_for[some][ray] != target
        clear[start + ray[between]] = False
    return clear


def _allowed(world: World, many: int, targets: int) -> int:
    """Return how many of so many rays are followed; where that is not all of them, it is noted for the tick."""
    most = max(1, MOST_MEETINGS // targets)
    if many > most:
        world.cut_off(
            f"no more than {MOST_MEETINGS:,} rays times things are tried at once; {many - most:,} rays are not followed"
        )
    return min(many, most)


def meetings(world: World, rows: Rows, dx: Floats, dy: Floats, targets: Rows) -> tuple[Rows, Rows, Floats]:
    """Return which rays (from the middles of `rows`, unit direction dx, dy) meet which targets, and how far along.

    Gives position of the ray, row of the target, distance in units, each of shape (meetings,).
    """
    sizes = world.program.kind_tables.boxes[world.kind[targets]] * np.abs(world.scale[targets])[:, None]
    off_x = world.x[targets][None, :] - world.x[rows][:, None]
    off_y = world.y[targets][None, :] - world.y[rows][:, None]
    # most targets lie too far to the side, or behind: looked at no further
    bound = np.where(sizes[:, 2] > 0, sizes[:, 2], sizes[:, 0] + sizes[:, 1])[None, :]
    aside = np.abs(off_x * dy[:, None] - off_y * dx[:, None])
    ray, at = ((aside <= bound) & (off_x * dx[:, None] + off_y * dy[:, None] >= -bound)).nonzero()
    off_x, off_y, dx, dy, sizes = off_x[ray, at], off_y[ray, at], dx[ray], dy[ray], sizes[at]
    away = np.empty(len(ray))
    for some, flat in ((sizes[:, 2] > 0, False), (sizes[:, 2] <= 0, True)):
        if flat and some.any():
            turned = world.angle[targets[at[some]]]
            away[some] = _to_boxes(off_x[some], off_y[some], dx[some], dy[some], sizes[some], turned)
        elif some.any():
            away[some] = _to_discs(off_x[some], off_y[some], dx[some], dy[some], sizes[some, 2])
    met = away < np.inf
    return ray[met], targets[at[met]], away[met]


def _to_discs(off_x: Floats, off_y: Floats, dx: Floats, dy: Floats, radius: Floats) -> Floats:
    """Return the nearest approach, then back along the ray by half the chord."""
    with np.errstate(all="ignore"):
        along, aside = off_x * dx + off_y * dy, off_x * dy - off_y * dx
        half_chord = np.sqrt(radius * radius - aside * aside)
        away: Floats = np.where(along + half_chord >= 0, np.maximum(along - half_chord, 0.0), np.inf)
        return away


def _to_boxes(off_x: Floats, off_y: Floats, dx: Floats, dy: Floats, sizes: Floats, turned: Floats) -> Floats:
    """Enter the last slab before leaving the first, in the frame of the box; `turned` in degrees."""
    cos, sin = cosd(turned), sind(turned)
    enters, ends = np.full(len(dx), -np.inf), np.full(len(dx), np.inf)
    with np.errstate(all="ignore"):
        for offset, direction, half in (
            (off_x * cos + off_y * sin, dx * cos + dy * sin, sizes[:, 0]),
            (off_y * cos - off_x * sin, dy * cos - dx * sin, sizes[:, 1]),
        ):
            one, other = (offset - half) / direction, (offset + half) / direction
            low, high = np.minimum(one, other), np.maximum(one, other)
            parallel = np.abs(direction) < 1e-12
            inside = np.abs(offset) <= half
            low = np.where(parallel, np.where(inside, -np.inf, np.inf), low)
            high = np.where(parallel, np.where(inside, np.inf, -np.inf), high)
            enters, ends = np.maximum(enters, low), np.minimum(ends, high)
    away: Floats = np.where((ends >= enters) & (ends >= 0), np.maximum(enters, 0.0), np.inf)
    return away


# a few rays, target by target: the same to the last bit


def shapes_of(world: World) -> rays.Shapes:
    """Return where things stand and what shape they have, as kernels take it."""
    parts = (world.x, world.y, world.angle, world.scale, world.kind, world.program.kind_tables.boxes)
    return rays.Shapes(*map(column, parts))


def _few_first_hits(world: World, rows: Rows, angle: Any, reach: Any, solid: Rows) -> Rows:
    angles, reaches = spread(angle, len(rows)).tolist(), spread(reach, len(rows)).tolist()
    shapes, targets = shapes_of(world), column(solid)
    # the matches of a rule often share one ray
    known: dict[tuple[int, float, float], int] = {}
    found: list[int] = []
    for ray in zip(rows.tolist(), angles, reaches, strict=True):
        if ray not in known:
            known[ray] = rays.first_hit(shapes, *ray, targets)
        found.append(known[ray])
    return np.array(found, dtype=np.int64)
