"""What differs between two runs: firings that only one has, those that moved, and the first value that differs.

Rules are matched by their ids, objects by theirs, so that a rename is no difference.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gatillo.inspect.state import Parted, differences
from gatillo.level.naming import spoken
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.world import World

CHEAP = 0.15
"""Seconds; runs that are replayed faster than that are compared tick by tick."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """Ticks of firings that only the run before has, and only the run after, by rule id."""

    gone: dict[int, tuple[int, ...]] = field(default_factory=dict)
    new: dict[int, tuple[int, ...]] = field(default_factory=dict)
    moved: dict[int, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    """By rule: firings that came in another tick, from and to. The first that is gone is taken to be the first that is new, and
    so on, among those of one way (do, else, or after a wait)."""

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
    def first_tick(self) -> int | None:
        """The first tick with a firing that only one of the runs has."""
        ticks = [ticks[0] for side in (self.gone, self.new) for ticks in side.values()]
        return min(ticks, default=None)

    def ticks(self) -> list[int]:
        """Return every tick with a firing that only one of the runs has, in order."""
        return sorted({t for side in (self.gone, self.new) for ticks in side.values() for t in ticks})

    def sentence(self) -> str:
        """Return the difference in a few words."""
        return "replayed: " + self.words()

    def words(self) -> str:
        """Return how many firings moved to another tick, are gone, and are new; a moved one belongs to one rule."""
        moved = sum(map(len, self.moved.values()))
        counts = {
            "moved": moved,
            "gone": self.gone_count - moved,
            "new": self.new_count - moved,
        }
        words = [f"{many:,} {what}" for what, many in counts.items() if many]
        if not words:
            return "same firings"
        first = next(many for many in counts.values() if many)
        number, _, rest = words[0].partition(" ")
        return ", ".join([f"{number} firing{'s' if first != 1 else ''} {rest}", *words[1:]])


def compare(before: Run, after: Run) -> Comparison:
    """Return which firings (rule, tick, and whether they are do, else or going on) only one of the two runs has.

    Rules are matched by their ids. A rule that fires several times in a tick counts once for each way.
    """
    sides: list[Firings] = []
    for run in (before, after):
        found: dict[int, set[tuple[int, int]]] = {}
        ids = [rule.source.id for rule in run.program.rules]
        tick, _, turn, _, way = run.trace.columns()
        for t, at, how in zip(tick.tolist(), turn.tolist(), (way & 7).tolist(), strict=True):
            found.setdefault(ids[at], set()).add((t, how))
        sides.append(found)
    return compared(*sides)


Firings = dict[int, set[tuple[int, int]]]
"""By rule id: the ticks in which it fired, with the way."""


def compared(before: Firings, after: Firings) -> Comparison:
    """Return which firings only one of two runs has."""
    gone: dict[int, tuple[int, ...]] = {}
    new: dict[int, tuple[int, ...]] = {}
    moved: dict[int, tuple[tuple[int, int], ...]] = {}
    for rule in dict.fromkeys((*before, *after)):
        old, now = before.get(rule, set()), after.get(rule, set())
        lost, come = sorted(old - now), sorted(now - old)
        pairs = [
            pair
            for way in sorted({way for _, way in lost})
            for pair in zip(
                (tick for tick, how in lost if how == way),
                (tick for tick, how in come if how == way),
                strict=False,
            )
        ]
        for found, into in ((lost, gone), (come, new)):
            if found:
                into[rule] = tuple(tick for tick, _ in found)
        if pairs:
            moved[rule] = tuple(sorted(pairs))
    return Comparison(gone, new, moved)


# values


def first_parted(
    before: Run, after: Run, between: Callable[[], None] = lambda: None, *, thorough: bool = False
) -> list[Parted]:
    """Return what differs at the end of the first tick at which a value differs; an empty list if all values are the same.

    Where no value ever differs, it returns what rules, graphs, behaviours or input remember otherwise, at the first tick at which they do.
    Raises ValueError if the runs have different tick rates. Without `thorough`, in runs that take long, only the ticks between the kept moments
    of both runs and before the first firing that differs are looked at: a difference that vanishes again between two of them is not found.
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
    remembered: list[Parted] = []
    for tick in (0, *range(low + 1, high + 1)):
        between()
        one, other = (
            before.world_at(before.end_of(tick), between),
            after.world_at(after.end_of(tick), between),
        )
        found = list(differences(one, other))
        if found:
            return found
        remembered = remembered or list(differences(one, other, "memory"))
    return remembered


def numbers(world: World, ids: NDArray[np.int64]) -> dict[str, NDArray[np.float64]]:
    """Return the numbers (and yes and no as 1 and 0) of a world: of the level as arrays of one, of objects by these ids, shape (n,)."""
    found = {
        f"level.{name}": np.array([float(value)])
        for name, value in world.level.items()
        if isinstance(value, (int, float))
    }
    rows = world.rows_of_ids(ids)
    for name, declared in COLUMNS.items():
        if declared.sort == "value" and name not in ("kind", "alive"):
            found[name] = getattr(world, name)[rows].astype(np.float64)
    for key, column in world.variables.items():
        if "/" in key and column.dtype != object:
            found[spoken(key.partition("/")[0])] = column[rows].astype(np.float64)
    return found


def by_rule(before: Run, after: Run) -> list[tuple[str, int, int, int, int, int]]:
    """Return a row for each rule whose firings differ: its name, firings before and after, gone, new and moved ones."""
    comparison = compare(before, after)
    names = {t.source.id: t.source.name for run in (before, after) for t in run.program.rules}
    counts: list[dict[int, int]] = []
    for run in (before, after):
        found: dict[int, int] = {}
        for firing in run.trace.firings():
            if firing.way is Way.DO:
                rule = run.program.rules[firing.rule_index].source.id
                found[rule] = found.get(rule, 0) + 1
        counts.append(found)
    rows = []
    for rule in sorted({*comparison.gone, *comparison.new}, key=lambda r: names[r]):
        gone, new = len(comparison.gone.get(rule, ())), len(comparison.new.get(rule, ()))
        moved = len(comparison.moved.get(rule, ()))
        rows.append(
            (names[rule], counts[0].get(rule, 0), counts[1].get(rule, 0), gone - moved, new - moved, moved)
        )
    return rows
