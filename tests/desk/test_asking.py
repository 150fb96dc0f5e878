"""Asking the run in the window: why, why not, whose turn first, side by side, stops and moments; by keys, clicks and links."""

from __future__ import annotations

import re
from threading import Event
from time import sleep

import pytest
from hands import CTRL, SHIFT, Hands
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent, QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QToolButton

from building import EVERY_TICK, POD, START, add, c, heard, level, rule, send, things
from conftest import settle
from gatillo.catalogue.declare.entry import Entry
from gatillo.desk.looks.plain import Rich
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.worker import Gate, Worker
from gatillo.examples import study_path
from gatillo.files.exports import write_trace
from gatillo.files.level_file import read_level
from gatillo.level.model import Graph, Node, Variant, Wire
from gatillo.level.roles import all_logic
from gatillo.level.thing_edits import set_variable
from gatillo.sim.program.compiled_rule import every_step
from gatillo.sim.run.run import Cursor

F6, F9 = Qt.Key.Key_F6, Qt.Key.Key_F9


def chain(**more):
    """A rule that writes, one that reads and sends, one that hears."""
    return level(
        rule(
            "write", when=c("after_start", time="0.2"), do=c("set_variable", variable="level.open", value="1")
        ),
        rule(
            "read",
            when=EVERY_TICK,
            if_=c("formula_holds", formula="level.open = 1"),
            do=send("bang"),
            fires="first time only",
        ),
        rule("hear", when=heard("bang"), do=add("level.n")),
        has={"open": 0.0, "n": 0.0},
        **more,
    )


def rule_id(window, name: str) -> int:
    return next(e.id for _, _, e in all_logic(window.bench.level) if e.name == name)


def asked(qtbot, window) -> None:
    """Wait for the answer."""
    answers, beside = window.bench.answers, window.bench.beside
    qtbot.waitUntil(
        lambda: not answers.busy and not beside.busy and (answers.page is None or not answers.page.busy),
    )
    QApplication.processEvents()


def label(window) -> Rich:
    return window.sheet.findChild(Rich, "answer")


def text(window) -> str:
    page = window.bench.answers.page
    return page.text() if page is not None else ""


def links(window, what: str) -> list[str]:
    return re.findall(rf'href="({what}:[^"]*)"', label(window).text())


def opened(open_window, qtbot, made=None):
    window = open_window(made or chain())
    settle(qtbot, window)
    window.activateWindow()
    window.order.setFocus()
    return window


def to_firing(window, name: str) -> Cursor:
    run = window.bench.run
    firing = next(f for f in run.trace.firings() if run.program.rules[f.rule_index].source.name == name)
    window.bench.move_cursor(Cursor(firing.tick, firing.position))
    return window.bench.cursor


# why


def test_f9_asks_why_and_links_unfold_to_any_depth(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "hear")
    hands = Hands(qtbot, window)
    hands.key(F9)
    asked(qtbot, window)
    assert "“hear” fired at 0.217 s" in text(window) and "because bang is heard" in text(window)
    for _ in range(6):
        closed = [
            p
            for p, r in window.bench.answers.page.lines()
            if p not in window.bench.answers.page.unfolded and not (r.known and not r.because())
        ]
        for path in closed:
            label(window).linkActivated.emit("fold:" + ".".join(map(str, path)))
            asked(qtbot, window)
    assert "bang was sent at 0.200 s by “read”" in text(window)
    assert "level.open = 1: it was 1 — set at 0.200 s by “write”, action 1" in text(window)
    assert "because 0.2 s after the start" in text(window)
    # folded again, it is out of sight
    label(window).linkActivated.emit("fold:0")
    assert "bang was sent" not in text(window)


def test_an_answer_opens_to_the_second_cause(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "hear")
    window.asking.why()
    asked(qtbot, window)
    page = window.bench.answers.page
    second = page.reason((0, 0, 0))
    assert second is not None and second.sentence in text(window)
    assert [p for p, _ in page.lines() if len(p) == 3]


