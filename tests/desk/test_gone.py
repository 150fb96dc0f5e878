"""What is in hand, in a field or being written can be gone by the time it is given: nothing breaks and nothing is lost."""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, Hands
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLineEdit

from building import START, add, c, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.files.level_file import decode_level, encode_level
from gatillo.level import thing_edits
from gatillo.level.expectations import FiresTimes, HoldsAt
from gatillo.level.model import Reference, Trial, Variable


def garden():
    built = level(
        rule("Grow", when=START, do=add("level.n"), id=1),
        rule("Wilt", when=c("every_tick"), do=add("level.n"), id=2),
        kinds=(kind("Moth", 6, has={"mood": "calm"}), kind("Lamp", 8)),
        objects=(*things("Moth", (100, 100)), *things("Lamp", (200, 100), first=10)),
        has={"n": 0.0},
        expect=(FiresTimes(rule="Grow", times=1), HoldsAt(formula="level.n >= 0", when="always")),
        seconds=0.5,
    )
    second = Trial(name="Quiet night", length=0.5, off=("Wilt",))
    return replace(built, trials=(*built.trials, second))


def other():
    return level(rule("Tick", when=START, do=add("level.k")), kinds=(kind("Crow", 5),), has={"k": 0.0})


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(garden())
    return window, Hands(qtbot, window)


def show(window, sort, name):
    window.bench.select(Selection(thing=Thing(sort, name)))


def opens_again(window):
    now = window.bench.level
    assert decode_level(encode_level(now)) == now


def test_a_kind_in_hand_is_put_back_when_another_level_is_opened(at_work):
    window, hands = at_work
    window.level_view.tools.arm("Moth")
    window.bench.document.take(other())
    assert window.level_view.tools.armed is None
    hands.click(window.level_view, window.level_view.to_pixels(50, 50).toPoint())
    assert window.bench.level.objects == ()
    opens_again(window)


def test_a_kind_in_hand_is_put_back_when_it_is_deleted_and_not_when_another_is(at_work):
    window, _ = at_work
    window.level_view.tools.arm("Moth")
    window.bench.edit(thing_edits.delete_kind(window.bench.level, "Lamp"), "delete Lamp")
    assert window.level_view.tools.armed == "Moth"
    window.bench.edit(thing_edits.delete_kind(window.bench.level, "Moth"), "delete Moth")
    assert window.level_view.tools.armed is None


def test_a_rule_that_a_trial_switches_off_is_deleted_by_key(at_work):
    window, hands = at_work
    order = window.order
    order.setFocus()
    order.state.choose(
        next(i for i, r in enumerate(order.state.rows) if r.rule is not None and r.rule.name == "Wilt")
    )
    hands.key(Qt.Key.Key_Delete)
    assert [r.name for r in window.bench.level.order] == ["Grow"]
    assert window.bench.level.trials[1].off == ()
    opens_again(window)
    window.bench.document.undo()
    assert window.bench.level.trials[1].off == ("Wilt",)


def test_an_edit_that_would_leave_a_level_that_cannot_be_opened_is_not_taken(at_work):
    window, _ = at_work
    before = window.bench.level
    twice = replace(before, objects=(*before.objects, replace(before.objects[0], id=77)))
    window.bench.edit(twice, "two of one name")
    assert window.bench.level is before
    assert window.message.words.text().startswith("That cannot be done: ")
    assert "Moth 1" in window.message.words.text()


@pytest.mark.parametrize("gone", ["level", "kind", "variable"])
def test_a_field_of_a_page_that_is_gone_gives_nothing(at_work, gone):
    window, hands = at_work
    show(window, "kind", "Moth")
    field = hands.field("kind-variable-0-value")
    assert isinstance(field, QLineEdit)
    bench = window.bench
    if gone == "level":
        bench.document.take(other())
    elif gone == "kind":
        bench.edit(thing_edits.delete_kind(bench.level, "Moth"), "delete")
    else:
        bench.edit(thing_edits.delete_variable(bench.level, "Moth", "mood"), "delete")
    now = bench.level
    field.setText("wild")
    field.editingFinished.emit()
    assert bench.level == now
    opens_again(window)


