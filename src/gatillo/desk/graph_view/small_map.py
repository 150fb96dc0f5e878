"""The small map of a sheet that is larger than the page."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from gatillo.desk.graph_view.canvas import GraphCanvas
from gatillo.desk.graph_view.card_layout import Sheet
from gatillo.desk.graph_view.what_ran import WhatRan
from gatillo.desk.looks.theme import theme, with_alpha

MAP = 104.0
"""Width of the map, in pixels."""


class SmallMap:
    """Where the map is, how it is painted, and where a press on it leads."""

    def __init__(self, canvas: GraphCanvas) -> None:
        self.canvas = canvas
        self._kept: tuple[object, QPixmap] | None = None

    def place(self, sheet: Sheet) -> tuple[QRectF, float, QRectF]:
        """Return where the small map is, its scale, and what it shows."""
        area = sheet.area.adjusted(-60, -60, 60, 60)
        scale = min(MAP / area.width(), 74.0 / area.height())
        size = (area.width() * scale, area.height() * scale)
        return (
            QRectF(self.canvas.width() - size[0] - 10, self.canvas.height() - size[1] - 10, *size),
            scale,
            area,
        )

    def paint(self, p: QPainter, sheet: Sheet, sight: QRectF) -> None:
        """Paint it over the page, with a frame about what is in sight."""
        t = theme()
        box, scale, area = self.place(sheet)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(with_alpha(t.panel, 0.86))
        p.drawRect(box)
        ran = self.canvas.ran
        key = (sheet.placing, ran.cards, box.size(), t)
        if self._kept is None or self._kept[0] != key:
            self._kept = (key, self._picture(sheet, ran, box.size(), scale, area))
        p.drawPixmap(box.topLeft(), self._kept[1])
        at = box.topLeft() + (sight.topLeft() - area.topLeft()) * scale
        seen = QRectF(at.x(), at.y(), sight.width() * scale, sight.height() * scale).intersected(box)
        p.setPen(QPen(t.cursor, 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(seen)

    def _picture(self, sheet: Sheet, ran: WhatRan, size: QSizeF, scale: float, area: QRectF) -> QPixmap:
        """Return the cards on the small map, painted once for as long as they stay."""
        t, ratio = theme(), self.canvas.devicePixelRatioF()
        picture = QPixmap((size * ratio).toSize())
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        ran_here: list[QRectF] = []
        others: list[QRectF] = []
        for number, card in sheet.cards.items():
            at = (card.area.topLeft() - area.topLeft()) * scale
            small = QRectF(at.x(), at.y(), card.area.width() * scale, max(1.5, card.area.height() * scale))
            (ran_here if number in ran.cards else others).append(small)
        p = QPainter(picture)
        try:
            p.setPen(Qt.PenStyle.NoPen)
            for boxes, colour in ((others, t.quiet), (ran_here, t.fires)):
                p.setBrush(colour)
                p.drawRects(boxes)
        finally:
            p.end()
        return picture

    def go_to(self, point: QPointF, sheet: Sheet) -> None:
        """Bring what lies under a point of the map into the middle of the page."""
        box, scale, area = self.place(sheet)
        middle = area.topLeft() + (point - box.topLeft()) / scale
        self.canvas.corner = (
            middle - QPointF(self.canvas.width(), self.canvas.height()) / 2 / self.canvas.zoom
        )
        self.canvas.update()
