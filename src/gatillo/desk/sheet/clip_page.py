"""The sheet of a clip: its path, which can be played, its length and size, and what can be done to it."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise

from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from gatillo.desk.looks.theme import text_font, theme
from gatillo.desk.session.rename_things import delete_thing, take_name, told_uses
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.level import clip_edits
from gatillo.level.model import Clip, ClipPoint

HIGH = 150
MARGIN = 16.0
FRAME = 33
"""Milliseconds from picture to picture while it plays."""
GAPS = (0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0)
"""Seconds from mark to mark on the path: the first by which there are few."""
FEW_MARKS = 12
FEW_POINTS = 12
"""Clips with no more points have a row for each."""


class PathPicture(QWidget):
    """The path of a clip, with marks at equal times; what plays it is an arrowhead that turns as the clip does."""

    def __init__(self, clip: Clip) -> None:
        super().__init__()
        self.clip = clip
        self.at: float | None = None
        """Seconds into the clip at which it plays; None where it does not."""
        self.setObjectName("clip-path")
        self.setAccessibleName(f"The path of {clip.name}")
        self.setMinimumHeight(HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        begins = next((p for p in clip.points if (p.x, p.y) != (0.0, 0.0)), None)
        self._first_way = math.degrees(math.atan2(begins.y, begins.x)) if begins is not None else 0.0
        """The arrowhead looks along the path where it begins, in degrees."""
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME)
        self._timer.timeout.connect(self._go_on)

    def sizeHint(self) -> QSize:
        return QSize(200, HIGH)

    def play(self) -> None:
        """Play the clip once, from its beginning; or stop it."""
        if self._timer.isActive():
            self._timer.stop()
            self.at = None
        else:
            self._clock.start()
            self.at = 0.0
            self._timer.start()
        self.update()

    def _go_on(self) -> None:
        self.at = self._clock.elapsed() / 1000.0
        if self.at >= self.clip.length:
            self._timer.stop()
            self.at = None
        self.update()

    def pixel(self, point: ClipPoint) -> QPointF:
        """Return where an offset lies in the picture; the whole path is in sight."""
        xs, ys = [p.x for p in self.clip.points], [p.y for p in self.clip.points]
        wide, high = max(xs) - min(xs), max(ys) - min(ys)
        scale = min(
            (self.width() - 2 * MARGIN) / max(wide, 1.0), (self.height() - 2 * MARGIN) / max(high, 1.0)
        )
        x = self.width() / 2 + (point.x - (max(xs) + min(xs)) / 2) * scale
        y = self.height() / 2 - (point.y - (max(ys) + min(ys)) / 2) * scale
        return QPointF(x, y)

    def paintEvent(self, event: QPaintEvent) -> None:
        t, p = theme(), QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.paper)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        if not self.clip.points:
            return
        p.setPen(QPen(t.cursor, 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(QPolygonF([self.pixel(point) for point in self.clip.points]))
        length = self.clip.length
        gap = next((gap for gap in GAPS if length / gap <= FEW_MARKS), length / FEW_MARKS)
        for number in range(1, math.floor(length / gap + 1e-9) + 1):
            self._arrowhead(p, clip_edits.pose_at(self.clip, number * gap), small=True)
        p.setBrush(t.panel)
        p.setPen(QPen(t.cursor, 1.4))
        p.drawEllipse(self.pixel(self.clip.points[0]), 5, 5)
        p.setFont(text_font(-2))
        p.setPen(t.quiet)
        p.drawText(self.rect().adjusted(8, 4, -8, -4), Qt.AlignmentFlag.AlignLeft, "It begins at the ring")
        if self.at is not None:
            self._arrowhead(p, clip_edits.pose_at(self.clip, self.at), small=False)
        p.end()

    def _arrowhead(self, p: QPainter, point: ClipPoint, *, small: bool) -> None:
        t, size = theme(), 5.0 if small else 9.0
        p.save()
        p.translate(self.pixel(point))
        p.rotate(-point.turn - self._first_way)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor if small else t.fires)
        p.drawPolygon([QPointF(size, 0), QPointF(-size * 0.7, -size * 0.7), QPointF(-size * 0.7, size * 0.7)])
        p.restore()


def clip_page(bench: Workbench, column: QVBoxLayout, clip: Clip) -> None:
    """Fields and buttons of a clip."""
    form = Form(bench, column, "clip")

    def put(changed: Clip, label: str) -> None:
        level = clip_edits.set_clip(bench.level, clip.name, changed)
        bench.edit(level, f"{label} {clip.name}", join=f"clip {clip.name} {label}")

    taken = [c.name for c in bench.level.clips if c is not clip]
    form.text("name", "name", clip.name, lambda text: take_name(bench, "clip", clip.name, text, taken))
    picture = PathPicture(clip)
    form.full(picture)
    turns = any(p.turn for p in clip.points)
    form.words(
        f"{len(clip.points)} points in {clip.length:g} s. "
        + ("It turns: see the arrowheads." if turns else "It does not turn.")
    )
    form.buttons(form.button("Play", "play", picture.play, tip="Play it here, once"))
    form.number(
        "lasts",
        "length",
        clip.length,
        lambda v: put(clip_edits.lasting(clip, v), "change the length of"),
        least=clip_edits.SHORTEST,
        step=0.5,
        suffix=" s",
    )
    form.number(
        "path × size",
        "size",
        1.0,
        lambda v: put(clip_edits.sized(clip, v), "change the size of"),
        least=0.01,
        most=100.0,
        step=0.1,
    )
    _buttons(form, clip, put, turns=turns)
    _cut(form, clip, put)
    if len(clip.points) <= FEW_POINTS:
        _points(form, clip, put)
    used = told_uses(bench.level, "clip", clip.name)
    form.heading("")
    form.words(
        f"This clip is used by {used}."
        if used
        else f"No rule plays it yet. Type “play {clip.name} on …” as a line."
    )
    form.buttons(
        form.button(
            f"Delete {clip.name}",
            "delete",
            lambda: delete_thing(bench, "clip", clip.name, clip_edits.delete_clip(bench.level, clip.name)),
        )
    )


Put = Callable[[Clip, str], None]


def _buttons(form: Form, clip: Clip, put: Put, *, turns: bool) -> None:
    deeds: list[tuple[str, str, Callable[[], Clip], str]] = [
        ("Smooth", "smooth", lambda: clip_edits.smoothed(clip), "Bend the path less; press again for more"),
        (
            "Reverse",
            "reverse",
            lambda: clip_edits.backwards(clip),
            "The same path from its end to its beginning",
        ),
        ("Mirror ↔", "mirror", lambda: clip_edits.mirrored(clip), "Exchange left and right"),
        (
            "Mirror ↕",
            "mirror-down",
            lambda: clip_edits.mirrored(clip, upside_down=True),
            "Exchange up and down",
        ),
        ("Face the way", "face", lambda: clip_edits.along_its_path(clip), "Turn as the path turns"),
    ]
    if turns:
        deeds.append(("No turning", "no-turns", lambda: clip_edits.without_turns(clip), "Keep the path only"))
    form.buttons(
        *(
            form.button(words, name, lambda m=make, n=name: put(m(), f"{n.replace('-', ' ')}"), tip=tip)
            for words, name, make, tip in deeds
        )
    )


def _cut(form: Form, clip: Clip, put: Put) -> None:
    """Two times, and a button that leaves only what is between them."""
    row = form.row()
    begins = form.spin(
        "from", "first second kept", 0.0, lambda v: None, least=0.0, most=clip.length, suffix=" s"
    )
    ends = form.spin(
        "to", "last second kept", clip.length, lambda v: None, least=0.0, most=clip.length, suffix=" s"
    )

    def take() -> None:
        try:
            put(clip_edits.cut(clip, begins.value(), ends.value()), "cut")
        except ValueError as error:
            form.bench.notify(f"{str(error)[:1].upper()}{str(error)[1:]}.")

    for field in (form.label("from"), begins, form.label("to"), ends):
        row.addWidget(field)
    row.addWidget(form.button("Cut", "cut", take, tip="Keep only what lies between these times"))
    form.labelled("part", form.box(row))


def _points(form: Form, clip: Clip, put: Put) -> None:
    """A row for each point: time, offset, turn."""
    form.heading("Points: s, x, y, turn °")

    def change(at: int, field: str, value: float) -> str | None:
        points = list(clip.points)
        points[at] = ClipPoint(
            **{**{f: getattr(points[at], f) for f in ("at", "x", "y", "turn")}, field: float(value)}
        )
        times = [p.at for p in points]
        if any(b <= a for a, b in pairwise(times)):
            return "each point must be later than the one before"
        put(Clip(name=clip.name, points=tuple(points)), "change a point of")
        return None

    for at, point in enumerate(clip.points):
        row = form.row()
        for field in ("at", "x", "y", "turn"):
            row.addWidget(
                form.spin(
                    f"point-{at}-{field}",
                    f"{field} of point {at + 1}",
                    getattr(point, field),
                    lambda v, i=at, f=field: change(i, f, v),
                    least=0.0 if field == "at" else -1e6,
                    most=1e6,
                )
            )
        if len(clip.points) > 1:
            points = tuple(p for i, p in enumerate(clip.points) if i != at)
            row.addWidget(
                form.remover(
                    f"point-{at}-remove",
                    f"point {at + 1}",
                    lambda p=points: put(Clip(name=clip.name, points=p), "remove a point of"),
                )
            )
        form.rows.addRow(str(at + 1), form.box(row))
    last = clip.points[-1] if clip.points else ClipPoint(at=0.0, x=0.0, y=0.0)
    added = ClipPoint(at=round(last.at + 0.5, 3), x=last.x + 20.0, y=last.y, turn=last.turn)
    form.buttons(
        form.button(
            "+ point",
            "add-point",
            lambda: put(Clip(name=clip.name, points=(*clip.points, added)), "add a point to"),
        )
    )
