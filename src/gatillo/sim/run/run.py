"""A run: a program, a trial, the trace so far, and any moment of it on demand."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from statistics import median
from time import thread_time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.level.model import Trial
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.program import Program
from gatillo.sim.run.tick import run_tick
from gatillo.sim.trace.trace import NullRecorder, Ran, Recorder, Trace
from gatillo.sim.world.input_script import Script
from gatillo.sim.world.world import World

KEYFRAME_BUDGET = 64 << 20
"""Bytes that the keyframes of one run may take."""

FIRST_SPACING, WIDE_SPACING = 12, 120
"""Ticks between keyframes: at first, and at most before their budget is reached."""
REPLAYED_BETWEEN = 0.02
"""Seconds in which the ticks between two keyframes are to be replayed."""
MEASURED_EVERY = 16
"""Keyframes between two measurements of their size, which takes as long as a copy."""

TIMED_AT_FIRST, TIMED_EVERY = 12, 8
"""Ticks that are timed, so that it is known how long one takes: the first, and then one in so many."""
UNKNOWN_PACE = 1.0
"""Seconds that a tick of a level with many objects may take, before one has run."""
MANY = 500


def _at_ease() -> None:
    """The cancel callback that never cancels."""


@dataclass(frozen=True, slots=True, order=True)
class Cursor:
    """A moment of a run: after the `position`-th firing of `tick`, or within the one after it, after the tick's `step`-th step.

    The last position of a tick is its end, after Settle. Tick 0 is the level as laid out. A step is an action's line that has
    been done, or a card that has run; 0 is none.
    """

    tick: int = 0
    position: int = 0
    step: int = 0


@dataclass(slots=True)
class Change:
    """One thing that an action changed."""

    part: str
    line: int
    name: str
    ids: list[int] | None
    before: Any
    after: Any


@dataclass(slots=True)
class Witnessed:
    """A firing seen in full: who took part, and what each action changed."""

    ids: dict[str, list[int]] = field(default_factory=dict)
    changes: list[Change] = field(default_factory=list)
    world: World | None = None


class _DetailRecorder(NullRecorder):
    """Watches one firing of a tick that is being replayed."""

    watching = True

    def __init__(self) -> None:
        self.seen: list[Witnessed] = []
        self.steps: list[Ran] = []
        self.tick = 0

    def tick_begins(self, tick: int) -> None:
        self.tick = tick

    def ran(
        self,
        step: int,
        firings: int,
        rule_index: int,
        part: str,
        line: int,
        card: int,
        wire: int,
        matches: int,
    ) -> None:
        self.steps.append(
            Ran(
                self.tick,
                step,
                firings,
                rule_index,
                "card" if card else part,
                0 if card else line,
                card,
                wire,
                matches,
            )
        )

    def takes_part(self, table: Matches, ids: dict[str, NDArray[np.int64]]) -> None:
        self.seen.append(Witnessed({role: column.tolist() for role, column in ids.items()}))

    def changed(
        self, part: str, line: int, name: str, ids: list[int] | None, before: Any, after: Any
    ) -> None:
        self.seen[-1].changes.append(Change(part, line, name, ids, before, after))


def trial_ticks(trial: Trial, rate: int) -> int:
    """Length of a trial in ticks."""
    return max(1, round(trial.length * rate))


class Run:
    """A run of a trial. `advance` takes it on; `world_at` gives back any moment it has passed.

    Keyframes (whole states) are kept at a spacing that doubles when they outgrow their budget;
    moments between them are replayed, which is exact.
    """

    def __init__(
        self,
        program: Program,
        trial: Trial,
        *,
        record: bool = True,
        budget: int = KEYFRAME_BUDGET,
        world: World | None = None,
    ) -> None:
        """A run from the level as laid out; or from another state of it, which the run takes as its own."""
        self.program = program
        self.trial = trial
        self.script = Script(trial.input, program.rate)
        self._length = trial_ticks(trial, program.rate)
        self.world = World(program, trial.seed) if world is None else world
        self.trace = Trace()
        self.recorder: Recorder = self.trace if record else NullRecorder()
        self.keyframes: dict[int, World] = {0: self.world.clone()} if record else {}
        self.spacing = FIRST_SPACING
        self.budget = budget
        self._keeps = record
        self.after_tick: Callable[[World], None] | None = None
        """Called with the world at the end of each tick that is run on, to look and not to change."""
        self.true_from = 0
        """The tick up to which it was made with other numbers (tuning.py): what is before that cannot be looked at in full."""
        self.followed: dict[str, list[Any]] = {}
        """By text: what formulas gave at tick 0 and at the end of each tick, stored here when they were followed."""
        self.noted: dict[tuple[int, str], Any] = {}
        """By tick and text: what formulas gave at the end of single ticks, where that was noted as it ran."""
        self._size = self.world.size() if record else 0
        self._taken: deque[float] = deque([UNKNOWN_PACE if len(self.world.id) > MANY else 0.0], maxlen=9)
        self._at_hand: World | None = None

    @property
    def length(self) -> int:
        """How many ticks the run will have: the trial's, or fewer if a rule ended it."""
        return self.world.tick if self.world.rules.over else self._length

    @property
    def done(self) -> int:
        """The last tick that has run."""
        return self.world.tick

    def advance(self, ticks: int | None = None, stop: Callable[[], bool] = lambda: False) -> int:
        """Run on by some ticks, or to the trial's end; returns how many were run.

        `stop` is asked between ticks and ends the call early when it answers yes.
        """
        wanted = self.length - self.done if ticks is None else ticks
        with np.errstate(all="ignore"):
            for made in range(wanted):
                if stop() or self.world.rules.over:
                    return made
                self._step()
        return max(0, wanted)

    def _step(self) -> None:
        world = self.world
        # some are timed, and each of the first: on some machines that takes as long as a small tick
        timed = world.tick < TIMED_AT_FIRST or world.tick % TIMED_EVERY == 0
        begun = thread_time() if timed else 0.0
        run_tick(self.program, world, self.script.at(world.tick + 1), self.recorder)
        if self.after_tick is not None:
            self.after_tick(world)
        if world.tick == 1:
            self._taken.clear()
        if timed:
            self._taken.append(thread_time() - begun)
        if world.tick == TIMED_AT_FIRST and self.spacing == FIRST_SPACING and len(self.keyframes) == 1:
            # as far apart as is replayed at once
            ticks = int(REPLAYED_BETWEEN / max(self.pace, 1e-6))
            self.spacing = min(max(ticks, FIRST_SPACING), WIDE_SPACING)
        if self._keeps and world.tick % self.spacing == 0:
            self.keyframes[world.tick] = world.clone()
            self._thin_out()

    def add_keyframe(self) -> None:
        """Keep the state as it is now, so that this moment is at hand however far the run goes on."""
        self._at_hand = self.world.clone()

    def _thin_out(self) -> None:
        many = len(self.keyframes)
        if many % MEASURED_EVERY == 1 or (many < MEASURED_EVERY and many & (many - 1) == 0):
            self._size = self.world.size()
        if self._size * len(self.keyframes) > self.budget and len(self.keyframes) > 2:
            self.spacing *= 2
            self.keyframes = {t: w for t, w in self.keyframes.items() if t % self.spacing == 0}

    # any moment

    @property
    def pace(self) -> float:
        """About how many seconds a tick takes: no part of the run; for what shows it."""
        return median(self._taken)

    def seconds_to(self, cursor: Cursor) -> float:
        """About how long it takes to work out a moment: as many ticks as are to be replayed for it."""
        tick = min(cursor.tick, self.done)
        if tick == 0:
            return 0.0
        within = cursor.step > 0 or cursor.position < self.trace.count_at(tick)
        tick -= within
        if tick == self.done or (self._at_hand is not None and self._at_hand.tick == tick):
            return within * self.pace
        return (tick - self._start_for(tick).tick + within) * self.pace

    def world_at(self, cursor: Cursor, between: Callable[[], None] = _at_ease) -> World:
        """Return the state at a moment. The world given is the run's own: look, do not change.

        `between` is called before each tick that is replayed for it; what it raises ends the call. Raises ValueError
        for a moment the run has not come to.
        """
        if not 0 <= cursor.tick <= self.done:
            raise ValueError(f"tick {cursor.tick} has not been run; the run is at tick {self.done}")
        firings = self.trace.count_at(cursor.tick)
        within = cursor.step and cursor.tick
        if not within and (cursor.tick == 0 or cursor.position >= firings):
            return self._settled(cursor.tick, between)
        world = self._settled(cursor.tick - 1, between).clone()
        between()
        if within:
            self._replay_tick(world, NullRecorder(), None, cursor.step)
        else:
            self._replay_tick(world, NullRecorder(), cursor.position)
        return world

    def _start_for(self, tick: int) -> World:
        """Return the state nearest before a tick that is at hand."""
        at_hand = self._at_hand
        start = self.keyframes[max(t for t in self.keyframes if t <= tick)]
        return at_hand if at_hand is not None and start.tick < at_hand.tick <= tick else start

    def _settled(self, tick: int, between: Callable[[], None] = _at_ease) -> World:
        if tick == self.done:
            return self.world
        start = self._start_for(tick)
        if start is self._at_hand and start.tick == tick:
            return start
        world = start.clone()
        silent = NullRecorder()
        while world.tick < tick:
            between()
            self._replay_tick(world, silent, None)
        self._at_hand = world
        return world

    def _replay_tick(
        self, world: World, recorder: Recorder, stop_at: int | None, stop_step: int | None = None
    ) -> None:
        with np.errstate(all="ignore"):
            run_tick(self.program, world, self.script.at(world.tick + 1), recorder, stop_at, stop_step)

    def witness(self, tick: int, between: Callable[[], None] = _at_ease) -> list[Witnessed]:
        """Return each firing of a tick in full, replayed: who took part and what it changed."""
        if not self.true_from < tick <= self.done:
            return []
        world = self._settled(tick - 1, between).clone()
        between()
        witness = _DetailRecorder()
        self._replay_tick(world, witness, None)
        for seen in witness.seen:
            seen.world = world
        return witness.seen

    def replay(
        self, first: int, last: int, recorder: Recorder, between: Callable[[], None] = _at_ease
    ) -> World:
        """Return ticks that this run has passed, run once more for a recorder; gives the world after the last of them.

        Raises ValueError for ticks that have not been run.
        """
        if not 1 <= first <= last <= self.done:
            raise ValueError(f"ticks {first} to {last} have not all been run; the run is at tick {self.done}")
        world = self._settled(first - 1, between).clone()
        while world.tick < last:
            between()
            self._replay_tick(world, recorder, None)
        return world

    def kept_before(self, tick: int) -> int:
        """Return the last tick before this one of which the whole state is kept."""
        return max(t for t in self.keyframes if t < tick)

    def steps_at(self, tick: int, between: Callable[[], None] = _at_ease) -> list[Ran]:
        """Return each step of a tick, replayed: every action's line that was done and every card that ran, in their order."""
        if not self.true_from < tick <= self.done:
            return []
        world = self._settled(tick - 1, between).clone()
        between()
        seen = _DetailRecorder()
        self._replay_tick(world, seen, None)
        return seen.steps

    def pulled_at(self, cursor: Cursor, between: Callable[[], None] = _at_ease) -> dict[tuple[int, int], Any]:
        """Return the values that cards of graphs gave in a tick up to a moment, replayed: by graph and card, one value for each match."""
        if not self.true_from < cursor.tick <= self.done:
            return {}
        world = self._settled(cursor.tick - 1, between).clone()
        between()
        ended = not cursor.step and cursor.position >= self.trace.count_at(cursor.tick)
        stop_at = None if cursor.step or ended else cursor.position
        given = world.caches.given = {}
        self._replay_tick(world, NullRecorder(), stop_at, cursor.step or None)
        world.caches.given = None
        if ended:
            # most often the state there is wanted too
            self._at_hand = world
        return given

    def advance_and_pull(self, ticks: int) -> dict[tuple[int, int], Any]:
        """Like `advance`; return the values that cards of graphs gave in the last of these ticks, by graph and card."""
        self.advance(ticks - 1)
        given = self.world.caches.given = {}
        self.advance(1)
        self.world.caches.given = None
        return given

    def resume_at(self, tick: int, world: World | None = None) -> Run:
        """Return a new run of the same trial that runs on by itself from a tick that this one has passed; at once when its state is given.

        Its trace begins as this run's did up to that tick.
        """
        return self._resumed(tick, self._settled(tick) if world is None else world)

    def _resumed(self, tick: int, world: World) -> Run:
        other = self.taken_over(self.program, self.trial, tick, world.clone())
        other.script = self.script
        return other

    def so_far(self) -> Run:
        """Return the run as far as it has come, to be looked at while this one goes on."""
        return self._resumed(self.done, self.world)

    def remember(self, other: Run) -> None:
        """Have at hand the moment that a run has at hand which is the same as far as it goes."""
        if other.program is self.program and other._at_hand is not None:
            self._at_hand = other._at_hand

    def replay_to(self, world: World, tick: int) -> None:
        """Take a state of this run on to a later tick that it has passed; the run itself is only looked at."""
        silent = NullRecorder()
        while world.tick < tick:
            self._replay_tick(world, silent, None)

    def taken_over(self, program: Program, trial: Trial, tick: int, world: World) -> Run:
        """Return a run of another program and trial that has all in common with this one up to a tick (resuming.py).

        `world` is this run's state at that tick, and the new run's own from now on.
        """
        other = Run(program, trial, record=False, budget=self.budget, world=world.of_program(program))
        other.trace = self.trace.up_to(tick)
        other.noted = {key: value for key, value in self.noted.items() if key[0] <= tick}
        other.recorder = other.trace
        other._taken = self._taken.copy()
        other.true_from = self.true_from
        other.keyframes = {t: w.of_program(program) for t, w in self.keyframes.items() if t <= tick}
        other._keeps, other.spacing, other._size = True, self.spacing, self._size
        return other

    # stepping

    def next_firing(self, cursor: Cursor) -> Cursor | None:
        """Return the moment after the next firing, or None when none follows."""
        if cursor.tick > 0 and cursor.position < self.trace.count_at(cursor.tick):
            return Cursor(cursor.tick, cursor.position + 1)
        tick = self.trace.next_tick_with_firing(cursor.tick)
        return Cursor(tick, 1) if tick is not None else None

    def previous_firing(self, cursor: Cursor) -> Cursor | None:
        """Return the moment after the firing before this one, or None when there is none."""
        # within a firing, the one before it is over
        position = cursor.position + (cursor.step > 0)
        if position > 1:
            return Cursor(cursor.tick, min(position, self.trace.count_at(cursor.tick) + 1) - 1)
        tick = self.trace.previous_tick_with_firing(cursor.tick)
        return Cursor(tick, self.trace.count_at(tick)) if tick is not None else None

    def next_step(self, cursor: Cursor) -> Cursor | None:
        """Return the moment after the next step, an action's line or a card; None when none follows."""
        tick = max(cursor.tick, 1)
        while tick <= self.done:
            steps = self.steps_at(tick) if self._has_steps(tick) else []
            here = cursor if tick == cursor.tick else Cursor(tick)
            for step in steps:
                after = step.step > here.step if here.step else step.firings >= here.position
                if after:
                    return Cursor(tick, step.firings, step.step)
            tick += 1
        return None

    def previous_step(self, cursor: Cursor) -> Cursor | None:
        """Return the moment after the step before this one, or None when there is none."""
        for tick in range(min(cursor.tick, self.done), 0, -1):
            if not self._has_steps(tick):
                continue
            steps = self.steps_at(tick)
            if tick == cursor.tick:
                steps = [
                    s for s in steps if (s.step < cursor.step if cursor.step else s.firings < cursor.position)
                ]
            if steps:
                return Cursor(tick, steps[-1].firings, steps[-1].step)
        return None

    def _has_steps(self, tick: int) -> bool:
        return bool(self.trace.count_at(tick) or self.trace.cards_at(tick))

    def end_of(self, tick: int) -> Cursor:
        """Return the moment at the end of a tick, the tick kept within the run."""
        tick = min(max(tick, 0), self.done)
        return Cursor(tick, self.trace.count_at(tick))


def run_trial(program: Program, trial: Trial | None = None) -> Run:
    """Run a trial to its end, with trace and keyframes."""
    run = Run(program, trial or program.level.trials[0])
    run.advance()
    return run
