"""“Its fuel”: the owner put in the place of such a word, so that the words after it name a variable."""

from __future__ import annotations

import re

from gatillo.language.level_names import names_of
from gatillo.language.typed_words import ARTICLES
from gatillo.level.roles import Index

_OWN = re.compile(
    r"(?<!half )(?<!twice )(?<!double )\b(?:its|his|their)(?: own)? (?P<what>\w+)\b", re.IGNORECASE
)
_WORD = re.compile(r"\w+")
_MEASURED = frozenset(["speed"])
"""What every object has, and a formula asks for with a function."""
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
    words = [m.group().lower() for m in _WORD.finditer(before.replace("'s", "").replace("’s", ""))]
    for end in range(len(words), 0, -1):
        for start in range(max(0, end - _LONGEST), end):
            if words[start] in ARTICLES:
                continue
            role = names.role(" ".join(words[start:end]))
            if role is None or role.begun:
                continue
            if variable in _MEASURED or names.variable_of(role.name, variable) is not None:
                return role.name
            break
    return ""
