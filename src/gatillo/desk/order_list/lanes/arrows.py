"""The order thread through the firings of a tick, and arrows from causes to effects."""

from __future__ import annotations

import math
from itertools import pairwise

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from gatillo.desk.looks.theme import theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.lanes.scale import NUMBERED


class ArrowPainter:
    """Paints lines between lanes."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes

    def threads(self, p: QPainter, row_y: dict[int, float]) -> None:
        """The order thread of each tick in sight, and echoes from senders to those who heard."""
        scale, t = self.lanes.scale, theme()
        if scale.pixels < NUMBERED:
            return
        trace = self.lanes.data.run.trace
        p.setBrush(Qt.BrushStyle.NoBrush)
        for tick in range(max(1, scale.tick(scale.left)), min(scale.last, self.lanes.data.ticks) + 1):
            firings = self.lanes.data.thread(tick)
            if len(firings) < 2:
                continue
            here = tick == self.lanes.bench.cursor.tick
            p.setPen(QPen(with_alpha(t.fires, 0.95 if here else 0.55), 2.2 if here else 1.6))
            points = [
                QPointF(scale.mark_x(tick, position, len(firings)), row_y[rule_index])
                for rule_index, position in firings
                if rule_index in row_y
            ]
            if len(points) > 1:
                p.drawPath(_thread(points))
        for sent, rule_index, position, heard, listener, heard_position in self.lanes.data.echoes(
            scale.tick(scale.left) - 1, scale.last
        ):
            if rule_index not in row_y or listener not in row_y:
                continue
            start = QPointF(scale.mark_x(sent, position, trace.count_at(sent)), row_y[rule_index])
            end = QPointF(scale.mark_x(heard, heard_position, trace.count_at(heard)), row_y[listener])
            self._echo(p, start, end)

    def causes(self, p: QPainter, row_y: dict[int, float]) -> None:
        """Paint arrows from causes to effects, for the answer that is shown."""
        scale, run = self.lanes.scale, self.lanes.bench.run
        indices = {rule.source.id: rule.index for rule in run.program.rules}
        for (one, tick, position), (other, then, after) in self.lanes.bench.answers.arrows():
            start_y, end_y = row_y.get(indices.get(one, -1)), row_y.get(indices.get(other, -1))
            if start_y is None or end_y is None:
                continue
            a = QPointF(scale.mark_x(tick, position, run.trace.count_at(tick)), start_y)
            b = QPointF(scale.mark_x(then, after, run.trace.count_at(then)), end_y)
            if abs(b.x() - a.x()) + abs(b.y() - a.y()) < 24:
                # no room for an arrow between two marks
                continue
            if b.x() < scale.left - 40 or a.x() > scale.left + scale.width + 40:
                continue
            self._cause(p, a, b)

    def _cause(self, p: QPainter, a: QPointF, b: QPointF) -> None:
        """An arrow from a cause into its effect, with a bright edge so that it stands clear of threads and marks."""
        t = theme()
        path = QPainterPath(a)
        bend = max(14.0, (b.x() - a.x()) * 0.5)
        side = -1.0 if b.y() > a.y() else 1.0
        if abs(b.y() - a.y()) < 1:
            path.cubicTo(a + QPointF(bend / 2, -16), b - QPointF(bend / 2, 16), b)
        else:
            path.cubicTo(a + QPointF(bend, 0), b - QPointF(bend, -side * 2), b)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(t.paper, 5.5))
        p.drawPath(path)
        p.setPen(QPen(t.ink, 2.0))
        p.drawPath(path)
        angle = math.radians(path.angleAtPercent(0.97))
        end = path.pointAtPercent(1.0)
        along, across = QPointF(math.cos(angle), -math.sin(angle)), QPointF(math.sin(angle), math.cos(angle))
        tip = end - along * 14
        p.setPen(QPen(t.paper, 1.0))
        p.setBrush(t.ink)
        p.drawPolygon(
            QPolygonF([tip + along * 6, tip - along * 4 + across * 5, tip - along * 4 - across * 5])
        )

    def _echo(self, p: QPainter, start: QPointF, end: QPointF) -> None:
        t = theme()
        down = 1.0 if end.y() >= start.y() else -1.0
        # leaves the sender to the right, comes to the listener from the left
        a, b = QPointF(start.x() + 10, start.y()), QPointF(end.x() - 12, end.y())
        bend = max(8.0, (b.x() - a.x()) * 0.55)
        path = QPainterPath(a)
        path.cubicTo(QPointF(a.x() + bend, a.y() + 2 * down), QPointF(b.x() - bend, b.y()), b)
        p.setPen(QPen(with_alpha(t.cursor, 0.9), 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon(
            QPolygonF(
                [
                    QPointF(b.x() + 3, b.y()),
                    QPointF(b.x() - 3.5, b.y() - 3.6),
                    QPointF(b.x() - 3.5, b.y() + 3.6),
                ]
            )
        )


def _thread(points: list[QPointF]) -> QPainterPath:
    """Return a line through points that leaves and enters each vertically."""
    path = QPainterPath(points[0])
    for a, b in pairwise(points):
        bend = (b.y() - a.y()) * 0.5
        if abs(bend) < 1:
            path.lineTo(b)
            continue
        path.cubicTo(QPointF(a.x(), a.y() + bend), QPointF(b.x(), b.y() - bend), b)
    return path
