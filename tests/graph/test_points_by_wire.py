"""Points that come by a wire of values into a slot for a place."""

from __future__ import annotations

import pytest

from building import kind, level, run, things
from gatillo.level.model import Graph, Node, Wire
from gatillo.sim.program.program import Program


def placed(value, **more):
    nodes = (
        Node(id=1, use="level_starts"),
        Node(id=2, use="put_at", slots={"who": "Moth"}),
        Node(id=3, use="formula", slots={"value": value}),
    )
    graph = Graph(
        id=5,
        name="g",
        nodes=nodes,
        wires=(Wire(start="1", end="2"),),
        values=(Wire(start="3", end="2.where"),),
        **more,
    )
    return level(
        graph,
        kinds=(kind("Moth", has={"aim": (1.0, 2.0)}), kind("Lamp")),
        objects=(*things("Moth", (0, 0), (5, 5)), *things("Lamp", (9, 9), first=9)),
    )


@pytest.mark.parametrize(
    ("value", "wanted"),
    [
        ("(30, 40)", [30 + 40j, 30 + 40j]),
        ("Lamp + (1, 0)", [10 + 9j, 10 + 9j]),
        ("Moth.aim", [1 + 2j, 1 + 2j]),
        ("Moth + (3, -1)", [3 - 1j, 8 + 4j]),
    ],
)
def test_a_point_comes_by_a_wire(value, wanted):
    world = run(placed(value), ticks=1).world
    assert (world.x[:2] + 1j * world.y[:2]).tolist() == wanted


@pytest.mark.parametrize(
    ("value", "says"), [("3", "here must come a point, but this is a number"), ("Lamp", "text or point")]
)
def test_another_value_is_told(value, says):
    assert any(says in p.message for p in Program(placed(value)).problems)


def test_a_point_without_an_answer_is_a_fault_and_its_match_stays():
    made = run(placed("(1 / (Moth.x - 5), 0)"), ticks=1)
    assert len(made.trace.faults) == 1
    assert made.world.x[:2].tolist() == [-0.2, 5.0]
