"""The window that tries values: one number or two, with several values and seeds, run on all cores and shown side by side."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QComboBox,
    QCompleter,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSlider,
    QSpinBox,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks.flow_layout import FlowLayout
from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.desk.trying.case_picture import HEIGHT, WIDTH, CasePicture
from gatillo.desk.trying.curves import Curves
from gatillo.inspect.sweep.cases import Sweep, sweep_of
from gatillo.inspect.sweep.outcomes import Outcome, compiled_watches, swept
from gatillo.inspect.sweep.tables import headings, row, write_csv
from gatillo.inspect.sweep.targets import SweepError, targets
from gatillo.level.model import Level, Trial

FRAMES_A_SECOND = 15
"""Pictures of a run that are kept for each second of it."""
MOST_PICTURES = 24
"""Combinations of values that have a picture each; the table and the curves have all."""
NONE = "– none –"


class TryValues(QDialog):
    """Values to try above, what came of them below. A click chooses a combination, a button or a second click takes it."""

    def __init__(self, bench: Workbench, target: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.setWindowTitle("Try values")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(980, 720)
        self.outcomes: dict[int, Outcome] = {}
        self.sweep: Sweep | None = None
        self.pictures: list[CasePicture] = []
        self.chosen = -1
        """The combination that is chosen, by its number."""
        self._level, self._trial, self._watches = bench.level, bench.trial, list[str]()
        self._worker = Worker("trying values", Gate(), self)
        self._worker.failed.connect(self._done)
        self._build(target)
        self._timer = QTimer(self)
        self._timer.setInterval(round(1000 / FRAMES_A_SECOND))
        self._timer.timeout.connect(self._step)

    # building

    def _build(self, target: str) -> None:
        column = QVBoxLayout(self)
        grid = QGridLayout()
        self.names = [_target_box("The number to try"), _target_box("A second number to try with it")]
        self.values = [QLineEdit(), QLineEdit()]
        known = {t.name: t.text for t in targets(self.bench.level)}
        self.names[1].addItem(NONE)
        for box in self.names:
            box.addItems(list(known))
        self.names[0].setCurrentText(target if target in known else next(iter(known), ""))
        for at, (box, field, words) in enumerate(
            zip(self.names, self.values, ("Try", "crossed with"), strict=True)
        ):
            field.setAccessibleName(f"Values: {words}")
            field.setPlaceholderText("20, 40, 80 or 3..9 step 2")
            field.returnPressed.connect(self.run)
            grid.addWidget(Words(words), at, 0)
            grid.addWidget(box, at, 1)
            grid.addWidget(field, at, 2)
            box.currentTextChanged.connect(lambda _, n=at: self._propose(n))
        grid.setColumnStretch(1, 3)
        grid.setColumnStretch(2, 2)
        column.addLayout(grid)
        line = QHBoxLayout()
        self.seeds = QSpinBox()
        scrolls_unless_clicked(self.seeds)
        self.seeds.setRange(1, 100)
        self.seeds.setAccessibleName("Seeds")
        self.watch = QLineEdit("; ".join(self.bench.trial.watches))
        self.watch.setAccessibleName("Formulas to watch, with semicolons between them")
        self.watch.setPlaceholderText("formulas to watch: level.pods; count(Moth)")
        self.start = QPushButton("Run them")
        self.start.setDefault(True)
        self.start.clicked.connect(self.run)
        self.progress = QProgressBar()
        self.progress.setTextVisible(True)
        self.progress.hide()
        self.said = Words("")
        self.said.setWordWrap(True)
        for widget, stretch in (
            (Words("Seeds"), 0),
            (self.seeds, 0),
            (Words("Watch"), 0),
            (self.watch, 1),
            (self.start, 0),
        ):
            line.addWidget(widget, stretch)
        column.addLayout(line)
        column.addWidget(self.progress)
        column.addWidget(self.said)
        self.results = QWidget()
        self._build_results()
        column.addWidget(self.results, 1)
        self.results.hide()
        column.addStretch(0)
        self._propose(0)

    def _build_results(self) -> None:
        column = QVBoxLayout(self.results)
        column.setContentsMargins(0, 0, 0, 0)
        split = QSplitter(Qt.Orientation.Vertical)
        self.holder = QWidget()
        self.flow = FlowLayout()
        self.holder.setLayout(self.flow)
        area = QScrollArea()
        area.setWidget(self.holder)
        area.setWidgetResizable(True)
        split.addWidget(area)
        below = QSplitter(Qt.Orientation.Horizontal)
        self.watched = QWidget()
        side = QVBoxLayout(self.watched)
        side.setContentsMargins(0, 0, 0, 0)
        self.which = QComboBox()
        self.which.setAccessibleName("Which watch the curves show")
        self.which.currentIndexChanged.connect(self._show_curves)
        self.curves = Curves()
        self.curves.moved.connect(self._on_line)
        side.addWidget(self.which)
        side.addWidget(self.curves, 1)
        below.addWidget(self.watched)
        self.table = QTableWidget()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.verticalHeader().hide()
        self.table.setAccessibleName("What came of each combination of values")
        self.table.currentCellChanged.connect(lambda at, *_: self.choose(at))
        self.table.cellDoubleClicked.connect(lambda *_: self.take())
        below.addWidget(self.table)
        below.setSizes([500, 460])
        split.addWidget(below)
        self.split = split
        column.addWidget(split, 1)
        line = QHBoxLayout()
        self.play = QPushButton("Play")
        self.play.setCheckable(True)
        self.play.toggled.connect(self._on_play)
        self.time = QSlider(Qt.Orientation.Horizontal)
        scrolls_unless_clicked(self.time)
        self.time.setAccessibleName("The common moment, in ticks")
        self.time.valueChanged.connect(self._on_time)
        self.moment = Words("0.000 s")
        self.taking = QPushButton("Take these values")
        self.taking.clicked.connect(self.take)
        csv = QPushButton("Save as CSV …")
        csv.clicked.connect(self._save_csv)
        picture = QPushButton("Save as a picture …")
        picture.clicked.connect(self._save_picture)
        for widget, stretch in (
            (self.play, 0),
            (self.time, 1),
            (self.moment, 0),
            (self.taking, 0),
            (csv, 0),
            (picture, 0),
        ):
            line.addWidget(widget, stretch)
        column.addLayout(line)

    def _propose(self, number: int) -> None:
        """Fill in values about the present one, where none are typed."""
        text = next(
            (t.text for t in targets(self.bench.level) if t.name == self.names[number].currentText()), ""
        )
        try:
            value = float(text)
        except ValueError:
            return
        if not self.values[number].isModified():
            near = [value / 2, value, value * 2] if value else [0.0, 1.0, 2.0]
            self.values[number].setText(", ".join(f"{one:g}" for one in near))

    # running

    def settings(self) -> list[str]:
        """Return what is to be tried, as the command line has it."""
        return [
            f"{box.currentText()}={field.text()}"
            for box, field in zip(self.names, self.values, strict=True)
            if box.currentText() not in ("", NONE)
        ]

    def run(self) -> None:
        """Make the runs, or give up those that are being made."""
        if self._worker.busy:
            self._worker.drop()
            self._done()
            return
        bench = self.bench
        watches = [w.strip() for w in self.watch.text().split(";") if w.strip()]
        try:
            sweep = sweep_of(bench.level, self.settings(), self.seeds.value())
            compiled_watches(bench.level, bench.trial, watches)
        except SweepError as error:
            self.said.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.said.setText("")
        self.sweep, self.outcomes, self._watches = sweep, {}, watches
        self._level, self._trial = bench.level, bench.tried
        self.progress.setRange(0, len(sweep.cases))
        self.progress.setFormat("%v of %m runs")
        self.progress.setValue(0)
        self.progress.show()
        self.start.setText("Give up")
        every = max(1, bench.program.rate // FRAMES_A_SECOND)
        level, trial = self._level, self._trial

        def work(job: Job) -> None:
            for found in swept(level, trial, sweep, watches, every=every, stop=job.is_dropped):
                job.report(found)

        self._worker.ask(work, self._on_found)

    def _on_found(self, found: tuple[int, Outcome] | None) -> None:
        if found is None:
            self._done()
            return
        number, outcome = found
        self.outcomes[number] = outcome
        self.progress.setValue(len(self.outcomes))

    def _done(self) -> None:
        self.progress.hide()
        self.start.setText("Run them")
        if self.sweep is not None and len(self.outcomes) == len(self.sweep.cases):
            self._show_results()

    # what came of it

    def combinations(self) -> list[tuple[str, list[Outcome]]]:
        """Return each combination of values in words, with its runs over all seeds."""
        sweep = self.sweep
        if sweep is None:
            return []
        all_ = [self.outcomes[n] for n in sorted(self.outcomes)]
        groups = [all_[n : n + sweep.seeds] for n in range(0, len(all_), sweep.seeds)]
        short = [t.name.rpartition(".")[2].rpartition(": ")[2] for t in sweep.targets]
        return [
            (
                ", ".join(f"{name} {text}" for name, text in zip(short, group[0].case.texts, strict=True)),
                group,
            )
            for group in groups
        ]

    def _show_results(self) -> None:
        sweep, found = self.sweep, self.combinations()
        assert sweep is not None
        for old in self.pictures:
            self.flow.removeWidget(old)
            old.deleteLater()
        self.pictures = []
        for number, (words, group) in enumerate(found[:MOST_PICTURES]):
            first = group[0]
            said = first.problem or _verdict_words(group)
            picture = CasePicture(self._level, first, words, said)
            picture.chosen.connect(lambda n=number: self.choose(n))
            picture.mouseDoubleClickEvent = lambda _: self.take()  # type: ignore[method-assign]
            self.flow.addWidget(picture)
            self.pictures.append(picture)
        titles = headings(sweep, self._watches)
        self.table.blockSignals(True)
        self.table.setColumnCount(len(titles))
        self.table.setHorizontalHeaderLabels(titles)
        self.table.setRowCount(len(found))
        for at, (_, group) in enumerate(found):
            for column, cell in enumerate(row(group, self._watches)):
                self.table.setItem(at, column, QTableWidgetItem(cell))
        self.table.resizeColumnsToContents()
        self.table.blockSignals(False)
        self.which.clear()
        self.which.addItems(self._watches)
        self.watched.setVisible(bool(self._watches))
        self.time.setRange(0, max((one.ticks for one in self.outcomes.values()), default=0))
        self.results.show()
        rows = 1 + (len(self.pictures) - 1) // max(1, (self.width() - 40) // (WIDTH + 6))
        pictures = min(2, rows) * (HEIGHT + 10) + 12
        self.split.setSizes([pictures, max(200, self.split.height() - pictures)])
        self._show_curves()
        self._on_time(self.time.value())
        self.choose(0)
        if len(found) > MOST_PICTURES:
            self.said.setText(f"The first {MOST_PICTURES} of {len(found)} have a picture; the table has all.")

    def _show_curves(self) -> None:
        watch = self.which.currentIndex()
        if 0 <= watch < len(self._watches) and self.outcomes:
            self.curves.show_curves(self._watches[watch], self.combinations(), watch)

    def choose(self, number: int) -> None:
        """Choose a combination of values."""
        if not 0 <= number < len(self.combinations()):
            return
        self.chosen = number
        for at, picture in enumerate(self.pictures):
            picture.choose(at == number)
        self.table.blockSignals(True)
        self.table.selectRow(number)
        self.table.blockSignals(False)
        words = self.combinations()[number][0]
        self.taking.setText(f"Take {words}" if words else "Take these values")

    def take(self) -> None:
        """Put the chosen values into the level: one edit, undone by one undo."""
        if self.sweep is None or self.chosen < 0:
            return
        case = self.sweep.cases[self.chosen * self.sweep.seeds]
        try:
            level: Level = self.sweep.level(self.bench.level, case)
        except (SweepError, LookupError, IndexError) as error:
            self.said.setText(f"The level was changed meanwhile, so this cannot be taken: {error}.")
            return
        names = " and ".join(
            f"{t.name} to {text}" for t, text in zip(self.sweep.targets, case.texts, strict=True)
        )
        self.bench.edit(level, f"set {names}")
        self.said.setText(f"Taken: {names}. Undo takes it back.")

    # the common moment

    def _on_play(self, yes: bool) -> None:
        self.play.setText("Pause" if yes else "Play")
        (self._timer.start if yes else self._timer.stop)()

    def _step(self) -> None:
        rate = self.bench.program.rate
        after = self.time.value() + max(1, rate // FRAMES_A_SECOND)
        self.time.setValue(0 if after > self.time.maximum() else after)

    def _on_time(self, tick: int) -> None:
        for picture in self.pictures:
            picture.show_tick(tick)
        seconds = tick / self.bench.program.rate
        self.moment.setText(f"{seconds:.3f} s")
        self.curves.show_time(seconds)

    def _on_line(self, seconds: float) -> None:
        self.time.setValue(round(max(0.0, seconds) * self.bench.program.rate))

    # saving

    def _save_csv(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save what came of it", "tried.csv", "CSV (*.csv)")
        if name:
            self.save_csv(Path(name))

    def save_csv(self, path: Path) -> None:
        """Write a row for each run; say why, if that fails."""
        assert self.sweep is not None
        try:
            ordered = [self.outcomes[n] for n in sorted(self.outcomes)]
            write_csv(path, self.sweep, ordered, self._watches, self._seed(self._trial))
        except OSError as error:
            self.said.setText(f"{path.name} cannot be written: {error.strerror or error}.")
        else:
            self.said.setText(f"Written to {path.name}.")

    @staticmethod
    def _seed(trial: Trial) -> int:
        return trial.seed

    def _save_picture(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save a picture", "tried.png", "PNG (*.png)")
        if name:
            self.save_picture(Path(name))

    def save_picture(self, path: Path) -> None:
        """Save the pictures, curves and table as they are seen; say why, if that fails."""
        written = self.results.grab().save(str(path), "PNG")
        self.said.setText(f"Written to {path.name}." if written else f"{path.name} cannot be written.")

    def closeEvent(self, event: QCloseEvent) -> None:
        self._timer.stop()
        self._worker.close()
        super().closeEvent(event)

    def done(self, result: int) -> None:
        """Close it: nothing is left running."""
        self._timer.stop()
        self._worker.close()
        super().done(result)


def _target_box(words: str) -> QComboBox:
    box = QComboBox()
    scrolls_unless_clicked(box)
    box.setEditable(True)
    box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
    box.setAccessibleName(words)
    box.setMinimumContentsLength(24)
    completer = box.completer()
    if completer is not None:
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
    return box


def _verdict_words(group: list[Outcome]) -> str:
    held, all_ = sum(one.held for one in group), sum(len(one.verdicts) for one in group)
    fired = sum(sum(one.firings.values()) for one in group) // len(group)
    hold = f"{held} of {all_} hold, " if all_ else ""
    return f"{hold}{fired:,} firing{'s' if fired != 1 else ''}"
