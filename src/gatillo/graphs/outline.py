"""A graph as numbered lines in the order in which its cards run: for reading, printing and screen readers."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import (
    CARD_ENTRIES,
    CARDS,
    CASES,
    NUMBERED,
    cases_of,
    find_input,
    find_output,
    ports_of,
)
from gatillo.language.sentence import Piece, pieces, sentence
from gatillo.level.graphs import End, wires_of
from gatillo.level.model import Clause, Graph, Node


def wired_slots(graph: Graph) -> dict[int, dict[str, str]]:
    """Return for each card the slots into which a value comes, with the number of the card that gives it."""
    found: dict[int, dict[str, str]] = {}
    for start, end in wires_of(graph, values=True):
        found.setdefault(end.node, {})[end.port] = f"[{start.node}]"
    return found


def card_words(node: Node, wired: dict[str, str] | None = None) -> str:
    """Return a card as its sentence. A slot that is filled by a value wire shows the number of the card at its start."""
    return "".join(piece.text for piece in card_pieces(node, wired))


def card_pieces(node: Node, wired: dict[str, str] | None = None) -> list[Piece]:
    """Return a card's sentence in pieces, each with its slot; values given to an own node's inputs come last."""
    card = CARDS.get(node.use)
    slots = {**node.slots, **(wired or {})}
    if card is None:
        entry = CATALOGUE.get(node.use)
        known = {name: text for name, text in slots.items() if entry is None or name in entry.slots}
        return pieces(Clause(use=node.use, slots=known, once=node.once, of=node.of))
    found: list[Piece] = []
    for text, name in CARD_ENTRIES[node.use].parts() if node.use in CARD_ENTRIES else (("", "graph"),):
        if name is None:
            found.append(Piece(text))
        elif name in card.slots:
            filled, kind = slots.get(name, card.slots[name].default), card.slots[name].kind
            found.append(Piece(filled or kind.blank, kind.look, name, not filled))
    if node.of:
        found.append(Piece(": " + "; ".join(sentence(clause) for clause in node.of)))
    for name, text in slots.items():
        if name not in card.slots:
            found += [Piece(f", {name} = "), Piece(text, "value", name)]
    return found


Told = tuple[int, int, int | None]
"""A card's number, how deep it is, and the card that it hangs on."""


def outline_order(graph: Graph) -> list[Told]:
    """Return every card once, in the order in which they run: from each occasion, depth first; then what nothing reaches."""
    return [(step.number, step.depth, step.above) for step in _steps(graph) if step.first]


def outline_cards(graph: Graph) -> list[tuple[int, int, str]]:
    """Return every card once, in the order in which they run: its number, how deep it is, and the output it hangs on, “yes: ”."""
    return [(step.number, step.depth, step.lead) for step in _steps(graph) if step.first]


DEEPEST_INDENT = 40
"""Cards deeper than this are indented no further: a chain may be thousands long."""


def outline(graph: Graph) -> list[str]:
    """Return a graph's cards as indented lines in the order in which they run, each with the output that leads to it."""
    return list(outline_lines(graph))


def outline_lines(graph: Graph) -> Iterator[str]:
    """Yield the lines of `outline` one by one, for who needs only the first of them."""
    nodes, wired = {node.id: node for node in graph.nodes}, wired_slots(graph)
    for step in _steps(graph):
        indent = "  " * min(step.depth, DEEPEST_INDENT)
        if not step.first:
            yield f"{indent}{step.lead}to card {step.number} above"
            continue
        words = card_words(nodes[step.number], wired.get(step.number))
        yield f"{indent}{step.lead}{step.number}. {words}"


@dataclass(frozen=True, slots=True)
class _Step:
    number: int
    depth: int
    above: int | None
    lead: str
    first: bool
    """Whether the card is described here; else it was described above."""


def _steps(graph: Graph) -> Iterator[_Step]:
    """Yield the way through a graph, without recursion: a chain may be very long."""
    nodes = {node.id: node for node in graph.nodes}
    wires: dict[int, list[tuple[End, End]]] = {}
    entered: set[int] = set()
    for start, end in wires_of(graph):
        wires.setdefault(start.node, []).append((start, end))
        entered.add(end.node)
    firsts = [n for n in sorted(nodes) if _is_occasion(nodes[n])]
    lefts = [n for n in sorted(nodes) if n not in entered and n not in firsts]
    seen: set[int] = set()
    for start_number in (*firsts, *lefts, *sorted(nodes)):
        if start_number in seen:
            continue
        ports = ports_of(nodes[start_number].use)
        lead = "" if ports is not None and not ports.inputs else "not reached: "
        ahead: list[tuple[int, int, int | None, str]] = [(start_number, 0, None, lead)]
        while ahead:
            number, depth, above, words = ahead.pop()
            first = number not in seen
            yield _Step(number, depth, above, words, first)
            if first:
                seen.add(number)
                below = _followers(nodes, wires.get(number, ()))
                ahead += [(to, depth + 1, number, lead) for lead, to in reversed(below)]


def _followers(nodes: dict[int, Node], wires: Iterable[tuple[End, End]]) -> list[tuple[str, int]]:
    """Return where the wires of one card lead, in the order in which that runs, each with the output it hangs on."""
    found: list[tuple[int, str, int]] = []
    for start, end in wires:
        node = nodes[start.node]
        ports, theirs = ports_of(node.use), ports_of(nodes[end.node].use)
        cases = cases_of(node.slots.get("cases", "1, 2"))
        output = (find_output(ports, start.port, cases) if ports else None) or start.port
        into = (find_input(theirs, end.port) if theirs else None) or end.port
        several = ports is not None and (len(ports.outputs) > 1 or ports.outputs == (CASES,))
        lead = f"{output}: " if several and output else ""
        if theirs is not None and theirs.inputs and into != theirs.inputs[0]:
            lead += f"({into}) "
        # an output's wires keep their order; of several outputs the first comes first
        found.append((_rank(ports.outputs if ports is not None else (), output, cases), lead, end.node))
    return [(lead, to) for _, lead, to in sorted(found, key=lambda one: one[0])]


def _rank(outputs: tuple[str, ...], output: str, cases: tuple[str, ...]) -> int:
    """Return the place of an output among those of its card."""
    if output.isdecimal() and NUMBERED in outputs:
        return int(output)
    names = [name for given in outputs for name in (cases if given == CASES else (given,))]
    return names.index(output) if output in names else 0


def _is_occasion(node: Node) -> bool:
    entry = CATALOGUE.get(node.use)
    return entry is not None and entry.group == "occasion"
