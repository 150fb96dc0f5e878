"""What a world holds beside its columns, by subject: input, contacts, movements, prompts, messages, rules, what is shown.

Every field is state: it is copied with a world and stands in its digest. What can be worked out again is in caches.py.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

Sort = Literal["value", "memory", "bookkeeping"]
"""What a part of the state is to a person who compares two runs: a value of the level; what rules, graphs and input
remember from tick to tick; or bookkeeping, which may differ between runs that are the same in all else."""
By = Literal[
    "",
    "object",
    "object and name",
    "name",
    "rule",
    "rule and card",
    "line",
    "card",
    "wait",
    "alarm",
    "pair",
    "area",
    "pointer",
]
"""By what a part of the state is kept: a dict's keys, or what the entries of a list are about."""


@dataclass(frozen=True, slots=True)
class Part:
    """What a declared part of the state is called, what it is kept by, and what it is to a person."""

    says: str
    by: By = ""
    sort: Sort = "value"


def _part(start: Any, says: str, by: By = "", sort: Sort = "value") -> Any:
    """Return a field of the state: what it starts with (a value, or a function that makes one), and how it is called."""
    metadata = {"part": Part(says, by, sort)}
    if callable(start):
        return field(default_factory=start, metadata=metadata)
    return field(default=start, metadata=metadata)


Seconds = Annotated[float, "s"]
"""A time, with its unit for where it is put into words."""


class Saying(NamedTuple):
    """A text that an object says."""

    text: str
    until: Seconds


@dataclass(slots=True)
class Wait:
    """Matches whose action list goes on later."""

    due: int
    serial: int
    rule_index: int
    part: str
    line: int
    ids: dict[str, NDArray[np.int64]]
    n: int
    keys: list[Any]
    made: dict[str, tuple[NDArray[np.int64], NDArray[np.int64]]] = field(default_factory=dict)
    until: str = ""
    """The slot, in the line before, with the formula that is waited for."""
    moving: str = ""
    """The role whose objects must have come to where they are moved over a time; such a wait goes on after Motion."""


@dataclass(frozen=True, slots=True)
class Tween:
    """Objects on their way to points over a time; arrays of shape (n,)."""

    ids: NDArray[np.int64]
    start_x: NDArray[np.float64]
    start_y: NDArray[np.float64]
    end_x: NDArray[np.float64]
    end_y: NDArray[np.float64]
    begins: float
    lasts: float
    easing: str
    message: str
    carried: bool = False
    """Whether the points are offsets in the frame of the carrier to which each is attached."""


@dataclass(frozen=True, slots=True)
class Turning:
    """Objects that turn by angles (degrees) over a time; arrays of shape (n,)."""

    ids: NDArray[np.int64]
    start: NDArray[np.float64]
    by: NDArray[np.float64]
    begins: float
    lasts: float
    easing: str
    carried: bool = False
    """Whether they are attached: the angles are those to their carriers."""


NOT_PUT = float("nan")


@dataclass(frozen=True, slots=True)
class Bond:
    """An object attached to a carrier: its offset in the carrier's frame, and how many seconds it lags."""

    carrier: int
    along: float
    across: float
    angle: float
    lag: float
    held: bool = False
    """Carried in front of one who carries: it turns with the carrier's facing."""
    x: float = NOT_PUT
    y: float = NOT_PUT
    turned: float = NOT_PUT
    """Where it was put last, and at which angle; by how much it is elsewhere now it has moved of its own."""

    @property
    def bears_motion(self) -> bool:
        """Whether its own motion adds to its carrier's: not of what is carried in front of somebody, nor of what lags."""
        return self.lag <= 0 and not self.held


