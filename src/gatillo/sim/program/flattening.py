"""Replacing each card that uses an own node by the cards of that node.

So each use keeps for itself what it keeps, and there is one way in which graphs run.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import A_ROLE, A_VALUE, CARDS, MATCHES, PASS
from gatillo.catalogue.cards.own_nodes import faces
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.language.renaming import Change, change_of_role, change_slots
from gatillo.level.graphs import INPUT, OUTPUT, OWN, End, end_of
from gatillo.level.model import Graph, Node, Wire
from gatillo.level.naming import did_you_mean

DEEPEST = 20
"""How deep own nodes may stand within one another."""
MOST_CARDS = 20_000
"""Cards that the own nodes of a level may have in all, each in every place where it is used."""
FIRST = 1 << 20
"""The numbers of cards of own nodes begin here: above all that a file may hold."""
_GIVEN = "given"
"""What a value is called that comes by a wire."""
Problem = Callable[[Node | None, str, str], None]


@dataclass(frozen=True, slots=True)
class Origin:
    """Where a card of an own node comes from: the card of the whole graph in whose place it stands, and its way there."""

    card: int
    way: str
    """Such as `in “Find the nearest”, card 3`."""
    graph: int = 0
    """The own node in which it stands, by its id."""
    number: int = 0
    """Its number there."""


@dataclass(slots=True)
class Flat:
    """A graph with its own nodes in their places."""

    graph: Graph
    origins: dict[int, Origin] = field(default_factory=dict)
    shared: dict[int, tuple[int, int]] = field(default_factory=dict)
    """By card of a shared own node: under which graph and card it keeps what it keeps."""
    wire_of: tuple[int, ...] | None = None
    """By wire of signals: its number in the graph as it is written, -1 for one within an own node; None: the same."""
    uses: tuple[Graph, ...] = ()
    """The graphs that it uses, and that those use."""
    refused: bool = False
    """Whether its own nodes have more cards than there is room for: it cannot run."""


class _Sizes:
    """How many cards own nodes have with those within them in their places, counted without putting them there."""

    def __init__(self, graphs: Mapping[str, Graph]) -> None:
        self.graphs = graphs
        self._known: dict[str, int] = {}
        self._at: set[str] = set()

    def within(self, graph: Graph) -> int:
        """Return the cards of all own nodes that a graph uses."""
        return sum(self._of(name) for name in _uses(graph))

    def _of(self, name: str) -> int:
        found = self._known.get(name)
        if found is not None:
            return found
        graph = self.graphs.get(name)
        # cycles and too deep nesting are reported when the cards are put in place
        if graph is None or not is_own_node(graph) or name in self._at or len(self._at) > DEEPEST:
            return 0
        self._at.add(name)
        self._known[name] = many = len(graph.nodes) + self.within(graph)
        self._at.remove(name)
        return many

    def largest_way(self, graph: Graph) -> list[str]:
        """Return the names of the own nodes that have most cards, each within the one before."""
        way: list[str] = []
        while len(way) <= DEEPEST:
            largest = max(_uses(graph), key=self._of, default="")
            if not self._of(largest):
                break
            way.append(largest)
            graph = self.graphs[largest]
        return way


def _uses(graph: Graph) -> list[str]:
    return [node.slots.get("graph", "") for node in graph.nodes if node.use == OWN]


@dataclass(slots=True)
class _Placed:
    """A graph's cards and wires with its own nodes in their places, and the numbers that its cards have there."""

    nodes: list[Node] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)
    wire_of: list[int] = field(default_factory=list)
    values: list[Wire] = field(default_factory=list)
    numbers: dict[int, int] = field(default_factory=dict)


_Inner = dict[int, tuple[Graph, dict[int, int]]]
"""By card that uses an own node: that graph, and the numbers that its cards have now."""


def flattened(graph: Graph, graphs: Mapping[str, Graph], problem: Problem, room: int = MOST_CARDS) -> Flat:
    """Return the graph with every own node's cards in the place of the card that uses it; problems are reported.

    `room` is the maximum number of cards of own nodes. Above it the graph is returned unchanged, with one problem.
    """
    flat = Flat(graph)
    if not any(node.use == OWN for node in graph.nodes) and not is_own_node(graph):
        return flat
    sizes = _Sizes(graphs)
    many = sizes.within(graph)
    if many > room:
        way = sizes.largest_way(graph)
        first = next((n for n in graph.nodes if n.use == OWN and n.slots.get("graph", "") == way[0]), None)
        named = " → ".join(f"“{name}”" for name in way[:6]) + (" → …" if len(way) > 6 else "")
        problem(
            first,
            "graph",
            f"in their places own nodes would have {f'{many:,}' if many < 1e9 else 'over a billion'} cards here, by way of {named}; "
            f"those of a level may have {MOST_CARDS:,} in all. Use fewer of them within one another",
        )
        flat.refused = True
        return flat
    work = _Flattening(graphs, problem)
    placed = work.placed(graph, None, (graph.name,), {})
    flat.graph = replace(
        graph, nodes=tuple(placed.nodes), wires=tuple(placed.wires), values=tuple(placed.values)
    )
    flat.wire_of = tuple(placed.wire_of)
    flat.origins, flat.shared, flat.uses = work.origins, work.shared, tuple(work.uses.values())
    return flat


