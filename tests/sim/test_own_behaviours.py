"""Own behaviours: the same as their rules written out for any object with a tag, for several kinds, with settings."""

from __future__ import annotations

import re

import numpy as np
import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, c, kind, level, rule, run, things
from gatillo.files.level_file import decode_level, file_bytes
from gatillo.files.rules_page import as_markdown
from gatillo.language.renaming import rename
from gatillo.level.model import Graph, Node, OwnBehaviour, OwnSetting, OwnUse, Section, Wire
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program

SETTINGS = (
    OwnSetting(name="speed", value=40.0, least=0.0, most=200.0),
    OwnSetting(name="home", value=(10.0, 5.0)),
    OwnSetting(name="mood", value="calm"),
)


def flutter(*rules, on=True, settings=SETTINGS, name="flutters"):
    return Section(
        name=name, rules=rules, on=on, own=OwnBehaviour(sentence="flutters at {speed}", settings=settings)
    )


def moves(text="self.speed"):
    return rule("drift", when=EVERY_TICK, do=c("move_by", who="self", dx=f"{text} * dt", dy="0"), id=1)


MOTH = kind("Moth", own=(OwnUse(use="flutters"),))
BEE = kind("Bee", own=(OwnUse(use="flutters", values={"speed": 90.0}),))
LAMP = kind("Lamp")


def yard(*order, kinds=(MOTH, BEE, LAMP), **more):
    objects = (
        *things("Moth", (0, 0), (0, 10)),
        *things("Bee", (0, 20), first=10),
        *things("Lamp", (0, 30), first=20),
    )
    return level(*order, kinds=kinds, objects=more.pop("objects", objects), has={"n": 0.0}, **more)


def test_each_kind_that_has_it_moves_by_its_own_setting():
    world = run(yard(flutter(moves()))).world
    assert np.allclose(world.x, [40, 40, 90, 0])


def by_tag(*tags):
    return replace(flutter(moves()), own=OwnBehaviour(settings=SETTINGS, tags=tags))


def test_every_kind_with_one_of_its_tags_has_it_and_a_kind_may_have_a_value_of_its_own():
    lamp = replace(LAMP, tags=("light",))
    moth = kind("Moth", tags=("light",))
    # a bee has it with a value of its own, and not twice
    bee = replace(BEE, tags=("light", "winged"))
    lv = yard(by_tag("light", "winged"), kinds=(moth, bee, lamp))
    assert list(flaws(lv)) == []
    assert np.allclose(run(lv).world.x, [40, 40, 90, 40])
    # the same as given to each
    given = tuple(replace(k, own=k.own or (OwnUse(use="flutters"),)) for k in (moth, bee, lamp))
    assert run(yard(by_tag(), kinds=given)).trace.firings() == run(lv).trace.firings()


def test_what_it_does_by_a_tag_is_switched_off_for_single_objects_too():
    lv = yard(by_tag("light"), kinds=(kind("Moth", tags=("light",)), kind("Bee"), LAMP))
    objects = (replace(lv.objects[0], settings={"flutters": False}), *lv.objects[1:])
    assert np.allclose(run(replace(lv, objects=objects)).world.x, [0, 40, 0, 0])


def test_its_tag_is_renamed_with_the_tag_and_its_kinds_are_named_where_rules_are_printed():
    lv = yard(by_tag("light"), kinds=(kind("Moth", tags=("light",)), kind("Bee"), LAMP))
    renamed = rename(lv, "tag", "light", "bright")
    assert renamed.order[0].own.tags == ("bright",) and np.allclose(run(renamed).world.x, [40, 40, 0, 0])
    assert "An own behaviour of Moth." in as_markdown(
        lv
    ) and "Kinds with the tag light have it." in as_markdown(lv)


def test_its_own_name_is_no_tag_for_it():
    assert any("its own tag" in f.message for f in flaws(yard(by_tag("flutters"))))


def test_it_is_the_same_as_its_rules_written_out():
    """With a tag in its place, and variables in the place of its settings."""
    gather = rule(
        "gather",
        when=c("begins_to_touch", a="self", b="Lamp"),
        if_=c("formula_holds", formula='self.mood = "calm" and distance(self, self.home) < 100'),
        do=(c("say", text="{self.name} at {self.speed}", who="self", time="1"), c("remove", who="Lamp")),
        id=2,
    )
    own = yard(flutter(moves("(self.speed + random(0, 9))"), gather))

    def told(text):
        if text == "self":
            return "any flutters"
        return re.sub(r"\bself\b", "any_flutters", text).replace("any_flutters.speed", "any_flutters.pace")

    def written(entry):
        parts = {
            part: tuple(
                replace(clause, slots={n: told(t) for n, t in clause.slots.items()})
                for clause in getattr(entry, part)
            )
            for part in ("when", "if_", "do", "else_")
        }
        return replace(entry, **parts)

    def has(**values):
        return {"pace": 40.0, "home": (10.0, 5.0), "mood": "calm", **values}

    plain = yard(
        Section(name="flutters", rules=tuple(written(e) for e in own.order[0].rules)),
        kinds=(
            kind("Moth", tags=("flutters",), has=has()),
            kind("Bee", tags=("flutters",), has=has(pace=90.0)),
            LAMP,
        ),
    )
    one, other = run(own, 90), run(plain, 90)
    assert one.trace.digest() == other.trace.digest()
    assert np.array_equal(one.world.x, other.world.x)
    assert one.trace.firings()


def test_an_object_may_have_settings_of_its_own_or_have_it_off_at_first():
    objects = (
        *things("Moth", (0, 0), (0, 10)),
        *things("Bee", (0, 20), first=10),
    )
    objects = (
        replace(objects[0], settings={"flutters: speed": 7.0}),
        replace(objects[1], settings={"flutters": False}),
        objects[2],
    )
    assert np.allclose(run(yard(flutter(moves()), objects=objects)).world.x, [7, 0, 90])


