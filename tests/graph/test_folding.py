"""Folding cards into an own node and putting them back: what fires and what it does stays."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from test_graph_runs import note, notes, scene

from building import c, rule, run
from drawing import card, graph
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.examples import study_path
from gatillo.files.level_file import decode_level, encode_level, read_level
from gatillo.graphs.conversion import as_graph
from gatillo.graphs.folding import NoFolding, fold, name_face, unfold
from gatillo.graphs.outline import outline
from gatillo.level.edits import as_tried, change_logic
from gatillo.level.graph_edits import graph_of
from gatillo.level.model import Graph, Level, Rule
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import delete_rule
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

BUSY = graph(
    "busy",
    card(1, "each_in_every_tick", who="Moth"),
    card(2, "formula_holds", formula="Moth.x < 100"),
    card(3, "add_to", amount="1", variable="Moth.n"),
    card(4, "hold", value="Moth.n + Moth.x", per="Moth"),
    card(5, "formula", value="kept / 2"),
    card(6, "add_to", amount="0", variable="level.m"),
    card(7, "count_to", count="3", per="Moth"),
    note(8, "{Moth.name} third"),
    card(9, "wait", time="0.05"),
    note(10, "{Moth.name} after"),
    card(11, "in_order"),
    note(12, "first {Moth.name}"),
    card(13, "each"),
    note(14, "one {Moth.name}"),
    note(15, "done {Moth.name}"),
    card(16, "level_starts"),
    card(17, "first_time", per="all matches"),
    wires="1>2 2.yes>3 3>4 3>7 4>6 7.at>8 7.before>9 9>11 9.after>10 11.1>12 11.2>13 13.one>14 13.done>15 2.no>13 16>17 17>15",
    values="4>5.kept 5>6.amount",
)


def drawn(name: str) -> Level:
    """A study with every rule as a graph."""
    level = read_level(study_path(name))
    level = as_tried(level, level.trials[0])
    graphs = {e.name: e for _, _, e in all_logic(level) if isinstance(e, Graph)}
    for _, _, entry in all_logic(level):
        if isinstance(entry, Rule):
            level = change_logic(level, entry.id, lambda e, graphs=graphs: as_graph(e, graphs))
    return level


LEVELS = {
    "busy": scene(BUSY),
    **{n: drawn(f"{n}.gatillo") for n in ("22-night-lamps", "12-bench-focus", "17-valve", "02-stacked-pots")},
}
TICKS = 60


def told(level: Level):
    """What fires and what it does, by the graphs' names; and the state at the end."""
    program = Program(level)
    assert program.problems == [], [p.sentence() for p in program.problems]
    made = Run(program, level.trials[0])
    made.advance(min(made.length, TICKS))
    turns = [turn.source.name for turn in program.rules]
    firings = [(f.tick, f.position, turns[f.rule_index], f.matches, f.way) for f in made.trace.firings()]
    world = made.world.clone()
    world.rules.cards.clear()
    world.rules.memory.clear()
    where = [
        (i, x, y, a) for i, x, y, a in zip(world.id.tolist(), world.x, world.y, world.angle, strict=True)
    ]
    kept = {name: column.tolist() for name, column in world.variables.items()}
    return firings, made.trace.notes, where, kept, dict(world.level)


BEFORE = {name: told(level) for name, level in LEVELS.items()}


def foldable(entry: Graph) -> list[int]:
    return [
        n.id
        for n in entry.nodes
        if n.use not in ("input", "output")
        and not (n.use in CATALOGUE and CATALOGUE[n.use].group == "occasion")
    ]


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from(sorted(LEVELS)), st.data())
def test_any_cards_folded_and_unfolded_leave_what_fires_and_what_it_does(name, data):
    level = LEVELS[name]
    graphs = [
        e for _, _, e in all_logic(level) if isinstance(e, Graph) and foldable(e) and not is_own_node(e)
    ]
    chosen = data.draw(st.sampled_from(graphs))
    numbers = data.draw(st.sets(st.sampled_from(foldable(chosen)), min_size=1))
    folded, own, at = fold(level, chosen.id, numbers, "folded")
    assert decode_level(encode_level(folded)) == folded
    assert told(folded) == BEFORE[name]
    assert is_own_node(graph_of(folded, own))
    back, placed = unfold(folded, chosen.id, at)
    assert len(placed) == len(numbers)
    # that nobody uses any more, and that is by itself no more than what its inputs say
    back = delete_rule(back, own)
    assert told(back) == BEFORE[name]
    assert len(graph_of(back, chosen.id).wires) == len(chosen.wires)
    assert len(graph_of(back, chosen.id).values) == len(chosen.values)


