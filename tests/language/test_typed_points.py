"""Points in typed lines: as formulas, as variables that hold one, and in words."""

from __future__ import annotations

import pytest

from building import c, kind, level, rule, things
from gatillo.language.answers import with_names_made
from gatillo.language.renaming import rename
from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import sentence
from gatillo.level.model import Reference, Route, Spot, Stop
from gatillo.level.roles import Index

LEVEL = level(
    kinds=(kind("Moth", has={"aim": (3.0, 4.0), "fuel": 1.0}), kind("Lamp"), kind("Gardener")),
    objects=(
        *things("Moth", (0, 0)),
        *things("Lamp", (0, 0), first=10),
        *things("Gardener", (9, 0), first=20),
    ),
    places=(Spot(name="gate", x=20, y=20), Route(name="way", stops=(Stop(x=0, y=0), Stop(x=9, y=0)))),
    has={"goal": (1.0, 2.0)},
)
INDEX = Index(LEVEL)


@pytest.mark.parametrize(
    ("line", "meant"),
    [
        ("move moth toward (30, 40) at 50", "move Moth toward (30, 40) at 50"),
        ("move the moth toward its aim at 50", "move Moth toward Moth.aim at 50"),
        ("create a lamp at pointer + (0, 10)", "create 1 Lamp at pointer + (0, 10)"),
        ("create a lamp 20 above the moth", "create 1 Lamp at Moth + (0, 20)"),
        ("put the lamp halfway between the moth and the gate", "put Lamp at between(Moth, gate, 0.5)"),
        ("put lamp at 40 ahead of the gardener", "put Lamp at ahead(Gardener, 40)"),
        ("move the lamp to goal over 2 seconds", "move Lamp to level.goal over 2 s, at constant speed"),
        ("move moth to along(way, 0.5) over 2", "move Moth to along(way, 0.5) over 2 s, at constant speed"),
        ("set moth.aim to (30, 40)", "set Moth.aim to (30, 40)"),
        ("set the moth's aim to the lamp", "set Moth.aim to Lamp"),
        ("set moth's aim to pointer", "set Moth.aim to pointer"),
        ("set goal to moth + (0, 20)", "set level.goal to Moth + (0, 20)"),
        ("if the moth is within 30 of its aim", "Moth is within 30 of Moth.aim"),
    ],
)
def test_a_point_is_read_in_a_typed_line(line, meant):
    reading = read_line(INDEX, line)[0]
    assert not reading.all_unread
    assert sentence(reading.clause) == meant


@pytest.mark.parametrize(
    ("line", "name", "value"),
    [
        ("put lamp at moth.home", ("Moth", "home"), (0.0, 0.0)),
        ("put lamp at level.hub + (0, 5)", ("level", "hub"), (0.0, 0.0)),
        ("put lamp at moth + (0, level.spin)", ("level", "spin"), 0.0),
    ],
)
def test_a_point_with_an_unknown_name_is_offered_to_be_made(line, name, value):
    reading = read_line(INDEX, line)[0]
    assert [offer.typed for offer in reading.all_lines[0].offers] == [name[1]]
    made, _ = with_names_made(LEVEL, INDEX, reading)
    kinds = {k.name: k.variables for k in made.kinds} | {"level": made.variables}
    assert {v.name: v.value for v in kinds[name[0]]}[name[1]] == value


@pytest.mark.parametrize(
    ("line", "starts"),
    [
        ("set moth.home to (30, 40)", (0.0, 0.0)),
        ("set moth.home to the gate", (0.0, 0.0)),
        ("set moth.home to pointer", (0.0, 0.0)),
        ("set moth.home to the lamp", Reference(kind="Lamp")),
        ("set moth.home to 3", 0.0),
        ('set moth.home to "here"', ""),
        ("set moth.home to yes", False),
    ],
)
def test_a_new_variable_is_of_the_type_of_the_value_that_it_is_set_to(line, starts):
    reading = read_line(INDEX, line)[0]
    assert reading.new_variables(INDEX) == [("Moth", "home", starts)]


@pytest.mark.parametrize(
    ("sort", "old", "new", "kind_", "text"),
    [
        ("kind variable", "aim", "mark", "Moth", "between(Moth.mark, gate, 0.5) + (1, 0)"),
        ("place", "gate", "old gate", "", "between(Moth.aim, old_gate, 0.5) + (1, 0)"),
        ("kind", "Moth", "Night moth", "", "between(Night_moth.aim, gate, 0.5) + (1, 0)"),
    ],
)
def test_a_name_in_a_point_is_renamed(sort, old, new, kind_, text):
    put = c("put_at", who="Lamp", where="between(Moth.aim, gate, 0.5) + (1, 0)")
    built = level(
        rule("put", when=c("level_starts"), do=put),
        kinds=LEVEL.kinds,
        objects=LEVEL.objects,
        places=LEVEL.places,
    )
    changed = rename(built, sort, old, new, kind=kind_)
    assert changed.order[0].do[0].slots["where"] == text
