"""Texts of a level are only text: Qt takes a text with tags in it for rich text, which can name files to be read."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget


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
            p.setPen(self.palette().color(self.foregroundRole()))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, cut)
            self.setToolTip(tip(self.text()) if cut != self.text() else "")
        finally:
            p.end()


class Rich(QLabel):
    """A label of rich text; whatever comes from a level must be escaped in it."""

    def __init__(self, html: str = "", parent: QWidget | None = None) -> None:
        super().__init__(html, parent)
        self.setTextFormat(Qt.TextFormat.RichText)


def tip(words: str) -> str:
    """A tooltip that shows these words as they stand."""
    # without an angle nothing is taken for a tag
    if "<" not in words:
        return words
    return "<qt>" + escape(words).replace("\n", "<br>") + "</qt>"
