"""Where the names of places are drawn: at their places, without covering one another or what they name.

What moves in a run is no matter, so that no name jumps: only how the level is laid out is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF, QPainter

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.level_view.scenery_painter import reach_of
from gatillo.desk.looks.theme import text_font, theme, with_alpha
from gatillo.level.model import Area, Kind, Level, Route

MOST_AVOIDED = 600
"""Objects that names keep clear of; of more, none, as there would be no room anyway."""
CROSS, STOP = 7.0, 9.0
"""Pixels from the middle of a spot's cross and of a route's stop to their edge."""
LINE = 2.0
MOST_PLACED = 300
"""Names in sight that make room for one another."""
MOST_NAMED = 600
"""Spots and areas in sight above which none has its name written; closer by, fewer are in sight."""
PLACED_WEIGHS = 8.0
FLOOR = 40.0
"""Units; scenery that reaches farther from its middle is ground."""


@dataclass(frozen=True, slots=True)
class Label:
    """A place's name, and the box that it may stand in: those it would rather have come first."""

    text: str
    boxes: tuple[QRectF, ...]


def placed(labels: Sequence[Label], taken: Sequence[tuple[QRectF, float]]) -> dict[str, QRectF]:
    """Return a box for each label: of its boxes the first that lies on nothing, or the one that lies on least.

    `taken` are boxes to keep clear of, each with how much it matters. A label that has been placed matters most. Of very many
    labels each simply takes its first box: there is no room for them anyway.
    """
    if len(labels) > MOST_PLACED:
        return {label.text: label.boxes[0] for label in labels}
    marks = np.array([(m.left(), m.top(), m.right(), m.bottom(), w) for m, w in taken]).reshape(-1, 5)
    found: dict[str, QRectF] = {}
    for label in labels:
        boxes = np.array([(b.left(), b.top(), b.right(), b.bottom()) for b in label.boxes])
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        near = marks[
            (marks[:, 0] < high[0])
            & (marks[:, 2] > low[0])
            & (marks[:, 1] < high[1])
            & (marks[:, 3] > low[1])
        ]
        best = label.boxes[int(np.argmin(_lies_on(boxes, near)))]
        found[label.text] = best
        own = (best.left(), best.top(), best.right(), best.bottom(), PLACED_WEIGHS)
        marks = np.concatenate((marks, np.array([own])))
    return found


