"""`gatillo sweep`: a trial run with several values, on all cores, as a table, JSON or CSV."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import typer

from gatillo.cli.console import err, give_up, out, write_json
from gatillo.cli.levels import level_from, trial_from
from gatillo.cli.working import BROKEN_OFF
from gatillo.inspect.sweep.cases import Sweep, sweep_of
from gatillo.inspect.sweep.outcomes import Outcome, compiled_watches, swept
from gatillo.inspect.sweep.tables import headings, row, summary, write_csv
from gatillo.inspect.sweep.targets import SweepError, targets
from gatillo.inspect.work_queue import Crew


def print_targets(file: Path) -> None:
    """Print every number of a level that can be tried, with what it is now."""
    for target in targets(level_from(file)):
        out.print(f"{target.name} = {target.text}", markup=False)


def print_sweep(
    file: Path,
    trial_name: str | None,
    settings: list[str],
    seeds: int,
    watches: list[str],
    to_csv: Path | None,
    as_json: bool,
    crew: Crew,
) -> bool:
    """Run a sweep and print what came of it. Return whether every run was made."""
    level = level_from(file)
    trial = trial_from(level, trial_name)
    try:
        sweep = sweep_of(level, settings, seeds)
        compiled_watches(level, trial, watches)
    except SweepError as error:
        give_up(f"{error}")
    outcomes = _outcomes(level, trial, sweep, watches, crew)
    if to_csv is not None:
        try:
            write_csv(to_csv, sweep, outcomes, watches, trial.seed)
        except OSError as error:
            give_up(f"{to_csv} cannot be written: {error.strerror or error}")
    if as_json:
        records = [_record(sweep, one, watches, trial.seed) for one in outcomes]
        found = {"level": level.name, "trial": trial.name, "cases": records}
        write_json(found)
    else:
        _print_table(sweep, outcomes, watches)
    return not any(one.problem for one in outcomes)


def _outcomes(level: Any, trial: Any, sweep: Sweep, watches: list[str], crew: Crew) -> list[Outcome]:
    """Return what each case came to, in their order; progress is told on the error output where that is a terminal."""
    cases = sweep.cases
    found: dict[int, Outcome] = {}
    shown = sys.stderr.isatty()
    try:
        for number, outcome in swept(level, trial, sweep, watches, crew=crew):
            found[number] = outcome
            if shown:
                sys.stderr.write(f"\r{len(found)} of {len(cases)} runs")
                sys.stderr.flush()
    except KeyboardInterrupt:
        err.print(f"\nbroken off after {len(found)} of {len(cases)} runs", markup=False)
        raise typer.Exit(BROKEN_OFF) from None
    if shown:
        sys.stderr.write("\r" + " " * 40 + "\r")
    return [found[number] for number in range(len(cases))]


def _record(sweep: Sweep, outcome: Outcome, watches: list[str], seed: int) -> dict[str, Any]:
    made: dict[str, Any] = {
        "values": {t.name: text for t, text in zip(sweep.targets, outcome.case.texts, strict=True)},
        "seed": seed + outcome.case.seed,
    }
    if outcome.problem:
        return made | {"problem": outcome.problem}
    return made | {
        "ticks": outcome.ticks,
        "held": outcome.held,
        "expectations": [{"sentence": sentence, "outcome": how} for sentence, how in outcome.verdicts],
        "firings": outcome.firings,
        "faults": outcome.faults,
        "watches": {text: summary(values) for text, values in zip(watches, outcome.watched, strict=True)},
    }


def _print_table(sweep: Sweep, outcomes: list[Outcome], watches: list[str]) -> None:
    """Print a row for each combination of values, with all its seeds together."""
    from rich.table import Table
    from rich.text import Text

    table = Table()
    for heading in headings(sweep, watches):
        table.add_column(Text(heading), justify="right")
    for first in range(0, len(outcomes), sweep.seeds):
        table.add_row(*map(Text, row(outcomes[first : first + sweep.seeds], watches)))
    out.print(table)
