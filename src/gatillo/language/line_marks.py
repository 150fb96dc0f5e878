"""What the beginning of a typed line says: the part of a rule, that a condition is turned round, that something goes on."""

from __future__ import annotations

import re
from typing import NamedTuple

from gatillo.language.typed_words import TypedWord, split_words
from gatillo.level.edits import Part

OTHER_PART = 0.6
"""What it costs to take an occasion for a condition, or the other way round, against the word before it."""
MARKERS: dict[str, Part | None] = {
    "when": "when",
    "whenever": "when",
    "once": "when",
    "on": "when",
    "upon": "when",
    "after": "when",
    "as soon as": "when",
    "every time": "when",
    "each time": "when",
    "if": "if",
    "only if": "if",
    "only when": "if",
    "only while": "if",
    "provided": "if",
    "unless": "if",
    "and": None,
    "and if": "if",
    "or": None,
    "or when": "when",
    "while": None,
    "every tick that": None,
    "every tick while": None,
    "every tick": None,
    "every frame": None,
    "in every tick": None,
    "as long as": None,
    "do": "do",
    "then": "do",
    "and then": "do",
    "else": "else",
    "otherwise": "else",
    "or else": "else",
    "if not": "if",
}
"""Words that say at the start of a line which part of a rule it is; None where they do not."""
_MARKER = re.compile(rf"\s*({'|'.join(sorted(MARKERS, key=len, reverse=True))})\b[:,]?\s*", re.IGNORECASE)
CONTINUES = (
    "while",
    "as long as",
    "every tick that",
    "every tick while",
    "every tick",
    "every frame",
    "in every tick",
)
_MAYBE_OWN: dict[str, tuple[Part, ...]] = {
    "on": (),
    "upon": (),
    "after": (),
    "once": (),
    "every tick": (),
    "every frame": (),
    "in every tick": (),
    "or": (),
    "and": (),
    "do": ("do", "else"),
    "then": ("do", "else"),
    "otherwise": ("do", "else"),
    "if": ("do", "else"),
}
"""Markers with which a sentence itself may begin, and the parts in which it then is; () for any."""


class Way(NamedTuple):
    """One way to take a line: its words without what marks its part, and what that mark says."""

    text: str
    parts: tuple[Part, ...]
    negated: bool = False
    continues: bool = False
    more: float = 0.0
    marked: bool = False


_WITHIN = 0.55
"""What it costs to take an “if” for the action, where a condition may stand."""


def ways_of(text: str, allowed: tuple[Part, ...]) -> list[Way]:
    """Return the ways to take a line: with and without what marks its part, and turned round where it says *not*."""
    ways: list[Way] = []
    marked = _MARKER.match(text)
    if marked is None:
        ways.append(Way(text, allowed))
    else:
        word = marked.group(1).lower()
        part = MARKERS[word]
        rest = text[marked.end() :]
        said: tuple[Part, ...] = (part,) if part is not None else allowed
        if word in CONTINUES:
            said = ("when", "if")
        if word == "and" and allowed == ("when", "if", "do"):
            said = ("if", "do", "when")
        if rest.strip():
            ways.append(Way(rest, said, word in ("unless", "if not"), word in CONTINUES, marked=True))
            if said == ("when",) and ("if" in allowed or len(allowed) == 1):
                ways.append(Way(rest, ("if",), more=OTHER_PART, marked=True))
            elif said == ("if",) and ("when" in allowed or len(allowed) == 1) and word == "if":
                ways.append(Way(rest, ("when",), more=OTHER_PART, marked=True))
        if word in _MAYBE_OWN or not rest.strip():
            own = tuple(p for p in allowed if not _MAYBE_OWN.get(word) or p in _MAYBE_OWN[word])
            # an “if” within a list of actions is for where no condition may stand
            ways.append(Way(text, own, more=_WITHIN if word == "if" and "if" in allowed else 0.05))
    for way in tuple(ways):
        turned = _without_negation(way.text)
        if turned is not None and "if" in way.parts:
            ways.append(Way(turned, ("if",), not way.negated, way.continues, way.more + 0.02, way.marked))
    return ways


def sets_a_value(text: str) -> bool:
    """Return whether a line has a plain sign of equality."""
    return re.search(r"(?<![<>=!+\-*/])=(?!=)", text) is not None


def _without_negation(text: str) -> str | None:
    """Return a line without its one *not*, *never*, *without* or *no longer*; None if it has none, or several."""
    words = split_words(text)
    found = [n for n, w in enumerate(words) if w.plain in _NEGATING or _no_longer(words, n)]
    if found and found[0] > 0 and words[found[0] - 1].plain in _IN_FORMULA:
        return None
    if len(found) != 1:
        return None
    first = words[found[0]]
    last = words[found[0] + 1] if _no_longer(words, found[0]) else first
    end = last.end + (1 if text[last.end : last.end + 1] == ":" else 0)
    instead = "has " if first.plain == "without" else ""
    return (
        f"{text[: first.start]}{instead}{text[end:].lstrip()}"
        if instead
        else f"{text[: first.start]}{text[end:]}"
    )


_NEGATING = ("not", "never", "without")
_IN_FORMULA = ("=", "and", "or", "<>")


def _no_longer(words: tuple[TypedWord, ...], n: int) -> bool:
    return words[n].plain == "no" and n + 1 < len(words) and words[n + 1].plain == "longer"
