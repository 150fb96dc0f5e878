"""docs/how-a-level-runs.md says what is so: its statements, and each number of its table, held against runs."""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, heard, kind, level, names_at, rule, run, send, things
from gatillo.level.model import Area, Circle, Clause, Route, Settings, Stop

PAGE = (Path(__file__).resolve().parents[2] / "docs" / "how-a-level-runs.md").read_text()
RATES = (30, 60, 120)
MOTH = kind("Moth", 5, contact="none", has={"v": 0.0})
LAMP = kind("Lamp", 5, contact="none")
LINE = Route(name="line", stops=(Stop(x=1200, y=0),))
SQUARE = Route(name="square", stops=(Stop(x=300, y=0), Stop(x=300, y=200), Stop(x=0, y=200), Stop(x=0, y=0)))
WALK = c("walk_route", route="line", speed="60")


def garden(*order, moths=((0.0, 0.0),), **more):
    more.setdefault("kinds", (MOTH, LAMP))
    return level(*order, objects=things("Moth", *moths), has={"n": 0.0, "m": 0.0}, **more)


# when


def test_tick_0_is_the_level_as_laid_out_and_what_flies_from_tick_1_has_flown_one_tick_less():
    made = run(garden(rule("go", when=START, do=c("set_velocity", who="Moth", dx="60", dy="0"))))
    assert made.world_at(made.end_of(0)).x[0] == 0
    assert [made.world_at(made.end_of(t)).x[0] for t in (1, 2, 10)] == pytest.approx([0, 1, 9])
    assert names_at(made, 1) == ["go"]


@pytest.mark.parametrize("rate", RATES)
def test_times_are_due_in_the_first_tick_at_or_after_them_and_never_before_tick_1(rate):
    at = [0.0, 0.001, 0.5, 0.51]
    rules = [rule(f"at {t}", when=c("after_start", time=f"{t}"), do=add("level.n")) for t in at]
    made = run(garden(*rules, rate=rate))
    assert [fired(made, f"at {t}")[0][0] for t in at] == [max(1, math.ceil(t * rate - 1e-9)) for t in at]


def test_an_interval_shorter_than_a_tick_comes_once_a_tick():
    made = run(garden(rule("r", when=c("every_seconds", period="0.001", first="0"), do=add("level.n"))), 10)
    assert [t for t, _ in fired(made, "r")] == list(range(1, 11))


def test_a_wait_of_nothing_lasts_one_tick_and_a_rest_ends_at_its_time():
    slow = rule("slow", when=START, do=[c("wait", time="0"), add("level.n")])
    assert [t for t, _ in fired(run(garden(slow), 5), "slow")] == [1, 2]
    rests = rule("rests", when=EVERY_TICK, do=add("level.n"), cooldown=0.05)
    assert [t for t, _ in fired(run(garden(rests), 10), "rests")] == [1, 4, 7, 10]


def test_what_comes_after_a_rule_comes_a_tick_later_wherever_it_stands():
    after = [rule(name, when=c("after_rule", time="0", rule="go"), do=add("level.n")) for name in "ab"]
    made = run(garden(after[0], rule("go", when=START, do=add("level.m")), after[1]), 4)
    assert [names_at(made, tick) for tick in (1, 2, 3)] == [["go"], ["a", "b"], []]


@pytest.mark.parametrize("bar", [(0.1, 0.1), (0.105, 0.11)])
def test_a_bar_within_a_tick_is_down_in_that_one(bar):
    rules = [
        rule(do, when=c(f"key_{do}", key="Space"), do=add("level.n"))
        for do in ("pressed", "held", "released")
    ]
    made = run(garden(*rules, keys=(("Space", *bar),)), 12)
    tick = math.ceil(bar[0] * 60)
    assert [f.tick for f in made.trace.firings()] == [tick] * 3


def test_a_message_is_heard_in_the_next_tick_above_and_below():
    above = rule("above", when=heard("m"), do=add("level.n"))
    tell = rule("tell", when=START, do=send("m"))
    below = rule("below", when=heard("m"), do=add("level.n"))
    made = run(garden(above, tell, below), 3)
    assert (names_at(made, 1), names_at(made, 2)) == (["tell"], ["above", "below"])


# matches


def test_pairs_of_one_kind_are_matched_both_ways_in_the_order_of_their_age():
    loud = kind("Moth", 5, has={"v": 0.0})
    r = rule(
        "r",
        when=c("begins_to_touch", a="Moth", b="another Moth"),
        do=c("set_variable", variable="level.n", value="level.n * 100 + Moth.v * 10 + another_Moth.v"),
    )
    built = garden(r, moths=((0, 0), (4, 0)), kinds=(loud, LAMP))
    built = replace(
        built, objects=tuple(replace(o, values={"v": float(i + 1)}) for i, o in enumerate(built.objects))
    )
    assert run(built, 1).world.level["n"] == 1221


