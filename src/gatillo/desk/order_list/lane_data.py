"""The firings of a run, sorted for painting: per rule, and per tick."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.declare.facts import Heard
from gatillo.level.edits import Part
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Did, Trace, Way

Ints = NDArray[np.int32]


@dataclass(frozen=True, slots=True)
class Marks:
    """Marks of one lane, by tick: position in the tick, matches, way, fault. All of one length."""

    tick: Ints
    position: Ints
    matches: Ints
    way: NDArray[np.int8]
    fault: NDArray[np.bool_]

    def between(self, first: int, last: int) -> slice:
        """Return which marks lie in these ticks, both included."""
        return slice(
            int(np.searchsorted(self.tick, first)), int(np.searchsorted(self.tick, last, side="right"))
        )


@dataclass(frozen=True, slots=True)
class CardMarks:
    """When a card ran: tick, step within it, firings over by then, matches that came. All of one length."""

    tick: Ints
    step: Ints
    firings: Ints
    matches: Ints

    def between(self, first: int, last: int) -> slice:
        """Return which lie in these ticks, both included."""
        return slice(
            int(np.searchsorted(self.tick, first)), int(np.searchsorted(self.tick, last, side="right"))
        )


@dataclass(frozen=True, slots=True)
class LineMarks:
    """Marks of one line of a rule: ticks in which it held or acted, and ticks in which it was looked at and did not hold."""

    held: Ints
    failed: Ints


_NONE = np.zeros(0, dtype=np.int32)
_NO_RUNS = CardMarks(_NONE, _NONE, _NONE, _NONE)
_EMPTY = Marks(_NONE, _NONE, _NONE, np.zeros(0, dtype=np.int8), np.zeros(0, dtype=bool))


class LaneData:
    """Indexes a trace once, so that painting a lane costs only what is in sight.

    Rules are asked for by their indices in `program`, the level as it is now; the run may be of the level before an edit.
    """

    def __init__(self, run: Run, program: Program | None = None) -> None:
        self.run = run
        self.program = program = program or run.program
        self.ticks = run.done
        then = {rule.source.id: rule.index for rule in run.program.rules}
        self._then = {rule.index: then.get(rule.source.id, -1) for rule in program.rules}
        self._now = {then: now for now, then in self._then.items()}
        tick, position, turn, matches, way = run.trace.columns()
        order = np.argsort(turn, kind="stable")
        self._turns = turn[order]
        fault = (way & Trace.FAULT_MARK) != 0
        plain = way & ~np.int8(Trace.FAULT_MARK)
        self._sorted = Marks(tick[order], position[order], matches[order], plain[order], fault[order])
        self._lanes: dict[int, Marks] = {}
        self._cards: dict[tuple[int, int], CardMarks] | None = None
        self._lines: dict[tuple[int, Part, int], LineMarks] = {}
        self._faults: dict[int, list[int]] = {}
        for told in run.trace.faults:
            self._faults.setdefault(told.rule_index, []).append(told.tick)
        dropped_tick, dropped_turn = run.trace.dropped_columns()
        drop_order = np.argsort(dropped_turn, kind="stable")
        self._dropped_turns = dropped_turn[drop_order]
        self._dropped_ticks = dropped_tick[drop_order]

    def lane(self, rule_index: int) -> Marks:
        """Marks of one rule."""
        rule_index = self._then.get(rule_index, -1)
        found = self._lanes.get(rule_index)
        if found is None:
            low, high = np.searchsorted(self._turns, [rule_index, rule_index + 1])
            s = self._sorted
            found = Marks(
                s.tick[low:high],
                s.position[low:high],
                s.matches[low:high],
                s.way[low:high],
                s.fault[low:high],
            )
            self._lanes[rule_index] = found
        return found

    def line(self, rule_index: int, part: Part, number: int) -> LineMarks:
        """Return when a line of a rule's own level held or acted, and when a condition was looked at and failed.

        Of several occasions it is not known which one came; then none is marked.
        """
        key = rule_index, part, number
        if key not in self._lines:
            self._lines[key] = self._line(rule_index, part, number)
        return self._lines[key]

    def _line(self, rule_index: int, part: Part, number: int) -> LineMarks:
        then = self._then.get(rule_index, -1)
        if then < 0:
            return LineMarks(_NONE, _NONE)
        rule = self.run.program.rules[then]
        if part in ("do", "else"):
            marks = self.lane(rule_index)
            lines = rule.do if part == "do" else rule.else_
            waited = part == "do" and any(line.entry.derived.waits for line in lines[:number])
            way = Way.RESUMED if waited else Way.DO if part == "do" else Way.ELSE
            return LineMarks(np.unique(marks.tick[marks.way == way]), _NONE)
        ticks, looks = self.run.trace.looks_of(then)
        if part == "when":
            came = ticks[looks[:, 0] > 0] if len(rule.when) == 1 else _NONE
            return LineMarks(np.unique(came), _NONE)
        if number + 1 >= looks.shape[1]:
            return LineMarks(_NONE, _NONE)
        asked, passed = looks[:, number] > 0, looks[:, number + 1] > 0
        held = np.unique(ticks[passed])
        return LineMarks(held, np.setdiff1d(ticks[asked & ~passed], held))

    def last_fired(self, rule_index: int | None, tick: int) -> tuple[int, int]:
        """Return how often a rule has fired by a tick, and the tick in which it did so last; 0 and -1 for never."""
        ticks = self.lane(rule_index).tick if rule_index is not None else _NONE
        many = int(np.searchsorted(ticks, tick, side="right"))
        return many, int(ticks[many - 1]) if many else -1

    def card(self, rule_index: int, card: int) -> CardMarks:
        """Return when a card of a graph ran; for an own node's card, when one of its cards did."""
        if self._cards is None:
            self._cards = self._card_marks()
        return self._cards.get((self._then.get(rule_index, -1), card), _NO_RUNS)

    def _card_marks(self) -> dict[tuple[int, int], CardMarks]:
        ticks, runs = self.run.trace.card_columns()
        if not len(ticks):
            return {}
        seen = runs[:, 3].copy()
        for rule in self.run.program.rules:
            for number, origin in rule.graph.origins.items() if rule.graph is not None else ():
                seen[(runs[:, 2] == rule.index) & (runs[:, 3] == number)] = origin.card
        order = np.lexsort((seen, runs[:, 2]))
        keys = np.stack((runs[order, 2], seen[order]), axis=1)
        starts = np.flatnonzero(np.concatenate(([True], np.any(keys[1:] != keys[:-1], axis=1))))
        found: dict[tuple[int, int], CardMarks] = {}
        for start, end in zip(starts, np.append(starts[1:], len(order)), strict=True):
            mine = order[start:end]
            found[int(keys[start, 0]), int(keys[start, 1])] = CardMarks(
                ticks[mine], runs[mine, 0], runs[mine, 1], runs[mine, 5]
            )
        return found

    def faults_without_firing(self, rule_index: int) -> Ints:
        """Return ticks in which the rule had a fault and did not fire: in a condition, or at a bound."""
        faults = self._faults.get(self._then.get(rule_index, -1))
        if not faults:
            return _EMPTY.tick
        return np.setdiff1d(np.unique(np.array(faults, dtype=np.int32)), self.lane(rule_index).tick)

    def dropped(self, rule_index: int) -> Ints:
        """Return ticks at which the rule had candidates and fired for none."""
        rule_index = self._then.get(rule_index, -1)
        low, high = np.searchsorted(self._dropped_turns, [rule_index, rule_index + 1])
        return self._dropped_ticks[low:high]

    def merged(self, rule_indices: tuple[int, ...]) -> Ints:
        """Return ticks at which any of these rules fired."""
        parts = [self.lane(rule_index).tick for rule_index in rule_indices]
        return np.unique(np.concatenate(parts)) if parts else _EMPTY.tick

    def thread(self, tick: int) -> list[tuple[int, int]]:
        """Return the firings of a tick in their order: whose turn and its position; -1 for a rule that is gone."""
        return [(self._now.get(f.rule_index, -1), f.position) for f in self.run.trace.firings_at(tick)]

    def waits(self, rule_index: int, first: int, last: int) -> list[tuple[int, int]]:
        """Return from when to when actions of the rule waited, for firings in these ticks."""
        marks = self.lane(rule_index)
        found: list[tuple[int, int]] = []
        for at in range(*marks.between(first, last).indices(len(marks.tick))):
            tick, position = int(marks.tick[at]), int(marks.position[at])
            found += [
                (tick, due)
                for p, did, due in self.run.trace.effects_at(tick)
                if did is Did.WAITS and p == position
            ]
        return found

    def echoes(self, first: int, last: int) -> list[tuple[int, int, int, int, int, int]]:
        """Messages from their sender to the firings they caused a tick later.

        Each is (tick, turn, position) of the sending and of the hearing firing, for senders in these ticks.
        """
        found: list[tuple[int, int, int, int, int, int]] = []
        program = self.run.program
        messages = list(program.messages)
        for tick in range(max(1, first), min(last, self.ticks - 1) + 1):
            sent = [(p, messages[n]) for p, did, n in self.run.trace.effects_at(tick) if did is Did.SENT]
            if not sent:
                continue
            now, then = self.run.trace.firings_at(tick), self.run.trace.firings_at(tick + 1)
            for position, message in dict.fromkeys(sent):
                listeners = set(program.wakes.get(Heard(message), ()))
                found += [
                    (
                        tick,
                        self._now.get(now[position - 1].rule_index, -1),
                        position,
                        tick + 1,
                        self._now.get(heard.rule_index, -1),
                        heard.position,
                    )
                    for heard in then
                    if heard.rule_index in listeners and heard.way is not Way.RESUMED
                ]
        return found
