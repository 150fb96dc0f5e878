"""Texts of a level as XML can hold them."""

from __future__ import annotations


def printable(text: str) -> str:
    """Return a text with every character that XML cannot contain replaced by its number, such as U+001B."""
    return "".join(c if c.isprintable() or c in "\t\n\r" else f"U+{ord(c):04X}" for c in text)
