"""Where things are in the order list, in pixels of its view."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtWidgets import QAbstractScrollArea

from gatillo.desk.order_list.lanes.scale import TimeScale
from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.row_sizes import HEADER, LINE_X, ROW, TEXT_X
from gatillo.desk.writing.sentence_layout import SentenceLayout
from gatillo.desk.writing.words import Word

_LEFT = {
    "line": LINE_X,
    "card": TEXT_X,
    "more": LINE_X,
    "note": LINE_X,
    "section": 34.0,
    "new": TEXT_X,
    "rule": TEXT_X,
    "graph": TEXT_X,
}


class ListGeometry:
    """Rows at the left, their lanes at the right; `area` is scrolled over them."""

    def __init__(self, state: ListState, area: QAbstractScrollArea) -> None:
        self.state = state
        self.area = area
        self.scale = TimeScale()
        self.words = SentenceLayout()
        self.split = 0.42
        """Which part of the width the rules have."""

    def lay_out(self) -> None:
        """Part the width between rules and lanes."""
        width = self.area.viewport().width()
        self.scale.left = float(round(width * self.split))
        self.scale.width = max(20.0, width - self.scale.left)

    def row_area(self, at: int) -> QRectF:
        """Return the whole width of a row."""
        top = HEADER + at * ROW - self.area.verticalScrollBar().value()
        return QRectF(0, top, self.area.viewport().width(), ROW)

    def row_at(self, y: float) -> int | None:
        """Return the row at a height, or None."""
        if y < HEADER:
            return None
        at = int((y - HEADER + self.area.verticalScrollBar().value()) // ROW)
        return at if 0 <= at < len(self.state.rows) else None

    def text_area(self, at: int) -> QRectF:
        """Return where a row's sentence is."""
        left = _LEFT.get(self.state.rows[at].sort, 40.0)
        return QRectF(left, self.row_area(at).top(), self.scale.left - left - 10, ROW)

    def lane_area(self, at: int) -> QRectF:
        """Return where a row's lane is."""
        return QRectF(self.scale.left, self.row_area(at).top(), self.scale.width, ROW)

    def word_area(self, at: int, word: Word) -> QRectF:
        """Return where a word of a row is."""
        area = self.text_area(at)
        for run in self.words.lay_out(self.state.rows[at].words, self.state.bench.program.index):
            if run.word == word:
                width = min(run.width, max(20.0, area.right() - area.left() - run.x))
                return QRectF(area.left() + run.x, area.top(), width, ROW)
        return area
