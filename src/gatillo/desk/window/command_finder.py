"""The command finder: every command by a few letters of its name."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

ACTION = Qt.ItemDataRole.UserRole


def plain(action: QAction) -> str:
    """Return a command's name without the mark of its letter."""
    return action.text().replace("&", "").replace(" …", "")


class CommandFinder(QDialog):
    """Type, choose, Enter."""

    def __init__(self, actions: Iterable[QAction], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.commands = [a for a in actions if plain(a)]
        self.field = QLineEdit()
        self.field.setObjectName("command-search")
        self.field.setPlaceholderText("what do you want to do?")
        self.field.setAccessibleName("Search for a command")
        self.list = QListWidget()
        self.list.setObjectName("command-list")
        self.list.setAccessibleName("Commands")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(self)
        column.addWidget(self.field)
        column.addWidget(self.list)
        self.resize(460, 380)
        self.field.textChanged.connect(self.show_matching)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self.take())
        self.show_matching("")

    def show_matching(self, words: str) -> None:
        """List the commands that have all the words."""
        self.list.clear()
        wanted = words.lower().split()
        for action in self.commands:
            keys = action.shortcut().toString()
            text = plain(action)
            if all(word in f"{text} {action.toolTip()}".lower() for word in wanted):
                item = QListWidgetItem(f"{text}    {keys}" if keys else text)
                item.setData(ACTION, action)
                if not action.isEnabled():
                    item.setFlags(Qt.ItemFlag.NoItemFlags)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def take(self) -> None:
        """Do the chosen command."""
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            action: QAction = item.data(ACTION)
            self.accept()
            action.trigger()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
        return super().eventFilter(watched, event)
