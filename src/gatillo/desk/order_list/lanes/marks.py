"""The marks of firings, and of what differs from another run."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.lanes.scale import DOTTED, NUMBERED
from gatillo.desk.order_list.rows import Row
from gatillo.sim.trace.trace import Way


class MarkPainter:
    """Paints the marks of firings."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes

    def firings(self, p: QPainter, row: Row, area: QRectF) -> None:
        """The firings of a rule."""
        if row.rule_index is None or row.sort not in ("rule", "graph"):
            return
        scale, t = self.lanes.scale, theme()
        marks = self.lanes.data.lane(row.rule_index)
        sight = marks.between(scale.tick(area.left()) - 1, scale.last)
        y = area.center().y()
        if scale.pixels < DOTTED:
            self._strokes(p, marks.tick[sight], marks.matches[sight], y)
            faulty = marks.tick[sight][marks.fault[sight]].tolist()
        else:
            for at in range(*sight.indices(len(marks.tick))):
                self._mark(
                    p,
                    int(marks.tick[at]),
                    int(marks.position[at]),
                    int(marks.matches[at]),
                    Way(marks.way[at]),
                    y,
                    (int(marks.tick[at + 1]) - int(marks.tick[at])) * scale.pixels
                    if at + 1 < len(marks.tick)
                    else scale.pixels * 4,
                )
            faulty = []
            for at in np.flatnonzero(marks.fault[sight]).tolist():
                tick, position = int(marks.tick[sight][at]), int(marks.position[sight][at])
                x = (
                    scale.mark_x(tick, position, self.lanes.data.run.trace.count_at(tick))
                    if scale.pixels >= NUMBERED
                    else scale.middle(tick)
                )
                _fault_mark(p, QPointF(x + 7, y - 8))
        alone = self.lanes.data.faults_without_firing(row.rule_index)
        faulty += alone[(alone >= scale.tick(area.left()) - 1) & (alone <= scale.last)].tolist()
        columns: set[int] = set()
        for tick in faulty:
            x = scale.middle(tick)
            # one mark a few pixels, however many ticks lie there
            if int(x) // 4 not in columns:
                columns.add(int(x) // 4)
                _fault_mark(p, QPointF(x, y - 9))
        # while a run is made again, what was found of the one before says nothing of it
        if self.lanes.bench.shown.compared and row.rule is not None and self.lanes.overlaid is None:
            self._compared(p, row.rule.id, y, t.fires)

    def lines(self, p: QPainter, row: Row, area: QRectF) -> None:
        """The marks of a rule's line: where it held or acted a bar, where it was looked at and did not hold a small ring."""
        if row.sort != "line" or row.rule_index is None or row.part is None or row.within:
            return
        scale, t = self.lanes.scale, theme()
        marks = self.lanes.data.line(row.rule_index, row.part, row.line)
        colour = t.fires if row.part in ("do", "else") else t.held
        y = area.center().y()
        held = self.lanes.in_sight(marks.held)
        if scale.pixels < DOTTED:
            self._strokes(p, held, np.ones(len(held), dtype=int), y, colour)
        else:
            for tick in held.tolist():
                p.fillRect(QRectF(scale.x(tick) + 1.5, y - 3, scale.pixels - 3, 6), with_alpha(colour, 0.7))
        p.setPen(QPen(with_alpha(t.quiet, 0.7), 1.1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        radius = max(1.2, min(3.0, scale.pixels / 4))
        columns: set[int] = set()
        for tick in self.lanes.in_sight(marks.failed).tolist():
            x = scale.middle(tick)
            # one ring a few pixels, however many ticks lie there
            if int(x) // 4 not in columns:
                columns.add(int(x) // 4)
                p.drawEllipse(QPointF(x, y), radius, radius)

    def card_runs(self, p: QPainter, row: Row, area: QRectF) -> None:
        """Paint when a card of a graph ran: a bar on the lane's line, as wide as its tick, with the number of matches."""
        if row.sort != "card" or row.rule_index is None:
            return
        scale, t = self.lanes.scale, theme()
        marks = self.lanes.data.card(row.rule_index, row.card)
        sight = marks.between(scale.tick(area.left()) - 1, scale.last)
        y = area.center().y()
        ticks, first = np.unique(marks.tick[sight], return_index=True)
        matches = np.add.reduceat(marks.matches[sight], first) if len(first) else first
        if scale.pixels < DOTTED:
            self._strokes(p, ticks, np.ones(len(ticks), dtype=int), y)
            return
        here = self.lanes.bench.cursor.tick
        p.setFont(figures(-2))
        for tick, many in zip(ticks.tolist(), matches.tolist(), strict=True):
            box = QRectF(scale.x(tick) + 1.5, y - 3, scale.pixels - 3, 6)
            p.fillRect(box, with_alpha(t.fires, 0.85 if tick == here else 0.45))
            if scale.pixels >= NUMBERED and many > 1:
                p.setPen(t.ink)
                p.drawText(
                    QRectF(scale.x(tick), y - 15, scale.pixels, 12), Qt.AlignmentFlag.AlignCenter, f"×{many}"
                )

    def _strokes(
        self, p: QPainter, ticks: np.ndarray, matches: np.ndarray, y: float, colour: QColor | None = None
    ) -> None:
        """Marks narrower than dots: a stroke each; firing tick after tick makes a bar."""
        if not len(ticks):
            return
        scale, fires = self.lanes.scale, colour or theme().fires
        breaks = np.flatnonzero(np.diff(ticks) > 1) + 1
        starts, ends = np.concatenate(([0], breaks)), np.concatenate((breaks, [len(ticks)]))
        first, last = ticks[starts], ticks[ends - 1]
        long = (last - first) * scale.pixels >= 7
        for a, b in zip(first[long].tolist(), last[long].tolist(), strict=True):
            p.fillRect(QRectF(scale.x(a), y - 5, (b - a + 1) * scale.pixels, 10), with_alpha(fires, 0.6))
        # one stroke a pixel, as tall as its most matches
        single = np.repeat(~long, ends - starts)
        x = np.round(scale.left + (ticks[single] + 0.5 - scale.first) * scale.pixels).astype(int)
        columns, at = np.unique(x, return_inverse=True)
        most = np.zeros(len(columns), dtype=int)
        np.maximum.at(most, at, matches[single])
        halves = np.where(most < 2, 5, np.minimum(10, 6 + most // 2))
        middle = int(y)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(fires)
        # all at once and without smoothing, which upright bars do not need: a lane of them in a tenth of the time
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.drawRects(
            [
                QRect(column - 1, middle - half, 2, 2 * half)
                for column, half in zip(columns.tolist(), halves.tolist(), strict=True)
            ]
        )
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _mark(
        self, p: QPainter, tick: int, position: int, matches: int, way: Way, y: float, room: float
    ) -> None:
        """One firing; `room` are the pixels to the next one's mark, so that a count is never written over another."""
        scale, t = self.lanes.scale, theme()
        numbered = scale.pixels >= NUMBERED
        count = self.lanes.data.run.trace.count_at(tick)
        x = scale.mark_x(tick, position, count) if numbered else scale.middle(tick)
        radius = 9.5 if numbered else min(4.5, scale.pixels / 2)
        resumed = way is Way.RESUMED
        p.setPen(QPen(t.fires, 1.7))
        p.setBrush(t.paper if resumed else t.fires)
        shape = QRectF(x - radius, y - radius, 2 * radius, 2 * radius)
        if way is Way.ELSE:
            p.drawRoundedRect(shape.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        else:
            p.drawEllipse(shape)
        cursor = self.lanes.bench.cursor
        if cursor.step == 0 and (tick, position) == (cursor.tick, cursor.position):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.cursor, 2))
            p.drawEllipse(shape.adjusted(-3, -3, 3, 3))
        if numbered:
            p.setFont(text_font(-1, bold=True))
            p.setPen(t.fires if resumed else t.on_fires)
            p.drawText(shape, Qt.AlignmentFlag.AlignCenter, str(position))
            if matches > 1:
                p.setFont(figures(-2.5, bold=True))
                p.setPen(t.fires)
                p.drawText(QPointF(x + radius + 1, y - radius + 5), f"×{matches}")
        elif matches > 1 and scale.pixels >= 12:
            p.setFont(figures(-3))
            if p.fontMetrics().horizontalAdvance(f"×{matches}") < room:
                p.setPen(t.fires)
                p.drawText(QPointF(x + radius, y - radius + 2), f"×{matches}")

    def _compared(self, p: QPainter, rule: int, y: float, colour: QColor) -> None:
        """Marks only in the run before the edit: empty diamonds. Only in this one: a bar under the mark."""
        scale = self.lanes.scale
        low, high = scale.tick(scale.left) - 1, scale.last
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour, 1.3, Qt.PenStyle.DashLine))
        size = 7.0 if scale.pixels >= DOTTED else 4.0
        for tick in self.lanes.bench.shown.comparison.gone.get(rule, ()):
            if low <= tick <= high:
                x = scale.middle(tick)
                p.drawPolygon(
                    QPolygonF(
                        [
                            QPointF(x, y - size),
                            QPointF(x + size, y),
                            QPointF(x, y + size),
                            QPointF(x - size, y),
                        ]
                    )
                )
        p.setPen(QPen(with_alpha(colour, 0.8), 1.1, Qt.PenStyle.DotLine))
        for before, now in self.lanes.bench.shown.comparison.moved.get(rule, ()):
            # one that has moved: from where it was to where it is
            if (
                low <= max(before, now)
                and min(before, now) <= high
                and abs(now - before) * scale.pixels > 3 * size
            ):
                way = 1 if now > before else -1
                p.drawLine(
                    QPointF(scale.middle(before) + way * size, y + 10),
                    QPointF(scale.middle(now) - way * 4, y + 12),
                )
        p.setPen(QPen(theme().cursor, 2.4))
        for tick in self.lanes.bench.shown.comparison.new.get(rule, ()):
            if low <= tick <= high:
                x = scale.middle(tick)
                p.drawLine(QPointF(x - 4, y + 12), QPointF(x + 4, y + 12))


def _fault_mark(p: QPainter, at: QPointF) -> None:
    t = theme()
    p.setPen(QPen(t.paper, 1))
    p.setBrush(t.fault)
    p.drawPolygon(
        QPolygonF(
            [QPointF(at.x(), at.y() - 5), QPointF(at.x() + 5, at.y() + 4), QPointF(at.x() - 5, at.y() + 4)]
        )
    )
