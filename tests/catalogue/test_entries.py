"""Each catalogue entry comes from one declaration, and does something."""

from __future__ import annotations

import pytest

from building import START, add, c, kind, level, rule, run, things
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.declare.entry import action
from gatillo.catalogue.declare.subjects import SUBJECTS
from gatillo.language.binding import bind
from gatillo.language.sentence import pieces, rule_sentence, sentence
from gatillo.level.model import Spot
from gatillo.level.roles import Index

LEVEL = level(
    kinds=(kind("Moth", 5, tags=("insect",), has={"speed": 1.0, "mood": ""}), kind("Lamp", 5)),
    objects=(*things("Moth", (0, 0), (3, 4)), *things("Lamp", (50, 0), first=9)),
    has={"n": 0.0, "done": False, "title": ""},
    places=(Spot(name="gate", x=7, y=8),),
)
INDEX = Index(LEVEL)


@pytest.mark.parametrize("name", CATALOGUE)
def test_an_entry_has_a_sentence_with_its_slots_and_a_help_line(name):
    entry = CATALOGUE[name]
    assert {slot for _, slot in entry.parts() if slot} == set(entry.slots)
    assert entry.help.endswith(".")
    assert all(slot.hint for slot in entry.slots.values())


def test_a_declaration_whose_sentence_and_slots_differ_is_refused():
    with pytest.raises(TypeError, match="sentence and slots differ"):
        action("do {this}", "Does.")(lambda deed: None)


def after(*do, ticks=1, **more):
    built = level(
        rule("r", when=START, do=do),
        kinds=LEVEL.kinds,
        objects=LEVEL.objects,
        has={"n": 0.0, "done": False, "title": ""},
        places=LEVEL.places,
        **more,
    )
    return run(built, ticks).world


def test_set_gives_a_new_value_of_each_type():
    world = after(
        c("set_variable", variable="level.n", value="4"),
        c("set_variable", variable="level.done", value="yes"),
        c("set_variable", variable="level.title", value='"night"'),
        c("set_variable", variable="Moth.mood", value="Moth.name"),
        c("set_variable", variable="Moth.x", value="Moth.x + 1"),
        c("set_variable", variable="Lamp.angle", value="270"),
        c("set_variable", variable="Lamp.shown", value="no"),
    )
    assert world.level == {"n": 4.0, "done": True, "title": "night"}
    assert world.variables["mood/text"].tolist() == ["Moth 1", "Moth 2", ""]
    assert world.x.tolist() == [1, 4, 50]
    assert world.angle[2] == -90
    assert world.shown.tolist() == [True, True, False]


def test_add_adds_to_level_object_and_property():
    world = after(add("level.n", "2"), add("Moth.speed", "Moth.x"), add("Lamp.y", "3"))
    assert world.level["n"] == 2
    assert world.variables["speed/number"].tolist() == [1, 4, 0]
    assert world.y[2] == 3


def test_move_by_goes_along_level_axes_or_its_own():
    turned = c("turn_by", who="Lamp", angle="90")
    assert after(turned, c("move_by", who="Lamp", dx="2", dy="3")).x[2] == 52
    world = after(turned, c("move_by", who="Lamp", dx="2", dy="3", axes="its own"))
    assert (world.x[2], world.y[2]) == pytest.approx((47, 2))


def test_remove_takes_out_and_create_brings_in():
    assert after(c("remove", who="Moth")).alive.tolist() == [False, False, True]
    world = after(c("create", count="2", kind="Moth", where="gate"))
    assert world.x.tolist() == [0, 3, 50, 7, 7]
    assert world.variables["speed/number"][3:].tolist() == [1, 1]


def test_a_created_object_has_a_name_of_its_own():
    world = after(c("create", count="2", kind="Moth", where="gate"))
    assert [world.name_of(i) for i in world.id.tolist()][3:] == ["Moth +1", "Moth +2"]


