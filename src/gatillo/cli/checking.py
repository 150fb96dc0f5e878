"""`gatillo check`: trials over several tick rates and seeds, and the report."""

from __future__ import annotations

import multiprocessing
import signal
import threading
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import msgspec
from rich.console import Console
from rich.progress import Progress

from gatillo.cli.console import err, give_up
from gatillo.cli.levels import trial_from
from gatillo.cli.run_report import MARKS, print_verdicts
from gatillo.files.xml_text import printable
from gatillo.inspect.coverage import Reached, reached_by
from gatillo.inspect.expectations import Verdict, all_as_meant, as_data, faults_amiss, run_and_judge, tally
from gatillo.inspect.in_processes import ctrl_c_later
from gatillo.level.edits import as_tried
from gatillo.level.model import Level
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


def tasks_of(levels: list[tuple[Path, Level]], trial: str | None, rates: list[int], seeds: int) -> list[Task]:
    """Return every trial (or the named one) of every level at every rate and seed, in their order."""
    found: list[Task] = []
    for at, (path, level) in enumerate(levels):
        if not level.trials:
            give_up(f"{path.name} has no trial; add one with an expectation")
        for chosen in [trial_from(level, trial)] if trial else level.trials:
            tries = seeds if seeds > 1 else chosen.seeds
            for rate in rates or chosen.rates or (level.settings.rate,):
                found += [
                    Task(at, chosen.name, rate, seed) for seed in range(chosen.seed, chosen.seed + tries)
                ]
    return found


def check_levels(
    levels: list[tuple[Path, Level]],
    trial: str | None,
    rates: list[int],
    seeds: int,
    tell: Console | None,
    jobs: int = 1,
    *,
    reached: bool = False,
) -> list[Checked]:
    """Run every trial (or the named one) of every level at every rate and seed, in so many processes.

    With `reached` each result says what its run reached (inspect/coverage.py). The results stand in the same order however many they are. Ctrl+C ends the processes too.
    """
    tasks = tasks_of(levels, trial, rates, seeds)
    tasks = [replace(task, reached=reached) for task in tasks]
    results: list[Checked] = []
    with Progress(console=err.made, transient=True, disable=not err.is_terminal) as progress:
        bar = progress.add_task("checking", total=len(tasks))
        for result in _checked(levels, tasks, min(jobs, len(tasks))):
            results.append(result)
            progress.advance(bar)
            if tell is not None:
                _print_result(result, tell)
    return results


_LEVELS: list[tuple[str, Level]] = []
"""In a worker: the levels that tasks speak of."""
_PROGRAMS: dict[tuple[int, str, int], Program] = {}


def _checked(levels: list[tuple[Path, Level]], tasks: list[Task], jobs: int) -> Iterator[Checked]:
    named = [(path.name, level) for path, level in levels]
    if jobs < 2:
        _begin(named, ours=True)
        yield from map(_check, tasks)
        return
    # new processes, not copies of this one: it may have threads
    pool = ProcessPoolExecutor(
        jobs, mp_context=multiprocessing.get_context("spawn"), initializer=_begin, initargs=(named,)
    )
    try:
        with ctrl_c_later():
            found = pool.map(_check, tasks)
        yield from found
    except BaseException:
        # CPython 3.11: the pool's manager thread can cancel a future that is already cancelled, and raise; silence that
        threading.excepthook = lambda told: None
        for worker in list(pool._processes.values()):
            worker.terminate()
        raise
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def _begin(levels: list[tuple[str, Level]], *, ours: bool = False) -> None:
    """Make a worker ready. Ctrl+C is for the process that waits for it."""
    if not ours:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
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


def _print_result(result: Checked, console: Console) -> None:
    counts = tally(result.verdicts)
    words = ", ".join(f"{count} {MARKS[outcome]}" for outcome, count in counts.items() if count)
    if result.fails:
        words += f"; {result.fails} {'is' if result.fails == 1 else 'are'} meant to fail"
    console.print(f"{result.title().replace('[', chr(92) + '[')}: {words or 'nothing expected'}")
    for problem in result.problems:
        console.print(f"  finding: {problem.sentence()}", markup=False)
    for sentence in result.faults:
        console.print(f"  fault: {sentence}", markup=False)
    if result.amiss:
        console.print(f"  {result.amiss}", markup=False)
    if not result.passed or result.fails:
        print_verdicts([v for v in result.verdicts if v.outcome != "held"])


def write_junit(results: list[Checked], path: Path) -> None:
    """A report in the usual JUnit XML form: a suite for each run, a case for each expectation."""
    root = ElementTree.Element("testsuites")
    for result in results:
        caught = result.as_meant and result.fails
        failures = 0 if caught else sum(v.outcome == "failed" for v in result.verdicts)
        errors = sum(v.outcome == "could not be judged" for v in result.verdicts) + len(result.problems)
        errors += bool(result.amiss)
        suite = ElementTree.SubElement(
            root,
            "testsuite",
            name=printable(result.title()),
            tests=str(len(result.verdicts) + len(result.problems) + bool(result.amiss)),
            failures=str(failures),
            errors=str(errors),
            time=f"{result.seconds:.3f}",
        )
        for verdict in result.verdicts:
            case = ElementTree.SubElement(
                suite,
                "testcase",
                name=printable(verdict.expectation.sentence()),
                classname=printable(result.file),
                time="0",
            )
            if verdict.outcome == "failed" and not caught:
                ElementTree.SubElement(
                    case, "failure", type="expectation", message=printable(verdict.sentence())
                )
            elif verdict.outcome == "could not be judged":
                ElementTree.SubElement(
                    case, "error", type="not judged", message=printable(verdict.sentence())
                )
        for problem in result.problems:
            case = ElementTree.SubElement(
                suite,
                "testcase",
                name=printable(f"finding: {problem.rule}"),
                classname=printable(result.file),
                time="0",
            )
            ElementTree.SubElement(case, "error", type="finding", message=printable(problem.sentence()))
        if result.amiss:
            case = ElementTree.SubElement(
                suite, "testcase", name="faults", classname=printable(result.file), time="0"
            )
            words = "; ".join((result.amiss, *result.faults[:20]))
            ElementTree.SubElement(case, "error", type="fault", message=printable(words))
    ElementTree.indent(root)
    try:
        ElementTree.ElementTree(root).write(path, encoding="utf-8", xml_declaration=True)
    except OSError as error:
        give_up(f"“{path}” cannot be written: {error.strerror or error}")
