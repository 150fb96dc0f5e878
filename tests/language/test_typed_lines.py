"""Typed lines in designers' own words: a corpus with counted figures, and what holds of every line.

The corpus is typed_lines.txt, typed_rules.txt and unknown_names.txt beside this file; the level they speak of is in evening.py.
"""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import pytest
from evening import EVENING, INDEX
from hypothesis import given, settings
from hypothesis import strategies as st

from building import kind, level, things
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES
from gatillo.catalogue.declare.wording import OPTION_WORDINGS, check_wordings
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.language.answers import answers, notes, with_names_made
from gatillo.language.binding import bind
from gatillo.language.reading import Reading
from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import sentence
from gatillo.language.synonyms import SYNONYMS
from gatillo.language.typed_words import NEGATIONS, NUMBERS, SMALL, are_opposites, split_words, stem
from gatillo.level.roles import Index

HERE = Path(__file__).parent


def _pairs(name: str, between: str) -> list[tuple[str, str]]:
    lines = (HERE / name).read_text(encoding="utf-8").splitlines()
    split = (line.split(between) for line in lines if between in line)
    return [(typed.strip(), meant.strip()) for typed, meant in split]


CORPUS = _pairs("typed_lines.txt", " => ")
RULES = _pairs("typed_rules.txt", " => ")
NIGHT_SHIFT = _pairs("night_shift_lines.txt", " => ")
UNKNOWN = _pairs("unknown_names.txt", " ## ")


def meaning(reading: Reading) -> str:
    return " | ".join(f"{one.part} {sentence(one.clause)}" for one in reading.all_lines)


@cache
def read(typed: str) -> tuple[Reading, ...]:
    return tuple(read_line(INDEX, typed))


def test_the_corpus_has_three_lines_or_more_for_every_sentence():
    assert len(CORPUS) >= 500
    first = {one.clause.use for typed, _ in CORPUS for one in read(typed)[:1]}
    lines = {n for n, e in CATALOGUE.items() if e.group != "behaviour"}
    assert lines - first == set()
    text = (HERE / "typed_lines.txt").read_text(encoding="utf-8")
    few = [block.split("]")[0] for block in text.split("\n[")[1:] if block.count(" => ") < 3]
    assert few == []


def test_at_least_95_of_100_lines_are_read_right_at_first_and_99_among_the_first_three():
    at_first = [typed for typed, meant in CORPUS if not read(typed) or meaning(read(typed)[0]) != meant]
    of_three = [typed for typed, meant in CORPUS if meant not in map(meaning, read(typed)[:3])]
    assert len(at_first) <= 0.05 * len(CORPUS), at_first
    assert len(of_three) <= 0.01 * len(CORPUS), of_three


def test_lines_about_a_level_whose_names_have_several_words_are_read_right_at_first():
    index = Index(read_level(study_path("night-shift.gatillo")))
    for typed, meant in NIGHT_SHIFT:
        assert meaning(read_line(index, typed)[0]) == meant


def test_no_line_of_the_corpus_leaves_a_word_unread():
    assert [typed for typed, _ in CORPUS if read(typed)[0].all_unread] == []


@pytest.mark.parametrize(("typed", "meant"), RULES)
def test_a_whole_rule_is_read_from_one_line(typed, meant):
    assert meaning(read(typed)[0]) == meant
    assert not read(typed)[0].all_unread


@pytest.mark.parametrize(("typed", "word"), UNKNOWN)
def test_a_name_that_is_not_there_is_kept_and_asked_about(typed, word):
    best = read(typed)[0]
    kept = [text for one in best.all_lines for text in one.clause.slots.values()]
    assert any(word.lower() in text.lower() for text in (*kept, *best.all_unread)), meaning(best)
    asked = [offer.typed.lower() for one in best.all_lines for offer in one.offers]
    assert any(word.lower() in text for text in (*asked, *map(str.lower, best.all_unread)))


