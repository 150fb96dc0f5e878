"""The dialog of “Copy with …”: what the selected rules name, and what stands for it in the copy."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.language.copying import Named

MOST_FINDINGS = 4
PAUSE = 250
"""Milliseconds after a choice until the findings of the copy are looked for."""


class CopyWith(QDialog):
    """A field for each thing that is named, with what stands for it, and what would be wrong with the copy."""

    def __init__(
        self,
        what: str,
        named: list[Named],
        choices: Callable[[Named], list[str]],
        look: Callable[[dict[Named, str], bool], list[str]],
        parent: QWidget,
    ) -> None:
        """Ask about `named`; `choices` gives what may stand for a thing, `look` the findings of a copy."""
        super().__init__(parent)
        self.setWindowTitle("Copy with …")
        self.resize(520, 420)
        self._look = look
        column = QVBoxLayout(self)
        words = Words(
            f"A copy of {what}. Choose what stands for each thing that it names; what stays the same, stays."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        form = QFormLayout()
        self.fields: dict[Named, QComboBox] = {}
        for one in named:
            field = QComboBox()
            field.setEditable(True)
            field.addItems(choices(one))
            field.setCurrentText(one.name)
            field.setObjectName(f"becomes-{one.name}")
            field.setAccessibleName(f"{one.sort} {one.name} becomes")
            scrolls_unless_clicked(field)
            field.currentTextChanged.connect(self._later)
            form.addRow(f"{one.sort} {one.name}", field)
            self.fields[one] = field
        box = QWidget()
        box.setLayout(form)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(box)
        column.addWidget(area, 1)
        self.make = QCheckBox("make variables that are missing")
        self.make.setChecked(True)
        self.make.toggled.connect(self._later)
        column.addWidget(self.make)
        self.found = Words("")
        self.found.setObjectName("copy-findings")
        self.found.setWordWrap(True)
        column.addWidget(self.found)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.button(QDialogButtonBox.StandardButton.Ok).setText("Copy")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self._timer = QTimer(self, interval=PAUSE, singleShot=True)
        self._timer.timeout.connect(self.look)
        self.look()

    def names(self) -> dict[Named, str]:
        """Return what stands for each thing."""
        return {one: field.currentText().strip() or one.name for one, field in self.fields.items()}

    def _later(self) -> None:
        self._timer.start()

    def done(self, result: int) -> None:
        # what is selected by then may be something else
        self._timer.stop()
        super().done(result)

    def look(self) -> None:
        """Say what would be wrong with the copy."""
        found = self._look(self.names(), self.make.isChecked())
        more = len(found) - MOST_FINDINGS
        lines = [f"▲ {line}" for line in found[:MOST_FINDINGS]] + ([f"… and {more} more"] if more > 0 else [])
        self.found.setText("\n".join(lines) or "The copy has no findings.")
