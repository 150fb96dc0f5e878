"""The workbench: level, run, cursor and selection. Views ask it and are told by its signals."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from gatillo.desk.session.answers import Answers
from gatillo.desk.session.beside import Beside
from gatillo.desk.session.clock import Clock
from gatillo.desk.session.history import History
from gatillo.desk.session.level_file import LevelFile
from gatillo.desk.session.moments import AT_ONCE, Moments
from gatillo.desk.session.replay import Replayed, Replayer, Watch
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.files.level_file import LevelFileError, why_not_written
from gatillo.files.unsaved import Left, recover, throw_away
from gatillo.inspect.comparison import Comparison
from gatillo.inspect.expectations import Verdict
from gatillo.inspect.findings import Finding, repaired
from gatillo.level import edits
from gatillo.level.model import Level, Trial, empty_level
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws
from gatillo.sim.interaction.talk import choices
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Cursor, Run, Witnessed
from gatillo.sim.world.world import World

FIRST_PAINT = 60
"""Milliseconds after which a level just opened is run, so that it is seen before."""
LIVE_MILLISECONDS = 20
"""How long a run may take of a frame while a value is dragged."""
LIVE_CHUNK = 15
TOLD_AFTER = 300
"""Milliseconds after which a replay says how far it is."""
SPEEDS = (0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0)


def _nothing() -> None:
    """What is done when nothing is to be done."""


def _why_not_kept(level: Level) -> str:
    """Why a level could not be saved and opened again, or ""."""
    flaw = next(flaws(level), None)
    return flaw.message if flaw is not None else why_not_written(level)


MOST_CHECKED = 3_000
"""Objects up to which a level is checked whole at each edit: some milliseconds."""


class Workbench(QObject):
    """Everything the window is about."""

    levelChanged = Signal()
    """The level is another one (an edit, undo, or a file opened)."""
    runChanged = Signal()
    """Another run is viewed, or the viewed run has grown."""
    judgedChanged = Signal()
    """Verdicts and watches of the viewed run are there."""
    cursorMoved = Signal()
    trialChosen = Signal()
    """Another trial is viewed: other rules may be switched on."""
    selectionChanged = Signal()
    progressed = Signal()
    """A replay has come further, or is over."""
    runningChanged = Signal()
    """Playback or playing has begun or stopped."""
    fileChanged = Signal()
    """The file's name or whether it is saved has changed."""
    told = Signal(str)
    """Something to tell calmly, in a sentence."""
    awaitsFile = Signal(str)
    """A file is being read or written, in a sentence; with "" that is over."""
    changedOnDisk = Signal()
    """The file was written by somebody else."""

    def __init__(self, level: Level | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(level or empty_level())
        self.document = 0
        """Counts the documents that have been on the bench."""
        self.trial_name = ""
        self.cursor = Cursor()
        self.selection = Selection()
        self.speed = 1.0
        self.verdicts: list[Verdict] = []
        self.judged: Run | None = None
        """The run that verdicts, watches and findings are of."""
        self.findings: list[Finding] = []
        self.watches: list[Watch] = []
        self.comparison = Comparison()
        self.compared = False
        self.running = False
        self.playing = False
        self.live = False
        """While a value is being dragged."""
        self.anew: Run | None = None
        """The run that is being made after an edit, as far as it has come; None while none is, or before it has begun."""
        self._settled_run: Run | None = None
        """The last run that is whole: what edits are compared with."""
        self.run_before: Run | None = None
        """The one before that."""
        self.run: Run
        self.program: Program
        self._gate = Gate()
        self._replayer = Replayer(self._gate, self)
        self._replayer.ran.connect(self._on_ran)
        self._replayer.grown.connect(self._on_grown)
        self._replayer.judged.connect(self._on_judged)
        self._replayer.progressed.connect(self._on_progress)
        self._replayer.failed.connect(self._on_failed)
        self.progress: tuple[int, int] | None = None
        """How far a replay has come, and how long it will be, in ticks; None while none that takes long goes on."""
        self._since = QElapsedTimer()
        self._moments = Moments(self._gate, self)
        self._moments.came.connect(self._on_moment)
        self._file = LevelFile(self._gate, self)
        self._file.told.connect(self.told)
        self._file.awaited.connect(self.awaitsFile)
        self._file.changedOnDisk.connect(self.changedOnDisk)
        self._ahead = Worker("playing", self._gate, self)
        self._ahead.failed.connect(self.stop)
        """Takes a run that is slow on while it is played."""
        self._under_way = 0
        """Up to which tick the worker is taking it."""
        self._pulled: tuple[Run, Cursor, dict[tuple[int, int], Any]] | None = None
        """The values of cards at the cursor, once they have been asked for."""
        self._plays_soon = False
        self._clock = Clock(self)
        self._clock.passed.connect(self._on_clock)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(FIRST_PAINT)
        self._later.timeout.connect(lambda: self._replay(None))
        self._wanted_cursor: Cursor | None = None
        self.held_at: Callable[[Cursor, int], Cursor | None] = lambda before, tick: None
        """The first moment after one, up to the end of a tick, at which a run that goes on stands still."""
        self.stops_at: Callable[[int, int], bool] = lambda rule, card: False
        """Whether a run is held at a rule, or at a card of a graph."""
        self.answers = Answers(self, self._gate)
        self.beside = Beside(self, self._gate)
        self._take_level(fresh=True)

    # the level

    @property
    def level(self) -> Level:
        """The level as it is now."""
        return self.history.level

    @property
    def trial(self) -> Trial:
        """The trial that is viewed: the chosen one, else the first."""
        trials = self.level.trials or empty_level().trials
        return next((t for t in trials if t.name == self.trial_name), trials[0])

    def edit(self, level: Level, label: str, join: str = "") -> None:
        """Take an edited level; `label` names it for undo. Its trial is replayed at once."""
        level = tidied(level)
        if edits.same(level, self.level):
            return
        self.stop()
        why = _why_not_kept(level) if len(level.objects) <= MOST_CHECKED else ""
        if why and not _why_not_kept(self.level):
            # what could not be saved, or not opened again, is not taken
            self.told.emit(f"That cannot be done: {why}.")
            self.levelChanged.emit()
            return
        self._change(lambda: self.history.do(level, label, join))

    def _change(self, step: Callable[[], object]) -> None:
        """Take a step in the history and show the level it leads to; if that raises, the level stays as it was."""
        try:
            with self.history.restored_on_error():
                step()
                self._take_level()
        except BaseException:
            self.levelChanged.emit()
            raise

    def undo(self) -> None:
        """Take back the last edit."""
        if self.history.undoes is not None:
            self._step_history(self.history.undo)

    def redo(self) -> None:
        """Do again what was taken back."""
        if self.history.redoes is not None:
            self._step_history(self.history.redo)

    def _step_history(self, step: Callable[[], object]) -> None:
        self.stop()
        before = self.level

        def go() -> None:
            step()
            self.selection = self.selection.renamed(before, self.level)
            viewed = Selection(thing=Thing("trial", self.trial_name)).renamed(before, self.level).thing
            self.trial_name = viewed.name if viewed is not None else ""

        self._change(go)

    def worker_held(self) -> AbstractContextManager[None]:
        """While this is open the worker stands aside: for what must be done at once."""
        return self._gate.shut()

    def _take_level(self, *, fresh: bool = False, ready: Run | None = None) -> None:
        with self.worker_held():
            self._show_level(fresh, ready)
        self._run_level(fresh)

    def _show_level(self, fresh: bool, ready: Run | None) -> None:
        if ready is not None:
            self.program = ready.program
        else:
            self.program = Program(edits.as_tried(self.level, self.trial), getattr(self, "program", None))
        kept = self.selection.within(self.level)
        if fresh:
            self._moments.forget()
            self.run = ready or Run(self.program, self.trial)
            self._settled_run = self.run_before = None
            self.beside.put_away()
            self.cursor = Cursor()
            self.verdicts, self.watches, self.findings = [], [], []
            self.comparison, self.compared = Comparison(), False
        if kept != self.selection:
            self.selection = kept
            self.selectionChanged.emit()
        self.levelChanged.emit()
        self.fileChanged.emit()
        self._file.keep_aside(self.level if self.history.unsaved else None, self.path)
        if fresh:
            self.runChanged.emit()
            self.cursorMoved.emit()

    def _run_level(self, fresh: bool) -> None:
        self._later.stop()
        self.anew = None
        if self.live:
            self._run_live()
        elif fresh:
            # the window is painted first: beside the worker that takes several times as long
            self._replayer.cancel()
            self._later.start()
        else:
            self._replay(self._settled_run)

    def _replay(self, before: Run | None) -> None:
        self._since.start()
        self._replayer.replay(self.program, self.trial, before, self.cursor.tick)

    def _run_live(self) -> None:
        """Run as far as the cursor, and on for as long as a frame has time; the rest comes when it is let go.

        In this thread: beside a worker every paint would wait for the interpreter again and again.
        """
        before = self._settled_run
        shared = shared_ticks(before, self.program, self.trial) if before is not None else 0
        shared = min(shared, self.cursor.tick)
        if self.run.pace * (self.cursor.tick - shared) > AT_ONCE:
            # that would hold the window up at each step of the drag
            self._replay(self._settled_run)
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
        run.keep()
        while run.done < run.length and clock.elapsed() < LIVE_MILLISECONDS:
            run.advance(min(LIVE_CHUNK, run.length - run.done))
        self.run = run
        self.verdicts, self.watches = [], []
        self.runChanged.emit()
        self._put_cursor(self.cursor)

    def begin_live(self) -> None:
        """A value is being dragged: edits follow one another, and the run follows them."""
        self.live = True

    def end_live(self) -> None:
        """The value was let go: the run is made whole and judged."""
        if self.live:
            self.live = False
            self.history.settle()
            self.levelChanged.emit()
            self._replay(self._settled_run)

    def _on_progress(self, done: int, length: int) -> None:
        # what is soon over need not be told
        if self._since.elapsed() > TOLD_AFTER:
            self.progress = done, length
            self.progressed.emit()

    def _on_failed(self) -> None:
        """Show the run that was there before one that could not be made."""
        self.progress = self.anew = None
        if self._settled_run is not None:
            self.run = self._settled_run
        self.progressed.emit()
        self.runChanged.emit()

    @property
    def newest(self) -> Run:
        """What the lanes show: the run that is being made after an edit as far as it has come, else the one that is viewed."""
        return self.anew or self.run

    @property
    def standing(self) -> Run | None:
        """The whole run from before the edit, where the newest has not come to it yet; else None."""
        settled = self._settled_run
        if settled is None or self.playing or self.newest.program is settled.program:
            return None
        return settled if self.newest.done < min(settled.done, self.newest.length) else None

    def _on_grown(self, run: Run) -> None:
        """Show a run that is being made as far as it has come; it is not settled yet.

        After an edit the moment at the cursor is that of the run before until the new one has passed it.
        """
        run.remember(self.run)
        if self._settled_run is None or run.done >= self.cursor.tick:
            self.run = run
        self.anew = run if self._settled_run is not None else None
        self.runChanged.emit()
        self._put_cursor(self.cursor)

    def _on_ran(self, found: Replayed) -> None:
        self.progress = self.anew = None
        if self._settled_run is not self.run:
            # one that was shown as it grew
            found.run.remember(self.run)
        self.run = found.run
        self.run_before, self._settled_run = self._settled_run, found.run
        if found.comparison is not None and self.beside.run is None:
            self.comparison, self.compared = found.comparison, True
        self.verdicts, self.watches = [], []
        self.runChanged.emit()
        wanted, self._wanted_cursor = self._wanted_cursor, None
        self._put_cursor(wanted or self.cursor)

    def _on_judged(self, found: Replayed) -> None:
        self.verdicts, self.watches, self.findings = found.verdicts, found.watches, found.findings
        self.judged = found.run
        self.judgedChanged.emit()

    def show_comparison(self, comparison: Comparison | None) -> None:
        """Mark in the lanes what differs from another run; None marks nothing any more."""
        self.comparison, self.compared = comparison or Comparison(), comparison is not None
        self.judgedChanged.emit()

    def choose_trial(self, name: str) -> None:
        """View another trial."""
        if name != self.trial.name:
            self.stop()
            self.trial_name = name
            self._take_level(fresh=True)
            self.trialChosen.emit()

    def repair(self, finding: Finding) -> None:
        """Do a finding's repair."""
        if finding.repair is None:
            self.told.emit("There is no repair for this finding; correct it by hand.")
            return
        self.edit(repaired(self.level, finding), f"repair “{finding.rule}”: {finding.repair_label}")

    def findings_of(self, rule_id: int | None) -> list[Finding]:
        """The findings of a rule."""
        return [f for f in self.findings if f.rule_id == rule_id and rule_id is not None]

    # files

    @property
    def path(self) -> Path | None:
        """Where the level is saved; None while it has no file of its own."""
        return self._file.path

    def open(self, path: Path, then: Callable[[], object] = _nothing) -> bool:
        """Open a level file and call `then`; when it cannot be read, tell why and keep the open level.

        A large one is read in a worker: then True says no more than that it is being read.
        """
        level, document = self.level, self.document

        def wanted() -> bool:
            return self.document == document and (self.level is level or not self.history.unsaved)

        def opened(level: Level, run: Run) -> None:
            self._put_on(level, run)
            then()

        return self._file.read(path, wanted, opened)

    def drop_file(self) -> None:
        """Give up reading a file."""
        self._file.drop()

    def set_aside_path(self) -> None:
        """The level is a copy without a file of its own."""
        self._file.let_go()
        self.fileChanged.emit()

    def recover(self, left: Left) -> bool:
        """Bring back unsaved work; it is unsaved again until it is saved."""
        try:
            level = recover(left)
        except LevelFileError as error:
            self.told.emit(str(error))
            return False
        self.take(level)
        self._file.path = left.of
        self.history.mark_unsaved()
        self._file.keep_aside(level, left.of)
        throw_away(left)
        self.fileChanged.emit()
        self.told.emit(
            f"“{left.name}” is as it was when the program ended. Save it to keep it"
            + (f" in {left.of.name}." if left.of else ".")
        )
        return True

    def take(self, level: Level) -> None:
        """Put another document on the bench, without a file of its own."""
        self._file.let_go()
        self._put_on(level)

    def _put_on(self, level: Level, ready: Run | None = None) -> None:
        if ready is None:
            # made first: if that fails, the document on the bench stays
            trial = (level.trials or empty_level().trials)[0]
            ready = Run(Program(edits.as_tried(level, trial)), trial)
        self.stop()
        self.history = History(level)
        self.document += 1
        self.trial_name = ""
        self.selection = Selection()
        self.selectionChanged.emit()
        self._take_level(fresh=True, ready=ready)

    def save(self, path: Path, then: Callable[[], object] = _nothing) -> bool:
        """Save the level and call `then`; when that fails, tell why.

        A large one is written in a worker: then True says no more than that it is being written.
        """
        level, document = self.level, self.document

        def saved() -> None:
            self.history.mark_saved(level)
            if not self.history.unsaved:
                self._file.keep_aside(None, path)
            self.fileChanged.emit()
            then()

        return self._file.write(path, level, lambda: self.document == document, saved)

    # the cursor

    @property
    def world(self) -> World:
        """The state at the cursor; the last one that was shown while a slow run is replayed for it."""
        # while a shortened run is made anew the cursor can stand beyond it
        beyond = self.cursor.tick > self.run.done
        return self._moments.world(self.run, self.run.end_of(self.run.done) if beyond else self.cursor)

    @property
    def awaits(self) -> bool:
        """Whether the moment at the cursor is still being worked out."""
        return self._moments.awaited

    def witnessed(self) -> list[Witnessed]:
        """The firings of the cursor's tick in full; none while a slow run is replayed for them, or all goes on."""
        if self.running or self.playing:
            return []
        return self._moments.witnessed(self.run, self.cursor)

    def pulled(self) -> dict[tuple[int, int], Any]:
        """The values that cards of graphs gave in the cursor's tick up to it; none while all goes on, or a run is slow."""
        run, cursor = self.run, self.cursor
        if self.running or self.playing or not 1 <= cursor.tick <= run.done:
            return {}
        if run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace > AT_ONCE:
            return {}
        if self._pulled is None or self._pulled[0] is not run or self._pulled[1] != cursor:
            self._pulled = (run, cursor, run.pulled_at(cursor))
        return self._pulled[2]

    def _on_moment(self) -> None:
        self.cursorMoved.emit()
        if self._plays_soon:
            self.play()

    def move_cursor(self, cursor: Cursor | None) -> None:
        """Put the cursor at a moment of the run; None leaves it."""
        if cursor is not None:
            self.stop()
            self._put_cursor(cursor)

    def _put_cursor(self, cursor: Cursor) -> None:
        tick = min(cursor.tick, self.run.done)
        position = (
            min(cursor.position, self.run.trace.count_at(tick))
            if tick == cursor.tick
            else self.run.trace.count_at(tick)
        )
        cursor = Cursor(tick, position, cursor.step if tick == cursor.tick else 0)
        if cursor.tick != self.cursor.tick or cursor != self.cursor:
            self.cursor = cursor
        self.cursorMoved.emit()

    def to_start(self) -> None:
        """Put the cursor before the first tick."""
        self.move_cursor(Cursor())

    def to_end(self) -> None:
        """Put the cursor at the end of the run."""
        self.move_cursor(self.run.end_of(self.run.done))

    def step_tick(self, by: int) -> None:
        """Some ticks on or back, to the end of the tick."""
        self.move_cursor(self.run.end_of(self.cursor.tick + by))

    def step_firing(self, by: int) -> None:
        """One firing on (by = 1) or back (by = -1)."""
        step = self.run.next_firing if by > 0 else self.run.previous_firing
        found = step(self.cursor)
        if found is None:
            self.told.emit(
                "Nothing fires after this moment." if by > 0 else "Nothing fired before this moment."
            )
        self.move_cursor(found)

    def step_within(self, by: int) -> None:
        """One step on (by = 1) or back (by = -1): an action's line, or a card of a graph."""
        found = (self.run.next_step if by > 0 else self.run.previous_step)(self.cursor)
        if found is None:
            self.told.emit("No step follows this moment." if by > 0 else "No step precedes this moment.")
        self.move_cursor(found)

    # selection

    def select(self, selection: Selection) -> None:
        """Select something else."""
        if selection != self.selection:
            self.selection = selection
            self.selectionChanged.emit()

    # running and playing

    def toggle_run(self) -> None:
        """Run on from the cursor at the chosen speed, or pause."""
        if self.running or self.playing:
            self.stop()
            return
        if self.cursor.tick >= self.run.done:
            self._put_cursor(Cursor())
        self.running = True
        self._start_clock()

    def play(self) -> None:
        """Go on from the cursor with the live keyboard; what is pressed is recorded."""
        self.stop()
        tick = self.cursor.tick
        end = self.run.end_of(tick)
        if not self._moments.is_at_hand(self.run, end):
            self._plays_soon = True
            return
        live = self.run.resume_at(tick, self._moments.world(self.run, end))
        # one of its own: the run it comes from has its input still
        live.script = live.script.up_to(tick)
        for key in sorted(live.world.input.held):
            live.script.release(tick + 1, key)
        self._later.stop()
        self._replayer.cancel()
        self.run, self.anew = live, None
        self.verdicts, self.watches = [], []
        self.comparison, self.compared = Comparison(), False
        self.playing = True
        self._start_clock()
        self.runChanged.emit()
        self._put_cursor(Cursor(tick, live.trace.count_at(tick)))

    @property
    def _next_tick(self) -> int:
        """The first tick that has not been worked out yet, nor is being: what is pressed comes in there."""
        return max(self.run.done, self._under_way) + 1

    def press(self, key: str) -> None:
        """A key went down while playing."""
        if self.playing and key:
            self.run.script.press(self._next_tick, key)

    def choose(self, number: int) -> bool:
        """Choose an entry of a menu or a topic while playing, by its number from 1; False if there is none."""
        offered = choices(self.run.world)[1] if self.playing else ()
        if not 1 <= number <= len(offered):
            return False
        self.run.script.choose(self._next_tick, offered[number - 1])
        return True

    def point(self, x: float, y: float) -> None:
        """The pointer moved while playing, to a point of the level."""
        if self.playing:
            self.run.script.point(self._next_tick, x, y)

    def release(self, key: str) -> None:
        """A key went up while playing."""
        if self.playing and key:
            self.run.script.release(self._next_tick, key)

    def stop(self) -> None:
        """Pause the run; if it was played, what was pressed goes into the trial."""
        self._plays_soon = False
        if not (self.running or self.playing):
            return
        self._ahead.drop()
        self._under_way = 0
        played, self.running, self.playing = self.playing, False, False
        self._clock.stop()
        self.runningChanged.emit()
        if played:
            self._keep_recording()

    def _keep_recording(self) -> None:
        run = self.run
        recorded = run.script.as_input(run.done)
        length = run.done / self.program.rate
        level = edits.record_input(self.level, self.trial.name, recorded, length)
        if level == self.level:
            self._replay(None)
            return
        self._wanted_cursor = self.cursor
        self._change(lambda: self.history.do(level, f"record input into “{self.trial.name}”"))

    def _start_clock(self) -> None:
        self._clock.start()
        self.runningChanged.emit()

    def _on_clock(self, seconds: float) -> None:
        ticks = self._clock.ticks_of(seconds * self.program.rate * self.speed)
        if ticks:
            self.go_on(ticks)

    def go_on(self, ticks: int) -> None:
        """Take a run that is running or being played some ticks on."""
        if self.playing and ticks * self.run.pace <= AT_ONCE:
            self.run.advance(ticks)
            self._show_played(self.run)
        elif self.playing:
            self._play_slowly(ticks)
        elif self.running and not self._moments.awaited:
            held = self.held_at(self.cursor, self.cursor.tick + ticks)
            if held is not None:
                self.stop()
                self._put_cursor(held)
                return
            self._put_cursor(self.run.end_of(self.cursor.tick + ticks))
            # a run that is being made may come on yet
            if self.cursor.tick >= self.run.done and (
                self.progress is None or self.run.done >= self.run.length
            ):
                self.stop()

    def _play_slowly(self, ticks: int) -> None:
        """Take a copy of the run on in the worker: what is shown must not change under the window."""
        if self._ahead.busy:
            return
        ahead = self.run.resume_at(self.run.done)
        few = min(ticks, max(1, int(AT_ONCE / ahead.pace)))
        self._under_way = self.run.done + few

        def work(job: Job) -> Run:
            ahead.advance(few, job.is_dropped)
            return ahead

        self._ahead.ask(work, self._show_played)

    def _show_played(self, run: Run) -> None:
        # the cursor first: whoever hears of the run looks at the world there, and an earlier tick would be run again for it
        self.run = run
        self.cursor = run.end_of(run.done)
        self.runChanged.emit()
        self.cursorMoved.emit()

    def close(self) -> None:
        """Let the workers end."""
        self.answers.close()
        self.beside.close()
        self._moments.close()
        self._ahead.close()
        self._file.close()
        self._clock.stop()
        self._later.stop()
        self._replayer.close()
