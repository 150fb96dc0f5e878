"""What must hold in the viewed trial: a row for each expectation with how it came out, and a line to type more."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QTableWidgetItem, QVBoxLayout, QWidget

from gatillo.desk.looks.plain import Words, tip
from gatillo.desk.looks.theme import theme
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.trials.row_table import RowTable
from gatillo.inspect.expectations import Outcome, Verdict
from gatillo.language.expectation_lines import ExpectationLineError, read_expectation
from gatillo.level import thing_edits
from gatillo.level.expectations import Expectation

MARKS: dict[Outcome, str] = {"held": "✓", "failed": "✗", "could not be judged": "?"}
MARK, SAID = range(2)
HINT = "type what must hold: level.pods = 3 at 1.5 s"
WHATEVER = "whatever is pressed"


class ExpectationList(QWidget):
    """The expectations of the viewed trial. Enter on a failed one goes to where it failed."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self._changed: int | None = None
        """Which expectation the typed line takes the place of; None where it is a new one."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(6)
        self.table = RowTable(("", ""), "What must hold in this trial", wide=SAID, several=False)
        self.table.entered_row.connect(self.go)
        self.table.removed_row.connect(self.remove)
        self.table.itemSelectionChanged.connect(self._on_selection)
        column.addWidget(self.table, 1)
        self.line = QLineEdit()
        self.line.setAccessibleName("What must hold, as a line")
        self.line.setPlaceholderText(HINT)
        self.line.returnPressed.connect(self.take)
        self.line.textEdited.connect(lambda _: self._say(""))
        self.said = Words("")
        self.said.setWordWrap(True)
        self.said.hide()
        column.addWidget(self.line)
        column.addWidget(self.said)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.show_it = QPushButton("Go to it")
        self.show_it.setToolTip(tip("Put the cursor where the selected expectation failed (Enter)"))
        self.show_it.clicked.connect(lambda: self.go(self.table.currentRow()))
        self.change = QPushButton("Change")
        self.change.setToolTip(tip("Put the selected expectation into the line, to be typed over"))
        self.change.clicked.connect(self.begin_change)
        self.whatever = QPushButton(WHATEVER.capitalize())
        self.whatever.setCheckable(True)
        self.whatever.setToolTip(
            tip("It must hold whatever is pressed: exploring looks for input that breaks it")
        )
        self.whatever.clicked.connect(self._toggle_whatever)
        self.away = QPushButton("Remove")
        self.away.setToolTip(tip("Remove the selected expectation (Del)"))
        self.away.clicked.connect(lambda: self.remove(self.table.currentRow()))
        for button in (self.show_it, self.change, self.whatever, self.away):
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)

    # showing

    def refresh(self) -> None:
        """Show the expectations of the viewed trial, and how they came out in its run."""
        trial, verdicts = self.bench.trial, self.bench.shown.verdicts
        there = bool(self.bench.level.trials)
        self.line.setEnabled(there)
        at = self.table.currentRow()
        self.table.setRowCount(len(trial.expectations))
        for place, expectation in enumerate(trial.expectations):
            verdict = verdicts[place] if place < len(verdicts) else None
            if verdict is not None and verdict.expectation != expectation:
                verdict = None
            self._put(place, expectation, verdict)
        if 0 <= at < self.table.rowCount():
            self.table.selectRow(at)
        self._on_selection()

    def _put(self, at: int, expectation: Expectation, verdict: Verdict | None) -> None:
        t = theme()
        said = expectation.sentence() + (f", {WHATEVER}" if expectation.any_input else "")
        if verdict is not None and verdict.outcome != "held":
            rate = self.bench.program.rate
            where = (
                f"at {verdict.tick / rate:.3f} s, tick {verdict.tick}: " if verdict.tick is not None else ""
            )
            said += f"\n{verdict.outcome}: {where}{verdict.reason}"
        mark = MARKS[verdict.outcome] if verdict is not None else "–"
        wrong = verdict is not None and verdict.outcome != "held"
        for place, words in ((MARK, mark), (SAID, said)):
            item = self.table.item(at, place)
            if item is None:
                item = QTableWidgetItem()
                item.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
                self.table.setItem(at, place, item)
            item.setText(words)
            colour = t.fault if wrong else t.held if place == MARK and verdict is not None else t.ink
            item.setForeground(QColor(colour))
            item.setToolTip(tip(said))

    def _verdict(self, at: int) -> Verdict | None:
        verdicts = self.bench.shown.verdicts
        return verdicts[at] if 0 <= at < len(verdicts) else None

    def _on_selection(self) -> None:
        at, kept = self.table.currentRow(), self.bench.trial.expectations
        there = 0 <= at < len(kept) and bool(self.table.selectedIndexes())
        verdict = self._verdict(at)
        self.show_it.setEnabled(there and verdict is not None and verdict.tick is not None)
        for button in (self.change, self.whatever, self.away):
            button.setEnabled(there)
        self.whatever.setChecked(there and kept[at].any_input)

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.setVisible(bool(words))
        self.line.setProperty("wrong", bool(words))
        self.line.style().polish(self.line)

    # doing

    def take(self) -> None:
        """Take the typed line as an expectation, or say what is not understood; what was typed stays then."""
        bench, trial = self.bench, self.bench.trial
        try:
            made = read_expectation(bench.program.index, self.line.text(), trial.length)
        except ExpectationLineError as error:
            self._say(f"{error}.")
            return
        at, self._changed = self._changed, None
        words = made.sentence()
        if at is not None and at < len(trial.expectations):
            was = trial.expectations[at]
            level = thing_edits.set_expectation(bench.level, trial.name, at, was, made)
        elif made in trial.expectations:
            self._say("This is expected already.")
            return
        else:
            level = thing_edits.add_expectation(bench.level, trial.name, made)
        self.line.clear()
        self.line.setPlaceholderText(HINT)
        self._say("")
        bench.edit(level, f"expect that {words}")

    def begin_change(self) -> None:
        """Put the selected expectation into the line."""
        at, kept = self.table.currentRow(), self.bench.trial.expectations
        if 0 <= at < len(kept):
            self._changed = at
            self.line.setText(kept[at].sentence() + (f", {WHATEVER}" if kept[at].any_input else ""))
            self.line.setFocus()
            self.line.selectAll()

    def go(self, at: int) -> None:
        """Put the cursor where an expectation failed."""
        verdict = self._verdict(at)
        if verdict is not None and verdict.tick is not None:
            self.bench.move_cursor(self.bench.run.end_of(min(verdict.tick, self.bench.run.done)))

    def choose(self, at: int) -> None:
        """Select an expectation, in sight."""
        self.table.selectRow(at)
        item = self.table.item(at, SAID)
        if item is not None:
            self.table.scrollToItem(item, RowTable.ScrollHint.PositionAtCenter)

    def remove(self, at: int) -> None:
        """Expect something no longer."""
        self._set(at, None)

    def _toggle_whatever(self) -> None:
        at, kept = self.table.currentRow(), self.bench.trial.expectations
        if 0 <= at < len(kept):
            self._set(at, replace(kept[at], any_input=not kept[at].any_input))

    def _set(self, at: int, changed: Expectation | None) -> None:
        bench, trial = self.bench, self.bench.trial
        if not 0 <= at < len(trial.expectations):
            return
        was = trial.expectations[at]
        words = was.sentence()
        level = thing_edits.set_expectation(bench.level, trial.name, at, was, changed)
        if changed is None:
            label = f"no longer expect that {words}"
        else:
            label = f"expect that {words}{', ' + WHATEVER if changed.any_input else ''}"
        bench.edit(level, label)

    def restyle(self) -> None:
        """The theme or the font has changed."""
        self.table.restyle()
