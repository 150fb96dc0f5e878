"""Numbers that are changed while it runs, is played or loops act from the next tick on, and nothing stops."""

from __future__ import annotations

import contextlib
import random

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QSlider

from building import c, kind, level, rule, things
from conftest import settle
from gatillo.desk.session.selection import Selection, Thing
from gatillo.examples import study_path
from gatillo.files.level_file import decode_level, encode_level, read_level
from gatillo.inspect.sweep.targets import SweepError, targets
from gatillo.level import edits, thing_edits
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def counting():
    return level(
        rule("Count", when=c("every_tick"), do=c("add_to", amount="1", variable="level.n"), id=1),
        kinds=(kind("Cart", 10, behaviours=(c("steer_by_keys", speed="60"),)),),
        objects=things("Cart", (0, 0)),
        has={"n": 0.0, "m": 0.0},
        seconds=4,
    )


@pytest.fixture
def window(open_window, qtbot):
    made = open_window(counting())
    settle(qtbot, made)
    return made


def run(window):
    window.actions_["run"].trigger()
    window.bench.player._clock.stop()


def tune(window, amount):
    bench = window.bench
    bench.edit(
        edits.set_slot(bench.level, 1, "do", 0, "amount", amount), f"change amount to {amount}", "amount"
    )


def anew(bench):
    again = Run(Program(bench.level), bench.trial)
    again.advance()
    return again


def test_a_number_typed_while_it_runs_acts_from_the_next_tick_and_it_goes_on(window, qtbot):
    bench = window.bench
    run(window)
    bench.player.go_on(30)
    tune(window, "10")
    assert bench.player.running and bench.cursor.tick == 30
    bench.player.go_on(2)
    assert bench.world.level["n"] == 50
    window.actions_["run"].trigger()
    settle(qtbot, window)
    assert bench.cursor.tick == 32
    assert bench.run.trace.to_bytes() == anew(bench).trace.to_bytes(), (
        "run anew it is as if it had been typed before"
    )
    assert bench.world.level["n"] == 320


def test_a_drag_is_one_flag_and_one_undo(window, qtbot):
    bench = window.bench
    run(window)
    bench.player.go_on(10)
    bench.begin_live()
    for amount in ("2", "3", "4"):
        tune(window, amount)
        bench.player.go_on(5)
    bench.end_live()
    assert bench.player.running
    assert [flag.tick for flag in bench.flags] == [10]
    assert bench.world.level["n"] == 10 + 10 + 15 + 20
    window.order.viewport().grab()
    bench.player.stop()
    settle(qtbot, window)
    window.actions_["undo"].trigger()
    assert bench.level.order[0].do[0].slots["amount"] == "1"
    assert bench.document.history.undoes is None


def test_a_number_is_tuned_while_it_is_played_and_the_take_is_run_with_it(window, qtbot):
    bench, view = window.bench, window.level_view
    bench.edit(thing_edits.set_bars(bench.level, bench.trial.name, (a_bar(),)), "a script")
    settle(qtbot, window)
    window.actions_["play keys"].trigger()
    bench.player._clock.stop()
    QTest.keyPress(view, Qt.Key.Key_Up)
    bench.player.go_on(20)
    window.order.setFocus()
    assert bench.player.playing, "the keyboard may go into a field"
    bench.player.go_on(1)
    assert not bench.run.world.input.held
    level = bench.level
    cart = level.kinds[0]
    faster = thing_edits.change_kind(
        level, "Cart", lambda k: type(k)(**{**as_dict(k), "behaviours": (c("steer_by_keys", speed="600"),)})
    )
    assert cart.name == "Cart"
    bench.edit(faster, "change speed")
    assert bench.player.playing
    view.setFocus()
    x, y = bench.world.x.item(0), bench.world.y.item(0)
    QTest.keyPress(view, Qt.Key.Key_Up)
    bench.player.go_on(6)
    assert abs(bench.world.x.item(0) - x) + abs(bench.world.y.item(0) - y) == pytest.approx(60, rel=0.2)
    bench.player.stop()
    settle(qtbot, window)
    assert bench.takes.shown is not None
    tried = Run(Program(bench.level), bench.tried)
    tried.advance()
    assert bench.run.trace.to_bytes() == tried.trace.to_bytes()


