"""Spinning, circling and keeping to face something, one object after the other."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces, half_open, within_turn
from gatillo.kernels.elementary import atan2d, cosd, sind
from gatillo.kernels.nearness import nearest
from gatillo.kernels.plain import fabs

MOST = 200
"""Among more objects than these, arrays find quicker who circles about what."""


def spin(columns: Any, settings: Any, dt: float) -> int:
    """Turn by a speed in degrees a second: in the plane, or flipping over an axis."""
    rows, speed, flip = settings.rows, settings.n0, settings.m0
    n = len(rows)
    if settings.w0 == 0:
        turns = 0
        for i in range(n):
            if speed[rows[i]] != 0.0:
                turns = n
        for i in range(turns):
            row = rows[i]
            columns.angle[row] = half_open(columns.angle[row] + speed[row] * dt)
            settings.found[i] = row
        return turns
    for i in range(n):
        row = rows[i]
        turned = within_turn(180.0 - (flip[row] + speed[row] * dt))
        flip[row] = -(turned - 180.0)
    return 0


def circle_around(columns: Any, settings: Any, dt: float) -> int:
    """Stand on a circle about the nearest of the others, each at its angle or all evenly spread.

    Gives how many stand on one, written into `found`, if any of them has been put elsewhere; -1, with nothing done, where there are
    too many.
    """
    rows, found, a, b = settings.rows, settings.found, settings.a, settings.b
    radius, speed, start, turned = settings.n0, settings.n1, settings.n2, settings.m0
    n = len(rows)
    if n > MOST or n * len(settings.others) > 4000:
        return -1
    nearest(columns.x, columns.y, rows, settings.others, found)
    alike = 1
    for i in range(n):
        row = rows[i]
        now = turned[row] + speed[row] * dt
        turned[row] = within_turn(now)
        a[i] = now + start[row]
        if found[i] != found[0]:
            alike = 0
    if settings.w0 == 0:
        first = a[0]
        for i in range(n):
            b[i] = first + 360.0 / n * i
            if not alike:
                # of those about the same centre the oldest says where they begin
                before, many, begins = 0, 0, -1
                for j in range(n):
                    if found[j] == found[i]:
                        begins = j if begins < 0 else begins
                        before += 1 if j < i else 0
                        many += 1
                b[i] = a[begins] + 360.0 * before / many
        for i in range(n):
            a[i] = b[i]
    for i in range(n):
        row, centre = rows[i], found[i]
        if centre >= 0:
            angle = a[i]
            a[i] = columns.x[centre] + radius[row] * cosd(angle)
            b[i] = columns.y[centre] + radius[row] * sind(angle)
    went, many = 0, 0
    for i in range(n):
        row = rows[i]
        if found[i] >= 0:
            found[many] = row
            many += 1
            columns.vx[row], columns.vy[row] = 0.0, 0.0
            if columns.x[row] != a[i] or columns.y[row] != b[i]:
                went = 1
            columns.x[row], columns.y[row] = a[i], b[i]
    return many if went else 0


def keep_facing(columns: Any, settings: Any, dt: float) -> int:
    """Turn the shorter way to face a point or the nearest of the others, at most by a speed in degrees a second.

    Gives how many have a direction to turn to, written into `found`, if any of them has turned; -1, with nothing done, where there
    are too many.
    """
    rows, found, speed = settings.rows, settings.found, settings.n0
    n = len(rows)
    if settings.aims == 2:
        if n * len(settings.others) > 4000:
            return -1
        nearest(columns.x, columns.y, rows, settings.others, found)
    many, turned = 0, 0
    for i in range(n):
        row = rows[i]
        to_x, to_y = settings.to_x, settings.to_y
        if settings.aims == 2:
            other = found[i]
            if other < 0:
                continue
            to_x, to_y = columns.x[other], columns.y[other]
        dx, dy = to_x - columns.x[row], to_y - columns.y[row]
        if dx == 0.0 and dy == 0.0:
            # one that stands on its goal keeps its own direction
            continue
        wanted = atan2d(dy, dx)
        now = half_open(columns.angle[row] + columns.drawn[columns.kind[row]])
        left = within_turn(wanted - now + 180.0) - 180.0
        most = max(speed[row], 0.0) * dt
        if fabs(left) > most:
            wanted = now + min(max(left, -most), most)
        found[many] = row
        many += 1
        if faces(columns, row, wanted):
            turned = 1
    return many if turned else 0
