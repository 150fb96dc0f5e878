"""Carrying: by a press or while a key or button is held, what is near or what is pointed at, and what becomes of its speed."""

from __future__ import annotations

import math

import pytest
from msgspec.structs import replace

from building import add, c, kind, level, rule, run, things
from gatillo.level.model import Input, KeyBar, PointerMove, Trial


def carried(at=((30, 0),), *, keys=(), pointer=(), behaves=(), seconds=2.0, order=(), **how):
    how = {"by": "Gardener", "key": "E", "reach": "50", "ahead": "20", "far": "900", **how}
    built = level(
        *order,
        kinds=(
            kind("Gardener", behaviours=behaves),
            kind("Pot", 5, contact="sensed", behaviours=(c("be_carried", **how),)),
        ),
        objects=(*things("Gardener", (0, 0)), *things("Pot", *at, first=10)),
        has={"n": 0.0},
        seconds=seconds,
    )
    bars = tuple(KeyBar(key=k, start=a, end=b) for k, a, b in keys)
    moves = tuple(PointerMove(at=t, x=x, y=y) for t, x, y in pointer)
    trial = Trial(name="trial", length=seconds, input=Input(keys=bars, pointer=moves))
    return replace(built, trials=(trial,))


def is_held(made, number=0):
    return 10 + number in made.world.movement.bonds


def held_over_time(built, ticks=120, number=0):
    made, found = run(built, ticks=0), []
    for _ in range(ticks):
        made.advance(1)
        found.append(is_held(made, number))
    return found


def test_a_press_picks_it_up_and_the_next_lets_it_go():
    held = held_over_time(carried(keys=(("E", 0.2, 0.3), ("E", 1.0, 1.1))))
    assert held.index(True) == 11
    assert held[11:59] == [True] * 48 and not any(held[59:])


def test_while_the_key_is_held_it_is_carried_and_no_longer():
    held = held_over_time(carried(keys=(("E", 0.2, 1.0),), how="while it is held"))
    assert held.index(True) == 11
    assert all(held[11:59]) and not any(held[60:])


def test_a_pointer_button_picks_up_what_is_pointed_at_though_another_is_nearer():
    built = carried(
        at=((20, 0), (40, 0)),
        key="pointer left",
        what="what the pointer is on",
        how="while it is held",
        keys=(("pointer left", 0.2, 1.0),),
        pointer=((0.0, 40.0, 0.0),),
    )
    assert not any(held_over_time(built))
    second = held_over_time(built, number=1)
    assert second.index(True) == 11 and not any(second[60:])


def test_what_is_pointed_at_but_out_of_reach_is_not_picked_up():
    built = carried(
        at=((70, 0),), what="what the pointer is on", keys=(("E", 0.2, 0.3),), pointer=((0.0, 70.0, 0.0),)
    )
    assert not any(held_over_time(built))


@pytest.mark.parametrize(
    ("after", "goes_on"), [("it stops there", False), ("it keeps the speed of who carried it", True)]
)
def test_what_is_let_go_keeps_its_speed_or_stops(after, goes_on):
    walks = (c("steer_eight_ways", speed="60", left="A", right="D", up="W", down="S"),)
    built = carried(
        at=((0, 0),),
        behaves=walks,
        keys=(("E", 0.2, 0.3), ("D", 0.4, 1.5), ("E", 1.0, 1.1)),
        after=after,
    )
    made = run(built, ticks=59)
    assert is_held(made)
    made.advance(2)
    row = made.world.row_of_id(10)
    x = made.world.x[row]
    made.advance(30)
    assert math.isclose(made.world.x[row] - x, 30.0 if goes_on else 0.0, abs_tol=1e-6)


def test_a_prompt_is_answered_by_a_pointer_button():
    door = kind(
        "Door",
        behaviours=(c("prompt", text="open", by="Gardener", key="pointer right", hold="0", reach="60"),),
    )
    opened = rule("opened", when=c("prompt_completed", a="Door", by="Gardener"), do=add("level.n"))
    built = level(
        opened,
        kinds=(kind("Gardener"), door),
        objects=(*things("Gardener", (0, 0)), *things("Door", (30, 0), first=10)),
        has={"n": 0.0},
        keys=(("pointer right", 0.2, 0.3),),
    )
    assert run(built).world.level["n"] == 1
