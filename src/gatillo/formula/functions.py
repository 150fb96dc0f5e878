"""The functions that a formula may call: one declaration each, with types, help and computation."""

from __future__ import annotations

import zlib
from collections.abc import Callable
from typing import Any

import numpy as np

from gatillo.formula.frame import Frame
from gatillo.formula.function_table import Argument, function
from gatillo.formula.values import (
    as_point,
    finite,
    guarded,
    half_open_degrees,
    least,
    put_together,
    spread,
    write_out,
)
from gatillo.kernels.mathematics import (
    DEGREE,
    RADIAN,
    acosd,
    asind,
    atan2d,
    cosd,
    exp,
    length,
    log,
    sind,
    sum_of,
    tand,
)
from gatillo.level.model import Area, Circle, Route


def _plain(compute: Callable[..., Any]) -> Callable[..., Any]:
    return lambda f, *values: compute(*values)


_ONE: tuple[Argument, ...] = ("number",)
_TWO: tuple[Argument, ...] = ("number", "number")


for _written, _help, _compute in (
    ("abs(a)", "Distance of a from 0.", np.abs),
    ("sign(a)", "-1, 0 or 1.", np.sign),
    ("round(a)", "Nearest whole number; halves go up.", lambda a: np.floor(a + 0.5)),
    ("floor(a)", "Whole number at or below a.", np.floor),
    ("ceil(a)", "Whole number at or above a.", np.ceil),
    ("sin(a)", "Sine of an angle in degrees.", sind),
    ("cos(a)", "Cosine of an angle in degrees.", cosd),
    ("atan(a)", "Angle in degrees whose tangent is a.", lambda a: atan2d(a, 1.0)),
    ("radians(a)", "Degrees to radians.", lambda a: a * RADIAN),
    ("degrees(a)", "Radians to degrees.", lambda a: a * DEGREE),
    ("exp(a)", "e to the power a.", exp),
):
    function(_written, _ONE, "number", _help)(_plain(_compute))


function("min(a, b, …)", _TWO, "number", "The least of its values.", repeats=True)(
    _plain(lambda *v: _fold(np.minimum, v))
)


function("max(a, b, …)", _TWO, "number", "The greatest of its values.", repeats=True)(
    _plain(lambda *v: _fold(np.maximum, v))
)


function("clamp(a, low, high)", ("number",) * 3, "number", "a, but never below low nor above high.")(
    _plain(lambda a, low, high: np.minimum(np.maximum(a, low), high))
)


function("mix(a, b, t)", ("number",) * 3, "number", "a at t = 0, b at t = 1, in proportion between.")(
    _plain(lambda a, b, t: a + (b - a) * t)
)


function("atan2(y, x)", _TWO, "number", "Direction of the point x, y from 0, 0, in degrees.")(
    _plain(lambda y, x: half_open_degrees(atan2d(y, x)))
)


def _fold(pairwise: Callable[[Any, Any], Any], values: tuple[Any, ...]) -> Any:
    result = values[0]
    for value in values[1:]:
        result = pairwise(result, value)
    return result


@function("sqrt(a)", _ONE, "number", "Square root; a may not be negative.")
def _sqrt(f: Frame, a: Any) -> Any:
    return np.sqrt(guarded(f, a < 0, f"takes the square root of a negative number ({least(a)})", 0.0, a))


@function("tan(a)", _ONE, "number", "Tangent of an angle in degrees; 90, 270 … have none.")
def _tan(f: Frame, a: Any) -> Any:
    return tand(
        guarded(f, cosd(a) == 0.0, f"takes the tangent of {least(a)} degrees, which has none", 0.0, a)
    )


@function("log(a)", _ONE, "number", "Natural logarithm; a must be above 0.")
def _log(f: Frame, a: Any) -> Any:
    return log(guarded(f, a <= 0, f"takes the logarithm of {least(a)}, which is not above 0", 1.0, a))


