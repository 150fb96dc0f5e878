"""Steering by the keyboard; `settings.keys` says which of its keys are held, the first of them in the lowest bit."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.columns import faces, half_open
from gatillo.kernels.elementary import atan2d, cosd, length, sind


def steer_by_keys(columns: Any, settings: Any, dt: float) -> int:
    """Turn, and go ahead or back along the way it faces. Keys: ahead, back, left, right; settings: speed and turning."""
    rows, keys, speed, turning = settings.rows, settings.keys, settings.n0, settings.n1
    ahead = (keys & 1) - (keys >> 1 & 1)
    turn = (keys >> 2 & 1) - (keys >> 3 & 1)
    goes = False
    for i in range(len(rows)):
        row = rows[i]
        if turn != 0:
            columns.angle[row] = half_open(columns.angle[row] + turn * turning[row] * dt)
            settings.found[i] = row
        if ahead * speed[row] != 0.0:
            goes = True
    for i in range(len(rows)):
        row = rows[i]
        columns.vx[row], columns.vy[row] = 0.0, 0.0
        if goes:
            facing = half_open(columns.angle[row] + columns.drawn[columns.kind[row]])
            fast = ahead * speed[row]
            columns.vx[row], columns.vy[row] = fast * cosd(facing), fast * sind(facing)
        columns.driven[row] = 2
    return len(rows) if turn != 0 else 0


def steer_eight_ways(columns: Any, settings: Any, dt: float) -> int:
    """Go along the level's axes. Keys: up, down, left, right; setting: speed; the first choice is to face the way it goes."""
    rows, keys, speed = settings.rows, settings.keys, settings.n0
    up = (keys & 1) - (keys >> 1 & 1)
    right = (keys >> 3 & 1) - (keys >> 2 & 1)
    goes = up != 0 or right != 0
    # two keys are no faster than one
    part = 1.0 / length(right, up) if goes else 0.0
    turned = False
    for i in range(len(rows)):
        row = rows[i]
        columns.vx[row] = right * part * speed[row] if goes else 0.0
        columns.vy[row] = up * part * speed[row] if goes else 0.0
        columns.driven[row] = 2
        if goes and settings.w0 == 0:
            settings.found[i] = row
            if faces(columns, row, atan2d(up, right)):
                turned = True
    return len(rows) if turned else 0
