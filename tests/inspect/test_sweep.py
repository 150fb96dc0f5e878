"""Trying several values: which numbers there are, which runs that makes, and what each comes to."""

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
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from building import c, kind, level, rule, things
from gatillo.cli.main import app
from gatillo.files.level_file import encode_level
from gatillo.inspect.sweep.cases import sweep_of, values_of
from gatillo.inspect.sweep.outcomes import outcome_of, swept
from gatillo.inspect.sweep.targets import SweepError, find_target, targets
from gatillo.inspect.work_queue import Crew, ctrl_c_later
from gatillo.level.edits import as_tried
from gatillo.level.model import Clause, Graph, Node, Spot, Wire
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

GRAPH = Graph(
    id=9,
    name="pulse",
    nodes=(
        Node(id=1, use="every_seconds", slots={"period": "0.5"}),
        Node(id=2, use="add_to", slots={"amount": "level.step * 2", "variable": "level.n"}),
    ),
    wires=(Wire(start="1", end="2"),),
)


def yard(seconds=2.0):
    return level(
        rule("Count", when=c("every_tick"), do=(c("add_to", amount="1", variable="level.n"), Clause(use="repeat", slots={"count": "2"}, of=(c("add_to", amount="3", variable="level.m"),))), id=1),
        GRAPH,
        kinds=(kind("Moth", 5, has={"fuel": 50.0, "lit": False}, behaviours=(c("spin", speed="60"), c("chase", target="gate", speed="20"))),),
        objects=things("Moth", (10, 10)),
        places=(Spot(name="gate", x=1, y=2),),
        has={"n": 0.0, "m": 0.0, "step": 1.0, "done": False},
        seconds=seconds,
    )  # fmt: skip


def test_every_number_can_be_named():
    names = {target.name: target.text for target in targets(yard())}
    assert names["level.step"] == "1" and names["Moth.fuel"] == "50"
    assert names["Moth spin.speed"] == "60" and names["Moth chase.speed"] == "20"
    assert names["rule Count: do 1.amount"] == "1"
    assert names["rule Count: do 2.1.amount"] == "3"
    assert names["graph pulse: card 1.period"] == "0.5"
    assert names["graph pulse: card 2.amount"] == "level.step * 2"
    assert names["graph pulse: card 2.amount#1"] == "2"
    assert not any("done" in name or "lit" in name for name in names), "yes and no are no numbers"


def test_putting_a_value_changes_that_number_alone_and_putting_it_back_nothing():
    made = yard()
    for target in targets(made):
        other = target.put(made, "7")
        changed = {t.name: t.text for t in targets(other)}
        assert (
            changed[target.name.partition("#")[0]]
            != {t.name: t.text for t in targets(made)}[target.name.partition("#")[0]]
        )
        untouched = [t for t in targets(made) if t.name.partition("#")[0] != target.name.partition("#")[0]]
        assert all(changed[t.name] == t.text for t in untouched)
        assert target.put(other, target.text) == target.put(made, target.text)


def test_a_constant_is_changed_within_its_formula():
    target = find_target(yard(), "graph pulse: card 2.amount#1")
    again = find_target(target.put(yard(), "-4"), "graph pulse: card 2.amount")
    assert again.text == "level.step * (-4)"


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("20, 40,80", ("20", "40", "80")),
        ("3..9 step 2", ("3", "5", "7", "9")),
        ("3..5", ("3", "4", "5")),
        ("0.1 .. 0.3 step 0.1", ("0.1", "0.2", "0.3")),
        ("5..1 step 2", ("5", "3", "1")),
        ("-2..0", ("-2", "-1", "0")),
        ("min(1, 2), 3", ("min(1, 2)", "3")),
        ("4,4", ("4",)),
    ],
)
def test_values_are_a_list_or_a_range(text, values):
    assert values_of(text) == values


