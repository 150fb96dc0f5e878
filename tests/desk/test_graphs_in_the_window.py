"""Graphs in the window: their rows and lanes, their page, and a rule as a graph and back."""

from __future__ import annotations

from msgspec.structs import replace
from pointing_at import click_left
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton

from building import START, c, kind, level, rule, send, things
from conftest import settle
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.edits import change_logic
from gatillo.level.model import Graph, Node, Rule


def yard():
    return level(
        rule(
            "count", when=c("each_in_every_tick", who="Moth"), do=c("add_to", amount="1", variable="level.n")
        ),
        rule("else", when=START, do=send("x"), else_=send("y")),
        kinds=(kind("Moth", 5),),
        objects=things("Moth", (10, 10)),
        has={"n": 0.0},
    )


def row(window, name):
    return next(
        i for i, r in enumerate(window.order.state.rows) if r.entry is not None and r.entry.name == name
    )


def test_a_rule_is_turned_into_a_graph_and_back_and_its_lane_stays(open_window, qtbot):
    window = open_window(yard())
    settle(qtbot, window)
    bench, before = window.bench, window.bench.level
    window.order.state.choose(row(window, "count"))
    digest = bench.run.trace.digest()
    window.actions_["to graph"].trigger()
    settle(qtbot, window)
    assert isinstance(bench.level.order[0], Graph)
    assert bench.run.trace.digest() == digest
    assert len(window.order.state.lanes.lane(0).tick) == 60
    assert window.actions_["undo"].text() == "&Undo: turn “count” into a graph"
    window.actions_["to rule"].trigger()
    settle(qtbot, window)
    assert isinstance(bench.level.order[0], Rule)
    window.actions_["undo"].trigger()
    window.actions_["undo"].trigger()
    assert bench.level == before


def test_what_cannot_be_turned_says_why(open_window):
    window = open_window(yard())
    window.order.state.choose(row(window, "else"))
    window.actions_["to rule"].trigger()
    assert "Select a graph first" in window.message.words.text()
    window.actions_["to graph"].trigger()
    window.actions_["to graph"].trigger()
    assert "Select a rule first" in window.message.words.text()
    drawn = window.bench.level.order[1]
    gate = Node(id=99, use="gate")
    bad = replace(drawn, nodes=(*drawn.nodes, gate))
    window.bench.edit(change_logic(window.bench.level, drawn.id, lambda _: bad), "add a gate")
    window.actions_["to rule"].trigger()
    assert "card 99 is one that only graphs have" in window.message.words.text()
    window.bench.select(Selection())
    window.actions_["to graph"].trigger()
    assert "Select a rule first" in window.message.words.text()


def test_a_graph_is_switched_moved_copied_and_deleted_in_its_row(open_window, qtbot):
    window = open_window(yard())
    window.order.state.choose(row(window, "count"))
    window.actions_["to graph"].trigger()
    state, bench = window.order.state, window.bench
    state.toggle_on(row(window, "count"))
    assert not bench.level.order[0].on
    window.actions_["rule down"].trigger()
    assert [e.name for e in bench.level.order] == ["else", "count"]
    window.order.setFocus()
    window.actions_["duplicate"].trigger()
    assert [e.name for e in bench.level.order] == ["else", "count", "count 1"]
    window.actions_["delete"].trigger()
    assert len(bench.level.order) == 2


def test_a_graphs_page_lists_its_cards_as_plain_text_in_firing_order(open_window, qtbot):
    window = open_window(yard())
    window.order.state.choose(row(window, "count"))
    window.actions_["to graph"].trigger()
    settle(qtbot, window)
    words = [label for label in window.sheet.findChildren(QLabel) if "each Moth" in label.text()]
    assert [label.text() for label in words] == ["1. each Moth in every tick\n\u20032. add 1 to level.n"]
    assert words[0].textFormat() == Qt.TextFormat.PlainText


def test_a_new_graph_stands_below_what_is_selected_and_does_nothing_yet(open_window, qtbot):
    window = open_window(yard())
    window.order.state.choose(row(window, "count"))
    window.actions_["new graph"].trigger()
    settle(qtbot, window)
    assert [e.name for e in window.bench.level.order] == ["count", "Graph", "else"]
    assert window.order.state.rows[window.order.state.current].entry.name == "Graph"


def test_a_message_that_a_graph_sends_is_told_on_its_page_and_the_finder_knows_graphs(open_window, qtbot):
    window = open_window(yard())
    window.order.state.choose(row(window, "else"))
    window.actions_["to graph"].trigger()
    drawn = window.bench.level.order[1]
    window.bench.select(Selection(thing=Thing("message", "x")))
    settle(qtbot, window)
    sends = next(node.id for node in drawn.nodes if node.slots.get("message") == "x")
    button = window.sheet.findChild(QPushButton, f"message-use-{drawn.id}-card-{sends}")
    assert button.text() == f"2  card {sends} send x"
    button.click()
    assert window.bench.selection.rule == drawn.id


def test_a_graphs_row_unfolds_into_a_lane_for_each_card_and_steps_go_card_by_card(open_window, qtbot):
    window = open_window(yard())
    settle(qtbot, window)
    bench, state = window.bench, window.order.state
    state.choose(row(window, "count"))
    window.actions_["to graph"].trigger()
    settle(qtbot, window)
    state.toggle_fold(row(window, "count"))
    cards = [r for r in state.rows if r.sort == "card"]
    assert [r.card for r in cards] == [1, 2]
    assert "".join(w.text for w in cards[1].words).endswith("add 1 to level.n")
    assert state.lanes.card(0, 2).tick.tolist() == list(range(1, 61))
    window.order.viewport().repaint()
    window.actions_["start"].trigger()
    seen = []
    for _ in range(3):
        window.actions_["step"].trigger()
        seen.append((bench.cursor.tick, bench.cursor.step, float(bench.world.level["n"])))
    assert seen[0][2] == 0.0
    assert [s[:2] for s in seen] == [(1, 1), (1, 2), (1, 3)], "the third is a line of the rule below"
    assert [s[2] for s in seen] == [0.0, 1.0, 1.0]
    window.actions_["back step"].trigger()
    assert (bench.cursor.tick, bench.cursor.step) == (1, 2)
    assert "count: card 2" in window.run_bar.place.text()
    # a mark of a card's lane brings the cursor behind that card
    at = next(i for i, r in enumerate(state.rows) if r.card == 2)
    scale = window.order.geometry_.scale
    window.order.zoom_to(10.0)
    click_left(window, at, scale.middle(30))
    assert (bench.cursor.tick, bench.cursor.step) == (30, 2)
    state.toggle_fold(row(window, "count"))
    assert not any(r.sort == "card" for r in state.rows)
