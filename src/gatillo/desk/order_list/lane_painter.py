"""Painting lanes: marks, the order thread, echoes, waits, input bars, watches, verdicts."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.rows import Row
from gatillo.desk.session.workbench import Workbench
from gatillo.formula.functions import write_out
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.input_script import tick_at

NUMBERED = 20.0
"""From this many pixels a tick on, marks carry their position and the thread is drawn."""

DOTTED = 5.0
"""From this many pixels a tick on, marks are dots; below, strokes."""


@dataclass(slots=True)
class TimeScale:
    """Where ticks stand on the lanes: `left` is the lanes' left edge in pixels, `first` the tick there."""

    left: float = 0.0
    width: float = 100.0
    first: float = 0.0
    pixels: float = 4.0

    def x(self, tick: float) -> float:
        """Left edge of a tick's column."""
        return self.left + (tick - self.first) * self.pixels

    def middle(self, tick: float) -> float:
        """The pixel of the middle of a tick."""
        return self.x(tick) + self.pixels / 2

    def tick(self, x: float) -> int:
        """The tick whose column holds a pixel."""
        return math.floor((x - self.left) / self.pixels + self.first)

    @property
    def last(self) -> int:
        """The last tick in sight."""
        return self.tick(self.left + self.width) + 1

    def mark_x(self, tick: int, position: int, count: int) -> float:
        """Middle of a mark: wide columns spread theirs from left to right by position."""
        room = self.pixels - 22.0
        if count < 2 or room <= 0:
            return self.middle(tick)
        return self.x(tick) + 11.0 + room * (position - 1) / (count - 1)


