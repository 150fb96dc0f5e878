"""Straight flight of a few things, and whether the ways of solid ones can cross."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import exp, log1p
from gatillo.kernels.plain import fabs
from gatillo.kernels.shapes import can_close

FARTHEST = 1e12
"""What flies off stops here, in level units."""
BOUND = (FARTHEST,)


MOVABLE = 2
BOTH = 2
AT_ONCE = 1e5
"""The rate (1/s) at which all of a speed is lost."""
TENTHS = 10.0
"""Friction says what is lost in a tenth of a second."""
RATES = (AT_ONCE, TENTHS)


def drift(
    scene: Any,
    solid: Any,
    driven: Any,
    guided: Any,
    held: Any,
    pulls: Any,
    way: Any,
    found: Any,
    physical: bool,
    most: int,
    dt: float,
    room: float,
) -> int:
    """Take all that fly as far as they come in a tick, where nothing sleeps and no ways of solid things can cross.

    Return how many rows fly, which are written into `found`; -1, with nothing changed, where the tick must be looked at more
    closely, or more than `most` pairs would have to be. `driven` says whose velocity a behaviour has given (2 for the whole of
    it), `guided` who is moved otherwise, both by row or empty; `held` are the rows that something carries. `pulls` and `way`, by
    row, and `found` are room to work in. Without `physical` there is neither gravity nor friction.
    """
    many = 0
    for row in range(len(scene.x)):
        way[row] = pulls[row] = 0.0
        if physical:
            if scene.asleep[row]:
                return -1
            if not (len(driven) and driven[row] == BOTH):
                pulls[row] = scene.gravity[row]
    for k in range(len(held)):
        pulls[held[k]] = 0.0
    for row in range(len(scene.x)):
        if (scene.vx[row] != 0.0 or scene.vy[row] != 0.0 or pulls[row] != 0.0) and scene.alive[row]:
            if len(guided) and guided[row]:
                continue
            found[many] = row
            many += 1
            way[row] = (fabs(scene.vx[row]) + fabs(scene.vy[row])) * dt
            if physical:
                way[row] = way[row] + fabs(pulls[row]) * (dt * dt / 2)
    if len(solid) > 1:
        if many * len(solid) > most:
            return -1
        for k in range(many):
            row = found[k]
            if scene.contact[row] < MOVABLE:
                continue
            wide, high = scene.wide[row] + way[row] + room, scene.high[row] + way[row] + room
            for n in range(len(solid)):
                other = solid[n]
                if (
                    other != row
                    and fabs(scene.x[other] - scene.x[row]) <= wide + scene.wide[other] + way[other]
                    and fabs(scene.y[other] - scene.y[row]) <= high + scene.high[other] + way[other]
                    and can_close(scene, row, other, way[row] + way[other], not physical, dt)
                ):
                    return -1
    for k in range(many):
        row = found[k]
        vx, vy = scene.vx[row], scene.vy[row]
        reach, drop = dt, dt * dt / 2
        if physical:
            scene.grounded[row] = 0
            left = 1.0
            slides = scene.friction[row] > 0.0 and scene.gravity[row] == 0.0 and scene.contact[row] == MOVABLE
            if slides and not (len(driven) and driven[row] != 0):
                rate = AT_ONCE if scene.friction[row] >= 1.0 else -log1p(-scene.friction[row])
                rate = TENTHS * rate
                left = exp(-rate * dt)
                if rate > 1e-9:
                    reach = (1.0 - left) / rate
                    drop = (dt - reach) / rate
            scene.vy[row] = vy * left - pulls[row] * reach
            scene.vx[row] = vx * left
        dy = vy * reach
        if physical:
            dy = dy - pulls[row] * drop
        scene.x[row] = min(max(scene.x[row] + vx * reach, -FARTHEST), FARTHEST)
        scene.y[row] = min(max(scene.y[row] + dy, -FARTHEST), FARTHEST)
        scene.moved[row] = 1
    return many


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