def test_what_was_typed_into_a_field_is_kept_when_the_page_is_taken_away(at_work):
    window, hands = at_work
    show(window, "trial", "trial")
    field = hands.field("trial-name")
    hands.click(field)
    hands.key(Qt.Key.Key_A, CTRL)
    hands.type("Long night")
    # no click beside it, no Enter: an edit from elsewhere takes the page away
    window.bench.edit(replace(window.bench.level, note="dark"), "change the note")
    assert [t.name for t in window.bench.level.trials] == ["Long night", "Quiet night"]
    assert window.bench.level.note == "dark"
    assert window.bench.trial.name == "Long night"


def test_an_expectation_typed_into_while_it_is_taken_back_does_no_harm(at_work):
    window, hands = at_work
    bench = window.bench
    more = thing_edits.add_expectation(bench.level, "trial", HoldsAt(formula="level.n < 99", when="always"))
    bench.edit(more, "expect more")
    show(window, "trial", "trial")
    field = hands.field("trial-expect-2-formula")
    hands.click(field)
    hands.key(Qt.Key.Key_A, CTRL)
    hands.type("level.n < 5")
    bench.document.undo()
    assert len(bench.level.trials[0].expectations) == 2
    opens_again(window)


def test_a_slot_that_is_edited_is_given_up_when_another_level_is_opened(at_work):
    window, hands = at_work
    order = window.order
    order.setFocus()
    order.state.choose(
        next(i for i, r in enumerate(order.state.rows) if r.rule is not None and r.rule.name == "Grow")
    )
    order.writer.edit_slot()
    assert order.writer.editor.field is not None
    hands.type("3")
    window.bench.document.take(other())
    assert order.writer.editor.field is None
    assert window.bench.level == other()


def test_a_line_that_is_written_is_given_up_when_another_level_is_opened(at_work):
    window, hands = at_work
    window.order.setFocus()
    hands.key(ENTER, CTRL)
    hands.type("moth touches")
    window.bench.document.take(other())
    assert not window.order.writer.line.is_open
    assert not any(row.writing for row in window.order.state.rows)
    assert window.bench.level == other()


def test_the_line_of_a_rule_that_is_gone_is_told(at_work):
    window, _ = at_work
    order = window.order
    row = next(r for r in order.state.rows if r.rule is not None and r.rule.name == "Grow")
    word = next(w for w in row.words if w.editable)
    window.bench.document.take(other())
    order.state.set_slot(replace(row.rule, id=99), word, "7")
    assert "is gone, so “7” was not entered" in window.message.words.text()


def test_a_variable_that_refers_to_somebody_is_told_before_the_run_knows_it(at_work):
    window, _ = at_work
    bench = window.bench
    bench.select(Selection())
    named = (
        *bench.level.variables,
        Variable("goal", Reference("Lamp 1", "Lamp")),
        Variable("prey", Reference()),
    )
    bench.edit(replace(bench.level, variables=named), "two variables")
    told = window.sheet.live.text()
    assert "Lamp 1" in told
    assert "nobody" in told


def test_the_trial_that_is_viewed_stays_in_view_when_its_name_is_taken_back(at_work):
    window, hands = at_work
    window.bench.choose_trial("Quiet night")
    show(window, "trial", "Quiet night")
    hands.put("trial-name", "Loud night")
    assert window.bench.trial.name == "Loud night"
    window.bench.document.undo()
    assert window.bench.trial.name == "Quiet night"
    assert window.sheet.title.text() == "Quiet night"


def test_once_is_one_time(at_work):
    window, hands = at_work
    show(window, "trial", "trial")
    assert hands.field("trial-expect-0-times").text() == "1 time"
    hands.put("trial-expect-0-times", "2")
    assert hands.field("trial-expect-0-times").text() == "2 times"


def test_an_empty_level_says_what_to_do_first_and_hints_speak_of_its_own_kinds(open_window, qtbot):
    window = open_window(level(kinds=(kind("Heron", 5), kind("Frog", 5))))
    hands = Hands(qtbot, window)
    window.order.setFocus()
    hands.key(ENTER, CTRL)
    assert "heron touches frog" in window.order.writer.line.field.placeholderText()
    hands.type("every 2 s")
    hands.key(ENTER)
    assert "remove frog" in window.order.writer.line.field.placeholderText()
