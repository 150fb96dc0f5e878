"""Dialogs for saving and adding a kit: which kinds, and what to do about names that both have."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.plain import Words
from gatillo.files.kits import Clash
from gatillo.language.renaming import Sort
from gatillo.level.model import Level


class KitKinds(QDialog):
    """Which kinds go into a kit, and its name."""

    def __init__(self, level: Level, chosen: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Save a kit")
        column = QVBoxLayout(self)
        words = Words(
            "Choose the kinds of the kit. The rules that use them are saved with them, and everything that those rules need."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        self.list = QListWidget()
        self.list.setObjectName("kit-kinds")
        self.list.setAccessibleName("Kinds of the kit")
        for kind in level.kinds:
            item = QListWidgetItem(kind.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if kind.name == chosen else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        column.addWidget(self.list)
        self.name = QLineEdit(chosen or level.name)
        self.name.setAccessibleName("Name of the kit")
        form = QFormLayout()
        form.addRow("name", self.name)
        column.addLayout(form)
        column.addWidget(_buttons(self))

    def kinds(self) -> list[str]:
        """Return the kinds that are ticked."""
        items = [self.list.item(at) for at in range(self.list.count())]
        return [item.text() for item in items if item.checkState() == Qt.CheckState.Checked]


class KitClashes(QDialog):
    """Names that the level has too: each can be given another, or kept to mean the level's own."""

    def __init__(self, found: list[Clash], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Names that this level has already")
        self.resize(520, 240)
        column = QVBoxLayout(self)
        words = Words(
            "The kit has names that this level has too. Choose another name to keep both, "
            "or the same name to use the level's own for both."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        self.fields: dict[tuple[Sort, str], QLineEdit] = {}
        for clash in found:
            field = QLineEdit(clash.name if clash.same else clash.free)
            field.setObjectName(f"clash-{clash.name}")
            label = f"{clash.sort} {clash.name}" + (
                " (the same here)" if clash.same else " (another one here)"
            )
            field.setAccessibleName(label)
            form.addRow(label, field)
            self.fields[(clash.sort, clash.name)] = field
        column.addLayout(form)
        column.addWidget(_buttons(self))

    def names(self) -> dict[tuple[Sort, str], str]:
        """Return the name each is to have."""
        return {key: field.text().strip() or key[1] for key, field in self.fields.items()}


def _buttons(dialog: QDialog) -> QDialogButtonBox:
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    return buttons
