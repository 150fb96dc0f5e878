"""Very many small objects as specks in one picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage


class Specks:
    """A see-through picture as large as a view, with specks put into it; sizes in the view's pixels."""

    def __init__(self, width: int, height: int, ratio: float) -> None:
        self.ratio = ratio
        self._pixels = np.zeros((max(1, round(height * ratio)), max(1, round(width * ratio))), np.uint32)

    def put(
        self, x: NDArray[np.float64], y: NDArray[np.float64], half: float, colour: QColor, is_round: bool
    ) -> None:
        """Specks of one colour at some places, reaching `half` pixels to each side."""
        reach = max(0.5, half * self.ratio)
        steps = np.arange(-int(np.ceil(reach)), int(np.ceil(reach)) + 1)
        dx, dy = (grid.ravel() for grid in np.meshgrid(steps, steps))
        inside = np.hypot(dx, dy) <= reach if is_round else np.maximum(np.abs(dx), np.abs(dy)) <= reach
        high, wide = self._pixels.shape
        column, row = np.rint(x * self.ratio).astype(np.int64), np.rint(y * self.ratio).astype(np.int64)
        for right, down in zip(dx[inside].tolist(), dy[inside].tolist(), strict=True):
            a, b = column + right, row + down
            seen = (a >= 0) & (a < wide) & (b >= 0) & (b < high)
            self._pixels[b[seen], a[seen]] = colour.rgba()

    def image(self) -> QImage:
        """Return the picture; it keeps its own copy."""
        high, wide = self._pixels.shape
        picture = QImage(self._pixels.data, wide, high, 4 * wide, QImage.Format.Format_ARGB32).copy()
        picture.setDevicePixelRatio(self.ratio)
        return picture
