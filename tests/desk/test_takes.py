"""Takes: playing changes no trial; what was played can be looked at, compared, kept and played again."""

from __future__ import annotations

import os

import pytest
from hands import Hands
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from conftest import settle
from gatillo.desk.session import takes as takes_module
from gatillo.files.kept_takes import TakeKeeper
from gatillo.files.level_file import encode_level
from gatillo.level import thing_edits
from gatillo.sim.run.run import Cursor

SHIFT_F5 = (Qt.Key.Key_F5, Qt.KeyboardModifier.ShiftModifier)


@pytest.fixture
def study(open_window):
    """The first study, with its clock in the test's hands while it is played."""
    return open_window()


def play(window, *, from_tick: int = 0, keys: tuple[tuple[str, int], ...] = (), ticks: int = 60):
    """Play with real keys: each is held for some ticks, one after the other."""
    window.bench.move_cursor(window.bench.run.end_of(from_tick))
    window.actions_["play keys"].trigger()
    window.bench.player._clock.stop()
    left = ticks
    for name, held in keys:
        key = getattr(Qt.Key, f"Key_{name}")
        QTest.keyPress(window.level_view, key)
        window.bench.player.go_on(held)
        QTest.keyRelease(window.level_view, key)
        left -= held
    window.bench.player.go_on(left)
    QTest.keyClick(window.level_view, Qt.Key.Key_Escape)
    assert not window.bench.player.playing


def offered(window) -> dict[str, QPushButton]:
    return {b.text(): b for b in window.message.findChildren(QPushButton) if not b.isHidden()}


def inputs(window) -> list[tuple[str, bool]]:
    return [(row.words[0].text, row.pale) for row in window.order.state.rows if row.sort == "input"]


def test_playing_changes_nothing_of_the_level_nor_of_the_verdicts(study, qtbot):
    bench = study.bench
    before = encode_level(bench.level)
    verdicts = [v.outcome for v in bench.shown.verdicts]
    play(study, keys=(("Right", 30),))
    settle(qtbot, study)
    assert encode_level(bench.level) == before
    assert not study.isWindowModified()
    assert bench.document.history.undoes is None
    assert [v.outcome for v in bench.shown.verdicts] == verdicts


def test_a_take_is_shown_above_the_script_which_stays_pale(study, qtbot):
    bench = study.bench
    script = len([row for row in study.order.state.rows if row.sort == "input"])
    play(study, keys=(("Right", 30),))
    settle(qtbot, study)
    rows = inputs(study)
    assert rows[0] == ("take 1", False)
    assert rows[1:] == [("input", True)] * script
    assert [(b.key, b.start, b.end) for b in bench.tried.input.keys] == [
        ("Right", pytest.approx(1 / 60), pytest.approx(31 / 60))
    ]
    assert bench.run.done == bench.run.length == 60


def test_a_take_run_by_itself_is_what_was_played_to_the_byte(study, qtbot):
    bench = study.bench
    seen = []
    bench.takes.ended.connect(lambda take: seen.append(bench.run.trace.to_bytes()))
    play(study, keys=(("Right", 30), ("Up", 20)), ticks=80)
    settle(qtbot, study)
    assert bench.run.trace.to_bytes() == seen[0]


def test_a_held_key_is_one_bar_whatever_the_keyboard_repeats(study, qtbot):
    bench = study.bench
    study.actions_["play keys"].trigger()
    bench.player._clock.stop()
    QTest.keyPress(study.level_view, Qt.Key.Key_Right)
    for _ in range(20):
        bench.player.go_on(2)
        for sort in (QEvent.Type.KeyRelease, QEvent.Type.KeyPress):
            again = QKeyEvent(sort, Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, "", True)
            QApplication.sendEvent(study.level_view, again)
    bench.player.stop()
    assert len(bench.tried.input.keys) == 1
    assert bench.tried.input.keys[0].end == pytest.approx(40 / 60)


def test_the_bar_offers_what_can_be_done_with_a_take(study, qtbot):
    play(study, keys=(("Right", 30),))
    assert set(offered(study)) == {
        "Close",
        "Play again",
        "Keep as this trial's script",
        "Keep as a new trial",
        "Back to the script",
    }


def test_keeping_a_take_as_the_script_is_one_edit_that_undo_takes_back(study, qtbot):
    bench = study.bench
    before = bench.trial.input
    play(study, keys=(("Right", 30),))
    offered(study)["Keep as this trial's script"].click()
    settle(qtbot, study)
    assert [b.key for b in bench.trial.input.keys] == ["Right"]
    assert bench.takes.shown is None and inputs(study) == [("input", False)]
    study.actions_["undo"].trigger()
    assert bench.trial.input == before
    assert bench.document.history.undoes is None


def test_keeping_a_take_as_a_new_trial_leaves_the_old_one(study, qtbot):
    bench = study.bench
    old = bench.trial
    play(study, keys=(("Right", 30),))
    offered(study)["Keep as a new trial"].click()
    settle(qtbot, study)
    assert bench.trial.name != old.name and bench.trial.seed == old.seed
    assert [b.key for b in bench.trial.input.keys] == ["Right"]
    assert next(t for t in bench.level.trials if t.name == old.name) == old


