"""Typed lines in the window: a whole rule in one line, names that do not exist, words that are not read."""

from __future__ import annotations

import pytest
from hands import ENTER, Hands
from PySide6.QtCore import Qt

from building import START, c, kind, level, rule, things
from gatillo.desk.writing.typed_line import ANSWER, READING
from gatillo.language.sentence import rule_sentence
from gatillo.level.model import Area, Rectangle, Spot
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