class _Flattening:
    def __init__(self, graphs: Mapping[str, Graph], problem: Problem) -> None:
        self.graphs = graphs
        self.problem = problem
        self.origins: dict[int, Origin] = {}
        self.uses: dict[str, Graph] = {}
        self.shared: dict[int, tuple[int, int]] = {}
        self.next = FIRST

    def placed(self, graph: Graph, at: Origin | None, path: tuple[str, ...], who: dict[str, str]) -> _Placed:
        """Return the cards and wires of a graph, its own nodes in their places; within another with numbers of their own.

        `who` are the roles that are given to it, by the names of its inputs.
        """
        found, inner = _Placed(), _Inner()
        graph = self.speaking_of(graph, who)
        # by their numbers, as they would stand in the whole graph
        for node in sorted(graph.nodes, key=lambda n: n.id):
            number = node.id
            if node.use == INPUT and node.slots.get("carries") == A_ROLE:
                continue
            if at is not None:
                number, self.next = self.next, self.next + 1
                self.origins[number] = Origin(at.card, f"{at.way}, card {node.id}", graph.id, node.id)
                if graph.shared and node.use in CARDS and CARDS[node.use].shares:
                    self.shared[number] = graph.id, node.id
            found.numbers[node.id] = number
            if node.use != OWN:
                found.nodes.append(_as_plain(replace(node, id=number)))
                continue
            used = self.used(graph, node, at, path)
            if used is None:
                continue
            before = f"{self.origins[number].way}, " if at is not None else ""
            origin = Origin(at.card if at is not None else node.id, f"{before}in “{used.name}”")
            roles = faces(used, INPUT, A_ROLE)
            given = {name: node.slots[name] for name in roles if name in node.slots}
            known = {"graph", *roles, *faces(used, INPUT, A_VALUE)}
            for slot in (name for name in node.slots if name not in known):
                there = ", ".join(sorted(known - {"graph"})) or "none"
                self.report(
                    graph, node.id, at, slot, f"“{used.name}” has no slot “{slot}”; there are: {there}"
                )
            more = self.placed(used, origin, (*path, used.name), given)
            inner[node.id] = used, more.numbers
            found.nodes += more.nodes
            found.wires += more.wires
            found.wire_of += [-1] * len(more.wires)
            found.values += more.values
        self.wire(graph, at, found, inner)
        self.give(graph, at, found, inner)
        return found

    def speaking_of(self, graph: Graph, who: dict[str, str]) -> Graph:
        """Return the graph with the roles that are given to it, or that stand in its inputs, in the place of their names."""
        changes = [
            change_of_role(name, who.get(name, node.slots.get("value", "")))
            for name, node in faces(graph, INPUT, A_ROLE).items()
        ]
        if not changes:
            return graph
        return replace(graph, nodes=tuple(self.changed(node, changes) for node in graph.nodes))

    def changed(self, node: Node, changes: list[Change]) -> Node:
        if node.use == INPUT and node.slots.get("carries") == A_ROLE:
            return node
        clause = node.clause
        for change in changes:
            clause = change_slots(clause, change)
            used = self.graphs.get(node.slots.get("graph", "")) if node.use == OWN else None
            if used is not None:
                # what is given to an own node in turn
                types = dict.fromkeys(faces(used, INPUT, A_ROLE), "role")
                types |= dict.fromkeys(faces(used, INPUT, A_VALUE), "value")
                slots = {n: change(types[n], t) if n in types else t for n, t in clause.slots.items()}
                clause = replace(clause, slots=slots)
        return replace(node, slots=clause.slots, of=clause.of)

    def wire(self, graph: Graph, at: Origin | None, found: _Placed, inner: _Inner) -> None:
        """The wires of matches, at the cards that stand there now."""
        for number, wire in enumerate(graph.wires):
            start, end = end_of(wire.start), end_of(wire.end)
            one = self.face(graph, start, inner, found.numbers, OUTPUT, at)
            other = self.face(graph, end, inner, found.numbers, INPUT, at)
            if one is not None and other is not None:
                found.wires.append(Wire(start=str(one), end=str(other)))
                found.wire_of.append(number if at is None else -1)

    def give(self, graph: Graph, at: Origin | None, found: _Placed, inner: _Inner) -> None:
        """The wires of values, and what is written in the slots of own nodes."""
        nodes = {node.id: node for node in graph.nodes}
        texts: dict[int, str] = {}
        for number, (used, theirs) in inner.items():
            for name, face in faces(used, INPUT, A_VALUE).items():
                if name in nodes[number].slots:
                    texts[theirs[face.id]] = nodes[number].slots[name]
        for wire in graph.values:
            start, end = end_of(wire.start), end_of(wire.end)
            one = self.value_end(graph, start, inner, found.numbers, at)
            if one is None or end is None or end.node not in found.numbers:
                continue
            to, port = found.numbers[end.node], end.port
            if end.node in inner:
                used, theirs = inner[end.node]
                given = faces(used, INPUT, A_VALUE).get(end.port)
                if given is None:
                    known = ", ".join(faces(used, INPUT, A_VALUE)) or "none"
                    sentence = f"“{used.name}” has no value input “{end.port}”; there are: {known}"
                    self.report(graph, end.node, at, end.port, sentence)
                    continue
                to, port = theirs[given.id], _GIVEN
                texts[to] = _GIVEN
            elif nodes[end.node].use == OUTPUT and end.port == "value":
                port = texts[to] = _GIVEN
            found.values.append(Wire(start=str(one), end=str(End(to, port))))
        found.nodes = [replace(n, slots={"value": texts[n.id]}) if n.id in texts else n for n in found.nodes]

    def used(self, graph: Graph, node: Node, at: Origin | None, path: tuple[str, ...]) -> Graph | None:
        """Return the graph that a card uses, if it may."""
        name = node.slots.get("graph", "")
        found = self.graphs.get(name)
        if found is None or not is_own_node(found):
            own = [n for n, g in self.graphs.items() if is_own_node(g)]
            why = f"there is no own node called “{name}”{did_you_mean(name, own)}"
            if found is not None:
                why = f"“{name}” is no own node: it needs inputs or outputs, and no occasion"
            self.report(graph, node.id, at, "graph", why)
            return None
        if name in path:
            round_ = " → ".join(f"“{n}”" for n in (*path[path.index(name) :], name))
            self.report(
                graph, node.id, at, "graph", f"these would stand within one another for ever: {round_}"
            )
            return None
        if len(path) > DEEPEST:
            self.report(graph, node.id, at, "graph", "too many own nodes stand within one another here")
            return None
        self.uses[name] = found
        return found

    def face(
        self,
        graph: Graph,
        end: End | None,
        inner: _Inner,
        numbers: dict[int, int],
        use: str,
        at: Origin | None,
    ) -> End | None:
        """Return an end of a wire of matches, at the card that stands there now."""
        if end is None or end.node not in numbers:
            return None
        if end.node not in inner:
            used = next(n for n in graph.nodes if n.id == end.node).use == OWN
            return None if used else End(numbers[end.node], end.port)
        used_graph, theirs = inner[end.node]
        there = faces(used_graph, use, MATCHES)
        name = end.port or next(iter(there), "")
        found = there.get(name)
        if found is None:
            what = "output" if use == OUTPUT else "input"
            known = f"; there are: {', '.join(there)}" if there else ""
            self.report(graph, end.node, at, "", f"“{used_graph.name}” has no {what} “{name}”{known}")
            return None
        return End(theirs[found.id])

    def value_end(
        self, graph: Graph, start: End | None, inner: _Inner, numbers: dict[int, int], at: Origin | None
    ) -> End | None:
        """Return where a value comes from, at the card that stands there now."""
        if start is None or start.node not in numbers:
            return None
        if start.node not in inner:
            return End(numbers[start.node], start.port)
        used, theirs = inner[start.node]
        there = faces(used, OUTPUT, A_VALUE)
        name = start.port or next(iter(there), "")
        found = there.get(name)
        if found is None:
            known = ", ".join(there) or "none"
            self.report(
                graph, start.node, at, "", f"“{used.name}” gives no value “{name}”; there are: {known}"
            )
            return None
        return End(theirs[found.id])

    def report(self, graph: Graph, number: int, at: Origin | None, slot: str, sentence: str) -> None:
        node = next((n for n in graph.nodes if n.id == number), None)
        if at is not None:
            # reported at the card of the whole graph
            self.problem(Node(id=at.card, use=OWN), "", f"{at.way}, card {number}: {sentence}")
        else:
            self.problem(node, slot, sentence)


def _as_plain(node: Node) -> Node:
    """Return an input or an output as a card that hands on, or as a formula."""
    if node.use not in (INPUT, OUTPUT):
        return node
    if node.slots.get("carries", MATCHES) == MATCHES:
        return replace(node, use=PASS, slots={})
    return replace(node, use="formula", slots={"value": node.slots.get("value", "0")})
