"""Would the trials notice a change, asked in the window: the list grows, its offers make expectations and show both runs."""

from __future__ import annotations

import pytest
from hands import Hands

from building import EVERY_TICK, add, c, level, rule
from gatillo.desk.session.change_page import CHANGES
from gatillo.level.expectations import FiresTimes


@pytest.fixture
def at_work(open_window, qtbot):
    built = level(
        rule(
            "counts", when=EVERY_TICK, if_=c("formula_holds", formula="level.n < 5"), do=add("level.n"), id=1
        ),
        has={"n": 0.0},
    )
    window = open_window(built)
    return window, Hands(qtbot, window)


def asked(window, hands):
    hands.rest()
    window.actions_["ask changes"].trigger()
    answers = window.bench.answers
    hands.qtbot.waitUntil(lambda: answers.page is not None and not answers.page.busy)
    assert answers.page.title == CHANGES
    return answers.page


def test_each_change_that_nothing_notices_is_listed_with_what_would(at_work):
    window, hands = at_work
    page = asked(window, hands)
    assert page.notes[:2] == ["0 of 9 changes noticed, 0%.", "1 more make no difference in any trial."]
    at = next(n for n, root in enumerate(page.roots) if "do 1: left out" in root.sentence)
    (words, expect), (_, show) = page.offers[at]
    assert words == "Expect: “counts” fires exactly 5 times"
    show()
    hands.qtbot.waitUntil(lambda: window.bench.beside.run is not None)
    assert window.bench.beside.run.world.level["n"] == 0
    expect()
    assert window.bench.trial.expectations == (FiresTimes("counts", "exactly", 5),)
    # with it most changes are noticed
    again = asked(window, hands)
    assert again.notes[0] == "8 of 9 changes noticed, 89%."


def test_closing_the_answer_ends_the_search(at_work):
    window, hands = at_work
    hands.rest()
    window.actions_["ask changes"].trigger()
    window.bench.answers.dismiss()
    hands.rest()
    assert window.bench.answers.page is None
    assert not window.bench.answers.busy


def test_a_level_whose_trials_fail_is_told_so(open_window, qtbot):
    built = level(
        rule("counts", when=EVERY_TICK, do=add("level.n"), id=1),
        has={"n": 0.0},
        expect=(FiresTimes("counts", "exactly", 1),),
    )
    window = open_window(built)
    page = asked(window, Hands(qtbot, window))
    assert page.notes[0].endswith("does not pass, so no change is held to it.")
    assert page.roots == []


def test_a_comparison_that_comes_late_leaves_the_answer_to_a_newer_question(at_work):
    window, hands = at_work
    bench = window.bench
    page = asked(window, hands)
    page.offers[0][-1][1]()
    # asked while the other run is still being made
    window.actions_["ask changes"].trigger()
    hands.qtbot.waitUntil(
        lambda: not bench.beside.busy and bench.answers.page is not None and not bench.answers.page.busy,
    )
    assert bench.beside.run is not None
    assert bench.answers.page.title == CHANGES
