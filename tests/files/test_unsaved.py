"""Unsaved work survives the program that had it; a second window on one file is noticed."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest

from building import START, add, level, rule
from gatillo.files.level_file import LevelFileError
from gatillo.files.unsaved import DraftSaver, OpenMark, left_behind, recover, throw_away

LEVEL = level(rule("r", when=START, do=add("level.n")), has={"n": 0.0})


def ended_process() -> int:
    done = subprocess.Popen([sys.executable, "-c", ""])
    done.wait()
    return done.pid


def test_what_a_running_window_keeps_is_not_offered(tmp_path):
    DraftSaver(tmp_path).save(LEVEL, None)
    assert left_behind(tmp_path) == []


def test_what_a_killed_process_kept_is_offered_and_brought_back(tmp_path):
    script = (
        "import os, signal, sys\n"
        "from pathlib import Path\n"
        "from gatillo.files.unsaved import DraftSaver\n"
        "from gatillo.level.model import empty_level\n"
        f"DraftSaver(Path({str(tmp_path)!r})).save(empty_level('Lost and found'), Path('/levels/a.gatillo'))\n"
        "os.kill(os.getpid(), signal.SIGKILL)\n"
    )
    subprocess.run([sys.executable, "-c", script], check=False, timeout=60)
    (left,) = left_behind(tmp_path)
    assert (left.name, str(left.of)) == ("Lost and found", "/levels/a.gatillo")
    assert recover(left).name == "Lost and found"
    throw_away(left)
    assert left_behind(tmp_path) == []


def test_forgetting_leaves_nothing(tmp_path):
    drafts = DraftSaver(tmp_path)
    drafts.save(LEVEL, None)
    drafts.forget()
    assert list(tmp_path.iterdir()) == []


def test_a_broken_file_of_unsaved_work_is_passed_over_or_told(tmp_path):
    (tmp_path / f"{ended_process()}-x.unsaved").write_text("{")
    assert left_behind(tmp_path) == []
    drafts = DraftSaver(tmp_path)
    drafts.save(LEVEL, None)
    kept = drafts.file.rename(tmp_path / f"{ended_process()}-y.unsaved")
    (left,) = left_behind(tmp_path)
    kept.write_text('{"of": "", "name": "n", "level": {"gatillo": 99, "name": "n"}}')
    with pytest.raises(LevelFileError, match="newer Gatillo"):
        recover(left)


def test_another_process_with_the_file_open_is_told(tmp_path):
    path = tmp_path / "a.gatillo"
    mark = OpenMark(path, tmp_path)
    mark.set()
    assert mark.other() is None
    other = subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE)
    mark.file.write_text(str(other.pid))
    assert OpenMark(path, tmp_path).other() == other.pid
    other.communicate(b"\n", timeout=30)
    assert OpenMark(path, tmp_path).other() is None
    assert os.getpid() != other.pid
