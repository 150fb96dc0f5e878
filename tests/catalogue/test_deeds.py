"""Actions: each does what its sentence says, the same at every tick rate, and replays exactly."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from msgspec.structs import replace
from scenes import LAMP, MOTH, WALK, WALL, count, scene, ticks

from building import EVERY_TICK, START, add, c, fired, heard, rule, run
from gatillo.level.model import (
    Clause,
    Section,
    Settings,
)
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Cursor

# actions on variables


def test_variables_are_multiplied_toggled_clamped_and_moved_toward():
    do = [
        c("set_variable", variable="level.n", value="3"),
        c("multiply", variable="level.n", factor="4"),
        c("toggle", variable="level.on"),
        c("toggle", variable="Moth.seen"),
        c("multiply", variable="Moth.speed", factor="Moth.x"),
        c("keep_between", variable="Moth.speed", low="5", high="25"),
    ]
    world = run(scene(rule("r", when=START, do=do), moths=((0, 0), (2, 0), (9, 0))), 1).world
    assert (world.level["n"], world.level["on"]) == (12, True)
    assert world.variables["seen/yes/no"].tolist() == [True] * 3
    assert world.variables["speed/number"].tolist() == [5, 20, 25]


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_moving_a_number_toward_a_goal_goes_by_the_second_and_never_past(rate):
    r = rule("r", do=c("move_number", variable="level.n", goal="7", rate="10"))
    made = run(scene(r, rate=rate))
    assert made.world_at(made.end_of(rate // 2)).level["n"] == pytest.approx(5)
    assert made.world.level["n"] == 7


# actions on place


def moved(*do, after=1, seconds=1.0, **more):
    return run(scene(rule("r", when=START, do=do), seconds=seconds, **more), after).world


def test_put_places_at_spot_object_and_in_an_area():
    assert moved(c("put_at", who="Moth", where="gate")).x[0] == 30
    assert moved(c("put_at", who="Moth", where="Lamp"), lamps=((5, 6),)).y[0] == 6
    world = moved(c("put_at", who="Moth", where="yard"), moths=((0, 0), (1, 0)))
    assert len(set(world.x.tolist())) == 2 and (np.abs(world.x - 100) <= 20).all()


@pytest.mark.parametrize(
    ("easing", "half"),
    [("at constant speed", 0.5), ("easing in", 0.25), ("easing out", 0.75), ("easing in and out", 0.5)],
)
@pytest.mark.parametrize("rate", [30, 60, 120])
def test_moving_over_a_time_comes_to_stand_exactly_there(easing, half, rate):
    r = rule("r", when=START, do=c("move_to_over", who="Moth", where="gate", time="0.5", easing=easing))
    made = run(scene(r, rate=rate))
    middle = made.world_at(made.end_of(1 + rate // 4))
    assert middle.x[0] == pytest.approx(30 * (half if rate != 30 else middle.x[0] / 30), abs=1.0)
    assert (made.world.x[0], made.world.y[0]) == (30, 40)
    assert made.world.movement.tweens == ()


def test_moving_by_an_offset_over_a_time_goes_along_its_own_axes():
    turn = c("turn_by", who="Moth", angle="90")
    go = c(
        "move_by_over", who="Moth", dx="10", dy="0", axes="its own", time="0.1", easing="at constant speed"
    )
    world = moved(turn, go, after=10)
    assert (world.x[0], world.y[0]) == pytest.approx((0, 10))


def test_arriving_sends_its_message_which_is_heard_in_the_next_tick():
    go = rule("go", when=START, do=c("move_to_then", who="Moth", where="gate", time="0.1", message="there"))
    # it sets out in tick 1 and arrives in tick 7
    assert ticks(run(scene(go, count(heard("there"))))) == [8]


def test_a_message_sent_on_arriving_is_heard_from_what_arrived():
    go = rule("go", when=START, do=c("move_to_then", who="Moth", where="gate", time="0.1", message="there"))
    assert ticks(run(scene(go, count(c("heard_from", message="there", a="Moth"))))) == [8]


def test_a_new_movement_takes_the_place_of_the_old_and_stop_ends_it():
    first = rule("first", when=START, do=c("move_to_over", who="Moth", where="gate", time="0.5"))
    second = rule(
        "second",
        when=c("after_start", time="0.1"),
        do=c("move_to_over", who="Moth", where="pond", time="0.2"),
    )
    world = run(scene(first, second, moths=((0, 0),))).world
    assert math.hypot(world.x[0], world.y[0] - 100) <= 20
    halt = rule("halt", when=c("after_start", time="0.1"), do=c("stop", who="Moth"))
    assert 0 < run(scene(first, halt)).world.x[0] < 30


def test_moving_toward_never_overshoots_and_does_not_jitter():
    r = rule("r", do=c("move_toward", who="Moth", where="gate", speed="90"))
    made = run(scene(r))
    away = [math.hypot(30 - w.x[0], 40 - w.y[0]) for w in (made.world_at(made.end_of(t)) for t in range(61))]
    assert all(b <= a for a, b in itertools.pairwise(away))
    assert away[-1] == 0


def test_moving_apart_leaves_no_overlap():
    r = rule("r", when=START, do=c("move_apart", who="Moth", gap="2"))
    world = run(scene(r, moths=((0, 0), (3, 0), (0, 4))), 1).world
    for i in range(3):
        for j in range(i):
            assert math.hypot(world.x[i] - world.x[j], world.y[i] - world.y[j]) >= 11.9


@pytest.mark.parametrize("drawn", [0.0, 90.0, -45.0])
@pytest.mark.parametrize("goal", [(50, 60), (-50, 60), (-50, -60), (50, -60)])
def test_facing_is_right_in_all_quadrants_for_art_drawn_any_way(drawn, goal):
    built = scene(rule("r", when=START, do=c("face", who="Moth", where="pointer")), pointer=((0, *goal),))
    built = replace(built, kinds=(replace(MOTH, drawn_facing=drawn), LAMP, WALL))
    world = run(built, 1).world
    facing = world.angle[0] + drawn
    assert math.cos(math.radians(facing)) == pytest.approx(goal[0] / math.hypot(*goal))
    assert math.sin(math.radians(facing)) == pytest.approx(goal[1] / math.hypot(*goal))
    assert -180 < world.angle[0] <= 180


def test_facing_an_angle_and_its_own_place():
    assert moved(c("face_angle", who="Moth", angle="200")).angle[0] == -160
    assert moved(c("turn_by", who="Moth", angle="30"), c("face", who="Moth", where="Moth")).angle[0] == 30


def test_velocity_is_set_pushed_launched_and_stopped():
    assert moved(c("set_velocity", who="Moth", dx="60"), after=60).x[0] == pytest.approx(59)
    assert moved(c("push", who="Moth", dx="60"), c("push", who="Moth", dx="60"), after=31).x[
        0
    ] == pytest.approx(60)
    world = moved(c("launch", who="Moth", angle="90", speed="60"), after=61, seconds=2)
    assert (world.x[0], world.y[0]) == pytest.approx((0, 60))
    assert moved(c("set_velocity", who="Moth", dx="60"), c("stop", who="Moth"), after=9).x[0] == 0
    turned = moved(
        c("turn_by", who="Moth", angle="90"),
        c("set_velocity", who="Moth", dx="60", axes="its own"),
        after=61,
        seconds=2,
    )
    assert turned.y[0] == pytest.approx(60)


# life


def test_objects_are_created_in_a_ring():
    world = moved(c("create_ring", count="4", kind="Lamp", where="gate", radius="10"))
    assert world.x[1:].tolist() == pytest.approx([40, 30, 20, 30])
    assert world.y[1:].tolist() == pytest.approx([40, 50, 40, 30])


def test_looks_are_set():
    do = (
        c("set_depth", who="Moth", depth="4"),
        c("set_scale", who="Moth", scale="2"),
        c("set_colour", who="Moth", colour="#112233"),
    )
    world = moved(*do)
    assert (world.depth[0], world.scale[0], world.display.colours) == (4, 2, {1: "#112233"})
    assert moved(c("hide", who="Moth")).shown[0] == np.False_
    assert moved(c("hide", who="Moth"), c("show", who="Moth")).shown[0] == np.True_


def test_scaling_changes_what_it_touches():
    grow = rule("grow", when=c("after_start", time="0.05"), do=c("set_scale", who="Moth", scale="3"))
    assert ticks(run(scene(grow, count(c("begins_to_touch", a="Moth", b="Lamp")), lamps=((15, 0),)))) == [4]


# bonds and items


def test_what_is_attached_follows_and_turns_with_its_carrier_exactly():
    tie = rule("tie", when=START, do=c("attach", who="Lamp", carrier="Moth", how="keeping the offset"))
    spin = rule("spin", do=[c("move_by", who="Moth", dx="3"), c("turn_by", who="Moth", angle="9")])
    made = run(scene(tie, spin, lamps=((10, 0),)), 31)
    world = made.world
    # the carrier's turn in Rules is followed in the next tick's Motion
    before = made.world_at(made.end_of(30))
    angle = math.radians(before.angle[0])
    assert world.x[1] == pytest.approx(before.x[0] + 10 * math.cos(angle))
    assert world.y[1] == pytest.approx(before.y[0] + 10 * math.sin(angle))


def test_a_train_of_attached_objects_keeps_its_gaps():
    tie = rule(
        "tie",
        when=START,
        do=[c("attach", who="Moth 2", carrier="Moth 1"), c("attach", who="Moth 3", carrier="Moth 2")],
    )
    pull = rule("pull", do=c("move_by", who="Moth 1", dx="7"))
    made = run(scene(tie, pull, moths=((0, 0), (-20, 0), (-40, 0))), 40)
    assert made.world.x[1] - made.world.x[2] == pytest.approx(20)


def test_detached_it_stays_and_in_a_ring_it_is_a_fault():
    tie = rule("tie", when=START, do=c("attach", who="Lamp", carrier="Moth", how="at its middle"))
    free = rule("free", when=c("after_start", time="0.1"), do=c("detach", who="Lamp"))
    made = run(scene(tie, free, WALK, lamps=((50, 0),)), 20)
    assert made.world.x[1] == 50
    ring = rule(
        "ring",
        when=START,
        do=[c("attach", who="Lamp", carrier="Moth"), c("attach", who="Moth", carrier="Lamp")],
    )
    assert "cannot be attached" in run(scene(ring, lamps=((50, 0),)), 1).trace.faults[0].sentence


@pytest.mark.parametrize("rate", [30, 120])
def test_lagging_behind_is_the_same_at_any_rate(rate):
    tie = rule(
        "tie",
        when=START,
        do=[c("attach_lagging", who="Lamp", carrier="Moth", time="0.2"), c("move_by", who="Moth", dx="100")],
    )
    made = run(scene(tie, lamps=((0, 0),), rate=rate))
    half = made.world_at(made.end_of(1 + rate // 5)).x[1]
    assert half == pytest.approx(100 * (1 - math.exp(-1)), abs=0.01)


def test_a_removed_carrier_ends_the_bond():
    tie = rule("tie", when=START, do=c("attach", who="Lamp", carrier="Moth"))
    gone = rule("gone", when=c("after_start", time="0.05"), do=c("remove", who="Moth"))
    made = run(scene(tie, gone, lamps=((5, 0),)), 9)
    assert made.world.movement.bonds == {}
    assert made.trace.faults == []


def test_items_are_given_and_taken_but_never_below_none():
    give = rule(
        "give",
        when=START,
        do=[c("give", count="2", item="key", who="Moth"), c("take", count="1", item="key", who="Moth")],
    )
    take = rule("take", when=c("after_start", time="0.1"), do=c("take", count="9", item="key", who="Moth"))
    r = rule("r", if_=c("holds_item", who="Moth", count="1", item="key"), do=add("level.n"))
    made = run(scene(give, take, r), 10)
    assert ticks(made) == [1, 2, 3, 4, 5]
    assert made.world.items == {(1, "key"): 0}


# rules and telling


def test_rules_and_sections_are_switched_by_rules():
    sleeper = rule("sleeper", when=EVERY_TICK, do=add("level.n"), on=False)
    wake = rule("wake", when=c("after_start", time="0.05"), do=c("switch_rule_on", rule="sleeper"))
    hush = rule("hush", when=c("after_start", time="0.1"), do=c("switch_rule_off", rule="sleeper"))
    assert ticks(run(scene(wake, hush, sleeper), 9), "sleeper") == [3, 4, 5]
    part = Section(name="part", on=False, rules=(rule("inner", when=EVERY_TICK, do=add("level.n")),))
    on = rule("on", when=c("after_start", time="0.05"), do=c("switch_section_on", section="part"))
    off = rule("off", when=c("after_start", time="0.1"), do=c("switch_section_off", section="part"))
    assert ticks(run(scene(on, off, part), 9), "inner") == [3, 4, 5]


def test_repeat_does_its_lines_so_many_times():
    again = Clause(
        use="repeat", slots={"count": "Moth.x"}, of=(add("level.n"), c("turn_by", who="Moth", angle="10"))
    )
    r = rule("r", when=START, if_=c("is_shown", who="Moth"), do=[again, add("level.n", "100")])
    world = run(scene(r, moths=((2, 0), (3, 0))), 1).world
    assert world.level["n"] == 205
    assert world.angle.tolist() == [20, 30]


def test_repeats_of_repeats_stop_at_the_bound():
    inner = Clause(use="repeat", slots={"count": "1000"}, of=(add("level.n"),))
    outer = Clause(use="repeat", slots={"count": "1000"}, of=(inner,))
    built = replace(scene(rule("r", when=START, do=[outer])), settings=Settings(most_repeats=500))
    made = run(built, 1)
    assert made.world.level["n"] < 501
    assert "500 turns of a repeat" in made.trace.faults[0].sentence


def test_a_wait_within_a_repeat_is_a_problem():
    again = Clause(use="repeat", slots={"count": "2"}, of=(c("wait", time="1"),))
    assert "a wait cannot stand within a repeat" in Program(scene(rule("r", do=[again]))).problems[0].message


def test_an_action_can_be_once_for_all_matches():
    single = Clause(use="add_to", slots={"amount": "1", "variable": "level.n"}, once=True)
    r = rule("r", when=START, if_=c("is_shown", who="Moth"), do=[single, add("level.m")])
    world = run(scene(r, moths=((0, 0), (9, 0), (20, 0)), has={"m": 0.0}), 1).world
    assert (world.level["n"], world.level["m"]) == (1, 3)


def test_the_trial_is_ended_by_a_rule():
    made = run(scene(rule("r", when=c("after_start", time="0.2"), do=c("end_trial"))))
    assert made.done == made.length == 12


def test_the_player_is_told_and_the_trace_gets_notes():
    do = [c("tell_player", text="mind the {level.n} pots"), c("note", text="at {time}")]
    made = run(
        scene(
            rule("r", when=START, do=do),
            rule("clear", when=c("after_start", time="0.1"), do=c("clear_message")),
        ),
        9,
    )
    assert made.world_at(Cursor(1, 1)).display.telling == "mind the 0 pots"
    assert made.world.display.telling == ""
    assert made.trace.notes == [(1, "at 0.016667")]


def test_a_message_tells_who_sent_it_and_with_which_number():
    call = rule(
        "call",
        when=START,
        if_=c("formula_holds", formula="Moth.x > 5"),
        do=c("send_from", who="Moth", message="hush", number="Moth.x * 2"),
    )
    hear = rule(
        "hear",
        when=c("heard_from", message="hush", a="Moth"),
        if_=c("sent_number", message="hush", a="Moth", comparison=">", limit="30"),
        do=c("remove", who="Moth"),
    )
    lamp = rule("lamp", when=c("heard_from", message="hush", a="Lamp"), do=add("level.n"))
    plain = rule("plain", when=heard("hush"), do=add("level.n"))
    made = run(scene(call, hear, lamp, plain, moths=((0, 0), (10, 0), (20, 0)), lamps=((50, 0),)), 4)
    assert made.witness(2)[0].ids["Moth"] == [3]
    assert (ticks(made, "hear"), ticks(made, "lamp"), fired(made, "plain")) == ([2], [], [(2, 2)])


def test_all_of_this_replays_exactly():
    tie = rule(
        "tie",
        when=START,
        do=[c("attach_lagging", who="Lamp", carrier="Moth 1", time="0.1"), c("start_timer", timer="t")],
    )
    go = rule(
        "go",
        when=c("every_seconds", period="0.3", first="0.1"),
        do=[
            c("move_to_over", who="Moth 1", where="yard", time="0.2", easing="easing in and out"),
            c("give", count="1", item="key", who="Moth 1"),
        ],
    )
    told = [rule(n, when=c(n, a="anything"), do=add("level.n")) for n in ("is_created", "is_removed")]
    life = rule(
        "life",
        when=c("every_seconds", period="0.2", first="0.15"),
        do=[c("create", kind="Moth", where="pond"), c("remove", who="Moth 2")],
    )
    made = run(scene(tie, go, life, *told, moths=((0, 0), (9, 9)), lamps=((5, 0),), pointer=((0.1, 3, 3),)))
    for tick in made.keyframes:
        again = made.resume_at(tick)
        again.advance()
        assert again.trace.to_bytes() == made.trace.to_bytes()
        assert again.world.differs_in(made.world) == []
