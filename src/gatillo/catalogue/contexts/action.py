"""What actions may ask of the running level, and do to it."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.effects import touches
from gatillo.catalogue.contexts.values import Numbers, Rows, Target, Where


class ActionApi(Protocol):
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
        """Return points of a place, an object or the pointer, for each match."""

    @abstractmethod
    @touches(reads="x y of rows")
    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return x and y of rows."""

    @abstractmethod
    @touches(
        reads="x y of rows; tween clip bond of rows; x y angle there of anybody; clock",
        writes="tween clip of rows; message named message",
    )
    def glide(self, rows: Rows, x: Numbers, y: Numbers, time: Numbers, easing: str, message: str) -> None:
        """Move objects to points over a time; a message may be sent on arriving."""

    @abstractmethod
    @touches(
        reads="angle of rows; tween bond of rows; x y angle there of anybody; clock", writes="tween of rows"
    )
    def swing(self, rows: Rows, angle: Numbers, time: Numbers, easing: str) -> None:
        """Turn objects by angles over a time."""

    @abstractmethod
    @touches(reads="x y angle scale of rows", writes="x y of rows")
    def push_apart(self, rows: Rows, gap: Numbers) -> None:
        """Move objects apart until none comes nearer to another than the gap."""

    @abstractmethod
    @touches(writes="angle of rows")
    def face(self, rows: Rows, angle: Numbers) -> None:
        """Let objects face a direction, in degrees."""

    @abstractmethod
    @touches(writes="vx vy of rows")
    def set_velocity(self, rows: Rows, vx: Numbers, vy: Numbers) -> None:
        """Give objects a velocity, in units a second."""

    @abstractmethod
    @touches(reads="vx vy of rows")
    def velocity(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return velocity of rows, in units a second."""

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
    @touches(writes="look of rows")
    def show_look(self, rows: Rows, look: str) -> None:
        """Show objects with a look of their kind; those whose kind has none of that name, and with "", in its plain one."""

    @abstractmethod
    @touches(
        reads="x y angle bond tween clip of rows; x y angle bond of carriers; bond of anybody",
        writes="bond tween clip of rows",
    )
    def attach(self, rows: Rows, carriers: Rows, keep_offset: bool, lag: Numbers) -> None:
        """Let objects follow their carriers."""

    @abstractmethod
    @touches(reads="bond tween clip of rows", writes="bond tween clip of rows")
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
    @touches(
        reads="x y angle tween clip route bond of rows; x y angle there of anybody; clock",
        writes="tween clip route of rows",
    )
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
    def show_message(self, text: Any) -> None:
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
    @touches(reads="tween clip route of rows", writes="wait")
    def pause_until_there(self, rows: Rows) -> None:
        """Let the rest of the action list wait until nothing moves these objects over a time any more, each match for its own."""

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
        reads="x y angle scale bond tween clip of rows; x y angle scale bond of carriers; bond of anybody",
        writes="bond tween clip of rows",
    )
    def attach_at(self, rows: Rows, carriers: Rows, point: str) -> None:
        """Let objects follow a named point of their carriers."""

    @abstractmethod
    @touches(reads="clock", writes="wait")
    def pause(self, time: Numbers) -> None:
        """Let the rest of the action list wait for some seconds."""
