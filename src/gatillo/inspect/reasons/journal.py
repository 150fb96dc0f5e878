"""What wrote each value, and when: found by replaying stretches of a run and recording every action and what Motion changed.

The trace says which turns fired in which ticks; only stretches in which one that can have written what is asked for has fired
are replayed, the last first, and each at most once.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np

from gatillo.catalogue.contexts.effects import ANYBODY
from gatillo.catalogue.contexts.values import Candidates
from gatillo.level.naming import token
from gatillo.level.properties import PROPERTIES
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.touched import (
    LEVEL,
    Access,
    names_of,
    touched_by_behaviour,
    touched_by_line,
    writes_of,
)
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Did, NullRecorder, Way
from gatillo.sim.world.input_script import MovedOutside, SetOutside
from gatillo.sim.world.world import World

POSE = tuple(name for name, made in PROPERTIES.items() if made.moves)
"""What Motion changes of objects from tick to tick."""
SAME_AS = {name: made.of for name, made in PROPERTIES.items() if made.of}
"""What is worked out of other properties."""
OUTSIDE = -2
"""In the place of a rule: another program, through an open connection."""
MOST_STRETCHES = 12
"""So many replayed stretches are kept in mind."""


class Moment(NamedTuple):
    """Within a run: a tick, and how many actions had been carried out in it."""

    tick: int
    seq: int


@dataclass(frozen=True, slots=True)
class Wrote:
    """Something that an action, or Motion, wrote."""

    tick: int
    seq: int
    """Its place among the tick's actions, from 0."""
    what: str
    named: str
    ids: frozenset[int] | None
    """Of whom; None for the level."""
    rule_index: int = -1
    """-1 for Motion, OUTSIDE for another program."""
    part: str = ""
    line: int = 0
    card: int = 0
    position: int = 0
    """The firing in which it was done, from 1."""


@dataclass(slots=True)
class TickNotes:
    """What was written in a tick, in its order."""

    wrote: list[Wrote] = field(default_factory=list)
    motion_at: int = 0
    """How many actions had been carried out when Motion came: waits that went on before it."""
    moved: dict[str, frozenset[int]] = field(default_factory=dict)
    """By property: who was changed by Motion."""
    removed: frozenset[int] = frozenset()
    """Who was removed by Motion."""
    changes: dict[str, tuple[Any, Any, Any]] = field(default_factory=dict)
    """By `vx` and `vy`: the ids of those whose velocity Motion changed, and what it was before and after; shape (n,) each."""
    hits: tuple[int, ...] = ()
    """Pairs that Motion kept apart, as id_a << 32 | id_b."""

    def change_of(self, name: str, object_id: int) -> tuple[float, float] | None:
        """Return what `vx` or `vy` of an object was before and after Motion; None if Motion left it."""
        if name not in self.changes:
            return None
        ids, before, after = self.changes[name]
        at = np.flatnonzero(ids == object_id)
        return (float(before[at[0]]), float(after[at[0]])) if len(at) else None

    def hit_by(self, object_id: int) -> tuple[int, ...]:
        """Return the ids of what Motion kept apart from an object."""
        codes = np.array(self.hits, dtype=np.int64)
        one, other = codes >> 32, codes & 0xFFFFFFFF
        found = np.concatenate((other[one == object_id], one[other == object_id]))
        return tuple(np.unique(found).tolist())


