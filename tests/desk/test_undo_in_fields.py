"""Ctrl+Z while the keyboard is in a field: what is typed and not taken, else the level's last edit."""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, Hands
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit

from building import START, add, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing

Z = Qt.Key.Key_Z


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(
        level(
            rule("Count", when=START, do=add("level.n")),
            kinds=(kind("Moth", 5, tags=("old",)),),
            objects=things("Moth", (10, 10)),
            has={"n": 0.0},
        )
    )
    window.activateWindow()
    return window, Hands(qtbot, window)


def spin(window, hands) -> QDoubleSpinBox:
    window.bench.select(Selection(objects=frozenset({1})))
    found = hands.field("object-x")
    assert isinstance(found, QDoubleSpinBox)
    return found


def test_undo_in_a_number_field_takes_back_the_edit_that_it_made(at_work):
    window, hands = at_work
    hands.click(spin(window, hands).lineEdit())
    hands.key(Qt.Key.Key_A, CTRL)
    hands.enter("77")
    assert window.bench.level.objects[0].x == 77
    assert isinstance(hands.focus(), QDoubleSpinBox | QLineEdit)
    hands.key(Z, CTRL)
    assert window.bench.level.objects[0].x == 10


def test_undo_in_a_field_first_takes_back_what_is_typed_and_not_yet_taken(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Moth")))
    field = hands.field("kind-tags")
    hands.click(field)
    hands.key(Qt.Key.Key_End)
    before = window.bench.level
    hands.type("er")
    assert field.text() == "older"
    hands.key(Z, CTRL)
    assert field.text() == "old" and window.bench.level is before


def test_undo_in_a_text_field_takes_back_the_edit_once_it_is_taken(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Moth")))
    hands.click(hands.field("kind-tags"))
    hands.key(Qt.Key.Key_End)
    hands.type("er")
    hands.key(ENTER)
    assert window.bench.level.kinds[0].tags == ("older",)
    hands.key(Z, CTRL)
    assert window.bench.level.kinds[0].tags == ("old",)


def test_undo_in_an_empty_typed_line_takes_back_the_levels_last_edit(at_work):
    window, hands = at_work
    window.order.setFocus()
    hands.key(ENTER, CTRL)
    hands.enter("every 2 s")
    assert window.order.writer.line.is_open and len(window.bench.level.order) == 2
    hands.key(Z, CTRL)
    assert len(window.bench.level.order) == 1
