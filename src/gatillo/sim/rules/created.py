"""What an action list has created, and for whom: the “new Pod” of the lines below."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.sim.matching.match_table import Matches


def is_new(role: str) -> bool:
    """Whether a role's token is of what a list has created."""
    return role.startswith("new_")


@dataclass(frozen=True, slots=True)
class Created:
    """Rows of created objects, shape (n,), with the unit of the match each was created for and the rows of that match's roles."""

    rows: Rows
    unit: NDArray[np.int64]
    roles: dict[str, Rows]

    def of(self, table: Matches) -> tuple[NDArray[np.int64], Rows]:
        """For whom of a table and who, in the order of its matches: positions in it and created rows, shape (found,) each.

        A match has what was created for a match of the same unit that has the same objects in the roles that both have:
        lines within an “if” or a repeat can bring in roles that are not there below it.
        """
        if table.unit is None:
            at, mine = (grid.reshape(-1) for grid in np.indices((table.n, len(self.rows))))
        else:
            order = np.argsort(self.unit, kind="stable")
            units = self.unit[order]
            first = np.searchsorted(units, table.unit, side="left")
            many = np.searchsorted(units, table.unit, side="right") - first
            at = np.repeat(np.arange(table.n), many)
            begins = np.cumsum(many) - many
            mine = order[np.repeat(first - begins, many) + np.arange(len(at))]
        for role, rows in self.roles.items():
            if role in table.rows:
                alike = rows[mine] == table.rows[role][at]
                at, mine = at[alike], mine[alike]
        return at, self.rows[mine]

    def but_for(self, units: NDArray[np.int64]) -> Created:
        """Without what was created for some units."""
        return self._those(~np.isin(self.unit, units))

    def and_those(self, other: Created) -> Created:
        """Together with others; of the roles of their matches those that both have."""
        roles = {
            role: np.concatenate((rows, other.roles[role]))
            for role, rows in self.roles.items()
            if role in other.roles
        }
        return Created(
            np.concatenate((self.rows, other.rows)), np.concatenate((self.unit, other.unit)), roles
        )

    def _those(self, which: NDArray[np.bool_]) -> Created:
        return Created(
            self.rows[which], self.unit[which], {role: rows[which] for role, rows in self.roles.items()}
        )


Made = dict[str, Created]
"""By role what an action list has created."""


def created_by(table: Matches, acting: Matches, rows: Rows, positions: NDArray[np.int64]) -> Created:
    """Rows created for acting matches at these positions, which were made of the table's.

    Roles that only the line itself has brought in are not remembered: on the next line they stand for everybody again.
    """
    assert acting.unit is not None
    roles = {role: acting.rows[role][positions] for role in table.rows if not is_new(role)}
    return Created(rows, acting.unit[positions], roles)


def after_branch(before: Made, within: Made, some: Matches) -> Made:
    """What there is after lines that were done for some of the matches only: for the others it is as it was."""
    if within is before:
        return before
    made = dict(before)
    for role, created in within.items():
        old = before.get(role)
        if old is created:
            continue
        if old is None or some.unit is None:
            made[role] = created
        else:
            made[role] = old.but_for(some.unit).and_those(created)
    return made
