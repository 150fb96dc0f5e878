"""`gatillo explore`: looking for input that breaks an expectation or ends in a fault."""

from __future__ import annotations

from pathlib import Path
from time import monotonic
from typing import Any

import msgspec
from rich.console import Console

from gatillo.cli.console import give_up
from gatillo.cli.levels import level_from, trial_from
from gatillo.files.level_file import write_level
from gatillo.inspect.exploring.exploring import Exploration, Explorer, kept_as_trial
from gatillo.inspect.exploring.scripts import input_lines
from gatillo.inspect.work_queue import Crew


def explore_level(
    file: Path,
    trial: str | None,
    seconds: float,
    seed: int,
    keep: Path | None,
    tell: Console | None,
    crew: Crew,
) -> tuple[dict[str, Any], bool]:
    """Explore a trial of a level for so many seconds; return what came of it as plain data, and whether anything broke."""
    level = level_from(file)
    chosen = trial_from(level, trial)
    explorer = Explorer(level, chosen, seed)
    if explorer.program.problems:
        give_up(
            f"{file.name} has findings, so nothing was explored: {explorer.program.problems[0].sentence()}"
        )
    ends = monotonic() + seconds
    result = explorer.explore(lambda: monotonic() >= ends, crew=crew)
    kept = ""
    if keep is not None and result.found is not None:
        made, kept = kept_as_trial(level, chosen, result.found)
        try:
            write_level(keep, made)
        except OSError as error:
            give_up(f"“{keep}” cannot be written: {error.strerror or error}")
    if tell is not None:
        _print(explorer, result, tell)
        if kept:
            tell.print(f"kept in {keep} as the trial “{kept}”", markup=False)
    return _as_data(file, explorer, result, kept), result.found is not None


def _print(explorer: Explorer, result: Exploration, console: Console) -> None:
    heard, wanted = explorer.heard, explorer.trial.expectations
    if not heard.anything:
        console.print("the level listens to no key, no pointer and no choice, so there is nothing to try")
        return
    if not wanted:
        console.print(
            "no expectation of the trial must hold whatever is pressed (“any_input”), so only faults are looked for"
        )
    runs = f"{result.tries} run{'s' if result.tries != 1 else ''}"
    if result.found is None:
        console.print(f"nothing broke in {runs}; {result.kept} scripts reached something new", markup=False)
        return
    found = result.found
    console.print(f"broken after {runs}: {found.broken.words}", markup=False)
    for line in input_lines(found.input):
        console.print(f"  {line}", markup=False)


def _as_data(file: Path, explorer: Explorer, result: Exploration, kept: str) -> dict[str, Any]:
    found = result.found
    heard = explorer.heard
    return {
        "file": file.name,
        "trial": explorer.trial.name,
        "keys": list(heard.keys),
        "choices": list(heard.choices),
        "pointer": bool(heard.points),
        "runs": result.tries,
        "reached_something_new": result.kept,
        "found": None
        if found is None
        else {
            "sort": found.broken.sort,
            "what": found.broken.what,
            "words": found.broken.words,
            "input": msgspec.to_builtins(found.input),
            "pieces": found.presses,
            "pieces_before": found.pieces,
        },
        "kept_as": kept,
    }
