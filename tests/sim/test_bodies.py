"""Walking, walls, and what is solid: in the ticks of a run."""

from __future__ import annotations

import numpy as np
import pytest

from building import (
    GARDENER,
    START,
    TOUCH,
    add,
    c,
    fired,
    kind,
    level,
    rule,
    run,
    things,
    touching_level,
)
from gatillo.level.model import Area, Circle
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

# motion


def test_turn_and_go_walks_along_where_it_faces():
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60", turning="90"),))
    keys = (("Up", 0.0, 1.0), ("Left", 1.0, 2.0), ("Down", 2.0, 3.0))
    made = run(level(kinds=(walker,), objects=things("Gardener", (0, 0)), keys=keys, seconds=4.0))
    end = made.world
    assert (end.x[0], end.y[0], end.angle[0]) == pytest.approx((59, -60, 90), abs=1.01)
    assert end.vx[0] == end.vy[0] == 0


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_walking_goes_equally_far_at_any_tick_rate(rate):
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60"),))
    made = run(
        level(
            kinds=(walker,),
            objects=things("Gardener", (0, 0)),
            keys=(("Up", 0.5, 1.5),),
            seconds=2.0,
            rate=rate,
        )
    )
    assert made.world.x[0] == pytest.approx(60)


def test_a_movable_object_is_stopped_by_a_fixed_one():
    walker = kind("Gardener", 10, contact="movable", behaviours=(c("steer_by_keys", speed="60"),))
    wall = kind("Wall", box=(10, 100), contact="fixed")
    objects = (*things("Gardener", (0, 0)), *things("Wall", (50, 0), first=5))
    made = run(level(kinds=(walker, wall), objects=objects, keys=(("Up", 0.0, 3.0),), seconds=3.0))
    assert made.world.x[0] == pytest.approx(35)


def test_a_movable_object_slides_along_a_turned_wall():
    walker = kind("Gardener", 10, contact="movable", behaviours=(c("steer_by_keys", speed="60"),))
    wall = kind("Wall", box=(400, 10), contact="fixed")
    from msgspec.structs import replace

    beam = replace(things("Wall", (100, 0), first=5)[0], angle=45.0)
    made = run(
        level(
            kinds=(walker, wall),
            objects=(*things("Gardener", (0, 0)), beam),
            keys=(("Up", 0.0, 3.0),),
            seconds=3.0,
        )
    )
    assert made.world.y[0] > 10
    assert made.world.x[0] < 180


def test_two_movable_objects_part_by_half_each():
    loose = kind("Pot", 10, contact="movable")
    made = run(level(kinds=(loose,), objects=things("Pot", (0, 0), (10, 0))), 1)
    assert made.world.x.tolist() == pytest.approx([-5, 15])


def test_a_kind_without_contact_is_never_touched():
    ghost = kind("Pod", 5, contact="none")
    r = rule("r", when=TOUCH, do=add("level.n"))
    made = run(
        level(
            r,
            has={"n": 0.0},
            kinds=(GARDENER, ghost),
            objects=(*things("Gardener", (0, 0)), *things("Pod", (0, 0), first=5)),
        ),
        2,
    )
    assert fired(made, "r") == []


def test_circles_touch_where_their_edges_meet():
    r = rule("r", when=TOUCH, do=add("level.n"))
    near = run(level(r, has={"n": 0.0}, **touching_level([(15, 0)])), 1)
    far = run(level(r, has={"n": 0.0}, **touching_level([(15.1, 0)])), 1)
    assert (len(fired(near, "r")), len(fired(far, "r"))) == (1, 0)


def test_a_level_without_objects_or_rules_runs():
    made = run(level())
    assert made.done == 60 and made.trace.firings() == []


def test_an_area_shape_may_be_a_circle():
    built = level(
        rule("r", when=START, do=c("create", count="20", kind="Pod", where="pond")),
        places=(Area(name="pond", x=0, y=0, shape=Circle(radius=3)),),
        **touching_level([]),
    )
    world = run(built, 1).world
    assert (np.hypot(world.x, world.y) <= 3).all()


def test_a_run_can_be_stopped_between_ticks():
    built = level(seconds=10)
    made = Run(Program(built), built.trials[0])
    seen = iter([False, False, False, True])
    assert made.advance(stop=lambda: next(seen)) == 3
    assert made.done == 3


def test_a_contact_is_felt_beside_an_occasion_that_is_looked_at_in_every_tick():
    either = rule(
        "either",
        when=[c("variable_changes", variable="level.n"), c("begins_to_touch", a="Gardener", b="Pod")],
        do=c("send_message", message="m"),
    )
    made = run(level(either, has={"n": 0.0}, **touching_level([(0, 0)])), 5)
    assert [tick for tick, _ in fired(made, "either")] == [1]
