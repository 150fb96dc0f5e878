"""Movements one after the other: a list of actions that waits until an object is where it goes, and turns over a time."""

from __future__ import annotations

import cmath
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from building import START, add, c, kind, level, rule, run, things
from gatillo.level.model import Clip, ClipPoint, Route, Stop

CART = kind("Cart")
EASINGS = ("at constant speed", "easing in", "easing out", "easing in and out")


def way(part, easing):
    """How far a movement has come, as docs/catalogue.md says: quadratic."""
    if easing == "easing in":
        return part**2
    if easing == "easing out":
        return 1 - (1 - part) ** 2
    if easing == "easing in and out":
        return 2 * part**2 if part < 0.5 else 1 - 2 * (1 - part) ** 2
    return part


def move(to, time, easing=EASINGS[0]):
    return c("move_to_over", who="Cart", where=to, time=str(time), easing=easing)


def turn(angle, time, easing=EASINGS[0]):
    return c("turn_by_over", who="Cart", angle=str(angle), time=str(time), easing=easing)


THERE = c("wait_until_there", who="Cart")


def yard(*do, objects=((0.0, 0.0),), rate=60, seconds=4.0, **more):
    return level(
        rule("go", when=START, do=do),
        *more.pop("order", ()),
        kinds=(CART,),
        objects=things("Cart", *objects),
        has={"n": 0.0},
        rate=rate,
        seconds=seconds,
        **more,
    )


@given(
    st.lists(
        st.tuples(
            st.integers(-200, 200), st.integers(-200, 200), st.integers(1, 40), st.sampled_from(EASINGS)
        ),
        min_size=1,
        max_size=4,
    ),
    st.sampled_from([30, 60, 120]),
)
def test_movements_in_turn_are_where_their_closed_form_says_in_every_tick(legs, rate):
    """A leg of so many ticks begins in the tick in which the one before has come to its end."""
    do = []
    for x, y, ticks, easing in legs:
        do += [move(f"({x}, {y})", f"{ticks} / {rate}", easing), THERE]
    made = run(yard(*do, rate=rate, seconds=(sum(t for _, _, t, _ in legs) + 3) / rate))
    begins, start = 1, 0j
    for x, y, ticks, easing in legs:
        end = complex(x, y)
        for tick in range(begins + 1, begins + ticks + 1):
            at = made.world_at(made.end_of(tick))
            wanted = start + (end - start) * way((tick - begins) / ticks, easing)
            assert cmath.isclose(complex(at.x[0], at.y[0]), wanted, abs_tol=1e-6)
        begins, start = begins + ticks, end
    assert (made.world.x[0], made.world.y[0]) == (start.real, start.imag)


@given(st.floats(-2000, 2000), st.integers(1, 30), st.sampled_from(EASINGS), st.sampled_from([30, 60, 120]))
def test_a_turn_over_a_time_is_where_its_closed_form_says(angle, ticks, easing, rate):
    made = run(yard(turn(angle, f"{ticks} / {rate}", easing), rate=rate, seconds=(ticks + 2) / rate))
    for tick in range(2, ticks + 2):
        turned = made.world_at(made.end_of(tick)).angle[0]
        wanted = angle * way((tick - 1) / ticks, easing)
        assert math.isclose((turned - wanted + 180) % 360, 180, abs_tol=1e-6)
    assert not made.world.movement.turns


def test_a_round_in_one_rule_moves_turns_and_comes_back():
    made = run(
        yard(move("(60, 0)", 1), THERE, turn(180, 0.5), THERE, move("(0, 0)", 1), THERE, add("level.n")),
        ticks=1 + 60 + 30 + 60,
    )
    world = made.world
    assert (world.x[0], world.y[0], world.angle[0]) == (0, 0, 180)
    assert world.level["n"] == 1
    assert not world.rules.waits


def test_what_goes_on_sees_the_object_at_its_end():
    made = run(yard(move("(60, 0)", 1), THERE, c("create", count="1", kind="Cart", where="Cart 1")), ticks=62)
    assert made.world.x.tolist() == [60.0, 60.0]


