"""Removing what refers to things that are gone, so that an edited level can always be opened again.

Lines of rules and expectations are left as they are: they are told as findings, for their writer to mend.
"""

from __future__ import annotations

from collections.abc import Callable
from operator import is_
from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from gatillo.level.model import Kind, Level, Object, Reference, Trial, Value, Variable, Variant
from gatillo.level.roles import all_logic, type_of

Part = TypeVar("Part", bound=Struct)
Switched = TypeVar("Switched", Trial, Variant)


def tidied(level: Level) -> Level:
    """Return the level without switches, values, references and bonds whose rule, variable, kind or object is gone.

    The same level where there are none.
    """
    kinds = {kind.name: kind for kind in level.kinds}
    objects = {thing.name: thing.kind for thing in level.objects}
    scenery = {kind.name for kind in level.kinds if kind.scenery}
    switchable = {entry.name for entry in level.order} | {entry.name for _, _, entry in all_logic(level)}

    def value(given: Value) -> Value:
        if not isinstance(given, Reference):
            return given
        kind = given.kind if given.kind in kinds and given.kind not in scenery else ""
        there = objects.get(given.to, "") not in {"", *scenery} and (not kind or objects[given.to] == kind)
        to = given.to if there else ""
        return given if (to, kind) == (given.to, given.kind) else Reference(to=to, kind=kind)

    def variables(given: tuple[Variable, ...]) -> tuple[Variable, ...]:
        return tuple(v if value(v.value) is v.value else replace(v, value=value(v.value)) for v in given)

    def values(given: dict[str, Value], known: tuple[Variable, ...]) -> dict[str, Value]:
        types = {v.name: type_of(v.value) for v in known}
        return {name: value(v) for name, v in given.items() if types.get(name) == type_of(v)}

    def kind(given: Kind) -> Kind:
        return _with(given, variables=variables(given.variables))

    def thing(given: Object) -> Object:
        if not (given.values or given.attached):
            return given
        own = given
        if given.values and given.kind in kinds:
            own = _with(own, values=values(given.values, kinds[given.kind].variables))
        if given.attached and given.attached not in objects:
            own = replace(own, attached="")
        return own

    def trial(given: Switched) -> Switched:
        return _with(
            given,
            on=tuple(name for name in given.on if name in switchable),
            off=tuple(name for name in given.off if name in switchable),
            values=values(given.values, level.variables),
        )

    return _with(
        level,
        variables=variables(level.variables),
        kinds=_each(level.kinds, kind),
        objects=_each(level.objects, thing),
        trials=_each(level.trials, trial),
        variants=_each(level.variants, trial),
    )


def _with(given: Part, **fields: Any) -> Part:
    """Return a copy with these fields replaced, or the part itself where all of them are equal."""
    other = {
        name: v for name, v in fields.items() if getattr(given, name) is not v and getattr(given, name) != v
    }
    return replace(given, **other) if other else given


def _each(given: tuple[Part, ...], change: Callable[[Part], Part]) -> tuple[Part, ...]:
    """Return each of a tuple changed; the same tuple where none is."""
    changed = tuple(map(change, given))
    return given if all(map(is_, given, changed)) else changed
