"""Whole runs of random rules against a plain loop: what fires, for how many, and every number after every tick."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import START, add, c, fired, level, rule, run, things
from gatillo.graphs.conversion import as_graph
from gatillo.level.model import Clause
from plain_run import PlainRun
from random_logic import KINDS, RandomLogic, numbers, plain_numbers, told, too_much


@pytest.mark.parametrize("first", range(0, 320, 80))
def test_random_rules_and_their_graphs_run_as_in_a_plain_loop(first):
    for seed in range(first, first + 80):
        built = RandomLogic(seed).level()
        drawn = replace(built, order=tuple(as_graph(one) for one in built.order))
        plain, made, graphs = PlainRun(built), run(built, 0), run(drawn, 0)
        for tick in range(1, 13):
            plain.step()
            if too_much(plain):
                break
            come, expected = [f for f in plain.fired if f[0] == tick], plain_numbers(plain)
            for one in (made, graphs):
                one.advance(1)
                assert told(one, tick) == come, (seed, one is graphs)
                assert numbers(one) == expected, (seed, one is graphs)
                assert one.trace.faults == []


# what is created, for whom


EACH_MOTH = {"when": START, "if_": c("formula_holds", formula="Moth.x > 0")}
LAMP = c("create", count="1", kind="Lamp", where="Moth")
FAR, NEAR = (c("set_variable", variable="new Lamp.p", value=value) for value in ("Moth.x", "100 + Moth.x"))
IF_FAR = "Moth.x > 15"


def lamps_after(*order, ticks=1):
    """Where lamps stand, and what their p is."""
    built = level(*order, kinds=KINDS, objects=things("Moth", (10, 0), (20, 0), (30, 0)))
    made = run(built, ticks)
    assert made.trace.faults == []
    rows = made.world.rows_of_kind(1)
    return sorted(zip(made.world.x[rows].tolist(), numbers(made)["p"][3:], strict=True))


def within(formula, *lines):
    return Clause(use="if_so", slots={"formula": formula}, of=lines)


def otherwise(*lines):
    return Clause(use="otherwise", of=lines)


OWN = [(10, 110), (20, 20), (30, 30)]


@pytest.mark.parametrize(
    "lines",
    [
        (LAMP, within(IF_FAR, FAR), otherwise(NEAR)),
        (within(IF_FAR, LAMP, FAR), otherwise(LAMP, NEAR)),
        (within(IF_FAR, LAMP), otherwise(LAMP), within(IF_FAR, FAR), otherwise(NEAR)),
        (LAMP, c("wait", time="Moth.x / 1000"), within(IF_FAR, FAR), otherwise(NEAR)),
        (
            LAMP,
            Clause(use="repeat", slots={"count": "Moth.x / 10 - 1"}, of=(FAR,)),
            within("Moth.x < 15", NEAR),
        ),
    ],
)
@pytest.mark.parametrize("mode", [{}, {"one_at_a_time": True}])
def test_what_is_new_is_so_for_the_match_it_was_created_for(lines, mode):
    made = rule("r", do=lines, id=5, **EACH_MOTH, **mode)
    assert lamps_after(made, ticks=4) == OWN
    assert lamps_after(as_graph(made), ticks=4) == OWN


@pytest.mark.parametrize(
    "lines",
    [
        (c("create", count="0", kind="Lamp", where="Moth"), FAR),
        (within("Moth.x > 99", LAMP), FAR),
        (LAMP, c("create", count="0", kind="Lamp", where="Moth"), FAR),
    ],
)
def test_what_is_new_is_nobody_where_nothing_was_created(lines):
    old = rule("old", when=START, do=c("create", count="1", kind="Lamp", where="Moth"), id=4)
    found = lamps_after(old, rule("r", do=lines, id=5, **EACH_MOTH))
    assert {p for _, p in found} == {3.0}


def test_of_a_repeat_the_last_turns_objects_are_new_below_it():
    lines = (Clause(use="repeat", slots={"count": "2"}, of=(LAMP, NEAR)), FAR)
    assert lamps_after(rule("r", do=lines, **EACH_MOTH)) == [
        (x, p) for x in (10, 20, 30) for p in sorted((x, 100 + x))
    ]


def test_a_combination_is_the_same_however_its_roles_came_in():
    change = rule("change", when=START, do=add("Moth.q"))
    made = rule(
        "r",
        when=(c("variable_changes", variable="Moth.q"), c("every_seconds", period="0.1", first="0.1")),
        if_=c("formula_holds", formula="Lamp.p + Moth.p > 0"),
        do=add("level.n"),
        fires="first time only",
        first_per="object",
    )
    both = things("Moth", (0, 0)) + things("Lamp", (5, 0), first=9)
    # at first the moth is there and a lamp is looked for, then a lamp and a moth
    assert fired(run(level(change, made, kinds=KINDS, objects=both, has={"n": 0.0}), 20), "r") == [(1, 1)]
