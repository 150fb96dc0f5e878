"""The real window: stepping, editing, playing, undoing, by real keys and clicks."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QByteArray, QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QDoubleSpinBox, QLineEdit

from building import START, add, c, kind, level, rule, things
from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.level_view.view import KIND_MIME
from gatillo.desk.theme import theme
from gatillo.files.level_file import read_level, write_level
from gatillo.level.model import FiresTimes, Section
from gatillo.sim.run import Cursor

LEFT = Qt.MouseButton.LeftButton
CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)
NONE = Qt.KeyboardModifier.NoModifier


def row_of(window, name):
    return next(i for i, r in enumerate(window.order.rows) if r.sort == "rule" and r.rule.name == name)


def click_left(window, at, x):
    area = window.order.row_area(at)
    QTest.mouseClick(window.order.viewport(), LEFT, NONE, QPoint(int(x), int(area.center().y())))


def drag(view, start: QPointF, end: QPointF):
    QTest.mousePress(view, LEFT, NONE, start.toPoint())
    QTest.mouseMove(view, ((start + end) / 2).toPoint())
    QTest.mouseMove(view, end.toPoint())
    QTest.mouseRelease(view, LEFT, NONE, end.toPoint())


# stepping


def test_the_demo_opens_at_the_start_with_its_lanes_full_and_expectations_judged(open_window):
    window = open_window()
    assert window.bench.cursor == Cursor(0, 0)
    assert len(window.order.lanes.lane(0).tick) == 15
    assert [v.outcome for v in window.bench.verdicts] == ["held"] * 9
    assert "9 of 9 expectations hold" in window.run_bar.note.text()


def test_the_step_buttons_walk_tick_by_tick_and_firing_by_firing_both_ways(open_window):
    window = open_window()
    bench, buttons = window.bench, window.run_bar.buttons

    def press(name):
        QTest.mouseClick(buttons[name], LEFT)
        return bench.cursor

    assert press("tick") == Cursor(1, 0)
    assert press("firing") == Cursor(49, 1)
    assert press("firing") == Cursor(50, 1)
    assert press("firing") == Cursor(50, 2)
    assert press("back firing") == Cursor(50, 1)
    assert press("back tick") == Cursor(49, 1)
    assert press("back firing") == Cursor(49, 1)
    assert window.message_words.text() == "Nothing fired before this."
    assert press("end").tick == 900
    assert press("start") == Cursor(0, 0)


def test_the_run_bar_says_which_firing_of_the_tick_the_cursor_stands_at(open_window):
    window = open_window()
    window.bench.move_cursor(Cursor(794, 3))
    assert "3rd of 3: Good night" in window.run_bar.place.text()
    assert "13.233" in window.run_bar.time.text()
    assert "Good night" in window.sheet.live.text()


@pytest.mark.parametrize(
    ("key", "modifiers", "wanted"),
    [
        (Qt.Key.Key_Right, CTRL, Cursor(51, 0)),
        (Qt.Key.Key_Left, CTRL, Cursor(49, 1)),
        (Qt.Key.Key_Right, CTRL | SHIFT, Cursor(50, 2)),
        (Qt.Key.Key_Left, CTRL | SHIFT, Cursor(49, 1)),
        (Qt.Key.Key_Home, CTRL, Cursor(0, 0)),
        (Qt.Key.Key_End, CTRL, Cursor(900, 0)),
        (Qt.Key.Key_Right, NONE, Cursor(51, 0)),
        (Qt.Key.Key_Left, NONE, Cursor(49, 1)),
    ],
)
def test_the_keyboard_steps_too(open_window, key, modifiers, wanted):
    window = open_window()
    window.bench.move_cursor(Cursor(50, 1))
    window.order.setFocus()
    QTest.keyClick(window.order, key, modifiers)
    assert window.bench.cursor == wanted


def test_a_click_on_a_mark_puts_the_cursor_at_that_firing(open_window):
    window = open_window()
    window.bench.move_cursor(Cursor(794, 1))
    window.order.zoom_to(56)
    at = row_of(window, "Good night")
    x = window.order.scale.mark_x(794, 3, 3)
    QTest.mouseClick(
        window.order.viewport(), LEFT, NONE, QPoint(round(x), round(window.order.row_area(at).center().y()))
    )
    assert window.bench.cursor == Cursor(794, 3)
    assert window.bench.selection.rule == 5


def test_marks_of_one_tick_stand_from_left_to_right_in_their_order(open_window):
    window = open_window()
    window.bench.move_cursor(Cursor(794, 1))
    window.order.zoom_to(56)
    scale = window.order.scale
    places = [scale.mark_x(794, position, 3) for position in (1, 2, 3)]
    assert places == sorted(places)
    assert scale.x(794) < places[0] < places[2] < scale.x(795)


def test_dragging_along_the_lanes_scrubs(open_window):
    window = open_window()
    scale = window.order.scale
    y = window.order.row_area(0).center().y()
    drag(window.order.viewport(), QPointF(scale.middle(100), y), QPointF(scale.middle(400), y))
    assert abs(window.bench.cursor.tick - 400) <= 2


def test_hovering_a_mark_tells_who_and_what(open_window):
    window = open_window()
    at = row_of(window, "Gather a pod")
    point = QPointF(window.order.scale.middle(81), window.order.row_area(at).center().y())
    words = window.order.pointing.words_at(point)
    assert "Gather a pod: 1st of 1 at 1.350 s" in words
    assert "2 matches" in words
    assert "Pod: Pod 2, Pod 3" in words
    assert "level.pods: 1 → 3" in words


def test_hovering_where_a_rule_did_not_fire_tells_how_far_it_came(open_window):
    window = open_window()
    at = row_of(window, "Enough for tonight")
    point = QPointF(window.order.scale.middle(60), window.order.row_area(at).center().y())
    assert "1 candidate, none passed condition 1" in window.order.pointing.words_at(point)


def test_running_moves_the_cursor_on_and_stops_at_the_end(open_window):
    window = open_window()
    bench = window.bench
    QTest.keyClick(window, Qt.Key.Key_R, CTRL)
    assert bench.running
    bench.go_on(30)
    assert bench.cursor.tick >= 30
    bench.go_on(2000)
    assert bench.cursor.tick == 900
    assert not bench.running


def test_zooming_in_shows_tick_numbers_and_keeps_the_tick_under_the_pointer(open_window):
    window = open_window()
    order = window.order
    x = order.scale.middle(400)
    for _ in range(20):
        event = QWheelEvent(
            QPointF(x, 80),
            order.viewport().mapToGlobal(QPointF(x, 80)),
            QPoint(),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            CTRL,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(order.viewport(), event)
    assert order.scale.pixels > 20
    assert abs(order.scale.tick(x) - 400) <= 1


# rules


def test_a_rule_is_switched_off_by_its_switch_and_the_lanes_follow(open_window, qtbot):
    window = open_window()
    at = row_of(window, "Gather a pod")
    click_left(window, at, 46)
    settle(qtbot, window)
    assert not window.bench.program.turns[0].on
    assert len(window.order.lanes.lane(0).tick) == 0
    assert "fewer" in window.run_bar.note.text()
    QTest.keyClick(window, Qt.Key.Key_Z, CTRL)
    settle(qtbot, window)
    assert len(window.order.lanes.lane(0).tick) == 15


def test_the_first_try_shows_what_goes_wrong_when_switched_on(open_window, qtbot):
    window = open_window()
    at = next(
        i for i, r in enumerate(window.order.rows) if r.section and r.section.name.startswith("First try")
    )
    window.order.current = at
    window.order.setFocus()
    QTest.keyClick(window.order, Qt.Key.Key_Space)
    settle(qtbot, window)
    assert {v.outcome for v in window.bench.verdicts} != {"held"}
    gone = window.bench.run.trace.firings_at(1)
    assert gone[0].turn == 6


def test_a_rule_is_moved_by_keys_and_the_order_of_firing_follows(open_window, qtbot):
    window = open_window()
    window.order.setFocus()
    window.order.choose(row_of(window, "Basket fills"))
    QTest.keyClick(window.order, Qt.Key.Key_Down, ALT)
    settle(qtbot, window)
    names = [t.rule.name for t in window.bench.program.turns][:3]
    assert names == ["Gather a pod", "Tell the count", "Basket fills"]
    firings = window.bench.run.trace.firings_at(50)
    assert [window.bench.program.turns[f.turn].rule.name for f in firings] == [
        "Tell the count",
        "Basket fills",
    ]
    assert window.order.rows[window.order.current].rule.name == "Basket fills"


def test_a_number_is_edited_in_place_with_the_mouse(open_window, qtbot):
    window = open_window()
    at = row_of(window, "Gather a pod")
    slot = next(w for w in window.order.slots_of(at) if w.slot == "amount")
    window.order.split = 0.6
    window.order._lay_out()
    area = window.order.word_area(at, slot)
    QTest.mouseClick(window.order.viewport(), LEFT, NONE, area.center().toPoint())
    field = window.order.editor.field
    assert field is not None and field.text() == "1"
    QTest.keyClicks(field, "2")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.bench.level.order[0].rules[0].do[1].slots["amount"] == "2"
    assert window.bench.run.world.level["pods"] > 20
    assert window.actions_["undo"].text() == "&Undo: change amount of “Gather a pod” to 2"


def test_slots_are_walked_by_tab_and_edited_by_enter(open_window, qtbot):
    window = open_window()
    window.order.setFocus()
    window.order.choose(row_of(window, "A pod ripens"))
    QTest.keyClick(window.order, Qt.Key.Key_Tab)
    QTest.keyClick(window.order, Qt.Key.Key_Return)
    field = window.order.editor.field
    assert field.text() == "3"
    QTest.keyClicks(field, "5")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.bench.level.order[2].rules[0].when[0].slots["period"] == "5"


def test_a_wrong_text_is_marked_and_not_taken(open_window):
    window = open_window()
    before = window.bench.level
    window.order.setFocus()
    window.order.choose(row_of(window, "A pod ripens"))
    window.order.edit_slot()
    field = window.order.editor.field
    QTest.keyClicks(field, "level.podz")
    assert field.property("wrong") == "true"
    assert "did you mean “pods”" in window.order.editor.problem()
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.order.editor.field is field
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert window.order.editor.field is None
    assert window.bench.level is before


def test_a_folded_rule_unfolds_into_its_lines(open_window):
    window = open_window()
    at = row_of(window, "Gather a pod")
    before = len(window.order.rows)
    click_left(window, at, 64)
    assert len(window.order.rows) == before + 5
    assert [r.sort for r in window.order.rows[at : at + 5]] == ["rule", *["line"] * 4]


def test_folding_a_section_merges_its_lanes(open_window):
    window = open_window()
    at = next(i for i, r in enumerate(window.order.rows) if r.section and r.section.name == "Gathering")
    click_left(window, at, 22)
    row = window.order.rows[at]
    assert row.turns == (0, 1, 2)
    assert len(window.order.lanes.merged(row.turns)) > 30
    assert not any(r.rule and r.rule.name == "Gather a pod" for r in window.order.rows)


def test_firing_mode_and_rest_are_set_in_the_sheet(open_window, qtbot):
    window = open_window()
    window.order.choose(row_of(window, "Tell the count"))
    box = window.sheet.findChild(QDoubleSpinBox, "rule-cooldown")
    box.setValue(3.0)
    settle(qtbot, window)
    assert window.bench.program.turns[2].cooldown_ticks == 180
    assert len(window.order.lanes.lane(2).tick) < 15
    mode = window.sheet.findChild(QComboBox, "rule-fires")
    mode.setFocus()
    QTest.keyClick(mode, Qt.Key.Key_End)
    mode.activated.emit(2)
    settle(qtbot, window)
    assert len(window.order.lanes.lane(2).tick) == 1
    assert "<b>1</b> time in this trial" in window.sheet.live.text()


def test_a_rule_with_a_mistake_is_marked_and_the_rest_runs(open_window):
    built = level(
        rule("bad", when=START, do=add("level.m")),
        rule("good", when=START, do=add("level.n")),
        has={"n": 0.0},
        expect=(FiresTimes(rule="good", times=1),),
    )
    window = open_window(built)
    assert "no variable “m”" in window.order.rows[row_of(window, "bad")].problem
    assert "finding" in window.run_bar.findings.text()
    assert window.bench.verdicts[0].outcome == "held"


# the level


def point_of(window, name):
    thing = next(o for o in window.bench.level.objects if o.name == name)
    return window.level_view.to_pixels(thing.x, thing.y)


def placed(window, name):
    thing = next(o for o in window.bench.level.objects if o.name == name)
    return thing.x, thing.y


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
    assert window.level_view.armed == "Pod"
    QTest.mouseClick(window.level_view, LEFT, NONE, window.level_view.to_pixels(600, 60).toPoint())
    new = window.bench.level.objects[-1]
    assert (new.kind, new.name) == ("Pod", "Pod 18")
    assert (new.x, new.y) == pytest.approx((600, 60), abs=2)
    assert window.level_view.armed is None


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
    assert "is taken" in window.message_words.text()
    assert any(o.name == "Old basket" for o in window.bench.level.objects)


def test_the_sheet_shows_values_at_the_cursor(open_window):
    window = open_window()
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Gardener 1").toPoint())
    window.bench.move_cursor(Cursor(100, 0))
    assert "232, 200" in window.sheet.live.text()
    assert "120 a second" in window.sheet.live.text()


# playing


def test_playing_by_keys_is_recorded_into_the_trial_and_replays_the_same(open_window, qtbot):
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60"),))
    window = open_window(level(kinds=(walker,), objects=things("Gardener", (0, 0)), seconds=0.5))
    bench, view = window.bench, window.level_view
    window.actions_["play keys"].trigger()
    bench._timer.stop()
    assert bench.playing
    QTest.keyPress(view, Qt.Key.Key_Up)
    bench.go_on(40)
    QTest.keyRelease(view, Qt.Key.Key_Up)
    bench.go_on(20)
    played = bench.run.trace.to_bytes(), bench.run.world.x[0]
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert not bench.playing
    settle(qtbot, window)
    trial = bench.trial
    assert trial.length == 1.0
    assert [(b.key, b.start, b.end) for b in trial.input.keys] == [
        ("Up", pytest.approx(1 / 60), pytest.approx(41 / 60))
    ]
    assert (bench.run.trace.to_bytes(), bench.run.world.x[0]) == played
    assert window.actions_["undo"].text() == "&Undo: record input into “trial”"


def test_playing_from_the_middle_keeps_what_was_pressed_before(open_window, qtbot):
    window = open_window()
    bench = window.bench
    bench.move_cursor(bench.run.end_of(100))
    window.actions_["play keys"].trigger()
    bench._timer.stop()
    assert bench.run.done == 100
    bench.go_on(50)
    bench.stop()
    settle(qtbot, window)
    assert [(b.key, b.start) for b in bench.trial.input.keys] == [("Up", 0.5)]
    assert bench.trial.input.keys[0].end == pytest.approx(101 / 60)
    assert bench.cursor.tick == 150


def test_shortcuts_are_the_levels_while_playing(open_window):
    window = open_window()
    window.actions_["play keys"].trigger()
    window.bench._timer.stop()
    QTest.keyClick(window.level_view, Qt.Key.Key_R)
    QTest.keyPress(window.level_view, Qt.Key.Key_Tab)
    window.bench.go_on(1)
    assert window.bench.playing
    assert "Tab" in window.bench.run.world.held
    window.bench.stop()


# files


def test_save_and_open_again(open_window, tmp_path, qtbot):
    window = open_window()
    path = tmp_path / "mine.gatillo"
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Pod 1").toPoint())
    QTest.keyClick(window, Qt.Key.Key_D, CTRL)
    assert window.isWindowModified()
    window.bench.path = path
    window.actions_["save"].trigger()
    assert not window.isWindowModified()
    assert read_level(path) == window.bench.level
    window.actions_["undo"].trigger()
    assert window.isWindowModified()


def test_a_file_that_cannot_be_read_is_told_and_the_open_level_stays(open_window, tmp_path: Path):
    window = open_window()
    before = window.bench.level
    for raw in (b"", b"\xff\x00", b'{"gatillo": 7}', b"{"):
        path = tmp_path / "bad.gatillo"
        path.write_bytes(raw)
        assert not window.open_path(path)
        assert window.message.isVisible()
        assert "bad.gatillo" in window.message_words.text()
    assert window.bench.level is before


def test_unsaved_changes_are_asked_about(open_window, tmp_path):
    window = open_window()
    other = tmp_path / "other.gatillo"
    write_level(other, level())
    window.level_view.select_all()
    window.level_view.delete_selected()
    window.ask = lambda *_: "cancel"
    assert not window.open_path(other)
    assert not window.close()
    window.ask = lambda *_: "discard"
    assert window.open_path(other)


def test_an_empty_level_says_what_to_do(open_window):
    window = open_window(level())
    assert window.order.rows[0].sort == "new"
    assert not window.grab().isNull()


# the look


def test_light_and_dark_can_be_chosen(open_window):
    window = open_window()
    window.actions_["look dark"].trigger()
    assert theme().dark
    dark = window.grab().toImage().pixelColor(640, 760).lightness()
    window.actions_["look light"].trigger()
    assert not theme().dark
    assert window.grab().toImage().pixelColor(640, 760).lightness() > dark + 100


def contrast(a, b):
    def luminance(colour):
        parts = [
            v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4
            for v in (colour.redF(), colour.greenF(), colour.blueF())
        ]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("look", ["light", "dark"])
def test_text_has_the_contrast_that_wcag_asks_for(open_window, look):
    window = open_window()
    window.choose_look(look)
    t = theme()
    for ground in (t.paper, t.panel, t.field, t.selected):
        for ink in (t.ink, t.quiet, t.cursor, t.fault, t.held, t.finding):
            assert contrast(ink, ground) >= 4.5, (ink.name(), ground.name())
    assert contrast(t.on_fires, t.fires) >= 4.5


def test_every_command_is_in_a_menu_and_no_two_share_keys(open_window):
    window = open_window()
    menus = [action.menu() for action in window.menuBar().actions()]
    menus += [action.menu() for menu in menus for action in menu.actions() if action.menu() is not None]
    shown = {action for menu in menus for action in menu.actions()}
    assert set(window.actions_.values()) <= shown
    keys = [a.shortcut().toString() for a in window.actions_.values() if not a.shortcut().isEmpty()]
    assert len(keys) == len(set(keys))


def test_controls_have_accessible_names(open_window):
    window = open_window()
    assert all(b.accessibleName() for b in window.run_bar.buttons.values())
    assert (
        window.order.accessibleName() and window.level_view.accessibleName() and window.sheet.accessibleName()
    )


def test_panels_can_be_hidden_and_brought_back(open_window):
    window = open_window()
    window.actions_["show sheet"].trigger()
    window.actions_["show level"].trigger()
    assert not window.upper.isVisible()
    window.actions_["show sheet"].trigger()
    assert window.upper.isVisible()
    assert window.sheet.isVisible()


def test_many_rules_scroll_and_are_painted(open_window):
    rules = tuple(rule(f"r{n}", when=START, do=add("level.n"), id=n + 1) for n in range(500))
    window = open_window(level(Section(name="all", rules=rules), has={"n": 0.0}))
    bar = window.order.verticalScrollBar()
    assert bar.maximum() > 13_000
    bar.setValue(bar.maximum())
    assert not window.order.grab().isNull()


def test_a_finding_stands_at_its_rule_and_is_repaired_by_a_key(open_window, qtbot):
    wrong = rule("wrong", when=START, do=c("send_message", message="helo"), id=5)
    hears = rule("hears", when=c("message_heard", message="hello"), do=add("level.n", "dt"), id=6)
    window = open_window(level(wrong, hears, has={"n": 0.0}, expect=(FiresTimes(rule="hears", times=1),)))
    assert "no rule hears it" in window.order.rows[row_of(window, "wrong")].problem
    assert "finding" in window.run_bar.findings.text()
    QTest.keyClick(window, Qt.Key.Key_J, CTRL | SHIFT)
    assert window.bench.selection.rule == 5
    assert "Ctrl+J does it" in window.sheet.live.text()
    QTest.keyClick(window, Qt.Key.Key_J, CTRL)
    settle(qtbot, window)
    assert window.bench.level.order[0].do[0].slots["message"] == "hello"
    assert window.bench.verdicts[0].outcome == "held"
    assert window.order.rows[row_of(window, "wrong")].problem == ""


def test_playing_with_the_pointer_is_recorded(open_window, qtbot):
    r = rule(
        "r", when=c("pointer_held_on", button="left", a="Pod", which="all under it"), do=add("level.n", "dt")
    )
    window = open_window(
        level(r, kinds=(kind("Pod", 40),), objects=things("Pod", (100, 100)), has={"n": 0.0})
    )
    bench, view = window.bench, window.level_view
    window.actions_["play keys"].trigger()
    bench._timer.stop()
    at = view.to_pixels(100, 100).toPoint()
    QTest.mouseMove(view, at)
    QTest.mousePress(view, LEFT, NONE, at)
    bench.go_on(10)
    QTest.mouseRelease(view, LEFT, NONE, at)
    bench.go_on(10)
    bench.stop()
    settle(qtbot, window)
    assert [b.key for b in bench.trial.input.keys] == ["pointer left"]
    assert bench.trial.input.pointer
    assert len(window.order.lanes.lane(0).tick) == 10


def test_an_unforeseen_error_is_told_and_the_level_kept(open_window, monkeypatch, capsys):
    import sys

    from gatillo.desk.application import tell_errors

    window = open_window()
    before = window.bench.level
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    tell_errors(window)
    try:
        raise RuntimeError("a wheel came off")
    except RuntimeError as error:
        sys.excepthook(type(error), error, error.__traceback__)
    assert "a wheel came off" in window.message_words.text()
    assert "Your level is kept" in window.message_words.text()
    assert window.bench.level is before
    assert "RuntimeError" in capsys.readouterr().err