def a_bar():
    from gatillo.level.model import KeyBar

    return KeyBar(key="Left", start=1.0, end=1.5)


def as_dict(doc):
    return {name: getattr(doc, name) for name in doc.__struct_fields__}


def test_an_edit_that_is_more_than_a_number_pauses_as_before(window, qtbot):
    bench = window.bench
    run(window)
    bench.player.go_on(10)
    bench.edit(edits.switch_rule(bench.level, 1, False), "switch off")
    assert not bench.player.running
    settle(qtbot, window)


def test_a_loop_plays_a_stretch_round_and_round_and_each_round_has_the_new_number(window, qtbot):
    bench = window.bench
    bench.stretch = (60, 90)
    window.actions_["loop"].trigger()
    bench.player._clock.stop()
    assert bench.player.running and bench.cursor.tick == 60
    bench.player.go_on(30)
    assert bench.cursor.tick == 90 and bench.world.level["n"] == 90
    bench.player.go_on(1)
    assert bench.cursor.tick == 60
    tune(window, "2")
    bench.player.go_on(30)
    assert bench.world.level["n"] == 60 + 60, "what comes before the stretch is not run again"
    bench.player.go_on(1)
    bench.player.go_on(10)
    assert bench.cursor.tick == 70 and bench.world.level["n"] == 80
    window.actions_["loop"].trigger()
    assert not bench.player.running
    settle(qtbot, window)
    assert bench.run.trace.to_bytes() == anew(bench).trace.to_bytes()


def test_a_stretch_is_marked_on_the_time_axis_with_shift(window):
    order, bench = window.order, window.bench
    y = 12
    first, last = order.scale.middle(50), order.scale.middle(110)
    viewport = order.viewport()
    shift = Qt.KeyboardModifier.ShiftModifier
    QTest.mousePress(viewport, Qt.MouseButton.LeftButton, shift, QPoint(round(first), y))
    QTest.mouseMove(viewport, QPoint(round(last), y))
    QTest.mouseRelease(viewport, Qt.MouseButton.LeftButton, shift, QPoint(round(last), y))
    assert bench.stretch is not None
    assert abs(bench.stretch[0] - 50) <= 2 and abs(bench.stretch[1] - 110) <= 2
    order.viewport().grab()
    QTest.mouseClick(viewport, Qt.MouseButton.LeftButton, shift, QPoint(round(first), y))
    assert bench.stretch is None


def test_playing_from_the_marked_moment_begins_there(window):
    bench = window.bench
    bench.stretch = (60, 90)
    window.actions_["play mark"].trigger()
    bench.player._clock.stop()
    assert bench.player.playing and bench.run.done == 60
    bench.player.stop()