def test_the_lanes_have_arrows_from_causes_and_a_reason_is_gone_to(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "hear")
    window.asking.why()
    asked(qtbot, window)
    answers = window.bench.answers
    # the cause of the cause is open already
    for path in ((0, 0, 0), (0, 0, 0, 0), (0, 0, 0, 0, 1)):
        answers.fold(path)
        asked(qtbot, window)
    hear, read, write = (rule_id(window, n) for n in ("hear", "read", "write"))
    assert ((read, 12, 2), (hear, 13, 1)) in answers.arrows()
    assert ((write, 12, 1), (read, 12, 2)) in answers.arrows()
    picture = window.order.viewport().grab().toImage()
    answers.dismiss()
    assert window.order.viewport().grab().toImage() != picture
    answers.show_again()
    label(window).linkActivated.emit("go:0.0.0")
    assert window.bench.cursor == Cursor(12, 2)


def test_objects_of_a_reason_are_ringed_in_the_level(open_window, qtbot):
    made = level(
        rule("go", when=c("each_in_every_tick", who="Pod"), do=add("level.n")),
        kinds=(POD,),
        objects=things("Pod", (100, 100), (300, 200)),
        has={"n": 0.0},
    )
    window = opened(open_window, qtbot, made)
    window.bench.move_cursor(Cursor(3, 1))
    before = window.level_view.grab().toImage()
    window.bench.answers.why(3, 1, 2)
    asked(qtbot, window)
    assert window.bench.answers.pointed() == (2,)
    assert window.level_view.grab().toImage() != before


def test_an_answer_is_copied_put_away_and_shown_again(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "read")
    window.asking.why()
    asked(qtbot, window)
    window.sheet.findChild(QToolButton, "answer-copy").click()
    assert "“read” fired at 0.200 s" in QGuiApplication.clipboard().text()
    window.bench.select(Selection(rule=rule_id(window, "write")))
    assert window.sheet.title.text() == "write"
    back = next(w for w in window.sheet.findChildren(Rich) if "back to the answer" in w.text())
    back.linkActivated.emit("back:")
    assert window.sheet.title.text() == "Why did it fire?"
    window.actions_["answer done"].trigger()
    assert window.bench.answers.page is None


def test_an_edit_marks_the_answer_and_it_can_be_asked_again(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "read")
    window.asking.why()
    asked(qtbot, window)
    bench = window.bench
    bench.edit(set_variable(bench.level, None, "open", value=1.0), "start it open")
    settle(qtbot, window)
    assert "about the run before the last edit" in label(window).text()
    to_firing(window, "read")
    window.asking.why()
    asked(qtbot, window)
    assert "level.open = 1: it was 1 — as it was at the start" in text(window)


def test_a_value_in_the_sheet_is_a_link_that_asks_why(open_window, qtbot):
    window = opened(open_window, qtbot)
    window.bench.select(Selection())
    window.bench.move_cursor(window.bench.run.end_of(30))
    (link,) = [m for m in re.findall(r'href="(value:[^"]*)"', window.sheet.live.text()) if "open" in m]
    window.sheet.live.linkActivated.emit(link)
    asked(qtbot, window)
    assert "level.open was 1 — set at 0.200 s by “write”, action 1" in text(window)


def test_what_a_firing_caused_is_asked(open_window, qtbot):
    window = opened(open_window, qtbot)
    to_firing(window, "read")
    Hands(qtbot, window).two_strokes(Qt.Key.Key_C)
    asked(qtbot, window)
    assert "it sent bang (action 1)" in text(window)


# why not


def test_double_clicking_an_empty_stretch_of_a_lane_asks_why_not(open_window, qtbot):
    window = opened(open_window, qtbot)
    order = window.order
    order.fit()
    at = next(n for n, row in enumerate(order.state.rows) if row.rule is not None and row.rule.name == "read")
    point = QPoint(int(order.scale.middle(5)), int(order.geometry_.row_area(at).center().y()))
    QTest.mouseClick(order.viewport(), Qt.MouseButton.LeftButton, pos=point)
    assert "Why did it not fire at tick 5?" in window.sheet.live.text()
    QTest.mouseDClick(order.viewport(), Qt.MouseButton.LeftButton, pos=point)
    asked(qtbot, window)
    assert "“read” did not fire at 0.083 s (tick 5)" in text(window)
    assert "condition 1: level.open = 1: level.open was 0" in text(window)


