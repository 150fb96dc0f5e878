"""What goes wrong in a line is told, and nothing else is harmed; the bounds of a level."""

from __future__ import annotations

import pytest

from building import (
    EVERY_TICK,
    START,
    TOUCH,
    add,
    c,
    level,
    rule,
    run,
    touching_level,
)
from gatillo.level.model import Settings

# faults and bounds


def test_a_fault_skips_that_match_marks_the_firing_and_says_where():
    r = rule("share", when=TOUCH, do=c("set_variable", variable="level.n", value="6 / Pod.x"))
    made = run(level(r, has={"n": 0.0}, **touching_level([(0, 0), (3, 0)])), 1)
    assert made.world.level["n"] == 2
    assert made.trace.firings_at(1)[0].faulted
    fault = made.trace.faults[0]
    assert (fault.part, fault.line, fault.count) == ("do", 0, 1)
    assert fault.sentence == "“share”, do 1: divides by zero: “Pod.x” is 0"


def test_a_fault_in_a_condition_drops_the_match():
    r = rule("r", when=TOUCH, if_=c("formula_holds", formula="6 / Pod.x > 0"), do=add("level.n"))
    made = run(level(r, has={"n": 0.0}, **touching_level([(0, 0), (3, 0)])), 1)
    assert made.world.level["n"] == 1


def test_infinity_never_enters_the_level():
    r = rule(
        "r",
        when=EVERY_TICK,
        do=[c("set_variable", variable="level.n", value="1e308"), add("level.n", "1e308")],
    )
    made = run(level(r, has={"n": 0.0}), 2)
    assert made.world.level["n"] == 1e308
    assert "range of numbers" in made.trace.faults[0].sentence


def test_a_negative_wait_faults():
    r = rule("r", when=START, do=[c("wait", time="0 - 1"), add("level.n")])
    made = run(level(r, has={"n": 0.0}))
    assert made.world.level["n"] == 0
    assert "cannot be below 0" in made.trace.faults[0].sentence


@pytest.mark.parametrize(
    ("bound", "do", "says"),
    [
        (
            {"most_creations": 10},
            c("create", count="100", kind="Pod", where="Gardener"),
            "10 creations a tick",
        ),
        ({"most_objects": 20}, c("create", count="100", kind="Pod", where="Gardener"), "20 objects"),
        ({"most_messages": 5}, c("send_message", message="m"), "5 messages a tick"),
        (
            {"most_matches": 50},
            c("set_variable", variable="level.n", value="Pod.x + another_Pod.x"),
            "level's bound is 50",
        ),
    ],
)
def test_reaching_a_bound_is_a_fault_with_a_sentence(bound, do, says):
    r = rule("storm", when=c("touches", a="Gardener", b="Pod"), do=do)
    built = level(
        r, has={"n": 0.0}, **touching_level([(i % 5, i // 5) for i in range(15)]), settings=Settings(**bound)
    )
    made = run(built, 3)
    assert "storm" in made.trace.faults[0].sentence
    assert says in made.trace.faults[0].sentence
