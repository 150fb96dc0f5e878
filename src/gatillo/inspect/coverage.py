"""Coverage: which rules, occasions, conditions, actions, cards and wires the trials of a level reach.

It is read off the traces of whole runs. Counts of several runs, of several trials, are added.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, cast

import numpy as np

from gatillo.graphs.outline import card_words
from gatillo.language.sentence import sentence
from gatillo.level.edits import as_tried, every_line, place_of
from gatillo.level.model import Graph, Level, Rule
from gatillo.level.naming import spoken
from gatillo.level.own_behaviours import own_behaviours, uses_of
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Trace, Way

State = Literal["switched off", "never looked at", "never passed", "never acted", "acted"]
"""How far a trial came with something: its rule is switched off in every trial; its occasion never came, or no line above it let
anything through; it was looked at and let nothing through; it let something through and nothing was done; something was done."""
Sort = Literal["rule", "occasion", "condition", "action", "else", "card", "output", "behaviour"]


@dataclass(slots=True)
class Hits:
    """What runs reached of one rule or graph, by its id."""

    on: bool = False
    """Whether it was switched on in some run."""
    looks: int = 0
    """Turns with candidates."""
    fired: int = 0
    else_: int = 0
    lines: set[str] = field(default_factory=set)
    """Occasions that came and actions that were done, by their place: `when 1`, `do 3.1`."""
    passed: dict[int, int] = field(default_factory=dict)
    """By condition, from 0: in how many turns something passed it."""
    failed: dict[int, int] = field(default_factory=dict)
    """By condition: in how many turns something did not."""
    joins: set[int] = field(default_factory=set)
    """Conditions that bring in objects: of those it is not known whether they kept something back where something passed."""
    cards: set[int] = field(default_factory=set)
    """Cards that ran for some match, by number."""
    outputs: set[str] = field(default_factory=set)
    """Outputs that carried matches: `3.yes`."""

    def add(self, other: Hits) -> None:
        """Add what other runs reached."""
        self.on |= other.on
        self.looks += other.looks
        self.fired += other.fired
        self.else_ += other.else_
        self.lines |= other.lines
        self.joins |= other.joins
        self.cards |= other.cards
        self.outputs |= other.outputs
        for mine, theirs in ((self.passed, other.passed), (self.failed, other.failed)):
            for at, many in theirs.items():
                mine[at] = mine.get(at, 0) + many


@dataclass(frozen=True, slots=True)
class Covered:
    """One thing that trials can reach, and how far they came with it."""

    rule: int
    """The id of its rule or graph; 0 for a behaviour."""
    name: str
    """The name of its rule, graph or kind."""
    sort: Sort
    place: str
    """Where it is, as `if 2`, `do 3.1`, `card 4`, `card 4 yes`; empty for a whole rule."""
    words: str
    state: State
    both: bool | None = None
    """For a condition: whether it both let something through and kept something back; None for everything else."""
    one_way: str = ""
    """For a condition that went one way only: which."""

    @property
    def parts(self) -> tuple[int, int]:
        """How many of how many ways were reached: a condition has two."""
        if self.sort == "condition" and self.both is not None:
            reached = 2 if self.both else 1 if self.one_way else 0
            return reached, 2
        return int(self.state == "acted"), 1

    @property
    def whole(self) -> bool:
        """Whether every way of it was reached."""
        return self.parts[0] == self.parts[1]

    def sentence(self) -> str:
        """Return what it is and what was not reached of it, in a line."""
        if self.sort == "rule":
            return f"“{self.name}”: {self.state}"
        if self.sort == "behaviour":
            return f"{self.name}, behaviour {spoken(self.place)}: no object had it switched on"
        return f"“{self.name}”, {self.place}: {self.one_way or self.state}: {self.words}"

    @property
    def counts(self) -> bool:
        """Whether it counts: not what is switched off in every trial."""
        return self.state != "switched off"


Coverage = dict[int, Hits]
"""What runs reached, by the id of the rule or graph; behaviours under the numbers of `behaviour_key`."""


def behaviour_key(kind: str, use: str) -> str:
    """Return under which name a kind's behaviour is in `had`."""
    return f"{kind}: {use}"


@dataclass(slots=True)
class Reached:
    """All that some runs reached; can be sent from process to process."""

    hits: Coverage = field(default_factory=dict)
    had: set[str] = field(default_factory=set)
    """Behaviours that some object had switched on, at the start or the end of a run, or when it was created."""

    def add(self, other: Reached) -> None:
        """Add what other runs reached."""
        for number, hits in other.hits.items():
            self.hits.setdefault(number, Hits()).add(hits)
        self.had |= other.had


