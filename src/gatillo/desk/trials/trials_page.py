"""All trials of the level in a table, run by a click; below it what must hold in one of them, and what all of them reach."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QSplitter,
    QTableWidgetItem,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.plain import ShortWords, tip
from gatillo.desk.looks.theme import theme
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.trial_runs import Outcome, Results
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.level_page import add_trial
from gatillo.desk.trials.expectation_list import ExpectationList
from gatillo.desk.trials.reached_table import ReachedTable
from gatillo.desk.trials.row_table import RowTable
from gatillo.inspect.expectations import all_as_meant, faults_amiss, tally
from gatillo.level import thing_edits
from gatillo.level.model import Level, Trial

MARKS: dict[Outcome, str] = {"not run": "–", "running": "…", "passed": "✓", "failed": "✗", "not judged": "?"}
"""What a trial came to, by a shape as well as by its colour."""
HEADINGS = ("Trial", "What came of it", "Reaches")
NAME, CAME, REACHES = range(3)


class TrialsPage(QWidget):
    """The trials of the level. A click views one; what must hold in it stands below."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self._filling = False
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(6)
        self.run_all = self._button(
            "Run all", "Run every trial, at all its tick rates and with all its seeds", self.start
        )
        self.run_some = self._button(
            "Run selected", "Run the trials that are selected in the table", self.start_selected
        )
        self.stop = self._button("Stop", "Break off what is running", bench.trial_runs.stop)
        self.add = self._button("+ trial", "Add a trial", lambda: add_trial(bench))
        self.progress = QProgressBar()
        self.progress.setAccessibleName("How many runs are over")
        self.progress.setFixedHeight(14)
        self.progress.setFormat("%v of %m runs")
        self.said = ShortWords()
        self.said.setObjectName("quiet")
        row = QHBoxLayout()
        row.setSpacing(6)
        for widget in (self.run_all, self.run_some, self.stop):
            row.addWidget(widget)
        row.addWidget(self.progress, 1)
        row.addWidget(self.said, 1)
        row.addWidget(self.add)
        column.addLayout(row)
        self.table = RowTable(HEADINGS, "Trials", wide=NAME)
        self.table.entered_row.connect(self._view)
        self.table.removed_row.connect(self._delete)
        self.table.itemSelectionChanged.connect(self._on_selection)
        self.expected = ExpectationList(bench)
        self.reached = ReachedTable(bench)
        self.tabs = QTabWidget()
        self.tabs.setDocumentMode(True)
        self.tabs.addTab(self.expected, "What must hold")
        self.tabs.addTab(self.reached, "What is reached")
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.addWidget(self.table)
        split.addWidget(self.tabs)
        split.setSizes([140, 320])
        column.addWidget(split, 1)
        bench.levelChanged.connect(self.refresh)
        bench.trialChosen.connect(self.refresh)
        bench.judgedChanged.connect(self.refresh)
        bench.trial_runs.changed.connect(self._on_runs)
        self.refresh()

    @staticmethod
    def _button(words: str, hint: str, run: object) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip(hint))
        button.setAccessibleName(hint)
        button.clicked.connect(run)
        return button

    def showEvent(self, event: object) -> None:
        self.refresh()

    # running

    def start(self) -> None:
        """Run all trials."""
        self.bench.trial_runs.run([trial.name for trial in self.bench.level.trials])

    def start_selected(self) -> None:
        """Run the trials that are selected in the table."""
        self.bench.trial_runs.run(self.selected())

    def selected(self) -> list[str]:
        """Return the names of the trials that are selected."""
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        return [self.bench.level.trials[at].name for at in rows if at < len(self.bench.level.trials)]

    def _on_runs(self) -> None:
        runs = self.bench.trial_runs
        reached = None if runs.busy else runs.reached()
        if reached is not None:
            self.bench.answers.take_reached(reached)
        self.refresh()

    # choosing

    def _on_selection(self) -> None:
        chosen = self.selected()
        self.run_some.setEnabled(bool(chosen) and not self.bench.trial_runs.busy)
        if not self._filling and len(chosen) == 1:
            self._view(self.table.currentRow())

    def _view(self, at: int) -> None:
        """View a trial: its run is shown, and its page stands in the sheet."""
        if 0 <= at < len(self.bench.level.trials):
            name = self.bench.level.trials[at].name
            self.bench.choose_trial(name)
            self.bench.select(Selection(thing=Thing("trial", name)))

    def _delete(self, at: int) -> None:
        name = self.bench.level.trials[at].name
        self.bench.edit(thing_edits.delete_trial(self.bench.level, name), f"delete the trial “{name}”")

    # showing

    def refresh(self) -> None:
        """Show the level's trials and what came of them."""
        if not self.isVisible():
            return
        bench, runs = self.bench, self.bench.trial_runs
        trials = bench.level.trials
        chosen = self.selected() or [bench.trial.name]
        self._filling = True
        try:
            if self.table.rowCount() != len(trials):
                self.table.setRowCount(len(trials))
            for at, trial in enumerate(trials):
                for place, words in enumerate(self._cells(trial)):
                    self._put(at, place, words, trial)
            if self.selected() != chosen and len(chosen) == 1:
                names = [trial.name for trial in trials]
                if bench.trial.name in names:
                    self.table.selectRow(names.index(bench.trial.name))
        finally:
            self._filling = False
        self.run_all.setEnabled(bool(trials) and not runs.busy)
        self.run_some.setEnabled(bool(self.selected()) and not runs.busy)
        self.stop.setEnabled(runs.busy)
        self.progress.setVisible(runs.busy)
        self.said.setVisible(not runs.busy)
        self.progress.setRange(0, max(1, runs.wanted))
        self.progress.setValue(runs.done)
        self.said.setText(self._summary())
        self.expected.refresh()
        self.reached.refresh()

    def _summary(self) -> str:
        trials = self.bench.level.trials
        if not trials:
            return "No trial yet."
        found = [self._outcome(trial) for trial in trials]
        counts = {outcome: found.count(outcome) for outcome in MARKS}
        words = {"passed": "pass", "failed": "fail", "not judged": "not judged", "not run": "not run"}
        return ", ".join(f"{counts[o]} {word}" for o, word in words.items() if counts[o])  # type: ignore[index]

    def _cells(self, trial: Trial) -> tuple[str, str, str]:
        found, outcome = self.bench.trial_runs.of(trial.name), self._outcome(trial)
        return (
            f"{trial.name}\n{_runs(self.bench.level, trial)}",
            f"{MARKS[outcome]} {self._came(trial, found, outcome)}",
            found.share() if found is not None else "",
        )

    def _outcome(self, trial: Trial) -> Outcome:
        found = self.bench.trial_runs.of(trial.name)
        if found is not None and not found.stale:
            return found.outcome
        return self._shown(trial)[0]

    def _came(self, trial: Trial, found: Results | None, outcome: Outcome) -> str:
        if found is not None and not found.stale:
            return found.words()
        if outcome != "not run":
            return self._shown(trial)[1]
        return f"before an edit: {found.words()}" if found is not None else "not run"

    def _shown(self, trial: Trial) -> tuple[Outcome, str]:
        """Return what the viewed trial's own run came to, which is made after each edit; “not run” for the others."""
        bench = self.bench
        verdicts = bench.shown.verdicts
        whole = bench.run.done >= bench.run.length and len(verdicts) == len(trial.expectations)
        if trial.name != bench.trial.name or bench.take is not None or not whole:
            return "not run", "not run"
        counts = tally(verdicts)
        amiss = faults_amiss(bench.run)
        once = " at one rate" if len(trial.rates) > 1 or trial.seeds > 1 else ""
        if counts["could not be judged"]:
            return "not judged", f"{counts['could not be judged']} not judged{once}"
        if amiss or not all_as_meant(trial, verdicts):
            return "failed", (
                f"{counts['failed']} of {len(verdicts)} fail{once}" if not amiss else f"faults{once}"
            )
        meant = f", {trial.fails} fail as meant" if trial.fails else ""
        held = counts["held"]
        return "passed", f"{held} hold{'s' if held == 1 else ''}{meant}{once}"

    def _put(self, at: int, place: int, words: str, trial: Trial) -> None:
        item = self.table.item(at, place)
        if item is None:
            item = QTableWidgetItem()
            self.table.setItem(at, place, item)
        found, t = self.bench.trial_runs.of(trial.name), theme()
        item.setText(words)
        stale = place in (CAME, REACHES) and found is not None and found.stale
        colour = t.quiet if stale else t.ink
        if place == CAME:
            outcome = self._outcome(trial)
            colour = {"passed": t.held, "failed": t.fault, "not judged": t.fault}.get(outcome, t.quiet)
        item.setForeground(QColor(colour))
        wrong = found.sentences() if place == CAME and found is not None else []
        item.setToolTip(tip("\n".join(wrong[:8]) or trial.note or words))

    def restyle(self) -> None:
        """The theme or the font has changed."""
        self.table.restyle()
        self.expected.restyle()
        self.reached.restyle()
        self.refresh()


def _runs(level: Level, trial: Trial) -> str:
    """Return how a trial is run: its length, seeds, rates, and how much it switches."""
    seeds = (
        f"seed {trial.seed}" if trial.seeds == 1 else f"seeds {trial.seed} to {trial.seed + trial.seeds - 1}"
    )
    rates = ", ".join(map(str, trial.rates or (level.settings.rate,)))
    switched = len(trial.on) + len(trial.off) + len(trial.values)
    more = f" · {switched} switched" if switched else ""
    return f"{trial.length:g} s · {seeds} · {rates}{more}"
