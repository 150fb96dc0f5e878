"""Finding a behaviour: all of them by subject, each with its line of help, found by their own and by further words."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QEvent, QModelIndex, QObject, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from gatillo.catalogue.declare.entry import CATALOGUE, Entry
from gatillo.catalogue.declare.subjects import SUBJECTS, in_order
from gatillo.desk.looks import plain
from gatillo.desk.looks.theme import text_font, theme
from gatillo.language.typed_words import stem
from gatillo.level.naming import spoken

USE = Qt.ItemDataRole.UserRole
HEIGHT, HEADING = 44, 24
SHOWN = 300


def matching(words: str, uses: Iterable[str]) -> list[str]:
    """Return the behaviours that have all of some words in their name, sentence, help or further wordings, by subject."""
    wanted = [stem(word) for word in words.lower().replace("-", " ").split()]
    found = [use for use in uses if all(_says(CATALOGUE[use], word) for word in wanted)]
    named = {
        use
        for use in found
        if wanted and all(any(stem(p).startswith(w) for p in use.split("_")) for w in wanted)
    }
    return sorted(found, key=lambda use: (use not in named, in_order(CATALOGUE[use].subject)))


def _says(entry: Entry, word: str) -> bool:
    texts = (spoken(entry.name), entry.sentence, entry.help, *(one.text for one in entry.wordings))
    plain_words = " ".join(texts).lower().replace("/", " ").replace("[", " ").replace("]", " ").split()
    return any(stem(one.strip(".,:;“”")).startswith(word) for one in plain_words)


class _BehaviourPainter(QStyledItemDelegate):
    """A behaviour: its name, and its line of help below; or the title of a subject."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:  # type: ignore[override]
        return QSize(200, HEIGHT if index.data(USE) else HEADING)

    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:  # type: ignore[override]
        t, area = theme(), option.rect
        text = index.data(Qt.ItemDataRole.DisplayRole)
        use = index.data(USE)
        p.save()
        if not use:
            p.setFont(text_font(-1))
            p.setPen(t.quiet)
            p.drawText(area.adjusted(8, 6, -4, 0), Qt.AlignmentFlag.AlignVCenter, text)
            p.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            p.fillRect(area, t.field)
            p.fillRect(area.left(), area.top(), 3, area.height(), t.cursor)
        p.setFont(text_font(0))
        p.setPen(t.ink)
        p.drawText(area.adjusted(12, 3, -6, -22), Qt.AlignmentFlag.AlignVCenter, text)
        p.setFont(text_font(-1.5))
        p.setPen(t.quiet)
        below = area.adjusted(12, 22, -6, -3)
        words = p.fontMetrics().elidedText(CATALOGUE[use].help, Qt.TextElideMode.ElideRight, below.width())
        p.drawText(below, Qt.AlignmentFlag.AlignVCenter, words)
        p.setPen(QPen(t.hairline, 1))
        p.drawLine(area.bottomLeft(), area.bottomRight())
        p.restore()


class BehaviourFinder(QWidget):
    """A field to search in, and the list of behaviours below it."""

    def __init__(self, name: str, uses: list[str], take: Callable[[str], object]) -> None:
        super().__init__()
        self._uses = uses
        self._take = take
        self.field = QLineEdit()
        self.field.setObjectName(f"{name}-search")
        self.field.setAccessibleName("Search the behaviours")
        self.field.setPlaceholderText("what should it do? follow, patrol, avoid …")
        self.list = QListWidget()
        self.list.setObjectName(f"{name}-list")
        self.list.setAccessibleName("Behaviours by subject")
        self.list.setItemDelegate(_BehaviourPainter(self.list))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setFixedHeight(SHOWN)
        self.list.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.field)
        column.addWidget(self.list)
        self.field.textChanged.connect(self.show_matching)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(self._choose)

    def toggle(self) -> None:
        """Open the list with the keyboard in its field, or close it."""
        if self.isVisible():
            self.hide()
            return
        self.show_matching(self.field.text())
        self.show()
        self.field.setFocus()

    def show_matching(self, words: str) -> None:
        """List the behaviours that some words find, under the titles of their subjects."""
        self.list.clear()
        title = ""
        for use in matching(words, self._uses):
            subject = SUBJECTS[CATALOGUE[use].subject].title
            if subject != title:
                title = subject
                heading = QListWidgetItem(title.capitalize(), self.list)
                heading.setFlags(Qt.ItemFlag.NoItemFlags)
            item = QListWidgetItem(spoken(use), self.list)
            item.setData(USE, use)
            item.setToolTip(plain.tip(CATALOGUE[use].help))
        self._walk(1)

    def _walk(self, by: int) -> None:
        at = self.list.currentRow() + by
        while 0 <= at < self.list.count():
            if self.list.item(at).data(USE):
                self.list.setCurrentRow(at)
                return
            at += by

    def _choose(self, item: QListWidgetItem) -> None:
        if item.data(USE):
            self._take(item.data(USE))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self._walk(step)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                item = self.list.currentItem()
                if item is not None:
                    self._choose(item)
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                return True
        return super().eventFilter(watched, event)
