"""Movement on a carrier: what is attached may move of its own, and that adds to its carrier's motion."""

from __future__ import annotations

import cmath
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import EVERY_TICK, START, c, kind, level, rule, run, things
from gatillo.level.model import Clip, ClipPoint, Object

EASING = "at constant speed"


def deck(*order, rider=(), cart=(), at=(20.0, 10.0), rate=60, seconds=2.0, keys=(), **more):
    """A cart at (0, 0) with a rider on it."""
    return level(
        *order,
        kinds=(
            kind("Cart", behaviours=cart),
            kind("Rider", 5, behaviours=rider, **more.pop("rider_has", {})),
        ),
        objects=(
            Object(id=1, kind="Cart", name="Cart 1", x=0, y=0),
            Object(id=2, kind="Rider", name="Rider 1", x=at[0], y=at[1], attached="Cart 1"),
        ),
        rate=rate,
        seconds=seconds,
        keys=keys,
        **more,
    )


def drive(speed="60", turn="0"):
    """The cart goes right and turns, so much a second."""
    do = (
        c("move_by", who="Cart", dx=f"{speed} * dt", dy="0"),
        c("turn_by", who="Cart", angle=f"{turn} * dt"),
    )
    return rule("drive", when=EVERY_TICK, do=do, id=90)


def pose(world, row):
    return complex(world.x[row], world.y[row]), float(world.angle[row])


def in_frame(world):
    """Where the rider is, in the frame of the cart."""
    (cart, turned), (rider, _) = pose(world, 0), pose(world, 1)
    return (rider - cart) * cmath.exp(-1j * math.radians(turned))


STEER = c("steer_eight_ways", speed="30", facing="keeping its facing")


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize("speed", ["0", "60"])
def test_a_rider_walks_on_its_carrier_whatever_that_does(rate, speed):
    built = deck(drive(speed), rider=(STEER,), rate=rate, keys=(("Right", 0.5, 1.0), ("Up", 1.2, 1.5)))
    made = run(built)
    # a rule moves the cart after motion, so the rider follows that in the next tick
    late = float(speed) / rate
    assert cmath.isclose(in_frame(made.world), 20 + 10j + 30 * 0.5 + 30j * 0.3 - late, abs_tol=1e-6)


def test_one_that_does_not_move_of_its_own_stays_where_it_was_put():
    made = run(deck(drive("60", "90")))
    for tick in range(1, 120):
        world = made.world_at(made.end_of(tick))
        # rules move the cart after motion: the rider follows in the next tick
        before = made.world_at(made.end_of(tick - 1))
        (cart, turned), (rider, _) = pose(before, 0), pose(world, 1)
        assert cmath.isclose((rider - cart) * cmath.exp(-1j * math.radians(turned)), 20 + 10j, abs_tol=1e-6)


def test_it_steps_off_and_walks_on_by_itself():
    off = rule("off", when=c("after_start", time="1"), do=c("detach", who="Rider"), id=5)
    made = run(deck(drive(), off, rider=(STEER,), keys=(("Right", 1.2, 1.7),)))
    world = made.world
    assert math.isclose(world.x[1], 20 + 60 + 15, abs_tol=1.6)
    assert math.isclose(world.x[0], 120, abs_tol=1e-6)


@settings(max_examples=20)
@given(
    st.floats(-90, 90), st.floats(-40, 40), st.floats(-40, 40), st.integers(1, 60), st.sampled_from([30, 60])
)
def test_a_movement_over_a_time_is_along_the_carrier(turn, x, y, ticks, rate):
    """Its end is the point of the level where it is to go as things stand when it begins, in the carrier's frame."""
    go = rule(
        "go",
        when=c("after_start", time="0.5"),
        do=c("move_to_over", who="Rider", where=f"({x}, {y})", time=f"{ticks} / {rate}", easing=EASING),
        id=5,
    )
    made = run(deck(go, drive("0", str(turn)), rate=rate, seconds=(rate * 0.5 + ticks + 5) / rate))
    begun = round(0.5 * rate)
    at = made.world_at(made.end_of(begun))
    turned = float(made.world_at(made.end_of(begun - 1)).angle[0])
    end = complex(x, y) * cmath.exp(-1j * math.radians(turned))
    for step in range(1, ticks + 1):
        world = made.world_at(made.end_of(begun + step))
        before = made.world_at(made.end_of(begun + step - 1))
        rider, _ = pose(world, 1)
        frame = rider * cmath.exp(-1j * math.radians(float(before.angle[0])))
        assert cmath.isclose(frame, 20 + 10j + (end - (20 + 10j)) * step / ticks, abs_tol=1e-6)
    assert at.x[1] is not None


def test_a_hand_swings_by_a_clip_while_the_body_walks_and_turns():
    clip = Clip(name="swing", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=10, y=0, turn=40)))
    swing = rule(
        "swing",
        when=START,
        do=c("play_clip", clip="swing", who="Rider", how="once", speed="1", axes="the level's"),
        id=5,
    )
    made = run(deck(swing, drive("60", "30"), clips=(clip,)), ticks=61)
    world, before = made.world, made.world_at(made.end_of(60))
    (cart, turned), (rider, angle) = pose(before, 0), pose(world, 1)
    assert cmath.isclose((rider - cart) * cmath.exp(-1j * math.radians(turned)), 30 + 10j, abs_tol=1e-6)
    assert math.isclose(angle, turned + 40, abs_tol=1e-6)


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_it_turns_on_its_carrier_by_a_behaviour_and_over_a_time(rate):
    spin = c("spin", speed="45", about="in the plane")
    made = run(deck(drive("0", "90"), rider=(spin,), rate=rate, seconds=1))
    assert math.isclose(made.world.angle[1], 90 * (1 - 1 / rate) + 45, abs_tol=1e-6)
    turn = rule(
        "turn", when=START, do=c("turn_by_over", who="Rider", angle="90", time="0.5", easing=EASING), id=5
    )
    made = run(deck(turn, drive("0", "30"), rate=rate, seconds=1))
    assert math.isclose(made.world.angle[1], 30 * (1 - 1 / rate) + 90, abs_tol=1e-6)


