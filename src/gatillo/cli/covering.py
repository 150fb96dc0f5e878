"""The report of `gatillo check --coverage`: what the trials reach of each level, and what they do not."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from rich.console import Console

from gatillo.cli.console import give_up
from gatillo.files.cobertura import write_cobertura
from gatillo.inspect.checking import Checked
from gatillo.inspect.coverage import Covered, Reached, covered, missed, totals
from gatillo.level.model import Level

Found = list[tuple[Path, Level, list[Covered]]]


def coverage_of(levels: Sequence[tuple[Path, Level]], results: Sequence[Checked]) -> Found:
    """Return what the runs of each level reached together."""
    found: Found = []
    for path, level in levels:
        reached = Reached()
        for result in results:
            if result.file == path.name and result.reached is not None:
                reached.add(result.reached)
        found.append((path, level, covered(level, reached)))
    return found


def print_coverage(found: Found, console: Console) -> None:
    """Print how much of each level was reached, and everything that was not."""
    for path, _, items in found:
        reached, ways = totals(items)
        share = f"{reached / ways:.0%}" if ways else "nothing to reach"
        console.print(f"{path.name}: {reached} of {ways} reached, {share}", markup=False)
        off = sum(one.sort == "rule" and not one.counts for one in items)
        if off:
            words = "rule or graph is" if off == 1 else "rules and graphs are"
            console.print(f"  {off} {words} switched off in every trial, and not counted", markup=False)
        for one in missed(items):
            console.print(f"  {one.sentence()}", markup=False)


def as_data(found: Found) -> list[dict[str, Any]]:
    """Return coverage as plain data, for other programs."""
    data = []
    for path, _, items in found:
        reached, ways = totals(items)
        data.append(
            {
                "file": path.name,
                "reached": reached,
                "of": ways,
                "items": [
                    {
                        "rule": one.rule,
                        "name": one.name,
                        "sort": one.sort,
                        "place": one.place,
                        "words": one.words,
                        "state": one.state,
                        "reached": one.parts[0],
                        "of": one.parts[1],
                    }
                    for one in items
                ],
            }
        )
    return data


def write_report(found: Found, path: Path) -> None:
    """Write coverage as Cobertura XML, or say why that cannot be and end the command."""
    try:
        write_cobertura(found, path)
    except OSError as error:
        give_up(f"“{path}” cannot be written: {error.strerror or error}")
