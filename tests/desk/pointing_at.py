"""Where things stand in the window, and the pointer there."""

from __future__ import annotations

from hands import LEFT, NONE
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtTest import QTest


def row_of(window, name):
    return next(i for i, r in enumerate(window.order.state.rows) if r.sort == "rule" and r.rule.name == name)


def click_left(window, at, x):
    area = window.order.geometry_.row_area(at)
    QTest.mouseClick(window.order.viewport(), LEFT, NONE, QPoint(int(x), int(area.center().y())))


def drag(view, start: QPointF, end: QPointF):
    QTest.mousePress(view, LEFT, NONE, start.toPoint())
    QTest.mouseMove(view, ((start + end) / 2).toPoint())
    QTest.mouseMove(view, end.toPoint())
    QTest.mouseRelease(view, LEFT, NONE, end.toPoint())


def point_of(window, name):
    thing = next(o for o in window.bench.level.objects if o.name == name)
    return window.level_view.to_pixels(thing.x, thing.y)


def placed(window, name):
    thing = next(o for o in window.bench.level.objects if o.name == name)
    return thing.x, thing.y
