"""Walking routes from one tick to the next, for those who come to no stop in this one."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces as turns_to
from gatillo.kernels.elementary import atan2d
from gatillo.kernels.plain import sqrt

WALKS, ENDS = 1.0, 2.0
TOO_SLOW = 1e-12


def keep_walking(columns: Any, settings: Any, dt: float) -> int:
    """Go on along a route at a speed. Gives 0; -1, with nothing done, where somebody sets out in this tick."""
    return _keep_walking(columns.walk, settings, 0)


def keep_riding(columns: Any, settings: Any, dt: float) -> int:
    """Go on along a route with a time for each leg. Gives 0; -1, with nothing done, where somebody sets out in this tick."""
    return _keep_walking(columns.walk, settings, 1)


def _keep_walking(walk: Any, settings: Any, timed: int) -> int:
    rows, number, route, sent = settings.rows, settings.w0, walk.route, walk.sent
    for i in range(len(rows)):
        row = rows[i]
        if sent[row] == 0 and (route[row] != number or walk.going[row] == 0):
            return -1
    how = settings.w2 if timed else settings.w1
    # its options and `routes.HOWS` stand in another order
    how = 1 - how if how < 2 else how
    for i in range(len(rows)):
        row = rows[i]
        if sent[row] == 0:
            walk.speed[row] = 0.0 if timed else settings.n0[row]
            walk.leg_time[row] = max(settings.n0[row], 1e-6) if timed else 0.0
            walk.how[row] = how
            walk.easing[row] = settings.w1 if timed else 0
            walk.faces[row] = settings.w3 if timed else 1 - settings.w2
    return 0


def walk_on(columns: Any, walk: Any, dt: float) -> int:
    """Take all who walk as far as they come in a tick.

    Gives how many have turned, written into `found`; -1, with nothing done, where somebody ends, stands switched off, rides by time,
    is on a leg with a time, a speed or an easing of its own, or comes to a stop.
    """
    many, n = 0, len(walk.going)
    for row in range(n):
        if walk.going[row] == 0 or not walk.alive[row]:
            continue
        if walk.going[row] == ENDS:
            return -1
        if walk.going[row] != WALKS or walk.busy[row] != 0:
            continue
        if walk.leg_time[row] > 0 or (not walk.on[row] and walk.sent[row] != 1):
            return -1
        number = int(walk.route[row])
        if walk.first[number] == walk.first[number + 1]:
            return -1
        before = walk.first[number] + int(walk.left[row]) - 1
        if walk.left[row] > 0 and (
            walk.stops[before, 3] > 0 or walk.stops[before, 4] > 0 or walk.stops[before, 5] >= 0
        ):
            return -1
        rests = min(walk.rest[row], dt)
        left = dt - rests
        vx, vy = 0.0, 0.0
        if left > 1e-12:
            at = walk.first[number] + int(walk.stop[row])
            dx, dy = walk.stops[at, 0] - columns.x[row], walk.stops[at, 1] - columns.y[row]
            away = sqrt(dx * dx + dy * dy)
            need = away / max(walk.speed[row], TOO_SLOW) if away > 0 else 0.0
            if need <= left + 1e-9:
                return -1
            part = min(need, left) / need
            x, y = columns.x[row] + dx * part, columns.y[row] + dy * part
            vx, vy = (x - columns.x[row]) / dt, (y - columns.y[row]) / dt
        walk.rows[many], walk.vx[many], walk.vy[many] = row, vx, vy
        many += 1
    walk.many = many
    for i in range(many):
        row = walk.rows[i]
        rests = min(walk.rest[row], dt)
        walk.rest[row] = walk.rest[row] - rests
        if dt - rests > 1e-12:
            # it goes on for all that is left of the tick
            walk.gone[row] = walk.gone[row] + (dt - rests)
    return walk_again(columns, walk)


def walk_again(columns: Any, walk: Any) -> int:
    """Give those who walk the velocities of this tick. Gives how many have turned, written into `found`."""
    for i in range(walk.many):
        row = walk.rows[i]
        columns.vx[row], columns.vy[row] = walk.vx[i], walk.vy[i]
        columns.driven[row] = 2
    found = 0
    for number in range(len(walk.first) - 1):
        # those on one route count as turned together
        begins, turned = found, False
        for i in range(walk.many):
            row = walk.rows[i]
            if (
                walk.route[row] == number
                and walk.faces[row] == 1
                and (walk.vx[i] != 0.0 or walk.vy[i] != 0.0)
            ):
                walk.found[found] = row
                found += 1
                if turns_to(columns, row, atan2d(walk.vy[i], walk.vx[i])):
                    turned = True
        if not turned:
            found = begins
    return found
