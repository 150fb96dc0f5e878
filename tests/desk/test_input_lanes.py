"""Keys of a trial's input are drawn, moved, stretched, split and removed in their lanes; expectations are drawn between marks."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from building import add, c, heard, level, rule, send
from conftest import settle
from gatillo.level.expectations import FiresBefore, FiresTimes
from gatillo.level.model import Input, KeyBar, Trial

LEFT = Qt.MouseButton.LeftButton
ALT = Qt.KeyboardModifier.AltModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def bell():
    """Space rings, and a tick later it is heard."""
    made = level(
        rule("Ring", when=c("key_pressed", key="Space"), do=send("bang"), id=1),
        rule("Hear", when=heard("bang"), do=add("level.n"), id=2),
        has={"n": 0.0},
    )
    keys = (KeyBar(key="Space", start=0.5, end=1.0), KeyBar(key="Up", start=0.0, end=0.2))
    return replace(made, trials=(Trial(name="Twice", length=2.0, input=Input(keys=keys)),))


@pytest.fixture
def opened(open_window, qtbot):
    window = open_window(bell())
    window.order.fit()
    return window


def row_of(window, key):
    rows = window.order.state.rows
    return next(at for at, row in enumerate(rows) if row.sort == "input" and row.words[1].text == key)


def place(window, row, seconds):
    """Return the pixel of a moment in a row's lane."""
    order = window.order
    x = order.scale.middle(round(seconds * window.bench.program.rate))
    return QPoint(round(x), round(order.geometry_.row_area(row).center().y()))


def drag(window, begin, end, steps=4):
    view = window.order.viewport()
    QTest.mousePress(view, LEFT, pos=begin)
    for n in range(1, steps + 1):
        QTest.mouseMove(view, begin + (end - begin) * n / steps)
        QApplication.processEvents()
    QTest.mouseRelease(view, LEFT, pos=end)
    QApplication.processEvents()


def bars(window, key="Space"):
    return [(round(b.start, 2), round(b.end, 2)) for b in window.bench.trial.input.keys if b.key == key]


def rings(window):
    return sum(
        window.bench.run.program.rules[f.rule_index].source.name == "Ring"
        for f in window.bench.run.trace.firings()
    )


def near(found, wanted, within=0.04):
    return all(
        abs(a - b) <= within
        for one, two in zip(found, wanted, strict=True)
        for a, b in zip(one, two, strict=True)
    )


def test_a_bar_is_moved_by_its_middle(opened, qtbot):
    at = row_of(opened, "Space")
    drag(opened, place(opened, at, 0.75), place(opened, at, 1.25))
    settle(qtbot, opened)
    assert near(bars(opened), [(1.0, 1.5)])
    assert bars(opened, "Up") == [(0.0, 0.2)]
    opened.bench.document.undo()
    # one drag is one edit
    assert bars(opened) == [(0.5, 1.0)]


def test_a_bar_is_stretched_by_its_ends(opened, qtbot):
    at = row_of(opened, "Space")
    drag(opened, place(opened, at, 1.0), place(opened, at, 1.6))
    settle(qtbot, opened)
    assert near(bars(opened), [(0.5, 1.6)])
    drag(opened, place(opened, at, 0.5), place(opened, at, 0.2))
    settle(qtbot, opened)
    assert near(bars(opened), [(0.2, 1.6)])


def test_a_bar_is_drawn_on_empty_room_and_what_it_does_is_run(opened, qtbot):
    assert rings(opened) == 1
    at = row_of(opened, "Space")
    drag(opened, place(opened, at, 1.5), place(opened, at, 1.8))
    settle(qtbot, opened)
    assert near(bars(opened), [(0.5, 1.0), (1.5, 1.8)])
    assert rings(opened) == 2


def test_a_bar_stays_within_the_trial(opened, qtbot):
    at = row_of(opened, "Space")
    drag(opened, place(opened, at, 0.75), place(opened, at, 1.95))
    drag(opened, place(opened, at, bars(opened)[0][0] + 0.2), place(opened, at, 0.0))
    settle(qtbot, opened)
    start, end = bars(opened)[0]
    assert start >= 0 and end <= 2.0 and abs(end - start - 0.5) < 0.02


def test_a_click_on_a_bar_chooses_it_and_keys_move_split_and_remove_it(opened, qtbot):
    at, order = row_of(opened, "Space"), opened.order
    QTest.mouseClick(order.viewport(), LEFT, pos=place(opened, at, 0.75))
    assert opened.order.state.chosen_bar is not None
    order.setFocus()
    for _ in range(6):
        QTest.keyClick(order, Qt.Key.Key_Right, SHIFT)
    assert bars(opened) == [(0.6, 1.1)]
    for _ in range(3):
        QTest.keyClick(order, Qt.Key.Key_Left, ALT | SHIFT)
    assert bars(opened) == [(0.6, 1.05)]
    settle(qtbot, opened)
    opened.bench.move_cursor(opened.bench.run.end_of(48))
    opened.actions_["split bar"].trigger()
    settle(qtbot, opened)
    assert bars(opened) == [(0.6, 0.8), (0.82, 1.05)]
    assert rings(opened) == 2
    QTest.keyClick(order, Qt.Key.Key_Delete)
    settle(qtbot, opened)
    assert bars(opened) == [(0.6, 0.8)]


def test_a_click_beside_the_bars_moves_the_cursor_and_changes_nothing(opened, qtbot):
    before, at = opened.bench.level, row_of(opened, "Space")
    QTest.mouseClick(opened.order.viewport(), LEFT, pos=place(opened, at, 1.5))
    settle(qtbot, opened)
    assert opened.bench.level is before
    assert abs(opened.bench.cursor.tick - 90) <= 1


def test_a_mark_dragged_onto_another_offers_what_holds_of_the_two(opened, qtbot):
    rows = opened.order.state.rows
    ring = next(at for at, row in enumerate(rows) if row.rule is not None and row.rule.name == "Ring")
    hear = next(at for at, row in enumerate(rows) if row.rule is not None and row.rule.name == "Hear")
    ticks = [f.tick for f in opened.bench.run.trace.firings()]
    begin, end = place(opened, ring, ticks[0] / 60), place(opened, hear, ticks[1] / 60)
    drag(opened, begin, end)
    menu = opened.findChild(QMenu, "between-marks")
    words = [action.text() for action in menu.actions()]
    assert words == [
        "Expect: “Ring” fires before “Hear”",
        "Expect: every “Hear” has a “Ring” before it",
        "Expect: every “Hear” has a “Ring” before it, within 0.1 s",
    ]
    menu.actions()[0].trigger()
    settle(qtbot, opened)
    assert opened.bench.trial.expectations == (FiresBefore(first="Ring", then="Hear"),)
    menu.close()


def test_two_marks_of_one_rule_offer_how_often_it_fires(opened, qtbot):
    at = row_of(opened, "Space")
    drag(opened, place(opened, at, 1.5), place(opened, at, 1.8))
    settle(qtbot, opened)
    run = opened.bench.run
    mine = [f for f in run.trace.firings() if run.program.rules[f.rule_index].source.name == "Ring"]
    ring = next(
        at
        for at, row in enumerate(opened.order.state.rows)
        if row.rule is not None and row.rule.name == "Ring"
    )
    drag(opened, place(opened, ring, mine[0].tick / 60), place(opened, ring, mine[1].tick / 60))
    menu = opened.findChild(QMenu, "between-marks")
    menu.actions()[1].trigger()
    settle(qtbot, opened)
    assert opened.bench.trial.expectations == (FiresTimes(rule="Ring", times=2),)
    menu.close()
