"""Rays that meet discs and boxes, target by target."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import cosd, sind
from gatillo.kernels.plain import fabs, sqrt

INFINITE = float("inf")


class Shapes:
    """Where things stand and what shape they have: columns by row, and `sizes`, shape (kinds, 3): half width and height, radius."""

    def __init__(self, x: Any, y: Any, angle: Any, scale: Any, kind: Any, sizes: Any) -> None:
        self.x = x
        self.y = y
        self.angle = angle
        self.scale = scale
        self.kind = kind
        self.sizes = sizes


def first_hit(shapes: Any, row: int, angle: float, reach: float, targets: Any) -> int:
    """Return the row of the first target that a ray from the middle of `row`, in degrees, meets within a reach; -1 for none.

    Of two equally near ones it is the earlier among the targets. A ray does not meet the row it comes from.
    """
    dx, dy = cosd(angle), sind(angle)
    best, nearest = -1, INFINITE
    for k in range(len(targets)):
        target = targets[k]
        if target == row:
            continue
        away = _away(shapes, row, dx, dy, target)
        if away <= reach and away < nearest:
            best, nearest = target, away
    return best


def is_clear(shapes: Any, one: int, other: int, targets: Any) -> bool:
    """Return whether none of the targets, but for the two themselves, lies between the middles of two rows."""
    dx, dy = shapes.x[other] - shapes.x[one], shapes.y[other] - shapes.y[one]
    far = sqrt(dx * dx + dy * dy)
    safe = far if far > 0 else 1.0
    for k in range(len(targets)):
        target = targets[k]
        if target not in (one, other) and _away(shapes, one, dx / safe, dy / safe, target) < far:
            return False
    return True


def _away(shapes: Any, row: int, dx: float, dy: float, target: int) -> float:
    """Return how far along a ray from a row's middle, unit direction dx, dy, it meets a target; infinite where it does not."""
    off_x, off_y = shapes.x[target] - shapes.x[row], shapes.y[target] - shapes.y[row]
    scale, kind = fabs(shapes.scale[target]), shapes.kind[target]
    radius = shapes.sizes[kind, 2]
    if radius > 0:
        # the nearest approach, then back along the ray by half the chord
        aside = off_x * dy - off_y * dx
        room = (radius * scale) * (radius * scale) - aside * aside
        if room < 0:
            return INFINITE
        along, half_chord = off_x * dx + off_y * dy, sqrt(room)
        return max(along - half_chord, 0.0) if along + half_chord >= 0 else INFINITE
    bound = (shapes.sizes[kind, 0] + shapes.sizes[kind, 1]) * scale
    if fabs(off_x * dy - off_y * dx) > bound or off_x * dx + off_y * dy < -bound:
        # too far to the side, or behind
        return INFINITE
    # enter the last slab before leaving the first, in the frame of the box
    cos, sin = cosd(shapes.angle[target]), sind(shapes.angle[target])
    enters, ends = -INFINITE, INFINITE
    for side in range(2):
        offset = off_y * cos - off_x * sin if side else off_x * cos + off_y * sin
        direction = dy * cos - dx * sin if side else dx * cos + dy * sin
        half = shapes.sizes[kind, side] * scale
        if fabs(direction) < 1e-12:
            if fabs(offset) > half:
                return INFINITE
            continue
        first, second = (offset - half) / direction, (offset + half) / direction
        enters, ends = max(enters, min(first, second)), min(ends, max(first, second))
    return max(enters, 0.0) if ends >= enters and ends >= 0 else INFINITE
