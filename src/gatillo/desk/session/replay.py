"""Running a trial in a worker after each edit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from time import monotonic
from typing import Any

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.formula.compiling import Formula, compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.comparison import Comparison, compare
from gatillo.inspect.expectations import Verdict, judge, to_follow
from gatillo.inspect.findings import Finding, findings
from gatillo.inspect.watching import Following
from gatillo.level.model import Trial
from gatillo.sim.program.compiled_rule import every_step
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Run

CHUNK = 20
PROGRESS_TOLD = 0.15
"""Seconds between two tellings of how far a run has come: each paints the lanes, and the run waits for it."""
FIRST_TOLD, THEN_TOLD = 0.4, 0.8
"""Seconds after which a run that is being made is shown as far as it has come, and then again and again."""
FIRST_AFTER_EDIT, WORTH_TELLING = 0.03, 0.15
"""After an edit sooner: seconds to the first showing, unless the run will be whole in so many more."""


@dataclass(slots=True)
class Watch:
    """A formula followed over the run: its value at the end of each tick, or why there is none."""

    source: str
    type: str = "number"
    values: list[Any] = field(default_factory=list)
    problem: str = ""


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


def _replay(job: Job, program: Program, trial: Trial, before: Run | None, around: int) -> Replayed:
    """Run a trial, telling its progress, the run as it grows and as soon as it is whole; then judge it.

    What it has in common with the run before the edit is taken over from there. `around` is the tick that is looked at: a run
    that has just passed it is told at once.
    """
    watches, formulas = _watches(program, trial)
    judged = to_follow(program, trial)
    texts = [*(w.source for w in watches if not w.problem), *judged]
    run = run_on(before, program, trial, texts)
    following = Following(
        run, [*formulas, *judged.values()], before.followed if run.done and before else {}, texts
    )
    start, begun = run.done, monotonic()
    progressed = begun
    due = begun + (FIRST_TOLD if before is None else FIRST_AFTER_EDIT)
    looked_at = min(around + program.rate, run.length)
    while run.done < run.length:
        run.advance(min(CHUNK, run.length - run.done), job.is_dropped)
        job.go_on()
        now = monotonic()
        if now - progressed >= PROGRESS_TOLD:
            job.tell(Progress(run.done, run.length))
            progressed = now
        reached = start < looked_at <= run.done
        if not (now >= due or reached):
            continue
        if (run.length - run.done) * (now - begun) > WORTH_TELLING * (run.done - start):
            job.tell(SoFar(run.so_far()))
            # less and less often: each paints the window, and the run waits for it
            due = monotonic() + THEN_TOLD + (now - begun) / 4
        looked_at = looked_at if not reached else 0
    comparison = compare(before, run) if before is not None else None
    job.tell(Replayed(run, comparison))
    values = following.end()
    run.followed = dict(zip(texts, values, strict=True))
    for watch, seen in zip([w for w in watches if not w.problem], values, strict=False):
        watch.values = seen
    verdicts = judge(run, dict(zip(judged, values[len(formulas) :], strict=True)))
    return Replayed(run, comparison, verdicts, watches, findings(program.level, program), judged=True)


def run_on(before: Run | None, program: Program, trial: Trial, texts: Sequence[str]) -> Run:
    """A run of a trial that begins where it parts from one made before, if what is to be followed was followed there too."""
    if before is not None and all(text in before.followed for text in texts):
        shared = shared_ticks(before, program, trial)
        if shared and all(len(before.followed[text]) > shared for text in texts):
            return resumed(before, program, trial, shared)
    return Run(program, trial)


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
    entries = [step.entry for turn in program.turns for step in every_step(turn)]
    entries += [behaviour.entry for behaviour in program.behaviours]
    for entry in {entry.name: entry for entry in entries}.values():
        if not go_on():
            return
        entry.touches()


class Replayer(QObject):
    """Replays a trial in the background; only the newest request is answered.

    `ran` tells the run as soon as it is whole, `judged` the same with verdicts and watches; `grown` tells a long one before that,
    as far as it has come.
    """

    ran = Signal(object)
    judged = Signal(object)
    grown = Signal(object)
    progressed = Signal(int, int)

    def __init__(self, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._worker = Worker("replay", gate, self)

    def replay(self, program: Program, trial: Trial, before: Run | None, around: int = 0) -> None:
        """Run a trial; an earlier request still running is dropped. `around` is the tick that is looked at."""
        self._worker.ask(lambda job: _replay(job, program, trial, before, around), self._on_found)

    def cancel(self) -> None:
        """Drop what is being run."""
        self._worker.drop()

    def close(self) -> None:
        """Let the worker end."""
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
