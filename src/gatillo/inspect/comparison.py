"""What differs between two runs: firings that only one has, those that moved, and the first value that parted.

Rules are told apart by their ids, objects by theirs, so that a rename is no difference.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.inspect.reasons.reason import value_words
from gatillo.level.naming import spoken
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.world import World

CHEAP = 0.15
"""Seconds; runs that are replayed faster than that are compared tick by tick."""
PARTS = ("x", "y", "angle", "vx", "vy", "scale", "depth", "shown", "contact")
"""What of objects is compared beside their variables."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """Ticks of firings that only the run before has, and only the run after, by rule id."""

    gone: dict[int, tuple[int, ...]] = field(default_factory=dict)
    new: dict[int, tuple[int, ...]] = field(default_factory=dict)

    @property
    def gone_count(self) -> int:
        """How many firings of the run before are gone."""
        return sum(map(len, self.gone.values()))

    @property
    def new_count(self) -> int:
        """How many firings the run before did not have."""
        return sum(map(len, self.new.values()))

    @property
    def same(self) -> bool:
        """Whether both runs have the same firings."""
        return not self.gone and not self.new

    @property
    def moved(self) -> dict[int, tuple[tuple[int, int], ...]]:
        """By rule: firings that came in another tick, from and to; those that are gone and new, one after the other."""
        pairs = {
            rule: tuple(zip(self.gone[rule], self.new[rule], strict=False))
            for rule in self.gone
            if rule in self.new
        }
        return {rule: found for rule, found in pairs.items() if found}

    @property
    def first_tick(self) -> int | None:
        """The first tick with a firing that only one of the runs has."""
        ticks = [ticks[0] for side in (self.gone, self.new) for ticks in side.values()]
        return min(ticks, default=None)

    def ticks(self) -> list[int]:
        """Every tick with a firing that only one of the runs has, in order."""
        return sorted({t for side in (self.gone, self.new) for ticks in side.values() for t in ticks})

    def sentence(self) -> str:
        """The difference in a few words."""
        return "replayed: " + self.words()

    def words(self) -> str:
        """The same without what came of it."""
        gone, new = self.gone_count, self.new_count
        if not gone and not new:
            return "same firings"
        moved = min(gone, new)
        told = [f"{moved} firing{'s' if moved != 1 else ''} moved"] if moved else []
        if new > gone:
            told.append(f"{new - gone} more")
        elif gone > new:
            told.append(f"{gone - new} fewer")
        return ", ".join(told)


@dataclass(frozen=True, slots=True)
class Parted:
    """A value that is not the same in both runs at the end of a tick."""

    tick: int
    name: str
    """Such as `level.pods` or `Pod 3.x`; for an object that only one has: its name."""
    before: str
    after: str
    object_id: int | None = None

    def sentence(self) -> str:
        """What parted, and how."""
        return f"{self.name} was {self.before}, now {self.after}, at the end of tick {self.tick}"


def compare(before: Run, after: Run) -> Comparison:
    """Which firings (rule, tick, and whether they are do, else or going on) only one of the two runs has.

    Rules are told apart by their id. A rule that fires several times in a tick counts once for each way.
    """
    sides: list[dict[int, set[tuple[int, int]]]] = []
    for run in (before, after):
        found: dict[int, set[tuple[int, int]]] = {}
        ids = [turn.rule.id for turn in run.program.turns]
        tick, _, turn, _, way = run.trace.columns()
        for t, at, how in zip(tick.tolist(), turn.tolist(), (way & 7).tolist(), strict=True):
            found.setdefault(ids[at], set()).add((t, how))
        sides.append(found)
    old, now = sides
    gone = {rule: _ticks(firings - now.get(rule, set())) for rule, firings in old.items()}
    new = {rule: _ticks(firings - old.get(rule, set())) for rule, firings in now.items()}
    return Comparison({r: t for r, t in gone.items() if t}, {r: t for r, t in new.items() if t})


def _ticks(firings: set[tuple[int, int]]) -> tuple[int, ...]:
    return tuple(tick for tick, _ in sorted(firings))


# values


def first_parted(
    before: Run, after: Run, between: Callable[[], None] = lambda: None, *, thorough: bool = False
) -> list[Parted]:
    """What is not the same at the end of the first tick at which something of the level's state differs; nothing if all is.

    Both runs must have the same tick rate, or ValueError is raised. Without `thorough`, in runs that take long it is looked for between the kept
    moments of both and before the first firing that differs: what parts and meets again between two of them is not found.
    """
    if before.program.rate != after.program.rate:
        raise ValueError(
            "runs with different tick rates have no ticks in common; compare them by their firings"
        )
    last = min(before.done, after.done)
    low, high = 0, last
    if not thorough and (before.pace + after.pace) * last > CHEAP:
        kept = sorted((set(before.keyframes) & set(after.keyframes)) - {0})
        for tick in kept:
            if tick > last:
                break
            if next(differences(before.keyframes[tick], after.keyframes[tick]), None) is not None:
                high = tick
                break
            low = tick
        first = compare(before, after).first_tick
        if first is not None and first <= high:
            high = first
            low = max((t for t in (0, *kept) if t < first), default=0)
    found = list(differences(before.world_at(before.end_of(0)), after.world_at(after.end_of(0))))
    if found:
        return found
    for tick in range(low + 1, high + 1):
        between()
        one, other = (
            before.world_at(before.end_of(tick), between),
            after.world_at(after.end_of(tick), between),
        )
        found = list(differences(one, other))
        if found:
            return found
    return []


def differences(before: World, after: World) -> Iterator[Parted]:
    """What of two worlds at the same tick differs: variables of the level, who is there, then what objects have."""
    tick = before.tick
    for name, value in before.level.items():
        if name in after.level and not _same(value, after.level[name]):
            yield Parted(tick, f"level.{name}", value_words(value), value_words(after.level[name]))
    mine, theirs = before.id[before.alive], after.id[after.alive]
    for object_id in np.setxor1d(mine, theirs).tolist():
        there = before.row_of_id(object_id) >= 0
        name = (before if there else after).name_of(object_id)
        yield Parted(tick, name, *(("there", "not there") if there else ("not there", "there")), object_id)
    both = np.intersect1d(mine, theirs)
    rows, others = before.rows_of_ids(both), after.rows_of_ids(both)
    columns = [(name, getattr(before, name)[rows], getattr(after, name)[others]) for name in PARTS]
    columns += [
        (spoken(key.partition("/")[0]), column[rows], after.variables[key][others])
        for key, column in before.variables.items()
        if "/" in key and key in after.variables
    ]
    for name, one, other in columns:
        for at in np.flatnonzero(one != other).tolist():
            who = before.name_of(int(both[at]))
            yield Parted(tick, f"{who}.{name}", _words(one[at]), _words(other[at]), int(both[at]))


def numbers(world: World, ids: NDArray[np.int64]) -> dict[str, NDArray[np.float64]]:
    """The numbers (and yes and no as 1 and 0) of a world: of the level as arrays of one, of objects by these ids, shape (n,)."""
    found = {
        f"level.{name}": np.array([float(value)])
        for name, value in world.level.items()
        if isinstance(value, (int, float))
    }
    rows = world.rows_of_ids(ids)
    for name in PARTS:
        found[name] = getattr(world, name)[rows].astype(np.float64)
    for key, column in world.variables.items():
        if "/" in key and column.dtype != object:
            found[spoken(key.partition("/")[0])] = column[rows].astype(np.float64)
    return found


def _same(one: Any, other: Any) -> bool:
    return type(one) is type(other) and bool(one == other)


def _words(value: Any) -> str:
    return value_words(value.item() if isinstance(value, np.generic) else value)


def by_rule(before: Run, after: Run) -> list[tuple[str, int, int, int, int, int]]:
    """A row for each rule whose firings differ: its name, firings before and after, gone, new and moved ones."""
    told = compare(before, after)
    names = {t.rule.id: t.rule.name for run in (before, after) for t in run.program.turns}
    counts: list[dict[int, int]] = []
    for run in (before, after):
        found: dict[int, int] = {}
        for firing in run.trace.firings():
            if firing.way is Way.DO:
                rule = run.program.turns[firing.turn].rule.id
                found[rule] = found.get(rule, 0) + 1
        counts.append(found)
    rows = []
    for rule in sorted({*told.gone, *told.new}, key=lambda r: names[r]):
        gone, new = len(told.gone.get(rule, ())), len(told.new.get(rule, ()))
        moved = len(told.moved.get(rule, ()))
        rows.append(
            (names[rule], counts[0].get(rule, 0), counts[1].get(rule, 0), gone - moved, new - moved, moved)
        )
    return rows
