"""When two moving shapes touch: the time of impact within a tick."""

from __future__ import annotations

import math
from collections.abc import Callable

from gatillo.kernels.mathematics import exp, log
from gatillo.sim.collision.body import CLOSED, NEVER, THERE, Body


def closing_time(gap: float, closing: float, more: float, left: float) -> float:
    """Return the time (s) in which a gap closes at a speed that grows by `more` a second; infinity if it never does."""
    if closing >= 0:
        inner = closing * closing + 2.0 * more * gap
        if inner < 0 or (closing == 0 and more <= 0):
            return NEVER
        below = closing + math.sqrt(inner)
        return 2.0 * gap / below if below > 0 else NEVER
    if more <= 0:
        return NEVER
    return (-closing + math.sqrt(closing * closing + 2.0 * more * gap)) / more


def closing_time_slowed(a: Body, b: Body, nx: float, ny: float, t: float, gap: float, left: float) -> float:
    """Return the time (s) in which a gap closes when drag slows one of two bodies; infinity if it never does."""
    _, _, vxa, vya = a.state(t)
    _, _, vxb, vyb = b.state(t)
    drag_a, speed_a, pull_a = a.drag, vxa * nx + vya * ny, a.ax * nx + a.ay * ny
    drag_b, speed_b, pull_b = b.drag, vxb * nx + vyb * ny, b.ax * nx + b.ay * ny

    def short(step: float) -> tuple[float, float]:
        """Return what is still missing after a time, and the closing speed then."""
        way_a, now_a = _along(drag_a, speed_a, pull_a, step)
        way_b, now_b = _along(drag_b, speed_b, pull_b, step)
        return gap - (way_a - way_b), now_a - now_b

    start = speed_a - speed_b
    low, high = 0.0, left
    missing, ends = short(left)
    if missing > 0:
        if not (start > 0 > ends):
            return NEVER
        # it comes nearer, then goes away again: look at the turning point
        low, high = _turns(short, 0.0, left)
        if short(low)[0] > 0:
            return NEVER
        low, high = 0.0, low
    elif start < 0:
        # away at first, then nearer
        low, high = _turns(lambda step: (0.0, -short(step)[1]), 0.0, left)[1], left
    return _closed(short, low, high)


Short = Callable[[float], tuple[float, float]]
"""After a time: how much of a gap is left, and how fast it closes then."""


def _along(drag: float, speed: float, pull: float, step: float) -> tuple[float, float]:
    """Return how far something comes along a direction in a time, and its speed then."""
    if not drag:
        return speed * step + pull * (step * step / 2), speed + pull * step
    part = exp(-drag * step)
    if drag <= 1e-9:
        return speed * step + pull * (step * step / 2), speed * part + pull * step
    reach = (1.0 - part) / drag
    return speed * reach + pull * ((step - reach) / drag), speed * part + pull * reach


def _turns(short: Short, low: float, high: float) -> tuple[float, float]:
    """Return a narrow stretch of time in which a closing speed that is above 0 at `low` and below it at `high` changes sign.

    By the Illinois algorithm (Dowell and Jarratt, A modified regula falsi method, BIT 11, 1971), and halving where that is slow.
    """
    fast, slow = short(low)[1], short(high)[1]
    for number in range(60):
        middle = low + (high - low) * (fast / (fast - slow)) if number % 3 else (low + high) / 2
        if not low < middle < high:
            break
        now = short(middle)[1]
        if now > 0:
            low, fast, slow = middle, now, slow / 2
        else:
            high, slow, fast = middle, now, fast / 2
    return low, high


def _closed(short: Short, low: float, high: float) -> float:
    """Return when a gap that is open at `low` and closed at `high` has just closed: Newton's method, bracketed by the two."""
    step = high
    for _ in range(60):
        missing, closing = short(step)
        if missing > 0:
            low = step
        else:
            high = step
            if missing > -CLOSED:
                break
        # twice as far where hardly anything is missing, so that it ends beyond and not before
        ahead = missing / closing * (2.0 if 0 < missing < THERE else 1.0) if closing > 0 else 0.0
        step += ahead
        if not low < step < high:
            step = (low + high) / 2
            if not low < step < high:
                break
    return high


def stopping_time(speed: float, along: float, drag: float) -> float:
    """Return the time in which a speed is gone that changes by `along` a second, against it, and is slowed by drag."""
    if drag <= 1e-9:
        return -speed / along
    return float(log(1.0 - speed * drag / along)) / drag
