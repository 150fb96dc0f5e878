"""Labels for texts of a level, which are plain text. Qt would take a text with tags for rich text, which can name files to be read."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget

FEWEST = 6
"""Letters that are worth showing of a text that is cut."""


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
                # two letters and an ellipsis say nothing
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


def tip(words: str) -> str:
    """Return a tooltip that shows these words as they are, never as markup."""
    # Qt takes a text with a tag, or with an escaped one, for rich text
    if "<" not in words and "&" not in words:
        return words
    return "<qt>" + escape(words).replace("\n", "<br>") + "</qt>"
