"""Carrying out actions on the world, over all their matches at once."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Target, Where
from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.formula.values import half_open_degrees, spread, write_number
from gatillo.kernels.mathematics import cosd, sind, sum_of
from gatillo.level.naming import token
from gatillo.level.properties import FARTHEST_AWAY, FASTEST, PROPERTIES
from gatillo.sim.collision.solids import part_rows
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.motion.clips import not_playing
from gatillo.sim.motion.routes import set_out
from gatillo.sim.motion.tweens import without, without_turns
from gatillo.sim.program.bodies import (
    CONTACTS,
    ENDED,
    FARTHEST_SETTING,
    MOVABLE,
    WALK,
    on_column,
    setting_column,
)
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.trace.trace import Did, Recorder
from gatillo.sim.world.records import Bond, Playing, Saying, Turning, Tween
from gatillo.sim.world.world import World

LONGEST = 1e9
"""Seconds; what takes longer takes so long."""
MOST_NOTES = 10_000
MOST_COUNTED = 1 << 40
MOST_OF = {name: made.most for name, made in PROPERTIES.items() if made.most < math.inf}
"""What a property of an object may be at most, or at least with a minus before it."""
PHYSICAL = {
    "gravity": (-1e6, 1e6, "gravity must be between -1,000,000 and 1,000,000"),
    "friction": (0.0, 1.0, "friction must be between 0 and 1"),
    "bounce": (0.0, 1.0, "bounce must be between 0 and 1"),
    "mass": (0.0, FARTHEST_SETTING, f"a mass is above 0 and at most {FARTHEST_SETTING:,.0f}"),
}
"""What rules may change of how things answer to forces: from, to, and the sentence for what lies outside."""


class ActionContext(ActionApi):
    """One action over its matches: implements `ActionApi`."""

    __slots__ = (
        "dt",
        "faults",
        "made",
        "n",
        "pauses",
        "recorder",
        "removed",
        "step",
        "table",
        "until",
        "world",
    )

    def __init__(self, world: World, recorder: Recorder, line: CompiledLine, table: Matches) -> None:
        self.world = world
        self.recorder = recorder
        self.line = line
        self.table = table
        self.n = table.n
        self.dt = world.dt
        self.faults: list[tuple[int, str]] = []
        self.made: tuple[str, Rows, NDArray[np.int64]] | None = None
        """Role of created objects, their rows, and the match each was created for."""
        self.pauses: Numbers | None = None
        self.removed = False
        self.until = ""
        """The slot with the formula that is waited for."""
        self.moving = ""
        """The role whose objects are waited for until they are where they go."""

    def fault(self, count: int, sentence: str) -> None:
        """Record that the action could not be done, or not whole, for some matches."""
        self.faults.append((count, sentence))

    # variables

    def assign(self, target: Target, value: Any) -> None:
        world, rows = self.world, target.rows
        if rows is None:
            last = value[-1] if isinstance(value, np.ndarray) and value.ndim else value
            last = last.item() if isinstance(last, np.generic) else last
            self._note(target.name, None, world.level[target.name], last)
            world.level[target.name] = last
            world.changed(f"level.{target.name}")
            return
        before = world.values_of(rows, target.name) if self.recorder.watching else None
        self._store(rows, target.name, value)
        self._note(target.name, rows, before, value)

    def increase(self, target: Target, by: Numbers) -> None:
        world, rows = self.world, target.rows
        if rows is None:
            total = sum_of(by) if isinstance(by, np.ndarray) and by.ndim else by * self.n
            before = world.level[target.name]
            after = float(cast("float", before)) + total
            if after - after != 0:
                self.fault(self.n, f"adding to level.{target.name} would leave the range of numbers")
                return
            self._note(target.name, None, before, after)
            world.level[target.name] = after
            world.changed(f"level.{target.name}")
            return
        run = world.caches.runs.get(id(rows))
        if run is not None and not self.recorder.watching:
            # rows in a run: a slice of the column is added to where it is
            kept = world.variables.get(target.name)
            if kept is not None:
                after_run = kept[run] + by
                total = np.add.reduce(after_run)
                if total - total == 0:
                    world.changed(target.name)
                    kept[run] = after_run
                    self._note(target.name, rows, None, None)
                    return
        before_rows = world.values_of(rows, target.name)
        if run is not None or len(rows) == 1 or (rows[1:] > rows[:-1]).all():
            # no object twice, as nearly always: no need to add one by one
            after_rows = before_rows + by
            total = np.add.reduce(after_rows)
            if total - total == 0:
                self._store(rows, target.name, after_rows)
                self._note(target.name, rows, before_rows, after_rows)
                return
        column = world.variables.get(target.name)
        added = (column if column is not None else getattr(world, target.name)).copy()
        np.add.at(added, rows, by)
        bad = ~np.isfinite(added[rows])
        if bad.any():
            self.fault(int(bad.sum()), f"adding to {target.name} would leave the range of numbers")
            rows = rows[~bad]
        self._store(rows, target.name, added[rows])
        self._note(target.name, rows, before_rows[~bad], added[rows])

    def _store(self, rows: Rows, name: str, value: Any) -> None:
        world = self.world
        column = world.variables.get(name)
        world.changed(name)
        if column is not None:
            column[world.caches.runs.get(id(rows), rows)] = value
            return
        most = MOST_OF.get(name)
        if most is not None:
            values = spread(value, len(rows))
            good = (np.abs(values) <= most) if name != "scale" else (values > 0) & (values <= most)
            if not good.all():
                least = "above 0 and at most" if name == "scale" else "within"
                self.fault(int(np.count_nonzero(~good)), f"{name} must be {least} {most:,.0f}")
                rows, value = rows[good], values[good]
        getattr(world, name)[rows] = half_open_degrees(value) if name == "angle" else value
        if name in ("x", "y"):
            world.touch_rows(rows)
        elif name == "shown":
            world.caches.any_moved = True
        elif name == "angle":
            world.turned(rows)
        elif name == "scale":
            world.grew(rows)

    def _note(self, name: str, rows: Rows | None, before: Any, after: Any) -> None:
        plain, variable = self.line.writes[(name, rows is not None)]
        self.recorder.did(Did.WROTE, self.world.program.tick_tables.write_numbers[variable])
        if self.recorder.watching:
            ids = None if rows is None else self.world.id[rows].tolist()
            self.recorder.changed(self.line.part, self.line.number, plain, ids, before, after)

    def change(self, target: Target, new: Callable[[Any], Any]) -> None:
        world, rows = self.world, target.rows
        if rows is None:
            value = new(world.level[target.name])
            value = value.reshape(-1)[-1] if isinstance(value, np.ndarray) else value
            value = value.item() if isinstance(value, np.generic) else value
            if isinstance(value, float) and value - value != 0:
                self.fault(self.n, f"changing level.{target.name} would leave the range of numbers")
                return
            self.assign(target, value)
            return
        value = np.asarray(new(world.values_of(rows, target.name)))
        if value.dtype == np.float64 and not np.isfinite(value).all():
            bad = ~np.isfinite(value)
            self.fault(int(bad.sum()), f"changing {target.name} would leave the range of numbers")
            rows, value = rows[~bad], value[~bad]
        self.assign(Target(target.name, rows), value)

    # place

    def points(self, where: Where) -> tuple[Any, Any]:
        return where.point(View(self.world, self.table, self.line.identity))

    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return self.world.x[rows], self.world.y[rows]

    def velocity(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return self.world.vx[rows], self.world.vy[rows]

    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        world = self.world
        rows, x, y, _ = self._places(rows, x, y)
        before = list(zip(world.x[rows], world.y[rows], strict=True)) if self.recorder.watching else None
        world.x[rows], world.y[rows] = x, y
        world.touch_rows(rows)
        self._moved(rows, "x, y", before, world.x[rows], world.y[rows])

    def glide(self, rows: Rows, x: Numbers, y: Numbers, time: Numbers, easing: str, message: str) -> None:
        world = self.world
        rows, x, y, good = self._places(rows, x, y)
        time = np.minimum(spread(time, self.n)[good], LONGEST)
        if not len(rows):
            return
        ids = world.id[rows]
        world.movement.playing = not_playing(world.movement.playing, ids)
        # an object goes one way at a time: the last one asked for
        _, last = np.unique(ids[::-1], return_index=True)
        keep = np.sort(len(ids) - 1 - last)
        end_x, end_y, lasts = (np.asarray(v, dtype=np.float64)[keep] for v in (x, y, time))
        ids, at = ids[keep], rows[keep]
        left = without(world.movement.tweens, ids)
        start_x, start_y = world.x[at].copy(), world.y[at].copy()
        carried = self._on_carriers(ids)
        for n in carried.nonzero()[0].tolist():
            bond = world.movement.bonds[int(ids[n])]
            start_x[n], start_y[n] = bond.along, bond.across
            end_x[n], end_y[n] = world.carried_offset(bond, end_x.item(n), end_y.item(n))
        for seconds in np.unique(lasts).tolist():
            for along in (False, True) if carried.any() else (False,):
                mine = (lasts == seconds) & (carried == along)
                if mine.any():
                    points = (start_x[mine], start_y[mine], end_x[mine], end_y[mine])
                    tween = Tween(ids[mine], *points, world.time, seconds, easing, message, along)
                    left = (*left, tween)
        world.movement.tweens = left

    def _on_carriers(self, ids: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Return which objects move on a carrier."""
        bonds = self.world.movement.bonds
        if not bonds:
            return np.zeros(len(ids), dtype=bool)
        return np.array([self.world.bears_motion(i) for i in ids.tolist()], dtype=bool)

    def swing(self, rows: Rows, angle: Numbers, time: Numbers, easing: str) -> None:
        world = self.world
        ids = world.id[rows]
        # an object turns one way at a time: the last one asked for
        _, last = np.unique(ids[::-1], return_index=True)
        keep = np.sort(len(ids) - 1 - last)
        by, lasts = (
            np.asarray(spread(v, self.n), dtype=np.float64)[keep] for v in (angle, np.minimum(time, LONGEST))
        )
        ids, at = ids[keep], rows[keep]
        left = without_turns(world.movement.turns, ids)
        start, carried = world.angle[at].copy(), self._on_carriers(ids)
        for n in carried.nonzero()[0].tolist():
            start[n] = world.movement.bonds[int(ids[n])].angle
        for seconds in np.unique(lasts).tolist():
            for along in (False, True) if carried.any() else (False,):
                mine = (lasts == seconds) & (carried == along)
                if mine.any():
                    turning = Turning(ids[mine], start[mine], by[mine], world.time, seconds, easing, along)
                    left = (*left, turning)
        world.movement.turns = left

    def halt(self, rows: Rows) -> None:
        self.world.movement.tweens = without(self.world.movement.tweens, self.world.id[rows])
        self.world.movement.turns = without_turns(self.world.movement.turns, self.world.id[rows])
        self.world.movement.playing = not_playing(self.world.movement.playing, self.world.id[rows])
        if self.world.program.tick_tables.walking:
            going = self.world.variables[WALK["going"]]
            # one that walks by a behaviour goes on with it; one that was sent stands
            stands = (going[rows] > 0) & (self.world.variables[WALK["sent"]][rows] == 1)
            going[rows[stands]] = ENDED

    def play(self, rows: Rows, clip: str, how: str, speed: Numbers, own_axes: bool) -> None:
        world = self.world
        speeds = spread(speed, self.n)
        if np.any(speeds <= 0):
            self.fault(int(np.count_nonzero(speeds <= 0)), "a clip's speed must be above 0")
        self.halt(rows)
        begun: dict[int, Playing] = {}
        for row, fast in zip(rows.tolist(), speeds.tolist(), strict=True):
            if fast > 0:
                pose = world.x.item(row), world.y.item(row), world.angle.item(row)
                axes = pose[2] + world.program.kind_tables.drawn_facing[world.kind[row]] if own_axes else 0.0
                object_id = world.id.item(row)
                carried = world.bears_motion(object_id)
                if carried:
                    bond = world.movement.bonds[object_id]
                    axes -= world.angle.item(world.row_of_id(bond.carrier))
                    pose = bond.along, bond.across, bond.angle
                begun[object_id] = Playing(
                    object_id, clip, *pose, float(axes), world.time, fast, how, carried
                )
        world.movement.playing = (*world.movement.playing, *begun.values())

    # behaviours

    def switch_behaviour(self, rows: Rows, behaviour: str, on: bool) -> None:
        if behaviour in self.world.program.index.own_behaviours:
            has = self.world.program.kind_tables.carriers_of(behaviour)[0]
            self.tag(rows[has[self.world.kind[rows]]], behaviour, on)
            return
        column = self.world.variables.get(on_column(token(behaviour)))
        if column is not None:
            before = column[rows]
            column[rows] = on
            self.world.switched_behaviour(on_column(token(behaviour)))
            entry = CATALOGUE[token(behaviour)]
            if entry.derived.drives and not on:
                ended = rows[before]
                self.world.vx[ended] = self.world.vy[ended] = 0.0
            elif entry.derived.physics and not on:
                self._as_its_kind(rows[before])
            self._moved(rows, behaviour, before, column[rows])

    def set_setting(self, rows: Rows, setting: str, value: Numbers) -> None:
        behaviour, _, name = setting.partition(": ")
        world = self.world
        column = world.variables.get(setting_column(token(behaviour), name))
        if column is None:
            # the behaviour has an error on every kind that uses it, so there is no column
            self.fault(self.n, f"no kind has a “{behaviour}” that can run")
            return
        has = {
            b.kind: name in b.formulas for b in world.program.behaviours if b.entry.name == token(behaviour)
        }
        kinds = world.kind[rows]
        able = np.isin(kinds, [kind for kind, worked_out in has.items() if not worked_out])
        if not able.all():
            for kind in np.unique(kinds[~able]).tolist():
                of = world.program.kinds[kind].name
                why = (
                    f"“{setting}” of {of} is worked out by a formula; let that speak of a variable, and set the variable"
                    if kind in has
                    else f"{of} does not have “{behaviour}”"
                )
                self.fault(int(np.count_nonzero(kinds == kind)), why)
            rows, value = rows[able], spread(value, self.n)[able]
            if not len(rows):
                return
        before = column[rows]
        far = np.abs(spread(value, len(rows))) > FARTHEST_SETTING
        if far.any():
            self.fault(
                int(far.sum()),
                f"“{setting}” must lie between -{FARTHEST_SETTING:,.0f} and {FARTHEST_SETTING:,.0f}",
            )
            value = np.clip(value, -FARTHEST_SETTING, FARTHEST_SETTING)
        column[rows] = value
        # what follows from a reach or a rest is worked out again
        self.world.caches.any_moved = True
        self._moved(rows, setting, before, column[rows])

    def _as_its_kind(self, rows: Rows) -> None:
        """What falls and springs back by a behaviour does so by its kind again."""
        world, kinds = self.world, self.world.kind[rows]
        world.gravity[rows], world.bounce[rows] = (
            world.program.kind_tables.gravities[kinds],
            world.program.kind_tables.bounces[kinds],
        )

    def set_physical(self, rows: Rows, name: str, value: Numbers) -> None:
        column = getattr(self.world, name)
        low, high, said = PHYSICAL[name]
        values = spread(value, self.n)
        bad = ~((values > low if name == "mass" else values >= low) & (values <= high))
        if bad.any():
            self.fault(int(bad.sum()), f"{said}; this one would be {write_number(float(values[bad][0]))}")
            rows, values = rows[~bad], values[~bad]
        before = column[rows]
        column[rows] = values
        self.world.asleep[rows] = False
        self._moved(rows, name, before, column[rows])

    def walk(self, rows: Rows, route: str, how: str, speed: Numbers, leg_time: Numbers, easing: str) -> None:
        self.halt(rows)
        set_out(self.world, rows, route, how, True, speed, leg_time, easing, sent=True)

    def push_apart(self, rows: Rows, gap: Numbers) -> None:
        part_rows(self.world, np.unique(rows), float(np.max(gap)))

    def face(self, rows: Rows, angle: Numbers) -> None:
        world = self.world
        before = world.angle[rows]
        world.angle[rows] = half_open_degrees(
            angle - world.program.kind_tables.drawn_facing[world.kind[rows]]
        )
        world.turned(rows)
        self._moved(rows, "angle", before, world.angle[rows])

    def set_velocity(self, rows: Rows, vx: Numbers, vy: Numbers) -> None:
        vx, vy = spread(vx, len(rows)), spread(vy, len(rows))
        good = (np.abs(vx) <= FASTEST) & (np.abs(vy) <= FASTEST)
        if not good.all():
            self.fault(
                int(np.count_nonzero(~good)), f"a velocity must be within {FASTEST:,.0f} units a second"
            )
            rows, vx, vy = rows[good], vx[good], vy[good]
        self.world.vx[rows], self.world.vy[rows] = vx, vy

    def _places(self, rows: Rows, x: Numbers, y: Numbers) -> tuple[Rows, Any, Any, NDArray[np.bool_]]:
        """Return points that lie within the level's range, the rows for them, and which they are; others are a fault."""
        x, y = spread(x, len(rows)), spread(y, len(rows))
        good = (np.abs(x) <= FARTHEST_AWAY) & (np.abs(y) <= FARTHEST_AWAY)
        if not good.all():
            self.fault(
                int(np.count_nonzero(~good)),
                f"a position must be within {FARTHEST_AWAY:,.0f} units of the middle",
            )
        return rows[good], x[good], y[good], good

    def put_property(self, rows: Rows, name: str, value: Any) -> None:
        before = self.world.values_of(rows, name)
        self._store(rows, name, value)
        self._moved(rows, name, before, self.world.values_of(rows, name))

    def colour(self, rows: Rows, colour: str) -> None:
        self.world.display.colours.update(dict.fromkeys(self.world.id[rows].tolist(), colour))

    def show_look(self, rows: Rows, look: str) -> None:
        world = self.world
        shown = world.program.kind_tables.has_look(look)[world.kind[rows]]
        world.display.looks.update(dict.fromkeys(world.id[rows[shown]].tolist(), look))
        if not look:
            for number in world.id[rows].tolist():
                world.display.looks.pop(number, None)

    # bonds and items

    def attach(self, rows: Rows, carriers: Rows, keep_offset: bool, lag: Numbers) -> None:
        world = self.world
        for row, carrier, late in zip(
            rows.tolist(), carriers.tolist(), spread(lag, self.n).tolist(), strict=True
        ):
            if self._refuses(row, carrier):
                continue
            world.movement.bonds[world.id.item(row)] = world.bond(
                row, carrier, keep_offset=keep_offset, lag=late
            )
            self._end_movements(row)

    def _end_movements(self, row: int) -> None:
        """End what moves an object over a time in the level, or on the carrier that it had."""
        world, ids = self.world, self.world.id[row : row + 1]
        world.movement.tweens = without(world.movement.tweens, ids)
        world.movement.turns = without_turns(world.movement.turns, ids)
        world.movement.playing = not_playing(world.movement.playing, ids)

    def _carries(self, one: int, other: int) -> bool:
        at: int | None = other
        while at is not None:
            if at == one:
                return True
            bond = self.world.movement.bonds.get(at)
            at = bond.carrier if bond is not None else None
        return False

    def detach(self, rows: Rows) -> None:
        for row, object_id in zip(rows.tolist(), self.world.id[rows].tolist(), strict=True):
            if self.world.movement.bonds.pop(object_id, None) is not None:
                self._end_movements(row)

    def give(self, rows: Rows, item: str, count: Numbers) -> None:
        held = self.world.items
        for object_id, by in zip(self.world.id[rows].tolist(), spread(count, self.n).tolist(), strict=True):
            before = held.get((object_id, item), 0.0)
            held[(object_id, item)] = max(0.0, before + by)
            if self.recorder.watching:
                self.recorder.changed(
                    self.line.part, self.line.number, item, [object_id], before, held[(object_id, item)]
                )

    # rules and telling

    def timer(self, name: str, what: str) -> None:
        world = self.world
        gathered, since = world.timer_seconds(name), world.timers.get(name, (0.0, None))[1]
        if what == "start":
            world.timers[name] = (gathered, world.time)
        elif what == "stop":
            world.timers[name] = (gathered, None)
        else:
            world.timers[name] = (0.0, world.time if since is not None else None)

    def switch(self, name: str, on: bool) -> None:
        self.world.rules.switched[name] = on

    def talk(self, rows: Rows | None) -> None:
        self.world.prompts.talking = 0 if rows is None else int(self.world.id[rows].min())

    def show_message(self, text: Any) -> None:
        self.world.display.telling = str(spread(text, self.n)[-1])

    def note(self, text: Any) -> None:
        texts = spread(text, self.n)
        if self.n > MOST_NOTES:
            self.fault(self.n - MOST_NOTES, f"no more than {MOST_NOTES:,} notes are taken at once")
        for words in texts[:MOST_NOTES].tolist():
            self.recorder.note(self.world.tick, str(words))

    def end(self) -> None:
        self.world.rules.over = True

    def shift(self, rows: Rows, dx: Numbers, dy: Numbers) -> None:
        world = self.world
        if id(rows) in world.caches.runs and not self.recorder.watching and self._shift_run(rows, dx, dy):
            return
        x, y = world.x[rows], world.y[rows]
        np.add.at(world.x, rows, dx)
        np.add.at(world.y, rows, dy)
        bad = ~((np.abs(world.x[rows]) <= FARTHEST_AWAY) & (np.abs(world.y[rows]) <= FARTHEST_AWAY))
        if bad.any():
            # of each object all or nothing
            lost = np.isin(rows, rows[bad])
            world.x[rows[lost]], world.y[rows[lost]] = x[lost], y[lost]
            self.fault(
                int(lost.sum()),
                f"this move would lead farther off than {FARTHEST_AWAY:,.0f} units; it is left",
            )
        world.touch_rows(rows)
        self._moved(rows, "x, y", list(zip(x, y, strict=True)), world.x[rows], world.y[rows])

    def _shift_run(self, rows: Rows, dx: Numbers, dy: Numbers) -> bool:
        """Move objects whose rows follow one another; return False, with nothing done, where one would go too far."""
        world, run = self.world, self.world.caches.runs[id(rows)]
        x, y = world.x[run] + dx, world.y[run] + dy
        # one that is no number is not within it either
        if not max(np.abs(x).max(), np.abs(y).max()) <= FARTHEST_AWAY:
            return False
        world.x[run], world.y[run] = x, y
        world.touch_rows(rows)
        return True

    def _moved(self, rows: Rows, name: str, before: Any, *after: Any) -> None:
        if self.recorder.watching:
            now = list(zip(*after, strict=True)) if len(after) > 1 else after[0]
            self.recorder.changed(
                self.line.part, self.line.number, name, self.world.id[rows].tolist(), before, now
            )

    def angles(self, rows: Rows) -> NDArray[np.float64]:
        result: NDArray[np.float64] = self.world.values_of(rows, "facing")
        return result

    def rotate(self, rows: Rows, by: Numbers) -> None:
        world = self.world
        before = world.angle[rows]
        turned = world.angle.copy()
        np.add.at(turned, rows, by)
        world.angle[rows] = half_open_degrees(turned[rows])
        world.turned(rows)
        self._moved(rows, "angle", before, world.angle[rows])

    # life

    def remove(self, rows: Rows) -> None:
        world = self.world
        gone = np.unique(rows[world.alive[rows]])
        if not len(gone):
            return
        self.removed = True
        world.alive[gone] = False
        world.died[gone] = world.tick
        world.caches.any_moved = True
        world.structure_changed()
        for object_id in world.id[gone].tolist():
            self.recorder.did(Did.REMOVED, object_id)
            if self.recorder.watching:
                self.recorder.changed(
                    self.line.part, self.line.number, "there", [object_id], "there", "removed"
                )

    def create(self, kind: str, where: Where, count: Numbers, ring: Numbers | None = None) -> None:
        world, settings = self.world, self.world.program.level.settings
        nobody = np.zeros(0, dtype=np.int64)
        self.made = (token(f"new {kind}"), nobody, nobody)
        # more than any bound allows is as much as that
        counts = np.clip(np.floor(spread(count, self.n)), 0, MOST_COUNTED).astype(np.int64)
        wanted = int(counts.sum())
        alive = int(np.count_nonzero(world.alive))
        room = max(0, min(settings.most_creations - world.rules.created_now, settings.most_objects - alive))
        positions = np.repeat(np.arange(self.n), np.minimum(counts, room + 1))[:room]
        if len(positions) < wanted:
            bound = (
                f"{settings.most_creations:,} creations a tick"
                if world.rules.created_now + wanted > settings.most_creations
                else f"{settings.most_objects:,} objects"
            )
            self.fault(
                wanted - len(positions),
                f"the level's bound of {bound} is reached; {len(positions)} of {wanted:,} “{kind}” were created",
            )
        if not len(positions):
            return
        view = View(world, self.table.take(positions), self.line.identity)
        starts = np.cumsum(np.bincount(positions, minlength=self.n)) - np.bincount(
            positions, minlength=self.n
        )
        view.ordinal = np.arange(len(positions)) - starts[positions]
        x, y = where.point(view)
        x, y = (spread(v, len(positions)).astype(np.float64) for v in (x, y))
        if ring is not None:
            turned = 360.0 * view.ordinal / np.maximum(counts[positions], 1)
            radius = spread(ring, self.n)[positions]
            x, y = x + radius * cosd(turned), y + radius * sind(turned)
        good = (np.abs(x) <= FARTHEST_AWAY) & (np.abs(y) <= FARTHEST_AWAY)
        if not good.all():
            self.fault(
                int(np.count_nonzero(~good)),
                f"a position must be within {FARTHEST_AWAY:,.0f} units of the middle",
            )
            x, y, positions = x[good], y[good], positions[good]
            if not len(x):
                return
        rows = world.append(world.program.kind_number[kind], x, y)
        world.rules.created_now += len(rows)
        self.made = (self.made[0], rows, positions)
        for object_id in world.id[rows].tolist():
            self.recorder.did(Did.CREATED, object_id)
            if self.recorder.watching:
                self.recorder.changed(
                    self.line.part, self.line.number, "there", [object_id], "not there", "created"
                )

    # telling

    def send(self, message: str, senders: Rows | None = None, number: Numbers = 0.0) -> None:
        world = self.world
        if senders is not None:
            numbers = spread(number, self.n).tolist()
            sent_by = dict(zip(world.id[senders].tolist(), numbers, strict=True))
            # a new dictionary: the one there may belong to a keyframe too
            world.messages.sent_from[message] = {**world.messages.sent_from.get(message, {}), **sent_by}
        most = world.program.level.settings.most_messages
        sent = min(self.n, most - world.rules.sent_now)
        if sent < self.n:
            self.fault(self.n - sent, f"the level's bound of {most:,} messages a tick is reached")
        if sent <= 0:
            return
        world.rules.sent_now += sent
        world.messages.outbox[message] = world.messages.outbox.get(message, 0) + sent
        self.recorder.did(Did.SENT, world.program.messages[message])
        if self.recorder.watching:
            self.recorder.changed(self.line.part, self.line.number, "message", None, "", message)

    def say(self, rows: Rows, text: Any, time: Numbers) -> None:
        world = self.world
        texts, ends = spread(text, self.n).tolist(), (world.time + spread(time, self.n)).tolist()
        ids = world.id[rows].tolist()
        world.display.sayings.update(zip(ids, map(Saying, texts, ends), strict=True))
        if self.recorder.watching:
            self.recorder.changed(self.line.part, self.line.number, "says", ids, "", texts)

    # flow

    def pause_until(self, slot: str) -> None:
        self.pauses = 0.0
        self.until = slot

    def pause_until_there(self, rows: Rows) -> None:
        self.pauses = 0.0
        self.moving = next(role for _, role in self.line.role_slots if self.table.rows[role] is rows)

    def cancel_waits(self, rule: str) -> None:
        position = self.world.program.index.rule_names[rule]
        self.world.rules.waits = [w for w in self.world.rules.waits if w.rule_index != position]

    def tag(self, rows: Rows, tag: str, carries: bool) -> None:
        world = self.world
        before = world.tagged(tag)
        if (before[rows] == carries).all():
            return
        # a new array: the one there may belong to a keyframe too
        after = before.copy()
        after[rows] = carries
        world.tags[tag] = after
        world.structure_changed()
        world.caches.any_moved = True
        world.moved[rows] = True
        self._moved(rows, f"tag {tag}", before[rows], after[rows])

    def set_contact(self, rows: Rows, contact: str) -> None:
        world, number = self.world, CONTACTS[contact]
        before = world.contact[rows]
        changed = rows[before != number]
        world.contact[rows] = number
        pull = world.program.level.settings.gravity
        world.gravity[changed] = pull if number == MOVABLE else 0.0
        world.asleep[changed] = False
        world.structure_changed()
        world.touch_rows(rows)
        self._moved(rows, "contact", before, world.contact[rows])

    def attach_at(self, rows: Rows, carriers: Rows, point: str) -> None:
        world = self.world
        for row, carrier in zip(rows.tolist(), carriers.tolist(), strict=True):
            if self._refuses(row, carrier):
                continue
            along, across = world.program.kind_tables.point_offsets(point)[
                :, world.kind.item(carrier)
            ] * world.scale.item(carrier)
            bond = Bond(world.id.item(carrier), float(along), float(across), 0.0, 0.0)
            world.movement.bonds[world.id.item(row)] = world.as_it_stands(bond, row)
            self._end_movements(row)

    def _refuses(self, row: int, carrier: int) -> bool:
        """Return whether an object cannot be attached to another because it carries that one itself."""
        world = self.world
        if not self._carries(world.id.item(row), world.id.item(carrier)):
            return False
        who, what = world.name_of(world.id.item(row)), world.name_of(world.id.item(carrier))
        self.fault(1, f"{who} cannot be attached to {what}, which it carries itself")
        return True

    def pause(self, time: Numbers) -> None:
        self.pauses = time
