"""Folding some cards of a graph into an own node, and putting an own node's cards back in the place of its card.

What fires, in which order, and what it does stays; random draws of cards that move are others, since they are keyed by place.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping

from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import A_ROLE, A_VALUE, MATCHES, find_output, ports_of
from gatillo.catalogue.cards.own_nodes import faces
from gatillo.catalogue.entries.own import OWN_LINES
from gatillo.language.renaming import change_of_role, change_slots
from gatillo.level.edits import change_logic
from gatillo.level.graph_edits import free_number, graph_of
from gatillo.level.graphs import INPUT, OUTPUT, OWN, End, end_of, given_as_text, given_in
from gatillo.level.model import Clause, Graph, Level, Logic, Node, Wire
from gatillo.level.naming import free_name
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import add_rule

AWAY = 90.0
"""Pixels from the cards to the faces of a new own node."""


class NoFolding(Exception):
    """Cards that cannot be folded, or a card that cannot be unfolded; the message says what is in the way."""


def fold(level: Level, graph_id: int, numbers: Collection[int], name: str) -> tuple[Level, int, int]:
    """Return some cards of a graph as an own node, with one card in their place; the level, its id, and the card's number.

    Wires that cross the border become its inputs and outputs, named after the slots and outputs that they lead to and from.
    Raises NoFolding where an occasion or a face is among the cards, or none is.
    """
    graph = graph_of(level, graph_id)
    mine = {node.id: node for node in graph.nodes if node.id in numbers}
    if not mine:
        raise NoFolding("select some cards first; they become the own node")
    for node in mine.values():
        entry = CATALOGUE.get(node.use)
        if entry is not None and entry.group == "occasion":
            raise NoFolding(f"card {node.id} is an occasion, which an own node cannot have; leave it outside")
        if node.use in (INPUT, OUTPUT):
            raise NoFolding(f"card {node.id} is a part of this own node's face; leave it outside")
    taken = {entry.name for _, _, entry in all_logic(level)}
    work = _Folding(graph, mine, name if name not in taken else free_name(name, taken))
    inner, outer = work.folded()
    level = change_logic(level, graph_id, lambda _: outer)
    section = next((s.name for _, s, e in all_logic(level) if e.id == graph_id and s is not None), "")
    level, own_id = add_rule(level, inner, graph_id, section)
    return level, own_id, work.number


class _Folding:
    def __init__(self, graph: Graph, mine: Mapping[int, Node], name: str) -> None:
        self.graph = graph
        self.mine = mine
        self.name = name
        self.number = min(mine)
        """The card in their place takes the lowest number, so that it has its turn where they had."""
        self.next = max(mine) + 1
        self.inputs: dict[str, Node] = {}
        self.outputs: dict[str, Node] = {}
        self.left = min(node.at[0] for node in mine.values())
        self.top = min(node.at[1] for node in mine.values())
        self.bottom = max(node.at[1] for node in mine.values())

    def folded(self) -> tuple[Graph, Graph]:
        """Return the own node, and the graph that uses it."""
        wires_in, wires_out = self.signals()
        values_in, values_out = self.values()
        if not self.inputs and not self.outputs:
            self.face(self.inputs, INPUT, "in", MATCHES)
        nodes = (*self.mine.values(), *self.inputs.values(), *self.outputs.values())
        graph = self.graph
        inner = Graph(
            id=0,
            name=self.name,
            for_=graph.for_,
            nodes=tuple(sorted(nodes, key=lambda n: n.id)),
            wires=tuple(wires_in),
            values=tuple(values_in),
        )
        card = Node(id=self.number, use=OWN, slots={"graph": self.name}, at=(self.left, self.top))
        rest = [n for n in graph.nodes if n.id not in self.mine]
        before = sum(n.id < self.number for n in rest)
        outer = replace(
            graph,
            nodes=(*rest[:before], card, *rest[before:]),
            wires=tuple(wires_out),
            values=tuple(values_out),
        )
        return inner, outer

    def face(self, among: dict[str, Node], use: str, wanted: str, carries: str) -> Node:
        """Return a new input or output, with a name of its own."""
        taken = {*self.inputs, *self.outputs} if use == OUTPUT else set(self.inputs)
        name, count = wanted, 1
        while name in taken or name == "graph":
            count += 1
            name = f"{wanted} {count}"
        slots = {"name": name} if carries == MATCHES else {"name": name, "carries": carries}
        down = self.top - AWAY if use == INPUT else self.bottom + AWAY
        node = Node(id=self.next, use=use, slots=slots, at=(self.left + 200.0 * len(among), down))
        self.next += 1
        among[name] = node
        return node

    def signals(self) -> tuple[list[Wire], list[Wire]]:
        """Return the wires of matches: those of the own node, and those of the graph; each where the old one stood."""
        inside: list[Wire] = []
        outside: list[Wire] = []
        entries: dict[str, Node] = {}
        leading: dict[str, Node] = {}
        """By output of a card: the face to which its last wires lead."""
        for wire in self.graph.wires:
            start, end = end_of(wire.start), end_of(wire.end)
            if start is None or end is None:
                outside.append(wire)
                continue
            here, there = start.node in self.mine, end.node in self.mine
            if here and there:
                inside.append(wire)
                leading.pop(self.output(start), None)
            elif there:
                face = entries.get(wire.end)
                if face is None:
                    face = entries[wire.end] = self.face(self.inputs, INPUT, end.port or "in", MATCHES)
                outside.append(Wire(start=wire.start, end=f"{self.number}.{face.slots['name']}"))
            elif here:
                output = self.output(start)
                face = leading.get(output)
                if face is None:
                    wanted = output.partition(".")[2] or "then"
                    face = leading[output] = self.face(self.outputs, OUTPUT, wanted, MATCHES)
                    inside.append(Wire(start=wire.start, end=str(face.id)))
                outside.append(Wire(start=f"{self.number}.{face.slots['name']}", end=wire.end))
            else:
                outside.append(wire)
        # matches come in by one way each, so these wires need no place among the others
        inside = [*(Wire(start=str(face.id), end=end) for end, face in entries.items()), *inside]
        return inside, outside

    def output(self, start: End) -> str:
        ports = ports_of(self.mine[start.node].use)
        found = find_output(ports, start.port) if ports is not None else None
        return f"{start.node}.{found or start.port or 'then'}"

    def values(self) -> tuple[list[Wire], list[Wire]]:
        """Return the wires of values: those of the own node, and those of the graph."""
        inside: list[Wire] = []
        outside: list[Wire] = []
        entries: dict[str, Node] = {}
        leaving: dict[str, Node] = {}
        for wire in self.graph.values:
            start, end = end_of(wire.start), end_of(wire.end)
            if start is None or end is None:
                outside.append(wire)
                continue
            here, there = start.node in self.mine, end.node in self.mine
            if here and there:
                inside.append(wire)
            elif there:
                face = entries.get(wire.start)
                if face is None:
                    face = entries[wire.start] = self.face(self.inputs, INPUT, end.port or "value", A_VALUE)
                    outside.append(Wire(start=wire.start, end=f"{self.number}.{face.slots['name']}"))
                inside.append(Wire(start=str(face.id), end=wire.end))
            elif here:
                face = leaving.get(wire.start)
                if face is None:
                    face = leaving[wire.start] = self.face(self.outputs, OUTPUT, end.port or "value", A_VALUE)
                    inside.append(Wire(start=wire.start, end=f"{face.id}.value"))
                outside.append(Wire(start=f"{self.number}.{face.slots['name']}", end=wire.end))
            else:
                outside.append(wire)
        return inside, outside


def unfold(level: Level, graph_id: int, number: int) -> tuple[Level, list[int]]:
    """Return an own node's cards in the place of a card that uses it; the level and their numbers. The own node itself stays.

    Raises NoFolding where the card is no own node, or one that there is not.
    """
    graph = graph_of(level, graph_id)
    card = next((n for n in graph.nodes if n.id == number and n.use == OWN), None)
    if card is None:
        raise NoFolding("select a card that is an own node; its cards take its place")
    graphs = {e.name: e for _, _, e in all_logic(level) if isinstance(e, Graph)}
    own = graphs.get(card.slots.get("graph", ""))
    if own is None or own is graph:
        raise NoFolding(f"there is no own node called “{card.slots.get('graph', '')}” to put in its place")
    work = _Unfolding(graph, card, own, graphs)
    changed = work.unfolded()

    def change(_: Logic) -> Logic:
        return changed

    return change_logic(level, graph_id, change), [n.id for n in work.placed]


class _Unfolding:
    def __init__(self, graph: Graph, card: Node, own: Graph, graphs: Mapping[str, Graph]) -> None:
        self.graph = graph
        self.card = card
        self.own = own
        self.graphs = graphs
        self.faces = {n.id: n for n in own.nodes if n.use in (INPUT, OUTPUT)}
        others = sorted((n for n in own.nodes if n.id not in self.faces), key=lambda n: n.id)
        self.next = free_number(graph)
        self.numbers = {n.id: self.next + at for at, n in enumerate(others)}
        self.next += len(others)
        top = min((n.at[1] for n in others), default=0.0)
        left = min((n.at[0] for n in others), default=0.0)
        self.shift = (card.at[0] - left, card.at[1] - top)
        self.placed = [
            replace(n, id=self.numbers[n.id], at=(n.at[0] + self.shift[0], n.at[1] + self.shift[1]))
            for n in map(self.speaking, others)
        ]

    def speaking(self, node: Node) -> Node:
        """Return a card with the roles that are given in the place of their names."""
        clause = node.clause
        for name, face in faces(self.own, INPUT, A_ROLE).items():
            change = change_of_role(name, self.card.slots.get(name, face.slots.get("value", "")))
            clause = change_slots(clause, change)
        return replace(node, slots=clause.slots, of=clause.of)

    def unfolded(self) -> Graph:
        wires = list(self.signals())
        values = list(self.values())
        rest = [n for n in self.graph.nodes if n is not self.card]
        return replace(
            self.graph, nodes=(*rest, *self.placed), wires=tuple(wires), values=tuple(dict.fromkeys(values))
        )

    # signals

    def signals(self) -> Iterator[Wire]:
        """Yield the wires of matches: through the faces, each at the place of the first of those that it is made of."""
        inner = [(end_of(w.start), end_of(w.end)) for w in self.own.wires]
        for wire in self.graph.wires:
            start, end = end_of(wire.start), end_of(wire.end)
            if start is not None and start.node == self.card.id:
                # come to by way of the inner wire that leads to this output
                continue
            if end is None or end.node != self.card.id:
                yield wire
                continue
            yield from (Wire(start=wire.start, end=to) for to in self.behind(self.way_in(end.port)))
        for start, end in inner:
            if start is None or end is None or start.node in self.faces:
                continue
            here = str(End(self.numbers[start.node], start.port)) if start.node in self.numbers else ""
            if end.node in self.faces:
                yield from (Wire(start=here, end=to) for to in self.beyond(end.node))
            elif here and end.node in self.numbers:
                yield Wire(start=here, end=str(End(self.numbers[end.node], end.port)))

    def way_in(self, port: str) -> Node | None:
        """Return the input that a wire into the card means."""
        inputs = faces(self.own, INPUT, MATCHES)
        return inputs.get(port) if port else next(iter(inputs.values()), None)

    def behind(self, face: Node | None) -> Iterator[str]:
        """Yield where matches go that come in at an input."""
        for wire in self.own.wires:
            start, end = end_of(wire.start), end_of(wire.end)
            if face is None or start is None or end is None or start.node != face.id:
                continue
            if end.node in self.faces:
                yield from self.beyond(end.node)
            elif end.node in self.numbers:
                yield str(End(self.numbers[end.node], end.port))

    def beyond(self, number: int) -> Iterator[str]:
        """Yield where matches go that leave at an output."""
        outputs = faces(self.own, OUTPUT, MATCHES)
        first = next(iter(outputs), "")
        for wire in self.graph.wires:
            start = end_of(wire.start)
            if start is None or start.node != self.card.id:
                continue
            face = outputs.get(start.port or first)
            if face is None or face.id != number:
                continue
            end = end_of(wire.end)
            if end is not None and end.node == self.card.id:
                # out, and in again
                yield from self.behind(self.way_in(end.port))
            else:
                yield wire.end

    # values

    def values(self) -> Iterator[Wire]:
        """Yield the wires of values; what was written, or stood in an input, is a formula card of its own."""
        sources = {name: self.given(name, face) for name, face in faces(self.own, INPUT, A_VALUE).items()}
        by_face = {face.id: name for name, face in faces(self.own, INPUT, A_VALUE).items()}
        outputs = faces(self.own, OUTPUT, A_VALUE)

        def source_of(start: End) -> str:
            if start.node in by_face:
                return sources[by_face[start.node]]()
            return str(End(self.numbers[start.node], start.port)) if start.node in self.numbers else ""

        def leaving(face: Node) -> str:
            for wire in self.own.values:
                start, end = end_of(wire.start), end_of(wire.end)
                if start is not None and end is not None and (end.node, end.port) == (face.id, "value"):
                    return source_of(start)
            text = face.slots.get("value", "0")
            for name, given in faces(self.own, INPUT, A_ROLE).items():
                change = change_of_role(name, self.card.slots.get(name, given.slots.get("value", "")))
                text = change("value", text)
            return self.formula(text)

        left: dict[str, str] = {}
        for wire in self.graph.values:
            start, end = end_of(wire.start), end_of(wire.end)
            if end is not None and end.node == self.card.id:
                continue
            if start is None or start.node != self.card.id:
                yield wire
                continue
            name = start.port or next(iter(outputs), "")
            if name in outputs:
                if name not in left:
                    left[name] = leaving(outputs[name])
                yield Wire(start=left[name], end=wire.end)
        for wire in self.own.values:
            start, end = end_of(wire.start), end_of(wire.end)
            if start is None or end is None or end.node not in self.numbers:
                continue
            source = source_of(start)
            if source:
                yield Wire(start=source, end=str(End(self.numbers[end.node], end.port)))

    def given(self, name: str, face: Node) -> Callable[[], str]:
        """Return where the value of an input comes from."""
        for wire in self.graph.values:
            end = end_of(wire.end)
            if end is not None and (end.node, end.port) == (self.card.id, name):
                start = wire.start
                return lambda: start
        made: list[str] = []

        def formula() -> str:
            if not made:
                made.append(self.formula(self.card.slots.get(name, face.slots.get("value", "0"))))
            return made[0]

        return formula

    def formula(self, text: str) -> str:
        """Return a new card with a formula; the end from which its value comes."""
        at = (self.card.at[0] - 280.0, self.card.at[1] + 80.0 * len(self.placed) / 4)
        self.placed.append(Node(id=self.next, use="formula", slots={"value": text}, at=at))
        self.next += 1
        return str(self.next - 1)


def _in_its_place(entry: Logic) -> Callable[[Logic], Logic]:
    return lambda _: entry


def name_face(level: Level, graph_id: int, number: int, new: str) -> tuple[Level, int]:
    """Give an input or an output of an own node another name, in all that uses it too; the level, and how many uses there are.

    A role that is given by the input is spoken of by the new name in the own node's cards. Raises KeyError where there is no such
    graph.
    """
    own = graph_of(level, graph_id)
    face = next(n for n in own.nodes if n.id == number)
    old = face.slots.get("name", "in" if face.use == INPUT else "then")
    count = 0

    def inner(node: Node) -> Node:
        if node.id == number:
            return replace(node, slots={**node.slots, "name": new})
        if face.use == INPUT and face.slots.get("carries") == A_ROLE:
            clause = change_slots(node.clause, change_of_role(old, new))
            return replace(node, slots=clause.slots, of=clause.of)
        return node

    def ends(wires: tuple[Wire, ...], uses: set[int]) -> tuple[Wire, ...]:
        def named(text: str, use: str) -> str:
            end = end_of(text)
            mine = end is not None and end.node in uses and end.port == old and face.use == use
            return str(End(end.node, new)) if mine and end is not None else text

        return tuple(Wire(start=named(w.start, OUTPUT), end=named(w.end, INPUT)) for w in wires)

    def clause_of(line: Clause) -> Clause:
        nonlocal count
        if line.use not in OWN_LINES or line.slots.get("graph") != own.name:
            return line
        count += 1
        try:
            given = given_in(line.slots.get("given", ""))
        except ValueError:
            return line
        if old not in given or face.use != INPUT:
            return line
        given = {new if name == old else name: text for name, text in given.items()}
        return replace(line, slots={**line.slots, "given": given_as_text(given)})

    def changed(entry: Logic) -> Logic:
        nonlocal count
        if not isinstance(entry, Graph):
            return replace(
                entry,
                if_=tuple(map(clause_of, entry.if_)),
                do=tuple(map(clause_of, entry.do)),
                else_=tuple(map(clause_of, entry.else_)),
            )
        nodes = tuple(map(inner, entry.nodes)) if entry.id == graph_id else entry.nodes
        uses = {n.id for n in nodes if n.use == OWN and n.slots.get("graph") == own.name}
        if not uses:
            return entry if nodes == entry.nodes else replace(entry, nodes=nodes)
        count += len(uses)
        if face.use == INPUT:
            nodes = tuple(
                replace(n, slots={new if s == old else s: t for s, t in n.slots.items()})
                if n.id in uses
                else n
                for n in nodes
            )
        return replace(entry, nodes=nodes, wires=ends(entry.wires, uses), values=ends(entry.values, uses))

    for _, _, entry in list(all_logic(level)):
        after = changed(entry)
        if after != entry:
            level = change_logic(level, entry.id, _in_its_place(after))
    return level, count
