"""What people read uses plain words: the window, commands, findings, the catalogue, the README, and docstrings."""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
SOURCES = sorted((ROOT / "src" / "gatillo").rglob("*.py"))

INSTEAD = {
    r"\banew\b": "again",
    r"\bwhoever\b": "the object that",
    r"\bput(s)? away\b": "close",
    r"\bmend(s|ed)?\b": "correct, repair",
    r"\bstands? fast\b": "immovable",
    r"\bmust stand\b": "is needed",
    r"\bis to stand\b": "should be",
    r"\bis told\b|\bare told\b": "is reported",
    r"\bjust so many\b|\bso many times\b": "exactly, a number of times",
    r"\bbeing worked out\b": "working",
    r"\btake(n|s)? away\b": "remove",
    r"\bturn(s|ed)? round\b": "negate",
    r"\botherwise\b(?= in (this|that|the) run)": "differently",
}
"""Words that texts in the program and the README avoid, each with what to say instead."""


@cache
def nodes_of(source: Path) -> list[ast.AST]:
    return list(ast.walk(ast.parse(source.read_text(encoding="utf-8"))))


def texts_of(source: Path):
    """Every text of three words or more in a module, with its line; docstrings and comments are not among them."""
    nodes = nodes_of(source)
    notes = {
        id(node.value)
        for node in nodes
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    # further wordings are what people type, not what they read
    typed = [k.value for n in nodes if isinstance(n, ast.Call) for k in n.keywords if k.arg == "says"]
    notes |= {id(node) for says in typed for node in ast.walk(says)}
    for node in nodes:
        text = node.value if isinstance(node, ast.Constant) and id(node) not in notes else None
        if isinstance(text, str) and len(text.split()) >= 3:
            yield node.lineno, text


ANY = re.compile("|".join(f"(?:{word})" for word in INSTEAD), re.IGNORECASE)


def flaws_in(text: str) -> list[str]:
    if not ANY.search(text):
        return []
    return [
        f"“{found.group()}”: say {better}"
        for word, better in INSTEAD.items()
        for found in re.finditer(word, text, re.IGNORECASE)
    ]


def test_the_texts_of_the_program_use_plain_words():
    found = [
        f"{source.relative_to(ROOT)}:{line}: {flaw}"
        for source in SOURCES
        for line, text in texts_of(source)
        for flaw in flaws_in(text)
    ]
    assert found == []


@pytest.mark.parametrize("page", ["README.md", "CHANGELOG.md", "docs/glossary.md", "docs/catalogue.md"])
def test_pages_use_plain_words(page):
    found = [
        f"{page}:{line}: {flaw}"
        for line, text in enumerate((ROOT / page).read_text(encoding="utf-8").splitlines(), 1)
        if not text.startswith("Also typed: ")
        for flaw in flaws_in(text)
    ]
    assert found == []


def test_docstrings_can_be_read_alone():
    found = [
        f"{source.relative_to(ROOT)}:{node.lineno}"
        for source in SOURCES
        for node in nodes_of(source)
        if isinstance(node, ast.Expr)
        and isinstance(node.value, ast.Constant)
        and str(node.value.value).startswith(("The same", "Likewise", "As above", "Ditto"))
    ]
    assert found == []


def test_the_list_finds_what_it_is_for():
    assert flaws_in("The run is made anew, and whoever waits is told.") == [
        "“anew”: say again",
        "“whoever”: say the object that",
        "“is told”: say is reported",
    ]
