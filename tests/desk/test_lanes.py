"""What lanes are painted from, and that they are painted where the firings are."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hands import Hands
from msgspec.structs import replace as replaced
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor

from building import add, c, heard, kind, level, rule, run, send, things
from gatillo.desk.looks.theme import theme
from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.lanes.scale import TimeScale
from gatillo.desk.order_list.rows import rule_words
from gatillo.desk.session.moment_words import firing_words, look_words, ordinal
from gatillo.level import edits
from gatillo.level.expectations import HoldsAt
from gatillo.sim.run.run import Cursor

RULES = (
    rule("ask", when=c("every_seconds", period="0.5", first="0.1"), do=send("go"), id=1),
    rule("one", when=heard("go"), do=[add("level.n"), c("wait", time="0.1"), add("level.n")], id=2),
    rule("two", when=heard("go"), if_=c("formula_holds", formula="level.n > 1"), do=add("level.n"), id=3),
)


@pytest.fixture
def made():
    return run(level(*RULES, has={"n": 0.0}))


def test_each_lane_has_the_firings_of_its_rule(made):
    data = LaneData(made)
    assert data.lane(0).tick.tolist() == [6, 36]
    assert data.lane(1).tick.tolist() == [7, 13, 37, 43]
    assert data.lane(1).way.tolist() == [0, 2, 0, 2]
    assert data.lane(2).tick.tolist() == [37]


def test_looks_without_a_firing_are_told_apart(made):
    data = LaneData(made)
    assert data.dropped(2).tolist() == [7]
    assert look_words(made, 2, 7) == "two: 1 candidate, none passed condition 1"
    assert look_words(made, 2, 37) == ""


def test_echoes_lead_from_the_sender_to_those_who_heard(made):
    assert LaneData(made).echoes(30, 40) == [(36, 0, 1, 37, 1, 1), (36, 0, 1, 37, 2, 2)]


def test_waits_span_from_the_firing_to_where_it_goes_on(made):
    assert LaneData(made).waits(1, 0, 60) == [(7, 13), (37, 43)]


def test_a_folded_sections_lane_has_all_ticks_once(made):
    assert LaneData(made).merged((0, 1, 2)).tolist() == [6, 7, 13, 36, 37, 43]


def test_pixels_and_ticks_are_each_others_inverse():
    scale = TimeScale(left=500, width=700, first=12.5, pixels=3.7)
    for tick in range(13, 180):
        assert scale.tick(scale.x(tick) + 0.5) == tick


def test_a_firing_is_told_in_words(made):
    words = firing_words(made, Cursor(37, 2))
    assert words.splitlines()[0] == "two: 2nd of 2 at 0.617 s"
    assert "1. level.n: 3 → 4" in words
    assert "going on after a wait" in firing_words(made, Cursor(13, 1))
    assert firing_words(made, Cursor(14, 1)) == ""


@pytest.mark.parametrize(
    ("n", "said"),
    [
        (1, "1st"),
        (2, "2nd"),
        (3, "3rd"),
        (4, "4th"),
        (11, "11th"),
        (12, "12th"),
        (21, "21st"),
        (113, "113th"),
    ],
)
def test_ordinals(n, said):
    assert ordinal(n) == said


def test_a_rules_words_are_in_the_order_of_its_sentence():
    words = [w.text for w in rule_words(RULES[2])]
    assert words[:4] == ["when", "go", " is heard", "if"]
    assert [w.slot for w in rule_words(RULES[2]) if w.editable] == [
        "message",
        "formula",
        "amount",
        "variable",
    ]


def test_marks_are_painted_in_the_column_of_their_tick(open_window):
    window = open_window()
    order = window.order
    window.bench.move_cursor(Cursor(60, 0))
    order.zoom_to(40)
    picture = order.viewport().grab().toImage()
    at = next(i for i, r in enumerate(order.state.rows) if r.sort == "rule" and r.rule.name == "Gather a pod")
    y = order.geometry_.row_area(at).center().y()

    def reddish(tick: int) -> bool:
        seen = [
            QColor(picture.pixel(round(order.scale.middle(tick)) + dx, round(y))) for dx in (-6, -5, 5, 6)
        ]
        fires = theme().fires
        return any(abs(s.red() - fires.red()) + abs(s.green() - fires.green()) < 30 for s in seen)

    assert [t for t in range(52, 69) if reddish(t)] == []
    window.bench.move_cursor(Cursor(49, 1))
    order.zoom_to(40)
    picture = order.viewport().grab().toImage()
    assert [t for t in range(44, 55) if reddish(t)] == [49]


def test_without_colours_shapes_tell_held_from_failed_and_gone_from_new(open_window, qtbot, monkeypatch):
    """All colours of marks are the ink's: what an eye cannot tell by colour, it tells by shape."""
    ink = theme().ink
    marks = dict.fromkeys(("fires", "cursor", "held", "finding", "fault"), ink)
    monkeypatch.setattr("gatillo.desk.looks.theme._current", replace(theme(), **marks))
    early, late = (c("after_start", time=str(t)) for t in (0.2, 0.6))
    built = level(
        rule("Stays", when=early, do=add("level.n"), id=1),
        rule("Goes", when=late, do=add("level.n"), id=2),
        rule("Comes", when=late, do=add("level.n"), id=3, on=False),
        has={"n": 0.0},
        seconds=1.0,
    )
    wanted = (HoldsAt("level.n >= 0", "always"), HoldsAt("level.n = 7", "always"))
    window = open_window(replaced(built, trials=(replaced(built.trials[0], expectations=wanted),)))
    bench, order = window.bench, window.order
    changed = edits.switch_rule(edits.switch_rule(bench.level, 2, False), 3, True)
    bench.edit(changed, "one for the other")
    Hands(qtbot, window).rest()
    bench.move_cursor(Cursor(1, 0))
    order.zoom_to(10)

    def seen(row, tick):
        middle = order.geometry_.lane_area(row).center().y()
        box = QRectF(order.scale.middle(tick) - 9, middle - 13, 18, 26).toRect()
        return order.viewport().grab(box).toImage()

    rows = {r.rule.name: at for at, r in enumerate(order.state.rows) if r.sort == "rule"}
    comparison = bench.shown.comparison
    gone, new = comparison.gone[2][0], comparison.new[3][0]
    stayed = next(f.tick for f in bench.run.trace.firings())
    three = seen(rows["Stays"], stayed), seen(rows["Goes"], gone), seen(rows["Comes"], new)
    assert three[0] != three[1] and three[1] != three[2] and three[0] != three[2]
    verdicts = {r.verdict.outcome: at for at, r in enumerate(order.state.rows) if r.verdict is not None}
    assert seen(verdicts["held"], 40) != seen(verdicts["failed"], 40)


