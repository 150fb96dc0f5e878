"""Behaviours: where they take an object, what they tell, and that the tick rate does not matter."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, kind, level, rule, run, send, things
from gatillo.level.model import Area, PointerMove, Rectangle, Route, Spot, Stop
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

RATES = (30, 60, 120)
YARD = Area(name="yard", x=200, y=100, shape=Rectangle(width=200, height=120))
ROUND = Route(
    name="round",
    stops=(Stop(x=100, y=0), Stop(x=100, y=80, pause=0.3), Stop(x=20, y=80)),
)
PLACES = (YARD, ROUND, Spot(name="gate", x=150, y=60))


def moving(
    *behaviours, at=((0.0, 0.0),), order=(), others=(), rate=60, seconds=3.0, keys=(), pointer=(), **more
):
    """A level with movers that have behaviours, and lamps."""
    built = level(
        *order,
        kinds=(
            kind("Mover", 5, behaviours=tuple(behaviours), contact=more.pop("contact", "sensed")),
            kind("Lamp", 5),
        ),
        places=PLACES,
        objects=(*things("Mover", *at), *things("Lamp", *others, first=50)),
        has={"n": 0.0},
        keys=keys,
        seconds=seconds,
        rate=rate,
        **more,
    )
    moves = tuple(PointerMove(at=t, x=x, y=y) for t, x, y in pointer)
    trial = built.trials[0]
    return replace(built, trials=(replace(trial, input=replace(trial.input, pointer=moves)),))


def path(built, every=0.5):
    """Where the first object is after each half second: x, y, facing; shape (times, 3)."""
    made = run(built)
    world = made.world
    step = round(every * built.settings.rate)
    poses = []
    for tick in range(step, made.done + 1, step):
        world = made.world_at(made.end_of(tick))
        poses.append((world.x[0], world.y[0], world.angle[0]))
    return np.array(poses)


def arrivals(made, name="r"):
    return [tick for tick, _ in fired(made, name)]


def told(when):
    return rule("r", when=when, do=add("level.n"))


# the tick rate

KEYS = (("Up", 0.2, 1.4), ("Left", 0.6, 1.1), ("Right", 1.5, 2.0), ("Space", 0.5, 0.7))
CASES = {
    # a key acts in the tick in which it goes down: no more than one tick's way between the rates
    "steer by keys": ([c("steer_by_keys")], {}, 4.1),
    "eight ways": ([c("steer_eight_ways", facing="keeping its facing")], {}, 4.1),
    "goal": ([c("go_to_goal", goal="gate", speed="70")], {}, 1e-6),
    "goal in an area": ([c("go_to_goal", goal="yard", speed="70")], {}, 1e-6),
    "chase": ([c("chase", target="Lamp", gap="12")], {"others": ((90, 50),)}, 1e-6),
    "wander": ([c("wander", where="yard", speed="130", pause="0.2")], {}, 1e-6),
    "walk": ([c("walk_route", route="round", speed="90")], {}, 1e-6),
    "walk there and back": ([c("walk_route", route="round", speed="150", how="there and back")], {}, 1e-6),
    "ride": ([c("walk_route_timed", route="round", time="0.7", easing="easing in and out")], {}, 1e-6),
    "circle": ([c("circle_around", centre="Lamp", radius="40", speed="70")], {"others": ((20, 20),)}, 1e-6),
    "spin": ([c("spin", speed="133")], {}, 1e-6),
    "flock": ([c("flock", others="Mover")], {"at": ((0, 0), (20, 5), (8, 26))}, 4.0),
    "drawn": (
        [c("be_drawn", target="Lamp"), c("flock", others="Mover")],
        {"others": ((200, 30),)},
        3.0,
    ),
    "keep away": (
        [c("keep_away", target="Lamp", radius="90"), c("flock", others="Mover")],
        {"others": ((30, 10),)},
        3.0,
    ),
    "fall": ([c("fall_and_bounce", gravity="300", slowing="0.4")], {}, 1e-6),
    "trail": ([c("trail", leader="Lamp", lag="0.4")], {"others": ((90, 10),)}, 1e-6),
    "keep facing": ([c("keep_facing", target="Lamp", speed="100")], {"others": ((-50, 10),)}, 1e-6),
    "dragged": (
        [c("be_dragged", sensitivity="0.5")],
        {"keys": (("pointer left", 0.5, 1.5),), "pointer": ((0, 1, 1), (1, 60, 20), (2, 90, 90))},
        1e-6,
    ),
}


@pytest.mark.parametrize("name", CASES)
def test_a_behaviour_takes_the_same_path_at_every_tick_rate(name):
    behaviours, more, tolerance = CASES[name]
    more = {"keys": KEYS, **more}
    paths = [path(moving(*behaviours, rate=rate, **more)) for rate in RATES]
    assert np.abs(paths[1][:, :2]).sum() + np.abs(paths[1][:, 2]).sum() > 5, "it does something at all"
    for other in (paths[0], paths[2]):
        np.testing.assert_allclose(other, paths[1], atol=tolerance)


@settings(max_examples=25, deadline=None)
@given(
    x=st.floats(-200, 200),
    y=st.floats(-200, 200),
    speed=st.floats(1, 400),
    gap=st.floats(0, 60),
)
def test_nothing_that_goes_to_a_goal_ever_goes_past_it_or_jitters(x, y, speed, gap):
    built = moving(
        c("go_to_goal", goal="gate", speed=f"{speed:.3f}", gap=f"{gap:.3f}"), at=((x, y),), seconds=2.0
    )
    made = Run(Program(built), built.trials[0])
    before = math.hypot(x - 150, y - 60)
    stood = None
    for _ in range(120):
        made.advance(1)
        away = math.hypot(made.world.x[0] - 150, made.world.y[0] - 60)
        assert away <= before + 1e-9
        assert away >= min(before, gap) - 1e-3
        if stood is not None:
            assert (made.world.x[0], made.world.y[0]) == pytest.approx(stood, abs=1e-9)
        if away <= gap + 1e-3:
            stood = made.world.x[0], made.world.y[0]
        before = away


@settings(max_examples=15, deadline=None)
@given(speed=st.floats(20, 300), how=st.sampled_from(["in a loop", "there and back", "once"]))
def test_a_route_is_walked_alike_at_every_tick_rate_whatever_the_speed(speed, how):
    paths = [
        path(moving(c("walk_route", route="round", speed=f"{speed:.3f}", how=how), rate=rate))
        for rate in RATES
    ]
    np.testing.assert_allclose(paths[0][:, :2], paths[1][:, :2], atol=1e-5)
    np.testing.assert_allclose(paths[2][:, :2], paths[1][:, :2], atol=1e-5)


# goals and targets


def test_arriving_at_a_goal_is_told_once():
    made = run(
        moving(c("go_to_goal", goal="gate", speed="200"), order=(told(c("arrives_at_goal", who="Mover")),))
    )
    away = math.hypot(150, 60)
    assert arrivals(made) == [math.ceil(away / 200 * 60)]
    assert (made.world.x[0], made.world.y[0]) == (150, 60)
    assert made.world.vx[0] == made.world.vy[0] == 0


def test_it_arrives_anew_when_its_goal_has_moved_off():
    built = moving(
        c("chase", target="Lamp", speed="300", gap="10"),
        others=((60, 0),),
        order=(
            rule("off", when=c("after_start", time="1"), do=c("put_at", who="Lamp", where="gate")),
            told(c("arrives_at_goal", who="Mover")),
        ),
    )
    assert len(arrivals(run(built))) == 2


def test_it_arrives_again_when_it_was_pushed_off_and_not_when_it_was_only_nudged():
    def arrivals_after(push):
        built = moving(
            c("go_to_goal", goal="gate", speed="30"),
            at=((140, 60),),
            order=(
                rule("off", when=c("after_start", time="1"), do=c("move_by", who="Mover", dx=push, dy="0")),
                told(c("arrives_at_goal", who="Mover")),
            ),
        )
        return len(arrivals(run(built)))

    assert [arrivals_after(push) for push in ("0.9", "1.1", "-40")] == [1, 2, 2]


@pytest.mark.parametrize(
    "hunts", [c("chase", target="Lamp", speed="300"), c("go_to_goal", goal="Lamp", speed="300")]
)
@pytest.mark.parametrize(
    "walks",
    [
        c("walk_route", route="way", speed="120"),
        c("walk_route_timed", route="way", time="0.1"),
        c("wander", where="yard", speed="120"),
        c("steer_eight_ways", speed="120"),
    ],
)
def test_what_is_after_something_aims_at_where_it_will_stand_from_the_first_tick_on(hunts, walks):
    way = Route(name="way", stops=(Stop(x=200, y=0), Stop(x=203, y=0), Stop(x=203, y=200)))
    built = level(
        kinds=(
            kind("Lamp", 2, contact="none", behaviours=(walks,)),
            kind("Mover", 2, contact="none", behaviours=(hunts,)),
        ),
        objects=(*things("Lamp", (200, 0)), *things("Mover", (0, 150), first=9)),
        places=(way, Area(name="yard", x=200, y=0, shape=Rectangle(width=200, height=200))),
        keys=(("Right", 0, 1),),
    )
    made = run(built, 0)
    for _ in range(12):
        x, y = made.world.x[1], made.world.y[1]
        made.advance(1)
        way_x, way_y = made.world.x[1] - x, made.world.y[1] - y
        to_x, to_y = made.world.x[0] - x, made.world.y[0] - y
        assert way_x * to_y - way_y * to_x == pytest.approx(0, abs=1e-9 * math.hypot(to_x, to_y))


def test_a_route_is_walked_whatever_other_behaviour_would_drive_its_walker():
    built = moving(c("walk_route", route="round", speed="120"))
    mover = built.kinds[0]
    both = replace(mover, behaviours=(*mover.behaviours, c("go_to_goal", goal="gate", speed="200")))
    twice = replace(built, kinds=(both, *built.kinds[1:]))
    alone, with_a_goal = run(built, 30), run(twice, 30)
    assert (with_a_goal.world.x[0], with_a_goal.world.y[0]) == (alone.world.x[0], alone.world.y[0])


def test_with_nobody_to_chase_it_stands_still_and_goes_on_when_there_is_somebody():
    built = moving(
        c("chase", target="Lamp", speed="60"),
        order=(rule("come", when=c("after_start", time="1"), do=c("create", kind="Lamp", where="gate")),),
    )
    made = run(built, 60)
    assert (made.world.x[0], made.world.y[0]) == (0, 0)
    made.advance(30)
    assert made.world.x[0] > 10


def test_each_chases_the_nearest_and_never_itself():
    made = run(moving(c("chase", target="another Mover", speed="30"), at=((0, 0), (50, 0), (400, 0))), 30)
    assert np.round(made.world.x).tolist() == [15, 35, 385]


def test_wandering_stays_in_its_area_rests_and_tells_each_point():
    built = moving(
        c("wander", where="yard", speed="200", pause="0.5"),
        at=((200, 100),),
        order=(told(c("arrives_at_goal", who="Mover")),),
        seconds=20.0,
    )
    made = run(built)
    found = arrivals(made)
    assert len(found) > 8
    for tick in found:
        here, later = (made.world_at(made.end_of(t)) for t in (tick, tick + 25))
        assert (here.x[0], here.y[0]) == pytest.approx((later.x[0], later.y[0]), abs=1e-9)
        assert abs(here.x[0] - 200) <= 100
        assert abs(here.y[0] - 100) <= 60


def test_two_that_wander_do_not_go_the_same_way():
    made = run(moving(c("wander", where="yard", speed="200"), at=((200, 100), (200, 100))))
    assert math.hypot(*np.diff(made.world.x), *np.diff(made.world.y)) > 5


# routes


def test_stops_of_a_route_are_told_by_number_and_its_end_once():
    order = (
        rule("second", when=c("arrives_at_stop", who="Mover", stop="2"), do=add("level.n")),
        rule("any", when=c("arrives_at_any_stop", who="Mover"), do=add("level.n")),
        rule("end", when=c("arrives_at_end", who="Mover"), do=add("level.n")),
    )
    made = run(moving(c("walk_route", route="round", speed="100", how="once"), order=order, seconds=5.0))
    # 100 units to the first stop, 80 to the second and 0.3 s of rest, 80 to the third
    assert [t for t, _ in fired(made, "any")] == [60, 108, 174]
    assert [t for t, _ in fired(made, "second")] == [108]
    assert [t for t, _ in fired(made, "end")] == [174]
    assert (made.world.x[0], made.world.y[0], made.world.vx[0]) == (20, 80, 0)


def test_a_route_without_stops_leads_nowhere():
    built = moving(c("walk_route", route="round"))
    built = replace(built, places=(YARD, replace(ROUND, stops=()), PLACES[2]))
    made = run(built)
    assert (made.world.x[0], made.world.y[0]) == (0, 0)


def test_a_rule_sends_an_object_along_a_route_and_stop_ends_it():
    order = (
        rule("go", when=START, do=c("send_along", who="Mover", route="round", speed="100")),
        rule("halt", when=c("after_start", time="1.2"), do=c("stop", who="Mover")),
    )
    made = run(moving(order=order))
    assert (made.world.x[0], made.world.y[0]) == pytest.approx((100, 20), abs=2)


def test_one_sent_along_another_route_leaves_its_own():
    other = Route(name="out", stops=(Stop(x=-50, y=0),))
    built = moving(
        c("walk_route", route="round", speed="50"),
        order=(rule("go", when=c("after_start", time="0.5"), do=c("send_along", who="Mover", route="out")),),
    )
    made = run(replace(built, places=(*built.places, other)))
    assert (made.world.x[0], made.world.y[0]) == (-50, 0)


def test_a_timed_leg_takes_its_time_however_far_it_is():
    order = (
        rule(
            "go",
            when=START,
            do=c("send_along_timed", who="Mover", route="round", time="0.5", easing="easing in and out"),
        ),
        told(c("arrives_at_any_stop", who="Mover")),
    )
    # sent in tick 1; the second stop's pause of 0.3 s comes between
    assert arrivals(run(moving(order=order))) == [31, 61, 109]


def test_a_walk_is_held_up_while_it_is_switched_off():
    order = (
        rule(
            "off",
            when=c("after_start", time="0.5"),
            do=c("switch_behaviour_off", behaviour="walk route", who="Mover"),
        ),
        rule(
            "on",
            when=c("after_start", time="1.5"),
            do=c("switch_behaviour_on", behaviour="walk route", who="Mover"),
        ),
    )
    made = run(moving(c("walk_route", route="round", speed="60"), order=order))
    assert made.world_at(made.end_of(80)).x[0] == pytest.approx(30, abs=1e-6)
    assert made.world.x[0] == pytest.approx(100)
    assert made.world.y[0] == pytest.approx(20, abs=1e-6)


# circling and turning


def test_those_on_one_circle_are_evenly_spread_and_close_up_when_one_goes():
    built = moving(
        c("circle_around", centre="Lamp", radius="50", speed="0"),
        at=((0, 0),) * 4,
        others=((100, 0),),
        order=(rule("go", when=c("after_start", time="1"), do=c("remove", who="Mover 2")),),
    )
    made = run(built)
    before = made.world_at(made.end_of(30))
    angles = np.degrees(np.arctan2(before.y[:4], before.x[:4] - 100)) % 360
    assert angles == pytest.approx([0, 90, 180, 270])
    after = made.world
    left = after.alive & (after.kind == 0)
    angles = np.degrees(np.arctan2(after.y[left], after.x[left] - 100)) % 360
    assert angles == pytest.approx([0, 120, 240])


def test_the_circle_goes_with_a_centre_that_moves_and_can_be_hidden():
    built = moving(
        c("circle_around", centre="Lamp", radius="50", speed="90"),
        others=((100, 0),),
        order=(
            rule("hide", when=START, do=c("hide", who="Lamp")),
            rule("walk", when=EVERY_TICK, do=c("move_by", who="Lamp", dx="60 * dt")),
        ),
        seconds=1.0,
    )
    world = run(built).world
    assert math.hypot(world.x[0] - world.x[1], world.y[0] - world.y[1]) == pytest.approx(50, abs=1.01)


def test_a_missing_centre_leaves_those_that_circled_where_they_were():
    built = moving(
        c("circle_around", centre="Lamp", radius="50", speed="90"),
        others=((100, 0),),
        order=(rule("go", when=c("after_start", time="1"), do=c("remove", who="Lamp")),),
    )
    made = run(built)
    then = made.world_at(made.end_of(60))
    assert (made.world.x[0], made.world.y[0]) == (then.x[0], then.y[0])


def test_a_flip_is_kept_apart_from_the_angle():
    world = run(moving(c("spin", speed="100", about="flipping over its height")), 150).world
    assert world.angle[0] == 0
    assert world.variables["spin.~flip"][0] == pytest.approx(250 - 360)


def test_keeping_an_eye_on_something_turns_the_shorter_way_and_not_past_it():
    built = moving(c("keep_facing", target="Lamp", speed="90"), others=((-100, -1),))
    made = run(built)
    assert made.world_at(made.end_of(30)).angle[0] == pytest.approx(-45)
    exact = math.degrees(math.atan2(-1, -100))
    assert made.world.angle[0] == pytest.approx(exact)


# flocking


def test_a_flock_of_one_goes_straight_on():
    built = moving(
        c("flock", others="Mover"),
        order=(rule("go", when=START, do=c("set_velocity", who="Mover", dx="30", dy="0")),),
    )
    world = run(built).world
    assert world.vx[0] == pytest.approx(90, abs=1), "at top speed in the end"
    assert (world.vy[0], world.y[0]) == (0, 0)


def test_a_flock_keeps_apart_stays_together_and_below_top_speed():
    chance = np.random.default_rng(4)
    at = tuple(map(tuple, chance.uniform(0, 120, (24, 2))))
    built = moving(
        c("flock", others="Mover", apart="20", together="90", aligned="60", speed="70"), at=at, seconds=12.0
    )
    made = run(built)
    world = made.world
    x, y = world.x[:24], world.y[:24]
    away = np.hypot(x[:, None] - x, y[:, None] - y) + np.eye(24) * 1e9
    assert away.min(axis=1).min() > 8
    assert np.median(away.min(axis=1)) < 30
    assert np.hypot(world.vx[:24], world.vy[:24]).max() <= 70 + 1e-6
    heading = np.arctan2(world.vy[:24], world.vx[:24])
    alike = np.cos(heading[:, None] - heading)[away < 60]
    assert alike.mean() > 0.8, "those near one another go one way"


def test_urges_draw_to_one_thing_and_keep_away_from_another():
    drawn = run(moving(c("be_drawn", target="Lamp"), c("flock", others="Mover"), others=((200, 0),)))
    assert drawn.world.x[0] > 100
    kept = run(moving(c("keep_away", target="Lamp"), c("flock", others="Mover"), others=((60, 0),)))
    assert math.hypot(kept.world.x[0] - 60, kept.world.y[0]) >= 109


def test_an_urge_without_a_flock_is_a_finding():
    problems = Program(moving(c("keep_away", target="Lamp"))).problems
    assert "give Mover that too" in problems[0].message


# leading and carrying


def test_trailing_is_smooth_and_ends_where_the_leader_stands():
    built = moving(
        c("trail", leader="Lamp", lag="0.2"),
        others=((0, 0),),
        order=(rule("jump", when=c("after_start", time="0.5"), do=c("put_at", who="Lamp", where="gate")),),
        seconds=4.0,
    )
    made = run(built)
    xs = np.array([made.world_at(made.end_of(t)).x[0] for t in range(30, 90)])
    assert np.abs(np.diff(xs)).max() < 20, "no step is as long as the leader's"
    assert (made.world.x[0], made.world.y[0]) == pytest.approx((150, 60), abs=0.01)


def test_a_removed_leader_leaves_the_one_that_trailed_it_where_it_was():
    built = moving(
        c("trail", leader="Lamp", lag="0.4"),
        others=((100, 0),),
        order=(rule("go", when=c("after_start", time="0.5"), do=c("remove", who="Lamp")),),
    )
    made = run(built)
    assert made.world.x[0] == made.world_at(made.end_of(31)).x[0]


DRAG = (("pointer left", 0.5, 1.5),)


def test_only_the_front_most_is_dragged_and_it_keeps_the_point_at_which_it_was_taken():
    built = moving(
        c("be_dragged"), at=((0, 0), (2, 0)), keys=DRAG, pointer=((0, 3, 0), (1, 103, 50), (2, 0, 0))
    )
    world = run(built).world
    # the younger of two equally deep is drawn in front
    assert (world.x[1], world.y[1]) == (102, 50)
    assert (world.x[0], world.y[0]) == (0, 0)


def test_a_press_beside_it_takes_no_hold_of_it():
    built = moving(c("be_dragged"), keys=DRAG, pointer=((0, 30, 0), (1, 0, 0), (1.2, 50, 0)))
    assert run(built).world.x[0] == 0


def test_dragging_along_one_axis_and_by_a_part_of_the_way():
    built = moving(
        c("be_dragged", axes="the x axis only", sensitivity="0.5"),
        keys=DRAG,
        pointer=((0, 0, 0), (1, 100, 70)),
    )
    world = run(built).world
    assert (world.x[0], world.y[0]) == (50, 0)


def carrying(*, keys, at=((30, 0),), carriers=((0, 0),), weight="light", order=(), **more):
    built = level(
        *order,
        kinds=(
            kind("Gardener", 8, behaviours=(c("steer_eight_ways", speed="60"),), **more),
            kind("Pot", 5, behaviours=(c("be_carried", by="Gardener", weight=weight),)),
        ),
        objects=(*things("Gardener", *carriers), *things("Pot", *at, first=10)),
        keys=keys,
        seconds=2.0,
        has={"n": 0.0},
    )
    return run(built)


def pot_of(made, row=1):
    return float(made.world.x[row]), float(made.world.y[row])


def test_what_lies_ahead_within_reach_is_picked_up_carried_and_let_go():
    made = carrying(keys=(("E", 0.1, 0.2), ("Up", 0.5, 1.0), ("E", 1.2, 1.3), ("Right", 1.4, 2.0)))
    gardener = made.world_at(made.end_of(65))
    assert (gardener.x[1], gardener.y[1]) == pytest.approx((gardener.x[0], gardener.y[0] + 26), abs=1e-6)
    x, y = pot_of(made)
    assert (x, y) == pytest.approx((gardener.x[0], gardener.y[0] + 26), abs=1e-6), "let go, it stays"
    assert made.world.x[0] > 30


def test_nothing_behind_or_too_far_off_is_picked_up():
    made = carrying(keys=(("E", 0.1, 0.2),), at=((-30, 0), (60, 0)))
    assert not made.world.movement.bonds


def test_of_several_the_nearest_and_only_one_is_carried():
    made = carrying(keys=(("E", 0.1, 0.2),), at=((40, 0), (20, 0)))
    assert list(made.world.movement.bonds) == [11]


def test_the_press_that_lets_one_thing_go_does_not_pick_up_another():
    built = carrying(keys=(("E", 0.1, 0.2), ("E", 0.5, 0.6))).program.level
    trough = kind("Trough", 5, behaviours=(c("be_carried", by="Gardener"),))
    both = replace(
        built, kinds=(*built.kinds, trough), objects=(*built.objects, *things("Trough", (45, 5), first=20))
    )
    made = run(both)
    assert list(made.world_at(made.end_of(20)).movement.bonds) == [10]
    assert not made.world.movement.bonds


def test_two_carriers_cannot_take_one_thing():
    made = carrying(keys=(("E", 0.1, 0.2),), carriers=((0, 0), (0, 5)))
    assert [bond.carrier for bond in made.world.movement.bonds.values()] == [1]


def test_a_removed_carrier_lets_its_thing_lie_where_it_was():
    gone = rule("go", when=c("after_start", time="1"), do=c("remove", who="Gardener"))
    made = carrying(keys=(("E", 0.1, 0.2), ("Right", 0.3, 2.0)), order=(gone,))
    assert not made.world.movement.bonds
    assert pot_of(made)[0] == pytest.approx(26 + 60 * 0.7, abs=1.1)


def test_a_heavy_thing_lags_and_comes_after():
    made = carrying(keys=(("E", 0.1, 0.2), ("Right", 0.3, 1.0)), weight="heavy")
    on_the_way = made.world_at(made.end_of(50))
    assert on_the_way.x[1] - on_the_way.x[0] < 24
    assert made.world.x[1] - made.world.x[0] == pytest.approx(26, abs=0.5)


# noises


def geese(*, extra=(), time="1", at=((0, 0), (600, 0))):
    built = level(
        rule("bang", when=c("after_start", time="1"), do=c("send_from", who="Shutter 1", message="bang")),
        told(c("arrives_at_goal", who="Goose")),
        *extra,
        kinds=(
            kind(
                "Goose",
                5,
                behaviours=(
                    c("walk_route", route="round", speed="40"),
                    c("look_into", message="bang", hearing="200", speed="100", gap="18", time=time),
                ),
            ),
            kind("Shutter", 5),
        ),
        places=PLACES,
        objects=(*things("Goose", *at), *things("Shutter", (40, -60), (-90, -60), first=20)),
        has={"n": 0.0},
        seconds=8.0,
    )
    return run(built)


def test_a_noise_draws_those_near_enough_and_they_go_back_to_what_they_did():
    made = geese()
    quiet = run(replace(made.program.level, order=()))
    arrived = [t for t, _ in fired(made, "r")]
    # 40 units along, then 60 away less 18
    assert arrived == [pytest.approx(60 + 42 / 100 * 60, abs=3)]
    looking = made.world_at(made.end_of(arrived[0] + 30))
    assert math.hypot(looking.x[0] - 40, looking.y[0] + 60) == pytest.approx(18, abs=1e-6)
    assert looking.x[1] == quiet.world_at(quiet.end_of(arrived[0] + 30)).x[1], "the far one does not stir"
    # after 2 × 0.42 s of way and 1 s of looking about, the round goes on where it was broken off
    away = next(
        t
        for t in range(arrived[0] + 60, made.done)
        if made.world_at(made.end_of(t)).variables["look_into.~stage"][0] == 0
    )
    lost = away - 61
    now, then = made.world_at(made.end_of(400)), quiet.world_at(quiet.end_of(400 - lost))
    assert (now.x[0], now.y[0]) == pytest.approx((then.x[0], then.y[0]), abs=2.1)


def test_a_message_that_nobody_sent_from_somewhere_draws_nobody():
    built = geese().program.level
    quiet = replace(built, order=(rule("bang", when=START, do=send("bang")), built.order[1]))
    made = run(quiet)
    assert not fired(made, "r")


# life


def test_a_life_span_ends_an_object_at_its_time():
    made = run(moving(c("life_span", time="1.5"), order=(told(c("is_removed", a="Mover")),)))
    assert not made.world.alive[0]
    assert arrivals(made) == [90]


# own settings, switching


def test_an_object_has_settings_of_its_own_and_may_have_a_behaviour_off():
    built = moving(c("go_to_goal", goal="gate", speed="10"), at=((0, 60), (0, 60), (0, 60)), seconds=1.0)
    mine = (
        built.objects[0],
        replace(built.objects[1], settings={"go to goal: speed": 50.0}),
        replace(built.objects[2], settings={"go to goal": False}),
    )
    world = run(replace(built, objects=mine)).world
    assert world.x == pytest.approx([10, 50, 0])


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        ({"go to goal: sped": 5.0}, "did you mean “go to goal: speed”"),
        ({"go to goal: speed": True}, "must be a number"),
        ({"go to goal": 3.0}, "must be yes or no"),
    ],
)
def test_a_setting_that_there_is_not_is_told_with_the_object(settings, words):
    built = moving(c("go_to_goal", goal="gate"))
    built = replace(built, objects=(replace(built.objects[0], settings=settings),))
    problem = Program(built).problems[0]
    assert words in problem.message
    assert problem.rule == "Mover 1"


@pytest.mark.parametrize("name", ["go to goal", "chase", "wander", "steer eight ways"])
def test_switching_off_what_moves_an_object_stops_it(name):
    use = {
        "go to goal": c("go_to_goal", goal="gate"),
        "chase": c("chase", target="Lamp"),
        "wander": c("wander", where="yard"),
        "steer eight ways": c("steer_eight_ways"),
    }[name]
    off = rule(
        "off",
        when=c("after_start", time="0.5"),
        do=c("switch_behaviour_off", behaviour=name, who="Mover"),
    )
    made = run(moving(use, others=((300, 0),), keys=(("Up", 0.0, 3.0),), order=(off,)))
    then = made.world_at(made.end_of(31))
    assert (made.world.x[0], made.world.y[0]) == (then.x[0], then.y[0])
    assert (then.x[0], then.y[0]) != (0, 0)


def test_a_route_an_area_and_a_target_are_renamed_in_behaviours_and_actions():
    from gatillo.language.renaming import rename, uses

    built = moving(
        c("walk_route", route="round"),
        c("wander", where="yard"),
        c("chase", target="Lamp"),
        c("go_to_goal", goal="gate"),
        order=(rule("go", when=START, do=c("send_along", who="Mover", route="round")),),
    )
    assert [use.where for use in uses(built, "place", "round")] == ["the rule “go”", "a behaviour of Mover"]
    for sort, old, new in (
        ("place", "round", "long way"),
        ("place", "yard", "court"),
        ("place", "gate", "arch"),
        ("kind", "Lamp", "Lantern"),
    ):
        built = rename(built, sort, old, new)
    slots = [slot for b in built.kinds[0].behaviours for slot in b.slots.values()]
    assert slots == ["long way", "court", "Lantern", "arch"]
    assert built.order[0].do[0].slots["route"] == "long way"
    assert Program(built).problems == []


def test_a_behaviour_that_needs_a_place_says_so_and_what_to_do_when_there_is_none():
    built = replace(moving(c("wander")), places=())
    assert Program(built).problems[0].sentence() == (
        "“Mover”, behaviour 1, where: choose an area here; the level has no area yet, so make one first"
    )
    assert Program(moving(c("wander"))).problems[0].message == "choose an area here"
    # it does nothing until then, and nothing else is kept from running
    program = Program(built)
    made = Run(program, built.trials[0])
    made.advance()
    assert made.world.x[0] == 0


def test_a_gap_below_zero_is_none():
    made = run(moving(c("go_to_goal", goal="gate", speed="200", gap="-20")), 120)
    assert (made.world.x[0], made.world.y[0]) == (150, 60)
    chasing = run(moving(c("chase", target="Lamp", speed="200", gap="-20"), others=((90, 0),)), 120)
    assert (chasing.world.x[0], chasing.world.y[0]) == (90, 0)
