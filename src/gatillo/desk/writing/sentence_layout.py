"""Typesetting a row's sentence: words with fonts and colours, and where each is."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from gatillo.desk.looks.small_pictures import MARK, kind_mark
from gatillo.desk.looks.theme import figures, kind_colour, text_font, theme
from gatillo.desk.writing.words import Word
from gatillo.level.model import Kind, Level
from gatillo.level.roles import Index

GAP = 4
"""Pixels between a kind's mark and its name."""


@dataclass(frozen=True, slots=True)
class Run:
    """A word at its place: x from the row's text start, width in pixels."""

    word: Word
    x: float
    width: float
    mark: Kind | None = None
    """The kind whose mark stands before the word."""


def _font(sort: str) -> QFont:
    if sort in ("label", "count"):
        return text_font(-1.5, bold=True)
    if sort in ("role", "strong"):
        return text_font(0, bold=True)
    if sort in ("value", "wired"):
        return figures(-0.5)
    if sort.startswith("tag"):
        return text_font(-1)
    if sort == "hint":
        return text_font(-1)
    if sort == "mode":
        return text_font(-1, italic=True)
    if sort == "blank":
        return text_font(0, italic=True)
    return text_font(0)


def _colour(word: Word, index: Index, on: bool) -> QColor:
    t = theme()
    if not on:
        return t.quiet
    if word.sort == "role":
        kind = kind_of(index, word.text)
        return kind_colour(kind.colour) if kind else t.ink
    if word.sort in ("label", "count", "mode", "hint", "blank", "tag", "tag expect"):
        return t.quiet
    return {
        "unknown": t.fault,
        "tag held": t.held,
        "tag failed": t.fault,
        "tag open": t.finding,
        "count strong": t.fires,
        "wired": t.cursor,
    }.get(word.sort, t.ink)


def kind_of(index: Index, role: str) -> Kind | None:
    """Return the kind a role's text speaks of, if it is one kind."""
    found = index.role(role)
    if found is None or found.source in ("all", "tag") or len(found.kinds) != 1:
        return None
    return index.kinds[found.kinds[0]]


class SentenceLayout:
    """Places words in a line. Measuring is kept, since a repaint asks for the same words again."""

    def __init__(self) -> None:
        self._fonts: dict[str, tuple[QFont, QFontMetricsF]] = {}
        self._widths: dict[tuple[str, str], float] = {}
        self._kept: dict[tuple[Word, ...], list[Run]] = {}
        self._index: Index | None = None
        self._level: Level | None = None

    def forget(self) -> None:
        """The desktop's font or the theme changed."""
        self._fonts.clear()
        self._widths.clear()
        self._kept.clear()

    def font(self, sort: str) -> tuple[QFont, QFontMetricsF]:
        """Return the font of a word."""
        found = self._fonts.get(sort)
        if found is None:
            font = _font(sort)
            found = self._fonts[sort] = (font, QFontMetricsF(font))
        return found

    def width(self, sort: str, text: str, marked: bool = False) -> float:
        """Pixels that a word takes, with the mark of a kind before it if it is marked."""
        found = self._widths.get((sort, text))
        if found is None:
            if len(self._widths) > 20_000:
                self._widths.clear()
            found = self._widths[sort, text] = self.font(sort)[1].horizontalAdvance(text)
        return found + (MARK + GAP if marked else 0)

    def lay_out(self, words: list[Word], index: Index) -> list[Run]:
        """Return where each word is."""
        if index is not self._index:
            # what a word speaks of may be another kind now, or look different
            before, now = self._level, index.level
            if before is None or before.kinds is not now.kinds or before.objects is not now.objects:
                self._kept.clear()
            self._index, self._level = index, now
        key = tuple(words)
        runs = self._kept.get(key)
        if runs is not None:
            return runs
        runs = []
        x = 0.0
        for at, word in enumerate(words):
            last = words[at - 1].sort if at else ""
            if at and (word.sort in ("label", "mode", "hint") or last in ("strong",)):
                x += 10 if word.sort == "label" else 8
            elif last in ("label", "count") or last.startswith("tag"):
                x += 8 if last.startswith("tag") else 6
            elif word.sort == "count":
                x += 8
            mark = kind_of(index, word.text) if word.sort == "role" else None
            width = self.width(word.sort, word.text, mark is not None)
            runs.append(Run(word, x, width, mark))
            x += width
        if len(self._kept) > 4000:
            self._kept.clear()
        self._kept[key] = runs
        return runs

    def paint(
        self, painter: QPainter, runs: list[Run], area: QRectF, index: Index, on: bool, current: Word | None
    ) -> None:
        """Paint a line into an area, cut with … where it is too long."""
        t = theme()
        for run in runs:
            left = area.left() + run.x
            if left >= area.right() - 6:
                break
            word = run.word
            font, metrics = self.font(word.sort)
            start, room, width = left, area.right() - left, run.width
            if run.mark is not None:
                painter.setOpacity(1.0 if on else 0.45)
                painter.drawPixmap(QPointF(left, area.center().y() - MARK / 2), kind_mark(run.mark))
                painter.setOpacity(1.0)
                left, room, width = left + MARK + GAP, room - MARK - GAP, width - MARK - GAP
            text = word.text
            if width > room or (run is not runs[-1] and left + width > area.right() - 14):
                text = metrics.elidedText(
                    text + ("" if width > room else " …"), Qt.TextElideMode.ElideRight, room
                )
            painter.setFont(font)
            painter.setPen(_colour(word, index, on))
            baseline = area.center().y() + self.font("plain")[1].capHeight() / 2
            painter.drawText(QPointF(left, baseline), text)
            if word.editable and word.sort != "choice":
                self._underline(painter, word, left, baseline, min(width, room))
            if word == current:
                painter.setPen(QPen(t.cursor, 1.4))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                right = left + min(width, room)
                box = QRectF(start - 3, area.top() + 4, right - start + 6, area.height() - 8)
                painter.drawRoundedRect(box, 4, 4)
            if text.endswith("…") and text != word.text:
                break

    def _underline(self, painter: QPainter, word: Word, left: float, baseline: float, width: float) -> None:
        t = theme()
        if word.sort == "role":
            return
        style = Qt.PenStyle.SolidLine if word.sort == "value" else Qt.PenStyle.DotLine
        painter.setPen(QPen(t.quiet, 1.0, style))
        painter.drawLine(QPointF(left, baseline + 3.5), QPointF(left + width, baseline + 3.5))
