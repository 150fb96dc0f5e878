"""What a sweep came to, as rows for a table or a CSV file (RFC 4180)."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from pathlib import Path
from statistics import fmean, stdev

from gatillo.inspect.sweep.cases import Sweep
from gatillo.inspect.sweep.outcomes import Outcome
from gatillo.inspect.value_words import as_cell


def last_value(values: Sequence[float | None]) -> float | None:
    """Return the last value that there is; None if there is none."""
    return next((v for v in reversed(values) if v is not None), None)


def summary(values: Sequence[float | None]) -> dict[str, float | None]:
    """Return the last, the least and the most of some values, by “end”, “least” and “most”."""
    known = [v for v in values if v is not None]
    return {"end": last_value(values), "least": min(known, default=None), "most": max(known, default=None)}


def spread(values: Sequence[float]) -> str:
    """Return a mean in words, with the standard deviation over several seeds."""
    middle = f"{fmean(values):.6g}"
    return f"{middle} ± {stdev(values):.3g}" if len(values) > 1 else middle


def headings(sweep: Sweep, watches: Sequence[str]) -> list[str]:
    """Return the headings of `row`."""
    return [
        *(t.name for t in sweep.targets),
        "hold",
        "firings",
        "faults",
        *(f"{w}, at the end" for w in watches),
    ]


def row(outcomes: Sequence[Outcome], watches: Sequence[str]) -> list[str]:
    """Return the cells of one combination of values: of the runs with each seed together."""
    texts = list(outcomes[0].case.texts)
    problem = next((one.problem for one in outcomes if one.problem), "")
    if problem:
        return [*texts, problem, *("" for _ in range(2 + len(watches)))]
    held, all_ = sum(one.held for one in outcomes), sum(len(one.verdicts) for one in outcomes)
    cells = [f"{held} of {all_}"] if all_ else ["–"]
    cells += [
        spread([sum(one.firings.values()) for one in outcomes]),
        spread([one.faults for one in outcomes]),
    ]
    for number in range(len(watches)):
        ends = [end for one in outcomes if (end := last_value(one.watched[number])) is not None]
        cells.append(spread(ends) if ends else "–")
    return [*texts, *cells]


def write_csv(
    path: Path, sweep: Sweep, outcomes: Sequence[Outcome], watches: Sequence[str], seed: int
) -> None:
    """Write a row for each run. `seed` is the trial's. Raises OSError."""
    rules = list(dict.fromkeys(name for one in outcomes for name in one.firings))
    with path.open("w", newline="", encoding="utf-8") as file:
        rows = csv.writer(file)
        rows.writerow(
            map(
                as_cell,
                [
                    *(t.name for t in sweep.targets),
                    *("seed", "ticks", "held", "failed", "faults"),
                    *(f"end of {w}" for w in watches),
                    *(f"firings of {r}" for r in rules),
                    "problem",
                ],
            )
        )
        for one in outcomes:
            failed = sum(how == "failed" for _, how in one.verdicts)
            ends = [last_value(values) for values in one.watched] or [None for _ in watches]
            rows.writerow(
                [
                    *map(as_cell, one.case.texts),
                    *(seed + one.case.seed, one.ticks, one.held, failed, one.faults),
                    *("" if end is None else f"{end:.10g}" for end in ends),
                    *(one.firings.get(rule, 0) for rule in rules),
                    as_cell(one.problem),
                ]
            )
