"""What several roles stand for together is kept over ticks, and forgotten when somebody comes or goes."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import add, c, fired, kind, level, rule, run, things
from gatillo.level.model import Object, Point, Reference, Spot, Variable
from gatillo.sim.collision import proximity as nearness
from gatillo.sim.program.program import Program
from gatillo.sim.world.world import World

PAIRS = rule(
    "pairs", if_=c("compare", left="Moth.x", comparison=">", right="Lamp.x - 1000"), do=add("level.n")
)


def matches(made):
    return dict(fired(made, "pairs"))


def garden(*order, **more):
    return level(
        *order,
        PAIRS,
        kinds=(kind("Moth", 5), kind("Lamp", 5)),
        objects=(*things("Moth", (0, 0), (20, 0), (40, 0)), *things("Lamp", (0, 90), (50, 90), first=50)),
        places=(Spot(name="door", x=0.0, y=0.0),),
        has={"n": 0.0},
        seconds=0.3,
        **more,
    )


def test_a_created_object_is_in_the_pairs_of_the_same_tick():
    more = rule(
        "more", when=c("after_start", time="0.1"), do=c("create", count="2", kind="Moth", where="door")
    )
    found = matches(run(garden(more)))
    assert (found[5], found[6], found[18]) == (6, 10, 10)


def test_a_removed_object_is_in_no_pair_any_more():
    gone = rule("gone", when=c("after_start", time="0.1"), do=c("remove", who="Lamp 1"))
    found = matches(run(garden(gone)))
    assert (found[5], found[6], found[18]) == (6, 3, 3)


def test_two_of_one_sort_are_never_the_same_one():
    two = rule(
        "two", if_=c("compare", left="Moth.x", comparison="<", right="another_Moth.x"), do=add("level.n")
    )
    made = run(garden(two))
    assert {n for _, n in fired(made, "two")} == {3}


def test_what_a_variable_refers_to_is_asked_anew():
    turn = rule(
        "turn", when=c("after_start", time="0.1"), do=c("set_variable", variable="level.goal", value="nobody")
    )
    goal = rule(
        "goal", if_=c("compare", left="goal_of_level.x", comparison=">=", right="0"), do=add("level.n")
    )
    built = garden(turn, goal)
    named = (*built.variables, Variable("goal", Reference("Lamp 1", "Lamp")))
    made = run(replace(built, variables=named))
    assert [t for t, _ in fired(made, "goal")] == [1, 2, 3, 4, 5]


@given(st.integers(0, 10_000), st.integers(1, 30), st.sampled_from([0.0, 15.0, 60.0, 1e6, -1.0]))
@settings(max_examples=60, deadline=None)
def test_one_that_looks_about_finds_what_it_finds_among_several(seed, many, reach):
    chance = np.random.default_rng(seed)
    objects = tuple(
        Object(id=i + 1, kind="Moth", name=f"m{i}", x=float(x), y=float(y))
        for i, (x, y) in enumerate(chance.uniform(-50, 50, (many, 2)))
    )
    world = World(Program(level(kinds=(kind("Moth", 5),), objects=objects)))
    rows = np.arange(many)
    at, near, more = nearness.within_reach(world, np.array([0, 0]), rows, reach, 10_000)
    alone_at, alone, alone_more = nearness.within_reach(world, np.array([0]), rows, reach, 10_000)
    assert not more and not alone_more
    assert alone.tolist() == near[at == 0].tolist()
    assert set(alone_at.tolist()) <= {0}


@pytest.mark.parametrize("most", [0, 3])
def test_more_than_may_be_found_are_told(most):
    objects = things("Moth", *((float(i), 0.0) for i in range(9)))
    world = World(Program(level(kinds=(kind("Moth", 5),), objects=objects)))
    at, near, more = nearness.within_reach(world, np.array([0]), np.arange(9), 100.0, most)
    assert more
    assert len(at) == len(near) == most + 1


@pytest.mark.parametrize("brings", [True, False])
def test_a_named_point_may_lie_far_from_the_middle_of_its_object(brings):
    crane = kind("Crane", 5, points=(Point(name="hook", x=80, y=0),))
    built = level(
        rule(
            "under it",
            when=c("each_in_every_tick", who="Pod") if brings else (),
            if_=c("within", who="Pod", distance="10", where="hook of Crane"),
            do=add("level.n"),
        ),
        kinds=(kind("Pod", 5), crane),
        objects=(*things("Pod", (85, 0), (200, 0)), *things("Crane", (0, 0), first=10)),
        has={"n": 0.0},
    )
    made = run(built, 3)
    assert made.world.level["n"] == 3.0
