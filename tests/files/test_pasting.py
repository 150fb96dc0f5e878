"""Copying things of a level and pasting them, into the same level and into another."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import START, add, c, kind, level, rule, things
from gatillo.examples import example_names, study_path
from gatillo.files import pasting
from gatillo.files.level_file import decode_level, encode_level, read_level
from gatillo.inspect.findings import findings
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import (
    Clip,
    ClipPoint,
    KeyBar,
    Look,
    OwnBehaviour,
    OwnSetting,
    OwnUse,
    Point,
    Readout,
    Reference,
    Route,
    Section,
    Spot,
    Stop,
    Topic,
    Trial,
    Variable,
    Variant,
    empty_level,
)
from gatillo.level.validation import flaws

FLUTTERS = Section(
    name="flutters",
    rules=(rule("Flutter", do=c("add_to", variable="self.x", amount="self.speed * dt"), id=70),),
    own=OwnBehaviour(sentence="flutters at {speed}", settings=(OwnSetting(name="speed", value=40.0),)),
)
MOTH = replace(
    kind(
        "Moth", 4, has={"charge": 1.0, "home": Reference()}, behaviours=(c("spin", speed="Moth.charge * 9"),)
    ),
    readouts=(Readout(value="{Moth.charge}"),),
    looks=(Look(name="dim"),),
    look='if(Moth.charge > 1, "dim", "")',
    points=(Point(name="hand"),),
    topics=(Topic(name="weather", only_if="Moth.charge > 0"),),
    own=(OwnUse(use="flutters", values={"speed": 60.0}),),
)


def yard():
    moths = [replace(o, group="pair") for o in things("Moth", (0, 0), (40, 20))]
    moths[1] = replace(moths[1], attached="Moth 1", values={"home": Reference(to="Moth 1")})
    return level(
        FLUTTERS,
        rule("Fill", when=START, do=add("Moth.charge"), id=1),
        rule("Count", when=START, do=add("level.n"), id=2),
        kinds=(MOTH, kind("Lamp")),
        objects=(*moths, *things("Lamp", (9, 9), first=20)),
        places=(
            Spot(name="gate", x=5, y=5),
            Route(name="round", stops=(Stop(x=0, y=0, message="hi"), Stop(x=20, y=10))),
        ),
        clips=(Clip(name="wave", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=9, y=0))),),
        has={"n": 0.0},
    )


def sent(copied):
    """What has been copied, by way of the clipboard's text."""
    found = pasting.from_text(pasting.as_text(copied))
    assert found == copied
    return found


def sound(made):
    assert list(flaws(made)) == [], list(flaws(made))
    assert decode_level(encode_level(made)) == made
    return made


# objects


def test_objects_come_to_the_point_with_free_names_and_keep_what_is_among_them():
    lv = yard()
    pasted = pasting.paste(lv, sent(pasting.copied_objects(lv, {1, 2})), at=(100.0, 100.0))
    made = sound(pasted.level).objects[-2:]
    assert [(o.name, o.x, o.y) for o in made] == [("Moth 3", 80, 90), ("Moth 4", 120, 110)]
    assert made[1].attached == "Moth 3" and made[1].values["home"] == Reference(to="Moth 3")
    # a group of their own, not that of those that were copied
    assert made[0].group == made[1].group != "pair"
    assert pasted.objects == tuple(o.id for o in made)


def test_one_that_is_copied_without_its_carrier_stays_attached_where_that_is_there():
    lv = yard()
    copied = sent(pasting.copied_objects(lv, {2}))
    assert sound(pasting.paste(lv, copied).level).objects[-1].attached == "Moth 1"
    elsewhere = sound(pasting.paste(empty_level(), copied).level).objects[-1]
    assert elsewhere.attached == "" and elsewhere.values["home"] == Reference(to="")


def test_objects_bring_their_kinds_and_own_behaviours_into_another_level():
    copied = sent(pasting.copied_objects(yard(), {1, 20}))
    made = sound(pasting.paste(empty_level(), copied).level)
    assert [k.name for k in made.kinds] == ["Moth", "Lamp"] and made.kinds[0].own == MOTH.own
    assert [e.name for e in made.order] == ["flutters"]
    assert [o.name for o in made.objects] == ["Moth 1", "Lamp 1"]
    # a second time the kinds are there
    again = sound(pasting.paste(made, copied).level)
    assert len(again.kinds) == 2 and [e.name for e in again.order] == ["flutters"]


