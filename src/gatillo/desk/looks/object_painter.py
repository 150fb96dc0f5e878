"""Drawing objects and places of the level."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPen

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.entries.turning import IN_THE_PLANE, OVER_ITS_HEIGHT
from gatillo.desk.looks.drawings import draw_ready
from gatillo.desk.looks.picture_import import picture_of
from gatillo.desk.looks.theme import kind_colour, text_font, theme, with_alpha
from gatillo.level.model import Area, Circle, Kind, Place, Rectangle, Route, Shape
from gatillo.sim.world.world import World


def fill_of(kind_colour_: str) -> QColor:
    """Return the light tint that the shape of a kind of that colour is filled with; opaque, so that what lies in front covers."""
    return _tint(kind_colour_, theme().dark)


@lru_cache(maxsize=1024)
def _tint(kind_colour_: str, dark: bool) -> QColor:
    t, colour = theme(), kind_colour(kind_colour_)
    share = 0.22 if dark else 0.16
    paper = t.paper
    return QColor(
        *(
            round(a * share + b * (1 - share))
            for a, b in (
                (colour.red(), paper.red()),
                (colour.green(), paper.green()),
                (colour.blue(), paper.blue()),
            )
        )
    )


def outline(p: QPainter, shape: Shape, scale: float) -> None:
    """Draw a shape about the painter's origin."""
    if isinstance(shape, Circle):
        p.drawEllipse(QPointF(0, 0), shape.radius * scale, shape.radius * scale)
    else:
        width, height = shape.width * scale, shape.height * scale
        p.drawRoundedRect(QRectF(-width / 2, -height / 2, width, height), 2.5, 2.5)


def _box(shape: Shape, scale: float) -> QRectF:
    """Return the box about a shape at the painter's origin."""
    half_width, half_height = (half * scale for half in shape.halves)
    return QRectF(-half_width, -half_height, 2 * half_width, 2 * half_height)


def _is_ground(kind: Kind) -> bool:
    plain = isinstance(kind.shape, Rectangle) and not kind.glyph and not kind.drawing
    return plain and not kind.scenery


