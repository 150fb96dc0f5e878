"""What is selected, by ids and names that survive an edit of the level."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gatillo.catalogue.declare.named_types import known_names
from gatillo.level.model import Graph, Level, Section
from gatillo.level.roles import all_logic

ThingSort = Literal[
    "kind", "place", "clip", "trial", "variant", "section", "message", "timer", "item", "level"
]


@dataclass(frozen=True, slots=True)
class Thing:
    """Something of the level by its name."""

    sort: ThingSort
    name: str


@dataclass(frozen=True, slots=True)
class Selection:
    """What is selected: objects by id, a rule or a graph by id, perhaps cards of it, or another thing by name."""

    objects: frozenset[int] = frozenset()
    rule: int | None = None
    thing: Thing | None = None
    cards: frozenset[int] = frozenset()
    """Of the graph that is selected: cards by their numbers."""

    def within(self, level: Level) -> Selection:
        """Return what of it a level has."""
        objects = self.objects & {o.id for o in level.objects}
        entry = next((entry for _, _, entry in all_logic(level) if entry.id == self.rule), None)
        there = {node.id for node in entry.nodes} if isinstance(entry, Graph) else set()
        return Selection(
            objects,
            entry.id if entry is not None else None,
            _thing_within(self.thing, level),
            self.cards & there,
        )

    def renamed(self, before: Level, after: Level) -> Selection:
        """Return the selection after an undo or redo that may have renamed the selected thing."""
        thing = self.thing
        if thing is None or thing.sort == "level":
            return self
        old, new = _names(thing.sort, before), _names(thing.sort, after)
        if thing.name in new or thing.name not in old or len(old) != len(new):
            return self
        return Selection(self.objects, self.rule, Thing(thing.sort, new[old.index(thing.name)]), self.cards)


def _names(sort: ThingSort, level: Level) -> list[str]:
    if sort == "section":
        return [e.name for e in level.order if isinstance(e, Section)]
    named = {
        "kind": level.kinds,
        "place": level.places,
        "clip": level.clips,
        "trial": level.trials,
        "variant": level.variants,
    }
    return [thing.name for thing in named[sort]] if sort in named else known_names(level, sort)


def _thing_within(thing: Thing | None, level: Level) -> Thing | None:
    if thing is None or thing.sort == "level":
        return thing
    return thing if thing.name in _names(thing.sort, level) else None
