"""A drawing as a layout: what its shapes become, by a small table, and the level with them.

Shapes are read by svgelements, after the file has been parsed without entities and within bounds.
"""

from __future__ import annotations

import io
import math
import re
from dataclasses import dataclass, field
from typing import Any
from xml.etree.ElementTree import Element, tostring

import svgelements
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from msgspec.structs import replace

from gatillo.files.layout.objects_csv import Taken
from gatillo.kernels.mathematics import atan2d, cosd, length, sind
from gatillo.level.document import FARTHEST
from gatillo.level.edits import free_object_id
from gatillo.level.model import (
    Area,
    Circle,
    Kind,
    Level,
    Object,
    Place,
    Rectangle,
    Route,
    Spot,
    Stop,
)
from gatillo.level.naming import FreeNames, name_problem, token
from gatillo.level.validation import COLOUR, flaws

MOST_BYTES = 16 << 20
MOST_ELEMENTS = 20_000
MOST_STOPS = 500
AREA, ROUTE, SPOT, GROUND, NOTHING = "area", "route", "spot", "ground", "nothing"
ALIKE = 0.01
"""So much may the two sides of a rectangle be scaled apart."""
LABEL = "{http://www.inkscape.org/namespaces/inkscape}label"
DRAWN = ("rect", "circle", "ellipse", "path", "line", "polyline", "polygon")


class NoDrawing(Exception):
    """A text that is no drawing that can be read; the message says why, in a sentence."""


@dataclass(slots=True)
class DrawnShape:
    """A shape: what it is listed under, its own name, and where it is in level units, y upward."""

    row: str
    name: str
    sort: str
    x: float
    y: float
    width: float
    height: float
    angle: float = 0.0
    points: list[tuple[float, float]] = field(default_factory=list)
    fill: str = ""


@dataclass(slots=True)
class Drawing:
    """The shapes of a drawing and its size."""

    width: float
    height: float
    shapes: list[DrawnShape]
    notes: list[str] = field(default_factory=list)

    def rows(self) -> dict[str, int]:
        """Return what shapes are listed under, and how many are."""
        found: dict[str, int] = {}
        for shape in self.shapes:
            found[shape.row] = found.get(shape.row, 0) + 1
        return found


# reading


def read_drawing(text: str) -> Drawing:
    """Return the shapes of an SVG. Raises NoDrawing."""
    if len(text) > MOST_BYTES:
        raise NoDrawing(f"a drawing may have {MOST_BYTES >> 20} MB at most")
    try:
        root = ElementTree.fromstring(text)
    except DefusedXmlException:
        raise NoDrawing("it declares entities, which are not read") from None
    except (ElementTree.ParseError, ValueError, RecursionError) as error:
        raise NoDrawing(f"it is not XML: {error}") from None
    if _tag(root) != "svg":
        raise NoDrawing("it is no SVG: its first element is another")
    _check_size(root)
    # numbers are then in the units of the view box, which are level units
    if "viewBox" in root.attrib:
        root.attrib.pop("width", None)
        root.attrib.pop("height", None)
    _name_rows(root, "")
    try:
        made = svgelements.SVG.parse(io.StringIO(tostring(root, encoding="unicode")), reify=False)
        left, top, wide, high = _box(made)
        drawing = Drawing(wide, high, [])
        for shape in made.elements():
            if isinstance(shape, svgelements.Shape):
                _add(drawing, shape, left, top + high)
    except (ValueError, TypeError, AttributeError, ArithmeticError, RecursionError, IndexError) as error:
        raise NoDrawing(f"it cannot be understood: {error}") from None
    return drawing


