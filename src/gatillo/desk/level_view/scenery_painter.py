"""Scenery in the level view. It is no part of a run, so it is drawn and found from the document."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF

from gatillo.desk.level_view.canvas import Canvas
from gatillo.level.model import Circle, Kind, Level, Object

Piece = tuple[Object, Kind]
MOST_DRAWN = 250
"""Pieces on screen at once: a paint of more would hold the window up."""


def depth_of(piece: Piece) -> float:
    """Return how far in front it is drawn."""
    thing, kind = piece
    return kind.depth if thing.depth is None else thing.depth


_kept: list[tuple[object, object, list[Piece]]] = []
"""What was found last, and of which kinds and objects."""


def scenery_of(level: Level) -> list[Piece]:
    """Return all of it, the rearmost first."""
    if _kept and _kept[0][0] is level.kinds and _kept[0][1] is level.objects:
        return _kept[0][2]
    kinds = {kind.name: kind for kind in level.kinds if kind.scenery}
    found = [(thing, kinds[thing.kind]) for thing in level.objects if thing.kind in kinds] if kinds else []
    found.sort(key=depth_of)
    _kept[:] = [(level.kinds, level.objects, found)]
    return found


def scenery_in_sight(canvas: Canvas) -> list[Piece]:
    """Return what of it is on screen, the rearmost first; of far too much the foremost."""
    pieces = scenery_of(canvas.bench.level)
    if not pieces:
        return []
    west, north = canvas.to_level(QPointF(0, 0))
    east, south = canvas.to_level(QPointF(canvas.width(), canvas.height()))
    seen = []
    for piece in pieces:
        thing, kind = piece
        far = math.hypot(*kind.shape.halves) * thing.scale
        if west - far <= thing.x <= east + far and south - far <= thing.y <= north + far:
            seen.append(piece)
    return seen[-MOST_DRAWN:]


def reach_of(piece: Piece) -> tuple[float, float]:
    """Half the width and height of the box about it as it is turned, in units."""
    thing, kind = piece
    wide, high = (half * thing.scale for half in kind.shape.halves)
    if isinstance(kind.shape, Circle):
        return wide, high
    turned = math.radians(thing.angle)
    c, s = abs(math.cos(turned)), abs(math.sin(turned))
    return wide * c + high * s, wide * s + high * c


def scenery_at(canvas: Canvas, point: QPointF) -> int | None:
    """Return the front-most piece under a pixel, by id."""
    x, y = canvas.to_level(point)
    for thing, kind in reversed(scenery_of(canvas.bench.level)):
        across, up = x - thing.x, y - thing.y
        wide, high = (half * thing.scale for half in kind.shape.halves)
        if isinstance(kind.shape, Circle):
            if math.hypot(across, up) <= wide:
                return thing.id
            continue
        turned = math.radians(-thing.angle)
        c, s = math.cos(turned), math.sin(turned)
        if abs(across * c - up * s) <= wide and abs(across * s + up * c) <= high:
            return thing.id
    return None


def scenery_in(canvas: Canvas, box: QRectF) -> set[int]:
    """Return the pieces that lie wholly within a box in pixels: one that is boxed about is not meant."""
    found = set()
    for piece in scenery_of(canvas.bench.level):
        thing = piece[0]
        wide, high = reach_of(piece)
        corners = (
            canvas.to_pixels(thing.x - wide, thing.y + high),
            canvas.to_pixels(thing.x + wide, thing.y - high),
        )
        if box.contains(QRectF(*corners)):
            found.add(thing.id)
    return found
