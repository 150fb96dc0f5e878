"""What lies under the pointer, and which objects are in which area: settled in the Contact phase."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Rows
from gatillo.formula.functions import inside_area
from gatillo.kernels import COMPILED, column, pointing
from gatillo.kernels.mathematics import cosd, length, sind
from gatillo.level.model import Area, Circle
from gatillo.sim.collision.raycast import shapes_of
from gatillo.sim.world.world import World

FEW_ROWS = 2_000 if COMPILED else 64
"""Up to so many rows are looked at one by one."""
Ids = NDArray[np.int64]


def settle_areas(world: World) -> None:
    """Find who is in each area that a running rule asks about."""
    asked = world.program.tick_tables.areas_asked
    if not asked:
        return
    world.contacts.was_inside = world.contacts.inside
    if not world.caches.any_moved:
        return
    areas = world.program.index.areas
    found = {}
    for name, kinds in asked.items():
        rows = world.rows_where(f"asked in {name}", kinds)
        if len(rows) <= A_HANDFUL:
            found[name] = _few_inside(world, rows, areas[name], world.contacts.inside.get(name))
        else:
            found[name] = world.id[rows[inside_area(areas[name], world.x[rows], world.y[rows])]]
    # where no object came or went it stays the same, so that no rule wakes for it
    same = world.contacts.inside.keys() == found.keys() and all(
        ids is world.contacts.inside[name]
        or (len(ids) == len(world.contacts.inside[name]) and (ids == world.contacts.inside[name]).all())
        for name, ids in found.items()
    )
    if not same:
        world.contacts.inside = found


def _few_inside(world: World, rows: Rows, area: Area, before: Ids | None) -> Ids:
    """Return ids of the few that are in an area, in plain numbers as `inside_area` has it for many; the same array where nothing changed."""
    inside: list[int] = []
    shape = area.shape
    for row in rows.tolist():
        dx, dy = world.x.item(row) - area.x, world.y.item(row) - area.y
        if (
            length(dx, dy) <= shape.radius
            if isinstance(shape, Circle)
            else abs(dx) <= shape.width / 2 and abs(dy) <= shape.height / 2
        ):
            inside.append(world.id.item(row))
    if before is not None and len(before) == len(inside) and before.tolist() == inside:
        return before
    return np.array(inside, dtype=np.int64)


def settle_under(world: World) -> None:
    """Find what lies under the pointer, front-most first, if a running rule asks for it."""
    if "under" not in world.program.tick_tables.needs:
        return
    world.input.was_under = world.input.under
    rows = under_point(world, world.input.pointer_x, world.input.pointer_y)
    world.input.under = tuple(world.id[rows].tolist())


def under_point(world: World, x: float, y: float, slack: float = 0.0) -> Rows:
    """Return rows of the shown objects whose shape holds a point, front-most first; `slack` makes shapes larger."""
    wide, high = world.reach()
    if len(world.id) <= FEW_ROWS:
        rows = _few_under(world, x, y, slack)
        return rows if len(rows) < 2 else _front_most(world, rows)
    near = (
        world.alive
        & world.shown
        & (np.abs(world.x - x) <= wide + slack)
        & (np.abs(world.y - y) <= high + slack)
    )
    rows = near.nonzero()[0]
    sizes = world.program.kind_tables.boxes[world.kind[rows]] * np.abs(world.scale[rows])[:, None]
    dx, dy = x - world.x[rows], y - world.y[rows]
    cos, sin = cosd(world.angle[rows]), sind(world.angle[rows])
    in_box = (np.abs(dx * cos + dy * sin) <= sizes[:, 0] + slack) & (
        np.abs(dy * cos - dx * sin) <= sizes[:, 1] + slack
    )
    held = np.where(sizes[:, 2] > 0, length(dx, dy) <= sizes[:, 2] + slack, in_box)
    return _front_most(world, rows[held])


def _front_most(world: World, rows: Rows) -> Rows:
    # deeper numbers in front, and of equal ones the younger, which is drawn later
    front: Rows = rows[np.lexsort((-rows, -world.depth[rows]))]
    return front


def _few_under(world: World, x: float, y: float, slack: float) -> Rows:
    """Return rows of the shown objects whose shape holds a point, from the oldest on."""
    found = np.empty(len(world.id), dtype=np.int64)
    there, shown = world.alive.view(np.uint8), world.shown.view(np.uint8)
    columns = [column(part) for part in (*world.reach(), there, shown)]
    under: Any = pointing.under
    many = under(shapes_of(world), *columns, x, y, slack, column(found))
    return found[:many]
