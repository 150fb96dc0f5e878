"""Laying out in the level view: drawing, moving, turning, arranging, recording, overlays."""

from __future__ import annotations

import pytest
from hands import ALT, LEFT, NONE, SHIFT, Hands
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from building import START, c, kind, level, rule, run, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.arranging import align, attach, copies_in_ring, copies_in_row, distribute, group, ungroup
from gatillo.level.model import Area, Circle, Rectangle, Route, Spot
from gatillo.level.validation import flaws


def yard():
    return level(
        kinds=(kind("Pot", 10), kind("Cart", 12)),
        objects=(*things("Pot", (100, 100), (200, 130), (350, 90)), *things("Cart", (600, 300), first=9)),
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    window.level_view.setFocus()
    return window, Hands(qtbot, window)


def drag(window, start, end, modifiers=NONE):
    view = window.level_view
    a, b = view.to_pixels(*start), view.to_pixels(*end)
    QTest.mousePress(view, LEFT, NONE, a.toPoint())
    for part in (0.5, 1.0):
        QTest.mouseMove(view, (a + (b - a) * part).toPoint())
    QTest.mouseRelease(view, LEFT, modifiers, b.toPoint())


def test_areas_circles_spots_and_routes_are_drawn_and_named(at_work):
    window, hands = at_work
    view = window.level_view
    hands.click(window.tool_buttons["area"])
    drag(window, (300, 400), (420, 300))
    hands.enter("bed")
    hands.click(window.tool_buttons["circle"])
    drag(window, (500, 100), (540, 100))
    hands.enter("pond")
    hands.click(window.tool_buttons["spot"])
    hands.click(view, view.to_pixels(50, 450).toPoint())
    hands.enter("gate")
    hands.click(window.tool_buttons["route"])
    for point in ((50, 50), (150, 50), (150, 20)):
        hands.click(view, view.to_pixels(*point).toPoint())
    view.setFocus()
    hands.key(Qt.Key.Key_Return)
    bed, pond, gate, route = window.bench.level.places
    assert isinstance(bed, Area) and isinstance(bed.shape, Rectangle)
    assert (bed.name, bed.x, bed.shape.width) == ("bed", pytest.approx(360, abs=2), pytest.approx(120, abs=3))
    assert isinstance(pond.shape, Circle) and pond.shape.radius == pytest.approx(40, abs=2)
    assert isinstance(gate, Spot) and (pond.name, gate.name) == ("pond", "gate")
    assert isinstance(route, Route) and len(route.stops) == 3


def test_escape_puts_a_tool_back(at_work):
    window, hands = at_work
    hands.click(window.tool_buttons["area"])
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_Escape)
    assert window.tool_buttons[""].isChecked()
    drag(window, (300, 400), (420, 300))
    assert window.bench.level.places == ()


def test_an_area_is_moved_by_its_edge_and_sized_by_a_corner_in_one_undo_each(at_work):
    window, _ = at_work
    window.bench.edit(
        type(window.bench.level)(
            format=1,
            name="x",
            kinds=window.bench.level.kinds,
            places=(Area(name="bed", x=300, y=300, shape=Rectangle(width=100, height=60)),),
        ),
        "lay out",
    )
    drag(window, (300, 330), (340, 350))
    moved = window.bench.level.places[0]
    assert (moved.x, moved.y) == (pytest.approx(340, abs=2), pytest.approx(320, abs=2))
    assert window.bench.selection.thing == Thing("place", "bed")
    corner = (moved.x + 50, moved.y + 30)
    drag(window, corner, (corner[0] + 20, corner[1] + 10))
    sized = window.bench.level.places[0].shape
    assert (sized.width, sized.height) == (pytest.approx(120, abs=2), pytest.approx(70, abs=2))
    window.bench.document.undo()
    assert window.bench.level.places[0].shape == Rectangle(width=100, height=60)
    window.bench.document.undo()
    assert window.bench.level.places[0].x == 300


