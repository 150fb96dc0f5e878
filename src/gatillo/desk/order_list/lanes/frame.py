"""The frame of time: the ruler, the grid, the cursor."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gatillo.desk.looks.theme import figures, theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.lanes.scale import NUMBERED


class FramePainter:
    """Paints what all lanes have in common."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes

    def ruler(self, p: QPainter, area: QRectF) -> None:
        """Ticks or seconds along the top."""
        t, scale = theme(), self.lanes.scale
        p.setFont(figures(-1.5))
        cursor = self.lanes.bench.cursor.tick
        if scale.pixels >= 34:
            for tick in range(max(0, scale.tick(area.left())), scale.last + 1):
                p.setPen(t.cursor if tick == cursor else t.quiet)
                box = QRectF(scale.x(tick), area.top(), scale.pixels, area.height())
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(tick))
            return
        rate = self.lanes.bench.program.rate
        step = _nice_step(70.0 / (scale.pixels * rate))
        number = math.floor(max(0.0, scale.first) / rate / step)
        while number * step * rate <= scale.last:
            x = scale.x(number * step * rate)
            if x >= area.left() - 1:
                p.setPen(t.hairline)
                p.drawLine(QPointF(x, area.bottom() - 6), QPointF(x, area.bottom()))
                p.setPen(t.quiet)
                p.drawText(QPointF(x + 4, area.center().y() + 4), f"{number * step:g} s")
            number += 1

    def grid(self, p: QPainter, area: QRectF) -> None:
        """Thin lines between ticks, when ticks are wide enough; the end of the run."""
        t, scale = theme(), self.lanes.scale
        if scale.pixels >= 14:
            p.setPen(QPen(with_alpha(t.hairline, 0.45), 1))
            for tick in range(max(0, scale.tick(area.left())), scale.last + 1):
                x = scale.x(tick)
                p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        end = scale.x(self.lanes.data.ticks + 1)
        if end < area.right():
            p.fillRect(
                QRectF(end, area.top(), area.right() - end, area.height()), with_alpha(t.hairline, 0.28)
            )
            if self.lanes.overlaid is not None:
                p.setPen(QPen(t.quiet, 1, Qt.PenStyle.DashLine))
                p.drawLine(QPointF(end, area.top()), QPointF(end, area.bottom()))

    def stretch(self, p: QPainter, area: QRectF) -> None:
        """The stretch of time that is marked: a loop runs in it."""
        marked, scale, t = self.lanes.bench.stretch, self.lanes.scale, theme()
        if marked is None:
            return
        left, right = scale.x(marked[0] + 1), scale.x(marked[1] + 1)
        box = QRectF(left, area.top(), right - left, area.height()).intersected(area)
        p.fillRect(box, with_alpha(t.held, 0.08))
        p.setPen(QPen(with_alpha(t.held, 0.8), 1.2))
        for x in (left, right):
            if area.left() <= x <= area.right():
                p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))

    def flags(self, p: QPainter, area: QRectF) -> None:
        """On the time axis: the marked stretch, and a flag where a number was changed while it ran."""
        bench, scale, t = self.lanes.bench, self.lanes.scale, theme()
        if bench.stretch is not None:
            left, right = scale.x(bench.stretch[0] + 1), scale.x(bench.stretch[1] + 1)
            p.fillRect(QRectF(left, area.bottom() - 4, right - left, 3), t.held)
        for flag in bench.flags:
            x = scale.middle(flag.tick)
            p.setPen(QPen(t.finding, 1.4))
            p.drawLine(QPointF(x, area.top() + 5), QPointF(x, area.bottom() - 2))
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.finding)
            p.drawPolygon(
                QPolygonF(
                    [QPointF(x, area.top() + 5), QPointF(x + 9, area.top() + 9), QPointF(x, area.top() + 13)]
                )
            )

    def cursor(self, p: QPainter, area: QRectF, top: float) -> None:
        """The cursor through all lanes: the tick's column, and a line after the firing it stands at."""
        t, scale, cursor = theme(), self.lanes.scale, self.lanes.bench.cursor
        if scale.pixels >= 6:
            column = QRectF(scale.x(cursor.tick), area.top(), scale.pixels, area.height())
            p.fillRect(column, with_alpha(t.cursor, 0.10))
        x = self.cursor_x()
        p.setPen(QPen(t.cursor, 1.6))
        p.drawLine(QPointF(x, top + 20), QPointF(x, area.bottom()))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon(QPolygonF([QPointF(x - 6, top + 20), QPointF(x + 6, top + 20), QPointF(x, top + 27)]))

    def cursor_x(self) -> float:
        """Return where the cursor's line is."""
        cursor, scale = self.lanes.bench.cursor, self.lanes.scale
        count = self.lanes.bench.run.trace.count_at(cursor.tick)
        if scale.pixels < NUMBERED or not count:
            return scale.middle(cursor.tick)
        before = (
            scale.mark_x(cursor.tick, cursor.position, count) if cursor.position else scale.x(cursor.tick) + 2
        )
        if not cursor.step:
            return before
        # within a firing: on the way to its mark
        following = cursor.position + 1
        after = (
            scale.mark_x(cursor.tick, following, count)
            if following <= count
            else scale.x(cursor.tick + 1) - 2
        )
        return (before + after) / 2


def _nice_step(least: float) -> float:
    """Return the next of 0.05, 0.1, 0.2, 0.5, 1, 2, 5 … seconds at or above `least`."""
    power: float = 10 ** math.floor(math.log10(max(least, 1e-3)))
    return next(power * m for m in (1, 2, 5, 10) if power * m >= least)
