"""A small picture of the level as one of the tried values has it, at the common moment."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from gatillo.desk.looks.object_painter import draw_object, draw_place
from gatillo.desk.looks.theme import text_font, theme
from gatillo.inspect.sweep.outcomes import Frame, Outcome
from gatillo.level.model import Level
from gatillo.level.scenery import without_scenery

WIDTH, HEIGHT, HEAD = 214, 150, 36


class CasePicture(QWidget):
    """One combination of values: what it is, what became of the expectations, and where everything is."""

    chosen = Signal()
    """It was clicked."""

    def __init__(self, level: Level, outcome: Outcome, words: str, said: str) -> None:
        super().__init__()
        self.level, self.outcome = level, outcome
        # frames number the kinds that take part
        self.kinds = without_scenery(level).kinds
        scenery = {kind.name: kind for kind in level.kinds if kind.scenery}
        self.scenery = [(thing, scenery[thing.kind]) for thing in level.objects if thing.kind in scenery]
        self.words, self.said = words, said
        self.tick = 0
        self.is_chosen = False
        self.setFixedSize(WIDTH, HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{words}: {said}")
        self.setToolTip("Click to choose these values; twice to take them")

    def show_tick(self, tick: int) -> None:
        """Show another moment."""
        self.tick = tick
        self.update()

    def choose(self, yes: bool) -> None:
        """Mark it as the chosen one, or not."""
        self.is_chosen = yes
        self.update()

    def frame_now(self) -> Frame | None:
        """Return where everything is at the moment that is shown; the last frame once the run is over."""
        before = [frame for frame in self.outcome.frames if frame.tick <= self.tick]
        return before[-1] if before else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.chosen.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        p, t = QPainter(self), theme()
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.fillRect(self.rect(), t.panel)
            p.setPen(QPen(t.cursor if self.is_chosen else t.hairline, 2 if self.is_chosen else 1))
            p.drawRect(self.rect().adjusted(1, 1, -1, -1))
            p.setPen(t.ink)
            p.setFont(text_font(0, bold=True))
            head = QRectF(8, 4, self.width() - 16, 16)
            p.drawText(
                head, p.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideMiddle, int(head.width()))
            )
            p.setFont(text_font(-1.5))
            p.setPen(t.quiet if not self.outcome.problem else t.fault)
            p.drawText(
                head.translated(0, 15),
                p.fontMetrics().elidedText(self.said, Qt.TextElideMode.ElideRight, int(head.width())),
            )
            self._level(p, QRectF(6, HEAD, self.width() - 12, self.height() - HEAD - 6))
        finally:
            p.end()

    def _level(self, p: QPainter, area: QRectF) -> None:
        settings, frame, t = self.level.settings, self.frame_now(), theme()
        size = min(area.width() / settings.width, area.height() / settings.height)
        left = area.center().x() - settings.width * size / 2
        foot = area.center().y() + settings.height * size / 2

        def point(x: float, y: float) -> QPointF:
            return QPointF(left + x * size, foot - y * size)

        p.setClipRect(area)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.paper)
        p.drawRect(QRectF(point(0, settings.height), point(settings.width, 0)))
        for place in self.level.places:
            draw_place(p, place, point, size)
        for thing, look in self.scenery:
            at = point(thing.x, thing.y)
            draw_object(p, look, at.x(), at.y(), thing.angle, size * thing.scale)
        if frame is None:
            return
        columns = (frame.kind, frame.x, frame.y, frame.angle, frame.scale)
        for kind, x, y, angle, scale in zip(*(c.tolist() for c in columns), strict=True):
            at = point(x, y)
            draw_object(p, self.kinds[kind], at.x(), at.y(), angle, size * abs(scale))