def test_a_stop_of_a_route_is_dragged(at_work):
    window, hands = at_work
    hands.click(window.tool_buttons["route"])
    view = window.level_view
    for point in ((300, 400), (400, 400)):
        hands.click(view, view.to_pixels(*point).toPoint())
    view.setFocus()
    hands.key(Qt.Key.Key_Return)
    drag(window, (400, 400), (450, 430))
    stop = window.bench.level.places[0].stops[1]
    assert (stop.x, stop.y) == (pytest.approx(450, abs=2), pytest.approx(430, abs=2))


def test_an_object_is_turned_and_scaled_by_its_handles(at_work):
    window, _ = at_work
    window.bench.select(Selection(frozenset({1})))
    laying, view = window.level_view.tools, window.level_view
    middle, turn, corner = laying._handles()
    start, end = view.to_level(turn), view.to_level(QPointF(middle.x(), middle.y() - 60))
    drag(window, start, end)
    assert window.bench.level.objects[0].angle == pytest.approx(90, abs=3)
    _, _, corner = laying._handles()
    start = view.to_level(corner)
    drag(window, start, (start[0] + 12, start[1] - 12))
    assert window.bench.level.objects[0].scale > 1.5


def test_snapping_puts_things_on_the_grid(at_work):
    window, hands = at_work
    window.actions_["snap"].trigger()
    hands.click(window.tool_buttons["spot"])
    hands.click(window.level_view, window.level_view.to_pixels(303, 207).toPoint())
    spot = window.bench.level.places[0]
    assert (spot.x, spot.y) == (300, 210)


def test_a_dragged_object_is_drawn_level_with_another(at_work):
    window, _ = at_work
    drag(window, (350, 90), (420, 102))
    assert window.bench.level.objects[2].y == 100


def test_letting_go_with_alt_over_another_object_attaches(at_work):
    window, _ = at_work
    drag(window, (350, 90), (600, 300), ALT)
    assert window.bench.level.objects[2].attached == "Cart 1"
    assert (window.bench.level.objects[2].x, window.bench.level.objects[2].y) == (350, 90)


def test_what_is_attached_from_the_start_follows_its_carrier():
    move = rule("go", when=START, do=c("set_velocity", who="Cart", dx="60", dy="0"))
    built = attach(level(move, kinds=yard().kinds, objects=yard().objects), 1, "Cart 1")
    world = run(built).world
    assert world.x[0] - world.x[3] == pytest.approx(100 - 600, abs=1e-3)
    assert world.x[3] > 650


def test_a_level_whose_objects_carry_each_other_is_refused():
    from msgspec.structs import replace

    built = yard()
    one, two = (replace(o, attached=n) for o, n in zip(built.objects[:2], ("Pot 2", "Pot 1"), strict=True))
    (first, *_) = flaws(replace(built, objects=(one, two)))
    assert "attached to itself" in first.message
    with pytest.raises(ValueError, match="which it carries itself"):
        attach(attach(built, 1, "Pot 2"), 2, "Pot 1")


def test_groups_are_selected_and_moved_as_one(at_work):
    window, hands = at_work
    window.bench.select(Selection(frozenset({1, 2})))
    window.actions_["group objects"].trigger()
    view = window.level_view
    hands.click(view, view.to_pixels(350, 90).toPoint())
    hands.click(view, view.to_pixels(200, 130).toPoint())
    assert window.bench.selection.objects == {1, 2}
    window.actions_["ungroup objects"].trigger()
    assert {o.group for o in window.bench.level.objects} == {""}


def test_objects_are_put_in_line_and_evenly_spread():
    ids = {1, 2, 3}
    assert [o.x for o in align(yard(), ids, "left").objects[:3]] == [100, 100, 100]
    assert [o.y for o in align(yard(), ids, "top").objects[:3]] == [130, 130, 130]
    assert [o.x for o in align(yard(), ids, "middle across").objects[:3]] == [225, 225, 225]
    assert [o.x for o in distribute(yard(), ids, "x").objects[:3]] == [100, 225, 350]
    assert ungroup(group(yard(), ids), {1}) == yard()


