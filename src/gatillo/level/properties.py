"""The properties that every object has: the one table from which formulas, checks, the run and the explanations take them.

A property that is stored needs a column of the same name in `sim/world/columns.py`; a missing one is an error at import.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

FARTHEST_AWAY = 1e12
"""Level units; no rule puts an object farther off."""
FASTEST = 1e9
"""Units a second; no rule gives a higher speed."""
Type = Literal["number", "yes/no", "text"]


@dataclass(frozen=True, slots=True)
class Property:
    """What holds of one property of objects."""

    type: Type = "number"
    named: bool = False
    """Whether formulas name it, as in `Moth.x`. No variable may have its name."""
    writable: bool = False
    """Whether an action that sets a variable can set it."""
    most: float = math.inf
    """The largest value, with either sign, that a rule may write."""
    of_pose: bool = False
    """Whether contacts and distances depend on it."""
    moves: bool = False
    """Whether Motion changes it from tick to tick."""
    integrated: bool = False
    """Whether Motion changes it without a notice, so that no answer that reads it can be kept."""
    physical: bool = False
    """Whether it decides how an object answers to forces."""
    of: tuple[str, ...] = ()
    """For a property that is worked out and not stored: the properties that it follows from."""
    told_with: str = ""
    """The property with which it is reported as one: a place is x and y, a velocity vx and vy."""
    does: str = ""
    """What a rule does that writes it, with `{names}` in the place of the objects."""


PROPERTIES: dict[str, Property] = {
    "x": Property(
        named=True, writable=True, most=FARTHEST_AWAY, of_pose=True, moves=True, does="it moved {names}"
    ),
    "y": Property(
        named=True,
        writable=True,
        most=FARTHEST_AWAY,
        of_pose=True,
        moves=True,
        told_with="x",
        does="it moved {names}",
    ),
    "vx": Property(
        named=True,
        writable=True,
        most=FASTEST,
        moves=True,
        integrated=True,
        does="it gave {names} a velocity",
    ),
    "vy": Property(
        named=True,
        writable=True,
        most=FASTEST,
        moves=True,
        integrated=True,
        told_with="vx",
        does="it gave {names} a velocity",
    ),
    "angle": Property(named=True, writable=True, of_pose=True, moves=True, does="it turned {names}"),
    "scale": Property(named=True, writable=True, most=1e6, of_pose=True),
    "depth": Property(named=True, writable=True, most=1e12),
    "shown": Property("yes/no", named=True, writable=True),
    "name": Property("text", named=True, of=("name",)),
    "facing": Property(of=("angle",)),
    "speed": Property(of=("vx", "vy")),
    "mass": Property(physical=True),
    "bounce": Property(physical=True),
    "friction": Property(physical=True),
    "gravity": Property(physical=True),
    "contact": Property(physical=True),
    "grounded": Property("yes/no"),
}


def stored() -> list[str]:
    """Return the names of the properties that a running level stores for each object."""
    return [name for name, made in PROPERTIES.items() if not made.of]


def told_as(name: str) -> str:
    """Return the property under which one is told: `x` for `y`, `vx` for `vy`, else itself."""
    return PROPERTIES[name].told_with or name