def test_wires_that_cross_the_border_become_inputs_and_outputs_with_names_of_slots_and_outputs():
    level, own, at = fold(scene(BUSY), BUSY.id, {2, 3, 4}, "near ones")
    inner, outer = graph_of(level, own), graph_of(level, BUSY.id)
    faces = {n.slots["name"]: (n.use, n.slots.get("carries", "matches")) for n in inner.nodes if n.id > 4}
    assert faces == {
        "in": ("input", "matches"),
        "then": ("output", "matches"),
        "then 2": ("output", "matches"),
        "no": ("output", "matches"),
        "kept": ("output", "a value"),
    }
    assert at == 2
    wires = [(w.start, w.end) for w in (*outer.wires, *outer.values)]
    assert ("1", "2.in") in wires
    assert ("2.no", "13") in wires
    assert ("2.kept", "5.kept") in wires
    assert "  2. near ones" in outline(outer)


def test_it_is_put_beside_its_graph_and_takes_a_free_name():
    level, own, _ = fold(scene(BUSY), BUSY.id, {3}, "busy")
    assert [e.name for _, _, e in all_logic(level)] == ["busy", "busy 1"]
    assert graph_of(level, own).name == "busy 1"


def test_what_is_given_in_words_becomes_formula_cards_when_it_is_unfolded():
    near = graph(
        "near",
        card(1, "input", name="in"),
        card(2, "input", name="reach", carries="a value", value="40"),
        card(3, "input", name="lamp", carries="a role", value="Lamp"),
        card(4, "within", who="Moth", where="lamp", distance="0"),
        card(5, "output", name="yes"),
        card(6, "output", name="away", carries="a value", value="distance(Moth, lamp)"),
        wires="1>4 4.yes>5",
        values="2>4.distance",
        id=801,
    )
    uses = graph(
        "uses",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "own", graph="near", reach="60"),
        card(3, "note", text="{Moth.name}"),
        card(4, "hold", value="0", per="Moth"),
        card(5, "formula_holds", formula="yes"),
        card(6, "formula", value="h > 20"),
        note(7, "far {Moth.name}"),
        wires="1>2 2.yes>3 3>4 4>5 5.yes>7",
        values="2.away>4.value 4>6.h 6>5.formula",
        id=802,
    )
    level = scene(near, uses)
    before = notes(run(level, 3))
    assert len(before) > 3
    opened, placed = unfold(level, 802, 2)
    assert notes(run(opened, 3)) == before
    formulas = [
        n.slots["value"] for n in graph_of(opened, 802).nodes if n.id in placed and n.use == "formula"
    ]
    assert sorted(formulas) == ["60", "distance(Moth, Lamp)"]


@pytest.mark.parametrize(
    ("numbers", "says"),
    [
        ({1, 2}, "card 1 is an occasion"),
        (set(), "select some cards first"),
        ({999}, "select some cards first"),
    ],
)
def test_what_cannot_be_folded_says_why(numbers, says):
    with pytest.raises(NoFolding, match=says):
        fold(scene(BUSY), BUSY.id, numbers, "x")


def test_what_cannot_be_unfolded_says_why():
    with pytest.raises(NoFolding, match="is an own node"):
        unfold(scene(BUSY), BUSY.id, 3)
    lost = graph("lost", card(1, "level_starts"), card(2, "own", graph="nowhere"), wires="1>2", id=803)
    with pytest.raises(NoFolding, match="no own node called “nowhere”"):
        unfold(scene(lost), 803, 2)


def test_a_new_name_of_an_input_or_output_is_carried_to_all_uses():
    near = graph(
        "near",
        card(1, "input", name="in"),
        card(2, "input", name="reach", carries="a value", value="40"),
        card(3, "input", name="lamp", carries="a role", value="Lamp"),
        card(4, "within", who="Moth", where="lamp", distance="0"),
        card(5, "output", name="yes"),
        wires="1>4 4.yes>5",
        values="2>4.distance",
        id=801,
    )
    uses = graph(
        "uses",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "own", graph="near", reach="60", lamp="Lamp"),
        note(3, "{Moth.name}"),
        card(4, "formula", value="70"),
        wires="1>2.in 2.yes>3",
        values="4>2.reach",
        id=802,
    )
    line = c("own_says", graph="near", given="reach = 60, lamp = Lamp")
    asks = rule(
        "asks", when=c("each_in_every_tick", who="Moth"), if_=line, do=c("note", text="rule {Moth.name}")
    )
    level = scene(near, uses, asks)
    before = notes(run(level, 2))
    assert before
    for number, name in ((1, "come"), (2, "how far"), (3, "light"), (5, "is near")):
        level, many = name_face(level, 801, number, name)
        assert many == 2
        assert Program(level).problems == []
        assert notes(run(level, 2)) == before
    changed = graph_of(level, 802)
    assert changed.nodes[1].slots == {"graph": "near", "how far": "60", "light": "Lamp"}
    assert [(w.start, w.end) for w in (*changed.wires, *changed.values)] == [
        ("1", "2.come"),
        ("2.is near", "3"),
        ("4", "2.how far"),
    ]
    assert level.order[2].if_[0].slots["given"] == "how far = 60, light = Lamp"
