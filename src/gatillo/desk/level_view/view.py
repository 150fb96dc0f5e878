"""The level at the cursor: drawn, pointed at, laid out and played in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QCursor,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.level_view.level_keys import key_name
from gatillo.desk.level_view.level_painter import LevelPainter
from gatillo.desk.level_view.object_commands import ObjectCommands
from gatillo.desk.level_view.objects_aloud import objects_aloud
from gatillo.desk.level_view.offers import choice_at
from gatillo.desk.level_view.placement_tools import KIND_MIME, PlacementTools
from gatillo.desk.level_view.scenery_painter import scenery_at, scenery_in
from gatillo.desk.looks.read_aloud import Role, let_be_read
from gatillo.desk.looks.small_pictures import kind_picture
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.pointing import Named, drag_name
from gatillo.level.arranging import grouped_with

POINTER_KEYS = {
    Qt.MouseButton.LeftButton: "pointer left",
    Qt.MouseButton.MiddleButton: "pointer middle",
    Qt.MouseButton.RightButton: "pointer right",
}


@dataclass(slots=True)
class _Drag:
    """What the pointer is doing with a button down."""

    what: str
    start: QPointF
    now: QPointF
    moved: bool = False


TURN_STEP = 15.0
"""Degrees by which a notch of the wheel or a key turns what is being recorded."""
MENUS = (
    ("new kind", "new spot", "new area", "new route", "paste", "select all", "fit level", "settings"),
    (
        "follow",
        "rename",
        "cut",
        "copy",
        "paste",
        "duplicate",
        "row",
        "ring",
        "delete",
        "ask value",
        "expect as now",
    ),
    (
        "cut",
        "copy",
        "paste",
        "duplicate",
        "row",
        "ring",
        "group objects",
        "ungroup objects",
        *(f"align {edge}" for edge in ("left", "right", "top", "bottom", "middle across", "middle up")),
        "spread x",
        "spread y",
        "delete",
        "expect as now",
    ),
)
"""By how many objects are selected, none, one or several: the commands that fit (window/commands.py)."""


class LevelView(Canvas):
    """A window onto the level. x to the right, y up; one unit is one pixel at 100 %."""

    menuWanted = Signal(object, object)
    """A menu is wanted at a place of the screen, with these commands."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.ends_play: Callable[[QKeyEvent], bool] = lambda event: False
        """Whether a key that is pressed while playing is no key of the level's, but ends it."""
        self.tools = PlacementTools(self)
        self.objects = ObjectCommands(self)
        self.painter = LevelPainter(self, self.tools)
        self._drag: _Drag | None = None
        self._panning = False
        self._menu_at: QPointF | None = None
        """Where the menu was opened, until the pointer has moved on."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        # all of it is painted: nothing below it needs to be
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAcceptDrops(True)
        self.setMinimumSize(220, 140)
        self.setAccessibleName("Level")
        self.aloud = let_be_read(self, Role.List, lambda: objects_aloud(self))
        for told in (bench.levelChanged, bench.cursorMoved, bench.runChanged, bench.selectionChanged):
            told.connect(self.aloud.changed)
        bench.levelChanged.connect(self._take_level)
        bench.runChanged.connect(self.update)
        bench.cursorMoved.connect(self._on_moment)
        bench.document.replaced.connect(lambda: self.follow(None))
        bench.selectionChanged.connect(self.update)
        bench.runningChanged.connect(self.update)
        bench.answers.changed.connect(self.update)
        bench.beside.changed.connect(self.update)

    def _take_level(self) -> None:
        if self.tools.armed is not None and all(
            kind.name != self.tools.armed for kind in self.bench.level.kinds
        ):
            # what was to be placed is gone: undone, renamed, or of another level
            self.tools.arm(None)
        self.update()

    def _on_moment(self) -> None:
        self.keep_followed()
        self.update()

    def follow_selected(self) -> None:
        """Follow the selected object, or let it go."""
        chosen = sorted(self.bench.selection.objects)
        self.follow(None if self.followed is not None or len(chosen) != 1 else chosen[0])

    def named_at(self, point: QPoint, kind: bool) -> Named | None:
        """Return the object or place at a point, for a name to be filled in; with `kind`, the object's kind."""
        if self.bench.player.playing:
            return None
        where = QPointF(point)
        found = self.object_at(where)
        thing = next((o for o in self.bench.level.objects if o.id == found), None)
        if thing is not None:
            return Named(thing.kind, "kind") if kind else Named(thing.name, "object")
        if found is not None:
            # it was created in the run: no name is its own
            world = self.bench.world
            row = int(np.flatnonzero(world.id == found)[0])
            return Named(self.bench.program.kinds[world.kind.item(row)].name, "kind")
        place = self.tools.place_at(where)
        if place is not None:
            return Named(place.name, "place")
        x, y = self.tools.snapped(*self.to_level(where))
        return Named(f"({round(x):g}, {round(y):g})", "ground")

    # painting

    def paintEvent(self, event: object) -> None:
        p = QPainter(self)
        # an error must not leave the painter open: Qt would crash on it
        try:
            with self.bench.worker_held():
                drag = self._drag
                box = drag is not None and drag.what == "box"
                self.painter.paint(
                    p,
                    self._drag_offset(),
                    QRectF(drag.start, drag.now).normalized() if drag and box else None,
                )
        finally:
            p.end()

    # pointing

    def _drag_offset(self) -> tuple[float, float] | None:
        drag = self._drag
        if drag is None or drag.what != "move" or not drag.moved:
            return None
        a, b = self.to_level(drag.start), self.to_level(drag.now)
        return self.tools.guided(b[0] - a[0], b[1] - a[1])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self.bench.player.playing:
            chosen = choice_at(self, self.bench.world, point)
            if chosen:
                self.bench.player.choose(chosen)
                return
            self.bench.player.point(*self.to_level(point))
            self.bench.player.press(POINTER_KEYS.get(event.button(), ""))
            return
        if event.button() == Qt.MouseButton.MiddleButton or self._panning:
            self._drag = _Drag("pan", point, point)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.tools.armed is not None:
            self.objects.place(self.tools.armed, point)
            if not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.tools.arm(None)
            return
        if self.tools.press(point):
            self.update()
            return
        found = self.object_at(point)
        selected = self.bench.selection.objects
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        piece = scenery_at(self, point) if found is None else None
        if piece in selected:
            found = piece
        if found is None:
            # scenery can lie under everything: a drag over it draws a box, until a click has selected it
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
        self._menu_at = None
        if self.bench.player.playing:
            self.bench.player.point(*self.to_level(event.position()))
            return
        if self._drag is None and not self.rect().contains(event.position().toPoint()):
            place = self.tools.held_place_out()
            if place:
                drag_name(self, place)
                return
        if self._drag is None and self.tools.move(event.position()):
            return
        drag = self._drag
        if drag is None:
            return
        if drag.what == "move" and self._drag_out(event):
            return
        before, drag.now = drag.now, event.position()
        drag.moved = drag.moved or (drag.now - drag.start).manhattanLength() > 4
        if drag.what == "pan":
            self.follow(None)
            step = drag.now - before
            self.centre = (self.centre[0] - step.x() / self.zoom, self.centre[1] + step.y() / self.zoom)
        self.update()

    def _drag_out(self, event: QMouseEvent) -> bool:
        """Drag what is held out of the view as a name, leaving it where it was; False while the pointer is within."""
        if self.rect().contains(event.position().toPoint()):
            return False
        chosen = self.bench.selection.objects
        thing = next((o for o in self.bench.level.objects if o.id in chosen), None)
        self._drag, self.tools.guides = None, []
        self.update()
        if thing is not None:
            kind = next(k for k in self.bench.level.kinds if k.name == thing.kind)
            drag_name(self, thing.name, kind_picture(kind, 32))
        return True

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.bench.player.playing:
            self.bench.player.release(POINTER_KEYS.get(event.button(), ""))
            return
        if self._drag is None and self.tools.release(event.position()):
            self.update()
            return
        drag = self._drag
        offset = self._drag_offset()
        self._drag, self.tools.guides = None, []
        if drag is None:
            return
        if drag.what == "move" and offset is not None:
            if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                self.objects.attach_selected(event.position())
            else:
                self.objects.move_selected(*offset)
        elif drag.what == "box" and drag.moved:
            self._select_box(QRectF(drag.start, drag.now).normalized())
        elif drag.what == "box" and (piece := scenery_at(self, drag.start)) is not None:
            self.bench.select(
                Selection(self.bench.selection.objects | grouped_with(self.bench.level, {piece}))
            )
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if not self.tools.end_route():
            self.mousePressEvent(event)

    def _select_box(self, box: QRectF) -> None:
        world = self.bench.world
        found = {
            world.id.item(row)
            for row in np.flatnonzero(world.alive).tolist()
            if box.contains(self.to_pixels(world.x.item(row), world.y.item(row)))
        }
        self.bench.select(Selection(self.bench.selection.objects | found | scenery_in(self, box)))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.bench.player.playing or self.tools.armed is not None:
            return
        found = self.object_at(QPointF(event.pos()))
        if found is None:
            found = scenery_at(self, QPointF(event.pos()))
        if found is not None and found not in self.bench.selection.objects:
            self.bench.select(Selection(grouped_with(self.bench.level, {found})))
        elif found is None and event.reason() != QContextMenuEvent.Reason.Keyboard:
            self.bench.select(Selection())
        many = len(self.bench.selection.objects)
        self._menu_at = QPointF(event.pos())
        self.menuWanted.emit(event.globalPos(), MENUS[min(many, 2)])

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if self.tools.turn(TURN_STEP * steps):
            return
        self.set_zoom(self.zoom * 1.15 ** (event.angleDelta().y() / 120), event.position())

    def paste_point(self) -> tuple[float, float]:
        """Return the point of the level to which what is pasted goes.

        It is where the menu was opened or the pointer is, else the middle of what is seen.
        """
        here = self._menu_at or QPointF(self.mapFromGlobal(QCursor.pos()))
        if self._menu_at is None and not (self.underMouse() and self.rect().contains(here.toPoint())):
            here = QPointF(self.width() / 2, self.height() / 2)
        x, y = self.to_level(here)
        return round(x, 1), round(y, 1)

    # dragging kinds in

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(KIND_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        kind = bytes(event.mimeData().data(KIND_MIME).data()).decode()
        self.objects.place(kind, event.position())
        event.acceptProposedAction()

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.bench.player.playing:
            if event.key() == Qt.Key.Key_Escape or self.ends_play(event):
                self.bench.player.stop()
                return
            name = key_name(event)
            if (
                name
                and not event.isAutoRepeat()
                and not (name.isdigit() and self.bench.player.choose(int(name)))
            ):
                self.bench.player.press(name)
            return
        step = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        moves = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, step),
            Qt.Key.Key_Down: (0, -step),
        }
        held = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        turns = {Qt.Key.Key_Left: TURN_STEP, Qt.Key.Key_Right: -TURN_STEP}
        if event.key() in turns and self.tools.turn(turns[Qt.Key(event.key())]):
            pass
        elif event.key() in moves and self.bench.selection.objects and not held:
            self.objects.move_selected(*moves[Qt.Key(event.key())], join="nudge")
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.tools.end_route():
            pass
        elif event.key() == Qt.Key.Key_Escape:
            if self.tools.tool:
                self.tools.choose("")
            elif self.tools.armed:
                self.tools.arm(None)
            else:
                self.bench.select(Selection())
        elif event.key() == Qt.Key.Key_Space:
            self._panning = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() == Qt.Key.Key_F and not held:
            under = self.object_at(QPointF(self.mapFromGlobal(QCursor.pos())))
            if under is not None and self.underMouse() and under != self.followed:
                self.follow(under)
            else:
                self.follow_selected()
        elif event.key() in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            self.objects.select_next(1 if event.key() == Qt.Key.Key_PageDown else -1)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if self.bench.player.playing:
            name = key_name(event)
            if name and not event.isAutoRepeat():
                self.bench.player.release(name)
        elif event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._panning = False
            self.setCursor(Qt.CursorShape.ArrowCursor)
        else:
            super().keyReleaseEvent(event)

    def event(self, event: object) -> bool:
        # while playing, keys are the level's: no shortcut may take them, nor may Tab leave
        if self.bench.player.playing and isinstance(event, QKeyEvent):
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
        if self.bench.player.playing:
            if event.reason() == Qt.FocusReason.ActiveWindowFocusReason:
                self.bench.player.stop()
            else:
                # a number may be tuned while it is played; a key that is still held would never be let go
                self.bench.player.release_all()
        super().focusOutEvent(event)
