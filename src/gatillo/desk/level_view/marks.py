"""What is marked over the objects: those of the firing at the cursor, those selected, what is said, the pointer."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from gatillo.desk.level_view.canvas import MOST_MARKED, Canvas
from gatillo.desk.level_view.scenery_painter import reach_of, scenery_of
from gatillo.desk.looks.theme import text_font, theme, with_alpha
from gatillo.level.model import Circle, Shape
from gatillo.sim.world.world import World

MOST_SAYING = 60
"""Who is shown saying something at once, at most: bubbles make room for one another, each for each."""
RING = 5.0
"""Pixels between an object's shape and the ring about it."""


def paint_pointed(p: QPainter, canvas: Canvas, world: World) -> None:
    """Rings about the objects of the answer that is shown, and a thread from one to the next."""
    ids = canvas.bench.answers.pointed()
    points: list[tuple[QPointF, float]] = []
    for object_id in ids[:MOST_MARKED]:
        row = world.row_of_id(object_id)
        if row >= 0:
            at = canvas.to_pixels(world.x.item(row), world.y.item(row))
            points.append((at, float(np.maximum(*world.reach())[row]) * canvas.zoom + 9))
    t = theme()
    p.setBrush(Qt.BrushStyle.NoBrush)
    for (a, reach), (b, other) in pairwise(points):
        line = QLineF(a, b)
        if line.length() > reach + other:
            p.setPen(QPen(t.ink, 1.4, Qt.PenStyle.DashLine))
            p.drawLine(line.pointAt(reach / line.length()), line.pointAt(1 - other / line.length()))
    for at, reach in points:
        p.setPen(QPen(t.paper, 5))
        p.drawEllipse(at, reach, reach)
        p.setPen(QPen(t.ink, 2))
        p.drawEllipse(at, reach, reach)


def paint_ghosts(p: QPainter, canvas: Canvas, world: World) -> None:
    """Where the objects of the other run stand at this tick, with a thread to where they stand here."""
    other = canvas.bench.beside.ghosts()
    if other is None:
        return
    t, shown = theme(), 0
    reach = np.maximum(*other.reach())
    for row in np.flatnonzero(other.alive).tolist():
        mine = world.row_of_id(other.id.item(row))
        there = canvas.to_pixels(other.x.item(row), other.y.item(row))
        if mine >= 0:
            here = canvas.to_pixels(world.x.item(mine), world.y.item(mine))
            if (here - there).manhattanLength() < 1.5:
                continue
            p.setPen(QPen(with_alpha(t.ink, 0.55), 1.0, Qt.PenStyle.DotLine))
            p.drawLine(there, here)
        shown += 1
        if shown > MOST_MARKED:
            canvas.unmarked = max(canvas.unmarked, len(other.id) - MOST_MARKED)
            return
        size = max(3.0, float(reach[row]) * canvas.zoom)
        p.setPen(QPen(with_alpha(t.ink, 0.7), 1.3, Qt.PenStyle.DashLine))
        p.setBrush(with_alpha(t.paper, 0.35))
        p.drawEllipse(there, size, size)


def paint_matched(p: QPainter, view: Canvas) -> None:
    """Rings about the objects of the firing at the cursor."""
    bench = view.bench
    resting = not (bench.player.running or bench.player.playing or bench.live)
    # within a firing, of that one
    position = bench.cursor.position + (bench.cursor.step > 0)
    if not resting or not 1 <= position <= bench.run.trace.count_at(bench.cursor.tick):
        return
    witnessed = bench.moment.witnessed()
    if len(witnessed) < position:
        return
    seen = witnessed[position - 1]
    world = seen.world
    assert world is not None
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme().fires, 1.8))
    for ids in seen.ids.values():
        rows = np.searchsorted(world.id, np.array(ids))
        for row in view.marked(world, rows[rows < len(world.id)]).tolist():
            shape = world.program.kinds[world.kind.item(row)].shape
            p.save()
            p.translate(view.to_pixels(world.x.item(row), world.y.item(row)))
            p.rotate(-world.angle.item(row))
            _ring(p, shape, abs(world.scale.item(row)) * view.zoom)
            p.restore()


def _ring(p: QPainter, shape: Shape, size: float) -> None:
    if isinstance(shape, Circle):
        p.drawEllipse(QPointF(0, 0), shape.radius * size + RING, shape.radius * size + RING)
    else:
        width, height = shape.width * size + 2 * RING, shape.height * size + 2 * RING
        p.drawRoundedRect(QRectF(-width / 2, -height / 2, width, height), RING + 1, RING + 1)


def paint_selection(p: QPainter, view: Canvas, world: World, offset: tuple[float, float]) -> None:
    """Corners about the selected objects."""
    if not view.bench.selection.objects:
        return
    wide, high = world.reach()
    pieces = [piece for piece in scenery_of(view.bench.level) if piece[0].id in view.bench.selection.objects]
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(theme().cursor, 1.4))
    rows = world.rows_of_ids(np.array(sorted(view.bench.selection.objects)))
    for row in view.marked(world, rows[rows >= 0]).tolist():
        at = view.to_pixels(world.x.item(row) + offset[0], world.y.item(row) + offset[1])
        half_x, half_y = wide.item(row) * view.zoom + 5, high.item(row) * view.zoom + 5
        _corners(p, QRectF(at.x() - half_x, at.y() - half_y, 2 * half_x, 2 * half_y))
    for piece in pieces[:MOST_MARKED]:
        at = view.to_pixels(piece[0].x + offset[0], piece[0].y + offset[1])
        half_x, half_y = (half * view.zoom + 5 for half in reach_of(piece))
        _corners(p, QRectF(at.x() - half_x, at.y() - half_y, 2 * half_x, 2 * half_y))


