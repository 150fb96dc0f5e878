"""The workbench joins what is open: the document, the shown run, the moment that is shown, the player.

Views ask it and hear of changes by its signals. The answers to questions and the comparison with another run are made by it
too; what they need of it they are given one by one.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from gatillo.desk.session.answers import Answers
from gatillo.desk.session.beside import Beside
from gatillo.desk.session.document import Document
from gatillo.desk.session.moment_cache import AT_ONCE
from gatillo.desk.session.player import Player
from gatillo.desk.session.replay import Replayed, Replayer
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.shown_moment import ShownMoment
from gatillo.desk.session.shown_run import ShownRun
from gatillo.desk.session.worker import Gate
from gatillo.inspect.findings import Finding, repaired
from gatillo.level import edits
from gatillo.level.model import Level, Trial, empty_level
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.world.world import World

FIRST_PAINT = 60
"""Milliseconds after which a level just opened is run, so that it is seen before."""
LIVE_MILLISECONDS = 20
"""How long a run may take of a frame while a value is dragged."""
LIVE_CHUNK = 15
PROGRESS_AFTER = 300
"""Milliseconds after which a replay says how far it is."""


class Workbench(QObject):
    """Everything the window is about."""

    levelChanged = Signal()
    """The level is another one (an edit, undo, or a file opened)."""
    runChanged = Signal()
    """Another run is shown, or the shown run has grown."""
    judgedChanged = Signal()
    """Verdicts and watches of the shown run are there."""
    cursorMoved = Signal()
    trialChosen = Signal()
    """Another trial is viewed: other rules may be switched on."""
    selectionChanged = Signal()
    progressed = Signal()
    """A replay has come further, or is over."""
    runningChanged = Signal()
    """Running or playing has begun or stopped."""
    fileChanged = Signal()
    """The file's name or whether it is saved has changed."""
    notified = Signal(str)
    """A message for the user, in a sentence."""
    awaitsFile = Signal(str)
    """A file is being read or written, in a sentence; with "" that is over."""
    changedOnDisk = Signal()
    """The file was written by another program."""

    def __init__(self, level: Level | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gate = self._gate = Gate()
        self.live = False
        """While a value is being dragged."""
        self.progress: tuple[int, int] | None = None
        """How far a replay has come, and how long it will be, in ticks; None while none that takes long goes on."""
        self.stops_at: Callable[[int, int], bool] = lambda rule, card: False
        """Whether a run is paused at a rule, or at a card of a graph."""
        self._wanted_cursor: Cursor | None = None
        self._since = QElapsedTimer()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(FIRST_PAINT)
        self._later.timeout.connect(lambda: self._replay(None))

        self.document = Document(level or empty_level(), gate, self)
        self.program = Program(edits.as_tried(self.level, self.trial))
        self.shown = ShownRun(Run(self.program, self.trial))
        self.moment = ShownMoment(self.shown, gate, self)
        self.player = Player(self.shown, self.moment, gate, self)
        self.answers = Answers(self.document, self.shown, self.moment, gate, self)
        self.beside = Beside(self.document, self.shown, self.moment, self.answers, gate, self)
        self._replayer = Replayer(gate, self)
        self._connect()
        self._show(fresh=True, ready=self.run)

    def _connect(self) -> None:
        """Connect the parts with one another, and pass their signals on."""
        self.document.pause, self.document.show = self.player.stop, self._show
        self.player.made_on = lambda: self.progress is not None
        self.player.before_play = self._stop_replaying
        self.player.record = self._record
        for part, signals in (
            (self.document, "levelChanged fileChanged selectionChanged awaitsFile changedOnDisk notified"),
            (self.moment, "notified"),
            (self.answers, "notified"),
            (self.beside, "notified"),
            (self.player, "runningChanged"),
        ):
            for name in signals.split():
                getattr(part, name).connect(getattr(self, name))
        self.moment.moved.connect(self.cursorMoved)
        self.player.began.connect(self.runChanged)
        self.player.advanced.connect(self.runChanged)
        self.beside.marked.connect(self.judgedChanged)
        self.runChanged.connect(self.beside.compare_again)
        self._replayer.ran.connect(self._on_ran)
        self._replayer.grown.connect(self._on_grown)
        self._replayer.judged.connect(self._on_judged)
        self._replayer.progressed.connect(self._on_progress)
        self._replayer.failed.connect(self._on_failed)

    def close(self) -> None:
        """Stop the workers."""
        self._later.stop()
        for part in (self.answers, self.beside, self.moment, self.player, self.document.file, self._replayer):
            part.close()

    # what views ask for most

    @property
    def level(self) -> Level:
        """The level as it is now."""
        return self.document.level

    @property
    def trial(self) -> Trial:
        """The trial that is viewed."""
        return self.document.trial

    @property
    def path(self) -> Path | None:
        """Where the level is saved; None while it has no file of its own."""
        return self.document.path

    @property
    def selection(self) -> Selection:
        """What is selected."""
        return self.document.selection

    @property
    def run(self) -> Run:
        """The run that is shown."""
        return self.shown.run

    @property
    def cursor(self) -> Cursor:
        """The moment of the run that is shown."""
        return self.moment.cursor

    @property
    def world(self) -> World:
        """The state at the cursor."""
        return self.moment.world

    def notify(self, text: str) -> None:
        """Show a message to the user, in a sentence."""
        self.notified.emit(text)

    def edit(self, level: Level, label: str, join: str = "") -> None:
        """Take an edited level; `label` names it for undo. Its trial is replayed at once."""
        self.document.edit(level, label, join)

    def select(self, selection: Selection) -> None:
        """Select something else."""
        self.document.select(selection)

    def move_cursor(self, cursor: Cursor | None) -> None:
        """Pause, and put the cursor at a moment of the run; None leaves it."""
        self.moment.move(cursor)

    def worker_held(self) -> AbstractContextManager[None]:
        """Return a context in which the workers stand aside: for what must be done at once."""
        return self._gate.shut()

    def choose_trial(self, name: str) -> None:
        """View another trial."""
        if name != self.trial.name:
            self.player.stop()
            self.document.trial_name = name
            self._show(fresh=True)
            self.trialChosen.emit()

    def repair(self, finding: Finding) -> None:
        """Do a finding's repair."""
        if finding.repair is None:
            self.notify("There is no repair for this finding; correct it by hand.")
            return
        self.edit(repaired(self.level, finding), f"repair “{finding.rule}”: {finding.repair_label}")

    # from the level to its run

    def _show(self, fresh: bool = False, ready: Run | None = None) -> None:
        with self.worker_held():
            self._show_level(fresh, ready)
        self._run_level(fresh)

    def _show_level(self, fresh: bool, ready: Run | None) -> None:
        document = self.document
        if ready is not None:
            self.program = ready.program
        else:
            self.program = Program(edits.as_tried(self.level, self.trial), self.program)
        selection = self.selection.within(self.level)
        if fresh:
            self.shown.open(ready or Run(self.program, self.trial))
            self.moment.reset()
            self.beside.dismiss()
        if selection != self.selection:
            document.select(selection)
        document.levelChanged.emit()
        document.fileChanged.emit()
        document.save_draft()
        if fresh:
            self.runChanged.emit()
            self.cursorMoved.emit()

    def _run_level(self, fresh: bool) -> None:
        self._later.stop()
        self.shown.remake()
        if self.live:
            self._run_live()
        elif fresh:
            # the window is painted first: beside the worker that takes several times as long
            self._replayer.cancel()
            self._later.start()
        else:
            self._replay(self.shown.whole)

    def _replay(self, before: Run | None) -> None:
        self._since.start()
        self._replayer.replay(self.program, self.trial, before, self.cursor.tick)

    def _stop_replaying(self) -> None:
        self._later.stop()
        self._replayer.cancel()

    def _record(self, run: Run) -> None:
        """Record what was pressed in a played run into the trial."""
        level = edits.record_input(
            self.level, self.trial.name, run.script.as_input(run.done), run.done / self.program.rate
        )
        if level == self.level:
            self._replay(None)
            return
        self._wanted_cursor = self.cursor
        label = f"record input into “{self.trial.name}”"
        self.document.change(lambda: self.document.history.do(level, label))

    # while a value is dragged

    def begin_live(self) -> None:
        """A value is being dragged: edits follow one another, and the run follows them."""
        self.live = True

    def end_live(self) -> None:
        """The value was released: the run is made whole and judged."""
        if self.live:
            self.live = False
            self.document.history.settle()
            self.document.levelChanged.emit()
            self._replay(self.shown.whole)

    def _run_live(self) -> None:
        """Run as far as the cursor, and on for as long as a frame has time; the rest comes when the value is released.

        In this thread: beside a worker every paint would wait for the interpreter again and again.
        """
        before = self.shown.whole
        shared = shared_ticks(before, self.program, self.trial) if before is not None else 0
        shared = min(shared, self.cursor.tick)
        if self.run.pace * (self.cursor.tick - shared) > AT_ONCE:
            # that would hold the window up at each step of the drag
            self._replay(before)
            return
        self._replayer.cancel()
        clock = QElapsedTimer()
        clock.start()
        if shared and before is not None:
            run = resumed(before, self.program, self.trial, shared)
        else:
            run = Run(self.program, self.trial)
        run.advance(min(self.cursor.tick, run.length) - run.done)
        # the level view shows this moment: it is not to be replayed for it
        run.add_keyframe()
        while run.done < run.length and clock.elapsed() < LIVE_MILLISECONDS:
            run.advance(min(LIVE_CHUNK, run.length - run.done))
        self.shown.drag(run)
        self.runChanged.emit()
        self.moment.put(self.cursor)

    # what the replayer reports

    def _on_progress(self, done: int, length: int) -> None:
        # a replay that is soon over is not worth a message
        if self._since.elapsed() > PROGRESS_AFTER:
            self.progress = done, length
            self.progressed.emit()

    def _on_failed(self) -> None:
        self.progress = None
        self.shown.fail()
        self.progressed.emit()
        self.runChanged.emit()

    def _on_grown(self, run: Run) -> None:
        self.shown.grow(run, self.cursor.tick)
        self.runChanged.emit()
        self.moment.put(self.cursor)

    def _on_ran(self, found: Replayed) -> None:
        self.progress = None
        self.shown.complete(found)
        self.runChanged.emit()
        wanted, self._wanted_cursor = self._wanted_cursor, None
        self.moment.put(wanted or self.cursor)

    def _on_judged(self, found: Replayed) -> None:
        self.shown.judge(found)
        self.judgedChanged.emit()
