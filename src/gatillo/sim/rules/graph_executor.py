"""A graph's turn: matches run along its wires, depth first, by the same executor as the lines of rules."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from typing import Any

import numpy as np

from gatillo.catalogue.cards.graph_cards import (
    ALL_HOLD,
    ALL_MATCHES,
    CARDS,
    EACH_MATCH,
    ELSE_FIRING,
    FIRING,
    GATHER,
    PASS,
    cases_of,
)
from gatillo.catalogue.contexts.values import Candidates
from gatillo.formula.functions import spread, write_number
from gatillo.level.graphs import OUTPUT, OWN
from gatillo.sim.matching.match_table import (
    ONE_MATCH,
    SELF,
    Matches,
    TooManyMatches,
    View,
    join_role,
    keys_of,
    table_of,
    union,
    where_keys,
)
from gatillo.sim.program.compiled_graph import CompiledCard, CompiledGraph, Straight
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
from gatillo.sim.rules.firing_limits import held_back
from gatillo.sim.trace.trace import Way

MOST_CARDS = 200_000
"""Cards that a graph's turn may run."""
MOST_KEPT = 200_000
"""Matches that a card keeps something for."""

Ids = tuple[tuple[str, tuple[int, ...]], ...]
"""What was created for a match, between ticks: by role token, the ids of the objects."""


def take_turn(executor: ActionExecutor, turn: CompiledRule) -> None:
    """Let a graph take its turn."""
    assert turn.graph is not None
    if turn.graph.straight is not None:
        _take_straight(executor, turn, turn.graph, turn.graph.straight)
    else:
        GraphTurn(executor, turn).take()


