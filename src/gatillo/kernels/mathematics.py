"""The mathematics of a run: elementary functions of numbers and of arrays, with the same bits for both and on every machine.

Angles are in degrees. A number is answered with a float; an array of shape S, or arrays that broadcast to it, with float64 of
shape S. Where there is no answer (the logarithm of a number below 0) it is `nan`; nothing is raised or warned of. How they are
worked out, and how exact they are, is said in `elementary.py`. The core of Gatillo uses these and never those of `math` or NumPy,
which differ in their last bits between processors and versions.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.kernels import elementary, ufuncs
from gatillo.kernels.chains import over_arrays

Floats = NDArray[np.float64]

FEW = 64
"""Where kernels are not compiled, up to so many numbers are worked out one by one."""

RADIAN = 0.017453292519943295
"""A degree, in radians."""
DEGREE = 57.29577951308232
"""A radian, in degrees."""

_EXACT = 256
"""Up to so many numbers are added without rounding between."""

_SOURCE = Path(__file__).with_name("elementary.py")
_chained: dict[str, Any] = {}


def _chain(name: str) -> Callable[..., Any]:
    if not _chained:
        _chained.update(over_arrays(_SOURCE))
    function: Callable[..., Any] = _chained[name]
    return function


def _uncompiled(name: str) -> Callable[..., Any]:
    """Return a function over arrays that broadcast against each other, for where kernels are not compiled."""
    one = getattr(elementary, name)

    def over(*values: Any) -> Any:
        arrays = np.broadcast_arrays(*(np.asarray(value, dtype=np.float64) for value in values))
        out = np.empty(arrays[0].shape)
        if out.size <= FEW or not _SOURCE.exists():
            out.reshape(-1)[:] = [
                one(*numbers) for numbers in zip(*(a.ravel().tolist() for a in arrays), strict=True)
            ]
        else:
            with np.errstate(all="ignore"):
                out[...] = _chain(name)(*arrays)
        return out if out.ndim else float(out)

    return over


def _over(name: str) -> Callable[..., Any]:
    function: Callable[..., Any] = getattr(ufuncs, name) if ufuncs is not None else _uncompiled(name)
    return function


FUNCTIONS = ("sind", "cosd", "tand", "asind", "acosd", "exp", "log", "log1p", "atan2d", "power", "length")
_OVER = {name: _over(name) for name in FUNCTIONS}
(_SIND, _COSD, _TAND, _ASIND, _ACOSD, _EXP, _LOG, _LOG1P, _ATAN2D, _POWER, _LENGTH) = _OVER.values()


def sind(angle: Any) -> Any:
    """Return the sine of angles in degrees; exact for whole quarter turns and for 30, 150 and so on."""
    return elementary.sind(angle) if type(angle) is float else _SIND(angle)


def cosd(angle: Any) -> Any:
    """Return the cosine of angles in degrees; exact for whole quarter turns and for 60, 120 and so on."""
    return elementary.cosd(angle) if type(angle) is float else _COSD(angle)


def tand(angle: Any) -> Any:
    """Return the tangent of angles in degrees; infinite for odd quarter turns."""
    return elementary.tand(angle) if type(angle) is float else _TAND(angle)


def asind(a: Any) -> Any:
    """Return the angles in degrees, -90 to 90, whose sine is a, for -1 <= a <= 1."""
    return elementary.asind(a) if type(a) is float else _ASIND(a)


def acosd(a: Any) -> Any:
    """Return the angles in degrees, 0 to 180, whose cosine is a, for -1 <= a <= 1."""
    return elementary.acosd(a) if type(a) is float else _ACOSD(a)


def atan2d(y: Any, x: Any) -> Any:
    """Return the directions of points x, y from 0, 0, in degrees from -180 to 180."""
    if type(y) is float and type(x) is float:
        return elementary.atan2d(y, x)
    return _ATAN2D(y, x)


def exp(x: Any) -> Any:
    """Return e to the power x."""
    return elementary.exp(x) if type(x) is float else _EXP(x)


def log(a: Any) -> Any:
    """Return the natural logarithm: minus infinity for 0, `nan` below."""
    return elementary.log(a) if type(a) is float else _LOG(a)


def log1p(a: Any) -> Any:
    """Return the natural logarithm of 1 + a, exact for small a: minus infinity for -1, `nan` below."""
    return elementary.log1p(a) if type(a) is float else _LOG1P(a)


def power(x: Any, y: Any) -> Any:
    """Return x to the power y: `nan` where x is below 0 and y is not whole, infinite for 0 to a power below 0."""
    if type(x) is float and type(y) is float:
        return elementary.power(x, y)
    return _POWER(x, y)


def length(dx: Any, dy: Any) -> Any:
    """Return how long vectors are: the root of dx * dx + dy * dy; infinite from some 1e154 on."""
    if type(dx) is float and type(dy) is float:
        return elementary.length(dx, dy)
    return _LENGTH(dx, dy)


def sum_of(values: Any) -> float:
    """Return the sum of an array of n numbers: rounded once for a few, and for many in halves, in an order that n alone decides."""
    values = np.ravel(np.asarray(values, dtype=np.float64))
    if len(values) <= _EXACT:
        try:
            return math.fsum(values.tolist())
        except (OverflowError, ValueError):
            # beyond all numbers on the way, or infinite ones of both signs
            pass
    with np.errstate(over="ignore", invalid="ignore"):
        while len(values) > 1:
            half = (len(values) + 1) // 2
            upper = values[half:]
            values = values[:half].copy()
            values[: len(upper)] += upper
    return float(values[0]) if len(values) else 0.0


def doublings(x: float) -> int:
    """Return the least whole number n with 2 to the power n at least x, for x above 0."""
    part, whole = math.frexp(x)
    return whole - (part == 0.5)
