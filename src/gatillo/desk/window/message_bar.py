"""Messages over the lower edge of the window, with buttons for what can be done. They move nothing else."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.theme import theme

WIDEST = 940
SHORT = 60
SHOWN_FOR = 4_000
"""Letters up to which a sentence goes by itself, and after how many milliseconds."""


class MessageBar(QFrame):
    """One sentence at a time."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(14, 6, 8, 6)
        self.words = Words()
        self.words.setWordWrap(True)
        self._offers: list[QPushButton] = []
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        self._row.addWidget(self.words, 1)
        self._row.addWidget(close)
        self.setAutoFillBackground(True)
        self.restyle()
        self.hide()

    def say(self, sentence: str) -> None:
        """Say something until it is closed or something else is said; a short sentence goes by itself."""
        self.offer(sentence)
        if len(sentence) < SHORT:
            self._timer.start(SHOWN_FOR)

    def offer(self, sentence: str, *offers: tuple[str, Callable[[], object]]) -> None:
        """Say something, with buttons for what can be done about it."""
        for button in self._offers:
            button.hide()
            button.deleteLater()
        self._offers = []
        for words, run in offers:
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, r=run: self._take(r))
            self._row.insertWidget(self._row.count() - 1, button)
            self._offers.append(button)
        self.words.setText(sentence)
        self._timer.stop()
        self.show()
        self.lie_over()

    def lie_over(self) -> None:
        """Lie at the foot of the window, where it covers no button."""
        over = self.parentWidget()
        if over is None:
            return
        wide = min(WIDEST, over.width() - 40)
        self._row.activate()
        high = max(self._row.heightForWidth(wide), self._row.minimumSize().height())
        self.setGeometry((over.width() - wide) // 2, over.height() - high - 16, wide, high)
        self.raise_()

    def restyle(self) -> None:
        """Take the colours of the look that is chosen."""
        t = theme()
        self.setStyleSheet(
            f"MessageBar {{ background: {t.panel.name()}; border: 1px solid {t.cursor.name()}; }} "
            f"QLabel {{ color: {t.ink.name()}; border: none; background: transparent; }}"
        )

    def _take(self, run: Callable[[], object]) -> None:
        self.hide()
        run()
