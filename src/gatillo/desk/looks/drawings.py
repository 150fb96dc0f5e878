"""The ready drawings of kinds: one SVG sheet of our own, drawn in the colour of the kind."""

from __future__ import annotations

from collections import OrderedDict
from functools import cache
from pathlib import Path
from xml.etree.ElementTree import Element, tostring

from defusedxml import ElementTree
from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from gatillo.desk.looks.theme import kind_colour, theme
from gatillo.level.model import Circle, Kind, Shape

SHEET = Path(__file__).with_name("drawings.svg")
SIDE = 48
"""Of the square that each drawing has on the sheet."""
LEAST = 7.0
"""Pixels of the shorter side below which a drawing would be a blot."""
MOST = 2400.0
"""Pixels of the longer side above which it is drawn larger than made."""
_SVG = "{http://www.w3.org/2000/svg}"
_TINT, _INK = "#c9d3d8", "#2e3d44"

_kept: OrderedDict[tuple[str, str, int, int], QPixmap] = OrderedDict()


@cache
def sheet() -> dict[str, Element]:
    """Return the group of each drawing, by name."""
    root = ElementTree.parse(SHEET).getroot()
    return {str(g.get("id")).replace("-", " "): g for g in root.iter(f"{_SVG}g")}


def draw_ready(p: QPainter, kind: Kind, size: float) -> bool:
    """Draw a kind's ready drawing about the painter's origin, `size` pixels a level unit; whether there was one."""
    group = sheet().get(kind.drawing)
    if group is None:
        return False
    fit = str(group.get("data-fit"))
    box = _room(kind.shape, fit, size)
    if min(box.width(), box.height()) < LEAST:
        # the shape alone says it
        return True
    upright = fit == "along" and box.height() > box.width()
    p.save()
    if fit == "centre":
        # drawn looking right; its kind says which way it looks at no angle
        p.rotate(-kind.drawn_facing)
    elif upright:
        p.rotate(90)
        box = box.transposed()
        box.moveCenter(QRectF().center())
    device = p.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    picture = _pixmap(kind.drawing, kind_colour(kind.colour), box.width() * ratio, box.height() * ratio)
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawPixmap(box, picture, QRectF(picture.rect()))
    p.restore()
    return True


def draw_alone(p: QPainter, name: str, colour: QColor, box: QRectF) -> bool:
    """Draw a ready drawing by itself into a square; whether there is one of that name."""
    group = sheet().get(name)
    if group is None:
        return False
    if group.get("data-fit") != "centre":
        # it needs the shape that it fills
        p.setPen(QPen(colour, 1.0))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 2, 2)
    device = p.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    picture = _pixmap(name, colour, box.width() * ratio, box.height() * ratio)
    p.drawPixmap(box, picture, QRectF(picture.rect()))
    return True


def _room(shape: Shape, fit: str, size: float) -> QRectF:
    """Return where in a shape there is room for a drawing, about its middle."""
    if isinstance(shape, Circle):
        width = height = 1.7 * shape.radius * size
    elif fit == "centre":
        width = height = 0.86 * min(shape.width, shape.height) * size
    else:
        width, height = shape.width * size, shape.height * size
    return QRectF(-width / 2, -height / 2, width, height)


def _pixmap(name: str, colour: QColor, width: float, height: float) -> QPixmap:
    """Return a drawing in a colour, at least so many device pixels large unless that were too much."""
    shrink = min(1.0, MOST / max(width, height))
    # in steps, so that what grows slowly is not drawn again in each frame
    wide, high = (_step(side * shrink) for side in (width, height))
    key = (name, f"{colour.name()} {theme().dark}", wide, high)
    found = _kept.get(key)
    if found is None:
        found = _kept[key] = _render(sheet()[name], colour, wide, high)
        if len(_kept) > 300:
            _kept.popitem(last=False)
    else:
        _kept.move_to_end(key)
    return found


def _step(side: float) -> int:
    step = max(1, round(side) // 12)
    return max(1, -(-round(side) // step) * step)


def _render(group: Element, colour: QColor, wide: int, high: int) -> QPixmap:
    from PySide6.QtSvg import QSvgRenderer

    tiles = max(1, round(wide / high)) if group.get("data-fit") == "along" else 1
    ground = group.get("data-fit") == "along"
    pen = min(max(min(wide, high) * 0.05, 1.0), 2.0 if ground else 3.2)
    renderer = QSvgRenderer(QByteArray(_document(group, colour, pen)))
    pixmap = QPixmap(wide, high)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    for at in range(tiles):
        renderer.render(p, QRectF(at * wide / tiles, 0, wide / tiles, high))
    p.end()
    return pixmap


def _document(group: Element, colour: QColor, pen: float) -> bytes:
    """Return one drawing as an SVG by itself; the pen is as wide (pixels) however it is stretched."""
    ink = colour.name()
    root = Element("svg", {"xmlns": "http://www.w3.org/2000/svg", "viewBox": f"0 0 {SIDE} {SIDE}"})
    root.set("preserveAspectRatio", "none")
    drawn = Element("g", {"fill": "none", "stroke": ink, "stroke-width": f"{pen:.2f}"})
    drawn.attrib.update({"stroke-linecap": "round", "stroke-linejoin": "round"})
    if group.get("data-fit") == "along":
        # ground and walls: what is on them comes first
        drawn.set("stroke-opacity", "0.6")
    root.append(drawn)
    for part in group:
        shape = Element(str(part.tag).removeprefix(_SVG), dict(part.attrib))
        shape.set("vector-effect", "non-scaling-stroke")
        if shape.get("fill") == _TINT:
            shape.attrib.update({"fill": ink, "fill-opacity": "0.30" if theme().dark else "0.24"})
        elif shape.get("fill") == _INK:
            shape.set("fill", ink)
        drawn.append(shape)
    return tostring(root)
