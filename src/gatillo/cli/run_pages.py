"""`gatillo report`: a run as a page for any browser."""

from __future__ import annotations

from pathlib import Path

from gatillo.cli.console import give_up
from gatillo.cli.levels import level_from, trial_from
from gatillo.cli.run_report import run_with_progress
from gatillo.files.run_page.run_page import run_page
from gatillo.level.edits import as_tried
from gatillo.level.model import Level
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def write_report(
    file: Path, trial: str | None, result: Path, beside: Path | None, beside_trial: str | None
) -> None:
    """Run a trial, and another beside it if one is wanted, and write the page."""
    level = level_from(file)
    run = _run(level, trial)
    other, label = None, ""
    if beside is not None or beside_trial is not None:
        other = _run(level_from(beside) if beside is not None else level, beside_trial or run.trial.name)
        label = f"“{other.trial.name}”" + (f" of {beside.name}" if beside is not None else "")
    try:
        result.write_text(run_page(level, run, other, label), encoding="utf-8")
    except OSError as error:
        give_up(f"“{result}” cannot be written: {error.strerror or error}")


def _run(level: Level, name: str | None) -> Run:
    trial = trial_from(level, name)
    return run_with_progress(Run(Program(as_tried(level, trial)), trial), trial.name)