def test_rules_switch_it_for_single_objects_and_read_and_set_its_settings():
    begins = rule(
        "begins",
        when=START,
        do=(
            c("switch_behaviour_off", behaviour="flutters", who="Moth 1"),
            c("set_variable", variable="Bee.flutters speed", value="Bee.flutters_speed * 2"),
            # a lamp does not have it, so nothing becomes of that
            c("switch_behaviour_on", behaviour="flutters", who="Lamp"),
        ),
        id=7,
    )
    again = rule(
        "again",
        when=c("after_start", time="0.5"),
        do=c("switch_behaviour_on", behaviour="flutters", who="Moth 1"),
        id=8,
    )
    world = run(yard(begins, again, flutter(moves()))).world
    assert np.allclose(world.x[[0, 1, 3]], [40 * 31 / 60, 40, 0])
    assert np.isclose(world.x[2], 180)


def test_what_is_created_has_it():
    make = rule("make", when=START, do=c("create", count="1", kind="Bee", where="(0, 0)"), id=9)
    world = run(yard(make, flutter(moves()))).world
    assert np.isclose(world.x[-1], 90)


def test_a_graph_in_it_speaks_of_self():
    nodes = (
        Node(id=1, use="every_tick"),
        Node(id=2, use="move_by", slots={"who": "self", "dx": "self.speed * dt", "dy": "0"}),
    )
    graph = Graph(id=5, name="g", nodes=nodes, wires=(Wire(start="1", end="2"),))
    assert np.allclose(run(yard(flutter(graph))).world.x, [40, 40, 90, 0])


def test_switched_off_as_a_section_it_rests():
    assert np.allclose(run(yard(flutter(moves(), on=False))).world.x, 0)


def test_one_that_no_kind_has_does_nothing_and_is_no_mistake():
    built = yard(flutter(moves(), name="hovers"), kinds=(kind("Moth"), kind("Bee"), LAMP))
    assert not Program(built).problems
    assert np.allclose(run(built).world.x, 0)


@pytest.mark.parametrize(
    ("rules", "kinds", "says"),
    [
        ([moves("self.sped")], (MOTH, BEE, LAMP), "“self” has no variable “sped”"),
        ([moves()], (kind("Moth", own=(OwnUse(use="fluters"),)), BEE, LAMP), "did you mean “flutters”"),
        (
            [moves()],
            (kind("Moth", own=(OwnUse(use="flutters", values={"sped": 1.0}),)), BEE, LAMP),
            "“flutters” has no setting “sped”; did you mean “speed”",
        ),
        (
            [moves()],
            (kind("Moth", own=(OwnUse(use="flutters", values={"speed": "fast"}),)), BEE, LAMP),
            "speed of “flutters” is a number",
        ),
    ],
)
def test_what_cannot_be_is_told_in_the_words_in_which_it_is_written(rules, kinds, says):
    problems = [p.sentence() for p in Program(yard(flutter(*rules), kinds=kinds)).problems]
    assert any(says in p for p in problems), problems
    assert not any("any flutters" in p for p in problems)


def test_names_that_cannot_be_are_refused_with_their_path():
    twice = yard(flutter(), flutter())
    assert any(f.path == "$.order[1].name" for f in flaws(twice))
    bad = yard(flutter(settings=(OwnSetting(name="speed"), OwnSetting(name="speed"))))
    assert any("settings[1]" in f.path for f in flaws(bad))
    wrong = yard(flutter(settings=(OwnSetting(name="speed", least=5.0, most=1.0),)))
    assert any("above the most" in f.message for f in flaws(wrong))


def test_it_is_saved_and_opened_again():
    built = yard(flutter(moves()))
    assert decode_level(file_bytes(built)) == built


def test_an_edit_of_one_of_its_rules_makes_only_that_one_ready_anew():
    other = rule("other", when=START, do=c("turn_by", who="self", angle="9"), id=2)
    built = yard(flutter(moves(), other))
    before = Program(built)
    section = built.order[0]
    edited = replace(built, order=(replace(section, rules=(moves("9"), section.rules[1])),))
    after = Program(edited, before)
    assert after.rules[1].do[0] is before.rules[1].do[0] or after.rules[1].do == before.rules[1].do
    assert after.rules[1].source is before.rules[1].source
    assert after.rules[0].source is not before.rules[0].source


def test_a_setting_names_a_kind_of_each_kinds_own():
    hunts = flutter(
        rule(
            "catch",
            when=c("begins_to_touch", a="self", b="anything"),
            if_=c("formula_holds", formula="kind(anything) = self.prey"),
            do=c("add_to", amount="1", variable="level.n"),
            id=1,
        ),
        settings=(OwnSetting(name="prey", value="Pod"),),
        name="hunts",
    )
    owl = kind("Owl", own=(OwnUse(use="hunts", values={"prey": "Mouse"}),))
    bee = kind("Bee", own=(OwnUse(use="hunts"),))
    kinds = (owl, bee, kind("Mouse"), kind("Pod"))

    def caught(*at):
        objects = tuple(one for n, (of, x) in enumerate(at) for one in things(of, (x, 0), first=n + 1))
        return run(level(hunts, kinds=kinds, objects=objects, has={"n": 0.0})).world.level["n"]

    assert caught(("Owl", 0), ("Mouse", 5)) == 1
    assert caught(("Owl", 0), ("Pod", 5)) == 0
    assert caught(("Bee", 0), ("Mouse", 5)) == 0
    assert caught(("Bee", 0), ("Pod", 5)) == 1
