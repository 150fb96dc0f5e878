"""A graph of many cards is laid out beside the window, a little at a time, and comes out as if laid out at once."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF

from building import level
from drawing import card, graph
from gatillo.desk.graph_view import open_graph
from gatillo.desk.graph_view.card_layout import SheetLayout
from gatillo.desk.session.selection import Selection
from gatillo.level import graph_edits

MANY = 60


@pytest.fixture
def window(open_window, monkeypatch):
    """A window in which a graph of fewer cards is large already, and a slice lays out very few."""
    monkeypatch.setattr(open_graph, "MANY_CARDS", MANY - 1)
    monkeypatch.setattr(open_graph, "A_SLICE", 0.0001)
    cards = [
        replace(card(n, "note", text=f"card {n}"), at=(n % 8 * 230.0, n // 8 * 90.0))
        for n in range(2, MANY + 1)
    ]
    wires = " ".join(f"{n}>{n + 1}" for n in range(1, MANY))
    return open_window(level(graph("g", card(1, "every_tick"), *cards, wires=wires, id=50), has={"n": 0.0}))


@pytest.fixture
def opened(window):
    window.bench.select(Selection(rule=50))
    window.region.open_graph(50)
    return window.graph_page.view.commands.opened


def laid_out(qtbot, opened):
    qtbot.waitUntil(lambda: opened._laying is None and opened.sheet() is not None)
    return opened.sheet()


def as_numbers(sheet):
    """Where everything of a sheet is."""
    cards = {
        n: (c.area.getRect(), [(w.run.word.text, w.x, w.y) for w in c.words]) for n, c in sheet.cards.items()
    }
    wires = [
        (w.number, w.value, w.output, w.entered, w.place, [(p.x(), p.y()) for p in w.way])
        for w in sheet.wires
    ]
    return cards, wires


def anew(window, opened):
    return SheetLayout().sheet(opened.graph, opened.graphs, window.bench.program.index)


def change(window, number, **fields):
    nodes = (
        replace(n, **fields) if n.id == number else n
        for n in graph_edits.graph_of(window.bench.level, 50).nodes
    )
    order = tuple(replace(e, nodes=tuple(nodes)) if e.id == 50 else e for e in window.bench.level.order)
    window.bench.edit(replace(window.bench.level, order=order), "change")


def test_the_window_goes_on_while_a_large_graph_is_laid_out(window, opened, qtbot):
    assert opened.sheet() is None
    assert as_numbers(laid_out(qtbot, opened)) == as_numbers(anew(window, opened))
    view = window.graph_page.view
    assert view.zoom >= 0.8
    assert view.sheet.area.contains(view.to_sheet(QPointF(view.width() / 2, 60)))


def test_after_an_edit_it_looks_as_before_until_it_is_laid_out_again(window, opened, qtbot):
    before = laid_out(qtbot, opened)
    change(window, 5, slots={"text": "a much longer text than it was before the edit"})
    assert opened.sheet() is before
    after = laid_out(qtbot, opened)
    assert after is not before
    assert as_numbers(after) == as_numbers(anew(window, opened))


def test_a_card_that_was_moved_is_not_seen_where_it_was(window, opened, qtbot):
    laid_out(qtbot, opened)
    change(window, 7, at=(4_000.0, 50.0))
    assert opened.sheet().cards[7].area.left() == 4_000.0
    assert as_numbers(laid_out(qtbot, opened)) == as_numbers(anew(window, opened))


def test_where_the_sheet_is_needed_at_once_it_is_waited_for(window, opened):
    assert opened.sheet() is None
    assert len(opened.sheet(at_once=True).cards) == MANY
    assert opened.sheet() is not None


def test_a_graph_that_is_laid_out_at_once_while_it_opens_is_shown_from_its_top(window, opened, qtbot):
    view = window.graph_page.view
    before = QPointF(view.corner)
    opened.sheet(at_once=True)
    qtbot.waitUntil(lambda: view.corner != before)
    assert view.sheet.area.contains(view.to_sheet(QPointF(view.width() / 2, 60)))


def test_another_edit_while_it_is_laid_out_is_not_lost(window, opened, qtbot):
    for n in range(2, 6):
        change(window, n, slots={"text": f"text {n} of another length"})
        opened.sheet()
    assert as_numbers(laid_out(qtbot, opened)) == as_numbers(anew(window, opened))
