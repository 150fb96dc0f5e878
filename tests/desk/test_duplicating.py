"""Ctrl+D copies whatever is selected: kinds, places, trials and variants too, each under the next free name."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import START, add, c, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.model import Area, Circle, Route, Spot, Stop, Trial, Variant


@pytest.fixture
def window(open_window):
    built = level(
        rule("r", when=START, do=add("level.n"), id=1),
        kinds=(
            kind("Moth", has={"thirst": 3.0}, behaviours=(c("spin", speed="30", about="in the plane"),)),
            kind("Lamp"),
        ),
        objects=things("Moth", (0, 0)),
        places=(
            Spot(name="gate", x=5, y=6),
            Area(name="yard", x=0, y=0, shape=Circle(radius=9.0)),
            Route(name="round", stops=(Stop(x=0, y=0), Stop(x=9, y=9))),
        ),
        variants=(Variant(name="Dry", values={"n": 3.0}),),
        has={"n": 0.0},
    )
    window = open_window(
        replace(built, trials=(*built.trials, Trial(name="Another", length=2.0, watches=("level.n",))))
    )
    yield window


def copied(window, sort, name):
    window.bench.select(Selection(thing=Thing(sort, name)))
    window.actions_["duplicate"].trigger()
    chosen = window.bench.selection.thing
    assert chosen is not None and chosen.sort == sort
    return chosen.name


def test_a_kind_is_copied_with_all_that_it_has_but_its_objects(window):
    assert copied(window, "kind", "Moth") == "Moth 2"
    kinds = {k.name: k for k in window.bench.level.kinds}
    assert list(kinds) == ["Moth", "Moth 2", "Lamp"]
    assert kinds["Moth 2"].variables == kinds["Moth"].variables
    assert kinds["Moth 2"].behaviours == kinds["Moth"].behaviours
    assert [o.kind for o in window.bench.level.objects] == ["Moth"]


@pytest.mark.parametrize(("name", "copy"), [("gate", "gate 1"), ("yard", "yard 1"), ("round", "round 1")])
def test_a_place_is_copied_beside_it(window, name, copy):
    assert copied(window, "place", name) == copy
    places = {p.name: p for p in window.bench.level.places}
    old, new = places[name], places[copy]
    at = [(p.stops[0].x, p.stops[0].y) if isinstance(p, Route) else (p.x, p.y) for p in (old, new)]
    assert (at[1][0] - at[0][0], at[1][1] - at[0][1]) == (20, -20)


def test_a_trial_and_a_variant_are_copied_and_undo_takes_each_back(window):
    assert copied(window, "trial", "Another") == "Another 1"
    assert window.bench.level.trials[2].watches == ("level.n",)
    assert copied(window, "variant", "Dry") == "Dry 1"
    assert window.bench.level.variants[1].values == {"n": 3.0}
    window.bench.document.undo()
    window.bench.document.undo()
    assert [t.name for t in window.bench.level.trials] == ["trial", "Another"]
    assert [v.name for v in window.bench.level.variants] == ["Dry"]