def test_copies_stand_in_rows_and_rings(at_work):
    built, made = copies_in_row(yard(), {1}, 3, 40, 0)
    assert [o.x for o in built.objects if o.id in made] == [140, 180, 220]
    built, made = copies_in_ring(yard(), 1, 4, 50)
    ring = [(round(o.x), round(o.y), o.angle) for o in built.objects if o.id in made]
    assert ring == [(50, 150, 90), (0, 100, 180), (50, 50, -90)]
    window, _ = at_work
    answers = iter((2, 30))
    window.arranging.ask_number = lambda *_: next(answers)
    window.bench.select(Selection(frozenset({1})))
    window.actions_["row"].trigger()
    assert len(window.bench.level.objects) == 6


def test_a_motion_is_recorded_by_dragging(at_work, qtbot):
    window, hands = at_work
    hands.click(window.tool_buttons["clip"])
    view = window.level_view
    a, zoom = view.to_pixels(100, 100), view.zoom
    QTest.mousePress(view, LEFT, NONE, a.toPoint())
    for step in range(1, 5):
        qtbot.wait(60)
        QTest.mouseMove(view, (a + QPointF(10 * step, 0)).toPoint())
    QTest.mouseRelease(view, LEFT, NONE, (a + QPointF(40, 0)).toPoint())
    (clip,) = window.bench.level.clips
    assert len(clip.points) >= 4
    assert clip.points[-1].x == pytest.approx(40 / zoom, abs=1.5)
    assert window.bench.selection.thing == Thing("clip", "clip 1")
    # its name can be typed over at once
    hands.enter("hop")
    assert window.bench.level.clips[0].name == "hop"
    assert list(flaws(window.bench.level)) == []


def turn_wheel(view, at, notches):
    nothing = (Qt.MouseButton.NoButton, NONE, Qt.ScrollPhase.NoScrollPhase)
    turned = QWheelEvent(at, view.mapToGlobal(at), QPoint(), QPoint(0, 120 * notches), *nothing, False)
    QApplication.sendEvent(view, turned)


def test_what_is_recorded_is_turned_by_the_wheel_and_by_keys(at_work, qtbot):
    window, hands = at_work
    hands.click(window.tool_buttons["clip"])
    view = window.level_view
    a = view.to_pixels(100, 100)
    QTest.mousePress(view, LEFT, NONE, a.toPoint())
    qtbot.wait(60)
    QTest.mouseMove(view, (a + QPointF(10, 0)).toPoint())
    qtbot.wait(60)
    turn_wheel(view, a, 2)
    qtbot.wait(60)
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.mouseRelease(view, LEFT, NONE, (a + QPointF(40, 0)).toPoint())
    (clip,) = window.bench.level.clips
    assert {0.0, 30.0} <= {p.turn for p in clip.points} and clip.points[-1].turn == 15.0


def test_overlays_are_painted_when_asked_for(at_work):
    window, hands = at_work
    hands.rest()
    plain = window.level_view.grab().toImage()
    for name in ("velocity", "facing", "reach", "tracks", "names"):
        window.actions_[f"overlay {name}"].trigger()
    assert window.level_view.grab().toImage() != plain


def test_shift_keeps_a_kind_at_hand(at_work):
    window, hands = at_work
    button = next(b for b in window.shelf.buttons if b.kind.name == "Pot")
    hands.click(button)
    hands.click(window.level_view, window.level_view.to_pixels(50, 300).toPoint(), SHIFT)
    hands.click(window.level_view, window.level_view.to_pixels(80, 300).toPoint())
    assert window.level_view.tools.armed is None
    assert sum(o.kind == "Pot" for o in window.bench.level.objects) == 5


def test_a_menus_entry_is_chosen_by_a_click_while_playing(open_window, qtbot):
    from gatillo.desk.level_view.offers import _choice_areas
    from gatillo.examples import study_path

    window = open_window()
    window.open_path(study_path("21-tunnel-post.gatillo"))
    hands = Hands(qtbot, window)
    hands.rest()
    bench = window.bench
    bench.move_cursor(bench.run.end_of(100))
    assert bench.world.prompts.menu is not None
    window.play()
    _, lines = _choice_areas(window.level_view, bench.world)
    hands.click(window.level_view, lines[0][1].center().toPoint())
    qtbot.waitUntil(lambda: bench.run.world.x[0] > 500)
    bench.player.stop()
    assert [c.text for c in bench.tried.input.choices] == ["fern house"]
