"""The exact steps that kernels use where they are not compiled; compiled ones use those of `native.pxd`, by the same names."""

from __future__ import annotations

import math
from math import copysign as copysign
from math import fabs as fabs

INFINITE = math.inf


def sqrt(x: float) -> float:
    """Return the square root; no number for one below 0."""
    return math.sqrt(x) if x >= 0.0 else math.nan


def floor(x: float) -> float:
    """Return the whole number at or below x."""
    return x // 1.0 if -INFINITE < x < INFINITE else x


def fmod(x: float, y: float) -> float:
    """Return what is left of x, with its sign, after whole times of y; no number where x is infinite."""
    return math.fmod(x, y) if -INFINITE < x < INFINITE else math.nan


def mantissa(x: float) -> float:
    """Return x without its power of two: 0, or a number from 0.5 to below 1 with the sign of x."""
    return math.frexp(x)[0]


def exponent(x: float) -> float:
    """Return the power of two that `mantissa` leaves out."""
    return float(math.frexp(x)[1])


def scaled(x: float, power: float) -> float:
    """Return x times a whole power of two."""
    try:
        return math.ldexp(x, int(power) if -3000.0 < power < 3000.0 else 0)
    except OverflowError:
        return math.copysign(math.inf, x)
