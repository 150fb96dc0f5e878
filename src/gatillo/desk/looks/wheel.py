"""The wheel over a field: it scrolls the page, and changes a value only in a field that was clicked."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QWidget


class _Clicked(QObject):
    """Watches a field: whether it was clicked and has kept the focus since."""

    def __init__(self, field: QWidget) -> None:
        super().__init__(field)
        self.field = field
        self.clicked = False

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress:
            self.clicked = True
        elif kind == QEvent.Type.FocusOut and not self.field.hasFocus():
            self.clicked = False
        elif kind == QEvent.Type.Wheel and not self.clicked:
            # ignored, it goes on to the page that the field is on
            event.ignore()
            return True
        return False


def scrolls_unless_clicked(field: QWidget) -> None:
    """Make the wheel scroll the page when it is over a field that was not clicked."""
    field.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    watcher = _Clicked(field)
    for widget in (field, *field.findChildren(QWidget)):
        widget.installEventFilter(watcher)
