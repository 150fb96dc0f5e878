"""The run bar: the trial, stepping and running, where the cursor is, what the last edit did."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QPainter
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QToolButton, QWidget

from gatillo.desk.looks.icons import icon
from gatillo.desk.looks.plain import GivingWay, Rich, tip
from gatillo.desk.looks.theme import figures, text_font, theme
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.desk.session.moment_words import ordinal, step_words
from gatillo.desk.session.player import SPEEDS
from gatillo.desk.session.workbench import Workbench
from gatillo.inspect.expectations import faults_amiss

NARROW = 140
"""Letters: below that words are left out."""


class _Moment(QWidget):
    """Where the cursor is: seconds, tick and what fires there, cut where there is no room.

    Painted by itself: a label would lay the whole bar out anew at each picture of a run.
    """

    def __init__(self) -> None:
        super().__init__()
        self._time, self._rest, self._where = "", "", ""
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(190)
        self.setMaximumWidth(480)

    def show_moment(self, seconds: float, tick: int, where: str) -> None:
        """Show another moment."""
        said = f"{seconds:06.3f}", f"s   tick {tick}   ", where
        if said != (self._time, self._rest, self._where):
            self._time, self._rest, self._where = said
            self.setToolTip(tip(f"tick {tick}: {where}"))
            self.setAccessibleName(self.text())
            self.update()

    def text(self) -> str:
        """Return all that is said."""
        return f"{self._time} {self._rest}{self._where}"

    def paintEvent(self, event: object) -> None:
        p, t = QPainter(self), theme()
        left = 0
        for words, font, colour in (
            (f"{self._time} ", figures(3, bold=True), t.cursor),
            (self._rest, text_font(0), t.ink),
            (self._where, text_font(0), t.quiet),
        ):
            p.setFont(font)
            p.setPen(colour)
            cut = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, max(0, self.width() - left))
            p.drawText(self.rect().adjusted(left, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, cut)
            left += p.fontMetrics().horizontalAdvance(words)
        p.end()


class RunBar(QWidget):
    """The buttons are the Run menu's actions; the rest says what is shown."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self._was_narrow = False
        self._listed: list[object] = []
        self.setFixedHeight(42)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 14, 4)
        row.setSpacing(5)
        self.trial = QComboBox()
        scrolls_unless_clicked(self.trial)
        self.trial.setAccessibleName("Trial")
        self.trial.setMinimumWidth(150)
        self.trial.setMaximumWidth(200)
        self.trial.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.trial.setToolTip("Which trial is run; below the trials, what you played lately")
        self.trial.activated.connect(self._choose)
        row.addWidget(self.trial)
        row.addSpacing(8)
        self.buttons: dict[str, QToolButton] = {}
        for name in ("start", "back tick", "back firing", "run", "firing", "tick", "end", "play keys"):
            if name == "play keys":
                row.addSpacing(4)
            row.addWidget(self._button(name))
        self.speed = QComboBox()
        scrolls_unless_clicked(self.speed)
        self.speed.setAccessibleName("Speed")
        self.speed.setToolTip("Speed of running")
        for speed in SPEEDS:
            self.speed.addItem(f"{speed:g} ×", speed)
        self.speed.setCurrentIndex(SPEEDS.index(1.0))
        self.speed.currentIndexChanged.connect(self._on_speed)
        row.addWidget(self.speed)
        row.addSpacing(10)
        self.place = _Moment()
        self.note = GivingWay()
        self.note.setObjectName("note")
        self.note.setFixedHeight(24)
        self.findings = Rich()
        for box in (self.trial, self.speed):
            box.setFixedHeight(28)
        row.addWidget(self.place, 12)
        row.addWidget(self.note)
        row.addStretch(1)
        row.addWidget(self.findings)
        bench.levelChanged.connect(self._on_level)
        bench.runChanged.connect(self._on_run)
        bench.judgedChanged.connect(self._on_run)
        bench.cursorMoved.connect(self._on_cursor)
        bench.runningChanged.connect(self.restyle)
        bench.takes.changed.connect(self._on_level)
        bench.takes.changed.connect(self._on_run)
        self.restyle()
        self._on_level()
        self._on_run()
        self._on_cursor()

    def _button(self, name: str) -> QToolButton:
        button = self.buttons[name] = QToolButton()
        button.setIconSize(QSize(20, 20))
        button.setObjectName("run" if name == "run" else name.replace(" ", "-"))
        button.setFixedSize(36, 30)
        return button

    def fill(self, actions: Mapping[str, QAction]) -> None:
        """Give each button the action of its name."""
        for name, button in self.buttons.items():
            action = actions[name]
            button.clicked.connect(action.trigger)
            button.setAccessibleName(action.text().replace("&", ""))
            shortcut = action.shortcut().toString()
            button.setToolTip(tip(action.toolTip() + (f"  ({shortcut})" if shortcut else "")))

    @property
    def is_narrow(self) -> bool:
        """Whether there is little room for words, as in a small window or with large letters."""
        return self.width() < NARROW * self.fontMetrics().averageCharWidth()

    def resizeEvent(self, event: object) -> None:
        if self.is_narrow is not self._was_narrow:
            self._was_narrow = self.is_narrow
            self._on_run()

    def restyle(self) -> None:
        """Draw the icons in the theme's colours and for what is going on."""
        t = theme()
        for name, button in self.buttons.items():
            shown = (
                "pause"
                if name == "run" and (self.bench.player.running or self.bench.player.playing)
                else name
            )
            button.setIcon(icon(shown, t.on_fires if name == "run" else t.ink))
        self._on_cursor()
        self._on_level()

    def _on_speed(self) -> None:
        self.bench.player.speed = float(self.speed.currentData())

    def _on_level(self) -> None:
        names = [t.name for t in self.bench.level.trials]
        takes = self.bench.takes.of_trial(self.bench.trial.name)
        if [*names, *takes] != self._listed:
            self._listed = [*names, *takes]
            self.trial.clear()
            self.trial.addItems(names)
            if takes:
                self.trial.insertSeparator(len(names))
            for take in takes:
                self.trial.addItem(take.label, take)
        shown = self.bench.take
        at = names.index(self.bench.trial.name) if self.bench.trial.name in names else -1
        self.trial.setCurrentIndex(len(names) + 1 + takes.index(shown) if shown in takes else at)
        self._show_findings()

    def _choose(self, at: int) -> None:
        """View a trial, or one of its takes."""
        bench, take = self.bench, self.trial.itemData(at)
        if take is not None:
            bench.show_take(take)
        elif self.trial.itemText(at) == bench.trial.name:
            if bench.take is not None:
                bench.show_script()
        else:
            bench.choose_trial(self.trial.itemText(at))

    def _show_findings(self) -> None:
        found = [f.sentence() for f in self.bench.shown.findings] or [
            p.sentence() for p in self.bench.program.problems
        ]
        many = len(found)
        mark = f'<span style="color:{theme().finding.name()}">▲</span>'
        parts = [f"{mark} {many} finding{'s' if many != 1 else ''}"] if many else []
        counts = self.bench.run.trace.fault_counts()
        faults = sum(counts.values())
        if faults and faults_amiss(self.bench.run):
            mark = f'<span style="color:{theme().fault.name()}">▲</span>'
            parts.append(f"{mark} {faults} fault{'s' if faults != 1 else ''}")
            found += list(dict.fromkeys(sentence for *_, sentence in counts))
        self.findings.setText(" &nbsp; ".join(parts))
        self.findings.setToolTip(tip("\n".join(found[:10])))

    def _on_run(self) -> None:
        bench = self.bench
        self._show_findings()
        if bench.player.playing:
            self.note.say("playing")
        elif bench.player.loops:
            self.note.say("looping")
        elif bench.player.tuned:
            self.note.say("running with other numbers")
        elif bench.shown.overlaid is not None:
            self.note.say("running again …")
        elif bench.shown.compared:
            beside = bench.beside
            words = (
                f"compared: {beside.comparison.words()}"
                if beside.run is not None
                else bench.shown.comparison.sentence()
            )
            if self.is_narrow:
                words = words.removeprefix("replayed: ")
            self.note.say(words)
        elif bench.take is not None:
            self.note.say(f"take {bench.take.number}, from {bench.take.begun / bench.take.rate:.1f} s")
        elif bench.shown.verdicts:
            held = sum(v.outcome == "held" for v in bench.shown.verdicts)
            words = (
                f"{held} of {len(bench.shown.verdicts)} {'hold' if self.is_narrow else 'expectations hold'}"
            )
            failed = sum(v.outcome == "failed" for v in bench.shown.verdicts)
            if bench.trial.fails and failed == bench.trial.fails:
                words = f"as intended, {failed} of {len(bench.shown.verdicts)} {'fail' if self.is_narrow else 'expectations fail'}"
            self.note.say(words)
        else:
            self.note.say("")
        self.note.setVisible(bool(self.note.whole))

    def _on_cursor(self) -> None:
        bench, cursor = self.bench, self.bench.cursor
        rate = bench.program.rate
        count = bench.run.trace.count_at(cursor.tick)
        if bench.moment.awaited:
            where = "computing this moment …"
        elif cursor.tick == 0:
            where = "before the first tick"
        elif not count:
            where = "nothing fires"
        elif cursor.step:
            where = step_words(bench.run, cursor)
        elif cursor.position == 0:
            where = f"before the 1st of {count} firings"
        else:
            firing = bench.run.trace.firings_at(cursor.tick)[cursor.position - 1]
            name = bench.run.program.rules[firing.rule_index].source.name
            where = f"{ordinal(cursor.position)} of {count}: {name}"
        self.place.show_moment(cursor.tick / rate, cursor.tick, where)
