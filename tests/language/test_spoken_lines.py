"""Typed lines that say more than one sentence does: states, amounts in words, some objects only, for some seconds."""

from __future__ import annotations

import pytest
from evening import INDEX
from hypothesis import given, settings
from hypothesis import strategies as st

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.declare.entry import Entry, check_undone
from gatillo.language.answers import notes
from gatillo.language.lacking import of_words
from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import sentence


def first(typed: str) -> str:
    return " | ".join(f"{one.part} {sentence(one.clause)}" for one in read_line(INDEX, typed)[0].all_lines)


@pytest.mark.parametrize(
    ("spoken", "formula"),
    [
        ("a random number between 1 and 5", "random(1, 5)"),
        ("something from 2 to pods", "random(2, level.pods)"),
        ("half of pods", "level.pods / 2"),
        ("twice the wind plus pods", "(level.wind + level.pods) * 2"),
        ("20 % of wind", "level.wind * 20 / 100"),
        ("the distance between the moth and the gate", "distance(Moth, gate)"),
        ("the direction from lamp to moth", "direction(Lamp, Moth)"),
        ("the number of moths", "count(Moth)"),
        ("the larger of wind and pods", "max(level.wind, level.pods)"),
    ],
)
def test_an_amount_is_read_as_it_is_spoken(spoken, formula):
    assert first(f"set wind to {spoken}") == f"do set level.wind to {formula}"


def test_a_spoken_amount_with_an_unknown_name_is_not_made_up():
    reading = read_line(INDEX, "set wind to half of splendour")[0]
    assert reading.all_unread or any("splendour" in offer.typed for offer in reading.offers)


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("open the door", "do set Door.open to yes"),
        ("shut the door", "do set Door.open to no"),
        ("make the door closed", "do set Door.open to no"),
        ("turn the lamp on", "do set Lamp.lit to yes"),
        ("switch off the lamp", "do set Lamp.lit to no"),
        ("put out every lamp", "do set Lamp.lit to no"),
        ("if the door is closed", "if not: Door.open"),
        ("unless the door is closed", "if Door.open"),
        ("if all lamps are lit", "if count_where(Lamp, not Lamp.lit) = 0"),
        ("if no lamp is lit", "if count_where(Lamp, Lamp.lit) = 0"),
        ("if at least 2 lamps are lit", "if count_where(Lamp, Lamp.lit) >= 2"),
        ("if not all lamps are lit", "if not: count_where(Lamp, not Lamp.lit) = 0"),
        ("when the door closes", "when Door.open changes | if not: Door.open"),
    ],
)
def test_a_state_is_the_yes_no_variable_that_it_names(said, meant):
    assert first(said) == meant


def test_a_state_that_no_variable_has_is_not_put_on_another():
    meant = first("lock the door")
    assert "Door.open" not in meant


@given(
    st.sampled_from(["0.5", "1", "2.25", "10"]),
    st.sampled_from(["hide", "show"]),
    st.sampled_from(["cart", "moth"]),
)
@settings(max_examples=16, deadline=None)
def test_for_some_seconds_an_action_is_done_and_undone(seconds, verb, who):
    other = {"hide": "show", "show": "hide"}[verb]
    name = who.capitalize()
    assert (
        first(f"{verb} the {who} for {seconds} s")
        == f"do {verb} {name} | do wait {seconds} s | do {other} {name}"
    )


def test_what_cannot_be_undone_is_not_read_as_if_it_could():
    reading = read_line(INDEX, "remove the pod for 2 seconds")[0]
    assert reading.all_unread or reading.questions(INDEX) or reading.new_variables(INDEX)


def test_what_undoes_an_action_is_declared_of_actions_alone(monkeypatch):
    check_undone()
    hide = CATALOGUE["hide"]
    wrong = Entry(
        "hide",
        hide.group,
        hide.subject,
        hide.sentence,
        hide.help,
        hide.slots,
        hide.compute,
        undone_by="is_shown",
    )
    monkeypatch.setitem(CATALOGUE, "hide", wrong)
    with pytest.raises(TypeError, match="hide cannot be undone by is_shown"):
        check_undone()


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("remove the pods in the yard", "if Pod is within yard | do remove Pod"),
        ("hide the lamps that are lit", "if Lamp.lit | do hide Lamp"),
        ("destroy the moth that touches the gardener", "if Moth is touching Gardener | do remove Moth"),
        ("remove a random pod", "if keep a random one, of all matches | do remove Pod"),
        (
            "hide the nearest lamp to the gardener",
            "if keep the nearest Lamp to Gardener, of all matches | do hide Lamp",
        ),
        (
            "let the gardener face the nearest moth",
            "if keep the nearest Moth to Gardener, of all matches | do let Gardener face Moth",
        ),
    ],
)
def test_an_action_for_some_objects_is_a_condition_or_a_pick_and_the_action(said, meant):
    assert first(said) == meant


@pytest.mark.parametrize(
    "said",
    ["fade out the moth over 1 s", "shake the view", "zoom in on the gardener", "let the gardener wander"],
)
def test_what_levels_do_not_have_is_said(said):
    found = read_line(INDEX, said)
    assert any(note.sort == "lacking" for note in notes(INDEX, found[0])) if found else of_words(said.split())


def test_a_known_line_is_never_said_to_be_lacking():
    assert not any(n.sort == "lacking" for n in notes(INDEX, read_line(INDEX, "remove the pod")[0]))
