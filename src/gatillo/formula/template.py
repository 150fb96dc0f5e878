"""Texts with values in braces: `{level.pods} pods left`."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.frame import Frame
from gatillo.formula.syntax import FormulaError
from gatillo.formula.values import finite, put_together, write_out
from gatillo.level.roles import Index


def split_braces(source: str) -> list[tuple[str, int | None]]:
    """Return the pieces of a text: plain ones with None, those in braces with where they start.

    Raises FormulaError for a brace without its partner. `{{` and `}}` stand for one brace.
    """
    pieces: list[tuple[str, int | None]] = []
    plain = ""
    at = 0
    while at < len(source):
        two = source[at : at + 2]
        if two in ("{{", "}}"):
            plain += two[0]
            at += 2
        elif source[at] == "{":
            end = source.find("}", at)
            if end < 0:
                raise FormulaError("this brace has no closing }", at, len(source))
            pieces += [(plain, None), (source[at + 1 : end], at + 1)]
            plain = ""
            at = end + 1
        elif source[at] == "}":
            raise FormulaError("this closing brace has no { before it", at, at + 1)
        else:
            plain += source[at]
            at += 1
    return [*pieces, (plain, None)]


def compile_template(index: Index, source: str, *, first_call: int = 0) -> Formula:
    """Compile a text whose braces hold formulas. Raises FormulaError with the place in the text."""
    parts: list[str | Callable[[Frame], Any]] = []
    roles: dict[str, None] = {}
    reads: dict[tuple[str, str], None] = {}
    for piece, start in split_braces(source):
        if start is None:
            if piece:
                parts.append(piece)
            continue
        try:
            inner = compile_formula(index, piece, first_call=first_call)
        except FormulaError as error:
            raise FormulaError(error.message, error.start + start, error.end + start) from None
        if inner.type in ("object", "place"):
            raise FormulaError(
                f"“{piece}” is not a value; name one of its variables", start, start + len(piece)
            )
        first_call += 8
        roles.update(dict.fromkeys(inner.roles))
        reads.update(dict.fromkeys(inner.reads))
        parts.append(inner.evaluate)
    if all(isinstance(p, str) for p in parts):
        whole = "".join(str(p) for p in parts)
        return Formula(source, "text", (), (), lambda f: whole, whole)

    def evaluate(f: Frame) -> Any:
        return put_together(f, [p if isinstance(p, str) else write_out(finite(f, p(f))) for p in parts])

    return Formula(source, "text", tuple(roles), tuple(reads), evaluate)
