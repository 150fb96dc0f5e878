"""A point wherever a place is asked for: formulas of points, variables that hold one, and lines and behaviours that go there."""

from __future__ import annotations

import cmath
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, kind, level, rule, run, things
from gatillo.files.level_file import decode_level, file_bytes
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.watching import follow
from gatillo.level.model import Area, Object, Rectangle, Route, Spot, Stop
from gatillo.level.roles import Index
from gatillo.sim.collision.raycast import clear_to, clear_views
from gatillo.sim.program.program import Program
from gatillo.sim.world.world import World

MOTH = kind("Moth", has={"aim": (0.0, 0.0)})
LAMP = kind("Lamp")
PLACES = (
    Spot(name="gate", x=20, y=10),
    Area(name="yard", x=100, y=100, shape=Rectangle(width=40, height=40)),
    Route(name="way", stops=(Stop(x=0, y=0), Stop(x=30, y=0), Stop(x=30, y=10))),
)
coordinates = st.floats(-1e6, 1e6).map(lambda x: round(x, 3))


def yard(*rules, moths=((0.0, 0.0),), lamps=((50.0, 0.0),), has=None, **more):
    return level(
        *rules,
        kinds=(MOTH, LAMP, *more.pop("kinds", ())),
        objects=(*things("Moth", *moths), *things("Lamp", *lamps, first=100)),
        places=PLACES,
        has={"goal": (3.0, -4.0), "n": 2.0, **(has or {})},
        **more,
    )


def value_of(text, built=None):
    made = run(built or yard(), ticks=0)
    return follow(made, [compile_formula(made.program.index, text)])[0][0]


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("(30, 40)", 30 + 40j),
        ("point(1 + 1, 2 * 3)", 2 + 6j),
        ("level.goal", 3 - 4j),
        ("level.goal + (1, 1)", 4 - 3j),
        ("level.goal - (1, 1)", 2 - 5j),
        ("-level.goal", -3 + 4j),
        ("level.goal * 2", 6 - 8j),
        ("2 * level.goal", 6 - 8j),
        ("level.goal / 2", 1.5 - 2j),
        ("gate + (0, 5)", 20 + 15j),
        ("yard - gate", 80 + 90j),
        ("Lamp_1 + (0, 5)", 50 + 5j),
        ("between(Lamp_1, gate, 0.5)", 35 + 5j),
        ("offset(gate, 90, 5)", 20 + 15j),
        ("ahead(Lamp_1, 7)", 57 + 0j),
        ("along(way, 0)", 0j),
        ("along(way, 0.5)", 20 + 0j),
        ("along(way, 0.875)", 30 + 5j),
        ("along(way, 7)", 30 + 10j),
        ("if(level.n > 1, gate, (0, 0))", 20 + 10j),
        ("level.goal.x", 3.0),
        ("along(way, 0.5).x", 20.0),
        ("distance(level.goal, (0, 0))", 5.0),
        ("direction((0, 0), (0, 9))", 90.0),
        ("level.goal = (3, -4)", True),
        ("gate = (20, 10)", True),
        ("gate <> (20, 10)", False),
        ("text(level.goal)", "(3, -4)"),
        ('join("at ", (1.5, 2))', "at (1.5, 2)"),
    ],
)
def test_a_formula_of_points_gives_what_it_says(text, wanted):
    assert value_of(text) == wanted


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("level.goal.z", "a point has x and y only"),
        ("level.n.x", "which has no “x”"),
        ("level.goal * level.goal", "multiplied or divided by a number"),
        ("1 / level.goal", "multiplied or divided by a number"),
        ("level.goal < (1, 1)", "can only be compared with = or <>"),
        ("level.goal + 1", "needs a point"),
        ("along(gate, 0.5)", "is not a route"),
        ("sqrt(level.goal)", "needs a number"),
    ],
)
def test_what_makes_no_sense_of_a_point_is_refused(text, says):
    with pytest.raises(FormulaError) as refused:
        compile_formula(Index(yard()), text)
    assert says in refused.value.message


@given(coordinates, coordinates, coordinates, coordinates, st.floats(0, 1))
def test_sums_and_shares_of_points_are_those_of_their_coordinates(ax, ay, bx, by, share):
    built = yard(has={"a": (ax, ay), "b": (bx, by), "share": share})
    assert value_of("level.a + level.b", built) == complex(ax + bx, ay + by)
    assert value_of("level.a - level.b", built) == complex(ax - bx, ay - by)
    between = value_of("between(level.a, level.b, level.share)", built)
    assert between == complex(ax + (bx - ax) * share, ay + (by - ay) * share)


