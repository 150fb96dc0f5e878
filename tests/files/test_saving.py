"""Saving loses nothing: limits, links, modes, names, kills, leftovers."""

from __future__ import annotations

import os
import signal
import stat
import subprocess
import sys
import time
from pathlib import Path

import pytest
from msgspec.structs import replace

from building import level
from gatillo.files import level_file
from gatillo.files.level_file import LevelFileError, decode_level, read_level, why_not_written, write_level
from gatillo.files.saving import clear_leftovers
from gatillo.level.model import Spot, empty_level

ONE, TWO = level(has={"n": 1.0}), level(has={"n": 2.0})


def test_a_level_that_could_not_be_opened_again_is_not_written_and_both_versions_stay(tmp_path, monkeypatch):
    path = tmp_path / "a.gatillo"
    write_level(path, ONE)
    write_level(path, TWO)
    monkeypatch.setattr(level_file, "MOST_BYTES", 300)
    with pytest.raises(LevelFileError, match=r"at most 0 MB.*unchanged"):
        write_level(path, level(has={f"n{i}": 1.0 for i in range(50)}))
    monkeypatch.undo()
    assert read_level(path) == TWO
    assert read_level(tmp_path / "a.gatillo~") == ONE


def test_a_level_that_fits_only_without_its_line_breaks_is_written_without_them(tmp_path, monkeypatch):
    path = tmp_path / "a.gatillo"
    built = level(has={f"n{i}": 1.0 for i in range(50)})
    monkeypatch.setattr(level_file, "MOST_BYTES", len(level_file.encode_level(built)) - 1)
    write_level(path, built)
    assert read_level(path) == built


def test_a_symbolic_link_stays_and_its_target_is_saved(tmp_path):
    (tmp_path / "far").mkdir()
    target, link = tmp_path / "far" / "a.gatillo", tmp_path / "link.gatillo"
    write_level(target, ONE)
    link.symlink_to(target)
    write_level(link, TWO)
    assert link.is_symlink()
    assert read_level(target) == TWO
    assert read_level(tmp_path / "far" / "a.gatillo~") == ONE


def test_hard_links_stay_one_file_and_its_previous_version_is_its_own(tmp_path):
    one, other = tmp_path / "a.gatillo", tmp_path / "b.gatillo"
    write_level(one, ONE)
    os.link(one, other)
    write_level(one, TWO)
    assert read_level(other) == TWO and one.stat().st_ino == other.stat().st_ino
    assert read_level(tmp_path / "a.gatillo~") == ONE


def test_mode_and_attributes_are_kept(tmp_path):
    path = tmp_path / "a.gatillo"
    write_level(path, ONE)
    path.chmod(0o640)
    try:
        os.setxattr(path, "user.colour", b"green")
    except OSError:
        pytest.skip("this disk has no attributes")
    write_level(path, TWO)
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    assert os.getxattr(path, "user.colour") == b"green"


def test_what_is_not_a_regular_file_is_refused(tmp_path):
    pipe = tmp_path / "pipe.gatillo"
    os.mkfifo(pipe)
    with pytest.raises(LevelFileError, match="not a regular file"):
        write_level(pipe, ONE)
    assert stat.S_ISFIFO(pipe.stat().st_mode)


@pytest.mark.parametrize(("letters", "kept"), [(246, True), (254, True), (255, False)])
def test_the_longest_names_are_saved_and_it_is_said_where_no_previous_version_fits(tmp_path, letters, kept):
    path = tmp_path / ("x" * (letters - len(".gatillo")) + ".gatillo")
    write_level(path, ONE)
    note = write_level(path, TWO)
    assert read_level(path) == TWO
    assert (note == "") is kept
    assert kept or "previous version could not be kept" in note


def test_leftovers_of_programs_that_ended_are_cleared_away_and_those_of_running_ones_stay(tmp_path):
    ended = subprocess.Popen([sys.executable, "-c", ""])
    ended.wait()
    gone = tmp_path / f".gatillo-{ended.pid}-0123abcd.saving"
    mine = tmp_path / f".gatillo-{os.getpid()}-0123abcd.saving"
    other = tmp_path / ".gatillo-notes.txt"
    for file in (gone, mine, other):
        file.touch()
    clear_leftovers(tmp_path)
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted((mine.name, other.name))


SAVES = """
import sys
from pathlib import Path
sys.path.insert(0, sys.argv[2])
from building import level
from gatillo.files.level_file import write_level
path = Path(sys.argv[1])
write_level(path, level(has={"n": 0.0}))
write_level(path, level(has={"n": 1.0}))
print("begun", flush=True)
for n in range(2, 100_000):
    write_level(path, level(has={"n": float(n)}))
"""


def test_killed_at_any_moment_there_are_two_whole_versions_and_the_next_save_clears_up(tmp_path):
    path = tmp_path / "a.gatillo"
    tests = str(Path(__file__).parents[1])
    for moment in (0.003, 0.011, 0.017, 0.026, 0.04):
        saver = subprocess.Popen([sys.executable, "-c", SAVES, str(path), tests], stdout=subprocess.PIPE)
        assert saver.stdout is not None
        saver.stdout.readline()
        time.sleep(moment)
        saver.send_signal(signal.SIGKILL)
        saver.wait()
        now, before = (decode_level(p.read_bytes()) for p in (path, tmp_path / "a.gatillo~"))
        values = [made.variables[0].value for made in (before, now)]
        assert values[1] - values[0] in (0, 1)
    write_level(path, ONE)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.gatillo", "a.gatillo~"]


def test_a_number_out_of_its_range_is_told_with_its_place_when_it_is_written(tmp_path):
    far = replace(empty_level(), places=(Spot(name="far", x=2e9, y=0.0),))
    assert why_not_written(far) == "this number must be at most 1,000,000,000 (places[0].x)"
    with pytest.raises(LevelFileError, match="at most 1,000,000,000"):
        write_level(tmp_path / "a.gatillo", far)
    assert not list(tmp_path.iterdir())
    assert why_not_written(empty_level()) == ""
