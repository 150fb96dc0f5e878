"""Looks: rules show them, a formula of the kind decides between them, and they follow renaming."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, kind, level, rule, run, things
from gatillo.files.level_file import decode_level, encode_level
from gatillo.inspect.findings import findings
from gatillo.inspect.shown_looks import shown_looks
from gatillo.language.renaming import rename, uses
from gatillo.level.model import Look
from gatillo.level.validation import flaws

DIM, BRIGHT = Look(name="dim", colour="#444444"), Look(name="bright", drawing="bulb", scale=1.5)
LAMP = replace(kind("Lamp", 5, has={"charge": 0.0}), looks=(DIM, BRIGHT))
OTHER = kind("Post", 5)


def scene(*order, lamp=LAMP, **more):
    objects = (*things("Lamp", (0, 0), (20, 0)), *things("Post", (50, 0), first=9))
    return level(*order, kinds=(lamp, OTHER), objects=objects, has={"n": 0.0}, **more)


def shown(made):
    return {
        made.world.name_of(made.world.id.item(row)): look.name
        for row, look in shown_looks(made.world).items()
    }


def show(look, who="Lamp"):
    return c("show_look", look=look, who=who)


def told(lv):
    return [f.sentence() for f in findings(lv) if "level.n" not in f.message]


def test_a_rule_shows_a_look_until_another_or_the_plain_one_is_shown():
    lv = scene(
        rule("on", when=START, do=show("bright", "Lamp 1")),
        rule("dimmed", when=c("every_seconds", first="0.1", period="9"), do=show("dim", "Lamp 1"), id=2),
        rule(
            "plain",
            when=c("every_seconds", first="0.2", period="9"),
            do=c("show_plain_look", who="Lamp 1"),
            id=3,
        ),
    )
    made = run(lv)
    looks = [shown_looks(made.world_at(made.end_of(tick))).get(0) for tick in (1, 6, 13)]
    assert looks == [BRIGHT, DIM, None]


def test_a_condition_asks_which_look_a_rule_has_shown():
    lv = scene(
        rule("on", when=c("every_seconds", first="0.5", period="9"), do=show("bright", "Lamp 2")),
        rule("seen", if_=c("shows_look", who="Lamp", look="bright"), do=add("level.n"), id=2),
    )
    made = run(lv)
    assert next(tick for tick, *_ in fired(made, "seen")) == fired(made, "on")[0][0]


def test_objects_whose_kind_has_no_such_look_stay_as_they_are():
    made = run(scene(rule("all", when=START, do=show("dim", "anything"))), 2)
    assert shown(made) == {"Lamp 1": "dim", "Lamp 2": "dim"}


def test_a_formula_of_the_kind_decides_for_each_object():
    lamp = replace(LAMP, look='if(Lamp.charge > 3, "bright", if(Lamp.charge > 1, "dim", ""))')
    more = rule("more", when=EVERY_TICK, do=c("add_to", variable="Lamp.charge", amount="Lamp.x / 10"))
    made = run(scene(more, lamp=lamp), 2)
    assert shown(made) == {"Lamp 2": "bright"}
    assert shown(run(scene(more, lamp=lamp), 1)) == {"Lamp 2": "dim"}


def test_a_formula_without_an_answer_shows_the_plain_look():
    lamp = replace(LAMP, look='if(1 / Lamp.charge > 3, "bright", "dim")')
    assert shown(run(scene(lamp=lamp), 1)) == {}


@pytest.mark.parametrize(
    ("formula", "says"),
    [
        ("Lamp.charge", "text"),
        ("Post.name", "speaks of its own Lamp only"),
        ('if(Lamp.charge > 1, "bryght", "dim")', "no look “bryght”"),
    ],
)
def test_a_formula_that_gives_no_look_is_a_finding(formula, says):
    assert any(says in sentence for sentence in told(scene(lamp=replace(LAMP, look=formula))))


def test_a_text_that_is_only_compared_is_no_look():
    lamp = replace(LAMP, look='if(Lamp.name = "Lamp 1", "bright", "dim")')
    assert told(scene(lamp=lamp)) == []


def test_lines_about_looks_that_do_nothing_are_findings():
    assert any("has no look “dim”" in s for s in told(scene(rule("r", when=START, do=show("dim", "Post")))))
    decided = replace(LAMP, look='"dim"')
    ruled = scene(rule("r", when=START, do=show("bright")), lamp=decided)
    assert any("decides which look is shown" in s for s in told(ruled))
    assert told(scene(rule("r", when=START, do=show("bright")))) == []


def test_a_variable_that_only_a_look_reads_is_in_use():
    lamp = replace(LAMP, look='if(level.n > 3, "bright", "dim")')
    assert findings(scene(lamp=lamp)) == []


def test_an_unknown_look_keeps_the_rule_from_running():
    assert any("brught" in s and "bright" in s for s in told(scene(rule("r", when=START, do=show("brught")))))


def test_a_look_is_renamed_in_rules_and_in_the_formula():
    lamp = replace(LAMP, look='if(Lamp.name = "dim", "dim", "bright")')
    lv = rename(scene(rule("r", when=START, do=show("dim")), lamp=lamp), "look", "dim", "low")
    assert [look.name for look in lv.kinds[0].looks] == ["low", "bright"]
    assert lv.kinds[0].look == 'if(Lamp.name = "dim", "low", "bright")'
    assert lv.order[0].do[0].slots["look"] == "low"
    assert [use.where for use in uses(lv, "look", "low")] == ["the rule “r”", "the look of Lamp"]
    renamed = rename(lv, "kind variable", "charge", "power", kind="Lamp")
    assert renamed.kinds[0].look == lv.kinds[0].look


def test_the_look_follows_a_renamed_variable():
    lamp = replace(LAMP, look='if(Lamp.charge > 3, "bright", "dim")')
    lv = rename(scene(lamp=lamp), "kind variable", "charge", "power", kind="Lamp")
    assert lv.kinds[0].look == 'if(Lamp.power > 3, "bright", "dim")'


def test_looks_are_saved_and_read():
    lv = scene(lamp=replace(LAMP, look='"dim"'))
    assert decode_level(encode_level(lv)) == lv


@pytest.mark.parametrize(
    ("looks", "says"),
    [
        ((DIM, DIM), "two looks"),
        ((replace(DIM, colour="red"),), "no colour"),
        ((replace(DIM, drawing="blub"),), "did you mean “bulb”"),
        ((replace(DIM, picture="x"),), "picture"),
    ],
)
def test_looks_that_cannot_be_are_refused(looks, says):
    assert any(says in flaw.message for flaw in flaws(scene(lamp=replace(LAMP, looks=looks))))
