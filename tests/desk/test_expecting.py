"""What happened is expected from now on, by one command."""

from __future__ import annotations

import pytest
from hands import CTRL, SHIFT, Hands
from PySide6.QtCore import Qt

from building import add, c, kind, level, rule, things
from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.session.selection import Selection


def drifting():
    """One ball drifts off to the left, one stands."""
    return level(
        rule("Drift", do=c("move_by", who="Ball 1", dx="-60 * dt"), id=1),
        rule("Tick over", when=c("every_seconds", period="0.5", first="0.5"), do=add("level.n"), id=2),
        kinds=(kind("Ball", 5),),
        objects=things("Ball", (10, -20), (50, 60)),
        has={"n": 0.0},
        seconds=2,
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(drifting())
    return window, Hands(qtbot, window)


def expected(window) -> list[str]:
    return [e.sentence() for e in window.bench.trial.expectations]


def outcomes(window) -> list[str]:
    return [v.outcome for v in window.bench.shown.verdicts]


def test_a_rule_is_expected_to_fire_as_often_as_it_did(at_work):
    window, hands = at_work
    window.bench.select(Selection(rule=2))
    hands.expect_as_now()
    assert expected(window) == ["“Tick over” fires exactly 4 times"]
    assert outcomes(window) == ["held"]


def test_objects_are_expected_to_stand_where_they_do_at_the_cursor(at_work):
    window, hands = at_work
    ids = frozenset(o.id for o in window.bench.level.objects)
    window.bench.select(Selection(objects=ids))
    window.bench.move_cursor(window.bench.run.end_of(60))
    hands.expect_as_now()
    assert expected(window) == [
        "abs(Ball_1.x + 50) <= 1 and abs(Ball_1.y + 20) <= 1 holds at 1 s",
        "abs(Ball_2.x - 50) <= 1 and abs(Ball_2.y - 60) <= 1 holds at 1 s",
    ]
    assert outcomes(window) == ["held", "held"]
    window.bench.document.undo()
    assert expected(window) == [], "both are one step of undo"


def test_what_is_expected_already_is_not_put_down_twice(at_work):
    window, hands = at_work
    window.bench.select(Selection(rule=2))
    hands.expect_as_now()
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    assert len(expected(window)) == 1
    assert "expected already" in window.message.words.text()


def test_with_nothing_selected_it_is_said_what_to_select(at_work, qtbot):
    window, hands = at_work
    window.bench.select(Selection())
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    settle(qtbot, window)
    assert expected(window) == []
    assert "Select a rule, a graph or some objects first" in window.message.words.text()
