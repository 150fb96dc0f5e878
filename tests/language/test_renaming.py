"""A rename is carried through the whole level; what speaks of a thing is known."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import START, add, c, heard, kind, level, rule, send, things
from gatillo.language.renaming import rename, uses
from gatillo.level.expectations import FiresBefore, FiresTimes, HoldsAt, HoldsWhenever
from gatillo.level.model import (
    Choice,
    Clip,
    ClipPoint,
    Input,
    Readout,
    Reference,
    Section,
    Spot,
    Topic,
    Trial,
    Variant,
)
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

PROMPT = c("prompt", text="{Hatch.count} down", by="any crew", entries="lift | lower")
MOTH = kind("Moth", 5, tags=("crew",), has={"speed": 9.0})
HATCH = kind(
    "Hatch", 5, has={"target": Reference(to="Moth 2", kind="Moth"), "count": 1.0}, behaviours=(PROMPT,)
)


def whole():
    rules = (
        rule(
            "first",
            when=START,
            if_=c("formula_holds", formula="distance(Moth, another_Moth) > Moth.speed and Moth_2.x > 0"),
            do=(
                c("put_at", who="another Moth", where="gate"),
                c("set_variable", variable="target of Hatch.speed", value="target_of_Hatch.speed + 1"),
                c("say", text="Moth {Moth.speed} {level.score}", who="Moth"),
                add("level.score", "Moth.speed"),
                send("go"),
                c("play_clip", clip="nod", who="Moth"),
                c("give", count="1", item="key", who="any crew"),
            ),
        ),
        rule(
            "second",
            when=heard("go"),
            if_=c("has_fired", rule="first"),
            do=add("Moth.speed"),
        ),
        rule("third", when=c("entry_chosen", entry="lift", a="Hatch", by="any crew"), do=add("level.score")),
        rule("fourth", when=c("topic_chosen", topic="frost", a="Moth"), do=add("level.score")),
    )
    built = level(
        Section(name="all", rules=rules),
        kinds=(replace(MOTH, topics=(Topic(name="frost"),)), HATCH),
        objects=(
            *things("Moth", (0, 0), (50, 0)),
            replace(things("Hatch", (9, 9), first=9)[0], attached="Moth 2"),
        ),
        has={"score": 0.0, "lead": Reference(to="Moth 1")},
        places=(Spot(name="gate", x=70, y=80),),
        clips=(Clip(name="nod", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=5, y=0))),),
    )
    expectations = (
        FiresTimes(rule="first"),
        FiresBefore(first="first", then="second"),
        HoldsWhenever(rule="second", formula="level.score > 0"),
        HoldsAt(formula="Moth_1.x = 70 or Moth_2.x = 70", time=1.0),
    )
    trial = Trial(
        name="t",
        length=1.0,
        expectations=expectations,
        watches=("level.score",),
        values={"score": 2.0},
        off=("fourth",),
        input=Input(choices=(Choice(at=0.5, text="frost"), Choice(at=0.6, text="lift"))),
    )
    return replace(built, trials=(trial,))


RENAMES = [
    ("kind", "Moth", "Night moth", ""),
    ("kind", "Hatch", "Trap door", ""),
    ("object", "Moth 2", "Old one", ""),
    ("place", "gate", "south gate", ""),
    ("tag", "crew", "night crew", ""),
    ("level variable", "score", "total points", ""),
    ("level variable", "lead", "leader", ""),
    ("kind variable", "speed", "top speed", "Moth"),
    ("kind variable", "target", "way down", "Hatch"),
    ("rule", "first", "the first", ""),
    ("section", "all", "everything", ""),
    ("message", "go", "off we go", ""),
    ("item", "key", "brass key", ""),
    ("topic", "frost", "the cold", ""),
    ("clip", "nod", "bow", ""),
    ("entry", "lift", "raise", ""),
]


@pytest.mark.parametrize(("sort", "old", "new", "kind_"), RENAMES)
def test_a_level_runs_the_same_after_a_rename(sort, old, new, kind_):
    before = whole()
    after = rename(before, sort, old, new, kind=kind_)
    assert after != before
    program = Program(after)
    assert program.problems == []
    runs = run_trial(Program(before)), run_trial(program)
    assert [f[:4] for f in runs[0].trace.firings()] == [f[:4] for f in runs[1].trace.firings()]
    assert runs[0].world.x.tolist() == runs[1].world.x.tolist()


@pytest.mark.parametrize(("sort", "old", "new", "kind_"), RENAMES)
def test_a_rename_and_its_reverse_give_back_the_level(sort, old, new, kind_):
    before = whole()
    there = rename(before, sort, old, new, kind=kind_)
    assert rename(there, sort, new, old, kind=kind_) == before


def test_words_that_only_look_like_the_name_are_left_alone():
    after = rename(whole(), "kind", "Moth", "Bat")
    assert after.order[0].rules[0].do[2].slots["text"] == "Moth {Bat.speed} {level.score}"


@pytest.mark.parametrize(
    ("sort", "name", "kind_", "where"),
    [
        ("place", "gate", "", ["the rule “first”"]),
        ("message", "go", "", ["the rule “first”", "the rule “second”"]),
        ("rule", "first", "", ["the rule “second”", "the trial “t”"]),
        ("tag", "crew", "", ["the rule “first”", "the rule “third”", "a behaviour of Hatch"]),
        ("kind variable", "count", "Hatch", ["a behaviour of Hatch"]),
    ],
)
def test_who_speaks_of_a_thing_is_told(sort, name, kind_, where):
    assert [use.where for use in uses(whole(), sort, name, kind=kind_)] == where


def test_nobody_speaks_of_what_is_not_used():
    assert uses(whole(), "object", "Hatch 1") == []


def test_readouts_and_variants_that_speak_of_a_thing_are_uses_and_are_renamed():
    built = whole()
    moth = replace(built.kinds[0], readouts=(Readout(value="{Moth.speed} of {level.score}"),))
    built = replace(
        built,
        kinds=(moth, built.kinds[1]),
        variants=(Variant(name="fast", values={"score": 5.0}, off=("second",)),),
    )
    assert "a readout of Moth" in [use.where for use in uses(built, "kind variable", "speed", kind="Moth")]
    score = [use.where for use in uses(built, "level variable", "score")]
    assert "a readout of Moth" in score and "the variant “fast”" in score
    assert "the variant “fast”" in [use.where for use in uses(built, "rule", "second")]
    renamed = rename(rename(built, "level variable", "score", "points"), "rule", "second", "later")
    assert renamed.kinds[0].readouts[0].value == "{Moth.speed} of {level.points}"
    assert renamed.variants[0].values == {"points": 5.0} and renamed.variants[0].off == ("later",)


def test_a_renamed_kind_is_renamed_where_a_formula_compares_with_its_name():
    asked = 'kind(anything) = "Pod" or "Pod" <> kind(Lamp) or kind(Lamp) = "Lamp" or Lamp.note = "Pod"'
    lv = level(
        rule(
            "ask",
            when=c("begins_to_touch", a="Lamp", b="anything"),
            if_=c("formula_holds", formula=asked),
            id=1,
        ),
        kinds=(kind("Pod"), kind("Lamp", has={"note": "Pod"})),
        objects=(*things("Pod", (0, 0)), *things("Lamp", (0, 0), first=2)),
    )
    assert not Program(lv).problems
    after = rename(lv, "kind", "Pod", "Seed")
    assert after.order[0].if_[0].slots["formula"] == (
        'kind(anything) = "Seed" or "Seed" <> kind(Lamp) or kind(Lamp) = "Lamp" or Lamp.note = "Pod"'
    )
    assert not Program(after).problems
    wrong = replace(lv.order[0], if_=(c("formula_holds", formula='kind(anything) = "Pot"'),))
    (problem,) = Program(replace(lv, order=(wrong,))).problems
    assert "there is no kind called “Pot”; did you mean “Pod”?" in problem.sentence()
