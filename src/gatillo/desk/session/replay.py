"""Running a trial in a worker after each edit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from time import monotonic
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.comparison import Comparison, compare
from gatillo.inspect.expectations import Verdict, judge, to_follow
from gatillo.inspect.finding import Finding
from gatillo.inspect.findings import findings
from gatillo.inspect.watching import Following
from gatillo.level.model import Graph, Trial
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_rule import every_step
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import run_on
from gatillo.sim.run.run import Run

CHUNK = 20
PROGRESS_TOLD = 0.15
"""Seconds between two tellings of how far a run has come: each paints the lanes, and the run waits for it."""
FIRST_TOLD, THEN_TOLD = 0.4, 0.8
"""Seconds after which a run that is being made is shown as far as it has come, and then again and again."""
FIRST_AFTER_EDIT, WORTH_TELLING = 0.03, 0.15
"""After an edit sooner: seconds to the first showing, unless the run will be whole in so many more."""
RUN_AT_ONCE, FEW = 0.01, 5
"""For so many seconds a run that can be begun at once is run on by the window itself, so many ticks at a time."""
REPLAYED_AT_ONCE, MOST_AT_ONCE = 0.04, 2_000
"""It can where no more than so many seconds are to be replayed from the last keyframe, of so many objects."""
MOST_CARDS_AT_ONCE = 2_000
"""And where the graphs have no more cards than this: the cards of the runs before and after are compared one by one."""


@dataclass(slots=True)
class Watch:
    """A formula followed over the run: its value at the end of each tick, or why there is none."""

    source: str
    type: str = "number"
    values: list[Any] = field(default_factory=list)
    problem: str = ""
    _numbers: tuple[list[Any], NDArray[np.float64]] | None = None

    def numbers(self) -> NDArray[np.float64]:
        """Return the values as numbers, by tick; NaN where a value is none."""
        if self._numbers is None or self._numbers[0] is not self.values:
            numbers = np.array([v if isinstance(v, float) else np.nan for v in self.values])
            self._numbers = self.values, numbers
        return self._numbers[1]


@dataclass(slots=True)
class Replayed:
    """What a replay found."""

    run: Run
    comparison: Comparison | None = None
    verdicts: list[Verdict] = field(default_factory=list)
    watches: list[Watch] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    judged: bool = False
    """Whether verdicts, watches and findings are there already."""


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a run has come, in ticks."""

    done: int
    length: int


@dataclass(frozen=True, slots=True)
class SoFar:
    """A run as far as it has come; the one that goes on is another."""

    run: Run


class Replay:
    """A trial that is run and judged: what it has in common with the run before the edit is taken over from there."""

    def __init__(self, program: Program, trial: Trial, before: Run | None) -> None:
        self.program, self.trial, self.before = program, trial, before
        self.watches, self.formulas = _watches(program, trial)
        self.judged = to_follow(program, trial)
        self.texts = [*(w.source for w in self.watches if not w.problem), *self.judged]
        self.run = run_on(before, program, trial, self.texts)
        known = before.followed if self.run.done and before else {}
        self.following = Following(self.run, [*self.formulas, *self.judged.values()], known, self.texts)
        self.start = self.run.done
        self.shown = False
        """Whether its first moments are shown already."""

    def run_a_little(self) -> bool:
        """Run the first moments, to be shown at once, unless the whole run takes no longer. Return True if any was run."""
        run = self.run
        pace = self.before.pace if self.before is not None else run.pace
        if (run.length - run.done) * pace <= WORTH_TELLING:
            return False
        begun = monotonic()
        while run.done < run.length and monotonic() - begun < RUN_AT_ONCE:
            run.advance(min(FEW, run.length - run.done))
        self.shown = True
        return True

    def finish(self, job: Job, around: int) -> Replayed:
        """Run it to its end, telling its progress, the run as it grows and as soon as it is whole; then judge it.

        `around` is the tick that is looked at: a run that has just passed it is reported at once.
        """
        run, begun, start = self.run, monotonic(), self.run.done
        progressed = begun
        due = begun + (FIRST_TOLD if self.before is None or self.shown else FIRST_AFTER_EDIT)
        looked_at = min(around + self.program.rate, run.length)
        while run.done < run.length:
            run.advance(min(CHUNK, run.length - run.done), job.is_dropped)
            job.go_on()
            now = monotonic()
            if now - progressed >= PROGRESS_TOLD:
                job.report(Progress(run.done, run.length))
                progressed = now
            reached = self.start < looked_at <= run.done
            if not (now >= due or reached):
                continue
            if (run.length - run.done) * (now - begun) > WORTH_TELLING * (run.done - start):
                job.report(SoFar(run.so_far()))
                # less and less often: each paints the window, and the run waits for it
                due = monotonic() + THEN_TOLD + (now - begun) / 4
            looked_at = looked_at if not reached else 0
        comparison = compare(self.before, run) if self.before is not None else None
        job.report(Replayed(run, comparison))
        return self._judged(comparison)

    def _judged(self, comparison: Comparison | None) -> Replayed:
        run = self.run
        values = self.following.end()
        run.followed = dict(zip(self.texts, values, strict=True))
        for watch, seen in zip([w for w in self.watches if not w.problem], values, strict=False):
            watch.values = seen
        verdicts = judge(run, dict(zip(self.judged, values[len(self.formulas) :], strict=True)))
        found = findings(self.program.level, self.program)
        return Replayed(run, comparison, verdicts, self.watches, found, judged=True)


