"""What a world holds beside its columns, by subject: input, contacts, movements, prompts, messages, rules, what is shown.

Every field is state: it is copied with a world and stands in its digest. What can be worked out anew is in caches.py.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(slots=True)
class Wait:
    """Matches whose action list goes on later."""

    due: int
    serial: int
    turn: int
    part: str
    line: int
    ids: dict[str, NDArray[np.int64]]
    n: int
    keys: list[Any]
    made: dict[str, tuple[NDArray[np.int64], NDArray[np.int64]]] = field(default_factory=dict)
    until: str = ""
    """The slot, in the line before, with the formula that is waited for."""


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
    """The menu that a prompt opened, and for whom."""

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

    held: frozenset[str] = frozenset()
    pressed: frozenset[str] = frozenset()
    released: frozenset[str] = frozenset()
    tapped: frozenset[str] = frozenset()
    """Those that were held in this tick only."""
    pointer_x: float = 0.0
    pointer_y: float = 0.0
    pointer_moved: bool = False
    under: tuple[int, ...] = ()
    """Ids under the pointer, front-most first."""
    was_under: tuple[int, ...] = ()
    """The same in the tick before."""


@dataclass(slots=True)
class Contacts:
    """Who touches whom: pairs as id_a << 32 | id_b with id_a < id_b, sorted."""

    touching: NDArray[np.int64] = field(default_factory=_no_pairs)
    begun: NDArray[np.int64] = field(default_factory=_no_pairs)
    ended: NDArray[np.int64] = field(default_factory=_no_pairs)
    hits: tuple[NDArray[np.int64], ...] = ()
    """Pairs that solid bodies parted in this tick."""
    unparted: NDArray[np.int64] = field(default_factory=_no_pairs)
    """Ids of what was left overlapping, since it was too much for a tick."""
    inside: dict[str, NDArray[np.int64]] = field(default_factory=dict)
    """Ids in each area that a rule asks about, sorted."""
    was_inside: dict[str, NDArray[np.int64]] = field(default_factory=dict)
    """The same in the tick before."""


@dataclass(slots=True)
class Movement:
    """What moves objects beside their velocity, and what came of it in this tick."""

    tweens: tuple[Tween, ...] = ()
    bonds: dict[int, Bond] = field(default_factory=dict)
    """By id of what is attached."""
    playing: tuple[Playing, ...] = ()
    clip_ends: tuple[tuple[str, int], ...] = ()
    arrivals: tuple[tuple[str, int, int], ...] = ()
    """Who arrived where: what (goal, stop, end), id, number of the stop."""


@dataclass(slots=True)
class Focus:
    """Who looks at what."""

    on: dict[int, int] = field(default_factory=dict)
    """By id of who looks: the id of what has its focus."""
    events: tuple[tuple[str, int, int], ...] = ()
    """What changed in this tick."""


@dataclass(slots=True)
class Prompts:
    """Prompts and talk: what is offered, whose key is held, what happened."""

    offers: tuple[Offer, ...] = ()
    answerable: tuple[Any, ...] = ()
    """Who could answer which prompt, as things stood when something last stirred."""
    answering: dict[tuple[int, str], Answering] = field(default_factory=dict)
    """By answerer and key."""
    rests: dict[int, float] = field(default_factory=dict)
    """Until when (s) a prompt rests, by its id."""
    events: tuple[tuple[str, int, int, str], ...] = ()
    menu: Menu | None = None
    chosen_entry: str = ""
    talking: int = 0
    """With whom the player talks, by id; 0 with nobody."""
    topic: str = ""
    """The topic chosen in this tick."""


@dataclass(slots=True)
class Messages:
    """Messages sent in this tick and heard in it, with how many of each."""

    outbox: dict[str, int] = field(default_factory=dict)
    heard: dict[str, int] = field(default_factory=dict)
    sent_from: dict[str, dict[int, float]] = field(default_factory=dict)
    """By message: the number that each sender (by id) sent with it."""
    heard_from: dict[str, dict[int, float]] = field(default_factory=dict)


@dataclass(slots=True)
class Rules:
    """What rules have switched, wait for and remember."""

    switched: dict[str, bool] = field(default_factory=dict)
    fired_at: dict[int, int] = field(default_factory=dict)
    waits: list[Wait] = field(default_factory=list)
    serial: int = 0
    alarms: list[tuple[float, int]] = field(default_factory=list)
    memory: dict[tuple[int, int], Memory] = field(default_factory=dict)
    """By turn and, of a graph, the card; 0 for a rule."""
    lines: dict[tuple[Any, ...], Any] = field(default_factory=dict)
    """What lines (occasions, conditions) have kept for themselves."""
    cards: dict[tuple[int, int], dict[Any, Any]] = field(default_factory=dict)
    """What the cards of graphs remember, by graph and card. Most cards map the roles of matches to a dict from a match's objects
    to a value. It is replaced, never written into."""
    over: bool = False
    """The trial was ended."""
    cut: tuple[str, ...] = ()
    """What was cut off in this tick because it would have taken too long: sentences, told as faults."""
    created_now: int = 0
    sent_now: int = 0


@dataclass(slots=True)
class Display:
    """What the player is shown beside the objects."""

    sayings: dict[int, tuple[str, float]] = field(default_factory=dict)
    """By id of who says it: the text, and until when (s)."""
    telling: str = ""
    colours: dict[int, str] = field(default_factory=dict)
    """By id: colours that rules have given."""
