"""A typed line is read as the sentence a designer would mean."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from building import c, heard, kind, level, rule, things
from gatillo.catalogue import CATALOGUE
from gatillo.language.binding import bind
from gatillo.language.line_reading import readings
from gatillo.language.sentence import sentence
from gatillo.level.model import Area, Rectangle, Spot
from gatillo.level.roles import Index

LEVEL = level(
    rule("r", when=heard("pod gathered"), do=c("start_timer", timer="round")),
    kinds=(
        kind("Gardener", 5, tags=("staff",), has={"tired": 0.0}, behaviours=(c("steer_by_keys"),)),
        kind("Seed pod", 5, tags=("seed",)),
        kind("Lamp", 5, has={"lit": False}),
    ),
    objects=(*things("Gardener", (0, 0)), *things("Seed pod", (9, 9), (30, 30), first=10)),
    places=(
        Area(name="yard", x=0, y=0, shape=Rectangle(width=9, height=9)),
        Spot(name="gate", x=1, y=2),
    ),
    has={"pods": 0.0, "done": False},
)
INDEX = Index(LEVEL)

LINES = {
    "gardener touches seed pod": "Gardener begins to touch Seed pod",
    "seed pod touches seed pod": "Seed pod begins to touch another Seed pod",
    "space is pressed": "Space is pressed",
    "press space": "Space is pressed",
    "every 2 s": "every 2 s, first after 1 s",
    "staff enters yard": "any staff enters yard",
    "level starts": "the level starts",
    "pod gathered heard": "pod gathered is heard",
    "if pods > 3": "level.pods > 3",
    "if seed pod within 40 of gardener": "Seed pod is within 40 of Gardener",
    "not gardener has tag staff": "not: Gardener has tag staff",
    "if distance(gardener, lamp) > 5 * dt": "distance(Gardener, Lamp) > 5 * dt",
    "do remove seed pod": "remove Seed pod",
    "do add 1 to pods": "add 1 to level.pods",
    "do set done to yes": "set level.done to yes",
    "do wait 2s": "wait 2 s",
    'do say "hello there" at gardener for 3 s': "say “hello there” at Gardener for 3 s",
    "do create 6 lamp at gate": "create 6 Lamp at gate",
    "do move gardener toward lamp at 80": "move Gardener toward Lamp at 80",
    "do move ga 60*dt 0 own": "move Gardener by 60*dt, 0 along its own axes",
    "else send too late": "send too late",
    "do add 1 to crates": "add 1 to level.crates",
    "do set lamp.hot to yes": "set Lamp.hot to yes",
    "lamp.lit": "Lamp.lit",
}


@pytest.mark.parametrize("typed", LINES)
def test_a_line_is_read_as_what_is_meant(typed):
    assert sentence(readings(INDEX, typed)[0].clause) == LINES[typed]


@pytest.mark.parametrize(
    ("typed", "part"),
    [
        ("gardener touches seed pod", "when"),
        ("remove seed pod", "do"),
        ("pods > 3", "if"),
        ("else remove lamp", "else"),
        ("not pods > 3", "if"),
    ],
)
def test_a_line_goes_where_its_sentence_belongs(typed, part):
    assert readings(INDEX, typed)[0].part == part


def test_a_begun_word_is_enough():
    assert sentence(readings(INDEX, "ga tou se")[0].clause) == "Gardener begins to touch Seed pod"


def test_names_and_functions_that_are_begun_in_a_formula_are_written_to_their_end():
    best = readings(INDEX, "dist(gar,lam)>90*dt")[0]
    assert best.part == "if"
    assert sentence(best.clause) == "distance(Gardener,Lamp)>90*dt"


def test_a_beginning_that_could_be_two_names_is_left_as_it_stands():
    assert not any("Gardener" in sentence(r.clause) for r in readings(INDEX, "dist(g,lam)>90*dt"))


def test_touching_once_comes_before_touching_in_every_tick():
    read = [r.clause.use for r in readings(INDEX, "gardener touches lamp")]
    assert read.index("begins_to_touch") < read.index("touches")


def test_a_variable_that_is_not_there_is_offered_as_a_new_one_of_the_right_type():
    for typed, made in {
        "do add 1 to crates": [("level", "crates", 0.0)],
        "do set lamp.hot to yes": [("Lamp", "hot", False)],
        'do set level.mood to "calm"': [("level", "mood", "")],
        "do add 1 to pods": [],
    }.items():
        assert readings(INDEX, typed)[0].new_variables(INDEX) == made


@pytest.mark.parametrize("typed", ["pod", "PODS", "level.pod"])
def test_a_variable_in_the_singular_or_in_other_letters_is_the_one_that_is_there(typed):
    best = readings(INDEX, f"do add 1 to {typed}")[0]
    assert best.clause.slots["variable"] == "level.pods"
    assert not best.new_variables(INDEX) and not best.questions(INDEX)


@pytest.mark.parametrize("typed", ["podds", "podd"])
def test_a_variable_that_is_nearly_written_stays_as_typed_and_the_near_one_is_offered(typed):
    best = readings(INDEX, f"do add 1 to {typed}")[0]
    assert best.clause.slots["variable"] == f"level.{typed}"
    (offer,) = best.questions(INDEX)
    assert (offer.typed, offer.make) == (typed, "level variable")
    assert offer.nearest(INDEX, best.entry) == ["level.pods"]


def test_a_name_typed_slightly_wrong_stays_as_typed_and_the_near_one_is_offered():
    best = readings(INDEX, "gardner touches lamp")[0]
    assert sentence(best.clause) == "gardner begins to touch Lamp"
    (offer,) = best.questions(INDEX)
    assert offer.nearest(INDEX, best.entry)[0] == "Gardener"


def test_a_begun_name_is_written_out_and_said_to_be():
    best = readings(INDEX, "remove gard")[0]
    assert best.clause.slots == {"who": "Gardener"}
    assert [(o.typed, o.filled) for o in best.offers] == [("gard", "Gardener")]
    assert not best.questions(INDEX)


def test_slots_that_nothing_fills_are_told():
    assert readings(INDEX, "gardener touches")[0].empty_slots() == ["b"]


def test_an_empty_line_lists_every_sentence_that_may_stand_there():
    found = readings(INDEX, "", ("when",))
    assert {r.clause.use for r in found} == {n for n, e in CATALOGUE.items() if e.group == "occasion"}


def test_nonsense_has_no_reading():
    assert readings(INDEX, "xyzzy plugh qwrt") == []


@pytest.mark.parametrize(
    "name", [n for n, e in CATALOGUE.items() if e.group != "behaviour" and n not in ("formula_holds",)]
)
def test_every_sentence_is_read_from_its_own_words(name):
    entry = CATALOGUE[name]
    words = " ".join(piece for piece, slot in entry.parts() if slot is None).strip()
    if not any(len(word) > 3 for word in words.split()):
        return
    assert name in [r.clause.use for r in readings(INDEX, words, most=40)]


@given(st.text(max_size=40))
def test_any_text_is_read_or_not_without_an_error(text):
    for reading in readings(INDEX, text)[:3]:
        group = {"when": "occasion", "if": "condition", "do": "action", "else": "action"}[reading.part]
        assert bind(INDEX, reading.clause, group).entry is not None
