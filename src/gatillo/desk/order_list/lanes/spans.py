"""One row's lane: input bars, waits, what was considered and dropped, watches, verdicts."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.looks.theme import text_font, theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.lanes.curves import CurvePainter
from gatillo.desk.order_list.lanes.scale import DOTTED
from gatillo.desk.order_list.rows import Row
from gatillo.sim.world.input_script import tick_at


class LaneRowPainter:
    """Paints lanes, but for the marks of firings."""

    def __init__(self, lanes: Lanes, curves: CurvePainter) -> None:
        self.lanes = lanes
        self.curves = curves

    def row(self, p: QPainter, row: Row, area: QRectF) -> None:
        """One row's lane, but for the marks that lie over the thread."""
        if row.sort == "input":
            self._input(p, row, area)
        elif row.sort == "section":
            self._merged(p, row, area)
        elif row.sort == "watch":
            self.curves.watch(p, row, area)
        elif row.sort == "expectation":
            self._verdict(p, row, area)
        elif row.sort in ("rule", "graph") and row.rule_index is not None:
            if self.lanes.overlaid is not None:
                self._before_edit(p, self.lanes.overlaid.lane(row.rule_index).tick, area)
            self._spans(p, row, area)
            self._dropped(p, row, area)

    def _before_edit(self, p: QPainter, ticks: np.ndarray, area: QRectF) -> None:
        """Paint when a rule fired in the run before the edit, pale, where the new run has not come to yet."""
        ticks = self.lanes.in_sight(ticks[ticks > self.lanes.data.ticks])
        pixels = np.unique(
            np.round(self.lanes.scale.left + (ticks + 0.5 - self.lanes.scale.first) * self.lanes.scale.pixels)
        )
        p.setPen(QPen(with_alpha(theme().fires, 0.35), 2))
        middle = area.center().y()
        p.drawLines([QLineF(x, middle - 4, x, middle + 4) for x in pixels.tolist()])

    def _input(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale, rate = theme(), self.lanes.scale, self.lanes.bench.program.rate
        bars = [(tick_at(b.start, rate), tick_at(b.end, rate)) for b in row.bars]
        p.setBrush(with_alpha(t.input, 0.3) if row.pale else t.input)
        for (start, end), bar in zip(bars, row.bars, strict=True):
            left, right = max(scale.x(start), area.left() - 4), min(scale.x(end), area.right() + 4)
            if right >= left:
                chosen = bar == self.lanes.chosen_bar and not row.keys
                p.setPen(QPen(t.ink, 1.6) if chosen else Qt.PenStyle.NoPen)
                p.drawRoundedRect(QRectF(left, area.center().y() - 5, max(2.0, right - left), 10), 2, 2)

    def _merged(self, p: QPainter, row: Row, area: QRectF) -> None:
        if not row.rule_indices:
            return
        p.setPen(QPen(with_alpha(theme().fires, 0.75), 2))
        for x in np.unique(
            np.round(
                self.lanes.scale.left
                + (
                    self.lanes.in_sight(self.lanes.data.merged(row.rule_indices))
                    + 0.5
                    - self.lanes.scale.first
                )
                * self.lanes.scale.pixels
            )
        ):
            p.drawLine(QPointF(x, area.center().y() - 5), QPointF(x, area.center().y() + 5))

    def _spans(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale = theme(), self.lanes.scale
        if row.rule_index is None or row.rule_index >= len(self.lanes.bench.program.rules):
            return
        rule = self.lanes.bench.program.rules[row.rule_index]
        middle = area.center().y()
        if rule.limits.rest:
            marks = self.lanes.data.lane(row.rule_index)
            for tick in marks.tick[
                marks.between(scale.tick(area.left()) - rule.limits.rest, scale.last)
            ].tolist():
                box = QRectF(scale.middle(tick), middle - 4, rule.limits.rest * scale.pixels, 8)
                p.fillRect(box, with_alpha(t.fires, 0.16))
                if box.width() > 90:
                    p.setFont(text_font(-2))
                    p.setPen(t.fires)
                    p.drawText(
                        box.adjusted(22, -4, 0, 4),
                        Qt.AlignmentFlag.AlignVCenter,
                        f"resting {rule.source.cooldown:g} s",
                    )
        if any(line.entry.derived.waits for line in (*rule.do, *rule.else_)):
            p.setPen(QPen(with_alpha(t.fires, 0.5), 1.4, Qt.PenStyle.DotLine))
            for start, due in self.lanes.data.waits(
                row.rule_index, scale.tick(area.left()) - 600, scale.last
            ):
                p.drawLine(QPointF(scale.middle(start), middle), QPointF(scale.middle(due), middle))

    def _dropped(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale = theme(), self.lanes.scale
        if scale.pixels < DOTTED or row.rule_index is None:
            return
        p.setPen(QPen(with_alpha(t.quiet, 0.55), 1.1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        radius = min(3.6, scale.pixels / 4)
        for tick in self.lanes.in_sight(self.lanes.data.dropped(row.rule_index)).tolist():
            p.drawEllipse(QPointF(scale.middle(tick), area.center().y()), radius, radius)

    def _verdict(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale, verdict = theme(), self.lanes.scale, row.verdict
        if verdict is None:
            return
        colour = {"held": t.held, "failed": t.fault}.get(verdict.outcome, t.finding)
        end = scale.x(self.lanes.data.ticks + 1)
        box = QRectF(scale.x(0), area.center().y() - 3, end - scale.x(0), 6).intersected(
            area.adjusted(0, 0, 0, 0)
        )
        if verdict.outcome == "held":
            p.fillRect(box, with_alpha(colour, 0.30))
            return
        p.setPen(QPen(with_alpha(colour, 0.6), 1.2, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(box.left(), area.center().y()), QPointF(box.right(), area.center().y()))
        if verdict.tick is not None:
            x, y = scale.middle(verdict.tick), area.center().y()
            p.setPen(QPen(colour, 2))
            p.drawLine(QPointF(x - 4, y - 4), QPointF(x + 4, y + 4))
            p.drawLine(QPointF(x - 4, y + 4), QPointF(x + 4, y - 4))