@dataclass(frozen=True, slots=True)
class Playing:
    """A clip being played on an object: from which pose and time (s) on, how fast and how."""

    object: int
    clip: str
    x: float
    y: float
    angle: float
    axes: float
    """Degrees by which the clip's axes are turned."""
    begins: float
    speed: float
    how: str
    carried: bool = False
    """Whether it is attached: the pose is that in the frame of its carrier."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A prompt offered to an object in a tick; `since` when its key is held (s), None if it is not."""

    prompt: int
    by: int
    key: str
    since: float | None
    hold: float
    behaviour: int


@dataclass(frozen=True, slots=True)
class Answering:
    """A prompt whose key is held: since when, and for how long it must be (s)."""

    prompt: int
    since: float
    hold: float


@dataclass(frozen=True, slots=True)
class Menu:
    """The menu that a prompt opened, and for which."""

    prompt: int
    by: int
    key: str
    entries: tuple[str, ...]


@dataclass(slots=True)
class Memory:
    """What a rule remembers between ticks."""

    held_tick: int = -1
    held: set[Any] = field(default_factory=set)
    fired: set[Any] = field(default_factory=set)
    rests_until: dict[Any, int] = field(default_factory=dict)


def _no_pairs() -> NDArray[np.int64]:
    return np.zeros(0, dtype=np.int64)


@dataclass(slots=True)
class Input:
    """The player's keys and pointer in a tick."""

    held: frozenset[str] = _part(frozenset(), "keys held", "", "memory")
    pressed: frozenset[str] = _part(frozenset(), "keys pressed", "", "memory")
    released: frozenset[str] = _part(frozenset(), "keys released", "", "memory")
    tapped: frozenset[str] = _part(frozenset(), "keys tapped", "", "memory")
    """Those that were held in this tick only."""
    pointer_x: float = _part(0.0, "pointer.x", "", "memory")
    pointer_y: float = _part(0.0, "pointer.y", "", "memory")
    pointer_moved: bool = _part(False, "whether the pointer moved", "", "memory")
    under: tuple[int, ...] = _part((), "what is under the pointer", "pointer", "memory")
    """Ids under the pointer, front-most first."""
    was_under: tuple[int, ...] = _part((), "what was under the pointer", "pointer", "memory")
    """Ids under the pointer in the previous tick."""


@dataclass(slots=True)
class Contacts:
    """Who touches whom: pairs as id_a << 32 | id_b with id_a < id_b, sorted."""

    touching: NDArray[np.int64] = _part(_no_pairs, "whether they touch", "pair", "memory")
    begun: NDArray[np.int64] = _part(_no_pairs, "whether they began to touch", "pair", "memory")
    ended: NDArray[np.int64] = _part(_no_pairs, "whether they stopped touching", "pair", "memory")
    hits: tuple[NDArray[np.int64], ...] = _part((), "what was parted", "", "bookkeeping")
    """Pairs that solid bodies parted in this tick."""
    unparted: NDArray[np.int64] = _part(_no_pairs, "what was left overlapping", "", "bookkeeping")
    """Ids of what was left overlapping, since it was too much for a tick."""
    inside: dict[str, NDArray[np.int64]] = _part(dict, "what is in", "area", "memory")
    """Ids in each area that a rule asks about, sorted."""
    was_inside: dict[str, NDArray[np.int64]] = _part(dict, "what was in", "area", "memory")
    """Ids in each area in the previous tick."""


@dataclass(slots=True)
class Movement:
    """What moves objects beside their velocity, and what came of it in this tick."""

    tweens: tuple[Tween, ...] = _part((), "movements over a time")
    turns: tuple[Turning, ...] = _part((), "turns over a time")
    bonds: dict[int, Bond] = _part(dict, "what it is attached to", "object")
    """By id of what is attached."""
    playing: tuple[Playing, ...] = _part((), "clips that are played")
    clip_ends: tuple[tuple[str, int], ...] = _part((), "clips that ended", "", "memory")
    arrivals: tuple[tuple[str, int, int], ...] = _part((), "what arrived", "", "memory")
    """Who arrived where: what (goal, stop, end), id, number of the stop."""