@function("asin(a)", _ONE, "number", "Angle in degrees whose sine is a; a is from -1 to 1.")
def _asin(f: Frame, a: Any) -> Any:
    return asind(guarded(f, np.abs(a) > 1, "asks for the arc sine of a value outside -1 … 1", 0.0, a))


@function("acos(a)", _ONE, "number", "Angle in degrees whose cosine is a; a is from -1 to 1.")
def _acos(f: Frame, a: Any) -> Any:
    return acosd(guarded(f, np.abs(a) > 1, "asks for the arc cosine of a value outside -1 … 1", 0.0, a))


@function("random(a, b)", _TWO, "number", "A random number from a up to b; each match draws its own.")
def _random(f: Frame, a: Any, b: Any, *, call: int) -> Any:
    return a + (b - a) * f.draw(call)


@function(
    "pick(a, b, …)",
    ("any", "same"),
    "same",
    "One of its values at random; each match draws its own.",
    repeats=True,
)
def _pick(f: Frame, *values: Any, call: int) -> Any:
    which = np.minimum((f.draw(call) * len(values)).astype(np.int64), len(values) - 1)
    result = spread(values[0], f.n)
    for at, value in enumerate(values[1:], 1):
        result = np.where(which == at, spread(value, f.n), result)
    return result


@function(
    "distance(A, B)",
    ("location", "location"),
    "number",
    "How far apart two objects, places or the pointer are.",
)
def _distance(f: Frame, a: Any, b: Any) -> Any:
    return length(b[0] - a[0], b[1] - a[1])


@function(
    "direction(A, B)",
    ("location", "location"),
    "number",
    "Direction from A to B in degrees, counter-clockwise from the right.",
)
def _direction(f: Frame, a: Any, b: Any) -> Any:
    return half_open_degrees(atan2d(b[1] - a[1], b[0] - a[0]))


@function("point(x, y)", _TWO, "point", "The point at x, y; the same as (x, y).")
def _point(f: Frame, x: Any, y: Any) -> Any:
    return as_point(x, y)


