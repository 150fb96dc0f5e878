"""What all trials together reach of the level: a row for each rule, graph and behaviour, and for what is missed in it."""

from __future__ import annotations

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QTableWidgetItem, QVBoxLayout, QWidget

from gatillo.desk.looks.plain import Words, tip
from gatillo.desk.looks.theme import theme
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.trials.row_table import RowTable
from gatillo.inspect.coverage import Covered, missed, totals

HEADINGS = ("Where", "Line or card", "How far the trials come")
WHERE, LINE, FAR = range(3)


class ReachedTable(QWidget):
    """The table, which is filled once all trials have been run. Enter on a row shows its rule."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self._shown: object = None
        self._rows: list[Covered] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(6)
        self.said = Words("")
        self.said.setWordWrap(True)
        column.addWidget(self.said)
        self.missed = QCheckBox("Only what is missed")
        self.missed.setChecked(True)
        self.missed.toggled.connect(lambda _: self._fill())
        column.addWidget(self.missed)
        self.table = RowTable(HEADINGS, "What the trials reach", wide=LINE, several=False)
        self.table.entered_row.connect(self._show_rule)
        column.addWidget(self.table, 1)

    def refresh(self) -> None:
        """Show what is known of the level as it is."""
        known = self.bench.answers.reached
        fresh = known[1] if known is not None and known[0] is self.bench.level else None
        if fresh is not self._shown or fresh is None:
            self._shown = fresh
            self._fill()

    def _fill(self) -> None:
        found = self._shown if isinstance(self._shown, list) else None
        self.missed.setVisible(found is not None)
        self.table.setVisible(found is not None)
        if found is None:
            self._rows = []
            self.said.setText(
                "Run all trials to see which rules, conditions, actions and cards none of them reaches."
            )
            return
        reached, of = totals(found)
        share = f", {reached / of:.0%}" if of else ""
        self._rows = missed(found) if self.missed.isChecked() else [one for one in found if one.counts]
        self.said.setText(f"{reached} of {of} reached{share}." if self._rows else f"All {of} are reached.")
        self.table.setRowCount(len(self._rows))
        t = theme()
        for at, one in enumerate(self._rows):
            far = one.one_way or one.state
            cells = (one.name, "" if one.sort == "rule" else f"{one.place}: {one.words}", far)
            for place, words in enumerate(cells):
                item = QTableWidgetItem(words)
                item.setToolTip(tip(words))
                item.setForeground(QColor(t.ink if place != FAR else t.held if one.whole else t.finding))
                self.table.setItem(at, place, item)

    def _show_rule(self, at: int) -> None:
        if 0 <= at < len(self._rows) and self._rows[at].rule:
            self.bench.select(Selection(rule=self._rows[at].rule))
            self.bench.answers.ruleWanted.emit(self._rows[at].rule)

    def restyle(self) -> None:
        """The theme or the font has changed."""
        self.table.restyle()
        self._fill()
