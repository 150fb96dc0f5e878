"""Match tables: the combinations of objects a rule is about, as index arrays."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Candidates, Rows
from gatillo.level.roles import Role
from gatillo.sim.chance import uniform
from gatillo.sim.world import World

_NOTHING = np.zeros(0, dtype=np.int64)


@dataclass(slots=True)
class Matches:
    """n matches: for each role token the world row of its object in each match.

    `origin` says from which match of an earlier table each came, shape (n,); None where nobody asks.
    """

    n: int
    rows: dict[str, Rows]
    origin: NDArray[np.int64] | None = None

    def take(self, which: NDArray[Any]) -> Matches:
        """The matches at these positions, or where a yes/no array is yes."""
        at = which.nonzero()[0] if which.dtype == np.bool_ else which
        origin = None if self.origin is None else self.origin.take(at)
        return Matches(len(at), {role: rows.take(at) for role, rows in self.rows.items()}, origin)

    def tracked(self) -> Matches:
        """The same matches, counted from here: tables made of this one know their `origin` in it."""
        return Matches(self.n, self.rows, np.arange(self.n))

    def none(self) -> Matches:
        """The same roles with no match."""
        return Matches(0, dict.fromkeys(self.rows, _NOTHING), None if self.origin is None else _NOTHING)


def table_of(candidates: Candidates) -> Matches:
    """A match table of an occasion's candidates."""
    return Matches(candidates.n, candidates.rows)


def union(world: World, found: list[Candidates]) -> Matches:
    """The candidates of several occasions together, each combination once."""
    if len(found) == 1:
        return table_of(found[0])
    roles = list(dict.fromkeys(role for c in found for role in c.rows))
    expanded = []
    for candidates in found:
        if candidates.n:
            table = table_of(candidates)
            for role in roles:
                if role not in table.rows:
                    table = join_role(world, table, world.program.index.role_tokens[role])
            expanded.append(table)
    if not expanded:
        return Matches(0, {})
    if not roles:
        n = max(t.n for t in expanded)
        return Matches(n, {})
    columns = np.stack([np.concatenate([t.rows[role] for t in expanded]) for role in roles])
    columns = np.unique(columns, axis=1)
    return table_of(Candidates(columns.shape[1], dict(zip(roles, columns, strict=True))))


ONE_MATCH = table_of(Candidates(1))
"""The table of an occasion that is about no object."""


class TooManyMatches(Exception):
    """A match table would grow beyond the level's bound."""

    def __init__(self, wanted: int, most: int, role: str) -> None:
        super().__init__(
            f"bringing in “{role}” would make {wanted:,} matches; the level's bound is {most:,}. "
            f"Narrow the rule with a condition before it names “{role}”"
        )


def join_role(world: World, table: Matches, role: Role) -> Matches:
    """Each match with every object the role can stand for; never the same object as its partner role."""
    rows = world.rows_of(role)
    wanted = table.n * len(rows)
    most = world.program.level.settings.most_matches
    if wanted > most:
        raise TooManyMatches(wanted, most, role.text)
    if table.n == 1 and not table.rows:
        origin = None if table.origin is None else np.repeat(table.origin, len(rows))
        return Matches(len(rows), {role.token: rows}, origin)
    joined = table.take(np.repeat(np.arange(table.n), len(rows)))
    joined.rows[role.token] = np.tile(rows, table.n)
    for other, other_rows in joined.rows.items():
        if other != role.token and world.program.index.role_tokens[other].base == role.base:
            return joined.take(other_rows != joined.rows[role.token])
    return joined


def keys_of(world: World, table: Matches) -> list[Hashable]:
    """What tells each match from others, by the ids of its objects: the same from tick to tick."""
    if not table.rows:
        return [None] * table.n
    columns = [world.id[rows].tolist() for rows in table.rows.values()]
    return list(zip(*columns, strict=True)) if len(columns) > 1 else columns[0]


def where_keys(keys: Iterable[Hashable], wanted: Any) -> NDArray[np.bool_]:
    """For each key, whether it is in `wanted`."""
    return np.fromiter((key in wanted for key in keys), dtype=bool)


class View:
    """A match table as formulas see it (the formula package's Frame)."""

    __slots__ = ("active", "faults", "identity", "n", "ordinal", "table", "world")

    def __init__(self, world: World, table: Matches, identity: int) -> None:
        self.world = world
        self.table = table
        self.n = table.n
        self.active: Any = True
        self.identity = identity
        self.faults: list[tuple[NDArray[np.bool_], str]] = []
        self.ordinal: NDArray[np.int64] | None = None
        """Which copy each match is, when an action makes several things for one match."""

    def rows(self, role: str) -> Rows:
        return self.table.rows[role]

    def property(self, role: str, name: str) -> Any:
        return self.world.values_of(self.table.rows[role], name)

    def values_of(self, rows: Rows, name: str) -> Any:
        return self.world.values_of(rows, name)

    def level_value(self, name: str) -> Any:
        return self.world.level[name]

    def clock(self, name: str) -> float:
        return float(getattr(self.world, name))

    def pointer(self, axis: str) -> float:
        return self.world.pointer_x if axis == "x" else self.world.pointer_y

    def everyone(self, kind: str) -> Rows:
        return self.world.rows_of_kind(self.world.program.kind_number[kind])

    def draw(self, call: int) -> NDArray[np.float64]:
        columns = list(self.table.rows.values())
        nothing = np.zeros(self.n, dtype=np.int64)
        first = self.world.id[columns[0]] if columns else nothing
        second = self.world.id[columns[1]] if len(columns) > 1 else nothing
        if self.ordinal is not None:
            second = second + (self.ordinal << 40)
        elif not columns and self.n > 1:
            first = np.arange(self.n)
        return uniform(self.world.seed, self.identity, first, second, self.world.tick, call)

    def fault(self, bad: Any, sentence: str) -> None:
        where = np.logical_and(bad, self.active)
        if where.ndim == 0:
            where = np.full(self.n, bool(where))
        if where.any():
            self.faults.append((where, sentence))

    def faulted(self) -> NDArray[np.bool_] | None:
        """Matches with a fault, or None when there is none."""
        if not self.faults:
            return None
        result = self.faults[0][0]
        for where, _ in self.faults[1:]:
            result = result | where
        return result
