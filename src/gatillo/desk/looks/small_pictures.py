"""Small pictures of kinds and places, for lists, the shelf, and beside names in sentences."""

from __future__ import annotations

from functools import lru_cache

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QIcon, QPainter, QPen, QPixmap

from gatillo.desk.looks.drawings import draw_alone
from gatillo.desk.looks.object_painter import draw_object, fill_of
from gatillo.desk.looks.picture_import import picture_of
from gatillo.desk.looks.theme import kind_colour, text_font, theme
from gatillo.level.model import Area, Circle, Kind, Place, Rectangle, Route

MARK = 15
"""Pixels of a kind's mark beside its name."""


def kind_picture(kind: Kind, pixels: int = 26) -> QPixmap:
    """Return a small picture of a kind, for the shelf and for lists."""
    pixmap = QPixmap(pixels * 2, pixels * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    if isinstance(kind.shape, Circle):
        extent = kind.shape.radius * 2
    else:
        extent = max(kind.shape.width, kind.shape.height)
    shape = kind.shape
    if isinstance(shape, Rectangle):
        # a very long shape would be a hair at this size
        width, height = shape.width / extent, shape.height / extent
        shape = Rectangle(width=max(width, 0.3) * extent, height=max(height, 0.3) * extent)
    # what shows where it looks would stand out
    shown = replace(kind, shape=shape, behaviours=())
    draw_object(p, shown, pixels / 2, pixels / 2, 0.0, (pixels - 4) / extent)
    p.end()
    return pixmap


def blank_picture(pixels: int = 18) -> QPixmap:
    """Return an empty picture of the usual size, so that names in a list are aligned."""
    pixmap = QPixmap(pixels * 2, pixels * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    return pixmap


def place_picture(place: Place, pixels: int = 18) -> QPixmap:
    """Return a small picture of a sort of place, for lists."""
    pixmap = blank_picture(pixels)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(
        QPen(theme().cursor, 1.3, Qt.PenStyle.DashLine if isinstance(place, Area) else Qt.PenStyle.SolidLine)
    )
    middle, far = pixels / 2, pixels - 3
    if isinstance(place, Route):
        p.drawPolyline([QPointF(3, far), QPointF(middle, 5), QPointF(far, far - 3)])
    elif isinstance(place, Area) and isinstance(place.shape, Circle):
        p.drawEllipse(QRectF(3, 3, pixels - 6, pixels - 6))
    elif isinstance(place, Area):
        p.drawRect(QRectF(2, 4, pixels - 4, pixels - 8))
    else:
        p.drawLine(QPointF(3, middle), QPointF(far, middle))
        p.drawLine(QPointF(middle, 3), QPointF(middle, far))
    p.end()
    return pixmap


def drawing_icon(name: str, colour: str, pixels: int = 18) -> QIcon:
    """Return a ready drawing, for choosing among them."""
    icon = QIcon()
    for ink, mode in ((kind_colour(colour), QIcon.Mode.Normal), (theme().paper, QIcon.Mode.Selected)):
        pixmap = blank_picture(pixels)
        p = QPainter(pixmap)
        p.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        draw_alone(p, name, ink, QRectF(0, 0, pixels, pixels))
        p.end()
        icon.addPixmap(pixmap, mode)
    return icon


def kind_mark(kind: Kind) -> QPixmap:
    """Return what is beside a kind's name in a sentence: its drawing, its picture, or its letter in its shape."""
    round_ = isinstance(kind.shape, Circle)
    return _mark(kind.drawing, kind.glyph, kind.picture, kind.colour, round_, theme().dark)


@lru_cache(maxsize=300)
def _mark(drawing: str, glyph: str, picture: str, colour: str, round_: bool, dark: bool) -> QPixmap:
    pixmap = blank_picture(MARK)
    p = QPainter(pixmap)
    p.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
    whole, ink = QRectF(0, 0, MARK, MARK), kind_colour(colour)
    shown = picture_of(picture)
    if shown is not None:
        p.drawPixmap(whole, shown, QRectF(shown.rect()))
    elif not (drawing and draw_alone(p, drawing, ink, whole)):
        p.setPen(QPen(ink, 1.2))
        p.setBrush(fill_of(colour))
        box = whole.adjusted(0.8, 0.8, -0.8, -0.8)
        if round_:
            p.drawEllipse(box)
        else:
            p.drawRoundedRect(box, 2.5, 2.5)
        font = text_font(0, bold=True)
        font.setPixelSize(9)
        metrics = QFontMetricsF(font)
        p.setFont(font)
        p.drawText(
            QPointF(
                MARK / 2 - metrics.horizontalAdvance(glyph) / 2,
                MARK / 2 + metrics.tightBoundingRect(glyph).height() / 2,
            ),
            glyph,
        )
    p.end()
    return pixmap
