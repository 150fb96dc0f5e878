"""Undo while the keyboard is in a field: first what is typed there and not yet taken, else the level's last edit."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QLineEdit, QWidget


class FieldUndo(QObject):
    """Leaves the keys of undo and redo to the window, where a field has nothing of its own to take back.

    A field by itself takes these keys even when it has nothing to undo, so that they would do nothing.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        # only where the keyboard is: a filter of the whole application is called for every event of every widget
        app.focusChanged.connect(self._follow)
        self._follow(None, app.focusWidget())

    def _follow(self, old: QWidget | None, new: QWidget | None) -> None:
        if old is not None:
            old.removeEventFilter(self)
        if isinstance(new, QLineEdit | QAbstractSpinBox):
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
            return False
        # a number field asks its own line edit, past every filter
        field = watched.lineEdit() if isinstance(watched, QAbstractSpinBox) else watched
        if not isinstance(field, QLineEdit):
            return False
        undoes = event.matches(QKeySequence.StandardKey.Undo)
        if not undoes and not event.matches(QKeySequence.StandardKey.Redo):
            return False
        own = field.isUndoAvailable() if undoes else field.isRedoAvailable()
        if own and field.isModified():
            return False
        event.ignore()
        return True
