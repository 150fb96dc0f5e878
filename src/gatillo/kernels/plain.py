"""The mathematics that kernels use where they are not compiled; compiled ones call the C library's functions of these names."""

from __future__ import annotations

import math
from math import sqrt as sqrt


def hypot(dx: float, dy: float) -> float:
    """Return how long a vector is: the C library's hypot, which `math.hypot` is not."""
    try:
        return abs(complex(dx, dy))
    except OverflowError:
        return math.inf
