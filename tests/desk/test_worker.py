"""What a worker does when its work breaks: it is free again, the error is reported, and the window goes on."""

from __future__ import annotations

import sys

import pytest
from msgspec.structs import replace

from conftest import settle  # type: ignore[attr-defined]
from gatillo.desk.session.worker import Gate, Worker


@pytest.fixture
def reported(monkeypatch):
    errors = []
    monkeypatch.setattr(sys, "excepthook", lambda kind, error, trace: errors.append(error))
    return errors


def broken(*_, **__):
    raise RuntimeError("a wheel came off")


def test_a_job_that_raises_leaves_the_worker_free_and_is_reported(qtbot, reported):
    worker = Worker("test", Gate())
    with qtbot.waitSignal(worker.failed):
        worker.ask(broken, lambda found: None)
    assert not worker.busy
    assert [str(error) for error in reported] == ["a wheel came off"]
    found = []
    worker.ask(lambda job: 7, found.append)
    qtbot.waitUntil(lambda: found == [7])
    worker.close()


def test_a_job_that_was_dropped_before_it_raised_frees_nothing_of_the_next(qtbot, reported):
    worker, found = Worker("test", Gate()), []
    worker.ask(broken, found.append)
    worker.ask(lambda job: 8, found.append)
    qtbot.waitUntil(lambda: found == [8])
    worker.close()


def test_a_run_that_breaks_leaves_the_run_before_it_and_the_next_edit_is_run(
    open_window, qtbot, monkeypatch, reported
):
    window = open_window()
    bench = window.bench
    before = bench.run
    with monkeypatch.context() as patched:
        patched.setattr("gatillo.desk.session.replay.Replay.finish", broken)
        patched.setattr("gatillo.desk.session.replay.soon_begun", lambda run: False)
        with qtbot.waitSignal(bench._replayer.failed):
            bench.edit(change(bench), "break it")
    assert bench.progress is None and bench.shown.growing is None
    assert bench.run is before and reported
    bench.edit(change(bench, 7.0), "mend it")
    settle(qtbot, window)
    assert bench.run is not before


def change(bench, gravity=3.0):
    return replace(bench.level, settings=replace(bench.level.settings, gravity=gravity))


def test_a_question_that_breaks_says_so(open_window, qtbot, monkeypatch, reported):
    window = open_window()
    bench = window.bench
    monkeypatch.setattr("gatillo.inspect.reasons.why.Explainer.fired", broken)
    firing = bench.run.trace.firings_at(next(f.tick for f in bench.run.trace.firings()))[0]
    bench.answers.why(firing.tick, firing.position)
    qtbot.waitUntil(lambda: bench.answers.page is not None and not bench.answers.page.busy)
    assert "could not be answered" in bench.answers.page.notes[0]
    assert not bench.answers.busy
