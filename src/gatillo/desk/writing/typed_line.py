"""The typed line: a sentence is typed, and the readings of it are offered to choose from."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from time import perf_counter
from typing import NamedTuple

from PySide6.QtCore import (
    QCoreApplication,
    QEvent,
    QModelIndex,
    QObject,
    QPoint,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import (
    QAction,
    QColor,
    QInputMethodEvent,
    QKeyEvent,
    QPainter,
    QPen,
    QStandardItem,
    QStandardItemModel,
    QTextCharFormat,
    QWheelEvent,
)
from PySide6.QtWidgets import (
    QLineEdit,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from gatillo.catalogue.declare.subjects import SUBJECTS
from gatillo.desk.looks import plain
from gatillo.desk.looks.icons import icon
from gatillo.desk.looks.theme import text_font, theme
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.pointing import Pointing, put_into
from gatillo.desk.writing.sentence_layout import SentenceLayout
from gatillo.desk.writing.words import Word
from gatillo.language.answers import Answer, answers, notes
from gatillo.language.lacking import of_words
from gatillo.language.reading import Reading
from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import Piece, pieces, sentence
from gatillo.level.edits import Part
from gatillo.level.roles import Index

ITEM = 46
LINE = 22
SHOWN = 7
BESIDE = 56
"""Room in the field beside its text: its margins and the button that lists all sentences."""
AT_ONCE = 0.012
"""A line that was read in fewer seconds is read again before its new text is drawn."""
READING = Qt.ItemDataRole.UserRole + 1
ANSWER = Qt.ItemDataRole.UserRole + 2


class Said(NamedTuple):
    """What Enter does with a text that is no sentence."""

    label: str
    help: str


class _ReadingPainter(QStyledItemDelegate):
    """A reading: its lines, typeset as in the order list, and what is to be said of it; or an answer to what it leaves open."""

    def __init__(self, bench: Workbench, parent: QObject) -> None:
        super().__init__(parent)
        self.bench = bench
        self.layout_ = SentenceLayout()
        self.subjects = False
        """Whether each line says its subject: in the list of all."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:  # type: ignore[override]
        reading: Reading = index.data(READING)
        lines = 1 if index.data(ANSWER) is not None else len(reading.all_lines)
        return QSize(200, ITEM + LINE * (lines - 1))

    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:  # type: ignore[override]
        t = theme()
        reading: Reading = index.data(READING)
        answer: Answer | Said | None = index.data(ANSWER)
        area = QRectF(option.rect)
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        p.fillRect(area, t.field if chosen else t.panel)
        if chosen:
            p.fillRect(QRectF(area.left(), area.top(), 3, area.height()), t.cursor)
        top = QRectF(area.left() + 14, area.top() + 3, area.width() - 22, LINE)
        if answer is not None:
            p.setFont(text_font(0))
            p.setPen(t.ink)
            p.drawText(top, Qt.AlignmentFlag.AlignVCenter, answer.label)
            self._below(p, area, [(t.quiet, answer.help)])
        else:
            self._sentences(p, top, reading)
            colours = {"lacking": t.fault, "unread": t.fault, "missing": t.finding, "makes": t.finding}
            said = [
                (colours.get(note.sort, t.quiet), note.text)
                for note in notes(self.bench.program.index, reading)
            ]
            self._below(p, area, [*said, (t.quiet, self._help(reading))])
        if self.subjects and answer is None:
            p.setPen(t.quiet)
            p.setFont(text_font(-1.5))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(top, right, SUBJECTS[reading.entry.subject].title)
        p.setPen(QPen(t.hairline, 1))
        p.drawLine(area.bottomLeft(), area.bottomRight())
        p.restore()

    @staticmethod
    def _help(reading: Reading) -> str:
        if reading.lines:
            return f"{len(reading.lines)} lines, taken together."
        return reading.entry.help

    def _sentences(self, p: QPainter, top: QRectF, reading: Reading) -> None:
        known = self.bench.program.index
        for number, line in enumerate(reading.all_lines):
            words = [Word(line.label, "label")]
            words += [offered_word(line, piece) for piece in pieces(line.clause)]
            self.layout_.paint(
                p, self.layout_.lay_out(words, known), top.translated(0, LINE * number), known, True, None
            )

    def _below(self, p: QPainter, area: QRectF, said: list[tuple[QColor, str]]) -> None:
        """Draw sentences one after the other in the last line, as many as there is room for."""
        p.setFont(text_font(-1.5))
        below = QRectF(area.left() + 14, area.bottom() - 23, area.width() - 22, 18)
        for colour, words in said:
            if not words or below.width() < 40:
                continue
            p.setPen(colour)
            cut = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(below.width()))
            p.drawText(below, Qt.AlignmentFlag.AlignVCenter, cut)
            below.setLeft(below.left() + p.fontMetrics().horizontalAdvance(cut) + 10)


