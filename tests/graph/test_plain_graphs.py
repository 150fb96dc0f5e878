"""Random graphs against a plain loop: what fires, for how many, and every number after every tick."""

from __future__ import annotations

import math

import pytest
from plain_graph import PlainGraphs

from building import c, kind, level, rule, run, things
from drawing import card, graph
from random_graphs import RandomGraphs
from random_logic import numbers, plain_numbers, told, too_much


@pytest.mark.parametrize("first", range(0, 320, 80))
def test_random_graphs_run_as_in_a_plain_loop(first):
    for seed in range(first, first + 80):
        built = RandomGraphs(seed).level()
        plain, made = PlainGraphs(built), run(built, 0)
        for tick in range(1, 13):
            plain.step()
            if too_much(plain):
                break
            made.advance(1)
            assert told(made, tick) == [f for f in plain.fired if f[0] == tick], seed
            assert numbers(made) == plain_numbers(plain), seed
            assert made.trace.faults == [], seed


# what the plain loop has found


def test_what_comes_again_after_a_pause_begins_again():
    shown = graph(
        "g",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="tick mod 3 <> 0"),
        card(3, "on_change"),
        card(4, "note", text="begins"),
        card(5, "note", text="ends"),
        wires="1>2 2.yes>3 3.begins>4 3.ends>5",
    )
    made = run(level(shown, kinds=(kind("Moth", 2),), objects=things("Moth", (0, 0))), 7)
    assert made.trace.notes == [(1, "begins"), (3, "ends"), (4, "begins"), (6, "ends"), (7, "begins")]


@pytest.mark.parametrize("use, out", [("beat", "beat"), ("on_change", "ends")])
def test_matches_of_several_sorts_can_come_to_a_card_that_keeps_them_in_mind(use, out):
    """A moth, a lamp and a match about nobody: each is handed on with the roles that it came with."""
    shown = graph(
        "g",
        card(1, "each_in_every_tick", who="Lamp"),
        card(2, "each_in_every_tick", who="Moth"),
        card(3, "level_starts"),
        card(4, "formula_holds", formula="tick = 1"),
        card(5, use, **({"period": "0.05"} if use == "beat" else {})),
        card(6, "is_of_kind", who="Moth", kind="Moth"),
        card(7, "note", text="{Moth.x}"),
        wires=f"1>4 2>4 4.yes>5 3>5 5.{out}>6 6.yes>7",
    )
    kinds = (kind("Moth", 2), kind("Lamp", 2))
    made = run(level(shown, kinds=kinds, objects=things("Moth", (3, 0)) + things("Lamp", (5, 0), first=9)), 4)
    assert made.trace.faults == []
    # for the lamp and for nobody every moth is looked for, of which there is one
    assert {text for _, text in made.trace.notes} == {"3"}
    assert len(made.trace.notes) == 3


@pytest.mark.parametrize("off, on", [(0.6, 0.75), (0.61, 0.62), (0.3, 2.0)])
def test_a_beat_keeps_its_rhythm_while_its_graph_is_off(off, on):
    beats = graph(
        "g",
        card(1, "level_starts"),
        card(2, "beat", period="0.1"),
        card(3, "note", text="beat"),
        wires="1>2 2>3",
    )
    switch_off = rule("off", when=c("after_start", time=str(off)), do=c("switch_rule_off", rule="g"))
    switch_on = rule("on", when=c("after_start", time=str(on)), do=c("switch_rule_on", rule="g"))
    made = run(level(switch_off, switch_on, beats, kinds=(kind("Moth", 2),), seconds=3.0))
    # it begins in tick 1; from the tick in which it is switched off to the tick before it is on again it does not beat
    due = [7 + 6 * n for n in range(30)]
    gone = range(math.ceil(off * 60), math.ceil(on * 60))
    assert [tick for tick, _ in made.trace.notes] == [
        tick for tick in due if tick not in gone and tick <= 180
    ]
