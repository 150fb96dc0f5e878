"""The order of rules: which of them touch the same thing in one tick, and whether their order makes a difference.

Found by replaying a run and noting, of each turn, what it reads and writes and of which; only turns that can touch the same thing
(sim/program/touched.py) are noted. That an order makes a difference is shown by running the level with the two exchanged.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import combinations
from typing import Any

import numpy as np
from msgspec.structs import replace

from gatillo.catalogue.contexts.values import Candidates
from gatillo.inspect.comparison import Comparison, compare
from gatillo.inspect.expectations import Verdict, judge
from gatillo.inspect.reasons.journal import SAME_AS
from gatillo.inspect.reasons.reason_words import called, quoted
from gatillo.inspect.state import differences
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Logic, Section
from gatillo.sim.matching.match_table import Matches, table_of
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.program import Program
from gatillo.sim.program.touched import LEVEL, Access, Site, names_of, reads_of, touched_by_line, writes_of
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Did, NullRecorder, Way
from gatillo.sim.world.world import World

IN_NO_ORDER = frozenset({"message", "note", "own", "wait", "chance", "clock", "input", "talk"})
"""What the order within a tick cannot change: a message is heard in the next tick by all, wherever they stand."""
ALL = -1
"""In the place of an object: all objects of a kind, or none."""

Key = tuple[str, str, str]
"""What is touched: what, of which kind ("" for the level), which of several."""
Touched = dict[Key, set[int]]


@dataclass(slots=True)
class OrderFinding:
    """Two entries whose order may matter: one writes what the other reads or writes, of the same object, in one tick."""

    first: int
    """The id of the entry that comes first in the order list."""
    second: int
    names: tuple[str, str]
    what: str
    """The value, in words: `level.pods`, `Pod 3.x`."""
    tick: int
    """The first tick."""
    ticks: int
    """In how many ticks."""
    reads: bool
    """Whether one reads what the other writes; else both write it."""
    difference: Comparison | None = None
    """What the run with the two exchanged has otherwise, once it has been tried."""
    verdicts: int = 0
    """How many expectations come out otherwise then."""
    value: str = ""
    """A value that is another one at the end then, in words; "" if all are the same."""

    @property
    def tried(self) -> bool:
        """Whether the two have been exchanged."""
        return self.difference is not None

    @property
    def harmless(self) -> bool:
        """Whether exchanging them made no difference to any firing or expectation."""
        return self.difference is not None and self.difference.same and not self.verdicts

    def sentence(self) -> str:
        """Return both entries, the value, and what came of exchanging them."""
        one, other = map(quoted, self.names)
        deed = "one writes what the other reads" if self.reads else "both write it"
        many = f"in {self.ticks:,} ticks" if self.ticks != 1 else "in one tick"
        words = f"{one} before {other}: {self.what}, {deed}; first in tick {self.tick}, {many}"
        if self.difference is None:
            return words
        if not self.harmless:
            found = [] if self.difference.same else [self.difference.words()]
            if self.verdicts:
                found.append(f"{self.verdicts} expectation{'s' if self.verdicts != 1 else ''} otherwise")
            return f"{words}. Swapped: {', '.join(found)}"
        why = "in the end all values are the same"
        if self.value:
            why = f"no condition depended on what differs ({self.value})"
        return f"{words}. Harmless: swapped, every firing is the same; {why}"


@dataclass(slots=True)
class _Turn:
    """What a turn has touched in a tick."""

    reads: Touched = field(default_factory=dict)
    writes: Touched = field(default_factory=dict)


class _Order(NullRecorder):
    """Notes what turns read and write in each tick, of what more than one of them can touch."""

    watching = True

    def __init__(self, run: Run) -> None:
        self.run = run
        self.index = run.program.index
        self.world: World | None = None
        self.tick = 0
        self.turns: dict[int, _Turn] = {}
        self.pairs: dict[tuple[int, int], dict[tuple[Key, bool], list[Any]]] = {}
        """By two turns: by what, and whether one reads: first tick, ticks, and whose."""
        self._sites: dict[int, tuple[CompiledLine, list[Site], list[Site]]] = {}
        self._came: list[int] = []
        self.shared = _shared(run)

    def comes(self, executor: Any, rule: CompiledRule) -> None:
        self.world = executor.world

    def tick_begins(self, tick: int) -> None:
        self.close()
        self.tick = tick

    def close(self) -> None:
        """Lay what the turns of the tick that is over have touched beside one another."""
        written = [n for n, t in self.turns.items() if t.writes]
        for one, other in combinations(sorted(self.turns), 2):
            if one not in written and other not in written:
                continue
            a, b = self.turns[one], self.turns[other]
            for reads, mine, theirs in (
                (True, a.writes, b.reads),
                (True, b.writes, a.reads),
                (False, a.writes, b.writes),
            ):
                for key, ids in mine.items():
                    met = _met(ids, theirs.get(key))
                    if met is not None:
                        found = self.pairs.setdefault((one, other), {}).setdefault(
                            (key, reads), [self.tick, 0, met, 0]
                        )
                        if found[3] != self.tick:
                            found[1], found[3] = found[1] + 1, self.tick
        self.turns.clear()

    # what is touched

    def _of(self, rule: CompiledRule) -> _Turn:
        return self.turns.setdefault(rule.index, _Turn())

    def _sites_of(self, rule: CompiledRule, line: CompiledLine) -> tuple[list[Site], list[Site]]:
        kept = self._sites.get(id(line))
        if kept is None:
            names, mine = names_of(self.index, rule), self.shared.get(rule.index, frozenset())
            reads = [
                s for s in _spread(reads_of(names, line)) if _key(s.access)[:1] and _what(s.access) in mine
            ]
            writes = [s for s in writes_of(names, line) if _what(s.access) in mine]
            kept = self._sites[id(line)] = (line, reads, writes)
        return kept[1], kept[2]

    def _note(self, into: Touched, sites: list[Site], table: Matches) -> None:
        assert self.world is not None
        for site in sites:
            ids = into.setdefault(_key(site.access), set())
            role = self.run.program.roles.get(site.role)
            if site.role in table.rows:
                ids.update(self.world.id[table.rows[site.role]].tolist())
            elif role is not None and role.source != "reference":
                # looked for: everybody that it can stand for is asked about
                ids.update(self.world.id[self.world.rows_of(role)].tolist())
            else:
                ids.add(ALL)

    def _note_there(self, rule: CompiledRule, table: Matches) -> None:
        """Record which objects a rule's turn has found to be there."""
        mine = self.shared.get(rule.index, frozenset())
        if "there" not in {what for what, _ in mine}:
            return
        assert self.world is not None
        world, reads = self.world, self._of(rule).reads
        for rows in table.rows.values():
            kinds = world.kind[rows]
            for number in np.unique(kinds).tolist():
                name = world.program.kinds[number].name
                if ("there", name) in mine:
                    ids = world.id[rows[kinds == number]]
                    reads.setdefault(("there", name, ""), set()).update(ids.tolist())

    def yielded(self, rule: CompiledRule, line: CompiledLine, found: Candidates) -> None:
        if rule.index in self.shared and self.world is not None:
            reads, _ = self._sites_of(rule, line)
            table = table_of(found)
            self._note(self._of(rule).reads, reads, table)
            self._note_there(rule, table)

    def asked(self, rule: CompiledRule, line: CompiledLine, before: Matches, after: Matches) -> None:
        if rule.index in self.shared and self.world is not None:
            reads, _ = self._sites_of(rule, line)
            self._note(self._of(rule).reads, reads, before)
            self._note_there(rule, before)
            self._note_there(rule, after)

    def acted(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None:
        came, self._came = self._came, []
        if rule.index not in self.shared or self.world is None:
            return
        reads, writes = self._sites_of(rule, line)
        mine = self._of(rule)
        self._note(mine.reads, reads, acting)
        there = [site for site in writes if site.access.what == "there"]
        self._note(mine.writes, [site for site in writes if site.access.what != "there"], acting)
        for site in there:
            mine.writes.setdefault(_key(site.access), set()).update(came)

    def did(self, what: Did, number: int) -> None:
        if what in (Did.CREATED, Did.REMOVED):
            self._came.append(number)

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        if rule_index in self.shared and ("fired", LEVEL) in self.shared[rule_index]:
            name = self.run.program.rules[rule_index].source.name
            self.turns.setdefault(rule_index, _Turn()).writes.setdefault(("fired", LEVEL, name), set()).add(
                ALL
            )


def _key(access: Access) -> Key:
    return access.what, access.kind, access.named


def _what(access: Access) -> tuple[str, str]:
    return access.what, access.kind


def _spread(sites: list[Site]) -> Iterator[Site]:
    """Reads, with what is worked out of other properties as those."""
    for site in sites:
        for what in SAME_AS.get(site.access.what, (site.access.what,)):
            yield Site(Access(what, site.access.kind, site.access.named), site.role)


def _met(mine: set[int], theirs: set[int] | None) -> int | None:
    """Somebody who is among both; ALL meets everybody."""
    if not theirs or not mine:
        return None
    if ALL in mine:
        return next(iter(theirs))
    if ALL in theirs:
        return next(iter(mine))
    both = mine & theirs
    return min(both) if both else None


def _shared(run: Run) -> dict[int, frozenset[tuple[str, str]]]:
    """Return for each rule what of the things it touches another rule touches too, one of them writing it."""
    index, turns = run.program.index, run.program.rules
    reads: dict[int, set[tuple[str, str]]] = {}
    writes: dict[int, set[tuple[str, str]]] = {}
    for rule in turns:
        names = names_of(index, rule)
        reads[rule.index], writes[rule.index] = set(), {("fired", LEVEL)}
        for line in every_step(rule):
            touched = touched_by_line(names, line)
            for access in touched.reads:
                for what in SAME_AS.get(access.what, (access.what,)):
                    reads[rule.index].add((what, access.kind))
            writes[rule.index] |= {_what(a) for a in touched.writes}
    counts: dict[tuple[str, str], tuple[set[int], set[int]]] = {}
    for side, touched_by in enumerate((reads, writes)):
        for position, whats in touched_by.items():
            for each in whats:
                counts.setdefault(each, (set(), set()))[side].add(position)
    found: dict[int, set[tuple[str, str]]] = {}
    for each, (readers, writers) in counts.items():
        if each[0] in IN_NO_ORDER or not writers or len(readers | writers) < 2:
            continue
        for position in readers | writers:
            found.setdefault(position, set()).add(each)
    return {position: frozenset(whats) for position, whats in found.items()}


def order_findings(run: Run, between: Callable[[], None] = lambda: None) -> list[OrderFinding]:
    """Return every two entries whose order may matter in a run, those that meet in the most ticks first; none of them tried yet.

    `between` is called between ticks; what it raises ends the search.
    """
    noted = _Order(run)
    if run.done and noted.shared:
        run.replay(1, run.done, noted, between)
        noted.close()
    found = []
    for (one, other), things in noted.pairs.items():
        first, second = run.program.rules[one].source, run.program.rules[other].source
        (key, reads), (tick, ticks, whose, _) = min(
            things.items(), key=lambda item: (not item[0][1], item[1][0], -item[1][1])
        )
        found.append(
            OrderFinding(
                first.id, second.id, (first.name, second.name), _words(run, key, whose), tick, ticks, reads
            )
        )
    return sorted(found, key=lambda f: (not f.reads, -f.ticks, f.tick, f.first, f.second))


def _words(run: Run, key: Key, whose: int) -> str:
    what, kind, named = key
    name = named if what == "variable" else "presence" if what == "there" else f"{what} {named}".strip()
    if kind == LEVEL:
        return f"level.{name}" if what == "variable" else name
    owner = called(run, whose) if whose != ALL else kind
    return f"{owner}.{name}"


# exchanging


def exchanged(level: Level, first: int, second: int) -> Level:
    """Return the level with two entries of its order list in one another's places. Raises LookupError for one that is not there."""
    found = {e.id: e for e in _entries(level) if e.id in (first, second)}
    if len(found) != 2:
        raise LookupError("one of the two is not in the order list any more")
    other = {first: found[second], second: found[first]}

    def swapped(entry: Logic) -> Logic:
        return other.get(entry.id, entry)

    order = tuple(
        replace(e, rules=tuple(map(swapped, e.rules))) if isinstance(e, Section) else swapped(e)
        for e in level.order
    )
    return replace(level, order=order)


def _entries(level: Level) -> Iterator[Logic]:
    for entry in level.order:
        if isinstance(entry, Section):
            yield from entry.rules
        else:
            yield entry


def swap(
    level: Level,
    run: Run,
    finding: OrderFinding,
    verdicts: list[Verdict] | None = None,
    stop: Callable[[], bool] = lambda: False,
) -> Run:
    """Run the level, as this run was made of it, with the two exchanged, and note in the finding what differs.

    `verdicts` are those of the run, where they are known. Raises LookupError where one of the two is not there any more.
    """
    made = Program(as_tried(exchanged(level, finding.first, finding.second), run.trial))
    other = Run(made, run.trial)
    other.script = run.script
    other.advance(run.done, stop)
    finding.difference = compare(run, other)
    before, after = judge(run) if verdicts is None else verdicts, judge(other)
    finding.verdicts = sum(a.outcome != b.outcome for a, b in zip(before, after, strict=True))
    parted = next(differences(run.world, other.world), None)
    finding.value = (
        "" if parted is None else f"{parted.name} is {parted.before}, and {parted.after} if they are swapped"
    )
    return other


def ranked(findings: list[OrderFinding]) -> list[OrderFinding]:
    """Return those that change a firing first, then those not tried, then the harmless."""
    return sorted(findings, key=lambda f: 0 if f.tried and not f.harmless else 1 if not f.tried else 2)


def free_to_move(run: Run, findings: list[OrderFinding], rule_id: int) -> tuple[int, int]:
    """Return how far up and down an entry may go without any difference in this run: the first and the last place in turns, from 0.

    It may pass every entry with which it has no finding. Raises LookupError for one that is not there.
    """
    ids = [rule.source.id for rule in run.program.rules]
    if rule_id not in ids:
        raise LookupError(f"there is no entry with the number {rule_id}")
    here = ids.index(rule_id)
    tied = {
        ids.index(other)
        for f in findings
        for mine, other in ((f.first, f.second), (f.second, f.first))
        if mine == rule_id and other in ids
    }
    first = max((at + 1 for at in tied if at < here), default=0)
    last = min((at - 1 for at in tied if at > here), default=len(ids) - 1)
    return first, last
