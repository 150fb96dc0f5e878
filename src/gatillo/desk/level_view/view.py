"""The level at the cursor: drawn, pointed at, laid out and played in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.level_view.keys import key_name
from gatillo.desk.level_view.marks import paint_matched, paint_pointer, paint_sayings, paint_selection
from gatillo.desk.level_view.offers import choice_at, paint_offers
from gatillo.desk.level_view.overlays import paint_overlays
from gatillo.desk.level_view.placement_tools import TOOLS, LayingOut
from gatillo.desk.level_view.specks import Specks
from gatillo.desk.looks.object_painter import draw_object, draw_place, foreshortened
from gatillo.desk.looks.theme import kind_colour, text_font, theme, with_alpha
from gatillo.desk.session.workbench import Selection, Workbench
from gatillo.level import edits
from gatillo.level.arranging import attach, grouped_with
from gatillo.level.model import Circle
from gatillo.sim.collision.regions import under_point
from gatillo.sim.world.world import World

MANY = 1_500
"""Objects on screen; of more, small ones are drawn as specks."""
SPECK = 6.0
"""Pixels from its middle; what reaches no farther is a speck among many."""
POINTER_KEYS = {
    Qt.MouseButton.LeftButton: "pointer left",
    Qt.MouseButton.MiddleButton: "pointer middle",
    Qt.MouseButton.RightButton: "pointer right",
}
KIND_MIME = "application/x-gatillo-kind"
GRID = 20.0


@dataclass(slots=True)
class _Drag:
    """What the pointer is doing with a button down."""

    what: str
    start: QPointF
    now: QPointF
    moved: bool = False


class LevelView(Canvas):
    """A window onto the level. x to the right, y up; one unit is one pixel at 100 %."""

    armedChanged = Signal()
    toolChanged = Signal()
    placeDrawn = Signal()
    """A place was drawn: its name may be typed now."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.armed: str | None = None
        """The kind that the next click places."""
        self.laying = LayingOut(self)
        self._grid: tuple[object, list[QPointF]] | None = None
        self._drag: _Drag | None = None
        self._panning = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(220, 140)
        self.setAccessibleName("Level")
        bench.levelChanged.connect(self._take_level)
        bench.runChanged.connect(self.update)
        bench.cursorMoved.connect(self.update)
        bench.selectionChanged.connect(self.update)
        bench.runningChanged.connect(self.update)

    def _take_level(self) -> None:
        if self.armed is not None and all(kind.name != self.armed for kind in self.bench.level.kinds):
            # what was to be placed is gone: undone, renamed, or of another level
            self.arm(None)
        self.update()

    # painting

    def paintEvent(self, event: object) -> None:
        p = QPainter(self)
        # an error must not leave the painter open: Qt would crash on it
        try:
            with self.bench.worker_held():
                self._paint(p)
        finally:
            p.end()

    def _paint(self, p: QPainter) -> None:
        t = theme()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), t.field)
        self._paint_grid(p)
        for place in self.bench.level.places:
            draw_place(p, place, self.to_pixels, self.zoom)
        world = self.bench.world
        self.unmarked = 0
        self._paint_starts(p, world)
        self._paint_objects(p, world)
        paint_matched(p, self)
        paint_selection(p, self, world, self._drag_offset() or (0.0, 0.0))
        if self.overlays:
            paint_overlays(p, self, world)
        paint_sayings(p, self, world)
        paint_offers(p, self, world)
        paint_pointer(p, self, world)
        self.laying.paint(p)
        if self.unmarked:
            words = f"Marks of {self.unmarked:,} more in sight are left out; zoom in to see them"
            self._words(p, words, t.panel, t.quiet, self.height() - 68)
        if world.display.telling:
            self._words(p, world.display.telling, t.ink, t.paper, self.height() - 38)
        if self._drag is not None and self._drag.what == "box":
            p.setPen(QPen(t.cursor, 1, Qt.PenStyle.DashLine))
            p.setBrush(with_alpha(t.cursor, 0.08))
            p.drawRect(QRectF(self._drag.start, self._drag.now).normalized())
        if not self.bench.level.objects and not world.alive.any():
            p.setPen(t.quiet)
            p.setFont(text_font(1))
            words = "Nothing here yet. " + (
                "Drag a kind from the shelf below into the level."
                if self.bench.level.kinds
                else "Make a kind first, with “+ kind” below; then click where one is to stand."
            )
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        self._paint_banner(p)

    def _paint_grid(self, p: QPainter) -> None:
        t, settings = theme(), self.bench.level.settings
        frame = QRectF(self.to_pixels(0, settings.height), self.to_pixels(settings.width, 0))
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.paper)
        p.drawRect(frame)
        step = GRID
        while step * self.zoom < 16:
            step *= 2
        left, top = self.to_level(QPointF(0, 0))
        right, bottom = self.to_level(QPointF(self.width(), self.height()))
        key = (self.zoom, self.centre, self.width(), self.height())
        if self._grid is None or self._grid[0] != key:
            points = [
                self.to_pixels(x * step, y * step)
                for x in range(int(left // step), int(right // step) + 2)
                for y in range(int(bottom // step), int(top // step) + 2)
            ]
            self._grid = (key, points)
        p.setPen(QPen(t.hairline, 1.6))
        p.drawPoints(self._grid[1])

    def _paint_objects(self, p: QPainter, world: World) -> None:
        kinds = world.program.kinds
        alive = np.flatnonzero(world.alive)
        order = alive[np.argsort(world.depth[alive], kind="stable")]
        offset = self._drag_offset()
        flips = foreshortened(world)
        order = self._paint_specks(p, world, self.in_sight(world, order, 400.0), flips, offset)
        for row in order.tolist():
            x, y = world.x.item(row), world.y.item(row)
            if offset and world.id.item(row) in self.bench.selection.objects:
                x, y = x + offset[0], y + offset[1]
            at = self.to_pixels(x, y)
            kind = kinds[world.kind.item(row)]
            own_colour = world.display.colours.get(world.id.item(row))
            if own_colour is not None:
                kind = replace(kind, colour=own_colour)
            size = self.zoom * abs(world.scale.item(row))
            hidden, angle = not world.shown.item(row), world.angle.item(row)
            wide, high = flips.get(row, (1.0, 1.0))
            if wide == high == 1.0:
                draw_object(p, kind, at.x(), at.y(), angle, size, hidden=hidden)
                continue
            # one that flips over an axis in the plane is seen foreshortened
            p.save()
            p.translate(at)
            p.rotate(-angle)
            p.scale(wide, high)
            draw_object(p, kind, 0.0, 0.0, 0.0, size, hidden=hidden)
            p.restore()

    def _paint_specks(
        self,
        p: QPainter,
        world: World,
        rows: NDArray[np.int64],
        flips: dict[int, tuple[float, float]],
        offset: tuple[float, float] | None,
    ) -> NDArray[np.int64]:
        """Where there are very many: draw those that are a few pixels large as specks, all of a kind at once; gives the rest."""
        if len(rows) <= MANY or flips or offset:
            return rows
        half = np.maximum(*world.reach())[rows] * self.zoom
        plain = (half < SPECK) & world.shown[rows]
        if world.display.colours:
            plain &= ~np.isin(world.id[rows], list(world.display.colours))
        small = rows[plain]
        x = self.width() / 2 + (world.x[small] - self.centre[0]) * self.zoom
        y = self.height() / 2 - (world.y[small] - self.centre[1]) * self.zoom
        # one picture and one call: each call of Qt may have to wait for the worker
        picture = Specks(self.width(), self.height(), self.devicePixelRatioF())
        for kind in np.unique(world.kind[small]).tolist():
            mine = world.kind[small] == kind
            look = world.program.kinds[kind]
            wide = max(0.75, float(np.median(half[plain][mine])))
            picture.put(x[mine], y[mine], wide, kind_colour(look.colour), isinstance(look.shape, Circle))
        p.drawImage(0, 0, picture.image())
        return rows[~plain]

    def _paint_starts(self, p: QPainter, world: World) -> None:
        """Where the selected objects start, when the cursor stands later: dashed."""
        if self.bench.cursor.tick == 0:
            return
        t, index = theme(), self.bench.program.index
        offset = self._drag_offset() or (0.0, 0.0)
        for thing in self.bench.level.objects:
            if thing.id not in self.bench.selection.objects:
                continue
            kind = index.kinds[thing.kind]
            at = self.to_pixels(thing.x + offset[0], thing.y + offset[1])
            draw_object(p, kind, at.x(), at.y(), thing.angle, self.zoom * thing.scale, hidden=True)
            row = world.row_of_id(thing.id)
            if row >= 0:
                p.setPen(QPen(t.quiet, 1, Qt.PenStyle.DotLine))
                p.drawLine(at, self.to_pixels(world.x.item(row) + offset[0], world.y.item(row) + offset[1]))

    def _paint_banner(self, p: QPainter) -> None:
        t = theme()
        if self.bench.playing:
            p.setPen(QPen(t.fires, 3))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self.rect().adjusted(1, 1, -2, -2))
            self._words(p, "Playing: keys drive the level and are recorded. Esc stops.", t.fires, t.on_fires)
        elif self.laying.tool:
            hint = next(words for tool, _, words in TOOLS if tool == self.laying.tool)
            self._words(p, f"{hint}. Esc puts it back.", t.cursor, t.panel)
        elif self.armed is not None:
            self._words(p, f"Click to place a {self.armed}. Esc puts it back.", t.cursor, t.panel)

    def _words(self, p: QPainter, words: str, ground: QColor, ink: QColor, top: float = 8) -> None:
        p.setFont(text_font(0, bold=True))
        width = p.fontMetrics().horizontalAdvance(words) + 24
        box = QRectF(self.width() / 2 - width / 2, top, width, 26)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(ground)
        p.drawRoundedRect(box, 13, 13)
        p.setPen(ink)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    # pointing

    def object_at(self, point: QPointF) -> int | None:
        """The front-most object under a pixel, by id."""
        world = self.bench.world
        rows = under_point(world, *self.to_level(point), slack=4 / self.zoom)
        return world.id.item(rows[0]) if len(rows) else None

    def _drag_offset(self) -> tuple[float, float] | None:
        drag = self._drag
        if drag is None or drag.what != "move" or not drag.moved:
            return None
        a, b = self.to_level(drag.start), self.to_level(drag.now)
        return self.laying.guided(b[0] - a[0], b[1] - a[1])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self.bench.playing:
            chosen = choice_at(self, self.bench.world, point)
            if chosen:
                self.bench.choose(chosen)
                return
            self.bench.point(*self.to_level(point))
            self.bench.press(POINTER_KEYS.get(event.button(), ""))
            return
        if event.button() == Qt.MouseButton.MiddleButton or self._panning:
            self._drag = _Drag("pan", point, point)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.armed is not None:
            self.place(self.armed, point)
            if not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.arm(None)
            return
        if self.laying.press(point):
            self.update()
            return
        found = self.object_at(point)
        selected = self.bench.selection.objects
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if found is None:
            if not adding:
                self.bench.select(Selection())
            self._drag = _Drag("box", point, point)
            return
        whole = grouped_with(self.bench.level, {found})
        if adding:
            self.bench.select(Selection(selected - whole if found in selected else selected | whole))
        elif found not in selected:
            self.bench.select(Selection(whole))
        self._drag = _Drag("move", point, point)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.bench.playing:
            self.bench.point(*self.to_level(event.position()))
            return
        if self._drag is None and self.laying.move(event.position()):
            return
        drag = self._drag
        if drag is None:
            return
        before, drag.now = drag.now, event.position()
        drag.moved = drag.moved or (drag.now - drag.start).manhattanLength() > 4
        if drag.what == "pan":
            step = drag.now - before
            self.centre = (self.centre[0] - step.x() / self.zoom, self.centre[1] + step.y() / self.zoom)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.bench.playing:
            self.bench.release(POINTER_KEYS.get(event.button(), ""))
            return
        if self._drag is None and self.laying.release(event.position()):
            self.update()
            return
        drag = self._drag
        offset = self._drag_offset()
        self._drag, self.laying.guides = None, []
        if drag is None:
            return
        if drag.what == "move" and offset is not None:
            if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                self.attach_selected(event.position())
            else:
                self.move_selected(*offset)
        elif drag.what == "box" and drag.moved:
            self._select_box(QRectF(drag.start, drag.now).normalized())
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if not self.laying.end_route():
            self.mousePressEvent(event)

    def _select_box(self, box: QRectF) -> None:
        world = self.bench.world
        found = {
            world.id.item(row)
            for row in np.flatnonzero(world.alive).tolist()
            if box.contains(self.to_pixels(world.x.item(row), world.y.item(row)))
        }
        self.bench.select(Selection(self.bench.selection.objects | found))

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.set_zoom(self.zoom * 1.15 ** (event.angleDelta().y() / 120), event.position())

    # dragging kinds in

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(KIND_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        kind = bytes(event.mimeData().data(KIND_MIME).data()).decode()
        self.place(kind, event.position())
        event.acceptProposedAction()

    def arm(self, kind: str | None) -> None:
        """Let the next click place an object of a kind; None takes that back."""
        if kind is not None and self.laying.tool:
            self.laying.choose("")
        self.armed = kind
        self.setCursor(Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor)
        self.armedChanged.emit()
        self.update()

    # deeds

    def place(self, kind: str, point: QPointF) -> None:
        """Put an object of a kind at a pixel."""
        x, y = self.to_level(point)
        level, made = edits.place_object(self.bench.level, kind, round(x), round(y))
        self.bench.edit(level, f"place a {kind}")
        self.bench.select(Selection(frozenset({made})))

    def place_in_middle(self, kind: str) -> None:
        """Put an object of a kind in the middle of what is seen: for the keyboard."""
        self.place(kind, QPointF(self.width() / 2, self.height() / 2))

    def move_selected(self, dx: float, dy: float, join: str = "") -> None:
        """Move where the selected objects start, to whole units."""
        ids = self._placed()
        if not ids:
            self._say_created()
            return
        level = edits.move_objects(self.bench.level, ids, round(dx), round(dy))
        self.bench.edit(level, f"move {self._named(ids)}", join)

    def duplicate_selected(self) -> None:
        """Copy the selected objects, a little to the lower right."""
        ids = self._placed()
        if ids:
            level, made = edits.duplicate_objects(self.bench.level, ids, GRID, -GRID)
            self.bench.edit(level, f"duplicate {self._named(ids)}")
            self.bench.select(Selection(frozenset(made)))

    def attach_selected(self, point: QPointF) -> None:
        """Attach the selected objects to the one under a pixel."""
        ids = self._placed()
        world = self.bench.world
        rows = under_point(world, *self.to_level(point), slack=4 / self.zoom)
        under = next((i for i in world.id[rows].tolist() if i not in ids), None)
        carrier = next((o for o in self.bench.level.objects if o.id == under), None)
        if carrier is None:
            self.bench.told.emit("Let go over another object to attach to it.")
            return
        level = self.bench.level
        try:
            for object_id in ids:
                level = attach(level, object_id, carrier.name)
        except ValueError as error:
            self.bench.told.emit(f"{error}.")
            return
        self.bench.edit(level, f"attach {self._named(ids)} to {carrier.name}")
        self.bench.told.emit(f"{self._named(ids)} now follows {carrier.name} from the start.")

    def delete_selected(self) -> None:
        """Take the selected objects out of the level."""
        ids = self._placed()
        if ids:
            self.bench.edit(edits.delete_objects(self.bench.level, ids), f"delete {self._named(ids)}")

    def select_all(self) -> None:
        """Select every object of the level."""
        self.bench.select(Selection(frozenset(o.id for o in self.bench.level.objects)))

    def _placed(self) -> frozenset[int]:
        known = {o.id for o in self.bench.level.objects}
        return self.bench.selection.objects & known

    def _named(self, ids: frozenset[int]) -> str:
        if len(ids) == 1:
            return next(o.name for o in self.bench.level.objects if o.id in ids)
        return f"{len(ids)} objects"

    def _say_created(self) -> None:
        if self.bench.selection.objects:
            self.bench.told.emit("A rule created this object during the run; it cannot be laid out by hand.")

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.bench.playing:
            if event.key() == Qt.Key.Key_Escape:
                self.bench.stop()
                return
            name = key_name(event)
            if name and not event.isAutoRepeat() and not (name.isdigit() and self.bench.choose(int(name))):
                self.bench.press(name)
            return
        step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        moves = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, step),
            Qt.Key.Key_Down: (0, -step),
        }
        held = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if event.key() in moves and self.bench.selection.objects and not held:
            self.move_selected(*moves[Qt.Key(event.key())], join="nudge")
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.laying.end_route():
            pass
        elif event.key() == Qt.Key.Key_Escape:
            if self.laying.tool:
                self.laying.choose("")
            elif self.armed:
                self.arm(None)
            else:
                self.bench.select(Selection())
        elif event.key() == Qt.Key.Key_Space:
            self._panning = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            self._select_next(1 if event.key() == Qt.Key.Key_PageDown else -1)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if self.bench.playing:
            name = key_name(event)
            if name and not event.isAutoRepeat():
                self.bench.release(name)
        elif event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._panning = False
            self.setCursor(Qt.CursorShape.ArrowCursor)
        else:
            super().keyReleaseEvent(event)

    def event(self, event: object) -> bool:
        # while playing, keys are the level's: no shortcut may take them, nor may Tab leave
        if self.bench.playing and isinstance(event, QKeyEvent):
            if event.type() == QKeyEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QKeyEvent.Type.KeyPress and event.key() in (
                Qt.Key.Key_Tab,
                Qt.Key.Key_Backtab,
            ):
                self.keyPressEvent(event)
                return True
        return super().event(event)  # type: ignore[arg-type]

    def focusOutEvent(self, event: QFocusEvent) -> None:
        if self.bench.playing:
            self.bench.stop()
        super().focusOutEvent(event)

    def _select_next(self, by: int) -> None:
        ids = [o.id for o in self.bench.level.objects]
        if not ids:
            return
        chosen = [i for i, object_id in enumerate(ids) if object_id in self.bench.selection.objects]
        at = (chosen[0] + by) % len(ids) if chosen else 0
        self.bench.select(Selection(frozenset({ids[at]})))
