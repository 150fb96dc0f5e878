"""Beginning or opening another level: nothing that was said or typed about the one before remains."""

from __future__ import annotations

import pytest
from hands import Hands
from PySide6.QtWidgets import QApplication

from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.looks.plain import Rich
from gatillo.desk.session.selection import Selection
from gatillo.examples import study_path
from gatillo.level.model import Section
from gatillo.sim.run.run import Cursor


def begin(window) -> None:
    window.actions_["new"].trigger()


def open_another(window) -> None:
    assert window.open_path(study_path("02-stacked-pots.gatillo"))


@pytest.fixture(params=[begin, open_another], ids=["begun", "opened"])
def go(request):
    return request.param


def said(window) -> list[str]:
    return [label.text() for label in window.sheet.findChildren(Rich) if label.isVisibleTo(window.sheet)]


def test_no_way_back_to_an_answer_about_the_level_before(open_window, qtbot, go):
    window = open_window()
    bench, answers = window.bench, window.bench.answers
    firing = next(iter(bench.run.trace.firings()))
    bench.move_cursor(Cursor(firing.tick, firing.position))

    def ask() -> None:
        window.asking.why()
        qtbot.waitUntil(lambda: answers.page is not None and not answers.busy and not answers.page.busy)

    ask()
    bench.select(Selection(objects=frozenset({1})))
    assert any("back to the answer" in text for text in said(window))
    ask()
    go(window)
    settle(qtbot, window)
    assert answers.page is None
    assert not any("back to the answer" in text for text in said(window))
    assert not answers.may_ask_again


def test_a_line_being_typed_is_put_away(open_window, qtbot, go):
    window = open_window()
    hands = Hands(qtbot, window)
    window.order.writer.new_rule()
    hands.type("zzz")
    line = window.order.writer.line
    assert line.is_open
    go(window)
    settle(qtbot, window)
    assert not line.is_open and not line.list.isVisible()
    assert window.order.state.draft is None
    window.order.writer.new_rule()
    assert line.field.text() == ""


def test_a_message_about_the_level_before_goes(open_window, qtbot, go):
    window = open_window()
    window.bench.notify("The rule “Sow” has no objects to act on, and so it does nothing at all.")
    assert window.message.isVisible()
    go(window)
    assert not window.message.isVisible()


def test_rules_of_the_new_level_are_folded_whatever_was_unfolded_before(open_window, qtbot, go):
    window = open_window()
    for entry in window.bench.level.order:
        if not isinstance(entry, Section):
            window.order.state.show_rule(entry.id)
    QApplication.processEvents()
    go(window)
    settle(qtbot, window)
    assert window.order.state.opened == set()
