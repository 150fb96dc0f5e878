"""The page of rules by intention: each line as typed is read as the line of the study that it names."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import pytest

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.language.line_reading import readings
from gatillo.language.sentence import sentence
from gatillo.level.model import Level, Rule
from gatillo.level.roles import Index, all_logic

PAGE = (Path(__file__).parent.parent / "docs" / "which-rule.md").read_text(encoding="utf-8")
SHOWN = re.findall(r"Study (\d+), “([^”]+)”\.[^\n]*\n\n((?:    [^\n]+\n)+)", PAGE)


@cache
def study(number: int) -> Level:
    (name,) = (one for one in study_names() if one.startswith(f"{number:02}-"))
    return read_level(study_path(name))


def lines_of(rule: Rule) -> list[str]:
    return [sentence(one) for part in (rule.when, rule.if_, rule.do) for one in part]


@pytest.mark.parametrize(("number", "name", "typed"), SHOWN, ids=[f"{n}-{name}" for n, name, _ in SHOWN])
def test_what_is_typed_is_read_as_the_studys_rule(number, name, typed):
    level = study(int(number))
    (rule,) = (one for _, _, one in all_logic(level) if isinstance(one, Rule) and one.name == name)
    index, read, here = Index(level), [], set()
    for line in typed.strip().splitlines():
        best = readings(index, line.strip(), here=tuple(here))[0]
        assert not best.empty_slots(), line
        read.append(sentence(best.clause))
        here |= {value for value in best.clause.slots.values() if isinstance(value, str)}
    assert read == lines_of(rule)


def test_every_paragraph_of_the_page_is_tried():
    assert len(SHOWN) == PAGE.count("\n**") > 25
