"""Checking trials: each run at its tick rates and with its seeds, and judged."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec

from gatillo.inspect.coverage import Reached, reached_by
from gatillo.inspect.expectations import Verdict, all_as_meant, as_data, faults_amiss, run_and_judge
from gatillo.inspect.work_queue import Crew, WorkQueue
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Trial
from gatillo.sim.program.problems import Problem
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


@dataclass(frozen=True, slots=True)
class Checked:
    """One trial at one tick rate with one seed."""

    file: str
    trial: str
    rate: int
    seed: int
    seconds: float
    problems: tuple[Problem, ...]
    verdicts: tuple[Verdict, ...]
    faults: tuple[str, ...] = ()
    """The sentences of its faults, each once."""
    amiss: str = ""
    """Why it does not pass for its faults."""
    as_meant: bool = True
    """Whether it passes by its expectations."""
    fails: int = 0
    """How many of them were to fail."""
    reached: Reached | None = None
    """What its run reached, where that was wanted."""

    @property
    def passed(self) -> bool:
        """Whether every rule could run, the expectations came out as meant and no fault was amiss."""
        return not self.problems and not self.amiss and self.as_meant

    def title(self) -> str:
        """Return which file, trial, rate and seed it was."""
        return f"{self.file}, trial “{self.trial}”, {self.rate} ticks a second, seed {self.seed}"

    def as_data(self) -> dict[str, Any]:
        """Return it as plain data, for other programs."""
        return {
            "file": self.file,
            "trial": self.trial,
            "rate": self.rate,
            "seed": self.seed,
            "passed": self.passed,
            "findings": [p.sentence() for p in self.problems],
            "faults": list(self.faults),
            "faults_amiss": self.amiss,
            "meant_to_fail": self.fails,
            "expectations": [as_data(v) for v in self.verdicts],
        }


@dataclass(frozen=True, slots=True)
class Task:
    """One trial to be run: of which of the levels, by name, at which tick rate, with which seed."""

    at: int
    trial: str
    rate: int
    seed: int
    reached: bool = False
    """Whether to say what its run reached."""


def tasks_of(at: int, level: Level, trials: Sequence[Trial], rates: Sequence[int], seeds: int) -> list[Task]:
    """Return these trials of a level, the one numbered `at`, at every rate and seed, in their order.

    Without `rates` each trial's own are taken, or the level's; `seeds` counts from the trial's own up, and 1 takes as many as it says.
    """
    found: list[Task] = []
    for trial in trials:
        tries = seeds if seeds > 1 else trial.seeds
        for rate in rates or trial.rates or (level.settings.rate,):
            found += [Task(at, trial.name, rate, seed) for seed in range(trial.seed, trial.seed + tries)]
    return found


def checked(
    levels: Sequence[tuple[str, Level]],
    tasks: Sequence[Task],
    crew: Crew,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[Checked]:
    """Yield what came of each task, in the order of the tasks. The levels stand with the names that results call them by.

    `stop` is asked now and then; when it answers yes, nothing is left running.
    """
    with WorkQueue(_check, _begin, (tuple(levels),), crew) as queue:
        yield from queue.results(tasks, stop, ordered=True)


_LEVELS: list[tuple[str, Level]] = []
"""The levels that tasks speak of."""
_PROGRAMS: dict[tuple[int, str, int], Program] = {}
"""The program of the last task, which the next can often use."""


def _begin(levels: Sequence[tuple[str, Level]]) -> None:
    _LEVELS[:] = levels
    _PROGRAMS.clear()


def _check(task: Task) -> Checked:
    """Run one trial and judge it."""
    name, level = _LEVELS[task.at]
    chosen = next(t for t in level.trials if t.name == task.trial)
    key = task.at, task.trial, task.rate
    program = _PROGRAMS.get(key)
    if program is None:
        settings = msgspec.structs.replace(level.settings, rate=task.rate)
        program = Program(as_tried(msgspec.structs.replace(level, settings=settings), chosen))
        _PROGRAMS.clear()
        _PROGRAMS[key] = program
    run = Run(program, msgspec.structs.replace(chosen, seed=task.seed))
    verdicts = run_and_judge(run)
    faults = tuple(dict.fromkeys(sentence for *_, sentence in run.trace.fault_counts()))
    return Checked(
        name,
        chosen.name,
        task.rate,
        task.seed,
        run.done / task.rate,
        tuple(program.problems),
        tuple(verdicts),
        faults,
        faults_amiss(run),
        all_as_meant(run.trial, verdicts),
        run.trial.fails,
        reached_by(run) if task.reached else None,
    )
