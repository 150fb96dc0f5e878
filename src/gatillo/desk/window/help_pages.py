"""Help inside the program: the catalogue to search, and a first tour that builds one rule."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from gatillo.catalogue import CATALOGUE
from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.theme import text_font
from gatillo.files.catalogue_page import catalogue_page

if TYPE_CHECKING:
    from gatillo.desk.window.main_window import MainWindow


class CataloguePage(QDialog):
    """The reference page of the catalogue; typing finds a word in it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("What rules can be made of")
        self.setWindowFlag(Qt.WindowType.WindowMaximizeButtonHint)
        self.resize(760, 640)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find a word")
        self.search.setAccessibleName("Find in the catalogue")
        self.page = QTextBrowser()
        self.page.setAccessibleName("Catalogue")
        self.page.setMarkdown(catalogue_page())
        self.search.textChanged.connect(self._find_first)
        self.search.returnPressed.connect(lambda: self.page.find(self.search.text()))
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(self.page)

    def _find_first(self, words: str) -> None:
        self.page.moveCursor(self.page.textCursor().MoveOperation.Start)
        if words:
            self.page.find(words)


@dataclass(frozen=True, slots=True)
class _Step:
    words: str
    done: Callable[[MainWindow], bool]


STEPS: tuple[_Step, ...] = (
    _Step(
        "This level has a walker and something to find. Click the row “+ rule” below, or press Ctrl+Enter: a line opens.",
        lambda w: w.order.writing.line.is_open or _more_rules(w),
    ),
    _Step(
        "Type “walker touches find”. The list shows what that may mean; Enter takes the first: it happens once, "
        "as the touch begins.",
        lambda w: _more_rules(w),
    ),
    _Step(
        "Now what is to be done: type “remove find” and Enter. An empty Enter ends the rule.",
        lambda w: any(c.use in CATALOGUE and CATALOGUE[c.use].removes for r in _rules(w) for c in r.do),
    ),
    _Step(
        "The trial has run already: the red mark in the rule's lane is its firing. Click the mark, and read at the right "
        "who it was for and what it did.",
        lambda w: w.bench.cursor.position > 0 and bool(w.bench.run.trace.count_at(w.bench.cursor.tick)),
    ),
    _Step(
        "With the rule selected press Ctrl+Shift+E: from now on it is expected to fire just so often, and every edit is "
        "checked against that. This was the whole circle: write, look, check.",
        lambda w: bool(w.bench.trial.expectations),
    ),
)


def _rules(window: MainWindow) -> list:  # type: ignore[type-arg]
    return [turn.rule for turn in window.bench.program.turns]


def _more_rules(window: MainWindow) -> bool:
    return len(_rules(window)) > 1


class Tour(QFrame):
    """A strip that says what to do next, and goes on when it is done."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window_ = window
        self.at = 0
        self.setObjectName("tour")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 10, 12, 10)
        self.number = Words()
        self.number.setFont(text_font(2, bold=True))
        self.words = Words()
        self.words.setWordWrap(True)
        self.words.setAccessibleName("What to do next")
        self.skip = QPushButton("Next")
        self.skip.clicked.connect(self.go_on)
        close = QPushButton("End the tour")
        close.clicked.connect(self.end)
        row.addWidget(self.number)
        row.addWidget(self.words, 1)
        row.addWidget(self.skip)
        row.addWidget(close)
        bench = window.bench
        for signal in (bench.levelChanged, bench.runChanged, bench.cursorMoved, bench.selectionChanged):
            signal.connect(self.look)
        window.order.writing.line.opened.connect(self.look)
        self._show()

    def _show(self) -> None:
        self.number.setText(f"{self.at + 1} of {len(STEPS)}")
        self.words.setText(STEPS[self.at].words)

    def look(self) -> None:
        """Go on if what was asked for is done."""
        if self.isVisible() and STEPS[self.at].done(self.window_) and self.at + 1 < len(STEPS):
            self.go_on()

    def go_on(self) -> None:
        """The next step; after the last the tour ends."""
        if self.at + 1 >= len(STEPS):
            self.end()
            return
        self.at += 1
        self._show()

    def end(self) -> None:
        """Put the tour away."""
        self.hide()
