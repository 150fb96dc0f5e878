"""The commands, as they are called: what they write and the code they leave with."""

from __future__ import annotations

import csv
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import pytest
from junitparser import JUnitXml
from msgspec.structs import replace
from pycobertura import Cobertura
from pycobertura.filesystem import filesystem_factory
from typer.testing import CliRunner
from vcdvcd import VCDVCD

from building import EVERY_TICK, START, add, c, heard, isnt, kind, level, rule, send
from gatillo.cli.main import app
from gatillo.examples import DEMO, study_path
from gatillo.files.level_file import read_level, write_level
from gatillo.language.renaming import rename
from gatillo.level.expectations import FiresTimes, HoldsAt
from gatillo.level.model import Section, Trial

STUDY = str(study_path("01-seed-pods.gatillo"))
STUDY_1 = str(study_path("01-seed-pods.gatillo"))


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
    first = next(r for r in records if r["way"] == "do")
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
        records = [r for r in csv.DictReader(source) if r["way"] == "do"]
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
    assert "1. Give the key   2. End the talk" in result.stdout
    assert result.stdout.count(" held ") == len(read_level(study_path(DEMO)).trials[0].expectations)
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


# faults, notes and watches


@pytest.fixture
def faulty(tmp_path: Path) -> Path:
    path = tmp_path / "faulty.gatillo"
    built = level(
        rule(
            "share",
            when=c("every_seconds", period="0.5", first="0.5"),
            do=c("set_variable", variable="level.n", value="1 / level.m"),
        ),
        rule(
            "ask",
            when=c("every_seconds", period="0.5", first="0.5"),
            if_=c("formula_holds", formula="sqrt(level.m - 1) > 0"),
            do=add("level.m"),
        ),
        rule("tell", when=START, do=c("note", text="n is {level.n}")),
        has={"n": 3.0, "m": 0.0},
        expect=(FiresTimes(rule="tell", times=1),),
    )
    trial = replace(built.trials[0], watches=("level.n", "level.n > 2"))
    write_level(path, replace(built, trials=(trial,)))
    return path


def with_faults(path: Path, many: int) -> str:
    built = read_level(path)
    write_level(path, replace(built, trials=(replace(built.trials[0], faults=many),)))
    return str(path)


@pytest.mark.parametrize("command", ["check", "run"])
def test_a_fault_that_is_not_expected_fails_and_is_told_with_its_sentence(faulty, command):
    result = call(command, str(faulty))
    assert result.exit_code == 1
    assert "divides by zero" in result.output and "square root of a negative" in result.output
    assert "there were 4 faults; the trial expects none" in result.output
    assert call(command, with_faults(faulty, 4)).exit_code == 0
    result = call(command, with_faults(faulty, 5))
    assert result.exit_code == 1 and "the trial expects 5" in result.output


@pytest.mark.parametrize("command", ["check", "run"])
@pytest.mark.parametrize(("fails", "passes"), [(0, False), (1, True), (2, False)])
def test_a_trial_of_a_mistake_passes_when_just_so_many_expectations_catch_it(
    tmp_path, command, fails, passes
):
    path = tmp_path / "mistake.gatillo"
    times = (FiresTimes(rule="tell", times=1), FiresTimes(rule="tell", times=7))
    built = level(rule("tell", when=START, do=c("note", text="here")), expect=times)
    write_level(path, replace(built, trials=(replace(built.trials[0], fails=fails),)))
    result = call(command, str(path))
    assert (result.exit_code == 0) is passes
    assert "7" in result.output and read_level(path).trials[0].fails == fails


def test_faults_stand_in_the_junit_report(faulty, tmp_path):
    report = tmp_path / "r.xml"
    call("check", str(faulty), "--junit", str(report))
    suite = next(iter(JUnitXml.fromfile(str(report))))
    assert suite.errors == 1
    assert any("divides by zero" in (c.result[0].message or "") for c in suite if c.result)


