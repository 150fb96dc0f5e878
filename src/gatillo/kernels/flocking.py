"""Steering a flock: what its members' urges add up to, and the velocity that comes of it."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces
from gatillo.kernels.elementary import atan2d
from gatillo.kernels.nearness import nearest
from gatillo.kernels.plain import sqrt

ONWARD = 0.5
"""Weight of the urge to go on at top speed."""
REACTION = 4.0
"""An urge of weight 1 alone changes the velocity to what it wants by this part of the difference in a second."""
SLOW = 1.0
"""Below this speed, in units a second, an object keeps facing as it did."""
TERMS = (ONWARD, REACTION, SLOW)
MOST_PAIRS = 4000
"""Among more pairs than these, the near ones are found quicker by trees."""


def flock(columns: Any, settings: Any, dt: float) -> int:
    """Steer those who flock: keep apart, go the others' way, gather, go on. Gives -1, with nothing done, where there are too many.

    Settings: the range and the weight of keeping apart, of going the same way and of gathering, the top speed and the greatest
    acceleration. Gives how many face the way they go, written into `found`, if any of them has turned.
    """
    rows, others = settings.rows, settings.others
    if len(rows) * len(others) > MOST_PAIRS:
        return -1
    far, pairs = reach(settings), 0
    _begin(settings)
    for i in range(len(rows)):
        row = rows[i]
        for j in range(len(others)):
            other = others[j]
            dx, dy = columns.x[other] - columns.x[row], columns.y[other] - columns.y[row]
            if other == row or not (-far <= dx <= far and -far <= dy <= far):
                continue
            away = sqrt(dx * dx + dy * dy)
            if away <= far:
                pairs += 1
                _count(columns, settings, i, row, other, dx, dy, away)
    return _steer(columns, settings, pairs, dt)


def flock_in_pairs(columns: Any, settings: Any, at: Any, near: Any, dt: float) -> int:
    """Steer those who flock as `flock`, given all pairs that are near: the place of one among `rows`, and the row of the other."""
    rows = settings.rows
    _begin(settings)
    for k in range(len(at)):
        i, other = at[k], near[k]
        row = rows[i]
        dx, dy = columns.x[other] - columns.x[row], columns.y[other] - columns.y[row]
        _count(columns, settings, i, row, other, dx, dy, sqrt(dx * dx + dy * dy))
    return _steer(columns, settings, len(at), dt)


def reach(settings: Any) -> float:
    """Return how far a flock looks: the widest range of any of its members."""
    far, rows = 0.0, settings.rows
    for i in range(len(rows)):
        row = rows[i]
        far = max(far, settings.n0[row], settings.n2[row], settings.n4[row])
    return far


def _begin(settings: Any) -> None:
    """Clear the sums, and note in `c` who shares its ranges with all: then they may be 0, else each looks a little way."""
    rows, alike = settings.rows, settings.c
    ranges = 0
    for i in range(len(rows)):
        row, first = rows[i], rows[0]
        # a bit for each of the ranges that is not the same for all
        ranges |= (settings.n0[row] != settings.n0[first]) * 1
        ranges |= (settings.n2[row] != settings.n2[first]) * 2
        ranges |= (settings.n4[row] != settings.n4[first]) * 4
        for k in range(8):
            settings.sums[k, i] = 0.0
    for i in range(len(rows)):
        alike[i] = ranges


def _count(
    columns: Any, settings: Any, i: int, row: int, other: int, dx: float, dy: float, away: float
) -> None:
    """Add a neighbour to the sums; it counts only within the range of each urge, and the more the nearer it is."""
    sums, ranges = settings.sums, int(settings.c[i])
    far = max(settings.n0[row], 1e-9) if ranges & 1 else settings.n0[row]
    away = max(away, 1e-9)
    if away < far:
        count = (1.0 - away / far) / away
        sums[0, i] = sums[0, i] + -count * dx
        sums[1, i] = sums[1, i] + -count * dy
    far = max(settings.n2[row], 1e-9) if ranges & 2 else settings.n2[row]
    if away < far:
        count = 1.0 - away / far
        sums[2, i] = sums[2, i] + count
        sums[3, i] = sums[3, i] + count * columns.vx[other]
        sums[4, i] = sums[4, i] + count * columns.vy[other]
    far = max(settings.n4[row], 1e-9) if ranges & 4 else settings.n4[row]
    if away < far:
        count = 1.0 - away / far
        sums[5, i] = sums[5, i] + count
        sums[6, i] = sums[6, i] + count * dx
        sums[7, i] = sums[7, i] + count * dy


def _steer(columns: Any, settings: Any, pairs: int, dt: float) -> int:
    """Give each the velocity that comes of its urges."""
    rows, sums, found = settings.rows, settings.sums, settings.found
    apart_weight, aligned_weight, together_weight = settings.n1, settings.n3, settings.n5
    together, speed, acceleration = settings.n4, settings.n6, settings.n7
    new_x, new_y = settings.a, settings.b
    n = len(rows)
    for i in range(n):
        row = rows[i]
        vx, vy = columns.vx[row], columns.vy[row]
        top, most = max(speed[row], 0.0), max(acceleration[row], 0.0)
        wish_x, wish_y, wishes = columns.urges[0, row], columns.urges[1, row], columns.urges[2, row]
        size = sqrt(vx * vx + vy * vy)
        strength = ONWARD * min(size / SLOW, 1.0)
        part = strength / size if size > 1e-12 else 0.0
        wish_x, wish_y, wishes = wish_x + part * vx, wish_y + part * vy, wishes + strength
        if pairs:
            x, y = sums[0, i], sums[1, i]
            size = sqrt(x * x + y * y)
            strength = apart_weight[row] * min(size / 1.0, 1.0)
            part = strength / size if size > 1e-12 else 0.0
            wish_x, wish_y, wishes = wish_x + part * x, wish_y + part * y, wishes + strength
            strength = aligned_weight[row] * min(sums[2, i], 1.0)
            part = strength / (sums[2, i] * max(top, 1e-9)) if sums[2, i] > 0 else 0.0
            wish_x, wish_y, wishes = wish_x + part * sums[3, i], wish_y + part * sums[4, i], wishes + strength
            close = max(sums[5, i], 1.0)
            x, y = sums[6, i] / close, sums[7, i] / close
            size = sqrt(x * x + y * y)
            strength = together_weight[row] * min(size / (max(together[row], 1e-9) / 2), 1.0)
            part = strength / size if size > 1e-12 else 0.0
            wish_x, wish_y, wishes = wish_x + part * x, wish_y + part * y, wishes + strength
        x, y = REACTION * (wish_x * top - wishes * vx), REACTION * (wish_y * top - wishes * vy)
        part = min(1.0, most / max(sqrt(x * x + y * y), 1e-12))
        x, y = vx + x * part * dt, vy + y * part * dt
        part = min(1.0, top / max(sqrt(x * x + y * y), 1e-12))
        new_x[i], new_y[i] = x * part, y * part
    many, turned = 0, False
    for i in range(n):
        row = rows[i]
        vx, vy = new_x[i], new_y[i]
        columns.vx[row], columns.vy[row] = vx, vy
        columns.driven[row] = 2
        if settings.w0 == 0 and sqrt(vx * vx + vy * vy) > SLOW:
            found[many] = row
            many += 1
            if faces(columns, row, atan2d(vy, vx)):
                turned = True
    return many if turned else 0


def be_drawn(columns: Any, settings: Any, dt: float) -> int:
    """Wish to go to the nearest of the others within a range. Gives 0; -1, with nothing done, where there are too many."""
    return _toward(columns, settings, 1.0)


def keep_away(columns: Any, settings: Any, dt: float) -> int:
    """Wish to go away from the nearest of the others within a range, the more the nearer it is. Gives 0 or -1, as `be_drawn`."""
    return _toward(columns, settings, -1.0)


def _toward(columns: Any, settings: Any, way: float) -> int:
    rows, radius, weight, found = settings.rows, settings.n0, settings.n1, settings.found
    if len(rows) * len(settings.others) > MOST_PAIRS:
        return -1
    nearest(columns.x, columns.y, rows, settings.others, found)
    for i in range(len(rows)):
        row, other = rows[i], found[i]
        if other < 0:
            continue
        dx, dy = way * (columns.x[other] - columns.x[row]), way * (columns.y[other] - columns.y[row])
        away, reach = sqrt(dx * dx + dy * dy), radius[row]
        if not (0.0 < away < reach):
            continue
        strength = max(reach / max(away, 1e-6) - 1.0, 0.0) if way < 0.0 else 1.0
        wish = weight[row] * strength
        part = wish / away
        columns.urges[0, row] = columns.urges[0, row] + part * dx
        columns.urges[1, row] = columns.urges[1, row] + part * dy
        columns.urges[2, row] = columns.urges[2, row] + wish
    return 0