def test_a_kind_that_is_there_stays_as_it_is_and_values_that_it_lacks_are_left_out():
    other = level(kinds=(kind("Moth", 9),))
    made = sound(pasting.paste(other, sent(pasting.copied_objects(yard(), {2}))).level)
    assert made.kinds == other.kinds and made.objects[0].values == {}


# things with a page of their own


@pytest.mark.parametrize(
    ("sort", "name", "new"),
    [
        ("kind", "Lamp", "Lamp 2"),
        ("place", "gate", "gate 1"),
        ("clip", "wave", "wave 1"),
        ("trial", "trial", "trial 1"),
    ],
)
def test_a_thing_is_pasted_under_the_next_free_name(sort, name, new):
    lv = yard()
    pasted = pasting.paste(lv, sent(pasting.copied_thing(lv, sort, name)))
    assert pasted.name == new
    sound(pasted.level)
    assert pasting.paste(empty_level("other"), sent(pasting.copied_thing(lv, sort, name))).name == name


def test_a_route_comes_to_the_point_with_all_that_its_stops_have():
    made = sound(
        pasting.paste(yard(), sent(pasting.copied_thing(yard(), "place", "round")), at=(110, 105)).level
    )
    assert made.places[-1] == Route(
        name="round 1", stops=(Stop(x=100, y=100, message="hi"), Stop(x=120, y=110))
    )


def test_a_kind_comes_with_its_own_behaviours_and_without_rules():
    made = sound(pasting.paste(empty_level(), sent(pasting.copied_thing(yard(), "kind", "Moth"))).level)
    assert [k.name for k in made.kinds] == ["Moth"] and [e.name for e in made.order] == ["flutters"]


def test_a_kind_comes_with_its_rules_where_that_is_meant():
    copied = sent(pasting.copied_thing(yard(), "kind", "Moth", with_rules=True))
    made = sound(pasting.paste(empty_level(), copied).level)
    named = [r.name for e in made.order for r in (e.rules if isinstance(e, Section) else (e,))]
    assert sorted(named) == ["Fill", "Flutter"]
    assert [f.message for f in findings(made) if f.grave] == []
    # in its own level the copy has rules of its own
    twice = sound(pasting.paste(yard(), copied).level)
    copy = next(k for k in twice.kinds if k.name not in ("Moth", "Lamp"))
    lines = [
        r.do[0].slots["variable"] for e in twice.order if isinstance(e, Section) for r in e.rules if r.do
    ]
    assert f"{copy.name}.charge" in lines


def test_a_trial_leaves_out_switches_and_values_that_the_level_lacks():
    lv = yard()
    trial = Trial(name="odd", on=("Fill",), off=("Count",), values={"n": 3.0})
    lv = replace(lv, trials=(*lv.trials, trial), variants=(Variant(name="v", off=("Fill",)),))
    made = sound(pasting.paste(empty_level(), sent(pasting.copied_thing(lv, "trial", "odd"))).level)
    assert made.trials[-1] == Trial(name="odd")
    made = sound(pasting.paste(empty_level(), sent(pasting.copied_thing(lv, "variant", "v"))).level)
    assert made.variants == (Variant(name="v"),)


# parts of kinds and trials


@pytest.mark.parametrize("part", pasting.KIND_PARTS)
def test_parts_of_a_kind_go_to_another_and_speak_of_it(part):
    lv = yard()
    copied = sent(pasting.copied_parts(lv, part, "Moth", getattr(MOTH, part)))
    made = sound(pasting.paste(lv, copied, onto="Lamp").level)
    lamp = made.kinds[1]
    assert len(getattr(lamp, part)) == len(getattr(MOTH, part)) == copied.count
    assert "Moth" not in str(getattr(lamp, part))
    # once more: what has a name gets another, a behaviour is there once
    twice = sound(pasting.paste(made, copied, onto="Lamp").level).kinds[1]
    assert len(getattr(twice, part)) == copied.count * (1 if part == "behaviours" else 2)


