"""Words for the terminal: runs, verdicts, problems."""

from __future__ import annotations

import sys
from itertools import groupby

from gatillo.cli.console import err, out
from gatillo.inspect.expectations import Verdict
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Way

MARKS = {
    "held": "[green]held[/green]",
    "failed": "[red]failed[/red]",
    "could not be judged": "[yellow]not judged[/yellow]",
}


def run_with_progress(run: Run, what: str) -> Run:
    """Run a trial to its end, with a bar when it takes more than a moment and someone watches."""
    if not sys.stderr.isatty():
        run.advance()
        return run
    from rich.progress import Progress

    with Progress(console=err.made, transient=True) as progress:
        task = progress.add_task(what, total=run.length)
        while run.done < run.length:
            run.advance(min(120, run.length - run.done))
            progress.update(task, completed=run.done)
    return run


def firing_lines(run: Run) -> list[str]:
    """Return which rules fired in which order: a line for each tick in which one did; ticks in a row that are alike share one."""
    ticks = _told_ticks(run)
    lines = []
    for told, alike in groupby(enumerate(ticks), lambda found: (found[1][0] - found[0], found[1][1])):
        first, *rest = (tick for _, (tick, _) in alike)
        line = f"{first / run.program.rate:8.3f} s  tick {first:5d}   {told[1]}"
        lines.append(line + (f"   … and so in each tick up to {rest[-1]}" if rest else ""))
    return lines


def _told_ticks(run: Run) -> list[tuple[int, str]]:
    """Return the ticks in which something fired, with what did."""
    found = []
    for tick in range(1, run.done + 1):
        firings = run.trace.firings_at(tick)
        if not firings:
            continue
        lines = []
        for firing in firings:
            words = f"{firing.position}. {run.program.rules[firing.rule_index].source.name}"
            if firing.matches > 1:
                words += f" ×{firing.matches}"
            if firing.way is Way.RESUMED:
                words += " (going on)"
            elif firing.way is Way.ELSE:
                words += " (else)"
            lines.append(words + (" [fault]" if firing.faulted else ""))
        found.append((tick, "   ".join(lines)))
    return found


def print_verdicts(verdicts: list[Verdict]) -> None:
    """A line for each expectation."""
    for verdict in verdicts:
        words = verdict.sentence().replace("[", "\\[")
        head, _, tail = words.partition(f": {verdict.outcome}")
        out.print(f"  {MARKS[verdict.outcome]}  {head}{tail}")


def print_faults(run: Run) -> None:
    """The run's faults, each once with how often it came."""
    for (_, _, _, sentence), count in run.trace.fault_counts().items():
        out.print(f"  fault: {sentence}" + (f" ({count} times)" if count > 1 else ""), markup=False)
