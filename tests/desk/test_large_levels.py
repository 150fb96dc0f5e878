"""Large and slow levels are opened, shown, played and saved beside the window, which goes on meanwhile."""

from __future__ import annotations

import threading

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QPushButton

from building import add, c, kind, level, rule, things
from gatillo.desk.level_view.canvas import MOST_MARKED
from gatillo.desk.level_view.specks import Specks
from gatillo.desk.session import moment_cache as moments
from gatillo.desk.session import open_file as level_file
from gatillo.desk.session import replay, workbench
from gatillo.desk.session.moment_words import firing_words
from gatillo.files.level_file import encode_level, read_level, write_level
from gatillo.level import edits
from gatillo.sim.run import run as running


def many(n=5_000, *, tagged=False, **more):
    spots = [(float(i % 70) * 9, float(i // 70) * 9) for i in range(n)]
    objects = things("Pod", *spots)
    if tagged:
        objects = tuple(replace(o, tags=(f"tag{o.id}",)) for o in objects)
    more.setdefault("when", c("every_tick"))
    return level(
        rule("r", **{"do": add("level.n"), **more}),
        has={"n": 0.0},
        kinds=(kind("Pod", 2, contact="none"),),
        objects=objects,
        seconds=1,
    )


@pytest.fixture
def large_file(tmp_path):
    path = tmp_path / "large.gatillo"
    write_level(path, many(tagged=True))
    assert path.stat().st_size > level_file.MOST_AT_ONCE
    return path


@pytest.fixture
def where_ticks_run(monkeypatch):
    """The threads in which ticks have run."""
    threads = set()
    tick = running.run_tick

    def noted(*args, **more):
        threads.add(threading.current_thread())
        return tick(*args, **more)

    monkeypatch.setattr(running, "run_tick", noted)
    return threads


@pytest.fixture
def slow(monkeypatch):
    """Every run counts as slow."""
    monkeypatch.setattr(moments, "AT_ONCE", -1.0)
    monkeypatch.setattr(workbench, "AT_ONCE", -1.0)
    monkeypatch.setattr(running.Run, "pace", 0.05)


def whole(window):
    return (
        window.bench.run.program is window.bench.program and window.bench.run.done >= window.bench.run.length
    )


def test_a_large_file_is_read_beside_the_window_and_then_shown(open_window, qtbot, large_file):
    window = open_window(level())
    assert window.open_path(large_file)
    assert window.bench.path is None and "Reading" in window.message.words.text()
    qtbot.waitUntil(lambda: window.bench.path == large_file)
    assert window.message.isHidden()
    assert window.bench.level == read_level(large_file)
    qtbot.waitUntil(lambda: whole(window))
    assert not window.bench.world.caches.tags, "no mask of a tag is made that nobody asks for"
    window.bench.move_cursor(window.bench.run.end_of(40))
    window.bench.player.play()
    qtbot.waitUntil(lambda: window.bench.player.playing)
    assert window.bench.run.done >= 40
    window.bench.player.stop()


def test_reading_can_be_given_up(open_window, qtbot, large_file):
    window = open_window(level())
    window.open_path(large_file)
    next(b for b in window.message.findChildren(QPushButton) if b.text() == "Do not open it").click()
    assert not window.bench.document.file._worker.busy
    window.open_path(large_file)
    qtbot.waitUntil(lambda: window.bench.path == large_file)


def test_a_level_changed_while_another_is_read_is_kept(open_window, qtbot, large_file):
    window = open_window(level())
    window.open_path(large_file)
    window.bench.edit(replace(window.bench.level, name="Mine"), "name it")
    qtbot.waitUntil(lambda: "was not opened" in window.message.words.text())
    assert window.bench.level.name == "Mine" and window.bench.path is None


def test_a_large_file_that_cannot_be_read_leaves_the_open_level(open_window, qtbot, large_file):
    large_file.write_bytes(large_file.read_bytes().replace(b'"y": 9.0', b'"y": "nine"', 1))
    window = open_window(level())
    before = window.bench.level
    window.open_path(large_file)
    qtbot.waitUntil(lambda: "large.gatillo, line" in window.message.words.text())
    assert window.bench.level is before


def test_a_large_level_is_saved_beside_the_window_and_what_was_done_meanwhile_is_unsaved(
    open_window, qtbot, tmp_path
):
    window = open_window(many())
    path = tmp_path / "mine.gatillo"
    bench = window.bench
    bench.edit(replace(bench.level, name="First"), "name it")
    saved = bench.level
    assert bench.document.save(path) and bench.path is None
    bench.edit(replace(bench.level, name="Second"), "name it")
    qtbot.waitUntil(lambda: bench.path == path)
    assert path.read_bytes() == encode_level(saved)
    assert bench.document.history.unsaved
    bench.document.undo()
    assert not bench.document.history.unsaved


def test_a_window_that_saves_before_it_closes_closes_when_the_file_is_whole(open_window, qtbot, tmp_path):
    window = open_window(many())
    window.bench.document.file.path = path = tmp_path / "mine.gatillo"
    window.bench.edit(replace(window.bench.level, name="Mine"), "name it")
    window.files.ask = lambda *_: "save"
    window.close()
    qtbot.waitUntil(lambda: not window.isVisible())
    assert read_level(path).name == "Mine"


def test_no_tick_of_a_slow_run_is_run_in_the_windows_thread(open_window, qtbot, slow, where_ticks_run):
    window = open_window(many(20))
    bench = window.bench
    for tick in (17, 44, 3):
        bench.move_cursor(bench.run.end_of(tick))
        qtbot.waitUntil(lambda: not bench.moment.awaited)
        assert bench.world.level["n"] == tick
    bench.begin_live()
    bench.edit(edits.move_objects(bench.level, frozenset([1]), 3.0, 0.0), "move it", "drag")
    bench.end_live()
    qtbot.waitUntil(lambda: whole(window))
    bench.player.play()
    qtbot.waitUntil(lambda: bench.run.done > 10 and bench.player.playing)
    bench.player.stop()
    qtbot.waitUntil(lambda: whole(window))
    assert where_ticks_run and threading.main_thread() not in where_ticks_run


def test_a_slow_run_is_played_back_moment_by_moment(open_window, qtbot, slow):
    window = open_window(many(20))
    bench, seen = window.bench, []
    bench.cursorMoved.connect(lambda: seen.append((bench.cursor.tick, bench.world.level["n"])))
    bench.player.speed = 8.0
    bench.moment.to_start()
    bench.player.toggle_run()
    qtbot.waitUntil(lambda: not bench.player.running)
    qtbot.waitUntil(lambda: not bench.moment.awaited)
    assert [n for tick, n in seen if tick == bench.run.done][-1] == bench.run.done
    ticks = [tick for tick, _ in seen]
    assert ticks == sorted(ticks)


def test_each_tick_that_is_played_is_run_once_only(open_window, monkeypatch):
    window = open_window(many(20))
    bench, ran = window.bench, []
    bench.player.play()
    bench.player._clock.stop()
    assert bench.player.playing
    tick = running.run_tick

    def noted(program, world, *more):
        ran.append(world.tick)
        return tick(program, world, *more)

    monkeypatch.setattr(running, "run_tick", noted)
    from_tick = bench.run.done
    for _ in range(8):
        bench.player.go_on(3)
    assert ran == list(range(from_tick, from_tick + 24))


def test_what_is_pressed_while_a_slow_run_is_played_is_recorded(open_window, qtbot, slow):
    window = open_window(many(3, when=c("key_pressed", key="E")))
    bench = window.bench
    bench.player.play()
    qtbot.waitUntil(lambda: bench.player.playing and bench.run.done >= 3)
    bench.player.press("E")
    pressed = bench.run.done
    qtbot.waitUntil(lambda: bench.run.done > pressed + 3)
    bench.player.release("E")
    bench.player.stop()
    (bar,) = bench.trial.input.keys
    assert bar.key == "E" and bar.start >= pressed / bench.program.rate - 1e-9
    qtbot.waitUntil(lambda: whole(window))
    assert bench.run.world.level["n"] == 1


def test_a_firing_that_says_something_to_thousands_is_told_in_a_few_lines(open_window, qtbot):
    window = open_window(many(3_000, do=c("say", text="here", who="Pod", time="2")))
    bench = window.bench
    bench.move_cursor(bench.run.end_of(5))
    qtbot.waitUntil(lambda: not bench.moment.awaited)
    told = window.sheet.live.text()
    assert "2,996 more" in told and len(told) < 4_000
    assert len(firing_words(bench.run, bench.cursor).splitlines()) < 20
    window.level_view.set_zoom(0.5)
    window.level_view.grab()
    assert window.level_view.unmarked >= 3_000 - MOST_MARKED


def test_specks_stand_where_their_objects_are_and_none_beyond_the_picture():
    picture = Specks(30, 20, 1.0)
    picture.put(
        np.array([5.0, 29.0, -40.0, 12.0]), np.array([5.0, 19.0, 3.0, 500.0]), 2.0, QColor("#FF0000"), True
    )
    image = picture.image()
    red = {(x, y) for x in range(30) for y in range(20) if image.pixelColor(x, y) == QColor("#FF0000")}
    assert (5, 5) in red and (7, 5) in red and (7, 7) not in red and (29, 19) in red
    assert all(np.hypot(x - 5, y - 5) <= 2 or np.hypot(x - 29, y - 19) <= 2 for x, y in red)


def test_a_long_run_is_shown_as_it_grows_and_can_be_walked_in_meanwhile(open_window, qtbot, monkeypatch):
    monkeypatch.setattr(replay, "FIRST_TOLD", 0.0)
    monkeypatch.setattr(replay, "WORTH_TELLING", 0.0)
    monkeypatch.setattr(replay, "THEN_TOLD", 0.0)
    window = open_window(many(3))
    bench, seen = window.bench, []

    def noted():
        run = bench.run
        seen.append((run.done, run.world.level["n"], run.world_at(run.end_of(run.done // 2)).level["n"]))

    bench.runChanged.connect(noted)
    built = many(3)
    bench.document.take(replace(built, trials=(replace(built.trials[0], length=8.0),)))
    qtbot.waitUntil(lambda: whole(window) and bench.run.done == 480)
    growing = [done for done, _, _ in seen if 0 < done < 480]
    assert len(set(growing)) >= 3 and growing == sorted(growing)
    assert all(now == done and half == done // 2 for done, now, half in seen)
    assert bench.run.trace.to_bytes() == again(bench).trace.to_bytes()


def again(bench):
    run = running.Run(bench.program, bench.trial)
    run.advance()
    return run
