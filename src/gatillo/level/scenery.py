"""Scenery: objects that are only looked at. They are in the document, but take no part in a run.

Nothing can mean it, touch it, count it or lie on it, because no run holds it. It never moves, so that what is attached to
it stays where it is.
"""

from __future__ import annotations

from msgspec.structs import replace

from gatillo.level.model import Kind, Level, Object

_KEPT = 8
_parted: dict[
    tuple[int, int], tuple[tuple[Kind, ...], tuple[Object, ...], tuple[Kind, ...], tuple[Object, ...]]
] = {}
"""The last ones parted, by identity: what has not changed stays the same tuple, by which other things know that it has not."""


def without_scenery(level: Level) -> Level:
    """Return the level with only what takes part; the level itself if all of it does."""
    if not any(kind.scenery for kind in level.kinds):
        return level
    key = id(level.kinds), id(level.objects)
    # asked by several threads: what is found is held before another may throw it out
    found = _parted.get(key)
    if found is None:
        names = {kind.name for kind in level.kinds if kind.scenery}
        gone = {thing.name for thing in level.objects if thing.kind in names}
        kinds = tuple(kind for kind in level.kinds if kind.name not in names)
        objects = tuple(
            replace(thing, attached="") if thing.attached in gone else thing
            for thing in level.objects
            if thing.kind not in names
        )
        if len(_parted) >= _KEPT:
            _parted.clear()
        found = _parted[key] = level.kinds, level.objects, kinds, objects
    return replace(level, kinds=found[2], objects=found[3])
