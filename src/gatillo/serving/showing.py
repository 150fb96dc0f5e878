"""A moment of a run in the words of the protocol: objects, their variables, and what has changed since the tick before."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.formula import column_key
from gatillo.inspect.shown_looks import shown_looks
from gatillo.level.model import Kind, Value
from gatillo.level.naming import token
from gatillo.level.roles import type_of
from gatillo.serving.messages import Changed, FiringShown, ObjectShown
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import WAY_WORDS, Did, Firing
from gatillo.sim.world.world import World

POSE = ("x", "y", "facing", "scale")


def plain_value(value: Any, declared: Value, world: World) -> Any:
    """Return a value of a run as JSON holds it: a point as a list, a reference as the object's name."""
    if type_of(declared) == "object":
        return world.name_of(int(value)) if int(value) else ""
    return as_json(value)


def as_json(value: Any) -> Any:
    """Return a formula's value as JSON holds it."""
    if isinstance(value, np.generic):
        value = value.item()
    return [value.real, value.imag] if isinstance(value, complex) else value


@dataclass(slots=True)
class OwnColumn:
    """A variable of a kind: the column that holds it, and what it starts with."""

    name: str
    key: str
    start: Value


def own_columns(program: Program) -> list[list[OwnColumn]]:
    """Return the variables of each kind, by its number."""
    return [_of_kind(kind, program) for kind in program.kinds]


def _of_kind(kind: Kind, program: Program) -> list[OwnColumn]:
    columns = program.tick_tables.columns
    found = [OwnColumn(v.name, column_key(token(v.name), type_of(v.value)), v.value) for v in kind.variables]
    return [one for one in found if one.key in columns]


def objects_shown(world: World, rows: NDArray[np.int64], columns: list[list[OwnColumn]]) -> list[ObjectShown]:
    """Return some objects, by their rows, shape (n,)."""
    facing = world.values_of(rows, "facing").tolist()
    found = []
    for at, row in enumerate(rows.tolist()):
        kind = world.kind.item(row)
        values = {
            one.name: plain_value(world.variables[one.key][row], one.start, world) for one in columns[kind]
        }
        found.append(
            ObjectShown(
                id=world.id.item(row),
                name=world.name_of(world.id.item(row)),
                kind=world.program.kinds[kind].name,
                x=world.x.item(row),
                y=world.y.item(row),
                angle=world.angle.item(row),
                facing=facing[at],
                scale=world.scale.item(row),
                shown=bool(world.shown.item(row)),
                values=values,
            )
        )
    return found


def level_values(world: World) -> dict[str, Any]:
    """Return the level's variables by name."""
    return {
        v.name: plain_value(world.level[token(v.name)], v.value, world) for v in world.program.level.variables
    }


def firing_shown(run: Run, firing: Firing) -> FiringShown:
    """Return a firing in the words of the protocol."""
    return FiringShown(
        tick=firing.tick,
        place=firing.position,
        rule=run.program.rules[firing.rule_index].source.name,
        matches=firing.matches,
        way=WAY_WORDS[firing.way],
    )


