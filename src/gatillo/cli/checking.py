"""`gatillo check`: trials over several tick rates and seeds, and the report."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree

from rich.console import Console
from rich.progress import Progress

from gatillo.cli.console import err, give_up
from gatillo.cli.levels import trial_from
from gatillo.cli.run_report import MARKS, print_verdicts
from gatillo.files.xml_text import printable
from gatillo.inspect.checking import Checked, checked, tasks_of
from gatillo.inspect.expectations import tally
from gatillo.inspect.work_queue import Crew
from gatillo.level.model import Level


def check_levels(
    levels: list[tuple[Path, Level]],
    trial: str | None,
    rates: list[int],
    seeds: int,
    tell: Console | None,
    crew: Crew,
    *,
    reached: bool = False,
) -> list[Checked]:
    """Run every trial (or the named one) of every level at every rate and seed.

    With `reached` each result says what its run reached (inspect/coverage.py). The results stand in the same order whoever
    does the work. Ctrl+C ends all of it.
    """
    tasks = []
    for at, (path, level) in enumerate(levels):
        if not level.trials:
            give_up(f"{path.name} has no trial; add one with an expectation")
        trials = [trial_from(level, trial)] if trial else level.trials
        tasks += [replace(task, reached=reached) for task in tasks_of(at, level, trials, rates, seeds)]
    named = [(path.name, level) for path, level in levels]
    crew = replace(crew, jobs=min(crew.jobs, len(tasks)))
    results: list[Checked] = []
    with Progress(console=err.made, transient=True, disable=not err.is_terminal) as progress:
        bar = progress.add_task("checking", total=len(tasks))
        for result in checked(named, tasks, crew):
            results.append(result)
            progress.advance(bar)
            if tell is not None:
                _print_result(result, tell)
    return results


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
