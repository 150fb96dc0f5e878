"""The record of a run: what fired in which order, what was looked at, what was done."""

from __future__ import annotations

import hashlib
from array import array
from bisect import bisect_right
from dataclasses import dataclass
from enum import IntEnum
from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Candidates
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule

BEHAVIOUR = -1
"""In the place of a turn: a fault of a behaviour, which stands in no rule."""


class Way(IntEnum):
    """How a firing came about."""

    DO = 0
    ELSE = 1
    RESUMED = 2


WAY_WORDS = {Way.DO: "do", Way.ELSE: "else", Way.RESUMED: "resumed"}
"""What each way is called in traces and for other programs."""


class Did(IntEnum):
    """What an action did that others may ask about."""

    WROTE = 0
    CREATED = 1
    REMOVED = 2
    SENT = 3
    WAITS = 4


class Firing(NamedTuple):
    """One firing: its tick, its place among the tick's firings (from 1), the turn, how many matches."""

    tick: int
    position: int
    rule_index: int
    matches: int
    way: Way
    faulted: bool


class Ran(NamedTuple):
    """One step within a tick: a card that ran, or an action's line that was done."""

    tick: int
    step: int
    """Its place among the tick's steps, from 1."""
    firings: int
    """How many firings of the tick were over by then."""
    rule_index: int
    part: str
    line: int
    """For a line: where it is; `card` and 0 for a card."""
    card: int
    """A card's number in its graph with own nodes in their places; 0 for a line of a rule."""
    wire: int
    """By which wire its matches came, numbered as in that graph; -1 for a card at which they begin."""
    matches: int


class Looked(NamedTuple):
    """How many candidates a turn had in a tick, how many passed each condition, how many fired."""

    tick: int
    rule_index: int
    candidates: int
    passed: tuple[int, ...]
    fired: int


@dataclass(frozen=True, slots=True)
class Fault:
    """A part of a rule that had no answer for some matches."""

    tick: int
    rule_index: int
    part: str
    line: int
    sentence: str
    count: int

    @property
    def number(self) -> int:
        """The number of the line as a person counts, from 1; for a graph the number of the card."""
        return self.line if self.part == "card" else self.line + 1


