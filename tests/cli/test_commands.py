"""The commands, as they are called: what they write and the code they leave with."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from junitparser import JUnitXml
from msgspec.structs import replace
from typer.testing import CliRunner
from vcdvcd import VCDVCD

from building import START, add, heard, level, rule, send
from gatillo.cli.main import app
from gatillo.examples import DEMO, study_path
from gatillo.files.level_file import write_level
from gatillo.level.model import FiresTimes

STUDY = str(study_path(DEMO))


def call(*words: str):
    return CliRunner().invoke(app, list(words))


@pytest.fixture
def failing(tmp_path: Path) -> str:
    path = tmp_path / "failing.gatillo"
    built = level(
        rule("r", when=START, do=add("level.n")),
        has={"n": 0.0},
        expect=(FiresTimes(rule="r", times=2), FiresTimes(rule="x", times=1)),
    )
    write_level(path, built)
    return str(path)


@pytest.fixture
def mistaken(tmp_path: Path) -> str:
    path = tmp_path / "mistaken.gatillo"
    write_level(path, level(rule("r", when=START, do=add("level.m")), has={"n": 0.0}))
    return str(path)


def test_check_passes_a_study_at_several_rates_and_seeds():
    result = call("check", STUDY, "--rates", "30,60", "--seeds", "2")
    assert result.exit_code == 0
    assert result.output.count("9 held") == 4


def test_check_fails_with_1_and_says_at_which_tick_and_why(failing):
    result = call("check", failing)
    assert result.exit_code == 1
    assert "“r” fires exactly 2 times at tick 60 because it fired 1 time by the end" in result.output
    assert "there is no rule called “x”" in result.output


def test_check_fails_when_a_rule_cannot_run(mistaken):
    result = call("check", mistaken)
    assert result.exit_code == 1
    assert "the level has no variable “m”" in result.output


def test_check_writes_json_a_program_can_read(failing):
    data = json.loads(call("check", failing, "--json").output)
    assert [e["outcome"] for e in data[0]["expectations"]] == ["failed", "could not be judged"]
    assert data[0]["passed"] is False


def test_check_writes_a_junit_report(failing, tmp_path):
    report = tmp_path / "report.xml"
    call("check", failing, "--junit", str(report))
    (suite,) = JUnitXml.fromfile(str(report))
    assert (suite.tests, suite.failures, suite.errors) == (2, 1, 1)
    assert [type(result).__name__ for case in suite for result in case.result] == ["Failure", "Error"]
    assert all(case.name and case.classname for case in suite)


@pytest.mark.parametrize(
    "words",
    [
        ("check", "/nowhere.gatillo"),
        ("run", STUDY, "--trial", "no such"),
        ("check", STUDY, "--rates", "fast"),
        ("check", STUDY, "--rates", "5"),
        ("run", STUDY, "--trace", "/tmp/x.doc"),
        ("shot", STUDY, "/nowhere/x.png", "--view", "nothing"),
    ],
)
def test_wrong_use_leaves_with_2_and_a_sentence(words):
    result = call(*words)
    assert result.exit_code == 2
    assert "Traceback" not in result.output


def test_run_tells_the_order_of_firing():
    output = call("run", STUDY).output
    line = next(li for li in output.splitlines() if "Good night" in li)
    assert "1. Basket fills   2. Tell the count   3. Good night" in line


def test_a_trace_is_written_as_json_lines(tmp_path):
    out = tmp_path / "t.jsonl"
    assert call("run", STUDY, "--trace", str(out)).exit_code == 0
    head, *records = [json.loads(line) for line in out.read_text().splitlines()]
    assert head["ticks"] == 900
    first = records[0]
    assert (first["tick"], first["position"], first["rule"], first["wrote"], first["sent"]) == (
        49,
        1,
        "Gather a pod",
        ["level.pods"],
        ["pod gathered"],
    )


def test_a_trace_is_written_as_csv(tmp_path):
    out = tmp_path / "t.csv"
    assert call("run", STUDY, "--trace", str(out)).exit_code == 0
    with out.open(newline="") as source:
        records = list(csv.DictReader(source))
    assert records[0]["rule"] == "Gather a pod"
    assert sum(r["rule"] == "Gather a pod" for r in records) == 15


def test_a_trace_is_written_as_value_change_dump(tmp_path):
    out = tmp_path / "t.vcd"
    assert call("run", STUDY, "--trace", str(out)).exit_code == 0
    signals = VCDVCD(str(out))
    name = next(n for n in signals.signals if "r1_Gather_a_pod" in n)
    changes = [(at, int(value, 2)) for at, value in signals[name].tv]
    assert (round(49 * 1e9 / 60), 1) in changes
    assert (round(81 * 1e9 / 60), 2) in changes


def test_print_writes_the_rules_as_markdown():
    output = call("print", STUDY).output
    assert output.startswith("# Seed pods")
    assert "1. **Gather a pod**\n   - *when* Gardener begins to touch Pod\n   - *do* 1. remove Pod" in output
    assert "(switched off)" in output


def test_lint_names_what_is_wrong(mistaken):
    result = call("lint", mistaken)
    assert result.exit_code == 1
    assert "error: rule “r”, do 1: variable: the level has no variable “m”" in result.output
    assert call("lint", STUDY).exit_code == 0


def test_demo_without_a_screen_tells_verdicts_and_saves_a_picture(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    environment["QT_QPA_PLATFORM"] = "offscreen"
    picture = tmp_path / "p.png"
    words = [sys.executable, "-m", "gatillo.cli.main", "demo", "--picture", str(picture)]
    result = subprocess.run(words, capture_output=True, text=True, env=environment, timeout=100)
    assert result.returncode == 0, result.stderr
    assert "1. Gather a pod" in result.stdout
    assert result.stdout.count(" held ") == 9
    assert picture.read_bytes().startswith(b"\x89PNG")
    assert "Traceback" not in result.stderr


def test_a_first_word_that_is_no_command_is_a_file_to_open():
    environment = {
        k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    }
    words = [sys.executable, "-m", "gatillo.cli.main", "some.gatillo"]
    result = subprocess.run(words, capture_output=True, text=True, env=environment, timeout=60)
    assert result.returncode == 2
    assert "no screen" in result.stderr


def test_faults_are_told_once_with_their_count(tmp_path):
    path = tmp_path / "f.gatillo"
    write_level(
        path,
        level(
            rule("r", do=add("level.n", "1 / level.z")),
            rule("s", when=heard("x"), do=send("x")),
            has={"n": 0.0, "z": 0.0},
        ),
    )
    output = call("run", str(path)).output
    assert output.count("divides by zero") == 1
    assert "(60 times)" in output


def test_accept_shows_the_difference_and_writes_the_accepted_order(tmp_path):
    path = tmp_path / "a.gatillo"
    write_level(path, level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}))
    asked = CliRunner().invoke(app, ["accept", str(path)], input="n\n")
    assert asked.exit_code == 1 and "+1 r ×1" in asked.output
    assert call("accept", str(path), "--yes").exit_code == 0
    assert call("check", str(path)).exit_code == 0
    assert "nothing to do" in call("accept", str(path)).output


def test_check_uses_the_trials_own_rates_and_seeds(tmp_path):
    path = tmp_path / "a.gatillo"
    built = level(
        rule("r", when=START, do=add("level.n")), has={"n": 0.0}, expect=(FiresTimes(rule="r", times=1),)
    )
    trial = replace(built.trials[0], rates=(30, 60), seeds=3)
    write_level(path, replace(built, trials=(trial,)))
    assert call("check", str(path)).output.count("1 held") == 6
