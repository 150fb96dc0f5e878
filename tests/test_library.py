"""Gatillo as a library: its page is true, its names are few, and nothing of the window comes with it."""

from __future__ import annotations

import doctest
import json
import pydoc
import re
import subprocess
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace

import gatillo
import gatillo.library
from building import add, c, level, rule
from gatillo.examples import study_path
from gatillo.level.model import Graph, Node, Wire
from gatillo.library import Simulation

PAGE = Path(__file__).parent.parent / "docs" / "library.md"


def test_the_examples_of_the_page_run_one_after_the_other(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    examples = re.findall(r"```python\n(.*?)```", PAGE.read_text(), re.DOTALL)
    assert len(examples) >= 5
    names: dict[str, object] = {}
    for example in examples:
        exec(compile(example, str(PAGE), "exec"), names)
    assert (tmp_path / "round.jsonl").stat().st_size > 0


def test_the_examples_of_the_docstrings_are_true():
    found = doctest.testmod(gatillo.library)
    assert found.attempted >= 10 and not found.failed


def test_help_of_run_says_what_to_give_and_what_comes_back():
    text = pydoc.plain(pydoc.render_doc(gatillo.run))
    for heading in ("Parameters", "Returns", "Raises", "Examples"):
        assert heading in text


def test_every_public_name_is_there_and_has_a_docstring():
    assert set(gatillo.__all__) <= set(dir(gatillo))
    for name in gatillo.__all__:
        assert getattr(gatillo, name).__doc__, name
    for name, member in vars(gatillo.Simulation).items():
        if not name.startswith("_"):
            assert member.__doc__, name
    with pytest.raises(AttributeError, match="no attribute 'reed_level'"):
        gatillo.reed_level  # noqa: B018


COUNTING = level(rule("r", when=c("every_tick"), do=add("level.n")), has={"n": 0.0}, seconds=1)


def test_a_run_is_stepped_no_further_than_its_trial_and_looked_at_anywhere():
    run = gatillo.start(COUNTING)
    assert (run.tick, run.length, run.firings()) == (0, 60, [])
    assert run.step(7) == 7 and run.value("level.n") == 7
    assert run.finish() is run and run.step() == 0
    assert [run.value("level.n", tick) for tick in (0, 1, 60)] == [0, 1, 60]
    for tick in (-1, 61):
        with pytest.raises(ValueError, match="has not been run"):
            run.value("level.n", tick)
    assert [(f.tick, f.place, f.rule, f.matches, f.way) for f in run.firings(3)] == [(3, 1, "r", 1, "do")]


def test_rate_seed_and_trial_are_chosen_by_the_caller():
    assert gatillo.run(COUNTING, rate=30).value("level.n") == 30
    assert gatillo.run(COUNTING, "trial", seed=9).digest() == gatillo.run(COUNTING, seed=9).digest()
    with pytest.raises(KeyError, match="other"):
        gatillo.run(COUNTING, "other")


@pytest.mark.parametrize(
    ("words", "without"),
    [
        (["--help"], ["numpy", "PySide6", "gatillo.sim", "gatillo.catalogue"]),
        (["print", "LEVEL"], ["PySide6", "gatillo.sim.run"]),
        (["check", "LEVEL"], ["PySide6", "gatillo.files.exports"]),
    ],
)
def test_a_command_imports_no_more_than_it_uses(words, without):
    from gatillo.examples import study_path

    words = [str(study_path("13-watering-can.gatillo")) if w == "LEVEL" else w for w in words]
    script = (
        "import sys\nfrom gatillo.cli.main import main\n"
        f"sys.argv = ['gatillo', *{words!r}]\n"
        "try:\n    main()\nexcept SystemExit:\n    pass\n"
        f"print('IMPORTED', [m for m in {without!r} if m in sys.modules])"
    )
    told = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True).stdout
    assert told.splitlines()[-1] == "IMPORTED []"


def test_the_library_brings_nothing_of_the_window():
    script = "import gatillo, sys; gatillo.run; print([m for m in sys.modules if 'PySide6' in m or 'gatillo.desk' in m])"
    told = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True).stdout
    assert told.strip() == "[]"


def crew():
    return gatillo.run(gatillo.read_level(str(study_path("07-night-crew.gatillo"))))


def test_a_level_is_read_and_written_by_a_path_or_a_text(tmp_path):
    path = study_path("07-night-crew.gatillo")
    made = gatillo.read_level(str(path))
    assert made == gatillo.read_level(path)
    gatillo.write_level(str(tmp_path / "again.gatillo"), made)
    assert gatillo.read_level(str(tmp_path / "again.gatillo")) == made
    with pytest.raises(gatillo.LevelFileError, match="there is no file"):
        gatillo.read_level(str(tmp_path / "none.gatillo"))


def test_an_object_that_a_rule_has_created_can_be_named_in_formulas():
    run = crew()
    first, second = (next(o for o in run.objects() if o.name == f"Crew +{n}") for n in (1, 2))
    assert run.value("Crew_+1.x") == first.x
    assert run.value("Crew_+2.x - Crew_+1.x") == second.x - first.x
    assert run.value("distance(Crew_+1, Crew_+2)") == pytest.approx(
        ((first.x - second.x) ** 2 + (first.y - second.y) ** 2) ** 0.5
    )
    assert "Crew +1" in run.value("Crew_+1.x", tick=1).reason
    assert run.why_value("Crew_+2.x").because()[0].sentence.startswith("Crew +2.x was")
    with pytest.raises(gatillo.FormulaError):
        run.value("Crew_+99.x")


def test_why_and_why_not_take_the_same():
    run = crew()
    assert run.why("Brisk").sentence.startswith("“Brisk” fired at 3.033 s")
    assert run.why("Brisk", 182).sentence == run.why("Brisk").sentence
    pods = gatillo.run(gatillo.read_level(study_path("01-seed-pods.gatillo")))
    by_name, by_names = pods.why("Gather a pod", about="Pod 7"), pods.why("Gather a pod", about=["Pod 7"])
    assert by_name.sentence == by_names.sentence and "Pod 7" in by_name.sentence
    assert (
        pods.why_not("Gather a pod", 246, "Pod 7").sentence
        == pods.why_not("Gather a pod", 246, ["Pod 7"]).sentence
    )
    with pytest.raises(ValueError, match="not for Pod 7 and Pod 8"):
        pods.why("Gather a pod", about=["Pod 7", "Pod 8"])


def test_a_finding_says_by_yes_or_no_whether_it_is_grave():
    built = gatillo.read_level(study_path("01-seed-pods.gatillo"))
    wrong = rule("wrong", when=c("no_such_thing"), do=c("note", text="x"), id=999)
    broken = replace(built, order=(*built.order, wrong))
    (finding,) = gatillo.findings(broken)
    assert finding.grave is True and finding.severity == "error"


def test_a_fault_of_a_graph_stands_in_the_trace_with_its_cards_number(tmp_path):
    shown = Graph(
        id=9,
        name="g",
        nodes=(
            Node(id=4, use="every_tick"),
            Node(id=7, use="set_variable", slots={"variable": "level.n", "value": "1 / (level.n - level.n)"}),
        ),
        wires=(Wire(start="4", end="7"),),
    )
    made = Simulation(level(shown, has={"n": 0.0}, seconds=0.1), level().trials[0])
    made.step(1)
    made.write_trace(tmp_path / "t.jsonl")
    rows = [json.loads(line) for line in (tmp_path / "t.jsonl").read_text().splitlines()]
    assert [(r["part"], r["line"]) for r in rows if r.get("way") == "fault"] == [("card", 7)]
