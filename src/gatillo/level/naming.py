"""Names: which are allowed, how they are written in formulas, and which one a mistyped name probably means."""

from __future__ import annotations

import bisect
import difflib
import heapq
import re
from collections.abc import Iterable
from functools import lru_cache

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


@lru_cache(maxsize=65_536)
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


_NAMED_PLACE = re.compile(r"[\w\s]*")


def is_point_formula(text: str) -> bool:
    """Return whether what stands where a place is asked for is a formula: it has more in it than names have."""
    return _NAMED_PLACE.fullmatch(text) is None


@lru_cache(maxsize=65_536)
def token(name: str) -> str:
    """Return how a name stands in a formula: spaces become underscores."""
    return name.replace(" ", "_")


def spoken(name: str) -> str:
    """Return a token as it is spoken of: underscores become spaces."""
    return name.replace("_", " ")


LONGEST_COMPARED = 200
"""Letters of a mistyped name that are compared."""
FEW_NAMES = 24
"""Up to so many known names are all compared with a mistyped one, letter by letter."""
MOST_COMPARED = 8
"""So many of more names are compared: those with most pairs of letters in common."""
MANY_NAMES = 300
"""Of more names only those that begin alike and are about as long are looked at."""


def _pairs_of(name: str) -> set[str]:
    padded = f" {name}"
    return {padded[at : at + 2] for at in range(len(name))} | set(name)


class KnownNames:
    """Names that exist, with which mistyped ones are compared.

    Made once for many mistyped names: it sorts the names once, and with more than 24 of them it compares a mistyped
    one letter by letter with no more than 8, so that a thousand mistyped names among twenty thousand take a fraction of a second.
    """

    def __init__(self, names: Iterable[str]) -> None:
        self.names = sorted(set(names))
        self._folded = {name.lower(): name for name in self.names}
        self._found: dict[str, str | None] = {}
        self._alike: dict[str, list[str]] = {}
        self._pairs: dict[str, set[str]] = {}
        if FEW_NAMES < len(self.names) <= MANY_NAMES:
            self._pairs = {name: _pairs_of(name) for name in self._folded}
        elif len(self.names) > MANY_NAMES:
            for name in self._folded:
                for begin in {name[:1], name[:2], name[:3]}:
                    self._alike.setdefault(begin, []).append(name)
            for alike in self._alike.values():
                alike.sort(key=len)

    def nearest(self, wanted: str) -> str | None:
        """Return the name that looks most like the wanted one, or None where none does."""
        if wanted not in self._found:
            # a very long text is no name
            folded = wanted.lower()[:LONGEST_COMPARED]
            among = self._folded if len(self.names) <= FEW_NAMES else self._about(folded)
            close = difflib.get_close_matches(folded, among, n=1, cutoff=0.5)
            self._found[wanted] = self._folded[close[0]] if close else None
        return self._found[wanted]

    def _about(self, wanted: str) -> list[str]:
        """Return names with which a mistyped one is worth comparing."""
        if wanted in self._folded:
            return [wanted]
        if self._pairs:
            pairs = _pairs_of(wanted)
            shared = [
                (-len(pairs & theirs), abs(len(name) - len(wanted)), name)
                for name, theirs in self._pairs.items()
            ]
            return [name for _, _, name in heapq.nsmallest(MOST_COMPARED, shared)]
        found: dict[str, None] = {}
        for begin in (wanted[:3], wanted[:2], wanted[:1]):
            alike = self._alike.get(begin, [])
            at = bisect.bisect_left(alike, len(wanted), key=len)
            found.update(dict.fromkeys(alike[max(0, at - MOST_COMPARED // 2) : at + MOST_COMPARED // 2]))
            if len(found) >= MOST_COMPARED:
                break
        return list(found)[:MOST_COMPARED]

    def hint(self, wanted: str) -> str:
        """Return “; did you mean X?”, or what there is when nothing is near, ready to end a sentence with."""
        close = self.nearest(wanted)
        if close:
            return f"; did you mean “{close}”?"
        if not self.names:
            return ""
        shown = ", ".join(self.names[:6]) + (", …" if len(self.names) > 6 else "")
        return f"; there are: {shown}"


def nearest(wanted: str, known: Iterable[str]) -> str | None:
    """Return the known name that looks most like the wanted one, or None."""
    return KnownNames(known).nearest(wanted)


def did_you_mean(wanted: str, known: Iterable[str]) -> str:
    """Return “; did you mean X?”, or what there is when nothing is near, ready to end a sentence with."""
    return KnownNames(known).hint(wanted)


def free_name(stem: str, taken: Iterable[str]) -> str:
    """`stem 1`, `stem 2`, …: the first that is not taken."""
    used = set(taken)
    n = 1
    while f"{stem} {n}" in used:
        n += 1
    return f"{stem} {n}"


class FreeNames:
    """Gives names that are not taken, one after the other, each with the first number that makes it free."""

    def __init__(self, taken: Iterable[str]) -> None:
        self.taken = set(taken)
        self._next: dict[str, int] = {}

    def take(self, stem: str, otherwise: str = "Rule") -> str:
        """Return the stem itself where it is free, else `stem 1`, `stem 2`, …; from then on it is taken.

        `otherwise` stands for an empty stem, and always has a number.
        """
        name, stem = stem, stem or otherwise
        number = self._next.get(stem, 1)
        if not name:
            name, number = f"{stem} {number}", number + 1
        while name in self.taken:
            name, number = f"{stem} {number}", number + 1
        self._next[stem] = number
        self.taken.add(name)
        return name
