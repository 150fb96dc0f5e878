"""The curves of watched formulas."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.rows import Row
from gatillo.formula.values import write_out


class CurvePainter:
    """Paints the values of a watched formula."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes

    def watch(self, p: QPainter, row: Row, area: QRectF) -> None:
        """Paint the values of a watched formula over time."""
        t, watch = theme(), row.watch
        p.setFont(text_font(-1.5))
        if watch is None or watch.problem or not watch.values:
            if watch is not None and watch.problem:
                p.setPen(t.fault)
                p.drawText(area.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, watch.problem)
            return
        scale = self.lanes.scale
        first, last = max(0, scale.tick(area.left()) - 1), min(len(watch.values) - 1, scale.last)
        if watch.type == "number":
            self._step_line(p, watch.values, first, last, area)
            return
        start = first
        for tick in range(first, last + 1):
            if tick < last and watch.values[tick + 1] == watch.values[start]:
                continue
            value = watch.values[start]
            box = QRectF(scale.x(start), area.center().y() - 5, (tick + 1 - start) * scale.pixels, 10)
            if value is True:
                p.fillRect(box, with_alpha(t.ink, 0.55))
            elif isinstance(value, str):
                p.setPen(t.hairline)
                p.drawLine(box.topLeft(), box.bottomLeft())
                p.setPen(t.ink)
                p.drawText(box.adjusted(4, -5, 0, 5), Qt.AlignmentFlag.AlignVCenter, value)
            start = tick + 1

    def _step_line(self, p: QPainter, values: list[Any], first: int, last: int, area: QRectF) -> None:
        t, scale = theme(), self.lanes.scale
        numbers = [v if isinstance(v, float) else None for v in values]
        known = [v for v in numbers if v is not None]
        if not known:
            return
        low, high = min(known), max(known)
        span = (high - low) or 1.0
        top, height = area.top() + 6, area.height() - 12

        def y(value: float) -> float:
            return top + height * (1 - (value - low) / span)

        path = QPainterPath()
        pen_down = False
        changes: list[tuple[int, float]] = []
        previous: float | None = None
        for tick in range(first, last + 1):
            value = numbers[tick]
            if value is None:
                pen_down, previous = False, None
                continue
            x = scale.middle(tick)
            if not pen_down:
                path.moveTo(x, y(value))
                pen_down = True
                changes.append((tick, value))
            elif value != previous:
                path.lineTo(x, path.currentPosition().y())
                path.lineTo(x, y(value))
                changes.append((tick, value))
            previous = value
        if pen_down:
            path.lineTo(scale.middle(last), path.currentPosition().y())
        p.setPen(QPen(t.ink, 1.3))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        p.setFont(figures(-2))
        p.setPen(t.quiet)
        # a value is written where it stays long enough to be read
        until = [*(tick for tick, _ in changes[1:]), last + 1]
        for (tick, value), end in zip(changes, until, strict=False):
            words = str(write_out(round(float(value), 2)))
            if (end - tick) * scale.pixels >= 7.0 * len(words) + 12:
                above = y(value) > area.center().y()
                p.drawText(QPointF(scale.middle(tick) + 4, y(value) + (-3 if above else 10)), words)
