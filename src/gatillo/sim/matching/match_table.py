"""Match tables: the combinations of objects a rule is about, as index arrays."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Candidates, Rows
from gatillo.formula.formula import column_key
from gatillo.formula.frame import Frame
from gatillo.kernels.mathematics import cosd, sind
from gatillo.level.roles import Role
from gatillo.sim.spatial.random_draws import uniform
from gatillo.sim.world.world import DERIVED, World

_ROLES_IN_A_KEY = 4
"""As many rows of the most objects a level may have go into one 64-bit number."""
ALONE = 1
"""Of one match a property is a plain value; with 0, as tests set it, an array of one."""
SELF = "self"
"""The role of the object for which a graph takes its turn."""
_NOTHING = np.zeros(0, dtype=np.int64)


class Matches:
    """n matches: for each role token the world row of its object in each match.

    `origin` says from which match of an earlier table each came, shape (n,), and `unit` from which of the table over which an
    action has created something; None where it is not asked for.
    What was taken from another table is looked up there when it is first asked for: many rules need
    no more of their matches than how many there are.
    """

    __slots__ = ("_from", "_none", "_origin", "_rows", "_unit", "_which", "n")

    def __init__(
        self,
        n: int,
        rows: dict[str, Rows],
        origin: NDArray[np.int64] | None = None,
        unit: NDArray[np.int64] | None = None,
    ) -> None:
        self.n = n
        self._rows: dict[str, Rows] | None = rows
        self._origin = origin
        self._unit = unit
        self._from: Matches | None = None
        self._which: NDArray[Any] | None = None
        self._none: Matches | None = None

    @property
    def rows(self) -> dict[str, Rows]:
        """By role token: rows of shape (n,)."""
        if self._rows is None:
            self._look_up()
        assert self._rows is not None
        return self._rows

    @property
    def origin(self) -> NDArray[np.int64] | None:
        """For each match the position in the table it came from, shape (n,); None when that is not followed."""
        if self._rows is None:
            self._look_up()
        return self._origin

    @property
    def unit(self) -> NDArray[np.int64] | None:
        """For each match which one it was when units were counted, shape (n,); None when they have not been."""
        if self._rows is None:
            self._look_up()
        return self._unit

    def count_units(self) -> None:
        """Number the matches, if that has not been done. Tables derived from this one carry the numbers in `unit`."""
        if self.unit is None:
            self._unit = np.arange(self.n)

    def _look_up(self) -> None:
        table, which = self._from, self._which
        assert table is not None and which is not None
        at = which.nonzero()[0] if which.dtype == np.bool_ else which
        self._rows = {role: rows.take(at) for role, rows in table.rows.items()}
        self._origin = None if table.origin is None else table.origin.take(at)
        self._unit = None if table.unit is None else table.unit.take(at)
        self._from = self._which = None

    def take(self, which: NDArray[Any]) -> Matches:
        """Return the matches at these positions, or where a yes/no array is yes; `which` must not change later."""
        n = np.count_nonzero(which) if which.dtype == np.bool_ else len(which)
        taken = Matches(int(n), {})
        taken._rows, taken._from, taken._which = None, self, which
        return taken

    def tracked(self) -> Matches:
        """Return these matches numbered from 0: tables derived from the result know their `origin` in it."""
        return Matches(self.n, self.rows, np.arange(self.n), self.unit)

    def none(self) -> Matches:
        """Return a table with these roles and no match."""
        if self._none is None:
            origin = None if self.origin is None else _NOTHING
            unit = None if self.unit is None else _NOTHING
            self._none = Matches(0, dict.fromkeys(self.rows, _NOTHING), origin, unit)
        return self._none


def table_of(candidates: Candidates) -> Matches:
    """Return a match table of an occasion's candidates."""
    return Matches(candidates.n, candidates.rows)


def union(world: World, found: list[Candidates]) -> Matches:
    """Return the candidates of several occasions together, each combination once."""
    if len(found) == 1:
        return table_of(found[0])
    roles = list(dict.fromkeys(role for c in found for role in c.rows))
    expanded = []
    for candidates in found:
        if candidates.n:
            table = table_of(candidates)
            for role in roles:
                if role not in table.rows:
                    table = join_role(world, table, world.program.roles[role])
            expanded.append(table)
    if not expanded:
        return Matches(0, {})
    if not roles:
        n = max(t.n for t in expanded)
        return Matches(n, {})
    columns = [np.concatenate([t.rows[role] for t in expanded]) for role in roles]
    if len(roles) > _ROLES_IN_A_KEY:
        rows = list(np.unique(np.stack(columns), axis=1))
    else:
        # one number a combination: several times as fast as comparing columns
        size, key = len(world.id), columns[0]
        for column in columns[1:]:
            key = key * size + column
        _, first = np.unique(key, return_index=True)
        rows = [column[first] for column in columns]
    return table_of(Candidates(len(rows[0]), dict(zip(roles, rows, strict=True))))