@dataclass(slots=True)
class Watched:
    """What one tick is compared with: the end of the tick before."""

    run: Run
    columns: list[list[OwnColumn]]
    ids: NDArray[np.int64] = field(init=False)
    pose: NDArray[np.float64] = field(init=False)
    shown: NDArray[np.bool_] = field(init=False)
    own: dict[str, NDArray[Any]] = field(init=False)
    level: dict[str, Any] = field(init=False)
    looks: dict[int, str] = field(init=False)
    sayings: dict[int, str] = field(init=False)
    telling: str = field(init=False)
    faults: int = field(init=False)
    notes: int = field(init=False)

    def __post_init__(self) -> None:
        self._take(self.run.world)
        self.faults, self.notes = len(self.run.trace.faults), len(self.run.trace.notes)

    def _take(self, world: World) -> None:
        rows = world.alive.nonzero()[0]
        self.ids, self.pose, self.shown = world.id[rows], self._pose(world, rows), world.shown[rows].copy()
        # a column is written into, so what it was is kept
        self.own = {one.key: world.variables[one.key][rows] for some in self.columns for one in some}
        self.level = dict(world.level)
        self.looks = {world.id.item(row): look.name for row, look in shown_looks(world).items()}
        self.sayings = {number: said.text for number, said in world.display.sayings.items()}
        self.telling = world.display.telling

    @staticmethod
    def _pose(world: World, rows: NDArray[np.int64]) -> NDArray[np.float64]:
        return np.stack([world.values_of(rows, name) for name in POSE], axis=1)

    def since(self) -> Changed:
        """Return what has changed in the run's last tick; the next tick is compared with its end."""
        run, world = self.run, self.run.world
        before_ids, before_pose, before_shown, before_own = self.ids, self.pose, self.shown, self.own
        before_level, before_looks, before_sayings = self.level, self.looks, self.sayings
        before_telling = self.telling
        self._take(world)
        both, now, then = np.intersect1d(self.ids, before_ids, assume_unique=True, return_indices=True)
        moved = (self.pose[now] != before_pose[then]).any(axis=1)
        turned = self.shown[now] != before_shown[then]
        new = np.setdiff1d(self.ids, both, assume_unique=True)
        faults, self.faults = self.faults, len(run.trace.faults)
        notes, self.notes = self.notes, len(run.trace.notes)
        names = {token(v.name): v for v in run.program.level.variables}
        return Changed(
            tick=world.tick,
            seconds=world.tick / run.program.rate,
            moved=[
                (number, *pose)
                for number, pose in zip(both[moved].tolist(), self.pose[now][moved].tolist(), strict=True)
            ],
            values={
                names[key].name: plain_value(value, names[key].value, world)
                for key, value in self.level.items()
                if value != before_level[key]
            },
            own=self._own_changed(world, now, then, before_own),
            created=objects_shown(world, np.searchsorted(world.id, new), self.columns) if len(new) else [],
            removed=np.setdiff1d(before_ids, both, assume_unique=True).tolist(),
            shown=both[turned & self.shown[now]].tolist(),
            hidden=both[turned & ~self.shown[now]].tolist(),
            looks=_texts_changed(before_looks, self.looks),
            firings=[firing_shown(run, firing) for firing in run.trace.firings_at(world.tick)],
            messages=self._sent(),
            notes=[text for _, text in run.trace.notes[notes:]],
            faults=[fault.sentence for fault in run.trace.faults[faults:]],
            sayings=_texts_changed(before_sayings, self.sayings),
            telling=self.telling if self.telling != before_telling else None,
            over=world.rules.over or run.done >= run.length,
        )

    def _own_changed(
        self,
        world: World,
        now: NDArray[np.intp],
        then: NDArray[np.intp],
        before: dict[str, NDArray[Any]],
    ) -> list[tuple[int, str, Any]]:
        found: list[tuple[int, str, Any]] = []
        kinds = world.kind[world.alive.nonzero()[0]][now]
        for number, some in enumerate(self.columns):
            for one in some:
                values = self.own[one.key][now]
                other = np.flatnonzero((values != before[one.key][then]) & (kinds == number))
                found += [
                    (int(self.ids[now[at]]), one.name, plain_value(values[at], one.start, world))
                    for at in other.tolist()
                ]
        return found

    def _sent(self) -> list[str]:
        """Return the messages that rules sent in the last tick, in their order."""
        run = self.run
        names = {number: name for name, number in run.program.messages.items()}
        return [names[n] for _, did, n in run.trace.effects_at(run.done) if did is Did.SENT]


def _texts_changed(before: dict[int, str], now: dict[int, str]) -> list[tuple[int, str]]:
    """Return what is another text now, by id; “” for what is no more."""
    some = [(number, text) for number, text in now.items() if before.get(number) != text]
    return some + [(number, "") for number in before if number not in now]
