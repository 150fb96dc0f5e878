"""The commands that compare runs."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import typer
from msgspec.structs import replace

from gatillo.cli.console import give_up, out, write_json
from gatillo.cli.levels import level_from, trial_from
from gatillo.cli.run_report import run_with_progress
from gatillo.files.saved_trace import SavedTraceError, read_firings
from gatillo.inspect.comparison import by_rule, compare, first_parted
from gatillo.inspect.order import OrderFinding, order_findings, ranked, swap
from gatillo.inspect.rates import apart_at_rates
from gatillo.inspect.reasons.sides import why_on_both_sides
from gatillo.level.edits import as_tried
from gatillo.level.model import Level
from gatillo.level.naming import did_you_mean
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a comparison: a level, or a saved trace, and how it is run."""

    file: Path
    trial: str | None
    variant: str | None
    rate: int | None
    seed: int | None


def tell_comparison(one: Side, other: Side, depth: int, as_json: bool) -> None:
    """Print what differs; exits with 1 where anything does."""
    before = _run(one)
    if other.file.suffix.lower() == ".jsonl":
        _against_saved(before, other.file, as_json)
        return
    after = _run(other)
    if before.program.rate != after.program.rate:
        _at_rates(before, after, depth, as_json)
        return
    comparison = compare(before, after)
    parted = first_parted(before, after, thorough=True)
    if as_json:
        names = {t.source.id: t.source.name for run in (before, after) for t in run.program.rules}
        data: dict[str, Any] = {
            "same": comparison.same and not parted,
            "first_tick": comparison.first_tick,
            "only_before": {names[r]: list(t) for r, t in comparison.gone.items()},
            "only_after": {names[r]: list(t) for r, t in comparison.new.items()},
            "parted": [
                {"tick": p.tick, "name": p.name, "before": p.before, "after": p.after} for p in parted
            ],
        }
        write_json(data)
    else:
        _print_differences(before, after, depth)
        for one_parted in parted[:10]:
            out.print(f"  first parted: {one_parted.sentence()}", markup=False)
        if parted:
            for side, reason in zip(
                ("before", "after"), why_on_both_sides(before, after, parted[0]), strict=True
            ):
                for line in reason.lines(depth, 2):
                    out.print(f"  {side}{line.removeprefix('  ')}", markup=False, soft_wrap=True)
        elif comparison.same:
            out.print("  every value is the same")
    raise typer.Exit(0 if comparison.same and not parted else 1)


def _print_differences(before: Run, after: Run, depth: int) -> None:
    comparison = compare(before, after)
    out.print(f"{before.done} and {after.done} ticks: {comparison.words()}", markup=False)
    for name, was, now, gone, new, moved in by_rule(before, after):
        words = f"  “{name}”: {was} before, {now} after"
        parts = (
            [f"{gone} only before"] * bool(gone)
            + [f"{new} only after"] * bool(new)
            + [f"{moved} moved"] * bool(moved)
        )
        out.print(f"{words} ({', '.join(parts)})", markup=False)
    if comparison.first_tick is not None:
        rate = before.program.rate
        out.print(
            f"  first difference at {comparison.first_tick / rate:.3f} s (tick {comparison.first_tick})",
            markup=False,
        )


def _at_rates(before: Run, after: Run, depth: int, as_json: bool) -> None:
    apart = apart_at_rates(before, after)
    if as_json:
        data = {
            "same": apart.same,
            "seconds": apart.seconds,
            "rule": apart.rule,
            "sentence": apart.sentence(),
            "why": [r.as_data(depth) for r in apart.why],
        }
        write_json(data)
    else:
        out.print(f"{before.program.rate} against {apart.sentence()}", markup=False)
        for reason in apart.why:
            for line in reason.lines(depth, 1):
                out.print(line, markup=False, soft_wrap=True)
    raise typer.Exit(0 if apart.same else 1)


def _against_saved(run: Run, path: Path, as_json: bool) -> None:
    """Compare a run with the firings of a saved trace, and print the result."""
    try:
        saved = read_firings(path)
    except SavedTraceError as error:
        give_up(str(error))
    here = [
        (f.tick, f.position, run.program.rules[f.rule_index].source.name, f.matches)
        for f in run.trace.firings()
    ]
    same = here == saved
    first = next(
        (n for n, (a, b) in enumerate(zip(here, saved, strict=False)) if a != b), min(len(here), len(saved))
    )
    if as_json:
        data = {
            "same": same,
            "firings": [len(saved), len(here)],
            "first": None
            if same
            else {
                "saved": saved[first] if first < len(saved) else None,
                "now": here[first] if first < len(here) else None,
            },
        }
        write_json(data)
    elif same:
        out.print(f"the same {len(here)} firings as were saved")
    else:
        out.print(f"{len(saved)} firings were saved, {len(here)} are there now; the first difference:")
        for words, side in (("saved", saved), ("now", here)):
            text = (
                f"tick {side[first][0]}, {side[first][1]}. “{side[first][2]}” ×{side[first][3]}"
                if first < len(side)
                else "nothing more"
            )
            out.print(f"  {words}: {text}", markup=False)
    raise typer.Exit(0 if same else 1)


def _run(side: Side) -> Run:
    level = level_from(side.file)
    trial = trial_from(level, side.trial)
    if side.seed is not None:
        trial = replace(trial, seed=side.seed)
    if side.rate is not None:
        level = replace(level, settings=replace(level.settings, rate=side.rate))
    tried = as_tried(level, trial)
    if side.variant is not None:
        found = next((v for v in level.variants if v.name == side.variant), None)
        if found is None:
            known = [v.name for v in level.variants]
            give_up(f"“{level.name}” has no variant “{side.variant}”{did_you_mean(side.variant, known)}")
        tried = as_tried(tried, found)
    return run_with_progress(Run(Program(tried), trial), "running")


# order


def tell_order(levels: list[tuple[Path, Level]], trial: str | None, tries: int, as_json: bool) -> None:
    """Print the entries whose order matters; exits with 1 where exchanging two changes a firing or an expectation."""
    lines: list[dict[str, Any]] = []
    matters = False
    for path, level in levels:
        chosen = trial_from(level, trial)
        run = run_with_progress(Run(Program(as_tried(level, chosen)), chosen), "running")
        found = order_findings(run)
        for finding in found[:tries]:
            swap(level, run, finding)
        matters = matters or any(f.tried and not f.harmless for f in found)
        for finding in ranked(found):
            lines.append({"file": path.name, **_data(finding)})
            if not as_json:
                out.print(f"{path.name}: {finding.sentence()}", markup=False, soft_wrap=True)
        if not found and not as_json:
            out.print(
                f"{path.name}: the order of its entries makes no difference in this trial", markup=False
            )
    if as_json:
        write_json(lines)
    raise typer.Exit(1 if matters else 0)


def _data(finding: OrderFinding) -> dict[str, Any]:
    return {
        "first": finding.names[0],
        "second": finding.names[1],
        "what": finding.what,
        "tick": finding.tick,
        "ticks": finding.ticks,
        "reads": finding.reads,
        "tried": finding.tried,
        "harmless": finding.harmless if finding.tried else None,
        "sentence": finding.sentence(),
    }
