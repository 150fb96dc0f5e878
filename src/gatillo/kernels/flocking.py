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
    rows, others, sums, found = settings.rows, settings.others, settings.sums, settings.found
    apart, apart_weight, aligned, aligned_weight = settings.n0, settings.n1, settings.n2, settings.n3
    together, together_weight, speed, acceleration = settings.n4, settings.n5, settings.n6, settings.n7
    n = len(rows)
    if n * len(others) > MOST_PAIRS:
        return -1
    # where all look equally far a range may be 0; else each looks a little way
    first, reach = rows[0], 0.0
    alike_apart, alike_aligned, alike_together = True, True, True
    for i in range(n):
        row = rows[i]
        reach = max(reach, apart[row], aligned[row], together[row])
        alike_apart = alike_apart and apart[row] == apart[first]
        alike_aligned = alike_aligned and aligned[row] == aligned[first]
        alike_together = alike_together and together[row] == together[first]
    pairs = 0
    for i in range(n):
        row = rows[i]
        far_apart = apart[row] if alike_apart else max(apart[row], 1e-9)
        far_aligned = aligned[row] if alike_aligned else max(aligned[row], 1e-9)
        far_together = together[row] if alike_together else max(together[row], 1e-9)
        for k in range(8):
            sums[k, i] = 0.0
        for j in range(len(others)):
            other = others[j]
            if other == row:
                continue
            dx, dy = columns.x[other] - columns.x[row], columns.y[other] - columns.y[row]
            if not (-reach <= dx <= reach and -reach <= dy <= reach):
                continue
            away = sqrt(dx * dx + dy * dy)
            if away > reach:
                continue
            pairs += 1
            away = max(away, 1e-9)
            # a neighbour counts only within the range of each urge
            if away < far_apart:
                count = (1.0 - away / far_apart) / away
                sums[0, i] = sums[0, i] + -count * dx
                sums[1, i] = sums[1, i] + -count * dy
            if away < far_aligned:
                count = 1.0 - away / far_aligned
                sums[2, i] = sums[2, i] + count
                sums[3, i] = sums[3, i] + count * columns.vx[other]
                sums[4, i] = sums[4, i] + count * columns.vy[other]
            if away < far_together:
                count = 1.0 - away / far_together
                sums[5, i] = sums[5, i] + count
                sums[6, i] = sums[6, i] + count * dx
                sums[7, i] = sums[7, i] + count * dy
    new_x, new_y = settings.a, settings.b
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