def test_a_behaviour_that_is_there_gets_the_settings_of_the_copied_one():
    lv = level(kinds=(MOTH, kind("Lamp", behaviours=(c("spin", speed="1"), c("flock")))))
    copied = sent(pasting.copied_parts(lv, "behaviours", "Moth", MOTH.behaviours))
    lamp = pasting.paste(lv, copied, onto="Lamp").level.kinds[1]
    assert [(b.use, b.slots.get("speed")) for b in lamp.behaviours] == [
        ("spin", "Lamp.charge * 9"),
        ("flock", None),
    ]


def test_variables_go_to_a_kind_or_to_the_level():
    lv = yard()
    copied = sent(pasting.copied_parts(lv, "variables", "", (Variable(name="n", value=4.0),)))
    assert [v.name for v in sound(pasting.paste(lv, copied).level).variables] == ["n", "n 1"]
    assert pasting.paste(lv, copied, onto="Lamp").level.kinds[1].variables == (Variable(name="n", value=4.0),)
    assert pasting.paste(lv, copied).label == "paste 1 variable"


def test_parts_of_a_trial_go_to_another():
    lv = yard()
    lv = replace(lv, trials=(*lv.trials, Trial(name="other", watches=("level.n",))))
    holds = HoldsAt(formula="level.n > 0", time=1.0)
    for part, items in (
        ("expectations", (holds,)),
        ("watches", ("level.n", "time")),
        ("keys", (KeyBar(key="E", start=0, end=1),)),
    ):
        lv = sound(
            pasting.paste(lv, sent(pasting.copied_parts(lv, part, "trial", items)), onto="other").level
        )
    other = lv.trials[-1]
    assert other.expectations == (holds,) and other.watches == ("level.n", "time")
    assert [b.key for b in other.input.keys] == ["E"]


@pytest.mark.parametrize("part", ["behaviours", "expectations"])
def test_parts_without_anything_to_go_to_are_refused_with_a_sentence(part):
    copied = pasting.copied_parts(yard(), part, "trial" if part == "expectations" else "Moth", ())
    with pytest.raises(ValueError, match="first"):
        pasting.paste(empty_level(), copied, onto="nothing")


# the clipboard's text


@pytest.mark.parametrize("junk", ["", "shopping list", "gatillo rules\n[]"])
def test_other_texts_hold_no_things(junk):
    assert pasting.from_text(junk) is None


@pytest.mark.parametrize(
    "junk", ["", "{", "[]", '{"sort": "kind"}', '{"sort": "x", "level": {"gatillo": 1, "name": ""}}']
)
def test_a_part_of_things_is_a_sentence(junk):
    with pytest.raises(ValueError, match="copy it again"):
        pasting.from_text(pasting.START + junk)


@pytest.mark.parametrize(
    "sort", ["objects", "kind", "place", "clip", "trial", "variant", "expectations", "looks"]
)
def test_nothing_of_a_sort_is_a_sentence(sort):
    hollow = pasting.Copied(sort, replace(empty_level(), trials=()))
    with pytest.raises(ValueError, match=r"clipboard|first"):
        pasting.paste(yard(), hollow, onto="Moth")


STUDIES = {name: read_level(study_path(name)) for name in example_names()}


@given(st.sampled_from(sorted(STUDIES)), st.sampled_from(sorted(STUDIES)), st.randoms(use_true_random=False))
@settings(max_examples=40, deadline=None)
def test_anything_of_any_study_can_be_pasted_into_any_other(one, other, chance):
    source, target = STUDIES[one], STUDIES[other]
    offers = [
        pasting.copied_objects(
            source, {o.id for o in source.objects if chance.random() < 0.3} or {source.objects[0].id}
        ),
        *(pasting.copied_thing(source, "kind", k.name) for k in source.kinds),
        *(pasting.copied_thing(source, "kind", k.name, with_rules=True) for k in source.kinds[:2]),
        *(pasting.copied_thing(source, "place", p.name) for p in source.places),
        *(pasting.copied_thing(source, "clip", p.name) for p in source.clips),
        *(pasting.copied_thing(source, "trial", t.name) for t in source.trials),
    ]
    made = target
    for copied in chance.sample(offers, min(4, len(offers))):
        made = sound(pasting.paste(made, sent(copied), at=(50.0, 50.0)).level)