@pytest.mark.parametrize(
    ("typed", "meant"),
    {
        "turn on rule bang": "do switch rule Bang on",
        "turn off rule bang": "do switch rule Bang off",
        "don't show lamp": "do hide Lamp",
        "don't hide lamp": "do show Lamp",
        "unless done": "if not: level.done",
        "if moth is further than 200 from lamp": "if not: Moth is within 200 of Lamp",
        "if moth is within 200 of lamp": "if Moth is within 200 of Lamp",
        "if there are at most 2 pods": "if there are <= 2 Pod",
        "if there are at least 2 pods": "if there are >= 2 Pod",
        "if gardener holds at most 2 key": "if not: Gardener holds at least 3 key",
        "if gardener has no key": "if not: Gardener holds at least 1 key",
        "when gardener is no longer in yard": "when Gardener leaves yard",
        "gardener does not touch plate": "if not: Gardener is touching Plate",
        "decrease pods by 3": "do add -3 to level.pods",
        "if it is before 5 s": "if not: it is past 5 s",
        "if bang has never fired": "if not: Bang has fired",
        "if lamp is hidden": "if not: Lamp is shown",
        "turn lamp right by 30": "do turn Lamp by -30°",
        "move lamp down by 10": "do move Lamp by 0, -10 along the level's axes",
        "if something is between gardener and lamp": "if not: Gardener has a clear view of Lamp",
    }.items(),
)
def test_opposites_are_read_as_opposites(typed, meant):
    assert meaning(read(typed)[0]) == meant


@pytest.mark.parametrize(
    "typed",
    [
        "never remove pod",
        "don't turn lamp by 90",
        "don't stop timer oven",
        "do not switch spin of lamp off",
        "keep the oldest moth to lamp",
        "turn lamp slowly by 90",
        "keep the last 3",
    ],
)
def test_a_word_that_no_sentence_has_is_not_passed_over(typed):
    best = read(typed)[0]
    assert best.all_unread or any(line.offers for line in best.all_lines), meaning(best)


def test_a_formula_is_kept_as_it_is_typed_right_or_wrong():
    for typed, kept in {
        "turn lamp by level.spin*dt": "level.spin*dt",
        "turn lamp by 2*(wnd+3)": "2*(wnd+3)",
        "if pods > maxpods - 1": "maxpods - 1",
        "add lamp.fuel * 0.5 to pods": "Lamp.fuel * 0.5",
    }.items():
        assert kept in read(typed)[0].clause.slots.values(), typed


def test_a_name_is_made_of_one_word_and_a_message_of_several():
    (best, *_) = read("send too late")
    assert best.clause.slots == {"message": "too late"}
    for typed in ("rotate lamp lamps by 90", "set big red thing to 4", "create blue wasp at gate"):
        for one in read(typed):
            made = [
                o
                for line in one.all_lines
                for o in line.offers
                if o.make not in ("message", "item", "timer", "tag", "")
            ]
            assert all(" " not in o.typed or o.make == "object" for o in made), typed


# what holds of every line

NAMES = [
    "gardener",
    "pod",
    "lamp",
    "moth",
    "crate",
    "cart",
    "yard",
    "gate",
    "pods",
    "wind",
    "done",
    "bang",
    "rails",
]
WORDS = sorted(
    {w for name in (*CATALOGUE, *CARD_ENTRIES) for w in name.split("_")} | {"slowly", "twice", "never", "off"}
)
LINES = st.lists(
    st.one_of(
        st.sampled_from(NAMES),
        st.sampled_from(WORDS),
        st.integers(0, 99).map(str),
        st.sampled_from(["level.zzz", "qwx"]),
    ),
    min_size=1,
    max_size=7,
).map(" ".join)
_SAID = NUMBERS


@settings(max_examples=120, deadline=None)
@given(LINES)
def test_every_word_of_any_line_is_read_or_said_to_be_unread(typed):
    for one in read_line(INDEX, typed)[:3]:
        stems = _stems_of(one)
        unread = {w.lower() for w in one.all_unread}
        for word in split_words(typed):
            plain = word.plain
            if plain in SMALL or plain in unread or plain in _PARTS:
                continue
            assert _is_read(plain, stems, one), (plain, meaning(one))


