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


def meeting(
    x: Any,
    y: Any,
    angle: Any,
    scale: Any,
    kind: Any,
    sizes: Any,
    senses: Any,
    number: Any,
    one: Any,
    other: Any,
    most: float,
    met: Any,
) -> int:
    """Find which pairs of rows are of kinds that sense each other, and no farther apart than `most`. Return how many.

    `sizes`, shape (kinds, 3), are half width, half height and radius at scale 1; `senses`, shape (kinds, kinds), says which
    sense each other. `met` takes the pairs as ids, the lower in the upper half.
    """
    many = 0
    for k in range(len(one)):
        i, j = one[k], other[k]
        first, second = kind[i], kind[j]
        if not senses[first, second]:
            continue
        dx, dy = x[j] - x[i], y[j] - y[i]
        size, its_size = fabs(scale[i]), fabs(scale[j])
        radius, its_radius = sizes[first, 2], sizes[second, 2]
        if radius > 0 and its_radius > 0:
            gap = sqrt(dx * dx + dy * dy) - radius * size - its_radius * its_size
        elif radius > 0:
            gap, _, _ = disc_and_box(
                radius * size,
                sizes[second, 0] * its_size,
                sizes[second, 1] * its_size,
                cosd(angle[j]),
                sind(angle[j]),
                dx,
                dy,
            )
        elif its_radius > 0:
            gap, _, _ = disc_and_box(
                its_radius * its_size,
                sizes[first, 0] * size,
                sizes[first, 1] * size,
                cosd(angle[i]),
                sind(angle[i]),
                -dx,
                -dy,
            )
        else:
            gap, _, _ = two_boxes(
                sizes[first, 0] * size,
                sizes[first, 1] * size,
                sizes[second, 0] * its_size,
                sizes[second, 1] * its_size,
                angle[i],
                angle[j],
                dx,
                dy,
            )
        if gap <= most:
            a, b = number[i], number[j]
            met[many] = (a << 32) | b if a < b else (b << 32) | a
            many += 1
    return many
