"""Pointing instead of typing: while a field is open, a click on something named puts its name into the field.

A view takes part by a method `named_at(point, kind)`, which says what is named there. Names are also dragged, as `NAME_MIME`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple, Protocol, runtime_checkable

from PySide6.QtCore import QByteArray, QEvent, QMimeData, QObject, QPoint, Qt
from PySide6.QtGui import QDrag, QMouseEvent, QPixmap
from PySide6.QtWidgets import QApplication, QLineEdit, QToolTip, QWidget

from gatillo.desk.looks import plain

NAME_MIME = "application/x-gatillo-name"
"""What is dragged out of the level, the shelf and the index: a name."""


class Named(NamedTuple):
    """Something that has a name, under the pointer."""

    name: str
    sort: str
    """“object”, “kind”, “place”, “rule”, “message”, another type of slot; or “ground” for a point of the level, `(30, 40)`."""


@runtime_checkable
class NamesThings(Protocol):
    """A widget that can say what is named at a point of it."""

    def named_at(self, point: QPoint, kind: bool) -> Named | None:
        """Return what is named at a point; with `kind`, an object is named by its kind."""
        ...


class Pointing(QObject):
    """Fills a field with what is clicked, as long as it is open."""

    def __init__(
        self, field: QLineEdit, accepts: Callable[[str], bool], take: Callable[[Named], None]
    ) -> None:
        """Watch the pointer. `accepts` says whether a name of a sort may be taken, `take` takes it."""
        super().__init__(field)
        self._field = field
        self._accepts = accepts
        self._take = take
        self._pressed = False
        self._shown = False
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def end(self) -> None:
        """Watch no more."""
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
        self._show_shape(False)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QMouseEvent) or not isinstance(watched, QWidget):
            return False
        if event.type() == QEvent.Type.MouseMove and not event.buttons():
            found = self._under(watched, event)
            self._show_shape(found is not None)
            if found is not None:
                where = event.globalPosition().toPoint()
                QToolTip.showText(where, plain.tip(f"Click to write “{found.name}”"), watched)
            return False
        if event.button() != Qt.MouseButton.LeftButton:
            return False
        if event.type() in (QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonDblClick):
            found = self._under(watched, event)
            if found is None:
                return False
            self._pressed = True
            self._take(found)
            self._field.setFocus()
            return True
        if event.type() == QEvent.Type.MouseButtonRelease and self._pressed:
            self._pressed = False
            return True
        return False

    def _under(self, watched: QWidget, event: QMouseEvent) -> Named | None:
        """Return what is named under the pointer, and may be taken."""
        widget: QWidget | None = watched
        if watched is self._field or self._field.isAncestorOf(watched):
            return None
        where = watched.mapToGlobal(event.position().toPoint())
        kind = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        while widget is not None:
            if isinstance(widget, NamesThings):
                found = widget.named_at(widget.mapFromGlobal(where), kind)
                return found if found is not None and self._accepts(found.sort) else None
            widget = widget.parentWidget()
        return None

    def _show_shape(self, over: bool) -> None:
        if over and not self._shown:
            QApplication.setOverrideCursor(Qt.CursorShape.PointingHandCursor)
        elif self._shown and not over:
            QApplication.restoreOverrideCursor()
        self._shown = over


def put_into(field: QLineEdit, name: str) -> None:
    """Put a name into a field at its caret, with spaces about it where words are beside it."""
    at = field.selectionStart() if field.hasSelectedText() else field.cursorPosition()
    end = at + len(field.selectedText())
    text = field.text()
    before, after = text[:at], text[end:]
    left = " " if before and not before[-1].isspace() and before[-1] not in "(." else ""
    right = " " if after and not after[0].isspace() and after[0] not in "),." else ""
    field.insert(f"{left}{name}{right}")


def mime_of(name: str) -> QMimeData:
    """Return a name as what is dragged."""
    data = QMimeData()
    data.setData(NAME_MIME, QByteArray(name.encode()))
    return data


def name_in(data: QMimeData) -> str:
    """Return the name that is dragged; "" if none is."""
    return bytes(data.data(NAME_MIME).data()).decode() if data.hasFormat(NAME_MIME) else ""


def drag_name(source: QWidget, name: str, picture: QPixmap | None = None) -> None:
    """Drag a name until it is dropped."""
    drag = QDrag(source)
    drag.setMimeData(mime_of(name))
    if picture is not None:
        drag.setPixmap(picture)
        drag.setHotSpot(QPoint(picture.width() // 2, picture.height() // 2))
    drag.exec(Qt.DropAction.CopyAction)