@settings(max_examples=120, deadline=None)
@given(LINES)
def test_no_reading_says_the_opposite_of_a_typed_word(typed):
    words = [w.plain for w in split_words(typed)]
    for one in read_line(INDEX, typed)[:3]:
        unread = {w.lower() for w in one.all_unread}
        for line in one.all_lines:
            own = [
                w
                for text, slot in line.entry.parts()
                if slot is None
                for w in re.findall(r"[\w-]+", text.lower())
            ]
            for word in words:
                if word in NEGATIONS or word in own or word in SMALL or word in unread:
                    continue
                against = [w for w in own if are_opposites(word, w)]
                assert not against or _turned(line, word) or len(one.all_lines) > 1, (word, meaning(one))


_PARTS = {
    "when",
    "if",
    "do",
    "then",
    "else",
    "otherwise",
    "unless",
    "while",
    "on",
    "once",
    "whenever",
    "and",
    "or",
    "not",
    "never",
}


def _stems_of(reading: Reading) -> set[str]:
    words: list[str] = []
    for line in reading.all_lines:
        words += re.findall(r"[\w.#-]+", sentence(line.clause).lower())
        for wording in line.entry.wordings:
            words += re.findall(r"[\w-]+", wording.text.lower())
        words += [w for text in line.clause.slots.values() for w in re.findall(r"[\w.#-]+", text.lower())]
        options = [option for slot in line.entry.slots.values() for option in slot.options]
        words += [w for option in options for said in OPTION_WORDINGS.get(option, ()) for w in said.split()]
    stems = {stem(w) for word in words for w in (word, *re.split(r"[._]", word))}
    return stems | {other for one in stems for other in SYNONYMS.get(one, ())}


def _is_read(plain: str, stems: set[str], reading: Reading) -> bool:
    if stem(plain) in stems or any(
        s.startswith(stem(plain)) or stem(plain).startswith(s) for s in stems if len(s) > 2
    ):
        return True
    values = " ".join(t for line in reading.all_lines for t in line.clause.slots.values()).lower()
    return (
        _SAID.get(plain, plain) in values
        or plain.isdigit()
        or any(line.clause.negated for line in reading.all_lines)
    )


def _turned(line: Reading, word: str) -> bool:
    """Whether a further wording of the entry holds the word: it says how it is turned round."""
    return any(
        stem(word) in {stem(w) for w in re.findall(r"[\w-]+", one.text)} for one in line.entry.wordings
    ) or any(word in text.lower() for text in line.clause.slots.values())


@pytest.mark.parametrize("name", [*CATALOGUE, *(n for n in CARD_ENTRIES)])
def test_every_sentence_has_three_further_wordings(name):
    entry = CATALOGUE.get(name) or CARD_ENTRIES[name]
    assert len({one.text for one in entry.wordings}) >= 3


def test_a_wording_that_names_a_slot_which_the_entry_lacks_is_refused():
    with pytest.raises(TypeError, match="names slots that it does not have"):
        check_wordings("remove {who}", ["who"], ["destroy {whom}"])


def test_words_for_options_are_for_options_that_there_are():
    options = {
        o for e in (*CATALOGUE.values(), *CARD_ENTRIES.values()) for s in e.slots.values() for o in s.options
    }
    assert set(OPTION_WORDINGS) <= options


@settings(max_examples=60, deadline=None)
@given(st.text(max_size=60))
def test_any_text_is_read_and_answered_without_an_error(text):
    for one in read_line(INDEX, text)[:3]:
        notes(INDEX, one)
        for _ in range(10):
            if not (offered := answers(INDEX, one)):
                break
            one = offered[0].reading
        assert not answers(INDEX, one)
        with_names_made(EVENING, INDEX, one)


