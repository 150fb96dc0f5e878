"""The wheel over a field scrolls the page, and changes a value only in a field that was clicked."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QScrollBar,
    QWidget,
)
from test_sheets import show, yard

from gatillo.desk.session.selection import Selection


def turn(field: QWidget, notches: int = -1) -> None:
    """Turn the wheel over the middle of a field: where it ignores the event, what it lies on gets it."""
    middle = field.mapToGlobal(field.rect().center())
    widget: QWidget | None = field
    while widget is not None:
        event = QWheelEvent(
            QPointF(widget.mapFromGlobal(middle)),
            QPointF(middle),
            QPoint(0, 0),
            QPoint(0, 120 * notches),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(widget, event)
        if event.isAccepted():
            return
        widget = widget.parentWidget()


def fields(root: QWidget) -> list[QWidget]:
    kinds = (QAbstractSpinBox, QComboBox, QAbstractSlider)
    return [
        one
        for kind in kinds
        for one in root.findChildren(kind)
        if not isinstance(one, QScrollBar) and one.isVisible() and one.isEnabled()
    ]


def value(field: QWidget):
    return field.currentIndex() if isinstance(field, QComboBox) else field.value()


PAGES = [
    ("kind", "Gardener"),
    ("kind", "Wall"),
    ("trial", "trial"),
    ("place", "bed"),
    ("place", "round"),
    ("level", "test"),
]


@pytest.mark.parametrize("sort, name", PAGES)
def test_the_wheel_over_a_field_that_was_not_clicked_changes_nothing(open_window, qtbot, sort, name):
    window = open_window(yard())
    show(window, sort, name)
    before = window.bench.level
    seen = fields(window)
    assert seen
    for field in seen:
        was = value(field)
        for focus in (False, True):
            if focus:
                # by the keyboard
                field.setFocus(Qt.FocusReason.TabFocusReason)
            for notches in (-1, 1, 1):
                turn(field, notches)
                assert value(field) == was, field.objectName()
        assert not field.focusPolicy() & Qt.FocusPolicy.WheelFocus & ~Qt.FocusPolicy.StrongFocus
    assert window.bench.level is before


def test_a_clicked_number_takes_the_wheel_until_it_loses_the_focus(open_window, qtbot):
    window = open_window(yard())
    show(window, "kind", "Gardener")
    field = next(one for one in fields(window.sheet) if one.objectName().endswith("radius"))
    QTest.mouseClick(field, Qt.MouseButton.LeftButton, pos=QPoint(8, field.height() // 2))
    was = field.value()
    turn(field, 1)
    assert field.value() == was + field.singleStep()
    field = next(one for one in fields(window.sheet) if one.objectName() == field.objectName())
    window.order.setFocus()
    was = field.value()
    turn(field, 1)
    assert field.value() == was


def test_the_wheel_over_a_field_scrolls_the_sheet(open_window, qtbot):
    window = open_window()
    window.bench.select(Selection(thing=None, objects=frozenset({1})))
    show(window, "kind", "Gardener")
    window.resize(1100, 560)
    qtbot.wait(1)
    bar = max(
        (b for b in window.sheet.findChildren(QScrollBar) if b.orientation() == Qt.Orientation.Vertical),
        key=lambda b: b.maximum(),
    )
    assert bar.maximum() > 0
    moved = 0
    for field in fields(window.sheet)[:6]:
        bar.setValue(0)
        turn(field, -1)
        moved += bar.value() > 0
    assert moved == 6
