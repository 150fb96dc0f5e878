"""Going from one point of an area to the next, for those who come to none in this tick."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces
from gatillo.kernels.elementary import atan2d, length


def wander(columns: Any, settings: Any, dt: float) -> int:
    """Rest, or go on towards a point. Gives -1, with nothing done, where somebody has none yet or comes to it in this tick."""
    rows, a, b, c = settings.rows, settings.a, settings.b, settings.c
    speed, nth, goal_x, goal_y, rest = settings.n0, settings.m0, settings.m1, settings.m2, settings.m3
    n = len(rows)
    for i in range(n):
        row = rows[i]
        fast = max(speed[row], 1e-9)
        rests = min(rest[row], dt)
        left = dt - rests
        dx, dy = goal_x[row] - columns.x[row], goal_y[row] - columns.y[row]
        away = length(dx, dy)
        if nth[row] == 0 or (left > 1e-12 and away / fast <= left + 1e-9):
            return -1
        step = min(away / fast, left)
        part = step * fast / away if away > 0 else 0.0
        x, y = columns.x[row] + dx * part, columns.y[row] + dy * part
        a[i], b[i] = (x - columns.x[row]) / dt, (y - columns.y[row]) / dt
        c[i] = rest[row] - rests
    many = 0
    for i in range(n):
        row = rows[i]
        rest[row] = c[i]
        columns.vx[row], columns.vy[row] = a[i], b[i]
        columns.driven[row] = 2
        if settings.w0 == 0 and (a[i] != 0.0 or b[i] != 0.0):
            settings.found[many] = row
            many += 1
    return _turned(columns, settings, many)


def _turned(columns: Any, settings: Any, many: int) -> int:
    """Let those in `found` face the way they go. Gives how many, if any of them has turned."""
    turned = 0
    for i in range(many):
        row = settings.found[i]
        if faces(columns, row, atan2d(columns.vy[row], columns.vx[row])):
            turned = 1
    return many if turned else 0
