"""What is done to objects in the level: placing, moving, copying, attaching, deleting, selecting."""

from __future__ import annotations

from PySide6.QtCore import QPointF

from gatillo.desk.level_view.canvas import GRID, Canvas
from gatillo.desk.session.selection import Selection
from gatillo.level import edits
from gatillo.level.arranging import attach
from gatillo.sim.collision.regions import under_point


class ObjectCommands:
    """Commands on the selected objects; points are pixels of a canvas."""

    def __init__(self, canvas: Canvas) -> None:
        self.canvas = canvas
        self.bench = canvas.bench

    def place(self, kind: str, point: QPointF) -> None:
        """Put an object of a kind at a pixel."""
        x, y = self.canvas.to_level(point)
        level, made = edits.place_object(self.bench.level, kind, round(x), round(y))
        self.bench.edit(level, f"place a {kind}")
        self.bench.select(Selection(frozenset({made})))

    def place_in_middle(self, kind: str) -> None:
        """Put an object of a kind in the middle of what is seen: for the keyboard."""
        self.place(kind, QPointF(self.canvas.width() / 2, self.canvas.height() / 2))

    def move_selected(self, dx: float, dy: float, join: str = "") -> None:
        """Move where the selected objects start, to whole units."""
        ids = self._placed()
        if not ids:
            self._say_created()
            return
        level = edits.move_objects(self.bench.level, ids, round(dx), round(dy))
        self.bench.edit(level, f"move {self._named(ids)}", join)

    def duplicate_selected(self) -> None:
        """Copy the selected objects, a little to the lower right."""
        ids = self._placed()
        if ids:
            level, made = edits.duplicate_objects(self.bench.level, ids, GRID, -GRID)
            self.bench.edit(level, f"duplicate {self._named(ids)}")
            self.bench.select(Selection(frozenset(made)))

    def attach_selected(self, point: QPointF) -> None:
        """Attach the selected objects to the one under a pixel."""
        ids = self._placed()
        world = self.bench.world
        rows = under_point(world, *self.canvas.to_level(point), slack=4 / self.canvas.zoom)
        under = next((i for i in world.id[rows].tolist() if i not in ids), None)
        carrier = next((o for o in self.bench.level.objects if o.id == under), None)
        if carrier is None:
            self.bench.notify("Drop on another object to attach to it.")
            return
        level = self.bench.level
        try:
            for object_id in ids:
                level = attach(level, object_id, carrier.name)
        except ValueError as error:
            self.bench.notify(f"{error}.")
            return
        self.bench.edit(level, f"attach {self._named(ids)} to {carrier.name}")
        self.bench.notify(f"{self._named(ids)} now follows {carrier.name} from the start.")

    def delete_selected(self) -> None:
        """Take the selected objects out of the level."""
        ids = self._placed()
        if ids:
            self.bench.edit(edits.delete_objects(self.bench.level, ids), f"delete {self._named(ids)}")

    def select_all(self) -> None:
        """Select every object of the level."""
        self.bench.select(Selection(frozenset(o.id for o in self.bench.level.objects)))

    def _placed(self) -> frozenset[int]:
        known = {o.id for o in self.bench.level.objects}
        return self.bench.selection.objects & known

    def _named(self, ids: frozenset[int]) -> str:
        if len(ids) == 1:
            return next(o.name for o in self.bench.level.objects if o.id in ids)
        return f"{len(ids)} objects"

    def _say_created(self) -> None:
        if self.bench.selection.objects:
            self.bench.notify("A rule created this object during the run; it cannot be moved by hand.")

    def select_next(self, by: int) -> None:
        """Select the next object of the level, or the one before."""
        ids = [o.id for o in self.bench.level.objects]
        if not ids:
            return
        chosen = [i for i, object_id in enumerate(ids) if object_id in self.bench.selection.objects]
        at = (chosen[0] + by) % len(ids) if chosen else 0
        self.bench.select(Selection(frozenset({ids[at]})))
