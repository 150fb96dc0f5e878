"""Formulas are followed over a run, or in one run more, for watches and expectations together."""

from __future__ import annotations

import pytest

from building import add, c, kind, level, rule, run, things
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.inspect import watching
from gatillo.inspect.expectations import judge, run_and_judge, to_follow
from gatillo.inspect.watching import Unanswered, follow
from gatillo.level.edits import as_tried
from gatillo.level.expectations import FiresTimes, HoldsAt, HoldsWhenever
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def counting(*expect):
    count = rule("count", when=c("every_tick"), do=add("level.n"))
    fifth = rule("fifth", if_=c("formula_holds", formula="level.n mod 5 = 0"), do=add("level.fives"))
    return run(level(count, fifth, has={"n": 0.0, "fives": 0.0}, expect=expect, seconds=0.5))


ALWAYS = HoldsAt(formula="level.n >= 0", when="always")
NEVER = HoldsAt(formula="level.n > 99", when="never")
BY = HoldsAt(formula="level.fives = 2", when="by", time=0.2)
WHENEVER = HoldsWhenever(rule="fifth", formula="level.n mod 5 = 0")
THEN = HoldsAt(formula="level.n = 30", when="at", time=0.5)


def test_what_must_be_followed_is_what_speaks_of_every_tick():
    made = counting(ALWAYS, NEVER, BY, WHENEVER, THEN, FiresTimes(rule="count", times=30), ALWAYS)
    assert list(to_follow(made.program, made.trial)) == [e.formula for e in (ALWAYS, NEVER, BY, WHENEVER)]
    assert [v.outcome for v in judge(made)] == ["held"] * 7


def test_however_much_is_expected_the_run_is_run_once_more(monkeypatch):
    made = counting(ALWAYS, NEVER, BY, WHENEVER)
    again = []

    class Counted(Run):
        def __init__(self, *given, **more):
            again.append(self)
            super().__init__(*given, **more)

    monkeypatch.setattr(watching, "Run", Counted)
    judge(made)
    assert len(again) == 1
    again.clear()
    assert follow(made, []) == []
    assert not again


def test_values_that_were_followed_already_give_the_same_verdicts():
    wrong = HoldsAt(formula="level.fives < 3", when="always")
    made = counting(ALWAYS, wrong, WHENEVER)
    formulas = to_follow(made.program, made.trial)
    known = dict(zip(formulas, follow(made, list(formulas.values())), strict=True))
    assert [v.sentence() for v in judge(made, known)] == [v.sentence() for v in judge(made)]
    assert [v.tick for v in judge(made, known)] == [None, 15, None]


def test_what_cannot_be_read_is_not_followed_and_is_told():
    made = counting(HoldsAt(formula="level.m > 0", when="always"), ALWAYS)
    assert list(to_follow(made.program, made.trial)) == [ALWAYS.formula]
    first, second = judge(made)
    assert (first.outcome, second.outcome) == ("could not be judged", "held")
    assert "“m”" in first.reason


def test_following_can_be_ended_between_ticks():
    made = counting(ALWAYS)
    asked = iter([False] * 7 + [True] * 99)
    (values,) = follow(made, list(to_follow(made.program, made.trial).values()), lambda: next(asked))
    assert len(values) == 8


@pytest.mark.parametrize("when", ["always", "never"])
def test_of_somebody_who_is_gone_nothing_can_be_said(when):
    gone = rule("gone", when=c("after_start", time="0.2"), do=c("remove", who="Pod"))
    expect = HoldsAt(formula="Pod.x < 0", when=when)
    made = run(
        level(gone, kinds=(kind("Pod", 5),), objects=things("Pod", (-5, 0)), expect=(expect,), seconds=0.5)
    )
    (values,) = follow(made, list(to_follow(made.program, made.trial).values()))
    assert values[11] is True
    assert isinstance(values[12], Unanswered)
    verdict = judge(made)[0]
    assert (verdict.outcome, verdict.tick) == ("could not be judged", 12)


@pytest.mark.parametrize("name", ["01-seed-pods", "06-moths", "14-loose-shutter", "22-night-lamps"])
def test_formulas_followed_in_the_run_itself_change_nothing_of_it_and_say_the_same(name):
    level = read_level(study_path(f"{name}.gatillo"))
    program = Program(as_tried(level, level.trials[0]))
    alone, along = Run(program, level.trials[0]), Run(program, level.trials[0])
    alone.advance()
    verdicts = run_and_judge(along)
    assert along.trace.to_bytes() == alone.trace.to_bytes()
    assert along.world.state_bytes() == alone.world.state_bytes()
    assert verdicts == judge(alone) and along.after_tick is None
