"""A graph as numbered lines in the order in which its cards run: to be read, printed and heard."""

from __future__ import annotations

from collections.abc import Iterator

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards import CARDS, cases_of, find_input, find_output, ports_of
from gatillo.catalogue.sentence import sentence
from gatillo.level.graphs import wires_of
from gatillo.level.model import Graph, Node


def card_words(node: Node) -> str:
    """A card as its sentence."""
    card = CARDS.get(node.use)
    if card is None:
        return sentence(node.clause)
    words = card.sentence
    for name, slot in card.slots.items():
        words = words.replace(f"{{{name}}}", node.slots.get(name, slot.default) or slot.kind.blank)
    return words


def outline(graph: Graph) -> list[str]:
    """Every card once, indented below what leads to it, with the output it hangs on; then the values and what is left over."""
    nodes = {node.id: node for node in graph.nodes}
    follows: dict[int, list[tuple[str, int, str]]] = {}
    entered: set[int] = set()
    for start, end in wires_of(graph):
        one, other = nodes[start.node], nodes[end.node]
        ports, theirs = ports_of(one.use), ports_of(other.use)
        output = find_output(ports, start.port, cases_of(one.slots.get("cases", "1, 2"))) if ports else None
        port = find_input(theirs, end.port) if theirs else None
        follows.setdefault(start.node, []).append((output or start.port, end.node, port or end.port))
        entered.add(end.node)
    came: dict[int, list[str]] = {}
    for start, end in wires_of(graph, values=True):
        came.setdefault(end.node, []).append(f"{end.port} from {start.node}")
    told: set[int] = set()

    def tell(number: int, depth: int, lead: str) -> Iterator[str]:
        node = nodes[number]
        values = f"  ({', '.join(came[number])})" if number in came else ""
        if number in told:
            yield f"{'  ' * depth}{lead}to card {number} above"
            return
        told.add(number)
        yield f"{'  ' * depth}{lead}{number}. {card_words(node)}{values}"
        ports = ports_of(node.use)
        several = ports is not None and len(ports.outputs) > 1
        ranks = {name: rank for rank, name in enumerate(ports.outputs)} if ports is not None else {}
        # an output's wires keep their order; of several outputs the first comes first
        for output, to, port in sorted(follows.get(number, ()), key=lambda f: ranks.get(f[0], 0)):
            theirs = ports_of(nodes[to].use)
            into = f"({port}) " if theirs is not None and len(theirs.inputs) > 1 else ""
            yield from tell(to, depth + 1, f"{output}: {into}" if several else into)

    lines: list[str] = []
    firsts = [n for n in sorted(nodes) if _is_occasion(nodes[n])]
    lefts = [n for n in sorted(nodes) if n not in entered and n not in firsts]
    for number in firsts:
        lines += tell(number, 0, "")
    for number in (*lefts, *sorted(nodes)):
        if number not in told:
            ports = ports_of(nodes[number].use)
            lines += tell(number, 0, "" if ports is not None and not ports.inputs else "not reached: ")
    return lines


def _is_occasion(node: Node) -> bool:
    entry = CATALOGUE.get(node.use)
    return entry is not None and entry.group == "occasion"