def test_a_traces_lines_hold_faults_notes_and_watches_each_at_its_tick(faulty, tmp_path):
    out = tmp_path / "t.jsonl"
    call("run", str(faulty), "--trace", str(out))
    lines = [json.loads(line) for line in out.read_text().splitlines()[1:]]
    faults = [(x["tick"], x["rule"], x["part"]) for x in lines if x["way"] == "fault"]
    assert faults == [(30, "share", "do"), (30, "ask", "if"), (60, "share", "do"), (60, "ask", "if")]
    assert [x["text"] for x in lines if x["way"] == "note"] == ["n is 3"]
    assert [(x["tick"], x["watch"], x["value"]) for x in lines if x["way"] == "watch"] == [
        (0, "level.n", 3.0),
        (0, "level.n > 2", True),
    ]
    table = tmp_path / "t.csv"
    call("run", str(faulty), "--trace", str(table))
    rows = list(csv.DictReader(table.open()))
    assert [r["text"] for r in rows if r["way"] == "note"] == ["n is 3"]


def test_a_vcd_tells_do_else_and_resumed_apart_and_says_how(tmp_path):
    path, out = tmp_path / "l.gatillo", tmp_path / "t.vcd"
    built = level(
        rule(
            "r",
            when=c("every_seconds", period="0.2", first="0.2"),
            if_=c("compare", left="level.n", comparison="<", right="2"),
            do=[add("level.n"), c("wait", time="0.1"), c("note", text="on $end")],
            else_=add("level.m"),
        ),
        has={"n": 0.0, "m": 0.0},
    )
    write_level(path, replace(built, trials=(replace(built.trials[0], watches=("level.n",)),)))
    call("run", str(path), "--trace", str(out))
    assert "$comment" in out.read_text() and "resumed" in out.read_text()
    signals = VCDVCD(str(out))

    def ticks_of(name):
        signal = next(signals[s] for s in signals.signals if s.endswith(name))
        return [round(t * 60 / 1e9) for t, v in signal.tv if t and v not in ("0", "0.0")]

    assert ticks_of("r1_r.do[31:0]" if any("[31:0]" in s for s in signals.signals) else "r1_r.do") == [12, 24]
    assert ticks_of(
        "r1_r.resumed[31:0]" if any("[31:0]" in s for s in signals.signals) else "r1_r.resumed"
    ) == [18, 30]
    assert ticks_of("r1_r.else[31:0]" if any("[31:0]" in s for s in signals.signals) else "r1_r.else") == [
        36,
        48,
        60,
    ]
    assert ticks_of("w1_level_n") == [12, 24]


def test_run_tells_findings_and_leaves_with_1_where_a_rule_cannot_run_or_an_expectation_fails(
    mistaken, failing
):
    result = call("run", mistaken)
    assert result.exit_code == 1 and "finding" in result.output and "“m”" in result.output
    assert call("run", failing).exit_code == 1
    assert call("run", STUDY).exit_code == 0


def test_an_unknown_key_in_a_trials_input_is_a_finding(tmp_path):
    path = tmp_path / "l.gatillo"
    write_level(
        path, level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}, keys=(("Spcae", 0.0, 1.0),))
    )
    result = call("lint", str(path))
    assert result.exit_code == 1
    assert "the key “Spcae”, which does not exist" in result.output and "Space" in result.output


def test_lint_tells_where_a_role_reads_as_if_a_negated_condition_had_brought_it_in(tmp_path):
    path = tmp_path / "l.gatillo"
    built = level(
        rule("r", if_=isnt("within", who="Boat", distance="5", where="Lamp"), do=c("hide", who="Lamp")),
        rule(
            "s",
            if_=c("within", who="Boat", distance="5", where="Lamp"),
            do=c("hide", who="Lamp"),
            else_=c("show", who="Lamp"),
        ),
        kinds=(kind("Boat"), kind("Lamp")),
    )
    write_level(path, built)
    told = call("lint", str(path)).output
    assert "rule “r”, do 1: “Lamp” is every Lamp here: condition 1 is negated" in told
    assert "rule “s”, else 1: “Lamp” is every Lamp here" in told
    assert "rule “s”, do 1" not in told


# why, why not, side by side


def test_why_tells_the_reasons_and_theirs():
    result = call("why", STUDY_1, "--rule", "Good night", "--depth", "4")
    assert result.exit_code == 0
    assert "“Good night” fired at 13.233 s" in result.output
    assert "because basket full is heard" in result.output
    assert "basket full was sent at 13.217 s by “Enough for tonight”" in result.output
    data = json.loads(call("why", STUDY_1, "--rule", "Good night", "--json").output)
    assert data["tick"] == 794 and data["because"][0]["because"][0]["tick"] == 793
    assert "it set level.pods" in call("why", STUDY_1, "--rule", "Gather a pod", "--forward").output
    assert "level.pods was 16 at the end of tick 900" in call("why", STUDY_1, "--value", "level.pods").output
    assert "removed at 5.217 s" in call("why", STUDY_1, "--there", "Pod 7").output