@dataclass(slots=True)
class Focus:
    """Who looks at what."""

    on: dict[int, int] = _part(dict, "focus", "object")
    """By id of who looks: the id of what has its focus."""
    events: tuple[tuple[str, int, int], ...] = _part((), "changes of focus", "", "memory")
    """What changed in this tick."""


@dataclass(slots=True)
class Prompts:
    """Prompts and talk: what is offered, whose key is held, what happened."""

    offers: tuple[Offer, ...] = _part((), "prompts offered")
    answerable: tuple[Any, ...] = _part((), "prompts that could be answered", "", "bookkeeping")
    """Who could answer which prompt, as things stood when something last stirred."""
    answering: dict[tuple[int, str], Answering] = _part(dict, "prompts being answered")
    """By answerer and key."""
    rests: dict[int, float] = _part(dict, "rest of its prompt until", "object")
    """Until when (s) a prompt rests, by its id."""
    events: tuple[tuple[str, int, int, str], ...] = _part((), "what happened to prompts", "", "memory")
    menu: Menu | None = _part(None, "the open menu")
    chosen_entry: str = _part("", "the chosen entry", "", "memory")
    talking: int = _part(0, "who is talked with")
    """The object with which the player talks, by id; 0 for none."""
    topic: str = _part("", "the chosen topic", "", "memory")
    """The topic chosen in this tick."""


@dataclass(slots=True)
class Messages:
    """Messages sent in this tick and heard in it, with how many of each."""

    outbox: dict[str, int] = _part(dict, "messages sent:", "name")
    heard: dict[str, int] = _part(dict, "messages heard:", "name")
    sent_from: dict[str, dict[int, float]] = _part(dict, "numbers sent with", "name")
    """By message: the number that each sender (by id) sent with it."""
    heard_from: dict[str, dict[int, float]] = _part(dict, "numbers heard with", "name")


@dataclass(slots=True)
class Rules:
    """What rules have switched, wait for and remember."""

    switched: dict[str, bool] = _part(dict, "switched by rules:", "name")
    fired_at: dict[int, int] = _part(dict, "last tick in which it fired", "rule", "memory")
    waits: list[Wait] = _part(list, "what waits", "wait", "memory")
    serial: int = _part(0, "waits begun", "", "bookkeeping")
    alarms: list[tuple[float, int]] = _part(list, "its next time", "alarm", "memory")
    memory: dict[tuple[int, int], Memory] = _part(
        dict, "what it remembers of its firings", "rule and card", "memory"
    )
    """By turn and, of a graph, the card; 0 for a rule."""
    lines: dict[tuple[Any, ...], Any] = _part(dict, "what its lines remember", "line", "memory")
    """What lines (occasions, conditions) have kept for themselves."""
    cards: dict[tuple[int, int], dict[Any, Any]] = _part(dict, "what its cards remember", "card", "memory")
    """What the cards of graphs remember, by graph and card. Most cards map the roles of matches to a dict from a match's objects
    to a value. It is replaced, never written into."""
    over: bool = _part(False, "whether the trial was ended")
    """The trial was ended."""
    cut: tuple[str, ...] = _part((), "what was cut off", "", "memory")
    """What was cut off in this tick because it would have taken too long: sentences, reported as faults."""
    created_now: int = _part(0, "objects created in the tick", "", "bookkeeping")
    sent_now: int = _part(0, "messages sent in the tick", "", "bookkeeping")


@dataclass(slots=True)
class Display:
    """What the player is shown beside the objects."""

    sayings: dict[int, Saying] = _part(dict, "what it says", "object")
    """By id of who says it: the text, and until when (s)."""
    telling: str = _part("", "the message to the player")
    colours: dict[int, str] = _part(dict, "colour", "object")
    """By id: colours that rules have given."""
    looks: dict[int, str] = _part(dict, "look", "object")
    """By id: looks that rules have given, by name."""
