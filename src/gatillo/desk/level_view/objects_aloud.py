"""The level as it is read aloud: each object with its place and state at the cursor."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRect

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.looks.read_aloud import Heard
from gatillo.desk.session.selection import Selection
from gatillo.sim.world.world import World


def objects_aloud(canvas: Canvas) -> list[Heard]:
    """Return every object that is there at the cursor, oldest first."""
    world = canvas.bench.world
    rows = world.alive.nonzero()[0]
    facing = world.values_of(rows, "facing").tolist()
    return [_object(canvas, world, row, facing[at]) for at, row in enumerate(rows.tolist())]


def _object(canvas: Canvas, world: World, row: int, facing: float) -> Heard:
    bench, number = canvas.bench, world.id.item(row)
    x, y = world.x.item(row), world.y.item(row)
    kind = world.program.kinds[world.kind.item(row)]
    said = [f"a {kind.name} at {x:.0f}, {y:.0f}, faces {facing:.0f} degrees"]
    if not world.shown.item(row):
        said.append("hidden")
    bond = world.movement.bonds.get(number)
    if bond is not None and world.row_of_id(bond.carrier) >= 0:
        said.append(f"attached to {world.name_of(bond.carrier)}")
    saying = world.display.sayings.get(number)
    if saying is not None:
        said.append(f"says {saying.text}")
    middle = canvas.to_pixels(x, y)
    half = max(8, round(max(kind.shape.halves) * world.scale.item(row) * canvas.zoom))
    area = QRect(round(middle.x()) - half, round(middle.y()) - half, 2 * half, 2 * half)
    select = partial(bench.select, Selection(objects=frozenset({number})))
    chosen = number in bench.selection.objects
    return Heard(world.name_of(number), ", ".join(said), area, selected=chosen, deeds={"select": select})