class _Notes(NullRecorder):
    """Notes every action of the ticks that are replayed, and what Motion changes."""

    watching = True

    def __init__(self, run: Run) -> None:
        self.run = run
        self.index = run.program.index
        self.ticks: dict[int, TickNotes] = {}
        self.now = TickNotes()
        self.tick = self.seq = self.firings = 0
        self.world: World | None = None
        self._before: dict[str, Any] = {}
        self._came: list[int] = []
        self._writes: dict[int, tuple[CompiledLine, list[Any]]] = {}
        self._in_motion = False

    def tick_begins(self, tick: int) -> None:
        self.now = self.ticks[tick] = TickNotes()
        self.tick, self.seq, self.firings = tick, 0, 0
        self._came = []

    def moves(self, world: World, begins: bool) -> None:
        self._in_motion = begins
        if begins:
            self.world = world
            self.now.motion_at = self.seq
            self._before = {name: getattr(world, name).copy() for name in POSE}
            world.caches.all_hits = []
            return
        for name, before in self._before.items():
            changed = getattr(world, name) != before
            if changed.any():
                ids = world.id[changed]
                self.now.moved[name] = frozenset(ids.tolist())
                if name in ("vx", "vy"):
                    self.now.changes[name] = ids, before[changed], getattr(world, name)[changed]
        self.now.hits = tuple(world.caches.all_hits or ())
        world.caches.all_hits = None

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        self.firings += 1

    def did(self, what: Did, number: int) -> None:
        if what in (Did.CREATED, Did.REMOVED):
            if self._in_motion:
                self.now.removed |= {number}
            else:
                self._came.append(number)

    def acted(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None:
        kept = self._writes.get(id(line))
        if kept is None:
            kept = self._writes[id(line)] = (line, writes_of(names_of(self.index, rule), line))
        ids_of = self.run.program.kind_number
        world = self.world
        there: dict[str, frozenset[int]] = {}
        for site in kept[1]:
            what, named = site.access.what, site.access.named
            ids: frozenset[int] | None = None
            if what == "there":
                ids = frozenset(self._came)
            elif site.role == ANYBODY or (site.access.kind != LEVEL and site.role not in acting.rows):
                assert world is not None
                ids = frozenset(world.id[world.kind == ids_of[site.access.kind]].tolist())
            elif site.role:
                if site.role not in there:
                    assert self.world is not None
                    there[site.role] = frozenset(self.world.id[acting.rows[site.role]].tolist())
                ids = there[site.role]
            self.now.wrote.append(
                Wrote(
                    self.tick,
                    self.seq,
                    what,
                    named,
                    ids,
                    rule.index,
                    line.part,
                    line.number,
                    line.card,
                    self.firings,
                )
            )
        self._came = []
        self.seq += 1

    def comes(self, executor: Any, rule: CompiledRule) -> None:
        self.world = executor.world

    def yielded(self, rule: CompiledRule, line: CompiledLine, found: Candidates) -> None: ...


class Journal:
    """Answers who wrote something last before a moment of a run."""

    def __init__(self, run: Run, between: Callable[[], None] = lambda: None) -> None:
        self.run = run
        self.between = between
        """Called between ticks that are replayed; what it raises ends the question."""
        self._stretches: dict[int, dict[int, TickNotes]] = {}
        self._ticks_of: dict[Access, list[int]] = {}

    def notes_at(self, tick: int) -> TickNotes:
        """Return what was written in a tick, replayed."""
        start = self.run.kept_before(tick)
        stretch = self._stretches.get(start)
        if stretch is None:
            later = [t for t in self.run.keyframes if t > start]
            notes = _Notes(self.run)
            self.run.replay(start + 1, min([*later, self.run.done]), notes, self.between)
            stretch = notes.ticks
            while len(self._stretches) >= MOST_STRETCHES:
                del self._stretches[next(iter(self._stretches))]
        else:
            del self._stretches[start]
        self._stretches[start] = stretch
        return stretch[tick]

    # who can write what

    @cached_property
    def _writers(self) -> list[tuple[int, frozenset[Access]]]:
        """Return for each rule what its actions may write."""
        index, found = self.run.program.index, []
        for rule in self.run.program.rules:
            writes: set[Access] = set()
            names = names_of(index, rule)
            for line in every_step(rule):
                writes |= touched_by_line(names, line).writes
            found.append((rule.index, frozenset(writes)))
        return found

    @cached_property
    def _moved_by(self) -> dict[str, list[tuple[int, frozenset[Access]]]]:
        """Return for each kind its behaviours by their place, and what each may write."""
        index = self.run.program.index
        return {
            kind.name: [
                (at, touched_by_behaviour(index, kind, at).writes) for at in range(len(kind.behaviours))
            ]
            for kind in self.run.program.kinds
        }

    def behaviours_that_write(self, kind: str, what: str) -> list[int]:
        """Return the places of a kind's behaviours that may write something of it."""
        return [
            at
            for at, writes in self._moved_by[kind]
            if any(a.what == what and a.kind == kind for a in writes)
        ]

    def rules_that_write(self, access: Access) -> list[int]:
        """Return the turns that may write something."""
        return [rule_index for rule_index, writes in self._writers if any(access.meets(a) for a in writes)]

    def ticks_with_writers(self, access: Access) -> list[int]:
        """Return the ticks in which a turn that may write something has fired, the last first."""
        found = self._ticks_of.get(access)
        if found is None:
            tick, _, turn, _, _ = self.run.trace.columns()
            mine = np.isin(turn, self.rules_that_write(access))
            found = self._ticks_of[access] = np.unique(tick[mine])[::-1].tolist()
        return found

    # asking

    def last_write(self, what: str, named: str, kind: str, object_id: int | None, at: Moment) -> Wrote | None:
        """Return the last time that something was written before a moment; None when it is as it was laid out or created.

        `kind` is "" for what belongs to the level, `object_id` None for what belongs to no object or to any object.
        """
        found = self._last_within(what, named, kind, object_id, at)
        outside = self._from_outside(what, named, kind, object_id, at.tick)
        # what comes from outside comes first in its tick
        return outside if outside is not None and (found is None or outside.tick > found.tick) else found

    def _from_outside(
        self, what: str, named: str, kind: str, object_id: int | None, last: int
    ) -> Wrote | None:
        """Return the last time up to a tick that another program wrote something."""
        for tick in sorted((t for t in self.run.script.outside if t <= last), reverse=True):
            for change in self.run.script.outside[tick]:
                if isinstance(change, MovedOutside):
                    poses = ("x", "y") if change.angle is None else ("x", "y", "angle")
                    wrote = what in poses and object_id in (change.object_id, None) and kind != LEVEL
                elif isinstance(change, SetOutside):
                    mine = (kind == LEVEL) is not bool(change.object_id)
                    variable = token(change.called.rpartition(".")[2])
                    wrote = what == "variable" and mine and token(named) == variable
                    wrote = wrote and object_id in (change.object_id or None, None)
                else:
                    wrote = False
                if wrote:
                    return Wrote(tick, 0, what, named, None, OUTSIDE)
        return None

    def _last_within(
        self, what: str, named: str, kind: str, object_id: int | None, at: Moment
    ) -> Wrote | None:
        """Return the last time that an action or Motion wrote something before a moment."""
        access = Access(what, kind, named)
        moves = what in POSE and kind != LEVEL and self._can_move(kind)
        ticks: Iterator[int]
        if moves:
            ticks = self._ticks_of_moves(object_id, at.tick)
        else:
            ticks = (t for t in self.ticks_with_writers(access) if t <= at.tick)
        for tick in ticks:
            notes = self.notes_at(tick)
            upto = at.seq if tick == at.tick else len(notes.wrote) + 1
            found = self._within(notes, tick, upto, access, object_id, moves)
            if found is not None:
                return found
        return None

    def _ticks_of_moves(self, object_id: int | None, last: int) -> Iterator[int]:
        """Yield the ticks in which an object may have been moved, the last first; without an object, all ticks.

        Where a whole state is kept it says when each object was moved last: what lies between need not be replayed.
        """
        tick = last
        while tick > 0:
            start = self.run.kept_before(tick)
            yield from range(tick, start, -1)
            tick = start
            world = self.run.keyframes[start]
            row = -1 if object_id is None else world.row_of_id(object_id)
            if row >= 0 and not world.moved.item(row):
                # what a rule moves is found so by the contact phase of the next tick
                tick = world.last_moved.item(row)

    def _within(
        self,
        notes: TickNotes,
        tick: int,
        upto: int,
        access: Access,
        object_id: int | None,
        moves: bool,
    ) -> Wrote | None:
        what, named = access.what, access.named
        by_motion = (
            moves
            and upto >= notes.motion_at
            and (bool(notes.moved.get(what)) if object_id is None else object_id in notes.moved.get(what, ()))
        )
        for wrote in reversed(notes.wrote):
            if wrote.seq >= upto:
                continue
            if by_motion and wrote.seq < notes.motion_at:
                break
            same = wrote.what == what and (wrote.named == named or not named or not wrote.named)
            if what == "variable" and (wrote.ids is None) is not (access.kind == LEVEL):
                # a variable of the level and one of a kind may have one name
                continue
            if same and (object_id is None or wrote.ids is None or object_id in wrote.ids):
                return wrote
        if by_motion:
            return Wrote(tick, notes.motion_at, what, named, None)
        return None

    def _can_move(self, kind: str) -> bool:
        """Return whether Motion can ever change the pose of a kind's objects."""
        program = self.run.program
        declared = program.index.kinds[kind]
        if declared.behaviours or declared.contact == "movable":
            return True
        if any(o.kind == kind and o.attached for o in program.level.objects):
            return True
        causes = ("vx", "vy", "tween", "clip", "route", "bond", "contact", "gravity")
        return any(self.rules_that_write(Access(what, kind)) for what in causes)


def upto_end(run: Run, tick: int) -> Moment:
    """Return the moment at the end of a tick."""
    return Moment(tick, 1 << 40)