def test_once_is_for_the_first_match_once_for_all_for_a_whole_rule_and_one_at_a_time_sees_earlier_effects():
    many = {"moths": ((0, 0), (1, 0), (2, 0))}
    each = c("each_in_every_tick", who="Moth")
    once = rule("r", when=each, do=[replace(add("level.n"), once=True), add("level.m")])
    assert (run(garden(once, **many), 1).world.level["n"], run(garden(once, **many), 1).world.level["m"]) == (
        1,
        3,
    )
    whole = rule("r", when=each, do=[add("level.n"), add("level.m")], once_for_all=True)
    assert (
        run(garden(whole, **many), 1).world.level["n"],
        run(garden(whole, **many), 1).world.level["m"],
    ) == (1, 1)
    turn = [add("level.n"), c("set_variable", variable="Moth.v", value="level.n")]
    for at_a_time, seen in ((False, [3, 3, 3]), (True, [1, 2, 3])):
        made = run(garden(rule("r", when=each, do=turn, one_at_a_time=at_a_time), **many), 1)
        assert made.world.variables["v/number"].tolist() == seen


# touching, areas, counts, ends


@pytest.mark.parametrize(("gap", "touch"), [(0.0009, True), (0.0011, False)])
def test_shapes_touch_up_to_a_thousandth(gap, touch):
    r = rule("r", when=c("begins_to_touch", a="Moth", b="another Moth"), do=add("level.n"))
    made = run(garden(r, moths=((0, 0), (10 + gap, 0)), kinds=(kind("Moth", 5), LAMP)), 1)
    assert bool(fired(made, "r")) is touch
    assert "0.001" in PAGE


@pytest.mark.parametrize(("x", "inside"), [(20.0, 1.0), (20.0001, 0.0)])
def test_an_area_holds_what_has_its_middle_in_it_or_on_its_edge(x, inside):
    pond = Area(name="pond", x=0, y=0, shape=Circle(radius=20))
    r = rule("r", when=START, do=c("set_variable", variable="level.n", value="count_in(Moth, pond)"))
    assert run(garden(r, moths=((x, 0),), places=(pond,)), 1).world.level["n"] == inside


@pytest.mark.parametrize(("count", "made_"), [("2.9", 2), ("0.9", 0), ("-3", 0)])
def test_counts_are_rounded_down(count, made_):
    create = rule("r", when=START, do=c("create", count=count, kind="Lamp", where="Moth"))
    assert len(run(garden(create), 1).world.id) == 1 + made_
    repeat = rule("r", when=START, do=Clause(use="repeat", slots={"count": count}, of=(add("level.n"),)))
    assert run(garden(repeat), 1).world.level["n"] == made_
    first = rule(
        "r",
        when=c("each_in_every_tick", who="Moth"),
        if_=c("first_n", count=count, per="all matches"),
        do=add("level.n"),
    )
    assert run(garden(first, moths=((0, 0), (1, 0), (2, 0))), 1).world.level["n"] == made_


@pytest.mark.parametrize(
    ("how", "stops"), [("once", [3]), ("there and back", [1, 1]), ("in a loop", [3, 3, 3])]
)
def test_where_a_walk_ends(how, stops):
    route = Route(name="way", stops=(Stop(x=40, y=0), Stop(x=40, y=40), Stop(x=0, y=40)))
    walker = kind(
        "Moth",
        5,
        contact="none",
        has={"v": 0.0},
        behaviours=(c("walk_route", route="way", speed="60", how=how),),
    )
    end = rule("end", when=c("arrives_at_end", who="Moth"), do=c("note", text="{Moth.x},{Moth.y}"))
    made = run(garden(end, kinds=(walker, LAMP), places=(route,), seconds=7.6))
    came = [made.world_at(made.end_of(t)) for t, _ in fired(made, "end")]
    at = {1: (40, 0), 3: (0, 40)}
    assert [(w.x[0], w.y[0]) for w in came] == [pytest.approx(at[s], abs=1) for s in stops][: len(came)]
    assert len(came) == len(stops)


