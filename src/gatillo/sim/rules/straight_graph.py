"""The turn of a graph that is one straight way: an occasion, its conditions, its actions. It goes as a rule's turn does."""

from __future__ import annotations

from gatillo.sim.matching.match_table import (
    ONE_MATCH,
    SELF,
    Matches,
    TooManyMatches,
    join_role,
    table_of,
)
from gatillo.sim.program.compiled_graph import CompiledCard, CompiledGraph, Straight
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.rules.action_executor import ActionExecutor
from gatillo.sim.trace.trace import Way


def take_straight(
    executor: ActionExecutor, rule: CompiledRule, graph: CompiledGraph, straight: Straight
) -> None:
    """The turn of a graph that is one straight way: the same as `GraphTurn.take`, with nothing to be kept for later."""
    table = found_by(executor, rule, graph, straight.occasion)
    if table is None or not table.n:
        return
    reached, passed, fired = table.n, [], 0
    executor.matcher.gone = {}
    for number, lines, wire in straight.conditions:
        before = table.n
        for line in lines:
            try:
                table = executor.matcher.filter_by(rule, line, table)
                passed.append(table.n)
            except TooManyMatches as error:
                executor.matcher.fault(rule, line, 1, str(error))
                table = table.none()
            if not table.n:
                break
        executor.card_ran(rule, number, before, wire)
        if not table.n:
            break
    if table.n:
        fired = table.n
        executor.begins(rule, table, Way.DO)
        executor.perform(rule, "do", rule.do, table, 0, {}, None, straight.wire)
    executor.recorder.looked(rule.index, reached, passed, fired)
    if fired:
        executor.fired()


def found_by(
    executor: ActionExecutor, rule: CompiledRule, graph: CompiledGraph, card: CompiledCard
) -> Matches | None:
    """Return the matches that an occasion yields; None where there are none."""
    assert card.line is not None
    found = executor.matcher.candidates_of(rule, card.line)
    if found is None or not found.n:
        return None
    # the same table in each tick, so that the answers to what depends on nothing else can be kept
    table = table_of(found) if found.rows or found.n != 1 else ONE_MATCH
    executor.card_ran(rule, card.node.id, table.n, -1)
    if graph.kind is not None and SELF not in table.rows:
        rows = executor.world.rows_of_kind(graph.kind)
        try:
            table = join_role(executor.world, table, graph.roles[SELF], rows)
        except TooManyMatches as error:
            executor.matcher.fault(rule, card.line, 1, str(error))
            return None
    return table
