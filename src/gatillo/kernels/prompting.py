"""Whether anybody is near enough to a prompt at all."""

from __future__ import annotations

from typing import Any

MOST_PAIRS = 4000


def nobody_near(columns: Any, settings: Any, dt: float) -> int:
    """Give 0 where none of the others is within reach of any prompt, so that none is offered; -1 where one may be."""
    rows, others, reach = settings.rows, settings.others, settings.n1
    if len(rows) * len(others) > MOST_PAIRS:
        return -1
    for i in range(len(rows)):
        row = rows[i]
        far = reach[row]
        for j in range(len(others)):
            other = others[j]
            dx, dy = columns.x[row] - columns.x[other], columns.y[row] - columns.y[other]
            if -far <= dx <= far and -far <= dy <= far:
                return -1
    return 0
