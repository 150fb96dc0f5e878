"""The order list, the level and graphs as a screen reader reads them: by a real client on the bus, and what each item says."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from hands import Hands
from PySide6.QtGui import QAccessible

from building import START, add, c, kind, level, rule, send, things
from gatillo.desk.looks.read_aloud import MOST_ITEMS
from gatillo.desk.order_list.rows_aloud import moment_aloud
from gatillo.desk.session.selection import Selection
from gatillo.files.level_file import write_level
from gatillo.graphs.conversion import as_graph
from gatillo.level import edits

LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")
CLIENT = Path(__file__).with_name("read_by_a_client.py")
NAME, DETAIL = QAccessible.Text.Name, QAccessible.Text.Description


def has_client() -> bool:
    there = all(map(shutil.which, ("Xvfb", "dbus-run-session"))) and LAUNCHER.exists()
    return (
        there
        and subprocess.run(["/usr/bin/python3", "-c", "import pyatspi"], capture_output=True).returncode == 0
    )


def yard():
    return level(
        rule("Begin", when=START, do=send("boom"), id=1),
        rule(
            "Walk", when=c("each_in_every_tick", who="Pod"), do=c("move_by", who="Pod", dx="120 * dt"), id=2
        ),
        as_graph(rule("Count", when=c("message_heard", message="boom"), do=add("level.n"), id=3)),
        kinds=(kind("Pod"),),
        objects=things("Pod", (10, 20), (30, 40)),
        has={"n": 0.0},
        seconds=0.2,
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    hands = Hands(qtbot, window)
    hands.rest()
    return window, hands


def read(view):
    """Return the items of a view as Qt gives them to a bridge."""
    top = QAccessible.queryAccessibleInterface(view)
    return [top.child(at) for at in range(top.childCount())]


def row(window, name):
    return next(one for one in read(window.order) if name in one.text(NAME))


def test_rows_say_their_sentence_whether_they_are_on_and_how_often_they_fired(at_work):
    window, _ = at_work
    begin = row(window, "Begin")
    assert begin.text(NAME) == "rule 1 Begin: when the level starts do send boom"
    assert begin.text(DETAIL) == "fired 1 time"
    assert begin.state().checkable and begin.state().checked
    assert row(window, "Walk").text(DETAIL) == "fired 12 times"
    window.bench.move_cursor(window.bench.run.end_of(1))
    assert begin.text(DETAIL) == "fired 1 time, fires in this tick, 1 in order"
    assert row(window, "Walk").text(DETAIL) == "fired 12 times, fires in this tick, 2 in order for 2 matches"
    window.bench.edit(edits.switch_rule(window.bench.level, 1, False), "switch it off")
    window.order._refresh()
    assert not row(window, "Begin").state().checked
    assert begin.rect().height() > 0 and window.order.viewport().height() > 0


def test_what_fires_at_the_cursor_is_said(at_work):
    window, _ = at_work
    window.bench.move_cursor(window.bench.run.end_of(1))
    assert moment_aloud(window.order.state) == "tick 1, 2 of 2: Walk"
    window.bench.move_cursor(window.bench.run.end_of(0))
    assert moment_aloud(window.order.state) == "tick 0, 0 firings"


def test_firings_are_parts_of_their_row_and_lead_to_their_moment(at_work):
    window, _ = at_work
    walk = row(window, "Walk")
    assert walk.childCount() == 12
    third = walk.child(2)
    assert third.text(NAME) == "fires at 0.050 s, tick 3, 1 in order, 2 matches"
    third.doAction("go there")
    assert (window.bench.cursor.tick, window.bench.cursor.position) == (3, 1)
    assert third.state().selected
    walk.doAction("switch on or off")
    assert not window.bench.level.order[1].on
    walk.doAction("select")
    assert window.bench.selection.rule == 2
    walk.doAction("nothing")


def test_objects_say_where_they_are_and_are_selected(at_work):
    window, hands = at_work
    first = read(window.level_view)[0]
    assert first.text(NAME) == "Pod 1"
    assert first.text(DETAIL) == "a Pod at 10, 20, faces 0 degrees"
    window.bench.move_cursor(window.bench.run.end_of(12))
    assert first.text(DETAIL) == "a Pod at 34, 20, faces 0 degrees"
    first.doAction("select")
    assert window.bench.selection.objects == frozenset({1})
    assert first.state().selected
    # what is gone is no item any more, and asking it breaks nothing
    second = read(window.level_view)[1]
    window.bench.edit(edits.delete_objects(window.bench.level, {2}), "delete it")
    hands.rest()
    assert len(read(window.level_view)) == 1
    assert not second.isValid()
    assert (second.text(NAME), second.childCount(), second.actionNames()) == ("", 0, [])


def test_cards_say_where_their_wires_go(at_work):
    window, hands = at_work
    window.bench.select(Selection(rule=3))
    window.actions_["open graph"].trigger()
    hands.rest()
    cards = read(window.graph_page.view)
    assert cards[0].text(NAME).startswith("card 1: boom is heard")
    assert cards[0].text(DETAIL).startswith("goes to card ")
    last = cards[-1]
    assert "comes from card " in last.text(DETAIL)
    last.doAction("select")
    assert window.graph_page.commands.opened.chosen


def test_wires_are_parts_of_their_card_and_can_be_followed_and_cut(at_work):
    window, hands = at_work
    window.bench.select(Selection(rule=3))
    window.actions_["open graph"].trigger()
    hands.rest()
    view = window.graph_page.view
    first, last = read(view)
    assert (first.childCount(), last.childCount()) == (1, 0)
    wire = first.child(0)
    assert wire.text(NAME) == f"wire to {last.text(NAME)}"
    assert (
        view.to_screen(view.wire_near(view.sheet.wires[0].way[0]).bounds).toRect().size()
        == wire.rect().size()
    )
    wire.doAction("select")
    assert view.wire_shape is view.sheet.wires[0]
    assert first.child(0).state().selected
    wire.doAction("go to its card")
    assert view.commands.opened.chosen == {2}
    wire.doAction("cut")
    hands.rest()
    assert not window.graph_page.commands.opened.graph.wires
    assert read(view)[0].childCount() == 0
    assert not wire.isValid()


def test_many_things_are_bounded(open_window, qtbot):
    many = things("Pod", *[(n % 70, n // 70) for n in range(MOST_ITEMS + 5)])
    window = open_window(level(kinds=(kind("Pod", contact="none"),), objects=many, seconds=0.1))
    Hands(qtbot, window).rest()
    assert QAccessible.queryAccessibleInterface(window.level_view).childCount() == MOST_ITEMS


@pytest.mark.skipif(not has_client(), reason="there is no accessibility bus and client on this machine")
@pytest.mark.timeout(240)
def test_a_real_client_reads_the_window_and_acts_on_it(tmp_path):
    write_level(tmp_path / "yard.gatillo", yard())
    script = f"""
        {LAUNCHER} --launch-immediately & sleep 1
        {sys.executable} -m gatillo.cli.main open {tmp_path / "yard.gatillo"} & window=$!
        timeout 120 /usr/bin/python3 {CLIENT} "yard.gatillo"; result=$?
        kill -0 $window || result=9
        kill $window; exit $result
    """
    display = f":{90 + os.getpid() % 400}"
    server = subprocess.Popen(["Xvfb", display, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL)
    try:
        done = subprocess.run(
            ["dbus-run-session", "--", "bash", "-c", script],
            env={
                **os.environ,
                "DISPLAY": display,
                "QT_QPA_PLATFORM": "xcb",
                "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
                "GATILLO_STATE": str(tmp_path / "state"),
            },
            capture_output=True,
            text=True,
            timeout=200,
        )
    finally:
        server.terminate()
        server.wait(10)
    assert done.returncode == 0, done.stderr[-2_000:]
    said = {
        key: value
        for line in done.stdout.splitlines()
        if line.startswith("{")
        for key, value in json.loads(line).items()
    }
    assert said["done"]
    names = [one["name"] for one in said["order"]]
    assert "rule 1 Begin: when the level starts do send boom" in names
    assert any(name.startswith("graph 3 Count") for name in names)
    assert {one["role"] for one in said["order"]} == {"list item"}
    assert [one["name"] for one in said["level"]] == ["Pod 1", "Pod 2"]
    assert said["level"][0]["detail"] == "a Pod at 10, 20, faces 0 degrees"
    assert all(width > 0 and height > 0 for _, _, width, height in (one["box"] for one in said["level"]))
    assert [one["name"] for one in said["firings"]] == ["fires at 0.017 s, tick 1, 1 in order"]
    assert said["at_the_firing"]["detail"] == "fired 1 time, fires in this tick, 1 in order"
    assert [one["name"] for one in said["cards"]] == ["card 1: boom is heard", "card 2: add 1 to level.n"]
    assert [one["detail"] for one in said["cards"]] == ["goes to card 2", "comes from card 1"]
    assert [one["name"] for one in said["wires"]] == ["wire to card 2: add 1 to level.n"]
    assert said["wire"]["selected"]
    assert said["followed"]["selected"]
    assert not said["switched"]["checked"]
    assert said["selected"]["selected"]
