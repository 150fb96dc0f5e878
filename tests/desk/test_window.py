"""The real window: stepping, editing, playing, undoing, by real keys and clicks."""

from __future__ import annotations

import dataclasses
from pathlib import Path

import pytest
from hands import CTRL, LEFT, NONE, SHIFT
from msgspec.structs import replace
from pointing_at import drag, point_of, row_of
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from building import START, add, c, kind, level, rule, things
from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.looks.theme import kind_colour, look_signals, theme
from gatillo.desk.session.selection import Selection
from gatillo.desk.window.commands import COMMANDS, STUDIES
from gatillo.files.level_file import read_level, write_level
from gatillo.level import thing_edits
from gatillo.level.expectations import FiresTimes
from gatillo.level.model import Clause, Rule, Section
from gatillo.level.roles import all_logic
from gatillo.sim.run.run import Cursor

# stepping


def test_the_demo_opens_at_the_start_with_its_lanes_full_and_expectations_judged(open_window):
    window = open_window()
    assert window.bench.cursor == Cursor(0, 0)
    assert len(window.order.state.lanes.lane(0).tick) == 15
    assert [v.outcome for v in window.bench.shown.verdicts] == ["held"] * 9
    assert "9 of 9 expectations hold" in window.run_bar.note.whole


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
    assert window.message.words.text() == "Nothing fired before this moment."
    assert press("end").tick == 900
    assert press("start") == Cursor(0, 0)


def test_the_run_bar_says_which_firing_of_the_tick_the_cursor_stands_at(open_window):
    window = open_window()
    window.bench.move_cursor(Cursor(794, 3))
    assert "3rd of 3: Good night" in window.run_bar.place.text()
    assert "13.233" in window.run_bar.place.text()
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
        window.order.viewport(),
        LEFT,
        NONE,
        QPoint(round(x), round(window.order.geometry_.row_area(at).center().y())),
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
    # beside the marks of a rule; in the lanes of the input a drag draws
    y = window.order.geometry_.row_area(row_of(window, "Good night")).center().y()
    drag(window.order.viewport(), QPointF(scale.middle(100), y), QPointF(scale.middle(400), y))
    assert abs(window.bench.cursor.tick - 400) <= 2


def test_hovering_a_mark_tells_who_and_what(open_window):
    window = open_window()
    at = row_of(window, "Gather a pod")
    point = QPointF(window.order.scale.middle(81), window.order.geometry_.row_area(at).center().y())
    words = window.order.pointer.words_at(point)
    assert "Gather a pod: 1st of 1 at 1.350 s" in words
    assert "2 matches" in words
    assert "Pod: Pod 2, Pod 3" in words
    assert "level.pods: 1 → 3" in words


def test_hovering_where_a_rule_did_not_fire_tells_how_far_it_came(open_window):
    window = open_window()
    at = row_of(window, "Enough for tonight")
    point = QPointF(window.order.scale.middle(60), window.order.geometry_.row_area(at).center().y())
    assert "1 candidate, none passed condition 1" in window.order.pointer.words_at(point)


def test_running_moves_the_cursor_on_and_stops_at_the_end(open_window):
    window = open_window()
    bench = window.bench
    QTest.keyClick(window, Qt.Key.Key_R, CTRL)
    assert bench.player.running
    bench.player.go_on(30)
    assert bench.cursor.tick >= 30
    bench.player.go_on(2000)
    assert bench.cursor.tick == 900
    assert not bench.player.running


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


# playing


def test_what_is_played_first_is_the_script_of_a_trial_without_one_and_replays_the_same(open_window, qtbot):
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60"),))
    window = open_window(level(kinds=(walker,), objects=things("Gardener", (0, 0)), seconds=0.5))
    bench, view = window.bench, window.level_view
    window.actions_["play keys"].trigger()
    bench.player._clock.stop()
    assert bench.player.playing
    QTest.keyPress(view, Qt.Key.Key_Up)
    bench.player.go_on(40)
    QTest.keyRelease(view, Qt.Key.Key_Up)
    bench.player.go_on(20)
    played = bench.run.trace.to_bytes(), bench.run.world.x[0]
    QTest.keyClick(view, Qt.Key.Key_Escape)
    assert not bench.player.playing
    settle(qtbot, window)
    trial = bench.trial
    assert trial.length == 1.0
    assert [(b.key, b.start, b.end) for b in trial.input.keys] == [
        ("Up", pytest.approx(1 / 60), pytest.approx(41 / 60))
    ]
    assert (bench.run.trace.to_bytes(), bench.run.world.x[0]) == played
    assert window.actions_["undo"].text() == "&Undo: keep a take as the script of “trial”"


