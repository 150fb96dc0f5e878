"""What can be shown over the level on request: velocities, facing, reaches, shapes, tracks."""

from __future__ import annotations

import math
from itertools import groupby, pairwise

import numpy as np
from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.level_view.canvas import MOST_MARKED, Canvas
from gatillo.desk.looks.theme import kind_colour, text_font, theme, with_alpha
from gatillo.inspect.tracks import Tracks, paths, sample
from gatillo.sim.motion.phase import urges_at
from gatillo.sim.world.world import World

OVERLAYS: tuple[tuple[str, str], ...] = (
    ("velocity", "&Velocities"),
    ("facing", "&Facing"),
    ("reach", "&Reach of prompts, focus and carrying"),
    ("hearing", "&Hearing, and how far urges reach"),
    ("focus", "F&ocus: cone, ray and target"),
    ("urges", "&Urges of flocking objects"),
    ("contact", "&Contacts between objects"),
    ("tracks", "&Tracks of moving objects"),
    ("names", "&Names"),
)
TRACK_SECONDS = 6.0
TRACK_MILLISECONDS = 25
"""Of each paint, at most, go into working tracks out."""
FADES = 8
URGE_PIXELS = 26.0
"""Length of the arrow of an urge of weight 1."""
ARROW_SECONDS = 0.5
"""An arrow shows where an object would come to in this time."""


def paint_overlays(p: QPainter, view: Canvas, world: World) -> None:
    """Paint the overlays that are asked for."""
    p.setFont(text_font(-1))
    if "tracks" in view.overlays:
        _tracks(p, view, world)
    each = view.overlays & {"velocity", "facing", "names"}
    for row in view.marked(world, np.flatnonzero(world.alive)).tolist() if each else ():
        at = view.to_pixels(world.x.item(row), world.y.item(row))
        if "velocity" in view.overlays:
            _velocity(p, view, world, row, at)
        if "facing" in view.overlays:
            _facing(p, view, world, row, at)
        if "names" in view.overlays:
            p.setPen(theme().quiet)
            p.drawText(at + QPointF(6, -8), world.name_of(world.id.item(row)))
    if "reach" in view.overlays:
        _circles(p, view, world, ("reach",))
    if "hearing" in view.overlays:
        _circles(p, view, world, ("hearing", "radius", "apart", "aligned", "together"))
    if "focus" in view.overlays:
        _focus(p, view, world)
    if "urges" in view.overlays:
        _urges(p, view, world)
    if "contact" in view.overlays:
        _contacts(p, view, world)


def _velocity(p: QPainter, view: Canvas, world: World, row: int, at: QPointF) -> None:
    vx, vy = world.vx.item(row), world.vy.item(row)
    if vx or vy:
        end = view.to_pixels(world.x.item(row) + vx * ARROW_SECONDS, world.y.item(row) + vy * ARROW_SECONDS)
        p.setPen(QPen(theme().cursor, 1.6))
        p.drawLine(at, end)
        angle = math.atan2(end.y() - at.y(), end.x() - at.x())
        for side in (-0.4, 0.4):
            p.drawLine(end, end - QPointF(8 * math.cos(angle + side), 8 * math.sin(angle + side)))


def _facing(p: QPainter, view: Canvas, world: World, row: int, at: QPointF) -> None:
    facing = math.radians(float(world.values_of(np.array([row]), "facing")[0]))
    far = float(np.maximum(*world.reach())[row]) * view.zoom + 16
    p.setPen(QPen(with_alpha(theme().ink, 0.6), 1.2, Qt.PenStyle.DotLine))
    p.drawLine(at, at + QPointF(far * math.cos(facing), -far * math.sin(facing)))


def _circles(p: QPainter, view: Canvas, world: World, settings: tuple[str, ...]) -> None:
    """Circles as wide as some settings of behaviours, each named once where there is room."""
    p.setBrush(Qt.BrushStyle.NoBrush)
    for behaviour in world.program.behaviours:
        for setting in settings:
            column = behaviour.columns.get(setting)
            if column is None:
                continue
            if setting == "radius" and behaviour.entry.phase != "urge":
                # the way an object goes, not how far anything reaches
                continue
            for place, row in enumerate(view.marked(world, world.rows_of_kind(behaviour.kind)).tolist()):
                reach = float(world.variables[column][row]) * view.zoom
                at = view.to_pixels(world.x.item(row), world.y.item(row))
                p.setPen(QPen(with_alpha(theme().cursor, 0.55), 1.2, Qt.PenStyle.DotLine))
                p.drawEllipse(at, reach, reach)
                # said once: those of one kind mostly reach equally far
                if reach > 30 and not place:
                    p.setPen(theme().quiet)
                    p.drawText(at + QPointF(-18, -reach - 3), setting)