def reached_by(run: Run) -> Reached:
    """Return what a whole run reached. The trace must be that of the run from its start."""
    found = Reached()
    trace = run.trace
    _, _, turns, _, way = trace.columns()
    _, ran = trace.card_columns()
    drawn = {e.id: e for _, _, e in all_logic(run.program.level) if isinstance(e, Graph)}
    for rule in run.program.rules:
        hits = found.hits.setdefault(rule.source.id, Hits())
        hits.on |= rule.on or rule.source.name in run.world.rules.switched
        mine = turns == rule.index
        ways = way[mine] & ~Trace.FAULT_MARK
        hits.fired = int(np.count_nonzero(ways == Way.DO))
        hits.else_ = int(np.count_nonzero(ways == Way.ELSE))
        _looks(hits, trace, rule)
        if rule.graph is not None:
            mine_ran = ran[(ran[:, 2] == rule.index) & (ran[:, 5] > 0)]
            _cards(found, hits, rule, drawn.get(rule.source.id), mine_ran)
        else:
            _lines(hits, trace, rule)
    _behaviours(found, run)
    return found


def _looks(hits: Hits, trace: Trace, rule: CompiledRule) -> None:
    _, counts = trace.looks_of(rule.index)
    hits.looks = len(counts)
    for at in range(counts.shape[1] - 1 if len(counts) else 0):
        before, after = counts[:, at], counts[:, at + 1]
        asked = before > 0
        hits.passed[at] = int(np.count_nonzero(asked & (after > 0)))
        hits.failed[at] = int(np.count_nonzero(asked & (after < before)))
    there = {role for line in rule.when for role in line.roles}
    for at, line in enumerate(rule.if_):
        if line.brings and not there.issuperset(line.roles):
            hits.joins.add(at)
        there.update(line.roles)


def _lines(hits: Hits, trace: Trace, rule: CompiledRule) -> None:
    reached = trace.lines_reached
    for at, line in enumerate(rule.when):
        alone = len(rule.when) == 1 and (hits.looks or hits.fired or hits.else_)
        if alone or line.identity in reached:
            hits.lines.add(place_of("when", (at,)))
    for part, lines, begun in (("do", rule.do, hits.fired), ("else", rule.else_, hits.else_)):
        hits.lines.update(place_of(part, path) for path in _done(lines, bool(begun), reached))


def _done(
    lines: tuple[CompiledLine, ...], begun: bool, reached: dict[int, None], before: tuple[int, ...] = ()
) -> Iterator[tuple[int, ...]]:
    """Yield the places of the lines that were done: from where a list was begun to the next wait, also within lines."""
    going = begun
    for at, line in enumerate(lines):
        going |= line.identity in reached
        if going:
            yield (*before, at)
        if line.of:
            yield from _done(line.of, False, reached, (*before, at))
        if line.entry.derived.waits:
            going = False


def _cards(found: Reached, hits: Hits, rule: CompiledRule, drawn: Graph | None, ran: Any) -> None:
    graph = rule.graph
    assert graph is not None
    for number in np.unique(ran[:, 3]).tolist():
        origin = graph.origins.get(number)
        hits.cards.add(number if origin is None else origin.card)
        if origin is not None:
            # the own node's own page shows it too
            inner = found.hits.setdefault(origin.graph, Hits())
            inner.on = True
            inner.cards.add(origin.number)
    wires = drawn.wires if drawn is not None else ()
    for wire in np.unique(ran[:, 4]).tolist():
        number = wire if graph.wire_of is None or wire < 0 else graph.wire_of[wire]
        if 0 <= number < len(wires):
            hits.outputs.add(_output(wires[number].start))
        elif 0 <= wire < len(graph.graph.wires):
            begins, _, port = graph.graph.wires[wire].start.partition(".")
            inner_card = graph.origins.get(int(begins))
            if inner_card is not None and port:
                found.hits[inner_card.graph].outputs.add(f"{inner_card.number}.{port}")
    if graph.drawn is not None:
        for number in hits.cards:
            part, line = graph.drawn.lines.get(number, ("", 0))
            hits.lines.add(place_of(part, (line,)))


def _output(start: str) -> str:
    number, _, port = start.partition(".")
    return f"{number}.{port}" if port else number


def _behaviours(found: Reached, run: Run) -> None:
    program, world = run.program, run.world
    first = run.world_at(run.end_of(0))
    created = {program.kinds[k].name for k in world.created_of.values()}
    for behaviour in program.behaviours:
        kind = program.kinds[behaviour.kind].name
        there = any(
            bool(one.variables[behaviour.on][one.rows_of_kind(behaviour.kind)].any())
            for one in (first, world)
        )
        if there or kind in created:
            found.had.add(behaviour_key(kind, behaviour.entry.name))


# what there is


