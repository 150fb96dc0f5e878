"""Occasions, conditions, picks and actions: each does what its sentence says."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, heard, isnt, kind, level, rule, run, send, things
from gatillo.level.model import (
    Area,
    Choice,
    Circle,
    Clause,
    Input,
    PointerMove,
    Rectangle,
    Section,
    Settings,
    Spot,
    Topic,
)
from gatillo.sim.program import Program
from gatillo.sim.run import Cursor, Run

MOTH = kind("Moth", 5, tags=("insect",), has={"speed": 10.0, "seen": False, "tag": ""})
LAMP = kind("Lamp", 5)
WALL = kind("Wall", box=(10, 100), contact="fixed")
PLACES = (
    Area(name="yard", x=100, y=0, shape=Rectangle(width=40, height=40)),
    Area(name="pond", x=0, y=100, shape=Circle(radius=20)),
    Spot(name="gate", x=30, y=40),
)


def scene(*order, moths=((0, 0),), lamps=(), walls=(), pointer=(), keys=(), seconds=1.0, rate=60, **more):
    """A level with moths (ids from 1), lamps (from 50), walls (from 80), and places."""
    built = level(
        *order,
        kinds=(MOTH, LAMP, WALL),
        places=PLACES,
        objects=(
            *things("Moth", *moths),
            *things("Lamp", *lamps, first=50),
            *things("Wall", *walls, first=80),
        ),
        has={"n": 0.0, "on": False, "word": "", **more.pop("has", {})},
        keys=keys,
        seconds=seconds,
        rate=rate,
        **more,
    )
    moves = tuple(PointerMove(at=t, x=x, y=y) for t, x, y in pointer)
    trial = built.trials[0]
    return replace(built, trials=(replace(trial, input=replace(trial.input, pointer=moves)),))


def ticks(made, name="r"):
    return [t for t, _ in fired(made, name)]


def count(when, **more):
    return rule("r", when=when, do=add("level.n"), **more)


WALK = rule("walk", do=c("move_by", who="Moth", dx="10"))

# time


def test_after_the_start_comes_once_at_its_time():
    for rate in (30, 60, 120):
        assert ticks(run(scene(count(c("after_start", time="0.5")), rate=rate))) == [rate // 2]


def test_after_another_rule_fired_comes_for_each_tick_it_did():
    source = rule("source", when=c("every_seconds", period="0.3", first="0.1"), do=send("x"))
    made = run(scene(count(c("after_rule", time="0.2", rule="source")), source))
    assert ticks(made) == [18, 36, 54]


def test_a_timer_runs_stops_and_is_reset():
    rules = [
        rule("start", when=START, do=c("start_timer", timer="t")),
        rule("stop", when=c("after_start", time="0.2"), do=c("stop_timer", timer="t")),
        rule("again", when=c("after_start", time="0.5"), do=c("start_timer", timer="t")),
        count(c("timer_reaches", timer="t", time="0.3")),
    ]
    made = run(scene(*rules))
    assert ticks(made) == [30 + 19 - 12]
    reset = rule("reset", when=c("after_start", time="0.55"), do=c("reset_timer", timer="t"))
    assert ticks(run(scene(*rules, reset))) == [33 + 18]


def test_past_holds_from_its_time_on():
    made = run(scene(rule("r", if_=c("past", time="0.9"), do=add("level.n"))))
    assert ticks(made) == list(range(54, 61))


# the pointer


def test_pointer_buttons_are_pressed_held_and_released_anywhere():
    rules = [
        rule(n, when=c(f"pointer_{n}", button="left"), do=add("level.n"))
        for n in ("pressed", "held", "released")
    ]
    made = run(scene(*rules, keys=(("pointer left", 0.1, 0.15),)))
    assert [ticks(made, n) for n in ("pressed", "held", "released")] == [[6], [6, 7, 8], [9]]
    assert (
        ticks(run(scene(count(c("pointer_pressed", button="right")), keys=(("pointer left", 0.1, 0.15),))))
        == []
    )


def pots(which, when="pointer_pressed_on"):
    r = rule("r", when=c(when, button="left", a="Moth", which=which), do=c("remove", who="Moth"))
    built = scene(
        r, moths=((0, 0), (2, 0), (50, 0)), pointer=((0, 1, 0),), keys=(("pointer left", 0.1, 0.2),)
    )
    deeper = tuple(replace(o, depth=9.0) if o.id == 1 else o for o in built.objects)
    return run(replace(built, objects=deeper))


def test_a_press_on_an_object_takes_the_front_most_or_all_under_the_pointer():
    assert pots("the front-most only").witness(6)[0].ids["Moth"] == [1]
    assert pots("all under it").witness(6)[0].ids["Moth"] == [1, 2]


def test_hidden_objects_are_not_under_the_pointer():
    hide = rule("hide", when=START, do=c("hide", who="Moth 1"))
    r = count(c("pointer_over", a="Moth"))
    made = run(scene(hide, r, pointer=((0, 0, 0),)), 3)
    assert ticks(made) == [1]


def test_held_and_released_on_an_object():
    for when, wanted in (("pointer_held_on", [6, 7, 8]), ("pointer_released_on", [9])):
        r = count(c(when, button="left", a="Moth", which="all under it"))
        assert ticks(run(scene(r, pointer=((0, 0, 0),), keys=(("pointer left", 0.1, 0.15),)))) == wanted


def test_the_pointer_comes_over_is_over_and_leaves():
    pointer = ((0, 50, 50), (0.1, 0, 0), (0.2, 50, 50))
    rules = [
        rule(n, when=c(f"pointer_{n}", a="Moth"), do=add("level.n")) for n in ("comes_over", "over", "leaves")
    ]
    made = run(scene(*rules, pointer=pointer))
    assert [ticks(made, n) for n in ("comes_over", "over", "leaves")] == [[6], list(range(6, 12)), [12]]


def test_the_pointer_moves_is_told_in_the_ticks_in_which_it_does():
    assert ticks(run(scene(count(c("pointer_moves")), pointer=((0.1, 1, 1), (0.2, 2, 2))))) == [6, 12]


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_gliding_pointer_goes_the_same_way_at_every_rate(rate):
    built = scene(rate=rate)
    moves = (PointerMove(at=0, x=0, y=0), PointerMove(at=1, x=100, y=50, glide=True))
    made = run(replace(built, trials=(replace(built.trials[0], input=Input(pointer=moves)),)))
    for part in (0.5, 0.7, 1.0):
        world = made.world_at(made.end_of(round(part * rate)))
        assert (world.pointer_x, world.pointer_y) == pytest.approx((100 * part, 50 * part))


def test_conditions_ask_for_pointer_and_keys():
    held = {"pointer": ((0, 0, 0),), "keys": (("pointer left", 0.1, 0.15), ("W", 0.2, 0.25))}
    for condition, wanted in (
        (c("pointer_is_held", button="left"), [6, 7, 8]),
        (c("key_is_held", key="W"), [12, 13, 14]),
        (c("pointer_is_over", a="Moth"), list(range(1, 61))),
    ):
        assert ticks(run(scene(rule("r", if_=condition, do=add("level.n")), **held))) == wanted


# areas


def test_an_object_enters_is_in_and_leaves_an_area_by_its_middle():
    rules = [
        rule(n, when=c(n, a="Moth", place="yard"), do=add("level.n")) for n in ("enters", "is_in", "leaves")
    ]
    made = run(scene(*rules, WALK), 20)
    # rules move it after Contact: at tick t it was found at 10 (t - 1)
    assert [ticks(made, n) for n in ("enters", "is_in", "leaves")] == [[9], [9, 10, 11, 12, 13], [14]]


def test_an_area_becomes_occupied_by_the_first_and_empty_by_the_last():
    rules = [
        rule(n, when=c(n, place="yard", a="Moth"), do=add("level.n"))
        for n in ("becomes_occupied", "becomes_empty")
    ]
    made = run(scene(*rules, WALK, moths=((0, 0), (-30, 0))), 30)
    assert ticks(made, "becomes_occupied") == [9]
    assert ticks(made, "becomes_empty") == [17]


def test_there_are_so_many_of_a_kind_here_or_in_an_area():
    for condition, holds in (
        (c("there_are", comparison="=", count="2", kind="Moth"), True),
        (c("there_are", comparison=">", count="2", kind="Moth"), False),
        (c("there_are_in", comparison="=", count="1", kind="Moth", place="yard"), True),
        (c("there_are_in", comparison="=", count="1", kind="Moth", place="pond"), False),
        (c("in_area", who="Moth", place="yard"), True),
    ):
        made = run(scene(rule("r", when=START, if_=condition, do=add("level.n")), moths=((0, 0), (90, 5))), 1)
        assert bool(ticks(made)) is holds


# what has changed


def test_a_variable_that_changes_is_noticed_wherever_it_was_written():
    write = rule("write", when=c("every_seconds", period="0.1", first="0.1"), do=add("level.n", "0.5"))
    for order in ((write, "r"), ("r", write)):
        r = rule("r", when=c("variable_changes", variable="level.n"), do=add("level.m"))
        made = run(scene(*(r if o == "r" else o for o in order), has={"m": 0.0}), 20)
        assert ticks(made) == ([6, 12, 18] if order[0] is write else [7, 13, 19])


def test_an_objects_variable_is_told_for_that_object():
    write = rule(
        "write", when=c("after_start", time="0.05"), do=c("set_variable", variable="Moth 2.speed", value="99")
    )
    r = rule("r", when=c("rises_above", variable="Moth.speed", limit="50"), do=c("remove", who="Moth"))
    made = run(scene(write, r, moths=((0, 0), (9, 0))), 5)
    assert fired(made, "r") == [(3, 1)]
    assert made.witness(3)[1].ids["Moth"] == [2]


def test_falls_below_tells_the_crossing_only():
    sink = rule("sink", do=add("level.n", "-1"))
    r = rule("r", when=c("falls_below", variable="level.n", limit="-2.5"), do=add("level.m"))
    assert ticks(run(scene(sink, r, has={"m": 0.0}), 9)) == [3]


def test_created_and_removed_objects_are_told_once_above_and_below():
    make = rule(
        "make", when=c("after_start", time="0.05"), do=c("create", count="2", kind="Moth", where="gate")
    )
    clear = rule("clear", when=c("after_start", time="0.1"), do=c("remove", who="Moth 1"))
    told = [rule(n, when=c(f"is_{n}", a="Moth"), do=add("level.n")) for n in ("created", "removed")]
    made = run(scene(*told, make, clear), 12)
    assert (fired(made, "created"), fired(made, "removed")) == ([(4, 2)], [(7, 1)])
    made = run(scene(make, clear, *told), 12)
    assert (fired(made, "created"), fired(made, "removed")) == ([(3, 2)], [(6, 1)])


def test_a_removed_objects_last_values_can_be_read_by_those_who_hear_of_it():
    hear = rule(
        "hear", when=c("is_removed", a="Moth"), do=c("set_variable", variable="level.n", value="Moth.x")
    )
    clear = rule("clear", when=START, do=c("remove", who="Moth"))
    assert run(scene(hear, clear, moths=((7, 0),)), 3).world.level["n"] == 7


# conditions


@pytest.mark.parametrize(
    ("condition", "holds"),
    [
        (c("is_of_kind", who="Moth", kind="Moth"), True),
        (c("is_of_kind", who="Moth", kind="Lamp"), False),
        (c("within", who="Moth", distance="50", where="gate"), True),
        (c("within", who="Moth", distance="49", where="gate"), False),
        (c("within", who="Moth", distance="60", where="Lamp"), True),
        (c("in_cone", b="Lamp", a="Moth", distance="70", angle="10"), True),
        (c("in_cone", b="Lamp", a="Moth", distance="50", angle="10"), False),
        (c("in_cone", b="Moth", a="Lamp", distance="70", angle="10"), False),
        (c("clear_view", a="Moth", b="Lamp"), True),
        (c("first_along_ray", b="Lamp", a="Moth", angle="0", reach="60"), True),
        (c("first_along_ray", b="Lamp", a="Moth", angle="0", reach="50"), False),
        (c("first_along_ray", b="Lamp", a="Moth", angle="20", reach="90"), False),
        (c("is_touching", a="Moth", b="Lamp"), False),
        (c("is_shown", who="Moth"), True),
        (c("is_attached", a="Moth", b="Lamp"), False),
        (c("moves", who="Moth"), False),
        (c("holds_item", who="Moth", count="1", item="key"), False),
        (c("has_fired", rule="never"), False),
        (c("chance", percent="100"), True),
        (c("chance", percent="0"), False),
    ],
)
def test_a_condition_holds_or_does_not(condition, holds):
    never = rule("never", when=heard("nothing"), do=add("level.n"))
    made = run(scene(never, rule("r", when=START, if_=condition, do=add("level.n")), lamps=((60, 0),)), 1)
    assert bool(ticks(made)) is holds


def test_a_wall_blocks_the_view_and_the_ray():
    built = scene(
        rule("see", when=START, if_=c("clear_view", a="Moth", b="Lamp"), do=add("level.n")),
        rule("ray", when=START, if_=c("first_along_ray", b="Wall", a="Moth", reach="100"), do=add("level.n")),
        lamps=((60, 0),),
        walls=((30, 0),),
    )
    made = run(built, 1)
    assert (ticks(made, "see"), ticks(made, "ray")) == ([], [1])


def test_rays_agree_with_marching_along_them():
    chance = np.random.default_rng(3)
    from gatillo.sim import rays
    from gatillo.sim.world import World

    built = scene(moths=tuple(map(tuple, chance.uniform(-80, 80, (8, 2)))), walls=((40, 20), (-50, 10)))
    turned = tuple(replace(o, angle=float(chance.uniform(-180, 180))) for o in built.objects)
    world = World(Program(replace(built, objects=turned)))
    everything = np.arange(len(world.id))
    for angle in chance.uniform(-180, 180, 40):
        dx, dy = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        away = rays.distances(world, np.array([0]), np.array([dx]), np.array([dy]), everything)[0]
        for row in everything[1:]:
            from gatillo.sim.presence import under_point

            steps = np.arange(0, 250, 0.05)
            hit = (
                next(
                    (s for s in steps if row in under_point(world, world.x[0] + dx * s, world.y[0] + dy * s)),
                    np.inf,
                )
                if np.isfinite(away[row])
                else np.inf
            )
            if np.isfinite(hit) or np.isfinite(away[row]):
                assert away[row] == pytest.approx(hit, abs=0.06) or hit == np.inf


def test_rules_that_fired_lately_are_known():
    source = rule("source", when=c("after_start", time="0.1"), do=send("x"))
    late = rule("r", if_=c("fired_lately", rule="source", time="0.05"), do=add("level.n"))
    ever = rule("ever", if_=c("has_fired", rule="source"), fires="first time only", do=add("level.n"))
    made = run(scene(source, late, ever), 20)
    assert (ticks(made), ticks(made, "ever")) == ([6, 7, 8, 9], [6])


def test_chance_draws_for_each_match_and_about_as_often_as_it_says():
    r = rule("r", if_=c("chance", percent="30"), do=c("turn_by", who="Moth", angle="0"))
    keep = rule("r", if_=[c("is_shown", who="Moth"), c("chance", percent="30")], do=add("level.n"))
    made = run(scene(keep, moths=tuple((i, 0) for i in range(200))), 20)
    assert 0.25 < made.world.level["n"] / 4000 < 0.35
    assert Program(scene(r)).problems == []


def group(use, *conditions, negated=False):
    return Clause(use=use, of=conditions, negated=negated)


@pytest.mark.parametrize(
    ("condition", "wanted"),
    [
        (
            group(
                "all_of",
                c("compare", left="Moth.x", comparison=">", right="1"),
                c("compare", left="Moth.x", comparison="<", right="4"),
            ),
            [2, 3],
        ),
        (
            group(
                "any_of",
                c("compare", left="Moth.x", comparison="<", right="1"),
                c("compare", left="Moth.x", comparison=">", right="3"),
            ),
            [0, 4],
        ),
        (
            group(
                "none_of",
                c("compare", left="Moth.x", comparison="<", right="1"),
                c("compare", left="Moth.x", comparison=">", right="3"),
            ),
            [1, 2, 3],
        ),
        (
            group(
                "any_of",
                group(
                    "all_of",
                    c("formula_holds", formula="Moth.x > 2"),
                    isnt("formula_holds", formula="Moth.x = 3"),
                ),
                c("formula_holds", formula="Moth.x = 0"),
            ),
            [0, 4],
        ),
        (group("all_of", c("formula_holds", formula="Moth.x > 2"), negated=True), [0, 1, 2]),
        (group("all_of"), [0, 1, 2, 3, 4]),
        (group("any_of"), []),
    ],
)
def test_groups_nest(condition, wanted):
    r = rule("r", when=START, if_=[c("is_shown", who="Moth"), condition], do=c("remove", who="Moth"))
    made = run(scene(r, moths=tuple((i, 0) for i in range(5))), 1)
    assert made.world.x[~made.world.alive].tolist() == wanted


# picks


@pytest.mark.parametrize(
    ("pick", "wanted"),
    [
        (c("nearest", a="Moth", where="gate"), [30]),
        (c("nearest", a="Moth", where="Lamp", per="Lamp"), [0, 30]),
        (c("best_by", end="lowest", value="Moth.x"), [-5]),
        (c("best_by", end="highest", value="Moth.x"), [30]),
        (c("front_most", a="Moth"), [30]),
        (c("first_n", count="2"), [0, 20]),
        (c("first_n", count="0"), []),
    ],
)
def test_a_pick_keeps_the_one_it_says(pick, wanted):
    r = rule("r", when=START, if_=[c("is_shown", who="Moth"), pick], do=c("remove", who="Moth"))
    made = run(scene(r, moths=((0, 0), (20, 0), (-5, 0), (30, 0)), lamps=((3, 0), (40, 0))), 1)
    assert made.world.x[~made.world.alive].tolist() == wanted


def test_a_random_pick_keeps_one_and_not_always_the_same():
    kept = set()
    for seed in range(12):
        r = rule(
            "r", when=START, if_=[c("is_shown", who="Moth"), c("random_one")], do=c("remove", who="Moth")
        )
        made = run(scene(r, moths=((0, 0), (20, 0), (40, 0)), seed=seed), 1)
        assert (~made.world.alive).sum() == 1
        kept |= set(made.world.x[~made.world.alive].tolist())
    assert len(kept) > 1


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
    assert made.world.tweens == ()


def test_moving_by_an_offset_over_a_time_goes_along_its_own_axes():
    turn = c("turn_by", who="Moth", angle="90")
    go = c(
        "move_by_over", who="Moth", dx="10", dy="0", axes="its own", time="0.1", easing="at constant speed"
    )
    world = moved(turn, go, after=10)
    assert (world.x[0], world.y[0]) == pytest.approx((0, 10))


def test_arriving_sends_its_message():
    go = rule("go", when=START, do=c("move_to_then", who="Moth", where="gate", time="0.1", message="there"))
    assert ticks(run(scene(go, count(heard("there"))))) == [7]


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
    assert (world.depth[0], world.scale[0], world.colours) == (4, 2, {1: "#112233"})
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
    assert made.world.bonds == {}
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
    assert made.world_at(Cursor(1, 1)).telling == "mind the 0 pots"
    assert made.world.telling == ""
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


def talk_level(*choices):
    """A moth that knows of the key and a lamp that does not; a conversation with the one the rule names."""
    start = rule("start", when=START, do=c("start_conversation", who="Moth"))
    chosen = rule(
        "r",
        when=c("topic_chosen", topic="the key", a="Moth"),
        do=c("give", count="1", item="key", who="Moth"),
    )
    end = rule("end", when=c("after_start", time="0.5"), do=c("end_conversation"))
    going = rule("going", if_=c("is_talking"), do=add("level.n"))
    built = scene(start, chosen, end, going, lamps=((50, 0),))
    moth = replace(MOTH, topics=(Topic(name="the key", answer="Here it is."), Topic(name="the weather")))
    trial = replace(built.trials[0], input=Input(choices=tuple(Choice(at=t, text=w) for t, w in choices)))
    return replace(built, kinds=(moth, LAMP, WALL), trials=(trial,))


def test_a_topic_is_chosen_only_with_someone_who_knows_it_and_while_talking():
    made = run(talk_level((0.1, "the key"), (0.2, "the weather"), (0.3, "the moon"), (0.8, "the key")))
    assert ticks(made) == [6]
    assert made.world_at(made.end_of(7)).sayings[1][0] == "Here it is."
    assert made.world.items == {(1, "key"): 1}
    assert ticks(made, "going") == list(range(1, 30))
    assert [t.name for t in made.world_at(made.end_of(9)).topics()] == ["the key", "the weather"]
    assert made.world.topics() == ()


def test_an_unknown_topic_is_a_problem_with_the_nearest_known():
    built = talk_level()
    wrong = replace(built, order=(count(c("topic_chosen", topic="the kee", a="Moth")),))
    assert "did you mean “the key”" in Program(wrong).problems[0].message


def test_an_occasions_number_cannot_speak_of_objects():
    built = scene(count(c("rises_above", variable="level.n", limit="Moth.x")))
    assert "cannot speak of objects" in Program(built).problems[0].message


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
        again = made.resume_from(tick)
        again.advance()
        assert again.trace.to_bytes() == made.trace.to_bytes()
        assert again.world.state_bytes() == made.world.state_bytes()


def test_every_entry_of_the_catalogue_is_tried_by_name_in_the_tests():
    from pathlib import Path

    from gatillo.catalogue import CATALOGUE

    text = "".join(p.read_text() for p in Path(__file__).parents[1].rglob("*.py"))
    told = {
        "pointer_pressed",
        "pointer_held",
        "pointer_released",
        "pointer_comes_over",
        "pointer_leaves",
        "key_released",
    }
    missing = [n for n in CATALOGUE if f'"{n}"' not in text and n not in told]
    assert missing == [] and Run
