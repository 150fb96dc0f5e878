"""The workbench joins what is open: the document, the shown run, the moment that is shown, the player.

Views ask it and hear of changes by its signals. The answers to questions and the comparison with another run are made by it
too; what they need of it they are given one by one.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from msgspec.structs import replace as with_fields
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from gatillo.desk.session.answers import Answers
from gatillo.desk.session.beside import Beside
from gatillo.desk.session.document import Document
from gatillo.desk.session.moment_cache import AT_ONCE
from gatillo.desk.session.player import Player
from gatillo.desk.session.replay import Replayed, Replayer
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.shown_moment import ShownMoment
from gatillo.desk.session.shown_run import ShownRun, State
from gatillo.desk.session.takes import Takes, is_empty
from gatillo.desk.session.trial_runs import TrialRuns
from gatillo.desk.session.worker import Gate, Worker
from gatillo.files.kept_takes import Take
from gatillo.inspect.finding import Finding
from gatillo.inspect.findings import repaired
from gatillo.language.own_behaviours import index_within
from gatillo.level import edits, thing_edits
from gatillo.level.expectations import Expectation, SameOrder
from gatillo.level.model import Level, Section, Trial, empty_level
from gatillo.level.roles import Index, all_logic
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.run.tuning import differ_in_numbers_alone
from gatillo.sim.world.world import World

FIRST_PAINT = 60
"""Milliseconds after which a level just opened is run, so that it is seen before."""
LIVE_MILLISECONDS = 20
"""How long a run may take of a frame while a value is dragged."""
LIVE_CHUNK = 15
PROGRESS_AFTER = 300
"""Milliseconds after which a replay says how far it is."""


class Flag(NamedTuple):
    """Where a number was changed while the run went on: the tick, and what was changed."""

    tick: int
    label: str


class Workbench(QObject):
    """Everything the window is about."""

    levelChanged = Signal()
    """The level is another one (an edit, undo, or a file opened)."""
    runChanged = Signal()
    """Another run is shown, or the shown run has grown."""
    judgedChanged = Signal()
    """Verdicts and watches of the shown run are there."""
    cursorMoved = Signal()
    tryWanted = Signal(str)
    """Values are to be tried for a number, by its name (inspect/sweep/targets.py)."""
    stretchChanged = Signal()
    """Another stretch of time is marked, or none."""
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
    goneFromDisk = Signal()
    """The file was removed or moved by another program."""

    def __init__(self, level: Level | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        gate = self._gate = Gate()
        self.live = False
        """While a value is being dragged."""
        self.flags: list[Flag] = []
        """Where a number was changed while the run went on."""
        self._flagged_live = False
        self.stretch: tuple[int, int] | None = None
        """The stretch of time that is marked, from the end of one tick to that of another."""
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
        self.takes = Takes(self)
        self._scripted: tuple[Level, Replayed] | None = None
        """The run of the trial's script and what was found about it, and the level that it is of."""
        self.answers = Answers(self.document, self.shown, self.moment, gate, self)
        self.beside = Beside(self.document, self.shown, self.moment, self.answers, gate, self)
        self.trial_runs = TrialRuns(self.document, gate, self)
        self.pictures = Worker("pictures", gate, self)
        """Brings pictures in from files."""
        self._replayer = Replayer(gate, self)
        self._connect()
        self._show(fresh=True, ready=self.run)

    def _connect(self) -> None:
        """Connect the parts with one another, and pass their signals on."""
        self.document.pause, self.document.show = self.player.stop, self._show
        self.player.made_on = lambda: self.progress is not None
        self.player.before_play = self._stop_replaying
        self.player.record = self._end_take
        self.player.anew = self._run_anew
        self.document.goes_on_with = self._goes_on_with
        self.document.replaced.connect(self.takes.forget)
        self.document.replaced.connect(lambda: self.mark_stretch(None))
        self.document.replaced.connect(self.flags.clear)
        self.document.takesWanted.connect(lambda process: self.takes.take_over(self.path, process))
        self._verdicts = Replayer(self._gate, self)
        self._verdicts.judged.connect(self._on_script_judged)
        for part, signals in (
            (
                self.document,
                "levelChanged fileChanged selectionChanged awaitsFile changedOnDisk goneFromDisk notified",
            ),
            (self.moment, "notified"),
            (self.answers, "notified"),
            (self.beside, "notified"),
            (self.player, "runningChanged"),
        ):
            for name in signals.split():
                getattr(part, name).connect(getattr(self, name))
        self.answers.expectWanted.connect(self._expect)
        self.answers.changedWanted.connect(self._show_changed)
        self.answers.trialWanted.connect(self._take_trial)
        self.answers.acceptWanted.connect(self._accept)
        self.moment.moved.connect(self.cursorMoved)
        self.player.began.connect(self.flags.clear)
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
        """Stop what runs, and the workers. A play that is broken off is kept as a take before that."""
        self.player.stop()
        self._later.stop()
        for part in (self.answers, self.beside, self.moment, self.player, self.document.file, self._replayer):
            part.close()
        self._verdicts.close()
        self.trial_runs.close()
        self.pictures.close()
        self.takes.close()

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
    def take(self) -> Take | None:
        """The take that is shown in the place of the viewed trial's script; None where the script is shown."""
        return self.takes.shown_of(self.trial.name)

    @property
    def tried(self) -> Trial:
        """The trial as it is run: with the take that is shown in the place of its script, if one is."""
        return self.takes.tried(self.trial)

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

    def index_at(self, rule_id: int | None, section: str | None = None) -> Index:
        """Return the names that a rule or graph may use, or a new one in a section: in an own behaviour `self` too."""
        index, found = self.program.index, None
        if not index.own_behaviours:
            return index
        if rule_id is not None:
            found = next((s for _, s, entry in all_logic(self.level) if entry.id == rule_id), None)
        elif section is not None:
            found = next((e for e in self.level.order if isinstance(e, Section) and e.name == section), None)
        return index_within(index, found)

    def move_cursor(self, cursor: Cursor | None) -> None:
        """Pause, and put the cursor at a moment of the run; None leaves it."""
        self.moment.move(cursor)

    def worker_held(self) -> AbstractContextManager[None]:
        """Return a context in which the workers stand aside: for what must be done at once."""
        return self._gate.shut()

    def mark_stretch(self, stretch: tuple[int, int] | None) -> None:
        """Mark a stretch of time, from the end of one tick to that of a later one; None marks none."""
        if stretch != self.stretch:
            self.stretch = stretch
            self.stretchChanged.emit()

    def choose_trial(self, name: str) -> None:
        """View another trial."""
        if name != self.trial.name:
            self.player.stop()
            self.takes.show(None)
            self.document.trial_name = name
            self._show(fresh=True)
            self.trialChosen.emit()

    def _expect(self, trial: str, expectation: Expectation) -> None:
        if all(one.name != trial for one in self.level.trials):
            self.notify(f"There is no trial “{trial}” any more.")
            return
        words = expectation.sentence()
        self.edit(thing_edits.add_expectation(self.level, trial, expectation), f"expect that {words}")
        self.notify(f"“{trial}” expects from now on: {words}.")

    def _take_trial(self, level: Level, name: str) -> None:
        if with_fields(level, trials=()) != with_fields(self.level, trials=()):
            self.notify("The level has been edited since. Look again.")
            return
        self.edit(level, f"keep what was found as the trial “{name}”")
        self.choose_trial(name)

    def _accept(self, trial: str, made: SameOrder) -> None:
        level = thing_edits.accept_order(self.level, trial, made)
        self.edit(level, f"accept the order of firing of “{trial}”")
        self.answers.dismiss()
        self.notify(f"“{trial}” accepts this order of {len(made.firings):,} firings.")

    def _show_changed(self, trial: str, level: Level, words: str) -> None:
        self.choose_trial(trial)
        self.beside.compare_with_changed(level, words)

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
        if (self.player.running or self.player.playing) and not fresh:
            self._go_on_tuned()
        else:
            self._run_level(fresh)

    def _goes_on_with(self, level: Level) -> bool:
        """Whether what runs or is played can go on with an edited level: only numbers and other texts of slots differ."""
        going = self.player.running or self.player.playing
        return going and differ_in_numbers_alone(self.level, level)

    def _go_on_tuned(self) -> None:
        """What runs or is played goes on with the level as it is now, and a flag in the lanes says so."""
        tick, label = self.run.done if self.player.tuned or self.player.playing else self.cursor.tick, ""
        if self.player.go_on_with(self.program):
            label = self.document.history.undoes or ""
            before = self.flags[-1] if self.flags else None
            if before is not None and self.live and self._flagged_live:
                # one drag is one tuning
                self.flags[-1] = Flag(before.tick, label)
            else:
                self.flags.append(Flag(tick, label))
            self._flagged_live = self.live
            self.runChanged.emit()
        else:
            self.player.stop()
            self._run_level(False)

    def _run_anew(self) -> None:
        """What went on with other numbers has stopped: the trial is run with them from its start."""
        self._wanted_cursor = self.cursor
        self._replay(None)

    def _show_level(self, fresh: bool, ready: Run | None) -> None:
        document = self.document
        if ready is not None:
            self.program = ready.program
        else:
            self.program = Program(edits.as_tried(self.level, self.trial), self.program)
        selection = self.selection.within(self.level)
        if fresh:
            self.shown.open(ready or Run(self.program, self.tried))
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
        self._verdicts.cancel()
        self._replayer.replay(self.program, self.tried, before, self.cursor.tick)

    def _stop_replaying(self) -> None:
        self._later.stop()
        self._replayer.cancel()
        self._verdicts.cancel()

    # takes

    def _end_take(self, run: Run, begun: int) -> None:
        """A run has been played: it is a take, or the script of a trial that has none yet."""
        trial = self.trial
        take = self.takes.made_of(run, begun, trial.name)
        if take.input == trial.input:
            # as the script has it: nothing was pressed, or nothing else
            self.show_script()
        elif is_empty(trial.input):
            self._keep_as_script(take)
            self.notify(
                f"What you pressed is now the script of “{trial.name}”, which had none. Undo takes it back."
            )
        else:
            self.takes.add(take, self.path, self.level.name)
            self._run_take()
            self.takes.ended.emit(take)

    def _run_take(self) -> None:
        """Run the shown take by itself, for its watches; what is seen stays."""
        self._wanted_cursor = self.cursor
        self._replay(None)

    def _keep_as_script(self, take: Take) -> None:
        level = edits.record_input(self.level, take.trial, take.input, take.seconds)
        self._wanted_cursor = self.cursor
        label = f"keep a take as the script of “{take.trial}”"
        self.document.change(lambda: self.document.history.do(level, label))

    def show_take(self, take: Take) -> None:
        """Show a take in the place of the trial's script."""
        self.player.stop()
        if take.trial != self.trial.name:
            self.choose_trial(take.trial)
        self.takes.show(take)
        self._run_take()

    def show_script(self) -> None:
        """Show the trial's script again."""
        self.player.stop()
        self.takes.show(None)
        self._wanted_cursor = self.cursor
        scripted = self._scripted
        if scripted is not None and scripted[0] is self.level and scripted[1].run.trial is self.trial:
            self._stop_replaying()
            self._on_ran(replace(scripted[1], comparison=None))
            self._on_judged(scripted[1])
        else:
            self._replay(None)

    def play_again(self) -> None:
        """Play once more, from where the shown take began."""
        take = self.take
        self.player.play_from(take.begun if take is not None else self.player.begun)

    def keep_take_as_script(self) -> None:
        """Make the shown take the script of its trial."""
        take = self.take
        if take is not None:
            self.takes.show(None)
            self._keep_as_script(take)

    def keep_take_as_trial(self) -> None:
        """Make a new trial of the shown take; it is viewed then."""
        take = self.take
        if take is None:
            return
        level, name = thing_edits.trial_of_take(self.level, take.of(self.trial))
        self.takes.show(None)
        self._wanted_cursor = self.cursor

        def add() -> None:
            self.document.history.do(level, f"keep a take as the trial “{name}”")
            self.document.trial_name = name

        self.document.change(add)
        self.trialChosen.emit()

    # while a value is dragged

    def begin_live(self) -> None:
        """A value is being dragged: edits follow one another, and the run follows them."""
        self.live = True

    def end_live(self) -> None:
        """The value was released: the run is made whole and judged."""
        if self.live:
            self.live = self._flagged_live = False
            self.document.history.settle()
            self.document.levelChanged.emit()
            if not (self.player.running or self.player.playing):
                self._replay(self.shown.whole)

    def _run_live(self) -> None:
        """Run as far as the cursor, and on for as long as a frame has time; the rest comes when the value is released.

        In this thread: beside a worker every paint would wait for the interpreter again and again.
        """
        before = self.shown.whole
        shared = shared_ticks(before, self.program, self.tried) if before is not None else 0
        shared = min(shared, self.cursor.tick)
        if self.run.pace * (self.cursor.tick - shared) > AT_ONCE:
            # that would hold the window up at each step of the drag
            self._replay(before)
            return
        self._replayer.cancel()
        clock = QElapsedTimer()
        clock.start()
        if shared and before is not None:
            run = resumed(before, self.program, self.tried, shared)
        else:
            run = Run(self.program, self.tried)
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
        if self.shown.state is State.PLAYED:
            # what was played is shown whole already
            return
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
        take = self.take
        if take is None:
            self._scripted = self.level, found
            self.shown.judge(found)
        else:
            # the verdicts are those of the script, whatever is played
            scripted = self._scripted
            known = scripted is not None and scripted[0] is self.level and scripted[1].run.trial is self.trial
            self.shown.judge(found)
            self.shown.verdicts = scripted[1].verdicts if scripted is not None and known else []
            if not known:
                self._verdicts.replay(self.program, self.trial, None)
        self.judgedChanged.emit()

    def _on_script_judged(self, found: Replayed) -> None:
        """The verdicts of the script, which was run beside the take that is shown."""
        self._scripted = self.level, found
        if self.take is not None:
            self.shown.verdicts = found.verdicts
            self.judgedChanged.emit()
