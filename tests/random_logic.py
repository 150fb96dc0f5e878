"""What of a run of random rules is compared with a plain loop's."""

from __future__ import annotations

from gatillo.conformance.random_rules import KINDS, RandomLogic
from gatillo.formula.formula import column_key
from gatillo.sim.trace.trace import Way

__all__ = ["KINDS", "WAYS", "RandomLogic", "numbers", "plain_numbers", "told", "too_much"]
WAYS = {Way.DO: "do", Way.ELSE: "else", Way.RESUMED: "resumed"}


def told(made, tick):
    return [
        (f.tick, made.program.rules[f.rule_index].source.name, WAYS[f.way], f.matches)
        for f in made.trace.firings_at(tick)
    ]


def numbers(made):
    there = made.world.alive.nonzero()[0]
    kept = {n: made.world.values_of(there, column_key(n, "number")).tolist() for n in "pq"}
    return {**made.world.level, **kept}


def plain_numbers(plain):
    return {**vars(plain.level), **{n: [getattr(one, n) for one in plain.objects] for n in "pq"}}


def too_much(plain):
    """Numbers that a double no longer holds to the last digit, or more objects and messages than a test has time for."""
    seen = [
        plain.level.u,
        plain.level.v,
        *(one.p for one in plain.objects),
        *(one.q for one in plain.objects),
    ]
    return len(plain.objects) > 40 or max(map(abs, seen)) > 1e12 or sum(plain.sent.values()) > 500