class LanePainter:
    """Paints the right half of the order list."""

    def __init__(
        self, bench: Workbench, data: LaneData, scale: TimeScale, standing: LaneData | None = None
    ) -> None:
        self.bench = bench
        self.data = data
        self.standing = standing
        """The run from before an edit, to be shown where the new one has not come to."""
        self.scale = scale

    # the frame of time

    def ruler(self, p: QPainter, area: QRectF) -> None:
        """Ticks or seconds along the top."""
        t, scale = theme(), self.scale
        p.setFont(figures(-1.5))
        cursor = self.bench.cursor.tick
        if scale.pixels >= 34:
            for tick in range(max(0, scale.tick(area.left())), scale.last + 1):
                p.setPen(t.cursor if tick == cursor else t.quiet)
                box = QRectF(scale.x(tick), area.top(), scale.pixels, area.height())
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(tick))
            return
        rate = self.bench.program.rate
        step = _nice_step(70.0 / (scale.pixels * rate))
        number = math.floor(max(0.0, scale.first) / rate / step)
        while number * step * rate <= scale.last:
            x = scale.x(number * step * rate)
            if x >= area.left() - 1:
                p.setPen(t.hairline)
                p.drawLine(QPointF(x, area.bottom() - 6), QPointF(x, area.bottom()))
                p.setPen(t.quiet)
                p.drawText(QPointF(x + 4, area.center().y() + 4), f"{number * step:g} s")
            number += 1

    def grid(self, p: QPainter, area: QRectF) -> None:
        """Thin lines between ticks, when ticks are wide enough; the end of the run."""
        t, scale = theme(), self.scale
        if scale.pixels >= 14:
            p.setPen(QPen(with_alpha(t.hairline, 0.45), 1))
            for tick in range(max(0, scale.tick(area.left())), scale.last + 1):
                x = scale.x(tick)
                p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        end = scale.x(self.data.ticks + 1)
        if end < area.right():
            p.fillRect(
                QRectF(end, area.top(), area.right() - end, area.height()), with_alpha(t.hairline, 0.28)
            )
            if self.standing is not None:
                p.setPen(QPen(t.quiet, 1, Qt.PenStyle.DashLine))
                p.drawLine(QPointF(end, area.top()), QPointF(end, area.bottom()))

    def cursor(self, p: QPainter, area: QRectF, top: float) -> None:
        """The cursor through all lanes: the tick's column, and a line after the firing it stands at."""
        t, scale, cursor = theme(), self.scale, self.bench.cursor
        if scale.pixels >= 6:
            column = QRectF(scale.x(cursor.tick), area.top(), scale.pixels, area.height())
            p.fillRect(column, with_alpha(t.cursor, 0.10))
        x = self.cursor_x()
        p.setPen(QPen(t.cursor, 1.6))
        p.drawLine(QPointF(x, top + 20), QPointF(x, area.bottom()))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon(QPolygonF([QPointF(x - 6, top + 20), QPointF(x + 6, top + 20), QPointF(x, top + 27)]))

    def cursor_x(self) -> float:
        """Where the cursor's line stands."""
        cursor, scale = self.bench.cursor, self.scale
        count = self.bench.run.trace.count_at(cursor.tick)
        if scale.pixels < NUMBERED or not count:
            return scale.middle(cursor.tick)
        before = (
            scale.mark_x(cursor.tick, cursor.position, count) if cursor.position else scale.x(cursor.tick) + 2
        )
        if not cursor.step:
            return before
        # within a firing: on the way to its mark
        following = cursor.position + 1
        after = (
            scale.mark_x(cursor.tick, following, count)
            if following <= count
            else scale.x(cursor.tick + 1) - 2
        )
        return (before + after) / 2

    # rows

    def row(self, p: QPainter, row: Row, area: QRectF) -> None:
        """One row's lane, but for the marks that lie over the thread."""
        if row.sort == "input":
            self._input(p, row, area)
        elif row.sort == "section":
            self._merged(p, row, area)
        elif row.sort == "watch":
            self._watch(p, row, area)
        elif row.sort == "expectation":
            self._verdict(p, row, area)
        elif row.sort in ("rule", "graph") and row.turn is not None:
            if self.standing is not None:
                self._stands(p, self.standing.lane(row.turn).tick, area)
            self._spans(p, row, area)
            self._dropped(p, row, area)

    def _stands(self, p: QPainter, ticks: np.ndarray, area: QRectF) -> None:
        """When a rule fired in the run before the edit, pale, where the new one has not come to yet."""
        ticks = self._in_sight(ticks[ticks > self.data.ticks])
        pixels = np.unique(np.round(self.scale.left + (ticks + 0.5 - self.scale.first) * self.scale.pixels))
        p.setPen(QPen(with_alpha(theme().fires, 0.35), 2))
        middle = area.center().y()
        p.drawLines([QLineF(x, middle - 4, x, middle + 4) for x in pixels.tolist()])

    def _input(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale, rate = theme(), self.scale, self.bench.program.rate
        bars = [(tick_at(b.start, rate), tick_at(b.end, rate)) for b in row.bars]
        if self.bench.player.playing:
            key = row.words[1].text
            played = self.bench.run.script.as_input(self.bench.run.done).keys
            mine = [b for b in played if row.keys or b.key == key] if row.folded or not row.keys else []
            bars = [(tick_at(b.start, rate), tick_at(b.end, rate)) for b in mine]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.input)
        for start, end in bars:
            left, right = max(scale.x(start), area.left() - 4), min(scale.x(end), area.right() + 4)
            if right >= left:
                p.drawRoundedRect(QRectF(left, area.center().y() - 5, max(2.0, right - left), 10), 2, 2)

    def _merged(self, p: QPainter, row: Row, area: QRectF) -> None:
        if not row.turns:
            return
        p.setPen(QPen(with_alpha(theme().fires, 0.75), 2))
        for x in np.unique(
            np.round(
                self.scale.left
                + (self._in_sight(self.data.merged(row.turns)) + 0.5 - self.scale.first) * self.scale.pixels
            )
        ):
            p.drawLine(QPointF(x, area.center().y() - 5), QPointF(x, area.center().y() + 5))

    def _in_sight(self, ticks: np.ndarray) -> np.ndarray:
        low, high = np.searchsorted(ticks, [self.scale.tick(self.scale.left) - 1, self.scale.last + 1])
        return ticks[low:high]

    def _spans(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale = theme(), self.scale
        if row.turn is None or row.turn >= len(self.bench.program.turns):
            return
        turn = self.bench.program.turns[row.turn]
        middle = area.center().y()
        if turn.limits.rest:
            marks = self.data.lane(row.turn)
            for tick in marks.tick[
                marks.between(scale.tick(area.left()) - turn.limits.rest, scale.last)
            ].tolist():
                box = QRectF(scale.middle(tick), middle - 4, turn.limits.rest * scale.pixels, 8)
                p.fillRect(box, with_alpha(t.fires, 0.16))
                if box.width() > 90:
                    p.setFont(text_font(-2))
                    p.setPen(t.fires)
                    p.drawText(
                        box.adjusted(22, -4, 0, 4),
                        Qt.AlignmentFlag.AlignVCenter,
                        f"resting {turn.rule.cooldown:g} s",
                    )
        if any(step.entry.derived.waits for step in (*turn.do, *turn.else_)):
            p.setPen(QPen(with_alpha(t.fires, 0.5), 1.4, Qt.PenStyle.DotLine))
            for start, due in self.data.waits(row.turn, scale.tick(area.left()) - 600, scale.last):
                p.drawLine(QPointF(scale.middle(start), middle), QPointF(scale.middle(due), middle))

    def _dropped(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale = theme(), self.scale
        if scale.pixels < DOTTED or row.turn is None:
            return
        p.setPen(QPen(with_alpha(t.quiet, 0.55), 1.1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        radius = min(3.6, scale.pixels / 4)
        for tick in self._in_sight(self.data.dropped(row.turn)).tolist():
            p.drawEllipse(QPointF(scale.middle(tick), area.center().y()), radius, radius)

    def _watch(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, watch = theme(), row.watch
        p.setFont(text_font(-1.5))
        if watch is None or watch.problem or not watch.values:
            if watch is not None and watch.problem:
                p.setPen(t.fault)
                p.drawText(area.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, watch.problem)
            return
        scale = self.scale
        first, last = max(0, scale.tick(area.left()) - 1), min(len(watch.values) - 1, scale.last)
        if watch.type == "number":
            self._step_line(p, watch.values, first, last, area)
            return
        start = first
        for tick in range(first, last + 1):
            if tick < last and watch.values[tick + 1] == watch.values[start]:
                continue
            value = watch.values[start]
            box = QRectF(scale.x(start), area.center().y() - 5, (tick + 1 - start) * scale.pixels, 10)
            if value is True:
                p.fillRect(box, with_alpha(t.ink, 0.55))
            elif isinstance(value, str):
                p.setPen(t.hairline)
                p.drawLine(box.topLeft(), box.bottomLeft())
                p.setPen(t.ink)
                p.drawText(box.adjusted(4, -5, 0, 5), Qt.AlignmentFlag.AlignVCenter, value)
            start = tick + 1

    def _step_line(self, p: QPainter, values: list[Any], first: int, last: int, area: QRectF) -> None:
        t, scale = theme(), self.scale
        numbers = [v if isinstance(v, float) else None for v in values]
        known = [v for v in numbers if v is not None]
        if not known:
            return
        low, high = min(known), max(known)
        span = (high - low) or 1.0
        top, height = area.top() + 6, area.height() - 12

        def y(value: float) -> float:
            return top + height * (1 - (value - low) / span)

        path = QPainterPath()
        pen_down = False
        changes: list[tuple[int, float]] = []
        previous: float | None = None
        for tick in range(first, last + 1):
            value = numbers[tick]
            if value is None:
                pen_down, previous = False, None
                continue
            x = scale.middle(tick)
            if not pen_down:
                path.moveTo(x, y(value))
                pen_down = True
                changes.append((tick, value))
            elif value != previous:
                path.lineTo(x, path.currentPosition().y())
                path.lineTo(x, y(value))
                changes.append((tick, value))
            previous = value
        if pen_down:
            path.lineTo(scale.middle(last), path.currentPosition().y())
        p.setPen(QPen(t.ink, 1.3))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        p.setFont(figures(-2))
        p.setPen(t.quiet)
        # a value is written where it stays long enough to be read
        until = [*(tick for tick, _ in changes[1:]), last + 1]
        for (tick, value), end in zip(changes, until, strict=False):
            words = str(write_out(round(float(value), 2)))
            if (end - tick) * scale.pixels >= 7.0 * len(words) + 12:
                above = y(value) > area.center().y()
                p.drawText(QPointF(scale.middle(tick) + 4, y(value) + (-3 if above else 10)), words)

    def _verdict(self, p: QPainter, row: Row, area: QRectF) -> None:
        t, scale, verdict = theme(), self.scale, row.verdict
        if verdict is None:
            return
        colour = {"held": t.held, "failed": t.fault}.get(verdict.outcome, t.finding)
        end = scale.x(self.data.ticks + 1)
        box = QRectF(scale.x(0), area.center().y() - 3, end - scale.x(0), 6).intersected(
            area.adjusted(0, 0, 0, 0)
        )
        if verdict.outcome == "held":
            p.fillRect(box, with_alpha(colour, 0.30))
            return
        p.setPen(QPen(with_alpha(colour, 0.6), 1.2, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(box.left(), area.center().y()), QPointF(box.right(), area.center().y()))
        if verdict.tick is not None:
            x, y = scale.middle(verdict.tick), area.center().y()
            p.setPen(QPen(colour, 2))
            p.drawLine(QPointF(x - 4, y - 4), QPointF(x + 4, y + 4))
            p.drawLine(QPointF(x - 4, y + 4), QPointF(x + 4, y - 4))

    # over the rows

    def threads(self, p: QPainter, row_y: dict[int, float]) -> None:
        """The order thread of each tick in sight, and echoes from senders to those who heard."""
        scale, t = self.scale, theme()
        if scale.pixels < NUMBERED:
            return
        trace = self.data.run.trace
        p.setBrush(Qt.BrushStyle.NoBrush)
        for tick in range(max(1, scale.tick(scale.left)), min(scale.last, self.data.ticks) + 1):
            firings = self.data.thread(tick)
            if len(firings) < 2:
                continue
            here = tick == self.bench.cursor.tick
            p.setPen(QPen(with_alpha(t.fires, 0.95 if here else 0.55), 2.2 if here else 1.6))
            points = [
                QPointF(scale.mark_x(tick, position, len(firings)), row_y[turn])
                for turn, position in firings
                if turn in row_y
            ]
            if len(points) > 1:
                p.drawPath(_thread(points))
        for sent, turn, position, heard, listener, heard_position in self.data.echoes(
            scale.tick(scale.left) - 1, scale.last
        ):
            if turn not in row_y or listener not in row_y:
                continue
            start = QPointF(scale.mark_x(sent, position, trace.count_at(sent)), row_y[turn])
            end = QPointF(scale.mark_x(heard, heard_position, trace.count_at(heard)), row_y[listener])
            self._echo(p, start, end)

    def arrows(self, p: QPainter, row_y: dict[int, float]) -> None:
        """From causes to what they brought about, for the answer that is shown."""
        scale, run = self.scale, self.bench.run
        turns = {turn.rule.id: turn.position for turn in run.program.turns}
        for (one, tick, position), (other, then, after) in self.bench.answers.arrows():
            start_y, end_y = row_y.get(turns.get(one, -1)), row_y.get(turns.get(other, -1))
            if start_y is None or end_y is None:
                continue
            a = QPointF(scale.mark_x(tick, position, run.trace.count_at(tick)), start_y)
            b = QPointF(scale.mark_x(then, after, run.trace.count_at(then)), end_y)
            if abs(b.x() - a.x()) + abs(b.y() - a.y()) < 24:
                # no room for an arrow between two marks
                continue
            if b.x() < scale.left - 40 or a.x() > scale.left + scale.width + 40:
                continue
            self._cause(p, a, b)

    def _cause(self, p: QPainter, a: QPointF, b: QPointF) -> None:
        """An arrow from a cause into its effect, with a bright edge so that it stands clear of threads and marks."""
        t = theme()
        path = QPainterPath(a)
        bend = max(14.0, (b.x() - a.x()) * 0.5)
        side = -1.0 if b.y() > a.y() else 1.0
        if abs(b.y() - a.y()) < 1:
            path.cubicTo(a + QPointF(bend / 2, -16), b - QPointF(bend / 2, 16), b)
        else:
            path.cubicTo(a + QPointF(bend, 0), b - QPointF(bend, -side * 2), b)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(t.paper, 5.5))
        p.drawPath(path)
        p.setPen(QPen(t.ink, 2.0))
        p.drawPath(path)
        angle = math.radians(path.angleAtPercent(0.97))
        end = path.pointAtPercent(1.0)
        along, across = QPointF(math.cos(angle), -math.sin(angle)), QPointF(math.sin(angle), math.cos(angle))
        tip = end - along * 14
        p.setPen(QPen(t.paper, 1.0))
        p.setBrush(t.ink)
        p.drawPolygon(
            QPolygonF([tip + along * 6, tip - along * 4 + across * 5, tip - along * 4 - across * 5])
        )

    def _echo(self, p: QPainter, start: QPointF, end: QPointF) -> None:
        t = theme()
        down = 1.0 if end.y() >= start.y() else -1.0
        # leaves the sender to the right, comes to the listener from the left
        a, b = QPointF(start.x() + 10, start.y()), QPointF(end.x() - 12, end.y())
        bend = max(8.0, (b.x() - a.x()) * 0.55)
        path = QPainterPath(a)
        path.cubicTo(QPointF(a.x() + bend, a.y() + 2 * down), QPointF(b.x() - bend, b.y()), b)
        p.setPen(QPen(with_alpha(t.cursor, 0.9), 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.cursor)
        p.drawPolygon(
            QPolygonF(
                [
                    QPointF(b.x() + 3, b.y()),
                    QPointF(b.x() - 3.5, b.y() - 3.6),
                    QPointF(b.x() - 3.5, b.y() + 3.6),
                ]
            )
        )

    def marks(self, p: QPainter, row: Row, area: QRectF) -> None:
        """The firings of a rule."""
        if row.turn is None or row.sort not in ("rule", "graph"):
            return
        scale, t = self.scale, theme()
        marks = self.data.lane(row.turn)
        sight = marks.between(scale.tick(area.left()) - 1, scale.last)
        y = area.center().y()
        if scale.pixels < DOTTED:
            self._strokes(p, marks.tick[sight], marks.matches[sight], y)
            faulty = marks.tick[sight][marks.fault[sight]].tolist()
        else:
            for at in range(*sight.indices(len(marks.tick))):
                self._mark(
                    p,
                    int(marks.tick[at]),
                    int(marks.position[at]),
                    int(marks.matches[at]),
                    Way(marks.way[at]),
                    y,
                    (int(marks.tick[at + 1]) - int(marks.tick[at])) * scale.pixels
                    if at + 1 < len(marks.tick)
                    else scale.pixels * 4,
                )
            faulty = []
            for at in np.flatnonzero(marks.fault[sight]).tolist():
                tick, position = int(marks.tick[sight][at]), int(marks.position[sight][at])
                x = (
                    scale.mark_x(tick, position, self.data.run.trace.count_at(tick))
                    if scale.pixels >= NUMBERED
                    else scale.middle(tick)
                )
                _fault_mark(p, QPointF(x + 7, y - 8))
        alone = self.data.faults_without_firing(row.turn)
        faulty += alone[(alone >= scale.tick(area.left()) - 1) & (alone <= scale.last)].tolist()
        columns: set[int] = set()
        for tick in faulty:
            x = scale.middle(tick)
            # one mark a few pixels, however many ticks lie there
            if int(x) // 4 not in columns:
                columns.add(int(x) // 4)
                _fault_mark(p, QPointF(x, y - 9))
        # while a run is made anew, what was found of the one before says nothing of it
        if self.bench.shown.compared and row.rule is not None and self.standing is None:
            self._compared(p, row.rule.id, y, t.fires)

    def card_marks(self, p: QPainter, row: Row, area: QRectF) -> None:
        """When a card of a graph ran: a bar upon the lane's line, as wide as its tick, with how many came to it."""
        if row.sort != "card" or row.turn is None:
            return
        scale, t = self.scale, theme()
        marks = self.data.card(row.turn, row.card)
        sight = marks.between(scale.tick(area.left()) - 1, scale.last)
        y = area.center().y()
        ticks, first = np.unique(marks.tick[sight], return_index=True)
        matches = np.add.reduceat(marks.matches[sight], first) if len(first) else first
        if scale.pixels < DOTTED:
            self._strokes(p, ticks, np.ones(len(ticks), dtype=int), y)
            return
        here = self.bench.cursor.tick
        p.setFont(figures(-2))
        for tick, many in zip(ticks.tolist(), matches.tolist(), strict=True):
            box = QRectF(scale.x(tick) + 1.5, y - 3, scale.pixels - 3, 6)
            p.fillRect(box, with_alpha(t.fires, 0.85 if tick == here else 0.45))
            if scale.pixels >= NUMBERED and many > 1:
                p.setPen(t.ink)
                p.drawText(
                    QRectF(scale.x(tick), y - 15, scale.pixels, 12), Qt.AlignmentFlag.AlignCenter, f"×{many}"
                )

    def _strokes(self, p: QPainter, ticks: np.ndarray, matches: np.ndarray, y: float) -> None:
        """Marks narrower than dots: a stroke each; firing tick after tick makes a bar."""
        if not len(ticks):
            return
        scale, fires = self.scale, theme().fires
        breaks = np.flatnonzero(np.diff(ticks) > 1) + 1
        starts, ends = np.concatenate(([0], breaks)), np.concatenate((breaks, [len(ticks)]))
        first, last = ticks[starts], ticks[ends - 1]
        long = (last - first) * scale.pixels >= 7
        for a, b in zip(first[long].tolist(), last[long].tolist(), strict=True):
            p.fillRect(QRectF(scale.x(a), y - 5, (b - a + 1) * scale.pixels, 10), with_alpha(fires, 0.6))
        # one stroke a pixel, as tall as its most matches
        single = np.repeat(~long, ends - starts)
        x = np.round(scale.left + (ticks[single] + 0.5 - scale.first) * scale.pixels).astype(int)
        columns, at = np.unique(x, return_inverse=True)
        most = np.zeros(len(columns), dtype=int)
        np.maximum.at(most, at, matches[single])
        halves = np.where(most < 2, 5, np.minimum(10, 6 + most // 2))
        middle = int(y)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(fires)
        # all at once and without smoothing, which upright bars do not need: a lane of them in a tenth of the time
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.drawRects(
            [
                QRect(column - 1, middle - half, 2, 2 * half)
                for column, half in zip(columns.tolist(), halves.tolist(), strict=True)
            ]
        )
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _mark(
        self, p: QPainter, tick: int, position: int, matches: int, way: Way, y: float, room: float
    ) -> None:
        """One firing; `room` are the pixels to the next one's mark, so that a count is never written over another."""
        scale, t = self.scale, theme()
        numbered = scale.pixels >= NUMBERED
        count = self.data.run.trace.count_at(tick)
        x = scale.mark_x(tick, position, count) if numbered else scale.middle(tick)
        radius = 9.5 if numbered else min(4.5, scale.pixels / 2)
        resumed = way is Way.RESUMED
        p.setPen(QPen(t.fires, 1.7))
        p.setBrush(t.paper if resumed else t.fires)
        shape = QRectF(x - radius, y - radius, 2 * radius, 2 * radius)
        if way is Way.ELSE:
            p.drawRoundedRect(shape.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        else:
            p.drawEllipse(shape)
        cursor = self.bench.cursor
        if cursor.step == 0 and (tick, position) == (cursor.tick, cursor.position):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(t.cursor, 2))
            p.drawEllipse(shape.adjusted(-3, -3, 3, 3))
        if numbered:
            p.setFont(text_font(-1, bold=True))
            p.setPen(t.fires if resumed else t.on_fires)
            p.drawText(shape, Qt.AlignmentFlag.AlignCenter, str(position))
            if matches > 1:
                p.setFont(figures(-2.5, bold=True))
                p.setPen(t.fires)
                p.drawText(QPointF(x + radius + 1, y - radius + 5), f"×{matches}")
        elif matches > 1 and scale.pixels >= 12:
            p.setFont(figures(-3))
            if p.fontMetrics().horizontalAdvance(f"×{matches}") < room:
                p.setPen(t.fires)
                p.drawText(QPointF(x + radius, y - radius + 2), f"×{matches}")

    def _compared(self, p: QPainter, rule: int, y: float, colour: QColor) -> None:
        """Marks only in the run before the edit: empty diamonds. Only in this one: a bar under the mark."""
        scale = self.scale
        low, high = scale.tick(scale.left) - 1, scale.last
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour, 1.3, Qt.PenStyle.DashLine))
        size = 7.0 if scale.pixels >= DOTTED else 4.0
        for tick in self.bench.shown.comparison.gone.get(rule, ()):
            if low <= tick <= high:
                x = scale.middle(tick)
                p.drawPolygon(
                    QPolygonF(
                        [
                            QPointF(x, y - size),
                            QPointF(x + size, y),
                            QPointF(x, y + size),
                            QPointF(x - size, y),
                        ]
                    )
                )
        p.setPen(QPen(with_alpha(colour, 0.8), 1.1, Qt.PenStyle.DotLine))
        for before, now in self.bench.shown.comparison.moved.get(rule, ()):
            # one that has moved: from where it was to where it is
            if (
                low <= max(before, now)
                and min(before, now) <= high
                and abs(now - before) * scale.pixels > 3 * size
            ):
                way = 1 if now > before else -1
                p.drawLine(
                    QPointF(scale.middle(before) + way * size, y + 10),
                    QPointF(scale.middle(now) - way * 4, y + 12),
                )
        p.setPen(QPen(theme().cursor, 2.4))
        for tick in self.bench.shown.comparison.new.get(rule, ()):
            if low <= tick <= high:
                x = scale.middle(tick)
                p.drawLine(QPointF(x - 4, y + 12), QPointF(x + 4, y + 12))


def _thread(points: list[QPointF]) -> QPainterPath:
    """A line through points that leaves and enters each vertically."""
    path = QPainterPath(points[0])
    for a, b in pairwise(points):
        bend = (b.y() - a.y()) * 0.5
        if abs(bend) < 1:
            path.lineTo(b)
            continue
        path.cubicTo(QPointF(a.x(), a.y() + bend), QPointF(b.x(), b.y() - bend), b)
    return path


def _fault_mark(p: QPainter, at: QPointF) -> None:
    t = theme()
    p.setPen(QPen(t.paper, 1))
    p.setBrush(t.fault)
    p.drawPolygon(
        QPolygonF(
            [QPointF(at.x(), at.y() - 5), QPointF(at.x() + 5, at.y() + 4), QPointF(at.x() - 5, at.y() + 4)]
        )
    )


def _nice_step(least: float) -> float:
    """The next of 0.05, 0.1, 0.2, 0.5, 1, 2, 5 … seconds at or above `least`."""
    power: float = 10 ** math.floor(math.log10(max(least, 1e-3)))
    return next(power * m for m in (1, 2, 5, 10) if power * m >= least)
