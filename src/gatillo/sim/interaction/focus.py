"""Interaction focus, settled in the Contact phase: the one object that each looking object has in focus."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.focus import FocusApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.formula.values import spread
from gatillo.kernels.mathematics import RADIAN, atan2d, length
from gatillo.level.roles import Role
from gatillo.sim.collision.proximity import within_reach
from gatillo.sim.collision.raycast import first_hits
from gatillo.sim.program.bodies import Behaviour
from gatillo.sim.world.world import World

FEW_PAIRS = 64
"""Up to so many pairs of who looks and what may be meant are tried one by one."""
_NOBODY = np.zeros(0, dtype=np.int64)


class FocusContext(FocusApi):
    """What is meant in a tick, by id of each looker."""

    def __init__(self, world: World) -> None:
        self.world = world
        self.now: dict[int, int] = {}

    def act(self, behaviour: Behaviour, rows: Rows) -> None:
        """Find what those who have a focus mean."""
        columns = self.world.variables
        settings = {name: columns[column][rows] for name, column in behaviour.columns.items()}
        behaviour.entry.compute(self, rows, **behaviour.words, **settings)

    def focus(
        self, rows: Rows, on: Role, reach: Numbers, half_angle: Numbers, measure: str, ray_first: bool
    ) -> None:
        """Give each of these objects one object in its focus, or none."""
        self.now.update(meant(self.world, rows, on, reach, half_angle, measure, ray_first))


def meant(
    world: World, rows: Rows, on: Role, reach: Numbers, half_angle: Numbers, measure: str, ray_first: bool
) -> dict[int, int]:
    """Return for each looking object the id of the one object in its focus; those without one are left out."""
    found: dict[int, int] = {}
    facing = world.values_of(rows, "facing")
    if ray_first:
        hit = first_hits(world, rows, facing, reach)
        right = (hit >= 0) & world.member(on)[hit] & world.shown[hit]
        found.update(zip(world.id[rows[right]].tolist(), world.id[hit[right]].tolist(), strict=True))
    # the costlier search only for those whose ray met nothing that is meant
    left = np.array([i for i, looker in enumerate(world.id[rows].tolist()) if looker not in found], dtype=int)
    if not len(left):
        return found
    things_there = world.rows_of(on)
    if len(left) * len(things_there) <= FEW_PAIRS:
        reaches, halves = spread(reach, len(rows)), spread(half_angle, len(rows))
        for at in left.tolist():
            looks = (rows.item(at), facing.item(at), float(reaches[at]), float(halves[at]))
            thing = _meant_by(world, looks, things_there.tolist(), measure)
            if thing is not None:
                found[world.id.item(rows.item(at))] = world.id.item(thing)
        return found
    most = world.program.level.settings.most_matches
    at, things, _ = within_reach(world, rows[left], world.rows_of(on), np.asarray(reach)[left], most)
    lookers = rows[left][at]
    dx, dy = world.x[things] - world.x[lookers], world.y[things] - world.y[lookers]
    away = length(dx, dy)
    aside = np.abs(np.mod(atan2d(dy, dx) - facing[left][at] + 180.0, 360.0) - 180.0)
    can = (things != lookers) & (aside <= np.asarray(half_angle)[left][at]) & world.shown[things]
    at, things, away, aside = at[can], things[can], away[can], aside[can]
    value = {"angle": aside, "distance": away}.get(measure, RADIAN * aside * away)
    # of equal ones the older: rows ascend with age
    order = np.lexsort((things, away, value, at))
    for number in order[np.unique(at[order], return_index=True)[1]].tolist():
        found[world.id.item(rows[left][at[number]])] = world.id.item(things[number])
    return found


def _meant_by(
    world: World, looks: tuple[int, float, float, float], things: list[int], measure: str
) -> int | None:
    """Return the row of what one looker (row, facing, reach, half angle) means; for a few, the same as over arrays."""
    row, facing, reach, half_angle = looks
    best: tuple[float, float, int] | None = None
    for thing in things:
        if thing == row or not world.shown.item(thing):
            continue
        dx, dy = world.x.item(thing) - world.x.item(row), world.y.item(thing) - world.y.item(row)
        away = length(dx, dy)
        if away > reach:
            continue
        aside = abs(float(np.mod(atan2d(dy, dx) - facing + 180.0, 360.0)) - 180.0)
        if aside > half_angle:
            continue
        value = {"angle": aside, "distance": away}.get(measure, RADIAN * aside * away)
        # of equal ones the nearer, then the older
        if best is None or (value, away, thing) < best:
            best = (value, away, thing)
    return best[2] if best is not None else None


def settle_focus(world: World, now: dict[int, int]) -> None:
    """Take what is meant now, and note what has changed since the tick before."""
    before = world.focus.on
    if now == before:
        world.focus.events = ()
        return
    changed = sorted(looker for looker in before.keys() | now.keys() if before.get(looker) != now.get(looker))
    lost = [("lost", before[looker], looker) for looker in changed if looker in before]
    gained = [("gained", now[looker], looker) for looker in changed if looker in now]
    world.focus.on, world.focus.events = now, (*lost, *gained)


def focus_changes(world: World, what: str, a: Role, by: Role) -> tuple[Rows, Rows]:
    """Return rows of what has `gained` or `lost` focus in this tick, and of whose; of those still there."""
    pairs = [(thing, looker) for kind, thing, looker in world.focus.events if kind == what]
    if not pairs:
        return _NOBODY, _NOBODY
    rows = world.rows_of_ids(np.array(pairs, dtype=np.int64).reshape(-1)).reshape(-1, 2)
    rows = rows[(rows >= 0).all(axis=1)]
    rows = rows[world.member(a)[rows[:, 0]] & world.member(by)[rows[:, 1]]]
    return rows[:, 0], rows[:, 1]


def has_focus(world: World, a: Rows, by: Rows) -> NDArray[np.bool_]:
    """Return which rows a have the focus of their row by."""
    pairs = zip(world.id[a].tolist(), world.id[by].tolist(), strict=True)
    return np.fromiter(
        (world.focus.on.get(looker) == thing for thing, looker in pairs), dtype=bool, count=len(a)
    )
