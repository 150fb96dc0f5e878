"""Rules in the order list, by mouse and keys: switched, moved, edited in place, folded, marked."""

from __future__ import annotations

from hands import ALT, CTRL, LEFT, NONE
from pointing_at import click_left, row_of
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox

from building import START, add, level, rule
from conftest import settle  # type: ignore[attr-defined]
from gatillo.level.expectations import FiresTimes


def test_a_rule_is_switched_off_by_its_switch_and_the_lanes_follow(open_window, qtbot):
    window = open_window()
    at = row_of(window, "Gather a pod")
    click_left(window, at, 46)
    settle(qtbot, window)
    assert not window.bench.program.rules[0].on
    assert len(window.order.state.lanes.lane(0).tick) == 0
    assert "gone" in window.run_bar.note.whole
    QTest.keyClick(window, Qt.Key.Key_Z, CTRL)
    settle(qtbot, window)
    assert len(window.order.state.lanes.lane(0).tick) == 15


def test_the_first_try_shows_what_goes_wrong_when_switched_on(open_window, qtbot):
    window = open_window()
    at = next(
        i
        for i, r in enumerate(window.order.state.rows)
        if r.section and r.section.name.startswith("First try")
    )
    window.order.state.current = at
    window.order.setFocus()
    QTest.keyClick(window.order, Qt.Key.Key_Space)
    settle(qtbot, window)
    assert {v.outcome for v in window.bench.shown.verdicts} != {"held"}
    gone = window.bench.run.trace.firings_at(1)
    assert gone[0].rule_index == 6


def test_a_rule_is_moved_by_keys_and_the_order_of_firing_follows(open_window, qtbot):
    window = open_window()
    window.order.setFocus()
    window.order.state.choose(row_of(window, "Basket fills"))
    QTest.keyClick(window.order, Qt.Key.Key_Down, ALT)
    settle(qtbot, window)
    names = [t.source.name for t in window.bench.program.rules][:3]
    assert names == ["Gather a pod", "Tell the count", "Basket fills"]
    firings = window.bench.run.trace.firings_at(50)
    assert [window.bench.program.rules[f.rule_index].source.name for f in firings] == [
        "Tell the count",
        "Basket fills",
    ]
    assert window.order.state.rows[window.order.state.current].rule.name == "Basket fills"


def test_a_number_is_edited_in_place_with_the_mouse(open_window, qtbot):
    window = open_window()
    at = row_of(window, "Gather a pod")
    slot = next(w for w in window.order.state.slots_of(at) if w.slot == "amount")
    window.order.geometry_.split = 0.6
    window.order.geometry_.lay_out()
    area = window.order.geometry_.word_area(at, slot)
    QTest.mouseClick(window.order.viewport(), LEFT, NONE, area.center().toPoint())
    field = window.order.writer.editor.field
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
    window.order.state.choose(row_of(window, "A pod ripens"))
    QTest.keyClick(window.order, Qt.Key.Key_Tab)
    QTest.keyClick(window.order, Qt.Key.Key_Return)
    field = window.order.writer.editor.field
    assert field.text() == "3"
    QTest.keyClicks(field, "5")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.bench.level.order[2].rules[0].when[0].slots["period"] == "5"


def test_a_wrong_text_is_marked_and_not_taken(open_window):
    window = open_window()
    before = window.bench.level
    window.order.setFocus()
    window.order.state.choose(row_of(window, "A pod ripens"))
    window.order.writer.edit_slot()
    field = window.order.writer.editor.field
    QTest.keyClicks(field, "level.podz")
    assert field.property("wrong") == "true"
    assert "did you mean “pods”" in window.order.writer.editor.problem()
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.order.writer.editor.field is field
    # it asks what is meant; Escape goes back to the text, and once more leaves it as it was
    assert window.order.writer.editor.answers is not None
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert window.order.writer.editor.field is field
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert window.order.writer.editor.field is None
    assert window.bench.level is before


def test_a_folded_rule_unfolds_into_its_lines(open_window):
    window = open_window()
    at = row_of(window, "Gather a pod")
    before = len(window.order.state.rows)
    click_left(window, at, 64)
    assert len(window.order.state.rows) == before + 5
    assert [r.sort for r in window.order.state.rows[at : at + 5]] == ["rule", *["line"] * 4]


def test_folding_a_section_merges_its_lanes(open_window):
    window = open_window()
    at = next(i for i, r in enumerate(window.order.state.rows) if r.section and r.section.name == "Gathering")
    click_left(window, at, 22)
    row = window.order.state.rows[at]
    assert row.rule_indices == (0, 1, 2)
    assert len(window.order.state.lanes.merged(row.rule_indices)) > 30
    assert not any(r.rule and r.rule.name == "Gather a pod" for r in window.order.state.rows)


def test_firing_mode_and_rest_are_set_in_the_sheet(open_window, qtbot):
    window = open_window()
    window.order.state.choose(row_of(window, "Tell the count"))
    box = window.sheet.findChild(QDoubleSpinBox, "rule-cooldown")
    box.setValue(3.0)
    settle(qtbot, window)
    assert window.bench.program.rules[2].limits.rest == 180
    assert len(window.order.state.lanes.lane(2).tick) < 15
    mode = window.sheet.findChild(QComboBox, "rule-fires")
    mode.setFocus()
    QTest.keyClick(mode, Qt.Key.Key_End)
    mode.activated.emit(2)
    settle(qtbot, window)
    assert len(window.order.state.lanes.lane(2).tick) == 1
    assert "<b>1</b> time in this trial" in window.sheet.live.text()


def test_a_rule_with_a_mistake_is_marked_and_the_rest_runs(open_window):
    built = level(
        rule("bad", when=START, do=add("level.m")),
        rule("good", when=START, do=add("level.n")),
        has={"n": 0.0},
        expect=(FiresTimes(rule="good", times=1),),
    )
    window = open_window(built)
    assert "no variable “m”" in window.order.state.rows[row_of(window, "bad")].problem
    assert "finding" in window.run_bar.findings.text()
    assert window.bench.shown.verdicts[0].outcome == "held"