@pytest.mark.parametrize(
    ("easing", "curve"),
    [
        ("at constant speed", lambda t: t),
        ("easing in", lambda t: t * t),
        ("easing out", lambda t: t * (2 - t)),
        ("easing in and out", lambda t: 2 * t * t if t < 0.5 else 1 - 2 * (1 - t) ** 2),
    ],
)
def test_easing_is_the_curve_of_the_page(easing, curve):
    glide = rule("r", when=START, do=c("move_by_over", who="Moth", dx="100", dy="0", time="1", easing=easing))
    made = run(garden(glide, seconds=1.5))
    for tick in (7, 16, 31, 46, 60):
        assert made.world_at(made.end_of(tick)).x[0] == pytest.approx(100 * curve((tick - 1) / 60))
    assert made.world.x[0] == 100


# what is exact


def stated(words: str) -> str:
    return next(line for line in PAGE.splitlines() if line.startswith(f"| {words}"))


def places(make, times, row=0):
    found = []
    for rate in RATES:
        made = run(make(rate))
        worlds = [made.world_at(made.end_of(round(t * rate))) for t in times]
        found.append([(w.x[row], w.y[row]) for w in worlds])
    return np.array(found)


def after(behaviour, lamp, rate, own=(0.0, 0.0), more=()):
    return level(
        kinds=(
            kind("Lamp", 5, contact="none", behaviours=lamp),
            kind("Mover", 5, contact="none", behaviours=(behaviour,)),
            *more,
        ),
        objects=(
            *things("Mover", own),
            *things("Lamp", (200, 0), first=9),
            *(things("Post", (0, 0), first=20) if more else ()),
        ),
        places=(LINE, SQUARE),
        seconds=3.0,
        settings=Settings(rate=rate),
    )


@pytest.mark.parametrize(
    ("behaviour", "exact"),
    [
        (c("chase", target="Lamp", speed="40", gap="10"), lambda t: (40 * t, 0)),
        (
            c("chase", target="Lamp", speed="200", gap="20"),
            lambda t: (180 + 60 * t if t > 1.5 else 200 * t, 0),
        ),
        (
            c("go_to_goal", goal="Lamp", speed="200", gap="20"),
            lambda t: (180 + 60 * t if t > 1.5 else 200 * t, 0),
        ),
        (c("trail", leader="Lamp", lag="0.3"), lambda t: (182 + 60 * t - 182 * math.exp(-t / 0.3), 0)),
        (
            c("circle_around", centre="Lamp", radius="50", speed="90"),
            lambda t: (200 + 60 * t + 50 * math.cos(math.pi / 2 * t), 50 * math.sin(math.pi / 2 * t)),
        ),
    ],
    ids=["chase", "chase and keep a gap", "go to", "trail", "circle"],
)
def test_what_follows_something_that_goes_straight_is_exact(behaviour, exact):
    assert "0.000001 units" in stated("goals, chasing along a line")
    times = (0.5, 1.0, 2.0, 2.5, 3.0)
    found = places(lambda rate: after(behaviour, (WALK,), rate), times)
    assert np.abs(found - np.array([exact(t) for t in times])).max() < 1e-6


def test_what_circles_something_that_circles_is_exact():
    fly = c("circle_around", centre="Post", radius="50", speed="90")
    moon = c("circle_around", centre="Lamp", radius="20", speed="200")
    found = places(lambda rate: after(moon, (fly,), rate, more=(kind("Post", 5),)), (0.5, 1.0, 3.0))
    exact = [
        [50 * f(math.radians(90 * t)) + 20 * f(math.radians(200 * t)) for f in (math.cos, math.sin)]
        for t in (0.5, 1.0, 3.0)
    ]
    assert np.abs(found - np.array(exact)).max() < 1e-6


@pytest.mark.parametrize(
    ("behaviour", "lamp"),
    [
        (c("chase", target="Lamp", speed="80"), c("walk_route", route="square", speed="120")),
        (c("chase", target="Lamp", speed="80"), WALK),
        (c("trail", leader="Lamp", lag="0.3"), c("walk_route", route="square", speed="120")),
    ],
)
def test_what_follows_something_that_turns_agrees_as_the_page_says(behaviour, lamp):
    line = stated("chasing or trailing what turns")
    most = [float(n) for n in re.findall(r"[\d.]+", line.split("|")[2])]

    def path(rate):
        made = run(after(behaviour, (lamp,), rate, own=(200.0, -150.0)))
        worlds = [made.world_at(made.end_of(round(t * rate))) for t in (0.5, 1, 1.5, 2, 2.5, 3)]
        return np.array([(w.x[0], w.y[0]) for w in worlds])

    fine = path(240)
    for rate, allowed in zip(RATES, most, strict=True):
        assert np.abs(path(rate) - fine).max() < allowed