def test_playing_from_the_middle_keeps_what_was_pressed_before(open_window, qtbot):
    window = open_window()
    bench = window.bench
    bench.move_cursor(bench.run.end_of(100))
    window.actions_["play keys"].trigger()
    bench.player._clock.stop()
    assert bench.run.done == 100
    bench.player.go_on(50)
    bench.player.stop()
    settle(qtbot, window)
    keys = bench.tried.input.keys
    assert [(b.key, b.start) for b in keys] == [("Up", 0.5)]
    assert keys[0].end == pytest.approx(101 / 60)
    assert bench.cursor.tick == 150


def test_shortcuts_are_the_levels_while_playing(open_window):
    window = open_window()
    window.actions_["play keys"].trigger()
    window.bench.player._clock.stop()
    QTest.keyClick(window.level_view, Qt.Key.Key_R)
    QTest.keyPress(window.level_view, Qt.Key.Key_Tab)
    window.bench.player.go_on(1)
    assert window.bench.player.playing
    assert "Tab" in window.bench.run.world.input.held
    window.bench.player.stop()


# files


def test_save_and_open_again(open_window, tmp_path, qtbot):
    window = open_window()
    path = tmp_path / "mine.gatillo"
    QTest.mouseClick(window.level_view, LEFT, NONE, point_of(window, "Pod 1").toPoint())
    QTest.keyClick(window, Qt.Key.Key_D, CTRL)
    assert window.isWindowModified()
    window.bench.document.file.path = path
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
        assert "bad.gatillo" in window.message.words.text()
    assert window.bench.level is before


def test_unsaved_changes_are_asked_about(open_window, tmp_path):
    window = open_window()
    other = tmp_path / "other.gatillo"
    write_level(other, level())
    window.level_view.objects.select_all()
    window.level_view.objects.delete_selected()
    window.files.ask = lambda *_: "cancel"
    assert not window.open_path(other)
    assert not window.close()
    window.files.ask = lambda *_: "discard"
    assert window.open_path(other)


def test_an_empty_level_says_what_to_do(open_window):
    window = open_window(level())
    assert window.order.state.rows[0].sort == "new"
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


@pytest.mark.parametrize("look", ["light", "dark"])
def test_high_contrast_is_chosen_kept_and_has_the_contrast_that_wcag_asks_for_at_best(open_window, look):
    window = open_window()
    window.choose_look(look)
    window.actions_["high contrast"].trigger()
    t = theme()
    assert t.strong and t.dark == (look == "dark")
    for ground in (t.paper, t.panel, t.field):
        for ink in (t.ink, t.quiet, t.cursor, t.fault, t.held, t.finding, t.fires):
            assert contrast(ink, ground) >= 7, (ink.name(), ground.name())
        for line in (t.hairline, t.input):
            assert contrast(line, ground) >= 4.5, (line.name(), ground.name())
    assert contrast(t.on_fires, t.fires) >= 7
    for name in ("#FFE600", "#C28A1E", "#000000", "#FFFFFF", "#7F7F7F", "#0000FF", "#22AA44"):
        assert contrast(kind_colour(name), t.paper) >= 6.9, name
    window.choose_look("desktop")
    assert theme().strong
    window._restore()
    assert theme().strong and window.actions_["high contrast"].isChecked()
    window.actions_["high contrast"].trigger()
    assert not theme().strong


def test_high_contrast_follows_the_desktops(open_window, monkeypatch):
    window = open_window()
    monkeypatch.setattr("gatillo.desk.looks.theme.desktop_wants_contrast", lambda: True)
    signal = look_signals()[-1]
    signal.emit(Qt.ContrastPreference.HighContrast)
    assert theme().strong and window.actions_["high contrast"].isChecked()
    # what was chosen by hand stays
    window.actions_["high contrast"].trigger()
    signal.emit(Qt.ContrastPreference.HighContrast)
    assert not theme().strong


