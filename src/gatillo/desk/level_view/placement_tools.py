"""Laying out with the pointer: drawing places, moving and sizing them, turning and scaling objects."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPen

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.level_view.scenery_painter import reach_of, scenery_of
from gatillo.desk.looks.object_painter import draw_object
from gatillo.desk.looks.theme import text_font, theme, with_alpha
from gatillo.desk.session.selection import Selection, Thing
from gatillo.formula.values import half_open_degrees
from gatillo.level import edits, thing_edits
from gatillo.level.model import Area, Circle, ClipPoint, Object, Place, Rectangle, Route, Spot, Stop

KIND_MIME = "application/x-gatillo-kind"
"""What is dragged from the shelf into the level."""
Tool = Literal["", "spot", "area", "circle", "route", "clip"]
TOOLS: tuple[tuple[Tool, str, str], ...] = (
    ("", "Select", "Select and move (Esc)"),
    ("spot", "Spot", "Click where you want a spot"),
    ("area", "Area", "Drag from corner to corner of an area"),
    ("circle", "Circle", "Drag from the middle of a circular area to its edge"),
    (
        "clip",
        "Clip",
        "Drag an object: its motion is recorded as a clip. The wheel, or the left and right keys, turn it",
    ),
    ("route", "Route", "Click stop after stop of a route; Enter or a double click ends it"),
)
NEAR = 8.0
"""How near to a thing a press takes hold of it, in pixels."""
HANDLE = 5.0
ARM = 24.0
GUIDE = 5.0
CLIP_STEP = 0.04
"""Seconds between two points of a recorded motion, at least."""


@dataclass(slots=True)
class _Hold:
    """What the pointer has taken hold of: a place or part of one, or an object's handle."""

    what: str
    name: str
    start: tuple[float, float]
    at: int = -1
    moved: bool = False
    edited: bool = False
    """Whether it has been moved in the level."""