def test_each_match_waits_for_its_own_object():
    matched = rule(
        "matched",
        when=START,
        if_=c("formula_holds", formula="Cart.x > 0"),
        do=(
            c("move_to_over", who="Cart", where="(100, 0)", time="Cart.x / 60", easing=EASINGS[0]),
            THERE,
            c("put_at", who="Cart", where="(0, 7)"),
        ),
        id=4,
    )
    made = run(yard(objects=((10.0, 0.0), (20.0, 0.0), (30.0, 0.0)), order=(matched,)), ticks=1)
    arrived = {}
    for tick in range(2, 40):
        made.advance(1)
        for number, y in enumerate(made.world.y.tolist()):
            if y == 7 and number not in arrived:
                arrived[number] = tick
    assert arrived == {0: 11, 1: 21, 2: 31}


def test_who_is_stopped_goes_on_and_who_is_removed_does_not():
    halt = rule(
        "halt",
        when=c("every_seconds", period="1", first="0.25"),
        do=(c("stop", who="Cart 1"), c("remove", who="Cart 2")),
        id=7,
    )
    made = run(
        yard(move("(60, 0)", 1), THERE, add("level.n"), objects=((0, 0), (0, 9)), order=(halt,)), ticks=30
    )
    assert made.world.level["n"] == 1
    assert made.world.x[0] < 20


def test_one_that_does_not_move_goes_on_in_the_next_tick():
    made = run(yard(THERE, add("level.n")), ticks=1)
    assert made.world.level["n"] == 0
    made.advance(1)
    assert made.world.level["n"] == 1


def test_it_waits_for_clips_and_for_routes_too():
    clip = Clip(name="hop", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=0.5, x=5, y=0)))
    built = yard(
        c("play_clip", clip="hop", who="Cart", how="once", speed="1", axes="the level's"),
        THERE,
        add("level.n"),
        c("send_along", who="Cart", route="way", speed="60", how="once"),
        THERE,
        add("level.n"),
        clips=(clip,),
        places=(Route(name="way", stops=(Stop(x=5, y=0), Stop(x=35, y=0))),),
    )
    made = run(built, ticks=1)
    seen = []
    for _ in range(80):
        made.advance(1)
        seen.append(made.world.level["n"])
    assert seen.index(1) == 29, "the clip ends 30 ticks after the first"
    assert 59 <= seen.index(2) <= 61, "the route takes half a second"


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_the_rates_agree(rate):
    made = run(
        yard(move("(60, 30)", 0.5, EASINGS[3]), THERE, turn(90, 0.5), THERE, move("(0, 9)", 1), rate=rate),
    )
    now = [made.world_at(made.end_of(round(s * rate))) for s in (0.9, 1.5)]
    assert np.allclose([w.angle[0] for w in now], [90 * (0.4 - 1 / rate) / 0.5, 90], atol=0.01)
    assert (made.world.x[0], made.world.y[0]) == (0, 9)


def test_objects_that_are_only_looked_for_are_waited_for_all_together():
    """As in all actions, the lines below are about the matches of the rule, not about each of those objects."""
    do = (
        c("move_to_over", who="Cart", where="(0, 0)", time="Cart.x / 60", easing=EASINGS[0]),
        THERE,
        add("level.n"),
    )
    made = run(yard(*do, objects=((10.0, 0.0), (20.0, 0.0), (30.0, 0.0))), ticks=30)
    assert made.world.level["n"] == 0
    made.advance(1)
    assert made.world.level["n"] == 1


def test_a_rule_that_waits_for_an_object_is_not_begun_again():
    again = rule(
        "again", when=c("key_pressed", key="E"), do=(move("(60, 0)", 1), THERE, add("level.n")), id=3
    )
    built = yard(order=(again,), keys=(("E", 0.1, 0.2), ("E", 0.5, 0.6)), seconds=3)
    made = run(built)
    assert next(f.tick for f in made.trace.firings() if made.program.rules[f.rule_index].source.id == 3) == 6
    assert made.world.level["n"] == 1