ONE_MATCH = table_of(Candidates(1))
"""The table of an occasion that is about no object."""
NO_MATCH = table_of(Candidates(0))
"""The table of an occasion without matches."""


class TooManyMatches(Exception):
    """A match table would grow beyond the level's bound."""

    def __init__(self, wanted: int, most: int, role: str) -> None:
        super().__init__(
            f"bringing in “{role}” would make {wanted:,} matches; the level's bound is {most:,}. "
            f"Narrow the rule with a condition before it names “{role}”"
        )


def join_role(world: World, table: Matches, role: Role, rows: Rows | None = None) -> Matches:
    """Return each match with every object the role can stand for (or these rows); never the same object as its partner role."""
    if role.source == "reference":
        return _join_reference(world, table, role)
    rows = world.rows_of(role) if rows is None else rows
    if table is ONE_MATCH:
        return Matches(len(rows), {role.token: rows})
    wanted = table.n * len(rows)
    most = world.program.level.settings.most_matches
    if wanted > most:
        raise TooManyMatches(wanted, most, role.text)
    if len(rows) == 1 and not any(same_base(world, role, other) for other in table.rows):
        # one object for all: nothing is multiplied
        column = rows if table.n == 1 else np.full(table.n, rows[0])
        return Matches(table.n, {**table.rows, role.token: column}, table.origin, table.unit)
    if table.n == 1 and not table.rows:
        origin = None if table.origin is None else np.repeat(table.origin, len(rows))
        unit = None if table.unit is None else np.repeat(table.unit, len(rows))
        return Matches(len(rows), {role.token: rows}, origin, unit)
    joined = table.take(np.repeat(np.arange(table.n), len(rows)))
    joined.rows[role.token] = np.tile(rows, table.n)
    for other in list(joined.rows):
        if other != role.token and same_base(world, role, other):
            joined = joined.take(joined.rows[other] != joined.rows[role.token])
    return joined


def same_base(world: World, role: Role, other: str) -> bool:
    """Return whether two roles distinguish two of one sort, as “Moth” and “another Moth”."""
    if other == SELF:
        # of graphs: another one is never the object that takes its turn; the kind's own name may mean it
        return role.token.startswith(("another_", "third_"))
    named = world.program.roles.get(other)
    return named is not None and named.base == role.base


def _join_reference(world: World, table: Matches, role: Role) -> Matches:
    """Return each match with the object that its variable refers to; without those whose reference is empty."""
    if role.via:
        if role.via not in table.rows:
            table = join_role(world, table, world.program.roles[role.via])
        ids = world.variables[column_key(role.of, "object")][table.rows[role.via]]
    else:
        ids = np.full(table.n, world.level[role.of], dtype=np.int64)
    rows = world.rows_of_ids(ids)
    there = rows >= 0
    joined = table.take(there)
    joined.rows[role.token] = rows[there]
    return joined


def keys_of(world: World, table: Matches) -> list[Hashable]:
    """Return what distinguishes each match from others, by the ids of its objects: the same from tick to tick.

    They stand in the order of the roles' names: the same combination is the same however its roles came in.
    """
    if not table.rows:
        return [None] * table.n
    roles = sorted(table.rows) if len(table.rows) > 1 else table.rows
    columns = [world.id[table.rows[role]].tolist() for role in roles]
    return list(zip(*columns, strict=True)) if len(columns) > 1 else columns[0]


def where_keys(keys: Iterable[Hashable], wanted: Any) -> NDArray[np.bool_]:
    """Return for each key whether it is in `wanted`."""
    return np.fromiter((key in wanted for key in keys), dtype=bool)


