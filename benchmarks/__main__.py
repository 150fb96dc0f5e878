"""`make bench`: the same work side by side, as ratios in one run. Machines are shared and noisy."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from rich.console import Console
from rich.table import Table

from benchmarks import big_level, few, graphs, many
from benchmarks.seed_pods import PodsByLoop, PodsByNumPy, gatillo_pods
from gatillo.examples import DEMO, study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.expectations import run_and_judge
from gatillo.level.graph_edits import set_card_slot
from gatillo.level.model import Clause, Level, Logic, Rule, Section
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Cursor, Run, run_trial

out = Console(highlight=False)
TICKS = 120
EARLIER = "cdee484"


def timed(deed: Callable[[], object], times: int) -> list[float]:
    """Seconds of each of some calls."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        deed()
        found.append(time.perf_counter() - start)
    return found


def interleaved(deeds: dict[str, Callable[[], object]], times: int, rounds: int = 4) -> dict[str, float]:
    """Median seconds a call, the deeds taking turns so that a noisy moment hits all alike."""
    found: dict[str, list[float]] = {name: [] for name in deeds}
    for _ in range(rounds):
        for name, deed in deeds.items():
            found[name] += timed(deed, times // rounds)
    return {name: statistics.median(times) for name, times in found.items()}


def big() -> None:
    """10,000 objects, 2,000 moving, contacts, 60 rules."""
    s = big_level.scene(10_000, 2_000)
    program = Program(big_level.level(s))
    run, bare = big_level.by_gatillo(program), big_level.by_gatillo(program, record=False)
    floor, loop = big_level.ByNumPy(s), big_level.ByLoop(s)
    with np.errstate(all="ignore"):
        found = interleaved(
            {
                "gatillo": lambda: run.advance(1),
                "unrecorded": lambda: bare.advance(1),
                "floor": floor.tick,
                "loop": loop.tick,
            },
            TICKS,
        )
    same = all(
        big_level.gatillo_outcome(r, s).agrees(o.outcome()) for r in (run, bare) for o in (floor, loop)
    )
    table = Table("big level: 10,000 objects, 2,000 moving, 60 rules", "ms a tick", "against", "aim")
    table.add_row("Gatillo, with trace and keyframes", f"{found['gatillo'] * 1e3:.2f}", "", "under 16 ms")
    table.add_row(
        "hand-written NumPy",
        f"{found['floor'] * 1e3:.2f}",
        f"Gatillo takes {found['gatillo'] / found['floor']:.2f} ×",
        "at most 1.5 ×",
    )
    table.add_row(
        "plain loop over objects",
        f"{found['loop'] * 1e3:.2f}",
        f"Gatillo is {found['loop'] / found['gatillo']:.1f} × faster",
        "at least 30 ×",
    )
    table.add_row(
        "Gatillo, unrecorded",
        f"{found['unrecorded'] * 1e3:.2f}",
        f"recording adds {100 * (found['gatillo'] / found['unrecorded'] - 1):.0f} %",
        "at most 15 %",
    )
    out.print(table)
    out.print(
        f"final states after {run.done} ticks {'agree' if same else 'DIFFER'}; {run.world.level['begun']:.0f} contacts begun\n"
    )
    if not same:
        sys.exit(1)


def growth() -> None:
    """How the tick grows with moving objects and with idle rules."""
    table = Table("growth", "ms a tick", "")
    base = None
    for movers in (500, 1_000, 2_000, 4_000):
        run = big_level.by_gatillo(Program(big_level.level(big_level.scene(10_000, movers))))
        run.advance(10)
        ms = statistics.median(timed(lambda r=run: r.advance(1), 40)) * 1e3
        base = base or ms / movers
        table.add_row(
            f"10,000 objects, {movers:,} moving",
            f"{ms:.2f}",
            f"{ms / movers / base:.2f} × the cost per mover at 500",
        )
    s = big_level.scene(1_000, 200)
    few, many = (big_level.by_gatillo(Program(big_level.level(s, rules))) for rules in (60, 2_060))
    found = interleaved({"few": lambda: few.advance(1), "many": lambda: many.advance(1)}, 400)
    table.add_row("1,000 objects, 60 rules", f"{found['few'] * 1e3:.3f}", "")
    table.add_row(
        "the same and 2,000 rules that never wake",
        f"{found['many'] * 1e3:.3f}",
        f"{100 * (found['many'] / found['few'] - 1):+.1f} % (aim: under +5 %)",
    )
    small = big_level.by_gatillo(Program(big_level.level(big_level.scene(1_000, 1_000), 20)))
    small.advance(10)
    ms = statistics.median(timed(lambda: small.advance(1), 60)) * 1e3
    table.add_row("1,000 objects, all moving, 20 rules", f"{ms:.2f}", "aim: under 4 ms")
    out.print(table)


def few_matches() -> None:
    """What a rule costs that is looked at, or fires, over one match."""
    table = Table("60 rules over one match each", "µs a rule and tick", "aim")
    for name, made, aim in (
        ("looked at, its condition does not hold", few.looked_at, "at most 6"),
        ("fires and sets a variable", few.firing, ""),
    ):
        runs = {n: Run(Program(made(n)), made(n).trials[0]) for n in (0, 60)}
        found = interleaved({str(n): lambda r=r: r.advance(10) for n, r in runs.items()}, 80)
        table.add_row(name, f"{(found['60'] - found['0']) / 60 / 10 * 1e6:.1f}", aim)
    out.print(table)


def many_movers() -> None:
    """2,000 that flock against the same by hand; 10,000 solid ones that push."""
    level = many.flock_level()
    run, floor = many.by_gatillo(level, 60.0), many.FlockByNumPy(level)
    with np.errstate(all="ignore"):
        found = interleaved({"gatillo": lambda: run.advance(1), "floor": floor.tick}, TICKS)
    off = max(
        float(np.abs(run.world.x - floor.x).max()),
        float(np.abs(run.world.y - floor.y).max()),
    )
    table = Table("many that move by themselves", "ms a tick", "against", "aim")
    table.add_row(
        "2,000 that flock, with trace and keyframes",
        f"{found['gatillo'] * 1e3:.2f}",
        f"{found['gatillo'] / found['floor']:.2f} × the floor",
        "at most 1.3 ×",
    )
    table.add_row("the same by hand in NumPy and SciPy", f"{found['floor'] * 1e3:.2f}", "", "")
    pushing = many.by_gatillo(many.pushing_level(), 30.0)
    pushing.advance(20)
    ms = statistics.median(timed(lambda: pushing.advance(1), 60)) * 1e3
    table.add_row("10,000 movable, all sliding and pushing", f"{ms:.2f}", "", "under 16 ms")
    out.print(table)
    out.print(f"the two flocks agree to {off:.1e} units after {run.done} ticks\n")
    if off > 1e-3:
        sys.exit(1)


def drawn() -> None:
    """Graphs against the rules that they are, idle ones, and making them ready."""
    table = Table("graphs", "ms", "against", "aim")
    s = big_level.scene(10_000, 2_000)
    rules = big_level.level(s)
    pairs = {
        "30 cards over 12 matches": (graphs.chain(12, drawn=False), graphs.chain(12, drawn=True), 600),
        "30 cards over 2,000 matches": (
            graphs.chain(2_000, drawn=False),
            graphs.chain(2_000, drawn=True),
            200,
        ),
        "the big level's 60 rules": (rules, graphs.as_graphs(rules), 60),
    }
    for name, (one, other, times) in pairs.items():
        by_rules, by_graphs = (Run(Program(made), made.trials[0]) for made in (one, other))
        by_rules.advance(5)
        by_graphs.advance(5)
        found = interleaved(
            {"rules": lambda r=by_rules: r.advance(1), "graphs": lambda g=by_graphs: g.advance(1)}, times
        )
        table.add_row(
            f"{name}, a tick as graphs",
            f"{found['graphs'] * 1e3:.3f}",
            f"{found['graphs'] / found['rules']:.2f} × as rules",
            "at most 1.1 ×",
        )
    few, most = (
        Run(Program(made), made.trials[0])
        for made in (graphs.idle(2_000, graphs=0), graphs.idle(2_000, graphs=graphs.IDLE))
    )
    found = interleaved({"few": lambda: few.advance(1), "most": lambda: most.advance(1)}, 200)
    table.add_row(
        "2,000 matches and 2,000 idle graphs, a tick",
        f"{found['most'] * 1e3:.3f}",
        f"{100 * (found['most'] / found['few'] - 1):+.1f} % for the idle ones",
        "under +5 %",
    )
    level = graphs.many()
    ready = Program(level)
    ms = statistics.median(timed(lambda: Program(level), 5)) * 1e3
    table.add_row("200 graphs of 20 cards made ready", f"{ms:.0f}", "", "under 300")
    changed = [set_card_slot(level, 1_100, 4, "amount", f"Moth.x * {n}") for n in range(9)]
    ms = statistics.median(t for made in changed for t in timed(lambda m=made: Program(m, ready), 1)) * 1e3
    table.add_row("one card of them edited, made ready", f"{ms:.1f}", "", "under 10")
    out.print(table)


def studies() -> None:
    """Every study's first trial, run through with its trace."""
    table = Table("studies, run through", "× real time", "aim")
    for name in (DEMO, *study_names()):
        level = read_level(study_path(name))
        program = Program(level)
        seconds = min(timed(lambda p=program: run_trial(p), 3))
        table.add_row(name.removesuffix(".gatillo"), f"{level.trials[0].length / seconds:.0f}", "at least 60")
    out.print(table)


def study() -> None:
    """Study 1, run through with its trace; the cursor; program building; first paint."""
    path = study_path("01-seed-pods.gatillo")
    level = read_level(path)
    program = Program(level)
    loop, floor = PodsByLoop(level), PodsByNumPy(level)
    found = interleaved({"gatillo": lambda: run_trial(program), "floor": floor.run, "loop": loop.run}, 20)
    length = level.trials[0].length
    same = gatillo_pods(run_trial(program)) == loop.outcome == floor.outcome
    table = Table("study 1, seed pods: its 15 s trial", "seconds", "against", "aim")
    table.add_row(
        "Gatillo, with trace and keyframes",
        f"{found['gatillo']:.4f}",
        f"{length / found['gatillo']:.0f} × real time",
        "at least 100 ×",
    )
    table.add_row(
        "hand-written NumPy",
        f"{found['floor']:.4f}",
        f"Gatillo takes {found['gatillo'] / found['floor']:.2f} ×",
        "",
    )
    table.add_row(
        "plain loop over objects",
        f"{found['loop']:.4f}",
        f"Gatillo takes {found['gatillo'] / found['loop']:.2f} ×",
        "",
    )
    out.print(table)
    out.print(f"pods gathered and her path {'agree' if same else 'DIFFER'}\n")
    if not same:
        sys.exit(1)
    run = run_trial(program)
    long = Run(program, level.trials[0])
    long.advance(36_000)
    chance = np.random.default_rng(1)
    jumps = [
        timed(lambda t=int(t): long.world_at(Cursor(t, 0)), 1)[0] for t in chance.integers(1, 36_000, 200)
    ]
    table = Table("moving about", "ms", "aim")
    table.add_row("cursor to a tick of a 10-minute run, worst of 200", f"{max(jumps) * 1e3:.1f}", "under 50")
    table.add_row("the same, median", f"{statistics.median(jumps) * 1e3:.1f}", "")
    table.add_row(
        "program rebuilt after an edit",
        f"{statistics.median(timed(lambda: Program(level), 20)) * 1e3:.2f}",
        "",
    )
    table.add_row("trace of the 10-minute run, MB", f"{len(long.trace.to_bytes()) / 1e6:.1f}", "")
    table.add_row(
        "first paint from the command (offscreen), best of 4", f"{first_paint(path) * 1e3:.0f}", "under 1000"
    )
    out.print(table)
    assert run.done == 900


def edit() -> None:
    """The whole level: run through, judged, and run anew after an edit of what a rule does; the first, one amid, the last."""
    level = read_level(study_path(DEMO))
    trial = level.trials[0]
    program = Program(level)
    run = Run(program, trial)
    whole = timed(lambda: run_and_judge(run), 1)[0]
    table = Table("Night shift", "seconds", "")
    table.add_row(
        "its round run and judged",
        f"{whole:.2f}",
        f"{run.done / program.rate / whole:.0f} × real time (aim: 100)",
    )
    table.add_row(
        "its state and keyframes, MB",
        f"{sum(w.size() for w in run.keyframes.values()) / 1e6:.1f}",
        "aim: 200 for 10 minutes",
    )
    for name in ("Night falls", "Turn the valve", "Good night"):
        edited = _doing_more(level, name)
        begun = time.perf_counter()
        changed = Program(edited, program)
        shared = shared_ticks(run, changed, trial)
        again = resumed(run, changed, trial, shared) if shared else Run(changed, trial)
        again.advance(60)
        first = time.perf_counter() - begun
        again.advance()
        last = time.perf_counter() - begun
        told = f"{shared / run.done:.0%} taken over; first changed second after {first:.2f} (aims: 0.1 and 1)"
        table.add_row(f"“{name}” does something more", f"{last:.2f}", told)
    out.print(table)


def _doing_more(level: Level, name: str) -> Level:
    """A level in which a rule writes a note as well."""

    def more(entry: Logic) -> Logic:
        if not isinstance(entry, Rule) or entry.name != name:
            return entry
        return replace(entry, do=(*entry.do, Clause("note", {"text": "more"})))

    return replace(
        level,
        order=tuple(
            replace(e, rules=tuple(map(more, e.rules))) if isinstance(e, Section) else more(e)
            for e in level.order
        ),
    )


def first_paint(path: Path) -> float:
    """Seconds from starting the interpreter to the first paint of the window."""
    script = (
        "import gc, os, sys; gc.disable(); os.environ['QT_QPA_PLATFORM'] = 'offscreen'\n"
        "import gatillo.cli.main\n"
        "from pathlib import Path\n"
        "from gatillo.desk.application import make_application\n"
        "from gatillo.desk.window.main_window import MainWindow\n"
        "from gatillo.desk.session.workbench import Workbench\n"
        "app = make_application(); window = MainWindow(Workbench())\n"
        f"window.open_path(Path({str(path)!r})); window.show(); app.processEvents(); window.grab()\n"
        "os._exit(0)"
    )
    # with compiled modules, as they are after the first start
    compiled = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    command = [sys.executable, "-c", script]
    return min(
        timed(
            lambda: subprocess.run(command, check=True, stderr=subprocess.DEVNULL, env=compiled),
            4,
        )
    )


if __name__ == "__main__":
    big()
    few_matches()
    many_movers()
    study()
    studies()
    edit()
    drawn()
    growth()
    # against the revision that the aims for working size speak of, where its history is there
    known = subprocess.run(["git", "cat-file", "-e", EARLIER], check=False, capture_output=True)
    if known.returncode == 0:
        subprocess.run([sys.executable, "-m", "benchmarks.against", EARLIER], check=True)
    # in processes of their own: they need an event loop
    for module in (
        "benchmarks.window",
        "benchmarks.graph_page",
        "benchmarks.reasons",
        "benchmarks.typed_lines",
        "benchmarks.playing",
    ):
        offscreen = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        subprocess.run([sys.executable, "-m", module], check=True, stderr=subprocess.DEVNULL, env=offscreen)
