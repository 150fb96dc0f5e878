"""The level in the window: objects selected, moved, copied, deleted, placed, and their fields."""

from __future__ import annotations

import pytest
from hands import CTRL, LEFT, NONE, SHIFT
from msgspec.structs import replace
from pointing_at import drag, placed, point_of
from PySide6.QtCore import QByteArray, QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit

from building import kind, level, things
from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.level_view.view import KIND_MIME
from gatillo.level.model import Area, Rectangle
from gatillo.sim.run.run import Cursor


def test_an_object_is_selected_moved_and_put_back(open_window, qtbot):
    window = open_window()
    view = window.level_view
    start = point_of(window, "Basket 1")
    drag(view, start, start + QPointF(40 * view.zoom, 10 * view.zoom))
    settle(qtbot, window)
    assert placed(window, "Basket 1") == pytest.approx((130, 258), abs=6)
    assert window.sheet.title.text() == "Basket 1"
    QTest.keyClick(window, Qt.Key.Key_Z, CTRL)
    assert placed(window, "Basket 1") == (90, 268)


def test_the_front_most_object_is_selected(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Pod 12").toPoint())
    (chosen,) = window.bench.selection.objects
    assert next(o.kind for o in window.bench.level.objects if o.id == chosen) == "Pod"


def test_arrows_nudge_and_a_row_of_nudges_is_one_undo(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Basket 1").toPoint())
    for _ in range(3):
        QTest.keyClick(window.level_view, Qt.Key.Key_Right)
    QTest.keyClick(window.level_view, Qt.Key.Key_Up, SHIFT)
    assert placed(window, "Basket 1") == (93, 278)
    QTest.keyClick(window, Qt.Key.Key_Z, CTRL)
    assert placed(window, "Basket 1") == (90, 268)


def test_a_duplicate_has_its_kinds_logic_at_once(open_window, qtbot):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Pod 1").toPoint())
    QTest.keyClick(window, Qt.Key.Key_D, CTRL)
    settle(qtbot, window)
    assert len([o for o in window.bench.level.objects if o.kind == "Pod"]) == 18
    assert window.bench.run.world.level["pods"] == 17


def test_objects_are_deleted_and_come_back_by_undo(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Pod 1").toPoint())
    window.level_view.setFocus()
    QTest.keyClick(window.level_view, Qt.Key.Key_Delete)
    assert all(o.name != "Pod 1" for o in window.bench.level.objects)
    assert window.actions_["undo"].text() == "&Undo: delete Pod 1"
    window.actions_["undo"].trigger()
    assert any(o.name == "Pod 1" for o in window.bench.level.objects)


def test_a_box_selects_what_lies_in_it(open_window):
    window = open_window()
    view = window.level_view
    drag(view, view.to_pixels(480, 352), view.to_pixels(590, 290))
    names = {o.name for o in window.bench.level.objects if o.id in window.bench.selection.objects}
    assert {"Pod 8", "Pod 9", "Pod 10", "Bed 3"} == names


def test_a_kind_is_placed_by_click_from_the_shelf(open_window):
    window = open_window()
    pod = next(b for b in window.shelf.buttons if b.kind.name == "Pod")
    QTest.mouseClick(pod, LEFT)
    assert window.level_view.tools.armed == "Pod"
    QTest.mouseClick(window.level_view, LEFT, NONE, window.level_view.to_pixels(600, 60).toPoint())
    new = window.bench.level.objects[-1]
    assert (new.kind, new.name) == ("Pod", "Pod 18")
    assert (new.x, new.y) == pytest.approx((600, 60), abs=2)
    assert window.level_view.tools.armed is None


def test_a_kind_is_placed_by_dropping_it_and_by_the_keyboard(open_window):
    window = open_window()
    view = window.level_view
    data = QMimeData()
    data.setData(KIND_MIME, QByteArray(b"Bed"))
    view.dropEvent(QDropEvent(view.to_pixels(100, 60), Qt.DropAction.CopyAction, data, LEFT, NONE))
    assert window.bench.level.objects[-1].name == "Bed 7"
    pod = next(b for b in window.shelf.buttons if b.kind.name == "Pod")
    pod.setFocus()
    QTest.keyClick(pod, Qt.Key.Key_Return)
    assert window.bench.level.objects[-1].name == "Pod 18"


def test_moving_at_a_later_tick_moves_where_the_object_starts(open_window, qtbot):
    window = open_window()
    window.bench.move_cursor(Cursor(100, 0))
    world = window.bench.world
    at = window.level_view.to_pixels(world.x[0], world.y[0])
    QTest.mouseClick(window.level_view, LEFT, NONE, at.toPoint())
    assert window.sheet.title.text() == "Gardener 1"
    QTest.keyClick(window.level_view, Qt.Key.Key_Up)
    settle(qtbot, window)
    assert placed(window, "Gardener 1") == (90, 201)
    assert window.bench.cursor.tick == 100


def test_fields_of_the_sheet_edit_the_object(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Basket 1").toPoint())
    window.sheet.findChild(QDoubleSpinBox, "object-x").setValue(120)
    assert placed(window, "Basket 1") == (120, 268)
    name = window.sheet.findChild(QLineEdit, "object-name")
    name.selectAll()
    QTest.keyClicks(name, "Old basket")
    QTest.keyClick(name, Qt.Key.Key_Return)
    assert any(o.name == "Old basket" for o in window.bench.level.objects)
    name = window.sheet.findChild(QLineEdit, "object-name")
    name.selectAll()
    QTest.keyClicks(name, "Pod 1")
    QTest.keyClick(name, Qt.Key.Key_Return)
    assert "is taken" in window.message.words.text()
    assert any(o.name == "Old basket" for o in window.bench.level.objects)


def test_the_sheet_shows_values_at_the_cursor(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Gardener 1").toPoint())
    window.bench.move_cursor(Cursor(100, 0))
    assert "232, 200" in window.sheet.live.text()
    assert "120 a second" in window.sheet.live.text()


def test_of_very_many_small_objects_each_is_still_seen_where_it_stands(open_window, qtbot):
    spots = [(10.0 + 12 * (i % 60), 10.0 + 12 * (i // 60)) for i in range(1_800)]
    built = level(
        kinds=(
            kind("Pod", 2, contact="none", colour="#A5483B"),
            kind("Bed", box=(3, 3), contact="none", colour="#0E6B50"),
        ),
        objects=(*things("Pod", *spots[:1_700]), *things("Bed", *spots[1_700:], first=5_000)),
    )
    window = open_window(built)
    view = window.level_view
    picture = view.grab().toImage()
    ratio = picture.devicePixelRatio()
    paper = picture.pixelColor(round(4 * ratio), round(4 * ratio))
    for x, y in (spots[0], spots[777], spots[1_699], spots[1_750]):
        at = view.to_pixels(x, y)
        seen = picture.pixelColor(round(at.x() * ratio), round(at.y() * ratio))
        assert seen != paper
        between = view.to_pixels(x + 6, y + 6)
        assert picture.pixelColor(round(between.x() * ratio), round(between.y() * ratio)) != seen


def test_what_is_kept_as_a_picture_looks_as_if_it_were_drawn_and_follows_every_change(open_window, qtbot):
    long_wall = kind("Wall", box=(160, 12), contact="fixed")
    yard = Area(name="yard", x=40, y=40, shape=Rectangle(width=60, height=60))
    built = level(
        kinds=(long_wall, kind("Hedge", box=(30, 30), scenery=True)),
        objects=(*things("Wall", (60, 20)), *things("Hedge", (-60, -40), first=5)),
        places=(yard,),
    )
    window = open_window(built)
    settle(qtbot, window)
    view = window.level_view

    def seen():
        return view.grab().toImage()

    seen()
    drawn, kept, again = seen(), seen(), seen()
    assert drawn == kept == again
    moved = replace(built, places=(replace(yard, x=70),))
    window.bench.document.take(moved)
    settle(qtbot, window)
    fresh = [seen() for _ in range(3)]
    assert fresh[0] == fresh[2] and fresh[2] != again
    view.zoom *= 1.5
    assert [seen() for _ in range(3)][2] != fresh[2]