def test_what_chases_something_that_circles_is_a_tick_late_at_most():
    fly = c("circle_around", centre="Post", radius="50", speed="90")
    fast = c("chase", target="Lamp", speed="400")
    for rate in RATES:
        world = run(after(fast, (fly,), rate, more=(kind("Post", 5),))).world
        way = 50 * math.radians(90) / rate
        assert math.hypot(world.x[0] - world.x[1], world.y[0] - world.y[1]) <= way + 1e-9


def looking(rate):
    walker = kind(
        "Moth",
        5,
        contact="none",
        has={"v": 0.0},
        behaviours=(
            c("look_into", message="bang", hearing="500", speed="137", gap="18", time="0.43"),
            c("walk_route", route="square", speed="57"),
        ),
    )
    bang = rule("bang", when=c("after_start", time="0.5"), do=c("send_from", who="Lamp", message="bang"))
    return level(
        bang,
        kinds=(walker, LAMP),
        objects=(*things("Moth", (0, 0)), *things("Lamp", (103, 61), first=9)),
        places=(SQUARE,),
        seconds=4.0,
        settings=Settings(rate=rate),
    )


@pytest.mark.parametrize("rate", RATES)
def test_looking_into_a_noise_goes_back_to_exactly_where_it_broke_off_and_is_away_as_long_as_it_takes(rate):
    made = run(looking(rate))
    worlds = [made.world_at(made.end_of(t)) for t in range(1, made.done + 1)]
    away = [t for t, w in enumerate(worlds, 1) if w.variables["look_into.~stage"][0] > 0]
    left = worlds[away[0] - 2]
    home = [left.x[0], left.y[0]]
    # in the tick after it goes on from there, as if it had not been away
    undisturbed = run(replace(looking(rate), order=()))
    gone_on, as_if = worlds[away[-1]], undisturbed.world_at(undisturbed.end_of(away[0]))
    assert [gone_on.x[0], gone_on.y[0], gone_on.angle[0]] == [as_if.x[0], as_if.y[0], as_if.angle[0]]
    assert [worlds[away[-1] - 1].variables[f"look_into.~home_{a}"][0] for a in "xy"] == home
    way = math.hypot(103 - home[0], 61 - home[1]) - 18
    takes = 2 * way / 137 + 0.43
    assert takes - 1e-9 <= len(away) / rate <= takes + 1 / rate + 1e-9


@pytest.mark.parametrize("friction", [0.0, 0.5])
def test_what_a_behaviour_pushes_has_its_speed_at_every_rate_whatever_it_weighs(friction):
    def pushed(rate, mass):
        return level(
            kinds=(
                kind("Walker", 10, contact="movable", behaviours=(c("steer_eight_ways", speed="100"),)),
                kind("Crate", box=(20, 20), contact="movable", friction=friction, mass=mass),
            ),
            objects=(*things("Walker", (0, 0)), *things("Crate", (40, 0), first=9)),
            keys=(("Right", 0.0, 3.0),),
            seconds=2.0,
            settings=Settings(rate=rate),
        )

    for rate in RATES:
        for mass in (0.2, 1.0, 5.0):
            world = run(pushed(rate, mass)).world
            assert world.x.tolist() == pytest.approx([200, 220], abs=0.01 if not friction else 0.05)


def test_all_bounds_of_files_and_actions_are_told_as_the_page_says():
    for words in ("outside 0 … 1", "outside 10 … 240", "beyond 1e9", "0 or less"):
        assert words in PAGE


def test_the_bounds_of_work_on_the_page_are_those_of_the_program():
    from gatillo.level.validation import HARD_BOUNDS
    from gatillo.sim.collision import contacts as contact
    from gatillo.sim.collision import proximity as nearness
    from gatillo.sim.collision import raycast
    from gatillo.sim.motion import integration as flight
    from gatillo.sim.rules import action_context as deeds
    from gatillo.sim.rules import action_executor as turns
    from gatillo.sim.rules import executor, work
    from gatillo.sim.rules import firing_limits as limits

    bounds = (
        contact.MOST_PAIRS, flight.MOST_CROSSING, nearness._MOST_NEAR, turns.MOST_ONE_BY_ONE, limits.MOST_KEPT,
        turns.MOST_WAITING, executor.MOST_RESUMED, turns.MOST_TEXTS, deeds.MOST_NOTES,
        raycast.MOST_MEETINGS, work.MOST_WORK,
    )  # fmt: skip
    table = PAGE.split("| what | at most |", 1)[1].split("\n\n", 1)[0].splitlines()[2:]
    told = [int(re.search(r"[\d,]+", row.split("|")[2]).group().replace(",", "")) for row in table]
    assert told == list(bounds)
    assert all(f"{most:,}" in PAGE for most in HARD_BOUNDS.values())
