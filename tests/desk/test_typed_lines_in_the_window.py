"""Typed lines in the window: a whole rule in one line, names that do not exist, words that are not read."""

from __future__ import annotations

import re

import pytest
from hands import ENTER, SHIFT, Hands
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from building import START, c, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.writing.pointing import mime_of
from gatillo.desk.writing.typed_line import ANSWER, READING
from gatillo.language.sentence import rule_sentence
from gatillo.level.model import Area, Graph, Rectangle, Spot
from gatillo.level.roles import all_rules


def yard():
    return level(
        rule("Begin", when=START, do=c("set_variable", variable="level.pods", value="0"), id=1),
        kinds=(kind("Gardener", 8), kind("Pod", 5), kind("Lamp", 5, has={"lit": False})),
        objects=(
            *things("Gardener", (50, 50)),
            *things("Pod", (90, 50), first=5),
            *things("Lamp", (0, 0), first=9),
        ),
        places=(
            Area(name="yard", x=0, y=0, shape=Rectangle(width=90, height=90)),
            Spot(name="gate", x=1, y=2),
        ),
        has={"pods": 0.0, "pace": 3.0},
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    window.activateWindow()
    window.order.setFocus()
    hands = Hands(qtbot, window)
    hands.key(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    return window, hands


def offered(window) -> list[str]:
    model = window.order.writer.line.model
    return [model.item(row).text() for row in range(model.rowCount())]


def answers(window) -> list[str]:
    model = window.order.writer.line.model
    found = [model.item(row).data(ANSWER) for row in range(model.rowCount())]
    return [answer.label for answer in found if answer is not None]


def last_rule(window) -> str:
    return rule_sentence([r for _, _, r in all_rules(window.bench.level)][-1])


def test_a_whole_rule_is_written_with_one_line_and_one_enter(at_work):
    window, hands = at_work
    hands.type("when gardener hits pod if pods < 3 destroy pod and add 1 to pods else say full at gardener")
    reading = window.order.writer.line.model.item(0).data(READING)
    assert [line.part for line in reading.lines] == ["when", "if", "do", "do", "else"]
    hands.key(ENTER)
    assert last_rule(window) == (
        "when Gardener begins to touch Pod  if level.pods < 3  do remove Pod; add 1 to level.pods"
        "  else say “full” at Gardener for 2 s"
    )
    window.bench.document.undo()
    assert len(list(all_rules(window.bench.level))) == 1


def test_conditions_joined_by_or_are_written_as_a_group(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.enter("if gardener touches pod or pods > 3")
    (rule,) = [r for _, _, r in all_rules(window.bench.level)][-1:]
    assert [(c.use, [inner.use for inner in c.of]) for c in rule.if_] == [
        ("any_of", ["is_touching", "compare"])
    ]
    assert not window.bench.program.problems


def test_several_actions_are_written_with_one_line(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.enter("remove pod; add 1 to pods and show lamp")
    assert last_rule(window).endswith("do remove Pod; add 1 to level.pods; show Lamp")


def test_enter_on_a_near_name_asks_which_is_meant(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("turn lamp by level.pacee * dt")
    assert "“pacee” does not exist. Enter asks what is meant." in offered(window)[0]
    hands.key(ENTER)
    assert answers(window) == [
        "Did you mean level.pace?",
        "Make the level variable “pacee”",
        "Keep “pacee” as typed",
    ]
    hands.key(ENTER)
    assert last_rule(window).endswith("do turn Lamp by level.pace * dt°")


def test_a_variable_that_is_missing_is_made_with_its_line(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("turn lamp by pacee")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_Down)
    hands.key(ENTER)
    assert "pacee" in [v.name for v in window.bench.level.variables]
    assert last_rule(window).endswith("do turn Lamp by level.pacee°")
    window.bench.document.undo()
    assert "pacee" not in [v.name for v in window.bench.level.variables]


def test_a_name_can_be_kept_as_it_was_typed(at_work):
    window, hands = at_work
    hands.type("lmap touches pod")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_Up, times=1)
    hands.key(Qt.Key.Key_PageDown)
    hands.key(ENTER)
    assert last_rule(window) == "when lmap begins to touch Pod"
    assert window.bench.program.problems


def test_what_a_line_makes_is_said_in_its_row_and_made_at_once_where_nothing_is_near(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("create 1 wasp at cellar")
    assert "Makes the kind “wasp” and the spot “cellar”." in offered(window)[0]
    hands.key(ENTER)
    assert "wasp" in [k.name for k in window.bench.level.kinds]
    assert "cellar" in [p.name for p in window.bench.level.places]
    assert last_rule(window).endswith("do create 1 wasp at cellar")


def test_enter_does_not_take_a_reading_with_words_that_are_not_read(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("turn lamp slowly by 90")
    assert "Not read: slowly." in offered(window)[0]
    hands.key(ENTER)
    assert answers(window) == ["Take it without “slowly”"]
    assert "do" not in last_rule(window)
    # Escape goes back to the line as it was typed
    hands.key(Qt.Key.Key_Escape)
    assert window.order.writer.line.field.text() == "turn lamp slowly by 90"
    assert not answers(window) and offered(window)
    hands.key(ENTER)
    hands.key(ENTER)
    assert last_rule(window).endswith("do turn Lamp by 90°")


def test_a_begun_name_is_said_to_be_read_as_the_whole_one(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("remove gard")
    assert "“gard” is read as Gardener." in offered(window)[0]
    hands.key(ENTER)
    assert last_rule(window).endswith("do remove Gardener")


def test_a_slot_asks_about_a_name_that_does_not_exist(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.enter("turn lamp by 90")
    hands.key(Qt.Key.Key_Escape)
    state = window.order.state
    row = next(
        n for n, r in enumerate(state.rows) if r.sort == "line" and r.part == "do" and r.rule.name != "Begin"
    )
    state.stand_at(row, 1)
    window.order.writer.edit_slot()
    editor = window.order.writer.editor
    editor.field.selectAll()
    hands.type("pacee * dt")
    hands.key(ENTER)
    assert [editor.answers.item(n).text() for n in range(editor.answers.count())] == [
        "Did you mean level.pace?",
        "Make the level variable “pacee”",
        "Keep “pacee” as typed",
    ]
    hands.key(Qt.Key.Key_Down)
    hands.key(ENTER)
    assert "pacee" in [v.name for v in window.bench.level.variables]
    assert last_rule(window).endswith("do turn Lamp by level.pacee * dt°")


# pointing instead of typing


def level_point(window, x: float, y: float) -> QPoint:
    return window.level_view.to_pixels(x, y).toPoint()


def test_a_click_on_an_object_writes_its_name_into_the_open_line(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("remove ")
    hands.click(window.level_view, level_point(window, 90, 50))
    line = window.order.writer.line
    assert line.field.text() == "remove Pod 1" and line.field.hasFocus()
    hands.key(ENTER)
    assert last_rule(window).endswith("do remove Pod 1")


def test_with_shift_a_click_on_an_object_writes_its_kind(at_work):
    window, hands = at_work
    hands.type("gardener touches")
    hands.click(window.level_view, level_point(window, 90, 50), SHIFT)
    assert window.order.writer.line.field.text() == "gardener touches Pod"


def test_a_click_on_a_place_or_a_kind_of_the_shelf_writes_its_name(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("create 1")
    hands.click(next(b for b in window.shelf.buttons if b.kind.name == "Lamp"))
    hands.type(" at")
    hands.click(window.level_view, level_point(window, 1, 2))
    assert window.order.writer.line.field.text() in ("create 1 Lamp at gate", "create 1 Lamp at Lamp 1")


def test_a_click_on_a_rules_row_writes_the_rules_name(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("switch off rule")
    order = window.order
    row = next(n for n, r in enumerate(order.state.rows) if r.sort == "rule" and r.rule.name == "Begin")
    area = order.geometry_.text_area(row)
    hands.click(order.viewport(), QPoint(int(area.right()) - 4, int(area.center().y())))
    assert order.writer.line.field.text() == "switch off rule Begin"
    hands.key(ENTER)
    assert last_rule(window).endswith("do switch rule Begin off")


def test_a_click_beside_everything_leaves_the_line_as_it_is(at_work):
    window, hands = at_work
    hands.type("gardener touches ")
    hands.click(window.level_view, QPoint(4, 4))
    assert (
        window.order.writer.line.field is None or window.order.writer.line.field.text() == "gardener touches "
    )


def test_a_click_on_empty_ground_writes_the_point_where_one_is_asked_for(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.type("create 1 pod at")
    hands.click(window.level_view, level_point(window, 300, 250))
    text = window.order.writer.line.field.text()
    x, y = map(int, re.fullmatch(r"create 1 pod at \((-?\d+), (-?\d+)\)", text).groups())
    assert abs(x - 300) < 3 and abs(y - 250) < 3
    hands.key(ENTER)
    assert last_rule(window).endswith(f"do create 1 Pod at ({x}, {y})")


def test_a_click_on_empty_ground_fills_a_slot_for_a_place_and_no_other(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.enter("create 1 pod at gate")
    hands.key(Qt.Key.Key_Escape)
    state, writer = window.order.state, window.order.writer
    row = next(
        n for n, r in enumerate(state.rows) if r.sort == "line" and r.part == "do" and r.rule.name != "Begin"
    )
    words = state.slots_of(row)
    state.stand_at(row, next(n for n, w in enumerate(words) if w.slot == "where"))
    writer.edit_slot()
    hands.click(window.level_view, level_point(window, 300, 250))
    assert writer.editor.field.text().startswith("(")
    hands.key(ENTER)
    assert last_rule(window).endswith(")")
    state.stand_at(row, next(n for n, w in enumerate(words) if w.slot == "kind"))
    writer.edit_slot()
    hands.click(window.level_view, level_point(window, 300, 250))
    assert last_rule(window).split(" do ")[1].startswith("create 1 Pod")


def test_pointing_fills_the_slot_that_is_edited(at_work):
    window, hands = at_work
    hands.enter("gardener touches pod")
    hands.key(Qt.Key.Key_Escape)
    state, writer = window.order.state, window.order.writer
    row = next(
        n
        for n, r in enumerate(state.rows)
        if r.sort == "line" and r.part == "when" and r.rule.name != "Begin"
    )
    state.stand_at(row, 1)
    writer.edit_slot()
    hands.click(next(b for b in window.shelf.buttons if b.kind.name == "Lamp"))
    assert writer.editor.field.text() == "Lamp"
    hands.key(ENTER)
    assert last_rule(window) == "when Gardener begins to touch Lamp"


def dropped(view, point: QPointF, name: str) -> None:
    data = mime_of(name)
    actions, buttons, keys = (
        Qt.DropAction.CopyAction,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    entered = QDragEnterEvent(point.toPoint(), actions, data, buttons, keys)
    view.dragEnterEvent(entered)
    assert entered.isAccepted()
    view.dropEvent(QDropEvent(point, actions, data, buttons, keys))


def test_a_place_that_is_dropped_on_a_slot_fills_it(at_work):
    window, hands = at_work
    hands.enter("every 2 s")
    hands.enter("create 1 pod at gate")
    hands.key(Qt.Key.Key_Escape)
    order = window.order
    row = next(
        n
        for n, r in enumerate(order.state.rows)
        if r.sort == "line" and r.part == "do" and r.rule.name != "Begin"
    )
    word = next(w for w in order.state.slots_of(row) if w.slot == "where")
    dropped(order, order.geometry_.word_area(row, word).center(), "yard")
    assert last_rule(window).endswith("do create 1 Pod at yard")


def test_a_name_that_is_dropped_on_an_empty_line_begins_a_line_about_it(at_work):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    order = window.order
    row = next(n for n, r in enumerate(order.state.rows) if r.sort == "new")
    dropped(order, order.geometry_.text_area(row).center(), "Lamp")
    assert order.writer.line.field.text() == "Lamp "
    assert all("Lamp" in text for text in offered(window)) and offered(window)


def test_an_empty_line_lists_the_likeliest_first(at_work):
    window, hands = at_work
    hands.enter("gardener touches pod")
    line = window.order.writer.line
    line.offer_all()
    first = [line.model.item(row).data(READING) for row in range(8)]
    assert "remove" in [reading.clause.use for reading in first]
    assert next(r for r in first if r.clause.use == "remove").clause.slots == {"who": "Pod"}


@pytest.mark.parametrize(("words", "made"), [("+ graph", "graph"), ("+ section", "section")])
def test_a_graph_and_a_section_are_added_at_the_end_of_the_list(at_work, words, made):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    order = window.order
    row = next(n for n, r in enumerate(order.state.rows) if r.sort == "new")
    assert [w.text for w in order.state.rows[row].words][:3] == ["+ rule", "+ graph", "+ section"]
    word = next(w for w in order.state.rows[row].words if w.text == words)
    hands.click(order.viewport(), order.geometry_.word_area(row, word).center().toPoint())
    assert type(window.bench.level.order[-1]).__name__.lower() == made


# the behaviours of a kind


def test_behaviours_are_listed_by_subject_and_found_by_further_words(at_work):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    window.bench.select(Selection(thing=Thing("kind", "Lamp")))
    hands.press_button("kind-add-behaviour")
    found = hands.field("kind-behaviour-list")
    texts = [found.item(n).text() for n in range(found.count())]
    assert {"Routes", "go to goal", "flock"} <= set(texts)
    hands.type("patrol")
    texts = [found.item(n).text() for n in range(found.count())]
    assert "walk route" in texts and "flock" not in texts
    hands.key(ENTER)
    (lamp,) = (k for k in window.bench.level.kinds if k.name == "Lamp")
    assert [b.use for b in lamp.behaviours] in (["walk_route"], ["wander"])


def test_an_object_that_is_dragged_out_of_the_level_stays_where_it_is(at_work, monkeypatch):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    dragged = []
    monkeypatch.setattr(
        "gatillo.desk.level_view.view.drag_name", lambda view, name, *more: dragged.append(name)
    )
    before = window.bench.level
    start = level_point(window, 90, 50)
    QTest.mousePress(window.level_view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for point in (start + QPoint(8, 0), QPoint(start.x(), window.level_view.height() + 40)):
        moved = QMouseEvent(
            QEvent.Type.MouseMove,
            QPointF(point),
            QPointF(window.level_view.mapToGlobal(point)),
            Qt.MouseButton.NoButton,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(window.level_view, moved)
    assert dragged == ["Pod 1"]
    assert window.bench.level is before


def test_a_name_that_is_dropped_on_a_graphs_ground_lists_the_cards_that_speak_of_it(at_work):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    window.bench.select(Selection())
    window.actions_["new graph"].trigger()
    view = window.graph_page.view
    dropped(view, QPointF(80, 60), "Lamp")
    line = view.writer.line
    assert line.field.text() == "Lamp " and line.model.rowCount() > 3
    assert all("Lamp" in line.model.item(n).text() for n in range(line.model.rowCount()))


def test_a_whole_rule_is_typed_into_a_graph_as_cards_one_below_the_other(at_work):
    window, hands = at_work
    hands.key(Qt.Key.Key_Escape)
    window.bench.select(Selection())
    window.actions_["new graph"].trigger()
    hands.enter("when gardener hits pod if pods < 3 destroy pod and add 1 to pods else say full at gardener")
    (graph,) = (e for e in window.bench.level.order if isinstance(e, Graph))
    assert [n.use for n in graph.nodes] == ["begins_to_touch", "compare", "remove", "add_to", "say"]
    assert [(w.start, w.end) for w in graph.wires] == [("1", "2"), ("2.yes", "3"), ("3", "4"), ("2.no", "5")]
    window.bench.document.undo()
    (graph,) = (e for e in window.bench.level.order if isinstance(e, Graph))
    assert graph.nodes == ()


def test_a_reading_that_has_little_to_do_with_the_line_is_asked_about(at_work):
    window, hands = at_work
    before = window.bench.level
    hands.type("just the first 3 pods")
    model = window.order.writer.line.model
    readings = [model.item(row).data(READING) for row in range(model.rowCount())]
    # one that leaves a word out comes before it
    assert readings[0].unread == ("pods",)
    rough = next(at for at, reading in enumerate(readings) if reading.is_rough)
    for _ in range(rough):
        hands.key(Qt.Key.Key_Down)
    hands.key(ENTER)
    assert window.bench.level == before
    assert answers(window) == ["Take it all the same"]
    hands.key(ENTER)
    assert window.bench.level != before


def test_how_often_a_rule_fires_is_written_with_its_line(at_work):
    window, hands = at_work
    hands.type("when gardener hits pod add 1 to pods, at most once every 2 s")
    assert "Fires, then rests 2 s." in offered(window)[0]
    hands.key(ENTER)
    written = [r for _, _, r in all_rules(window.bench.level)][-1]
    assert (written.cooldown, written.fires) == (2.0, "each tick")


def test_a_rule_that_begins_with_when_and_has_only_a_condition_fires_on_becoming_true(at_work):
    window, hands = at_work
    hands.type("when gardener is within 30 of lamp add 1 to pods")
    hands.key(ENTER)
    written = [r for _, _, r in all_rules(window.bench.level)][-1]
    assert written.fires == "on becoming true"
    assert [clause.use for clause in written.if_] == ["within"]
    hands.key(Qt.Key.Key_Escape)
    hands.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert "on becoming true" not in last_rule(window)


def test_the_text_of_a_long_line_is_there_before_what_it_means_and_enter_takes_all_of_it(
    at_work, monkeypatch
):
    window, hands = at_work
    line = window.order.writer.line
    monkeypatch.setattr("gatillo.desk.writing.typed_line.AT_ONCE", 0.0)
    hands.type("when gardener hits pod remove pod and send bang")
    shown = line.list.model().rowCount()
    QTest.keyClicks(line.field, " and hide lamp")
    assert line.field.text().endswith(" and hide lamp")
    assert shown and len(line.list.model().item(0).data(READING).lines) == 3
    QApplication.processEvents()
    assert len(line.list.model().item(0).data(READING).lines) == 4
    QTest.keyClicks(line.field, " and show lamp")
    hands.key(ENTER)
    assert last_rule(window).endswith("remove Pod; send bang; hide Lamp; show Lamp")


def test_how_often_a_rule_fires_is_typed_as_a_line_of_its_own(at_work):
    window, hands = at_work
    hands.type("when gardener hits pod add 1 to pods")
    hands.key(ENTER)
    hands.type("at most once every 2 s per pod")
    assert offered(window) == ["Fires, then rests 2 s for each object."]
    hands.key(ENTER)
    written = [r for _, _, r in all_rules(window.bench.level)][-1]
    assert (written.cooldown, written.cooldown_per) == (2.0, "object")
    assert len(written.do) == 1
    assert "Fires, then rests 2 s for each object." in window.message.words.text()
    hands.type("send bang")
    hands.key(ENTER)
    assert last_rule(window).startswith(
        "when Gardener begins to touch Pod  do add 1 to level.pods; send bang"
    )


def test_how_often_a_rule_fires_can_be_clicked_in_the_list(at_work):
    window, hands = at_work
    hands.type("when gardener hits pod add 1 to pods")
    hands.key(ENTER)
    hands.type("only once")
    line = window.order.writer.line
    line.list.clicked.emit(line.list.model().index(0, 0))
    written = [r for _, _, r in all_rules(window.bench.level)][-1]
    assert written.fires == "first time only"
