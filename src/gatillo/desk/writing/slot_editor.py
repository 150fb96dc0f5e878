"""Editing a slot of a sentence in place: typing, with completion of what exists and errors at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QInputMethodEvent, QKeyEvent, QTextCharFormat
from PySide6.QtWidgets import QCompleter, QLineEdit, QWidget

from gatillo.catalogue.declare.entry import Slot
from gatillo.catalogue.declare.slot_types import hint_here
from gatillo.desk.looks.icons import icon
from gatillo.desk.looks.plain import Words, tip
from gatillo.desk.looks.theme import figures, text_font, theme
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.answer_list import AnswerList
from gatillo.desk.writing.formula_help import MOST_SHOWN, NameCompleter, value_now
from gatillo.desk.writing.pointing import Named, Pointing, put_into
from gatillo.language.answers import SlotAnswer, made_words, slot_answers, with_name_made
from gatillo.language.binding import SlotProblem
from gatillo.language.choices import choices
from gatillo.level.naming import token
from gatillo.level.roles import Index


@dataclass(frozen=True, slots=True)
class Edited:
    """A slot that is edited: what is in it, what may stand there, and what is wrong with another text."""

    name: str
    """What it is called when it is heard."""
    text: str
    declared: Slot
    index: Index
    roles: tuple[str, ...]
    """Roles that are spoken of already."""
    wrong: Callable[[str], SlotProblem | None]
    also: tuple[str, ...] = ()
    """Names that may stand there beside the level's."""
    key: Any = None
    """By which the one who asked for it knows it again."""


