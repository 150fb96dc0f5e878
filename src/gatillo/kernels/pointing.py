"""What lies under a point."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import cosd, sind
from gatillo.kernels.plain import fabs, sqrt


def under(
    shapes: Any, wide: Any, high: Any, there: Any, shown: Any, x: float, y: float, slack: float, found: Any
) -> int:
    """Find the rows of the shown objects whose shape, made larger by `slack`, holds a point. Return how many, from the first on.

    `wide` and `high` are half width and height of the upright box about each, `there` says who is in the level; `found` takes
    the rows.
    """
    many = 0
    for row in range(len(wide)):
        dx, dy = x - shapes.x[row], y - shapes.y[row]
        if not (fabs(dx) <= wide[row] + slack and fabs(dy) <= high[row] + slack):
            continue
        if not there[row] or not shown[row]:
            continue
        kind, scale = shapes.kind[row], fabs(shapes.scale[row])
        radius = shapes.sizes[kind, 2] * scale
        if radius > 0:
            holds = sqrt(dx * dx + dy * dy) <= radius + slack
        else:
            cos, sin = cosd(shapes.angle[row]), sind(shapes.angle[row])
            across, along = fabs(dx * cos + dy * sin), fabs(dy * cos - dx * sin)
            holds = (
                across <= shapes.sizes[kind, 0] * scale + slack
                and along <= shapes.sizes[kind, 1] * scale + slack
            )
        if holds:
            found[many] = row
            many += 1
    return many
