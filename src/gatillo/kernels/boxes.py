"""The upright boxes about shapes."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import cosd, sind
from gatillo.kernels.plain import fabs


def reach(sizes: Any, kind: Any, scale: Any, angle: Any, rows: Any, wide: Any, high: Any) -> None:
    """Work out half width and half height of the upright box about each of some rows, into `wide` and `high`.

    `sizes`, shape (kinds, 3), are half width, half height and radius of each kind's shape at scale 1.
    """
    for i in range(len(rows)):
        row = rows[i]
        size = fabs(scale[row])
        along, across, round_ = (
            sizes[kind[row], 0] * size,
            sizes[kind[row], 1] * size,
            sizes[kind[row], 2] * size,
        )
        cos, sin = fabs(cosd(angle[row])), fabs(sind(angle[row]))
        wide[row] = along * cos + across * sin + round_
        high[row] = along * sin + across * cos + round_
