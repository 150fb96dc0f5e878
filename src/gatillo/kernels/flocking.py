"""Steering a flock: what its members' urges add up to, and the velocity that comes of it."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.plain import sqrt


def steer(
    at: Any,
    others: Any,
    place: Any,
    ranges: Any,
    weights: Any,
    together: Any,
    urged: Any,
    top: Any,
    most: Any,
    limits: Any,
    sums: Any,
    new: Any,
) -> None:
    """Work out the new velocities of a flock.

    `at` has the member of each pair of neighbours; `others` x, y, vx and vy of the other one, shape (4, pairs). `place` has
    the members' x, y, vx and vy, shape (4, n). `ranges` and `weights` are those of keeping apart, going the same way and
    gathering, shape (3, n); `together` is the range of gathering as it was set. `urged` has what other behaviours wish for: x,
    y and weight, shape (3, n). `top` is the greatest speed, `most` the greatest acceleration. `limits` are the time of a tick,
    the speed from which going on counts fully, its weight, and the reaction. `sums`, shape (8, n), must be zeros; `new` takes
    the velocities, shape (2, n).
    """
    dt, slow, onward, reaction = limits[0], limits[1], limits[2], limits[3]
    pairs = len(at)
    for k in range(pairs):
        i = at[k]
        dx, dy = others[0, k] - place[0, i], others[1, k] - place[1, i]
        away = max(sqrt(dx * dx + dy * dy), 1e-9)
        # a neighbour counts only within the range of each urge
        if away < ranges[0, i]:
            count = (1.0 - away / ranges[0, i]) / away
            sums[0, i] = sums[0, i] + -count * dx
            sums[1, i] = sums[1, i] + -count * dy
        if away < ranges[1, i]:
            count = 1.0 - away / ranges[1, i]
            sums[2, i] = sums[2, i] + count
            sums[3, i] = sums[3, i] + count * others[2, k]
            sums[4, i] = sums[4, i] + count * others[3, k]
        if away < ranges[2, i]:
            count = 1.0 - away / ranges[2, i]
            sums[5, i] = sums[5, i] + count
            sums[6, i] = sums[6, i] + count * dx
            sums[7, i] = sums[7, i] + count * dy
    for i in range(len(top)):
        vx, vy = place[2, i], place[3, i]
        wish_x, wish_y, wishes = urged[0, i], urged[1, i], urged[2, i]
        size = sqrt(vx * vx + vy * vy)
        strength = onward * min(size / slow, 1.0)
        part = strength / size if size > 1e-12 else 0.0
        wish_x, wish_y, wishes = wish_x + part * vx, wish_y + part * vy, wishes + strength
        if pairs:
            x, y = sums[0, i], sums[1, i]
            size = sqrt(x * x + y * y)
            strength = weights[0, i] * min(size / 1.0, 1.0)
            part = strength / size if size > 1e-12 else 0.0
            wish_x, wish_y, wishes = wish_x + part * x, wish_y + part * y, wishes + strength
            strength = weights[1, i] * min(sums[2, i], 1.0)
            part = strength / (sums[2, i] * max(top[i], 1e-9)) if sums[2, i] > 0 else 0.0
            wish_x, wish_y, wishes = wish_x + part * sums[3, i], wish_y + part * sums[4, i], wishes + strength
            close = max(sums[5, i], 1.0)
            x, y = sums[6, i] / close, sums[7, i] / close
            size = sqrt(x * x + y * y)
            strength = weights[2, i] * min(size / (max(together[i], 1e-9) / 2), 1.0)
            part = strength / size if size > 1e-12 else 0.0
            wish_x, wish_y, wishes = wish_x + part * x, wish_y + part * y, wishes + strength
        x, y = reaction * (wish_x * top[i] - wishes * vx), reaction * (wish_y * top[i] - wishes * vy)
        part = min(1.0, most[i] / max(sqrt(x * x + y * y), 1e-12))
        x, y = vx + x * part * dt, vy + y * part * dt
        part = min(1.0, top[i] / max(sqrt(x * x + y * y), 1e-12))
        new[0, i], new[1, i] = x * part, y * part
