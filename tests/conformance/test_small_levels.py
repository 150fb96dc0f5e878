"""The small levels and their traces: every entry has one, they come out the same each time, and a plain loop passes the core."""

from __future__ import annotations

import json
from collections import Counter

import pytest
from plain_core import PlainCore
from typer.testing import CliRunner

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.cli.main import app
from gatillo.conformance.levels import run_of, small_levels
from gatillo.files.level_file import read_level
from plain_run import PlainRun
from random_logic import too_much


@pytest.fixture(scope="module")
def written(tmp_path_factory):
    folder = tmp_path_factory.mktemp("conformance")
    done = CliRunner().invoke(app, ["conformance", str(folder)])
    assert done.exit_code == 0, done.output
    return folder, json.loads((folder / "levels.json").read_text())


def lines_of(folder, one):
    return [json.loads(line) for line in (folder / one["trace"]).read_text().splitlines()]


def test_every_entry_has_a_level_of_which_every_rule_can_run():
    some = list(small_levels())
    assert len({(one.group, one.name) for one in some}) == len(some) > 150
    assert set(Counter(one.group for one in some)) == {"core", "motion", "graphs", "interaction"}
    named = {one.name for one in some}
    for entry in CATALOGUE.values():
        assert f"{entry.group}-{entry.name.replace('_', '-')}" in named
    for one in some:
        assert run_of(one.level).program.problems == [], one.name


def test_most_levels_show_something(written):
    folder, listed = written
    # an entry whose rule never fires, or whose behaviour moves nobody, shows nothing to a runtime
    still = []
    for one in listed:
        lines = lines_of(folder, one)
        fired = any(line.get("way") in ("do", "else") and line["rule"] != "Clock" for line in lines)
        values = {(line["watch"], str(line["value"])) for line in lines if line.get("way") == "watch"}
        if not fired and len(values) <= 8:
            still.append(one["level"])
    assert len(still) < 0.12 * len(listed), still


def test_what_is_written_can_be_read_and_runs_to_the_same_trace(written):
    folder, listed = written
    for one in listed[::7]:
        run = run_of(read_level(folder / one["level"]))
        assert (run.done, run.trace.digest()) == (one["ticks"], one["digest"])
        assert lines_of(folder, one)[0]["digest"] == one["digest"]


def test_the_plain_loop_passes_the_random_levels_of_the_core(written):
    """A runtime written from docs/how-a-level-runs.md reads the files alone: each firing in its order, and every number."""
    folder, listed = written
    passed = 0
    for one in (one for one in listed if one["level"].startswith("core/random")):
        level, lines = read_level(folder / one["level"]), lines_of(folder, one)
        plain = PlainRun(level)
        for tick in range(1, one["ticks"] + 1):
            plain.step()
            if too_much(plain):
                break
            here = [line for line in lines if line.get("tick") == tick]
            fired = [
                (tick, line["rule"], line["way"], line["matches"])
                for line in here
                if line["way"] in ("do", "else", "resumed")
            ]
            assert [f for f in plain.fired if f[0] == tick] == fired, (one["level"], tick)
            values = {line["watch"]: line["value"] for line in here if line["way"] == "watch"}
            assert values.get("level.u", plain.level.u) == plain.level.u
            assert values.get("level.v", plain.level.v) == plain.level.v
            for thing in plain.objects:
                if thing.id < 1_000:
                    name = next(o.name for o in level.objects if o.id == thing.id).replace(" ", "_")
                    for number in "pq":
                        told = values.get(f"{name}.{number}", getattr(thing, number))
                        assert told == getattr(thing, number), (one["level"], tick, name)
        else:
            passed += 1
    assert passed > 50


def test_the_plain_loop_passes_every_level_of_an_entry_of_the_core(written):
    """Each firing in its order, and the numbers of the level; where things are does not change in them."""
    folder, listed = written
    of_entries = [one for one in listed if one["group"] == "core" and "random" not in one["level"]]
    assert len(of_entries) > 50
    for one in of_entries:
        level, lines = read_level(folder / one["level"]), lines_of(folder, one)
        plain = PlainCore(level)
        while plain.tick < one["ticks"]:
            plain.step()
            here = [line for line in lines if line.get("tick") == plain.tick]
            fired = [
                (plain.tick, line["rule"], line["way"], line["matches"])
                for line in here
                if line["way"] in ("do", "else", "resumed")
            ]
            assert [f for f in plain.fired if f[0] == plain.tick] == fired, (one["level"], plain.tick)
            values = {line["watch"]: line["value"] for line in here if line["way"] == "watch"}
            for name in "nm":
                now = getattr(plain.level, name)
                assert values.get(f"level.{name}", now) == now, (one["level"], plain.tick, name)
        assert plain.over is (one["ticks"] < level.trials[0].length * level.settings.rate), one["level"]


def test_a_folder_that_cannot_be_written_is_said(tmp_path):
    (tmp_path / "file").write_text("")
    done = CliRunner().invoke(app, ["conformance", str(tmp_path / "file")])
    assert done.exit_code == 2
    assert "cannot be written" in done.output
