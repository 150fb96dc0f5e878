"""Expectations: held, failed with where and why, or not to be judged."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, heard, kind, level, rule, run, send, things
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.formula.compiling import compile_formula
from gatillo.inspect.comparison import compare
from gatillo.inspect.expectations import accepted, judge, run_and_judge, tally
from gatillo.inspect.watching import Unanswered, follow
from gatillo.level.edits import as_tried
from gatillo.level.expectations import FiresBefore, FiresInOrder, FiresTimes, HoldsAt, HoldsWhenever
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

RULES = (
    rule("first", when=START, do=send("go"), id=1),
    rule("second", when=heard("go"), do=add("level.n"), id=2),
    rule("pulse", when=c("every_seconds", period="0.25", first="0.25"), do=add("level.n"), id=3),
    rule("never", when=heard("nothing"), do=add("level.n"), id=4),
    rule("off", when=START, do=add("level.n"), on=False, id=5),
    rule("echo", when=c("every_seconds", period="0.25", first="0.25"), do=send("ping"), id=7),
    rule("broken", when=START, do=add("level.m"), id=6),
)


def verdict(expectation):
    built = level(
        *RULES[:6],
        has={"n": 0.0},
        kinds=(kind("Pod"),),
        objects=things("Pod", (1, 0), (9, 0)),
        expect=(expectation,),
    )
    return judge(run(built))[0]


@pytest.mark.parametrize(
    ("expectation", "outcome", "tick", "says"),
    [
        (FiresTimes(rule="pulse", times=4), "held", None, ""),
        (FiresTimes(rule="pulse", times=3), "failed", 60, "it fired 4 times"),
        (FiresTimes(rule="pulse", times=5), "failed", 60, "it fired 4 times by the end"),
        (FiresTimes(rule="pulse", how="at least", times=2), "held", None, ""),
        (FiresTimes(rule="pulse", how="at most", times=2), "failed", 45, "it fired 4 times"),
        (FiresTimes(rule="never", times=0), "held", None, ""),
        (FiresTimes(rule="off", times=0), "could not be judged", None, "is switched off"),
        (FiresTimes(rule="pluse", times=1), "could not be judged", None, "did you mean “pulse”"),
        (FiresTimes(rule="pulse", times=2, start=0.3, end=0.8), "held", None, ""),
        (FiresTimes(rule="pulse", times=1, start=0.6), "failed", 60, "it fired 2 times"),
        (FiresTimes(rule="pulse", times=3, end=0.5), "failed", 30, "it fired 2 times by the end"),
        (FiresTimes(rule="pulse", times=3, end=5.0), "could not be judged", None, "the run ends at 1 s"),
        (FiresInOrder(rules=("first", "second", "pulse")), "held", None, ""),
        (FiresInOrder(rules=("first", "pulse", "second")), "failed", 2, "before “pulse” at tick 15"),
        (FiresInOrder(rules=("first", "never")), "could not be judged", None, "never fired"),
        (FiresInOrder(rules=("pulse", "echo"), same_tick=True), "held", None, ""),
        (FiresInOrder(rules=("echo", "pulse"), same_tick=True), "failed", 15, "“echo” 2., “pulse” 1."),
        (FiresInOrder(rules=("first", "second"), same_tick=True), "failed", 2, "no tick in which all"),
        (HoldsWhenever(rule="pulse", formula="level.n > 1"), "held", None, ""),
        (HoldsWhenever(rule="pulse", formula="level.n < 4"), "failed", 45, "level.n is 4"),
        (HoldsWhenever(rule="never", formula="level.n < 4"), "could not be judged", None, "never fired"),
        (FiresBefore(first="first", then="second"), "held", None, ""),
        (FiresBefore(first="second", then="first"), "failed", 1, "with no “second” before it"),
        (FiresBefore(first="first", then="never"), "could not be judged", None, "“never” never fired"),
        (FiresBefore(first="first", then="pulse", within=0.1), "failed", 15, "0.233 s before"),
        (FiresBefore(first="first", then="pulse", within=0.3), "held", None, ""),
        (FiresBefore(first="first", then="pulse", every=True), "held", None, ""),
        (FiresBefore(first="first", then="pulse", every=True, within=0.5), "failed", 45, "0.733 s before"),
        (HoldsAt(formula="level.n = 2", time=0.25), "held", None, ""),
        (HoldsAt(formula="level.n = 0", time=0.0), "held", None, ""),
        (HoldsAt(formula="level.n = 9", time=0.5), "failed", 30, "it is not true then (level.n is 3)"),
        (HoldsAt(formula="level.n < 4", when="always"), "failed", 45, "it is not true then (level.n is 4)"),
        (HoldsAt(formula="level.n < 9", when="always"), "held", None, ""),
        (HoldsAt(formula="level.n > 3", when="never"), "failed", 45, "it is true then"),
        (HoldsAt(formula="level.n > 9", when="never"), "held", None, ""),
        (HoldsAt(formula="level.n > 2", when="by", time=0.5), "held", None, ""),
        (HoldsAt(formula="level.n > 4", when="by", time=0.5), "failed", 30, "had not come true"),
        (HoldsAt(formula="Pod.x > 0", when="always"), "held", None, ""),
        (HoldsAt(formula="Pod.x > 5", when="always"), "failed", 0, "it is not true then"),
        (HoldsAt(formula="level.m = 1"), "could not be judged", None, "no variable “m”"),
        (HoldsAt(formula="1 / level.n > 0"), "could not be judged", 0, "divides by zero"),
        (HoldsAt(formula="level.n = 1", time=9.0), "could not be judged", None, "the run ends at 1 s"),
    ],
)
def test_an_expectation_gets_its_verdict(expectation, outcome, tick, says):
    found = verdict(expectation)
    assert (found.outcome, found.tick) == (outcome, tick)
    assert says in found.reason
    sentence = found.sentence()
    assert found.outcome in sentence
    assert (f"failed at tick {tick} because" in sentence) == (outcome == "failed")


def test_a_firing_that_goes_on_after_a_wait_is_not_counted_again():
    r = rule("r", when=START, do=[c("wait", time="0.1"), add("level.n")])
    found = judge(run(level(r, has={"n": 0.0}, expect=(FiresTimes(rule="r", times=1),))))
    assert tally(found) == {"held": 1, "failed": 0, "could not be judged": 0}


def test_a_formula_is_followed_from_the_start_to_the_last_tick():
    made = run(level(rule("r", when=EVERY_TICK, do=add("level.n")), has={"n": 0.0}), 5)
    index = made.program.index
    n, fault = follow(made, [compile_formula(index, "level.n"), compile_formula(index, "1 / (level.n - 2)")])
    assert n == [0, 1, 2, 3, 4, 5]
    assert isinstance(fault[2], Unanswered)


def test_a_watched_object_that_goes_away_has_no_value_any_more():
    r = rule("r", when=c("every_seconds", period="9", first="0.05"), do=c("remove", who="Pod"))
    made = run(level(r, kinds=(kind("Pod"),), objects=things("Pod", (4, 0))), 5)
    (x,) = follow(made, [compile_formula(made.program.index, "Pod.x")])
    assert x[:3] == [4, 4, 4]
    assert "there is no Pod then" in x[3].reason


def test_two_runs_are_compared_by_rule_and_tick():
    def built(period):
        return level(
            rule("pulse", when=c("every_seconds", period=period, first="0.2"), do=add("level.n"), id=7),
            rule("steady", when=START, do=add("level.n"), id=8),
            has={"n": 0.0},
        )

    before, after = run(built("0.4")), run(built("0.3"))
    found = compare(before, after)
    assert found.gone == {7: (36, 60)}
    assert found.new == {7: (30, 48)}
    assert found.sentence() == "replayed: 2 firings moved"
    assert compare(before, before).sentence() == "replayed: same firings"
    fewer = compare(after, run(level(has={"n": 0.0})))
    assert fewer.sentence() == "replayed: 4 firings gone"


def test_an_accepted_order_holds_until_it_changes_and_the_change_is_shown():
    def built(*order):
        return level(*order, has={"n": 0.0})

    a, b = (rule(n, when=START, do=add("level.n"), id=i) for i, n in enumerate("ab", 1))
    order = accepted(run(built(a, b)))
    assert order.firings == ("1 a ×1", "1 b ×1")

    def judged(made):
        trial = replace(made.trial, expectations=(order,))
        return judge(run(replace(made.program.level, trials=(trial,))))[0]

    assert judged(run(built(a, b))).outcome == "held"
    changed = judged(run(built(b, a)))
    assert (changed.outcome, changed.tick) == ("failed", 1)
    assert "−1 a ×1" in changed.reason or "+1 b ×1" in changed.reason
    other_rate = judged(run(level(a, b, has={"n": 0.0}, rate=30)))
    assert other_rate.outcome == "could not be judged"


@pytest.mark.parametrize("name", ["07-night-crew.gatillo", "25-one-round.gatillo", "24-on-the-cart.gatillo"])
def test_what_is_noted_as_it_runs_is_what_is_there_when_it_is_looked_at_again(name):
    for trial in (lv := read_level(study_path(name))).trials:
        run = Run(Program(as_tried(lv, trial)), trial)
        verdicts = run_and_judge(run)
        assert run.noted or not any(getattr(e, "when", "") == "at" for e in trial.expectations)
        run.noted.clear()
        assert judge(run) == verdicts
