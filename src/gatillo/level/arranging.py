"""Edits that arrange objects: in line, evenly spread, copied in rows and rings, grouped, attached."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from msgspec.structs import replace

from gatillo.kernels.mathematics import cosd, sind
from gatillo.level.edits import change_objects, duplicate_objects
from gatillo.level.model import Level, Object
from gatillo.level.naming import free_name

Edge = Literal["left", "right", "top", "bottom", "middle across", "middle up"]


def _chosen(level: Level, ids: Collection[int]) -> list[Object]:
    return [o for o in level.objects if o.id in ids]


def align(level: Level, ids: Collection[int], edge: Edge) -> Level:
    """Put the middles of objects in line: at the leftmost, rightmost, topmost, lowest, or their common middle."""
    chosen = _chosen(level, ids)
    if len(chosen) < 2:
        return level
    xs, ys = [o.x for o in chosen], [o.y for o in chosen]
    to = {
        "left": ("x", min(xs)),
        "right": ("x", max(xs)),
        "middle across": ("x", (min(xs) + max(xs)) / 2),
        "top": ("y", max(ys)),
        "bottom": ("y", min(ys)),
        "middle up": ("y", (min(ys) + max(ys)) / 2),
    }[edge]
    return change_objects(level, ids, lambda o: replace(o, **{to[0]: round(to[1], 3)}))


def distribute(level: Level, ids: Collection[int], axis: Literal["x", "y"]) -> Level:
    """Spread the middles of objects evenly between the outermost two."""
    chosen = sorted(_chosen(level, ids), key=lambda o: (getattr(o, axis), o.id))
    if len(chosen) < 3:
        return level
    first, last = getattr(chosen[0], axis), getattr(chosen[-1], axis)
    step = (last - first) / (len(chosen) - 1)
    at = {o.id: round(first + step * number, 3) for number, o in enumerate(chosen)}
    return change_objects(level, ids, lambda o: replace(o, **{axis: at[o.id]}))


def copies_in_row(
    level: Level, ids: Collection[int], count: int, dx: float, dy: float
) -> tuple[Level, list[int]]:
    """Copy objects `count` times, each set off by dx, dy from the one before; the level and the copies' ids."""
    made: list[int] = []
    for number in range(1, count + 1):
        level, new = duplicate_objects(level, ids, dx * number, dy * number)
        made += new
    return level, made


def copies_in_ring(level: Level, object_id: int, count: int, radius: float) -> tuple[Level, list[int]]:
    """Copy an object so that it and its copies, `count` in all, stand evenly on a circle, each facing outward.

    The object itself is the first, where it is; the circle's middle lies to the left of it, by the radius.
    """
    thing = next(o for o in level.objects if o.id == object_id)
    made: list[int] = []
    for number in range(1, count):
        turn = 360.0 * number / count
        dx, dy = radius * (cosd(turn) - 1.0), radius * sind(turn)
        level, new = duplicate_objects(level, (object_id,), dx, dy)
        turned = round(180.0 - (180.0 - (thing.angle + turn)) % 360.0, 3)
        level = change_objects(level, new, lambda o, a=turned: replace(o, angle=a))  # type: ignore[misc]
        made += new
    return level, made


def group(level: Level, ids: Collection[int]) -> Level:
    """Let objects be selected and moved as one."""
    name = free_name("group", {o.group for o in level.objects})
    return change_objects(level, ids, lambda o: replace(o, group=name))


def ungroup(level: Level, ids: Collection[int]) -> Level:
    """Take objects, and all that are grouped with them, out of their groups."""
    groups = {o.group for o in _chosen(level, ids)} - {""}
    objects = tuple(replace(o, group="") if o.group in groups else o for o in level.objects)
    return replace(level, objects=objects)


def grouped_with(level: Level, ids: Collection[int]) -> frozenset[int]:
    """Return the objects and all that are grouped with them."""
    groups = {o.group for o in _chosen(level, ids)} - {""}
    return frozenset({*ids, *(o.id for o in level.objects if o.group in groups)})


def attach(level: Level, object_id: int, carrier: str) -> Level:
    """Let an object start attached to another, by its name; "" detaches it.

    Raises ValueError when the carrier is, by way of others, attached to the object itself.
    """
    named = {o.name: o for o in level.objects}
    thing = next(o for o in level.objects if o.id == object_id)
    above = named.get(carrier)
    while above is not None:
        if above.id == object_id:
            raise ValueError(f"{thing.name} cannot be attached to {carrier}, which it carries itself")
        above = named.get(above.attached)
    return change_objects(level, (object_id,), lambda o: replace(o, attached=carrier))
