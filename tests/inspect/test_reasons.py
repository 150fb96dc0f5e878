"""Why: every kind of cause is told, as far down and as far forward as it goes."""

from __future__ import annotations

import pytest
from asking import told, why, why_not
from msgspec.structs import replace

from building import (
    EVERY_TICK,
    POD,
    START,
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
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.reasons.asking import named_object, named_rule
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.why import Explainer
from gatillo.level.edits import as_tried
from gatillo.level.model import Graph, Node, Section, Spot, Wire
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

# every kind of cause


def test_a_key_is_told_as_the_trials_input():
    made = run(
        level(
            rule("go", when=c("key_pressed", key="Space"), do=add("level.n")),
            has={"n": 0.0},
            keys=(("Space", 0.5, 0.6),),
        )
    )
    reason = why(made, "go")
    assert reason.sentence == "“go” fired at 0.500 s, 1st of tick 30"
    (because,) = reason.because()
    assert because.sentence == "because Space is pressed"
    (key,) = because.because()
    assert (key.sentence, key.sort, key.tick) == (
        "Space was pressed at 0.500 s, in the trial’s input",
        "input",
        30,
    )


def test_a_message_is_told_with_who_sent_it_and_why_that_fired():
    made = run(
        level(
            rule("say", when=c("after_start", time="0.2"), do=send("bang")),
            rule("hear", when=heard("bang"), do=add("level.n")),
            has={"n": 0.0},
        )
    )
    words = told(why(made, "hear"))
    assert "because bang is heard" in words
    assert "bang was sent at 0.200 s by “say”" in words
    assert "“say” fired at 0.200 s, 1st of tick 12" in words


def test_a_variable_is_told_with_its_value_and_its_last_writer_though_others_wrote_before():
    made = run(
        level(
            rule("first", when=START, do=c("set_variable", variable="level.open", value="5")),
            rule(
                "second",
                when=c("after_start", time="0.1"),
                do=(add("level.other"), c("set_variable", variable="level.open", value="1")),
            ),
            rule(
                "open",
                when=c("after_start", time="0.5"),
                if_=c("formula_holds", formula="level.open < 2"),
                do=add("level.other"),
            ),
            has={"open": 9.0, "other": 0.0},
        )
    )
    condition = why(made, "open").because()[1]
    assert condition.sentence == "and level.open < 2: it was 1 — set at 0.100 s by “second”, action 2"
    assert condition.because()[0].sentence == "“second” fired at 0.100 s, 1st of tick 6"


def test_a_writer_of_the_same_tick_counts_only_above_the_reader():
    made = run(
        level(
            rule("above", when=EVERY_TICK, do=c("set_variable", variable="level.a", value="tick")),
            rule(
                "reader",
                when=c("after_start", time="0.5"),
                if_=c("formula_holds", formula="level.a + level.b > 0"),
                do=add("level.n"),
            ),
            rule("below", when=EVERY_TICK, do=c("set_variable", variable="level.b", value="tick")),
            has={"a": 0.0, "b": 0.0, "n": 0.0},
        )
    )
    words = told(why(made, "reader"), 2)
    assert "level.a was 30 — set at 0.500 s by “above”, action 1" in words
    assert "level.b was 29 — set at 0.483 s by “below”, action 1" in words


def test_objects_are_told_by_who_created_and_who_removed_them():
    made = run(
        level(
            rule(
                "make",
                when=c("after_start", time="0.1"),
                do=c("create", kind="Pod", count="1", where="Pod 1"),
            ),
            rule("take", when=c("after_start", time="0.4"), do=c("remove", who="Pod")),
            kinds=(POD,),
            objects=things("Pod", (50, 50)),
        )
    )
    explainer = Explainer(made)
    created = named_object(made, "Pod +1")
    assert explainer.there(created, 10).sentence == "Pod +1 was created at 0.100 s by “make”, action 1"
    assert explainer.there(created, 40).sentence == "Pod +1 was removed at 0.400 s by “take”, action 1"
    assert explainer.there(1, 10).sentence == "Pod 1 is there from the start"


def test_a_contact_is_told_with_both_movements_and_what_moved_them():
    runner = kind("Gardener", 10, behaviours=(c("steer_eight_ways", speed="60"),))
    made = run(
        level(
            rule("got it", when=TOUCH, do=add("level.n")),
            kinds=(runner, POD),
            objects=(*things("Gardener", (0, 0)), *things("Pod", (40, 0), first=10)),
            has={"n": 0.0},
            keys=(("Right", 0.0, 1.0),),
        )
    )
    words = told(why(made, "got it"))
    assert "because Gardener 1 begins to touch Pod 1" in words
    assert "by its behaviour “steer in eight directions" in words
    assert "Right was pressed at 0.017 s, in the trial’s input" in words
    assert "Pod 1 stood at 40, 0 — as it was at the start" in words
    (firing,) = [f for f in made.trace.firings() if f.tick > 1]
    touch = Explainer(made).touching(1, 10, firing.tick)
    assert touch.sentence.startswith("Gardener 1 and Pod 1 touched")


def test_a_velocity_that_a_rule_gave_is_told_behind_the_place():
    made = run(
        level(
            rule(
                "throw",
                when=c("after_start", time="0.1"),
                do=c("set_velocity", who="Pod", dx="120", dy="0", axes="the level's"),
            ),
            rule(
                "far",
                if_=c("formula_holds", formula="Pod.x > 30"),
                do=add("level.n"),
                fires="first time only",
            ),
            kinds=(POD,),
            objects=things("Pod", (0, 0)),
            has={"n": 0.0},
        )
    )
    words = told(why(made, "far"), 5)
    assert "by its velocity 120, 0" in words
    assert "set at 0.100 s by “throw”, action 1" in words


def test_a_wait_is_told_with_where_it_began():
    made = run(
        level(
            rule("late", when=c("key_pressed", key="A"), do=(c("wait", time="0.3"), add("level.n"))),
            has={"n": 0.0},
            keys=(("A", 0.2, 0.3),),
        )
    )
    words = told(why(made, "late", 1))
    assert words.startswith("“late” went on at 0.500 s")
    assert "its wait was over: it began at 0.200 s" in words and "A was pressed at 0.200 s" in words


def test_an_else_is_told_with_the_condition_that_failed():
    made = run(
        level(
            rule(
                "either",
                when=START,
                if_=(c("formula_holds", formula="level.n < 5"), c("formula_holds", formula="level.n > 3")),
                do=add("level.n"),
                else_=add("level.m"),
            ),
            has={"n": 1.0, "m": 0.0},
        )
    )
    words = told(why(made, "either"))
    assert "did its “else”" in words
    assert "and level.n < 5: it was 1" in words and "and not: level.n > 3: it was 1" in words


def test_a_pick_is_told_with_the_next_best():
    made = run(
        level(
            rule(
                "near",
                when=c("each_in_every_tick", who="Pod"),
                if_=c("nearest", a="Pod", where="home", per="all matches"),
                do=add("level.n"),
                fires="first time only",
            ),
            kinds=(POD,),
            objects=things("Pod", (30, 0), (50, 0)),
            places=(Spot(name="home", x=0.0, y=0.0),),
            has={"n": 0.0},
        )
    )
    assert "of all matches: 30 units, the next, Pod 2, 50 units" in told(why(made, "near"))


def test_a_switched_on_rule_is_told_with_who_switched_it():
    made = run(
        level(
            rule("on", when=c("after_start", time="0.2"), do=c("switch_rule_on", rule="later")),
            replace(rule("later", when=EVERY_TICK, do=add("level.n")), on=False),
            has={"n": 0.0},
        )
    )
    assert "and it is on: switched at 0.200 s by “on”, action 1" in told(why(made, "later"))


def test_a_rule_in_a_section_that_was_switched_on_names_what_switched_the_section():
    later = Section(name="late", rules=(rule("later", when=EVERY_TICK, do=add("level.n")),), on=False)
    made = run(
        level(
            rule("on", when=c("after_start", time="0.2"), do=c("switch_section_on", section="late")),
            later,
            has={"n": 0.0},
        )
    )
    assert "and it is on: switched at 0.200 s by “on”, action 1" in told(why(made, "later"))


def test_a_graphs_firing_is_told_along_its_cards():
    drawn = Graph(
        id=900,
        name="sort",
        nodes=(
            Node(id=1, use="every_tick"),
            Node(id=2, use="formula_holds", slots={"formula": "level.n > 2"}),
            Node(id=3, use="add_to", slots={"amount": "1", "variable": "level.m"}),
        ),
        wires=(Wire(start="1", end="2"), Wire(start="2.yes", end="3")),
    )
    made = run(level(rule("count", when=EVERY_TICK, do=add("level.n")), drawn, has={"n": 0.0, "m": 0.0}))
    reason = why(made, "sort")
    assert [r.sentence for r in reason.because()] == [
        "because every tick",
        "and level.n > 2: it was 3 — set at 0.050 s by “count”, action 1",
    ]
    card = Explainer(made).card(3, 900, 3)
    assert card.sentence == "card 3 of “sort” ran at 0.050 s, for 1 match"
    assert len(card.because()) == 2
    with pytest.raises(ValueError, match="did not run"):
        Explainer(made).card(1, 900, 3)


def test_what_a_firing_caused_is_told_forward():
    made = run(
        level(
            rule("start", when=START, do=(c("set_variable", variable="level.open", value="1"), send("bang"))),
            rule("hear", when=heard("bang"), do=add("level.n")),
            rule(
                "read",
                when=c("after_start", time="0.3"),
                if_=c("formula_holds", formula="level.open = 1"),
                do=add("level.n"),
            ),
            has={"open": 0.0, "n": 0.0},
        )
    )
    words = told(caused(Explainer(made), 1, 1), 2)
    assert "it set level.open (action 1)" in words and "“read” fired at 0.300 s" in words
    assert "it sent bang (action 2)" in words and "“hear” fired at 0.033 s" in words


def test_a_prompt_is_told_with_who_may_answer_it_and_by_which_key():
    whole = read_level(study_path("20-hatch.gatillo"))
    made = run_trial(Program(as_tried(whole, whole.trials[0])), whole.trials[0])
    tick = next(t for t in range(1, made.done) if made.world_at(made.end_of(t)).prompts.offers)
    offer = made.world_at(made.end_of(tick)).prompts.offers[0]
    words = told(Explainer(made).prompt(offer.prompt, tick), 2)
    assert "was offered to" in words and f"by {offer.key}" in words and "stood at" in words
    assert "was not offered" in told(Explainer(made).prompt(offer.prompt, 1), 1)


def test_a_value_is_asked_about_by_a_formula():
    made = run(level(rule("r", when=c("after_start", time="0.5"), do=add("level.n", "4")), has={"n": 0.0}))
    reason = Explainer(made).value("level.n * 2", 60)
    assert reason.sentence == "level.n * 2 was 8 at the end of tick 60 (1.000 s)"
    assert reason.because()[0].sentence == "level.n was 4 — set at 0.500 s by “r”, action 1"


def test_what_there_is_not_is_said():
    made = run(level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}))
    with pytest.raises(ValueError, match="tick 2 has no firing 1"):
        Explainer(made).fired(2, 1)
    with pytest.raises(KeyError, match="did you mean"):
        named_rule(made, "R")
    with pytest.raises(ValueError, match="has not been run"):
        why_not(made, "r", 999)
