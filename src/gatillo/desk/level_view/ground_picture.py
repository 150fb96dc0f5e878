"""What lies behind all objects and stays as it is: painted once, and shown as one picture for as long as nothing of it changes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtGui import QPainter, QPixmap

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.looks.theme import text_font, theme


class GroundPicture:
    """Draws the ground of a canvas, from a picture if it is as it was in the frame before."""

    def __init__(self) -> None:
        self._key: tuple[object, ...] = ()
        self._about: tuple[Any, ...] = ()
        self._picture: QPixmap | None = None

    def draw(
        self, p: QPainter, canvas: Canvas, about: tuple[Any, ...], paint: Callable[[QPainter], None]
    ) -> None:
        """Draw the ground.

        `about` has all parts of the level that `paint` draws: where each is the very object of the frame before, its
        picture stays true.
        """
        ratio = p.device().devicePixelRatioF()
        size = canvas.size()
        seen = (canvas.zoom, canvas.centre, size, ratio, theme().dark, text_font(-1).toString())
        if seen != self._key or [id(part) for part in about] != [id(part) for part in self._about]:
            # a view that is being moved is drawn afresh each time: its picture would serve for nothing
            self._key, self._about, self._picture = seen, about, None
            paint(p)
            return
        if self._picture is None:
            self._picture = QPixmap(round(size.width() * ratio), round(size.height() * ratio))
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(theme().field)
            inner = QPainter(self._picture)
            inner.setRenderHints(p.renderHints())
            inner.setFont(p.font())
            paint(inner)
            inner.end()
        p.drawPixmap(0, 0, self._picture)
