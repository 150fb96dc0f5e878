"""Graphs that want too much end at their bounds with a fault at the card, and what cannot be is a sentence, soon."""

from __future__ import annotations

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from building import kind, level, run, things
from drawing import card, graph
from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.level.model import Settings
from gatillo.sim.program.program import Program
from gatillo.sim.rules import executor
from gatillo.sim.run.run import Run
from work_done import at_most


def crowd(*graphs, moths=10, most=1_000_000):
    return level(
        *graphs,
        kinds=(kind("Moth", 5), kind("Lamp", 5)),
        objects=(*things("Moth", *((i, 0) for i in range(moths))), *things("Lamp", *((i, 9) for i in range(moths)), first=50_000)),
        has={"n": 0.0},
        settings=Settings(most_matches=most),
    )  # fmt: skip


def faults(made):
    return list(dict.fromkeys(f.sentence for f in made.trace.faults))


def test_a_loop_over_the_shortest_wait_goes_round_once_a_tick():
    loop = graph(
        "loop",
        card(1, "level_starts"),
        card(2, "add_to", amount="1", variable="level.n"),
        card(3, "wait", time="0"),
        wires="1>2 2>3 3.after>2",
    )
    made = run(crowd(loop), 30)
    assert made.world.level["n"] == 30.0
    assert faults(made) == []


def test_loops_that_double_at_each_round_end_at_the_bound_of_what_goes_on(monkeypatch):
    monkeypatch.setattr(executor, "MOST_RESUMED", 200)
    loop = graph(
        "double",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "in_order"),
        card(3, "wait", time="0"),
        card(4, "wait", time="0"),
        wires="1>2 2.1>3 2.2>4 3.after>2 4.after>2",
    )
    with at_most(2_000_000):
        made = Run(Program(crowd(loop)), crowd(loop).trials[0])
        made.advance(14)
    told = faults(made)
    assert any("“double”, card 4: no more than 200 firings go on after waits" in s for s in told), told
    # and the rule itself
    assert max(made.trace.count_at(t) for t in range(1, 15)) <= 201


def test_each_over_a_million_matches_ends_at_the_bound_of_cards():
    pairs = graph(
        "pairs",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x >= 0 and Lamp.x >= 0"),
        card(3, "each"),
        card(4, "add_to", amount="1", variable="level.n"),
        wires="1>2 2.yes>3 3.one>4",
    )
    with at_most(15_000_000):
        made = run(crowd(pairs, moths=1_000, most=2_000_000), 1)
    assert any("“pairs”, card" in s for s in faults(made)), faults(made)


def test_counts_and_holds_for_more_matches_than_a_card_keeps_are_told_at_the_card():
    keeps = graph(
        "keeps",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x >= 0 and Lamp.x >= 0"),
        card(3, "count_to", count="1e300"),
        wires="1>2 2.yes>3",
    )
    made = run(crowd(keeps, moths=600), 1)
    assert any("“keeps”, card 3: a card remembers no more than 200,000 matches" in s for s in faults(made))


@pytest.mark.parametrize("count", ["0", "-1", "1/0", "1e308*10"])
def test_a_count_that_cannot_be_come_to_is_told_or_never_comes(count):
    drawn = graph(
        "g",
        card(1, "every_tick"),
        card(2, "count_to", count=count, per="all matches"),
        card(3, "add_to", amount="1", variable="level.n"),
        wires="1>2 2.at>3",
    )
    made = run(crowd(drawn), 20)
    assert made.world.level["n"] in (0.0, 20.0)


@pytest.mark.parametrize("period", ["0", "-5", "1e-300", "1/0"])
def test_a_beat_never_comes_twice_in_a_tick(period):
    drawn = graph(
        "g",
        card(1, "level_starts"),
        card(2, "beat", period=period),
        card(3, "add_to", amount="1", variable="level.n"),
        wires="1>2 2.beat>3",
    )
    made = run(crowd(drawn), 20)
    assert made.world.level["n"] <= 20.0


def test_three_own_nodes_that_use_one_another_are_told_with_the_way_and_little_work():
    def own(name, used, number):
        return graph(name, card(1, "input", name="in"), card(2, "own", graph=used), wires="1>2", id=number)

    with at_most(200_000):
        program = Program(crowd(own("a", "b", 901), own("b", "c", 902), own("c", "a", 903)))
    assert any("“a” → “b” → “c” → “a”" in p.sentence() for p in program.problems)


def test_own_nodes_that_double_at_each_depth_are_told_with_little_work():
    graphs = [graph("n0", card(1, "input", name="in"), card(2, "pass_on"), wires="1>2", id=700)]
    for depth in range(1, 19):
        below = f"n{depth - 1}"
        graphs.append(
            graph(f"n{depth}", card(1, "input", name="in"), card(2, "own", graph=below), card(3, "own", graph=below), wires="1>2 1>3", id=700 + depth)
        )  # fmt: skip
    with at_most(1_000_000):
        program = Program(crowd(*graphs))
    said = next(p.sentence() for p in program.problems if p.rule == "n18")
    assert "“n17” → “n16”" in said and "20,000 in all" in said


JUNK = st.recursive(
    st.one_of(
        st.none(), st.booleans(), st.integers(-5, 1_000_001), st.text(max_size=5), st.sampled_from(["1.yes", "1", "2.in", "0", "9.x y"])
    ),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(st.sampled_from(["id", "use", "with", "at", "from", "to", "of"]), inner, max_size=4)),
    max_leaves=6,
)  # fmt: skip
FIELDS = st.sampled_from(["nodes", "wires", "values", "frames", "notes", "for", "shared", "on", "name", "id"])


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.lists(st.tuples(FIELDS, JUNK), min_size=1, max_size=3), st.integers(0, 3))
def test_any_junk_within_a_graph_is_a_sentence_or_a_level(changes, where):
    base = graph(
        "g",
        card(1, "every_tick"),
        card(2, "count_to", count="3", per="all matches"),
        card(3, "add_to", amount="1", variable="level.n"),
        wires="1>2 2.at>3",
        values="2>3.amount",
    )
    document = json.loads(encode_level(crowd(base)))
    drawn = next(e for e in document["order"] if e.get("is") == "graph")
    for field, junk in changes:
        inner = drawn.get(field)
        if isinstance(inner, list) and inner and where:
            inner[where % len(inner)] = junk
        else:
            drawn[field] = junk
    with at_most(200_000):
        try:
            made = decode_level(json.dumps(document).encode())
        except LevelFileError as error:
            assert str(error)
            assert len(str(error)) <= 600
        else:
            run_ = Run(Program(made), made.trials[0])
            run_.advance(5)
