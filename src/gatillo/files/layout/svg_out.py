"""A level as a drawing: as laid out, or at a moment of a run, with a layer for each kind."""

from __future__ import annotations

from collections.abc import Iterable
from xml.sax.saxutils import quoteattr

from gatillo.files.xml_text import printable
from gatillo.level.model import Area, Circle, Kind, Level, Place, Route, Shape
from gatillo.level.naming import token
from gatillo.sim.world.world import World

Placed = tuple[str, str, float, float, float, float]
"""An object's kind, name, x, y, angle in degrees and scale."""


def level_svg(level: Level, world: World | None = None) -> str:
    """Return a level as SVG 1.1: its places, and its objects in a layer for each kind; at a moment if a world is given.

    y grows upward in a level and downward in the drawing. Every shape has the name of its thing as `data-name`.
    """
    wide, high = level.settings.width, level.settings.height
    kinds = {kind.name: kind for kind in level.kinds}
    layers: dict[str, list[str]] = {kind.name: [] for kind in level.kinds}
    for placed in _laid_out(level, world):
        layers[placed[0]].append(_object(kinds[placed[0]], placed, high))
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:g} {high:g}">',
        f"<title>{_text(level.name)}</title>",
    ]
    if level.settings.ground:
        lines.append(
            f'<rect id="ground" data-layer="ground" width="{wide:g}" height="{high:g}" fill="{level.settings.ground}"/>'
        )
    for kind in sorted(level.kinds, key=lambda one: -one.depth):
        if layers[kind.name]:
            lines += [f"<g{_named(kind.name)} data-layer={_quoted(kind.name)}>", *layers[kind.name], "</g>"]
    for layer, some in _by_layer(level.places).items():
        lines += [f'<g id="{layer}" data-layer="{layer}" fill="none" stroke="#1F6F8B">']
        lines += [_place(place, high) for place in some]
        lines.append("</g>")
    return "\n".join([*lines, "</svg>"]) + "\n"


def _laid_out(level: Level, world: World | None) -> Iterable[Placed]:
    only_seen = {kind.name for kind in level.kinds if kind.scenery}
    for thing in level.objects:
        # scenery takes no part in a run
        if thing.shown and (world is None or thing.kind in only_seen):
            yield thing.kind, thing.name, thing.x, thing.y, thing.angle, thing.scale
    if world is None:
        return
    for row in world.alive.nonzero()[0].tolist():
        if world.shown.item(row):
            yield (
                world.program.kinds[world.kind.item(row)].name,
                world.name_of(world.id.item(row)),
                world.x.item(row),
                world.y.item(row),
                world.angle.item(row),
                world.scale.item(row),
            )


def _by_layer(places: Iterable[Place]) -> dict[str, list[Place]]:
    found: dict[str, list[Place]] = {}
    for place in places:
        layer = "areas" if isinstance(place, Area) else "routes" if isinstance(place, Route) else "spots"
        found.setdefault(layer, []).append(place)
    return found


def _object(kind: Kind, placed: Placed, high: float) -> str:
    _, name, x, y, angle, scale = placed
    turn = f" rotate({-angle:g})" if angle else ""
    size = f" scale({scale:g})" if scale != 1 else ""
    look = f'fill="{kind.colour}" fill-opacity="0.3" stroke="{kind.colour}"'
    move = f'transform="translate({x:g} {high - y:g}){turn}{size}"'
    return f"{_shape(kind.shape, 0, 0)}{_named(name)} {look} {move}/>"


def _place(place: Place, high: float) -> str:
    if isinstance(place, Area):
        return f"{_shape(place.shape, place.x, high - place.y)}{_named(place.name)}/>"
    if isinstance(place, Route):
        points = " ".join(f"{stop.x:g},{high - stop.y:g}" for stop in place.stops)
        return f'<polyline points="{points}"{_named(place.name)}/>'
    return f'<circle cx="{place.x:g}" cy="{high - place.y:g}" r="3"{_named(place.name)}/>'


def _shape(shape: Shape, x: float, y: float) -> str:
    """Return the beginning of the element of a shape with its middle at a point."""
    if isinstance(shape, Circle):
        return f'<circle cx="{x:g}" cy="{y:g}" r="{shape.radius:g}"'
    left, top = x - shape.width / 2, y - shape.height / 2
    return f'<rect x="{left:g}" y="{top:g}" width="{shape.width:g}" height="{shape.height:g}"'


def _named(name: str) -> str:
    return f" id={_quoted(token(name))} data-name={_quoted(name)}"


def _quoted(text: str) -> str:
    return quoteattr(printable(text))


def _text(text: str) -> str:
    return printable(text).replace("&", "&amp;").replace("<", "&lt;")
