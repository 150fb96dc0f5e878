"""What can be shown over the level on request: velocities, facing, reaches, shapes, tracks."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.theme import kind_colour, text_font, theme, with_alpha
from gatillo.sim.world import World

if TYPE_CHECKING:
    from gatillo.desk.level_view.view import LevelView

OVERLAYS: tuple[tuple[str, str], ...] = (
    ("velocity", "&Velocities"),
    ("facing", "&Facing"),
    ("reach", "&Reach of prompts"),
    ("tracks", "&Tracks: where each has been"),
    ("names", "&Names"),
)
TRACK_SECONDS = 6.0
ARROW_SECONDS = 0.5
"""An arrow shows where an object would come to in this time."""


def paint_overlays(p: QPainter, view: LevelView, world: World) -> None:
    """Paint the overlays that are asked for."""
    rows = np.flatnonzero(world.alive)
    p.setFont(text_font(-1))
    if "tracks" in view.overlays:
        _tracks(p, view)
    for row in rows.tolist():
        at = view.to_pixels(world.x.item(row), world.y.item(row))
        if not view.rect().adjusted(-60, -60, 60, 60).contains(at.toPoint()):
            continue
        if "velocity" in view.overlays:
            _velocity(p, view, world, row, at)
        if "facing" in view.overlays:
            _facing(p, view, world, row, at)
        if "names" in view.overlays:
            p.setPen(theme().quiet)
            p.drawText(at + QPointF(6, -8), world.name_of(world.id.item(row)))
    if "reach" in view.overlays:
        _reaches(p, view, world)


def _velocity(p: QPainter, view: LevelView, world: World, row: int, at: QPointF) -> None:
    vx, vy = world.vx.item(row), world.vy.item(row)
    if vx or vy:
        end = view.to_pixels(world.x.item(row) + vx * ARROW_SECONDS, world.y.item(row) + vy * ARROW_SECONDS)
        p.setPen(QPen(theme().cursor, 1.6))
        p.drawLine(at, end)
        angle = math.atan2(end.y() - at.y(), end.x() - at.x())
        for side in (-0.4, 0.4):
            p.drawLine(end, end - QPointF(8 * math.cos(angle + side), 8 * math.sin(angle + side)))


def _facing(p: QPainter, view: LevelView, world: World, row: int, at: QPointF) -> None:
    facing = math.radians(float(world.values_of(np.array([row]), "facing")[0]))
    far = float(np.maximum(*world.reach())[row]) * view.zoom + 16
    p.setPen(QPen(with_alpha(theme().ink, 0.6), 1.2, Qt.PenStyle.DotLine))
    p.drawLine(at, at + QPointF(far * math.cos(facing), -far * math.sin(facing)))


def _reaches(p: QPainter, view: LevelView, world: World) -> None:
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(with_alpha(theme().cursor, 0.7), 1.2, Qt.PenStyle.DotLine))
    for behaviour in world.program.behaviours:
        column = behaviour.columns.get("reach")
        if column is None:
            continue
        for row in world.rows_of_kind(behaviour.kind).tolist():
            reach = float(world.variables[column][row]) * view.zoom
            p.drawEllipse(view.to_pixels(world.x.item(row), world.y.item(row)), reach, reach)


def _tracks(p: QPainter, view: LevelView) -> None:
    """Where the objects were at the run's keyframes, fading with their age."""
    bench = view.bench
    now = bench.cursor.tick
    first = now - TRACK_SECONDS * bench.program.rate
    ticks = sorted(t for t in bench.run.keyframes if first <= t < now)
    worlds = [bench.run.keyframes[t] for t in ticks] + [bench.world]
    kinds = bench.run.program.kinds
    for at, (before, after) in enumerate(pairwise(worlds), 1):
        ids = np.intersect1d(before.id[before.alive], after.id[after.alive])
        a, b = before.rows_of_ids(ids), after.rows_of_ids(ids)
        moved = (before.x[a] != after.x[b]) | (before.y[a] != after.y[b])
        for one, other in zip(a[moved].tolist(), b[moved].tolist(), strict=True):
            colour = kind_colour(kinds[after.kind.item(other)].colour)
            p.setPen(QPen(with_alpha(colour, 0.15 + 0.55 * at / len(worlds)), 1.6))
            p.drawLine(
                view.to_pixels(before.x.item(one), before.y.item(one)),
                view.to_pixels(after.x.item(other), after.y.item(other)),
            )
