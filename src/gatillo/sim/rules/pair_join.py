"""Bringing in the second role of a condition about pairs, without trying every pair."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.level.roles import Role
from gatillo.sim.collision.proximity import nobody_within, within_reach
from gatillo.sim.matching.match_table import Matches, TooManyMatches, View, join_role, same_base
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import Screen
from gatillo.sim.world.world import World


def join_pairs(world: World, table: Matches, line: CompiledLine) -> Matches | None:
    """Return the table with both roles of a condition about pairs, only those combinations that can pass it.

    None where they are not known beforehand; then every combination must be tried. Raises TooManyMatches.
    """
    assert line.pair is not None
    a, b, how = line.pair
    tokens = world.program.roles
    if tokens[a].source == "reference" or tokens[b].source == "reference":
        return None
    if a not in table.rows and b not in table.rows:
        table = join_role(world, table, tokens[next(r for r in line.roles if r in (a, b))])
    if a in table.rows and b in table.rows:
        return table
    there, missing = (a, b) if a in table.rows else (b, a)
    most = world.program.level.settings.most_matches
    if how == "contact":
        at, rows = _touching(world, table.rows[there], tokens[missing])
        more = len(at) > most
    else:
        reach = _reach(world, table, line)
        if reach is None:
            return None
        some, others = table.rows[there], world.rows_of(tokens[missing])
        if isinstance(reach, float) and nobody_within(world, some, others, reach):
            none = table.none()
            return Matches(0, {**none.rows, missing: others[:0]}, none.origin, none.unit)
        at, rows, more = within_reach(world, some, others, reach, most)
    if more:
        raise TooManyMatches(len(at), most, tokens[missing].text)
    joined = table.take(at)
    joined.rows[missing] = rows
    # roles of one kind never stand for the same object
    for role in list(joined.rows):
        if role != missing and same_base(world, tokens[missing], role):
            joined = joined.take(joined.rows[role] != joined.rows[missing])
    return joined


def nobody_near(world: World, screen: Screen) -> int:
    """Return for how many a turn is looked at if it is certain that no pair it asks for is near; else 0."""
    some, others = world.rows_of(screen.one), world.rows_of(screen.other)
    many = len(some) if screen.each else 1
    return many if many and nobody_within(world, some, others, screen.distance) else 0


def _reach(world: World, table: Matches, line: CompiledLine) -> NDArray[np.float64] | float | None:
    """Return the distance that the condition asks for, if it can be worked out before the role is there."""
    formula = next((f for name, f in line.worked_out if name == "distance"), None)
    if formula is None:
        return float(line.fixed["distance"])
    if isinstance(formula.constant, float):
        return formula.constant
    if not all(role in table.rows for role in formula.roles):
        return None
    view = View(world, table, line.identity)
    reach: NDArray[np.float64] | float = formula.evaluate(view)
    # a fault is reported where the condition is asked, so every pair must come there
    return None if view.faults else reach


def _touching(world: World, rows: Rows, role: Role) -> tuple[NDArray[np.int64], Rows]:
    """Return pairs (position in rows, row of the role) that touch."""
    codes = world.contacts.touching
    one, other = world.rows_of_ids(codes >> 32), world.rows_of_ids(codes & 0xFFFFFFFF)
    there = (one >= 0) & (other >= 0)
    one, other = np.concatenate((one[there], other[there])), np.concatenate((other[there], one[there]))
    mine = world.member(role)[other]
    one, other = one[mine], other[mine]
    order = np.lexsort((other, one))
    one, other = one[order], other[order]
    low = np.searchsorted(one, rows, side="left")
    counts = np.searchsorted(one, rows, side="right") - low
    at = np.repeat(np.arange(len(rows)), counts)
    starts = np.cumsum(counts) - counts
    return at, other[np.arange(len(at)) + np.repeat(low - starts, counts)]
