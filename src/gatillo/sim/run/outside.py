"""What another program changes in a run: at the beginning of a tick, before anything moves or fires."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from gatillo.formula.values import half_open_degrees, write_out
from gatillo.sim.trace.trace import Recorder
from gatillo.sim.world.input_script import MovedOutside, Outside, SentOutside, SetOutside
from gatillo.sim.world.world import World


def come_from_outside(world: World, changes: Iterable[Outside], recorder: Recorder) -> None:
    """Do what another program wants in this tick. Each change is written into the trace; one of a removed object does nothing."""
    for change in changes:
        recorder.note(world.tick, f"from outside: {_done(world, change)}")


def _done(world: World, change: Outside) -> str:
    """Make a change and return it in words."""
    if isinstance(change, SentOutside):
        world.messages.outbox[change.message] = world.messages.outbox.get(change.message, 0) + 1
        return f"send {change.message}"
    if isinstance(change, SetOutside) and not change.object_id:
        world.level[change.name] = change.value
        world.changed(f"level.{change.name}")
        return f"set {change.called} to {write_out(change.value)}"
    row = world.row_of_id(change.object_id)
    if row < 0:
        return f"{change.called} is gone"
    if isinstance(change, SetOutside):
        world.variables[change.name][row] = change.value
        world.changed(change.name)
        return f"set {change.called} to {write_out(change.value)}"
    return _moved(world, change, row)


def _moved(world: World, change: MovedOutside, row: int) -> str:
    rows = np.array([row])
    world.x[row], world.y[row] = change.x, change.y
    world.touch_rows(rows)
    if change.angle is None:
        return f"put {change.called} at {change.x:g}, {change.y:g}"
    world.angle[row] = half_open_degrees(change.angle)
    world.turned(rows)
    return f"put {change.called} at {change.x:g}, {change.y:g}, turned to {change.angle:g}°"
