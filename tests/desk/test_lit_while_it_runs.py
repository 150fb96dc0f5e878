"""While a run goes on, rows, cards and wires that ran light up and fade; level, list and graph are in sight together."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication

from building import c, kind, level, rule, things
from conftest import settle
from gatillo.desk.looks.motion import CHOSEN, reduces_motion
from gatillo.desk.session.glow import Glow
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.level.model import Graph, Node, Wire

GRAPH = Graph(
    id=900,
    name="pulse",
    nodes=(
        Node(id=1, use="every_seconds", slots={"period": "1", "first": "0.1"}, at=(0.0, 0.0)),
        Node(id=2, use="add_to", slots={"amount": "1", "variable": "level.n"}, at=(0.0, 100.0)),
        Node(id=3, use="formula", slots={"value": "2 + 3"}, at=(-200.0, 100.0)),
    ),
    wires=(Wire(start="1", end="2"),),
    values=(Wire(start="3", end="2.amount"),),
)


def pulsing():
    return level(
        rule("Once", when=c("after_start", time="0.5"), do=c("add_to", amount="1", variable="level.m"), id=1),
        GRAPH,
        kinds=(kind("Moth", 5),),
        objects=things("Moth", (10, 10)),
        has={"n": 0.0, "m": 0.0},
        seconds=4,
    )


@pytest.fixture
def running(open_window, qtbot, monkeypatch):
    """A window in which a run goes on by hand: `go_on(ticks)`."""
    monkeypatch.setenv(CHOSEN, "0")
    window = open_window(pulsing())
    settle(qtbot, window)
    window.region.open_graph(900)
    window.actions_["run"].trigger()
    window.bench.player._clock.stop()
    return window


def test_a_graph_stands_beside_the_level_below_it_or_in_its_place_and_that_is_remembered(
    qtbot, tmp_path, open_window
):
    window = open_window(pulsing())
    window.region.open_graph(900)
    view, level_view = window.graph_page.view, window.level_view
    assert view.isVisible() and level_view.isVisible()
    assert (
        view.mapTo(window, view.rect().topLeft()).x()
        > level_view.mapTo(window, level_view.rect().topLeft()).x()
    )
    window.actions_["graph below"].trigger()
    QApplication.processEvents()
    assert view.isVisible() and level_view.isVisible()
    assert (
        view.mapTo(window, view.rect().topLeft()).y()
        > level_view.mapTo(window, level_view.rect().topLeft()).y()
    )
    window.actions_["graph instead"].trigger()
    assert view.isVisible() and not level_view.isVisible()
    window.actions_["graph below"].trigger()
    settings = QSettings(str(tmp_path / "kept.ini"), QSettings.Format.IniFormat)
    window.settings = settings
    window.close()
    again = MainWindow(Workbench(pulsing()), settings)
    qtbot.addWidget(again)
    assert again.region.way == "below" and again.actions_["graph below"].isChecked()
    again.close()


def test_playing_keeps_the_graph_open(open_window):
    window = open_window(pulsing())
    window.region.open_graph(900)
    window.actions_["play keys"].trigger()
    assert window.region.shows_graph and window.region.shows_level
    window.bench.player.stop()
    window.actions_["graph instead"].trigger()
    window.actions_["play keys"].trigger()
    assert window.region.shows_level, "the level is played in"
    window.bench.player.stop()


def test_what_ran_a_moment_ago_is_still_lit_and_fades(running):
    view, bench = running.graph_page.view, running.bench
    bench.player.go_on(6)
    assert view.ran.light(1) == view.ran.light(2) == 1.0 and view.ran.wire_light(0) == 1.0
    bench.player.go_on(15)
    assert 0.4 < view.ran.light(2) < 0.6
    assert view.ran.cards[2][0] == 2, "its place in the order is told with it"
    bench.player.go_on(20)
    assert view.ran.light(2) == 0.0 and view.ran.known


def test_a_value_stands_on_its_wire_while_it_is_lit(running):
    view, bench = running.graph_page.view, running.bench
    bench.player.go_on(6)
    assert view.ran.values == {3: "5"}
    view.repaint()
    bench.player.go_on(12)
    assert view.ran.values == {3: "5"}
    bench.player.go_on(25)
    assert view.ran.values == {}


def test_values_are_shown_while_it_is_played_too(open_window, qtbot, monkeypatch):
    monkeypatch.setenv(CHOSEN, "0")
    window = open_window(pulsing())
    window.region.open_graph(900)
    window.actions_["play keys"].trigger()
    window.bench.player._clock.stop()
    window.bench.player.go_on(6)
    assert window.graph_page.view.ran.values == {3: "5"}
    played = window.bench.run.trace.to_bytes()
    window.bench.player.stop()
    settle(qtbot, window)
    assert window.bench.run.trace.up_to(6).to_bytes() == played


def test_a_rules_row_flares_when_it_fires_and_counts(running, qtbot):
    order, bench = running.order, running.bench
    bench.player.go_on(29)
    quiet = order.viewport().grab().toImage()
    bench.player.go_on(1)
    lit = order.viewport().grab().toImage()
    at = next(i for i, row in enumerate(order.state.rows) if row.rule is not None)
    area = order.geometry_.row_area(at)
    x, y = int(area.left()) + 40, int(area.top()) + 3
    assert lit.pixelColor(x, y) != quiet.pixelColor(x, y)
    bench.player.go_on(40)
    assert order.viewport().grab().toImage().pixelColor(x, y) == quiet.pixelColor(x, y)


def test_with_less_motion_marks_stay_without_fading(running, monkeypatch):
    bench = running.bench
    bench.player.go_on(10)
    glow = Glow(bench)
    assert 0 < glow.of(5) < 1
    monkeypatch.setenv(CHOSEN, "1")
    assert reduces_motion()
    steady = Glow(bench)
    assert steady.of(5) == 1.0 and steady.of(10) == 1.0
    assert steady.of(bench.cursor.tick + 1) == 0.0


def test_nothing_is_lit_any_more_once_it_pauses(running):
    running.bench.player.go_on(20)
    running.actions_["run"].trigger()
    assert not running.bench.player.running
    assert running.graph_page.view.ran.cards == {}
