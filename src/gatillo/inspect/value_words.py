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
    return str(write_out(value))
