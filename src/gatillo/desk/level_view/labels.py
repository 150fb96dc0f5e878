"""Where the names of places stand: at their place, and clear of one another and of what they name.

What moves in a run is no matter, so that no name jumps: only how the level is laid out is.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QFontMetricsF, QPainter

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.level_view.scenery import reach_of
from gatillo.desk.looks.theme import text_font, theme, with_alpha
from gatillo.level.model import Area, Kind, Level, Route

MOST_AVOIDED = 600
"""Objects that names keep clear of; of more, none, as there would be no room anyway."""
CROSS, STOP = 7.0, 9.0
"""Pixels from the middle of a spot's cross and of a route's stop to their edge."""
LINE = 2.0
FLOOR = 40.0
"""Units; scenery that reaches farther from its middle is ground."""


@dataclass(frozen=True, slots=True)
class Label:
    """A place's name, and the box that it may stand in: those it would rather have come first."""

    text: str
    boxes: tuple[QRectF, ...]


def placed(labels: Iterable[Label], taken: Iterable[tuple[QRectF, float]]) -> dict[str, QRectF]:
    """A box for each label: of its boxes the first that lies on nothing, or the one that lies on least.

    `taken` are boxes to keep clear of, each with how much it matters. A label that has been placed matters most.
    """
    found: dict[str, QRectF] = {}
    marks = list(taken)
    for label in labels:
        best = min(label.boxes, key=lambda box: _lies_on(box, marks))
        found[label.text] = best
        marks.append((best, 8.0))
    return found


def _lies_on(box: QRectF, marks: list[tuple[QRectF, float]]) -> float:
    over = 0.0
    for mark, weight in marks:
        common = box.intersected(mark)
        if common.isValid():
            over += common.width() * common.height() * weight
    return over


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
        found.append(Label(place.name, tuple(QRectF(x, y, wide, high) for x, y in spots)))
    return found


def _marks(canvas: Canvas, level: Level) -> list[tuple[QRectF, float]]:
    """What names keep clear of: objects as they start, crosses, stops, and the edges of areas."""
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
