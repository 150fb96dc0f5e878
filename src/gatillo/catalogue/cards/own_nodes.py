"""The faces of own nodes: a graph's inputs and outputs, and what a line or a card gives to them."""

from __future__ import annotations

from gatillo.catalogue.cards.graph_cards import MATCHES
from gatillo.catalogue.entries.own import OWN_LINES
from gatillo.level.graphs import INPUT, OUTPUT, OWN
from gatillo.level.model import Clause, Graph, Level, Logic, Node
from gatillo.level.roles import all_logic


def faces(graph: Graph, use: str, carries: str) -> dict[str, Node]:
    """Return the inputs (or outputs) of an own node that carry matches, values or roles, by name."""
    return {
        node.slots.get("name", "in" if use == INPUT else "then"): node
        for node in graph.nodes
        if node.use == use and node.slots.get("carries", MATCHES) == carries
    }


def face_sentence(graph: Graph) -> str:
    """Return the sentence that an own node is where it is used: what it is given, and where it leads to."""
    given = []
    for node in graph.nodes:
        if node.use != INPUT:
            continue
        name, value = node.slots.get("name", "in"), node.slots.get("value", "0")
        carries = node.slots.get("carries", MATCHES)
        given.append(f"{name} = {value}" if carries != MATCHES else name)
    leads = [
        f"value {node.slots.get('name', 'then')}"
        if node.slots.get("carries", MATCHES) != MATCHES
        else node.slots.get("name", "then")
        for node in graph.nodes
        if node.use == OUTPUT
    ]
    return (
        f"{graph.name}"
        + (f": {', '.join(given)}" if given else "")
        + (f" → {', '.join(leads)}" if leads else "")
    )


def uses_of(level: Level, graph: Graph) -> list[tuple[Logic, int]]:
    """Return where an own node is used: by each entry of the order list, and how often there."""
    found = []
    for _, _, entry in all_logic(level):
        lines = (
            (node.clause for node in entry.nodes)
            if isinstance(entry, Graph)
            else (*entry.when, *entry.if_, *entry.do, *entry.else_)
        )
        many = sum(_uses(line, graph.name) for line in lines)
        if many:
            found.append((entry, many))
    return found


def _uses(line: Clause, name: str) -> int:
    own = line.slots.get("graph") == name and (line.use == OWN or line.use in OWN_LINES)
    return own + sum(_uses(inner, name) for inner in line.of)