def test_why_of_what_did_not_fire_says_why_not_and_leaves_with_1():
    result = call("why", STUDY_1, "--rule", "Good night", "--tick", "10")
    assert result.exit_code == 1 and "did not fire" in result.output


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--rule", "Godnight"), "did you mean “Good night”?"),
        (("--rule", "Good night", "--tick", "99999"), "has not been run"),
        (("--rule", "Gather a pod", "--object", "Pod 99"), "there is no object “Pod 99”"),
        (("--value", "level.podz"), "podz"),
        ((), "say what is asked about"),
    ],
)
def test_why_of_what_there_is_not_says_so(words, said):
    result = call("why", STUDY_1, *words)
    assert result.exit_code == 2 and said in result.output


def test_why_not_tells_what_stood_in_the_way():
    result = call("why-not", STUDY_1, "--rule", "Gather a pod", "--tick", "246", "--object", "Pod 7")
    assert result.exit_code == 0
    assert "Gardener 1 and Pod 7 were 48.96 units apart, edge to edge" in result.output
    assert call("why-not", STUDY_1, "--rule", "Gather a pod").exit_code == 1
    assert (
        "switched off from the start" in call("why-not", STUDY_1, "--rule", "Anything gathers a pod").output
    )


def test_compare_tells_what_differs_and_leaves_with_1(tmp_path):
    same = call("compare", STUDY_1)
    assert same.exit_code == 0 and "same firings" in same.output
    built = read_level(Path(STUDY_1))
    variables = tuple(replace(v, value=8.0) if v.name == "wanted" else v for v in built.variables)
    other = tmp_path / "other.gatillo"
    write_level(other, replace(built, variables=variables))
    result = call("compare", STUDY_1, str(other))
    assert result.exit_code == 1
    assert "first parted: level.wanted was 16, now 8, at the end of tick 0" in result.output
    assert "“Enough for tonight”" in result.output
    data = json.loads(call("compare", STUDY_1, str(other), "--json").output)
    assert not data["same"] and data["parted"][0]["name"] == "level.wanted"
    # what is drawn by chance is drawn anew at another rate, and told
    drawn = call("compare", STUDY_1, "--other-rate", "120")
    assert drawn.exit_code == 1 and "Pod +1.x" in drawn.output
    assert call("compare", str(study_path("05-lantern.gatillo")), "--other-rate", "120").exit_code == 0
    assert "has no variant" in call("compare", STUDY_1, "--variant", "x").output


def test_compare_takes_a_saved_trace(tmp_path):
    trace = tmp_path / "t.jsonl"
    call("run", STUDY_1, "--trace", str(trace))
    assert call("compare", STUDY_1, str(trace)).exit_code == 0
    other = call("compare", str(study_path("02-stacked-pots.gatillo")), str(trace))
    assert other.exit_code == 1 and "the first difference" in other.output


def test_lint_order_exchanges_and_tells():
    result = call("lint", "--order", STUDY_1)
    assert result.exit_code == 1
    assert "“Gather a pod” before “Enough for tonight”: level.pods" in result.output
    assert "Harmless" in result.output
    data = json.loads(call("lint", "--order", STUDY_1, "--json").output)
    assert data[0]["harmless"] is False


# in several processes


def test_check_gives_the_same_in_the_same_order_in_however_many_processes():
    files = (STUDY_1, str(study_path("02-stacked-pots.gatillo")))
    one = call("check", *files, "--rates", "30,60", "--jobs", "1")
    several = call("check", *files, "--rates", "30,60", "--jobs", "3")
    assert one.exit_code == several.exit_code == 0
    assert one.output == several.output
    assert (
        call("check", *files, "--json", "--jobs", "2").output
        == call("check", *files, "--json", "--jobs", "1").output
    )


