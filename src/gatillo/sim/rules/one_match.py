"""The world as an action or a condition about one match sees it: rows are plain numbers, and so is all that it answers.

It does what `ActionContext` and `QueryContext` do over arrays, to the same last bit, for entries that are declared `alone`.
Where an action cannot be done, or not whole, NoAnswer is raised before anything has changed: it is then carried out as for many
matches, and the fault is told there.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, cast

import numpy as np

from gatillo.formula.functions import inside_area
from gatillo.formula.values import half_open_degrees
from gatillo.level.properties import FARTHEST_AWAY, FASTEST
from gatillo.sim.matching.one_value import NoAnswer, facing
from gatillo.sim.motion.clips import not_playing
from gatillo.sim.motion.tweens import without, without_turns
from gatillo.sim.program.bodies import ENDED, WALK
from gatillo.sim.rules.action_context import MOST_OF
from gatillo.sim.trace.trace import Did, Recorder
from gatillo.sim.world.world import World

Variable = tuple[str, int | None, tuple[str, str]]
"""One to write: its column or name, its object's row (None for the level's), and by what the trace knows it."""


def plain(value: Any) -> Any:
    """Return a value as Python has it, from one that NumPy may have made."""
    return value.item() if isinstance(value, np.generic | np.ndarray) else value


class OneMatch:
    """What entries declared `alone` may ask and do, with a row in the place of rows."""

    __slots__ = ("dt", "recorder", "world")

    def __init__(self, world: World, recorder: Recorder) -> None:
        self.world = world
        self.recorder = recorder
        self.dt = world.dt

    # what is so

    def place(self, row: int) -> tuple[float, float]:
        """Return where an object is."""
        return self.world.x.item(row), self.world.y.item(row)

    def points(self, where: tuple[float, float]) -> tuple[float, float]:
        """Return a point, which is known by now."""
        return where

    def velocity(self, row: int) -> tuple[float, float]:
        """Return an object's velocity, in units a second."""
        return self.world.vx.item(row), self.world.vy.item(row)

    def angles(self, row: int) -> float:
        """Return which way an object faces, in degrees."""
        return facing(self.world, row)

    facing = angles

    def property(self, row: int, name: str) -> Any:
        """Return a property that is stored."""
        return getattr(self.world, name).item(row)

    def items(self, row: int, item: str) -> float:
        """Return how many of an item an object holds."""
        return self.world.items.get((self.world.id.item(row), item), 0.0)

    def attached(self, row: int, carrier: int) -> bool:
        """Return whether one object is attached to another."""
        bond = self.world.movement.bonds.get(self.world.id.item(row))
        return bond is not None and bond.carrier == self.world.id.item(carrier)

    def inside(self, row: int, area: str) -> bool:
        """Return whether an object's middle is in an area."""
        return bool(
            inside_area(self.world.program.index.areas[area], self.world.x.item(row), self.world.y.item(row))
        )

    def is_under(self, row: int) -> bool:
        """Return whether an object lies under the pointer."""
        return self.world.id.item(row) in self.world.input.under

    # what is done

    def assign(self, target: Variable, value: Any) -> None:
        """Set a variable."""
        name, row, known = target
        value = plain(value)
        if row is None:
            self.world.level[name] = value
            self.world.changed(f"level.{name}")
        else:
            self._store(row, name, value)
        self._wrote(known)

    def increase(self, target: Variable, by: float) -> None:
        """Add to a variable."""
        name, row, known = target
        if row is None:
            after = float(cast("float", self.world.level[name])) + by
        else:
            column = self.world.variables.get(name)
            after = (column if column is not None else getattr(self.world, name)).item(row) + by
        if after - after != 0:
            raise NoAnswer
        if row is None:
            self.world.level[name] = after
            self.world.changed(f"level.{name}")
        else:
            self._store(row, name, after)
        self._wrote(known)

    def change(self, target: Variable, new: Callable[[Any], Any]) -> None:
        """Set a variable to a function of its value."""
        name, row, _ = target
        if row is None:
            before = self.world.level[name]
        else:
            column = self.world.variables.get(name)
            before = (column if column is not None else getattr(self.world, name)).item(row)
        after = plain(new(before))
        if isinstance(after, float) and after - after != 0:
            raise NoAnswer
        self.assign(target, after)

    def _store(self, row: int, name: str, value: Any) -> None:
        world = self.world
        column = world.variables.get(name)
        if column is not None:
            world.changed(name)
            column[row] = value
            return
        most = MOST_OF.get(name, math.inf)
        if name == "scale":
            if not 0 < value <= most:
                raise NoAnswer
        elif most < math.inf and not abs(value) <= most:
            raise NoAnswer
        world.changed(name)
        getattr(world, name)[row] = half_open_degrees(value) if name == "angle" else value
        if name in ("x", "y"):
            world.touch_row(row)
        elif name == "shown":
            world.caches.any_moved = True
        elif name == "angle":
            world.turned_row(row)
        elif name == "scale":
            world.grew(np.array([row]))

    def _wrote(self, known: tuple[str, str]) -> None:
        self.recorder.did(Did.WROTE, self.world.program.tick_tables.write_numbers[known])

    def put(self, row: int, x: float, y: float) -> None:
        """Put an object at a point."""
        if not (abs(x) <= FARTHEST_AWAY and abs(y) <= FARTHEST_AWAY):
            raise NoAnswer
        self.world.x[row], self.world.y[row] = x, y
        self.world.touch_row(row)

    def shift(self, row: int, dx: float, dy: float) -> None:
        """Move an object by an offset."""
        self.put(row, self.world.x.item(row) + dx, self.world.y.item(row) + dy)

    def face(self, row: int, angle: float) -> None:
        """Let an object face a direction, in degrees."""
        world = self.world
        drawn = world.program.kind_tables.drawn_facing.item(world.kind.item(row))
        world.angle[row] = half_open_degrees(float(angle) - drawn)
        world.turned_row(row)

    def rotate(self, row: int, by: float) -> None:
        """Turn an object by an angle, in degrees."""
        self.world.angle[row] = half_open_degrees(self.world.angle.item(row) + by)
        self.world.turned_row(row)

    def set_velocity(self, row: int, vx: float, vy: float) -> None:
        """Give an object a velocity, in units a second."""
        if not (abs(vx) <= FASTEST and abs(vy) <= FASTEST):
            raise NoAnswer
        self.world.vx[row], self.world.vy[row] = vx, vy

    def halt(self, row: int) -> None:
        """End what moves an object over a time: movements, clips and routes it was sent on."""
        world, movement = self.world, self.world.movement
        if movement.tweens or movement.playing or movement.turns:
            ids = np.array([world.id.item(row)])
            movement.turns = without_turns(movement.turns, ids)
            movement.tweens = without(movement.tweens, ids)
            movement.playing = not_playing(movement.playing, ids)
        if world.program.tick_tables.walking:
            going = world.variables[WALK["going"]]
            if going.item(row) > 0 and world.variables[WALK["sent"]].item(row) == 1:
                going[row] = ENDED
