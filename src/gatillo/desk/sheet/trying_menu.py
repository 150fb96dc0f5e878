"""“Try values …” in the menu of a number field."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit, QWidget

from gatillo.desk.session.workbench import Workbench


class TryingMenu(QObject):
    """Adds “Try values …” to the menu of a field with a number."""

    def __init__(self, bench: Workbench, field: QWidget, target: str) -> None:
        super().__init__(field)
        self.bench, self.target = bench, target
        line = field.findChild(QLineEdit) if isinstance(field, QDoubleSpinBox) else field
        self.line = line if isinstance(line, QLineEdit) else None
        for watched in (field, self.line):
            if watched is not None:
                watched.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QContextMenuEvent) or self.line is None:
            return False
        menu = self.line.createStandardContextMenu()
        menu.addSeparator()
        menu.addAction("Try values …", lambda: self.bench.tryWanted.emit(self.target))
        menu.popup(event.globalPos())
        return True
