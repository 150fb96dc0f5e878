"""Values in words, for sentences."""

from __future__ import annotations

from typing import Any

from gatillo.formula.values import write_number, write_out


def value_words(value: Any) -> str:
    """Return a value as it stands in a sentence: `“open”`, `yes`, `3.14159`."""
    if isinstance(value, str):
        return f"“{value}”"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return write_number(float(f"{float(value):.6g}"))
    if isinstance(value, complex):
        return f"({value_words(value.real)}, {value_words(value.imag)})"
    return str(write_out(value))


def as_cell(text: str) -> str:
    """Return a text as a cell of a table that no spreadsheet takes for a formula; a number stays a number."""
    if text[:1] not in ("=", "+", "-", "@", "\t", "\r"):
        return text
    try:
        float(text)
    except ValueError:
        return f"'{text}"
    return text