def test_ctrl_c_ends_a_check_and_its_processes():
    words = [sys.executable, "-m", "gatillo.cli.main", "check", str(study_path("14-loose-shutter.gatillo"))]
    running = subprocess.Popen(
        [*words, "--seeds", "60", "--jobs", "2"],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        start_new_session=True,
        # a shell that runs the suite in the background leaves the signal ignored
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    children = Path(f"/proc/{running.pid}/task/{running.pid}/children")
    for _ in range(200):
        workers = children.read_text().split() if children.exists() else []
        if len(workers) >= 2:
            break
        time.sleep(0.05)
    time.sleep(1.0)
    running.send_signal(signal.SIGINT)
    _, told = running.communicate(timeout=120)
    assert running.returncode == 130 and b"Traceback" not in told, told
    for _ in range(100):
        left = [w for w in workers if Path(f"/proc/{w}").exists()]
        if not left:
            break
        time.sleep(0.05)
    assert left == []


def test_read_prints_what_lines_mean_with_what_they_leave_open():
    found = call("read", STUDY, "gardener hits pod", "turn basket slowly by 9", "add 1 to podz")
    assert found.exit_code == 0
    assert "when Gardener begins to touch Pod" in found.output
    assert "(Not read: slowly.)" in found.output
    assert "“podz” does not exist" in found.output


def test_read_writes_json_a_program_can_read():
    found = call("read", STUDY, "add 1 to podz", "if pods > 3 remove pod", "--json")
    one, several = json.loads(found.output)
    best = one["readings"][0]
    assert (best["part"], best["entry"], best["negated"]) == ("do", "add_to", False)
    assert best["slots"] == {"amount": "1", "variable": "level.podz"} and best["unread"] == []
    assert best["offers"] == [
        {"slot": "variable", "typed": "podz", "nearest": ["level.pods"], "make": "level variable"}
    ]
    lines = several["readings"][0]["lines"]
    assert [(line["part"], line["entry"]) for line in lines] == [("if", "compare"), ("do", "remove")]


def test_read_takes_a_part_and_leaves_with_1_when_a_line_has_no_reading():
    assert "if not: level.done" in call("read", STUDY, "not done", "--part", "if").output
    nothing = call("read", STUDY, "xyzzy plugh qwrt")
    assert nothing.exit_code == 1 and "no sentence matches this" in nothing.output
    assert call("read", STUDY, "wait 1 s", "--part", "perhaps").exit_code == 2


def test_check_says_what_the_trials_reach_and_what_not(tmp_path):
    path = tmp_path / "half.gatillo"
    built = level(
        rule("comes", when=START, if_=c("formula_holds", formula="level.n = 0"), do=add("level.n")),
        rule("never comes", when=heard("nothing"), do=add("level.n"), id=2),
        has={"n": 0.0},
    )
    write_level(path, built)
    report = tmp_path / "coverage.xml"
    told = call("check", str(path), "--coverage", "--cobertura", str(report)).stdout
    assert "half.gatillo: 4 of 8 reached, 50%" in told
    assert "“never comes”: never looked at" in told and "“comes”, if 1: it always holds" in told
    data = json.loads(call("check", str(path), "--coverage", "--json").stdout)
    assert data["results"][0]["passed"] and (data["coverage"][0]["reached"], data["coverage"][0]["of"]) == (
        4,
        8,
    )
    assert {(i["place"], i["state"]) for i in data["coverage"][0]["items"] if i["name"] == "comes"} == {
        ("", "acted"),
        ("when 1", "acted"),
        ("if 1", "acted"),
        ("do 1", "acted"),
    }
    # as another program reads it
    read = Cobertura(str(report), filesystem=filesystem_factory(str(tmp_path)))
    name = str(path)
    assert read.files() == [name]
    lines = path.read_text(encoding="utf-8").splitlines()
    hit, missed = read.hit_statements(name), read.missed_statements(name)
    assert any("level_starts" in "".join(lines[number - 1 : number + 2]) for number in hit)
    assert any("message_heard" in "".join(lines[number - 1 : number + 2]) for number in missed)
    assert read.total_statements(name) > len(hit)


def test_check_tells_which_changes_no_trial_notices_and_what_would(tmp_path):
    lv = level(
        rule(
            "counts", when=EVERY_TICK, if_=c("formula_holds", formula="level.n < 5"), do=add("level.n"), id=1
        ),
        has={"n": 0.0},
    )
    path = tmp_path / "counts.gatillo"
    write_level(path, replace(lv, trials=(Trial(name="t", length=1.0),)))
    told = call("check", str(path), "--mutants")
    assert told.exit_code == 0
    assert "counts.gatillo: 0 of 9 changes noticed (0%)" in told.stdout
    assert "1 change nothing in any trial, and do not count" in told.stdout
    assert "not noticed: “counts”, do 1: left out: add 1 to level.n" in told.stdout
    assert "to notice it, expect in trial “t”: “counts” fires exactly 5 times" in told.stdout
    found = json.loads(call("check", str(path), "--mutants", "--jobs", "1", "--json").stdout)
    mutants = found["mutants"][0]
    assert (mutants["changes"], mutants["tried"], mutants["noticed"], mutants["of"]) == (10, 10, 0, 9)
    left_out = next(one for one in mutants["items"] if one["sort"] == "action left out")
    assert left_out["place"] == "do 1"
    # the offer is an expectation as the level's file has it
    made = msgspec.convert(left_out["offer"], FiresTimes)
    assert made.rule == "counts"
    assert [r["trial"] for r in found["results"]] == ["t"]


def test_check_with_a_spent_budget_says_how_many_changes_were_not_tried(tmp_path):
    told = call("check", str(study_path("01-seed-pods.gatillo")), "--mutants", "--budget", "0")
    assert "were not tried: the time was up" in told.stdout


def test_explore_finds_input_that_breaks_an_expectation_and_keeps_it(tmp_path):
    pressed = [c("key_pressed", key=key) for key in "EP"]
    lv = level(
        rule("earn", when=pressed[0], do=add("level.coins", "2"), id=1),
        rule("pay", when=pressed[1], do=add("level.coins", "-1"), id=2),
        has={"coins": 1.0},
    )
    wanted = HoldsAt("level.coins >= 0", "always", any_input=True)
    path, kept = tmp_path / "purse.gatillo", tmp_path / "kept.gatillo"
    write_level(path, replace(lv, trials=(Trial(name="t", length=3.0, expectations=(wanted,)),)))
    told = call("explore", str(path), "--keep", str(kept), "--seconds", "60")
    assert told.exit_code == 1
    assert "level.coins >= 0 holds at every tick: failed" in told.stdout
    assert told.stdout.count("hold P") == 2
    # what was kept fails, until the level is mended
    assert call("check", str(kept), "--trial", "t, explored 1").exit_code == 1
    data = json.loads(call("explore", str(path), "--seconds", "60", "--json").stdout)
    assert data["keys"] == ["E", "P"]
    assert [bar["key"] for bar in data["found"]["input"]["keys"]] == ["P", "P"]
    assert data["found"]["pieces"] == 2


def test_explore_says_when_there_is_nothing_to_press(tmp_path):
    path = tmp_path / "still.gatillo"
    write_level(path, level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}))
    told = call("explore", str(path), "--seconds", "1")
    assert told.exit_code == 0
    assert "there is nothing to try" in told.stdout


def test_diff_tells_what_differs_between_two_levels(tmp_path):
    before = read_level(study_path("01-seed-pods.gatillo"))
    rules = before.order[0].rules if isinstance(before.order[0], Section) else before.order
    first = rules[0]
    one, other = tmp_path / "one.gatillo", tmp_path / "other.gatillo"
    write_level(one, before)
    changed = rename(before, "rule", first.name, "Pick a pod")
    write_level(other, msgspec.structs.replace(changed, note="Another note."))
    told = call("diff", str(one), str(other))
    assert told.exit_code == 1
    assert f"rule “Pick a pod”: renamed, was “{first.name}”" in told.output
    assert "the level: its note: " in told.output
    data = json.loads(call("diff", str(one), str(other), "--json").stdout)
    assert {"about": "rule “Pick a pod”", "sort": "renamed", "words": f"renamed, was “{first.name}”"} in data
    page = call("diff", str(one), str(other), "--markdown").output
    assert page.startswith("# one.gatillo → other.gatillo") and "**rule “Pick a pod”**" in page
    same = call("diff", str(one), str(one))
    assert (same.exit_code, same.output) == (0, "")
    assert call("diff", str(one), str(tmp_path / "none.gatillo")).exit_code == 2