def _focus(p: QPainter, view: Canvas, world: World) -> None:
    """The cone in which each looker looks, the ray ahead, and a line to what it means."""
    t = theme()
    for behaviour in world.program.behaviours:
        if behaviour.entry.phase != "focus":
            continue
        for row in view.marked(world, world.rows_of_kind(behaviour.kind)).tolist():
            at = view.to_pixels(world.x.item(row), world.y.item(row))
            reach = float(world.variables[behaviour.columns["reach"]][row]) * view.zoom
            half = float(world.variables[behaviour.columns["half_angle"]][row])
            facing = float(world.values_of(np.array([row]), "facing")[0])
            p.setPen(QPen(with_alpha(t.cursor, 0.5), 1.0))
            p.setBrush(with_alpha(t.cursor, 0.07))
            box = QRectF(at.x() - reach, at.y() - reach, 2 * reach, 2 * reach)
            p.drawPie(box, round((facing - half) * 16), round(2 * half * 16))
            ahead = QPointF(math.cos(math.radians(facing)), -math.sin(math.radians(facing))) * reach
            p.setPen(QPen(with_alpha(t.cursor, 0.8), 1.2, Qt.PenStyle.DashLine))
            p.drawLine(at, at + ahead)
            meant = world.focus.on.get(world.id.item(row))
            thing = world.row_of_id(meant) if meant is not None else -1
            if thing >= 0:
                end = view.to_pixels(world.x.item(thing), world.y.item(thing))
                p.setPen(QPen(t.fires, 2.0))
                p.drawLine(at, end)
                p.setBrush(Qt.BrushStyle.NoBrush)
                ring = float(np.maximum(*world.reach())[thing]) * view.zoom + 4
                p.drawEllipse(end, ring, ring)


def _contacts(p: QPainter, view: Canvas, world: World) -> None:
    """A line between the middles of two that touch, where some rule asks for it; stronger where it has just begun."""
    t = theme()
    begun = set(world.contacts.begun.tolist())
    view.unmarked = max(view.unmarked, len(world.contacts.touching) - MOST_MARKED)
    for code in world.contacts.touching[:MOST_MARKED].tolist():
        ends = []
        for object_id in (code >> 32, code & 0xFFFFFFFF):
            row = world.row_of_id(object_id)
            if row >= 0:
                ends.append(view.to_pixels(world.x.item(row), world.y.item(row)))
        if len(ends) == 2:
            fresh = code in begun
            p.setPen(QPen(t.fires if fresh else t.cursor, 2.4 if fresh else 1.6))
            p.drawLine(*ends)
            p.setBrush(t.fires if fresh else t.cursor)
            p.drawEllipse((ends[0] + ends[1]) / 2, 3.0, 3.0)


def _urges(p: QPainter, view: Canvas, world: World) -> None:
    """An arrow for each urge of each flocking object: as long as it is strong, told apart by its dash."""
    dashes = {
        "onward": Qt.PenStyle.SolidLine,
        "apart": Qt.PenStyle.DashLine,
        "their way": Qt.PenStyle.DotLine,
        "together": Qt.PenStyle.DashDotLine,
    }
    t = theme()
    if len(world.id) > MOST_MARKED:
        # working them out takes as long as a tick does
        view.unmarked = max(view.unmarked, len(world.id))
        return
    for row, name, x, y in urges_at(world):
        at = view.to_pixels(world.x.item(row), world.y.item(row))
        own = name not in dashes
        p.setPen(QPen(t.fires if own else t.cursor, 1.6, dashes.get(name, Qt.PenStyle.SolidLine)))
        end = at + QPointF(x, -y) * URGE_PIXELS
        p.drawLine(at, end)
        if own:
            p.drawEllipse(end, 1.6, 1.6)


def _tracks(p: QPainter, view: Canvas, world: World) -> None:
    """Where the objects have been, fading with their age."""
    bench = view.bench
    now = bench.cursor.tick
    first = max(0, math.ceil(now - TRACK_SECONDS * bench.program.rate))
    if view.tracks is None or view.tracks.run is not bench.run:
        view.tracks = Tracks(bench.run)
    since = QElapsedTimer()
    since.start()
    if not view.tracks.fill(first, now - 1, lambda: since.elapsed() > TRACK_MILLISECONDS):
        # the rest with the next paint
        QTimer.singleShot(0, view.update)
    found = paths([*view.tracks.between(first, now - 1), sample(world)])
    shown = set(view.marked(world, np.flatnonzero(world.alive)).tolist())
    for object_id, path in found.items():
        row = world.row_of_id(object_id)
        if row not in shown:
            continue
        colour = kind_colour(world.program.kinds[world.kind.item(row)].colour)
        for age, run_of in groupby(
            pairwise(path), lambda ends: FADES * (now - ends[1][0]) // (now - first + 1)
        ):
            piece = list(run_of)
            p.setPen(QPen(with_alpha(colour, 0.7 - 0.55 * age / FADES), 1.6))
            p.drawPolyline(
                [view.to_pixels(*piece[0][0][1:]), *(view.to_pixels(*end[1:]) for _, end in piece)]
            )
