"""The rules of an own behaviour as a run takes them: about any object that has it, and its variables."""

from __future__ import annotations

import re

from msgspec.structs import replace

from gatillo.catalogue.declare.slot_types import SLOT_TYPES
from gatillo.language.renaming import Change, change_of_role, change_slots
from gatillo.level.model import Graph, Logic, Rule, Section
from gatillo.level.naming import token
from gatillo.level.own_behaviours import setting_variable

SELF = "self"
_KEPT = 20_000
_made: dict[tuple[int, str, tuple[str, ...]], tuple[Logic, Logic]] = {}
"""Rules and graphs by identity, with the name and the settings of their behaviour: as they are written, and as they run."""


def as_it_runs(entry: Logic, section: Section | None) -> Logic:
    """Return a rule or graph of a section as it runs: in an own behaviour `self` is any object that has it.

    The same entry gives the same result, by identity. Any other entry is returned as it is.
    """
    if section is None or section.own is None or (isinstance(entry, Graph) and entry.for_):
        return entry
    settings = tuple(setting.name for setting in section.own.settings)
    key = id(entry), section.name, settings
    found = _made.get(key)
    if found is None:
        if len(_made) >= _KEPT:
            _made.clear()
        found = _made[key] = entry, _about_any(entry, section.name, settings)
    return found[1]


def as_it_is_said(text: str, section: Section | None) -> str:
    """Return a sentence about the rules of an own behaviour as they run with the words in which they are written."""
    if section is None or section.own is None:
        return text
    for setting in section.own.settings:
        hidden = setting_variable(section.name, setting.name)
        text = text.replace(token(hidden), token(setting.name)).replace(hidden, setting.name)
    every = f"any {section.name}"
    return text.replace(every, SELF).replace(token(every), SELF)


def _about_any(entry: Logic, name: str, settings: tuple[str, ...]) -> Logic:
    to_role = change_of_role(SELF, f"any {name}")
    own = {token(setting): token(setting_variable(name, setting)) for setting in settings}
    members = "|".join(sorted(map(re.escape, own), key=len, reverse=True))
    member = re.compile(rf"(?<![\w.]){SELF}\.({members})(?!\w)") if own else None

    def change(type: str, text: str) -> str:
        if member is not None:
            if SLOT_TYPES[type].holds == "variable":
                owner, dot, variable = text.rpartition(".")
                if owner.strip() == SELF and token(variable.strip()) in own:
                    text = f"{SELF}{dot}{own[token(variable.strip())]}"
            else:
                text = member.sub(lambda m: f"{SELF}.{own[m[1]]}", text)
        return to_role(type, text)

    return _changed(entry, change)


def _changed(entry: Logic, change: Change) -> Logic:
    if isinstance(entry, Graph):
        nodes = []
        for node in entry.nodes:
            clause = change_slots(node.clause, change)
            nodes.append(replace(node, slots=clause.slots, of=clause.of))
        return replace(entry, nodes=tuple(nodes))
    assert isinstance(entry, Rule)
    blocks = {
        part: tuple(change_slots(clause, change) for clause in getattr(entry, part))
        for part in ("when", "if_", "do", "else_")
    }
    return replace(entry, **blocks)
