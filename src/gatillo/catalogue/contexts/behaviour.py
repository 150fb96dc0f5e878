"""What behaviours may ask of the running level, and do to the objects that have them."""

from __future__ import annotations

from abc import abstractmethod
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.effects import touches
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.formula.formula import Formula
from gatillo.level.roles import Role


class BehaviourApi(Protocol):
    """The world, as a behaviour sees it in the Motion phase."""

    dt: float
    time: float
    """Seconds since the level started, at the end of this tick."""

    @abstractmethod
    @touches(reads="input")
    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        """(pressed in this tick, held, released in this tick)."""

    @abstractmethod
    @touches(reads="x y of rows")
    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return x and y of rows."""

    @abstractmethod
    @touches(reads="vx vy of rows")
    def velocity(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return velocity of rows, in units a second."""

    @abstractmethod
    @touches(reads="angle of rows")
    def facing(self, rows: Rows) -> NDArray[np.float64]:
        """Return which way rows face, in degrees."""

    @abstractmethod
    @touches(reads="grounded of rows")
    def grounded(self, rows: Rows) -> NDArray[np.bool_]:
        """Return which rows rested on something at the end of the tick before."""

    @abstractmethod
    @touches(reads="input")
    def pointer(self) -> tuple[float, float]:
        """Return where the pointer is."""

    @abstractmethod
    @touches()
    def ids(self, rows: Rows) -> NDArray[np.int64]:
        """Return ids of rows."""

    @abstractmethod
    @touches(reads="there tag of role")
    def rows_of(self, role: Role) -> Rows:
        """Return rows of all objects a role can stand for."""

    @abstractmethod
    @touches(reads="x y of rows; x y there tag of role")
    def nearest(self, rows: Rows, role: Role, only: Formula | None = None) -> Rows:
        """Return for each row the nearest other object a role can stand for (or the one referred to), -1 for none.

        With `only`, of those for which a yes/no formula about them (and about the row's own kind) holds.
        """

    @abstractmethod
    @touches(reads="x y vx vy gravity grounded bond tween clip of rows; x y vx vy of anybody")
    def place_at_end(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return x and y of rows at the end of this tick, as far as that is known now."""

    @abstractmethod
    @touches(
        reads="x y of rows; x y vx vy gravity grounded bond tween clip of where; x y vx vy of anybody; chance"
    )
    def goal(self, rows: Rows, where: Where) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Like `point`, but for an object return where it will be at the end of this tick."""

    @abstractmethod
    @touches(reads="x y of rows; x y there tag of role")
    def near(self, rows: Rows, role: Role, reach: float) -> tuple[NDArray[np.int64], Rows]:
        """Return pairs (position in `rows`, row) of a role's other objects within a reach, in that order."""

    @abstractmethod
    @touches(reads="x y of rows; chance")
    def point(self, rows: Rows, where: Where) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return a point for each row: of a spot, the nearest object, the pointer, or its own in an area."""

    @abstractmethod
    @touches(reads="x y of rows; x y there tag of where; chance")
    def aimed(
        self, rows: Rows, where: Where
    ) -> tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.float64]]:
        """Return what each row aims at, as a number that others with the same aim have too (-1: nobody), with its x and y."""

    @abstractmethod
    @touches(reads="chance")
    def anywhere(
        self, rows: Rows, area: str, nth: Numbers
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return a point in an area for each row, another for each number."""

    @abstractmethod
    @touches(reads="own")
    def recall(self, name: str) -> NDArray[np.float64]:
        """Return what those who have this behaviour keep for it."""

    @abstractmethod
    @touches(writes="own")
    def remember(self, name: str, value: Numbers) -> None:
        """Remember a number for this behaviour on each of the objects that have it."""

    @abstractmethod
    @touches(reads="message named message; x y of anybody")
    def heard_at(self, message: str) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return x and y of who sent a message that is heard in this tick."""

    @abstractmethod
    @touches(reads="input; x y angle scale depth shown there of anybody")
    def under_pointer(self, front_only: bool) -> Rows:
        """Return rows under the pointer of those that can be dragged, front-most first."""

    @abstractmethod
    @touches(reads="bond of anybody")
    def anything_attached(self) -> bool:
        """Return whether any object is attached to another."""

    @abstractmethod
    @touches(reads="bond of rows")
    def carrier_of(self, rows: Rows) -> NDArray[np.int64]:
        """Return id of what each row is attached to, 0 for nothing."""

    @abstractmethod
    @touches(reads="bond of anybody")
    def carries_something(self, carrier: int) -> bool:
        """Return whether an object (by id) carries something in front of it."""

    @abstractmethod
    @touches(reads="angle of rows", writes="angle of rows")
    def rotate(self, rows: Rows, by: Numbers) -> None:
        """Turn objects by degrees."""

    @abstractmethod
    @touches(reads="angle of rows", writes="angle of rows")
    def face(self, rows: Rows, angle: Numbers) -> None:
        """Let objects face a direction, in degrees."""

    @abstractmethod
    @touches(reads="angle of rows", writes="vx vy of rows")
    def set_forward_speed(self, rows: Rows, speed: Numbers) -> None:
        """Give objects a velocity along the way they face, in units a second; negative goes back."""

    @abstractmethod
    @touches(writes="vx vy of rows")
    def set_velocity(self, rows: Rows, vx: Numbers, vy: Numbers | None) -> None:
        """Give objects a velocity, in units a second; with None for one of them that stays as it is."""

    @abstractmethod
    @touches(reads="x y of rows", writes="x y vx vy of rows")
    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        """Put objects at points, without a velocity."""

    @abstractmethod
    @touches(writes="vy of rows")
    def set_upward_speed(self, rows: Rows, speed: Numbers) -> None:
        """Give objects an upward speed, in units a second."""

    @abstractmethod
    @touches(writes="own")
    def urge(self, rows: Rows, wish_x: Numbers, wish_y: Numbers, weight: Numbers) -> None:
        """Add a wish to go some way to what drives flocking objects: direction times weight, and the weight."""

    @abstractmethod
    @touches(reads="own")
    def urged(self, rows: Rows) -> tuple[Numbers, Numbers, Numbers]:
        """Return the sum of those wishes so far in this tick, and of their weights."""

    @abstractmethod
    @touches(writes="arrival of rows")
    def arrive(self, rows: Rows, what: str, number: Numbers = 0) -> None:
        """Note that objects have come to their `goal`, a `stop` of their route (by number) or its `end`."""

    @abstractmethod
    @touches(reads="route x y of rows", writes="route of rows")
    def walk(
        self, rows: Rows, route: str, how: str, faces: bool, speed: Numbers, leg_time: Numbers, easing: str
    ) -> None:
        """Let objects walk a route, by a speed or, where it is above 0, by a time for each leg."""

    @abstractmethod
    @touches(writes="gravity bounce of rows; own")
    def fall(self, rows: Rows, gravity: Numbers, bounce: Numbers, slowing: Numbers) -> None:
        """Let objects fall, spring back, and lose a part of their speed in a second."""

    @abstractmethod
    @touches(reads="x y angle of row; x y angle of carrier", writes="bond of row")
    def carry(self, row: int, carrier: int, ahead: float, lag: float) -> None:
        """Let an object be carried ahead of another."""

    @abstractmethod
    @touches(reads="x y vx vy of anybody", writes="bond of rows; vx vy of anybody")
    def release(self, rows: Rows, flies: bool) -> None:
        """Release objects that are carried; those that fly on keep the velocity of who carried them."""

    @abstractmethod
    @touches(reads="input; x y angle scale depth shown there of anybody")
    def pointed(self, rows: Rows) -> NDArray[np.bool_]:
        """Return which rows lie under the pointer."""

    @abstractmethod
    @touches(writes="there of rows")
    def remove(self, rows: Rows) -> None:
        """Take objects out of the level."""
