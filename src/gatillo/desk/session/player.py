"""Running the shown run at the chosen speed, and playing it with the live keyboard and pointer."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.clock import Clock
from gatillo.desk.session.moment_cache import AT_ONCE
from gatillo.desk.session.shown_moment import ShownMoment
from gatillo.desk.session.shown_run import ShownRun
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.sim.interaction.talk import choices
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.run.tuning import tuned

SPEEDS = (0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0)


class Player(QObject):
    """Runs and plays the shown run."""

    runningChanged = Signal()
    """Running or playing has begun or stopped."""
    began = Signal()
    """A run begins to be played: it is another one than was shown."""
    advanced = Signal()
    """The played run has come further."""

    def __init__(
        self, shown: ShownRun, moment: ShownMoment, gate: Gate, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.running = False
        self.playing = False
        self.speed = 1.0
        self.held_at: Callable[[Cursor, int], Cursor | None] = lambda before, tick: None
        """Returns the first moment after one, up to the end of a tick, at which a run that goes on is paused."""
        self.made_on: Callable[[], bool] = lambda: False
        """Whether the shown run is still being made, so that it may come on yet."""
        self.before_play: Callable[[], object] = lambda: None
        """Called before a run is played: nothing else may replace the shown run then."""
        self.record: Callable[[Run, int], object] = lambda run, begun: None
        """Called with a run that was played, once that stops, and with the tick after which the live keyboard took over."""
        self.anew: Callable[[], object] = lambda: None
        """Called when a run that went on with other numbers stops: the trial is to be run anew."""
        self.tuned = False
        """Whether the run that goes on is one with other numbers, which is made as it is shown."""
        self.begun = 0
        """The tick after which the live keyboard took over last."""
        self.values_wanted: Callable[[], bool] = lambda: False
        """Whether the values that cards give are shown while a run goes on."""
        self._shown, self._moment = shown, moment
        self._plays_soon = False
        self._loop: tuple[Run, int] | None = None
        """For a loop: the run as it stands at its beginning, and the tick at whose end it begins again."""
        self._loops_soon: tuple[int, int] | None = None
        moment.ready.connect(self._on_ready)
        moment.pause, moment.goes_on = self.stop, lambda: self.running or self.playing
        self._clock = Clock(self)
        self._clock.passed.connect(self._on_clock)
        self._ahead = Worker("playing", gate, self)
        """Takes a run that is slow on while it is played."""
        self._ahead.failed.connect(self.stop)
        self._under_way = 0
        """Up to which tick the worker is taking it."""

    def close(self) -> None:
        """Stop the worker."""
        self._ahead.close()
        self._clock.stop()

    # beginning and stopping

    def toggle_run(self) -> None:
        """Run on from the cursor at the chosen speed, or pause."""
        if self.running or self.playing:
            self.stop()
            return
        if self._moment.cursor.tick >= self._shown.run.done:
            self._moment.put(Cursor())
        self.running = True
        self._start_clock()

    def play(self) -> None:
        """Go on from the cursor with the live keyboard; what is pressed becomes a take."""
        self.stop()
        tick = self._moment.cursor.tick
        world = self._moment.world_at_end(tick)
        if world is None:
            self._plays_soon = True
            return
        live = self._shown.run.resume_at(tick, world)
        # a script of its own: the run it comes from has its input still
        live.script = live.script.up_to(tick)
        for key in sorted(live.world.input.held):
            live.script.release(tick + 1, key)
        self.before_play()
        self.begun = tick
        self._shown.play(live)
        self.playing = True
        self._start_clock()
        self.began.emit()
        self._moment.put(Cursor(tick, live.trace.count_at(tick)))

    def play_from(self, tick: int) -> None:
        """Play from the end of a tick of the run."""
        self.stop()
        self._moment.put(self._shown.run.end_of(min(tick, self._shown.run.done)))
        self.play()

    def stop(self) -> None:
        """Pause; what was pressed while playing is a take."""
        self._plays_soon, self._loops_soon = False, None
        if not (self.running or self.playing):
            return
        self._ahead.drop()
        self._under_way = 0
        played, self.running, self.playing = self.playing, False, False
        was_tuned, self.tuned, self._loop = self.tuned, False, None
        self._clock.stop()
        self.runningChanged.emit()
        if played:
            self.record(self._shown.run, self.begun)
        elif was_tuned:
            self.anew()

    def _on_ready(self) -> None:
        if self._plays_soon:
            self.play()
        elif self._loops_soon is not None:
            first, last = self._loops_soon
            self._loops_soon = None
            self.loop(first, last)

    def _start_clock(self) -> None:
        self._clock.start()
        self.runningChanged.emit()

    def go_on_with(self, program: Program) -> bool:
        """Let what runs or is played go on with other numbers from the next tick on; return False if it cannot."""
        run = self._shown.run
        if self.running and not self.tuned:
            # what is shown was made before: from the cursor on it is made again
            world = self._moment.world_at_end(self._moment.cursor.tick)
            if world is None:
                return False
            run = run.resume_at(self._moment.cursor.tick, world)
        self._ahead.drop()
        self._under_way = 0
        other = tuned(run, program)
        if other is None:
            return False
        self.tuned = True
        self._shown.play(other)
        self._show_played(other)
        return True

    @property
    def loops(self) -> bool:
        """Whether a stretch is run round and round."""
        return self._loop is not None

    def loop(self, first: int, last: int) -> None:
        """Run from the end of one tick to the end of a later one, round and round; what comes before is not run again."""
        self.stop()
        run = self._shown.run
        first = min(first, run.done)
        self._moment.put(run.end_of(first))
        world = self._moment.world_at_end(first)
        if world is None:
            self._loops_soon = first, last
            return
        self._loop = run.resume_at(first, world), last
        self.running = self.tuned = True
        self._begin_round(run.program)
        self._start_clock()
        self.began.emit()

    def _begin_round(self, program: Program) -> None:
        """Begin the stretch of the loop again, with the numbers as they are now."""
        assert self._loop is not None
        start, _ = self._loop
        run = tuned(start, program) or start.resume_at(start.done)
        self._shown.play(run)
        self._show_played(run)

    # what is pressed

    @property
    def _next_tick(self) -> int:
        """The first tick that has not been worked out yet, nor is being: what is pressed comes in there."""
        return max(self._shown.run.done, self._under_way) + 1

    def press(self, key: str) -> None:
        """A key went down while playing."""
        if self.playing and key:
            self._shown.run.script.press(self._next_tick, key)

    def release(self, key: str) -> None:
        """A key went up while playing."""
        if self.playing and key:
            self._shown.run.script.release(self._next_tick, key)

    def release_all(self) -> None:
        """The keyboard is elsewhere: let go of all keys that are held."""
        if self.playing:
            for key in sorted(self._shown.run.world.input.held):
                self.release(key)

    def point(self, x: float, y: float) -> None:
        """The pointer moved while playing, to a point of the level."""
        if self.playing:
            self._shown.run.script.point(self._next_tick, x, y)

    def choose(self, number: int) -> bool:
        """Choose an entry of a menu or a topic while playing, by its number from 1; return False if there is none."""
        offered = choices(self._shown.run.world)[1] if self.playing else ()
        if not 1 <= number <= len(offered):
            return False
        self._shown.run.script.choose(self._next_tick, offered[number - 1])
        return True

    # going on

    def _on_clock(self, seconds: float) -> None:
        ticks = self._clock.ticks_of(seconds * self._shown.run.program.rate * self.speed)
        if ticks:
            self.go_on(ticks)

    def go_on(self, ticks: int) -> None:
        """Take a run that is running or being played some ticks on."""
        run, moment = self._shown.run, self._moment
        if self._loop is not None and run.done >= self._loop[1]:
            self._begin_round(run.program)
            return
        if self.tuned and not self.playing:
            end = run.length if self._loop is None else min(run.length, self._loop[1])
            ticks = min(ticks, end - run.done)
            if ticks <= 0:
                if self._loop is None:
                    self.stop()
                else:
                    self._begin_round(run.program)
                return
        live = self.playing or self.tuned
        if live and ticks * run.pace <= AT_ONCE:
            if self.values_wanted():
                moment.give_pulled(run, run.advance_and_pull(ticks))
            else:
                run.advance(ticks)
            self._show_played(run)
        elif live:
            self._play_slowly(ticks)
        elif self.running and not moment.awaited:
            held = self.held_at(moment.cursor, moment.cursor.tick + ticks)
            if held is not None:
                self.stop()
                moment.put(held)
                return
            to = min(moment.cursor.tick + ticks, run.done)
            if self.values_wanted() and run.seconds_to(run.end_of(max(0, to - 1))) + run.pace <= AT_ONCE:
                moment.pull_at_end(run, to)
            moment.put(run.end_of(moment.cursor.tick + ticks))
            if moment.cursor.tick >= run.done and not (self.made_on() and run.done < run.length):
                self.stop()

    def _play_slowly(self, ticks: int) -> None:
        """Take a copy of the run on in the worker: what is shown must not change under the window."""
        if self._ahead.busy:
            return
        run = self._shown.run
        ahead = run.resume_at(run.done)
        few = min(ticks, max(1, int(AT_ONCE / ahead.pace)))
        self._under_way = run.done + few

        def work(job: Job) -> Run:
            ahead.advance(few, job.is_dropped)
            return ahead

        self._ahead.ask(work, self._show_played)

    def _show_played(self, run: Run) -> None:
        # the cursor first: a listener looks at the state there, and an earlier tick would be run again for it
        self._shown.run = run
        self._moment.cursor = run.end_of(run.done)
        self.advanced.emit()
        self._moment.moved.emit()
