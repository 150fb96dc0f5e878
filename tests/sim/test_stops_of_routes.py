"""What happens at a route's stop: the leg after it, a message, and which way is faced there."""

from __future__ import annotations

import math
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import add, c, fired, heard, kind, level, rule, run, things
from gatillo.files.level_file import decode_level, encode_level
from gatillo.inspect.findings import findings
from gatillo.inspect.reasons.why import Explainer
from gatillo.language.renaming import rename, uses
from gatillo.level.model import Route, Stop
from gatillo.level.validation import flaws
from gatillo.sim.motion import routes
from plain_motion import own_of_a_stop

FIRST, SECOND, THIRD = Stop(x=0, y=0), Stop(x=100, y=0), Stop(x=100, y=60)


def yard(*stops, how="once", speed="50", rate=60, seconds=6.0, order=(), facing="keeping its facing"):
    walk = c("walk_route", route="way", speed=speed, how=how, facing=facing)
    return level(
        *order,
        kinds=(kind("Cart", 5, contact="none", behaviours=(walk,)),),
        objects=things("Cart", (0.0, 0.0)),
        places=(Route(name="way", stops=stops),),
        has={"n": 0.0},
        rate=rate,
        seconds=seconds,
    )


def at(made, seconds):
    world = made.world_at(made.end_of(round(seconds * made.program.rate)))
    return world.x.item(0), world.y.item(0), world.angle.item(0)


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_the_leg_after_a_stop_takes_its_own_time(rate):
    made = run(yard(replace(FIRST, time=4.0), SECOND, THIRD, rate=rate))
    assert at(made, 1)[0] == pytest.approx(25) and at(made, 4)[0] == pytest.approx(100)
    # then at the behaviour's speed again
    assert at(made, 4.6)[1] == pytest.approx(30)


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_the_leg_after_a_stop_goes_at_its_own_speed_and_eases(rate):
    made = run(yard(replace(FIRST, speed=25.0, easing="easing in"), SECOND, rate=rate))
    for seconds in (1, 2, 3.5):
        # quadratic, over the four seconds that the leg takes at that speed
        assert at(made, seconds)[0] == pytest.approx(100 * (seconds / 4) ** 2)


def test_an_easing_alone_eases_the_leg_at_the_behaviours_speed():
    made = run(yard(replace(FIRST, easing="easing in and out"), SECOND))
    assert at(made, 0.5)[0] == pytest.approx(200 * 0.25**2) and at(made, 1)[0] == pytest.approx(50)


def test_the_way_back_is_the_leg_of_the_stop_at_which_it_begins():
    made = run(yard(FIRST, replace(SECOND, time=1.0), how="there and back"))
    assert at(made, 2)[0] == pytest.approx(100) and at(made, 2.5)[0] == pytest.approx(50)
    assert at(made, 3)[0] == pytest.approx(0)


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_stop_sends_its_message_once_for_each_arrival_and_it_is_heard_in_the_next_tick(rate):
    count = rule("count", when=heard("ding"), do=add("level.n"))
    made = run(yard(FIRST, replace(SECOND, message="ding"), how="there and back", rate=rate, order=(count,)))
    assert [tick for tick, _ in fired(made, "count")] == [2 * rate + 1]
    assert made.world.level["n"] == 1


def test_a_message_of_a_stop_says_who_sent_it():
    at_it = c("heard_from", a="Cart", message="ding")
    count = rule("count", when=at_it, do=add("level.n"))
    made = run(yard(FIRST, replace(SECOND, message="ding"), order=(count,)))
    ((tick, _),) = fired(made, "count")
    words = "\n".join(one.sentence for one in every(Explainer(made).fired(tick, 1)))
    assert "ding was sent at 2.000 s by Cart 1, which came to stop 2 of way" in words


def every(reason):
    yield reason
    for ground in reason.because():
        yield from every(ground)


