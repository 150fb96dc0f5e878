"""What a typed line says of how often its rule fires becomes settings of the rule; what it does not say is left as it is."""

from __future__ import annotations

import pytest
from evening import INDEX
from test_typed_lines import RULES, meaning

from gatillo.language.firing_phrases import fields_for, firing_alone, without_firing
from gatillo.language.rule_lines import read_line
from gatillo.level.model import Clause, Rule

ONCE = {"fires": "first time only"}
ONCE_EACH = {"fires": "first time only", "first_per": "object"}
TRUE = {"fires": "on becoming true"}


@pytest.mark.parametrize(
    ("typed", "lines", "fields"),
    [
        (
            "when the gardener enters the yard send bang only once",
            "when Gardener enters yard | do send bang",
            ONCE,
        ),
        (
            "the first time a moth touches the lamp, remove the moth",
            "when Moth begins to touch Lamp | do remove Moth",
            ONCE,
        ),
        (
            "when the gardener sees the moth for the first time, send bang",
            "if Gardener has a clear view of Moth | do send bang",
            ONCE,
        ),
        (
            "when a moth touches the lamp add 1 to pods, but only once per moth",
            "when Moth begins to touch Lamp | do add 1 to level.pods",
            ONCE_EACH,
        ),
        (
            "when a moth touches the lamp add 1 to pods once for each moth",
            "when Moth begins to touch Lamp | do add 1 to level.pods",
            ONCE_EACH,
        ),
        (
            "when a moth touches the lamp add 1 to pods, at most once a second",
            "when Moth begins to touch Lamp | do add 1 to level.pods",
            {"cooldown": 1.0},
        ),
        (
            "when a moth touches the lamp, not more than once every 2 seconds per lamp, send bang",
            "when Moth begins to touch Lamp | do send bang",
            {"cooldown": 2.0, "cooldown_per": "object"},
        ),
        (
            "when space is pressed send bang with a cooldown of half a second",
            "when Space is pressed | do send bang",
            {"cooldown": 0.5},
        ),
        (
            "when space is pressed send bang with a 500 ms cooldown",
            "when Space is pressed | do send bang",
            {"cooldown": 0.5},
        ),
        (
            "when space is pressed send bang, then not again for 2 minutes",
            "when Space is pressed | do send bang",
            {"cooldown": 120.0},
        ),
        ("when pods is more than 3 and wind is 0 send bang", None, TRUE),
        (
            "as soon as the moth is near the lamp send bang",
            "if Moth is within 100 of Lamp | do send bang",
            TRUE,
        ),
        ("if the moth is near the lamp send bang", "if Moth is within 100 of Lamp | do send bang", {}),
        ("while the moth is near the lamp send bang", "if Moth is within 100 of Lamp | do send bang", {}),
        ("when space is pressed send bang", "when Space is pressed | do send bang", {}),
        (
            "once per second create a moth at the gate",
            "when every 1 s, first after 1 s | do create 1 Moth at gate",
            {},
        ),
        (
            'the first time the gardener hits a pod say "mine" at the gardener',
            "when Gardener begins to touch Pod | do say “mine” at Gardener for 2 s",
            ONCE,
        ),
        (
            'when gardener hits pod say "not again for 2 s" at gardener, at most once a second',
            "when Gardener begins to touch Pod | do say “not again for 2 s” at Gardener for 2 s",
            {"cooldown": 1.0},
        ),
        ('say "only once" at the gardener', "do say “only once” at Gardener for 2 s", {}),
        ("say only once at the gardener", "do say “only once” at Gardener for 2 s", {}),
    ],
)
def test_a_line_says_how_often_its_rule_fires(typed, lines, fields):
    best = read_line(INDEX, typed)[0]
    assert best.rule == fields
    assert not best.all_unread
    if lines is not None:
        assert meaning(best) == lines


@pytest.mark.parametrize("typed", [typed for typed, _ in RULES])
def test_a_line_that_says_nothing_of_it_keeps_all_its_words(typed):
    text, fields = without_firing(typed)
    assert (text, fields) == (typed, {})


@pytest.mark.parametrize(
    ("text", "fields"),
    [
        ("at most once a second", {"cooldown": 1.0}),
        ("then rests 2 s for each object", {"cooldown": 2.0, "cooldown_per": "object"}),
        ("first time only for each object", ONCE_EACH),
        ("on becoming true", TRUE),
        ("only once", ONCE),
        ("send bang", {}),
        ("once", {}),
        ("", {}),
    ],
)
def test_how_often_alone_is_known_too_as_the_program_itself_says_it(text, fields):
    assert firing_alone(text) == fields


def test_a_phrase_alone_is_no_line():
    assert without_firing("at most once a second") == ("at most once a second", {})


def test_on_becoming_true_is_not_put_into_a_rule_that_has_an_occasion_or_fires_otherwise():
    reading = read_line(INDEX, "when the moth is near the lamp send bang")[0]
    assert fields_for(Rule(id=1, name="new"), reading) == TRUE
    pressed = Clause(use="key_pressed", slots={"key": "B"})
    assert fields_for(Rule(id=1, name="new", when=(pressed,)), reading) == {}
    assert fields_for(Rule(id=1, name="new", fires="first time only"), reading) == {}


def test_a_card_of_a_graph_has_no_such_setting_so_the_words_are_not_read():
    best = read_line(INDEX, "send bang at most once a second", cards=True)[0]
    assert best.rule == {}
    assert best.all_unread or best.offers
