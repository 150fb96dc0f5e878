"""What kernels are given of a world: its columns, bound once for as long as nobody comes or goes."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.plain import fmod


class Walk:
    """What objects keep that walk a route, by row, and the routes.

    `stops` are the stops of all routes, shape (stops, 7): x, y, pause, then time, speed and easing (-1 for none) of the leg after it, and
    the facing there; those of route r are from `first[r]` to `first[r + 1]`. `left` is the number of the stop left last.
    `busy` are those who do something else, `on` whether the behaviour by which an object walks is switched on. A tick's
    velocities are kept in `rows`, `vx`, `vy`, for the first `many` of them; `found` takes those who have turned.
    """

    def __init__(self, keeps: Any, stops: Any, first: Any, busy: Any, on: Any, alive: Any, room: Any) -> None:
        self.going, self.sent, self.route, self.stop = (
            keeps["going"],
            keeps["sent"],
            keeps["route"],
            keeps["stop"],
        )
        self.rest, self.speed, self.leg_time = keeps["rest"], keeps["speed"], keeps["leg_time"]
        self.gone, self.faces, self.how, self.easing = (
            keeps["gone"],
            keeps["faces"],
            keeps["how"],
            keeps["easing"],
        )
        self.left = keeps["left"]
        self.stops, self.first, self.busy, self.on, self.alive = stops, first, busy, on, alive
        self.rows, self.found, self.vx, self.vy = room
        self.many = 0


class Columns:
    """A world's columns by row, each a buffer of one number for each object.

    `kind` is the kind by number, `drawn` the facing in which each kind is drawn, by kind. `moved` says who has moved in this
    tick, `driven` whose velocity a behaviour has given; `urges`, shape (3, rows), what flocking objects wish for so far. `walk` is
    what those keep that walk a route, where there are routes.
    """

    def __init__(self, x: Any, y: Any, vx: Any, vy: Any, angle: Any, kind: Any, drawn: Any) -> None:
        self.x = x
        self.y = y
        self.vx = vx
        self.vy = vy
        self.angle = angle
        self.kind = kind
        self.drawn = drawn
        self.walk: Walk | None = None

    def of_tick(self, driven: Any, urges: Any) -> None:
        """Bind the arrays that each tick starts with."""
        self.driven = driven
        self.urges = urges


class Settings:
    """What a behaviour is given: who has it, what it goes by, and the columns of its numbers.

    `rows` have it, `others` are what it goes by. `n0` and so on are the columns of its settings, in the order of its sentence;
    `m0` and so on those of what it remembers. `w0` and so on are the places of its choices among their options, and of its route
    among the level's; `keys` are those of its keys that are held, `heard` whether its message is. It `aims` at nothing (0), at the point `to_x`, `to_y` (1) or at
    the nearest of the others (2). A kernel writes into `found` the rows that it has turned; `a`, `b`, `c`, as long as `rows`, and `sums`, shape (8, rows), are room to
    work in.
    """

    def __init__(self, rows: Any, words: Any, found: Any, room: Any, sums: Any) -> None:
        self.rows = rows
        self.w0, self.w1, self.w2, self.w3 = words
        self.others = rows
        self.keys = self.heard = 0
        self.aims, self.to_x, self.to_y = 0, 0.0, 0.0
        self.found = found
        self.a, self.b, self.c = room
        self.sums = sums


def half_open(angle: float) -> float:
    """Return an angle in degrees above -180 up to 180; one that lies there already keeps its last bit."""
    if -180.0 < angle <= 180.0:
        return angle
    left = fmod(180.0 - angle, 360.0)
    left = 0.0 if left == 0.0 else left + 360.0 if left < 0.0 else left
    return 180.0 - left if left < 360.0 else 180.0


def within_turn(angle: float) -> float:
    """Return an angle in degrees from 0 to below 360, as the remainder of a division by 360."""
    left = fmod(angle, 360.0)
    return 0.0 if left == 0.0 else left + 360.0 if left < 0.0 else left


def faces(columns: Any, row: int, angle: float) -> bool:
    """Let an object face a direction, in degrees. Return whether it has turned."""
    angle = half_open(angle - columns.drawn[columns.kind[row]])
    if angle == columns.angle[row]:
        return False
    columns.angle[row] = angle
    return True