class SlotEditor(QObject):
    """One line edit, laid over the word that is edited."""

    taken = Signal(object, str)
    """A slot has been given another text: its key, and the text."""
    walked = Signal(int)
    """On to the next slot (1) or back to the one before (-1)."""
    closed = Signal(bool)
    """The field is gone; whether its text was taken."""

    def __init__(self, page: QWidget, bench: Workbench) -> None:
        super().__init__(page)
        self.page = page
        self.bench = bench
        self.field: QLineEdit | None = None
        self._edited: Edited | None = None
        self._pointing: Pointing | None = None
        self.answers: AnswerList | None = None
        """What may be meant by a name that does not exist, while that is asked."""
        self.last_key: Any = None
        """By which the slot that was edited last is known."""

    def open_editor(self, edited: Edited, area: QRectF, *, listing: bool = False) -> None:
        """Lay the field over a word. Enter takes the text, Escape leaves it as it was.

        With `listing`, for the mouse, what may stand there is listed at once: where that is one of a few, or nothing stands there.
        """
        self.close_editor(keep=False)
        declared, text = edited.declared, edited.text
        field = QLineEdit(self.page)
        self._formula = declared.kind.holds == "formula"
        field.setFont(figures(-0.5) if declared.kind.look == "value" else self.page.font())
        field.setText(text)
        field.setAccessibleName(edited.name)
        field.setToolTip(tip(hint_here(edited.index, declared.hint)))
        width = max(area.width() + 46, 230 if self._formula else 130)
        left = min(area.left() - 7, self.page.width() - width - 4)
        field.setGeometry(int(left), int(area.top()) + 1, int(width), int(area.height()) - 2)
        if not text and declared.kind.holds == "role":
            # what the rule spoke of last is most often meant; it is selected, so that typing replaces it
            field.setText(next((r for r in reversed(edited.roles) if edited.index.role(r)), ""))
        known = choices(edited.index, declared, edited.roles)
        kinds = list(edited.index.kinds)
        if not field.text() and declared.kind.holds == "role" and len(kinds) == 1:
            # the only answer there is: Enter takes it
            field.setText(kinds[0])
        elif not field.text() and declared.kind.holds == "name" and len(known) == 1:
            field.setText(known[0])
        self._offer: Callable[[], None] | None = None
        if self._formula or declared.kind.holds == "text":
            self._offer = NameCompleter(
                field, edited.index, in_braces=declared.kind.holds == "text", also=edited.also
            ).list_all
        elif known:
            completer = QCompleter(known, field)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            completer.setMaxVisibleItems(MOST_SHOWN)
            popup = completer.popup()
            if popup is not None:
                popup.setObjectName("offers")
            # what is chosen from the list is taken
            completer.activated.connect(lambda _: QTimer.singleShot(0, lambda: self.close_editor(keep=True)))
            field.setCompleter(completer)
            self._offer = self._list_known
        if self._offer is not None:
            everything = QAction(icon("list", theme().quiet), "List what can be used here", field)
            everything.triggered.connect(self._offer)
            field.addAction(everything, QLineEdit.ActionPosition.TrailingPosition)
        field.selectAll()
        field.installEventFilter(self)
        field.textChanged.connect(lambda: self.check())
        self.field, self._edited, self.last_key = field, edited, edited.key
        self._pointing = Pointing(field, self._accepts, self._point_out)
        self.hint = Words(parent=self.page)
        self.hint.setObjectName("slot-hint")
        self.hint.setFont(text_font(-1))
        field.show()
        field.setFocus()
        self.check()
        if listing and self._offer is not None and (known or not text) and declared.kind.holds != "text":
            self._offer()

    def _accepts(self, sort: str) -> bool:
        """Whether a name of a sort may stand in the slot."""
        if self._edited is None:
            return False
        declared = self._edited.declared
        if sort == "ground":
            return declared.kind.holds == "where"
        if declared.kind.holds in ("role", "where", "formula", "text", "variable"):
            return sort in ("object", "kind") or (
                sort == "place" and declared.kind.holds in ("where", "formula")
            )
        return sort == declared.type or (sort == "place" and declared.type in ("area", "route"))

    def _point_out(self, named: Named) -> None:
        """Put the name of what was clicked into the field: into a formula at the caret, else in the place of what is there."""
        if self.field is None or self._edited is None:
            return
        holds = self._edited.declared.kind.holds
        if holds == "formula":
            put_into(self.field, token(named.name))
        elif holds == "text":
            put_into(self.field, named.name)
        else:
            self.field.setText(named.name)

    def _list_known(self) -> None:
        """List all that may stand here; what is clicked is taken."""
        completer = self.field.completer() if self.field is not None else None
        if completer is None:
            return
        completer.setCompletionPrefix("")
        completer.complete()

    def problem(self) -> str:
        """Return what is wrong with the text as it stands; empty if nothing."""
        found = self._found()
        return found.message if found is not None else ""

    def _found(self) -> SlotProblem | None:
        assert self.field is not None and self._edited is not None
        return self._edited.wrong(self.field.text())

    def check(self) -> None:
        """Mark the field when its text would not do, and say why."""
        if self.field is None:
            return
        problem = self.problem()
        self.field.setProperty("wrong", "true" if problem else "false")
        self.field.style().unpolish(self.field)
        self.field.style().polish(self.field)
        self._underline()
        self._show_hint(problem, wrong=bool(problem) and bool(self.field.text().strip()))

    def _underline(self) -> None:
        """Underline the part of the text that is wrong."""
        assert self.field is not None
        found, marks = self._found(), []
        if found is not None and found.end > found.start:
            wavy = QTextCharFormat()
            wavy.setUnderlineStyle(QTextCharFormat.UnderlineStyle.SpellCheckUnderline)
            wavy.setUnderlineColor(theme().fault)
            wavy.setForeground(theme().fault)
            # counted from the text cursor, which stands where it is
            start = found.start - self.field.cursorPosition()
            kind = QInputMethodEvent.AttributeType.TextFormat
            marks = [QInputMethodEvent.Attribute(kind, start, found.end - found.start, wavy)]
        QCoreApplication.sendEvent(self.field, QInputMethodEvent("", marks))

    def _show_hint(self, problem: str, *, wrong: bool) -> None:
        """Below the field: what is wrong with it, or its value at the cursor, or what may stand there."""
        assert self.field is not None and self._edited is not None
        words = problem if wrong else ""
        if not problem and self._formula:
            words = value_now(self.bench, self.field.text())
        words = words or hint_here(self._edited.index, self._edited.declared.hint)
        self.hint.setText(words[0].upper() + words[1:] if wrong else words)
        self.hint.setProperty("wrong", "true" if wrong else "false")
        self.hint.style().unpolish(self.hint)
        self.hint.style().polish(self.hint)
        self.hint.adjustSize()
        below = self.field.geometry().bottom() + 2
        if below + self.hint.height() > self.page.height():
            below = self.field.geometry().top() - self.hint.height() - 2
        left = min(self.field.x(), self.page.width() - self.hint.width() - 6)
        self.hint.move(max(4, left), below)
        self.hint.show()
        self.hint.raise_()

    def close_editor(self, *, keep: bool) -> bool:
        """Take the field away; with `keep` its text goes into the level. False if the text would not do."""
        field, edited = self.field, self._edited
        if field is None or edited is None:
            return True
        text = field.text().strip()
        if edited.declared.kind.holds == "text":
            # quotes that are typed about a text are its quotes
            text = _unquoted(text)
        if keep and self.problem():
            self.check()
            self._ask()
            return False
        self._leave(field, edited, text, keep=keep)
        return True

    def _ask(self) -> None:
        """List what may be meant by a name that the level lacks: a near one, a new one, or the name as typed."""
        assert self.field is not None and self._edited is not None
        edited = self._edited
        found = slot_answers(edited.index, edited.declared, self.field.text().strip(), edited.roles)
        self._put_answers_away()
        if found:
            self.hint.hide()
            self.answers = AnswerList(self.field, found, self._answered)

    def _put_answers_away(self) -> None:
        if self.answers is not None:
            self.answers.hide()
            self.answers.deleteLater()
            self.answers = None

    def _answered(self, answer: SlotAnswer) -> None:
        """Take an answer: a near name is put into the field, what is made is added to the level, the rest stays as typed."""
        field, edited = self.field, self._edited
        if field is None or edited is None:
            return
        self._put_answers_away()
        if answer.make is not None:
            level, made = self.bench.level, answer.make
            value = False if edited.declared.kind.gives == "yes/no" else 0.0
            self._leave(
                field,
                edited,
                answer.text,
                keep=True,
                made=lambda: self.bench.edit(
                    with_name_made(level, edited.index, made, value), f"make {made_words(made)}"
                ),
            )
        elif answer.text != field.text().strip():
            field.setText(answer.text)
            self.close_editor(keep=True)
        else:
            self._leave(field, edited, answer.text, keep=True)

    def _leave(
        self,
        field: QLineEdit,
        edited: Edited,
        text: str,
        *,
        keep: bool,
        made: Callable[[], object] | None = None,
    ) -> None:
        self._put_answers_away()
        if self._pointing is not None:
            self._pointing.end()
            self._pointing = None
        self.field = self._edited = None
        field.removeEventFilter(self)
        self.hint.hide()
        self.hint.deleteLater()
        field.hide()
        field.deleteLater()
        if made is not None:
            made()
        if keep:
            self.taken.emit(edited.key, text)
        self.closed.emit(keep)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            key = event.key()
            if self.answers is not None:
                if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                    self.answers.walk(1 if key == Qt.Key.Key_Down else -1)
                    return True
                if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
                    self.answers.take()
                    return True
                self._put_answers_away()
                if key == Qt.Key.Key_Escape:
                    self.check()
                    return True
            if key == Qt.Key.Key_Escape:
                self.close_editor(keep=False)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.close_editor(keep=True)
                return True
            if key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
                if self.close_editor(keep=True):
                    self.walked.emit(1 if key == Qt.Key.Key_Tab else -1)
                return True
        return super().eventFilter(watched, event)


def _unquoted(text: str) -> str:
    for begins, ends in (('"', '"'), ("“", "”")):
        if len(text) >= 2 and text[0] == begins and text[-1] == ends and not set(text[1:-1]) & {begins, ends}:
            return text[1:-1]
    return text
