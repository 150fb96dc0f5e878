"""A rule as a graph, and a graph that is a plain chain as a rule. Both leave the trace as it was, to the byte."""

from __future__ import annotations

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards import CARDS, find_output, ports_of
from gatillo.level.graphs import wires_of
from gatillo.level.model import Clause, Graph, Node, Rule, Wire

DOWN = 90.0
"""Pixels from one card of a chain to the next."""


class NoConversion(Exception):
    """A rule or a graph that cannot be turned into the other; the message says what is in the way."""


def as_graph(rule: Rule) -> Graph:
    """A rule as a chain of cards. Raises NoConversion with what in it no card does."""
    why = _in_the_way(rule)
    if why:
        raise NoConversion(f"“{rule.name}” cannot be a graph: {why}")
    occasion = rule.when[0] if rule.when else Clause(use="every_tick")
    nodes: list[Node] = []
    wires: list[Wire] = []
    last = ""
    for at, clause in enumerate((occasion, *rule.if_, *rule.do), 1):
        nodes.append(
            Node(
                id=at,
                use=clause.use,
                slots=clause.slots,
                at=(0.0, (at - 1) * DOWN),
                once=clause.once,
                of=clause.of,
            )
        )
        if last:
            wires.append(Wire(start=last, end=str(at)))
        last = _way_on(at, clause)
    return Graph(
        id=rule.id, name=rule.name, on=rule.on, nodes=tuple(nodes), wires=tuple(wires), note=rule.note
    )


def _way_on(at: int, clause: Clause) -> str:
    """The output along which the chain goes on."""
    entry = CATALOGUE[clause.use]
    if entry.group == "condition":
        return f"{at}.no" if clause.negated else f"{at}.yes"
    return f"{at}.after" if entry.waits else str(at)


def _in_the_way(rule: Rule) -> str:
    clauses = (*rule.when, *rule.if_, *rule.do)
    unknown = next((c.use for c in clauses if c.use not in CATALOGUE), None)
    if unknown is not None:
        return f"there is nothing called “{unknown}”"
    if len(rule.when) > 1:
        return "it has several occasions, and looks once at what they bring together; make a graph's occasion of each"
    if rule.fires != "each tick":
        return f"it fires {rule.fires}; in a graph that is a card of its own"
    if rule.cooldown:
        return "it rests after firing"
    if rule.once_for_all or rule.one_at_a_time:
        return "it takes its matches as one, or one at a time; in a graph that is a card of its own"
    if rule.else_:
        return "its else fires apart from what it does; in a graph one occasion is one firing"
    if any(CATALOGUE[c.use].branch for c in rule.do):
        return "it has an if among its actions; in a graph that is a condition's card"
    if rule.while_waiting != "stack" and any(CATALOGUE[c.use].waits for c in rule.do):
        return "while it waits it does not fire anew for the same match; a graph's waits hold nothing up"
    if not rule.do:
        return "it does nothing"
    if CATALOGUE[rule.do[-1].use].waits:
        return "nothing comes after its last wait"
    return ""


def as_rule_again(graph: Graph) -> Rule:
    """A graph that is a plain chain as a rule. Raises NoConversion with the card that is in the way."""

    def refused(number: int, why: str) -> NoConversion:
        return NoConversion(f"“{graph.name}” cannot be a rule: card {number} {why}")

    if graph.for_:
        raise NoConversion(f"“{graph.name}” cannot be a rule: it takes its turn for each {graph.for_}")
    nodes = {node.id: node for node in graph.nodes}
    own = next((n for n in graph.nodes if n.use in CARDS or ports_of(n.use) is None), None)
    if own is not None:
        raise refused(own.id, "is one that only graphs have")
    taking = next((end for _, end in wires_of(graph, values=True)), None)
    if taking is not None:
        raise refused(taking.node, "takes a value by a wire")
    follows: dict[int, list[tuple[str, int]]] = {}
    for start, end in wires_of(graph):
        ports = ports_of(nodes[start.node].use)
        output = (find_output(ports, start.port) if ports is not None else None) or start.port
        follows.setdefault(start.node, []).append((output, end.node))
    occasions = sorted(n.id for n in graph.nodes if CATALOGUE[n.use].group == "occasion")
    if len(occasions) != 1:
        raise NoConversion(
            f"“{graph.name}” cannot be a rule: it has {len(occasions) or 'no'} occasions, not one"
        )
    lines: dict[str, list[Clause]] = {"occasion": [], "condition": [], "action": []}
    number: int | None = occasions[0]
    seen: set[int] = set()
    while number is not None:
        node = nodes[number]
        if number in seen:
            raise refused(number, "is come to again")
        seen.add(number)
        entry, ways = CATALOGUE[node.use], follows.get(number, [])
        if len(ways) > 1:
            raise refused(number, "leads to several cards")
        group = "condition" if entry.group == "pick" else entry.group
        if group != "action" and lines["action"]:
            raise refused(number, "is a condition below an action")
        negated = entry.group == "condition" and bool(ways) and ways[0][0] == "no"
        fits = {"no", "yes", "kept", "then"} - ({"then"} if entry.waits else set()) | (
            {"after"} if entry.waits else set()
        )
        if ways and ways[0][0] not in fits:
            raise refused(number, f"goes on at “{ways[0][0]}”")
        clause = node.clause
        lines[group].append(
            Clause(use=clause.use, slots=clause.slots, negated=negated, once=clause.once, of=clause.of)
        )
        number = ways[0][1] if ways else None
    left = next((n for n in sorted(nodes) if n not in seen), None)
    if left is not None:
        raise refused(left, "does not hang on the chain")
    if not lines["action"]:
        raise NoConversion(f"“{graph.name}” cannot be a rule: it does nothing")
    return Rule(
        id=graph.id,
        name=graph.name,
        on=graph.on,
        when=tuple(lines["occasion"]),
        if_=tuple(lines["condition"]),
        do=tuple(lines["action"]),
        while_waiting="stack",
        note=graph.note,
    )
