"""The curves of watched formulas."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.rows import Row
from gatillo.formula.values import write_out

NARROWEST_FIGURE = 19.0
"""Pixels that a value of one figure needs."""


class CurvePainter:
    """Paints the values of a watched formula."""

    def __init__(self, lanes: Lanes) -> None:
        self.lanes = lanes

    def watch(self, p: QPainter, row: Row, area: QRectF) -> None:
        """Paint the values of a watched formula over time."""
        t, watch = theme(), row.watch
        p.setFont(text_font(-1.5))
        if watch is None or watch.problem or not watch.values:
            if watch is not None and watch.problem:
                p.setPen(t.fault)
                p.drawText(area.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, watch.problem)
            return
        scale = self.lanes.scale
        first, last = max(0, scale.tick(area.left()) - 1), min(len(watch.values) - 1, scale.last)
        if watch.type == "number":
            self._step_line(p, watch.numbers(), first, last, area)
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

    def _step_line(
        self, p: QPainter, numbers: NDArray[np.float64], first: int, last: int, area: QRectF
    ) -> None:
        t, scale = theme(), self.lanes.scale
        known = np.isfinite(numbers)
        if not known.any():
            return
        low, high = float(numbers[known].min()), float(numbers[known].max())
        span = (high - low) or 1.0
        tops = area.top() + 6 + (area.height() - 12) * (1 - (numbers[first : last + 1] - low) / span)
        edges = np.flatnonzero(np.diff(known[first : last + 1], prepend=False, append=False))
        p.setPen(QPen(t.ink, 1.3))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for start, end in edges.reshape(-1, 2).tolist():
            p.drawPolyline(self._steps(tops[start:end], first + start))
        p.setFont(figures(-2))
        p.setPen(t.quiet)
        # a value is written where it stays long enough to be read
        starts = _changes(tops)
        lengths = np.diff(starts, append=len(tops)) * scale.pixels
        for at in np.flatnonzero(~np.isnan(tops[starts]) & (lengths >= NARROWEST_FIGURE)).tolist():
            here = int(starts[at])
            words = str(write_out(round(float(numbers[first + here]), 2)))
            if lengths[at] >= 7.0 * len(words) + 12:
                y = float(tops[here])
                above = y > area.center().y()
                p.drawText(QPointF(scale.middle(first + here) + 4, y + (-3 if above else 10)), words)

    def _steps(self, tops: NDArray[np.float64], first: int) -> QPolygonF:
        """Return the steps through the heights of consecutive ticks; of ticks in one column of pixels, the lowest and the highest."""
        scale = self.lanes.scale
        starts = _changes(tops)
        x = scale.middle(first) + starts * scale.pixels
        columns = np.flatnonzero(np.concatenate(([True], np.diff(np.floor(x)) > 0)))
        heights = tops[starts]
        left = heights[np.append(columns[1:], len(heights)) - 1]
        ys = np.stack(
            (
                np.concatenate((heights[:1], left[:-1])),
                heights[columns],
                np.minimum.reduceat(heights, columns),
                np.maximum.reduceat(heights, columns),
                left,
            ),
            axis=1,
        ).ravel()
        xs = np.repeat(x[columns], 5)
        xs, ys = np.append(xs, scale.middle(first + len(tops) - 1)), np.append(ys, ys[-1])
        new = np.concatenate(([True], (np.diff(xs) != 0) | (np.diff(ys) != 0)))
        return QPolygonF([QPointF(a, b) for a, b in zip(xs[new].tolist(), ys[new].tolist(), strict=True)])


def _changes(values: NDArray[np.float64]) -> NDArray[np.intp]:
    """Return where values differ from the one before them; the first is among them."""
    return np.flatnonzero(np.concatenate(([True], values[1:] != values[:-1])))
