"""The ground in the window: its colour, scenery, outlines, and the names of places upon it."""

from __future__ import annotations

from hands import LEFT, NONE
from msgspec.structs import replace
from pointing_at import drag, placed
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QLineEdit

from building import c, kind, level, rule, things
from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.level_view.labels import Label
from gatillo.desk.level_view.labels import placed as put
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.model import Area, Rectangle, Settings, Spot

FLOOR = kind("Floor", box=(300, 200), scenery=True, outline=False, colour="#C9A227")
POD = kind("Pod", 8)


def laid_out(**more):
    return level(
        rule("r", when=c("level_starts"), do=c("note", text="here")),
        kinds=(FLOOR, POD),
        objects=(*things("Floor", (200, 150)), *things("Pod", (200, 150), (600, 400), first=10)),
        **more,
    )


def shown(window, x, y):
    at = window.level_view.to_pixels(x, y).toPoint()
    return window.level_view.grab().toImage().pixelColor(at).name()


def test_scenery_is_drawn_under_the_objects_and_the_ground_in_its_colour(open_window):
    window = open_window(laid_out(settings=Settings(ground="#0E6B50")))
    ground, floor = shown(window, 700, 90), shown(window, 110, 90)
    assert len({ground, floor, shown(window, 200, 150)}) == 3
    window.bench.edit(replace(window.bench.level, settings=Settings()), "no ground")
    assert shown(window, 700, 90) != ground and shown(window, 110, 90) == floor


def test_a_click_selects_scenery_and_a_drag_over_it_draws_a_box_until_then(open_window, qtbot):
    window = open_window(laid_out())
    view, bench = window.level_view, window.bench
    corner, beyond = view.to_pixels(90, 90), view.to_pixels(320, 240)
    drag(view, corner, beyond)
    assert bench.selection.objects == {10} and placed(window, "Floor 1") == (200, 150)
    QTest.mouseClick(view, LEFT, NONE, corner.toPoint())
    assert bench.selection.objects == {1}
    assert window.sheet.title.text() == "Floor 1" and "only drawn" in window.sheet.live.text()
    drag(view, corner, corner + QPointF(40 * view.zoom, 0))
    assert placed(window, "Floor 1") != (200, 150)
    drag(view, view.to_pixels(20, 20), view.to_pixels(420, 280))
    assert bench.selection.objects == {1, 10}


def test_a_kind_is_made_scenery_on_its_page_and_its_objects_leave_the_run(open_window, qtbot):
    window = open_window(laid_out())
    window.bench.select(Selection(thing=Thing("kind", "Pod")))
    window.sheet.findChild(QCheckBox, "kind-scenery").click()
    settle(qtbot, window)
    assert not len(window.bench.run.world.id) and window.bench.level.kinds[1].scenery
    assert window.sheet.findChild(QLineEdit, "kind-tags") is None


def test_a_ground_that_is_no_colour_is_not_taken(open_window):
    window = open_window(laid_out())
    window.bench.select(Selection(thing=Thing("level", "")))
    field = window.sheet.findChild(QLineEdit, "level-ground")
    field.setText("grassy")
    field.editingFinished.emit()
    assert window.bench.level.settings.ground == ""


def test_no_name_of_a_place_lies_upon_another_or_upon_what_stands_there(open_window):
    areas = tuple(Area(f"area {i}", 200 + 6 * i, 300, Rectangle(160, 90)) for i in range(4))
    spots = tuple(Spot(f"spot {i}", 600 + 9 * i, 400) for i in range(3))
    window = open_window(laid_out(places=(*areas, *spots)))
    window.level_view.grab()
    boxes = list(window.level_view.labels.values())
    assert len(boxes) == 7
    assert not any(a.intersects(b) for i, a in enumerate(boxes) for b in boxes[:i])
    pod = window.level_view.to_pixels(600, 400)
    assert not any(box.contains(pod) for box in boxes)


def test_a_name_with_no_free_place_stands_where_it_lies_on_least():
    here, there = QRectF(0, 0, 10, 10), QRectF(20, 0, 10, 10)
    marks = [(QRectF(0, 0, 10, 10), 1.0), (QRectF(20, 0, 4, 10), 1.0)]
    assert put([Label("n", (here, there))], marks) == {"n": there}
    assert put([Label("n", (here, there)), Label("m", (there, here))], [])["m"] == there


def test_the_next_firing_of_selected_scenery_is_a_sentence(open_window):
    built = level(
        kinds=(FLOOR, kind("Pod", 5)), objects=(*things("Floor", (0, 0)), *things("Pod", (9, 9), first=5))
    )
    window = open_window(built)
    window.bench.select(Selection(objects=frozenset({1})))
    window.actions_["next of it"].trigger()
    assert "takes no part in this run" in window.message.words.text()
