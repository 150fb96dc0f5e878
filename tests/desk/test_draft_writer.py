"""Unsaved work is written aside while edits go on, always the latest, and removed when all is saved."""

from __future__ import annotations

import threading

import pytest

from building import level
from gatillo.desk.session.draft_writer import DraftWriter
from gatillo.files import unsaved
from gatillo.files.unsaved import look_for_work


def numbered(n):
    return level(has={"n": float(n)})


@pytest.fixture
def writer(tmp_path, monkeypatch):
    monkeypatch.setenv("GATILLO_STATE", str(tmp_path))
    failures = []
    made = DraftWriter(lambda folder, why: failures.append((folder, why)))
    made.failures = failures
    yield made
    made.close()


@pytest.fixture
def written(monkeypatch):
    """What was written, and a gate at which each write waits until it is opened."""
    found, gate = [], threading.Semaphore(0)
    save = unsaved.DraftSaver.save

    def waits(self, level, of):
        gate.acquire(timeout=20)
        save(self, level, of)
        found.append(level.variables[0].value)

    monkeypatch.setattr(unsaved.DraftSaver, "save", waits)
    return found, gate


def test_a_level_is_written_though_edits_never_pause(writer, written):
    found, gate = written
    writer.keep(numbered(0), None)
    for n in range(1, 50):
        writer.keep(numbered(n), None)
    assert found == []
    gate.release(2)
    writer.flush()
    # the first at once; of those that came meanwhile only the last
    assert found in ([0.0, 49.0], [49.0])


def test_the_latest_level_is_what_can_be_brought_back(writer, tmp_path):
    for n in range(20):
        writer.keep(numbered(n), None)
    writer.flush()
    (file,) = tmp_path.glob("*.unsaved")
    assert b'"value":19' in file.read_bytes().replace(b" ", b"")
    # its process still runs
    assert look_for_work(tmp_path) == ([], [])


def test_after_saving_nothing_is_left(writer, tmp_path):
    writer.keep(numbered(1), None)
    writer.keep(None, None)
    writer.flush()
    assert not list(tmp_path.glob("*.unsaved"))


def test_a_failure_is_reported_once_until_it_works_again(tmp_path, monkeypatch):
    folder = tmp_path / "state"
    folder.write_text("")
    monkeypatch.setenv("GATILLO_STATE", str(folder))
    failures = []
    made = DraftWriter(lambda *words: failures.append(words))
    for n in range(3):
        made.keep(numbered(n), None)
        made.flush()
    assert len(failures) == 1
    made.close()
