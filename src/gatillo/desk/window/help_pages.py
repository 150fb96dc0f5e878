"""Help inside the program: the catalogue to search, and a first tour that builds one rule."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

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
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.typed_line import TypedLine
from gatillo.files.catalogue_page import catalogue_page
from gatillo.level.model import Rule


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
    done: Callable[[Workbench, TypedLine], bool]


STEPS: tuple[_Step, ...] = (
    _Step(
        "This level has a walker and something to find. Click the row “+ rule” below, or press Ctrl+Enter: a line opens.",
        lambda bench, line: line.is_open or _more_rules(bench),
    ),
    _Step(
        "Type “walker touches find”. The list shows what this can mean. Enter accepts the first reading: "
        "it happens once, when the touch begins.",
        lambda bench, line: _more_rules(bench),
    ),
    _Step(
        "Now say what to do: type “remove find” and press Enter. An empty Enter ends the rule.",
        lambda bench, line: any(
            c.use in CATALOGUE and CATALOGUE[c.use].derived.removes for r in _rules(bench) for c in r.do
        ),
    ),
    _Step(
        "The trial has run already: the red mark in the rule's lane is its firing. Click the mark: the sheet on the "
        "right shows the objects it fired for and what it did.",
        lambda bench, line: bench.cursor.position > 0 and bool(bench.run.trace.count_at(bench.cursor.tick)),
    ),
    _Step(
        "With the rule selected press Ctrl+Shift+E: from now on it is expected to fire exactly as often, and every edit is "
        "checked against that. That is the whole cycle: write, look, check.",
        lambda bench, line: bool(bench.trial.expectations),
    ),
)


def _rules(bench: Workbench) -> list[Rule]:
    return [rule.source for rule in bench.program.rules]


def _more_rules(bench: Workbench) -> bool:
    return len(_rules(bench)) > 1


class Tour(QFrame):
    """A strip that says what to do next, and goes on when it is done."""

    def __init__(self, bench: Workbench, line: TypedLine, parent: QWidget) -> None:
        super().__init__(parent)
        self.bench = bench
        self.line = line
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
        for signal in (bench.levelChanged, bench.runChanged, bench.cursorMoved, bench.selectionChanged):
            signal.connect(self.look)
        line.opened.connect(self.look)
        self._show()

    def _show(self) -> None:
        self.number.setText(f"{self.at + 1} of {len(STEPS)}")
        self.words.setText(STEPS[self.at].words)

    def look(self) -> None:
        """Go on if what was asked for is done."""
        if self.isVisible() and STEPS[self.at].done(self.bench, self.line) and self.at + 1 < len(STEPS):
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
