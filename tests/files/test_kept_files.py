"""Files of every format that there was open for ever, hold all that they held, and run as they ran.

`format_N.tar.xz` holds what a Gatillo of that format wrote: the folder of `gatillo conformance` (levels, and their traces'
digests) and the examples. An archive is never made anew. When the format gets another number, one more is made.
"""

from __future__ import annotations

import json
import tarfile
from pathlib import Path

import pytest

from gatillo.conformance.levels import run_of
from gatillo.files.level_file import encode_level, read_level
from gatillo.level.model import FORMAT_VERSION
from gatillo.sim.program.program import Program

ARCHIVES = {
    int(one.name.split("_")[1].split(".")[0]): one for one in Path(__file__).parent.glob("format_*.tar.xz")
}
RUNS_OTHERWISE: dict[int, dict[str, str]] = {}
"""By format: levels that run otherwise today, and the sentence of CHANGELOG.md that says so."""


def test_every_format_has_its_files():
    assert sorted(ARCHIVES) == list(range(1, FORMAT_VERSION + 1))


@pytest.fixture(scope="module", params=sorted(ARCHIVES))
def kept(request, tmp_path_factory):
    folder = tmp_path_factory.mktemp(f"format{request.param}")
    with tarfile.open(ARCHIVES[request.param]) as archive:
        archive.extractall(folder, filter="data")
    return request.param, folder


def test_they_open_without_a_problem_and_lose_nothing(kept):
    number, folder = kept
    files = sorted(folder.rglob("*.gatillo"))
    assert len(files) > 250
    for file in files:
        level = read_level(file)
        assert Program(level).problems == [], file.name
        again = encode_level(level)
        if number == FORMAT_VERSION:
            assert again == file.read_bytes(), file.name
        else:
            assert read_written(again, file) == level, file.name


def read_written(raw, file):
    copy = file.with_suffix(".again")
    copy.write_bytes(raw)
    return read_level(copy)


def test_they_run_as_they_ran(kept):
    number, folder = kept
    listed = json.loads((folder / "conformance" / "levels.json").read_text())
    others = RUNS_OTHERWISE.get(number, {})
    changes = (Path(__file__).parents[2] / "CHANGELOG.md").read_text()
    assert all(said in changes for said in others.values())
    for one in listed:
        run = run_of(read_level(folder / "conformance" / one["level"]))
        as_it_ran = (run.done, run.trace.digest()) == (one["ticks"], one["digest"])
        assert as_it_ran != (one["level"] in others), one["level"]
