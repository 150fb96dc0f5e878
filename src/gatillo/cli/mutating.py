"""The report of `gatillo check --mutants`: which small changes to each level its trials notice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import replace
from rich.console import Console
from rich.progress import Progress

from gatillo.cli.console import err
from gatillo.cli.levels import trial_from
from gatillo.inspect.mutation.mutants import Mutant, mutants
from gatillo.inspect.mutation.trying import FATES, Tried, order_of_trial, try_mutants, unchanged
from gatillo.inspect.work_queue import Crew
from gatillo.level.model import Level


@dataclass(slots=True)
class Mutated:
    """What came of the mutants of a level."""

    file: str
    every: list[Mutant]
    tried: list[Tried] = field(default_factory=list)
    failing: list[str] = field(default_factory=list)
    """The trials that do not pass, and so say nothing."""
    trials: int = 0
    """How many trials pass."""

    @property
    def counts(self) -> Counter[str]:
        """How many came to each fate."""
        return Counter(one.fate for one in self.tried)

    @property
    def noticed(self) -> tuple[int, int]:
        """How many were noticed, of how many that could be."""
        counts = self.counts
        noticed = counts["caught"] + counts["took too long"]
        return noticed, noticed + counts["unnoticed"]


def try_levels(
    levels: Sequence[tuple[Path, Level]], trial: str | None, budget: float | None, seed: int, crew: Crew
) -> list[Mutated]:
    """Try the mutants of each level with all its trials or the named one, cheapest first, for so many seconds each."""
    found: list[Mutated] = []
    for path, whole in levels:
        level = replace(whole, trials=(trial_from(whole, trial),)) if trial else whole
        known = unchanged(level)
        every = mutants(level)
        result = Mutated(path.name, every, failing=known.failing, trials=len(known.runs))
        found.append(result)
        if not known.runs:
            continue
        with Progress(console=err.made, transient=True, disable=not err.is_terminal) as progress:
            bar = progress.add_task(f"changing {path.name}", total=len(every))
            for one in try_mutants(known, order_of_trial(known, seed), crew=crew, budget=budget):
                result.tried.append(one)
                progress.advance(bar)
        result.tried.sort(key=lambda one: one.number)
    return found


def print_mutants(found: Sequence[Mutated], console: Console) -> None:
    """Print how many changes each level's trials notice, and each one that nothing notices."""
    for result in found:
        for name in result.failing:
            console.print(
                f"{result.file}: trial “{name}” does not pass, so it is not held to changes", markup=False
            )
        if not result.trials:
            console.print(f"{result.file}: no trial passes, so no change was tried", markup=False)
            continue
        noticed, of = result.noticed
        share = f" ({noticed / of:.0%})" if of else ""
        console.print(f"{result.file}: {noticed} of {of} changes noticed{share}", markup=False)
        counts = result.counts
        for fate, words in FATES.items():
            if counts[fate] and fate not in ("caught", "unnoticed"):
                console.print(f"  {counts[fate]} {words}", markup=False)
        if len(result.tried) < len(result.every):
            left = len(result.every) - len(result.tried)
            console.print(f"  {left} of {len(result.every)} were not tried: the time was up", markup=False)
        for one in result.tried:
            if one.fate == "unnoticed":
                console.print(f"  not noticed: {result.every[one.number].sentence()}", markup=False)
                console.print(f"    {_advice(one)}", markup=False)


def _advice(one: Tried) -> str:
    if one.offer is None:
        return f"in trial “{one.trial}” {one.why}; no expectation was found that would notice it"
    return f"to notice it, expect in trial “{one.trial}”: {one.offer.sentence()}"


def as_data(found: Sequence[Mutated]) -> list[dict[str, Any]]:
    """Return what came of the mutants as plain data, for other programs."""
    return [
        {
            "file": result.file,
            "trials_that_do_not_pass": result.failing,
            "changes": len(result.every),
            "tried": len(result.tried),
            "noticed": result.noticed[0],
            "of": result.noticed[1],
            "items": [_item(result.every[one.number], one) for one in result.tried],
        }
        for result in found
    ]


def _item(mutant: Mutant, one: Tried) -> dict[str, Any]:
    return {
        "rule": mutant.rule,
        "name": mutant.name,
        "place": mutant.place,
        "sort": mutant.sort,
        "words": mutant.words,
        "fate": one.fate,
        "trial": one.trial,
        "why": one.why,
        "offer": None if one.offer is None else msgspec.to_builtins(one.offer),
        "offer_words": "" if one.offer is None else one.offer.sentence(),
    }
