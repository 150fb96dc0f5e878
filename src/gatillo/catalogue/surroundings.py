"""What a catalogue entry may ask of the running level, and do to it.

Each method says what of the level it reads and writes, and of whom (touching.py): what an entry touches follows from what
it calls.
"""

from __future__ import annotations

import math
from abc import abstractmethod
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.touching import touches
from gatillo.formula.compiling import Formula
from gatillo.level.model import Area
from gatillo.level.roles import Role

A_HANDFUL = 12
"""Up to this many rows are processed in a scalar loop, bit-identical to arrays, whose calls would take ten times as long."""
Rows = NDArray[np.int64]
Numbers = Any
"""One float for all matches, or an array with one per match."""


def apart(dx: float, dy: float) -> float:
    """How long a vector is, in plain numbers: the C library's hypot, as over arrays."""
    try:
        return abs(complex(dx, dy))
    except OverflowError:
        return math.inf


@dataclass(slots=True)
class Candidates:
    """Candidate matches: how many, and the world row of each role's object in each."""

    n: int
    rows: dict[str, Rows] = field(default_factory=dict)


NOBODY = Candidates(0)
ONCE = Candidates(1)


@dataclass(frozen=True, slots=True)
class Target:
    """A variable to be written: the level's (rows is None) or that of an object per match."""

    name: str
    rows: Rows | None


class Where(Protocol):
    """Where something is to be: worked out anew for each object."""

    @property
    def point(self) -> Callable[[Any], tuple[Any, Any]]:
        """X and y, from the frame they are asked for in."""

    @property
    def roles(self) -> tuple[str, ...]:
        """The tokens of the roles it speaks of."""

    @property
    def area(self) -> Area | None:
        """The area in which it is drawn, if it is."""


@dataclass(frozen=True, slots=True)
class Watched:
    """A variable that an occasion watches: the level's (role is None) or a role's objects'."""

    role: Role | None
    name: str


@dataclass(frozen=True, slots=True)
class PromptTerms:
    """What the prompts of a kind share: what is offered to whom, on which key, and how."""

    text: Any
    by: Role
    key: str
    clear_view: bool
    entries: tuple[str, ...]


class Offers(Protocol):
    """The world, as a behaviour of the phase “prompts” sees it."""

    @abstractmethod
    @touches(
        reads="x y of rows; x y angle scale shown contact there of anybody; input; offer of rows",
        writes="offer of rows",
    )
    def offer(self, rows: Rows, terms: PromptTerms, hold: Numbers, reach: Numbers, rest: Numbers) -> None:
        """Let objects offer a prompt in this tick."""


class Looks(Protocol):
    """The world, as a behaviour of the phase “focus” sees it."""

    @abstractmethod
    @touches(
        reads="x y angle scale shown contact of rows; x y angle scale shown contact of on; x y angle scale contact shown of anybody",
        writes="focus of rows",
    )
    def focus(
        self, rows: Rows, on: Role, reach: Numbers, half_angle: Numbers, measure: str, ray_first: bool
    ) -> None:
        """Let each of these objects have one thing in its focus, or none."""


