"""What an action list has created, and for which matches: what `new KIND` stands for on the lines below.

Each execution of a *create* line gets a stamp. For each of its matches a key is stored: the match's unit (see
`Matches.unit`), the rows of its roles, and the stamp. A match of a later table finds its objects under the newest key
of the same unit that has the same objects in all roles that both have. So there is one effect for each created object,
whichever line, branch or turn of a repeat created it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.sim.matching.match_table import Matches

EARLIER = -1
"""The stamp of what was created before a wait or a beat: older than every execution of this turn."""


def is_new(role: str) -> bool:
    """Return whether a role token stands for a created object, as `new_Pod` does."""
    return role.startswith("new_")


@dataclass(frozen=True, slots=True)
class Created:
    """The keys of one set of roles, with the rows of the objects created under each.

    `unit`, `stamp` and each column of `roles` have shape (keys,). `rows` has shape (objects,); `key` gives for each
    object the index of its key. A key may have no object: the line was carried out for that match and made none.
    """

    unit: NDArray[np.int64]
    stamp: NDArray[np.int64]
    roles: dict[str, Rows]
    rows: Rows
    key: NDArray[np.int64]

    def without(self, gone: NDArray[np.bool_]) -> Created:
        """Return the keys that are not `gone` (shape (keys,)), with their objects."""
        stays = ~gone
        place = np.cumsum(stays) - 1
        mine = stays[self.key]
        return Created(
            self.unit[stays],
            self.stamp[stays],
            {role: rows[stays] for role, rows in self.roles.items()},
            self.rows[mine],
            place[self.key[mine]],
        )

    def followed_by(self, other: Created) -> Created:
        """Return the keys of both, which have the same roles."""
        return Created(
            np.concatenate((self.unit, other.unit)),
            np.concatenate((self.stamp, other.stamp)),
            {role: np.concatenate((rows, other.roles[role])) for role, rows in self.roles.items()},
            np.concatenate((self.rows, other.rows)),
            np.concatenate((self.key, other.key + len(self.unit))),
        )

    def newest_for(self, table: Matches) -> _Newest:
        """Return, for each match of a table, the newest stamp among its keys, and how to find those keys."""
        common = [role for role in self.roles if role in table.rows]
        units = (self.unit, table.unit) if table.unit is not None else None
        mine, theirs = _codes(
            [*([units[0]] if units else []), *(self.roles[role] for role in common)],
            [*([units[1]] if units else []), *(table.rows[role] for role in common)],
            len(self.unit),
            table.n,
        )
        order = np.lexsort((self.stamp, mine))
        mine = mine[order]
        end = np.searchsorted(mine, theirs, side="right")
        begin = np.searchsorted(mine, theirs, side="left")
        stamp = np.full(table.n, _NO_STAMP)
        found = end > begin
        stamp[found] = self.stamp[order[end[found] - 1]]
        return _Newest(self, order, begin, end, stamp)


_NO_STAMP = np.int64(np.iinfo(np.int64).min)


@dataclass(frozen=True, slots=True)
class _Newest:
    """For each match of a table, the slice [begin, end) of its keys in `order`, oldest first, and the newest stamp."""

    created: Created
    order: NDArray[np.int64]
    begin: NDArray[np.int64]
    end: NDArray[np.int64]
    stamp: NDArray[np.int64]

    def objects_of(self, matches: NDArray[np.int64]) -> tuple[NDArray[np.int64], Rows]:
        """Return the objects under the newest keys of these matches: positions in the table, and rows."""
        at, place = _spread(matches, self.begin[matches], self.end[matches])
        keys = self.order[place]
        newest = self.created.stamp[keys] == self.stamp[at]
        at, keys = at[newest], keys[newest]
        by_key = np.argsort(self.created.key, kind="stable")
        sorted_keys = self.created.key[by_key]
        first = np.searchsorted(sorted_keys, keys, side="left")
        last = np.searchsorted(sorted_keys, keys, side="right")
        owner, place = _spread(np.arange(len(keys)), first, last)
        return at[owner], self.created.rows[by_key[place]]


Made = dict[str, tuple[Created, ...]]
"""By role token what an action list has created; one `Created` for each set of roles that its matches had."""


def with_created(
    made: Made,
    role: str,
    table: Matches,
    acting: Matches,
    rows: Rows,
    positions: NDArray[np.int64],
    stamp: int,
) -> Made:
    """Return `made` after a *create* line was carried out for `acting`, which was made from the list's `table`.

    `rows` are the created objects and `positions` their matches in `acting`. Roles that only the line itself has
    brought in are not part of the key: on the next line they stand for every object again.
    """
    assert acting.unit is not None
    roles = {name: acting.rows[name] for name in table.rows if not is_new(name)}
    created = Created(acting.unit, np.full(acting.n, stamp), roles, rows, positions)
    return {**made, role: _replacing(made.get(role, ()), created)}


def _replacing(before: tuple[Created, ...], created: Created) -> tuple[Created, ...]:
    """Add keys, and drop the older keys that no match can reach any more."""
    kept: list[Created] = []
    for old in before:
        if created.roles.keys() <= old.roles.keys():
            names = list(created.roles)
            new_codes, old_codes = _codes(
                [created.unit, *(created.roles[name] for name in names)],
                [old.unit, *(old.roles[name] for name in names)],
                len(created.unit),
                len(old.unit),
            )
            old = old.without(np.isin(old_codes, new_codes))
            if not len(old.unit):
                continue
            if created.roles.keys() == old.roles.keys():
                created = old.followed_by(created)
                continue
        kept.append(old)
    return (*kept, created)


def created_for(made: Made, role: str, table: Matches) -> tuple[NDArray[np.int64], Rows]:
    """Return what `role` stands for in each match of a table.

    Gives two arrays of shape (objects,): positions in the table, ascending, and rows of created objects. A match for
    which nothing was created has no position.
    """
    _, at, rows = _found(made.get(role, ()), table)
    return at, rows


def _found(groups: tuple[Created, ...], table: Matches) -> tuple[NDArray[np.int64], NDArray[np.int64], Rows]:
    """Return the newest stamp of each match of a table, shape (n,), and the objects under it: positions, rows."""
    if not groups:
        nothing = np.zeros(0, dtype=np.int64)
        return np.full(table.n, _NO_STAMP), nothing, nothing
    newest = [group.newest_for(table) for group in groups]
    stamp = np.max([group.stamp for group in newest], axis=0)
    found = [
        group.objects_of(np.flatnonzero((group.stamp == stamp) & (stamp != _NO_STAMP))) for group in newest
    ]
    at, rows = (np.concatenate(columns) for columns in zip(*found, strict=True))
    order = np.argsort(at, kind="stable")
    return stamp, at[order], rows[order]


def same_units(table: Matches) -> NDArray[np.int64]:
    """Return units for matches from several tables, shape (n,): their roles tell them apart, or else their positions."""
    return np.arange(table.n) if not table.rows else np.zeros(table.n, dtype=np.int64)


def brought_together(parts: list[tuple[Matches, Made]]) -> Made:
    """Return what was created for the matches of several tables, for a table whose units are `same_units`."""
    together: dict[str, dict[frozenset[str], Created]] = {}
    for table, made in parts:
        roles = {name: rows for name, rows in table.rows.items() if not is_new(name)}
        unit = same_units(Matches(table.n, roles))
        for role, groups in made.items():
            stamp, at, rows = _found(groups, table)
            created = Created(unit, stamp, roles, rows, at).without(stamp == _NO_STAMP)
            by_roles = together.setdefault(role, {})
            before = by_roles.get(frozenset(roles))
            by_roles[frozenset(roles)] = created if before is None else before.followed_by(created)
    return {role: tuple(by_roles.values()) for role, by_roles in together.items()}


def created_before(unit: NDArray[np.int64], rows: Rows, positions: NDArray[np.int64]) -> tuple[Created, ...]:
    """Return what was created before a wait or a beat for matches with these units: rows, and their positions."""
    return (Created(unit, np.full(len(unit), EARLIER), {}, rows, positions),)


def _spread(
    owners: NDArray[np.int64], begin: NDArray[np.int64], end: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return each owner once for each place in its slice [begin, end), and those places."""
    many = end - begin
    before = np.cumsum(many) - many
    repeated = np.repeat(owners, many)
    return repeated, np.repeat(begin - before, many) + np.arange(len(repeated))


def _codes(
    one: list[NDArray[np.int64]], other: list[NDArray[np.int64]], one_n: int, other_n: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Number the rows of two sets of columns, so that equal rows have equal numbers. All values are 0 or more."""
    codes = np.zeros(one_n + other_n, dtype=np.int64)
    for left, right in zip(one, other, strict=True):
        column = np.concatenate((left, right))
        if len(column):
            _, codes = np.unique(codes * (int(column.max()) + 1) + column, return_inverse=True)
            codes = codes.reshape(-1)
    return codes[:one_n], codes[one_n:]