def test_why_never_is_asked_of_one_that_never_fires(open_window, qtbot):
    made = level(
        rule("r", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 5"), do=add("level.n")),
        has={"n": 0.0},
    )
    window = opened(open_window, qtbot, made)
    window.bench.select(Selection(rule=rule_id(window, "r")))
    window.sheet.live.linkActivated.emit(f"never:{rule_id(window, 'r')}")
    asked(qtbot, window)
    assert "failed most often, in 60 of 60 ticks" in text(window)
    Hands(qtbot, window).key(F9, CTRL | SHIFT)
    asked(qtbot, window)
    assert "never fired in this trial" in text(window)


def test_asking_with_nothing_to_ask_about_says_what_to_do(open_window, qtbot):
    window = opened(open_window, qtbot)
    window.bench.select(Selection())
    window.bench.moment.to_start()
    told = []
    window.bench.notified.connect(told.append)
    for name in ("ask why", "ask why not", "ask never", "ask caused", "stop at it", "next of it"):
        window.actions_[name].trigger()
    assert len(told) == 6 and all(t.endswith(".") for t in told)


# menus at the pointer


def menu_of(window, widget, point: QPoint) -> list[str]:
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, point, widget.mapToGlobal(point))
    QApplication.sendEvent(widget, event)
    menu = next(m for m in window.findChildren(QMenu, "at-the-pointer") if m.isVisible())
    found = [a.text().replace("&", "") for a in menu.actions()]
    menu.close()
    QApplication.processEvents()
    return found


def test_the_right_button_opens_menus_that_fit(open_window, qtbot):
    window = opened(open_window, qtbot, replace(chain(), kinds=(POD,), objects=things("Pod", (100, 100))))
    order = window.order
    order.zoom_to(40)
    at = next(
        n for n, row in enumerate(order.state.rows) if row.rule is not None and row.rule.name == "write"
    )
    y = int(order.geometry_.row_area(at).center().y())
    window.bench.move_cursor(Cursor(12, 1))
    order.scroll_to(5)
    view = order.viewport()
    mark = QPoint(int(order.scale.mark_x(12, 1, 2)), y)
    assert "Why?" in menu_of(window, view, mark)
    assert "Why not?" in menu_of(window, view, QPoint(int(order.scale.middle(8)), y))
    assert window.bench.cursor.tick == 8 and window.bench.selection.rule == rule_id(window, "write")
    assert "Convert to a graph" in menu_of(window, view, QPoint(200, y))
    level_view = window.level_view
    pod = level_view.to_pixels(100, 100).toPoint()
    assert "Delete" in menu_of(window, level_view, pod) and window.bench.selection.objects == {1}
    assert "New kind" in menu_of(window, level_view, QPoint(5, 5)) and not window.bench.selection.objects


# whose turn first, and side by side


def test_order_findings_are_tried_and_shown_side_by_side(open_window, qtbot):
    window = opened(open_window, qtbot)
    window.actions_["ask order"].trigger()
    asked(qtbot, window)
    assert "“write” before “read”: level.open, one writes what the other reads" in text(window)
    assert "Swapped:" in text(window)
    label(window).linkActivated.emit("do:0.0")
    qtbot.waitUntil(lambda: window.sheet.title.text() == "Comparison")
    asked(qtbot, window)
    assert "“write” and “read” swapped" in text(window)
    assert window.bench.shown.comparison.moved
    Hands(qtbot, window).key(F6)
    assert window.bench.cursor.tick == 12
    # how far it may go is drawn for the selected one
    window.bench.select(Selection(rule=rule_id(window, "hear")))
    assert window.bench.answers.free(rule_id(window, "hear")) == (0, 2)
    assert window.bench.answers.free(rule_id(window, "read"))[0] == 1
    window.actions_["beside none"].trigger()
    assert window.bench.beside.run is None and not window.bench.shown.compared


