"""Formulas read what an object says and what the player is told: as it is, until it ends, and with its causes."""

from __future__ import annotations

import pytest

from building import add, c, fired, kind, level, rule, run, things
from gatillo.formula.compiling import compile_formula
from gatillo.inspect.expectations import judge
from gatillo.inspect.reasons.why import Explainer
from gatillo.level.expectations import HoldsAt
from gatillo.level.roles import Index


def talking(**more):
    """Ann says hello after half a second, for one second; the player is told something, and later nothing."""
    return level(
        rule(
            "Hello",
            when=c("after_start", time="0.5"),
            do=(
                c("say", text="hello {level.n}", who="Ann", time="1"),
                c("tell_player", text="It begins."),
                c("wait", time="0.5"),
                c("clear_message"),
            ),
            id=1,
        ),
        rule(
            "Quiet",
            if_=c("formula_holds", formula='saying(Ann) = ""'),
            do=add("level.quiet"),
            fires="on becoming true",
            id=2,
        ),
        rule(
            "Told",
            if_=c("formula_holds", formula='telling() = "It begins."'),
            do=add("level.told"),
            fires="on becoming true",
            id=3,
        ),
        kinds=(kind("Ann"), kind("Bob")),
        objects=(*things("Ann", (0, 0)), *things("Bob", (50, 0), first=2)),
        has={"n": 7.0, "quiet": 0.0, "told": 0.0},
        seconds=3.0,
        **more,
    )


def test_rules_hear_what_is_said_and_when_it_ends():
    made = run(talking())
    assert [tick for tick, _ in fired(made, "Hello")] == [30, 60]
    # said in tick 30 by a rule above: those below see it at once; it ends a second later
    quiet = [tick for tick, _ in fired(made, "Quiet")]
    assert quiet[0] == 1 and len(quiet) == 2 and 90 <= quiet[1] <= 91
    assert [tick for tick, _ in fired(made, "Told")] == [30]


@pytest.mark.parametrize(
    ("formula", "tick", "gives"),
    [
        ('saying(Ann) = "hello 7"', 30, True),
        ('saying(Ann) = "hello 7"', 29, False),
        ('saying(Ann) = ""', 92, True),
        ('saying(Bob) = ""', 40, True),
        ('telling() = "It begins."', 40, True),
        ('telling() = ""', 61, True),
        ('count_where(Ann, saying(Ann) <> "")  = 1', 40, True),
    ],
)
def test_formulas_give_what_is_said(formula, tick, gives):
    built = talking()
    made = run(built)
    asked = HoldsAt(formula=formula, time=tick / 60)
    (verdict,) = judge(made, None, [asked])
    assert verdict.outcome == ("held" if gives else "failed"), verdict.sentence()


def test_a_failed_expectation_shows_what_was_said():
    made = run(talking())
    (verdict,) = judge(made, None, [HoldsAt(formula='saying(Ann) = "bye" and telling() = "no"', time=0.7)])
    assert "saying(Ann) is hello 7" in verdict.reason and "telling() is It begins." in verdict.reason


def test_it_reads_nothing_else():
    formula = compile_formula(Index(talking()), "saying(Ann) = telling()", "yes/no")
    assert set(formula.reads) == {("Ann", "saying"), ("telling", "")}


def test_why_a_rule_heard_it_leads_to_who_said_it():
    made = run(talking())

    def why(name):
        index = next(rule.index for rule in made.program.rules if rule.source.name == name)
        firing = [f for f in made.trace.firings() if f.rule_index == index][-1]
        return "\n".join(Explainer(made).fired(firing.tick, firing.position).lines(depth=4))

    assert 'saying(Ann 1) = "": saying(Ann 1) was “”' in why("Quiet")
    assert "what is said by Ann 1 — set at 0.500 s by “Hello”, action 1" in why("Quiet")
    assert "“Hello”, action 2" in why("Told")


def test_a_run_that_is_resumed_is_the_same_to_the_byte():
    made = run(talking())
    for at in (29, 30, 45, 89, 90, 91, 120):
        again = made.world_at(made.end_of(at)).clone()
        assert again.display.sayings == made.world_at(made.end_of(at)).display.sayings
    assert run(talking()).trace.digest() == made.trace.digest()