class PlacementTools(QObject):
    """Takes the presses that lay out; what it does not want is left to the view."""

    toolChanged = Signal()
    armedChanged = Signal()
    placeDrawn = Signal()
    """A place was drawn: its name may be typed now."""
    clipRecorded = Signal()
    """A motion was recorded: its name may be typed now."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(canvas)
        self.canvas = canvas
        self.bench = canvas.bench
        self.armed: str | None = None
        """The kind that the next click places."""
        self.tool: Tool = ""
        self.snaps = False
        self.grid = 10.0
        self._points: list[tuple[float, float]] = []
        self._now = (0.0, 0.0)
        self._hold: _Hold | None = None
        self._clock = QElapsedTimer()
        self._recorded: list[ClipPoint] = []
        self._turned = 0.0
        """Degrees by which what is being recorded has been turned."""
        self._recorded_id = 0
        self._pointer = QPointF()
        self.guides: list[tuple[str, float]] = []

    def arm(self, kind: str | None) -> None:
        """Make the next click place an object of a kind; None cancels that."""
        if kind is not None and self.tool:
            self.choose("")
        self.armed = kind
        self.canvas.setCursor(Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor)
        self.armedChanged.emit()
        self.canvas.update()

    def choose(self, tool: Tool) -> None:
        """Take a tool; "" puts it back."""
        if tool:
            self.arm(None)
        self.tool, self._points = tool, []
        self.canvas.setCursor(Qt.CursorShape.CrossCursor if tool else Qt.CursorShape.ArrowCursor)
        self.toolChanged.emit()
        self.canvas.update()

    def snapped(self, x: float, y: float) -> tuple[float, float]:
        """Return a point of the level, on the grid if it is to snap."""
        if not self.snaps:
            return x, y
        return round(x / self.grid) * self.grid, round(y / self.grid) * self.grid

    # presses

    def press(self, point: QPointF) -> bool:
        """Return a press of the left button; False where the view is to deal with it."""
        where = self.snapped(*self.canvas.to_level(point))
        if self.tool == "spot":
            self._add(thing_edits.new_spot(*where))
            self.choose("")
            return True
        if self.tool in ("area", "circle"):
            self._points, self._now = [where], where
            return True
        if self.tool == "route":
            self._points.append(where)
            self._now = where
            self.canvas.update()
            return True
        if self.tool == "clip":
            self._begin_clip(point)
            return True
        self._hold = self._handle_at(point) or self._part_at(point)
        if self._hold is None and self.canvas.object_at(point) is None:
            place = self.place_at(point)
            if place is not None:
                self.bench.select(Selection(thing=Thing("place", place.name)))
                self._hold = _Hold("place", place.name, self.canvas.to_level(point))
        return self._hold is not None

    def move(self, point: QPointF) -> bool:
        """Return the pointer moved."""
        self._now = self.snapped(*self.canvas.to_level(point))
        if self._recorded:
            self._record(point)
            return True
        hold = self._hold
        if hold is not None:
            hold.moved = True
            self._drag(hold, point)
            return True
        if self._points:
            self.canvas.update()
            return True
        return False

    def release(self, point: QPointF) -> bool:
        """Return the button went up."""
        if self.tool == "clip":
            self._end_clip(point)
            return True
        hold, self._hold = self._hold, None
        if hold is not None:
            self.bench.document.history.settle()
            return True
        if self.tool in ("area", "circle") and self._points:
            (x, y), (to_x, to_y) = self._points[0], self.snapped(*self.canvas.to_level(point))
            self._points = []
            if self.tool == "circle":
                radius = math.hypot(to_x - x, to_y - y)
                if radius * self.canvas.zoom > 4:
                    self._add(thing_edits.new_area(x, y, 2 * radius, 2 * radius, circle=True))
            elif abs(to_x - x) * self.canvas.zoom > 4 and abs(to_y - y) * self.canvas.zoom > 4:
                self._add(thing_edits.new_area((x + to_x) / 2, (y + to_y) / 2, abs(to_x - x), abs(to_y - y)))
            self.choose("")
            return True
        return self.tool == "route"

    def end_route(self) -> bool:
        """Put the route that is being drawn into the level."""
        if self.tool != "route":
            return False
        points = [p for i, p in enumerate(self._points) if i == 0 or p != self._points[i - 1]]
        if len(points) >= 2:
            self._add(thing_edits.new_route(points))
        self.choose("")
        return True

    def _add(self, place: Place) -> None:
        level, name = thing_edits.add_place(self.bench.level, place)
        self.bench.edit(level, f"add {name}")
        self.bench.select(Selection(thing=Thing("place", name)))
        self.placeDrawn.emit()

    # recording a motion

    def _begin_clip(self, point: QPointF) -> None:
        under = self.canvas.object_at(point)
        if under is None:
            self.bench.notify("Begin the drag on an object: its motion is recorded.")
            return
        self._recorded_id, self._pointer = under, point
        self._clock.start()
        self._recorded = [ClipPoint(at=0.0, x=0.0, y=0.0)]
        self._turned = 0.0
        self._points = [self.canvas.to_level(point)]

    def _record(self, point: QPointF, *, last: bool = False) -> None:
        self._pointer = point
        seconds = round(self._clock.elapsed() / 1000.0, 3)
        x, y = self.canvas.to_level(point)
        from_x, from_y = self._points[0]
        here = ClipPoint(at=seconds, x=round(x - from_x, 1), y=round(y - from_y, 1), turn=self._turned)
        if seconds - self._recorded[-1].at >= CLIP_STEP:
            self._recorded.append(here)
            self._points.append((x, y))
        elif last and len(self._recorded) > 1:
            # it ends where it was let go
            self._recorded[-1] = here
        self.canvas.update()

    def turn(self, degrees: float) -> bool:
        """Turn what is being recorded; False where no motion is recorded."""
        if not self._recorded:
            return False
        self._turned += degrees
        self._record(self._pointer)
        return True

    def _end_clip(self, point: QPointF) -> None:
        if self._recorded:
            self._record(point, last=True)
        recorded, self._recorded = self._recorded, []
        self.choose("")
        if len(recorded) < 2:
            return
        level, name = thing_edits.add_clip(self.bench.level, tuple(recorded))
        self.bench.edit(level, f"record {name}")
        self.bench.select(Selection(thing=Thing("clip", name)))
        self.clipRecorded.emit()

    def held_place_out(self) -> str:
        """Return the place that is held, and leave it where it was: it is dragged out of the view; "" if none is held."""
        hold = self._hold
        if hold is None or hold.what != "place":
            return ""
        self._hold = None
        if hold.edited:
            self.bench.document.undo()
        return hold.name

    # what lies where

    def place_at(self, point: QPointF) -> Place | None:
        """Return the place whose mark, edge or name lies under a pixel; small ones first."""
        x, y = self.canvas.to_level(point)
        near = NEAR / self.canvas.zoom
        found: list[tuple[float, Place]] = []
        for place in self.bench.level.places:
            named = self.canvas.labels.get(place.name, QRectF()).contains(point)
            if isinstance(place, Spot):
                if math.hypot(place.x - x, place.y - y) <= near or named:
                    found.append((0.0, place))
            elif isinstance(place, Route):
                if any(math.hypot(s.x - x, s.y - y) <= near for s in place.stops):
                    found.append((1.0, place))
            else:
                # by its edge or its name: within it, objects are to be boxed
                half_width, half_height = place.shape.halves
                out_x, out_y = abs(place.x - x) - half_width, abs(place.y - y) - half_height
                on_edge = max(out_x, out_y) <= near and (abs(out_x) <= near or abs(out_y) <= near)
                if isinstance(place.shape, Circle):
                    on_edge = abs(math.hypot(place.x - x, place.y - y) - half_width) <= near
                if on_edge or named:
                    found.append((2.0 + half_width * half_height, place))
        return min(found, key=lambda f: f[0])[1] if found else None

    def _selected_place(self) -> Place | None:
        thing = self.bench.selection.thing
        if thing is None or thing.sort != "place":
            return None
        return next((p for p in self.bench.level.places if p.name == thing.name), None)

    def _selected_object(self) -> Object | None:
        ids = self.bench.selection.objects
        if len(ids) != 1:
            return None
        return next((o for o in self.bench.level.objects if o.id in ids), None)

    def _part_at(self, point: QPointF) -> _Hold | None:
        """Return a corner of the selected area, or a stop of the selected route."""
        place = self._selected_place()
        start = self.canvas.to_level(point)
        if isinstance(place, Route):
            for at, stop in enumerate(place.stops):
                if _far(self.canvas.to_pixels(stop.x, stop.y), point) <= NEAR + 2:
                    return _Hold("stop", place.name, start, at)
        if isinstance(place, Area):
            for at, corner in enumerate(self._corners(place)):
                if _far(corner, point) <= NEAR:
                    return _Hold("corner", place.name, start, at)
        return None

    def _corners(self, place: Area) -> list[QPointF]:
        half_width, half_height = place.shape.halves
        if isinstance(place.shape, Circle):
            return [self.canvas.to_pixels(place.x + half_width, place.y)]
        return [
            self.canvas.to_pixels(place.x + sx * half_width, place.y + sy * half_height)
            for sx, sy in ((-1, 1), (1, 1), (1, -1), (-1, -1))
        ]

    def _handles(self) -> tuple[QPointF, QPointF, QPointF] | None:
        """Return where the selected object is, its turning handle and its scaling handle, in pixels."""
        thing = self._selected_object()
        if thing is None or self.bench.player.playing or self.bench.player.running:
            return None
        world = self.bench.world
        row = world.row_of_id(thing.id)
        piece = next((piece for piece in scenery_of(self.bench.level) if piece[0] is thing), None)
        if row >= 0:
            wide, high = (float(reach[row]) for reach in world.reach())
            middle = self.canvas.to_pixels(world.x.item(row), world.y.item(row))
            facing = math.radians(float(world.values_of(np.array([row]), "facing")[0]))
        elif piece is not None:
            wide, high = reach_of(piece)
            middle = self.canvas.to_pixels(thing.x, thing.y)
            facing = math.radians(thing.angle + piece[1].drawn_facing)
        else:
            return None
        far = max(wide, high) * self.canvas.zoom + ARM
        turn = QPointF(middle.x() + far * math.cos(facing), middle.y() - far * math.sin(facing))
        corner = QPointF(middle.x() + wide * self.canvas.zoom + 5, middle.y() + high * self.canvas.zoom + 5)
        return middle, turn, corner

    def _handle_at(self, point: QPointF) -> _Hold | None:
        handles = self._handles()
        if handles is None:
            return None
        for what, handle in (("turn", handles[1]), ("scale", handles[2])):
            if _far(handle, point) <= NEAR:
                return _Hold(what, "", self.canvas.to_level(point))
        return None

    # dragging

    def _drag(self, hold: _Hold, point: QPointF) -> None:
        level = self.bench.level
        if hold.what == "place":
            x, y = self.canvas.to_level(point)
            dx, dy = self.snapped(x - hold.start[0], y - hold.start[1])
            if not (dx or dy):
                return
            hold.start = (hold.start[0] + dx, hold.start[1] + dy)
            hold.edited = True
            self.bench.edit(
                thing_edits.move_place(level, hold.name, dx, dy),
                f"move {hold.name}",
                join=f"drag {hold.name}",
            )
        elif hold.what == "stop":
            place = self._selected_place()
            assert isinstance(place, Route)
            stops = tuple(
                replace(s, x=round(self._now[0], 1), y=round(self._now[1], 1)) if i == hold.at else s
                for i, s in enumerate(place.stops)
            )
            self.bench.edit(
                thing_edits.set_place(level, place.name, stops=stops),
                f"move stop {hold.at + 1} of {place.name}",
                join=f"drag stop {place.name}",
            )
        elif hold.what == "corner":
            self._drag_corner(hold)
        else:
            self._drag_handle(hold, point)

    def _drag_corner(self, hold: _Hold) -> None:
        place = self._selected_place()
        assert isinstance(place, Area)
        x, y = self._now
        if isinstance(place.shape, Circle):
            radius = max(1.0, round(math.hypot(x - place.x, y - place.y), 1))
            fields: dict[str, object] = {"shape": Circle(radius=radius)}
        else:
            half_width, half_height = place.shape.halves
            sx, sy = ((-1, 1), (1, 1), (1, -1), (-1, -1))[hold.at]
            # the corner across from it stays
            other_x, other_y = place.x - sx * half_width, place.y - sy * half_height
            width, height = max(1.0, abs(x - other_x)), max(1.0, abs(y - other_y))
            fields = {
                "x": round((x + other_x) / 2, 1),
                "y": round((y + other_y) / 2, 1),
                "shape": Rectangle(width=round(width, 1), height=round(height, 1)),
            }
        self.bench.edit(
            thing_edits.set_place(self.bench.level, place.name, **fields),
            f"resize {place.name}",
            join=f"resize {place.name}",
        )

    def _drag_handle(self, hold: _Hold, point: QPointF) -> None:
        thing, handles = self._selected_object(), self._handles()
        if thing is None or handles is None:
            return
        middle = handles[0]
        if hold.what == "turn":
            drawn = next(k.drawn_facing for k in self.bench.level.kinds if k.name == thing.kind)
            angle = math.degrees(math.atan2(middle.y() - point.y(), point.x() - middle.x())) - drawn
            angle = round(angle / 15) * 15.0 if self.snaps else round(angle, 1)
            level = edits.set_object(self.bench.level, thing.id, angle=float(half_open_degrees(angle)))
            self.bench.edit(level, f"turn {thing.name}", join=f"turn {thing.id}")
        else:
            before = math.hypot(handles[2].x() - middle.x(), handles[2].y() - middle.y())
            now = math.hypot(point.x() - middle.x(), point.y() - middle.y())
            scale = min(100.0, max(0.05, round(thing.scale * now / max(before, 1.0), 2)))
            level = edits.set_object(self.bench.level, thing.id, scale=scale)
            self.bench.edit(level, f"scale {thing.name}", join=f"scale {thing.id}")

    def guided(self, dx: float, dy: float) -> tuple[float, float]:
        """Return an offset of the selected objects, drawn to where one is level with another; sets the guides."""
        self.guides = []
        level = self.bench.level
        mine = [o for o in level.objects if o.id in self.bench.selection.objects]
        others = [o for o in level.objects if o.id not in self.bench.selection.objects]
        if not mine or not others or len(others) > 2_000:
            return self.snapped(dx, dy) if self.snaps else (dx, dy)
        near = GUIDE / self.canvas.zoom
        moved = []
        for axis, by in (("x", dx), ("y", dy)):
            lead = getattr(mine[0], axis) + by
            best = min((getattr(o, axis) for o in others), key=lambda v: abs(v - lead))
            if abs(best - lead) <= near:
                self.guides.append((axis, best))
                by = best - getattr(mine[0], axis)
            elif self.snaps:
                by = round(lead / self.grid) * self.grid - getattr(mine[0], axis)
            moved.append(by)
        return moved[0], moved[1]

    # painting

    def paint(self, p: QPainter) -> None:
        """What is being drawn, handles and guides."""
        t = theme()
        p.setPen(QPen(t.cursor, 1.2, Qt.PenStyle.DashLine))
        p.setBrush(with_alpha(t.cursor, 0.08))
        if self.tool == "area" and self._points:
            p.drawRect(
                QRectF(
                    self.canvas.to_pixels(*self._points[0]), self.canvas.to_pixels(*self._now)
                ).normalized()
            )
        elif self.tool == "circle" and self._points:
            (x, y), (to_x, to_y) = self._points[0], self._now
            radius = math.hypot(to_x - x, to_y - y) * self.canvas.zoom
            p.drawEllipse(self.canvas.to_pixels(x, y), radius, radius)
        elif self.tool == "clip" and self._points:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline([self.canvas.to_pixels(*point) for point in (*self._points, self._now)])
            self._paint_recorded(p)
        elif self.tool == "route" and self._points:
            p.drawPolyline([self.canvas.to_pixels(*point) for point in (*self._points, self._now)])
            for point in self._points:
                p.drawEllipse(self.canvas.to_pixels(*point), 6, 6)
        p.setPen(QPen(t.cursor, 1.4))
        p.setBrush(t.panel)
        place = self._selected_place()
        if isinstance(place, Area):
            for corner in self._corners(place):
                p.drawRect(QRectF(corner.x() - 4, corner.y() - 4, 8, 8))
        elif isinstance(place, Route):
            for stop in place.stops:
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawEllipse(self.canvas.to_pixels(stop.x, stop.y), 11, 11)
            self._paint_stops(p, place)
        elif isinstance(place, Spot):
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(self.canvas.to_pixels(place.x, place.y), 10, 10)
        handles = self._handles()
        if handles is not None:
            middle, turn, corner = handles
            p.setPen(QPen(with_alpha(t.cursor, 0.6), 1, Qt.PenStyle.DotLine))
            p.drawLine(middle, turn)
            p.setPen(QPen(t.cursor, 1.4))
            p.setBrush(t.panel)
            p.drawEllipse(turn, HANDLE, HANDLE)
            p.drawRect(QRectF(corner.x() - 4, corner.y() - 4, 8, 8))
        p.setPen(QPen(t.fires, 1, Qt.PenStyle.DashLine))
        for axis, at in self.guides:
            pixel = self.canvas.to_pixels(at, at)
            if axis == "x":
                p.drawLine(QPointF(pixel.x(), 0), QPointF(pixel.x(), self.canvas.height()))
            else:
                p.drawLine(QPointF(0, pixel.y()), QPointF(self.canvas.width(), pixel.y()))

    def _paint_recorded(self, p: QPainter) -> None:
        """Draw what is being recorded where it has come to, dashed, and turned as it has been."""
        world = self.bench.world
        row = world.row_of_id(self._recorded_id)
        if row < 0 or not self._recorded:
            return
        kind, here = world.program.kinds[world.kind.item(row)], self._recorded[-1]
        at = self.canvas.to_pixels(world.x.item(row) + here.x, world.y.item(row) + here.y)
        angle, size = world.angle.item(row) + self._turned, self.canvas.zoom * abs(world.scale.item(row))
        draw_object(p, kind, at.x(), at.y(), angle, size, hidden=True)

    def _paint_stops(self, p: QPainter, route: Route) -> None:
        """Write at each stop what happens there and how the leg after it goes; no text covers another."""
        t = theme()
        p.setFont(text_font(-1))
        written: list[QRectF] = []
        for stop in route.stops:
            at = self.canvas.to_pixels(stop.x, stop.y)
            for words in filter(None, (_stop_words(stop), _leg_words(stop))):
                width = p.fontMetrics().horizontalAdvance(words) + 10
                below = at.y() + 50 < self.canvas.height()
                box = QRectF(at.x() - width / 2, at.y() + 15 if below else at.y() - 31, width, 16)
                while any(box.intersects(other) for other in written):
                    box.translate(0, 8 if below else -8)
                written.append(box)
                p.setPen(QPen(t.hairline, 1))
                p.setBrush(t.panel)
                p.drawRoundedRect(box, 3, 3)
                p.setPen(t.cursor)
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _stop_words(stop: Stop) -> str:
    """Return what happens at a stop, in a few words."""
    words = [f"at {stop.where}"] if stop.where else []
    words += [f"{stop.pause:g} s"] if stop.pause > 0 else []
    return " · ".join([*words, *([f"“{stop.message}”"] if stop.message else [])])


def _leg_words(stop: Stop) -> str:
    """Return how the leg after a stop goes, in a few words."""
    words = [f"in {stop.time:g} s"] if stop.time > 0 else [f"at {stop.speed:g}"] if stop.speed > 0 else []
    words += [stop.easing] if stop.easing else []
    return f"then {', '.join(words)}" if words else ""


def _far(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())
