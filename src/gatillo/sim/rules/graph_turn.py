"""A graph's turn: matches run along its wires, depth first, by the same executor as the lines of rules.

What the cards that only graphs have do when matches reach them is in card_runs.py; it is declared by `runs` and `watches`.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any

import numpy as np

from gatillo.catalogue.cards.graph_cards import (
    ALL_MATCHES,
    EACH_MATCH,
)
from gatillo.catalogue.contexts.values import Candidates
from gatillo.formula.values import spread
from gatillo.sim.matching.match_table import (
    Matches,
    TooManyMatches,
    View,
    join_role,
    keys_of,
    union,
)
from gatillo.sim.program.compiled_graph import CompiledCard, CompiledGraph
from gatillo.sim.program.compiled_line import CompiledLine, Part
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.rules.action_executor import ActionExecutor
from gatillo.sim.rules.created import (
    Made,
    brought_together,
    created_before,
    created_for,
    is_new,
    same_units,
)
from gatillo.sim.rules.pair_join import nobody_near
from gatillo.sim.rules.straight_graph import found_by
from gatillo.sim.rules.work import A_CARD, A_CROWD, A_KEY, FREE_CARDS, TooMuchWork
from gatillo.sim.trace.trace import Way

MOST_CARDS = 200_000
"""Cards that a graph's turn may run."""
MOST_KEPT = 200_000
"""Matches that a card keeps something for."""
Ids = tuple[tuple[str, tuple[int, ...]], ...]
"""What was created for a match, between ticks: by role token, the ids of the objects."""
_Way = tuple[int, str, int, Matches, Made, bool]
"""A card that is to run, its input, by which wire, with which matches, what has been created for them, and whether again."""
Parts = list[tuple[str, Matches]]
"""What a card hands on, by output, in the order in which it is followed."""
RunCard = Callable[["GraphTurn", CompiledCard, str, Matches], Parts]
WatchCard = Callable[["GraphTurn", CompiledCard], None]
RUNS: dict[str, RunCard] = {}
"""By card: what it does when matches reach it."""
WATCHES: dict[str, WatchCard] = {}
"""By card: what it does in each turn though nothing reaches it."""


def runs(card: str) -> Callable[[RunCard], RunCard]:
    """Declare what a card does when matches reach it: `run(turn, card, entered, table)` gives what it hands on."""

    def declare(run: RunCard) -> RunCard:
        RUNS[card] = run
        return run

    return declare


def watches(card: str) -> Callable[[WatchCard], WatchCard]:
    """Declare what a card does in each turn though nothing reaches it: `watch(turn, card)`."""

    def declare(watch: WatchCard) -> WatchCard:
        WATCHES[card] = watch
        return watch

    return declare