@pytest.mark.parametrize(
    ("stop", "how", "facing", "seen"),
    [
        # it stays so until something turns it
        (replace(SECOND, facing=135.0), "once", "keeping its facing", 135.0),
        (replace(SECOND, facing=135.0), "there and back", "keeping its facing", 135.0),
        # while it rests; after that it faces its way again
        (replace(SECOND, facing=135.0, pause=1.0), "there and back", "facing the way it goes", 135.0),
        (replace(SECOND, facing=135.0), "there and back", "facing the way it goes", 180.0),
    ],
)
def test_what_comes_to_a_stop_faces_as_the_stop_says(stop, how, facing, seen):
    made = run(yard(FIRST, stop, how=how, facing=facing))
    assert at(made, 2.1)[2] == pytest.approx(seen)
    assert at(made, 1.9)[2] == 0


def test_a_message_that_no_rule_hears_is_a_finding_and_one_that_a_stop_sends_is_none():
    stops = FIRST, replace(SECOND, message="dng")
    count = rule("count", when=heard("ding"), do=add("level.n"))
    told = [f.sentence() for f in findings(yard(*stops, order=(count,)))]
    assert any("“dng” is sent at stop 2" in s and "ding" in s for s in told)
    assert any("“ding” is heard but nothing sends it" in s for s in told)
    told = [f.sentence() for f in findings(yard(FIRST, replace(SECOND, message="ding"), order=(count,)))]
    assert not any("ding" in s for s in told)


def test_renaming_a_message_renames_it_at_stops():
    lv = yard(FIRST, replace(SECOND, message="ding"))
    assert [use.where for use in uses(lv, "message", "ding")] == ["the route way"]
    assert rename(lv, "message", "ding", "dong").places[0].stops[1].message == "dong"


def test_what_stops_have_is_saved_and_read():
    lv = yard(replace(FIRST, time=1.5, easing="easing in", message="go", facing=-90.0), SECOND)
    assert decode_level(encode_level(lv)) == lv


@pytest.mark.parametrize(
    ("stop", "says"),
    [
        (replace(FIRST, time=1.0, speed=3.0), "not both"),
        (replace(FIRST, message="a\x07"), "control character"),
    ],
)
def test_stops_that_cannot_be_are_refused(stop, says):
    assert any(says in flaw.message for flaw in flaws(yard(stop, SECOND)))


def test_a_walker_that_is_sent_anew_forgets_the_leg_that_it_was_on():
    again = rule(
        "again",
        when=c("after_start", time="1"),
        do=c("send_along", who="Cart", route="way", speed="100", how="once"),
    )
    made = run(yard(replace(FIRST, time=4.0), SECOND, order=(again,)))
    where = at(made, 1.2)[0]
    assert where == pytest.approx(25 - 20, abs=0.1) and not math.isnan(where)


# stops that are where something is


def chasing(where, *order, carts=((0.0, 0.0),), how="once", speed="50", aims=()):
    walk = c("walk_route", route="way", speed=speed, how=how, facing="keeping its facing")
    cart = kind("Cart", 5, contact="none", has={"aim": (0.0, 0.0)}, behaviours=(walk,))
    objects = [
        replace(o, values={"aim": aims[i]} if i < len(aims) else {})
        for i, o in enumerate(things("Cart", *carts))
    ]
    return level(
        *order,
        kinds=(cart, kind("Post", 5, contact="none")),
        objects=(*objects, *things("Post", (100, 0), first=50)),
        places=(Route(name="way", stops=(Stop(x=30, y=0, where=where), THIRD)),),
        has={"n": 0.0},
        seconds=6.0,
    )


@pytest.mark.parametrize("where", ["Post 1", "Post_1", "between(Post_1, (120, 0), 0)", "(100, 0)"])
def test_a_stop_is_where_an_object_or_a_formula_is(where):
    made = run(chasing(where))
    assert at(made, 1)[:2] == pytest.approx((50, 0)) and at(made, 2)[:2] == pytest.approx((100, 0))
    assert at(made, 2.6)[1] == pytest.approx(30)


