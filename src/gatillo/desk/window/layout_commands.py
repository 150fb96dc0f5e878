"""Layouts in and out: a drawing or a table of objects taken into the level, and the level written as one."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.desk.session.page import Page
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.files.layout.objects_csv import Taken, objects_as_csv, take_csv
from gatillo.files.layout.svg_out import level_svg
from gatillo.level.model import Level

if TYPE_CHECKING:
    from gatillo.files.layout.svg_in import Drawing

LAYOUTS = "Layouts (*.svg *.csv)"


class LayoutCommands:
    """What the Level menu does with layouts."""

    def __init__(self, bench: Workbench, window: QWidget) -> None:
        self.bench = bench
        self.window = window

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {"take layout": self.take, "save layout": self.save}

    def take(self) -> None:
        """Ask for a drawing or a table, show what its shapes become, and take it into the level."""
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Lay out from a file", "", LAYOUTS)
        if chosen:
            self.take_file(Path(chosen))

    def take_file(self, path: Path) -> None:
        """Take a drawing or a table into the level."""
        try:
            text = path.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            said = error.strerror if isinstance(error, OSError) else "it is not text in UTF-8"
            self.bench.notify(f"“{path.name}” was not read: {said}.")
            return
        level = self.bench.level
        if path.suffix.lower() == ".csv":
            self._done(path, take_csv(level, text))
            return
        # not at the start of the program: it takes a while to load
        from gatillo.files.layout.svg_in import NoDrawing, read_drawing, take_drawing

        try:
            drawing = read_drawing(text)
        except NoDrawing as error:
            self.bench.notify(f"“{path.name}” was not read: {error}.")
            return
        if not drawing.shapes:
            self.bench.notify(f"“{path.name}” has no shapes.")
            return
        dialog = LayoutDialog(level, drawing, path.name, self.window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self._done(path, take_drawing(level, drawing, dialog.table()))

    def _done(self, path: Path, taken: Taken) -> None:
        bench = self.bench
        if taken.level != bench.level:
            bench.edit(taken.level, f"lay out from {path.name}")
        bench.notify(f"“{path.name}”: {taken.words()}.")
        if taken.problems:
            bench.answers.show(Page(f"The layout “{path.name}”", [f"{taken.words()}:", *taken.problems]))

    def save(self) -> None:
        """Ask for a file, and write the level as laid out as a drawing, or its objects as a table."""
        chosen, sort = QFileDialog.getSaveFileName(
            self.window, "Save the layout", "", "Drawings (*.svg);;Tables of objects (*.csv)"
        )
        if not chosen:
            return
        path = Path(chosen)
        if path.suffix.lower() not in (".svg", ".csv"):
            path = path.with_name(path.name + (".csv" if "csv" in sort else ".svg"))
        level = self.bench.level
        text = objects_as_csv(level) if path.suffix.lower() == ".csv" else level_svg(level)
        try:
            path.write_text(text, encoding="utf-8")
        except OSError as error:
            self.bench.notify(f"“{path.name}” was not written: {error.strerror or error}.")
            return
        self.bench.notify(
            f"The layout is in “{path.name}”. Change it there, and take it in again: rules stay."
        )


class LayoutDialog(QDialog):
    """What the shapes of a drawing become: a row for each layer, class or name."""

    def __init__(self, level: Level, drawing: Drawing, name: str, parent: QWidget) -> None:
        from gatillo.files.layout.svg_in import AREA, GROUND, NOTHING, ROUTE, SPOT, suggested

        super().__init__(parent)
        self.setWindowTitle("Lay out from a drawing")
        self.resize(520, 420)
        column = QVBoxLayout(self)
        words = (
            f"“{name}”, {drawing.width:g} × {drawing.height:g}, has these layers. A shape with the name of a thing that is there "
            "moves it; all others are new."
        )
        head = Words(words)
        head.setWordWrap(True)
        column.addWidget(head)
        guesses, many = suggested(level, drawing), drawing.rows()
        self.rows = QTableWidget(len(many), 3)
        self.rows.setObjectName("layout-rows")
        self.rows.setHorizontalHeaderLabels(["Layer, class or name", "Shapes", "Become"])
        self.rows.verticalHeader().hide()
        self.rows.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.choices: dict[str, QComboBox] = {}
        for at, (row, shapes) in enumerate(many.items()):
            self.rows.setItem(at, 0, QTableWidgetItem(row))
            self.rows.setItem(at, 1, QTableWidgetItem(str(shapes)))
            box = QComboBox()
            box.setAccessibleName(f"{row}: become")
            box.addItems([NOTHING, *(kind.name for kind in level.kinds), AREA, ROUTE, SPOT, GROUND])
            box.setCurrentText(guesses[row])
            scrolls_unless_clicked(box)
            self.rows.setCellWidget(at, 2, box)
            self.choices[row] = box
        self.rows.setColumnWidth(2, 170)
        self.rows.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        column.addWidget(self.rows)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton("Lay out", QDialogButtonBox.ButtonRole.AcceptRole).setDefault(True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def table(self) -> dict[str, str]:
        """Return what the shapes of each row become."""
        return {row: box.currentText() for row, box in self.choices.items()}
