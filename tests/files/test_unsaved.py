"""Unsaved work survives the program that had it; a second window on one file is noticed."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from another_process import another_process
from building import START, add, level, rule
from gatillo.files import level_file
from gatillo.files.kept_takes import Take, TakeKeeper
from gatillo.files.level_file import LevelFileError
from gatillo.files.owners import clear_leftovers, number_of, write_aside
from gatillo.files.unsaved import DraftSaver, Left, OpenMark, left_behind, look_for_work, recover, throw_away
from gatillo.level.model import Input

LEVEL = level(rule("r", when=START, do=add("level.n")), has={"n": 0.0})


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
    # but the mark that this process runs
    assert [file.suffix for file in tmp_path.iterdir()] == [".alive"]


def test_a_broken_file_of_unsaved_work_is_passed_over_or_told(tmp_path):
    (tmp_path / "1-x.unsaved").write_text("{")
    assert left_behind(tmp_path) == []
    drafts = DraftSaver(tmp_path)
    drafts.save(LEVEL, None)
    kept = drafts.file.rename(tmp_path / "1-y.unsaved")
    (left,) = left_behind(tmp_path)
    kept.write_text('{"of": "", "name": "n", "level": {"gatillo": 99, "name": "n"}}')
    with pytest.raises(LevelFileError, match="newer Gatillo"):
        recover(left)


def test_another_process_with_the_file_open_is_told_by_every_name_of_the_file(tmp_path):
    path, folder = tmp_path / "a.gatillo", tmp_path / "state"
    path.write_text("{}")
    link, twin = tmp_path / "link.gatillo", tmp_path / "twin.gatillo"
    mark = OpenMark(path, folder)
    mark.set()
    assert mark.other() is None
    mark.clear()
    link.symlink_to(path)
    with another_process(path, folder) as other:
        for name in (path, link, tmp_path / "x" / ".." / "a.gatillo"):
            (tmp_path / "x").mkdir(exist_ok=True)
            assert OpenMark(name, folder).other() == str(other.pid)
        assert left_behind(folder) == []
    assert OpenMark(path, folder).other() is None
    assert len(left_behind(folder)) == 1
    os.link(path, twin)
    with another_process(path, folder) as other:
        assert OpenMark(twin, folder).other() == str(other.pid)


def test_a_process_that_has_the_number_of_the_ended_one_does_not_hide_what_that_left(tmp_path):
    """As in a container, where a program has the same number at each start."""
    with another_process(tmp_path / "a.gatillo", tmp_path):
        pass
    drafts = DraftSaver(tmp_path)
    drafts.save(LEVEL, None)
    (kept,) = [left.file for left in left_behind(tmp_path)]
    now = f"-{os.getpid()}-"
    as_mine = kept.rename(kept.with_name(kept.name.replace(kept.name.split("-")[1], str(os.getpid()))))
    assert now in as_mine.name
    assert [left.file for left in left_behind(tmp_path)] == [as_mine]


@pytest.mark.parametrize("name", ["²-x", "9" * 20 + "-x", "-", "", "a+b", "x" * 240, "1-²-3", "\udcff"])
def test_whatever_the_folder_holds_is_passed_over_and_told(tmp_path, name):
    (tmp_path / f"{name}.unsaved").write_text("no draft")
    (tmp_path / f"{name}.takes").write_text("no takes")
    (tmp_path / "folder.unsaved").mkdir()
    os.mkfifo(tmp_path / "pipe.unsaved")
    assert left_behind(tmp_path) == []
    told = " ".join(look_for_work(tmp_path)[1])
    assert all(words in told for words in (".unsaved", "is a folder", "is a pipe"))
    assert TakeKeeper(tmp_path).left(None, name) == []
    assert number_of(name) == ""


def test_unsaved_work_is_for_its_user_alone_and_leaves_no_halves(tmp_path):
    folder = tmp_path / "deep" / "state"
    drafts = DraftSaver(folder)
    drafts.save(LEVEL, None)
    TakeKeeper(folder).keep([Take(1, "t", Input(), 0, 1, 60, "12:00")], None, "n")
    modes = {file.suffix: file.stat().st_mode & 0o777 for file in folder.iterdir()}
    assert modes == {".unsaved": 0o600, ".takes": 0o600, ".alive": 0o600}
    assert folder.stat().st_mode & 0o777 == 0o700
    half = folder / "1-2-3+4.unsaved.part"
    half.write_text("{")
    mine = drafts.file.with_name(drafts.file.name + ".part")
    mine.write_text("{")
    clear_leftovers(folder)
    assert not half.exists() and mine.exists()


def test_a_state_folder_that_is_a_file_or_is_full_is_an_error_that_can_be_told(tmp_path):
    (tmp_path / "state").write_text("")
    with pytest.raises(OSError):
        DraftSaver(tmp_path / "state").save(LEVEL, None)
    assert left_behind(tmp_path / "state") == look_for_work(tmp_path / "state")[1] == []
    with pytest.raises(OSError):
        write_aside(Path("/dev/full/x"), b"")


def test_work_that_is_too_much_with_line_breaks_can_be_brought_back(tmp_path, monkeypatch):
    monkeypatch.setattr(level_file, "MOST_BYTES", len(level_file.encode_level(LEVEL)) - 1)
    drafts = DraftSaver(tmp_path)
    drafts.save(LEVEL, None)
    left = Left(drafts.file, None, "x", 0.0)
    assert recover(left) == LEVEL