def test_the_level_is_drawn_where_its_objects_stand(open_window):
    built = level(kinds=(kind("Pod", 30, colour="#C00000"),), objects=things("Pod", (400, 250)))
    window = open_window(built)
    view = window.level_view
    picture = view.grab().toImage()
    edge = view.to_pixels(400 + 30, 250)
    near = [QColor(picture.pixel(round(edge.x()) + d, round(edge.y()))) for d in (-1, 0, 1)]
    assert min(c.green() for c in near) < 120
    far = view.to_pixels(500, 250)
    assert QColor(picture.pixel(round(far.x()) + 5, round(far.y()) + 5)).green() > 200


def test_zooming_the_level_keeps_the_point_under_the_pointer(open_window):
    view = open_window().level_view
    point = QPointF(200, 100)
    before = view.to_level(point)
    view.set_zoom(view.zoom * 3, point)
    assert view.to_level(point) == pytest.approx(before)


def test_a_walk_with_the_keyboard_alone_from_opening_to_a_changed_verdict(open_window, qtbot):
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from conftest import settle

    window = open_window()
    order = window.order
    order.setFocus()
    while not (
        order.state.rows[order.state.current].sort == "rule"
        and order.state.rows[order.state.current].rule.name == "Gather a pod"
    ):
        QTest.keyClick(order, Qt.Key.Key_Down)
    QTest.keyClick(order, Qt.Key.Key_Period)
    assert not order.state.rows[order.state.current].folded
    while order.state.rows[order.state.current].words[0].text != "do" or "add " not in [
        w.text for w in order.state.rows[order.state.current].words
    ]:
        QTest.keyClick(order, Qt.Key.Key_Down)
        if order.state.rows[order.state.current].sort == "line" and "add " in [
            w.text for w in order.state.rows[order.state.current].words
        ]:
            break
    QTest.keyClick(order, Qt.Key.Key_Tab)
    QTest.keyClick(order, Qt.Key.Key_Return)
    QTest.keyClicks(order.writer.editor.field, "3")
    QTest.keyClick(order.writer.editor.field, Qt.Key.Key_Return)
    settle(qtbot, window)
    assert window.bench.level.order[0].rules[0].do[1].slots["amount"] == "3"
    assert any(v.outcome == "failed" for v in window.bench.shown.verdicts)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(qtbot, window)
    assert {v.outcome for v in window.bench.shown.verdicts} == {"held"}


def test_columns_of_a_trace_fit_its_firings(made):
    tick, position, turn, matches, _ = made.trace.columns()
    told = [(f.tick, f.position, f.rule_index, f.matches) for f in made.trace.firings()]
    assert list(zip(tick.tolist(), position.tolist(), turn.tolist(), matches.tolist(), strict=True)) == told
    assert (np.diff(tick) >= 0).all()


def test_a_fault_in_a_condition_has_a_mark_of_its_own_and_its_sentence():
    share = rule(
        "share",
        when=c("every_seconds", period="0.5", first="0.1"),
        if_=c("formula_holds", formula="1 / level.n > 0"),
        do=add("level.n"),
        id=1,
    )
    made = run(level(share, has={"n": 0.0}))
    data = LaneData(made)
    assert data.lane(0).tick.tolist() == []
    assert data.faults_without_firing(0).tolist() == [6, 36]
    assert "divides by zero" in look_words(made, 0, 6)
