"""The turn of a graph: straight where it is one straight way, else along its wires."""

from __future__ import annotations

from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.rules import card_runs as card_runs
from gatillo.sim.rules.action_executor import ActionExecutor
from gatillo.sim.rules.graph_turn import GraphTurn
from gatillo.sim.rules.straight_graph import take_straight


def take_turn(executor: ActionExecutor, rule: CompiledRule) -> None:
    """Let a graph take its turn."""
    assert rule.graph is not None
    if rule.graph.straight is not None:
        take_straight(executor, rule, rule.graph, rule.graph.straight)
    else:
        GraphTurn(executor, rule).take()
