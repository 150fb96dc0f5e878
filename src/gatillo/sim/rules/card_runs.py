"""What the cards that only graphs have do when matches reach them, and what some do though nothing reaches them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gatillo.catalogue.cards.graph_cards import (
    ALL_HOLD,
    CARDS,
    ELSE_FIRING,
    FIRING,
    GATHER,
    PASS,
    cases_of,
)
from gatillo.formula.values import write_number
from gatillo.level.graphs import OUTPUT, OWN
from gatillo.sim.matching.match_table import (
    Matches,
    TooManyMatches,
    where_keys,
)
from gatillo.sim.program.compiled_graph import CompiledCard
from gatillo.sim.rules.created import (
    brought_together,
    same_units,
)
from gatillo.sim.rules.firing_limits import held_back
from gatillo.sim.rules.graph_turn import MOST_KEPT, RUNS, WATCHES, GraphTurn, Parts, runs, watches
from gatillo.sim.trace.trace import Way


@runs(PASS)
def _pass_on(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    turn.hops += 1
    drawn = turn.graph.drawn
    if drawn is not None and card.node.id in drawn.answers:
        turn.count(drawn.answers[card.node.id], table.n)
    return [("then", table)]


@runs("in_order")
def _in_order(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    return [(port, table) for port in sorted(card.outputs, key=int)]


@runs("first_time")
def _first_time(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    roles, keys = turn.keys(card, table)
    before = turn.memory(card).get(roles, {})
    if entered == "again":
        turn.remember_for(card, roles, {k: v for k, v in before.items() if k not in set(keys)})
        return []
    fresh = [key not in before for key in keys]
    turn.remember_for(card, roles, {**before, **dict.fromkeys(keys, True)})
    return [("then", table.take(np.array(fresh, dtype=bool)))]


@runs("on_change")
def _on_change(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    keys = turn.matches_of(table)
    was = turn.a_tick_ago(card)
    there = turn.begun.setdefault(card.node.id, {})
    fresh = [key not in was and key not in there for key in keys]
    there.update(zip(keys, turn.created_ids(table), strict=True))
    turn.remember(card, {"tick": turn.world.tick, "came": dict(there), "before": was})
    return [("begins", table.take(np.array(fresh, dtype=bool)))]


@watches("on_change")
def _end(turn: GraphTurn, card: CompiledCard) -> None:
    """Act at the end of the turn on what came to a card a tick ago and did not come now."""
    came = turn.begun.get(card.node.id, {})
    gone = {key: ids for key, ids in turn.a_tick_ago(card).items() if key not in came}
    for roles, keys in _by_roles(list(gone)):
        table, made = turn.table_of_keys(roles, keys, [gone[roles, key] for key in keys])
        turn.start(card, "ends", table, Way.DO, made)


@runs("gate")
def _gate(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    roles, keys = turn.keys(card, table)
    before = turn.memory(card).get(roles, {})
    if entered in ("open", "close"):
        turn.remember_for(card, roles, {**before, **dict.fromkeys(keys, entered == "open")})
        return []
    first = card.words["start"] == "open"
    return [("then", table.take(np.array([before.get(key, first) for key in keys], dtype=bool)))]


@runs("count_to")
def _count_to(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    if entered == "reset":
        roles, keys = turn.keys(card, table)
        gone = set(keys)
        counts = {k: v for k, v in turn.memory(card).get(roles, {}).items() if k not in gone}
        turn.remember_for(card, roles, counts)
        return []
    table, most = turn.values(card, "count", table)
    roles, keys = turn.keys(card, table)
    counts = dict(turn.memory(card).get(roles, {}))
    at = np.zeros(table.n, dtype=bool)
    for place, (key, wanted) in enumerate(zip(keys, most.tolist(), strict=True)):
        counts[key] = counts.get(key, 0.0) + 1.0
        if counts[key] >= wanted:
            at[place], counts[key] = True, 0.0
    turn.remember_for(card, roles, counts)
    turn.world.caches.pulled.clear()
    return [("at", table.take(at)), ("before", table.take(~at))]


@runs("each")
def _each(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    many = turn.executor.allowed(table.n, turn.teller(card))
    return [*(("one", table.take(np.array([at]))) for at in range(many)), ("done", table)]


@runs("both_come")
def _both_come(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    keys = turn.matches_of(table)
    now = turn.memory(card)
    if now.get("tick") != turn.world.tick:
        now = {"tick": turn.world.tick, "1": (), "2": (), "both": ()}
    other = set(now["2" if entered == "1" else "1"])
    done = set(now["both"])
    both = [key in other and key not in done for key in keys]
    come = tuple(dict.fromkeys((*now[entered], *keys)))
    met = tuple(key for key, holds in zip(keys, both, strict=True) if holds)
    turn.remember(card, {**now, entered: come, "both": (*now["both"], *met)})
    parts = turn.come.setdefault(card.node.id, [])
    parts.append((table, turn.made))
    going_on = table.take(np.array(both, dtype=bool))
    if any(made for _, made in parts):
        turn.made = brought_together(parts)
        going_on = Matches(going_on.n, going_on.rows, None, same_units(going_on))
    return [("then", going_on)]


@runs("hold")
def _hold(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    table, values = turn.values(card, "value", table)
    roles, keys = turn.keys(card, table)
    new = dict(zip(keys, values.tolist(), strict=True))
    turn.remember_for(card, roles, {**turn.memory(card).get(roles, {}), **new})
    # values that were read from it before are stale
    turn.world.caches.pulled.clear()
    return [("then", table)]


@runs("beat")
def _beat(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    due, rate = dict(turn.memory(card)), turn.executor.program.rate
    if entered == "stop":
        for key in turn.matches_of(table):
            due.pop(key, None)
    else:
        table, periods = turn.values(card, "period", table)
        begun = zip(turn.matches_of(table), periods.tolist(), turn.created_ids(table), strict=True)
        for key, period, created in begun:
            due.setdefault(key, (max(turn.world.time + period, (turn.world.tick + 0.5) / rate), created))
    if len(due) > MOST_KEPT:
        turn.too_many(card, len(due) - MOST_KEPT)
        due = dict(list(due.items())[:MOST_KEPT])
    turn.remember(card, due)
    return []


@watches("beat")
def _beat_now(turn: GraphTurn, card: CompiledCard) -> None:
    """Beat for the matches whose time has come."""
    due = turn.memory(card)
    rate, tick = turn.executor.program.rate, turn.world.tick
    now = [key for key, (at, _) in due.items() if math.ceil(at * rate - 1e-9) <= tick]
    if not now:
        return
    tables = [
        turn.table_of_keys(roles, keys, [due[roles, key][1] for key in keys])
        for roles, keys in _by_roles(now)
    ]
    there = {key for table, _ in tables for key in turn.matches_of(table)}
    after = {key: kept for key, kept in due.items() if key not in set(now) or key in there}
    beating = []
    for found, made in tables:
        turn.made = made
        table, periods = turn.values(card, "period", found)
        beats = np.zeros(table.n, dtype=bool)
        for place, (key, period) in enumerate(zip(turn.matches_of(table), periods.tolist(), strict=True)):
            at, created = due[key]
            at = _due_beat(at, period, tick, rate)
            beats[place] = math.ceil(at * rate - 1e-9) == tick
            if beats[place]:
                # never twice in one tick, however short the period
                at = max(at + period, (tick + 0.5) / rate)
            after[key] = at, created
        beating.append((table.take(beats), made))
    turn.remember(card, after)
    for table, made in beating:
        turn.start(card, "beat", table, Way.DO, made)


@runs("switch_by")
def _switch_by(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    table, values = turn.values(card, "value", table)
    words = np.array([_as_word(value) for value in values.tolist()], dtype=object)
    cases = cases_of(card.words["cases"])
    parts = [(case, table.take(np.asarray(words == case, dtype=bool))) for case in cases]
    return [*parts, ("else", table.take(~where_keys(words.tolist(), set(cases))))]


@runs(GATHER)
def _gather(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    turn.gathered.setdefault(card.node.id, []).append((table, turn.made))
    return []


@runs(ALL_HOLD)
def _all_hold(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    passed: list[int] = []
    failed: list[Matches] = []
    made = turn.made
    try:
        table = turn.with_made(card.lines, table, made)
        if card.outputs.get("no"):
            table, failed = turn.executor.matcher.both_ways(turn.rule, card.lines, table, passed)
        else:
            for line in card.lines:
                table = turn.executor.matcher.filter_by(turn.rule, line, table)
                passed.append(table.n)
                if not table.n:
                    break
    except TooManyMatches as error:
        turn.executor.matcher.fault(turn.rule, card.lines[len(passed)], 1, str(error))
        table, failed = table.none(), []
    for line, many in zip(card.lines, passed, strict=False):
        turn.note_passed(line, many)
    return [("yes", table), *(("no", some) for some in failed)]


@runs(FIRING)
def _firing(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    limits = card.limits
    assert limits is not None
    if not (limits.plain and (limits.meanwhile == "stack" or not turn.world.rules.waits)):
        whose = turn.rule.index, card.node.id
        passes = table
        table = held_back(turn.world, limits, whose, passes, turn.teller(card), turn.executor.work, "a card")
        if turn.executor.recorder.watching:
            turn.executor.recorder.limited(turn.rule, card.node.id, passes, table)
    if not table.n:
        return []
    turn.begin(table)
    takes = card.words["takes"]
    if takes == "one for all":
        table = table.take(np.zeros(1, dtype=np.int64))
    elif takes == "one at a time" and table.n > 1:
        many = turn.executor.allowed(table.n, turn.teller(card))
        return [("then", table.take(np.array([at]))) for at in range(many)]
    return [("then", table)]


@runs(ELSE_FIRING)
def _else_firing(turn: GraphTurn, card: CompiledCard, entered: str, table: Matches) -> Parts:
    turn.apart.append((card, table, turn.made))
    return []


def _by_roles(keys: list[Any]) -> list[tuple[tuple[str, ...], list[Any]]]:
    """Return what matches are kept under, parted by their roles."""
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
    """Return a value as a case names it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return write_number(value) if isinstance(value, float) else str(value)


def check_cards() -> None:
    """Raises TypeError for a card without a function here that runs it."""
    # own nodes and their faces are not there any more when a graph runs
    running = {name: card for name, card in CARDS.items() if name not in (OWN, OUTPUT)}
    missing = {name for name, card in running.items() if card.ports.inputs} ^ set(RUNS)
    missing |= {name for name, card in CARDS.items() if card.watches} ^ set(WATCHES)
    if missing:
        raise TypeError(f"no function runs these cards: {sorted(missing)}")


check_cards()
