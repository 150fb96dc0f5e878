"""docs/formulas.md says what is so: every row of its tables is worked out, its words and names are those of the program."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from test_formula import INDEX, view

from building import level
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.formula.values import write_out
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.naming import RESERVED
from gatillo.level.roles import Index

PAGE = (Path(__file__).resolve().parents[2] / "docs" / "formulas.md").read_text()


def rows(head: str) -> list[list[str]]:
    tables = [after.split("\n\n", 1)[0].splitlines()[2:] for after in PAGE.split(f"| {head}")[1:]]
    return [
        [cell.strip() for cell in re.split(r"(?<!\\)\|", line)[1:-1]] for table in tables for line in table
    ]


@pytest.mark.parametrize("row", rows("formula | gives"), ids=lambda row: row[0])
def test_a_formula_of_the_page_gives_what_it_says(row):
    frame = view()
    value = compile_formula(INDEX, row[0].strip("`")).evaluate(frame)
    value = value.item() if isinstance(value, np.ndarray) and value.ndim == 0 else value
    assert write_out(value) == row[1]
    assert not frame.faults


@pytest.mark.parametrize("row", rows("formula | faults"), ids=lambda row: row[0])
def test_a_formula_of_the_page_without_an_answer_faults_as_it_says(row):
    frame = view()
    with np.errstate(all="ignore"):
        compile_formula(INDEX, row[0].strip("`")).evaluate(frame)
    assert row[1] in frame.faults[0][1]


def test_the_reserved_words_of_the_page_are_those_of_the_program():
    line = next(li for li in PAGE.splitlines() if li.startswith("**Reserved words**"))
    assert set(re.findall(r"`(\w+)`", line)) == RESERVED


def test_the_keys_of_the_page_are_those_of_the_program():
    named = re.findall(r"`([\w ]+)`", PAGE.split("## Keys", 1)[1].split("in `key_down`")[0])
    letters = {*(chr(c) for c in range(65, 91)), *map(str, range(10))}
    assert set(named) - {"A", "Z", "0", "9"} == set(KEYS) - letters
    assert letters <= set(KEYS)
    assert all(f"`{key}`" in PAGE for key in POINTER_KEYS)


@pytest.mark.parametrize("wrong", ["1 < 2 < 3", '"a" + "b"', '"a" < "b"'])
def test_what_the_page_says_is_refused_is_refused(wrong):
    with pytest.raises(FormulaError):
        compile_formula(Index(level()), wrong)
