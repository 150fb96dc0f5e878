"""One rule's turn recorded in full: which matches came to each of its lines, which passed, and the world at that moment."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Candidates
from gatillo.sim.matching.match_table import Matches, table_of
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import NullRecorder, Ran, Way
from gatillo.sim.world.world import World

MOST_WORLDS = 60
"""So many states of a turn are kept; a graph that goes match by match may come to thousands."""

Ids = dict[str, NDArray[np.int64]]
"""By role's token: the object of each match, by id."""
Match = dict[str, int]
"""One match: by role's token its object's id."""


@dataclass(frozen=True, slots=True)
class Table:
    """Matches by the ids of their objects."""

    n: int
    ids: Ids

    def match(self, at: int) -> Match:
        """Return one of the matches."""
        return {role: int(column[at]) for role, column in self.ids.items()}

    def where(self, wanted: Match) -> NDArray[np.int64]:
        """Return the matches that are about the same objects, as far as both name them."""
        fits = np.ones(self.n, dtype=bool)
        for role, column in self.ids.items():
            if role in wanted:
                fits &= column == wanted[role]
        return np.flatnonzero(fits)

    def about(self, objects: frozenset[int]) -> NDArray[np.int64]:
        """Return the matches in which all of these objects take part."""
        fits = np.ones(self.n, dtype=bool)
        for one in objects:
            mine = np.zeros(self.n, dtype=bool)
            for column in self.ids.values():
                mine |= column == one
            fits &= mine
        return np.flatnonzero(fits)


def table(world: World, matches: Matches) -> Table:
    """Return a match table by ids."""
    return Table(matches.n, {role: world.id[rows] for role, rows in matches.rows.items()})


def rows_table(world: World, match: Match) -> Matches | None:
    """Return one match as a table in a world; None when one of its objects is not there."""
    rows = {role: world.rows_of_ids(np.array([i], dtype=np.int64)) for role, i in match.items()}
    if any(found[0] < 0 for found in rows.values()):
        return None
    return Matches(1, rows)


@dataclass(slots=True)
class Seen:
    """Something that happened in a turn."""

    what: Literal["occasion", "condition", "limit", "fires", "ran"]
    seq: int
    """How many actions had been carried out in the tick."""
    world: World
    line: CompiledLine | None = None
    card: int = 0
    before: Table = field(default_factory=lambda: Table(0, {}))
    after: Table = field(default_factory=lambda: Table(0, {}))
    position: int = 0
    """For a firing: its place in the tick."""
    way: Way = Way.DO
    ran: Ran | None = None


@dataclass(slots=True)
class TurnSeen:
    """All of a turn in a tick; `at_turn` is the world as it came, None when it never came."""

    rule: CompiledRule
    tick: int
    at_turn: World | None = None
    executor: Any = None
    seq: int = 0
    seen: list[Seen] = field(default_factory=list)
    after_tick: World | None = None

    def of(self, what: str) -> list[Seen]:
        """Return what happened of one sort, in order."""
        return [s for s in self.seen if s.what == what]

    def firing(self, position: int) -> Seen | None:
        """Return the firing at a place of the tick."""
        return next((s for s in self.seen if s.what == "fires" and s.position == position), None)


class _TurnWitness(NullRecorder):
    """Watches one turn; the worlds that it keeps are copies, one for each action that may have changed something."""

    watching = True

    def __init__(self, seen: TurnSeen) -> None:
        self.told = seen
        self.mine = seen.rule.index
        self.seq = self.firings = 0
        self.step = 0
        self.tick = seen.tick
        self.live: World | None = None
        self._kept: dict[int, World] = {}

    def world(self) -> World:
        kept = self._kept.get(self.seq)
        if kept is None:
            assert self.live is not None
            if len(self._kept) >= MOST_WORLDS:
                return next(reversed(self._kept.values()))
            kept = self._kept[self.seq] = self.live.clone()
        return kept

    def table(self, matches: Matches) -> Table:
        """Return the matches by their ids. The world that is kept can be an earlier one, where some of them are not there yet."""
        assert self.live is not None
        return table(self.live, matches)

    @staticmethod
    def card(rule: CompiledRule, line: CompiledLine) -> int:
        return 0 if rule.graph is None else rule.graph.number_of(line)

    def moves(self, world: World, begins: bool) -> None:
        self.live = world

    def comes(self, executor: Any, rule: CompiledRule) -> None:
        self.live = executor.world
        if rule.index == self.mine:
            self.told.at_turn, self.told.seq = self.world(), self.seq

    def yielded(self, rule: CompiledRule, line: CompiledLine, found: Candidates) -> None:
        if rule.index == self.mine:
            world = self.world()
            self.told.seen.append(
                Seen(
                    "occasion",
                    self.seq,
                    world,
                    line,
                    self.card(rule, line),
                    after=self.table(table_of(found)),
                )
            )

    def asked(self, rule: CompiledRule, line: CompiledLine, before: Matches, after: Matches) -> None:
        if rule.index == self.mine:
            world = self.world()
            self.told.seen.append(
                Seen(
                    "condition",
                    self.seq,
                    world,
                    line,
                    self.card(rule, line),
                    self.table(before),
                    self.table(after),
                )
            )

    def limited(self, rule: CompiledRule, card: int, before: Matches, after: Matches) -> None:
        if rule.index == self.mine:
            world = self.world()
            self.told.seen.append(
                Seen("limit", self.seq, world, None, card, self.table(before), self.table(after))
            )

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        self.firings += 1
        if rule_index == self.mine and self.live is not None:
            self.told.seen.append(Seen("fires", self.seq, self.world(), position=self.firings, way=way))

    def takes_part(self, table: Matches, ids: Ids) -> None:
        last = self.told.seen[-1] if self.told.seen else None
        if last is not None and last.what == "fires" and last.position == self.firings:
            last.after = Table(table.n, {role: column.copy() for role, column in ids.items()})

    def acted(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None:
        self.seq += 1

    def ran(
        self,
        step: int,
        firings: int,
        rule_index: int,
        part: str,
        line: int,
        card: int,
        wire: int,
        matches: int,
    ) -> None:
        if rule_index == self.mine and card and self.live is not None:
            ran = Ran(self.tick, step, firings, rule_index, "card", 0, card, wire, matches)
            self.told.seen.append(Seen("ran", self.seq, self.world(), None, card, ran=ran))


def see_turn(run: Run, tick: int, rule: CompiledRule, between: Callable[[], None] = lambda: None) -> TurnSeen:
    """Return a turn of a tick, replayed with full instruments. Raises ValueError for a tick that has not been run."""
    seen = TurnSeen(rule, tick)
    witness = _TurnWitness(seen)
    # waits that go on fire before Motion: the world as the tick begins is known to the witness at once
    before = run.world_at(run.end_of(tick - 1), between)
    witness.live = before
    seen.after_tick = run.replay(tick, tick, witness, between)
    return seen