class GraphTurn:
    """One turn of a graph, or what goes on in it after a wait."""

    def __init__(self, executor: ActionExecutor, rule: CompiledRule) -> None:
        assert rule.graph is not None
        self.executor = executor
        self.world = executor.world
        self.rule = rule
        self.graph: CompiledGraph = rule.graph
        self.ran = 0
        self.hops = 0
        """Of those, cards that only hand on."""
        self.acted = False
        """Whether the firing has begun: with the first action, or a card that says so."""
        self.way = Way.DO
        self.passed: list[int] = []
        self.fired = 0
        self.begun: dict[int, dict[Any, Ids]] = {}
        """By card that reports changes: the matches that have reached it in this turn."""
        self.gathered: dict[int, list[tuple[Matches, Made]]] = {}
        """By card that gathers: what has come to it in this turn, and has not been handed on."""
        self.come: dict[int, list[tuple[Matches, Made]]] = {}
        """By card that waits for two inputs: what has come to it in this turn."""
        self.apart: list[tuple[CompiledCard, Matches, Made]] = []
        """What is to be a firing of its own, reported as “else”, after the one at hand."""
        self.made: Made = {}
        """What has been created for the matches at hand."""
        self.world.caches.pulled.clear()

    # from where it starts

    def take(self) -> None:
        """Take the graph's turn: beats that are due, its occasions by their numbers, and what has ended."""
        cards, watchful = self.graph.cards, self.graph.watchful
        for number in watchful:
            self.watch(cards[number], "before")
        for number in self.graph.occasions:
            self.occasion(cards[number])
        for number in watchful:
            self.watch(cards[number], "after")
        if self.gathered:
            self.hand_together(Way.DO)

    def watch(self, card: CompiledCard, when: str) -> None:
        """Run a card that acts though nothing reaches it, before or after the occasions."""
        if card.card is not None and card.card.watches == when:
            WATCHES[card.node.use](self, card)

    def occasion(self, card: CompiledCard) -> None:
        """An occasion, and all that it leads to."""
        screen = self.rule.screen
        if screen is not None and not self.executor.recorder.watching and self.world.caches.given is None:
            many = nobody_near(self.world, screen)
            if many:
                for number, wire in screen.ran:
                    self.executor.card_ran(self.rule, number, many, wire)
                self.executor.recorder.looked(self.rule.index, many, [0] * screen.passed, 0)
                return
        table = found_by(self.executor, self.rule, self.graph, card)
        if table is not None:
            self.start(card, "then", table, Way.DO, {})

    def resume(self, part: Part, action: int, table: Matches, made: Made) -> None:
        """Go on after a wait, which is a line among the actions."""
        card = self.graph.cards[self.graph.actions[part][action]]
        self.start(card, "after", table, Way.RESUMED, made)
        self.hand_together(Way.RESUMED)

    def hand_together(self, way: Way) -> None:
        """Hand on what has come to the cards that gather, by their numbers."""
        while self.gathered:
            card = self.graph.cards[min(self.gathered)]
            parts = self.gathered.pop(card.node.id)
            try:
                table = union(self.world, [Candidates(some.n, dict(some.rows)) for some, _ in parts])
            except TooManyMatches as error:
                self.fault(card, 1, str(error))
                continue
            made: Made = {}
            if any(of_part for _, of_part in parts):
                table = Matches(table.n, table.rows, None, same_units(table))
                made = brought_together(parts)
            self.start(card, "then", table, way, made)

    def start(self, card: CompiledCard, output: str, table: Matches, way: Way, made: Made) -> None:
        """All that an output leads to: a firing, if an action is among it, and then what is to be one of its own."""
        self.lead(card, output, table, way, made)
        while self.apart:
            card, table, made = self.apart.pop(0)
            self.lead(card, "then", table, Way.ELSE, made)

    def lead(self, card: CompiledCard, output: str, table: Matches, way: Way, made: Made) -> None:
        """One firing, if it leads to an action: all that an output leads to."""
        if not table.n:
            return
        self.acted, self.way, self.passed, self.fired = False, way, [], 0
        self.executor.matcher.gone = {}
        if self.graph.gathers:
            before, kept = self.ran - self.hops, sum(map(len, self.gathered.values()))
            self.run(card, output, table, made)
            only_kept = 0 < self.ran - self.hops - before == sum(map(len, self.gathered.values())) - kept
        else:
            only_kept = False
            self.run(card, output, table, made)
        drawn = self.graph.drawn
        if drawn is not None and len(self.passed) < len(drawn.answers):
            # the condition that no match has passed
            self.passed.append(0)
        if way is Way.DO and not only_kept:
            self.executor.recorder.looked(self.rule.index, table.n, self.passed, self.fired)
        if self.acted:
            self.executor.fired()

    def begin(self, table: Matches) -> None:
        """The firing begins, if it has not yet."""
        if not self.acted:
            self.acted, self.fired = True, table.n
            self.executor.begins(self.rule, table, self.way)

    def run(self, card: CompiledCard, output: str, table: Matches, made: Made) -> None:
        """Run along the wires, depth first, in their order."""
        executor, cards = self.executor, self.graph.cards
        ahead: list[_Way] = []
        _follow(ahead, card, [(output, table)], made)
        straight: _Way | None = None
        while ahead or straight is not None:
            if straight is None:
                straight = ahead.pop()
            number, entered, wire, some, with_made, anew = straight
            straight = None
            following = cards[number]
            self.ran += 1
            if self.ran > MOST_CARDS:
                self.fault(
                    following, 1, f"no more than {MOST_CARDS:,} cards are run in a turn; the rest is left out"
                )
                return
            if self.ran > FREE_CARDS:
                try:
                    executor.work.add(A_CARD)
                except TooMuchWork as error:
                    self.fault(following, 1, str(error))
                    return
            if anew:
                # what was removed for the match before is not spoken of any more
                executor.matcher.gone = {}
            line = following.line
            if line is None:
                self.made = with_made
                parts = self.control(following, entered, some)
                executor.card_ran(self.rule, number, some.n, wire)
                _follow(ahead, following, parts, self.made, following.words.get("takes") == "one at a time")
            elif line.part == "if":
                parts = self.part(following, line, some, with_made)
                executor.card_ran(self.rule, number, some.n, wire)
                if len(parts) == 1:
                    straight = _only(following, *parts[0], with_made)
                if straight is None:
                    _follow(ahead, following, parts, with_made)
            else:
                self.ran += following.chained - 1
                new = self.act(following, line, some, with_made, wire)
                last = cards[following.chain_end]
                if last.outputs:
                    straight = _only(last, "then", some, new)
                    if straight is None:
                        _follow(ahead, last, [("then", some)], new)

    # cards of the catalogue

    def part(self, card: CompiledCard, line: CompiledLine, table: Matches, made: Made) -> Parts:
        """Return a condition or a pick: those that pass it and the others."""
        executor = self.executor
        yes_port, no_port = card.ports.outputs
        try:
            table = self.with_made((line,), table, made)
            if no_port not in card.outputs:
                passes = executor.matcher.filter_by(self.rule, line, table)
                self.note_passed(line, passes.n)
                return [(yes_port, passes)]
            passes, failed = executor.matcher.both_ways(self.rule, (line,), table, [])
        except TooManyMatches as error:
            executor.matcher.fault(self.rule, line, 1, str(error))
            return []
        # who goes on: where only the other side is wired, as with a negated condition
        going_on = passes.n if card.outputs.get(yes_port) else sum(some.n for some in failed)
        self.note_passed(line, going_on)
        return [(yes_port, passes), *((no_port, some) for some in failed)]

    def with_made(self, lines: tuple[CompiledLine, ...], table: Matches, made: Made) -> Matches:
        """Return the table with the created objects of which conditions speak: they are there, and are not looked for."""
        new = tuple(role for line in lines for role in line.roles if is_new(role) and role not in table.rows)
        return self.executor.matcher.with_roles(new, lines[0], table, made) if new else table

    def note_passed(self, line: CompiledLine, many: int) -> None:
        """Count how many passed a condition, at its place among the graph's conditions."""
        if self.graph.drawn is None:
            self.count(line.number, many)

    def count(self, place: int, many: int) -> None:
        """Count how many passed the condition at this index among the graph's conditions."""
        if place == len(self.passed):
            self.passed.append(many)
            return
        missing = place + 1 - len(self.passed)
        self.passed.extend([0] * missing)
        self.passed[place] += many

    def act(self, card: CompiledCard, line: CompiledLine, table: Matches, made: Made, wire: int) -> Made:
        """Return an action over its matches, and those that follow it alone; the first of an occasion makes it a firing."""
        self.begin(table)
        block, stop = self.rule.block(line.part), line.number + card.chained
        return self.executor.perform(self.rule, line.part, block, table, line.number, made, stop, wire)

    # cards that only graphs have

    def fault(self, card: CompiledCard, count: int, sentence: str) -> None:
        """Record that a card had no answer for some matches, or went beyond a bound."""
        self.executor.matcher.card_fault(self.rule, card.node.id, count, sentence)

    def teller(self, card: CompiledCard) -> Callable[[int, str], None]:
        """Return a `(count, message)` callback that reports a fault of this card."""
        return lambda count, sentence: self.fault(card, count, sentence)

    def values(self, card: CompiledCard, slot: str, table: Matches) -> tuple[Matches, Any]:
        """Return a slot's value for each match; matches without an answer are left out, with a fault."""
        formula = card.formulas[slot]
        roles = tuple(role for role in formula.roles if role not in table.rows)
        for role in roles:
            named = self.executor.program.roles[role]
            if named.new:
                table = self.executor.matcher.with_new(named, table, self.made)
            else:
                table = join_role(self.world, table, named)
        view = View(self.world, table, card.identity)
        found = formula.evaluate(view)
        for where, sentence in view.faults:
            self.fault(card, int(where.sum()), sentence)
        bad = view.faulted()
        values = spread(found, table.n)
        return (table, values) if bad is None else (table.take(~bad), values[~bad])

    def control(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        """Return what a card that only graphs have hands on, by output."""
        try:
            if table.n > A_CROWD and card.card is not None and card.card.keeps:
                table = self.bounded(card, table)
            return RUNS[card.node.use](self, card, entered, table)
        except TooManyMatches as error:
            self.fault(card, 1, str(error))
            return []

    def bounded(self, card: CompiledCard, table: Matches) -> Matches:
        """Return at most as many matches as a card may remember; more are a fault."""
        if table.n > MOST_KEPT:
            self.too_many(card, table.n - MOST_KEPT)
            table = table.take(np.arange(MOST_KEPT))
        self.executor.work.add_matches(table.n, A_KEY)
        return table

    def memory(self, card: CompiledCard) -> dict[Any, Any]:
        """Return what a card remembers: of most cards, by the roles of the matches and then by their keys."""
        return self.world.rules.cards.get(card.key, {})

    def remember(self, card: CompiledCard, values: dict[Any, Any]) -> None:
        """Replace what a card remembers."""
        self.world.rules.cards[card.key] = values

    def remember_for(self, card: CompiledCard, roles: tuple[str, ...], values: dict[Any, Any]) -> None:
        """Replace what a card remembers for matches of these roles; what goes beyond the bound is left out, with a fault."""
        memory = {**self.memory(card), roles: values}
        more = sum(map(len, memory.values())) - MOST_KEPT
        if more > 0:
            self.too_many(card, more)
            memory[roles] = dict(list(values.items())[: max(0, len(values) - more)])
        self.remember(card, memory)

    def too_many(self, card: CompiledCard, more: int) -> None:
        """Record that a card would have to remember more matches than it may."""
        self.fault(card, more, f"a card remembers no more than {MOST_KEPT:,} matches; {more:,} are left out")

    def keys(self, card: CompiledCard, table: Matches) -> tuple[tuple[str, ...], list[Hashable]]:
        """Return the keys by which a card remembers something for each match: its objects, one of them, or none if it is for all."""
        per = card.words.get("per", EACH_MATCH)
        if per == EACH_MATCH and table.rows:
            return tuple(sorted(table.rows)), keys_of(self.world, table)
        if per in table.rows:
            return (per,), list(self.world.id[table.rows[per]].tolist())
        if per not in (EACH_MATCH, ALL_MATCHES):
            self.fault(card, table.n, f"no “{per}” has come with these matches")
        return (), [None] * table.n

    def a_tick_ago(self, card: CompiledCard) -> dict[Any, Ids]:
        """Return what came to a card that reports changes in the tick before this one, with what was created for each."""
        memory = self.memory(card)
        last = self.world.tick - 1
        if memory.get("tick") == last:
            return memory["came"]  # type: ignore[no-any-return]
        return memory.get("before", {}) if memory.get("tick") == self.world.tick else {}

    def matches_of(self, table: Matches) -> list[tuple[tuple[str, ...], Hashable]]:
        """Return keys for matches that a card hands on later: their roles, since several sorts may come, and their objects."""
        roles = tuple(table.rows)
        return [(roles, key) for key in keys_of(self.world, table)]

    def created_ids(self, table: Matches) -> list[Ids]:
        """Return what has been created for each match of a table, by ids, so that it can be remembered between ticks."""
        if not self.made:
            return [()] * table.n
        found: list[list[tuple[str, tuple[int, ...]]]] = [[] for _ in range(table.n)]
        for role in self.made:
            at, rows = created_for(self.made, role, table)
            ids = self.world.id[rows]
            for place in range(table.n):
                found[place].append((role, tuple(ids[at == place].tolist())))
        return [tuple(one) for one in found]

    def table_of_keys(
        self, roles: tuple[str, ...], keys: list[Any], created: list[Ids]
    ) -> tuple[Matches, Made]:
        """Return remembered matches as a table in the order of age, and what was created for them.

        A match of which an object was removed is left out.
        """
        if not roles:
            order = np.arange(len(keys))
            table = Matches(len(keys), {})
        else:
            columns = (
                [keys] if len(roles) == 1 else list(zip(*keys, strict=True)) if keys else [()] * len(roles)
            )
            # keys stand in the order of the roles' names
            found = {
                role: self.world.rows_of_ids(np.array(column, dtype=np.int64))
                for role, column in zip(sorted(roles), columns, strict=True)
            }
            rows = {role: found[role] for role in roles}
            there = np.ones(len(keys), dtype=bool)
            for mine in rows.values():
                there &= mine >= 0
            order = np.lexsort([rows[role] for role in reversed(roles)])
            order = order[there[order]]
            table = Matches(len(keys), rows).take(order)
        if not any(created):
            return table, {}
        unit = np.arange(table.n)
        by_role: dict[str, tuple[list[int], list[int]]] = {}
        for place, at in enumerate(order.tolist()):
            for role, ids in created[at]:
                positions, all_ids = by_role.setdefault(role, ([], []))
                positions += [place] * len(ids)
                all_ids += ids
        made: Made = {}
        for role, (positions, all_ids) in by_role.items():
            rows_there = self.world.rows_of_ids(np.array(all_ids, dtype=np.int64))
            alive = rows_there >= 0
            made[role] = created_before(unit, rows_there[alive], np.array(positions, dtype=np.int64)[alive])
        return Matches(table.n, table.rows, None, unit), made


def _only(card: CompiledCard, port: str, some: Matches, made: Made) -> _Way | None:
    """Return the one card to which an output leads, and the matches; None where there are more, or no match goes on."""
    follows = card.outputs.get(port)
    if follows is None or len(follows) != 1 or not some.n:
        return None
    return (*follows[0], some, made, False)


def _follow(ahead: list[_Way], card: CompiledCard, parts: Parts, made: Made, anew: bool = False) -> None:
    """Put the cards to which a card's outputs lead on top of those that are to run."""
    outputs = card.outputs
    for port, some in reversed(parts):
        if some.n:
            follows = outputs.get(port, ())
            for at in range(len(follows) - 1, -1, -1):
                number, entered, wire = follows[at]
                ahead.append((number, entered, wire, some, made, anew and at == 0))