def test_each_mover_goes_to_a_goal_of_its_own():
    aim = rule(
        "aim", when=START, do=c("set_variable", variable="Moth.aim", value="(Moth.x * 2, random(20, 40))")
    )
    go = rule("go", when=EVERY_TICK, do=c("move_toward", who="Moth", where="Moth.aim", speed="120"))
    made = run(yard(aim, go, moths=((10, 0), (20, 5), (-30, 9)), seconds=2))
    world = made.world
    rows = world.rows_of_kind(0)
    aims = world.variables["aim/point"][rows]
    assert len(set(aims.tolist())) == 3
    assert np.allclose(world.x[rows] + 1j * world.y[rows], aims)


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_behaviour_that_goes_to_a_point_by_a_formula_comes_as_far_as_its_speed_says(rate):
    """Its own kind's name stands for itself, so that each has a goal of its own."""
    bee = kind(
        "Bee",
        has={"home": (60.0, 80.0)},
        behaviours=[
            c("go_to_goal", goal="Bee.home", speed="50", gap="0", facing="facing the way it goes"),
        ],
    )
    built = yard(kinds=(bee,), rate=rate)
    built = replace_objects(built, (*built.objects, *things("Bee", (0, 0), first=300)))
    world = run(built).world
    row = world.row_of_id(300)
    assert math.isclose(world.x[row], 30.0) and math.isclose(world.y[row], 40.0)


def replace_objects(built, objects):
    return replace(built, objects=objects)


def test_things_are_created_put_and_faced_at_points():
    do = [
        c("create", count="2", kind="Lamp", where="Moth_1 + (0, 7)"),
        c("put_at", who="Lamp 1", where="between(gate, level.goal, 0)"),
        c("face", who="Moth", where="Moth + (0, 5)"),
    ]
    world = run(yard(rule("once", when=START, do=do)), ticks=2).world
    lamps = world.rows_of_kind(1)
    assert (world.x[lamps] + 1j * world.y[lamps]).tolist() == [20 + 10j, 7j, 7j]
    assert world.angle[0] == 90


def test_a_condition_measures_from_a_point():
    near = rule(
        "near",
        when=EVERY_TICK,
        if_=c("within", who="Moth", where="Moth.aim + (3, 4)", distance="5"),
        do=c("add_to", amount="1", variable="level.n"),
    )
    built = yard(near, moths=((0, 0), (90, 0)))
    assert run(built, ticks=1).world.level["n"] == 3


def test_a_point_without_an_answer_is_told_and_its_match_left_out():
    put = rule("put", when=START, do=c("put_at", who="Moth", where="(1 / (Moth.x - 10), 3)"))
    made = run(yard(put, moths=((10, 0), (20, 0))), ticks=2)
    assert [(f.count, "divides by zero" in f.sentence) for f in made.trace.faults] == [(1, True)]
    assert made.world.x[:2].tolist() == [10.0, 0.1]


def test_a_behaviour_whose_point_has_no_answer_stays_where_it_is_and_says_so():
    bee = kind(
        "Bee",
        behaviours=[
            c("go_to_goal", goal="(1 / level.zero, 0)", speed="50", gap="0", facing="keeping its facing")
        ],
    )
    built = yard(kinds=(bee,), has={"zero": 0.0})
    made = run(replace_objects(built, things("Bee", (5, 6))), ticks=3)
    assert (made.world.x[0], made.world.y[0]) == (5, 6)
    assert len(made.trace.faults) == 3 and "Bee, “go to goal”" in made.trace.faults[0].sentence


@pytest.mark.parametrize("where", ["gate", "gate + (0, 0)", "level.hub"])
def test_one_circles_around_a_place_as_around_an_object_that_stands_there(where):
    def circling(about):
        bee = kind(
            "Bee",
            behaviours=[
                c("circle_around", centre=about, radius="10", speed="90", start="0", spread="evenly spread")
            ],
        )
        built = yard(kinds=(bee,), lamps=((20, 10),), has={"hub": (20.0, 10.0)})
        built = replace_objects(
            built, (*things("Lamp", (20, 10), first=100), *things("Bee", (0, 0), (0, 1), first=300))
        )
        world = run(built).world
        rows = world.rows_of_kind(2)
        return np.concatenate((world.x[rows], world.y[rows]))

    assert np.array_equal(circling(where), circling("Lamp"))


