"""Why not: what stood in the way, how far it was off, since when; and for one that never fires where it came closest."""

from __future__ import annotations

import pytest
from asking import told, why_not
from msgspec.structs import replace

from building import (
    EVERY_TICK,
    GARDENER,
    POD,
    TOUCH,
    add,
    c,
    heard,
    kind,
    level,
    rule,
    run,
    send,
    things,
)
from gatillo.inspect.reasons.asking import named_rule
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.model import Area, Rectangle, Section, Spot
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

HOME = (Spot(name="home", x=0.0, y=0.0),)


def yard(*order, **more):
    return run(
        level(
            *order,
            **{
                "kinds": (GARDENER, POD),
                "objects": (*things("Gardener", (0, 0)), *things("Pod", (100, 0), first=10)),
                "has": {"n": 0.0, "open": 3.0},
                "places": HOME,
                **more,
            },
        )
    )


def test_a_condition_that_dropped_it_is_told_with_both_values_and_how_far():
    made = yard(
        rule("r", when=EVERY_TICK, if_=c("formula_holds", formula="level.open < 2"), do=add("level.n"))
    )
    (obstacle,) = why_not(made, "r", 5).because()
    assert obstacle.sentence == "condition 1: level.open < 2: level.open was 3, 1 too much"
    assert obstacle.because()[0].sentence == "level.open was 3 — as it was at the start"


def test_a_distance_is_told():
    made = yard(
        rule(
            "r",
            when=EVERY_TICK,
            if_=c("within", who="Pod", distance="60", where="Gardener"),
            do=add("level.n"),
        )
    )
    assert "Pod 1 was 100 units from Gardener 1, 40 too far" in told(why_not(made, "r", 5))


def test_an_occasion_that_did_not_come_is_told_with_how_far_and_when_it_came():
    made = yard(rule("r", when=TOUCH, do=add("level.n")))
    assert "Gardener 1 and Pod 1 were 85 units apart, edge to edge" in told(why_not(made, "r", 5))
    assert "it never happened in this trial" in told(why_not(made, "r", 5))
    key = yard(rule("r", when=c("key_pressed", key="A"), do=add("level.n")), keys=(("A", 0.5, 0.6),))
    assert "it next happened at 0.500 s (tick 30)" in told(why_not(key, "r", 5))
    assert "it last happened at 0.500 s (tick 30)" in told(why_not(key, "r", 50))


@pytest.mark.parametrize(
    ("more", "tick", "said"),
    [
        (
            {"fires": "on becoming true"},
            20,
            "had held in the tick before already, since 0.017 s, when it fired",
        ),
        ({"fires": "first time only"}, 20, "the first time only, and that was used at 0.017 s"),
        ({"cooldown": 0.5}, 20, "it rests until 0.517 s (tick 31)"),
    ],
)
def test_what_holds_a_rule_back_is_told_since_when(more, tick, said):
    made = yard(rule("r", when=EVERY_TICK, do=add("level.n"), **more))
    assert said in told(why_not(made, "r", tick))


def test_one_that_still_waits_is_told_until_when():
    made = yard(
        rule("r", when=EVERY_TICK, do=(c("wait", time="0.5"), add("level.n")), while_waiting="ignore")
    )
    assert "it still waits, until 0.517 s" in told(why_not(made, "r", 20))


def test_one_that_is_switched_off_is_told_by_whom():
    made = yard(
        rule("off", when=c("after_start", time="0.2"), do=c("switch_rule_off", rule="r")),
        rule("r", when=EVERY_TICK, do=add("level.n")),
    )
    assert "it was switched off at 0.200 s by “off”, action 1" in told(why_not(made, "r", 20))
    still = yard(replace(rule("r", when=EVERY_TICK, do=add("level.n")), on=False))
    assert "it was switched off from the start" in told(why_not(still, "r", 20))
    section = yard(Section(name="part", on=False, rules=(rule("r", when=EVERY_TICK, do=add("level.n")),)))
    assert "its section “part” was switched off from the start" in told(why_not(section, "r", 20))


def test_objects_that_were_not_there_are_told():
    made = yard(
        rule(
            "make",
            when=c("after_start", time="0.5"),
            do=c("create", kind="Pod", count="1", where="Gardener 1"),
        ),
        rule("take", when=c("after_start", time="0.2"), do=c("remove", who="Pod 1")),
        rule(
            "r",
            when=c("each_in_every_tick", who="Pod"),
            do=add("Gardener 1.x".replace("Gardener 1.x", "level.n")),
        ),
    )
    assert "Pod 1 was not there: Pod 1 was removed at 0.200 s by “take”" in told(
        why_not(made, "r", 20, "Pod 1")
    )
    assert "Pod +1 was not there yet: created only at 0.500 s by “make”" in told(
        why_not(made, "r", 20, "Pod +1")
    )
    assert "there was no Pod" in told(why_not(made, "r", 20))


