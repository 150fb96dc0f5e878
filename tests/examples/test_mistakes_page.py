"""The page of mistakes: each count is the run's, and each answer in italics is what the program says."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.reasons.why import Explainer
from gatillo.level.edits import as_tried
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial

PAGE = (Path(__file__).parent.parent.parent / "docs" / "mistakes.md").read_text(encoding="utf-8")
TOLD = re.findall(r"\*\*([^*\n]+)\*\* Study (\d+), “([^”]+)”: ([^\n]+)", PAGE)


def tried(number: str, trial: str) -> Run:
    (name,) = (one for one in study_names() if one.startswith(f"{int(number):02}-"))
    level = read_level(study_path(name))
    (chosen,) = (one for one in level.trials if one.name == trial)
    return run_trial(Program(as_tried(level, chosen)), chosen)


@pytest.mark.parametrize(("mistake", "number", "trial", "text"), TOLD, ids=[t[0] for t in TOLD])
def test_the_wrong_try_looks_and_answers_as_the_page_says(mistake, number, trial, text):
    made = tried(number, trial)
    names = [made.program.rules[f.rule_index].source.name for f in made.trace.firings()]
    counts = re.findall(r"“([^”]+)” fires (\d+) times?", text)
    for rule, times in counts:
        assert names.count(rule) == int(times)
    explainer = Explainer(made)
    totals = re.findall(r"`([^`]+)` is (\d+)\b", text)
    for formula, value in totals:
        (said, *_) = explainer.value(formula, made.done).lines(0)
        assert f" was {value} " in said
    asked = re.findall(r"Ask for `([^`]+)` at tick (\d+): ((?:\*[^*]+\*(?:, | )?)+)", text)
    for formula, tick, answers in asked:
        words = "\n".join(explainer.value(formula, int(tick)).lines(5))
        for answer in re.findall(r"\*([^*]+)\*", answers)[:1]:
            assert answer in words, words
    assert counts or totals or asked


def test_every_paragraph_that_names_a_study_is_tried():
    assert len(TOLD) == PAGE.count("** Study ") == len(re.findall(r"^\*\*", PAGE, re.M)) > 12