def test_a_flock_is_drawn_to_a_place_and_keeps_away_from_one():
    def drawn(by, target):
        bee = kind(
            "Bee",
            behaviours=[
                c("flock", others="Bee", speed="50", acceleration="200"),
                c(by, target=target, radius="500", weight="2"),
            ],
        )
        built = yard(kinds=(bee,), seconds=2)
        built = replace_objects(
            built, (*things("Lamp", (20, 10), first=100), *things("Bee", (0, 0), (80, 40), first=300))
        )
        world = run(built).world
        return world.x.tolist(), world.y.tolist()

    for by in ("be_drawn", "keep_away"):
        assert np.allclose(drawn(by, "gate"), drawn(by, "Lamp"))
        assert np.allclose(drawn(by, "gate + (0, 0)"), drawn(by, "Lamp"))


@given(coordinates, coordinates)
def test_a_variable_with_a_point_is_saved_and_opened_again(x, y):
    built = yard(has={"p": (x, y)})
    opened = decode_level(file_bytes(built))
    assert next(v.value for v in opened.variables if v.name == "p") == (x, y)


def test_a_value_of_another_type_is_a_problem():
    wrong = rule("wrong", when=START, do=c("set_variable", variable="level.goal", value="3"))
    assert ["a point is needed here" in p.message for p in Program(yard(wrong)).problems] == [True]


def test_a_run_with_points_is_the_same_again_and_can_be_looked_at_anywhere():
    move = rule(
        "move",
        when=EVERY_TICK,
        do=c("set_variable", variable="level.goal", value="level.goal + (1, 2) * dt"),
    )
    made = run(yard(move))
    assert made.trace.digest() == run(yard(move)).trace.digest()
    assert cmath.isclose(made.world.level["goal"], 4 - 2j)
    half = made.world_at(made.end_of(30)).level["goal"]
    assert cmath.isclose(half, 3.5 - 3j)
    assert run(yard(move), ticks=30).world.level["goal"] == half


@given(st.integers(0, 10_000), st.integers(1, 12))
@settings(max_examples=60, deadline=None)
def test_a_clear_view_of_a_point_is_that_of_an_object_without_contact_there(seed, walls):
    chance = np.random.default_rng(seed)

    def anywhere(kind_, many, first):
        return [
            Object(
                id=first + at,
                kind=kind_,
                name=f"{kind_} {at}",
                x=float(chance.integers(-80, 80)),
                y=float(chance.integers(-80, 80)),
                angle=float(chance.choice([0.0, 90.0, chance.uniform(-180, 180)])),
            )
            for at in range(many)
        ]

    lv = level(
        kinds=(
            kind("Eye", 3, contact="none"),
            kind("Goal", 3, contact="none"),
            kind("Wall", box=(30, 8), contact="fixed"),
            kind("Post", 9, contact="fixed"),
        ),
        objects=(
            *anywhere("Eye", 6, 1),
            *anywhere("Goal", 6, 20),
            *anywhere("Wall", walls, 40),
            *anywhere("Post", 3, 80),
        ),
    )
    world = World(Program(lv))
    eyes, goals = np.repeat(np.arange(6), 6), np.tile(np.arange(6, 12), 6)
    by_object = clear_views(world, eyes, goals)
    assert clear_to(world, eyes, world.x[goals], world.y[goals]).tolist() == by_object.tolist()


def test_a_view_of_a_point_by_a_formula_is_a_condition_in_a_rule():
    see = rule("see", if_=c("clear_view_to", a="Eye", where="between(Eye, Goal, 0.5)"), do=add("level.n"))
    lv = level(
        see,
        kinds=(kind("Eye", 3), kind("Goal", 3), kind("Wall", box=(4, 30), contact="fixed")),
        objects=(
            *things("Eye", (0, 0)),
            *things("Goal", (60, 0), first=5),
            *things("Wall", (45, 0), first=9),
        ),
        has={"n": 0.0},
    )
    assert run(lv, 3).world.level["n"] == 3
    assert (
        run(replace(lv, objects=(*lv.objects[:2], replace(lv.objects[2], x=20.0))), 3).world.level["n"] == 0
    )
