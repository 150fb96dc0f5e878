"""Painting the left half of the order list: numbers, switches, folds, sentences, and the header."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.looks.theme import text_font, theme
from gatillo.desk.order_list.lane_painter import LanePainter, TimeScale
from gatillo.desk.order_list.measures import HEADER, NUMBER_X, ROW, SWITCH
from gatillo.desk.order_list.rows import Row, Word
from gatillo.desk.order_list.sentence_layout import SentenceLayout
from gatillo.desk.session.workbench import Workbench


class Page(Protocol):
    """What rows are painted from."""

    bench: Workbench
    rows: list[Row]
    scale: TimeScale
    layout_: SentenceLayout
    current: int
    current_slot: int

    def hasFocus(self) -> bool: ...

    def row_area(self, at: int) -> QRectF: ...

    def text_area(self, at: int) -> QRectF: ...

    def slots_of(self, at: int) -> list[Word]: ...


class RowPainter:
    """Paints rows of a view."""

    def __init__(self, view: Page) -> None:
        self.view = view

    def header(self, p: QPainter, whole: QRectF, painter: LanePainter) -> None:
        t = theme()
        p.fillRect(QRectF(0, 0, whole.width(), HEADER), t.field)
        p.setPen(t.ink)
        p.setFont(text_font(0, bold=True))
        p.drawText(QPointF(NUMBER_X, 18), "Order")
        rules = len(self.view.bench.program.turns)
        p.setFont(text_font(-1))
        p.setPen(t.quiet)
        p.drawText(
            QPointF(NUMBER_X + 52, 18),
            f"{rules} rule{'s' if rules != 1 else ''}, from top to bottom in each tick",
        )
        p.setClipRect(QRectF(self.view.scale.left, 0, self.view.scale.width, HEADER))
        painter.ruler(p, QRectF(self.view.scale.left, 0, self.view.scale.width, HEADER))
        x = painter.cursor_x()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon([QPointF(x - 6, HEADER - 7), QPointF(x + 6, HEADER - 7), QPointF(x, HEADER)])
        p.setClipping(False)
        p.setPen(QPen(t.hairline, 1))
        p.drawLine(QPointF(0, HEADER - 0.5), QPointF(whole.width(), HEADER - 0.5))

    def divide(self, p: QPainter, whole: QRectF) -> None:
        """The line between the halves."""
        x = self.view.scale.left - 0.5
        p.setPen(QPen(theme().hairline, 1))
        p.drawLine(QPointF(x, 0), QPointF(x, whole.height()))

    def ground(self, p: QPainter, at: int) -> None:
        """The ground of a row: a section's, or that of the selected rule."""
        t, row, area = theme(), self.view.rows[at], self.view.row_area(at)
        if row.sort == "section":
            p.fillRect(area, t.field)
        elif row.rule is not None and row.rule.id == self.view.bench.selection.rule:
            p.fillRect(QRectF(area.left(), area.top(), self.view.scale.left, ROW), t.selected)
            p.fillRect(QRectF(self.view.scale.left, area.top(), self.view.scale.width, ROW), t.selected)
        p.setPen(QPen(t.hairline, 1))
        if not (
            row.sort == "line" or (at + 1 < len(self.view.rows) and self.view.rows[at + 1].sort == "line")
        ):
            p.drawLine(QPointF(area.left(), area.bottom() - 0.5), QPointF(area.right(), area.bottom() - 0.5))

    def left(self, p: QPainter, at: int) -> None:
        """The left half: number, switch, fold, and the sentence."""
        t, row, area = theme(), self.view.rows[at], self.view.row_area(at)
        if at == self.view.current and self.view.hasFocus():
            p.fillRect(QRectF(0, area.top(), 3, ROW), t.cursor)
        middle = area.center().y()
        if row.sort in ("section", "rule"):
            self.fold(p, 22.0 if row.sort == "section" else 64.0, middle, row.folded)
        if row.sort == "rule":
            p.setFont(text_font(-1))
            p.setPen(t.quiet)
            p.drawText(
                QRectF(4, area.top(), 28, ROW),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                row.number,
            )
        if row.sort == "rule":
            self.switch(p, area, row)
        current = None
        if at == self.view.current and self.view.current_slot >= 0:
            slots = self.view.slots_of(at)
            current = slots[self.view.current_slot] if self.view.current_slot < len(slots) else None
        text = self.view.text_area(at)
        if row.problem:
            text = text.adjusted(0, 0, -18, 0)
        index = self.view.bench.program.index
        self.view.layout_.paint(p, self.view.layout_.lay_out(row.words, index), text, index, row.on, current)
        if row.problem:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.finding)
            x = self.view.scale.left - 14
            p.drawPolygon([QPointF(x, middle - 5), QPointF(x + 6, middle + 5), QPointF(x - 6, middle + 5)])

    def fold(self, p: QPainter, x: float, y: float, folded: bool) -> None:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme().quiet)
        if folded:
            p.drawPolygon([QPointF(x - 2, y - 4), QPointF(x + 3, y), QPointF(x - 2, y + 4)])
        else:
            p.drawPolygon([QPointF(x - 4, y - 2), QPointF(x + 4, y - 2), QPointF(x, y + 3)])

    def switch(self, p: QPainter, area: QRectF, row: Row) -> None:
        t = theme()
        own = row.rule.on if row.rule is not None else row.on
        box = SWITCH.translated(0, area.top())
        p.setPen(QPen(t.quiet, 1.2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(box.adjusted(1, 1, -1, -1))
        if own:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.ink if row.on else t.quiet)
            p.drawEllipse(box.adjusted(3.4, 3.4, -3.4, -3.4))
