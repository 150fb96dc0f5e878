"""Turns that lead to nobody while no pair of objects is near: worked out once, so that a look at the distances is all they need."""

from __future__ import annotations

from gatillo.catalogue.cards.graph_cards import PASS
from gatillo.level.roles import Role
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule, Screen


def screen_of(rule: CompiledRule, roles: dict[str, Role]) -> Screen | None:
    """Return by which two roles a turn can be left out; None where there are none."""
    if rule.graph is not None:
        return _of_graph(rule.graph, roles)
    if rule.else_ or not rule.if_ or len(rule.when) > 1:
        return None
    return _of_lines(rule.when[0] if rule.when else None, rule.if_[0], roles)


def _of_lines(
    occasion: CompiledLine | None, condition: CompiledLine, roles: dict[str, Role]
) -> Screen | None:
    pair = condition.pair
    if pair is None or pair[2] != "distance" or condition.negated or condition.depends is not None:
        return None
    one, other = (roles.get(token) for token in pair[:2])
    distance = condition.fixed.get("distance")
    for name, formula in condition.worked_out:
        if name == "distance":
            distance = formula.constant if formula.always is None else formula.always
    if one is None or other is None or not isinstance(distance, float | int) or isinstance(distance, bool):
        return None
    if any(role.new or role.source not in ("kind", "object", "tag") for role in (one, other)):
        return None
    if occasion is None:
        return Screen(one, other, float(distance), each=False)
    if occasion.entry.depends != () or not occasion.entry.continuing or len(occasion.roles) > 1:
        return None
    if not occasion.roles:
        return Screen(one, other, float(distance), each=False)
    if occasion.roles[0] == other.token:
        one, other = other, one
    return Screen(one, other, float(distance), each=True) if occasion.roles[0] == one.token else None


def _of_graph(graph: CompiledGraph, roles: dict[str, Role]) -> Screen | None:
    """A graph with one occasion that leads along one way to such a condition, of which nothing follows where it does not hold."""
    if graph.straight is not None or graph.drawn is not None or len(graph.occasions) != 1 or graph.gathers:
        return None
    occasion = graph.cards[graph.occasions[0]]
    if occasion.line is None or (graph.kind is not None and not occasion.line.roles):
        return None
    ran, at = [(graph.occasions[0], -1)], occasion.outputs.get("then", ())
    while len(at) == 1:
        number, _, wire = at[0]
        card = graph.cards[number]
        ran.append((number, wire))
        if card.line is None:
            if card.node.use != PASS:
                return None
            at = card.outputs.get("then", ())
            continue
        if card.line.part != "if" or card.ports.outputs[1] in card.outputs:
            return None
        found = _of_lines(occasion.line, card.line, {**roles, **graph.roles})
        if found is None or not found.each:
            return None
        return Screen(found.one, found.other, found.distance, True, tuple(ran), card.line.number + 1)
    return None
