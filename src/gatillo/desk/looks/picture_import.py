"""Bringing pictures in: PNG and SVG, read within bounds and kept as a small PNG."""

from __future__ import annotations

from pathlib import Path

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PySide6.QtGui import QImage, QImageReader, QPixmap

from gatillo.desk.looks.svg_drawing import drawn_apart
from gatillo.files.reading import NotRead, bytes_of
from gatillo.level.pictures import as_png, as_text

MOST_FILE = 4 << 20
MOST_SIDE = 4096
"""Pixels of either side of a file that is brought in: it is unpacked whole before it is made smaller."""
SIDE = 192
"""Pixels of the longer side within a level."""

_kept: dict[str, QPixmap] = {}


def import_picture(path: Path, side: int = SIDE) -> str:
    """Return a picture file as it stands in a level, of so many pixels at most on its longer side. Raises ValueError with a sentence.

    It may take a second: an SVG is drawn by a process of its own. It may be called from a worker.
    """
    try:
        raw = bytes_of(path, MOST_FILE)
    except NotRead as error:
        raise ValueError(f"“{path.name}” {error}") from None
    image = _svg(raw, path.name, side) if path.suffix.lower() == ".svg" else _png(raw, path.name, side)
    scaled = image.scaled(
        side, side, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
    out = QByteArray()
    buffer = QBuffer(out)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    scaled.save(buffer, "PNG")  # type: ignore[call-overload]
    return as_text(bytes(out.data()))


def _png(raw: bytes, name: str, side: int) -> QImage:
    data = QBuffer()
    data.setData(raw)
    data.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(data, b"png")
    size = reader.size()
    if not size.isValid() or max(size.width(), size.height()) > MOST_SIDE:
        raise ValueError(f"“{name}” is not a PNG of at most {MOST_SIDE:,} × {MOST_SIDE:,} pixels")
    reader.setScaledSize(size.scaled(QSize(2 * side, 2 * side), Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    if image.isNull():
        raise ValueError(f"“{name}” is not a whole PNG: {reader.errorString().lower()}")
    return image


def _svg(raw: bytes, name: str, side: int) -> QImage:
    try:
        root = ElementTree.fromstring(raw)
    except (ElementTree.ParseError, DefusedXmlException, ValueError):
        raise ValueError(f"“{name}” is not an SVG that can be read safely") from None
    for element in root.iter():
        tag = str(element.tag).rpartition("}")[2].lower()
        links = [v for k, v in element.attrib.items() if k.rpartition("}")[2] == "href"]
        if tag in ("script", "foreignobject", "image") or any(not link.startswith("#") for link in links):
            raise ValueError(f"“{name}” loads something else ({tag}); only a drawing by itself can be used")
    try:
        return QImage.fromData(drawn_apart(raw, 2 * side))
    except ValueError as error:
        raise ValueError(f"“{name}” {error}") from None


def picture_of(text: str) -> QPixmap | None:
    """Return a level's picture, ready to be drawn; None if it cannot be."""
    if not text:
        return None
    found = _kept.get(text)
    if found is None:
        image = QImage()
        try:
            image.loadFromData(as_png(text), "PNG")
        except ValueError:
            return None
        if len(_kept) > 200:
            _kept.clear()
        found = _kept[text] = QPixmap.fromImage(image)
    return found if not found.isNull() else None