def test_back_to_the_script_shows_its_run_and_verdicts_again(study, qtbot):
    bench = study.bench
    run, verdicts = bench.run.trace.to_bytes(), [v.outcome for v in bench.shown.verdicts]
    play(study, keys=(("Right", 30),))
    settle(qtbot, study)
    QTest.keyClick(study, *SHIFT_F5)
    settle(qtbot, study)
    assert bench.takes.shown is None
    assert bench.run.trace.to_bytes() == run
    assert [v.outcome for v in bench.shown.verdicts] == verdicts
    assert not any(pale for _, pale in inputs(study))


def test_playing_again_begins_where_the_take_began(study, qtbot):
    bench = study.bench
    play(study, from_tick=40, keys=(("Right", 30),))
    QTest.keyClick(study, Qt.Key.Key_F5)
    bench.player._clock.stop()
    assert bench.player.playing and bench.run.done == 40
    bench.player.stop()


def test_an_edit_while_a_take_is_shown_runs_the_take_and_judges_the_script(study, qtbot):
    bench = study.bench
    play(study, keys=(("Right", 30),))
    settle(qtbot, study)
    verdicts = len(bench.trial.expectations)
    Hands(qtbot, study)
    study.order.state.toggle_on(next(i for i, r in enumerate(study.order.state.rows) if r.sort == "rule"))
    settle(qtbot, study)
    qtbot.waitUntil(lambda: len(bench.shown.verdicts) == verdicts)
    assert bench.takes.shown is not None and bench.run.length == 60
    assert any(v.outcome == "failed" for v in bench.shown.verdicts)


def test_the_last_ten_takes_are_listed_and_can_be_shown_and_compared(study, qtbot, monkeypatch):
    bench = study.bench
    for n in range(11):
        play(study, keys=(("Right", 10 + n),), ticks=40)
    listed = bench.takes.of_trial(bench.trial.name)
    assert [take.number for take in listed] == [*range(11, 1, -1)]
    box = study.run_bar.trial
    at = next(i for i in range(box.count()) if box.itemText(i).startswith("Take 3 "))
    box.setCurrentIndex(at)
    box.activated.emit(at)
    settle(qtbot, study)
    assert bench.takes.shown.number == 3
    asked = {}

    def choose(words, names):
        asked["names"] = names
        return names[0]

    study.asking.choose = choose
    study.actions_["beside other"].trigger()
    assert (
        asked["names"][0].startswith("the script of") and len([n for n in asked["names"] if "Take" in n]) == 9
    )
    qtbot.waitUntil(lambda: bench.beside.run is not None)
    assert bench.beside.comparison.words()


def test_takes_are_kept_over_a_crash(study, qtbot, monkeypatch, tmp_path):
    bench = study.bench
    play(study, keys=(("Right", 30),))
    keeper = bench.takes._keeper
    # the window ends without being closed, and its process runs no more
    left = keeper.file.with_name(keeper.file.name.replace(str(os.getpid()), "999999999", 1))
    path = tmp_path / "mine.gatillo"
    path.write_bytes(encode_level(bench.level))
    bench.takes._keeper.keep(bench.takes.all, path, "")
    keeper.file.rename(left)
    bench.takes.forget()
    assert study.open_path(path)
    settle(qtbot, study)
    assert [take.number for take in bench.takes.all] == [1]
    assert not left.exists()
    assert bench.takes.all[0].input.keys[0].key == "Right"


def test_a_broken_file_of_takes_is_passed_over(tmp_path):
    (tmp_path / "999999999-abc.takes").write_text("{")
    assert TakeKeeper(tmp_path).left(tmp_path / "x.gatillo") == []


def test_another_level_has_no_takes_of_the_one_before(study, qtbot):
    play(study, keys=(("Right", 30),))
    study.actions_["new"].trigger()
    assert study.bench.takes.all == [] and study.bench.takes.shown is None
    assert takes_module.MOST_TAKES == 10


def test_stopping_at_once_makes_no_take(study):
    study.bench.move_cursor(Cursor())
    script = study.bench.trial.input
    study.actions_["play keys"].trigger()
    study.bench.player.stop()
    assert study.bench.trial.input == script


def test_playing_from_the_start_begins_there_and_the_same_key_stops(study):
    bench = study.bench
    bench.move_cursor(bench.run.end_of(100))
    QTest.keyClick(
        study, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    bench.player._clock.stop()
    assert bench.player.playing and bench.run.done == 0
    QTest.keyClick(
        study.level_view,
        Qt.Key.Key_P,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    assert not bench.player.playing


def test_a_take_of_another_trial_is_not_shown_in_the_lanes_of_this_one(study, qtbot):
    bench = study.bench
    play(study, keys=(("Right", 30),))
    bench.edit(thing_edits.delete_trial(bench.level, bench.trial.name), "delete the trial")
    settle(qtbot, study)
    assert bench.take is None
    assert not any(tag.startswith("take") for tag, _ in inputs(study))
    assert bench.tried == bench.trial
