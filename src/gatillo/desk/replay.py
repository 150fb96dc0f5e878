"""Running a trial in a worker after each edit."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import Event
from typing import Any

from PySide6.QtCore import QObject, Signal

from gatillo.formula.compiling import Formula, compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.comparison import Comparison, compare
from gatillo.inspect.expectations import Verdict, judge, to_follow
from gatillo.inspect.findings import Finding, findings
from gatillo.inspect.watching import follow
from gatillo.level.model import Trial
from gatillo.sim.program import Program
from gatillo.sim.run import Run

CHUNK = 60
HELD_AT_MOST = 0.2
"""Seconds for which the worker stands aside at most, whatever the window does."""


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

    serial: int
    run: Run
    comparison: Comparison | None = None
    verdicts: list[Verdict] = field(default_factory=list)
    watches: list[Watch] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)


class _Signals(QObject):
    ran = Signal(object)
    judged = Signal(object)
    progressed = Signal(int, int, int)


class _Job:
    """One trial to run, in the worker thread."""

    def __init__(
        self,
        serial: int,
        program: Program,
        trial: Trial,
        before: Run | None,
        signals: _Signals,
        free: Event,
    ) -> None:
        self.free = free
        self.serial = serial
        self.program = program
        self.trial = trial
        self.before = before
        self.signals = signals
        self.cancelled = Event()

    def run(self) -> None:
        run = Run(self.program, self.trial)
        while run.done < run.length and not self.cancelled.is_set():
            run.advance(min(CHUNK, run.length - run.done), self._stands_aside)
            self.signals.progressed.emit(self.serial, run.done, run.length)
        if self.cancelled.is_set():
            return
        found = Replayed(self.serial, run)
        if self.before is not None:
            found.comparison = compare(self.before, run)
        self.signals.ran.emit(found)
        watches, formulas = _watches(self.program, self.trial)
        judged = to_follow(run)
        # all of them in one run more
        values = follow(run, [*formulas, *judged.values()], self._stands_aside)
        if self.cancelled.is_set():
            return
        for watch, seen in zip([w for w in watches if not w.problem], values, strict=False):
            watch.values = seen
        verdicts = judge(run, dict(zip(judged, values[len(formulas) :], strict=True)))
        found = Replayed(
            self.serial, run, found.comparison, verdicts, watches, findings(self.program.level, self.program)
        )
        if not self.cancelled.is_set():
            self.signals.judged.emit(found)

    def _stands_aside(self) -> bool:
        """Asked between ticks: waits while the window has to do; gives whether to end."""
        self.free.wait(HELD_AT_MOST)
        return self.cancelled.is_set()


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


def _raise(done: Future[None]) -> None:
    # a worker's error would else be lost in its future
    if not done.cancelled() and (error := done.exception()) is not None:
        sys.excepthook(type(error), error, error.__traceback__)


class Replayer(QObject):
    """Replays a trial in the background; only the newest request is answered.

    `ran` tells the run as soon as it is whole, `judged` the same with verdicts and watches.
    """

    ran = Signal(object)
    judged = Signal(object)
    progressed = Signal(int, int)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(1, "replay")
        self._signals = _Signals(self)
        self._signals.ran.connect(self._on_ran)
        self._signals.judged.connect(self._on_judged)
        self._signals.progressed.connect(self._on_progressed)
        self._serial = 0
        self._job: _Job | None = None
        self._free = Event()
        self._free.set()
        self._holds = 0

    def replay(self, program: Program, trial: Trial, before: Run | None) -> None:
        """Run a trial; an earlier request still running is dropped."""
        self.cancel()
        self._serial += 1
        self._job = _Job(self._serial, program, trial, before, self._signals, self._free)
        self._pool.submit(self._job.run).add_done_callback(_raise)

    @contextmanager
    def held(self) -> Iterator[None]:
        """Let the worker stand aside: beside it every Qt call of a paint would wait for the interpreter."""
        self._holds += 1
        self._free.clear()
        try:
            yield
        finally:
            self._holds -= 1
            if not self._holds:
                self._free.set()

    def cancel(self) -> None:
        """Drop what is being run."""
        if self._job is not None:
            self._job.cancelled.set()
        self._serial += 1

    def close(self) -> None:
        """Let the worker end, and wait until it has."""
        self.cancel()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _on_ran(self, found: Replayed) -> None:
        if found.serial == self._serial:
            self.ran.emit(found)

    def _on_judged(self, found: Replayed) -> None:
        if found.serial == self._serial:
            self.judged.emit(found)

    def _on_progressed(self, serial: int, done: int, length: int) -> None:
        if serial == self._serial:
            self.progressed.emit(done, length)
