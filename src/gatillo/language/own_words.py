"""“Its fuel”: the owner put in the place of such a word, so that the words after it name a variable."""

from __future__ import annotations

import re

from gatillo.language.level_names import LevelNames, names_of
from gatillo.language.typed_words import ARTICLES
from gatillo.level.roles import Index

_OWN = re.compile(
    r"(?<!half )(?<!twice )(?<!double )\b(?:its|his|their)(?: own)? (?P<what>\w+)\b", re.IGNORECASE
)
_WORD = re.compile(r"\w+")
_MEASURED = frozenset(["speed"])
"""What every object has, and a formula asks for with a function."""
_CLAUSE = re.compile(r"[,;]|\b(?:and|then|when|if|do|else)\b", re.IGNORECASE)
_LONGEST = 3
"""Words of a name that are looked for."""


def with_owners(index: Index, text: str) -> str:
    """Return a line in which “its” before a variable is the object that was named last before it and has that variable."""
    found = _OWN.search(text)
    while found is not None:
        owner = _owner(index, text[: found.start()], found["what"].lower())
        if not owner:
            found = _OWN.search(text, found.end())
            continue
        begin, end = text[: found.start()], text[found.end() :]
        what = found["what"]
        begin += f"the {what} of {owner}" if what.lower() in _MEASURED else f"{owner}'s {what}"
        text = begin + end
        found = _OWN.search(text, len(begin))
    return text


def _owner(index: Index, before: str, variable: str) -> str:
    names = names_of(index)
    # what the clause is about comes first in it: “move the moth toward the lamp at its speed”
    clause = _CLAUSE.split(before)[-1]
    return _named(names, clause, variable, first=True) or _named(names, before, variable, first=False)


def _points(index: Index, role: str) -> set[str]:
    """Return the names of the points that the objects of a role have, in small letters."""
    known = index.role(role)
    kinds = known.kinds if known is not None else ()
    return {point.name.lower() for kind in kinds for point in index.kinds[kind].points}


def _named(names: LevelNames, before: str, variable: str, *, first: bool) -> str:
    """Return the first or the last object that a text names and that has a variable; "" if there is none."""
    words = [m.group().lower() for m in _WORD.finditer(before.replace("'s", "").replace("’s", ""))]
    ends = range(len(words), 0, -1)
    for end in reversed(ends) if first else ends:
        for start in range(max(0, end - _LONGEST), end):
            if words[start] in ARTICLES:
                continue
            role = names.role(" ".join(words[start:end]))
            if role is None or role.begun:
                continue
            if (
                variable in _MEASURED
                or names.variable_of(role.name, variable) is not None
                or variable in _points(names.index, role.name)
            ):
                return role.name
            break
    return ""
