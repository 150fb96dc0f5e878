"""Findings for lines that do nothing, or undo what a line before them does."""

from __future__ import annotations

import pytest

from building import EVERY_TICK, START, add, c, isnt, kind, level, rule, run, things
from gatillo.inspect.findings import findings, repaired
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.sim.program.program import Program

KINDS = (
    kind("Cart", behaviours=[c("spin", speed="30", about="in the plane")]),
    kind("Pod", 5),
    kind("Ghost"),
)


def built(*do, when=START, if_=(), kinds=KINDS, **more):
    read = rule("read", when=START, if_=c("formula_holds", formula="level.n >= 0"), do=add("level.n"), id=900)
    return level(
        rule("r", when=when, if_=if_, do=do, **more),
        read,
        kinds=kinds,
        objects=(*things("Cart", (0, 0)), *things("Pod", (50, 0), first=9)),
        has={"n": 0.0},
    )


def told(lv):
    return [f.sentence() for f in findings(lv)]


def move(who="Cart", time="1"):
    return c("move_to_over", who=who, where="(9, 9)", time=time)


def turn(who="Cart", time="1"):
    return c("turn_by_over", who=who, angle="90", time=time)


THERE = c("wait_until_there", who="Cart")


def waits(seconds):
    return c("wait", time=str(seconds))


@pytest.mark.parametrize(
    "do",
    [
        [move(), c("move_by_over", who="Cart", dx="5", dy="0", time="1")],
        [move(time="2"), waits(1), move()],
        [turn(), turn()],
        [move(), c("add_to", variable="level.n", amount="1"), move()],
    ],
)
def test_a_movement_that_begins_before_the_one_before_has_ended_is_told_and_repaired(do):
    lv = built(*do)
    found = [f for f in findings(lv) if "ends there" in f.message]
    assert len(found) == 1 and found[0].line == len(do) - 1
    assert "wait until Cart is there" in found[0].repair_label
    better = repaired(lv, found[0])
    assert not Program(better).problems
    assert told(better) == []
    assert better.order[0].do[-2] == THERE


@pytest.mark.parametrize(
    "do",
    [
        [move(), THERE, move()],
        [move(), turn()],
        [move("Cart"), move("Pod")],
        [move(time="1"), waits(1), move()],
        [move(time="level.n"), c("wait_until", formula="level.n > 3"), move()],
    ],
)
def test_movements_that_do_not_meet_are_not_told(do):
    assert told(built(*do)) == []


def test_an_action_on_what_was_removed_is_told():
    at = built(c("remove", who="Pod"), c("turn_by", who="Pod", angle="9"))
    assert told(at) == ["rule “r”, do 2: line 1 has removed Pod, so this does nothing; put it above that"]
    assert told(built(c("turn_by", who="Pod", angle="9"), c("remove", who="Pod"))) == []
    # its last place can still be read
    assert told(built(c("remove", who="Pod"), c("create", count="1", kind="Cart", where="Pod"))) == []


@pytest.mark.parametrize("use", ["switch_behaviour_on", "switch_behaviour_off"])
def test_a_behaviour_that_nobody_has_is_told(use):
    assert told(built(c(use, behaviour="spin", who="Pod"))) == [
        "rule “r”, do 1: Pod has no behaviour “spin”, so there is nothing to switch"
    ]
    assert told(built(c(use, behaviour="spin", who="Cart"))) == []


@pytest.mark.parametrize(
    ("by", "says"), [("Ghost", "offered to nobody"), ("Cart", "offered to Cart alone"), ("Pod", "")]
)
def test_a_prompt_that_nobody_can_answer_is_told(by, says):
    asks = kind("Cart", behaviours=[c("prompt", text="Open", by=by, key="E", hold="0", reach="50")])
    add_one = built(add("level.n"), when=c("prompt_completed", who="Cart", by=by), kinds=(asks, *KINDS[1:]))
    found = [s for s in told(add_one) if "prompt is" in s]
    assert (len(found) == 1 and says in found[0]) if says else not found


def test_a_condition_that_is_settled_already_is_told():
    near = {"who": "Cart", "where": "Pod", "distance": "60"}
    twice = built(add("level.n", "dt"), when=EVERY_TICK, if_=[c("within", **near), c("within", **near)])
    assert told(twice) == ["rule “r”, if 2: this is always so: condition 1 asks the same"]
    never = built(add("level.n", "dt"), when=EVERY_TICK, if_=[c("within", **near), isnt("within", **near)])
    assert told(never) == ["rule “r”, if 2: this rule can never fire: condition 1 asks the opposite"]
    chance = c("formula_holds", formula="random(0, 1) < 0.5")
    assert told(built(add("level.n", "dt"), when=EVERY_TICK, if_=[chance, chance])) == []


@pytest.mark.parametrize(("behaviour", "many"), [("steer_by_keys", 1), ("spin", 0)])
def test_what_lags_behind_a_carrier_and_has_a_behaviour_that_moves_it_is_told(behaviour, many):
    kinds = (kind("Cart"), kind("Pod", 5, behaviours=(c(behaviour),)), kind("Ghost"))
    lags = c("attach_lagging", who="Pod", carrier="Cart", time="0.2")
    found = [s for s in told(built(lags, kinds=kinds)) if "lags behind its carrier" in s]
    assert len(found) == many and (not many or "its behaviour steer by keys" in found[0])
    # attached without a lag its own motion adds to the carrier's
    stays = c("attach", who="Pod", carrier="Cart")
    assert not any("lags" in s for s in told(built(stays, kinds=kinds)))


def test_why_it_never_fired_names_the_findings_of_the_rule():
    lv = built(
        add("level.n"),
        if_=(c("formula_holds", formula="level.n > 5"), isnt("formula_holds", formula="level.n > 5")),
    )
    made = run(lv, 5)
    never = why_never(WhyNot(Explainer(made)), next(r for r in made.program.rules if r.source.name == "r"))
    assert any("a check says of it" in r.sentence and "can never fire" in r.sentence for r in never.because())
