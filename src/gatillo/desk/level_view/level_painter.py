"""Painting the level at the cursor: its ground, its objects, and what is shown over them."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from gatillo.desk.level_view.canvas import GRID, Canvas
from gatillo.desk.level_view.ground_picture import GroundPicture
from gatillo.desk.level_view.labels import paint_labels
from gatillo.desk.level_view.marks import (
    paint_ghosts,
    paint_matched,
    paint_pointed,
    paint_pointer,
    paint_sayings,
    paint_selection,
)
from gatillo.desk.level_view.offers import choice_box, paint_offers
from gatillo.desk.level_view.overlays import paint_overlays
from gatillo.desk.level_view.placement_tools import TOOLS, PlacementTools
from gatillo.desk.level_view.scenery_painter import Piece, depth_of, scenery_in_sight
from gatillo.desk.level_view.specks import Specks
from gatillo.desk.level_view.still_objects import MOST, StillObjects
from gatillo.desk.looks.object_painter import draw_object, draw_place, fill_of, foreshortened
from gatillo.desk.looks.picture_import import picture_of
from gatillo.desk.looks.theme import kind_colour, text_font, theme, with_alpha
from gatillo.inspect.shown_looks import shown_looks
from gatillo.level.model import Circle, Kind, Look
from gatillo.sim.world.world import World

MANY = 1_000
"""Objects on screen; of more, small ones are drawn as specks."""
SPECK = 6.0
"""Pixels from its middle; what reaches no farther is a speck among MANY, or among twice as many."""


_IN_LINES = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap


class LevelPainter:
    """Paints what a canvas shows of the level."""

    def __init__(self, canvas: Canvas, tools: PlacementTools) -> None:
        self.canvas = canvas
        self.tools = tools
        self._ground = GroundPicture()
        self._still, self._still_pieces = StillObjects(), StillObjects()
        self._others: dict[tuple[int, str, int], tuple[Kind, Look | None, Kind]] = {}
        """Kinds in the colours and looks that objects have of their own."""
        self._grid: tuple[object, list[QPointF]] | None = None

    def paint(
        self, p: QPainter, dragged: tuple[float, float] | None = None, box: QRectF | None = None
    ) -> None:
        """Paint all: with the selected objects dragged by an offset in units, and a box drawn about some in pixels."""
        t, level, world = theme(), self.canvas.bench.level, self.canvas.bench.world
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._ground.draw(p, self.canvas, (level.settings, level.places), self._paint_ground)
        self.canvas.unmarked = 0
        self._paint_starts(p, world, dragged or (0.0, 0.0))
        self._paint_objects(p, world, dragged)
        paint_labels(p, self.canvas)
        paint_ghosts(p, self.canvas, world)
        paint_matched(p, self.canvas)
        paint_pointed(p, self.canvas, world)
        paint_selection(p, self.canvas, world, dragged or (0.0, 0.0))
        if self.canvas.overlays:
            paint_overlays(p, self.canvas, world)
        chosen_from = choice_box(self.canvas, world)
        said = paint_sayings(p, self.canvas, world, chosen_from)
        paint_offers(p, self.canvas, world, [*chosen_from, *said])
        paint_pointer(p, self.canvas, world)
        self.tools.paint(p)
        if self.canvas.unmarked:
            words = f"Marks of {self.canvas.unmarked:,} more are not drawn; zoom in to see them"
            self._words(p, words, t.panel, t.quiet, self.canvas.height() - 68)
        if world.display.telling:
            self._words(p, world.display.telling, t.ink, t.paper, self.canvas.height() - 38)
        if box is not None:
            p.setPen(QPen(t.cursor, 1, Qt.PenStyle.DashLine))
            p.setBrush(with_alpha(t.cursor, 0.08))
            p.drawRect(box)
        if not self.canvas.bench.level.objects and not world.alive.any():
            p.setPen(t.quiet)
            p.setFont(text_font(1))
            words = "Nothing here yet. " + (
                "Drag a kind from the shelf below into the level, or select it there and press Enter."
                if self.canvas.bench.level.kinds
                else "Make a kind first, with “+ kind” below; then click where you want one."
            )
            p.drawText(self.canvas.rect().adjusted(20, 20, -20, -20), _IN_LINES, words)
        self._paint_followed(p)
        self._paint_banner(p)

    def _paint_ground(self, p: QPainter) -> None:
        p.fillRect(self.canvas.rect(), theme().field)
        self._paint_grid(p)
        for place in self.canvas.bench.level.places:
            draw_place(p, place, self.canvas.to_pixels, self.canvas.zoom)

    def _paint_grid(self, p: QPainter) -> None:
        t, settings = theme(), self.canvas.bench.level.settings
        frame = QRectF(self.canvas.to_pixels(0, settings.height), self.canvas.to_pixels(settings.width, 0))
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(fill_of(settings.ground) if settings.ground else t.paper)
        p.drawRect(frame)
        picture = picture_of(settings.ground_picture)
        if picture is not None:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawPixmap(frame, picture, QRectF(picture.rect()))
        step = GRID
        while step * self.canvas.zoom < 16:
            step *= 2
        left, top = self.canvas.to_level(QPointF(0, 0))
        right, bottom = self.canvas.to_level(QPointF(self.canvas.width(), self.canvas.height()))
        key = (self.canvas.zoom, self.canvas.centre, self.canvas.width(), self.canvas.height())
        if self._grid is None or self._grid[0] != key:
            points = [
                self.canvas.to_pixels(x * step, y * step)
                for x in range(int(left // step), int(right // step) + 2)
                for y in range(int(bottom // step), int(top // step) + 2)
            ]
            self._grid = (key, points)
        p.setPen(QPen(t.hairline, 1.6))
        p.drawPoints(self._grid[1])

    def _paint_objects(self, p: QPainter, world: World, offset: tuple[float, float] | None) -> None:
        kinds = world.program.kinds
        alive = np.flatnonzero(world.alive)
        order = alive[np.argsort(world.depth[alive], kind="stable")]
        flips, looks = foreshortened(world), shown_looks(world)
        # what an object carries about with it, such as where it looks, reaches a little farther than its shape
        reach = np.maximum(*world.reach())[order] * (1.6 * self.canvas.zoom) + 30.0
        dragged = max(map(abs, offset)) * self.canvas.zoom if offset else 0.0
        order = self._paint_specks(
            p, world, self.canvas.in_sight(world, order, reach + dragged), flips, offset, looks
        )
        pieces = scenery_in_sight(self.canvas)
        self._still.forget_all_but(len(order))
        self._still_pieces.forget_all_but(len(pieces))
        for row in order.tolist():
            while pieces and depth_of(pieces[0]) <= world.depth.item(row):
                self._paint_piece(p, pieces.pop(0), offset)
            x, y = world.x.item(row), world.y.item(row)
            if offset and world.id.item(row) in self.canvas.bench.selection.objects:
                x, y = x + offset[0], y + offset[1]
            at = self.canvas.to_pixels(x, y)
            kind = kinds[world.kind.item(row)]
            own_colour, look = world.display.colours.get(world.id.item(row)), looks.get(row)
            if own_colour is not None or look is not None:
                kind = self._drawn_otherwise(kind, own_colour or "", look)
            size = self.canvas.zoom * abs(world.scale.item(row)) * (look.scale if look is not None else 1.0)
            hidden, angle = not world.shown.item(row), world.angle.item(row)
            wide, high = flips.get(row, (1.0, 1.0))
            if wide == high == 1.0 and len(order) <= MOST:
                self._still.draw(p, world.id.item(row), kind, at, angle, size, hidden=hidden)
                continue
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
        for piece in pieces:
            self._paint_piece(p, piece, offset)

    def _drawn_otherwise(self, kind: Kind, colour: str, look: Look | None) -> Kind:
        """Return a kind in another colour (unless it is empty) and look; the same object each time."""
        key = id(kind), colour, id(look)
        found = self._others.get(key)
        if found is None or found[0] is not kind or found[1] is not look:
            other = look.of(kind) if look is not None else kind
            found = self._others[key] = (kind, look, replace(other, colour=colour) if colour else other)
        return found[2]

    def _paint_piece(self, p: QPainter, piece: Piece, offset: tuple[float, float] | None) -> None:
        thing, kind = piece
        dragged = offset if offset and thing.id in self.canvas.bench.selection.objects else (0.0, 0.0)
        at = self.canvas.to_pixels(thing.x + dragged[0], thing.y + dragged[1])
        size = self.canvas.zoom * thing.scale
        hidden = not thing.shown
        if dragged == (0.0, 0.0):
            self._still_pieces.draw(p, thing.id, kind, at, thing.angle, size, hidden=hidden)
        else:
            draw_object(p, kind, at.x(), at.y(), thing.angle, size, hidden=hidden)

    def _paint_specks(
        self,
        p: QPainter,
        world: World,
        rows: NDArray[np.int64],
        flips: dict[int, tuple[float, float]],
        offset: tuple[float, float] | None,
        looks: dict[int, Look],
    ) -> NDArray[np.int64]:
        """Return where there are very many: draw those that are a few pixels large as specks, all of a kind at once; gives the rest."""
        if len(rows) <= MANY or flips or offset:
            return rows
        half = np.maximum(*world.reach())[rows] * self.canvas.zoom
        # the more there are, the larger ones are specks too: what all of them take stays the same
        plain = (half < SPECK * max(1.0, len(rows) / (2 * MANY))) & world.shown[rows]
        if world.display.colours:
            plain &= ~np.isin(world.id[rows], list(world.display.colours))
        small = rows[plain]
        x = self.canvas.width() / 2 + (world.x[small] - self.canvas.centre[0]) * self.canvas.zoom
        y = self.canvas.height() / 2 - (world.y[small] - self.canvas.centre[1]) * self.canvas.zoom
        # one picture and one call: each call of Qt may have to wait for the worker
        picture = Specks(self.canvas.width(), self.canvas.height(), self.canvas.devicePixelRatioF())
        colours = list(dict.fromkeys(look.colour for look in looks.values() if look.colour))
        own = np.zeros(len(world.kind), dtype=np.int64)
        for row, look in looks.items():
            own[row] = colours.index(look.colour) + 1 if look.colour else 0
        sorts = world.kind[small] * (len(colours) + 1) + own[small]
        for sort in np.unique(sorts).tolist():
            mine = sorts == sort
            number, coloured = divmod(sort, len(colours) + 1)
            kind = world.program.kinds[number]
            wide = max(0.75, float(np.median(half[plain][mine])))
            colour = kind_colour(colours[coloured - 1] if coloured else kind.colour)
            picture.put(x[mine], y[mine], wide, colour, isinstance(kind.shape, Circle))
        p.drawImage(0, 0, picture.image())
        return rows[~plain]

    def _paint_starts(self, p: QPainter, world: World, offset: tuple[float, float]) -> None:
        """Where the selected objects start, when the cursor stands later: dashed."""
        if self.canvas.bench.cursor.tick == 0:
            return
        t, kinds = theme(), self.canvas.bench.program.index.kinds
        for thing in self.canvas.bench.level.objects:
            kind = kinds.get(thing.kind)
            if kind is None or thing.id not in self.canvas.bench.selection.objects:
                # scenery stands where it starts
                continue
            at = self.canvas.to_pixels(thing.x + offset[0], thing.y + offset[1])
            draw_object(p, kind, at.x(), at.y(), thing.angle, self.canvas.zoom * thing.scale, hidden=True)
            row = world.row_of_id(thing.id)
            if row >= 0:
                p.setPen(QPen(t.quiet, 1, Qt.PenStyle.DotLine))
                p.drawLine(
                    at, self.canvas.to_pixels(world.x.item(row) + offset[0], world.y.item(row) + offset[1])
                )

    def _paint_banner(self, p: QPainter) -> None:
        t = theme()
        if self.canvas.bench.player.playing:
            p.setPen(QPen(t.fires, 3))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self.canvas.rect().adjusted(1, 1, -2, -2))
            self._words(
                p,
                "Playing. Esc stops.",
                t.fires,
                t.on_fires,
            )
        elif self.tools.tool:
            hint = next(words for tool, _, words in TOOLS if tool == self.tools.tool)
            self._words(p, f"{hint}. Esc cancels.", t.cursor, t.panel)
        elif self.tools.armed is not None:
            self._words(p, f"Click where a {self.tools.armed} should be. Esc cancels.", t.cursor, t.panel)

    def _paint_followed(self, p: QPainter) -> None:
        """Say at the lower left which object is followed."""
        name = self.canvas.followed_name()
        if not name:
            return
        t = theme()
        words = f"Following {name}. A drag of the view lets it go."
        p.setFont(text_font(-1))
        box = QRectF(8, self.canvas.height() - 28, p.fontMetrics().horizontalAdvance(words) + 16, 20)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.panel)
        p.drawRoundedRect(box, 4, 4)
        p.setPen(t.quiet)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _words(self, p: QPainter, words: str, ground: QColor, ink: QColor, top: float = 8) -> None:
        p.setFont(text_font(0, bold=True))
        room = QRectF(0, 0, max(120.0, self.canvas.width() - 40.0), self.canvas.height())
        text = p.boundingRect(room, _IN_LINES, words)
        box = QRectF(0, 0, text.width() + 26, max(26.0, text.height() + 6))
        # what is at the lower edge grows upwards
        box.moveTop(top if top < self.canvas.height() / 2 else top + 26 - box.height())
        box.moveLeft((self.canvas.width() - box.width()) / 2)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(ground)
        p.drawRoundedRect(box, 13, 13)
        p.setPen(ink)
        p.drawText(box, _IN_LINES, words)