def test_every_command_is_in_a_menu_and_no_two_share_keys(open_window):
    window = open_window()
    menus = [action.menu() for action in window.menuBar().actions()]
    menus += [action.menu() for menu in menus for action in menu.actions() if action.menu() is not None]
    shown = {action for menu in menus for action in menu.actions()}
    assert set(window.actions_.values()) <= shown
    keys = [a.shortcut().toString() for a in window.actions_.values() if not a.shortcut().isEmpty()]
    assert len(keys) == len(set(keys))


def every_menu(window):
    found = [action.menu() for action in window.menuBar().actions()]
    return found + [a.menu() for menu in found for a in menu.actions() if a.menu() is not None]


def test_no_menu_is_longer_than_a_dozen(open_window):
    for menu in every_menu(open_window()):
        if menu.title() != STUDIES.rpartition("/")[2]:
            entries = [a for a in menu.actions() if not a.isSeparator()]
            assert len(entries) <= 12, menu.title()
            letters = [a.text()[a.text().index("&") + 1].lower() for a in entries if "&" in a.text()]
            assert len(letters) == len(set(letters)), (menu.title(), letters)


def test_a_command_that_cannot_act_is_greyed_and_says_what_to_do(open_window):
    window = open_window()
    window.bench.select(Selection())
    convert = window.actions_["to graph"]
    menu = next(m for m in every_menu(window) if convert in m.actions())
    usual = convert.toolTip()
    menu.popup(window.pos())
    assert not convert.isEnabled()
    assert convert.toolTip() == "Select a rule first: click its row in the order list."
    menu.hide()
    assert convert.isEnabled() and convert.toolTip() == usual
    rule = next(e for _, _, e in all_logic(window.bench.level) if isinstance(e, Rule))
    window.bench.select(Selection(rule=rule.id))
    menu.popup(window.pos())
    assert convert.isEnabled() and convert.toolTip() == usual
    menu.hide()


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
    assert "no rule hears it" in window.order.state.rows[row_of(window, "wrong")].problem
    assert "finding" in window.run_bar.findings.text()
    QTest.keyClick(window, Qt.Key.Key_J, CTRL | SHIFT)
    assert window.bench.selection.rule == 5
    assert "Ctrl+J does it" in window.sheet.live.text()
    QTest.keyClick(window, Qt.Key.Key_J, CTRL)
    settle(qtbot, window)
    assert window.bench.level.order[0].do[0].slots["message"] == "hello"
    assert window.bench.shown.verdicts[0].outcome == "held"
    assert window.order.state.rows[row_of(window, "wrong")].problem == ""


def test_playing_with_the_pointer_is_recorded(open_window, qtbot):
    r = rule(
        "r", when=c("pointer_held_on", button="left", a="Pod", which="all under it"), do=add("level.n", "dt")
    )
    window = open_window(
        level(r, kinds=(kind("Pod", 40),), objects=things("Pod", (100, 100)), has={"n": 0.0})
    )
    bench, view = window.bench, window.level_view
    window.actions_["play keys"].trigger()
    bench.player._clock.stop()
    at = view.to_pixels(100, 100).toPoint()
    QTest.mouseMove(view, at)
    QTest.mousePress(view, LEFT, NONE, at)
    bench.player.go_on(10)
    QTest.mouseRelease(view, LEFT, NONE, at)
    bench.player.go_on(10)
    bench.player.stop()
    settle(qtbot, window)
    assert [b.key for b in bench.trial.input.keys] == ["pointer left"]
    assert bench.trial.input.pointer
    assert len(window.order.state.lanes.lane(0).tick) == 10


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
    assert "a wheel came off" in window.message.words.text()
    assert "Your level is kept" in window.message.words.text()
    assert window.bench.level is before
    assert "RuntimeError" in capsys.readouterr().err