class Recorder(Protocol):
    """Hears what happens in a tick."""

    watching: bool
    """Whether values before and after are wanted too."""

    def tick_begins(self, tick: int) -> None:
        """A tick begins."""

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        """A rule (by its position) fires for some matches."""

    def looked(self, rule_index: int, candidates: int, passed: list[int], fired: int) -> None:
        """A rule was looked at: how many candidates, how many passed each condition, for how many it fired."""

    def did(self, what: Did, number: int) -> None:
        """The firing at hand did something that lanes show, such as sending message `number`."""

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
        """The tick's `step`-th step is done, when `firings` firings are over. Told of cards, and of lines if `watching`."""

    def reached(self, line: int) -> None:
        """Lines were begun in the middle of a rule, by their identity: after a wait, within a branch or a repeat.

        Also one of several occasions that came.
        """

    def fault(self, tick: int, rule_index: int, part: str, line: int, sentence: str, count: int) -> None:
        """A line had no answer for `count` matches, or went beyond a bound; `sentence` says it whole."""

    def note(self, tick: int, text: str) -> None:
        """A rule wrote a text into the trace."""

    def takes_part(self, table: Matches, ids: dict[str, NDArray[np.int64]]) -> None:
        """Hear which objects take part in the firing: ids by role, shape (n,) each. Called only if `watching`."""

    def changed(
        self, part: str, line: int, name: str, ids: list[int] | None, before: Any, after: Any
    ) -> None:
        """An action changed something, of these ids or of the level (None). Only asked when `watching`."""

    # instruments: reported only while something is `watching`

    def moves(self, world: Any, begins: bool) -> None:
        """The Motion phase of the tick begins, or is over."""

    def comes(self, executor: Any, rule: CompiledRule) -> None:
        """A turn comes: the executor can be asked about its lines as things stand."""

    def yielded(self, rule: CompiledRule, line: CompiledLine, found: Candidates) -> None:
        """What an occasion of the turn yielded."""

    def asked(self, rule: CompiledRule, line: CompiledLine, before: Matches, after: Matches) -> None:
        """A condition or a pick was asked of some matches; these have passed it."""

    def limited(self, rule: CompiledRule, card: int, before: Matches, after: Matches) -> None:
        """What the firing mode, the rest and the waits have left of the matches that passed; `card` is 0 for a rule."""

    def acted(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None:
        """An action was carried out for some matches."""


class NullRecorder(Recorder):
    """Records nothing: for replaying to a moment."""

    watching = False

    def tick_begins(self, tick: int) -> None: ...

    def fires(self, rule_index: int, matches: int, way: Way) -> None: ...

    def looked(self, rule_index: int, candidates: int, passed: list[int], fired: int) -> None: ...

    def did(self, what: Did, number: int) -> None: ...

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
    ) -> None: ...

    def reached(self, line: int) -> None: ...

    def fault(self, tick: int, rule_index: int, part: str, line: int, sentence: str, count: int) -> None: ...

    def note(self, tick: int, text: str) -> None: ...

    def takes_part(self, table: Matches, ids: dict[str, NDArray[np.int64]]) -> None: ...

    def changed(
        self, part: str, line: int, name: str, ids: list[int] | None, before: Any, after: Any
    ) -> None: ...

    def moves(self, world: Any, begins: bool) -> None: ...

    def comes(self, executor: Any, rule: CompiledRule) -> None: ...

    def yielded(self, rule: CompiledRule, line: CompiledLine, found: Candidates) -> None: ...

    def asked(self, rule: CompiledRule, line: CompiledLine, before: Matches, after: Matches) -> None: ...

    def limited(self, rule: CompiledRule, card: int, before: Matches, after: Matches) -> None: ...

    def acted(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None: ...


_A_RUN = 6


class Trace(NullRecorder):
    """The record of a run, as flat streams of integers with an index by tick.

    `ticks` is the last tick recorded. Ticks count from 1.
    """

    MOST_FAULTS = 10_000
    MOST_NOTES = 10_000
    MOST_RUNS = 2_000_000
    MOST_SAME = 4_096
    FAULT_MARK = 8

    def __init__(self) -> None:
        self.ticks = 0
        self._turn = array("i")
        self._matches = array("i")
        self._way = array("b")
        self._firing_start = array("i", [0])
        self._looked = array("i")
        """What looks came to, one after the other: turn, candidates, how many numbers follow, and these."""
        self._looked_at = array("i")
        """By look: where in `_looked` it is; looks that came to the same are there once."""
        self._same_looks: dict[tuple[int, ...], int] = {}
        self._looked_start = array("i", [0])
        self._did_firing = array("i")
        self._did = array("b")
        self._did_number = array("i")
        self._did_start = array("i", [0])
        self._ran = array("i")
        """Six numbers for each card that ran: step, firings over, turn, card, wire, matches."""
        self._ran_start = array("i", [0])
        self.faults: list[Fault] = []
        self.notes: list[tuple[int, str]] = []
        self._fault_counts: dict[tuple[int, str, int, str], int] = {}
        self.lines_reached: dict[int, None] = {}
        """The lines that were begun in the middle of rules, and the occasions of several that came, by their identity."""

    # recording

    def tick_begins(self, tick: int) -> None:
        self.ticks = tick
        self._firing_start.append(len(self._turn))
        self._looked_start.append(len(self._looked_at))
        self._did_start.append(len(self._did))
        self._ran_start.append(len(self._ran))

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        self._turn.append(rule_index)
        self._matches.append(matches)
        self._way.append(way)

    def looked(self, rule_index: int, candidates: int, passed: list[int], fired: int) -> None:
        came_to = (rule_index, candidates, len(passed), *passed, fired)
        at = self._same_looks.get(came_to)
        if at is None:
            at = len(self._looked)
            self._looked.extend(came_to)
            if len(self._same_looks) < self.MOST_SAME:
                self._same_looks[came_to] = at
        self._looked_at.append(at)

    def did(self, what: Did, number: int) -> None:
        self._did_firing.append(len(self._turn) - 1)
        self._did.append(what)
        self._did_number.append(number)

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
        if card and len(self._ran) < _A_RUN * self.MOST_RUNS:
            self._ran.extend((step, firings, rule_index, card, wire, matches))

    def reached(self, line: int) -> None:
        self.lines_reached[line] = None

    def fault(self, tick: int, rule_index: int, part: str, line: int, sentence: str, count: int) -> None:
        if self._way and self._turn[-1] == rule_index and len(self._turn) > self._firing_start[-1]:
            self._way[-1] |= self.FAULT_MARK
        key = (rule_index, part, line, sentence)
        self._fault_counts[key] = self._fault_counts.get(key, 0) + count
        if len(self.faults) < self.MOST_FAULTS:
            self.faults.append(Fault(tick, rule_index, part, line, sentence, count))

    def note(self, tick: int, text: str) -> None:
        if len(self.notes) < self.MOST_NOTES:
            self.notes.append((tick, text))
        elif len(self.notes) == self.MOST_NOTES:
            self.notes.append(
                (tick, f"no more than {self.MOST_NOTES:,} notes are kept; the rest is left out")
            )

    # reading

    def firings_at(self, tick: int) -> list[Firing]:
        """Return the firings of a tick, in their order."""
        if not 1 <= tick <= self.ticks:
            return []
        start = self._firing_start[tick]
        end = self._firing_start[tick + 1] if tick < self.ticks else len(self._turn)
        return [self._firing(tick, i - start + 1, i) for i in range(start, end)]

    def firing_ticks(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Return the rule and the tick of all firings in their order; shape (firings,) each."""
        turns = np.array(self._turn, dtype=np.int64)
        return turns, np.searchsorted(np.array(self._firing_start), np.arange(len(turns)), side="right") - 1

    def look_ticks(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Return the rule and the tick of each turn with candidates, in their order; shape (looks,) each."""
        at = np.array(self._looked_at, dtype=np.int64)
        turns = np.array(self._looked, dtype=np.int64)[at] if len(at) else at
        return turns, np.searchsorted(np.array(self._looked_start), np.arange(len(at)), side="right") - 1

    def count_at(self, tick: int) -> int:
        """Return how many firings a tick has."""
        if not 1 <= tick <= self.ticks:
            return 0
        end = self._firing_start[tick + 1] if tick < self.ticks else len(self._turn)
        return end - self._firing_start[tick]

    def next_tick_with_firing(self, tick: int) -> int | None:
        """Return the first tick after this one in which something fires."""
        if tick >= self.ticks:
            return None
        first = self._firing_start[tick + 1]
        return self._tick_of(first) if first < len(self._turn) else None

    def previous_tick_with_firing(self, tick: int) -> int | None:
        """Return the last tick before this one in which something fired."""
        tick = min(tick, self.ticks + 1)
        last = self._firing_start[tick] - 1 if tick <= self.ticks else len(self._turn) - 1
        return self._tick_of(last) if last >= 0 and tick > 0 else None

    def _tick_of(self, firing: int) -> int:
        return bisect_right(self._firing_start, firing) - 1

    def up_to(self, tick: int) -> Trace:
        """Return the record of the ticks up to and with this one, able to grow on its own."""
        other = self.copy()
        if tick >= self.ticks:
            return other
        first, look, effect, card = (
            self._firing_start[tick + 1],
            self._looked_start[tick + 1],
            self._did_start[tick + 1],
            self._ran_start[tick + 1],
        )
        del other._turn[first:], other._matches[first:], other._way[first:]
        del other._looked_at[look:]
        del other._did_firing[effect:], other._did[effect:], other._did_number[effect:]
        del other._ran[card:], other._ran_start[tick + 1 :]
        del other._firing_start[tick + 1 :], other._looked_start[tick + 1 :], other._did_start[tick + 1 :]
        other.faults = [f for f in self.faults if f.tick <= tick]
        other.notes = [n for n in self.notes if n[0] <= tick]
        other._fault_counts = {}
        for f in other.faults:
            key = (f.rule_index, f.part, f.line, f.sentence)
            other._fault_counts[key] = other._fault_counts.get(key, 0) + f.count
        other.ticks = tick
        return other

    def _firing(self, tick: int, position: int, at: int) -> Firing:
        way = self._way[at]
        return Firing(
            tick,
            position,
            self._turn[at],
            self._matches[at],
            Way(way & ~self.FAULT_MARK),
            bool(way & self.FAULT_MARK),
        )

    def firings(self) -> list[Firing]:
        """Return all firings of the run, in their order."""
        return [firing for tick in range(1, self.ticks + 1) for firing in self.firings_at(tick)]

    def has_fired(self, rule_index: int) -> bool:
        """Return whether a turn fired at any time: did, did else, or went on."""
        return rule_index in self._turn

    def looks_at(self, tick: int) -> list[Looked]:
        """Return what each turn that was looked at in a tick let through."""
        if not 1 <= tick <= self.ticks:
            return []
        end = self._looked_start[tick + 1] if tick < self.ticks else len(self._looked_at)
        found: list[Looked] = []
        for at in self._looked_at[self._looked_start[tick] : end]:
            rule_index, candidates, many = self._looked[at : at + 3]
            passed = tuple(self._looked[at + 3 : at + 3 + many])
            found.append(Looked(tick, rule_index, candidates, passed, self._looked[at + 3 + many]))
        return found

    def effects_at(self, tick: int) -> list[tuple[int, Did, int]]:
        """Return what the firings of a tick did: (position of the firing, what, number of the thing)."""
        if not 1 <= tick <= self.ticks:
            return []
        end = self._did_start[tick + 1] if tick < self.ticks else len(self._did)
        first = self._firing_start[tick]
        return [
            (self._did_firing[i] - first + 1, Did(self._did[i]), self._did_number[i])
            for i in range(self._did_start[tick], end)
        ]

    def cards_at(self, tick: int) -> list[Ran]:
        """Return the cards of graphs that ran in a tick, in their order.

        No more than MOST_RUNS are kept for a run; those of later ticks are not there.
        """
        if not 1 <= tick <= self.ticks:
            return []
        end = self._ran_start[tick + 1] if tick < self.ticks else len(self._ran)
        found: list[Ran] = []
        for at in range(self._ran_start[tick], end, _A_RUN):
            step, firings, rule_index, card, wire, matches = self._ran[at : at + _A_RUN]
            found.append(Ran(tick, step, firings, rule_index, "card", 0, card, wire, matches))
        return found

    def card_columns(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Return all card runs: their ticks, shape (n,), and step, firings over, turn, card, wire, matches, shape (n, 6)."""
        flat = np.array(self._ran, dtype=np.int32).reshape(-1, _A_RUN)
        starts = np.array(self._ran_start, dtype=np.int64) // _A_RUN
        counts = np.diff(np.append(starts, len(flat)))
        return np.repeat(np.arange(len(starts), dtype=np.int32), counts), flat

    def columns(
        self,
    ) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], NDArray[np.int8]]:
        """Return all firings as arrays of one length: tick, position, turn, matches, way (with fault mark)."""
        starts = np.array(self._firing_start, dtype=np.int32)
        many = len(self._turn)
        counts = np.diff(np.append(starts, many))
        tick = np.repeat(np.arange(len(starts), dtype=np.int32), counts)
        position = np.arange(many, dtype=np.int32) - np.repeat(starts, counts) + 1
        return (
            tick,
            position.astype(np.int32),
            np.array(self._turn, dtype=np.int32),
            np.array(self._matches, dtype=np.int32),
            np.array(self._way, dtype=np.int8),
        )

    def looks_of(self, rule_index: int) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Return when a turn was looked at, shape (n,), and what it let through, shape (n, 1 + conditions).

        The first number of each look is how many candidates there were, then how many of them passed each condition in turn.
        """
        at = np.array(self._looked_at, dtype=np.int64)
        if not len(at):
            return np.zeros(0, dtype=np.int32), np.zeros((0, 1), dtype=np.int32)
        flat = np.array(self._looked, dtype=np.int32)
        starts = np.array(self._looked_start, dtype=np.int64)
        tick = np.repeat(np.arange(len(starts)), np.diff(np.append(starts, len(at)))).astype(np.int32)
        mine = flat[at] == rule_index
        at, tick = at[mine], tick[mine]
        if not len(at):
            return tick, np.zeros((0, 1), dtype=np.int32)
        # conditions after one that nobody passed are not asked, and have no number
        passed = [
            np.where(n < flat[at + 2], flat[np.minimum(at + 3 + n, len(flat) - 1)], 0)
            for n in range(int(flat[at + 2].max()))
        ]
        return tick, np.column_stack([flat[at + 1], *passed])

    def dropped_columns(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Looks at which a turn had candidates but fired for none: (tick, turn) arrays."""
        flat = np.array(self._looked, dtype=np.int32)
        at = np.array(self._looked_at, dtype=np.int64)
        if not len(at):
            return np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.int32)
        starts = np.array(self._looked_start, dtype=np.int64)
        tick = np.repeat(np.arange(len(starts)), np.diff(np.append(starts, len(at)))).astype(np.int32)
        none_fired = (flat[at + 3 + flat[at + 2]] == 0) & (flat[at + 1] > 0)
        return tick[none_fired], flat[at][none_fired]

    def fault_counts(self) -> dict[tuple[int, str, int, str], int]:
        """Return how often each (turn, part, line, sentence) faulted over the whole run."""
        return dict(self._fault_counts)

    def to_bytes(self) -> bytes:
        """Return what fired and what it did, as bytes; equal for equal runs, and for a rule and the graph that it can be.

        Which cards ran is not among it: `cards_bytes`.
        """
        streams = (
            self._turn,
            self._matches,
            self._way,
            self._firing_start,
            *self._looks_in_turn(),
            self._looked_start,
            self._did_firing,
            self._did,
            self._did_number,
            self._did_start,
        )
        faults = "\n".join(map(repr, (*self.faults, *self.notes))).encode()
        return b"".join(len(s).to_bytes(8, "little") + s.tobytes() for s in streams) + faults

    def _looks_in_turn(self) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
        """Return what all looks came to one after the other, and where each of them begins."""
        flat, at = np.array(self._looked, dtype=np.int32), np.array(self._looked_at, dtype=np.int64)
        if not len(at):
            return flat[:0], flat[:0]
        lengths = 4 + flat[at + 2].astype(np.int64)
        ends = np.cumsum(lengths)
        within = np.arange(int(ends[-1])) - np.repeat(ends - lengths, lengths)
        return flat[np.repeat(at, lengths) + within], (ends - lengths).astype(np.int32)

    def cards_bytes(self) -> bytes:
        """Return which cards ran, as bytes; equal for equal runs."""
        return self._ran_start.tobytes() + self._ran.tobytes()

    def digest(self) -> str:
        """Return a short name for the record: equal runs have equal digests."""
        return hashlib.blake2b(self.to_bytes(), digest_size=8).hexdigest()

    def copy(self) -> Trace:
        """Return a record that can grow on its own."""
        other = Trace()
        for name, value in vars(self).items():
            if isinstance(value, array):
                setattr(other, name, value[:])
            elif isinstance(value, list):
                setattr(other, name, list(value))
            elif isinstance(value, dict):
                setattr(other, name, dict(value))
            else:
                setattr(other, name, value)
        return other