def test_has_tag_asks_kind_and_object():
    r = rule("r", when=START, if_=c("has_tag", who="anything", tag="insect"), do=c("remove", who="anything"))
    built = level(r, kinds=LEVEL.kinds, objects=LEVEL.objects)
    assert run(built, 1).world.alive.tolist() == [False, False, True]


@pytest.mark.parametrize(
    ("op", "holds"), [(">", False), (">=", True), ("=", True), ("<>", False), ("<=", True), ("<", False)]
)
def test_compare_compares(op, holds):
    r = rule("r", when=START, if_=c("compare", left="level.n", comparison=op, right="0"), do=add("level.n"))
    assert run(level(r, has={"n": 0.0}), 1).world.level["n"] == float(holds)


@pytest.mark.parametrize(
    ("clause", "group", "slot", "says"),
    [
        (c("remov", who="Moth"), "action", "", "did you mean “remove”"),
        (c("remove", who="Moht"), "action", "who", "did you mean “Moth”"),
        (c("remove"), "action", "who", "choose which object"),
        (c("remove", what="Moth"), "action", "what", "has no slot “what”; did you mean “who”?"),
        (c("touches", a="Moth", b="Lamp"), "action", "", "is not an action"),
        (add("n"), "action", "variable", "did you mean “level.n”"),
        (add("level.m"), "action", "variable", "the level has no variable “m”"),
        (add("level.done"), "action", "variable", "is not a number"),
        (add("Moth.sped"), "action", "variable", "did you mean “speed”"),
        (add("Moth.name"), "action", "variable", "no variable “name” to write"),
        (c("set_variable", variable="level.done", value="3"), "action", "value", "a yes/no is needed"),
        (c("key_pressed", key="Upp"), "occasion", "key", "did you mean “Up”"),
        (c("create", kind="Mot", where="gate"), "action", "kind", "did you mean “Moth”"),
        (c("create", kind="Moth", where="gaet"), "action", "where", "did you mean “gate”"),
        (c("create", kind="Moth"), "action", "where", "choose a place"),
        (c("has_tag", who="Moth", tag="insekt"), "condition", "tag", "did you mean “insect”"),
        (c("compare", left="1", comparison="=>", right="2"), "condition", "comparison", "is not one of"),
        (c("send_message"), "action", "message", "a message is missing"),
        (c("say", text="{level.m}", who="Moth"), "action", "text", "no variable “m”"),
    ],
)
def test_a_slot_filled_wrongly_is_told_at_that_slot(clause, group, slot, says):
    problem = bind(INDEX, clause, group).problems[0]
    assert problem.slot == slot
    assert says in problem.message


def test_a_rule_reads_as_a_sentence():
    r = rule(
        "r",
        when=c("begins_to_touch", a="Moth", b="Lamp"),
        if_=[c("compare", left="level.n", comparison="<", right="3"), c("has_tag", who="Moth", tag="insect")],
        do=[add("level.n"), c("say", text="hot", who="Moth", time="1")],
        fires="on becoming true",
        cooldown=2.0,
    )
    assert rule_sentence(r) == (
        "when Moth begins to touch Lamp  if level.n < 3 and Moth has tag insect  "
        "do add 1 to level.n; say “hot” at Moth for 1 s  (on becoming true, then rests 2 s)"
    )


def test_pieces_tell_roles_values_and_names_apart():
    found = [(p.text, p.sort) for p in pieces(c("add_to", amount="2", variable="level.n")) if p.slot]
    assert found == [("2", "value"), ("level.n", "name")]
    assert sentence(c("nonsense")) == "“nonsense”"


def test_every_subject_has_a_title_and_every_slot_type_a_word_for_its_blank():
    assert {entry.subject for entry in CATALOGUE.values()} == set(SUBJECTS)
    assert all(slot.hint and slot.kind.blank for entry in CATALOGUE.values() for slot in entry.slots.values())