def test_the_run_before_an_edit_is_laid_beside_with_ghosts(open_window, qtbot):
    made = level(
        rule("go", when=START, do=c("set_velocity", who="Pod", dx="60", dy="0", axes="the level's")),
        kinds=(POD,),
        objects=things("Pod", (100, 100)),
    )
    window = opened(open_window, qtbot, made)
    bench = window.bench
    told = []
    bench.notified.connect(told.append)
    window.actions_["beside before"].trigger()
    assert "nothing has been edited yet" in told[-1]
    order = (
        replace(made.order[0], do=(c("set_velocity", who="Pod", dx="120", dy="0", axes="the level's"),)),
    )
    bench.edit(replace(bench.level, order=order), "faster")
    settle(qtbot, window)
    qtbot.waitUntil(lambda: bench.shown.previous is not None)
    bench.move_cursor(bench.run.end_of(40))
    before = window.level_view.grab().toImage()
    window.actions_["beside before"].trigger()
    asked(qtbot, window)
    assert "Pod 1.vx: 60 in the other run, 120 in this run" in text(window)
    assert "this run: Pod 1.vx was 120 — set at 0.017 s by “go”, action 1" in text(window)
    assert bench.beside.ghosts() is not None
    assert window.level_view.grab().toImage() != before


def test_a_variant_is_made_in_the_sheet_and_laid_beside(open_window, qtbot):
    window = opened(open_window, qtbot)
    hands = Hands(qtbot, window)
    window.actions_["new variant"].trigger()
    hands.type("quiet")
    hands.key(Qt.Key.Key_Return)
    assert [v.name for v in window.bench.level.variants] == ["quiet"]
    hands.choose("variant-switch", "hear")
    assert window.bench.level.variants == (Variant(name="quiet", off=("hear",)),)
    hands.choose("variant-start", "open")
    hands.put("variant-value-open", "1")
    assert window.bench.level.variants[0].values == {"open": 1.0}
    settle(qtbot, window)
    hands.press_button("variant-beside")
    asked(qtbot, window)
    assert "variant “quiet”" in text(window) and "First different at the end of tick 0" in text(window)
    window.bench.select(Selection())
    hands.press_button("index-add-kind")
    assert len(window.bench.level.variants) == 1


def test_rates_and_seeds_are_checked_by_one_command(open_window, qtbot):
    made = level(
        rule("go", when=EVERY_TICK, do=add("level.n")),
        rule(
            "there",
            when=EVERY_TICK,
            if_=c("formula_holds", formula="level.n >= 40"),
            do=add("level.m"),
            fires="first time only",
        ),
        has={"n": 0.0, "m": 0.0},
        seconds=2.0,
    )
    window = opened(open_window, qtbot, made)
    window.actions_["ask rates"].trigger()
    asked(qtbot, window)
    assert "120 ticks a second: first differs at 0.333 s" in text(
        window
    ) and "“there” fires there, and not here" in text(window)
    for path in ((0,), (0, 0)):
        window.bench.answers.fold(path)
        asked(qtbot, window)
    assert "level.n >= 40" in text(window)
    window.actions_["ask seeds"].trigger()
    asked(qtbot, window)
    assert "The same firings: seed 2, seed 3" in text(window)


# moments and stops


@pytest.mark.parametrize(
    ("words", "said", "tick"),
    [
        ("sends bang", "“bang” is sent: 1 moment.", 12),
        ("writes level.open", "level.open is written: 1 moment.", 12),
        ("hear", "“hear” fires: 1 moment.", 13),
        ("level.n = 1", "level.n = 1 becomes true: 1 moment.", 13),
    ],
)
def test_moments_are_found_by_what_happens_in_them(open_window, qtbot, words, said, tick):
    window = opened(open_window, qtbot)
    window.ask_text = lambda *_: words
    window.actions_["find moment"].trigger()
    asked(qtbot, window)
    assert said in text(window)
    label(window).linkActivated.emit("go:0")
    assert window.bench.cursor.tick == tick


def meeting():
    return level(
        rule(
            "see",
            when=c("each_in_every_tick", who="Pod"),
            if_=c("formula_holds", formula="Pod.x > 150 and tick > 3"),
            do=add("level.n"),
            fires="first time only",
            first_per="object",
        ),
        kinds=(POD,),
        objects=things("Pod", (100, 100), (200, 100), (300, 100)),
        has={"n": 0.0},
    )


