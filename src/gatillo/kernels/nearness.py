"""Which objects are near which: boxes that overlap, middles within a distance, and the nearest. Each looks at every pair."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.plain import sqrt


def overlapping(
    x: Any,
    y: Any,
    wide: Any,
    high: Any,
    some: Any,
    others: Any,
    skin: float,
    margin: float,
    found: Any,
) -> int:
    """Find the pairs of rows whose boxes, widened by `skin` and `margin`, overlap. Return how many there are.

    `x`, `y`, `wide` and `high` are columns by row: the middle of each box and half its width and height. `some` and `others`
    are rows; no row makes a pair with itself. `found` takes the pairs, shape (2, len(some) * len(others)), in the order of
    `some` and then of `others`.
    """
    many = 0
    for m in range(len(some)):
        i = some[m]
        own_x, own_y = x[i], y[i]
        own_wide, own_high = wide[i] + skin + margin, high[i] + skin + margin
        for n in range(len(others)):
            j = others[n]
            if abs(x[j] - own_x) <= wide[j] + own_wide and abs(y[j] - own_y) <= high[j] + own_high and i != j:
                found[0, many], found[1, many] = i, j
                many += 1
    return many


def within(x: Any, y: Any, some: Any, others: Any, reaches: Any, most: int, found: Any) -> int:
    """Find the pairs of rows whose middles are at most a reach apart. Return how many were found; looking ends at `most`.

    `reaches` has a number for each of `some`. `found` takes the position in `some` and the row of `others`, shape (2, many)
    with room for as many as can be found, in the order of `some` and then of `others`. A row is within reach of itself.
    """
    many = 0
    for m in range(len(some)):
        i = some[m]
        own_x, own_y, far = x[i], y[i], reaches[m]
        for n in range(len(others)):
            j = others[n]
            dx, dy = own_x - x[j], own_y - y[j]
            # nearly all are farther off along one axis already
            if -far <= dx <= far and -far <= dy <= far and sqrt(dx * dx + dy * dy) <= far:
                if many == most:
                    return many
                found[0, many], found[1, many] = m, j
                many += 1
    return many


def any_within(x: Any, y: Any, some: Any, others: Any, far: float) -> bool:
    """Return whether any row of `some` has its middle at most `far` from that of one of `others`; a row is near itself."""
    for m in range(len(some)):
        i = some[m]
        own_x, own_y = x[i], y[i]
        for n in range(len(others)):
            j = others[n]
            dx, dy = own_x - x[j], own_y - y[j]
            if -far <= dx <= far and -far <= dy <= far and sqrt(dx * dx + dy * dy) <= far:
                return True
    return False


def nearest(x: Any, y: Any, some: Any, others: Any, found: Any) -> None:
    """Find, for each row of `some`, the nearest other row of `others`: the first of two that are equally near, -1 for none.

    `found` takes a row for each of `some`.
    """
    for m in range(len(some)):
        i = some[m]
        own_x, own_y = x[i], y[i]
        best, least = -1, float("inf")
        for n in range(len(others)):
            j = others[n]
            if j != i:
                dx, dy = x[j] - own_x, y[j] - own_y
                if -least < dx < least and -least < dy < least:
                    away = sqrt(dx * dx + dy * dy)
                    if away < least:
                        best, least = j, away
        found[m] = best
