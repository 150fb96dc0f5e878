"""Caches of a world: everything here can be worked out again, and changes nothing in a run."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.sim.spatial.grid import Grid
from gatillo.sim.spatial.neighbour_list import Neighbours

NOT_KNOWN = np.zeros(0, dtype=bool)


@dataclass(slots=True)
class Caches:
    """Kept between ticks, forgotten when what it was worked out from changes."""

    any_moved: bool = True
    """Whether contacts have to be looked at."""
    changes: dict[str, int] = field(default_factory=dict)
    """How often each thing that remembering conditions depend on has changed."""
    kept: dict[int, Any] = field(default_factory=dict)
    """What remembering conditions answered last."""
    asleep: dict[int, Any] = field(default_factory=dict)
    """By identity of a turn that led to nobody: it, and how its look came out."""
    pulled: dict[tuple[int, int], Any] = field(default_factory=dict)
    """What the cards of graphs gave last, with the table of matches that they were asked about."""
    given: dict[tuple[int, int], Any] | None = None
    """While somebody wants to see them: by graph and card, the value that each card gave last."""
    whole: dict[tuple[str, ...], Any] = field(default_factory=dict)
    """Tables of all that some roles stand for."""
    alone: dict[str, int] = field(default_factory=dict)
    """By role: the row of the only object that it can stand for, -1 where there is not just one."""
    turn_rows: dict[int, dict[str, int] | None] = field(default_factory=dict)
    """By identity of a rule whose turn begins with nobody: the row of each of its roles, None where one is not one object."""
    rows: dict[str, Rows] = field(default_factory=dict)
    runs: dict[int, slice] = field(default_factory=dict)
    """By the identity of an array in `rows`, which keeps it alive: the slice that it is."""
    members: dict[str, NDArray[np.bool_]] = field(default_factory=dict)
    tags: dict[str, NDArray[np.bool_]] = field(default_factory=dict)
    """By tag that was asked for: which objects carry it, by their kind or from the start."""
    numbers: dict[int, int] | None = None
    """In a small world: by id the row of everyone who is there."""
    reach: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None
    grids: tuple[tuple[Rows, Grid, NDArray[np.bool_]], ...] = ()
    """Kept by the contact search from tick to tick; what it finds does not depend on them."""
    neighbours: tuple[Neighbours, ...] = ()
    lists_rest_until: int = 0
    crowded: bool = False
    listed: dict[int, tuple[Rows, object, list[int], list[float], list[float]]] = field(default_factory=dict)
    """By the identity of an array of rows: it, the reach it was made with, and rows and reach as lists."""
    sizes: tuple[Rows, object, tuple[Rows, Rows, float]] | None = None
    stirred: NDArray[np.bool_] = field(default_factory=lambda: NOT_KNOWN)
    """By row: what moved in the tick before, for those that lie on it; empty when it is not known."""

    laid_out: Any = None
    """The world before its first tick, once a rule has asked what was so then."""

    clear: frozenset[int] = frozenset()
    """Rows that fly in this tick and were found to come near nothing solid on their way."""
    before: tuple[NDArray[np.float64], NDArray[np.float64]] = (np.zeros(0), np.zeros(0))
    """Where everything stood, x and y by row, before it moved: kept for the rest of the Move phase only."""

    columns: Any = None
    """The world's columns as kernels take them; None when they are to be bound anew."""
    bound: dict[int, Any] = field(default_factory=dict)
    """What kernels are given of behaviours, by their identity."""

    scene: Any = None
    """The world as the kernels for flight and contact take it, and the half widths that it was bound with."""
    scene_of: Any = None
    room: tuple[NDArray[np.float64], NDArray[np.int64]] | None = None
    """Room for kernels to work in."""

    all_hits: list[int] | None = None
    """While a replay asks for it: pairs that solid bodies parted in this tick, whether a rule senses them or not."""

    def clone(self) -> Caches:
        """Return empty caches for a copy of the world."""
        return replace(
            self,
            changes=dict(self.changes),
            kept={},
            asleep={},
            whole={},
            alone={},
            turn_rows={},
            pulled={},
            given=None,
            rows=dict(self.rows),
            runs=dict(self.runs),
            members=dict(self.members),
            tags=dict(self.tags),
            listed={},
            columns=None,
            bound={},
            scene=None,
            scene_of=None,
            room=None,
            all_hits=None,
        )

    def structure_changed(self) -> None:
        """Objects came or went: forget who is there."""
        self.rows.clear()
        self.runs.clear()
        self.whole.clear()
        self.alone.clear()
        self.turn_rows.clear()
        self.members.clear()
        self.tags.clear()
        self.numbers = None
        self.reach = None
        self.listed.clear()
        self.columns = None
        self.bound = {}
        self.scene = self.scene_of = None
        self.grids = ()
        self.neighbours = ()
        self.crowded = False
        self.sizes = None
        self.stirred = NOT_KNOWN
