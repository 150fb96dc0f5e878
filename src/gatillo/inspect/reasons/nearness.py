"""Which match comes nearest to a line that holds for none."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.inspect.reasons.instruments import Match, Table
from gatillo.inspect.reasons.measures import Measure, measure
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.world.world import World


def those_about(table: Table, wanted: frozenset[int]) -> NDArray[np.int64]:
    """Return the matches of a table that are about those asked for; all of them if none is asked for."""
    return table.about(wanted) if wanted else np.arange(table.n)


def rows_about(world: World, table: Matches, wanted: frozenset[int]) -> NDArray[np.int64]:
    """Return the matches of a table of rows that are about those asked for, as far as it names them."""
    ids = {role: world.id[rows] for role, rows in table.rows.items()}
    named = frozenset(i for column in ids.values() for i in column.tolist()) if wanted else wanted
    return those_about(Table(table.n, ids), wanted & named)


def closest(
    world: World, index: Index, line: CompiledLine, wanted: frozenset[int]
) -> tuple[Match, float, str] | None:
    """Over all that a line can be about: who comes nearest to it, by how much, and how things stand."""
    found: tuple[Matches, Measure] | None = measure(world, index, line, Matches(1, {}))
    if found is None:
        return None
    joined, told = found
    fits = rows_about(world, joined, wanted)
    if not len(fits):
        return None
    off = np.where(np.isnan(told.off[fits]), np.inf, told.off[fits])
    if line.negated:
        off = -off
    at = int(fits[np.argmin(off)])
    match = {role: int(world.id[column[at]]) for role, column in joined.rows.items()}
    return match, float(off.min()), told.words(at)