def offered_word(reading: Reading, piece: Piece) -> Word:
    """Return a word of a sentence that is offered; an empty slot says what belongs there, a name that is missing is marked."""
    if piece.empty:
        return Word(reading.entry.slots[piece.slot].kind.blank, "blank")
    if piece.slot and any(o.slot == piece.slot and not o.filled for o in reading.offers):
        return Word(piece.text, "unknown")
    return Word(piece.text, piece.sort)


BEFORE_A_POINT = frozenset(["at", "from", "near", "of", "to", "toward", "towards", "where"])
"""Words after which a click on empty ground writes that point."""


class TypedLine(QObject):
    """A line edit with the list of readings below it. Enter takes one, Escape or an empty Enter ends.

    A reading with a name that the level lacks, or with words that were not read, is not taken at once: the answers to what it
    leaves open are listed in the place of the readings, and Escape goes back to them.
    """

    taken = Signal(object)
    """A reading was chosen."""
    opened = Signal()
    ended = Signal(bool)
    """Nothing more is to be written. Yes, if the keyboard was still in the line."""

    def __init__(self, page: QWidget, bench: Workbench) -> None:
        super().__init__(page)
        self.page = page
        self.bench = bench
        self.field: QLineEdit | None = None
        self.list = QListView(page)
        self.list.hide()
        self._model = QStandardItemModel(self)
        self.list.setModel(self._model)
        self._painter = _ReadingPainter(bench, self.list)
        self.list.setItemDelegate(self._painter)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setObjectName("readings")
        self.list.setAccessibleName("What the typed line may mean")
        self.list.clicked.connect(self._clicked)
        self._all = False
        self._late = QTimer(self, singleShot=True, interval=0)
        self._late.timeout.connect(self.refresh)
        self._took = 0.0
        """How long the last reading took, in seconds."""
        self._width = 0
        self.clicked = False
        """Whether the reading that was taken last was clicked, not typed."""
        self._pointing: Pointing | None = None
        self.asking: Reading | None = None
        """The reading whose open questions are listed."""
        self.index_of: Callable[[], Index] = lambda: bench.program.index
        """Gives the names that the line may use."""
        self.cards = False
        """Whether it may be a card that only graphs have, too."""
        self.plain: Callable[[str], bool] | None = None
        """Takes a text that is no sentence, and says whether it did."""
        self.explain: Callable[[str], str] | None = None
        """Says what `plain` would do with a text; "" for a sentence."""
        self.parts: tuple[Part, ...] = ()
        self.here: tuple[str, ...] = ()
        self.after = ""
        """What the line or card before this one uses."""

    @property
    def index(self) -> Index:
        """The names that the line may use."""
        return self.index_of()

    @property
    def is_open(self) -> bool:
        """Whether a line is being typed."""
        return self.field is not None

    def open_line(
        self,
        area: QRectF,
        parts: Iterable[Part],
        here: Iterable[str],
        hint: str,
        text: str = "",
        after: str = "",
    ) -> None:
        """Lay the line over an area of the page. `after` is what the line or card before it uses."""
        self.close_line()
        self.parts, self.here, self.after, self._all, self.clicked = (
            tuple(parts),
            tuple(here),
            after,
            False,
            False,
        )
        field = QLineEdit(self.page)
        field.setObjectName("typed-line")
        field.setAccessibleName("Type a line of a rule")
        field.setPlaceholderText(hint)
        field.setGeometry(area.adjusted(-6, 1, 0, -1).toRect())
        self._width = field.width()
        field.installEventFilter(self)
        field.textChanged.connect(self._typed)
        everything = QAction(icon("list", theme().quiet), "List all sentences (↓)", field)
        everything.triggered.connect(self._toggle_all)
        field.addAction(everything, QLineEdit.ActionPosition.TrailingPosition)
        self.field = field
        self._pointing = Pointing(field, self._accepts, lambda named: put_into(field, named.name))
        field.show()
        field.setFocus()
        field.setText(text)
        self.refresh()
        self.opened.emit()

    def _accepts(self, sort: str) -> bool:
        """Whether a click on something named fills it in: on a rule only while a sentence is begun, as a click there else ends it.

        On the ground only after a word such as “to”.
        """
        if sort == "ground":
            words = self.field.text().lower().split() if self.field is not None else []
            return bool(words) and words[-1] in BEFORE_A_POINT
        return sort in ("object", "kind", "place") or (
            self.field is not None and bool(self.field.text().strip())
        )

    def close_line(self) -> None:
        """Take the line and its list away."""
        self._late.stop()
        self._took = 0.0
        field, self.field = self.field, None
        self.list.hide()
        if self._pointing is not None:
            self._pointing.end()
            self._pointing = None
        if field is not None:
            field.removeEventFilter(self)
            field.hide()
            field.deleteLater()

    def _say(self, said: str) -> None:
        """List what Enter does with a text that is no sentence, and nothing else."""
        self._grow()
        self._model.clear()
        self.asking = None
        self._add(said, None, "", Said(said, "Enter sets it."))
        self.list.setCurrentIndex(self._model.index(0, 0))
        self._mark_unread(())
        self._place(1)

    def _typed(self) -> None:
        """Offer what the new text means: at once, or after the text has been drawn where the last reading took long."""
        if self._took < AT_ONCE:
            self.refresh()
            return
        self._grow()
        self._late.start()

    def _settle(self) -> None:
        """Offer the readings that are still to come."""
        if self._late.isActive():
            self.refresh()

    @property
    def model(self) -> QStandardItemModel:
        """What is listed for the text as it stands."""
        self._settle()
        return self._model

    def refresh(self) -> None:
        """Offer the readings of the text as it stands."""
        self._late.stop()
        if self.field is None:
            return
        began = perf_counter()
        text = self.field.text()
        if self.explain is not None and (said := self.explain(text)):
            self._say(said)
            return
        self._grow()
        index = self.index
        found = read_line(index, text, self.parts, here=self.here, cards=self.cards, after=self.after)
        self._model.clear()
        self.asking = None
        self._painter.subjects = not text.strip()
        for reading in found:
            words = "; ".join(f"{line.part} {sentence(line.clause)}" for line in reading.all_lines)
            said = " ".join(note.text for note in notes(index, reading))
            self._add(f"{words}. {said}" if said else words, reading, reading.entry.help)
        if found and text.strip():
            self.list.setCurrentIndex(self._model.index(0, 0))
        self._mark_unread(found[0].all_unread if found and text.strip() else ())
        # an empty line covers nothing until all sentences are asked for
        self._place(len(found) if text.strip() or self._all else 0)
        self._took = perf_counter() - began if text.strip() else 0.0

    def _grow(self) -> None:
        """Make the field as wide as its text, as far as there is room."""
        assert self.field is not None
        needed = self.field.fontMetrics().horizontalAdvance(self.field.text()) + BESIDE
        room = self.page.width() - self.field.x() - 6
        self.field.resize(max(self._width, min(needed, room)), self.field.height())

    def _add(
        self, words: str, reading: Reading | None, help_: str, answer: Answer | Said | None = None
    ) -> None:
        item = QStandardItem(words)
        item.setData(reading, READING)
        item.setData(answer, ANSWER)
        item.setToolTip(plain.tip(help_))
        item.setEditable(False)
        self._model.appendRow(item)

    def _mark_unread(self, words: tuple[str, ...]) -> None:
        """Underline the words of the line that the first reading leaves unread."""
        assert self.field is not None
        text, cursor = self.field.text(), self.field.cursorPosition()
        wavy = QTextCharFormat()
        wavy.setUnderlineStyle(QTextCharFormat.UnderlineStyle.SpellCheckUnderline)
        wavy.setUnderlineColor(theme().fault)
        marks, after = [], 0
        for word in words:
            at = text.find(word, after)
            if at >= 0:
                kind = QInputMethodEvent.AttributeType.TextFormat
                marks.append(QInputMethodEvent.Attribute(kind, at - cursor, len(word), wavy))
                after = at + len(word)
        QCoreApplication.sendEvent(self.field, QInputMethodEvent("", marks))

    def _ask(self, reading: Reading) -> bool:
        """List the answers to what a reading leaves open; False if it leaves nothing open."""
        offered = answers(self.index, reading)
        if not offered:
            return False
        self.asking = reading
        self._model.clear()
        self._painter.subjects = False
        for answer in offered:
            self._add(f"{answer.label}. {answer.help}", answer.reading, answer.help, answer)
        self.list.setCurrentIndex(self._model.index(0, 0))
        self._place(len(offered))
        return True

    def _place(self, many: int) -> None:
        assert self.field is not None
        window = self.page.window()
        if self.list.parentWidget() is not window:
            self.list.setParent(window)
        if not many:
            self.list.hide()
            return
        rows = [self.list.sizeHintForRow(row) for row in range(min(many, SHOWN))]
        height = min(sum(rows), SHOWN * ITEM) + 2
        under = self.field.mapTo(window, QPoint(0, self.field.height() + 2))
        above = self.field.mapTo(window, QPoint(0, -2)).y()
        room = window.height() - under.y() - 6
        # above the line where there is more room
        if room < height and above > room:
            height = min(height, above - 40)
            top = above - height
        else:
            height = min(height, room)
            top = under.y()
        width = min(max(self.field.width(), 560), window.width() - under.x() - 8)
        self.list.setGeometry(QRect(under.x(), top, width, height))
        self.list.show()
        self.list.raise_()

    def chosen(self) -> Reading | None:
        """Return the reading that Enter would take."""
        self._settle()
        at = self.list.currentIndex()
        if self.field is None or not at.isValid():
            return None
        reading: Reading | None = at.data(READING)
        return reading

    def _clicked(self, index: QModelIndex) -> None:
        if self._late.isActive():
            # what was clicked is of a text that has changed
            self.refresh()
            return
        self.list.setCurrentIndex(index)
        self.clicked = True
        self.take()

    def take(self) -> None:
        """Take the reading that is chosen; with none, end. What it leaves open is asked for first."""
        reading = self.chosen()
        if reading is None:
            text = self.field.text().strip() if self.field is not None else ""
            if text and self.plain is not None and self.plain(text):
                self.close_line()
            else:
                self._end()
            return
        if self._ask(reading):
            return
        self.close_line()
        self.taken.emit(reading)

    def _end(self) -> None:
        if self.field is not None:
            had_keyboard = self.field.hasFocus()
            self.close_line()
            self.ended.emit(had_keyboard)

    def offer_all(self) -> None:
        """Show the whole list at once, for the pointer."""
        if not self.list.isVisible():
            self._toggle_all()

    def _toggle_all(self) -> None:
        """Show the whole list, or put it away, for the pointer."""
        if self.field is None:
            return
        self._all = not self.list.isVisible()
        self._place(self._model.rowCount() if self._all else 0)

    def scroll(self, event: QWheelEvent) -> bool:
        """Scroll the list with the wheel while it is open, wherever the pointer is; return whether it did."""
        if not self.list.isVisible():
            return False
        bar = self.list.verticalScrollBar()
        bar.setValue(bar.value() - round(event.angleDelta().y() / 120 * ITEM))
        return True

    def _walk(self, by: int) -> None:
        many = self._model.rowCount()
        if many:
            if not self.list.isVisible():
                self._all = True
                self._place(many)
            at = self.list.currentIndex()
            row = min(max((at.row() if at.isValid() else -1) + by, 0), many - 1)
            self.list.setCurrentIndex(self._model.index(row, 0))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            steps = {
                Qt.Key.Key_Down: 1,
                Qt.Key.Key_Up: -1,
                Qt.Key.Key_PageDown: SHOWN,
                Qt.Key.Key_PageUp: -SHOWN,
            }
            key = Qt.Key(event.key())
            if not event.text().isprintable() or key in steps:
                self._settle()
            if key in steps:
                self._walk(steps[key])
                return True
            if key == Qt.Key.Key_Escape:
                if self.asking is not None:
                    self.refresh()
                else:
                    self._end()
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
                if (
                    self.field is not None
                    and self.plain is not None
                    and self.plain(self.field.text().strip())
                ):
                    self.close_line()
                    return True
                if self.field is not None and self.field.text().strip() and not self._model.rowCount():
                    self.bench.notify(
                        of_words(self.field.text().split())
                        or "No sentence in the catalogue matches this. Try other words, or clear the line to see all."
                    )
                    return True
                self.take()
                return True
        elif isinstance(event, QWheelEvent):
            return self.scroll(event)
        elif event.type() == QEvent.Type.FocusOut and watched is self.field:
            # the list takes no focus: a click on it comes first
            QTimer.singleShot(0, self._end_if_left)
        return super().eventFilter(watched, event)

    def _end_if_left(self) -> None:
        if self.field is not None and not self.field.hasFocus() and self.page.window().isActiveWindow():
            self._end()