def draw_object(
    p: QPainter, kind: Kind, x: float, y: float, angle: float, size: float, *, hidden: bool = False
) -> None:
    """Draw one object. x, y in pixels, y down; angle in degrees counter-clockwise; size in pixels a level unit."""
    colour = kind_colour(kind.colour)
    p.save()
    p.translate(x, y)
    p.rotate(-angle)
    pen = QPen(colour, max(1.0, min(2.2, 1.6 * size)))
    if not kind.outline:
        pen.setStyle(Qt.PenStyle.NoPen)
    if hidden:
        pen.setStyle(Qt.PenStyle.DotLine)
    p.setPen(pen)
    picture = picture_of(kind.picture) if not hidden else None
    if picture is not None:
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawPixmap(_box(kind.shape, size), picture, QRectF(picture.rect()))
        p.restore()
        return
    p.setBrush(Qt.BrushStyle.NoBrush if hidden else fill_of(kind.colour))
    outline(p, kind.shape, size)
    if _is_ground(kind) and not hidden:
        p.setPen(QPen(with_alpha(colour, 0.55), 1) if kind.outline else Qt.PenStyle.NoPen)
        brush = QBrush(with_alpha(colour, 0.22), Qt.BrushStyle.BDiagPattern)
        p.setBrush(brush)
        outline(p, kind.shape, size)
    drawn = not hidden and bool(kind.drawing) and draw_ready(p, kind, size)
    if looks_somewhere(kind):
        reach = _reach(kind) * size
        p.rotate(-kind.drawn_facing)
        p.setPen(QPen(colour, max(1.4, 2.2 * size), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        p.drawLine(QPointF(reach, 0), QPointF(reach * 1.55, 0))
    p.restore()
    if kind.glyph and not drawn and not hidden:
        _glyph(p, kind, x, y, size)


LOOKS_SOMEWHERE = frozenset(name for name, entry in CATALOGUE.items() if entry.faces)
"""Behaviours for which it matters where an object faces."""


def looks_somewhere(kind: Kind) -> bool:
    """Return whether objects of a kind are drawn with a line that shows where they face."""
    return any(b.use in LOOKS_SOMEWHERE for b in kind.behaviours)


def foreshortened(world: World) -> dict[int, tuple[float, float]]:
    """Return for each row, while it flips over an axis in the plane, the visible parts of its width and height."""
    found: dict[int, tuple[float, float]] = {}
    for behaviour in world.program.behaviours:
        if "flip" not in behaviour.remembered or behaviour.words["about"] == IN_THE_PLANE:
            continue
        column = world.variables[behaviour.remembered["flip"]]
        for row in world.rows_of_kind(behaviour.kind).tolist():
            seen = math.cos(math.radians(float(column[row])))
            # never quite a line, and a back that is seen turned round
            seen = math.copysign(max(abs(seen), 0.04), seen)
            found[row] = (seen, 1.0) if behaviour.words["about"] == OVER_ITS_HEIGHT else (1.0, seen)
    return found


def _reach(kind: Kind) -> float:
    return kind.shape.radius if isinstance(kind.shape, Circle) else kind.shape.width / 2


def _glyph(p: QPainter, kind: Kind, x: float, y: float, size: float) -> None:
    room = (
        kind.shape.radius * 2 if isinstance(kind.shape, Circle) else min(kind.shape.width, kind.shape.height)
    ) * size
    pixels = room * 0.52
    if pixels < 5:
        return
    font = text_font(0, bold=True)
    font.setPixelSize(max(6, round(pixels)))
    metrics = QFontMetricsF(font)
    p.setFont(font)
    p.setPen(kind_colour(kind.colour))
    p.drawText(
        QPointF(
            x - metrics.horizontalAdvance(kind.glyph) / 2,
            y + metrics.tightBoundingRect(kind.glyph).height() / 2,
        ),
        kind.glyph,
    )


def _draw_facing(p: QPainter, at: QPointF, facing: float) -> None:
    """Draw which way is faced at a stop: a small arrowhead at its edge."""
    p.save()
    p.translate(at)
    p.rotate(-facing)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(theme().quiet)
    p.drawPolygon([QPointF(15, 0), QPointF(10, -3.5), QPointF(10, 3.5)])
    p.restore()


def draw_place(
    p: QPainter,
    place: Place,
    point: Callable[[float, float], QPointF],
    size: float,
) -> None:
    """Draw a place without its name; `point(x, y)` gives the point on screen."""
    t = theme()
    p.setFont(text_font(-1, italic=True))
    if isinstance(place, Area):
        middle = point(place.x, place.y)
        p.save()
        p.translate(middle)
        p.setPen(QPen(t.cursor, 1.2, Qt.PenStyle.DashLine))
        p.setBrush(with_alpha(t.cursor, 0.05))
        outline(p, place.shape, size)
        p.restore()
    elif isinstance(place, Route):
        points = [point(s.x, s.y) for s in place.stops]
        p.setPen(QPen(t.quiet, 1.3, Qt.PenStyle.DashLine))
        p.drawPolyline(points)
        for number, at in enumerate(points, 1):
            p.setPen(QPen(t.quiet, 1.2))
            p.setBrush(t.paper)
            p.drawEllipse(at, 8, 8)
            p.drawText(QRectF(at.x() - 8, at.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, str(number))
        for stop, at in zip(place.stops, points, strict=True):
            if stop.facing is not None:
                _draw_facing(p, at, stop.facing)
    else:
        at = point(place.x, place.y)
        p.setPen(QPen(t.cursor, 1.6))
        p.drawLine(QPointF(at.x() - 5, at.y()), QPointF(at.x() + 5, at.y()))
        p.drawLine(QPointF(at.x(), at.y() - 5), QPointF(at.x(), at.y() + 5))
