"""What occasions, conditions and picks may ask of the running level."""

from __future__ import annotations

from abc import abstractmethod
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.effects import touches
from gatillo.catalogue.contexts.values import Candidates, Numbers, Rows, Watched
from gatillo.level.roles import Role


class QueryApi(Protocol):
    """The world, as occasions and conditions see it."""

    tick: int
    dt: float
    rate: int
    pointer_moved: bool
    chosen: str
    """The topic chosen in this tick, or ""."""

    @property
    @abstractmethod
    def in_conversation(self) -> bool:
        """Whether the player is in a conversation."""

    @abstractmethod
    @touches(reads="talk; there tag of role")
    def talker(self, role: Role) -> Rows:
        """Return the object with which the player talks, if the role can stand for it."""

    @abstractmethod
    @touches(reads="offer of a; offer of by; tag of a; tag of by")
    def prompts(self, what: str, a: Role, by: Role, entry: str) -> tuple[Rows, Rows]:
        """Return rows of prompts `begun`, `completed`, `broken off` or `chosen` from in this tick, and who did it."""

    @abstractmethod
    @touches(reads="offer of a; offer of by")
    def are_offered(self, a: Rows, by: Rows) -> NDArray[np.bool_]:
        """Return which rows a offer their prompt to their row by."""

    @abstractmethod
    @touches(reads="on of rows named behaviour")
    def behaves(self, rows: Rows, behaviour: str) -> NDArray[np.bool_]:
        """Return which rows have a behaviour and have it switched on."""

    @abstractmethod
    @touches(reads="clip end of role named clip; tag of role")
    def clip_ended(self, clip: str, role: Role) -> Rows:
        """Return the role's objects on which a clip has ended in this tick."""

    @abstractmethod
    @touches(reads="arrival of role; tag of role")
    def arrived(self, what: str, role: Role) -> tuple[Rows, NDArray[np.int64]]:
        """Return the role's objects that have arrived in this tick at their `goal`, a `stop` or an `end`; number of it."""

    @abstractmethod
    @touches(reads="focus of by; tag of a; tag of by")
    def focus_changes(self, what: str, a: Role, by: Role) -> tuple[Rows, Rows]:
        """Return rows of what has `gained` or `lost` focus in this tick, and of whose."""

    @abstractmethod
    @touches(reads="focus of by")
    def has_focus(self, a: Rows, by: Rows) -> NDArray[np.bool_]:
        """Return which rows a have the focus of their row by."""

    @abstractmethod
    @touches(reads="own")
    def recall(self, otherwise: Any) -> Any:
        """Return what this line kept in an earlier tick."""

    @abstractmethod
    @touches(writes="own")
    def remember(self, value: Any) -> None:
        """Keep something for this line's next turn; it must never be changed."""

    @abstractmethod
    @touches(reads="there tag of role")
    def rows_of(self, role: Role) -> Rows:
        """Return rows of all objects the role can stand for."""

    @abstractmethod
    @touches()
    def ids(self, rows: Rows) -> NDArray[np.int64]:
        """Return ids of rows."""

    @abstractmethod
    @touches(reads="there of anybody")
    def rows(self, ids: NDArray[np.int64]) -> Rows:
        """Return rows of ids, -1 where the object is gone."""

    @abstractmethod
    @touches(reads="variable of watched")
    def values(self, watched: Watched) -> tuple[NDArray[np.int64], Any]:
        """Return ids and values of a watched variable; id 0 for the level's."""

    @abstractmethod
    @touches(reads="")
    def laid_out(self, watched: Watched) -> tuple[NDArray[np.int64], Any]:
        """Return ids and values of a watched variable as laid out, before the first tick; id 0 for the level's."""

    @abstractmethod
    @touches(reads="there tag of role")
    def created_since(self, first_id: int, role: Role) -> tuple[int, Rows]:
        """Return the id the next created object will get, and rows of the role created from `first_id` on."""

    @abstractmethod
    @touches(reads="there tag of role; own", writes="own")
    def removed_since(self, tick: int, role: Role) -> Rows:
        """Return rows of the role's objects removed after that tick."""

    @abstractmethod
    @touches(reads="input; pointed of role; tag of role")
    def under(self, role: Role, front_only: bool) -> Rows:
        """Return the role's objects under the pointer by their age, or only the front-most."""

    @abstractmethod
    @touches(reads="input; pointed of anybody")
    def under_ids(self) -> NDArray[np.int64]:
        """Return ids of everything under the pointer."""

    @abstractmethod
    @touches()
    def matches(self) -> int:
        """Return how many matches a condition or pick is asked about."""

    @abstractmethod
    @touches(reads="input; pointed of role; tag of role")
    def over_changes(self, role: Role) -> tuple[Rows, Rows]:
        """Return the role's objects that the pointer has come over, and those it has left."""

    @abstractmethod
    @touches(reads="inside of role named area; tag of role")
    def in_area(self, state: str, role: Role, area: str) -> Rows:
        """Return the role's objects that have `entered`, are `in` or have `left` an area."""

    @abstractmethod
    @touches(reads="inside of role named area")
    def were_in(self, role: Role, area: str) -> int:
        """Return how many of the role's objects were in the area a tick before."""

    @abstractmethod
    @touches(reads="x y of rows")
    def inside(self, rows: Rows, area: str) -> NDArray[np.bool_]:
        """Return whether the middle of each row lies in the area now."""

    @abstractmethod
    @touches(reads="x y of rows")
    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return x and y of rows."""

    @abstractmethod
    @touches(reads="angle of rows")
    def facing(self, rows: Rows) -> NDArray[np.float64]:
        """Return which way rows face, in degrees."""

    @abstractmethod
    @touches(reads="{name} of rows")
    def property(self, rows: Rows, name: str) -> Any:
        """Return a property of rows, such as `shown` or `depth`."""

    @abstractmethod
    @touches()
    def of_kind(self, rows: Rows, kind: str) -> NDArray[np.bool_]:
        """Return which rows are of a kind."""

    @abstractmethod
    @touches(reads="there x y of kind")
    def count(self, kind: str, area: str | None) -> int:
        """Return how many objects of a kind there are, in an area if one is given."""

    @abstractmethod
    @touches(reads="touching of a; touching of b")
    def are_touching(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Return which pairs of rows were touching at this tick's Contact."""

    @abstractmethod
    @touches(reads="bond of a; bond of b")
    def attached(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Return which rows a are attached to their b."""

    @abstractmethod
    @touches(reads="item of rows named item")
    def items(self, rows: Rows, item: str) -> NDArray[np.float64]:
        """Return how many of an item each row holds."""

    @abstractmethod
    @touches(reads="fired named rule")
    def last_fired(self, rule: str) -> int:
        """Return the tick in which a rule fired last, 0 if it has not."""

    @abstractmethod
    @touches(reads="timer named name; clock")
    def timer(self, name: str) -> float:
        """Return seconds a timer has run."""

    @abstractmethod
    @touches(reads="chance; clock")
    def draw(self) -> NDArray[np.float64]:
        """Return a uniform draw from [0, 1) for each match."""

    @abstractmethod
    @touches(reads="x y angle of rows; x y angle scale contact shown there of anybody")
    def first_hit(self, rows: Rows, angle: Numbers, reach: Numbers) -> NDArray[np.int64]:
        """Return row of the first thing along a ray from each row, -1 if there is none within reach."""

    @abstractmethod
    @touches(reads="x y of a; x y of b; x y angle scale contact there of anybody")
    def clear_view(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Return whether no fixed object lies between each pair."""

    @abstractmethod
    @touches(reads="x y of a; x y angle scale contact there of anybody")
    def clear_view_to(self, a: Rows, x: Numbers, y: Numbers) -> NDArray[np.bool_]:
        """Return whether no fixed object lies between each row and a point."""

    @abstractmethod
    @touches(reads="input")
    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        """(pressed in this tick, held, released in this tick)."""

    @abstractmethod
    @touches(reads="touching of a; touching of b; tag of a; tag of b")
    def contacts(self, state: str, a: Role, b: Role) -> Candidates:
        """Return pairs of the two roles whose contact is `begun`, `touching` or `ended` in this tick."""

    @abstractmethod
    @touches(reads="message named message")
    def heard(self, message: str) -> int:
        """Return how often the message was sent in the tick before."""

    @abstractmethod
    @touches(reads="message named message; there tag of role")
    def senders(self, message: str, role: Role) -> Rows:
        """Return the role's objects that sent a message in the tick before, oldest first."""

    @abstractmethod
    @touches(reads="message named message")
    def sent_numbers(self, message: str, rows: Rows) -> NDArray[np.float64]:
        """Return the number each row sent with a message in the tick before; 0 if it sent none."""

    @abstractmethod
    @touches(reads="tag of rows named tag")
    def tagged(self, rows: Rows, tag: str) -> NDArray[np.bool_]:
        """Return which of the rows carry the tag."""

    @abstractmethod
    @touches(reads="look of rows")
    def shows_look(self, rows: Rows, look: str) -> NDArray[np.bool_]:
        """Return which of the rows are shown with a look by a rule."""
