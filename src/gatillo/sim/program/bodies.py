"""What objects are made of: shapes as numbers, and behaviours with the columns of their settings."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from gatillo.catalogue.declare.entry import Entry, Kernel
from gatillo.formula.formula import Formula
from gatillo.level.model import Circle, Kind
from gatillo.level.roles import Role

NONE, SENSED, MOVABLE, FIXED = range(4)
"""What an object's contact is, as a number in its column."""
CONTACTS = {"none": NONE, "sensed": SENSED, "movable": MOVABLE, "fixed": FIXED}


@dataclass(slots=True)
class Behaviour:
    """A behaviour of a kind: `settings` are the columns of its numbers, `words` the rest."""

    kind: int
    entry: Entry
    words: dict[str, Any]
    columns: dict[str, str]
    starts: dict[str, float]
    remembered: dict[str, str]
    """By name: the columns in which objects keep numbers for it."""
    identity: int
    """What its random draws are keyed by."""
    formulas: dict[str, Formula] = field(default_factory=dict)
    """Settings that are worked out in each tick, over the matches of its kind alone."""
    line: int = 0
    """Where it is among its kind's behaviours."""
    goes_by: tuple[str, ...] = ()
    """The kinds of what it goes by."""
    on: str = ""
    """The column that says for which objects it is switched on."""
    whose: str = ""
    """Under what the rows of those for which it is are kept."""

    _leads: bool | None = None
    kernel: Kernel | None = None
    """Its entry's, unless it goes by references to objects instead of the objects of a kind or tag."""

    def __post_init__(self) -> None:
        refers = any(isinstance(word, Role) and word.source == "reference" for word in self.words.values())
        self.kernel = None if refers else self.entry.kernel
        self.on = on_column(self.entry.name)
        self.whose = f"#{self.kind} {self.on}"

    @property
    def leads(self) -> bool:
        """Whether it drives its objects, so that it rests while they look into a noise."""
        if self._leads is None:
            phase = self.entry.phase
            self._leads = phase != "first" and (phase in ("urge", "motion") or self.entry.derived.drives)
        return self._leads


def on_column(behaviour: str) -> str:
    """Return the column that says for which objects a behaviour is switched on."""
    return f"{behaviour}.on"


def memory_column(behaviour: str, name: str) -> str:
    """Return the column of a number that objects keep for a behaviour; no setting can be called so."""
    return f"{behaviour}.~{name}"


BUSY = memory_column("look_into", "stage")
"""Above 0 while an object looks into a noise, and does nothing else."""


def setting_column(behaviour: str, setting: str) -> str:
    """Return the column of a number among a behaviour's settings."""
    return f"{behaviour}.{setting}"


FARTHEST_SETTING = 1e9
"""No number among a behaviour's settings may be larger, whatever its unit: what is worked out with it stays finite."""
WALKS, ENDS, ENDED = 1, 2, 3
"""What `going` among the columns of those who walk says: on its way; come to its end in the tick before; standing there."""
WALK: dict[str, str] = {
    name: f"walk.~{name}"
    for name in (
        "going",
        "sent",
        "route",
        "stop",
        "way",
        "how",
        "rest",
        "speed",
        "leg_time",
        "easing",
        "from_x",
        "from_y",
        "gone",
        "faces",
        "left",
    )
}
"""Columns of what an object keeps that walks a route; `left` is the number of the stop that it left last, 0 for none."""


@dataclass(frozen=True, slots=True)
class Geometry:
    """A kind's shape as numbers: a circle of `radius`, or a box of half width and half height."""

    round: bool
    radius: float
    half_width: float
    half_height: float


def geometry_of(kind: Kind) -> Geometry:
    """Return numbers of a kind's shape, in level units, for objects of scale 1."""
    if isinstance(kind.shape, Circle):
        return Geometry(True, kind.shape.radius, 0.0, 0.0)
    half_width, half_height = kind.shape.width / 2, kind.shape.height / 2
    return Geometry(False, 0.0, half_width, half_height)
