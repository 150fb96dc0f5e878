"""A picture of a level as it is laid out, for galleries."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap

from gatillo.desk.looks.object_painter import draw_object, draw_place, fill_of
from gatillo.desk.looks.theme import theme
from gatillo.level.edits import as_tried
from gatillo.level.model import Area, Level, Object
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

AMID = {"Night shift": ("The whole round", 17.4), "Moths": ("A swarm between the fires", 6.0)}
"""By level: in which trial, and how many seconds into it, it is shown, where that is not its first at MOSTLY."""
MOSTLY = 3.0


def level_picture(level: Level, width: int, height: int, ratio: float = 2.0) -> QPixmap:
    """Return the level fitted into width × height pixels."""
    pixmap = QPixmap(round(width * ratio), round(height * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    west, south, east, north = _bounds(level)
    zoom = min((width - 16) / (east - west), (height - 16) / (north - south), 1.0)
    left = width / 2 - (west + east) / 2 * zoom
    bottom = height / 2 + (south + north) / 2 * zoom

    def point(x: float, y: float) -> QPointF:
        return QPointF(left + x * zoom, bottom - y * zoom)

    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    ground = level.settings.ground
    p.fillRect(QRectF(0, 0, width, height), fill_of(ground) if ground else theme().paper)
    kinds = {kind.name: kind for kind in level.kinds}
    for place in level.places:
        if isinstance(place, Area):
            draw_place(p, place, point, zoom)
    depths = sorted(level.objects, key=lambda o: kinds[o.kind].depth if o.depth is None else o.depth)
    for thing in depths:
        at = point(thing.x, thing.y)
        draw_object(
            p, kinds[thing.kind], at.x(), at.y(), thing.angle, zoom * thing.scale, hidden=not thing.shown
        )
    p.end()
    return pixmap


def seen_amid(level: Level) -> Level:
    """Return the level with its objects as they stand some way into a trial, its first mostly, for a picture of it."""
    first = level.trials[0]
    name, seconds = AMID.get(level.name, (first.name, min(MOSTLY, 0.4 * first.length)))
    trial = next((each for each in level.trials if each.name == name), first)
    run = Run(Program(as_tried(level, trial)), trial)
    run.advance(round(seconds * level.settings.rate))
    world = run.world
    names = {o.id: o.name for o in level.objects}
    objects = tuple(
        Object(
            id=int(world.id[row]),
            kind=run.program.kinds[world.kind[row]].name,
            name=names.get(int(world.id[row]), f"+{row}"),
            x=float(world.x[row]),
            y=float(world.y[row]),
            angle=float(world.angle[row]),
            scale=abs(float(world.scale[row])),
            depth=float(world.depth[row]),
            shown=bool(world.shown[row]),
        )
        for row in world.alive.nonzero()[0].tolist()
    )
    still = tuple(thing for thing in level.objects if thing.kind in run.program.index.scenery)
    return replace(level, objects=(*still, *objects))


def _bounds(level: Level) -> tuple[float, float, float, float]:
    """West, south, east and north of what there is to see; the whole level if there is nothing."""
    if level.settings.ground or level.settings.ground_picture:
        # a composed level is seen as its frame has it
        return 0.0, 0.0, level.settings.width, level.settings.height
    kinds = {kind.name: kind for kind in level.kinds}
    boxes = [(o.x, o.y, *(h * o.scale for h in kinds[o.kind].shape.halves)) for o in level.objects]
    boxes += [(p.x, p.y, *p.shape.halves) for p in level.places if isinstance(p, Area)]
    if not boxes:
        return 0.0, 0.0, level.settings.width, level.settings.height
    return (
        min(x - w for x, _, w, _ in boxes) - 10,
        min(y - h for _, y, _, h in boxes) - 10,
        max(x + w for x, _, w, _ in boxes) + 10,
        max(y + h for _, y, _, h in boxes) + 10,
    )
