"""Kits carry graphs, and the own nodes that their cards use."""

from __future__ import annotations

from building import add, kind, level, rule, things
from gatillo.files.kits import bring_kit, make_kit
from gatillo.files.level_file import decode_level, encode_level
from gatillo.level.model import Graph, Node, Object, Reference, Wire
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program


def own(name, id, *more):
    return Graph(
        id=id,
        name=name,
        nodes=(Node(id=1, use="input"), Node(id=2, use="note", slots={"text": "hm"}), *more),
        wires=(Wire(start="1", end="2"),),
    )


def using(name, id, used):
    return Graph(
        id=id,
        name=name,
        nodes=(
            Node(id=1, use="each_in_every_tick", slots={"who": "Moth"}),
            Node(id=2, use="own", slots={"graph": used}),
        ),
        wires=(Wire(start="1", end="2"),),
    )


def scene(*order):
    return level(
        *order,
        kinds=(kind("Moth", 5, has={"n": 0.0}),),
        objects=things("Moth", (0, 0)),
    )


def names(made):
    return [entry.name for _, _, entry in all_logic(made)]


INNER = own("inner", 800)
OUTER = own("outer", 801, Node(id=3, use="own", slots={"graph": "inner"}))
FULL = scene(
    INNER, OUTER, own("unused", 802), using("uses", 803, "outer"), rule("r", do=add("Moth.n"), id=804)
)


def test_a_kit_takes_graphs_and_the_own_nodes_that_they_use_and_that_those_use():
    kit = make_kit(FULL, "Moths", ["Moth"])
    assert names(kit) == ["inner", "outer", "uses", "r"]
    assert Program(bring_kit(scene(), kit, {})).problems == []


def test_an_own_node_that_is_there_already_is_used_and_one_that_only_has_its_name_is_not():
    kit = make_kit(FULL, "Moths", ["Moth"])
    same = bring_kit(scene(INNER), kit, {})
    assert names(same) == ["inner", "outer", "uses", "r"]
    other = bring_kit(scene(own("inner", 1, Node(id=9, use="formula"))), kit, {})
    assert names(other) == ["inner", "inner 1", "outer", "uses", "r"]
    outer = next(e for _, _, e in all_logic(other) if e.name == "outer")
    assert outer.nodes[2].slots == {"graph": "inner 1"}
    assert Program(other).problems == []


def test_a_kit_brings_the_kinds_that_its_variables_refer_to_but_no_objects():
    kinds = (
        kind("Cart", 5, has={"driver": Reference(to="Sam", kind="Driver")}),
        kind("Driver", 5, has={"home": Reference(kind="Shed")}),
        kind("Shed", 5),
        kind("Other", 5),
    )
    sam = Object(id=1, kind="Driver", name="Sam", x=0.0, y=0.0)
    kit = make_kit(level(kinds=kinds, objects=(sam,)), "Kit", ["Cart"])
    assert [k.name for k in kit.kinds] == ["Cart", "Driver", "Shed"]
    assert kit.kinds[0].variables[0].value == Reference(kind="Driver")
    assert decode_level(encode_level(kit)) == kit