@function(
    "between(A, B, share)",
    ("location", "location", "number"),
    "point",
    "A point on the way from A to B: A at share 0, B at 1, their middle at 0.5.",
)
def _between(f: Frame, a: Any, b: Any, share: Any) -> Any:
    return as_point(a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


@function(
    "ahead(A, distance)",
    ("role", "number"),
    "point",
    "The point so far from the middle of A in the direction in which A faces.",
)
def _ahead(f: Frame, role: str, distance: Any) -> Any:
    rows = f.rows(role)
    turned = f.values_of(rows, "facing")
    x, y = f.values_of(rows, "x"), f.values_of(rows, "y")
    return as_point(x + distance * cosd(turned), y + distance * sind(turned))


@function(
    "offset(A, direction, distance)",
    ("location", "number", "number"),
    "point",
    "The point so far from A in a direction, in degrees counter-clockwise from the right.",
)
def _offset(f: Frame, a: Any, direction: Any, distance: Any) -> Any:
    return as_point(a[0] + distance * cosd(direction), a[1] + distance * sind(direction))


@function(
    "along(route, share)",
    ("route", "number"),
    "point",
    "The point after a share of a route's length, from its first stop at 0 to its last at 1; below 0 and above 1 its ends.",
)
def _along(f: Frame, route: Route, share: Any) -> Any:
    stops = np.array([(stop.x, stop.y) for stop in route.stops], dtype=np.float64)
    if not len(stops):
        f.fault(True, f"the route “{route.name}” has no stops")
        return 0j
    legs = length(np.diff(stops[:, 0]), np.diff(stops[:, 1]))
    ends = np.concatenate(([0.0], np.add.accumulate(legs)))
    way = np.minimum(np.maximum(share, 0.0), 1.0) * ends[-1]
    leg = np.minimum(np.maximum(np.searchsorted(ends, way, side="right") - 1, 0), max(0, len(legs) - 1))
    if not len(legs):
        x, y = stops[0]
        return as_point(spread(x, f.n), spread(y, f.n)) if np.ndim(way) else as_point(x, y)
    part = np.minimum(
        np.divide(way - ends[leg], legs[leg], out=np.zeros(np.shape(way)), where=legs[leg] > 0), 1.0
    )
    start, end = stops[leg], stops[np.minimum(leg + 1, len(stops) - 1)]
    return as_point(
        start[..., 0] + (end[..., 0] - start[..., 0]) * part,
        start[..., 1] + (end[..., 1] - start[..., 1]) * part,
    )


@function(
    "turn(from, to)", _TWO, "number", "The shortest turn from one angle to another, above -180 up to 180."
)
def _turn(f: Frame, start: Any, end: Any) -> Any:
    return half_open_degrees(np.subtract(end, start))


@function(
    "facing(A)",
    ("role",),
    "number",
    "Which way A faces, in degrees: its angle with its drawn facing counted in.",
)
def _facing(f: Frame, role: str) -> Any:
    return f.values_of(f.rows(role), "facing")


@function(
    "bearing(A, B)",
    ("role", "location"),
    "number",
    "Angle from the way A faces to B, in degrees: above 0 to its left, below 0 to its right, above -180 up to 180.",
)
def _bearing(f: Frame, role: str, b: Any) -> Any:
    rows = f.rows(role)
    here = f.values_of(rows, "x"), f.values_of(rows, "y")
    return _turn(f, f.values_of(rows, "facing"), _direction(f, here, b))


@function("speed(A)", ("role",), "number", "How fast A moves, in units a second.")
def _speed(f: Frame, role: str) -> Any:
    rows = f.rows(role)
    return length(f.values_of(rows, "vx"), f.values_of(rows, "vy"))


@function("count(Kind)", ("kind",), "number", "How many objects of the kind there are now.")
def _count(f: Frame, kind: str) -> Any:
    return float(len(f.everyone(kind)))


@function(
    "count_in(Kind, P)",
    ("kind", "area"),
    "number",
    "How many objects of the kind have their middle in the area P.",
)
def _count_in(f: Frame, kind: str, area: Area) -> Any:
    rows = f.everyone(kind)
    return float(np.count_nonzero(inside_area(area, f.values_of(rows, "x"), f.values_of(rows, "y"))))


@function(
    "count_where(Kind, condition)",
    ("kind", "each of kind"),
    "number",
    "How many objects of the kind there are for which the condition holds; in it the kind's name speaks of each of them.",
)
def _count_where(f: Frame, kind: str, asked: Any) -> Any:
    return f.tally(kind, *asked)


@function(
    "timer(name)",
    ("timer",),
    "number",
    'Seconds that a timer has run; its name is in double quotes: timer("oven").',
)
def _timer(f: Frame, name: str) -> Any:
    return f.timer(name)


@function(
    "items(A, name)",
    ("role", "item"),
    "number",
    'How many of an item A holds; its name is in double quotes: items(A, "key").',
)
def _items(f: Frame, role: str, name: str) -> Any:
    return f.items(role, name)


@function(
    "kind(A)",
    ("role",),
    "text",
    "The name of the kind of A: kind(other) = self.prey, where prey is a text.",
)
def _kind(f: Frame, role: str) -> Any:
    return f.kind_names(role)


@function(
    "saying(A)",
    ("role",),
    "text",
    'The text that A says, "" while it says nothing.',
)
def _saying(f: Frame, role: str) -> Any:
    return f.said(role)


@function("telling()", (), "text", 'The message that the player is shown, "" while there is none.')
def _telling(f: Frame) -> Any:
    return f.player_message()


@function(
    "sent(message, A)",
    ("message", "role"),
    "number",
    "The number that A sent with a message a tick before, the last if it sent several, 0 if none; the message in double quotes.",
)
def _sent(f: Frame, message: str, role: str) -> Any:
    return f.sent(message, role)


@function(
    "kept(graph, card)",
    ("rule", "card"),
    "number",
    "What a hold or count card keeps for all matches, 0 before it keeps anything; the graph's name is in double quotes, the card "
    'is its number: kept("Lamps tire", 3).',
)
def _kept(f: Frame, graph: int, card: int) -> Any:
    return f.kept((graph, card), "")


@function(
    "kept_for(graph, card, A)",
    ("rule", "card", "role"),
    "number",
    'The same, of a card that keeps something for each object: what it keeps for A: kept_for("Lamps tire", 3, Lamp_1).',
)
def _kept_for(f: Frame, graph: int, card: int, role: str) -> Any:
    return f.kept((graph, card), role)


@function(
    "key_down(name)",
    ("key",),
    "yes/no",
    'Whether a key is down; its name is in double quotes: key_down("Space").',
)
def _key_down(f: Frame, name: str) -> Any:
    return f.key_down(name)


def _over_kind(name: str, help: str, compute: Callable[[Any], Any], empty: float | None) -> None:
    def over(f: Frame, kind: str, variable: str) -> Any:
        rows = f.everyone(kind)
        if not len(rows):
            if empty is None:
                f.fault(True, f"asks for the {name} over “{kind}”, of which there is none")
                return 0.0
            return empty
        return float(compute(f.values_of(rows, variable)))

    function(f"{name}(Kind.variable)", ("kind variable",), "number", help)(over)


_over_kind("total", "Sum over all objects of the kind; 0 when there is none.", sum_of, 0.0)


_over_kind("lowest", "Least value over all objects of the kind.", np.min, None)


_over_kind("highest", "Greatest value over all objects of the kind.", np.max, None)


_over_kind(
    "average", "Mean value over all objects of the kind.", lambda values: sum_of(values) / len(values), None
)


@function("in_area(A, P)", ("location", "area"), "yes/no", "Whether the centre of A is in the area P.")
def _in_area(f: Frame, a: Any, area: Area) -> Any:
    return inside_area(area, a[0], a[1])


def inside_area(area: Area, x: Any, y: Any) -> Any:
    """Return whether points lie in an area, its edge included."""
    dx, dy = x - area.x, y - area.y
    if isinstance(area.shape, Circle):
        return length(dx, dy) <= area.shape.radius
    return (np.abs(dx) <= area.shape.width / 2) & (np.abs(dy) <= area.shape.height / 2)


def random_point(area: Area, first: Any, second: Any) -> tuple[Any, Any]:
    """Return a point of the area, evenly spread, from two uniform draws in [0, 1)."""
    if isinstance(area.shape, Circle):
        reach = area.shape.radius * np.sqrt(first)
        return (
            area.x + reach * cosd(360.0 * second),
            area.y + reach * sind(360.0 * second),
        )
    return (
        area.x + (first - 0.5) * area.shape.width,
        area.y + (second - 0.5) * area.shape.height,
    )


def _point_draws(f: Frame, area: Area) -> tuple[Any, Any]:
    # keyed by the area, not by the call: x and y asked for in one action are of the same point
    call = (1 << 33) + 2 * zlib.crc32(area.name.encode())
    return random_point(area, f.draw(call), f.draw(call + 1))


@function(
    "random_x(P)",
    ("area",),
    "number",
    "x of a random point of the area; random_y(P) in the same line is its y.",
)
def _random_x(f: Frame, area: Area) -> Any:
    return _point_draws(f, area)[0]


@function(
    "random_y(P)",
    ("area",),
    "number",
    "y of a random point of the area; random_x(P) in the same line is its x.",
)
def _random_y(f: Frame, area: Area) -> Any:
    return _point_draws(f, area)[1]


@function("text(n)", ("any",), "text", "A value written out as text.")
def _text(f: Frame, value: Any) -> Any:
    return write_out(finite(f, value))


@function("join(a, b, …)", ("any", "any"), "text", "Its values written one after another.", repeats=True)
def _join(f: Frame, *values: Any) -> Any:
    return put_together(f, [write_out(finite(f, v)) for v in values])
