"""What the trials reach, asked in the window: a page with everything that they do not, and marks in the order list."""

from __future__ import annotations

import pytest
from hands import Hands
from msgspec.structs import replace
from PySide6.QtCore import QPointF

from building import START, add, c, heard, level, rule
from gatillo.desk.order_list.list_state import reached_of
from gatillo.desk.session.selection import Selection
from gatillo.level.model import Graph, Node, Trial, Wire


@pytest.fixture
def at_work(open_window, qtbot):
    built = level(
        rule("comes", when=START, if_=c("formula_holds", formula="level.n = 0"), do=add("level.n"), id=1),
        rule("never comes", when=heard("nothing"), do=add("level.n"), id=2),
        has={"n": 0.0},
    )
    window = open_window(built)
    return window, Hands(qtbot, window)


def asked(window, hands):
    hands.rest()
    window.actions_["ask coverage"].trigger()
    answers = window.bench.answers
    hands.qtbot.waitUntil(lambda: answers.page is not None and not answers.page.busy)
    return answers.page


def row_of(window, name):
    rows = window.order.state.rows
    return next(at for at, row in enumerate(rows) if row.sort == "rule" and row.rule.name == name)


def test_the_page_lists_what_is_not_reached_and_leads_to_its_rule(at_work):
    window, hands = at_work
    page = asked(window, hands)
    assert page.notes[0] == "4 of 8 reached by 1 trial, 50%."
    assert [r.sentence for r in page.roots] == [
        "“comes”, if 1: it always holds: level.n = 0",
        "“never comes”: never looked at",
    ]
    window.bench.answers.go((1,))
    assert window.order.state.current == row_of(window, "never comes")
    # the page stays
    assert window.bench.answers.page is page


def test_rows_are_marked_until_the_level_is_edited(at_work):
    window, hands = at_work
    plain = window.order.viewport().grab().toImage()
    asked(window, hands)
    state = window.order.state
    never = state.rows[row_of(window, "never comes")]
    assert reached_of(state, never) == "never looked at"
    assert reached_of(state, state.rows[row_of(window, "comes")]) == "not all of it: 1 of its lines or cards"
    assert window.order.viewport().grab().toImage() != plain
    area = window.order.geometry_.row_area(row_of(window, "comes"))
    words = window.order.pointer.words_at(QPointF(area.left() + 120, area.center().y()))
    assert words == "In all trials: not all of it: 1 of its lines or cards."
    window.bench.edit(replace(window.bench.level, note="other"), "a note")
    assert reached_of(state, never) == ""


def test_another_trial_counts_too(at_work):
    window, hands = at_work
    lv = window.bench.level
    window.bench.edit(
        replace(lv, trials=(*lv.trials, Trial(name="more", length=1.0, values={"n": 5.0}))), "a trial"
    )
    page = asked(window, hands)
    assert page.notes[0] == "5 of 8 reached by 2 trials, 62%."


def test_lines_of_an_unfolded_rule_are_marked(at_work):
    window, hands = at_work
    asked(window, hands)
    window.bench.select(Selection())
    state = window.order.state
    state.toggle_fold(row_of(window, "comes"))
    line = next(row for row in state.rows if row.sort == "line" and row.part == "if")
    assert reached_of(state, line) == "it always holds"
    # its own row says it no more
    assert reached_of(state, state.rows[row_of(window, "comes")]) == ""


def test_cards_of_a_graph_are_marked_until_the_level_is_edited(open_window, qtbot):
    drawn = Graph(
        id=9,
        name="Split",
        nodes=(
            Node(id=1, use="every_tick", at=(0, 0)),
            Node(id=2, use="formula_holds", slots={"formula": "level.n < 5"}, at=(0, 120)),
            Node(id=3, use="add_to", slots={"amount": "0", "variable": "level.n"}, at=(-120, 240)),
            Node(id=4, use="add_to", slots={"amount": "1", "variable": "level.n"}, at=(120, 240)),
        ),
        wires=(Wire(start="1", end="2"), Wire(start="2.yes", end="3"), Wire(start="2.no", end="4")),
    )
    window = open_window(level(drawn, has={"n": 0.0}))
    window.region.open_graph(9)
    view = window.graph_page.view
    qtbot.waitUntil(lambda: view.commands.opened.sheet() is not None)
    view.fit()
    plain = view.grab().toImage()
    hands = Hands(qtbot, window)
    asked(window, hands)
    answers = window.bench.answers
    assert answers.cards_missed(9) == {2: "not all of it: no never passed", 4: "never looked at"}
    assert view.grab().toImage() != plain
    area = view.commands.opened.sheet().cards[4].area
    words = view.hint_at((area.center() - view.corner) * view.zoom)
    assert "In all trials: never looked at." in words
    window.bench.edit(replace(window.bench.level, note="other"), "a note")
    assert answers.cards_missed(9) == {}
