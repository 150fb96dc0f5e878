"""Edits of own behaviours: made of sections, given settings, and given to kinds."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from gatillo.level.model import Level, Object, OwnBehaviour, OwnSetting, OwnUse, Section, Value
from gatillo.level.naming import free_name
from gatillo.level.rule_edits import set_section
from gatillo.level.thing_edits import change_kind


def own_of(level: Level, name: str) -> OwnBehaviour:
    """Return what makes a section an own behaviour. Raises KeyError if there is none of that name."""
    section = next((e for e in level.order if isinstance(e, Section) and e.name == name and e.own), None)
    if section is None or section.own is None:
        raise KeyError(name)
    return section.own


def make_own(level: Level, name: str) -> Level:
    """Make a section an own behaviour."""
    return set_section(level, name, own=OwnBehaviour())


def unmake_own(level: Level, name: str) -> Level:
    """Make an own behaviour a plain section again: no kind has it any more."""
    level = set_section(level, name, own=None)
    for kind in level.kinds:
        if any(use.use == name for use in kind.own):
            level = take_own(level, kind.name, name)
    return level


def set_own(level: Level, name: str, **fields: Any) -> Level:
    """Give fields of an own behaviour new values."""
    return set_section(level, name, own=replace(own_of(level, name), **fields))


def add_setting(level: Level, name: str, stem: str = "amount", value: Value = 0.0) -> tuple[Level, str]:
    """Add a setting to an own behaviour. Return the level and the setting's name."""
    own = own_of(level, name)
    taken = [s.name for s in own.settings]
    called = stem if stem not in taken else free_name(stem, taken)
    return set_own(level, name, settings=(*own.settings, OwnSetting(name=called, value=value))), called


def change_setting(level: Level, behaviour: str, setting: str, **fields: Any) -> Level:
    """Give fields of a setting new values."""
    settings = own_of(level, behaviour).settings
    changed = tuple(replace(s, **fields) if s.name == setting else s for s in settings)
    return set_own(level, behaviour, settings=changed)


def delete_setting(level: Level, name: str, setting: str) -> Level:
    """Take a setting away, with what kinds and objects say of it."""
    level = set_own(level, name, settings=tuple(s for s in own_of(level, name).settings if s.name != setting))
    return with_settings_named(level, name, lambda found: None if found == setting else found)


def with_settings_named(level: Level, name: str, named: Callable[[str], str | None]) -> Level:
    """Return the level with what kinds and objects say of a behaviour's settings under other names; None takes one away."""

    def values(given: dict[str, Value]) -> dict[str, Value]:
        pairs = ((named(setting), value) for setting, value in given.items())
        return {setting: value for setting, value in pairs if setting is not None}

    def thing(given: Object) -> Object:
        if not given.settings:
            return given
        settings: dict[str, float | bool] = {}
        for key, value in given.settings.items():
            behaviour, colon, setting = key.partition(": ")
            new = named(setting) if behaviour == name and colon else setting
            if new is not None:
                settings[f"{behaviour}{colon}{new}"] = value
        return replace(given, settings=settings)

    kinds = tuple(
        replace(k, own=tuple(replace(u, values=values(u.values)) if u.use == name else u for u in k.own))
        for k in level.kinds
    )
    return replace(level, kinds=kinds, objects=tuple(map(thing, level.objects)))


def give_own(level: Level, kind: str, name: str) -> Level:
    """Give a kind an own behaviour."""
    return change_kind(level, kind, lambda k: replace(k, own=(*k.own, OwnUse(use=name))))


def take_own(level: Level, kind: str, name: str) -> Level:
    """Take an own behaviour from a kind, with what its objects say of it."""
    level = change_kind(level, kind, lambda k: replace(k, own=tuple(u for u in k.own if u.use != name)))
    objects = tuple(
        replace(o, settings={n: v for n, v in o.settings.items() if n.partition(": ")[0] != name})
        if o.kind == kind and o.settings
        else o
        for o in level.objects
    )
    return replace(level, objects=objects)


def set_use(level: Level, kind: str, name: str, setting: str, value: Value | None) -> Level:
    """Let a kind have another value for a setting of its own behaviour; None for the behaviour's."""

    def put(use: OwnUse) -> OwnUse:
        values = {n: v for n, v in use.values.items() if n != setting}
        return replace(use, values=values if value is None else {**values, setting: value})

    return change_kind(
        level, kind, lambda k: replace(k, own=tuple(put(u) if u.use == name else u for u in k.own))
    )