class View(Frame):
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

    def ids(self, role: str) -> NDArray[np.int64]:
        return self.world.id[self.table.rows[role]]

    def property(self, role: str, name: str) -> Any:
        world, rows = self.world, self.table.rows[role]
        if self.n == 1 and ALONE and name not in DERIVED:
            # of one match a plain value: what is worked out with it costs no arrays
            column = world.variables.get(name)
            return (getattr(world, name) if column is None else column).item(rows.item())
        run = world.caches.runs.get(id(rows))
        if run is None or name in DERIVED:
            return world.values_of(rows, name)
        # a run of rows is shown, not copied: to be read at once
        column = world.variables.get(name)
        return (getattr(world, name) if column is None else column)[run]

    def present(self, ids: Any) -> Any:
        if isinstance(ids, np.ndarray):
            return np.where(self.world.rows_of_ids(ids) >= 0, ids, 0)
        return ids if self.world.row_of_id(int(ids)) >= 0 else 0

    def values_of(self, rows: Rows, name: str) -> Any:
        return self.world.values_of(rows, name)

    def level_value(self, name: str) -> Any:
        return self.world.level[name]

    def clock(self, name: str) -> float:
        return float(getattr(self.world, name))

    def pointer(self, axis: str) -> float:
        return self.world.input.pointer_x if axis == "x" else self.world.input.pointer_y

    def everyone(self, kind: str) -> Rows:
        return self.world.rows_of_kind(self.world.program.kind_number[kind])

    def point_of(self, role: str, point: str) -> tuple[Any, Any]:
        world, rows = self.world, self.rows(role)
        along, across = (
            world.program.kind_tables.point_offsets(point)[:, world.kind[rows]] * world.scale[rows]
        )
        cos, sin = cosd(world.angle[rows]), sind(world.angle[rows])
        return world.x[rows] + along * cos - across * sin, world.y[rows] + along * sin + across * cos

    def timer(self, name: str) -> float:
        return self.world.timer_seconds(name)

    def items(self, role: str, name: str) -> Any:
        held = self.world.items
        return np.array([held.get((i, name), 0.0) for i in self.ids(role).tolist()], dtype=np.float64)

    def kind_names(self, role: str) -> Any:
        names = np.array([kind.name for kind in self.world.program.kinds], dtype=object)
        return names[self.world.kind[self.rows(role)]]

    def said(self, role: str) -> Any:
        sayings = self.world.display.sayings
        said = [sayings[i][0] if i in sayings else "" for i in self.ids(role).tolist()]
        return np.array(said, dtype=object)

    def player_message(self) -> str:
        return self.world.display.telling

    def sent(self, message: str, role: str) -> Any:
        sent = self.world.messages.heard_from.get(message, {})
        return np.array([sent.get(i, 0.0) for i in self.ids(role).tolist()], dtype=np.float64)

    def key_down(self, name: str) -> bool:
        return name in self.world.input.held

    def tally(self, kind: str, role: str, others: tuple[str, ...], holds: Any) -> Any:
        rows = self.everyone(kind)
        n, many = (self.n if others else 1), len(rows)
        if not n or not many:
            return 0.0 if not others else np.zeros(n)
        most = self.world.program.level.settings.most_matches
        if n * many > most:
            self.fault(True, f"count_where would ask {n * many:,} times; the level's bound is {most:,}")
            return 0.0
        inner = {name: np.repeat(self.rows(name), many) for name in others}
        asked = View(self.world, Matches(n * many, {**inner, role: np.tile(rows, n)}), self.identity)
        held = np.broadcast_to(np.asarray(holds(asked)), (n * many,))
        for where, sentence in asked.faults:
            bad = where.reshape(n, many).any(axis=1)
            self.fault(bad if others else bool(bad.any()), sentence)
        counts = np.count_nonzero(held.reshape(n, many), axis=1).astype(np.float64)
        return counts if others else float(counts[0])

    def pulled(self, card: tuple[int, int], identity: int, evaluate: Any) -> Any:
        caches = self.world.caches
        kept = caches.pulled.get(card)
        if kept is None or kept[0] is not self.table:
            view = View(self.world, self.table, identity)
            kept = caches.pulled[card] = (self.table, evaluate(view), view.faults)
            if caches.given is not None:
                caches.given[card] = kept[1]
        for where, sentence in kept[2]:
            self.fault(where, sentence)
        return kept[1]

    def held(self, card: tuple[int, int], otherwise: Any) -> Any:
        memory = self.world.rules.cards.get(card, {})
        here = self.table.rows
        # what is kept for more of a match's objects says more of it
        sorts = sorted(
            (roles for roles in memory if all(role in here for role in roles)), key=len, reverse=True
        )
        if not sorts:
            return otherwise
        if sorts == [()]:
            return memory[()].get(None, otherwise)
        values = [otherwise] * self.n
        for roles in reversed(sorts):
            keys = keys_of(self.world, Matches(self.n, {role: here[role] for role in roles}))
            values = [memory[roles].get(key, value) for key, value in zip(keys, values, strict=True)]
        return np.array(values, dtype=object if isinstance(otherwise, str) else type(otherwise))

    def kept(self, card: tuple[int, int], role: str) -> Any:
        memory = self.world.rules.cards.get(card, {})
        if not any(memory.values()):
            return 0.0
        fitting = [kept for roles, kept in memory.items() if len(roles) <= bool(role)]
        if not fitting:
            roles = next(iter(memory))
            words = f"the card keeps it for each {' with '.join(roles).replace('_', ' ')}"
            self.fault(
                np.ones(self.n, dtype=bool), words + ("" if role else "; say for which, with kept_for")
            )
            return 0.0
        ids = self.ids(role).tolist() if role else [None] * self.n
        found = [
            next((kept[key] for kept in fitting for key in (one, None) if key in kept), 0.0) for one in ids
        ]
        if any(isinstance(value, str) for value in found):
            self.fault(np.ones(self.n, dtype=bool), "the card keeps a text, not a number")
            return 0.0
        return np.array(found, dtype=np.float64)

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
