"""Writing rules in the order list: typed lines, slots, moving, copying, undoing."""

from __future__ import annotations

import pytest
from hands import ALT, CTRL, ENTER, LEFT, NONE, SHIFT, Hands
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolButton

from building import START, add, c, kind, level, rule, send, things
from conftest import settle
from gatillo.catalogue.declare.subjects import in_order
from gatillo.desk.order_list import list_state
from gatillo.desk.session.selection import Selection
from gatillo.desk.writing.typed_line import READING, offered_word
from gatillo.language.sentence import pieces, rule_sentence, sentence
from gatillo.level.model import Section
from gatillo.level.roles import all_rules


def yard():
    """Two rules in a section and one by itself."""
    return level(
        Section(
            name="Work",
            rules=(
                rule(
                    "Sow",
                    when=START,
                    if_=[c("past", time="0"), c("chance", percent="100")],
                    do=[add("level.n"), send("sown")],
                    id=1,
                ),
                rule("Reap", when=c("every_seconds", period="0.5"), do=add("level.n", "2"), id=2),
            ),
        ),
        rule("Rest", when=c("after_start", time="0.5"), do=send("rest"), id=3),
        kinds=(kind("Gardener", 8), kind("Seed pod", 5, has={"ripe": False})),
        objects=(*things("Gardener", (50, 50)), *things("Seed pod", (90, 50), first=5)),
        has={"n": 0.0},
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    window.order.setFocus()
    return window, Hands(qtbot, window)


def row_of(window, name, sort="rule"):
    return next(
        i
        for i, r in enumerate(window.order.state.rows)
        if r.sort == sort and r.rule is not None and r.rule.name == name
    )


def order(window):
    return [[r.name for r in e.rules] if isinstance(e, Section) else e.name for e in window.bench.level.order]


def rule_named(window, name):
    return next(r for _, _, r in all_rules(window.bench.level) if r.name == name)


def unfold(window, name):
    window.order.state.choose(row_of(window, name))
    window.order.state.toggle_fold(window.order.state.current)


def test_a_rule_is_typed_below_the_current_one(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Sow"))
    hands.new_rule("gardener touches seed pod", "remove seed pod", "else send missed")
    hands.key(ENTER)
    hands.key(ENTER)
    assert order(window) == [["Sow", "Gardener begins to touch Seed pod", "Reap"], "Rest"]
    made = rule_named(window, "Gardener begins to touch Seed pod")
    assert rule_sentence(made) == (
        "when Gardener begins to touch Seed pod  do remove Seed pod  else send missed"
    )
    assert not window.order.writer.line.is_open
    assert window.order.hasFocus()


def test_any_letter_on_a_rule_begins_its_next_line(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Rest"))
    hands.enter("wait 2s")
    assert [sentence(line) for line in rule_named(window, "Rest").do] == ["send rest", "wait 2 s"]


def test_an_empty_slot_is_filled_before_the_next_line(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Rest"))
    hands.enter("remove")
    assert window.order.writer.editor.field is hands.focus()
    hands.enter("Seed pod")
    assert window.order.writer.line.is_open
    assert sentence(rule_named(window, "Rest").do[-1]) == "remove Seed pod"


def test_arrows_choose_another_reading_and_the_mouse_too(at_work):
    window, hands = at_work
    hands.key(ENTER, CTRL)
    hands.type("gardener touches seed pod")
    line = window.order.writer.line
    first = line.chosen().clause.use
    hands.key(Qt.Key.Key_Down)
    assert line.chosen().clause.use != first
    target = line.list.visualRect(line.model.index(0, 0)).center()
    hands.click(line.list.viewport(), target)
    assert rule_named(window, "Gardener begins to touch Seed pod").when[0].use == first


def test_an_empty_line_covers_nothing_until_all_sentences_are_asked_for(at_work):
    window, hands = at_work
    before = window.bench.level
    hands.key(ENTER, CTRL)
    line = window.order.writer.line
    assert not line.list.isVisible()
    hands.key(Qt.Key.Key_Down)
    assert line.list.isVisible()
    assert line.model.rowCount() > 100
    hands.key(Qt.Key.Key_Escape)
    assert window.bench.level is before
    assert not line.is_open


def test_the_pointer_lists_the_likeliest_sentences_and_then_all_by_subject(at_work):
    window, hands = at_work
    hands.key(ENTER, CTRL)
    line = window.order.writer.line
    everything = next(b for b in line.field.findChildren(QToolButton) if b.isVisible())
    hands.click(everything)
    assert line.list.isVisible()
    offered = [line.model.item(at).data(READING) for at in range(line.model.rowCount())]
    likely, others = offered[:8], offered[8:]
    assert {"begins_to_touch", "message_heard", "level_starts"} <= {r.entry.name for r in likely}
    subjects = [in_order(r.entry.subject) for r in others if r.part == "when"]
    assert subjects == sorted(subjects)
    assert not {r.entry.name for r in likely} & {r.entry.name for r in others if r.part == "when"}
    touch = next(r for r in offered if r.entry.name == "begins_to_touch")
    assert (
        "".join(offered_word(touch, piece).text for piece in pieces(touch.clause))
        == "who begins to touch who"
    )
    hands.click(everything)
    assert not line.list.isVisible()
    assert line.is_open


def test_what_reads_like_nothing_is_told_and_not_taken(at_work):
    window, hands = at_work
    before = window.bench.level
    hands.key(ENTER, CTRL)
    hands.enter("xyzzy plugh")
    assert "No sentence in the catalogue matches this" in window.message.words.text()
    assert window.order.writer.line.is_open
    assert window.bench.level is before


def test_a_variable_that_is_typed_anew_is_made(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Rest"))
    hands.enter("add 1 to crates")
    assert [v.name for v in window.bench.level.variables] == ["n", "crates"]
    hands.key(ENTER)
    QTest.keyClick(window, Qt.Key.Key_Z, CTRL)
    assert [v.name for v in window.bench.level.variables] == ["n"]


def test_lines_are_moved_turned_round_duplicated_and_deleted_by_keys(at_work):
    window, hands = at_work
    unfold(window, "Sow")
    at = next(i for i, r in enumerate(window.order.state.rows) if r.sort == "line" and r.part == "do")
    window.order.state.choose(at)
    hands.key(Qt.Key.Key_Down, ALT)
    assert [line.use for line in rule_named(window, "Sow").do] == ["send_message", "add_to"]
    hands.key(Qt.Key.Key_D, CTRL)
    assert [line.use for line in rule_named(window, "Sow").do] == ["send_message", "add_to", "add_to"]
    hands.key(Qt.Key.Key_Delete)
    assert [line.use for line in rule_named(window, "Sow").do] == ["send_message", "add_to"]
    window.order.state.choose(next(i for i, r in enumerate(window.order.state.rows) if r.part == "if"))
    hands.key(Qt.Key.Key_B, CTRL)
    assert rule_named(window, "Sow").if_[0].negated


def test_conditions_are_grouped_and_ungrouped(at_work):
    window, hands = at_work
    unfold(window, "Sow")
    window.order.state.choose(next(i for i, r in enumerate(window.order.state.rows) if r.part == "if"))
    hands.key(Qt.Key.Key_G, CTRL)
    assert sentence(rule_named(window, "Sow").if_[0]) == "any of these holds (it is past 0 s)"
    window.order.state.choose(
        next(i for i, r in enumerate(window.order.state.rows) if r.part == "if" and r.line == 1)
    )
    hands.key(Qt.Key.Key_G, CTRL)
    assert len(rule_named(window, "Sow").if_) == 1
    inner = [i for i, r in enumerate(window.order.state.rows) if r.within]
    assert ["".join(w.text for w in window.order.state.rows[i].words).strip() for i in inner] == [
        "·it is past 0 s",
        "orchance of 100 %",
    ]
    window.order.state.choose(inner[1])
    window.order.writer.edit_slot()
    hands.key(Qt.Key.Key_A, CTRL)
    hands.enter("40")
    window.order.state.choose(inner[1])
    hands.key(Qt.Key.Key_B, CTRL)
    (group,) = rule_named(window, "Sow").if_
    assert (group.of[1].slots["percent"], group.of[1].negated) == ("40", True)
    hands.key(Qt.Key.Key_Z, CTRL)
    window.order.state.choose(inner[0])
    hands.key(Qt.Key.Key_Delete)
    assert [line.use for line in rule_named(window, "Sow").if_[0].of] == ["chance"]
    hands.key(Qt.Key.Key_Z, CTRL)
    window.order.state.choose(next(i for i, r in enumerate(window.order.state.rows) if r.part == "if"))
    hands.key(Qt.Key.Key_G, CTRL)
    assert [line.use for line in rule_named(window, "Sow").if_] == ["past", "chance"]


def test_rules_are_duplicated_deleted_and_brought_back(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Sow"))
    hands.key(Qt.Key.Key_D, CTRL)
    assert order(window) == [["Sow", "Sow 1", "Reap"], "Rest"]
    hands.key(Qt.Key.Key_Delete)
    assert order(window) == [["Sow", "Reap"], "Rest"]
    hands.key(Qt.Key.Key_Z, CTRL)
    assert order(window) == [["Sow", "Sow 1", "Reap"], "Rest"]


def test_rules_are_copied_cut_and_pasted_also_into_another_level(at_work, open_window, qtbot):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Reap"))
    hands.key(Qt.Key.Key_X, CTRL)
    assert order(window) == [["Sow"], "Rest"]
    window.order.state.choose(row_of(window, "Rest"))
    hands.key(Qt.Key.Key_V, CTRL)
    assert order(window) == [["Sow"], "Rest", "Reap"]
    hands.key(Qt.Key.Key_C, CTRL)
    other = open_window(level(has={"n": 0.0}))
    other.order.setFocus()
    other.actions_["paste"].trigger()
    assert order(other) == ["Reap"]


def test_what_is_no_rule_is_not_pasted(at_work):
    window, hands = at_work
    QApplication.clipboard().setText("shopping list")
    hands.key(Qt.Key.Key_V, CTRL)
    assert "no rules on the clipboard" in window.message.words.text()
    QApplication.clipboard().setText("gatillo rules\n[{]")
    hands.key(Qt.Key.Key_V, CTRL)
    assert "only a part of a rule" in window.message.words.text()


def test_a_rule_is_dragged_before_another_and_the_order_of_firing_follows(at_work):
    window, hands = at_work
    view = window.order.viewport()
    start, to = row_of(window, "Rest"), row_of(window, "Sow")
    window.order.state.choose(start)
    hands.drag(
        view,
        window.order.geometry_.row_area(start).center() * 0
        + QPoint(20, int(window.order.geometry_.row_area(start).center().y())),
        QPoint(20, int(window.order.geometry_.row_area(to).top()) + 3).toPointF(),
    )
    hands.rest()
    assert order(window) == [["Rest", "Sow", "Reap"]]
    assert [turn.source.name for turn in window.bench.run.program.rules] == ["Rest", "Sow", "Reap"]


def test_sections_are_made_renamed_moved_and_taken_away(at_work):
    window, hands = at_work
    hands.key(ENTER, CTRL | SHIFT)
    assert order(window) == [["Sow", "Reap"], "Rest", []]
    hands.put("section-name", "Late")
    window.order.setFocus()
    at = next(
        i for i, r in enumerate(window.order.state.rows) if r.section is not None and r.section.name == "Late"
    )
    window.order.state.choose(at)
    hands.key(Qt.Key.Key_Up, ALT)
    assert order(window) == [["Sow", "Reap"], [], "Rest"]
    hands.key(Qt.Key.Key_Delete)
    assert order(window) == [["Sow", "Reap"], "Rest"]


def test_a_number_is_dragged_sideways_and_undone_as_one_step(at_work):
    window, hands = at_work
    at = row_of(window, "Reap")
    word = next(w for w in window.order.state.slots_of(at) if w.text == "2")
    area = window.order.geometry_.word_area(at, word)
    start = area.center()
    hands.drag(window.order.viewport(), start, start + QPoint(40, 0).toPointF())
    assert float(rule_named(window, "Reap").do[0].slots["amount"]) == pytest.approx(3.0)
    hands.key(Qt.Key.Key_Z, CTRL)
    assert rule_named(window, "Reap").do[0].slots["amount"] == "2"


def test_a_click_on_a_number_without_a_drag_edits_it(at_work):
    window, hands = at_work
    at = row_of(window, "Reap")
    word = next(w for w in window.order.state.slots_of(at) if w.text == "2")
    point = window.order.geometry_.word_area(at, word).center().toPoint()
    QTest.mouseClick(window.order.viewport(), LEFT, NONE, point)
    hands.enter("7")
    assert rule_named(window, "Reap").do[0].slots["amount"] == "7"


def test_a_formula_field_tells_what_is_wrong_and_the_value_at_the_cursor(at_work):
    window, hands = at_work
    hands.rest()
    window.bench.moment.to_end()
    window.order.state.choose(row_of(window, "Reap"))
    window.order.state.current_slot = next(
        i for i, w in enumerate(window.order.state.slots_of(window.order.state.current)) if w.text == "2"
    )
    window.order.writer.edit_slot()
    field = window.order.writer.editor.field
    field.setText("")
    QTest.keyClicks(field, "level.m")
    assert window.order.writer.editor.hint.property("wrong") == "true"
    assert "The level has no variable “m”" in window.order.writer.editor.hint.text()
    field.setText("")
    QTest.keyClicks(field, "level.n * 10")
    assert window.order.writer.editor.hint.text() == "= 30 at tick 60"


def test_a_name_begun_in_a_formula_is_completed(at_work):
    from gatillo.desk.writing.formula_help import names_after

    window, _ = at_work
    index = window.bench.program.index
    assert "level.n" in names_after(index, "lev")
    assert "Seed_pod.ripe" in names_after(index, "Seed_pod.")
    assert names_after(index, "pointer.") == ["pointer.x", "pointer.y"]


def test_a_message_is_renamed_everywhere_from_where_it_stands(at_work):
    window, _ = at_work
    window.order.state.choose(row_of(window, "Rest"))
    slots = window.order.state.slots_of(window.order.state.current)
    window.order.state.current_slot = next(i for i, w in enumerate(slots) if w.text == "rest")
    window.bench.document.selection = Selection()
    window.ask_name = lambda old: f"time to {old}"
    window.editing.rename_everywhere()
    assert rule_named(window, "Rest").do[0].slots["message"] == "time to rest"


def test_a_finding_stands_at_its_line_with_its_repair(open_window, qtbot):
    window = open_window(level(rule("r", when=START, do=add("level.pod"), id=1), has={"pods": 0.0}))
    hands = Hands(qtbot, window)
    hands.rest()
    unfold(window, "r")
    line = next(r for r in window.order.state.rows if r.sort == "line" and r.part == "do")
    assert "did you mean “pods”" in line.problem


def test_what_a_rule_does_is_expected_from_now_on(at_work):
    window, hands = at_work
    hands.rest()
    window.order.state.choose(row_of(window, "Reap"))
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    hands.rest()
    (wanted,) = window.bench.trial.expectations
    assert (wanted.rule, wanted.times, window.bench.shown.verdicts[0].outcome) == ("Reap", 1, "held")
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    assert "expected already" in window.message.words.text()


def test_tab_walks_the_slots_of_every_line_of_an_unfolded_rule(at_work):
    window, hands = at_work
    unfold(window, "Sow")
    walked = []
    for _ in range(5):
        hands.key(Qt.Key.Key_Tab)
        order = window.order
        walked.append(order.state.slots_of(order.state.current)[order.state.current_slot].text)
    assert walked == ["0", "100", "1", "level.n", "sown"]
    hands.key(Qt.Key.Key_Backtab)
    assert (
        window.order.state.slots_of(window.order.state.current)[window.order.state.current_slot].text
        == "level.n"
    )


def test_ctrl_enter_takes_the_line_that_is_typed_and_begins_another_rule_below(at_work):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Sow"))
    hands.new_rule("space pressed", "send one")
    hands.new_rule("space released", "send two")
    hands.key(ENTER)
    hands.key(ENTER)
    assert order(window)[0] == ["Sow", "Space is pressed", "Space is released", "Reap"]
    assert rule_sentence(rule_named(window, "Space is pressed")) == "when Space is pressed  do send one"


def test_ctrl_enter_asks_for_an_empty_slot_before_it_begins_another_rule(at_work, qtbot):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Sow"))
    hands.new_rule("gardener touches seed pod", "remove")
    hands.key(ENTER, CTRL)
    assert window.order.writer.editor.field.text() == "Seed pod", "what the rule spoke of last is offered"
    hands.key(ENTER)
    qtbot.wait(20)
    assert window.order.writer.line.is_open
    assert window.order.writer.rule_id is None, "the open line is another rule's first"
    made = rule_named(window, "Gardener begins to touch Seed pod")
    assert rule_sentence(made) == "when Gardener begins to touch Seed pod  do remove Seed pod"


def test_a_play_begun_while_a_line_is_open_keeps_the_keyboard_in_the_level(at_work, qtbot):
    window, hands = at_work
    window.order.state.choose(row_of(window, "Sow"))
    hands.new_rule("space pressed", "send one")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_P, CTRL)
    qtbot.wait(20)
    assert window.bench.player.playing
    assert not window.order.writer.line.is_open


def test_a_line_is_dragged_within_its_rule_and_into_another(at_work):
    window, hands = at_work
    unfold(window, "Sow")
    unfold(window, "Reap")
    order_view = window.order
    view = order_view.viewport()

    def line(rule_name, part, number):
        return next(
            i
            for i, r in enumerate(order_view.state.rows)
            if r.sort == "line" and r.rule.name == rule_name and (r.part, r.line) == (part, number)
        )

    def drag_before(start, to):
        heights = (
            order_view.geometry_.row_area(start).center().y(),
            order_view.geometry_.row_area(to).top() + 3,
        )
        hands.drag(view, *(QPointF(50, y) for y in heights))

    drag_before(line("Sow", "do", 1), line("Sow", "do", 0))
    assert rule_sentence(rule_named(window, "Sow")).endswith("do send sown; add 1 to level.n")
    drag_before(line("Sow", "do", 0), line("Reap", "do", 0))
    assert rule_sentence(rule_named(window, "Reap")).endswith("do send sown; add 2 to level.n")
    assert rule_sentence(rule_named(window, "Sow")).endswith("do add 1 to level.n")
    # a condition has no place among actions
    before = window.bench.level
    drag_before(line("Sow", "if", 0), line("Reap", "do", 1))
    assert window.bench.level == before


def test_a_message_has_a_page_with_its_lines_and_is_renamed_there(at_work):
    window, hands = at_work
    window.bench.select(Selection())
    hands.put("index-search", "sown message")
    assert window.sheet.title.text() == "sown"
    assert hands.field("message-use-1-do-1").text() == "1  do send sown"
    hands.put("message-name", "all sown")
    assert rule_sentence(rule_named(window, "Sow")).endswith("send all sown")
    assert window.sheet.title.text() == "all sown"
    hands.press_button("message-use-1-do-1")
    assert window.bench.selection.rule == 1


def test_rows_are_built_at_most_once_in_a_turn_of_the_event_loop(open_window, qtbot, monkeypatch):
    window = open_window()
    settle(qtbot, window)
    built = []
    real = list_state.build_rows
    monkeypatch.setattr(list_state, "build_rows", lambda *given: (built.append(1), real(*given))[1])
    order = window.order
    order.state.choose(next(i for i, r in enumerate(order.state.rows) if r.sort == "rule"))
    built.clear()
    order.state.toggle_on(order.state.current)
    assert order.state.rows
    assert len(built) == 1
    settle(qtbot, window)
    order.writer.new_line("w")
    settle(qtbot, window)
    built.clear()
    order.writer.line.field.setText("wait 2 s")
    order.writer.line.take()
    assert order.state.rows
    assert len(built) == 1