@pytest.mark.parametrize("seed", [3, 11])
def test_anybody_can_play_tune_and_loop_at_random(open_window, qtbot, seed):
    """Random playing, tuning, looping, edits and undo: nothing raises, and the level can always be saved and opened."""
    chance = random.Random(seed)
    window = open_window(read_level(study_path("06-moths.gatillo")))
    bench, player = window.bench, window.bench.player
    window.region.stand(chance.choice(["beside", "below", "instead"]))

    def go_on():
        player._clock.stop()
        player.go_on(chance.randrange(1, 25))

    def press():
        name = chance.choice(["Up", "Left", "Space", "F"])
        (player.press if chance.random() < 0.6 else player.release)(name)
        player.point(chance.uniform(0, 800), chance.uniform(0, 500))

    def tune_any():
        target = chance.choice(targets(bench.level))
        if chance.random() < 0.4:
            bench.begin_live()
        text = chance.choice(["0", "1", "7.5", "-3", "200", "1 / 0", "nobody", ""])
        with contextlib.suppress(SweepError):
            bench.edit(target.put(bench.level, text), "tune", target.name)
        if chance.random() < 0.7:
            bench.end_live()

    def command():
        names = [
            "run",
            "play keys",
            "play start",
            "play again",
            "play mark",
            "loop",
            "keep script",
            "keep trial",
            "show script",
        ]
        names += ["undo", "redo", "start", "tick", "back tick", "rule on", "next of it", "follow", "ask why"]
        window.actions_[chance.choice(names)].trigger()

    def mark():
        first = chance.randrange(0, 200)
        bench.mark_stretch(chance.choice([None, (first, first + chance.randrange(1, 90))]))

    def take():
        box = window.run_bar.trial
        at = chance.randrange(box.count())
        if box.itemText(at):
            box.activated.emit(at)

    for number in range(150):
        chance.choice([go_on, go_on, go_on, press, tune_any, tune_any, command, command, mark, take])()
        QApplication.processEvents()
        if number % 10 == 0:
            assert decode_level(encode_level(bench.level)) == bench.level
    bench.end_live()
    player.stop()
    settle(qtbot, window)
    tried = Run(Program(edits.as_tried(bench.level, bench.tried)), bench.tried)
    tried.advance()
    assert bench.run.trace.to_bytes() == tried.trace.to_bytes()
    assert not window.grab().isNull()


def test_a_number_is_dragged_in_the_order_list_while_it_is_played_with_real_presses(window, qtbot):
    bench, order = window.bench, window.order
    window.actions_["play keys"].trigger()
    bench.player._clock.stop()
    QTest.keyPress(window.level_view, Qt.Key.Key_Up)
    bench.player.go_on(10)
    at = next(i for i, row in enumerate(order.state.rows) if row.rule is not None)
    word = next(w for w in order.state.slots_of(at) if w.slot == "amount")
    start = order.geometry_.word_area(at, word).center().toPoint()
    viewport, left = order.viewport(), Qt.MouseButton.LeftButton
    QTest.mousePress(viewport, left, Qt.KeyboardModifier.NoModifier, start)
    for step in (8, 24, 44):
        QTest.mouseMove(viewport, start + QPoint(step, 0))
        bench.player.go_on(5)
        assert bench.player.playing
    QTest.mouseRelease(viewport, left, Qt.KeyboardModifier.NoModifier, start + QPoint(44, 0))
    amount = float(bench.level.order[0].do[0].slots["amount"])
    assert amount > 1 and bench.player.playing and len(bench.flags) == 1
    before = bench.world.level["n"]
    bench.player.go_on(3)
    assert bench.world.level["n"] == pytest.approx(before + 3 * amount)
    assert bench.document.history.undoes is not None
    bench.player.stop()
    settle(qtbot, window)
    window.actions_["undo"].trigger()
    window.actions_["undo"].trigger()
    assert bench.level.order[0].do[0].slots["amount"] == "1"


def test_a_setting_is_tuned_by_its_slider_while_it_runs(window, qtbot):
    bench = window.bench
    bench.select(Selection(thing=Thing("kind", "Cart")))
    QApplication.processEvents()
    run(window)
    bench.player.go_on(10)
    slider = next(s for s in window.sheet.findChildren(QSlider) if s.objectName().endswith("speed-slider"))
    slider.setSliderDown(True)
    for at in (120, 150, 180):
        slider.setSliderPosition(at)
        bench.player.go_on(3)
        assert bench.player.running
    slider.setSliderDown(False)
    assert float(bench.level.kinds[0].behaviours[0].slots["speed"]) > 60
    assert [flag.tick for flag in bench.flags] == [10]
    bench.player.stop()
    settle(qtbot, window)
    window.actions_["undo"].trigger()
    assert bench.document.history.undoes is None, "one tuning is one undo"
