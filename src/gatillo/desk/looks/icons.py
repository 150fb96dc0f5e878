"""One family of line icons, drawn on a 20 × 20 grid with one pen.

Drawn here and not taken from an icon font: loading one costs a third of a second of the start.
"""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QPolygonF


def _wedge(painter: QPainter, x: float, way: int) -> None:
    painter.drawPolygon(QPolygonF([QPointF(x, 5), QPointF(x + 8 * way, 10), QPointF(x, 15)]))


def _start(p: QPainter) -> None:
    p.drawLine(QPointF(5, 5), QPointF(5, 15))
    _wedge(p, 15, -1)


def _end(p: QPainter) -> None:
    p.drawLine(QPointF(15, 5), QPointF(15, 15))
    _wedge(p, 5, 1)


def _tick(p: QPainter) -> None:
    p.drawLine(QPointF(6, 5), QPointF(6, 15))
    _wedge(p, 9, 1)


def _back_tick(p: QPainter) -> None:
    p.drawLine(QPointF(14, 5), QPointF(14, 15))
    _wedge(p, 11, -1)


def _firing(p: QPainter) -> None:
    p.drawEllipse(QPointF(5.5, 10), 2.4, 2.4)
    _wedge(p, 9.5, 1)


def _back_firing(p: QPainter) -> None:
    p.drawEllipse(QPointF(14.5, 10), 2.4, 2.4)
    _wedge(p, 10.5, -1)


def _run(p: QPainter) -> None:
    p.drawPolygon(QPolygonF([QPointF(6.5, 4), QPointF(15.5, 10), QPointF(6.5, 16)]))


def _pause(p: QPainter) -> None:
    p.drawRect(QRectF(6, 5, 2.6, 10))
    p.drawRect(QRectF(11.4, 5, 2.6, 10))


def _play_keys(p: QPainter) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    for x, y in ((7.4, 3.6), (1.8, 10.2), (7.4, 10.2), (13, 10.2)):
        p.drawRoundedRect(QRectF(x, y, 5, 5.6), 1.2, 1.2)


def _finding(p: QPainter) -> None:
    path = QPainterPath(QPointF(10, 4))
    path.lineTo(16.5, 15.5)
    path.lineTo(3.5, 15.5)
    path.closeSubpath()
    p.drawPath(path)


def _list(p: QPainter) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPolyline(QPolygonF([QPointF(5, 8), QPointF(10, 13), QPointF(15, 8)]))


def _more(p: QPainter) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    for x in (5, 10):
        p.drawPolyline(QPolygonF([QPointF(x, 5), QPointF(x + 5, 10), QPointF(x, 15)]))


_DRAW = {
    "start": _start,
    "end": _end,
    "tick": _tick,
    "back tick": _back_tick,
    "firing": _firing,
    "back firing": _back_firing,
    "run": _run,
    "pause": _pause,
    "play keys": _play_keys,
    "finding": _finding,
    "list": _list,
    "more": _more,
}


def icon(name: str, colour: QColor, size: int = 20) -> QIcon:
    """Return an icon of the family in a colour, sharp at twice its size too."""
    made = QIcon()
    for factor in (1, 2):
        pixmap = QPixmap(QSize(size * factor, size * factor))
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(size * factor / 20, size * factor / 20)
        painter.setPen(
            QPen(colour, 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
        )
        painter.setBrush(colour)
        _DRAW[name](painter)
        painter.end()
        pixmap.setDevicePixelRatio(factor)
        made.addPixmap(pixmap)
    return made