def test_one_that_walks_against_its_carrier_stays_where_it_is_and_comes_to_the_end_of_the_deck():
    """In the level it does not move at all, and yet its place on the deck is another in every tick."""
    rider = (c("steer_eight_ways", speed="30", facing="keeping its facing"),)
    keys = (("Right", 0.5, 1.5),)
    drive_left = rule(
        "left",
        when=EVERY_TICK,
        if_=c("formula_holds", formula="time > 0.5 and time < 1.5"),
        do=c("set_velocity", who="Cart", dx="-30", dy="0"),
        id=8,
    )
    halt = rule(
        "halt",
        when=EVERY_TICK,
        if_=c("formula_holds", formula="time >= 1.5"),
        do=c("set_velocity", who="Cart", dx="0", dy="0"),
        id=9,
    )
    made = run(deck(drive_left, halt, rider=rider, keys=keys))
    world = made.world
    assert world.x[0] < -28
    assert math.isclose(world.x[1] - world.x[0], 20 + 30, abs_tol=1.1)
    later = [made.world_at(made.end_of(t)).x[1] for t in range(40, 80)]
    assert max(later) - min(later) < 1.1


def test_members_of_a_group_act_and_keep_their_offsets():
    """Two riders: one walks, the other stays."""
    built = level(
        drive(),
        kinds=(kind("Cart"), kind("Rider", 5, behaviours=(STEER,)), kind("Box", 5)),
        objects=(
            Object(id=1, kind="Cart", name="Cart 1", x=0, y=0),
            Object(id=2, kind="Rider", name="Rider 1", x=20, y=10, attached="Cart 1"),
            Object(id=3, kind="Box", name="Box 1", x=-20, y=10, attached="Cart 1"),
            Object(id=4, kind="Box", name="Box 2", x=-20, y=20, attached="Box 1"),
        ),
        keys=(("Right", 0.0, 0.5),),
    )
    world = run(built).world
    cart = world.x[0] - 1
    assert math.isclose(world.x[1], cart + 35, abs_tol=0.6)
    assert math.isclose(world.x[2], cart - 20, abs_tol=1e-6)
    assert (world.y[2], world.y[3]) == (10, 20)


def test_a_rule_that_puts_it_elsewhere_moves_it_on_its_carrier():
    put = rule("put", when=c("after_start", time="0.5"), do=c("move_by", who="Rider", dx="7", dy="0"), id=5)
    made = run(deck(put, drive()))
    assert math.isclose(made.world.x[1] - made.world.x[0], 27 - 1, abs_tol=1e-6)


def test_what_is_carried_in_front_of_somebody_does_not_move_of_its_own():
    pot = (c("be_carried", by="Cart", key="E", reach="50", ahead="20", far="900"), STEER)
    built = level(
        kinds=(kind("Cart"), kind("Pot", 5, behaviours=pot)),
        objects=(*things("Cart", (0, 0)), *things("Pot", (30, 0), first=9)),
        keys=(("E", 0.1, 0.2), ("Up", 0.5, 1.0)),
    )
    world = run(built).world
    assert math.isclose(world.x[1], 20, abs_tol=1e-6) and math.isclose(world.y[1], 0, abs_tol=1e-6)


def test_a_movement_that_ran_when_it_was_attached_is_over():
    go = rule("go", when=START, do=c("move_to_over", who="Rider", where="(500, 0)", time="2"), id=5)
    on = rule(
        "on",
        when=c("after_start", time="0.5"),
        do=c("attach", who="Rider", carrier="Cart", how="keeping the offset"),
        id=6,
    )
    off = rule("off", when=START, do=c("detach", who="Rider"), id=4)
    made = run(deck(off, go, on, seconds=1.5))
    half = made.world_at(made.end_of(31)).x[1]
    assert math.isclose(made.world.x[1], half, abs_tol=1e-6)


@pytest.mark.parametrize(
    "ends", [c("detach", who="Rider"), c("remove", who="Cart")], ids=["detached", "carrier removed"]
)
def test_a_wait_goes_on_when_the_movement_along_the_carrier_ends_early(ends):
    go = rule(
        "go",
        when=START,
        do=(
            c("move_by_over", who="Rider", dx="60", dy="0", time="2", easing=EASING),
            c("turn_by_over", who="Rider", angle="90", time="2", easing=EASING),
            c("wait_until_there", who="Rider"),
            c("note", text="there"),
        ),
        id=6,
    )
    off = rule("off", when=c("after_start", time="0.5"), do=ends, id=5)
    made = run(deck(go, off, seconds=3.0))
    noted = [tick for tick, _ in made.trace.notes]
    assert noted == [31]
    assert made.world.x[made.world.row_of_id(2)] == pytest.approx(20 + 60 * 0.25, abs=1.1)
