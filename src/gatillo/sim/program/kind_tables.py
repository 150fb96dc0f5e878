"""What kinds, routes, clips and tags say once and for all, as arrays by the number of the kind."""

from __future__ import annotations

import math
from functools import cached_property
from typing import get_args

import numpy as np

from gatillo.level.model import Easing, Level, Stop
from gatillo.level.own_behaviours import off_mark
from gatillo.level.roles import Index
from gatillo.sim.program.bodies import CONTACTS, geometry_of

STOP_WIDTH = 7
"""Numbers that a stop has."""
_EASINGS = [easing for easing in get_args(Easing) if easing]


def _stop(stop: Stop) -> tuple[float, ...]:
    easing = _EASINGS.index(stop.easing) if stop.easing else -1
    facing = math.nan if stop.facing is None else stop.facing
    return stop.x, stop.y, stop.pause, stop.time, stop.speed, easing, facing


class KindTables:
    """Worked out when first asked for; nothing in it changes."""

    def __init__(self, level: Level, index: Index) -> None:
        self.level = level
        self.index = index
        self.kinds = level.kinds
        self.geometry = tuple(geometry_of(kind) for kind in level.kinds)
        self._point_offsets: dict[str, np.ndarray] = {}

    @cached_property
    def depths(self) -> np.ndarray:
        """By kind: how far in front its objects are drawn."""
        return np.array([k.depth for k in self.kinds], dtype=np.float64)

    @cached_property
    def contacts(self) -> np.ndarray:
        """By kind: its contact as a number (bodies.CONTACTS)."""
        return np.array([CONTACTS[k.contact] for k in self.kinds], dtype=np.int8)

    @cached_property
    def masses(self) -> np.ndarray:
        """By kind: mass, in any unit, as long as it is the same for all."""
        return np.array([k.mass for k in self.kinds], dtype=np.float64)

    @cached_property
    def bounces(self) -> np.ndarray:
        """By kind: the part of its speed that is left after hitting something."""
        return np.array([k.bounce for k in self.kinds], dtype=np.float64)

    @cached_property
    def frictions(self) -> np.ndarray:
        """By kind: the part of its sliding speed that it loses in a tenth of a second."""
        return np.array([k.friction for k in self.kinds], dtype=np.float64)

    @cached_property
    def gravities(self) -> np.ndarray:
        """By kind: what pulls it down, in units a second per second; only movable kinds are pulled."""
        pull = self.level.settings.gravity
        return np.array([pull if k.contact == "movable" else 0.0 for k in self.kinds], dtype=np.float64)

    @cached_property
    def drawn_facing(self) -> np.ndarray:
        """By kind: which way its picture looks at angle 0, in degrees."""
        return np.array([k.drawn_facing for k in self.kinds], dtype=np.float64)

    @cached_property
    def is_box(self) -> np.ndarray:
        """By kind: whether its shape is a rectangle."""
        return np.array([not g.round for g in self.geometry], dtype=bool)

    @cached_property
    def any_box(self) -> bool:
        """Whether any kind is a rectangle."""
        return bool(self.is_box.any())

    @cached_property
    def boxes(self) -> np.ndarray:
        """By kind: half width, half height, and radius (0 for a box); shape (kinds, 3)."""
        return np.array(self.sizes, dtype=np.float64).reshape(-1, 3)

    @cached_property
    def sizes(self) -> tuple[tuple[float, float, float], ...]:
        """By kind: half width, half height and radius (0 for a box) as plain numbers, for scalar loops."""
        return tuple((g.half_width, g.half_height, g.radius) for g in self.geometry)

    @cached_property
    def stops(self) -> tuple[np.ndarray, ...]:
        """By number of the route: its stops, shape (stops, 7).

        Of each: x, y, pause; time, speed and easing (its number, -1 for none) of the leg after it; facing (NaN for none).
        """
        return tuple(
            np.array([_stop(s) for s in route.stops], dtype=np.float64).reshape(-1, STOP_WIDTH)
            for route in self.index.routes.values()
        )

    @cached_property
    def own_legs(self) -> tuple[bool, ...]:
        """By number of the route: whether a leg has a time, a speed or an easing of its own."""
        return tuple(any(s.has_own_leg for s in route.stops) for route in self.index.routes.values())

    @cached_property
    def stop_messages(self) -> tuple[tuple[str, ...], ...]:
        """By number of the route: what is sent at each of its stops, "" for nothing."""
        return tuple(tuple(s.message for s in route.stops) for route in self.index.routes.values())

    @cached_property
    def _own_tags(self) -> dict[str, list[int]]:
        """By tag: the ids of the objects that carry it themselves."""
        found: dict[str, list[int]] = {}
        for thing in self.level.objects:
            for tag in thing.tags:
                found.setdefault(tag, []).append(thing.id)
        return found

    def carriers_of(self, tag: str) -> tuple[np.ndarray, np.ndarray]:
        """Return which objects carry a tag from the start: yes or no by kind, shape (kinds,), and the ids of single objects."""
        of_kinds = np.array([tag in kind.tags for kind in self.kinds], dtype=bool)
        return of_kinds, np.array(self._own_tags.get(tag, ()), dtype=np.int64)

    def without_at_first(self, tag: str) -> np.ndarray:
        """Return the ids of objects that do not carry a tag at first, though their kind does."""
        return np.array(self._own_tags.get(off_mark(tag), ()), dtype=np.int64)

    def point_offsets(self, point: str) -> np.ndarray:
        """Return for each kind the offset of a named point from the middle at angle 0 and scale 1; shape (2, kinds)."""
        found = self._point_offsets.get(point)
        if found is None:
            named = [next((p for p in kind.points if p.name == point), None) for kind in self.kinds]
            found = np.array([(p.x, p.y) if p is not None else (0.0, 0.0) for p in named]).reshape(-1, 2).T
            self._point_offsets[point] = found
        return found

    def has_look(self, look: str) -> np.ndarray:
        """Return by kind whether it has a look of a name."""
        return np.array([any(one.name == look for one in kind.looks) for kind in self.kinds], dtype=bool)

    @cached_property
    def clip_points(self) -> dict[str, np.ndarray]:
        """By clip: time, x, y and turn of its points; shape (4, points)."""
        return {
            name: np.array([(p.at, p.x, p.y, p.turn) for p in clip.points], dtype=np.float64).reshape(-1, 4).T
            for name, clip in self.index.clips.items()
        }
