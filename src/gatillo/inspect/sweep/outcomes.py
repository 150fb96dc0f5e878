"""Making the runs of a sweep, in processes on all cores, and what each came to."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import judge, to_follow
from gatillo.inspect.sweep.cases import Case, Sweep, sweep_of
from gatillo.inspect.sweep.targets import SweepError
from gatillo.inspect.watching import Following, Unanswered
from gatillo.inspect.work_queue import Crew, WorkQueue, cores
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.world import World


@dataclass(slots=True)
class Frame:
    """Where the objects are at the end of a tick: columns with a row for each that is there."""

    tick: int
    kind: NDArray[np.int32]
    x: NDArray[np.float32]
    y: NDArray[np.float32]
    angle: NDArray[np.float32]
    scale: NDArray[np.float32]


@dataclass(slots=True)
class Outcome:
    """What one run of a sweep came to."""

    case: Case
    problem: str = ""
    """Why it could not be run, or ""; the rest is empty then."""
    ticks: int = 0
    rate: int = 60
    verdicts: list[tuple[str, str]] = field(default_factory=list)
    """Of each expectation: its sentence, and “held”, “failed” or “open”."""
    firings: dict[str, int] = field(default_factory=dict)
    """By rule or graph that fired: how often."""
    faults: int = 0
    watched: list[list[float | None]] = field(default_factory=list)
    """Of each watch: its value at tick 0 and at the end of every tick; yes is 1 and no 0, None where it has no value."""
    frames: list[Frame] = field(default_factory=list)

    @property
    def held(self) -> int:
        """How many expectations hold."""
        return sum(outcome == "held" for _, outcome in self.verdicts)


def compiled_watches(level: Level, trial: Trial, watches: Sequence[str]) -> dict[str, Formula]:
    """Return formulas to watch, by their texts. Raises SweepError for one that cannot be read."""
    program = Program(as_tried(level, trial))
    found: dict[str, Formula] = {}
    for text in watches:
        try:
            found[text] = compile_formula(program.index, text)
        except FormulaError as error:
            raise SweepError(f"the watch “{text}” cannot be read: {error.message}") from None
    return found


def outcome_of(
    level: Level, trial: Trial, sweep: Sweep, case: Case, watches: Sequence[str], every: int = 0
) -> Outcome:
    """Return what one case comes to. With `every`, a frame is kept each so many ticks."""
    trial = _leaving(trial, sweep)
    try:
        made = sweep.level(level, case)
        usual = {str(p) for p in Program(as_tried(level, trial)).problems}
        program = Program(as_tried(made, trial))
        wrong = next((p.sentence() for p in program.problems if str(p) not in usual), "")
        if wrong:
            return Outcome(case, wrong)
        formulas = [compile_formula(program.index, text) for text in watches]
    except (SweepError, FormulaError) as error:
        return Outcome(case, getattr(error, "message", str(error)))
    tried = replace(trial, seed=trial.seed + case.seed)
    run, judged = Run(program, tried), to_follow(program, tried)
    following = Following(run, [*formulas, *judged.values()], {}, [*(f"watch {t}" for t in watches), *judged])
    frames = [_frame(run.world)] if every else []
    while run.done < run.length:
        if not run.advance(min(every or run.length, run.length - run.done)):
            break
        if every:
            frames.append(_frame(run.world))
    values = following.end()
    verdicts = judge(run, dict(zip(judged, values[len(formulas) :], strict=True)))
    fired = Counter(
        program.rules[f.rule_index].source.name for f in run.trace.firings() if f.way is not Way.RESUMED
    )
    return Outcome(
        case,
        ticks=run.done,
        rate=program.rate,
        verdicts=[(v.expectation.sentence(), v.outcome) for v in verdicts],
        firings=dict(fired),
        faults=sum(run.trace.fault_counts().values()),
        watched=[[_number(v) for v in one] for one in values[: len(formulas)]],
        frames=frames,
    )


def _leaving(trial: Trial, sweep: Sweep) -> Trial:
    """Return a trial that leaves what level variables start with to the sweep, where it would start them itself."""
    names = {target.name for target in sweep.targets}
    kept = {name: value for name, value in trial.values.items() if f"level.{name}" not in names}
    return replace(trial, values=kept) if len(kept) < len(trial.values) else trial


def _number(value: Any) -> float | None:
    if isinstance(value, Unanswered | str):
        return None
    return float(value) if isinstance(value, bool | int | float) and math.isfinite(value) else None


def _frame(world: World) -> Frame:
    rows = np.flatnonzero(world.alive & world.shown)
    return Frame(
        world.tick,
        world.kind[rows].astype(np.int32),
        *(getattr(world, name)[rows].astype(np.float32) for name in ("x", "y", "angle", "scale")),
    )


# on all cores

_MINE: list[Any] = []


def _begin(level: Level, trial: Trial, settings: list[str], watches: tuple[str, ...], every: int) -> None:
    """Take up a sweep in a process of its own."""
    _MINE[:] = [level, trial, sweep_of(level, settings, seeds=2), watches, every]


def _one(work: tuple[int, Case]) -> tuple[int, Outcome]:
    level, trial, sweep, watches, every = _MINE
    number, case = work
    return number, outcome_of(level, trial, sweep, case, watches, every)


def swept(
    level: Level,
    trial: Trial,
    sweep: Sweep,
    watches: Sequence[str] = (),
    *,
    every: int = 0,
    crew: Crew | None = None,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[int, Outcome]]:
    """Yield the number of each case and what it came to, as they are done: by this crew, or on all cores.

    `stop` is asked now and then; when it answers yes, or the caller goes on no more, nothing is left running.
    """
    cases = sweep.cases
    crew = crew or Crew(cores())
    if len(cases) == 1 or crew.alone:
        for number, case in enumerate(cases):
            if stop():
                return
            yield number, outcome_of(level, trial, sweep, case, watches, every)
        return
    settings = [f"{t.name}={','.join(v)}" for t, v in zip(sweep.targets, sweep.values, strict=True)]
    task = (level, trial, settings, tuple(watches), every)
    with WorkQueue(_one, _begin, task, crew) as queue:
        yield from queue.results(list(enumerate(cases)), stop)
