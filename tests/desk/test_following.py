"""Following an object in the level view."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from building import c, kind, level, things
from conftest import settle
from gatillo.desk.session.selection import Selection


@pytest.fixture
def wide(open_window, qtbot):
    """A level wider than the view, in which a cart goes to the right."""
    cart = kind("Cart", 10, behaviours=(c("steer_by_keys", speed="600"),))
    window = open_window(level(kinds=(cart,), objects=things("Cart", (0, 0)), seconds=5))
    window.level_view.set_zoom(1.0)
    return window


def go_right(window, ticks):
    window.actions_["play keys"].trigger()
    window.bench.player._clock.stop()
    QTest.keyPress(window.level_view, Qt.Key.Key_Up)
    window.bench.player.go_on(ticks)


def test_a_followed_object_stays_in_the_middle_at_the_same_zoom(wide, qtbot):
    view, bench = wide.level_view, wide.bench
    bench.select(Selection(frozenset({bench.level.objects[0].id})))
    view.setFocus()
    view.follow_selected()
    zoom = view.zoom
    go_right(wide, 90)
    world = bench.world
    assert abs(world.x.item(0)) + abs(world.y.item(0)) > 500
    at = view.to_pixels(world.x.item(0), world.y.item(0))
    assert abs(at.x() - view.width() / 2) < 1 and abs(at.y() - view.height() / 2) < 1
    assert view.zoom == zoom
    assert view.followed_name() == "Cart 1"
    bench.player.stop()


def test_f_follows_the_selected_object_and_lets_it_go(wide):
    view, bench = wide.level_view, wide.bench
    bench.select(Selection(frozenset({bench.level.objects[0].id})))
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_F)
    assert view.followed == bench.level.objects[0].id
    QTest.keyClick(view, Qt.Key.Key_F)
    assert view.followed is None


def test_a_drag_of_the_view_lets_it_go(wide):
    view, bench = wide.level_view, wide.bench
    view.follow(bench.level.objects[0].id)
    QTest.mousePress(view, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(100, 100))
    QTest.mouseMove(view, QPoint(140, 100))
    QTest.mouseRelease(view, Qt.MouseButton.MiddleButton, Qt.KeyboardModifier.NoModifier, QPoint(140, 100))
    assert view.followed is None


def test_another_level_follows_nothing(wide, qtbot):
    wide.level_view.follow(wide.bench.level.objects[0].id)
    wide.actions_["new"].trigger()
    settle(qtbot, wide)
    assert wide.level_view.followed is None


def test_what_is_gone_is_followed_no_more_and_the_view_stays(wide):
    view = wide.level_view
    view.follow(12345)
    before = view.centre
    view.keep_followed()
    assert view.centre == before
