"""Why and why not: every stated cause is one, every stated value is the replay's, every obstacle is what stood in the way."""

from __future__ import annotations

import random

import numpy as np
import pytest
from msgspec.structs import replace

from building import (
    EVERY_TICK,
    GARDENER,
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
from gatillo.catalogue import CATALOGUE
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.reasons.asking import named_object, named_turn
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.journal import Journal, upto_end
from gatillo.inspect.reasons.measures import MEASURES, measure
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.picks import SCORES
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.edits import as_tried
from gatillo.level.model import Graph, Level, Node, Section, Spot, Wire
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial
from gatillo.sim.run.tick import run_tick
from gatillo.sim.trace.trace import NullRecorder, Way
from gatillo.sim.world.world import World

ENDS = {"start", "input", "chance", "note", "limit", "motion"}


def told(reason: Reason, depth: int = 4) -> str:
    return "\n".join(reason.lines(depth))


def why(made: Run, name: str, nth: int = 0, about: int | None = None) -> Reason:
    firing = [f for f in made.trace.firings() if made.program.turns[f.turn].rule.name == name][nth]
    return Explainer(made).fired(firing.tick, firing.position, about)


def why_not(made: Run, name: str, tick: int, *objects: str) -> Reason:
    return WhyNot(Explainer(made)).at(
        named_turn(made, name), tick, tuple(named_object(made, o) for o in objects)
    )


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
        named_turn(made, "R")
    with pytest.raises(ValueError, match="has not been run"):
        why_not(made, "r", 999)


# why not


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
    assert "it never came in this trial" in told(why_not(made, "r", 5))
    key = yard(rule("r", when=c("key_pressed", key="A"), do=add("level.n")), keys=(("A", 0.5, 0.6),))
    assert "it next came at 0.500 s (tick 30)" in told(why_not(key, "r", 5))
    assert "it last came at 0.500 s (tick 30)" in told(why_not(key, "r", 50))


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
    assert "it cannot run:" in told(why_never(WhyNot(Explainer(made)), named_turn(made, "r")))


def test_a_rule_that_never_fired_tells_where_it_came_closest():
    made = yard(
        rule("grow", when=EVERY_TICK, do=add("level.n")),
        rule("fall", when=c("after_start", time="0.8"), do=c("set_variable", variable="level.n", value="0")),
        rule("r", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 100"), do=add("level.open")),
    )
    words = told(why_never(WhyNot(Explainer(made)), named_turn(made, "r")))
    assert "failed most often, in 60 of 60 ticks" in words
    assert "it came closest at 0.783 s (tick 47): level.n was 47, 53 too little" in words
    lonely = yard(rule("r", when=TOUCH, do=add("level.n")), objects=things("Pod", (0, 0)))
    assert "there is never a Gardener" in told(why_never(WhyNot(Explainer(lonely)), named_turn(lonely, "r")))


def test_a_message_that_nobody_sends_is_told():
    made = yard(
        rule("r", when=heard("bang"), do=add("level.n")),
        rule("s", when=c("key_pressed", key="A"), do=send("bang")),
    )
    assert "it is sent by “s”, and was never sent in this trial" in told(why_not(made, "r", 5))


# truth


def random_level(chance: random.Random) -> Level:
    """Rules that send, hear, write and read, by chance."""
    rules = []
    for at in range(chance.randint(3, 8)):
        when = chance.choice(
            [
                EVERY_TICK,
                (),
                heard(chance.choice("ab")),
                c("key_pressed", key=chance.choice("XY")),
                c("each_in_every_tick", who="Pod"),
                c("variable_changes", variable="level.v1"),
            ]
        )
        who = "Pod" if when != () and getattr(when, "use", "") == "each_in_every_tick" else "level"
        left = f"{who}.v{chance.randint(1, 3)}" if who == "level" else "Pod.size"
        if_ = [
            c(
                "formula_holds",
                formula=f"{left} {chance.choice(['<', '>', '<=', '>=', '='])} {chance.randint(0, 6)}",
            )
            for _ in range(chance.randint(0, 2))
        ]
        do = [
            chance.choice(
                [
                    add(f"level.v{chance.randint(1, 3)}", str(chance.randint(1, 3))),
                    c(
                        "set_variable",
                        variable=f"level.v{chance.randint(1, 3)}",
                        value=str(chance.randint(0, 6)),
                    ),
                    send(chance.choice("ab")),
                    *([add("Pod.size")] if who == "Pod" else []),
                ]
            )
            for _ in range(chance.randint(1, 3))
        ]
        fires = chance.choice(["each tick", "each tick", "on becoming true", "first time only"])
        rules.append(
            rule(
                f"r{at}",
                when=when,
                if_=if_,
                do=do,
                fires=fires,
                cooldown=chance.choice([0.0, 0.0, 0.1]),
                id=100 + at,
            )
        )
    return level(
        *rules,
        kinds=(replace(POD, variables=kind("Pod", has={"size": 0.0}).variables),),
        objects=things("Pod", (0, 0), (50, 0)),
        has={f"v{n}": 0.0 for n in (1, 2, 3)},
        keys=tuple((key, t, t + 0.05) for key, t in (("X", 0.1), ("Y", 0.2), ("X", 0.3))),
        seconds=0.5,
    )


@pytest.mark.parametrize("seed", range(25))
def test_each_stated_value_is_the_replays_and_each_stated_writer_wrote_it(seed):
    made = run_trial(Program(built := random_level(random.Random(seed))), built.trials[0])
    explainer = Explainer(made)
    firings = made.trace.firings()
    for firing in random.Random(seed).sample(firings, min(12, len(firings))):
        for reason in explainer.fired(firing.tick, firing.position).walk(4):
            if (
                reason.sort in ("written", "condition")
                and " was " in reason.sentence
                and "— set at" in reason.sentence
            ):
                check_written(made, reason)


def check_written(made: Run, reason: Reason) -> None:
    """The stated writer's firing wrote that variable, and nothing between it and the reading did."""
    _words, _, tail = reason.sentence.partition(" — set at ")
    by = tail.split("“")[1].split("”")[0]
    (writing,) = reason.because()
    firing = made.trace.firings_at(writing.tick)[writing.position - 1]
    assert made.program.turns[firing.turn].rule.name == by
    changes = made.witness(writing.tick)[writing.position - 1].changes
    assert changes, reason.sentence


@pytest.mark.parametrize("seed", range(25))
def test_taking_a_stated_message_or_key_away_takes_the_firing_away(seed):
    built = random_level(random.Random(seed))
    made = run_trial(Program(built), built.trials[0])
    explainer = Explainer(made)
    heard_by = [f for f in made.trace.firings() if _listens(made, f)]
    for firing in heard_by[:3]:
        (occasion, *_) = explainer.fired(firing.tick, firing.position).because()
        senders = [r for r in occasion.because() if " was sent at " in r.sentence]
        assert senders, occasion.sentence
        for sender in senders:
            assert sender.tick == firing.tick - 1
        # the same run up to the tick before; then nothing was sent
        world = made.world_at(made.end_of(firing.tick - 1)).clone()
        world.messages.heard = {}
        assert firing.turn not in fired_next(made.program, world, made)


class _Fired(NullRecorder):
    def __init__(self) -> None:
        self.turns: list[int] = []

    def fires(self, turn: int, matches: int, way: Way) -> None:
        self.turns.append(turn)


def fired_next(program: Program, world: World, made: Run) -> list[int]:
    """The turns that fire in the next tick of a world, with the input of a run."""
    seen = _Fired()
    run_tick(program, world, made.script.at(world.tick + 1), seen)
    return seen.turns


def _listens(made: Run, firing) -> bool:
    turn = made.program.turns[firing.turn]
    return any(step.clause.use == "message_heard" for step in turn.when)


@pytest.mark.parametrize("first", range(0, 30, 6))
def test_a_stated_condition_made_false_takes_the_firing_away(first):
    """A rule put right above sets a variable that a stated condition read, in that tick alone, so that it does not hold."""
    assert sum(_made_false(seed) for seed in range(first, first + 6)) > 0


def _made_false(seed: int) -> int:
    """How many conditions of a random level were made false."""
    chance = random.Random(seed)
    built = random_level(chance)
    made = run_trial(Program(built), built.trials[0])
    explainer = Explainer(made)
    firings = [f for f in made.trace.firings() if made.program.turns[f.turn].if_ and f.way is Way.DO]
    tried = 0
    for firing in chance.sample(firings, min(8, len(firings))):
        turn = made.program.turns[firing.turn]
        said = [r for r in explainer.fired(firing.tick, firing.position).because() if r.sort == "condition"]
        for step in turn.if_:
            formula = step.clause.slots["formula"]
            name, op, limit = formula.split(" ")
            if not name.startswith("level."):
                continue
            assert any(r.sentence.startswith(f"and {formula}: it was ") for r in said), formula
            false = {"<": 9, "<=": 9, ">": -9, ">=": -9, "=": float(limit) + 5}[op]
            force = rule(
                "force",
                when=EVERY_TICK,
                if_=c("formula_holds", formula=f"tick = {firing.tick}"),
                do=c("set_variable", variable=name, value=str(false)),
                id=99,
            )
            order: list = []
            for entry in built.order:
                order += [force, entry] if entry.id == turn.rule.id else [entry]
            other = run_trial(Program(replace(built, order=tuple(order))), built.trials[0])
            there = [other.program.turns[f.turn].rule.id for f in other.trace.firings_at(firing.tick)]
            assert turn.rule.id not in there, (turn.rule.name, firing.tick, formula)
            tried += 1
    return tried


@pytest.mark.parametrize("seed", range(25))
def test_making_a_stated_single_obstacle_pass_makes_it_fire(seed):
    built = random_level(random.Random(seed))
    made = run_trial(Program(built), built.trials[0])
    chance = random.Random(seed)
    asked = 0
    for turn in made.program.turns:
        for tick in chance.sample(range(2, made.done), 5):
            reason = WhyNot(Explainer(made)).at(turn, tick)
            if " did fire" in reason.sentence:
                assert turn.position in [f.turn for f in made.trace.firings_at(tick)]
                continue
            obstacles = [r for r in reason.because() if r.sort == "obstacle"]
            assert obstacles, (turn.rule.name, tick)
            if len(obstacles) != 1 or not obstacles[0].sentence.startswith("condition "):
                continue
            line = int(obstacles[0].sentence.split(":")[0].removeprefix("condition ")) - 1
            if line != len(turn.if_) - 1 or turn.rule.fires != "each tick" or turn.rule.cooldown:
                continue
            asked += 1
            # the rule without that condition fires in this tick, everything before it being the same
            mended = replace(turn.rule, if_=turn.rule.if_[:line])
            order = tuple(mended if e.id == turn.rule.id else e for e in built.order)
            program = Program(replace(built, order=order))
            world = made.world_at(made.end_of(tick - 1)).clone()
            world.program = program
            world.caches.structure_changed()
            world.caches.kept.clear()
            world.caches.whole.clear()
            assert turn.position in fired_next(program, world, made), (turn.rule.name, tick)
    assert asked >= 0


def test_every_way_in_which_entries_say_they_are_measured_is_known():
    for entry in CATALOGUE.values():
        if entry.measured:
            how, *slots = entry.measured
            assert how in (SCORES if entry.group == "pick" else MEASURES), entry.name
            assert set(slots) <= set(entry.slots), entry.name


@pytest.mark.parametrize("seed", range(6))
def test_a_measure_agrees_with_its_condition(seed):
    chance = np.random.default_rng(seed)
    points = [tuple(p) for p in chance.uniform(-150, 150, (8, 2)).round(1).tolist()]
    lines = (
        c("within", who="Pod", distance="80", where="Gardener"),
        c("in_cone", b="Pod", distance="120", angle="50", a="Gardener"),
        c("is_touching", a="Gardener", b="Pod"),
        c("formula_holds", formula="Pod.x > 10 and not Pod.y > 40 or Pod.x < -100"),
        c("formula_holds", formula="distance(Pod, Gardener) <= 70 and Pod.y <> 0"),
        c("compare", left="Pod.x", comparison=">=", right="Gardener.y"),
        c("chance", percent="40"),
        c("there_are", comparison=">", count="7", kind="Pod"),
        c("past", time="0.01"),
    )
    rules = [
        rule(
            f"r{n}",
            when=c("touches", a="Gardener", b="Pod") if n == 99 else (),
            if_=(c("formula_holds", formula="Pod.x > -999"), line),
            do=add("level.n"),
        )
        for n, line in enumerate(lines)
    ]
    made = run(
        level(
            *rules,
            kinds=(GARDENER, POD),
            objects=(*things("Gardener", (0, 0)), *things("Pod", *points, first=10)),
            has={"n": 0.0},
            seconds=0.1,
        )
    )
    explainer = Explainer(made)
    for turn in made.program.turns:
        seen = explainer.turn_seen(3, turn)
        for one in seen.of("condition")[1:]:
            rows = {r: one.world.rows_of_ids(ids) for r, ids in one.before.ids.items()}
            found = measure(one.world, made.program.index, one.step, Matches(one.before.n, rows))
            assert found is not None, turn.rule.name
            joined, gap = found
            ids = {r: one.world.id[column] for r, column in joined.rows.items()}
            passed = {
                tuple(int(ids[r][at]) for r in sorted(ids)) for at in range(joined.n) if gap.off[at] <= 0
            }
            kept = {tuple(int(one.after.ids[r][at]) for r in sorted(ids)) for at in range(one.after.n)}
            assert passed == kept, turn.rule.name
            assert all(gap.words(at) for at in range(joined.n))


# the studies


@pytest.mark.parametrize("name", study_names())
def test_every_first_firing_of_a_study_is_told_to_its_end(name):
    whole = read_level(study_path(name))
    trial = whole.trials[0]
    made = run_trial(Program(as_tried(whole, trial)), trial)
    explainer = Explainer(made)
    seen = set()
    for firing in made.trace.firings():
        if firing.turn in seen:
            continue
        seen.add(firing.turn)
        reason = explainer.fired(firing.tick, firing.position)
        assert reason.because(), reason.sentence
        for one in reason.walk(5):
            assert one.sentence and "…" not in one.sentence.replace("…”", ""), one.sentence
    for turn in made.program.turns:
        if turn.position not in seen:
            assert why_never(WhyNot(explainer), turn).because(), turn.rule.name


@pytest.mark.parametrize("name", ["07", "10", "11", "15", "19"])
def test_since_its_last_move_an_object_has_stood_where_it_stands(name):
    """The journal leaves stretches out in which nothing can have moved: against a run that is watched all the way."""
    (study,) = (one for one in study_names() if one.startswith(name))
    built = read_level(study_path(study))
    trial = built.trials[0]
    made = run_trial(Program(as_tried(built, trial)), trial)
    watched, places = Run(made.program, trial), []
    for _tick in range(made.done + 1):
        world = watched.world
        places.append(
            dict(zip(world.id.tolist(), zip(world.x.tolist(), world.y.tolist(), strict=False), strict=True))
        )
        watched.advance(1)
    chance, journal, looked = random.Random(name), Journal(made), 0
    for _ in range(12):
        tick = chance.randrange(1, made.done + 1)
        who = chance.choice(sorted(places[tick]))
        kind = made.program.kinds[watched_kind(made, tick, who)].name
        for at, what in enumerate("xy"):
            wrote = journal.last_write(what, "", kind, who, upto_end(made, tick))
            since = wrote.tick if wrote else next(t for t in range(tick + 1) if who in places[t])
            assert len({places[t][who][at] for t in range(since, tick + 1)}) == 1, (who, what, since, tick)
            if wrote and wrote.turn < 0 and who in places[since - 1]:
                assert places[since - 1][who][at] != places[since][who][at]
                looked += 1
    assert looked


def watched_kind(made: Run, tick: int, who: int) -> int:
    world = made.world_at(made.end_of(tick))
    return int(world.kind[world.id == who][0])
