"""Where ticks are on the lanes, and what is painted from which width on."""

from __future__ import annotations

import math
from dataclasses import dataclass

NUMBERED = 20.0
"""From this many pixels a tick on, marks carry their position and the thread is drawn."""
DOTTED = 5.0
"""From this many pixels a tick on, marks are dots; below, strokes."""


@dataclass(slots=True)
class TimeScale:
    """Where ticks stand on the lanes: `left` is the lanes' left edge in pixels, `first` the tick there."""

    left: float = 0.0
    width: float = 100.0
    first: float = 0.0
    pixels: float = 4.0

    def x(self, tick: float) -> float:
        """Left edge of a tick's column."""
        return self.left + (tick - self.first) * self.pixels

    def middle(self, tick: float) -> float:
        """Return the pixel of the middle of a tick."""
        return self.x(tick) + self.pixels / 2

    def tick(self, x: float) -> int:
        """Return the tick whose column holds a pixel."""
        return math.floor((x - self.left) / self.pixels + self.first)

    @property
    def last(self) -> int:
        """The last tick in sight."""
        return self.tick(self.left + self.width) + 1

    def mark_x(self, tick: int, position: int, count: int) -> float:
        """Middle of a mark: wide columns spread theirs from left to right by position."""
        room = self.pixels - 22.0
        if count < 2 or room <= 0:
            return self.middle(tick)
        return self.x(tick) + 11.0 + room * (position - 1) / (count - 1)
