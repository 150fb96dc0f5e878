"""How far apart two shapes are, and along which normal: discs and boxes at any angle."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import cosd, sind
from gatillo.kernels.plain import fabs, sqrt

INFINITE = float("inf")


def disc_and_box(
    radius: float, wide: float, high: float, cos: float, sin: float, dx: float, dy: float
) -> Any:
    """Return the gap between a disc and a box, and the unit normal x, y from the disc to the box.

    `wide` and `high` are half the box's size, `cos` and `sin` of its angle; its middle lies dx, dy from the disc's.
    """
    across, along = dx * cos + dy * sin, dy * cos - dx * sin
    out_x = across - min(max(across, -wide), wide)
    out_y = along - min(max(along, -high), high)
    outside = sqrt(out_x * out_x + out_y * out_y)
    gap = outside - radius
    if outside == 0:
        # a middle inside the box leaves by its nearest side
        by_x, by_y = wide - fabs(across), high - fabs(along)
        gap = -min(by_x, by_y) - radius
        if by_x <= by_y:
            out_x, out_y = (-1.0 if across < 0 else 1.0), 0.0
        else:
            out_x, out_y = 0.0, (-1.0 if along < 0 else 1.0)
        outside = 1.0
    nx, ny = out_x / outside, out_y / outside
    return gap, nx * cos - ny * sin, nx * sin + ny * cos


def two_boxes(
    wide: float,
    high: float,
    its_wide: float,
    its_high: float,
    angle: float,
    its_angle: float,
    dx: float,
    dy: float,
) -> Any:
    """Return the gap between two boxes along the axis on which it is widest, and the unit normal x, y from the first to the other.

    Sizes are halves, angles in degrees; the other's middle lies dx, dy from the first one's.
    """
    cos, sin = fabs(cosd(its_angle - angle)), fabs(sind(its_angle - angle))
    best, best_x, best_y = -INFINITE, 1.0, 0.0
    for box in range(2):
        axis_x, axis_y = cosd(its_angle if box else angle), sind(its_angle if box else angle)
        own_wide, own_high = (its_wide, its_high) if box else (wide, high)
        far_wide, far_high = (wide, high) if box else (its_wide, its_high)
        for quarter in range(2):
            offset = dx * axis_x + dy * axis_y
            if quarter:
                gap = fabs(offset) - own_high - far_wide * sin - far_high * cos
            else:
                gap = fabs(offset) - own_wide - far_wide * cos - far_high * sin
            if gap > best:
                side = -1.0 if offset < 0 else 1.0
                best, best_x, best_y = gap, axis_x * side, axis_y * side
            axis_x, axis_y = -axis_y, axis_x
    return best, best_x, best_y


class Scene:
    """Where things stand, what shape they have, and which kinds sense each other.

    `x`, `y`, `angle`, `scale`, `kind`, `number` (the id), `wide` and `high` (half width and height of the upright box about each)
    and `moved` are columns by row; `sizes`, shape (kinds, 3), are half width, half height and radius at scale 1; `senses` has
    shape (kinds, kinds).
    """

    def __init__(
        self,
        x: Any,
        y: Any,
        angle: Any,
        scale: Any,
        kind: Any,
        number: Any,
        wide: Any,
        high: Any,
        moved: Any,
        sizes: Any,
        senses: Any,
    ) -> None:
        self.x, self.y, self.angle, self.scale = x, y, angle, scale
        self.kind, self.number, self.wide, self.high, self.moved = kind, number, wide, high, moved
        self.sizes, self.senses = sizes, senses


def meeting(scene: Any, one: Any, other: Any, most: float, met: Any) -> int:
    """Find which pairs of rows are of kinds that sense each other, and no farther apart than `most`. Return how many.

    `met` takes the pairs as ids, the lower in the upper half.
    """
    many = 0
    for k in range(len(one)):
        i, j = one[k], other[k]
        if scene.senses[scene.kind[i], scene.kind[j]] and _gap(scene, i, j) <= most:
            met[many] = _code(scene.number[i], scene.number[j])
            many += 1
    return many


def meeting_among(scene: Any, rows: Any, most: float, met: Any) -> int:
    """Find the pairs of `meeting` among some rows, of which the first has moved; a pair may come twice. Return how many."""
    many = 0
    for k in range(len(rows)):
        i = rows[k]
        if not scene.moved[i]:
            continue
        x, y, wide, high = scene.x[i], scene.y[i], scene.wide[i] + most, scene.high[i] + most
        for n in range(len(rows)):
            j = rows[n]
            if (
                i != j
                and fabs(scene.x[j] - x) <= scene.wide[j] + wide
                and fabs(scene.y[j] - y) <= scene.high[j] + high
                and scene.senses[scene.kind[i], scene.kind[j]]
                and _gap(scene, i, j) <= most
            ):
                met[many] = _code(scene.number[i], scene.number[j])
                many += 1
    return many


def _code(one: int, other: int) -> int:
    return (one << 32) | other if one < other else (other << 32) | one


def _gap(scene: Any, i: int, j: int) -> Any:
    """Return the gap between the shapes of two rows."""
    first, second = scene.kind[i], scene.kind[j]
    dx, dy = scene.x[j] - scene.x[i], scene.y[j] - scene.y[i]
    size, its_size = fabs(scene.scale[i]), fabs(scene.scale[j])
    wide, high, radius = (
        scene.sizes[first, 0] * size,
        scene.sizes[first, 1] * size,
        scene.sizes[first, 2] * size,
    )
    its_wide, its_high = scene.sizes[second, 0] * its_size, scene.sizes[second, 1] * its_size
    its_radius = scene.sizes[second, 2] * its_size
    if scene.sizes[first, 2] > 0 and scene.sizes[second, 2] > 0:
        return sqrt(dx * dx + dy * dy) - radius - its_radius
    if scene.sizes[first, 2] > 0:
        cos, sin = cosd(scene.angle[j]), sind(scene.angle[j])
        gap, _, _ = disc_and_box(radius, its_wide, its_high, cos, sin, dx, dy)
    elif scene.sizes[second, 2] > 0:
        cos, sin = cosd(scene.angle[i]), sind(scene.angle[i])
        gap, _, _ = disc_and_box(its_radius, wide, high, cos, sin, -dx, -dy)
    else:
        gap, _, _ = two_boxes(wide, high, its_wide, its_high, scene.angle[i], scene.angle[j], dx, dy)
    return gap
