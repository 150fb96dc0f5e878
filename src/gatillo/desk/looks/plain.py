"""Labels for texts of a level, which are plain text. Qt would take a text with tags for rich text, which can name files to be read."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget

FEWEST = 8
"""Letters that are worth showing of a text that is cut."""

GAP = 14
"""Pixels between two parts of a live text."""


class Words(QLabel):
    """A label that shows its text as it stands."""

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(words, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


class ShortWords(Words):
    """Words in one line that give way: cut with … where there is no room, and whole in the tooltip."""

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(words, parent)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(40)

    def paintEvent(self, event: object) -> None:
        p = QPainter(self)
        try:
            cut = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
            if cut != self.text() and len(cut) < FEWEST:
                # a few letters and an ellipsis say nothing
                cut = ""
            p.setPen(self.palette().color(self.foregroundRole()))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, cut)
            self.setToolTip(tip(self.text()) if cut != self.text() else "")
        finally:
            p.end()


class GivingWay(Words):
    """Words in one line with their own ground, as wide as they are where there is room; else cut with … at their end."""

    def __init__(self) -> None:
        super().__init__()
        self.whole = ""
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    def say(self, words: str) -> None:
        """Show other words."""
        self.whole = words
        self.setText(words)
        self.setMaximumWidth(self.sizeHint().width())
        self._cut()

    def minimumSizeHint(self) -> QSize:
        return QSize(60, super().minimumSizeHint().height())

    def sizeHint(self) -> QSize:
        # a pixel or two for rounding
        wide = self.fontMetrics().horizontalAdvance(self.whole) + self._edges() + 2
        return QSize(wide, super().sizeHint().height())

    def _edges(self) -> int:
        """Return what its style keeps free beside the words."""
        return super().sizeHint().width() - self.fontMetrics().horizontalAdvance(self.text())

    def resizeEvent(self, event: object) -> None:
        self._cut()

    def _cut(self) -> None:
        room = self.width() - self._edges()
        cut = self.fontMetrics().elidedText(self.whole, Qt.TextElideMode.ElideRight, room)
        if cut != self.text():
            self.setText(cut)
        self.setToolTip(tip(self.whole) if cut != self.whole else "")


class Rich(QLabel):
    """A label of rich text; whatever comes from a level must be escaped in it."""

    def __init__(self, html: str = "", parent: QWidget | None = None) -> None:
        super().__init__(html, parent)
        self.setTextFormat(Qt.TextFormat.RichText)


class LiveText(QWidget):
    """Rich text that changes while the page about it stays: the page is laid out again only when its height changes.

    It is given in parts below each other; only a part that is another is laid out again.
    """

    linkActivated = Signal(str)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._name = name
        self._parts: list[Rich] = []
        self._highs: list[int] = []
        self.setFixedHeight(0)

    def text(self) -> str:
        """Return the text as it is shown, with its markup."""
        return "".join(part.text() for part in self._parts)

    def set_parts(self, parts: Sequence[str]) -> None:
        """Show these parts, each rich text."""
        while len(self._parts) < len(parts):
            self._parts.append(self._part())
            self._highs.append(0)
        for at, label in enumerate(self._parts):
            html = parts[at] if at < len(parts) else ""
            if html != label.text():
                label.setText(html)
                self._highs[at] = self._high(label)
        self._place()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if event.oldSize().width() != self.width():
            self._highs = [self._high(part) for part in self._parts]
        self._place()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange:
            self._highs = [self._high(part) for part in self._parts]
            self._place()

    def _part(self) -> Rich:
        label = Rich("", self)
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignTop)
        label.setTextInteractionFlags(
            Qt.TextInteractionFlag.TextSelectableByMouse
            | Qt.TextInteractionFlag.LinksAccessibleByMouse
            | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        label.setAccessibleName(self._name)
        label.linkActivated.connect(self.linkActivated)
        label.show()
        return label

    def _high(self, label: Rich) -> int:
        return label.heightForWidth(self.width()) if label.text() else 0

    def _place(self) -> None:
        top = 0
        for label, high in zip(self._parts, self._highs, strict=True):
            # a text's own margin above its first line is not drawn
            top += GAP if top and high else 0
            label.setGeometry(0, top, self.width(), high)
            label.setVisible(high > 0)
            top += high
        if top != self.height():
            self.setFixedHeight(top)


def tip(words: str) -> str:
    """Return a tooltip that shows these words as they are, never as markup."""
    # Qt takes a text with a tag, or with an escaped one, for rich text
    if "<" not in words and "&" not in words:
        return words
    return "<qt>" + escape(words).replace("\n", "<br>") + "</qt>"
