"""Pictures of objects that stand still: painted once, and put where they are for as long as nothing of them changes."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPixmap

from gatillo.desk.looks.object_painter import draw_object, looks_somewhere
from gatillo.desk.looks.theme import theme
from gatillo.level.model import Kind, Rectangle

MOST = 400
"""Objects up to which pictures are kept."""
LARGEST = 90_000
"""Pixels that the picture of an object may have; what is larger is drawn each time."""


class StillObjects:
    """Draws objects, those that look as they did in the picture before from a picture of their own."""

    def __init__(self) -> None:
        self._kept: dict[int, tuple[tuple[object, ...], QPixmap | None, Kind]] = {}

    def forget_all_but(self, many: int) -> None:
        """Forget them if there are others than the `many` objects that are drawn."""
        if len(self._kept) > 2 * many:
            self._kept.clear()

    def draw(
        self, p: QPainter, number: int, kind: Kind, at: QPointF, angle: float, size: float, *, hidden: bool
    ) -> None:
        """Draw an object by its id, as `draw_object` does."""
        half_width, half_height = _room(kind, angle, size)
        if 4 * half_width * half_height > LARGEST:
            draw_object(p, kind, at.x(), at.y(), angle, size, hidden=hidden)
            return
        ratio = p.device().devicePixelRatioF()
        left, top = math.floor(at.x() - half_width), math.floor(at.y() - half_height)
        key = (id(kind), at.x() - left, at.y() - top, angle, size, hidden, theme().dark, ratio)
        known = self._kept.get(number)
        if known is None or known[0] != key:
            # one that moves is drawn; only if it is the same the next time its picture is kept
            self._kept[number] = (key, None, kind)
            draw_object(p, kind, at.x(), at.y(), angle, size, hidden=hidden)
            return
        picture = known[1]
        if picture is None:
            wide, high = math.ceil(2 * half_width) + 2, math.ceil(2 * half_height) + 2
            picture = QPixmap(round(wide * ratio), round(high * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            inner = QPainter(picture)
            inner.setRenderHints(p.renderHints())
            draw_object(inner, kind, at.x() - left, at.y() - top, angle, size, hidden=hidden)
            inner.end()
            self._kept[number] = (key, picture, kind)
        p.drawPixmap(left, top, picture)


def _room(kind: Kind, angle: float, size: float) -> tuple[float, float]:
    """Return half the width and height that drawing an object may take, in pixels."""
    if isinstance(kind.shape, Rectangle) and not looks_somewhere(kind):
        turned = math.radians(angle)
        c, s = abs(math.cos(turned)), abs(math.sin(turned))
        width, height = kind.shape.halves
        return (width * c + height * s) * size + 8, (width * s + height * c) * size + 8
    half = max(kind.shape.halves) * size * 1.6 + 8
    return half, half
