"""Copies with another actor: what a rule names is exchanged throughout, missing variables are made, and names follow."""

from __future__ import annotations

import pytest

from building import START, add, c, heard, kind, level, rule, send, things
from gatillo.language.copying import Named, copied_with, entries_of, named_in
from gatillo.language.sentence import sentence
from gatillo.level.model import Graph, Node, Section, Spot, Wire
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program

DRINK = rule(
    "Moth drinks",
    when=c("begins_to_touch", a="Moth", b="Cup 1"),
    if_=c("formula_holds", formula="Moth.thirst > 0 and distance(Moth, gate) < 50"),
    do=(
        add("level.drunk", "Moth.thirst"),
        c("say", text="the {Moth.name} has {Moth.thirst}", who="Moth", time="1"),
        send("moth drank"),
    ),
    id=1,
)


def yard(*order):
    return level(
        *order,
        kinds=(
            kind("Moth", has={"thirst": 3.0, "unused": 1.0}),
            kind("Bee"),
            kind("Cup"),
        ),
        objects=(
            *things("Moth", (0, 0)),
            *things("Bee", (9, 0), first=5),
            *things("Cup", (40, 0), (80, 0), first=10),
        ),
        places=(Spot(name="gate", x=0, y=0), Spot(name="shed", x=9, y=9)),
        has={"drunk": 0.0},
    )


def copy(built, names, rule_id=1, section="", **more):
    made, ids = copied_with(
        built, rule_id, section, {Named(s, n): new for (s, n), new in names.items()}, **more
    )
    return made, [e for _, _, e in all_logic(made) if e.id in ids]


def test_what_a_rule_names_is_listed():
    assert named_in(yard(DRINK), entries_of(yard(DRINK), 1)) == [
        ("kind", "Moth"),
        ("object", "Cup 1"),
        ("place", "gate"),
        ("level variable", "drunk"),
        ("message", "moth drank"),
    ]


def test_everything_is_exchanged_in_slots_formulas_and_texts_and_the_name_follows():
    made, (other,) = copy(
        yard(DRINK),
        {
            ("kind", "Moth"): "Bee",
            ("object", "Cup 1"): "Cup 2",
            ("place", "gate"): "shed",
            ("message", "moth drank"): "bee drank",
        },
    )
    assert other.name == "Bee drinks"
    lines = [sentence(x) for x in (*other.when, *other.if_, *other.do)]
    assert lines == [
        "Bee begins to touch Cup 2",
        "Bee.thirst > 0 and distance(Bee, shed) < 50",
        "add Bee.thirst to level.drunk",
        "say “the {Bee.name} has {Bee.thirst}” at Bee for 1 s",
        "send bee drank",
    ]
    assert [e.name for _, _, e in all_logic(made)] == ["Moth drinks", "Bee drinks"]
    assert made.order[0] == DRINK


def test_variables_that_are_missing_are_made_with_the_start_of_the_others():
    made, _ = copy(yard(DRINK), {("kind", "Moth"): "Bee", ("level variable", "drunk"): "sipped"})
    bee = next(k for k in made.kinds if k.name == "Bee")
    assert [(v.name, v.value) for v in bee.variables] == [("thirst", 3.0)]
    assert [v.name for v in made.variables] == ["drunk", "sipped"]
    assert not [p for p in Program(made).problems if p.rule == "Bee drinks"]
    left, _ = copy(yard(DRINK), {("kind", "Moth"): "Bee"}, make=False)
    assert any("has no variable “thirst”" in p.message for p in Program(left).problems)


def test_two_things_can_be_exchanged_for_one_another():
    chase = rule("chase", when=c("begins_to_touch", a="Moth", b="Bee"), do=c("remove", who="Bee"), id=2)
    _, (other,) = copy(yard(chase), {("kind", "Moth"): "Bee", ("kind", "Bee"): "Moth"}, 2)
    assert sentence(other.when[0]) == "Bee begins to touch Moth"
    assert sentence(other.do[0]) == "remove Moth"


def test_a_section_is_copied_as_one_beside_it():
    begin = rule("Moths begin", when=START, do=send("moth drank"), id=3)
    hear = rule("hear", when=heard("moth drank"), do=add("level.drunk"), id=4)
    built = yard(Section(name="The moths", rules=(begin, hear)), DRINK)
    made, entries = copy(
        built, {("message", "moth drank"): "bee drank", ("kind", "Moth"): "Bee"}, None, "The moths"
    )
    assert [e.name for e in made.order] == ["The moths", "The bees", "Moth drinks"]
    assert [e.name for e in entries] == ["Bees begin", "hear 1"]
    assert sentence(entries[1].when[0]) == "bee drank is heard"


def test_a_graph_is_copied_with_its_cards_and_the_kind_that_it_is_for():
    nodes = (Node(id=1, use="every_tick"), Node(id=2, use="turn_by", slots={"who": "Moth", "angle": "9"}))
    graph = Graph(id=7, name="Spin the moth", for_="Moth", nodes=nodes, wires=(Wire(start="1", end="2"),))
    _, (other,) = copy(yard(graph), {("kind", "Moth"): "Bee"}, 7)
    assert (other.name, other.for_, other.nodes[1].slots["who"]) == ("Spin the bee", "Bee", "Bee")


@pytest.mark.parametrize("names", [{}, {("kind", "Moth"): "Moth"}, {("kind", "Moth"): ""}])
def test_without_another_name_it_is_a_plain_copy(names):
    made, (other,) = copy(yard(DRINK), names)
    assert other.name == "Moth drinks 1"
    assert (other.when, other.do) == (DRINK.when, DRINK.do)
    assert made.kinds == yard(DRINK).kinds
