"""The rules of an own behaviour as a run takes them: about any object that has it, and its variables."""

from __future__ import annotations

import re

from msgspec.structs import replace

from gatillo.catalogue.declare.slot_types import SLOT_TYPES
from gatillo.language.renaming import Change, change_entry, change_of_role, rename
from gatillo.level.model import Graph, Kind, Level, Logic, OwnBehaviour, Section, Variable
from gatillo.level.naming import token
from gatillo.level.own_behaviours import SELF, setting_variable
from gatillo.level.own_edits import change_setting, own_of, with_settings_named
from gatillo.level.roles import Index, Role

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

    return change_entry(entry, change)


# while it is written


def index_within(index: Index, section: Section | None) -> Index:
    """Return the names of a level as the rules of a section may use them: in an own behaviour with `self` and its settings."""
    if section is None or section.own is None:
        return index
    key = "within", section.name, id(section.own)
    found: Index | None = index.compiled.get(key)
    if found is None:
        found = index.compiled[key] = _index_within(index, section.name, section.own)
    return found


def _index_within(index: Index, name: str, own: OwnBehaviour) -> Index:
    # before any kind has it, it may be written for all
    kinds = index.tags.get(name) or tuple(index.kinds)

    def with_settings(kind: Kind) -> Kind:
        known = {variable.name for variable in kind.variables}
        new = [Variable(name=s.name, value=s.value) for s in own.settings if s.name not in known]
        return replace(kind, variables=(*kind.variables, *new)) if kind.name in kinds else kind

    made = Index(replace(index.level, kinds=tuple(map(with_settings, index.level.kinds))))
    made.role_tokens = {**made.role_tokens, SELF: Role(SELF, SELF, "tag", kinds, name)}
    return made


# names


def rename_setting(level: Level, behaviour: str, old: str, new: str) -> Level:
    """Return the level with a setting of an own behaviour renamed, in its rules and wherever it is spoken of."""
    level = change_setting(level, behaviour, old, name=new)
    level = with_settings_named(level, behaviour, lambda found: new if found == old else found)
    member = re.compile(rf"(?<![\w.]){SELF}\.{re.escape(token(old))}(?!\w)")

    def change(type: str, text: str) -> str:
        if SLOT_TYPES[type].holds == "variable":
            owner, dot, variable = text.rpartition(".")
            same = owner.strip() == SELF and token(variable.strip()) == token(old)
            return f"{owner}{dot}{new}" if same else text
        return member.sub(f"{SELF}.{token(new)}", text)

    order = tuple(
        replace(e, rules=tuple(change_entry(inner, change) for inner in e.rules))
        if isinstance(e, Section) and e.name == behaviour
        else e
        for e in level.order
    )
    return _variable_renamed(
        replace(level, order=order),
        behaviour,
        setting_variable(behaviour, old),
        setting_variable(behaviour, new),
    )


def rename_behaviour(level: Level, old: str, new: str) -> Level:
    """Return the level with an own behaviour renamed, wherever it is spoken of: as a behaviour, a tag, or by its settings."""
    own = own_of(level, old)
    for setting in own.settings:
        level = _variable_renamed(
            level, old, setting_variable(old, setting.name), setting_variable(new, setting.name)
        )
    level = rename(rename(level, "section", old, new), "tag", old, new)
    switched = change_of_behaviour(old, new)
    kinds = tuple(
        replace(k, own=tuple(replace(u, use=new) if u.use == old else u for u in k.own)) for k in level.kinds
    )
    objects = tuple(
        replace(
            o,
            settings={
                new + n.removeprefix(old) if n.partition(": ")[0] == old else n: v
                for n, v in o.settings.items()
            },
        )
        if o.settings
        else o
        for o in level.objects
    )
    order = tuple(
        replace(e, rules=tuple(change_entry(inner, switched) for inner in e.rules))
        if isinstance(e, Section)
        else change_entry(e, switched)
        for e in level.order
    )
    return replace(level, kinds=kinds, objects=objects, order=order)


def change_of_behaviour(old: str, new: str) -> Change:
    """Return what a slot with a behaviour's name becomes when it is renamed."""
    return lambda type, text: new if type == "behaviour" and text.strip() == old else text


def _variable_renamed(level: Level, behaviour: str, old: str, new: str) -> Level:
    for kind in level.kinds:
        if any(use.use == behaviour for use in kind.own):
            level = rename(level, "kind variable", old, new, kind=kind.name)
    return level