@given(
    first=st.integers(-50, 50),
    steps=st.integers(0, 30),
    step=st.sampled_from([0.1, 0.25, 0.5, 1.0, 3.0]),
)
def test_a_range_has_both_its_ends_and_even_steps(first, steps, step):
    last = first + steps * step
    found = [float(v) for v in values_of(f"{first}..{last:.10g} step {step:g}")]
    assert len(found) == steps + 1
    assert found[0] == first and found[-1] == pytest.approx(last)


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        (["level.stepp=1,2"], "did you mean “level.step”"),
        (["level.step"], "says no values"),
        (["level.step="], "give values to try"),
        (["level.step=1", "level.step=2"], "set twice"),
        (["level.step=1..3 step 0"], "must be above 0"),
        (["level.step=1..9999999"], "at most"),
        (["level.step=1..100", "Moth.fuel=1..100"], "at most"),
        ([], "say what to try"),
    ],
)
def test_what_cannot_be_tried_is_said(settings, said):
    with pytest.raises(SweepError, match=said):
        sweep_of(yard(), settings)


def test_two_numbers_are_crossed_and_each_case_is_run_as_if_it_had_been_typed():
    made = yard()
    sweep = sweep_of(made, ["level.step=1,2", "rule Count: do 1.amount=1,5"], seeds=2)
    assert len(sweep.cases) == 8
    for number, outcome in swept(made, made.trials[0], sweep, ["level.n"], crew=Crew(1)):
        case = sweep.cases[number]
        typed = sweep.level(made, case)
        run = Run(Program(as_tried(typed, made.trials[0])), made.trials[0])
        run.advance()
        assert outcome.watched[0][-1] == run.world.level["n"]
        assert len(outcome.watched[0]) == outcome.ticks + 1 == 121
        assert outcome.firings["Count"] == 120


def test_on_several_cores_it_comes_to_the_same():
    made = yard(0.5)
    sweep = sweep_of(made, ["level.step=1..4"], seeds=2)
    alone = dict(swept(made, made.trials[0], sweep, ["level.n"], crew=Crew(1), every=10))
    together = dict(swept(made, made.trials[0], sweep, ["level.n"], crew=Crew(2), every=10))
    assert {n: o.watched for n, o in alone.items()} == {n: o.watched for n, o in together.items()}
    assert [f.tick for f in together[0].frames] == [0, 10, 20, 30]
    assert together[0].frames[1].x.tolist() == alone[0].frames[1].x.tolist()


def test_a_value_that_cannot_be_read_is_told_of_its_case_alone():
    made = yard(0.1)
    sweep = sweep_of(made, ["rule Count: do 1.amount=1,nonsense"])
    good, bad = (outcome_of(made, made.trials[0], sweep, case, []) for case in sweep.cases)
    assert not good.problem and good.ticks == 6
    assert "nonsense" in bad.problem and bad.ticks == 0


def test_what_is_stopped_leaves_nothing_running():
    made = yard(60)
    sweep = sweep_of(made, ["level.step=1..40"])
    asked = iter(range(10_000))
    list(swept(made, made.trials[0], sweep, crew=Crew(2), stop=lambda: next(asked) > 3))
    assert not _workers(parent=os.getpid())


def _workers(*, parent: int = 0, group: int = 0) -> int:
    """Return how many processes that make runs belong to a parent, or to a process group."""
    found = 0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            after = (folder / "stat").read_text().rpartition(")")[2].split()
            words = (folder / "cmdline").read_bytes()
        except OSError:
            # it has ended meanwhile
            continue
        mine = int(after[1]) == parent if parent else int(after[2]) == group
        found += mine and b"spawn_main" in words
    return found


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "yard.gatillo"
    path.write_bytes(encode_level(yard(1.5)))
    return path


