"""Solid bodies: falling, bouncing, sliding, resting, and never passing through a wall."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import START, c, kind, level, rule, run, things
from gatillo.level.model import Input, Settings
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

G = 600.0


def yard(
    *,
    balls=(),
    boxes=(),
    floors=((0.0, -10.0),),
    gravity=G,
    rate=60,
    seconds=3.0,
    order=(),
    ball=None,
    box=None,
):
    """Balls (radius 10) and boxes (20 × 20) over floors (2000 × 20), seen from the side."""
    return level(
        *order,
        kinds=(
            kind("Ball", 10, contact="movable", **(ball or {})),
            kind("Box", box=(20, 20), contact="movable", **(box or {})),
            kind("Floor", box=(2000, 20), contact="fixed"),
            kind("Wall", box=(4, 400), contact="fixed"),
        ),
        objects=(
            *things("Ball", *balls),
            *things("Box", *boxes, first=100),
            *things("Floor", *floors, first=900),
        ),
        seconds=seconds,
        settings=Settings(rate=rate, gravity=gravity),
    )


def heights(made, row=0):
    return np.array([made.world_at(made.end_of(t)).y[row] for t in range(1, made.done + 1)])


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_free_fall_is_the_parabola_at_every_tick_rate(rate):
    go = rule("go", when=START, do=c("set_velocity", who="Ball", dx="50", dy="200"))
    made = run(yard(balls=((0, 1000),), floors=(), order=(go,), rate=rate, seconds=2.0))
    t = 2.0 - 1 / rate
    fallen = G / rate**2 / 2
    assert made.world.x[0] == pytest.approx(50 * t)
    assert made.world.y[0] == pytest.approx(1000 - fallen + 200 * t - G * t * t / 2, abs=1e-6)


def test_what_does_not_bounce_lies_still_on_the_floor():
    made = run(yard(balls=((0, 40),), boxes=((60, 35),)))
    later = made.world_at(made.end_of(120))
    assert made.world.y[:2] == pytest.approx([10, 10], abs=1e-6)
    assert (made.world.x[0], made.world.y[0]) == (later.x[0], later.y[0]), "it does not creep"
    assert made.world.grounded[:2].all()
    assert not made.world.grounded[2]


@pytest.mark.parametrize("bounce", [0.3, 0.6, 0.9])
def test_each_bounce_takes_its_part_of_the_speed(bounce):
    made = run(yard(balls=((0, 110),), ball={"bounce": bounce}, seconds=6.0, rate=120))
    ups = heights(made)
    peaks = [ups[i] - 10 for i in range(1, len(ups) - 1) if ups[i - 1] < ups[i] >= ups[i + 1] and ups[i] > 11]
    # the height goes with the square of the speed
    assert peaks[0] == pytest.approx(100 * bounce**2, rel=0.02, abs=0.3)
    if bounce > 0.5:
        assert peaks[1] == pytest.approx(100 * bounce**4, rel=0.04, abs=0.3)


def test_a_bounce_is_the_same_at_every_tick_rate():
    ends = []
    for rate in (30, 60, 120):
        go = rule("go", when=START, do=c("push", who="Ball", dx="80"))
        made = run(yard(balls=((0, 160),), ball={"bounce": 0.7}, order=(go,), rate=rate, seconds=2.0))
        ends.append(
            [(w.x[0], w.y[0]) for w in (made.world_at(made.end_of(round(t * rate))) for t in (0.8, 1.2, 1.6))]
        )
    across, up = np.abs(np.array(ends) - np.array(ends[2])).max(axis=1).T
    assert up.max() < 1e-6, "the moment at which it hits is worked out, wherever in the tick it lies"
    assert across.max() < 80 / 30, "it is pushed in the first tick, whenever that is"


def test_a_stack_comes_to_rest_and_stays():
    boxes = tuple((0.0, 10.0 + 20.5 * at) for at in range(8))
    made = run(yard(boxes=boxes, seconds=4.0))
    then = made.world_at(made.end_of(120))
    assert made.world.y[:8] == pytest.approx([10 + 20 * at for at in range(8)], abs=0.2)
    np.testing.assert_array_equal(made.world.x[:8], then.x[:8])
    np.testing.assert_array_equal(made.world.y[:8], then.y[:8])
    assert not made.world.vy[:8].any()


def test_a_box_over_two_floors_is_not_thrown_up_by_their_seam():
    made = run(yard(boxes=((0, 12),), floors=((-1000, -10), (1000, -10)), seconds=2.0))
    assert heights(made).max() <= 12 + 1e-9
    assert made.world.y[0] == pytest.approx(10, abs=1e-6)


@settings(max_examples=40, deadline=None)
@given(speed=st.floats(50, 60_000), angle=st.floats(-80, 80), bounce=st.sampled_from([0.0, 0.5, 1.0]))
def test_nothing_passes_through_a_wall_however_fast(speed, angle, bounce):
    built = yard(balls=((0, 0),), floors=(), gravity=0.0, ball={"bounce": bounce}, seconds=1.0)
    walls = (
        *things("Wall", (100, 0), (-100, 0), first=500),
        *things("Floor", (0, 210), (0, -210), first=900),
    )
    go = rule("go", when=START, do=c("launch", who="Ball", angle=f"{angle:.4f}", speed=f"{speed:.4f}"))
    built = replace(built, objects=(*built.objects, *walls), order=(go,))
    made = Run(Program(built), built.trials[0])
    for _ in range(60):
        made.advance(1)
        assert abs(made.world.x[0]) <= 100
        assert abs(made.world.y[0]) <= 210


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_friction_stops_what_slides_seen_from_above_the_same_at_every_rate(rate):
    go = rule("go", when=START, do=c("set_velocity", who="Ball", dx="300", dy="0"))
    made = run(
        yard(
            balls=((0, 0),),
            floors=(),
            gravity=0.0,
            ball={"friction": 0.2},
            order=(go,),
            rate=rate,
            seconds=6.0,
        )
    )
    # all of its way is its speed divided by the rate at which that falls off
    assert made.world.x[0] == pytest.approx(300 / (-10 * math.log(0.8)), rel=1e-3)


def test_without_friction_it_slides_on_and_with_full_friction_it_stops_at_once():
    go = rule("go", when=START, do=c("set_velocity", who="Ball", dx="60", dy="0"))
    for friction, x in ((0.0, 60 * 179 / 60), (1.0, 0.0)):
        made = run(yard(balls=((0, 0),), floors=(), gravity=0.0, ball={"friction": friction}, order=(go,)))
        assert made.world.x[0] == pytest.approx(x, abs=0.1)


def test_a_rule_changes_friction_gravity_and_bounce():
    order = (
        rule("go", when=START, do=c("set_velocity", who="Ball", dx="60", dy="0")),
        rule("mat", when=c("after_start", time="1"), do=c("set_friction", who="Ball", friction="1")),
    )
    made = run(yard(balls=((0, 0),), floors=(), gravity=0.0, order=order))
    assert made.world.x[0] == pytest.approx(60, abs=1.1)
    order = (
        rule("up", when=START, do=[c("set_gravity", who="Ball", gravity="0"), c("stop", who="Ball")]),
        rule("down", when=c("after_start", time="1"), do=c("set_gravity", who="Ball", gravity="600")),
        rule("soft", when=START, do=c("set_bounce", who="Ball", bounce="0")),
    )
    made = run(yard(balls=((0, 100),), ball={"bounce": 0.9}, order=order))
    assert made.world_at(made.end_of(60)).y[0] == pytest.approx(100, abs=0.1)
    assert made.world.y[0] == pytest.approx(10, abs=1e-6), "it did not bounce"


def test_friction_takes_the_sliding_out_of_what_lies_on_a_floor():
    go = rule("go", when=c("after_start", time="0.5"), do=c("set_velocity", who="Box", dx="200", dy="0"))
    slides = run(yard(boxes=((0, 10),), order=(go,), seconds=2.0))
    rubs = run(yard(boxes=((0, 10),), order=(go,), seconds=2.0, box={"friction": 0.5}))
    assert slides.world.x[0] == pytest.approx(300, abs=4)
    assert 10 < rubs.world.x[0] < 60
    assert rubs.world.vx[0] == pytest.approx(0, abs=0.1)


def test_a_light_thing_is_thrown_back_by_a_heavy_one_and_momentum_is_kept():
    built = level(
        rule("go", when=START, do=c("set_velocity", who="Heavy", dx="100", dy="0")),
        kinds=(
            kind("Heavy", 10, contact="movable", mass=3.0, bounce=1.0),
            kind("Light", 10, contact="movable", mass=1.0, bounce=1.0),
        ),
        objects=(*things("Heavy", (0, 0)), *things("Light", (60, 0), first=10)),
        seconds=2.0,
    )
    world = run(built).world
    # an elastic hit in a line: 100 · (3−1)/(3+1) and 100 · 2·3/(3+1)
    assert world.vx == pytest.approx([50, 150], rel=1e-6)


def test_a_steered_object_pushes_a_crate_along():
    built = level(
        kinds=(
            kind("Gardener", 10, contact="movable", behaviours=(c("steer_eight_ways", speed="100"),)),
            kind("Crate", box=(20, 20), contact="movable", friction=0.5),
        ),
        objects=(*things("Gardener", (0, 0)), *things("Crate", (40, 0), first=10)),
        keys=(("Right", 0.0, 1.0),),
        seconds=2.0,
    )
    world = run(built).world
    assert world.x[1] > 80
    assert world.x[1] - world.x[0] >= 20 - 0.5
    assert world.y.tolist() == [0, 0]


def test_running_and_jumping_leaves_the_ground_only_from_the_ground():
    built = yard(seconds=2.0)
    runner = kind(
        "Runner", 10, contact="movable", behaviours=(c("run_and_jump", speed="100", take_off="300"),)
    )
    built = replace(
        built,
        kinds=(*built.kinds, runner),
        objects=(*built.objects, *things("Runner", (0, 10), first=50)),
    )
    built = replace(
        built,
        trials=(
            replace(
                built.trials[0],
                input=level(keys=(("Space", 0.5, 0.6), ("Space", 0.7, 0.8), ("Right", 0.0, 1.0)))
                .trials[0]
                .input,
            ),
        ),
    )
    made = run(built)
    up = heights(made)
    assert up.max() == pytest.approx(10 + 300**2 / (2 * G), abs=3), (
        "the second press, in the air, does nothing"
    )
    # held back for as long as ahead: where it began
    back = (*built.trials[0].input.keys, *level(keys=(("Left", 1.0, 2.0),)).trials[0].input.keys)
    returned = run(replace(built, trials=(replace(built.trials[0], input=Input(keys=back)),)))
    assert returned.world.x[0] == pytest.approx(0, abs=4)
    assert made.world.x[0] == pytest.approx(100, abs=2)
    assert made.world.y[0] == pytest.approx(10, abs=1e-6)


def test_a_carried_thing_does_not_push_its_carrier():
    built = level(
        rule("take", when=START, do=c("attach", who="Pot", carrier="Gardener", how="at its middle")),
        kinds=(
            kind("Gardener", 10, contact="movable", behaviours=(c("steer_eight_ways", speed="60"),)),
            kind("Pot", 8, contact="movable"),
        ),
        objects=(*things("Gardener", (0, 0)), *things("Pot", (30, 0), first=10)),
        keys=(("Right", 0.5, 1.0),),
        seconds=2.0,
    )
    world = run(built).world
    assert world.x[0] == pytest.approx(30, abs=1.1)
    assert (world.x[1], world.y[1]) == (world.x[0], world.y[0])


def test_a_falling_pile_is_the_same_run_twice_and_from_a_keyframe():
    chance = np.random.default_rng(2)
    balls = tuple(map(tuple, np.column_stack((chance.uniform(-300, 300, 60), chance.uniform(20, 600, 60)))))
    built = yard(balls=balls, ball={"bounce": 0.4, "friction": 0.3}, seconds=1.5)
    one, other = run(built), run(built, 40)
    other.advance()
    assert one.world.differs_in(other.world) == []
    replayed = one.world_at(one.end_of(67))
    again = run(built, 67)
    assert replayed.differs_in(again.world) == []
