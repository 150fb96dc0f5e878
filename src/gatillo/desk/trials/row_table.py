"""A table of whole rows: one column takes the room that is left, Enter and a second click do what the row is for."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget

from gatillo.desk.looks.theme import theme

CELL = 4
"""Pixels between a cell's text and its edges."""


class RowTable(QTableWidget):
    """Rows that are selected as a whole. Cells are not edited."""

    entered_row = Signal(int)
    """Enter was pressed on a row, or it was clicked twice."""
    removed_row = Signal(int)
    """Del was pressed on a row."""

    def __init__(self, headings: Sequence[str], name: str, *, wide: int, several: bool = True) -> None:
        """Make it with these headings; the column numbered `wide` takes the room that is left."""
        super().__init__(0, len(headings))
        self.setHorizontalHeaderLabels(list(headings))
        self.setAccessibleName(name)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        mode = QAbstractItemView.SelectionMode
        self.setSelectionMode(mode.ExtendedSelection if several else mode.SingleSelection)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setWordWrap(True)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(wide, QHeaderView.ResizeMode.Stretch)
        if not any(headings):
            header.hide()
        # words that wrap need another height when the room is another
        header.sectionResized.connect(lambda *_: self.resizeRowsToContents())
        self.cellDoubleClicked.connect(lambda at, _: self.entered_row.emit(at))
        self.restyle()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        at = self.currentRow()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and at >= 0:
            self.entered_row.emit(at)
        elif event.key() == Qt.Key.Key_Delete and at >= 0:
            self.removed_row.emit(at)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        # Del is a command of the window too; here it is for the row
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Delete
            and event.modifiers() == Qt.KeyboardModifier.NoModifier
        ):
            event.accept()
            return True
        return super().event(event)

    def restyle(self) -> None:
        """The theme or the font has changed."""
        t = theme()
        self.setStyleSheet(
            f"QTableWidget {{ background: {t.panel.name()}; border: 1px solid {t.hairline.name()}; outline: 0; }}"
            f"QTableWidget:focus {{ border: 1px solid {t.cursor.name()}; }}"
            f"QTableWidget::item {{ padding: {CELL}px 0; border-bottom: 1px solid {t.hairline.name()}; }}"
            f"QTableWidget::item:selected {{ background: {t.selected.name()}; color: {t.ink.name()}; }}"
            f"QHeaderView::section {{ background: {t.field.name()}; color: {t.quiet.name()}; border: none;"
            f" padding: {CELL}px; }}"
        )
