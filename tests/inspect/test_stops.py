"""Stops: at which moments a run pauses."""

from __future__ import annotations

from building import EVERY_TICK, add, c, level, rule, run
from gatillo.inspect.moments import Stop, find_moments, stop_moments


def counting():
    return run(
        level(
            rule("up", when=EVERY_TICK, do=add("level.n")),
            rule(
                "back",
                when=EVERY_TICK,
                if_=c("formula_holds", formula="level.n >= 5"),
                do=c("set_variable", variable="level.n", value="0"),
            ),
            has={"n": 0.0},
        ),
        20,
    )


def ticks(moments):
    return [at.tick for at in moments]


def test_a_formula_is_found_in_each_tick_in_which_it_becomes_true():
    made = counting()
    found = find_moments(made, "level.n >= 3")
    # it stays true for two ticks, and is found once for both
    assert ticks(at for at, _ in found.moments) == [3, 8, 13, 18]


def test_a_run_pauses_at_every_stop_that_is_on_in_order():
    made = counting()
    on = [Stop("level.n >= 4"), Stop("level.n >= 3")]
    assert ticks(stop_moments(made, on)) == [3, 4, 8, 9, 13, 14, 18, 19]
    off = [on[0], Stop("level.n >= 3", on=False)]
    assert ticks(stop_moments(made, off)) == [4, 9, 14, 19]


def test_a_stop_that_cannot_be_read_pauses_nothing():
    assert stop_moments(counting(), [Stop("sends nothing of the kind"), Stop("level.n +")]) == []
    assert ticks(stop_moments(counting(), [Stop("level.n +"), Stop("level.n >= 4")])) == [4, 9, 14, 19]