class Asked(Protocol):
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
        """Whether the player talks with somebody."""

    @abstractmethod
    @touches(reads="talk; there tag of role")
    def talker(self, role: Role) -> Rows:
        """With whom the player talks, if the role can stand for it."""

    @abstractmethod
    @touches(reads="offer of a; offer of by; tag of a; tag of by")
    def prompts(self, what: str, a: Role, by: Role, entry: str) -> tuple[Rows, Rows]:
        """Rows of prompts `begun`, `completed`, `broken off` or `chosen` from in this tick, and who did it."""

    @abstractmethod
    @touches(reads="offer of a; offer of by")
    def are_offered(self, a: Rows, by: Rows) -> NDArray[np.bool_]:
        """Which rows a offer their prompt to their row by."""

    @abstractmethod
    @touches(reads="on of rows named behaviour")
    def behaves(self, rows: Rows, behaviour: str) -> NDArray[np.bool_]:
        """Which rows have a behaviour and have it switched on."""

    @abstractmethod
    @touches(reads="clip end of role named clip; tag of role")
    def clip_ended(self, clip: str, role: Role) -> Rows:
        """The role's objects on which a clip has ended in this tick."""

    @abstractmethod
    @touches(reads="arrival of role; tag of role")
    def arrived(self, what: str, role: Role) -> tuple[Rows, NDArray[np.int64]]:
        """The role's objects that have arrived in this tick at their `goal`, a `stop` or an `end`; number of it."""

    @abstractmethod
    @touches(reads="focus of by; tag of a; tag of by")
    def focus_changes(self, what: str, a: Role, by: Role) -> tuple[Rows, Rows]:
        """Rows of what has `gained` or `lost` focus in this tick, and of whose."""

    @abstractmethod
    @touches(reads="focus of by")
    def has_focus(self, a: Rows, by: Rows) -> NDArray[np.bool_]:
        """Which rows a have the focus of their row by."""

    @abstractmethod
    @touches(reads="own")
    def recall(self, otherwise: Any) -> Any:
        """What this line kept in an earlier tick."""

    @abstractmethod
    @touches(writes="own")
    def keep(self, value: Any) -> None:
        """Keep something for this line's next turn; it must never be changed."""

    @abstractmethod
    @touches(reads="there tag of role")
    def rows_of(self, role: Role) -> Rows:
        """Rows of all objects the role can stand for."""

    @abstractmethod
    @touches()
    def ids(self, rows: Rows) -> NDArray[np.int64]:
        """Ids of rows."""

    @abstractmethod
    @touches(reads="there of anybody")
    def rows(self, ids: NDArray[np.int64]) -> Rows:
        """Rows of ids, -1 where the object is gone."""

    @abstractmethod
    @touches(reads="variable of watched")
    def values(self, watched: Watched) -> tuple[NDArray[np.int64], Any]:
        """Ids and values of a watched variable; id 0 for the level's."""

    @abstractmethod
    @touches(reads="")
    def laid_out(self, watched: Watched) -> tuple[NDArray[np.int64], Any]:
        """Return ids and values of a watched variable as laid out, before the first tick; id 0 for the level's."""

    @abstractmethod
    @touches(reads="there tag of role")
    def created_since(self, first_id: int, role: Role) -> tuple[int, Rows]:
        """The id the next created object will get, and rows of the role created from `first_id` on."""

    @abstractmethod
    @touches(reads="there tag of role; own", writes="own")
    def removed_since(self, tick: int, role: Role) -> Rows:
        """Rows of the role's objects removed after that tick."""

    @abstractmethod
    @touches(reads="input; pointed of role; tag of role")
    def under(self, role: Role, front_only: bool) -> Rows:
        """The role's objects under the pointer by their age, or only the front-most."""

    @abstractmethod
    @touches(reads="input; pointed of anybody")
    def under_ids(self) -> NDArray[np.int64]:
        """Ids of everything under the pointer."""

    @abstractmethod
    @touches()
    def matches(self) -> int:
        """How many matches a condition or pick is asked about."""

    @abstractmethod
    @touches(reads="input; pointed of role; tag of role")
    def over_changes(self, role: Role) -> tuple[Rows, Rows]:
        """The role's objects that the pointer has come over, and those it has left."""

    @abstractmethod
    @touches(reads="inside of role named area; tag of role")
    def in_area(self, state: str, role: Role, area: str) -> Rows:
        """The role's objects that have `entered`, are `in` or have `left` an area."""

    @abstractmethod
    @touches(reads="inside of role named area")
    def were_in(self, role: Role, area: str) -> int:
        """How many of the role's objects were in the area a tick before."""

    @abstractmethod
    @touches(reads="x y of rows")
    def inside(self, rows: Rows, area: str) -> NDArray[np.bool_]:
        """Whether the middle of each row lies in the area now."""

    @abstractmethod
    @touches(reads="x y of rows")
    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """X and y of rows."""

    @abstractmethod
    @touches(reads="angle of rows")
    def facing(self, rows: Rows) -> NDArray[np.float64]:
        """Which way rows face, in degrees."""

    @abstractmethod
    @touches(reads="{name} of rows")
    def property(self, rows: Rows, name: str) -> Any:
        """A property of rows, such as `shown` or `depth`."""

    @abstractmethod
    @touches()
    def of_kind(self, rows: Rows, kind: str) -> NDArray[np.bool_]:
        """Which rows are of a kind."""

    @abstractmethod
    @touches(reads="there x y of kind")
    def count(self, kind: str, area: str | None) -> int:
        """How many objects of a kind there are, in an area if one is given."""

    @abstractmethod
    @touches(reads="touching of a; touching of b")
    def are_touching(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Which pairs of rows were touching at this tick's Contact."""

    @abstractmethod
    @touches(reads="bond of a; bond of b")
    def attached(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Which rows a are attached to their b."""

    @abstractmethod
    @touches(reads="item of rows named item")
    def items(self, rows: Rows, item: str) -> NDArray[np.float64]:
        """How many of an item each row holds."""

    @abstractmethod
    @touches(reads="fired named rule")
    def last_fired(self, rule: str) -> int:
        """The tick in which a rule fired last, 0 if it has not."""

    @abstractmethod
    @touches(reads="timer named name; clock")
    def timer(self, name: str) -> float:
        """Seconds a timer has run."""

    @abstractmethod
    @touches(reads="chance; clock")
    def draw(self) -> NDArray[np.float64]:
        """A uniform draw from [0, 1) for each match."""

    @abstractmethod
    @touches(reads="x y angle of rows; x y angle scale contact shown there of anybody")
    def first_hit(self, rows: Rows, angle: Numbers, reach: Numbers) -> NDArray[np.int64]:
        """Row of the first thing along a ray from each row, -1 where there is none within reach."""

    @abstractmethod
    @touches(reads="x y of a; x y of b; x y angle scale contact there of anybody")
    def clear_view(self, a: Rows, b: Rows) -> NDArray[np.bool_]:
        """Whether no fixed object lies between each pair."""

    @abstractmethod
    @touches(reads="input")
    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        """(pressed in this tick, held, released in this tick)."""

    @abstractmethod
    @touches(reads="touching of a; touching of b; tag of a; tag of b")
    def contacts(self, state: str, a: Role, b: Role) -> Candidates:
        """Pairs of the two roles whose contact is `begun`, `touching` or `ended` in this tick."""

    @abstractmethod
    @touches(reads="message named message")
    def heard(self, message: str) -> int:
        """How often the message was sent in the tick before."""

    @abstractmethod
    @touches(reads="message named message; there tag of role")
    def senders(self, message: str, role: Role) -> Rows:
        """The role's objects that sent a message in the tick before, oldest first."""

    @abstractmethod
    @touches(reads="message named message")
    def sent_numbers(self, message: str, rows: Rows) -> NDArray[np.float64]:
        """The number each row sent with a message in the tick before; 0 if it sent none."""

    @abstractmethod
    @touches(reads="tag of rows named tag")
    def tagged(self, rows: Rows, tag: str) -> NDArray[np.bool_]:
        """Which of the rows carry the tag."""


class Deed(Protocol):
    """The world, as an action being carried out over `n` matches sees it."""

    n: int
    dt: float

    @abstractmethod
    @touches(writes="variable of target")
    def assign(self, target: Target, value: Any) -> None:
        """Set the variable; when several matches write one object's, the last stands."""

    @abstractmethod
    @touches(reads="variable of target", writes="variable of target", adds="by")
    def increase(self, target: Target, by: Numbers) -> None:
        """Add to the variable, once per match."""

    @abstractmethod
    @touches(reads="variable of target", writes="variable of target", sees=True)
    def change(self, target: Target, new: Callable[[Any], Any]) -> None:
        """Set the variable to a function of its value, once for each of its objects."""

    @abstractmethod
    @touches(writes="x y of rows")
    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        """Put objects at points."""

    @abstractmethod
    @touches()
    def points(self, where: Where) -> tuple[Any, Any]:
        """Points of a place, an object or the pointer, for each match."""

    @abstractmethod
    @touches(reads="x y of rows")
    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """X and y of rows."""

    @abstractmethod
    @touches(
        reads="x y of rows; tween clip of rows; clock", writes="tween clip of rows; message named message"
    )
    def glide(self, rows: Rows, x: Numbers, y: Numbers, time: Numbers, easing: str, message: str) -> None:
        """Move objects to points over a time; a message may be sent on arriving."""

    @abstractmethod
    @touches(reads="x y angle scale of rows", writes="x y of rows")
    def part(self, rows: Rows, gap: Numbers) -> None:
        """Move objects apart until none comes nearer to another than the gap."""

    @abstractmethod
    @touches(writes="angle of rows")
    def face(self, rows: Rows, angle: Numbers) -> None:
        """Let objects face a direction, in degrees."""

    @abstractmethod
    @touches(writes="vx vy of rows")
    def go(self, rows: Rows, vx: Numbers, vy: Numbers) -> None:
        """Give objects a velocity, in units a second."""

    @abstractmethod
    @touches(reads="vx vy of rows")
    def velocity(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Velocity of rows, in units a second."""

    @abstractmethod
    @touches(reads="tween clip route of rows", writes="tween clip route of rows")
    def halt(self, rows: Rows) -> None:
        """Break off movements over a time, and clips."""

    @abstractmethod
    @touches(writes="{name} of rows")
    def put_property(self, rows: Rows, name: str, value: Any) -> None:
        """Set `shown`, `depth`, `scale` of rows."""

    @abstractmethod
    @touches(writes="colour of rows")
    def colour(self, rows: Rows, colour: str) -> None:
        """Give objects a colour of their own."""

    @abstractmethod
    @touches(
        reads="x y angle bond of rows; x y angle bond of carriers; bond of anybody", writes="bond of rows"
    )
    def attach(self, rows: Rows, carriers: Rows, keep_offset: bool, lag: Numbers) -> None:
        """Let objects follow their carriers."""

    @abstractmethod
    @touches(writes="bond of rows")
    def detach(self, rows: Rows) -> None:
        """Let objects go."""

    @abstractmethod
    @touches(
        reads="on of rows named behaviour", writes="on of rows named behaviour; vx vy gravity bounce of rows"
    )
    def switch_behaviour(self, rows: Rows, behaviour: str, on: bool) -> None:
        """Switch a behaviour of objects on or off."""

    @abstractmethod
    @touches(writes="setting of rows named setting")
    def set_setting(self, rows: Rows, setting: str, value: Numbers) -> None:
        """Change a number among a behaviour's settings, written `behaviour: setting`."""

    @abstractmethod
    @touches(writes="{name} of rows")
    def set_physical(self, rows: Rows, name: str, value: Numbers) -> None:
        """Set `gravity`, `friction`, `bounce` or `mass` of objects; out of its range it is a fault."""

    @abstractmethod
    @touches(reads="x y angle tween clip route of rows; clock", writes="tween clip route of rows")
    def walk(self, rows: Rows, route: str, how: str, speed: Numbers, leg_time: Numbers, easing: str) -> None:
        """Send objects along a route, by a speed or by a time for each leg."""

    @abstractmethod
    @touches(reads="x y angle tween clip route of rows; clock", writes="tween clip route of rows")
    def play(self, rows: Rows, clip: str, how: str, speed: Numbers, own_axes: bool) -> None:
        """Play a clip on objects `once`, `in a loop` or `there and back`."""

    @abstractmethod
    @touches(reads="item of rows named item", writes="item of rows named item", adds="count")
    def give(self, rows: Rows, item: str, count: Numbers) -> None:
        """Change how many of an item objects hold; never below 0."""

    @abstractmethod
    @touches(reads="timer named name; clock", writes="timer named name")
    def timer(self, name: str, what: str) -> None:
        """`start`, `stop` or `reset` a timer."""

    @abstractmethod
    @touches(writes="switch named name")
    def switch(self, name: str, on: bool) -> None:
        """Switch a rule or a section on or off for the rest of the run."""

    @abstractmethod
    @touches(writes="talk")
    def talk(self, rows: Rows | None) -> None:
        """Begin a conversation with the oldest of some objects; None ends it."""

    @abstractmethod
    @touches(writes="telling")
    def tell(self, text: Any) -> None:
        """Show a message to the player; an empty one clears it."""

    @abstractmethod
    @touches(writes="note")
    def note(self, text: Any) -> None:
        """Write a text into the trace."""

    @abstractmethod
    @touches(writes="over")
    def end(self) -> None:
        """End the trial after this tick."""

    @abstractmethod
    @touches(reads="x y of rows", writes="x y of rows", adds="dx dy")
    def shift(self, rows: Rows, dx: Numbers, dy: Numbers) -> None:
        """Move objects by an offset along the level's axes, once per match."""

    @abstractmethod
    @touches(reads="angle of rows")
    def angles(self, rows: Rows) -> NDArray[np.float64]:
        """Facing of the objects in degrees."""

    @abstractmethod
    @touches(reads="angle of rows", writes="angle of rows", adds="by")
    def rotate(self, rows: Rows, by: Numbers) -> None:
        """Turn objects by degrees, once per match."""

    @abstractmethod
    @touches(writes="there of rows")
    def remove(self, rows: Rows) -> None:
        """Take objects out of the level."""

    @abstractmethod
    @touches(writes="there of kind")
    def create(self, kind: str, where: Where, count: Numbers, ring: Numbers | None = None) -> None:
        """Make objects of a kind, `count` of them for each match, each at a point of its own.

        With `ring` they stand evenly spread on a circle of that radius about the point.
        """

    @abstractmethod
    @touches(writes="message named message")
    def send(self, message: str, senders: Rows | None = None, number: Numbers = 0.0) -> None:
        """Send a message, once per match; it is heard in the next tick, with who sent it and a number."""

    @abstractmethod
    @touches(reads="clock", writes="saying of rows")
    def say(self, rows: Rows, text: Any, time: Numbers) -> None:
        """Show a text at objects for some seconds."""

    @abstractmethod
    @touches(writes="wait")
    def pause_until(self, slot: str) -> None:
        """Let the rest of the action list wait until the formula in a slot holds."""

    @abstractmethod
    @touches(writes="wait named rule")
    def cancel_waits(self, rule: str) -> None:
        """Cancel everything that is waiting in a rule."""

    @abstractmethod
    @touches(reads="tag of rows named tag", writes="tag of rows named tag")
    def tag(self, rows: Rows, tag: str, carries: bool) -> None:
        """Give objects a tag, or take it from them."""

    @abstractmethod
    @touches(writes="contact gravity of rows")
    def set_contact(self, rows: Rows, contact: str) -> None:
        """Make objects `movable`, `fixed`, `sensed` or `none`."""

    @abstractmethod
    @touches(
        reads="x y angle scale bond of rows; x y angle scale bond of carriers; bond of anybody",
        writes="bond of rows",
    )
    def attach_at(self, rows: Rows, carriers: Rows, point: str) -> None:
        """Let objects follow a named point of their carriers."""

    @abstractmethod
    @touches(reads="clock", writes="wait")
    def pause(self, time: Numbers) -> None:
        """Let the rest of the action list wait for some seconds."""


class Motion(Protocol):
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
        """X and y of rows."""

    @abstractmethod
    @touches(reads="vx vy of rows")
    def velocity(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Velocity of rows, in units a second."""

    @abstractmethod
    @touches(reads="angle of rows")
    def facing(self, rows: Rows) -> NDArray[np.float64]:
        """Which way rows face, in degrees."""

    @abstractmethod
    @touches(reads="grounded of rows")
    def grounded(self, rows: Rows) -> NDArray[np.bool_]:
        """Which rows rested on something at the end of the tick before."""

    @abstractmethod
    @touches(reads="input")
    def pointer(self) -> tuple[float, float]:
        """Where the pointer is."""

    @abstractmethod
    @touches()
    def ids(self, rows: Rows) -> NDArray[np.int64]:
        """Ids of rows."""

    @abstractmethod
    @touches(reads="there tag of role")
    def rows_of(self, role: Role) -> Rows:
        """Rows of all objects a role can stand for."""

    @abstractmethod
    @touches(reads="x y of rows; x y there tag of role")
    def nearest(self, rows: Rows, role: Role, only: Formula | None = None) -> Rows:
        """For each row the nearest other object a role can stand for (or the one referred to), -1 for none.

        With `only`, of those for whom a yes/no formula about them (and about the row's own kind) holds.
        """

    @abstractmethod
    @touches(reads="x y vx vy gravity grounded bond tween clip of rows; x y vx vy of anybody")
    def place_at_end(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """X and y of rows at the end of this tick, as far as that is known now."""

    @abstractmethod
    @touches(
        reads="x y of rows; x y vx vy gravity grounded bond tween clip of where; x y vx vy of anybody; chance"
    )
    def goal(self, rows: Rows, where: Where) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """As `point`; of an object where it will stand at the end of this tick."""

    @abstractmethod
    @touches(reads="x y of rows; x y there tag of role")
    def near(self, rows: Rows, role: Role, reach: float) -> tuple[NDArray[np.int64], Rows]:
        """Pairs (position in `rows`, row) of a role's other objects within a reach, in that order."""

    @abstractmethod
    @touches(reads="x y of rows; chance")
    def point(self, rows: Rows, where: Where) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """A point for each row: of a spot, the nearest object, the pointer, or its own in an area."""

    @abstractmethod
    @touches(reads="chance")
    def anywhere(
        self, rows: Rows, area: str, nth: Numbers
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """A point in an area for each row, another for each number."""

    @abstractmethod
    @touches(reads="own")
    def recall(self, name: str) -> NDArray[np.float64]:
        """What those who have this behaviour keep for it."""

    @abstractmethod
    @touches(writes="own")
    def keep(self, name: str, value: Numbers) -> None:
        """Let those who have this behaviour keep a number for it."""

    @abstractmethod
    @touches(reads="message named message; x y of anybody")
    def heard_at(self, message: str) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """X and y of who sent a message that is heard in this tick."""

    @abstractmethod
    @touches(reads="input; x y angle scale depth shown there of anybody")
    def under_pointer(self, front_only: bool) -> Rows:
        """Rows under the pointer of those that can be dragged, front-most first."""

    @abstractmethod
    @touches(reads="bond of anybody")
    def anything_attached(self) -> bool:
        """Whether any object is attached to another."""

    @abstractmethod
    @touches(reads="bond of rows")
    def carrier_of(self, rows: Rows) -> NDArray[np.int64]:
        """Id of what each row is attached to, 0 for nothing."""

    @abstractmethod
    @touches(reads="bond of anybody")
    def carries_something(self, carrier: int) -> bool:
        """Whether an object (by id) carries something in front of it."""

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
    def go(self, rows: Rows, speed: Numbers) -> None:
        """Give objects a velocity along the way they face, in units a second; negative goes back."""

    @abstractmethod
    @touches(writes="vx vy of rows")
    def move(self, rows: Rows, vx: Numbers, vy: Numbers | None) -> None:
        """Give objects a velocity, in units a second; with None for one of them that stays as it is."""

    @abstractmethod
    @touches(reads="x y of rows", writes="x y vx vy of rows")
    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        """Put objects at points, without a velocity."""

    @abstractmethod
    @touches(writes="vy of rows")
    def leap(self, rows: Rows, speed: Numbers) -> None:
        """Give objects an upward speed, in units a second."""

    @abstractmethod
    @touches(writes="own")
    def urge(self, rows: Rows, wish_x: Numbers, wish_y: Numbers, weight: Numbers) -> None:
        """Add a wish to go some way to what drives flocking objects: direction times weight, and the weight."""

    @abstractmethod
    @touches(reads="own")
    def urged(self, rows: Rows) -> tuple[Numbers, Numbers, Numbers]:
        """The sum of those wishes so far in this tick, and of their weights."""

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
    @touches(writes="bond of rows")
    def let_go(self, rows: Rows) -> None:
        """Let objects go that are carried."""

    @abstractmethod
    @touches(writes="there of rows")
    def remove(self, rows: Rows) -> None:
        """Take objects out of the level."""
