"""A graph whose program and sheet are made from those before an edit is what it would be made anew."""

from __future__ import annotations

import random

import pytest
from msgspec.structs import replace

from drawing import card, graph
from gatillo.desk.graph_view.card_layout import SheetLayout
from gatillo.level.edits import change_logic
from gatillo.level.model import Wire
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from random_graphs import RandomGraphs

NODE = {"add_to": "amount", "multiply": "factor", "set_variable": "value", "formula_holds": "formula"}


def edited(level, chance):
    """The level after an edit of one of its graphs: a card moved, a slot, a switch, a card that is none, a name."""
    entry = chance.choice(level.order)
    at = chance.randrange(len(entry.nodes))
    node = entry.nodes[at]
    changed = chance.choice(
        [
            replace(node, at=(chance.uniform(0, 500), 40.0)),
            replace(node, slots={**node.slots, NODE.get(node.use, "text"): "3"}),
            replace(node, once=not node.once),
            replace(node, use="nothing") if chance.random() < 0.2 else replace(node, at=(1.0, 2.0)),
        ]
    )
    fields = chance.choice(
        [
            {"nodes": (*entry.nodes[:at], changed, *entry.nodes[at + 1 :])},
            {"on": not entry.on},
            {"note": "noted"},
            {"wires": entry.wires[:-1]},
            {"wires": entry.wires[1:]},
            {"wires": (*entry.wires, Wire(start=str(node.id), end=str(chance.choice(entry.nodes).id)))},
            {"nodes": (*entry.nodes, card(max(n.id for n in entry.nodes) + 1, "note", text="new"))},
            {
                "nodes": (
                    *entry.nodes,
                    card(max(n.id for n in entry.nodes) + 1, "add_to", amount="2", variable="level.n"),
                ),
                "wires": (
                    *entry.wires,
                    Wire(start=str(node.id), end=str(max(n.id for n in entry.nodes) + 1)),
                ),
            },
        ]
    )
    return change_logic(level, entry.id, lambda found: replace(found, **fields))


@pytest.mark.parametrize("seed", range(24))
def test_a_program_made_from_the_one_before_an_edit_runs_as_one_made_anew(seed):
    chance = random.Random(seed)
    level = RandomGraphs(seed).level()
    warm = Program(level)
    for _ in range(6):
        level = edited(level, chance)
        warm, cold = Program(level, warm), Program(level)
        assert [p.sentence() for p in warm.problems] == [p.sentence() for p in cold.problems]
        runs = [Run(program, level.trials[0]) for program in (warm, cold)]
        for made in runs:
            made.advance(30)
        assert runs[0].trace.to_bytes() == runs[1].trace.to_bytes()
        assert runs[0].world.differs_in(runs[1].world) == []


def test_a_program_made_later_leaves_the_run_of_the_one_before_as_it_was():
    level = RandomGraphs(3).level()
    before = Program(level)
    made = Run(before, level.trials[0])
    made.advance(20)
    as_it_was = Run(Program(level), level.trials[0])
    as_it_was.advance(40)
    chance = random.Random(3)
    for _ in range(8):
        Program(edited(level, chance), before)
    made.advance(20)
    assert made.trace.to_bytes() == as_it_was.trace.to_bytes()


@pytest.mark.parametrize("seed", range(8))
def test_a_sheet_made_from_the_one_before_an_edit_looks_as_one_made_anew(seed, qapp):
    chance = random.Random(seed)
    level = RandomGraphs(seed).level()
    warm, before = SheetLayout(), {}
    for _ in range(6):
        level = edited(level, chance)
        index = Program(level).index
        for entry in level.order:
            graphs = {one.name: one for one in level.order}
            made = before[entry.id] = warm.sheet(entry, graphs, index, before.get(entry.id))
            anew = SheetLayout().sheet(entry, graphs, index)
            assert [(c.node, c.face, c.area) for c in made.cards.values()] == [
                (c.node, c.face, c.area) for c in anew.cards.values()
            ]
            assert made.wires == anew.wires


def test_a_card_that_comes_in_the_way_turns_a_wire_aside(qapp):
    """The way of a wire that has not changed is another where a card now lies across it."""
    cards = [card(1, "every_tick"), card(2, "note", text="x"), card(3, "note", text="y")]
    places = [(0.0, 0.0), (0.0, 400.0), (600.0, 200.0)]
    drawn = graph("g", *(replace(n, at=at) for n, at in zip(cards, places, strict=True)), wires="1>2")
    index = Program(RandomGraphs(1).level()).index
    layout = SheetLayout()
    free = layout.sheet(drawn, {}, index)
    blocked = replace(drawn, nodes=(*drawn.nodes[:2], replace(drawn.nodes[2], at=(0.0, 200.0))))
    for now, before in ((blocked, free), (drawn, layout.sheet(blocked, {}, index, free))):
        assert layout.sheet(now, {}, index, before).wires == SheetLayout().sheet(now, {}, index).wires