def covered(level: Level, reached: Reached) -> list[Covered]:
    """Return everything of a level that trials can reach, in the order of the order list, then behaviours, and how far they came."""
    found: list[Covered] = []
    for _, _, entry in all_logic(level):
        hits = reached.hits.get(entry.id, Hits())
        if isinstance(entry, Graph):
            found += _of_graph(entry, hits)
        else:
            found += _of_rule(entry, hits)
    known = own_behaviours(level)
    for kind in level.kinds:
        for behaviour in kind.behaviours:
            key = behaviour_key(kind.name, behaviour.use)
            state: State = "acted" if key in reached.had else "never looked at"
            words = sentence(behaviour)
            found.append(Covered(0, kind.name, "behaviour", behaviour.use, words, state))
        for use in uses_of(kind, known):
            section_of = known.get(use.use)
            fired = section_of is not None and any(
                reached.hits.get(entry.id, Hits()).fired for entry in section_of.rules
            )
            state = "acted" if fired else "never looked at"
            found.append(Covered(0, kind.name, "behaviour", use.use, use.use, state))
    return found


def _of_rule(rule: Rule, hits: Hits) -> Iterator[Covered]:
    yield Covered(rule.id, rule.name, "rule", "", rule.name, _state_of(hits))
    if not hits.on:
        return

    def done(place: str) -> State:
        return "acted" if place in hits.lines else "never looked at"

    for at, clause in enumerate(rule.when):
        place = place_of("when", (at,))
        yield Covered(rule.id, rule.name, "occasion", place, sentence(clause), done(place))
    for at, clause in enumerate(rule.if_):
        place = place_of("if", (at,))
        passed, failed = hits.passed.get(at, 0), hits.failed.get(at, 0)
        # of a rule that speaks of own nodes it is only known that something passed
        by_card = place in hits.lines and not (passed or failed)
        one_way_only = by_card or (passed > 0 and not failed and at in hits.joins)
        state: State = "acted" if passed or by_card else "never passed" if failed else "never looked at"
        one_way = "it always holds" if passed else "it never holds" if failed else ""
        both = None if one_way_only else bool(passed and failed)
        words = sentence(clause)
        yield Covered(
            rule.id,
            rule.name,
            "condition",
            place,
            words,
            state,
            both,
            "" if both or one_way_only else one_way,
        )
    for part, sort, clauses in (("do", "action", rule.do), ("else", "else", rule.else_)):
        for path, clause in every_line(clauses):
            place = place_of(part, path)
            yield Covered(rule.id, rule.name, cast(Sort, sort), place, sentence(clause), done(place))


def _state_of(hits: Hits) -> State:
    if not hits.on:
        return "switched off"
    if hits.fired or hits.else_:
        return "acted"
    return "never passed" if hits.looks else "never looked at"


def _of_graph(graph: Graph, hits: Hits) -> Iterator[Covered]:
    state: State = (
        "switched off" if not hits.on else "acted" if hits.fired or hits.cards else "never looked at"
    )
    yield Covered(graph.id, graph.name, "rule", "", graph.name, state)
    if not hits.on:
        return
    ends = {_output(wire.start) for wire in graph.wires}
    for node in graph.nodes:
        ran = node.id in hits.cards
        if not _carries_matches(graph, node.id):
            continue
        words = card_words(node)
        how: State = "acted" if ran else "never looked at"
        yield Covered(graph.id, graph.name, "card", f"card {node.id}", words, how)
        outputs = sorted(end for end in ends if end.partition(".")[0] == str(node.id) and "." in end)
        for end in outputs:
            how = "acted" if end in hits.outputs else "never passed" if ran else "never looked at"
            port = end.partition(".")[2]
            yield Covered(graph.id, graph.name, "output", f"card {node.id} {port}", words, how)


def _carries_matches(graph: Graph, number: int) -> bool:
    """Return whether a signal wire leads to a card or from it: others only hold values, or do nothing."""
    return any(str(number) in (w.start.partition(".")[0], w.end.partition(".")[0]) for w in graph.wires)


def totals(found: Iterable[Covered]) -> tuple[int, int]:
    """Return how many of how many ways were reached, of what counts."""
    pairs = [one.parts for one in found if one.counts]
    return sum(reached for reached, _ in pairs), sum(many for _, many in pairs)


def missed(found: Sequence[Covered]) -> list[Covered]:
    """Return what was not reached whole, without the lines of rules that were never looked at: their rule says it already."""
    rules = {one.rule: one.state for one in found if one.sort == "rule"}

    def said_already(one: Covered) -> bool:
        state = rules.get(one.rule)
        if one.sort == "rule" or state is None:
            return False
        return state == "never looked at" or (state == "never passed" and one.sort in ("action", "else"))

    return [one for one in found if one.counts and not one.whole and not said_already(one)]


def run_trials(level: Level, go_on: Callable[[str], None] = lambda name: None) -> Reached:
    """Return what all trials of a level reach, each run once at the level's rate; `go_on` is called between ticks with its name.

    What `go_on` raises ends it.
    """
    found = Reached()
    for trial in level.trials:
        run = Run(Program(as_tried(level, trial)), trial)

        def stop(name: str = trial.name) -> bool:
            go_on(name)
            return False

        run.advance(stop=stop)
        found.add(reached_by(run))
    return found
