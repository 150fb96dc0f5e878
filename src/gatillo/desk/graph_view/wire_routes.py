"""The ways of wires on a sheet, round the cards that lie between their ends."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath


class Blocks:
    """Cards that wires go round, and their sides as columns: left, top, right, bottom, shape (n, 4)."""

    def __init__(self, areas: list[QRectF]) -> None:
        self.areas = areas
        sides = [(b.left(), b.top(), b.right(), b.bottom()) for b in areas]
        self.sides = np.array(sides, dtype=np.float64).reshape(-1, 4)

    def first_hit(self, way: tuple[QPointF, ...], start: QPointF, end: QPointF) -> QRectF | None:
        """Return the first card that a way leads over, but for those that it begins or ends in."""
        points = np.array([(p.x(), p.y()) for p in points_along(way, 9)])
        left, top, right, bottom = self.sides.T
        low, high = points.min(axis=0), points.max(axis=0)
        near = np.flatnonzero((left < high[0]) & (right > low[0]) & (top < high[1]) & (bottom > low[1]))
        if not len(near):
            return None
        x, y = points[:, :1], points[:, 1:]
        within = (left[near] <= x) & (x <= right[near]) & (top[near] <= y) & (y <= bottom[near])
        for _, at in np.argwhere(within).tolist():
            block = self.areas[int(near[at])]
            if not block.contains(start) and not block.contains(end):
                return block
        return None


def cards_between(ends: list[tuple[QPointF, QPointF]], blocks: Blocks) -> list[bool]:
    """Return for each wire whether its plain curve leads over some card; all wires are tested at once."""
    if not ends or not blocks.areas:
        return [False] * len(ends)
    start = np.array([(a.x(), a.y()) for a, _ in ends])
    end = np.array([(b.x(), b.y()) for _, b in ends])
    t = np.linspace(0.0, 1.0, 10)[:, None]
    bend = np.maximum(10.0, np.abs(end[:, 1] - start[:, 1]) / 2)
    s = 1 - t
    # Bézier curves with upright ends; shape (points, wires)
    x = start[:, 0] * (s**3 + 3 * s * s * t) + end[:, 0] * (3 * s * t * t + t**3)
    y = (
        start[:, 1] * s**3
        + (start[:, 1] + bend) * 3 * s * s * t
        + (end[:, 1] - bend) * 3 * s * t * t
        + end[:, 1] * t**3
    )
    # the ground in cells, each with the card that lies there
    left, top = blocks.sides[:, :2].min(axis=0).tolist()
    right, bottom = blocks.sides[:, 2:].max(axis=0).tolist()
    cell = max(8.0, (right - left) / 4_000, (bottom - top) / 4_000)
    ground = np.full((int((bottom - top) / cell) + 1, int((right - left) / cell) + 1), -1, dtype=np.int32)
    corners = ((blocks.sides - (left, top, left, top)) / cell).astype(int).tolist()
    for at, (west, north, east, south) in enumerate(corners):
        ground[north:south, west:east] = at
    row, column = ((y - top) / cell).astype(int), ((x - left) / cell).astype(int)
    inside = (row >= 0) & (column >= 0) & (row < ground.shape[0]) & (column < ground.shape[1])
    lies = np.where(inside, ground[row.clip(0, ground.shape[0] - 1), column.clip(0, ground.shape[1] - 1)], -1)
    # not the cards that it begins and ends at
    lies[(lies == lies[0]) | (lies == lies[-1])] = -1
    found: list[bool] = np.asarray((lies >= 0).any(axis=0)).tolist()
    return found


def points_of_plain_way(start: QPointF, end: QPointF) -> int:
    """Return how many points `signal_way` gives where it leads round no card."""
    return 4 if _leads_down(start, end) else 10


def _leads_down(start: QPointF, end: QPointF) -> bool:
    """Return whether an input lies far enough below an output for a plain curve."""
    return end.y() >= start.y() + 14


def signal_way(start: QPointF, end: QPointF, blocks: Blocks | None) -> tuple[QPointF, ...]:
    """Return a way from an output down to an input: a curve; round the cards that lie between, where that can be."""
    if _leads_down(start, end):
        direct = _curve(start, end)
        hit = blocks.first_hit(direct, start, end) if blocks is not None else None
        if blocks is None or hit is None:
            return direct
        # past the card that is in the way, on the nearer side
        for side in sorted(
            (hit.left() - 14, hit.right() + 14), key=lambda x: abs(x - (start.x() + end.x()) / 2)
        ):
            top, bottom = QPointF(side, hit.top() - 8), QPointF(side, hit.bottom() + 8)
            way = (*_curve(start, top), *_curve(top, bottom)[1:], *_curve(bottom, end)[1:])
            if blocks.first_hit(way, start, end) is None:
                return way
        return direct
    # back up: out below, round the side, in above
    side = max(start.x(), end.x()) + 90 if start.x() <= end.x() else min(start.x(), end.x()) - 90
    low, high = QPointF(side, (start.y() * 3 + end.y()) / 4), QPointF(side, (start.y() + end.y() * 3) / 4)
    out = (start, QPointF(start.x(), start.y() + 30), QPointF(side, start.y() + 30), low)
    back = (QPointF(side, low.y() - 20), QPointF(side, high.y() + 20), high)
    into = (QPointF(side, end.y() - 30), QPointF(end.x(), end.y() - 30), end)
    return (*out, *back, *into)


def value_way(start: QPointF, end: QPointF) -> tuple[QPointF, ...]:
    """Return a way from a value to a slot: out to the right, in from the left."""
    bend = max(28.0, abs(end.x() - start.x()) / 2)
    return (start, QPointF(start.x() + bend, start.y()), QPointF(end.x() - bend, end.y()), end)


def _curve(start: QPointF, end: QPointF) -> tuple[QPointF, ...]:
    bend = max(10.0, abs(end.y() - start.y()) / 2)
    return (start, QPointF(start.x(), start.y() + bend), QPointF(end.x(), end.y() - bend), end)


def way_path(way: tuple[QPointF, ...]) -> QPainterPath:
    """Return a wire's way as curves."""
    path = QPainterPath(way[0])
    for at in range(1, len(way) - 2, 3):
        path.cubicTo(way[at], way[at + 1], way[at + 2])
    return path


def points_along(way: tuple[QPointF, ...], each: int) -> list[QPointF]:
    """Return points of a way, some of each of its curves (Bézier)."""
    found: list[QPointF] = []
    for at in range(0, len(way) - 3, 3):
        a, b, c, d = way[at : at + 4]
        for step in range(each + 1):
            t = step / each
            s = 1 - t
            found.append(a * (s * s * s) + b * (3 * s * s * t) + c * (3 * s * t * t) + d * (t * t * t))
    return found
