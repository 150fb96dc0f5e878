"""The first page: a new level, recent levels, recovered work, and the studies as a gallery."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPen, QPixmap
from PySide6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.level_view.picture import level_picture
from gatillo.desk.looks.plain import Words, tip
from gatillo.desk.looks.theme import text_font, theme
from gatillo.examples import example_names, picture_path, study_path
from gatillo.examples.starters import STARTERS
from gatillo.files.level_file import LevelFileError, read_level
from gatillo.files.owners import state_folder
from gatillo.files.unsaved import Left, look_for_work, throw_away
from gatillo.level.model import Level

PICTURE = QSize(276, 150)
EDGE = 6
"""Between a card's edge and its picture."""
SPACE = 12
"""Between cards."""
LINES = 2
"""Of what a study shows, below its name."""
SIDE = 330
LINK_EDGES = 18
"""What a link keeps free beside its words."""


def _ready_picture(study: str) -> QPixmap | None:
    """Return the picture of a study that comes with the program, in the look of the window."""
    picture = QPixmap(str(picture_path(study, dark=theme().dark)))
    if picture.isNull():
        return None
    picture.setDevicePixelRatio(picture.width() / PICTURE.width())
    return picture


class Card(QAbstractButton):
    """A study: its picture, its name and one line of what it shows."""

    def __init__(self, name: str, title: str) -> None:
        super().__init__()
        self.study = name
        self.setText(title)
        name_high, line_high = _line_heights()
        high = 2 * EDGE + PICTURE.height() + name_high + LINES * line_high + 6
        self.setFixedSize(PICTURE.width() + 2 * EDGE, high)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Study: {title}")
        self.setObjectName(f"study-{name}")
        self.line = ""
        self.picture = QPixmap()

    def show_level(self, level: Level) -> None:
        """Take the line from the study's level, and its picture: the one made beforehand, amid its trial, or as it is laid out."""
        self.picture = _ready_picture(self.study) or level_picture(level, PICTURE.width(), PICTURE.height())
        self.line = level.note.partition(". ")[0].rstrip(".") + "."
        self.setAccessibleDescription(self.line)
        self.setToolTip(tip(level.note))
        self.update()

    def paintEvent(self, event: object) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        lit = self.hasFocus() or self.underMouse()
        p.setPen(QPen(t.cursor if lit else t.hairline, 2 if self.hasFocus() else 1))
        p.setBrush(t.panel)
        p.drawRoundedRect(frame, 5, 5)
        p.drawPixmap(EDGE, EDGE, self.picture)
        name_high, line_high = _line_heights()
        top, wide = EDGE + PICTURE.height() + 4, self.width() - 20
        p.setPen(t.ink)
        p.setFont(text_font(0, bold=True))
        p.drawText(QRectF(10, top, wide, name_high), Qt.AlignmentFlag.AlignVCenter, self.text())
        p.setPen(t.quiet)
        p.setFont(text_font(-1.5))
        for at, words in enumerate(_wrapped(self.line, p.fontMetrics(), wide)):
            area = QRectF(10, top + name_high + at * line_high, wide, line_high)
            p.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)
        p.end()

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()


