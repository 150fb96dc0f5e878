"""Matches whose action list continues later: how they are stored, and made into tables again."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.sim.rules.created import Made, created_before
from gatillo.sim.world.records import Wait
from gatillo.sim.world.world import World


def part_of_wait(wait: Wait, stays: NDArray[np.bool_]) -> Wait:
    """Return a wait with those of its matches that stay in it."""
    place = np.cumsum(stays) - 1
    made = {}
    for role, (ids, positions) in wait.made.items():
        mine = stays[positions]
        made[role] = (ids[mine], place[positions[mine]])
    return Wait(
        wait.due,
        wait.serial,
        wait.rule_index,
        wait.part,
        wait.line,
        {role: ids[stays] for role, ids in wait.ids.items()},
        int(stays.sum()),
        [key for key, kept in zip(wait.keys, stays.tolist(), strict=True) if kept],
        made,
        wait.until,
        wait.moving,
    )


def made_rows(world: World, wait: Wait, there: NDArray[np.bool_]) -> Made:
    """Return what had been created before a wait, for the matches that resume; their units are their positions."""
    made: Made = {}
    place = np.cumsum(there) - 1
    unit = np.arange(int(np.count_nonzero(there)))
    for role, (ids, positions) in wait.made.items():
        rows = world.rows_of_ids(ids)
        mine = (rows >= 0) & there[positions]
        made[role] = created_before(unit, rows[mine], place[positions[mine]])
    return made