@pytest.mark.parametrize(
    ("typed", "made"),
    [
        ("create 1 wasp at cellar", {"kinds": "wasp", "places": "cellar"}),
        ("gardener enters cellar", {"places": "cellar"}),
        ("send cart along canal", {"places": "canal"}),
        ("remove pod 9", {"objects": "Pod 9"}),
        ("add 1 to crumbs", {"variables": "crumbs"}),
        ("turn lamp by crumbs * dt", {"variables": "crumbs"}),
    ],
)
def test_what_a_line_makes_is_in_the_level_afterwards(typed, made):
    one = read_line(INDEX, typed)[0]
    while offered := answers(INDEX, one):
        one = next(a for a in offered if a.label.startswith("Make")).reading
    level, read_ = with_names_made(EVENING, INDEX, one)
    for where, name in made.items():
        assert name in [thing.name for thing in getattr(level, where)]
    assert not bind(Index(level), read_.clause, "occasion" if read_.part == "when" else "action").problems


def test_a_tag_that_is_made_is_carried_by_the_kind_of_the_line():
    one = read_line(INDEX, "if pod has tag rotten")[0]
    level, _ = with_names_made(EVENING, INDEX, one)
    assert "rotten" in next(k for k in level.kinds if k.name == "Pod").tags


def test_a_line_that_is_only_a_name_gives_what_can_be_said_of_it():
    found = read_line(INDEX, "lamp")
    assert len(found) > 5
    assert all("Lamp" in one.clause.slots.values() for one in found)


def test_the_likeliest_lines_come_first_with_the_roles_at_hand():
    found = read_line(INDEX, "", ("do", "if", "when"), after="begins_to_touch", here=("Gardener", "Pod"))
    assert any(sentence(one.clause) == "remove Pod" for one in found[:8])
    assert len(found) > 100


def test_words_beyond_the_most_that_are_read_are_said_to_be_unread():
    line = "when gardener hits pod " + " and ".join(f"add {n} to pods" for n in range(40))
    best = read_line(INDEX, line)[0]
    assert len(best.all_lines) > 10
    assert {"39", "38"} <= set(best.all_unread)


def test_names_in_the_braces_of_a_text_are_names():
    (best, *_) = read("say {gardener.x} and {level.windd} windd at lamp")
    assert best.clause.slots["text"] == "{Gardener.x} and {level.windd} windd"
    assert [offer.typed for offer in best.offers] == ["windd"]
    meant = next(one for one in answers(INDEX, best) if one.label == "Did you mean level.wind?")
    assert meant.reading.clause.slots["text"] == "{Gardener.x} and {level.wind} windd"
    made = next(one for one in answers(INDEX, best) if one.label.startswith("Make "))
    level, line = with_names_made(EVENING, INDEX, made.reading)
    assert "windd" in {variable.name for variable in level.variables}
    assert line.clause.slots["text"] == "{Gardener.x} and {level.windd} windd"


def test_an_amount_a_second_is_never_taken_for_one_each_time():
    (best, *_) = read("pods += 2 per second")
    assert best.clause.slots["amount"] == "2 * dt" and "a second" in best.remark
    (best, *_) = read("multiply wind by 2 per second")
    assert best.unread == ("per", "second")
    (best, *_) = read("walk gardener toward gate at 40 units per second")
    assert best.clause.slots["speed"] == "40" and not best.remark


def test_the_one_with_the_most_is_asked_about_its_own_kinds_variable():
    two = level(
        kinds=(kind("Guard", 5, has={"health": 1.0}), kind("Rat", 5, has={"health": 1.0, "age": 0.0})),
        objects=(*things("Guard", (0, 0)), *things("Rat", (9, 9), (5, 5), first=5)),
    )
    index = Index(two)

    def meant(typed: str) -> str:
        return meaning(read_line(index, typed)[0])

    assert meant("keep the rat with the most health") == (
        "if keep the one with the highest Rat.health, of all matches"
    )
    assert meant("remove the rat with the least health") == (
        "if keep the one with the lowest Rat.health, of all matches | do remove Rat"
    )
    assert (
        meant("remove the oldest rat")
        == "if keep the one with the highest Rat.age, of all matches | do remove Rat"
    )
    assert meant("hide the rats that are older than 5") == "if Rat.age > 5 | do hide Rat"