def test_the_command_prints_json_and_writes_csv(file, tmp_path):
    out = tmp_path / "out.csv"
    asked = ["sweep", str(file), "--set", "level.step=1,2", "--seeds", "2", "--watch", "level.n", "--csv", str(out), "--json", "--jobs", "1"]  # fmt: skip
    done = CliRunner().invoke(app, asked)
    assert done.exit_code == 0, done.output
    cases = json.loads(done.stdout)["cases"]
    assert [(case["values"]["level.step"], case["seed"]) for case in cases] == [
        ("1", 1),
        ("1", 2),
        ("2", 1),
        ("2", 2),
    ]
    assert cases[0]["watches"]["level.n"]["end"] == 94 and cases[2]["watches"]["level.n"]["end"] == 98
    with out.open() as text:
        rows = list(csv.DictReader(text))
    assert [row["end of level.n"] for row in rows] == ["94", "94", "98", "98"]
    assert rows[0]["firings of Count"] == "90"


def test_the_command_says_what_it_cannot_do(file):
    for asked, said in (
        (["--set", "level.nope=1"], "there is no number"),
        (["--set", "level.step=1", "--watch", "level.nope"], "cannot be read"),
        (["--set", "level.step=1", "--trial", "none"], "has no trial"),
    ):
        done = CliRunner().invoke(app, ["sweep", str(file), *asked])
        assert done.exit_code == 2 and said in done.output


def test_the_command_lists_the_numbers(file):
    done = CliRunner().invoke(app, ["sweep", str(file), "--names"])
    assert "Moth chase.speed = 20" in done.output.splitlines()


def test_ctrl_c_ends_it_without_leftovers(tmp_path):
    path = tmp_path / "long.gatillo"
    path.write_bytes(encode_level(yard(3_000)))
    asked = [
        str(Path(sys.executable).with_name("gatillo")),
        "sweep",
        str(path),
        "--set",
        "level.step=1..8",
        "--jobs",
        "2",
    ]
    with subprocess.Popen(
        asked,
        # a shell lets what it runs in the background ignore Ctrl+C
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
    ) as process:
        deadline = time.monotonic() + 30
        while _workers(group=process.pid) < 2 and time.monotonic() < deadline:
            time.sleep(0.1)
        os.killpg(process.pid, signal.SIGINT)
        _, said = process.communicate(timeout=120)
    assert process.returncode == 130, said
    assert "broken off after" in said
    assert not _workers(group=process.pid)


@pytest.fixture
def heeds_ctrl_c():
    """Take notice of Ctrl+C: a shell lets what it runs in the background ignore it."""
    before = signal.signal(signal.SIGINT, signal.default_int_handler)
    yield
    signal.signal(signal.SIGINT, before)


@pytest.mark.usefixtures("heeds_ctrl_c")
def test_ctrl_c_while_processes_are_started_is_not_lost():
    with pytest.raises(KeyboardInterrupt), ctrl_c_later():
        os.kill(os.getpid(), signal.SIGINT)
        started = subprocess.run(
            [sys.executable, "-c", "import os, signal; os.kill(os.getpid(), signal.SIGINT)"], check=False
        )
        assert started.returncode == 0


def test_a_trial_that_starts_a_variable_itself_leaves_it_to_the_sweep():
    made = yard(0.5)
    trial = msgspec.structs.replace(made.trials[0], values={"step": 100.0, "m": 9.0})
    sweep = sweep_of(made, ["level.step=1,2"])
    found = dict(swept(made, trial, sweep, ["level.step", "level.m"], crew=Crew(1)))
    assert [found[n].watched[0][-1] for n in (0, 1)] == [1.0, 2.0]
    assert found[0].watched[1][0] == 9.0


def test_a_watch_without_a_number_is_empty_in_json(file):
    asked = ["sweep", str(file), "--set", "level.step=1", "--watch", "exp(level.step * 10000)", "--watch", "Moth.x / (level.step - 1)", "--json"]  # fmt: skip
    done = CliRunner().invoke(app, asked)
    assert done.exit_code == 0, done.output
    watches = json.loads(done.stdout)["cases"][0]["watches"]
    assert all(found == {"end": None, "least": None, "most": None} for found in watches.values())