def test_an_edit_to_what_could_not_be_saved_is_told_and_not_taken(open_window):
    window = open_window()
    before = window.bench.level
    name = before.places[0].name
    window.bench.edit(thing_edits.move_place(before, name, 3e9, 0.0), "move it")
    assert window.bench.level is before
    assert "at most 1,000,000,000" in window.message.words.text()


def test_an_edit_that_raises_leaves_the_level_and_its_history_as_they_were(
    open_window, monkeypatch, tmp_path
):
    window = open_window()
    bench = window.bench
    bench.edit(replace(bench.level, name="kept"), "name it")
    before, undoes = bench.level, bench.document.history.undoes

    def broken(*_):
        raise KeyError("no such thing")

    monkeypatch.setattr("gatillo.desk.session.workbench.Program", broken)
    monkeypatch.setattr("gatillo.desk.session.document.Program", broken)
    with pytest.raises(KeyError):
        bench.edit(replace(bench.level, name="lost"), "break it")
    with pytest.raises(KeyError):
        bench.document.undo()
    with pytest.raises(KeyError):
        bench.document.take(replace(before, name="another"))
    assert bench.level is before
    assert bench.document.history.undoes == undoes
    monkeypatch.undo()
    # work goes on: an edit, undo of it, and what is unsaved is kept aside
    bench.edit(replace(bench.level, name="further"), "name it further")
    assert bench.level.name == "further"
    bench.document.undo()
    assert bench.level is before


def test_a_rule_with_an_unknown_line_beside_an_own_node_can_be_pasted_and_edited(open_window):
    window = open_window()
    bench = window.bench
    pasted = Rule(
        id=999,
        name="pasted",
        when=(Clause(use="no_such_thing"),),
        if_=(Clause(use="own_says", slots={"graph": "nothing"}),),
    )
    bench.edit(replace(bench.level, order=(*bench.level.order, pasted)), "paste")
    bench.edit(replace(bench.level, name="after"), "name it")
    assert bench.level.name == "after"
    assert any("no_such_thing" in problem.sentence() for problem in bench.program.problems)


def test_the_window_fits_a_screen_of_1024_pixels_and_what_is_cut_stands_in_a_hint(open_window, qtbot):
    window = open_window()
    window.resize(1024, 700)
    assert window.width() == 1024
    bench = window.bench
    bench.move_cursor(bench.run.next_firing(bench.run.end_of(0)))
    assert "Gather a pod" in window.run_bar.place.toolTip()


def test_a_command_whose_need_is_not_met_only_says_what_to_do(open_window):
    """By its keys or from the finder: nothing is changed, asked or opened."""
    window = open_window()
    window.bench.select(Selection())
    before = window.bench.level
    needy = [command for command in COMMANDS if command.needs]
    assert len(needy) > 30
    for command in needy:
        window.message.words.setText("")
        window.actions_[command.name].trigger()
        assert "first" in window.message.words.text(), command.name
        assert window.bench.level is before, command.name


def test_every_part_of_the_window_that_takes_the_keyboard_is_a_pane(open_window):
    """A part that Ctrl+Tab cannot reach, or that keeps the old look, would be one that no record names."""
    window = open_window()
    panes = [pane.widget for pane in window.panes]
    parts = [window.upper.widget(n) for n in range(window.upper.count())]
    parts += [window.whole.widget(n) for n in range(window.whole.count())]
    parts += [window.pages.widget(n) for n in range(window.pages.count())]
    assert all(part in panes for part in parts if part not in (window.upper, window.desk))
    restyled = []
    window.panes = tuple(
        dataclasses.replace(pane, restyle=lambda name=pane.name: restyled.append(name))
        for pane in window.panes
    )
    window.choose_look("dark")
    window.choose_look("light")
    assert restyled == [pane.name for pane in window.panes] * 2


def test_a_pane_with_a_command_is_hidden_and_shown_by_it(open_window):
    window = open_window()
    hidden = [pane for pane in window.panes if pane.command]
    assert [pane.name for pane in hidden] == ["region", "sheet"]
    for pane in hidden:
        action = window.actions_[pane.command]
        action.trigger()
        assert pane.widget.isHidden() and not action.isChecked()
        action.trigger()
        assert not pane.widget.isHidden() and action.isChecked()
