"""The table of keys: every command with its keys, which can be changed, and what the mouse does."""

from __future__ import annotations

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QKeySequenceEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.plain import Words
from gatillo.desk.window.command_finder import plain
from gatillo.desk.window.commands import by_menu

POINTING = (
    "In the order list: any letter begins a new line of the rule, Ctrl+Enter a new rule; arrows walk rules and ticks, "
    "Tab walks the slots of a rule, Enter edits one, Space switches on or off. Ctrl and wheel zoom time, Shift and wheel "
    "scroll it; a click on a mark goes there.\n"
    "In the lanes of the input: drag a key's bar to move it, its ends to stretch it, empty room to draw one; Del removes "
    "the one that was clicked, Shift and arrows move it, Alt, Shift and arrows stretch it. Drag from one mark to another "
    "to say what must hold of the two.\n"
    "In the level: drag moves, Shift adds to the selection, Page Down selects the next object, arrows nudge; the ring "
    "turns an object, the square scales it. Wheel zooms, Space and drag pans.\n"
    "Without a pointer: Ctrl+Tab goes to the next part of the window, Enter presses a button."
)


def chosen_keys(settings: QSettings, actions: dict[str, QAction]) -> None:
    """Give commands the keys that the user has chosen for them."""
    for name, action in actions.items():
        keys = settings.value(f"keys/{name}")
        if isinstance(keys, str):
            action.setShortcut(QKeySequence(keys))


class KeysDialog(QDialog):
    """A table of commands in the order of the menus; their keys can be changed in its right column."""

    def __init__(self, actions: dict[str, QAction], settings: QSettings, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys and mouse")
        self.actions_ = actions
        self.settings = settings
        self.resize(620, 560)
        column = QVBoxLayout(self)
        words = Words(POINTING)
        words.setWordWrap(True)
        words.setObjectName("quiet")
        column.addWidget(words)
        groups = by_menu()
        self.table = QTableWidget(len(actions) + len(groups), 2)
        self.table.setHorizontalHeaderLabels(["command", "keys"])
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.setColumnWidth(0, 360)
        self.editors: dict[str, QKeySequenceEdit] = {}
        row = 0
        for menu, names in groups.items():
            self._add_heading(row, menu)
            for below, name in enumerate(names, 1):
                self._add_command(row + below, name)
            row += 1 + len(names)
        column.addWidget(self.table, 1)
        self.problem = Words()
        column.addWidget(self.problem)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _add_heading(self, row: int, menu: str) -> None:
        heading = QTableWidgetItem(menu)
        heading.setFlags(Qt.ItemFlag.ItemIsEnabled)
        font = heading.font()
        font.setBold(True)
        heading.setFont(font)
        self.table.setItem(row, 0, heading)
        self.table.setSpan(row, 0, 1, 2)

    def _add_command(self, row: int, name: str) -> None:
        action = self.actions_[name]
        item = QTableWidgetItem(plain(action))
        item.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.table.setItem(row, 0, item)
        editor = QKeySequenceEdit(action.shortcut())
        editor.setAccessibleName(f"Keys for {plain(action)}")
        editor.editingFinished.connect(lambda: self._take(name))
        self.table.setCellWidget(row, 1, editor)
        self.editors[name] = editor

    def _take(self, name: str) -> None:
        keys = self.editors[name].keySequence()
        other = next(
            (
                a
                for n, a in self.actions_.items()
                if n != name and not keys.isEmpty() and a.shortcut() == keys
            ),
            None,
        )
        if other is not None:
            self.problem.setText(f"{keys.toString()} is already “{plain(other)}”; choose other keys.")
            self.editors[name].setKeySequence(self.actions_[name].shortcut())
            return
        self.problem.setText("")
        self.actions_[name].setShortcut(keys)
        self.settings.setValue(f"keys/{name}", keys.toString())
