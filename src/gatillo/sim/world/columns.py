"""The columns of a world: each declared once, with what it begins with."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.values import half_open_degrees
from gatillo.level.model import Object
from gatillo.sim.program.program import Program
from gatillo.sim.world.records import Sort

Kinds = NDArray[np.int64]
"""The kind of each of some objects, by number."""


@dataclass(frozen=True, slots=True)
class Column:
    """A property with a value for each object, in an array with a row each."""

    of_kind: Callable[[Program, Kinds], NDArray[Any]]
    """What objects of these kinds begin with, shape (n,); its dtype is the column's."""
    laid_out: Callable[[Object], Any] | None = None
    """What the level says of an object; None where it leaves it to the kind."""
    sort: Sort = "value"
    """What it is to a person who compares two runs (records.py)."""

    def start(self, program: Program, objects: Sequence[Object], kinds: Kinds) -> NDArray[Any]:
        """Return what objects that the level lays out begin with."""
        found = self.of_kind(program, kinds)
        if self.laid_out is not None:
            own = [self.laid_out(o) for o in objects]
            said = [row for row, value in enumerate(own) if value is not None]
            found[said] = [own[row] for row in said]
        return found


def _all(value: float | bool, dtype: Any) -> Callable[[Program, Kinds], NDArray[Any]]:
    return lambda program, kinds: np.full(len(kinds), value, dtype=dtype)


_NONE, _ONE = _all(0.0, np.float64), _all(1.0, np.float64)
_NO, _YES = _all(False, bool), _all(True, bool)
_NOBODY = _all(0, np.int64)

COLUMNS: dict[str, Column] = {
    "id": Column(_NOBODY, lambda o: o.id, "bookkeeping"),
    "kind": Column(lambda program, kinds: kinds.copy()),
    "x": Column(_NONE, lambda o: o.x),
    "y": Column(_NONE, lambda o: o.y),
    "angle": Column(_NONE, lambda o: half_open_degrees(o.angle)),
    "scale": Column(_ONE, lambda o: o.scale),
    "depth": Column(lambda program, kinds: program.kind_tables.depths[kinds], lambda o: o.depth),
    "vx": Column(_NONE),
    "vy": Column(_NONE),
    # how it answers to forces: of its kind, until a rule changes it
    "mass": Column(lambda program, kinds: program.kind_tables.masses[kinds]),
    "bounce": Column(lambda program, kinds: program.kind_tables.bounces[kinds]),
    "friction": Column(lambda program, kinds: program.kind_tables.frictions[kinds]),
    "gravity": Column(lambda program, kinds: program.kind_tables.gravities[kinds]),
    "contact": Column(lambda program, kinds: program.kind_tables.contacts[kinds]),
    "grounded": Column(_NO, sort="memory"),
    # lies still on another (by id): not moved and not looked at until something happens to either
    "asleep": Column(_NO, sort="bookkeeping"),
    "rests_on": Column(_NOBODY, sort="bookkeeping"),
    "shown": Column(_YES, lambda o: o.shown),
    "alive": Column(_YES),
    # the tick in which it was removed
    "died": Column(_NOBODY, sort="bookkeeping"),
    # has moved, so that its contacts are to be looked at
    "moved": Column(_YES, sort="bookkeeping"),
    # the last tick whose contact phase found it moved; who asks why it stands there need not look at later ones
    "last_moved": Column(_NOBODY, sort="bookkeeping"),
}