class Gallery(QWidget):
    """The studies beside and below one another, as many in a row as there is room for."""

    def __init__(self, title: str, cards: list[Card]) -> None:
        super().__init__()
        self.cards = cards
        self.columns = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 24, 20, 20)
        column.addWidget(_heading(title))
        self.grid = QGridLayout()
        self.grid.setSpacing(SPACE)
        column.addLayout(self.grid)
        column.addStretch(1)
        self._lay(1)

    def resizeEvent(self, event: object) -> None:
        room = self.width() - 40 + SPACE
        self._lay(max(1, room // (self.cards[0].width() + SPACE)))

    def _lay(self, columns: int) -> None:
        if columns == self.columns:
            return
        self.grid.setColumnStretch(self.columns, 0)
        self.columns = columns
        for at, card in enumerate(self.cards):
            self.grid.addWidget(card, at // columns, at % columns)
        self.grid.setColumnStretch(columns, 1)


class StartPage(QWidget):
    """What to begin with."""

    starterChosen = Signal(int)
    fileChosen = Signal(object)
    studyChosen = Signal(str)
    leftChosen = Signal(object)
    openWanted = Signal()

    def __init__(self, recent: Callable[[], list[Path]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.recent = recent
        self.cards: list[Card] = []
        self._waiting: list[Card] = []
        """Whose picture is to be shown."""
        self._timer = QTimer(self)
        # one picture for each turn of the event loop: the page is there at once
        self._timer.timeout.connect(self._next_picture)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.side = QWidget()
        # as wide as the words need in the desktop's font, and never half of a small window
        self.side.setFixedWidth(min(max(SIDE, 30 * self.fontMetrics().averageCharWidth()), 420))
        self.side_column = QVBoxLayout(self.side)
        self.side_column.setContentsMargins(28, 24, 20, 20)
        self.side_column.setSpacing(6)
        row.addWidget(self.side)
        row.addWidget(self._gallery(), 1)

    def _gallery(self) -> QScrollArea:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for name in example_names():
            title = name.removesuffix(".gatillo").replace("-", " ")
            number, _, words = title.partition(" ")
            card = Card(
                name, f"{int(number)}  {words.capitalize()}" if number.isdigit() else title.capitalize()
            )
            card.clicked.connect(lambda _=False, n=name: self.studyChosen.emit(n))
            self.cards.append(card)
        title = "The demo level, and studies that show one thing each"
        area.setWidget(Gallery(title, self.cards))
        self._waiting = list(self.cards)
        return area

    def rebuild(self) -> None:
        """Show what was open lately and what was left, as it is now."""
        while self.side_column.count():
            item = self.side_column.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        title = Words("Gatillo")
        title.setFont(text_font(10, bold=True))
        self._put(title)
        self._put(
            _quiet("Event rules for level designers: write them, run them, see which fired, when and why.")
        )
        self._put(_heading("Begin"))
        for at, (name, words, _) in enumerate(STARTERS):
            link = _link(name, words, f"starter-{at}", lambda n=at: self.starterChosen.emit(n))
            self._put(link)
            if at == 0:
                self._first = link
        self._put(_link("Open …", "a level file", "start-open", self.openWanted.emit))
        self._show_left()
        paths = [path for path in self.recent() if os.path.exists(path)][:6]
        if paths:
            self._put(_heading("Open lately"))
            for at, path in enumerate(paths):
                self._put(
                    _link(path.stem, str(path.parent), f"recent-{at}", lambda p=path: self.fileChosen.emit(p))
                )
        self.side_column.addStretch(1)

    def _show_left(self) -> None:
        found, unreadable = look_for_work()
        if unreadable:
            self._put(_heading("Unsaved work that cannot be read"))
            lines = [
                *unreadable[:3],
                *(["…"] if len(unreadable) > 3 else []),
                f"It is left as it is, in {state_folder()}.",
            ]
            words = Words("\n".join(lines))
            words.setWordWrap(True)
            words.setObjectName("unreadable-work")
            self._put(words)
        if not found:
            return
        self._put(_heading("Not saved when the program ended"))
        for at, left in enumerate(found[:4]):
            when = time.strftime("%d %B, %H:%M", time.localtime(left.when))
            row = QHBoxLayout()
            row.addWidget(_link(left.name, when, f"left-{at}", lambda f=left: self.leftChosen.emit(f)), 1)
            away = QToolButton()
            away.setText("×")
            away.setProperty("small", "true")
            away.setObjectName(f"left-{at}-away")
            away.setAccessibleName(f"Discard the recovered {left.name}")
            away.setToolTip("Discard")
            away.clicked.connect(lambda _=False, f=left: self._throw(f))
            row.addWidget(away)
            holder = QWidget()
            holder.setLayout(row)
            row.setContentsMargins(0, 0, 0, 0)
            self._put(holder)

    def _throw(self, left: Left) -> None:
        throw_away(left)
        self.rebuild()

    def _put(self, widget: QWidget) -> None:
        self.side_column.addWidget(widget)

    def showEvent(self, event: object) -> None:
        self.rebuild()
        if self._waiting:
            self._timer.start(0)
        # the window takes the focus to its first field when it opens: this comes after
        QTimer.singleShot(0, self.focus_first)

    def focus_first(self) -> None:
        """Put the keyboard on the first thing to begin with."""
        if self.isVisible():
            self._first.setFocus()

    def _next_picture(self) -> None:
        if not self._waiting:
            self._timer.stop()
            return
        card = self._waiting.pop(0)
        try:
            card.show_level(read_level(study_path(card.study)))
        except LevelFileError as error:
            card.line = str(error)
            card.update()

    def restyle(self) -> None:
        """The look has changed: everything is drawn again, when it is next seen."""
        self._waiting = list(self.cards)
        if self.isVisible():
            self._timer.start(0)
            self.rebuild()


def _heading(words: str) -> QLabel:
    label = Words(words)
    label.setFont(text_font(0, bold=True))
    label.setWordWrap(True)
    label.setContentsMargins(0, 14, 0, 2)
    return label


def _quiet(words: str) -> QLabel:
    label = Words(words)
    label.setWordWrap(True)
    label.setObjectName("quiet")
    return label


class Link(QPushButton):
    """Something to begin with; what more there is to say of it where there is room for all of it."""

    def __init__(self, words: str, more: str) -> None:
        super().__init__(words)
        self.words, self.more = words, more

    def resizeEvent(self, event: object) -> None:
        whole = f"{self.words}   {self.more}"
        room = self.width() - LINK_EDGES
        fits = self.fontMetrics().horizontalAdvance(whole) <= room
        self.setText(
            whole if fits else self.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideMiddle, room)
        )

    def minimumSizeHint(self) -> QSize:
        # a long name of a file is cut, the page is not made wider for it
        return QSize(40, super().minimumSizeHint().height())


def _line_heights() -> tuple[int, int]:
    """Return how high a card's name and a line below it are, in pixels."""
    name, line = QFontMetrics(text_font(0, bold=True)), QFontMetrics(text_font(-1.5))
    return name.height() + 2, line.height()


def _wrapped(text: str, metrics: QFontMetrics, wide: int) -> list[str]:
    """Return a text in the lines that a card has for it; what is left over ends in an ellipsis."""
    lines, rest = [""], text.split()
    while rest:
        longer = f"{lines[-1]} {rest[0]}".strip()
        if metrics.horizontalAdvance(longer) > wide and lines[-1]:
            if len(lines) == LINES:
                last = f"{lines[-1]} {' '.join(rest)}"
                lines[-1] = metrics.elidedText(last, Qt.TextElideMode.ElideRight, wide)
                break
            lines.append("")
        else:
            lines[-1] = longer
            rest.pop(0)
    return lines


def _link(words: str, more: str, name: str, run: Callable[..., object]) -> QPushButton:
    button = Link(words, more)
    button.setToolTip(tip(more))
    button.setObjectName(name)
    button.setProperty("link", "true")
    button.setAccessibleName(f"{words}: {more}")
    button.clicked.connect(lambda _=False: run())
    return button
