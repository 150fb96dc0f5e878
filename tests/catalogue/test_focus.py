"""Interaction focus: of several things the one that is meant, told once for each change."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, kind, level, rule, run, things


def bench(*tools, order=(), walls=(), measure="arc length", ray="by the measure alone", reach="120", **more):
    """A gardener at 0, 0 who looks to the right, and tools about."""
    looks = c("focus", on="Tool", reach=reach, half_angle="60", measure=measure, ray=ray)
    return level(
        *order,
        rule("gains", when=c("gains_focus", a="Tool", by="Gardener"), do=add("level.n")),
        rule("loses", when=c("loses_focus", a="Tool", by="Gardener"), do=add("level.n")),
        kinds=(
            kind("Gardener", 8, behaviours=(looks, c("steer_by_keys"))),
            kind("Tool", 5),
            kind("Wall", box=(6, 60), contact="fixed"),
        ),
        objects=(
            *things("Gardener", (0, 0)),
            *things("Tool", *tools, first=10),
            *things("Wall", *walls, first=50),
        ),
        has={"n": 0.0, "far": 0.0},
        **more,
    )


def meant(built, ticks=1):
    """The id of what the gardener's focus is on, 0 for nothing."""
    return run(built, ticks).world.focus.on.get(1, 0)


@pytest.mark.parametrize(
    ("measure", "wanted"),
    # at 40 units and 30° aside; at 100 units and 5° aside; at 30 units and 55° aside
    [("distance", 12), ("angle", 11), ("arc length", 11)],
)
def test_the_least_by_its_measure_has_the_focus(measure, wanted):
    built = bench((34.6, 20), (99.6, 8.7), (17.2, 24.6), measure=measure)
    assert meant(built) == wanted


def test_arc_length_is_the_angle_in_radians_times_the_distance():
    # 0.5 rad at 40 units (20) against 0.25 rad at 60 units (15)
    built = bench((35.1, 19.18), (58.13, 14.84))
    assert meant(built) == 11
    built = bench((35.1, 19.18), (96.89, 24.74))
    assert meant(built) == 10, "0.25 rad at 100 units is 25"


def test_what_lies_straight_ahead_comes_first_if_that_is_wanted():
    ahead = {"ray": "but what lies straight ahead first", "measure": "distance"}
    assert meant(bench((100, 0), (30, 20), **ahead)) == 10
    assert meant(bench((100, 0), (30, 20), walls=((60, 0),), **ahead)) == 11, "the ray ends at the wall"
    assert meant(bench((100, 0), (30, 20), measure="distance")) == 11


def test_nothing_out_of_reach_or_too_far_aside_or_hidden_is_meant():
    assert meant(bench((130, 0))) == 0
    assert meant(bench((10, 60))) == 0
    hide = rule("hide", when=START, do=c("hide", who="Tool"))
    assert meant(bench((50, 0), order=(hide,)), 2) == 0


def test_gained_and_lost_are_told_once_for_each_change():
    # it turns left, away from one tool and past the other
    built = bench((60, 0), (0, 60), keys=(("Left", 0.5, 2.0),), seconds=2.0)
    made = run(built)
    gains, loses = fired(made, "gains"), fired(made, "loses")
    # nothing; the first; the second; and in the end, looking back, none
    assert [n for _, n in gains] == [1, 1]
    assert len(loses) == 2
    assert gains[0][0] == 1
    assert gains[1][0] == loses[0][0], "the focus goes over in one tick"


def test_whether_it_has_the_focus_can_be_asked_in_every_tick():
    ask = rule("ask", if_=c("has_focus", a="Tool", by="Gardener"), do=add("level.far"))
    made = run(bench((50, 0), (0, -50), order=(ask,)))
    assert {n for _, n in fired(made, "ask")} == {1}
    assert len(fired(made, "ask")) == 60


def test_a_removed_thing_leaves_the_focus_without_being_told_as_lost():
    gone = rule("go", when=c("after_start", time="0.5"), do=c("remove", who="Tool 1"))
    made = run(bench((50, 0), order=(gone,)))
    assert not fired(made, "loses")
    assert made.world.focus.on == {}


def test_switching_the_focus_off_lets_go_of_it():
    off = rule(
        "off",
        when=c("after_start", time="0.5"),
        do=c("switch_behaviour_off", behaviour="focus", who="Gardener"),
    )
    made = run(bench((50, 0), order=(off,)))
    assert [t for t, _ in fired(made, "loses")] == [31]


def test_two_who_look_may_mean_the_same_thing():
    built = bench((50, 0))
    more = replace(built, objects=(*built.objects, *things("Gardener", (100, 0), first=5)))
    world = run(more, 1).world
    assert world.focus.on == {1: 10}, "the second looks away from it"
    asks = rule("r", when=EVERY_TICK, if_=c("has_focus", a="Tool", by="Gardener"), do=add("level.far"))
    turned = tuple(replace(o, angle=180.0) if o.id == 5 else o for o in more.objects)
    world = run(replace(more, objects=turned, order=(*more.order, asks)), 1).world
    assert world.focus.on == {1: 10, 5: 10}
    assert world.level["far"] == 2
