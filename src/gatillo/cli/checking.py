"""`gatillo check`: trials over several tick rates and seeds, and the report."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import msgspec
from rich.console import Console

from gatillo.catalogue.sentence import expectation_sentence
from gatillo.cli.console import give_up
from gatillo.cli.levels import trial_from
from gatillo.cli.telling import MARKS, print_verdicts, run_with_progress
from gatillo.inspect.expectations import Verdict, as_data, faults_amiss, judge, tally
from gatillo.level.edits import as_tried
from gatillo.level.model import Level
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.spatial.problems import Problem


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

    @property
    def passed(self) -> bool:
        """Whether every rule could run, every expectation held and no fault was amiss."""
        return not self.problems and not self.amiss and all(v.outcome == "held" for v in self.verdicts)

    def title(self) -> str:
        """Which file, trial, rate and seed it was."""
        return f"{self.file}, trial “{self.trial}”, {self.rate} ticks a second, seed {self.seed}"

    def as_data(self) -> dict[str, Any]:
        """For programs to read."""
        return {
            "file": self.file,
            "trial": self.trial,
            "rate": self.rate,
            "seed": self.seed,
            "passed": self.passed,
            "findings": [p.sentence() for p in self.problems],
            "faults": list(self.faults),
            "faults_amiss": self.amiss,
            "expectations": [as_data(v) for v in self.verdicts],
        }


def check_levels(
    levels: list[tuple[Path, Level]], trial: str | None, rates: list[int], seeds: int, tell: Console | None
) -> list[Checked]:
    """Run every trial (or the named one) of every level at every rate and seed."""
    results: list[Checked] = []
    for path, level in levels:
        if not level.trials:
            give_up(f"{path.name} has no trial; add one with an expectation")
        for chosen in [trial_from(level, trial)] if trial else level.trials:
            tries = seeds if seeds > 1 else chosen.seeds
            for rate in rates or chosen.rates or (level.settings.rate,):
                settings = msgspec.structs.replace(level.settings, rate=rate)
                program = Program(as_tried(msgspec.structs.replace(level, settings=settings), chosen))
                for seed in range(chosen.seed, chosen.seed + tries):
                    run = Run(program, msgspec.structs.replace(chosen, seed=seed))
                    run_with_progress(run, f"{path.name} · {chosen.name}")
                    verdicts = tuple(judge(run))
                    seconds = run.done / rate
                    problems = tuple(program.problems)
                    faults = tuple(dict.fromkeys(sentence for *_, sentence in run.trace.fault_counts()))
                    result = Checked(
                        path.name,
                        chosen.name,
                        rate,
                        seed,
                        seconds,
                        problems,
                        verdicts,
                        faults,
                        faults_amiss(run),
                    )
                    results.append(result)
                    if tell is not None:
                        _tell(result, tell)
    return results


def _tell(result: Checked, console: Console) -> None:
    counts = tally(list(result.verdicts))
    words = ", ".join(f"{count} {MARKS[outcome]}" for outcome, count in counts.items() if count)
    console.print(f"{result.title().replace('[', chr(92) + '[')}: {words or 'nothing expected'}")
    for problem in result.problems:
        console.print(f"  finding: {problem.sentence()}", markup=False)
    for sentence in result.faults:
        console.print(f"  fault: {sentence}", markup=False)
    if result.amiss:
        console.print(f"  {result.amiss}", markup=False)
    if not result.passed:
        print_verdicts([v for v in result.verdicts if v.outcome != "held"])


def _printable(text: str) -> str:
    """A text as XML can hold it: control characters and halves of pairs stand as their numbers."""
    return "".join(c if c.isprintable() or c in "\t\n" else f"U+{ord(c):04X}" for c in text)


def write_junit(results: list[Checked], path: Path) -> None:
    """A report in the usual JUnit XML form: a suite for each run, a case for each expectation."""
    root = ElementTree.Element("testsuites")
    for result in results:
        failures = sum(v.outcome == "failed" for v in result.verdicts)
        errors = sum(v.outcome == "could not be judged" for v in result.verdicts) + len(result.problems)
        errors += bool(result.amiss)
        suite = ElementTree.SubElement(
            root,
            "testsuite",
            name=_printable(result.title()),
            tests=str(len(result.verdicts) + len(result.problems) + bool(result.amiss)),
            failures=str(failures),
            errors=str(errors),
            time=f"{result.seconds:.3f}",
        )
        for verdict in result.verdicts:
            case = ElementTree.SubElement(
                suite,
                "testcase",
                name=_printable(expectation_sentence(verdict.expectation)),
                classname=_printable(result.file),
                time="0",
            )
            if verdict.outcome == "failed":
                ElementTree.SubElement(
                    case, "failure", type="expectation", message=_printable(verdict.sentence())
                )
            elif verdict.outcome != "held":
                ElementTree.SubElement(
                    case, "error", type="not judged", message=_printable(verdict.sentence())
                )
        for problem in result.problems:
            case = ElementTree.SubElement(
                suite,
                "testcase",
                name=_printable(f"finding: {problem.rule}"),
                classname=_printable(result.file),
                time="0",
            )
            ElementTree.SubElement(case, "error", type="finding", message=_printable(problem.sentence()))
        if result.amiss:
            case = ElementTree.SubElement(
                suite, "testcase", name="faults", classname=_printable(result.file), time="0"
            )
            told = "; ".join((result.amiss, *result.faults[:20]))
            ElementTree.SubElement(case, "error", type="fault", message=_printable(told))
    ElementTree.indent(root)
    try:
        ElementTree.ElementTree(root).write(path, encoding="utf-8", xml_declaration=True)
    except OSError as error:
        give_up(f"“{path}” cannot be written: {error.strerror or error}")
