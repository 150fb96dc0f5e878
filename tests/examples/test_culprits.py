"""The wrong first try of each study, asked about at the telling moment: the answer names the culprit."""

from __future__ import annotations

from functools import cache

import pytest

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.reasons.asking import named_object, named_rule
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.edits import as_tried
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

CULPRITS = [
    # both pots are taken: the press means all under it
    (
        "02",
        "First try",
        "Pot_2.x",
        120,
        (
            "by “Drag”",
            "Pot 2.held: it was yes — set at 1.000 s by “Take hold of all”, action 1",
            "is pressed on Pot 2, all under it",
        ),
    ),
    # ninety degrees off: the angle is written by the formula, not by turning to face
    (
        "03",
        "First try",
        "Reckoned_head.angle",
        180,
        ("set at 3.000 s by “Face it, ninety off”, action 1", "because every tick"),
    ),
    # the pane jumps once: an occasion that comes once
    (
        "04",
        "First try",
        "Pane_1.x",
        240,
        (
            "put there at 1.000 s by “Jump”, action 1",
            "because the left pointer button is pressed",
            "was pressed at 1.000 s",
        ),
    ),
    # it leaves the bench: nothing but the button is asked
    (
        "05",
        "First try",
        "Lantern_1.x",
        240,
        ("by “Go anywhere”, action 1", "because the left pointer button is held"),
    ),
    # more than a hundred: an occasion that goes on
    ("07", "First try", "count(Crew)", 180, ()),
    # opened by touch: no condition about the key
    (
        "08",
        "First try",
        "Door_1.open",
        600,
        ("set at 9.450 s by “Open anyway”, action 1", "because Gardener 1 begins to touch Door 1"),
    ),
    # each change makes a ring more
    ("10", "First try", "level.number", 540, ("set at",)),
    # charge by the tick
    (
        "11",
        "First try: so much for each tick",
        "Seed_bomb_1.charge",
        70,
        ("by “Charge a bit”", "because Space is held"),
    ),
    # in every tick, not once for each change
    (
        "12",
        "First try",
        "Trowel.times",
        120,
        (
            "by “Mark”, action 2",
            "it has no occasion: it is looked at in every tick",
            "Trowel was 140 units from Gardener 1",
        ),
    ),
    # a press beside it takes it too: the press counts though it was elsewhere
    (
        "13",
        "First try",
        "Can_1.x",
        72,
        ("by “Held over the can”", "it comes in every tick while that lasts", "was pressed at 0.500 s"),
    ),
    # all of them come: nothing says which one
    (
        "14",
        "First try",
        "Far_one.x",
        300,
        (
            "begun at 3.017 s by “All to it”",
            "it acts on all 3 of “Goose”: nothing above the action says which one is meant",
        ),
    ),
    # turned by the tick
    (
        "18",
        "First try: so much for each tick",
        "Vane_1.angle",
        60,
        ("by “Turn it a bit”", "because every tick"),
    ),
    # again and again while it touches
    (
        "19",
        "First try",
        "Gate_1.y",
        300,
        ("by “Open and open”, action 2", "Pot 1 touches Plate 1 (it comes in every tick while that lasts)"),
    ),
    # the apprentice goes down too
    (
        "20",
        "First try",
        "Apprentice_1.x",
        240,
        ("by “All go down”, action 1", "it acts on all 2 of “any person”"),
    ),
    # gone at once
    (
        "21",
        "First try",
        "Gardener_1.x",
        72,
        ("by “Straight to the ferns”, action 1", "the prompt on Post 1 is completed by Gardener 1"),
    ),
]


@cache
def explainer(study: str, trial: str) -> Explainer:
    name = next(n for n in study_names() if n.startswith(study))
    whole = read_level(study_path(name))
    chosen = next(t for t in whole.trials if t.name == trial)
    return Explainer(run_trial(Program(as_tried(whole, chosen)), chosen))


@pytest.mark.parametrize(
    ("study", "trial", "formula", "tick", "said"), CULPRITS, ids=[c[0] for c in CULPRITS]
)
def test_asking_for_the_value_names_the_rule_and_what_it_asked(study, trial, formula, tick, said):
    words = "\n".join(explainer(study, trial).value(formula, tick).lines(5))
    for one in said:
        assert one in words, words


def test_too_many_are_told_by_who_created_one_and_that_its_occasion_goes_on():
    asked = explainer("07", "First try")
    words = "\n".join(asked.there(named_object(asked.run, "Crew +60"), 180).lines(3))
    assert "by “Anyone calls”, action 1" in words
    assert "Guest 1 is in yard (it comes in every tick while that lasts)" in words
    beetle = explainer("09", "First try")
    words = "\n".join(beetle.there(named_object(beetle.run, "Beetle +50"), 180).lines(3))
    assert "by “Beetles, beetles”, action 1" in words and "because every tick" in words
    ring = explainer("10", "First try")
    words = "\n".join(ring.there(named_object(ring.run, "Firefly +10"), 540).lines(3))
    assert "by “Another ring”, action 1" in words and "because level.number changes" in words
    plug = explainer("17", "First try")
    words = "\n".join(plug.there(named_object(plug.run, "Plug +1"), 100).lines(3))
    assert "by “Plug at once”, action 1" in words and "F was pressed at 1.500 s" in words


def test_asked_forward_the_wrong_rule_tells_whom_it_moved():
    asked = explainer("20", "First try")
    turn = named_rule(asked.run, "All go down")
    firing = next(f for f in asked.run.trace.firings() if f.rule_index == turn.index)
    assert "it moved Gardener 1, Apprentice 1 (action 1)" in "\n".join(
        caused(asked, firing.tick, firing.position).lines(1)
    )


@pytest.mark.parametrize(
    ("study", "trial", "rule", "said"),
    [
        (
            "05",
            "First try",
            "Go to the pointer",
            "its section “Carrying light” was switched off by the trial",
        ),
        ("08", "First try", "Open the door", "was switched off by the trial"),
        ("14", "First try", "Mute the notices", "its occasion never happened: M is pressed"),
    ],
)
def test_why_the_right_rule_did_not_fire_in_its_place(study, trial, rule, said):
    asked = explainer(study, trial)
    rules = [t.source.name for t in asked.run.program.rules]
    name = (
        rule
        if rule in rules
        else next(r for r in rules if asked.run.program.rules[rules.index(r)].section == "The door")
    )
    words = "\n".join(why_never(WhyNot(asked), named_rule(asked.run, name)).lines(2))
    assert said in words, words


def test_a_jittering_moth_is_told_by_what_puts_it_and_how_far():
    asked = explainer("06", "Straight: it jitters")
    late = asked.run.done
    words = ["\n".join(asked.value("Moth_1.x", tick).lines(2)) for tick in (late - 1, late)]
    assert all("by “" in w for w in words)
    assert words[0].splitlines()[1] != words[1].splitlines()[1]
