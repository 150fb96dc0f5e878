"""The structure of graphs, apart from what their cards do: wires, their ends, circles."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from gatillo.level.model import Graph, Wire

OWN, INPUT, OUTPUT = "own", "input", "output"
"""Own nodes: the card that uses one, and the cards of its face."""
_END = re.compile(r"(\d{1,7})(?:\.([^\s.][^.]*))?")


@dataclass(frozen=True, slots=True)
class End:
    """One end of a wire: a card by its number, and a port of it; "" for its first."""

    node: int
    port: str = ""

    def __str__(self) -> str:
        return f"{self.node}.{self.port}" if self.port else str(self.node)


@lru_cache(maxsize=65_536)
def end_of(text: str) -> End | None:
    """Return the end that a text such as `3.yes` names; None where it names none."""
    found = _END.fullmatch(text.strip())
    return End(int(found[1]), found[2] or "") if found else None


def wires_of(graph: Graph, *, values: bool = False) -> Iterator[tuple[End, End]]:
    """Yield both ends of every wire (of signals, or of values) that names cards of the graph, in their order."""
    known = {node.id for node in graph.nodes}
    for wire in graph.values if values else graph.wires:
        start, end = end_of(wire.start), end_of(wire.end)
        if start is not None and end is not None and {start.node, end.node} <= known:
            yield start, end


def circle(edges: Iterable[tuple[int, int]]) -> list[int]:
    """Return cards that lead back to the first of them, in their order; empty where nothing leads back.

    Tarjan, Depth-first search and linear graph algorithms, SIAM Journal on Computing 1 (1972): without recursion.
    """
    follows: dict[int, list[int]] = {}
    for one, other in edges:
        follows.setdefault(one, []).append(other)
    done: set[int] = set()
    for first in follows:
        if first in done:
            continue
        path, on_path, ahead = [first], {first}, [iter(follows[first])]
        while path:
            following = next(ahead[-1], None)
            if following is None:
                done.add(path[-1])
                on_path.discard(path.pop())
                ahead.pop()
            elif following in on_path:
                return path[path.index(following) :]
            elif following not in done:
                path.append(following)
                on_path.add(following)
                ahead.append(iter(follows.get(following, ())))
    return []


def longest_way(edges: Iterable[tuple[int, int]]) -> list[int]:
    """Return the cards of the longest way along edges that lead nowhere back, in their order; empty without edges.

    Kahn, Topological sorting of large networks, Communications of the ACM 5 (1962).
    """
    follows: dict[int, list[int]] = {}
    waits: dict[int, int] = {}
    for one, other in edges:
        follows.setdefault(one, []).append(other)
        waits.setdefault(one, 0)
        waits[other] = waits.get(other, 0) + 1
    before: dict[int, int | None] = {card: None for card, many in waits.items() if not many}
    length = dict.fromkeys(before, 1)
    ready = list(before)
    for card in ready:
        for other in follows.get(card, ()):
            if length[card] >= length.get(other, 0):
                length[other], before[other] = length[card] + 1, card
            waits[other] -= 1
            if not waits[other]:
                ready.append(other)
    way: list[int] = []
    card_: int | None = max(length, key=lambda n: length[n], default=None)
    while card_ is not None:
        way.append(card_)
        card_ = before[card_]
    return way[::-1]


def structure_flaws(graph: Graph, path: str) -> Iterator[tuple[str, str]]:
    """Yield what is wrong with a graph whatever its cards do: where, and a sentence."""
    known: set[int] = set()
    for at, node in enumerate(graph.nodes):
        if node.id in known:
            yield f"{path}.nodes[{at}].id", f"two cards have the number {node.id}; numbers must differ"
        known.add(node.id)
    for field, wires in (("wires", graph.wires), ("values", graph.values)):
        for at, wire in enumerate(wires):
            yield from _wire_flaws(wire, known, f"{path}.{field}[{at}]")


def _wire_flaws(wire: Wire, known: set[int], path: str) -> Iterator[tuple[str, str]]:
    for side, text in (("from", wire.start), ("to", wire.end)):
        end = end_of(text)
        if end is None:
            yield (
                f"{path}.{side}",
                f"“{text[:40]}” is no end of a wire; write a card's number and its port, such as 3.yes",
            )
        elif end.node not in known:
            yield f"{path}.{side}", f"there is no card with the number {end.node}"


def given_in(text: str) -> dict[str, str]:
    """Return what a line gives to the inputs of an own node, by their names: `reach = 70, tool = Lantern`.

    Raises ValueError with a sentence for what is not of that form.
    """
    found: dict[str, str] = {}
    for piece in _pieces(text):
        name, equals, value = (part.strip() for part in piece.partition("="))
        if not piece.strip():
            continue
        if not equals or not name or not value or value.startswith("="):
            raise ValueError(
                f"“{piece.strip()}” gives nothing; write an input's name and what it is, such as reach = 70"
            )
        if name in found:
            raise ValueError(f"“{name}” is given twice")
        found[name] = value
    return found


def given_as_text(given: dict[str, str]) -> str:
    """Return what is given, as a line has it."""
    return ", ".join(f"{name} = {value}" for name, value in given.items())


_MARKS = re.compile(r'"(?:[^"]|"")*"|[(),]|[^"(),]+|"')


def _pieces(text: str) -> list[str]:
    """Return the text parted at commas outside brackets and quotes."""
    found, depth = [""], 0
    for mark in _MARKS.findall(text):
        depth += {"(": 1, ")": -1}.get(mark, 0)
        if mark == "," and depth <= 0:
            found.append("")
        else:
            found[-1] += mark
    return found