def test_moments_are_found_by_who_takes_part_and_stepped_through(open_window, qtbot):
    window = opened(open_window, qtbot, meeting())
    bench = window.bench
    for words, many in (("Pod 2", 1), ("Pod 1", 0), ("fires see for Pod 3", 1), ("fires see for Pod 1", 0)):
        bench.answers.find(words)
        asked(qtbot, window)
        assert f": {many} moment" in text(window), words
    bench.select(Selection(frozenset({3})))
    bench.moment.to_start()
    window.actions_["next of it"].trigger()
    asked(qtbot, window)
    assert bench.cursor == Cursor(4, 1)


def test_a_stop_may_be_for_one_object(open_window, qtbot):
    window = opened(open_window, qtbot, meeting())
    window.stops.add("fires see for Pod 1")
    assert window.stops.moments() == []
    window.stops.add("fires see for Pod 3")
    assert window.stops.moments() == [Cursor(4, 1)]


def test_a_saved_trace_is_laid_beside(open_window, qtbot, tmp_path):
    window = opened(open_window, qtbot)
    bench = window.bench
    path = tmp_path / "t.jsonl"
    write_trace(bench.run, path)
    bench.beside.compare_with_saved(path)
    assert "Every firing is the same" in text(window)
    path.write_text(path.read_text().replace('"rule": "hear"', '"rule": "other"'))
    bench.beside.compare_with_saved(path)
    assert "1 firings of “other”, which this level does not have" in text(window)
    assert bench.shown.comparison.new == {rule_id(window, "hear"): (13,)}
    assert "Every firing is the same" not in text(window)
    # a rule that this level does not have is a difference, though none of its own rules fires otherwise
    write_trace(bench.run, path)
    lines = path.read_text().splitlines()
    extra = next(line for line in lines if '"rule": "hear"' in line).replace(
        '"rule": "hear"', '"rule": "gone"'
    )
    path.write_text("\n".join([*lines, extra]) + "\n")
    bench.beside.compare_with_saved(path)
    assert "1 firings of “gone”, which this level does not have" in text(window)
    assert "Every firing is the same" not in text(window)
    told = []
    bench.notified.connect(told.append)
    path.write_text("no trace")
    bench.beside.compare_with_saved(path)
    assert "line 1" in told[-1]


def test_what_cannot_be_found_is_told(open_window, qtbot):
    window = opened(open_window, qtbot)
    window.ask_text = lambda *_: "sends bnag"
    window.actions_["find moment"].trigger()
    asked(qtbot, window)
    assert "did you mean “bang”?" in text(window)


def test_a_run_stands_still_at_a_stop_and_stops_are_kept_for_the_file(open_window, qtbot, tmp_path):
    window = opened(open_window, qtbot)
    bench = window.bench
    path = tmp_path / "chain.gatillo"
    assert bench.document.save(path)
    bench.select(Selection(rule=rule_id(window, "read")))
    Hands(qtbot, window).two_strokes(Qt.Key.Key_P)
    bench.moment.to_start()
    bench.player.toggle_run()
    bench.player.go_on(30)
    assert not bench.player.running and bench.cursor == Cursor(12, 2)
    window.ask_text = lambda *_: "level.n = 1"
    window.actions_["stop at"].trigger()
    window.actions_["next stop"].trigger()
    assert bench.cursor.tick == 13
    window.actions_["previous stop"].trigger()
    assert bench.cursor == Cursor(12, 2)
    bench.document.open(path)
    settle(qtbot, window)
    assert [s.text for s in window.stops.stops] == ["fires read", "level.n = 1"]
    window.actions_["stops"].trigger()
    assert "the firing of “read”" in label(window).text()
    label(window).linkActivated.emit("also:0")
    assert not window.stops.stops[0].on
    label(window).linkActivated.emit("also:1")
    assert [s.text for s in window.stops.stops] == ["level.n = 1"]
    # nothing of it is in the level
    assert read_level(path) == read_level(path) and b"stop" not in path.read_bytes()


