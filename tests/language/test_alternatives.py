"""“Or” between typed conditions: one of them is enough."""

from __future__ import annotations

import pytest
from evening import INDEX

from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import sentence


def meaning(typed, **more):
    return [f"{one.part} {sentence(one.clause)}" for one in read_line(INDEX, typed, **more)[0].all_lines]


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("if pods > 3 or wind < 2", "level.pods > 3 or level.wind < 2"),
        ("if the lamp is lit or the door is open", "Lamp.lit or Door.open"),
        ("if the lamp is lit or the door isn't open", "Lamp.lit or not (Door.open)"),
        ("unless the lamp is lit or the door is open", "not: Lamp.lit or Door.open"),
        ("if W or Up is held", 'key_down("W") or key_down("Up")'),
        ("if W is held or the lamp is lit", 'key_down("W") or Lamp.lit'),
    ],
)
def test_formulas_joined_by_or_are_one_formula(typed, meant):
    assert meaning(typed) == [f"if {meant}"]


def test_other_conditions_joined_by_or_are_a_group_of_which_any_must_hold():
    assert meaning("if the gardener is in the yard or the lamp is lit") == [
        "if any of these holds (Gardener is within yard; Lamp.lit)"
    ]
    assert meaning("unless the gardener is in the yard or the lamp is lit") == [
        "if not: any of these holds (Gardener is within yard; Lamp.lit)"
    ]


def test_and_binds_more_closely_than_or():
    assert meaning("if the gardener is in the yard and the lamp is lit or done") == [
        "if any of these holds (all of these hold (Gardener is within yard; Lamp.lit); level.done)"
    ]


def test_conditions_joined_by_and_stay_lines_of_their_own():
    assert meaning("if the gardener is in the yard and the lamp is lit") == [
        "if Gardener is within yard",
        "if Lamp.lit",
    ]


def test_an_alternative_stands_among_the_lines_of_a_whole_rule():
    typed = "when bang is heard if the moth touches the lamp or pods > 3 hide the lamp"
    assert meaning(typed) == [
        "when bang is heard",
        "if any of these holds (Moth is touching Lamp; level.pods > 3)",
        "do hide Lamp",
    ]


def test_in_a_graph_or_between_conditions_that_are_no_formulas_is_asked_about():
    first = read_line(INDEX, "if the gardener is in the yard or the lamp is lit", cards=True)[0]
    assert first.all_unread == ("or",)


def test_in_a_graph_unless_turns_each_of_the_conditions_round():
    typed = "unless the gardener is in the yard or the lamp is lit"
    assert meaning(typed, cards=True) == ["if not: Gardener is within yard", "if not: Lamp.lit"]
    assert not read_line(INDEX, typed, cards=True)[0].all_unread


def test_an_unknown_name_keeps_or_unread_and_unless_in_its_place():
    first = read_line(INDEX, "unless the lamp is lit or the gardener is in the cellar")[0]
    assert "or" in first.all_unread
    assert first.all_lines[0].clause.negated


def test_occasions_joined_by_or_are_two():
    assert meaning("when W or Up is pressed") == ["when W is pressed", "when Up is pressed"]