def soon_begun(before: Run | None) -> bool:
    """Return whether a run can be made again from one before for a few ticks without the window standing still for it."""
    return (
        before is not None
        and len(before.world.id) <= MOST_AT_ONCE
        and _cards(before.program) <= MOST_CARDS_AT_ONCE
        and before.pace * before.spacing <= REPLAYED_AT_ONCE
    )


def _cards(program: Program) -> int:
    return sum(len(entry.nodes) for _, _, entry in all_logic(program.level) if isinstance(entry, Graph))


def _watches(program: Program, trial: Trial) -> tuple[list[Watch], list[Formula]]:
    watches: list[Watch] = []
    formulas: list[Formula] = []
    for source in trial.watches:
        try:
            formula = compile_formula(program.index, source)
        except FormulaError as error:
            watches.append(Watch(source, problem=error.message))
            continue
        watches.append(Watch(source, formula.type))
        formulas.append(formula)
    return watches, formulas


def _look_up_touches(program: Program, go_on: Callable[[], bool]) -> None:
    """Work out what the entries of a level's rules touch, which is kept: the first question would wait half a second for it."""
    entries = [line.entry for rule in program.rules for line in every_step(rule)]
    entries += [behaviour.entry for behaviour in program.behaviours]
    for entry in {entry.name: entry for entry in entries}.values():
        if not go_on():
            return
        entry.touches()


class Replayer(QObject):
    """Replays a trial in the background; only the newest request is answered.

    `ran` reports the run as soon as it is whole, `judged` once it has verdicts and watches; `grown` reports a long one before that,
    as far as it has come.
    """

    ran = Signal(object)
    judged = Signal(object)
    grown = Signal(object)
    progressed = Signal(int, int)
    failed = Signal()
    """The run could not be made: an unforeseen error."""

    def __init__(self, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._gate = gate
        self._worker = Worker("replay", gate, self)
        self._worker.failed.connect(self.failed)

    def replay(self, program: Program, trial: Trial, before: Run | None, around: int = 0) -> None:
        """Run a trial; an earlier request still running is dropped. `around` is the tick that is looked at.

        Where it can be begun without holding the window up its first moments are told before this returns: beside the worker
        the window would first paint what is there, and the two wait for one another.
        """
        self._worker.drop()
        replay = Replay(program, trial, before) if soon_begun(before) else None
        if replay is not None and replay.run_a_little():
            self.grown.emit(replay.run.so_far())
            self._gate.shut_until_painted()
        self._worker.ask(
            lambda job: (replay or Replay(program, trial, before)).finish(job, around), self._on_found
        )

    def cancel(self) -> None:
        """Drop what is being run."""
        self._worker.drop()

    def close(self) -> None:
        """Stop the worker."""
        self._worker.close()

    def _on_found(self, found: Replayed | Progress | SoFar) -> None:
        if isinstance(found, Progress):
            self.progressed.emit(found.done, found.length)
        elif isinstance(found, SoFar):
            self.grown.emit(found.run)
        elif found.judged:
            self.judged.emit(found)
            self._worker.when_idle(partial(_look_up_touches, found.run.program))
        else:
            self.ran.emit(found)
