"""`gatillo report`: a run as a page for any browser."""

from __future__ import annotations

from pathlib import Path

from gatillo.cli.console import give_up
from gatillo.cli.levels import level_from, trial_from
from gatillo.cli.run_report import run_with_progress
from gatillo.files.run_page.run_page import run_page
from gatillo.inspect.expectations import run_and_judge
from gatillo.level.edits import as_tried
from gatillo.level.model import Level
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def write_report(
    file: Path, trial: str | None, result: Path, beside: Path | None, beside_trial: str | None
) -> None:
    """Run a trial, and another beside it if one is wanted, and write the page."""
    level = level_from(file)
    run = _begun(level, trial)
    verdicts = run_and_judge(run, lambda begun: run_with_progress(begun, run.trial.name))
    other, label = None, ""
    if beside is not None or beside_trial is not None:
        other = _begun(level_from(beside) if beside is not None else level, beside_trial or run.trial.name)
        run_with_progress(other, other.trial.name)
        label = f"“{other.trial.name}”" + (f" of {beside.name}" if beside is not None else "")
    try:
        result.write_text(run_page(level, run, other, label, verdicts), encoding="utf-8")
    except OSError as error:
        give_up(f"“{result}” cannot be written: {error.strerror or error}")


def _begun(level: Level, name: str | None) -> Run:
    trial = trial_from(level, name)
    return Run(Program(as_tried(level, trial)), trial)
