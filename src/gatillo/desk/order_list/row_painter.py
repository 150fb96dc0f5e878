"""Painting the left half of the order list: numbers, switches, folds, sentences, and the header."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.lane_painter import LanePainter
from gatillo.desk.order_list.list_state import ListState, reached_of
from gatillo.desk.order_list.row_sizes import HEADER, NUMBER_X, ROW, SWITCH
from gatillo.desk.order_list.rows import Row
from gatillo.desk.session.answers import PARTLY
from gatillo.desk.session.glow import Glow, goes_on


class RowPainter:
    """Paints the left half of rows; `focused`: whether keys act on them."""

    def __init__(self, state: ListState, geometry: ListGeometry, *, focused: bool) -> None:
        self.state = state
        self.geometry = geometry
        self.focused = focused
        self.glow = Glow(state.bench) if goes_on(state.bench) else None
        """What is lit, while the run goes on."""

    def header(self, p: QPainter, whole: QRectF, painter: LanePainter) -> None:
        """The head of the list, with the ruler of its lanes."""
        t = theme()
        p.fillRect(QRectF(0, 0, whole.width(), HEADER), t.field)
        p.setPen(t.ink)
        p.setFont(text_font(0, bold=True))
        p.drawText(QPointF(NUMBER_X, 18), "Order")
        after = NUMBER_X + p.fontMetrics().horizontalAdvance("Order") + 12
        rules = self.state.bench.program.rules
        graphs = sum(rule.graph is not None and rule.graph.drawn is None for rule in rules)
        plain = len(rules) - graphs
        words = f"{plain} rule{'s' if plain != 1 else ''}"
        if graphs:
            words += f" and {graphs} graph{'s' if graphs != 1 else ''}"
        p.setFont(text_font(-1))
        p.setPen(t.quiet)
        room = int(self.geometry.scale.left - after - 6)
        whole_words = f"{words}, from top to bottom in each tick"
        p.drawText(
            QPointF(after, 18), p.fontMetrics().elidedText(whole_words, Qt.TextElideMode.ElideRight, room)
        )
        p.setClipRect(QRectF(self.geometry.scale.left, 0, self.geometry.scale.width, HEADER))
        painter.frame.ruler(p, QRectF(self.geometry.scale.left, 0, self.geometry.scale.width, HEADER))
        painter.frame.flags(p, QRectF(self.geometry.scale.left, 0, self.geometry.scale.width, HEADER))
        x = painter.frame.cursor_x()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon([QPointF(x - 6, HEADER - 7), QPointF(x + 6, HEADER - 7), QPointF(x, HEADER)])
        p.setClipping(False)
        p.setPen(QPen(t.hairline, 1))
        p.drawLine(QPointF(0, HEADER - 0.5), QPointF(whole.width(), HEADER - 0.5))

    def divide(self, p: QPainter, whole: QRectF) -> None:
        """The line between the halves."""
        x = self.geometry.scale.left - 0.5
        p.setPen(QPen(theme().hairline, 1))
        p.drawLine(QPointF(x, 0), QPointF(x, whole.height()))

    def ground(self, p: QPainter, at: int) -> None:
        """The ground of a row: a section's, or that of the selected rule."""
        t, row, area = theme(), self.state.rows[at], self.geometry.row_area(at)
        if row.sort == "section":
            p.fillRect(area, t.field)
        elif row.entry is not None and row.entry.id == self.state.bench.selection.rule:
            p.fillRect(QRectF(area.left(), area.top(), self.geometry.scale.left, ROW), t.selected)
            p.fillRect(
                QRectF(self.geometry.scale.left, area.top(), self.geometry.scale.width, ROW), t.selected
            )
        if self.glow is not None and row.sort in ("rule", "graph") and row.rule_index is not None:
            light = self.glow.of(self.state.lanes.last_fired(row.rule_index, self.state.bench.cursor.tick)[1])
            if light:
                p.fillRect(
                    QRectF(area.left(), area.top(), self.geometry.scale.left, ROW),
                    with_alpha(t.fires, 0.30 * light),
                )
        if not (
            row.sort in ("line", "card")
            or (at + 1 < len(self.state.rows) and self.state.rows[at + 1].sort in ("line", "card"))
        ):
            # a filled rectangle: an antialiased line this long takes many times as long
            p.fillRect(QRectF(area.left(), area.bottom() - 1, area.width(), 1), t.hairline)

    def left(self, p: QPainter, at: int) -> None:
        """The left half: number, switch, fold, and the sentence."""
        t, row, area = theme(), self.state.rows[at], self.geometry.row_area(at)
        if at == self.state.current and self.focused:
            p.fillRect(QRectF(0, area.top(), 3, ROW), t.cursor)
        middle = area.center().y()
        if row.sort in ("section", "rule", "graph") or row.keys:
            self.fold(p, 64.0 if row.entry else 22.0, middle, row.folded)
        if row.sort in ("rule", "graph"):
            p.setFont(text_font(-1))
            p.setPen(t.quiet)
            p.drawText(
                QRectF(4, area.top(), 28, ROW),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                row.number,
            )
        if row.sort in ("rule", "graph"):
            self.switch(p, area, row)
        entry = row.entry if row.sort in ("rule", "graph", "card") else None
        if entry is not None and self.state.bench.stops_at(entry.id, row.card if row.sort == "card" else 0):
            # a run pauses here: a post where its lane begins
            p.fillRect(QRectF(self.geometry.scale.left - 6, area.top() + 5, 4, ROW - 10), t.ink)
        current = None
        if at == self.state.current and self.state.current_slot >= 0:
            slots = self.state.slots_of(at)
            current = slots[self.state.current_slot] if self.state.current_slot < len(slots) else None
        text = self.geometry.text_area(at)
        if row.problem or reached_of(self.state, row):
            text = text.adjusted(0, 0, -18, 0)
        if self.glow is not None and row.sort in ("rule", "graph") and row.rule_index is not None:
            text = text.adjusted(0, 0, -self._count(p, row.rule_index, text), 0)
        index = self.state.bench.program.index
        self.geometry.words.paint(
            p, self.geometry.words.lay_out(row.words, index), text, index, row.on, current
        )
        reached = reached_of(self.state, row)
        if reached and not row.problem:
            # a ring where no trial comes, half of one where they come a part of the way
            ring = QRectF(self.geometry.scale.left - 16, middle - 4.5, 9, 9)
            p.setPen(QPen(t.finding, 1.5))
            p.setBrush(Qt.BrushStyle.NoBrush)
            if reached.startswith((PARTLY, "it ")):
                p.drawArc(ring, 90 * 16, 180 * 16)
            else:
                p.drawEllipse(ring)
        if row.problem:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.finding)
            x = self.geometry.scale.left - 14
            p.drawPolygon([QPointF(x, middle - 5), QPointF(x + 6, middle + 5), QPointF(x - 6, middle + 5)])

    def _count(self, p: QPainter, rule_index: int, text: QRectF) -> float:
        """Write how often a rule has fired at the end of its row; return the room that takes."""
        many, last = self.state.lanes.last_fired(rule_index, self.state.bench.cursor.tick)
        if not many or self.glow is None:
            return 0.0
        words = f"{many:,} ×"
        p.setFont(figures(-1, bold=self.glow.of(last) > 0))
        p.setPen(theme().fires if self.glow.of(last) else theme().quiet)
        wide = p.fontMetrics().horizontalAdvance(words) + 8
        p.drawText(text, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        return float(wide)

    def fold(self, p: QPainter, x: float, y: float, folded: bool) -> None:
        """The sign that something can be folded or unfolded."""
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme().quiet)
        if folded:
            p.drawPolygon([QPointF(x - 2, y - 4), QPointF(x + 3, y), QPointF(x - 2, y + 4)])
        else:
            p.drawPolygon([QPointF(x - 4, y - 2), QPointF(x + 4, y - 2), QPointF(x, y + 3)])

    def switch(self, p: QPainter, area: QRectF, row: Row) -> None:
        """A rule's switch: full while it is on, quiet where its section is off."""
        t = theme()
        own = row.entry.on if row.entry is not None else row.on
        box = SWITCH.translated(0, area.top())
        p.setPen(QPen(t.quiet, 1.2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(box.adjusted(1, 1, -1, -1))
        if own:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.ink if row.on else t.quiet)
            p.drawEllipse(box.adjusted(3.4, 3.4, -3.4, -3.4))
