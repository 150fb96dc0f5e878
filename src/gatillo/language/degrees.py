"""Reading “the heaviest crate” and “heavier than 5” by the variable that says how heavy: “the crate with the most weight”."""

from __future__ import annotations

import re
from functools import partial

from gatillo.language.level_names import names_of
from gatillo.language.variable_fits import as_formula
from gatillo.level.naming import token
from gatillo.level.roles import Index

_DEGREES = """
heav: weight mass
light-: weight mass
fast: speed pace
slow-: speed pace
big: size scale
large: size scale
small-: size scale
old: age
young-: age
strong: strength power
weak-: strength power
hungr: hunger
rich: money coins gold
poor-: money coins gold
full: load fuel charge
empt-: load fuel charge
hot: heat temperature
cold-: heat temperature
wet: water
dry-: water
tired: tired fatigue
"""
"""Beginnings of adjectives, with “-” where they say little of it, and the variables that they may be about, likeliest first."""
_ABOUT = {
    beginning.rstrip("-"): (beginning.endswith("-"), names.split())
    for beginning, _, names in (line.partition(": ") for line in _DEGREES.strip().splitlines())
}
_ADJECTIVE = "|".join(sorted(_ABOUT, key=len, reverse=True))
_MOST = re.compile(rf"\b(?P<how>{_ADJECTIVE})(?:g|t)?(?:i?est) (?P<kind>[a-z]\w*)\b", re.IGNORECASE)
_MORE = re.compile(
    rf"\b(?P<before>(?:the |an? |any |every |each |all )?(?P<kind>[a-z]\w*)(?: \d+)?)(?P<that> that| which)? (?P<is>is|are) (?P<not>not )?(?P<how>{_ADJECTIVE})(?:g|t)?i?er than (?P<than>-?\d+(?:\.\d+)?|(?:the |an? )?[a-z]\w*(?: \d+)?)(?= |$|,)",
    re.IGNORECASE,
)


_OF_A_KIND = re.compile(
    r"\b(?P<kind>[a-z]\w*) (?P<with>with|that has|which has|who has) the (?P<end>most|least|fewest|highest|lowest|largest|smallest|greatest|biggest) (?P<what>[a-z]\w*)\b",
    re.IGNORECASE,
)


def _variable(index: Index, kind: str, how: str) -> str:
    """Return the number variable of a kind that an adjective is about; "" if it has none."""
    role = names_of(index).role(kind.lower())
    known = index.role(role.name) if role is not None and not role.begun else None
    if known is None or len(known.kinds) != 1:
        return ""
    have = {
        token(v.name): v.name for v in index.kinds[known.kinds[0]].variables if isinstance(v.value, float)
    }
    return next((have[name] for name in _ABOUT[how.lower()][1] if name in have), "")


def _with_most(index: Index, found: re.Match[str]) -> str:
    variable = _variable(index, found["kind"], found["how"])
    if not variable:
        return found[0]
    little = _ABOUT[found["how"].lower()][0]
    return f"{found['kind']} with the {'least' if little else 'most'} {variable}"


def _compared(index: Index, found: re.Match[str]) -> str:
    variable = _variable(index, found["kind"], found["how"])
    than = found["than"]
    if not variable:
        return found[0]
    if not than.lstrip("-")[:1].isdigit():
        other = _variable(index, re.sub(r"^(?:the|an?) ", "", than, flags=re.IGNORECASE), found["how"])
        if not other:
            return found[0]
        than = f"{than}'s {other}"
    more = "less" if _ABOUT[found["how"].lower()][0] else "more"
    turned = "not " if found["not"] else ""
    if found["that"]:
        return f"{found['before']}{found['that']} have {turned}{more} than {than} {variable}"
    return f"{found['before']}'s {variable} is {turned}{more} than {than}"


def _of_its_kind(index: Index, found: re.Match[str]) -> str:
    """Return “the enemy with the most health” with the health of that kind, where another kind has health too."""
    role = names_of(index).role(found["kind"].lower())
    own = names_of(index).variable_of(role.name, found["what"].lower()) if role and not role.begun else None
    if role is None or own is None or role.name not in index.kinds:
        return found[0]
    return f"{found['kind']} {found['with']} the {found['end']} {as_formula(own[0])}"


def by_variables(index: Index, text: str) -> str:
    """Return a line in which adjectives of degree speak of the variable that they are about; as it is, where no kind has such a one."""
    text = _MORE.sub(partial(_compared, index), _MOST.sub(partial(_with_most, index), text))
    return _OF_A_KIND.sub(partial(_of_its_kind, index), text)