def test_a_stop_moves_with_its_object():
    rises = rule("rises", do=c("move_by", who="Post", dx="0", dy="60 * dt"))
    made = run(chasing("Post 1", rises, speed="200"))
    tick = next(tick for tick in range(1, 200) if at(made, tick / 60)[0] > 99.9)
    # it arrives where the post stood at the end of the tick before
    assert at(made, tick / 60)[1] == pytest.approx(tick - 1, abs=3.5)


def test_each_walker_has_a_stop_of_its_own():
    carts, aims = ((0.0, 0.0), (0.0, 10.0), (0.0, 20.0)), ((40.0, 0.0), (0.0, 50.0), (40.0, 20.0))
    made = run(chasing("Cart.aim", carts=carts, aims=aims))
    world = made.world_at(made.end_of(48))
    assert np.column_stack((world.x, world.y))[:3] == pytest.approx(np.array(aims))


def test_a_stop_whose_object_is_gone_or_whose_formula_has_no_answer_is_where_it_was_drawn():
    gone = rule("gone", when=c("after_start", time="0.1"), do=c("remove", who="Post"))
    for lv in (chasing("Post 1", gone), chasing("(1 / level.n, 0)")):
        lv = replace(lv, places=(replace(lv.places[0], stops=lv.places[0].stops[:1]),))
        assert at(run(lv), 3)[:2] == pytest.approx((30, 0))


@pytest.mark.parametrize(
    ("where", "says"),
    [("Pot 1", "Post"), ("any light", "light"), ("level.n", "point"), ("Cart.amis", "aim")],
)
def test_where_a_stop_cannot_be_is_a_finding(where, says):
    told = [f.sentence() for f in findings(chasing(where)) if f.part == "stop"]
    assert len(told) == 1 and says in told[0]


def test_where_a_stop_is_follows_renaming():
    lv = rename(chasing("between(Post_1, Cart.aim, 0.5)"), "object", "Post 1", "Pole")
    assert lv.places[0].stops[0].where == "between(Pole, Cart.aim, 0.5)"
    assert [use.where for use in uses(lv, "object", "Pole")] == ["the route way"]
    assert (
        rename(lv, "kind variable", "aim", "goal", kind="Cart")
        .places[0]
        .stops[0]
        .where.endswith("Cart.goal, 0.5)")
    )


@given(st.integers(0, 10_000), st.integers(1, 6))
@settings(max_examples=25, deadline=None)
def test_stops_that_move_are_the_same_one_by_one_and_over_arrays(seed, many):
    any_ = Random(seed)
    carts = tuple((float(any_.randint(-50, 50)), float(any_.randint(-50, 50))) for _ in range(many))
    aims = tuple((float(any_.randint(-50, 50)), float(any_.randint(-50, 50))) for _ in range(many))
    where = any_.choice(["Cart.aim", "Post 1", "(1 / (Cart.x - 10), 3)", "offset(Cart, 40, 0)"])
    rises = rule("rises", do=c("move_by", who="Post", dx="0", dy="31 * dt"))
    lv = chasing(
        where, rises, carts=carts, aims=aims, how=any_.choice(["once", "in a loop", "there and back"])
    )
    stops = (replace(lv.places[0].stops[0], **own_of_a_stop(any_)), *lv.places[0].stops[1:])
    lv = replace(lv, places=(replace(lv.places[0], stops=stops),))
    few = run(lv, 120).world
    kept, routes.A_HANDFUL = routes.A_HANDFUL, 0
    try:
        arrays = run(lv, 120).world
    finally:
        routes.A_HANDFUL = kept
    for column in ("x", "y", "angle"):
        assert getattr(few, column).tolist() == getattr(arrays, column).tolist()