def test_a_pick_that_kept_another_is_told_by_how_much():
    made = yard(
        rule(
            "r",
            when=c("each_in_every_tick", who="Pod"),
            if_=c("nearest", a="Pod", where="home", per="all matches"),
            do=add("level.n"),
        ),
        objects=(*things("Gardener", (0, 0)), *things("Pod", (100, 0), (130, 0), first=10)),
    )
    assert "Pod 1 was kept with 100 units; this one has 130 units, 30 behind" in told(
        why_not(made, "r", 5, "Pod 2")
    )


def test_one_that_fired_for_another_is_not_taken_for_this_one():
    made = yard(
        rule(
            "r",
            when=c("each_in_every_tick", who="Pod"),
            if_=c("formula_holds", formula="Pod.x < 110"),
            do=add("level.n"),
        ),
        objects=(*things("Gardener", (0, 0)), *things("Pod", (100, 0), (130, 0), first=10)),
    )
    assert why_not(made, "r", 5, "Pod 1").sentence.startswith("“r” did fire")
    assert "Pod 2.x < 110: Pod 2.x was 130, 20 too much" in told(why_not(made, "r", 5, "Pod 2"))


def test_a_group_tells_which_member_stood_in_the_way():
    group = replace(
        c("all_of"),
        of=(c("formula_holds", formula="level.open > 1"), c("formula_holds", formula="level.n > 8")),
    )
    made = yard(rule("r", when=EVERY_TICK, if_=group, do=add("level.open")))
    words = told(why_not(made, "r", 5))
    assert "level.n was 0, 8 too little" in words and "level.open was" not in words


def test_a_rule_that_cannot_run_tells_the_problem():
    built = level(rule("r", when=EVERY_TICK, do=add("level.nothing")), has={"n": 0.0})
    made = run_trial(Program(built), built.trials[0])
    assert "it cannot run:" in told(why_not(made, "r", 5))
    assert "it cannot run:" in told(why_never(WhyNot(Explainer(made)), named_rule(made, "r")))


def test_a_rule_beside_one_that_cannot_run_tells_its_own_reason():
    built = level(
        rule("broken", when=EVERY_TICK, do=add("level.nothing")),
        rule("r", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 8"), do=add("level.n")),
        has={"n": 0.0},
    )
    made = run_trial(Program(built), built.trials[0])
    words = told(why_never(WhyNot(Explainer(made)), named_rule(made, "r")))
    assert "level.n was 0, 8 too little" in words


def test_a_rule_that_never_fired_tells_where_it_came_closest():
    made = yard(
        rule("grow", when=EVERY_TICK, do=add("level.n")),
        rule("fall", when=c("after_start", time="0.8"), do=c("set_variable", variable="level.n", value="0")),
        rule("r", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 100"), do=add("level.open")),
    )
    words = told(why_never(WhyNot(Explainer(made)), named_rule(made, "r")))
    assert "failed most often, in 60 of 60 ticks" in words
    assert "it came closest at 0.783 s (tick 47): level.n was 47, 53 too little" in words
    lonely = yard(rule("r", when=TOUCH, do=add("level.n")), objects=things("Pod", (0, 0)))
    assert "there is never a Gardener" in told(why_never(WhyNot(Explainer(lonely)), named_rule(lonely, "r")))


def test_a_message_that_nobody_sends_is_told():
    made = yard(
        rule("r", when=heard("bang"), do=add("level.n")),
        rule("s", when=c("key_pressed", key="A"), do=send("bang")),
    )
    assert "it is sent by “s”, and was never sent in this trial" in told(why_not(made, "r", 5))


@pytest.mark.parametrize(
    ("x", "y", "words"),
    [
        (70, 0, "50 units outside"),
        (0, 45, "35 units outside"),
        (23, 14, "5 units outside"),
        (-70, 3, "50 units outside"),
    ],
)
def test_how_far_an_object_is_from_a_rectangle_is_measured_to_its_edge(x, y, words):
    made = run(
        level(
            rule("r", when=EVERY_TICK, if_=c("in_area", who="Pod", place="bed"), do=c("note", text="in")),
            kinds=(kind("Pod", 5),),
            objects=things("Pod", (x, y)),
            places=(Area(name="bed", x=0, y=0, shape=Rectangle(width=40, height=20)),),
        ),
        3,
    )
    assert words in told(why_not(made, "r", 2))
