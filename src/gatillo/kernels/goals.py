"""Going to where a noise came from and back, one object after the other."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces
from gatillo.kernels.elementary import atan2d
from gatillo.kernels.plain import sqrt

GOING, LOOKING, RETURNING, HOME = 1, 2, 3, 4
STAGES = (GOING, LOOKING, RETURNING, HOME)
BOTH = 2


def look_into(columns: Any, settings: Any, dt: float) -> int:
    """Take those who look into a noise through a tick in which nobody hears one, comes to it, or is back where it was.

    Gives how many go, written into `found`, if any of them has turned; -1, with nothing done, in other ticks.
    """
    rows, found = settings.rows, settings.found
    speed, gap = settings.n1, settings.n2
    stage, goal_x, goal_y, home_x, home_y = settings.m0, settings.m1, settings.m2, settings.m3, settings.m4
    looks_on = settings.m6
    n = len(rows)
    if settings.heard:
        return -1
    some = 0
    for i in range(n):
        row = rows[i]
        if stage[row] == HOME:
            return -1
        if stage[row] == 0.0:
            continue
        some = 1
        x, y, now = columns.x[row], columns.y[row], stage[row]
        pace = max(speed[row], 1e-12)
        if now != LOOKING:
            to_x, to_y = (goal_x[row], goal_y[row]) if now == GOING else (home_x[row], home_y[row])
            dx, dy = to_x - x, to_y - y
            away = sqrt(dx * dx + dy * dy)
            stops = max(gap[row], 0.0) if now == GOING else 0.0
            way = max(away - stops, 0.0)
            step = min(pace * dt, way)
            if way - step <= 1e-9:
                return -1
        elif looks_on[row] - min(looks_on[row], dt) <= 1e-9:
            return -1
    if not some:
        return 0
    many, turned = 0, 0
    for i in range(n):
        row = rows[i]
        if stage[row] == 0.0:
            continue
        columns.driven[row] = BOTH
        now = stage[row]
        if now == LOOKING:
            looks_on[row] = looks_on[row] - min(looks_on[row], dt)
            columns.vx[row] = columns.vy[row] = 0.0
            continue
        x, y = columns.x[row], columns.y[row]
        pace = max(speed[row], 1e-12)
        to_x, to_y = (goal_x[row], goal_y[row]) if now == GOING else (home_x[row], home_y[row])
        dx, dy = to_x - x, to_y - y
        away = sqrt(dx * dx + dy * dy)
        stops = max(gap[row], 0.0) if now == GOING else 0.0
        step = min(pace * dt, max(away - stops, 0.0))
        part = step / away if away > 0 else 0.0
        columns.vx[row] = (x + dx * part - x) / dt
        columns.vy[row] = (y + dy * part - y) / dt
        if step > 0 and (dx != 0.0 or dy != 0.0):
            found[many] = row
            many += 1
            if faces(columns, row, atan2d(dy, dx)):
                turned = 1
    return many if turned else 0
