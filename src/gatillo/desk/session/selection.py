"""What is selected, by what stays the same when the level is another one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gatillo.catalogue.slot_types import known_names
from gatillo.level.model import Level, Section
from gatillo.level.roles import all_logic

ThingSort = Literal["kind", "place", "trial", "section", "message", "timer", "item", "level"]


@dataclass(frozen=True, slots=True)
class Thing:
    """Something of the level by its name."""

    sort: ThingSort
    name: str


@dataclass(frozen=True, slots=True)
class Selection:
    """What is selected: objects by id, a rule by id, or another thing by name."""

    objects: frozenset[int] = frozenset()
    rule: int | None = None
    thing: Thing | None = None

    def within(self, level: Level) -> Selection:
        """What of it a level has."""
        objects = self.objects & {o.id for o in level.objects}
        rules = {entry.id for _, _, entry in all_logic(level)}
        return Selection(objects, self.rule if self.rule in rules else None, _thing_within(self.thing, level))

    def renamed(self, before: Level, after: Level) -> Selection:
        """The same, after taking back or doing again what may have given the selected thing another name."""
        thing = self.thing
        if thing is None or thing.sort == "level":
            return self
        old, new = _names(thing.sort, before), _names(thing.sort, after)
        if thing.name in new or thing.name not in old or len(old) != len(new):
            return self
        return Selection(self.objects, self.rule, Thing(thing.sort, new[old.index(thing.name)]))


def _names(sort: ThingSort, level: Level) -> list[str]:
    if sort == "section":
        return [e.name for e in level.order if isinstance(e, Section)]
    named = {"kind": level.kinds, "place": level.places, "trial": level.trials}
    return [thing.name for thing in named[sort]] if sort in named else known_names(level, sort)


def _thing_within(thing: Thing | None, level: Level) -> Thing | None:
    if thing is None or thing.sort == "level":
        return thing
    return thing if thing.name in _names(thing.sort, level) else None