def test_a_run_stands_still_at_a_card_and_steps_from_run_to_run_of_it(open_window, qtbot):
    drawn = Graph(
        id=900,
        name="sort",
        nodes=(
            Node(id=1, use="every_tick", at=(0.0, 0.0)),
            Node(id=2, use="formula_holds", slots={"formula": "level.n > 2"}, at=(0.0, 100.0)),
            Node(id=3, use="add_to", slots={"amount": "1", "variable": "level.m"}, at=(0.0, 200.0)),
        ),
        wires=(Wire(start="1", end="2"), Wire(start="2.yes", end="3")),
    )
    made = level(rule("count", when=EVERY_TICK, do=add("level.n")), drawn, has={"n": 0.0, "m": 0.0})
    window = opened(open_window, qtbot, made)
    bench = window.bench
    bench.select(Selection(rule=900, cards=frozenset({3})))
    window.actions_["stop at it"].trigger()
    bench.player.toggle_run()
    bench.player.go_on(20)
    assert not bench.player.running and bench.cursor.tick == 3 and bench.cursor.step > 0
    window.actions_["next of it"].trigger()
    assert bench.cursor.tick == 4
    window.sheet.live.linkActivated.emit("card:900:3")
    asked(qtbot, window)
    assert "card 3 of “sort” ran at 0.067 s" in text(window)


def test_a_study_is_asked_from_the_window_alone(open_window, qtbot):
    """The wrong try of the hatch: the apprentice's place, asked from its sheet, names the rule and the action that acts on all."""
    window = open_window(read_level(study_path("20-hatch.gatillo")))
    window.bench.choose_trial("First try")
    settle(qtbot, window)
    bench = window.bench
    apprentice = next(o.id for o in bench.level.objects if o.name == "Apprentice 1")
    bench.move_cursor(bench.run.end_of(240))
    bench.select(Selection(frozenset({apprentice})))
    (link,) = [m for m in re.findall(r'href="(value:[^"]*)"', window.sheet.live.text()) if m.endswith(".x")]
    window.sheet.live.linkActivated.emit(link)
    asked(qtbot, window)
    assert "by “All go down”, action 1" in text(window)
    assert "it acts on all 2 of “any person”" in text(window)


def test_what_entries_touch_is_known_before_the_first_question(open_window, qtbot, monkeypatch):
    looked_up = []
    touches = Entry.touches
    monkeypatch.setattr(Entry, "touches", lambda entry: looked_up.append(entry.name) or touches(entry))
    window = open_window()
    used = {step.entry.name for turn in window.bench.program.rules for step in every_step(turn)}
    qtbot.waitUntil(lambda: used <= set(looked_up))


def test_a_worker_leaves_what_nobody_waits_for_when_something_is_asked(qtbot):
    worker, told, steps = Worker("test", Gate()), [], []
    started = Event()

    def long(go_on):
        while go_on():
            started.set()
            steps.append(1)
            sleep(0.001)

    worker.when_idle(long)
    assert started.wait(5)
    worker.ask(lambda job: "answer", told.append)
    qtbot.waitUntil(lambda: told == ["answer"])
    made = len(steps)
    worker.when_idle(long)
    qtbot.waitUntil(lambda: len(steps) > made)
    worker.close()


def test_next_difference_goes_from_one_to_the_next_and_back(open_window, qtbot):
    def pulsing(period):
        pulse = rule(
            "pulse", when=c("every_seconds", period=period, first="0.2"), do=c("note", text="x"), id=7
        )
        return level(pulse, seconds=2.0)

    window = opened(open_window, qtbot, pulsing("0.4"))
    bench = window.bench
    bench.edit(replace(bench.level, order=pulsing("0.3").order), "faster")
    settle(qtbot, window)
    ticks = bench.shown.comparison.ticks()
    assert len(ticks) > 4
    bench.move_cursor(bench.run.end_of(0))
    went = []
    for _ in ticks:
        window.actions_["next difference"].trigger()
        went.append(bench.cursor.tick)
    assert went == ticks
    told = []
    bench.notified.connect(told.append)
    window.actions_["next difference"].trigger()
    assert bench.cursor.tick == ticks[-1] and told == ["No firing differs after this moment."]
    window.actions_["previous difference"].trigger()
    assert bench.cursor.tick == ticks[-2]
