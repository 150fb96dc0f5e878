"""Straight flight of a few things, and whether the ways of solid ones can cross."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.plain import fabs

FARTHEST = 1e12
"""What flies off stops here, in level units."""
BOUND = (FARTHEST,)


def can_cross(
    x: Any,
    y: Any,
    vx: Any,
    vy: Any,
    wide: Any,
    high: Any,
    contact: Any,
    rows: Any,
    falls: Any,
    solid: Any,
    way: Any,
    dt: float,
    room: float,
) -> bool:
    """Return whether the boxes about the ways of things that fly can meet those of anything solid.

    `x`, `y`, `vx`, `vy`, `wide` and `high` (half width and height of the box about each) are columns by row. `rows` fly; only
    those whose `contact` is 2 or more meet anything. `falls` is the pull on each of them, or empty. `room` is added to each
    way. `way`, by row, must be zeros.
    """
    for i in range(len(rows)):
        row = rows[i]
        fall = fabs(falls[i]) * (dt * dt / 2) if len(falls) else 0.0
        way[row] = (fabs(vx[row]) + fabs(vy[row])) * dt + fall
    for i in range(len(rows)):
        row = rows[i]
        if contact[row] < 2:
            continue
        own_wide, own_high = wide[row] + way[row] + room, high[row] + way[row] + room
        for j in range(len(solid)):
            other = solid[j]
            if (
                other != row
                and fabs(x[other] - x[row]) <= own_wide + wide[other] + way[other]
                and fabs(y[other] - y[row]) <= own_high + high[other] + way[other]
            ):
                return True
    return False


def fly(x: Any, y: Any, vx: Any, vy: Any, rows: Any, falls: Any, dt: float) -> None:
    """Fly without drag for a time; `falls` is the pull on each, or empty."""
    drop = dt * dt / 2
    for i in range(len(rows)):
        row = rows[i]
        dy = vy[row] * dt
        if len(falls):
            dy = dy - falls[i] * drop
            vy[row] = vy[row] - falls[i] * dt
        x[row] = min(max(x[row] + vx[row] * dt, -FARTHEST), FARTHEST)
        y[row] = min(max(y[row] + dy, -FARTHEST), FARTHEST)
