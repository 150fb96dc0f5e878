"""What a card shows at its edges: where matches come in and go out, where values do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from gatillo.catalogue.cards.graph_cards import (
    A_VALUE,
    CARDS,
    CASES,
    MATCHES,
    NUMBERED,
    cases_of,
    find_output,
    ports_of,
    sentence_of,
)
from gatillo.catalogue.cards.own_nodes import faces
from gatillo.level.graphs import INPUT, OUTPUT, OWN, wires_of
from gatillo.level.model import Graph, Node

VALUED = frozenset({"number", "seconds", "yes/no formula", "value", "text"})
"""Types of slots into which a value may come."""


@dataclass(frozen=True, slots=True)
class CardFace:
    """The ends of wires that a card has, by their names."""

    inputs: tuple[str, ...] = ()
    outputs: tuple[str, ...] = ()
    takes: tuple[str, ...] = ()
    """Slots into which values may come."""
    gives: tuple[str, ...] = ()
    """Values that it gives; "" for the only one."""
    more: bool = False
    """Whether outputs are added as they are wired; the last is the next."""
    free: bool = False
    """Whether a value may come in by any name."""


PortsUsed = tuple[dict[int, list[str]], dict[int, list[str]]]
"""By card: the outputs at which wires of matches begin, and the slots at which wires of values end."""


def ports_used(graph: Graph) -> PortsUsed:
    """Return where the wires of a graph begin and end, so that `card_face` need not go through all of them for each card."""
    begun: dict[int, list[str]] = {}
    ended: dict[int, list[str]] = {}
    for start, _ in wires_of(graph):
        begun.setdefault(start.node, []).append(start.port)
    for _, end in wires_of(graph, values=True):
        ended.setdefault(end.node, []).append(end.port)
    return begun, ended


def card_face(
    node: Node, graph: Graph, graphs: Mapping[str, Graph], used: PortsUsed | None = None
) -> CardFace:
    """Return the ends of wires that a card of a graph has; `graphs` are those of the level, by name.

    `used` is what `ports_used` says of the graph, for who asks about many cards.
    """
    if node.use == OWN:
        own = graphs.get(node.slots.get("graph", ""))
        if own is None:
            return CardFace()
        return CardFace(
            tuple(faces(own, INPUT, MATCHES)),
            tuple(faces(own, OUTPUT, MATCHES)),
            tuple(faces(own, INPUT, A_VALUE)),
            tuple(faces(own, OUTPUT, A_VALUE)),
        )
    carries = node.slots.get("carries", MATCHES)
    if node.use == INPUT:
        return (
            CardFace(outputs=("then",))
            if carries == MATCHES
            else CardFace(gives=("",) if carries == A_VALUE else ())
        )
    if node.use == OUTPUT:
        return CardFace(inputs=("in",)) if carries == MATCHES else CardFace(takes=("value",))
    ports, entry = ports_of(node.use), sentence_of(node.use)
    if ports is None or entry is None:
        return CardFace()
    outputs = ports.outputs
    if NUMBERED in outputs:
        begun = (used or ports_used(graph))[0].get(node.id, ())
        numbers = [int(found) for port in begun if (found := find_output(ports, port)) is not None]
        outputs = tuple(str(n) for n in range(1, max(numbers, default=0) + 2))
    elif CASES in outputs:
        cases = cases_of(node.slots.get("cases", "1, 2"))
        outputs = (*cases, *(o for o in outputs if o != CASES))
    takes: tuple[str, ...] = ()
    if ports.inputs or node.use in CARDS:
        takes = tuple(name for name, slot in entry.slots.items() if slot.type in VALUED)
    if node.use == "formula":
        takes = tuple(dict.fromkeys((used or ports_used(graph))[1].get(node.id, ())))
    gives = ("",) if ports.gives else ()
    return CardFace(ports.inputs, outputs, takes, gives, NUMBERED in ports.outputs, node.use == "formula")
