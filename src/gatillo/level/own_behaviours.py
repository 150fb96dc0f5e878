"""Own behaviours: sections of the order list that are a behaviour, which kinds can be given.

To a run an own behaviour is a tag and a few variables: every object whose kind has it carries the tag, and has a variable
for each setting. Its rules speak of such an object as `self`.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from gatillo.level.model import Kind, Level, Object, OwnUse, Section, Value, Variable

SELF = "self"
"""How the rules of an own behaviour name an object that has it."""
_KEPT = 8
_made: dict[tuple[object, ...], tuple[tuple[object, ...], tuple[tuple[Kind, ...], tuple[Object, ...]]]] = {}
"""The last ones made, by identity: what has not changed stays the same tuple, by which other things know that it has not."""


def own_behaviours(level: Level) -> dict[str, Section]:
    """Return the sections that are own behaviours, by name, in the order of the order list."""
    return {e.name: e for e in level.order if isinstance(e, Section) and e.own is not None}


def uses_of(kind: Kind, own: Mapping[str, Section]) -> tuple[OwnUse, ...]:
    """Return the own behaviours that a kind has: those that it was given, then those that it has by its tags.

    `own` are the own behaviours of the level, by name.
    """
    given = {use.use for use in kind.own}
    by_tag = (
        OwnUse(use=name)
        for name, section in own.items()
        if name not in given and section.own is not None and not {*section.own.tags}.isdisjoint(kind.tags)
    )
    return (*kind.own, *by_tag)


def kinds_with(level: Level, behaviour: str) -> list[str]:
    """Return the names of the kinds that have an own behaviour, given or by a tag, in their order."""
    own = own_behaviours(level)
    return [
        kind.name
        for kind in level.kinds
        if not kind.scenery and any(use.use == behaviour for use in uses_of(kind, own))
    ]


def setting_variable(behaviour: str, setting: str) -> str:
    """Return the name of the variable that holds a setting of an own behaviour."""
    return f"{behaviour} {setting}"


def off_mark(behaviour: str) -> str:
    """Return the mark among an object's tags that says that it does not carry a behaviour's tag at first. No tag has such a name."""
    return f"-{behaviour}"


def with_own_behaviours(level: Level) -> Level:
    """Return the level with the tags and variables that its own behaviours are; the level itself if it has none."""
    own = own_behaviours(level)
    if not own:
        return level
    held = (level.kinds, level.objects, *((name, section.own) for name, section in own.items()))
    key = (id(level.kinds), id(level.objects), *((name, id(section.own)) for name, section in own.items()))
    found = _made.get(key)
    if found is None:
        kinds = tuple(_with_what_it_has(kind, own) for kind in level.kinds)
        has = {kind.name: {use.use for use in uses_of(kind, own)} & own.keys() for kind in level.kinds}
        objects = tuple(_with_its_settings(thing, has.get(thing.kind, set()), own) for thing in level.objects)
        if len(_made) >= _KEPT:
            _made.clear()
        found = _made[key] = held, (kinds, objects)
    return replace(level, kinds=found[1][0], objects=found[1][1])


def _with_what_it_has(kind: Kind, own: dict[str, Section]) -> Kind:
    everything = uses_of(kind, own)
    uses = [use for use in everything if use.use in own]
    if not uses:
        return kind
    variables = list(kind.variables)
    for use in uses:
        behaviour = own[use.use].own
        assert behaviour is not None
        for setting in behaviour.settings:
            value = use.values.get(setting.name, setting.value)
            variables.append(Variable(name=setting_variable(use.use, setting.name), value=value))
    tags = dict.fromkeys((*kind.tags, *(use.use for use in uses)))
    return replace(kind, tags=tuple(tags), variables=tuple(variables), own=everything)


def _with_its_settings(thing: Object, has: set[str], own: dict[str, Section]) -> Object:
    if not thing.settings or not has:
        return thing
    values: dict[str, Value] = dict(thing.values)
    settings, tags = dict(thing.settings), list(thing.tags)
    for name, value in thing.settings.items():
        behaviour, _, setting = name.partition(": ")
        section = own.get(behaviour) if behaviour in has else None
        if section is None or section.own is None:
            continue
        if setting and any(s.name == setting for s in section.own.settings):
            values[setting_variable(behaviour, setting)] = value
        elif not setting and value is False:
            tags.append(off_mark(behaviour))
        elif setting:
            continue
        del settings[name]
    return replace(thing, values=values, settings=settings, tags=tuple(tags))
