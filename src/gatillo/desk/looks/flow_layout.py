"""A row that wraps at the edge."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QLineEdit, QWidget

GIVES = 0.06
"""So much of its width the widest of a row gives up, where one more finds room by it."""


def _give_way(row: list[tuple[QLayoutItem, QSize]], wanted: int) -> int:
    """Make the widest of a row narrower by so much, if that is next to nothing for it; gives what was gained."""
    _, widest = max(row, key=lambda r: r[1].width())
    if wanted > GIVES * widest.width():
        return 0
    widest.setWidth(widest.width() - wanted)
    return wanted


AT_END = "at the end"
"""Property of a widget that stands at the right edge of its row, so that those of several rows stand below one another."""


def _at_end(item: QLayoutItem) -> bool:
    widget = item.widget()
    return widget is not None and bool(widget.property(AT_END))


def _fill(row: list[tuple[QLayoutItem, QSize]], width: int, space: int) -> None:
    """Give what is left of a row that reaches to the edge to the field in it that is written into."""
    if not _at_end(row[-1][0]):
        return
    left = width - sum(size.width() + space for _, size in row) + space
    for item, size in row:
        widget = item.widget()
        if isinstance(widget, QLineEdit) and left > 0:
            size.setWidth(min(size.width() + left, widget.maximumWidth()))
            return


class FlowLayout(QLayout):
    """Lays widgets out side by side, in as many rows as the width asks for."""

    def __init__(self, parent: QWidget | None = None, space: int = 4) -> None:
        super().__init__(parent)
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(space)
        self._items: list[QLayoutItem] = []

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._lay(QRect(0, 0, width, 0), place=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._lay(rect, place=True)

    def sizeHint(self) -> QSize:
        hints = [item.sizeHint() for item in self._items]
        wide = sum(hint.width() for hint in hints) + self.spacing() * max(0, len(hints) - 1)
        return QSize(wide, max((hint.height() for hint in hints), default=0))

    def minimumSize(self) -> QSize:
        # no wider than its widest: the rest goes below
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        return size

    def _lay(self, rect: QRect, *, place: bool) -> int:
        """Put everything in its place, or only see how high all of it is."""
        y, row = rect.y(), self.spacing()
        for items in self._rows(rect.width()):
            _fill(items, rect.width(), row)
            high = max(size.height() for _, size in items)
            x = rect.x()
            for item, size in items:
                if place:
                    if _at_end(item) and item is items[-1][0]:
                        x = max(x, rect.right() + 1 - size.width())
                    item.setGeometry(QRect(QPoint(x, y + (high - size.height()) // 2), size))
                x += size.width() + row
            y += high + row
        return max(0, y - row - rect.y())

    def _rows(self, width: int) -> list[list[tuple[QLayoutItem, QSize]]]:
        """Return what is side by side, and how large."""
        rows: list[list[tuple[QLayoutItem, QSize]]] = []
        room = -1
        for item in self._items:
            if item.isEmpty():
                continue
            size = item.sizeHint().expandedTo(item.minimumSize())
            # what is wider than all the room there is gives way
            size.setWidth(max(item.minimumSize().width(), min(size.width(), width)))
            if rows and size.width() > room:
                room += _give_way(rows[-1], size.width() - room)
            if not rows or size.width() > room:
                rows.append([])
                room = width
            rows[-1].append((item, size))
            room -= size.width() + self.spacing()
        return rows
