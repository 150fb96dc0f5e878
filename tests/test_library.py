"""Gatillo as a library: its page is true, its names are few, and nothing of the window comes with it."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import pytest

import gatillo
from building import add, c, level, rule

PAGE = Path(__file__).parent.parent / "docs" / "library.md"


def test_the_examples_of_the_page_run_one_after_the_other(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    examples = re.findall(r"```python\n(.*?)```", PAGE.read_text(), re.DOTALL)
    assert len(examples) >= 5
    names: dict[str, object] = {}
    for example in examples:
        exec(compile(example, str(PAGE), "exec"), names)
    assert (tmp_path / "round.jsonl").stat().st_size > 0


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