class GraphTurn:
    """One turn of a graph, or what goes on in it after a wait."""

    def __init__(self, executor: ActionExecutor, turn: CompiledRule) -> None:
        assert turn.graph is not None
        self.executor = executor
        self.world = executor.world
        self.turn = turn
        self.graph: CompiledGraph = turn.graph
        self.ran = 0
        self.hops = 0
        """Of those, cards that only hand on."""
        self.acted = False
        """Whether the firing has begun: with the first action, or a card that says so."""
        self.way = Way.DO
        self.passed: list[int] = []
        self.fired = 0
        self.begun: dict[int, dict[Any, Ids]] = {}
        """By card that tells of changes: the matches that have reached it in this turn."""
        self.gathered: dict[int, list[tuple[Matches, Made]]] = {}
        """By card that gathers: what has come to it in this turn, and has not been handed on."""
        self.come: dict[int, list[tuple[Matches, Made]]] = {}
        """By card that waits for two inputs: what has come to it in this turn."""
        self.apart: list[tuple[CompiledCard, Matches, Made]] = []
        """What is to be a firing of its own, told as “else”, after the one at hand."""
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
        """Let a card that does so do what it does though nothing reaches it, before or after the occasions."""
        if card.card is not None and card.card.watches == when:
            WATCHES[card.node.use](self, card)

    def occasion(self, card: CompiledCard) -> None:
        """An occasion, and all that it leads to."""
        table = _found_by(self.executor, self.turn, self.graph, card)
        if table is not None:
            self.start(card, "then", table, Way.DO, {})

    def resume(self, part: Part, action: int, table: Matches, made: Made) -> None:
        """Go on after a wait, which is a line among the actions."""
        card = self.graph.cards[self.graph.actions[part][action]]
        self.start(card, "after", table, Way.RESUMED, made)
        self.hand_together(Way.RESUMED)

    def hand_together(self, way: Way) -> None:
        """Let the cards that gather hand on what has come to them, by their numbers."""
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
        self.executor.gone = {}
        if self.graph.gathers:
            before, kept = self.ran - self.hops, sum(map(len, self.gathered.values()))
            self.run(card, output, table, made)
            only_kept = 0 < self.ran - self.hops - before == sum(map(len, self.gathered.values())) - kept
        else:
            only_kept = False
            self.run(card, output, table, made)
        drawn = self.graph.drawn
        if drawn is not None and len(self.passed) < len(drawn.answers):
            # the condition that nobody has passed
            self.passed.append(0)
        if way is Way.DO and not only_kept:
            self.executor.recorder.looked(self.turn.position, table.n, self.passed, self.fired)
        if self.acted:
            self.executor.fired()

    def begin(self, table: Matches) -> None:
        """The firing begins, if it has not yet."""
        if not self.acted:
            self.acted, self.fired = True, table.n
            self.executor.begins(self.turn, table, self.way)

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
            if anew:
                # what was removed for the match before is not spoken of any more
                executor.gone = {}
            line = following.line
            if line is None:
                self.made = with_made
                parts = self.control(following, entered, some)
                executor.card_ran(self.turn, number, some.n, wire)
                _follow(ahead, following, parts, self.made, following.words.get("takes") == "one at a time")
            elif line.part == "if":
                parts = self.part(following, line, some, with_made)
                executor.card_ran(self.turn, number, some.n, wire)
                if len(parts) == 1:
                    straight = _only(following, *parts[0], with_made)
                if straight is None:
                    _follow(ahead, following, parts, with_made)
            else:
                chain = following.chain
                self.ran += len(chain) - 1
                new = self.act(following, line, some, with_made, wire)
                last = cards[chain[-1]]
                if last.outputs:
                    straight = _only(last, "then", some, new)
                    if straight is None:
                        _follow(ahead, last, [("then", some)], new)

    # cards of the catalogue

    def part(self, card: CompiledCard, line: CompiledLine, table: Matches, made: Made) -> Parts:
        """A condition or a pick: those that pass it and the others."""
        executor = self.executor
        yes_port, no_port = card.ports.outputs
        try:
            table = self.with_made((line,), table, made)
            if no_port not in card.outputs:
                passes = executor.keep(self.turn, line, table)
                self.note_passed(line, passes.n)
                return [(yes_port, passes)]
            passes, failed = executor.both_ways(self.turn, (line,), table, [])
        except TooManyMatches as error:
            executor.fault(self.turn, line, 1, str(error))
            return []
        # who goes on: where only the other side is wired, as with a negated condition
        going_on = passes.n if card.outputs.get(yes_port) else sum(some.n for some in failed)
        self.note_passed(line, going_on)
        return [(yes_port, passes), *((no_port, some) for some in failed)]

    def with_made(self, lines: tuple[CompiledLine, ...], table: Matches, made: Made) -> Matches:
        """The table with the created objects of which conditions speak: they are there, and are not looked for."""
        new = tuple(role for line in lines for role in line.roles if is_new(role) and role not in table.rows)
        return self.executor.with_roles(new, lines[0], table, made) if new else table

    def note_passed(self, line: CompiledLine, many: int) -> None:
        """Count how many passed a condition, at its place among the graph's conditions."""
        if self.graph.drawn is None:
            self.count(line.line, many)

    def count(self, place: int, many: int) -> None:
        """Count how many passed the condition at this index among the graph's conditions."""
        if place == len(self.passed):
            self.passed.append(many)
            return
        missing = place + 1 - len(self.passed)
        self.passed.extend([0] * missing)
        self.passed[place] += many

    def act(self, card: CompiledCard, line: CompiledLine, table: Matches, made: Made, wire: int) -> Made:
        """An action over its matches, and those that follow it alone; the first of an occasion makes it a firing."""
        self.begin(table)
        block, stop = self.turn.block(line.part), line.line + len(card.chain)
        return self.executor.perform(self.turn, line.part, block, table, line.line, made, stop, wire)

    # cards that only graphs have

    def fault(self, card: CompiledCard, count: int, sentence: str) -> None:
        """Record that a card had no answer for some matches, or went beyond a bound."""
        self.executor.card_fault(self.turn, card.node.id, count, sentence)

    def teller(self, card: CompiledCard) -> Callable[[int, str], None]:
        """Return a `(count, message)` callback that reports a fault of this card."""
        return lambda count, sentence: self.fault(card, count, sentence)

    def values(self, card: CompiledCard, slot: str, table: Matches) -> tuple[Matches, Any]:
        """A slot's value for each match; those for whom it has no answer are left out, and told."""
        formula = card.formulas[slot]
        roles = tuple(role for role in formula.roles if role not in table.rows)
        for role in roles:
            named = self.executor.program.roles[role]
            if named.new:
                table = self.executor.with_new(named, table, self.made)
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
        """What a card that only graphs have hands on, by output."""
        try:
            return RUNS[card.node.use](self, card, entered, table)
        except TooManyMatches as error:
            self.fault(card, 1, str(error))
            return []

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
        """Under what a card keeps something for each match: its objects, one of them, or nothing where it is for all."""
        per = card.words.get("per", EACH_MATCH)
        if per == EACH_MATCH and table.rows:
            return tuple(sorted(table.rows)), keys_of(self.world, table)
        if per in table.rows:
            return (per,), list(self.world.id[table.rows[per]].tolist())
        if per not in (EACH_MATCH, ALL_MATCHES):
            self.fault(card, table.n, f"no “{per}” has come with these matches")
        return (), [None] * table.n

    def _pass_on(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        self.hops += 1
        drawn = self.graph.drawn
        if drawn is not None and card.node.id in drawn.answers:
            self.count(drawn.answers[card.node.id], table.n)
        return [("then", table)]

    def _in_order(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        return [(port, table) for port in sorted(card.outputs, key=int)]

    def _first_time(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        roles, keys = self.keys(card, table)
        before = self.memory(card).get(roles, {})
        if entered == "again":
            self.remember_for(card, roles, {k: v for k, v in before.items() if k not in set(keys)})
            return []
        fresh = [key not in before for key in keys]
        self.remember_for(card, roles, {**before, **dict.fromkeys(keys, True)})
        return [("then", table.take(np.array(fresh, dtype=bool)))]

    def _on_change(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        keys = self.matches_of(table)
        was = self.a_tick_ago(card)
        there = self.begun.setdefault(card.node.id, {})
        fresh = [key not in was and key not in there for key in keys]
        there.update(zip(keys, self.created_ids(table), strict=True))
        self.remember(card, {"tick": self.world.tick, "came": dict(there), "before": was})
        return [("begins", table.take(np.array(fresh, dtype=bool)))]

    def _end(self, card: CompiledCard) -> None:
        """Let a card that reports changes act at the end of the turn on what came a tick ago and did not come now."""
        came = self.begun.get(card.node.id, {})
        gone = {key: ids for key, ids in self.a_tick_ago(card).items() if key not in came}
        for roles, keys in _by_roles(list(gone)):
            table, made = self.table_of_keys(roles, keys, [gone[roles, key] for key in keys])
            self.start(card, "ends", table, Way.DO, made)

    def a_tick_ago(self, card: CompiledCard) -> dict[Any, Ids]:
        """Return what came to a card that reports changes in the tick before this one, with what was created for each."""
        memory = self.memory(card)
        last = self.world.tick - 1
        if memory.get("tick") == last:
            return memory["came"]  # type: ignore[no-any-return]
        return memory.get("before", {}) if memory.get("tick") == self.world.tick else {}

    def matches_of(self, table: Matches) -> list[tuple[tuple[str, ...], Hashable]]:
        """Under what a card keeps matches that it hands on by itself: their roles, since several sorts may come, and objects."""
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

    def _gate(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        roles, keys = self.keys(card, table)
        before = self.memory(card).get(roles, {})
        if entered in ("open", "close"):
            self.remember_for(card, roles, {**before, **dict.fromkeys(keys, entered == "open")})
            return []
        first = card.words["start"] == "open"
        return [("then", table.take(np.array([before.get(key, first) for key in keys], dtype=bool)))]

    def _count_to(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        if entered == "reset":
            roles, keys = self.keys(card, table)
            gone = set(keys)
            counts = {k: v for k, v in self.memory(card).get(roles, {}).items() if k not in gone}
            self.remember_for(card, roles, counts)
            return []
        table, most = self.values(card, "count", table)
        roles, keys = self.keys(card, table)
        counts = dict(self.memory(card).get(roles, {}))
        at = np.zeros(table.n, dtype=bool)
        for place, (key, wanted) in enumerate(zip(keys, most.tolist(), strict=True)):
            counts[key] = counts.get(key, 0.0) + 1.0
            if counts[key] >= wanted:
                at[place], counts[key] = True, 0.0
        self.remember_for(card, roles, counts)
        self.world.caches.pulled.clear()
        return [("at", table.take(at)), ("before", table.take(~at))]

    def _each(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        many = self.executor.allowed(table.n, self.teller(card))
        return [*(("one", table.take(np.array([at]))) for at in range(many)), ("done", table)]

    def _both_come(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        keys = self.matches_of(table)
        now = self.memory(card)
        if now.get("tick") != self.world.tick:
            now = {"tick": self.world.tick, "1": (), "2": (), "both": ()}
        other = set(now["2" if entered == "1" else "1"])
        done = set(now["both"])
        both = [key in other and key not in done for key in keys]
        come = tuple(dict.fromkeys((*now[entered], *keys)))
        met = tuple(key for key, holds in zip(keys, both, strict=True) if holds)
        self.remember(card, {**now, entered: come, "both": (*now["both"], *met)})
        parts = self.come.setdefault(card.node.id, [])
        parts.append((table, self.made))
        going_on = table.take(np.array(both, dtype=bool))
        if any(made for _, made in parts):
            self.made = brought_together(parts)
            going_on = Matches(going_on.n, going_on.rows, None, same_units(going_on))
        return [("then", going_on)]

    def _hold(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        table, values = self.values(card, "value", table)
        roles, keys = self.keys(card, table)
        new = dict(zip(keys, values.tolist(), strict=True))
        self.remember_for(card, roles, {**self.memory(card).get(roles, {}), **new})
        # values that were read from it before are stale
        self.world.caches.pulled.clear()
        return [("then", table)]

    def _beat(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        due, rate = dict(self.memory(card)), self.executor.program.rate
        if entered == "stop":
            for key in self.matches_of(table):
                due.pop(key, None)
        else:
            table, periods = self.values(card, "period", table)
            begun = zip(self.matches_of(table), periods.tolist(), self.created_ids(table), strict=True)
            for key, period, created in begun:
                due.setdefault(key, (max(self.world.time + period, (self.world.tick + 0.5) / rate), created))
        if len(due) > MOST_KEPT:
            self.too_many(card, len(due) - MOST_KEPT)
            due = dict(list(due.items())[:MOST_KEPT])
        self.remember(card, due)
        return []

    def _beat_now(self, card: CompiledCard) -> None:
        """Let a card beat for the matches whose time has come."""
        due = self.memory(card)
        rate, tick = self.executor.program.rate, self.world.tick
        now = [key for key, (at, _) in due.items() if math.ceil(at * rate - 1e-9) <= tick]
        if not now:
            return
        tables = [
            self.table_of_keys(roles, keys, [due[roles, key][1] for key in keys])
            for roles, keys in _by_roles(now)
        ]
        there = {key for table, _ in tables for key in self.matches_of(table)}
        after = {key: kept for key, kept in due.items() if key not in set(now) or key in there}
        beating = []
        for found, made in tables:
            self.made = made
            table, periods = self.values(card, "period", found)
            beats = np.zeros(table.n, dtype=bool)
            for place, (key, period) in enumerate(zip(self.matches_of(table), periods.tolist(), strict=True)):
                at, created = due[key]
                at = _due_beat(at, period, tick, rate)
                beats[place] = math.ceil(at * rate - 1e-9) == tick
                if beats[place]:
                    # never twice in one tick, however short the period
                    at = max(at + period, (tick + 0.5) / rate)
                after[key] = at, created
            beating.append((table.take(beats), made))
        self.remember(card, after)
        for table, made in beating:
            self.start(card, "beat", table, Way.DO, made)

    def _switch_by(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        table, values = self.values(card, "value", table)
        words = np.array([_as_word(value) for value in values.tolist()], dtype=object)
        cases = cases_of(card.words["cases"])
        parts = [(case, table.take(np.asarray(words == case, dtype=bool))) for case in cases]
        return [*parts, ("else", table.take(~where_keys(words.tolist(), set(cases))))]

    def _gather(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        self.gathered.setdefault(card.node.id, []).append((table, self.made))
        return []

    def _all_hold(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        passed: list[int] = []
        failed: list[Matches] = []
        made = self.made
        try:
            table = self.with_made(card.lines, table, made)
            if card.outputs.get("no"):
                table, failed = self.executor.both_ways(self.turn, card.lines, table, passed)
            else:
                for line in card.lines:
                    table = self.executor.keep(self.turn, line, table)
                    passed.append(table.n)
                    if not table.n:
                        break
        except TooManyMatches as error:
            self.executor.fault(self.turn, card.lines[len(passed)], 1, str(error))
            table, failed = table.none(), []
        for line, many in zip(card.lines, passed, strict=False):
            self.note_passed(line, many)
        return [("yes", table), *(("no", some) for some in failed)]

    def _firing(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        limits = card.limits
        assert limits is not None
        if not (limits.plain and (limits.meanwhile == "stack" or not self.world.rules.waits)):
            whose = self.turn.position, card.node.id
            passes = table
            table = held_back(self.world, limits, whose, passes, self.teller(card), "a card")
            if self.executor.recorder.watching:
                self.executor.recorder.limited(self.turn, card.node.id, passes, table)
        if not table.n:
            return []
        self.begin(table)
        takes = card.words["takes"]
        if takes == "one for all":
            table = table.take(np.zeros(1, dtype=np.int64))
        elif takes == "one at a time" and table.n > 1:
            many = self.executor.allowed(table.n, self.teller(card))
            return [("then", table.take(np.array([at]))) for at in range(many)]
        return [("then", table)]

    def _else_firing(self, card: CompiledCard, entered: str, table: Matches) -> Parts:
        self.apart.append((card, table, self.made))
        return []


def _found_by(
    executor: ActionExecutor, turn: CompiledRule, graph: CompiledGraph, card: CompiledCard
) -> Matches | None:
    """The matches that an occasion yields; None where there are none."""
    assert card.line is not None
    found = executor.candidates_of(turn, card.line)
    if found is None or not found.n:
        return None
    # the same table in each tick, so that the answers to what depends on nothing else can be kept
    table = table_of(found) if found.rows or found.n != 1 else ONE_MATCH
    executor.card_ran(turn, card.node.id, table.n, -1)
    if graph.kind is not None and SELF not in table.rows:
        rows = executor.world.rows_of_kind(graph.kind)
        try:
            table = join_role(executor.world, table, graph.roles[SELF], rows)
        except TooManyMatches as error:
            executor.fault(turn, card.line, 1, str(error))
            return None
    return table


def _take_straight(
    executor: ActionExecutor, turn: CompiledRule, graph: CompiledGraph, straight: Straight
) -> None:
    """The turn of a graph that is one straight way: the same as `GraphTurn.take`, with nothing to be kept for later."""
    table = _found_by(executor, turn, graph, straight.occasion)
    if table is None or not table.n:
        return
    reached, passed, fired = table.n, [], 0
    executor.gone = {}
    for number, lines, wire in straight.conditions:
        before = table.n
        for line in lines:
            try:
                table = executor.keep(turn, line, table)
                passed.append(table.n)
            except TooManyMatches as error:
                executor.fault(turn, line, 1, str(error))
                table = table.none()
            if not table.n:
                break
        executor.card_ran(turn, number, before, wire)
        if not table.n:
            break
    if table.n:
        fired = table.n
        executor.begins(turn, table, Way.DO)
        executor.perform(turn, "do", turn.do, table, 0, {}, None, straight.wire)
    executor.recorder.looked(turn.position, reached, passed, fired)
    if fired:
        executor.fired()


def _by_roles(keys: list[Any]) -> list[tuple[tuple[str, ...], list[Any]]]:
    """What matches are kept under, parted by their roles."""
    parted: dict[tuple[str, ...], list[Any]] = {}
    for roles, key in keys:
        parted.setdefault(roles, []).append(key)
    return list(parted.items())


def _due_beat(at: float, period: float, tick: int, rate: int) -> float:
    """Return the time (s) of the first beat of a rhythm that is not before this tick.

    A card misses beats only while its graph is off; they are skipped, and the rhythm is kept.
    """
    period = max(period, 0.5 / rate)
    at += max(0, math.floor((tick / rate - at) / period) - 1) * period
    while math.ceil(at * rate - 1e-9) < tick:
        at += period
    return at


def _as_word(value: Any) -> str:
    """A value as a case names it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return write_number(value) if isinstance(value, float) else str(value)


def _only(card: CompiledCard, port: str, some: Matches, made: Made) -> _Way | None:
    """The one card to which an output leads, and with whom; None where there are more, or nobody goes on."""
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


_Way = tuple[int, str, int, Matches, Made, bool]
"""A card that is to run, its input, by which wire, with which matches, what has been created for them, and whether anew."""
Parts = list[tuple[str, Matches]]
"""What a card hands on, by output, in the order in which it is followed."""
RUNS: dict[str, Callable[[GraphTurn, CompiledCard, str, Matches], Parts]] = {
    "in_order": GraphTurn._in_order,
    "first_time": GraphTurn._first_time,
    "on_change": GraphTurn._on_change,
    "gate": GraphTurn._gate,
    "count_to": GraphTurn._count_to,
    "each": GraphTurn._each,
    "both_come": GraphTurn._both_come,
    "hold": GraphTurn._hold,
    "beat": GraphTurn._beat,
    "switch_by": GraphTurn._switch_by,
    GATHER: GraphTurn._gather,
    ALL_HOLD: GraphTurn._all_hold,
    FIRING: GraphTurn._firing,
    ELSE_FIRING: GraphTurn._else_firing,
    PASS: GraphTurn._pass_on,
}
"""What the cards that only graphs have do when matches reach them."""
WATCHES: dict[str, Callable[[GraphTurn, CompiledCard], None]] = {
    "beat": GraphTurn._beat_now,
    "on_change": GraphTurn._end,
}
"""What cards do though nothing reaches them."""


def check_cards() -> None:
    """Raises TypeError for a card of which it is not told here what it does."""
    # own nodes and their faces are not there any more when a graph runs
    running = {name: card for name, card in CARDS.items() if name not in (OWN, OUTPUT)}
    missing = {name for name, card in running.items() if card.ports.inputs} ^ set(RUNS)
    missing |= {name for name, card in CARDS.items() if card.watches} ^ set(WATCHES)
    if missing:
        raise TypeError(f"no function runs these cards: {sorted(missing)}")


check_cards()
