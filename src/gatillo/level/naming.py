"""Names: which are allowed, how they are written in formulas, and which one a mistyped name probably means."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable

_NAME = re.compile(r"^[^\W\d_][\w ]*$")
RESERVED = frozenset(
    [
        "and",
        "or",
        "not",
        "mod",
        "yes",
        "no",
        "if",
        "level",
        "pointer",
        "time",
        "dt",
        "tick",
        "self",
        "anything",
        "another",
        "third",
        "any",
        "new",
        "message",
        "nobody",
    ]
)


def name_problem(name: str) -> str | None:
    """Return why this cannot name a kind, object, place, variable or tag; None if it can."""
    if not name.strip():
        return "a name cannot be empty"
    if name != name.strip() or "  " in name:
        return f"“{name}” has spaces at its end or two in a row"
    if not _NAME.match(name):
        return f"“{name}” must start with a letter and hold only letters, digits, spaces and _"
    first = name.split()[0].lower()
    if name.lower() in RESERVED or (first in ("another", "third", "any", "new") and " " in name):
        return f"“{name}” is a word of the rule language; choose another"
    return None


def free_name_problem(name: str) -> str | None:
    """Return why this cannot name a rule, section, trial, topic, clip or message, which may be any text; None if it can."""
    if not name.strip():
        return "a name cannot be empty"
    bad = next((c for c in name if not c.isprintable()), None)
    if bad is not None:
        return f"a name cannot hold the control character U+{ord(bad):04X}; type it again"
    return None


MOST_TOLD = 400
"""Characters that a sentence about a level may have, whatever names it quotes."""


def shortened(sentence: str, most: int = MOST_TOLD) -> str:
    """Return a sentence of a few lines at most: what is in its middle is left out if it is longer."""
    if len(sentence) <= most:
        return sentence
    half = (most - 3) // 2
    return f"{sentence[:half]} … {sentence[-half:]}"


def token(name: str) -> str:
    """Return how a name stands in a formula: spaces become underscores."""
    return name.replace(" ", "_")


def spoken(name: str) -> str:
    """Return a token as it is spoken of: underscores become spaces."""
    return name.replace("_", " ")


def nearest(wanted: str, known: Iterable[str]) -> str | None:
    """Return the known name that looks most like the wanted one, or None."""
    names = list(known)
    folded = {n.lower(): n for n in names}
    close = difflib.get_close_matches(wanted.lower(), folded, n=1, cutoff=0.5)
    return folded[close[0]] if close else None


def did_you_mean(wanted: str, known: Iterable[str]) -> str:
    """“; did you mean X?”, or what there is when nothing is near, ready to end a sentence with."""
    names = sorted(set(known))
    close = nearest(wanted, names)
    if close:
        return f"; did you mean “{close}”?"
    if not names:
        return ""
    shown = ", ".join(names[:6]) + (", …" if len(names) > 6 else "")
    return f"; there are: {shown}"


def free_name(stem: str, taken: Iterable[str]) -> str:
    """`stem 1`, `stem 2`, …: the first that is not taken."""
    used = set(taken)
    n = 1
    while f"{stem} {n}" in used:
        n += 1
    return f"{stem} {n}"
