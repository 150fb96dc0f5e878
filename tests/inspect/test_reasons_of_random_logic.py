"""Whatever happens has its reasons, and so has whatever does not: asked of random rules and graphs, rule by rule and tick by tick."""

from __future__ import annotations

import pytest

import gatillo
from building import c as clause
from building import level, rule, things
from random_graphs import RandomGraphs
from random_logic import KINDS, RandomLogic

MOST_FIRINGS = 120
"""Of a run; of others there is not time enough to ask everything."""


def asked(run, entry, tick):
    """Whether it fired, by what it is said of it; every sentence is worked out, three deep."""
    words = list(run.why_not(entry.name, tick=tick).lines(depth=3))
    fired = [f for f in run.firings(tick) if f.rule == entry.name and f.way == "do"]
    if fired:
        assert len(list(run.why(entry.name, tick=tick).lines(depth=3))) > 1
        list(run.caused(entry.name, tick=tick).lines(depth=2))
    else:
        assert len(words) > 1
    return "did fire" in words[0], bool(fired)


@pytest.mark.parametrize("made", [RandomLogic, RandomGraphs])
def test_each_firing_has_a_reason_and_each_silence_too(made):
    # the last has a turn of more actions than states of it are kept
    for seed in (*range(12), 318):
        built = made(seed).level()
        run = gatillo.run(built)
        if len(run.firings()) > MOST_FIRINGS:
            continue
        for entry in built.order:
            for tick in range(1, 13):
                said, happened = asked(run, entry, tick)
                assert said is happened, (seed, entry.name, tick)
        for formula in ("level.u", "Moth_1.p"):
            list(run.why_value(formula, tick=7).lines(depth=4))


def test_a_pick_that_finds_nobody_says_so():
    kept = clause("best_by", end="lowest", value="Lamp.q", per="all matches")
    one = rule("r", if_=kept, do=clause("note", text="x"))
    run = gatillo.run(level(one, kinds=KINDS, objects=things("Moth", (0, 0))))
    assert list(run.why_not("r", tick=1).lines())[-1].endswith("there is no “Lamp”")
