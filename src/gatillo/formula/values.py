"""Values of formulas: numbers within bounds, arrays from single values, and both as texts."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatillo.formula.frame import Frame


def guarded(f: Frame, bad: Any, why: str, instead: Any, value: Any) -> Any:
    """Report `bad` matches as faults and put a harmless value in their place before computing on."""
    if isinstance(bad, bool | np.bool_):
        if not bad:
            return value
        f.fault(True, why)
        return instead
    if not bad.any():
        return value
    f.fault(bad, why)
    return np.where(bad, instead, value)


def half_open_degrees(angle: Any) -> Any:
    """Return angles (degrees, one or an array) above -180 up to 180; those that lie there already keep their last bit."""
    if isinstance(angle, int | float):
        if -180.0 < angle <= 180.0:
            return angle
        turned = 180.0 - np.mod(180.0 - angle, 360.0)
        # just above 180, the remainder rounds to 360
        return turned if turned > -180.0 else 180.0
    inside = (angle > -180.0) & (angle <= 180.0)
    if inside.all():
        return angle
    turned = 180.0 - np.mod(180.0 - angle, 360.0)
    turned = np.where(turned > -180.0, turned, 180.0)
    return np.where(inside, angle, turned) if np.ndim(turned) else float(turned)


def finite(f: Frame, value: Any) -> Any:
    """Return a value where it is finite; elsewhere a fault, and 0."""
    if type(value) is float and value - value == 0:
        return value
    if isinstance(value, np.ndarray) and value.ndim:
        if value.dtype not in (np.float64, np.complex128):
            return value
        # a sum is finite only where all of it is: one walk over the values, for nearly always
        total = np.add.reduce(value)
        if total - total == 0:
            return value
        bad = ~np.isfinite(value)
        return guarded(f, bad, "a part of it has no finite answer", 0.0, value) if bad.any() else value
    if isinstance(value, bool | np.bool_ | str):
        return value
    if value - value == 0:
        return value
    return guarded(f, True, "a part of it has no finite answer", 0.0, value)


def as_point(x: Any, y: Any) -> Any:
    """Return a point, or an array of points, from its x and y: a complex number holds both."""
    if isinstance(x, np.ndarray | np.generic) or isinstance(y, np.ndarray | np.generic):
        shape = np.broadcast_shapes(np.shape(x), np.shape(y))
        if shape:
            points = np.empty(shape, dtype=np.complex128)
            points.real, points.imag = x, y
            return points
    return complex(float(x), float(y))


LONGEST_TEXT = 5_000
"""Letters: a text that a rule makes longer and longer, tick after tick, would fill the memory."""


def put_together(f: Frame, written: list[Any]) -> Any:
    """Texts, and arrays of texts, written one after another; one that would be too long is a fault, and empty."""
    why = f"the text would be longer than {LONGEST_TEXT:,} letters"
    if all(isinstance(w, str) for w in written):
        if sum(map(len, written)) > LONGEST_TEXT:
            f.fault(True, why)
            return ""
        return "".join(written)
    rows = list(zip(*[spread(w, f.n).tolist() for w in written], strict=True))
    bad = np.array([sum(map(len, row)) > LONGEST_TEXT for row in rows], dtype=bool)
    if bad.any():
        f.fault(bad, why)
    result = np.empty(f.n, dtype=object)
    result[:] = ["" if long else "".join(row) for row, long in zip(rows, bad.tolist(), strict=True)]
    return result


def least(value: Any) -> str:
    """Return the least of a value or of an array, written out: for a fault's sentence."""
    values = np.asarray(value, dtype=np.float64)
    finite = values[np.isfinite(values)]
    return write_number(float(finite.min())) if finite.size else "an endless number"


def spread(value: Any, n: int) -> Any:
    """Return the value as an array of length n."""
    if isinstance(value, np.ndarray) and value.ndim:
        return value
    if isinstance(value, str):
        result = np.empty(n, dtype=object)
        result[:] = value
        return result
    return np.full(n, value)


def write_number(value: float) -> str:
    """Return a number as people write it: no trailing zeros, at most six digits after the point."""
    if value - value != 0:
        return "endless" if value == value else "no number"
    if value == int(value) and abs(value) < 1e15:
        return str(int(value))
    if abs(value) >= 1e9:
        return f"{value:.6g}"
    written = f"{value:.6f}".rstrip("0").rstrip(".")
    return "0" if written == "-0" else written


def write_out(value: Any) -> Any:
    """Return a value, or each value of an array, as text."""
    if isinstance(value, np.ndarray) and value.ndim:
        result = np.empty(len(value), dtype=object)
        result[:] = [write_out(v) for v in value.tolist()]
        return result
    if isinstance(value, bool | np.bool_):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    if isinstance(value, complex):
        return f"({write_number(value.real)}, {write_number(value.imag)})"
    return write_number(float(value))
