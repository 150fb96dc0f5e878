"""What a newcomer stumbles on: messages, slots that are nearly hit, the only answer, quotes, examples that are not there."""

from __future__ import annotations

import pytest
from hands import ENTER, LEFT, Hands
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from building import EVERY_TICK, POD, add, kind, level, rule, things
from conftest import settle
from gatillo.catalogue.declare.slot_types import SLOT_TYPES, hint_here
from gatillo.language.line_reading import readings
from gatillo.language.sentence import sentence
from gatillo.level.roles import Index

CRATES = level(kinds=(kind("Crate", 5),), objects=things("Crate", (0, 0)), has={"n": 0.0})


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("crate pressed", "the left pointer button is pressed on Crate, the front-most only"),
        ("crate held", "the left pointer button is held on Crate, the front-most only"),
        ("space pressed", "Space is pressed"),
    ],
)
def test_the_reading_that_uses_every_word_wins(typed, meant):
    assert sentence(readings(Index(CRATES), typed)[0].clause) == meant


def test_hints_name_variables_that_are_there_or_none():
    text = SLOT_TYPES["text"].hint
    assert hint_here(Index(CRATES), text) == "a text; values stand in braces: {level.n} left"
    assert hint_here(Index(level()), text) == "a text; values stand in braces"
    formula = SLOT_TYPES["yes/no formula"].hint
    assert hint_here(Index(CRATES), formula) == "a formula that is yes or no, such as level.n > 3"
    assert hint_here(Index(level()), formula) == "a formula that is yes or no"
    assert "level.pods" not in "".join(hint_here(Index(level()), t.hint) for t in SLOT_TYPES.values())


def opened(open_window, qtbot, *rules):
    made = level(
        *(rules or (rule("r", when=EVERY_TICK, do=add("level.n", "2")),)),
        kinds=(POD,),
        objects=things("Pod", (100, 100)),
        has={"n": 0.0},
    )
    window = open_window(made)
    settle(qtbot, window)
    window.order.setFocus()
    return window


def test_a_message_moves_nothing(open_window, qtbot):
    window = opened(open_window, qtbot)
    before = [w.mapTo(window, QPoint()) for w in (window.order, window.level_view, window.run_bar)]
    window.bench.notify("Something to tell.")
    QApplication.processEvents()
    assert window.message.isVisible()
    assert [w.mapTo(window, QPoint()) for w in (window.order, window.level_view, window.run_bar)] == before


def line_row(window) -> int:
    rows = window.order.state.rows
    return next(at for at, row in enumerate(rows) if row.sort == "rule" and window.order.state.slots_of(at))


def test_a_click_beside_a_slot_means_it_and_a_double_click_the_nearest(open_window, qtbot):
    window = opened(open_window, qtbot)
    order = window.order
    at = line_row(window)
    number, word = next((n, w) for n, w in enumerate(order.state.slots_of(at)) if w.text == "level.n")
    area = order.geometry_.word_area(at, word)
    beside = QPointF(area.right() + 5, area.center().y()).toPoint()
    QTest.mouseClick(order.viewport(), LEFT, pos=beside)
    assert order.writer.editor.field is not None and order.state.current_slot == number
    order.writer.editor.close_editor(keep=False)
    far = QPointF(area.right() + 80, area.center().y()).toPoint()
    QTest.mouseClick(order.viewport(), LEFT, pos=far)
    assert order.writer.editor.field is None
    QTest.mouseDClick(order.viewport(), LEFT, pos=far)
    assert order.writer.editor.field is not None and order.state.current_slot == number


def test_quotes_about_a_text_are_its_quotes_and_the_only_answer_is_there(open_window, qtbot):
    window = opened(open_window, qtbot)
    hands = Hands(qtbot, window)
    window.order.writer.new_rule()
    hands.enter("every 1 s")
    hands.enter("say")
    # the text is asked for first, as the sentence has it, then who says it
    field = window.order.writer.editor.field
    assert field is not None and field.accessibleName().startswith("text")
    hands.enter('"hello there"')
    field = window.order.writer.editor.field
    assert field is not None and field.text() == "Pod"
    hands.key(ENTER)
    made = window.bench.level.order[-1]
    assert made.do[0].slots["text"] == "hello there" and made.do[0].slots["who"] == "Pod"


def test_a_replay_that_takes_long_says_how_far_it_is(open_window, qtbot):
    window = opened(open_window, qtbot)
    order, bench = window.order, window.bench
    before = order.viewport().grab().toImage()
    bench.progress = 30, 60
    bench.progressed.emit()
    assert order.viewport().grab().toImage() != before
    bench.progress = None
    bench.progressed.emit()
    assert order.viewport().grab().toImage() == before