def _corners(p: QPainter, box: QRectF) -> None:
    arm = min(9.0, box.width() / 3, box.height() / 3)
    for x, dx in ((box.left(), arm), (box.right(), -arm)):
        for y, dy in ((box.top(), arm), (box.bottom(), -arm)):
            p.drawLine(QPointF(x, y), QPointF(x + dx, y))
            p.drawLine(QPointF(x, y), QPointF(x, y + dy))


def paint_pointer(p: QPainter, view: Canvas, world: World) -> None:
    """Where the trial's pointer is, when it has one."""
    if not view.bench.tried.input.pointer and not view.bench.player.playing:
        return
    t = theme()
    at = view.to_pixels(world.input.pointer_x, world.input.pointer_y)
    down = any(key.startswith("pointer ") for key in world.input.held)
    p.setPen(QPen(t.fires if down else t.cursor, 1.6))
    p.setBrush(with_alpha(t.fires, 0.25) if down else Qt.BrushStyle.NoBrush)
    p.drawEllipse(at, 6, 6)
    for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
        p.drawLine(QPointF(at.x() + 8 * dx, at.y() + 8 * dy), QPointF(at.x() + 12 * dx, at.y() + 12 * dy))


# what is said


@dataclass(slots=True)
class Bubble:
    """Something said: its text, above whom (pixels), and the box it stands in."""

    text: str
    speakers: list[QPointF]
    box: QRectF

    @property
    def words(self) -> str:
        """What is in it: the text, and how many say it."""
        return self.text if len(self.speakers) == 1 else f"{self.text}  ×{len(self.speakers)}"


def bubbles(
    said: list[tuple[str, QPointF]], metrics: QFontMetricsF, right: float, names: Iterable[QRectF] = ()
) -> list[Bubble]:
    """Return where what is said is: above its speaker, kept in the view, and never one upon the other, nor upon a name.

    Those who say the same close together share one.
    """
    placed: list[Bubble] = []
    taken = list(names)
    # from the bottom up: what must make room goes upward
    for text, at in sorted(said, key=lambda s: (-s[1].y(), s[1].x(), s[0])):
        box = _box(metrics, text, at, right)
        same = next(
            (b for b in placed if b.text == text and b.box.adjusted(-4, -12, 4, 12).intersects(box)), None
        )
        if same is not None:
            same.speakers.append(at)
            middle = sum(s.x() for s in same.speakers) / len(same.speakers)
            top = min(s.y() for s in same.speakers)
            same.box = _clear(_box(metrics, same.words, QPointF(middle, top), right), placed, same, taken)
        else:
            fresh = Bubble(text, [at], box)
            fresh.box = _clear(box, placed, fresh, taken)
            placed.append(fresh)
    return placed


def _box(metrics: QFontMetricsF, words: str, at: QPointF, right: float) -> QRectF:
    width, height = metrics.horizontalAdvance(words) + 18, metrics.height() + 8
    x = max(min(at.x(), right - width / 2 - 4), width / 2 + 4)
    return QRectF(x - width / 2, max(2.0, at.y() - height - 7), width, height)


def _clear(box: QRectF, placed: list[Bubble], own: Bubble, taken: list[QRectF]) -> QRectF:
    """Return the box, as far up as it must go not to lie upon another or on a name."""
    for _ in range(len(placed) + len(taken)):
        others = (*(b.box for b in placed if b is not own), *taken)
        under = next((other for other in others if other.intersects(box)), None)
        if under is None:
            break
        box.moveBottom(under.top() - 2)
    return box


def paint_sayings(p: QPainter, view: Canvas, world: World, taken: Iterable[QRectF] = ()) -> list[QRectF]:
    """What objects say, above them and off what is `taken`; gives the boxes in which it stands."""
    if not world.display.sayings:
        return []
    _, high = world.reach()
    now, sayings = world.time, world.display.sayings
    ids = np.fromiter(sayings, np.int64, len(sayings))
    ids.sort()
    rows = world.rows_of_ids(ids)
    seen = view.in_sight(world, rows[rows >= 0], 60.0)
    view.unmarked = max(view.unmarked, len(seen) - MOST_SAYING)
    said: list[tuple[str, QPointF]] = []
    for row in seen[:MOST_SAYING].tolist():
        text, until = sayings[world.id.item(row)]
        if until > now:
            said.append((text, view.to_pixels(world.x.item(row), world.y.item(row) + high.item(row))))
    if not said:
        return []
    t, font = theme(), text_font(0)
    placed = bubbles(said, QFontMetricsF(font), view.width(), [*view.labels.values(), *taken])
    for bubble in placed:
        box = bubble.box
        p.setPen(QPen(t.ink, 1.2))
        for at in bubble.speakers:
            foot = QPointF(min(max(at.x(), box.left() + 9), box.right() - 9), box.bottom())
            if at.y() - foot.y() > 9 or abs(at.x() - foot.x()) > 2:
                p.drawLine(foot, QPointF(at.x(), at.y() - 2))
            else:
                p.setBrush(t.ink)
                p.drawPolygon([foot + QPointF(-5, 0), foot + QPointF(5, 0), foot + QPointF(0, 6)])
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.ink)
        p.drawRoundedRect(box, 5, 5)
        p.setFont(font)
        p.setPen(t.paper)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, bubble.words)
    return [bubble.box for bubble in placed]