def _lies_on(boxes: NDArray[np.float64], marks: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return for each box the area that it shares with marks, weighted by how much each mark matters."""
    wide = np.minimum(boxes[:, None, 2], marks[None, :, 2]) - np.maximum(boxes[:, None, 0], marks[None, :, 0])
    high = np.minimum(boxes[:, None, 3], marks[None, :, 3]) - np.maximum(boxes[:, None, 1], marks[None, :, 1])
    common: NDArray[np.float64] = (np.maximum(wide, 0.0) * np.maximum(high, 0.0)) @ marks[:, 4]
    return common


def paint_labels(p: QPainter, canvas: Canvas) -> None:
    """Write the names of spots and areas, and note where they stand."""
    level, t, font = canvas.bench.level, theme(), text_font(-1, italic=True)
    key = (
        level.places,
        level.objects,
        level.kinds,
        canvas.zoom,
        canvas.centre,
        canvas.width(),
        canvas.height(),
    )
    if canvas.labels_for != key:
        canvas.labels = placed(_labels(canvas, level, QFontMetricsF(font)), _marks(canvas, level))
        canvas.labels_for = key
    p.setFont(font)
    for text, box in canvas.labels.items():
        p.fillRect(box, with_alpha(t.paper, 0.72))
        p.setPen(t.cursor)
        p.drawText(QPointF(box.left() + 2, box.bottom() - QFontMetricsF(font).descent() - 1), text)


def _labels(canvas: Canvas, level: Level, metrics: QFontMetricsF) -> list[Label]:
    found = []
    high = metrics.height() + 2
    sight = QRectF(canvas.rect())
    if len(level.places) > MOST_NAMED and _many_in_sight(canvas, level):
        return []
    for place in level.places:
        if isinstance(place, Route):
            continue
        wide = metrics.horizontalAdvance(place.name) + 4
        at = canvas.to_pixels(place.x, place.y)
        if isinstance(place, Area):
            half_x, half_y = (half * canvas.zoom for half in place.shape.halves)
            rows = (
                at.y() - half_y - high - 1,
                at.y() + half_y + 2,
                at.y() - half_y + 2,
                at.y() + half_y - high - 2,
            )
            columns = (at.x() - half_x, at.x() + half_x - wide, at.x() - wide / 2)
            inner = (at.x() - half_x + 3, at.x() + half_x - wide - 3, at.x() - wide / 2)
            corners = [(x, y) for y in rows[:2] for x in columns] + [(x, y) for y in rows[2:] for x in inner]
            # above, then within, then below
            order = (0, 1, 2, 6, 7, 8, 3, 4, 5, 9, 10, 11)
            spots = [corners[i] for i in order]
        else:
            spots = [
                (at.x() + CROSS + 2, at.y() - high / 2),
                (at.x() - CROSS - 2 - wide, at.y() - high / 2),
                (at.x() - wide / 2, at.y() + CROSS + 1),
                (at.x() - wide / 2, at.y() - CROSS - 1 - high),
            ]
        if sight.contains(at):
            # what is in sight has its whole name in sight
            spots = [(_within(x, wide, sight.width()), _within(y, high, sight.height())) for x, y in spots]
        boxes = tuple(QRectF(x, y, wide, high) for x, y in spots)
        if any(box.intersects(sight) for box in boxes):
            found.append(Label(place.name, boxes))
    return found


def _many_in_sight(canvas: Canvas, level: Level) -> bool:
    """Return whether so many spots and areas are in sight that their names would cover everything."""
    middle_x, middle_y = canvas.centre
    half_x, half_y = canvas.width() / canvas.zoom / 2, canvas.height() / canvas.zoom / 2
    return (
        sum(
            not isinstance(place, Route)
            and abs(place.x - middle_x) <= half_x
            and abs(place.y - middle_y) <= half_y
            for place in level.places
        )
        > MOST_NAMED
    )


def _within(start: float, length: float, room: float) -> float:
    """Return where something must begin so as not to reach over an edge."""
    return max(1.0, min(start, room - length - 1.0))


def _marks(canvas: Canvas, level: Level) -> list[tuple[QRectF, float]]:
    """Return what names keep clear of: objects as they start, crosses, stops, and the edges of areas."""
    found: list[tuple[QRectF, float]] = []
    kinds: dict[str, Kind] = {kind.name: kind for kind in level.kinds}
    # a floor lies under names as it does under everything
    things = [
        o for o in level.objects if not kinds[o.kind].scenery or max(kinds[o.kind].shape.halves) < FLOOR
    ]
    for thing in things if len(things) <= MOST_AVOIDED else ():
        half_x, half_y = (half * canvas.zoom for half in reach_of((thing, kinds[thing.kind])))
        at = canvas.to_pixels(thing.x, thing.y)
        found.append((QRectF(at.x() - half_x, at.y() - half_y, 2 * half_x, 2 * half_y), 2.0))
    for place in level.places:
        if isinstance(place, Route):
            spots = [canvas.to_pixels(stop.x, stop.y) for stop in place.stops]
            found += [(QRectF(s.x() - STOP, s.y() - STOP, 2 * STOP, 2 * STOP), 4.0) for s in spots]
            continue
        at = canvas.to_pixels(place.x, place.y)
        if not isinstance(place, Area):
            found.append((QRectF(at.x() - CROSS, at.y() - CROSS, 2 * CROSS, 2 * CROSS), 4.0))
            continue
        half_x, half_y = (half * canvas.zoom for half in place.shape.halves)
        box = QRectF(at.x() - half_x, at.y() - half_y, 2 * half_x, 2 * half_y)
        found += [
            (QRectF(box.left(), y - LINE / 2, box.width(), LINE), 4.0) for y in (box.top(), box.bottom())
        ]
        found += [
            (QRectF(x - LINE / 2, box.top(), LINE, box.height()), 4.0) for x in (box.left(), box.right())
        ]
    return found