def _tag(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _check_size(root: Element) -> None:
    """Refuse what would grow beyond bounds, such as uses of uses."""
    sizes = {e.get("id"): sum(1 for _ in e.iter()) for e in root.iter() if e.get("id")}
    uses = [e for e in root.iter() if _tag(e) == "use"]
    with_uses = {e.get("id") for e in root.iter() if e.get("id") and any(_tag(i) == "use" for i in e.iter())}
    many = sum(1 for _ in root.iter())
    for use in uses:
        link = (use.get("href") or use.get("{http://www.w3.org/1999/xlink}href") or "").removeprefix("#")
        if link in with_uses:
            raise NoDrawing("it uses what itself uses other things; draw these shapes themselves")
        many += sizes.get(link, 1)
    if many > MOST_ELEMENTS:
        raise NoDrawing(f"it has more than {MOST_ELEMENTS:,} elements")


def _name_rows(element: Element, layer: str) -> None:
    """Note at each shape what it is listed under (a class, its layer, or the stem of its id) and what it is called."""
    stack = [(element, layer)]
    while stack:
        one, under = stack.pop()
        called = one.get("data-layer") or one.get(LABEL) or ""
        if _tag(one) in ("g", "svg") and one is not element:
            under = called or one.get("id") or under
        stack.extend((inner, under) for inner in one)
        if _tag(one) in (*DRAWN, "use"):
            own = one.get("data-name") or one.get(LABEL) or one.get("id") or ""
            kind = (one.get("class") or "").split()
            stem = re.sub(r"[\s_-]*\d+$", "", own)
            row = one.get("data-layer") or (kind[0] if kind else "") or under or stem or _tag(one)
            one.set("gatillo-row", row)
            one.set("gatillo-name", own)


def _box(made: Any) -> tuple[float, float, float, float]:
    if made.viewbox is not None and made.viewbox.width:
        view = made.viewbox
        return float(view.x or 0), float(view.y or 0), float(view.width), float(view.height)
    return 0.0, 0.0, float(made.width), float(made.height)


def _add(drawing: Drawing, shape: Any, left: float, bottom: float) -> None:
    values = shape.values.get("attributes", {}) | shape.values
    row, name = str(values.get("gatillo-row", "")), str(values.get("gatillo-name", ""))
    sort = type(shape).__name__.lower().removeprefix("simple")
    box = shape.bbox()
    if box is None or not all(map(math.isfinite, map(float, box))):
        drawing.notes.append(f"“{name or row or sort}” has no size, and was left out")
        return
    x0, y0, x1, y1 = map(float, box)
    made = DrawnShape(row or sort, name, sort, (x0 + x1) / 2 - left, bottom - (y0 + y1) / 2, x1 - x0, y1 - y0)
    if isinstance(shape, svgelements.Rect | svgelements.Circle | svgelements.Ellipse):
        turn = shape.transform
        wide, high = length(turn.a, turn.b), length(turn.c, turn.d)
        made.angle = -atan2d(turn.b, turn.a)
        if isinstance(shape, svgelements.Rect):
            made.width, made.height = float(shape.width) * wide, float(shape.height) * high
        else:
            made.width, made.height = 2 * float(shape.rx) * wide, 2 * float(shape.ry) * high
    else:
        made.points = [(x - left, bottom - y) for x, y in _points(shape)]
    fill = getattr(shape, "fill", None)
    if fill is not None and fill.value is not None:
        made.fill = fill.hexrgb
    drawing.shapes.append(made)


def _points(shape: Any) -> list[tuple[float, float]]:
    """Return the ends of a path's pieces, without those that come twice in a row."""
    path = abs(svgelements.Path(shape))
    found: list[tuple[float, float]] = []
    for piece in path:
        if piece.end is None:
            continue
        point = (float(piece.end.x), float(piece.end.y))
        if not found or length(found[-1][0] - point[0], found[-1][1] - point[1]) > 1e-6:
            found.append(point)
    return found


# what becomes of it


def suggested(level: Level, drawing: Drawing) -> dict[str, str]:
    """Return what the shapes of each row become: a kind by its name, `area`, `route`, `spot`, `ground` or `nothing`."""
    kinds = {_plain(kind.name): kind.name for kind in level.kinds}
    words = {_plain(word): word for word in (AREA, ROUTE, SPOT, GROUND)} | {
        "background": GROUND,
        "path": ROUTE,
    }
    table = {}
    for row in drawing.rows():
        plain = _plain(row)
        known = kinds.get(plain) or words.get(plain) or kinds.get(_plain(row.rstrip("0123456789 _-")))
        table[row] = known or NOTHING
    return table


def _plain(word: str) -> str:
    """Return a word as it is compared: without case, spaces and the ending of several."""
    plain = token(word).lower().replace("_", "").replace("-", "")
    return plain[:-1] if plain.endswith("s") and len(plain) > 3 else plain


def take_drawing(level: Level, drawing: Drawing, table: dict[str, str]) -> Taken:
    """Return a level with the shapes of a drawing, as a table says what they become.

    A shape with the name of a thing that is there moves it; rules and everything else of it stay. So a drawing can be read again.
    """
    taking = _Taking(level, drawing, table)
    taken = taking.all()
    # only where the whole does not hang together is each shape looked at by itself
    return (
        taken
        if next(flaws(taken.level), None) is None
        else _Taking(level, drawing, table, careful=True).all()
    )


class _Taking:
    """Objects and places by their names while shapes are taken in."""

    def __init__(
        self, level: Level, drawing: Drawing, table: dict[str, str], *, careful: bool = False
    ) -> None:
        self.level, self.drawing, self.table, self.careful = level, drawing, table, careful
        self.kinds = {kind.name: kind for kind in level.kinds}
        self.objects = {token(one.name): one for one in level.objects}
        self.places = {token(one.name): one for one in level.places}
        self.free = FreeNames(
            {one.name for some in (level.kinds, level.objects, level.places) for one in some}
        )
        self.next_id = free_object_id(level)
        self.taken = Taken(level, problems=list(drawing.notes))

    def all(self) -> Taken:
        """Take every shape, and return what came of it."""
        known = {*self.kinds, AREA, ROUTE, SPOT, GROUND, NOTHING}
        self.taken.problems += [
            f"“{what}”, which the row “{row}” is to become, is no kind of the level"
            for row, what in self.table.items()
            if what not in known
        ]
        for shape in self.drawing.shapes:
            what = self.table.get(shape.row, NOTHING)
            if what == NOTHING or what not in known:
                continue
            before = self.level, dict(self.objects) if self.careful else None, dict(self.places)
            try:
                self._take(shape, what)
                if self.careful and (flaw := next(flaws(self._whole()), None)) is not None:
                    self.level, self.objects, self.places = before[0], before[1] or {}, before[2]
                    raise ValueError(flaw.message)
            except ValueError as problem:
                self.taken.problems.append(f"“{shape.name or shape.row}”: {problem}")
        self.taken.level = self._whole()
        return self.taken

    def _whole(self) -> Level:
        return replace(self.level, objects=tuple(self.objects.values()), places=tuple(self.places.values()))

    def _take(self, shape: DrawnShape, what: str) -> None:
        if what == GROUND:
            level = _with_ground(self.level, shape)
            self.taken.changed += level != self.level
            self.level = level
        elif what in self.kinds:
            self._take_object(shape, self.kinds[what])
        else:
            self._take_place(shape, what)

    def _name(self, shape: DrawnShape, otherwise: str) -> str:
        """Return the name of a new thing: the shape's own where that is free and can be one."""
        own = shape.name.replace("_", " ").strip()
        if own and name_problem(own) is None and own not in self.free.taken:
            return self.free.take(own)
        return self.free.take("", otherwise)

    def _take_object(self, shape: DrawnShape, kind: Kind) -> None:
        there = self.objects.get(token(shape.name)) if shape.name else None
        if there is not None and there.kind != kind.name:
            raise ValueError(f"there is a {there.kind} of that name; give the shape another")
        wide, high = (side * 2 for side in kind.shape.halves)
        across, up = shape.width / wide, shape.height / high
        if not (across > 0 and up > 0):
            raise ValueError("it has no size")
        if isinstance(kind.shape, Rectangle) and abs(across - up) > ALIKE * max(across, up):
            self.taken.problems.append(
                f"“{shape.name or shape.row}” is {shape.width:g} × {shape.height:g}; a {kind.name} is {wide:g} × {high:g}, "
                "and objects are scaled as a whole"
            )
        place: dict[str, Any] = {
            "x": _measure(shape.x),
            "y": _measure(shape.y),
            "angle": _degrees(shape.angle),
            "scale": round((across + up) / 2, 4),
        }
        if there is not None:
            self.objects[token(there.name)] = replace(there, **place)
            self.taken.changed += replace(there, **place) != there
            return
        name = self._name(shape, kind.name)
        self.objects[token(name)] = Object(id=self.next_id, kind=kind.name, name=name, **place)
        self.next_id += 1
        self.taken.added += 1

    def _take_place(self, shape: DrawnShape, what: str) -> None:
        there = self.places.get(token(shape.name)) if shape.name else None
        name = there.name if there is not None else self._name(shape, what)
        new = _place(self.taken, shape, what, name)
        if there is not None and type(there) is not type(new):
            raise ValueError(f"there is a place of that name that is no {what}; give the shape another")
        if isinstance(there, Route) and isinstance(new, Route):
            new = replace(there, stops=_moved_stops(there.stops, new.stops))
        self.taken.added += there is None
        self.taken.changed += there is not None and new != there
        self.places[token(name)] = new


def _measure(value: float) -> float:
    if not abs(value) <= FARTHEST:
        raise ValueError("it lies too far away")
    return round(value, 3)


def _degrees(angle: float) -> float:
    turned = round((angle + 180) % 360 - 180, 3)
    return 0.0 if turned == 0 else turned


def _with_ground(level: Level, shape: DrawnShape) -> Level:
    settings = replace(level.settings, width=round(shape.width, 3), height=round(shape.height, 3))
    if COLOUR.fullmatch(shape.fill):
        settings = replace(settings, ground=shape.fill.upper())
    return replace(level, settings=settings)


def _moved_stops(old: tuple[Stop, ...], new: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Return stops at new places; what the old ones say else (pauses, speeds, messages) stays with them, in their order."""
    kept = [replace(was, x=now.x, y=now.y) for was, now in zip(old, new, strict=False)]
    return (*kept, *new[len(kept) :])


def _place(taken: Taken, shape: DrawnShape, what: str, name: str) -> Place:
    x, y = _measure(shape.x), _measure(shape.y)
    if what == SPOT:
        return Spot(name=name, x=x, y=y)
    if what == ROUTE:
        points = shape.points[:MOST_STOPS]
        if len(points) < 2:
            raise ValueError("a route is drawn as a line or path of two points or more")
        if len(shape.points) > MOST_STOPS:
            taken.problems.append(
                f"“{name}” has {len(shape.points):,} points; the first {MOST_STOPS} were taken"
            )
        return Route(name=name, stops=tuple(Stop(x=_measure(px), y=_measure(py)) for px, py in points))
    round_ = shape.sort in ("circle", "ellipse") and abs(shape.width - shape.height) <= ALIKE * shape.width
    if round_:
        return Area(name=name, x=x, y=y, shape=Circle(radius=round(shape.width / 2, 3)))
    if (not round_ and shape.sort not in ("rect",)) or shape.angle % 90:
        taken.problems.append(f"“{name}” is an area of its bounds: areas are upright rectangles and circles")
    upright = shape.angle % 180 == 0
    wide, high = (shape.width, shape.height) if upright else _bounds(shape)
    if not (wide > 0 and high > 0):
        raise ValueError("it has no size")
    return Area(name=name, x=x, y=y, shape=Rectangle(width=round(wide, 3), height=round(high, 3)))


def _bounds(shape: DrawnShape) -> tuple[float, float]:
    """Return the sides of the upright rectangle about a turned one."""
    cos, sin = abs(cosd(shape.angle)), abs(sind(shape.angle))
    return shape.width * cos + shape.height * sin, shape.width * sin + shape.height * cos
