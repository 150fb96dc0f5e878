"""Asking a run of 60 s with 60 rules: why to a depth of ten, why not, two runs side by side, whose turn first."""

from __future__ import annotations

import time

from rich.console import Console
from rich.table import Table

from gatillo.inspect.comparison import compare, first_parted
from gatillo.inspect.order import order_findings
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.sides import why_on_both_sides
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Kind,
    Level,
    Object,
    Rule,
    Trial,
    Variable,
)
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial

CHAIN, OTHERS, SECONDS = 20, 40, 60.0


def c(use: str, **slots: str) -> Clause:
    return Clause(use=use, slots=slots)


def link(at: int) -> Rule:
    """One of the rules that hear the one before and tell the next."""
    return Rule(
        id=10 + at,
        name=f"link {at}",
        when=(c("message_heard", message=f"m{at - 1}"),),
        if_=(c("formula_holds", formula=f"level.v{at - 1} > level.v{at} - 1"),),
        do=(c("add_to", variable=f"level.v{at}", amount="1"), c("send_message", message=f"m{at}")),
    )


def level(limit: int = 5) -> Level:
    """A chain of twenty rules that hear, ask and send, and forty about sixty objects that wander and touch."""
    rules = [
        Rule(
            id=10,
            name="begin",
            when=(c("every_seconds", period="1", first="0.5"),),
            do=(c("add_to", variable="level.v0", amount="1"), c("send_message", message="m0")),
        )
    ]
    rules += [link(at) for at in range(1, CHAIN)]
    for at in range(OTHERS):
        who = "Moth" if at % 2 else "Lamp"
        # as in a level that people play: most rules wait for something, a few look at everybody in every tick
        when = (
            (c("begins_to_touch", a="Moth", b="Lamp"),)
            if at % 4 == 0
            else (c("each_in_every_tick", who=who),)
            if at % 8 == 1
            else (c("every_seconds", period=f"{0.5 + at / 20:g}", first="0.3"),)
        )
        asked = c("formula_holds", formula=f"{who}.n mod {at + 2} < {limit if at % 3 else 1}")
        rules.append(
            Rule(
                id=100 + at,
                name=f"other {at}",
                when=when,
                if_=(asked,),
                do=(c("add_to", variable=f"{who}.n", amount="1"),),
                fires="on becoming true",
            )
        )
    moth = Kind(
        name="Moth",
        shape=Circle(radius=6),
        variables=(Variable(name="n", value=0.0),),
        behaviours=(c("circle_around", centre="Lamp 7", radius="120", speed="40"),),
    )
    lamp = Kind(name="Lamp", shape=Circle(radius=14), variables=(Variable(name="n", value=0.0),))
    objects = [Object(id=1 + n, kind="Moth", name=f"Moth {n}", x=400, y=250) for n in range(40)]
    objects += [
        Object(id=100 + n, kind="Lamp", name=f"Lamp {n}", x=300 + 20.0 * n, y=250 + (n % 5) * 20)
        for n in range(20)
    ]

    return Level(
        format=FORMAT_VERSION,
        name="asking",
        variables=tuple(Variable(name=f"v{n}", value=0.0) for n in range(CHAIN)),
        kinds=(moth, lamp),
        objects=tuple(objects),
        order=tuple(rules),
        trials=(Trial(name="t", length=SECONDS),),
    )


def deepest(reason: Reason, depth: int) -> Reason:
    """Down by the reason of each that goes farthest, as somebody who unfolds would."""
    for _ in range(depth):
        found = [r for r in reason.because() if r.grounds is not None]
        if not found:
            return reason
        reason = found[0]
    return reason


def measure() -> None:
    """Measure, and print a table."""
    run = run_trial(Program(level()))
    assert not run.program.problems, [p.sentence() for p in run.program.problems]
    table = Table("a run of 60 s with 60 rules", "ms, longest of several", "aim")
    firings = run.trace.firings()
    last = max(t.index for t in run.program.rules if t.source.name.startswith("link"))
    of_last = [f for f in firings if f.rule_index == last]
    others = [f for f in firings if run.program.rules[f.rule_index].source.name.startswith("other")]

    def longest(deeds: list) -> float:  # type: ignore[type-arg]
        found = []
        for deed in deeds:
            start = time.perf_counter()
            deed()
            found.append((time.perf_counter() - start) * 1e3)
        return max(found)

    def fresh(tick: int, position: int):  # type: ignore[no-untyped-def]
        return lambda: deepest(Explainer(run).fired(tick, position), 10)

    some = [of_last[n] for n in (0, len(of_last) // 2, -1)]
    table.add_row(
        "why, ten reasons deep, a chain of messages",
        f"{longest([fresh(f.tick, f.position) for f in some]):.0f}",
        "under 200",
    )
    some = [others[n] for n in (0, len(others) // 2, -1)]
    table.add_row(
        "why, ten deep, objects and motion",
        f"{longest([fresh(f.tick, f.position) for f in some]):.0f}",
        "under 200",
    )

    def why_not(at: int, tick: int):  # type: ignore[no-untyped-def]
        turn = run.program.rules[at]
        return lambda: list(WhyNot(Explainer(run)).at(turn, tick).walk(2))

    table.add_row(
        "why not",
        f"{longest([why_not(n, t) for n in (0, 5, 25, 59) for t in (20, 1800, 3590)]):.0f}",
        "under 200",
    )
    other = run_trial(Program(level(4)))

    def beside() -> None:
        compare(run, other)
        parted = first_parted(run, other)
        why_on_both_sides(run, other, parted[0])

    table.add_row("two runs side by side, with why on both", f"{longest([beside, beside]):.0f}", "under 300")
    start = time.perf_counter()
    again = Run(run.program, run.trial)
    again.advance()
    took = (time.perf_counter() - start) * 1e3
    start = time.perf_counter()
    found = order_findings(run)
    table.add_row(
        f"order findings ({len(found)}); the run itself takes {took:.0f}",
        f"{(time.perf_counter() - start) * 1e3:.0f}",
        "under 3,000",
    )
    Console(highlight=False).print(table)


if __name__ == "__main__":
    measure()
