"""A short list below a field: the answers to what its text leaves open."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget

from gatillo.desk.looks import plain
from gatillo.language.answers import SlotAnswer

WIDEST = 460


class AnswerList(QListWidget):
    """Answers to choose from with the arrow keys and Enter, or with a click. The field keeps the keyboard."""

    def __init__(
        self, field: QLineEdit, answers: list[SlotAnswer], chosen: Callable[[SlotAnswer], None]
    ) -> None:
        window: QWidget = field.window()
        super().__init__(window)
        self._answers = answers
        self._chosen = chosen
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setObjectName("readings")
        self.setAccessibleName("What is meant by the name")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for answer in answers:
            item = QListWidgetItem(answer.label, self)
            item.setToolTip(plain.tip(answer.help))
        self.setCurrentRow(0)
        self.itemClicked.connect(lambda _: self.take())
        height = sum(self.sizeHintForRow(row) for row in range(self.count())) + 4
        width = min(max(self.sizeHintForColumn(0) + 24, field.width()), WIDEST)
        under = field.mapTo(window, QPoint(0, field.height() + 2))
        top = under.y()
        if top + height > window.height():
            top = field.mapTo(window, QPoint(0, -2)).y() - height
        self.setGeometry(QRect(min(under.x(), window.width() - width - 6), top, width, height))
        self.show()
        self.raise_()

    def walk(self, by: int) -> None:
        """Go to the next answer or the one before."""
        self.setCurrentRow(min(max(self.currentRow() + by, 0), self.count() - 1))

    def take(self) -> None:
        """Choose the current answer."""
        self._chosen(self._answers[max(self.currentRow(), 0)])
