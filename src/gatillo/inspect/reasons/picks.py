"""What a pick chose by, and by how much other matches were better or worse."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gatillo.inspect.reasons.instruments import Match, Seen, Table, table
from gatillo.inspect.reasons.measures import Probe, by
from gatillo.inspect.reasons.reason_words import called
from gatillo.kernels.mathematics import length
from gatillo.language.binding import RoleArgument, Word
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import Matches, TooManyMatches, join_role
from gatillo.sim.run.run import Run


def pick_words(run: Run, index: Index, one: Seen, match: Match) -> str:
    """After a pick's sentence: among how many a match was kept, and how near the next one came; or who was kept in its place."""
    absent = [role for role in (one.line.roles if one.line is not None else ()) if role not in one.before.ids]
    if absent:
        nobody = [role for role in absent if not len(one.world.rows_of(index.role_tokens[role]))]
        return f": there is no “{index.role_tokens[nobody[0]].text}”" if nobody else ""
    found = scores(run, index, one)
    mine = one.before.where(match)
    if found is None or not len(mine) or one.before.n < 2:
        return f": the only one of {one.before.n}" if one.before.n == 1 else ""
    values, unit, groups = found
    at = int(mine[0])
    others = np.flatnonzero((groups == groups[at]) & (np.arange(one.before.n) != at))
    if not len(others):
        return ": the only one"
    if len(one.after.where(match)):
        nearest = int(others[np.argmin(np.abs(values[others] - values[at]))])
        other = _name(run, one, nearest, match)
        return f": {by(values[at])}{unit}, the next, {other}, {by(values[nearest])}{unit}"
    kept = [int(o) for o in others if len(one.after.where(one.before.match(int(o))))]
    if not kept:
        return ""
    off = abs(float(values[kept[0]] - values[at]))
    return f": {_name(run, one, kept[0], match)} was kept with {by(values[kept[0]])}{unit}; this one has {by(values[at])}{unit}, {by(off)} behind"


def with_its_roles(index: Index, one: Seen, match: Match, wanted: frozenset[int]) -> tuple[Seen, Match]:
    """Return what came to a pick with every role that the pick goes by, and a match that it did not keep.

    The match is about the objects asked for, as far as any is. Where a role has no object, or would make too many matches, both
    are returned as they are.
    """
    absent = [role for role in (one.line.roles if one.line is not None else ()) if role not in one.before.ids]
    if not absent or any(not len(one.world.rows_of(index.role_tokens[role])) for role in absent):
        return one, match
    joined = _with_roles(index, one, absent)
    if joined is None:
        return one, match
    fits = joined.where(match)
    about = fits[np.isin(fits, joined.about(frozenset(i for i in wanted if _is_in(joined, i))))]
    about = about if len(about) else fits
    lost = [at for at in about.tolist() if not len(one.after.where(joined.match(at)))]
    chosen = joined.match(lost[0]) if lost else match
    return replace(one, before=joined), chosen


def _is_in(joined: Table, one: int) -> bool:
    return any((column == one).any() for column in joined.ids.values())


def _with_roles(index: Index, one: Seen, roles: list[str]) -> Table | None:
    """Return what came to a pick, with each object for the roles that it brings in; None where that is too much."""
    rows = {role: one.world.rows_of_ids(column) for role, column in one.before.ids.items()}
    there = np.ones(one.before.n, dtype=bool)
    for column in rows.values():
        there &= column >= 0
    joined = Matches(one.before.n, rows).take(there)
    try:
        for role in roles:
            joined = join_role(one.world, joined, index.role_tokens[role])
    except TooManyMatches:
        return None
    return table(one.world, joined)


def scores(run: Run, index: Index, one: Seen) -> tuple[NDArray[np.float64], str, NDArray[np.int64]] | None:
    """Return what a pick chose by for the matches that came to it, the unit, and the group of each; None if it draws."""
    line, world = one.line, one.world
    if line is None:
        return None
    rows = {role: world.rows_of_ids(column) for role, column in one.before.ids.items()}
    if any((column < 0).any() for column in rows.values()):
        return None
    probe = Probe(world, index, line, Matches(one.before.n, rows))
    per = line.arguments.get("per")
    groups = np.zeros(one.before.n, dtype=np.int64)
    if isinstance(per, RoleArgument) and per.role.token in rows:
        groups = rows[per.role.token]
    elif isinstance(per, Word) and per.text in rows:
        groups = rows[per.text]
    how, *slots = line.entry.measured or ("",)
    make = SCORES.get(how)
    if make is None:
        return None
    values, unit = make(probe, *slots)
    return values, unit, groups


def _nearest(probe: Probe, who: str, where: str) -> tuple[NDArray[np.float64], str]:
    x, y = probe.point(where)
    rows = probe.rows(who)
    return length(x - probe.world.x[rows], y - probe.world.y[rows]), " units"


def _value(probe: Probe, value: str) -> tuple[NDArray[np.float64], str]:
    return probe.numbers(value), ""


def _depth(probe: Probe, who: str) -> tuple[NDArray[np.float64], str]:
    return np.asarray(probe.world.depth[probe.rows(who)], dtype=np.float64), " of depth"


SCORES: dict[str, Callable[..., tuple[NDArray[np.float64], str]]] = {
    "nearest": _nearest,
    "value": _value,
    "depth": _depth,
}
"""By how a pick says that it is measured: what it goes by, for each match, and in which unit."""


def _name(run: Run, one: Seen, at: int, match: Match) -> str:
    """Return what another match is about, by what distinguishes it from this one."""
    other = one.before.match(at)
    found = [called(run, i, one.world) for role, i in other.items() if match.get(role) != i]
    return ", ".join(found) or "another match"
