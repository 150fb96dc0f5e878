"""Edits of graphs: cards, wires, frames. None of them changes the level it is given."""

from __future__ import annotations

from collections.abc import Callable, Collection

from msgspec.structs import replace

from gatillo.level.edits import change_logic
from gatillo.level.graphs import End, end_of
from gatillo.level.model import Clause, Frame, Graph, Level, Logic, Node, Wire
from gatillo.level.naming import free_name
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import add_rule, logic_of

STEP = 40.0
"""By how much copies of cards are put to the right and down, in pixels at 100 %."""


def graph_of(level: Level, graph_id: int) -> Graph:
    """Return the graph of an id. Raises KeyError if there is none."""
    found = logic_of(level, graph_id)
    if not isinstance(found, Graph):
        raise KeyError(f"“{found.name}” is a rule, not a graph")
    return found


def change_graph(level: Level, graph_id: int, change: Callable[[Graph], Graph]) -> Level:
    """Return the level with one graph changed. Raises KeyError if there is no graph of that id."""

    def changed(entry: Logic) -> Logic:
        if not isinstance(entry, Graph):
            raise KeyError(f"“{entry.name}” is a rule, not a graph")
        return change(entry)

    return change_logic(level, graph_id, changed)


def add_graph(level: Level, name: str, after: int | None = None, section: str = "") -> tuple[Level, int]:
    """Put an empty graph into the order list; the level and the graph's id."""
    taken = {entry.name for _, _, entry in all_logic(level)}
    name = name if name not in taken else free_name(name, taken)
    return add_rule(level, Graph(id=0, name=name), after, section)


def free_number(graph: Graph) -> int:
    """Return a number above every card's."""
    return max((node.id for node in graph.nodes), default=0) + 1


def add_card(level: Level, graph_id: int, clause: Clause, x: float, y: float) -> tuple[Level, int]:
    """Put a card on a graph's sheet; the level and the card's number."""
    number = free_number(graph_of(level, graph_id))
    node = Node(id=number, use=clause.use, slots=clause.slots, at=(x, y), once=clause.once, of=clause.of)
    return change_graph(level, graph_id, lambda g: replace(g, nodes=(*g.nodes, node))), number


def change_cards(
    level: Level, graph_id: int, numbers: Collection[int], change: Callable[[Node], Node]
) -> Level:
    """Return the level with some cards of a graph changed."""
    return change_graph(
        level,
        graph_id,
        lambda g: replace(g, nodes=tuple([change(n) if n.id in numbers else n for n in g.nodes])),
    )


def set_card_slot(level: Level, graph_id: int, number: int, slot: str, text: str) -> Level:
    """Put a text into a card's slot; an empty one leaves the slot to its default."""

    def changed(node: Node) -> Node:
        slots = {name: old for name, old in node.slots.items() if name != slot}
        return replace(node, slots={**slots, slot: text} if text else slots)

    return change_cards(level, graph_id, (number,), changed)


def move_cards(level: Level, graph_id: int, numbers: Collection[int], dx: float, dy: float) -> Level:
    """Move cards on their sheet."""
    return change_cards(
        level, graph_id, numbers, lambda n: replace(n, at=(round(n.at[0] + dx, 1), round(n.at[1] + dy, 1)))
    )


def delete_cards(level: Level, graph_id: int, numbers: Collection[int]) -> Level:
    """Take cards away, with every wire that ends at one of them."""

    def stays(wire: Wire) -> bool:
        ends = end_of(wire.start), end_of(wire.end)
        return all(end is not None and end.node not in numbers for end in ends)

    def changed(graph: Graph) -> Graph:
        return replace(
            graph,
            nodes=tuple(n for n in graph.nodes if n.id not in numbers),
            wires=tuple(filter(stays, graph.wires)),
            values=tuple(filter(stays, graph.values)),
        )

    return change_graph(level, graph_id, changed)


def add_wire(
    level: Level, graph_id: int, start: End, end: End, *, value: bool = False, at: int | None = None
) -> Level:
    """Wire an output to an input, or a value to a slot; as the last wire, or at a place among them.

    A wire that is there already stays; a slot takes one value, so that an older wire into it goes.
    """
    wire = Wire(start=str(start), end=str(end))

    def changed(graph: Graph) -> Graph:
        wires = list(graph.values if value else graph.wires)
        if wire in wires:
            return graph
        if value:
            wires = [w for w in wires if w.end != wire.end]
        wires.insert(len(wires) if at is None else at, wire)
        return replace(graph, **{"values" if value else "wires": tuple(wires)})

    return change_graph(level, graph_id, changed)


def cut_wire(level: Level, graph_id: int, wire: Wire, *, value: bool = False) -> Level:
    """Take a wire away."""
    field = "values" if value else "wires"
    return change_graph(
        level, graph_id, lambda g: replace(g, **{field: tuple(w for w in getattr(g, field) if w != wire)})
    )


def renumber_wire(level: Level, graph_id: int, wire: Wire, by: int) -> Level:
    """Move a wire earlier (by < 0) or later among those of its output."""

    def changed(graph: Graph) -> Graph:
        wires = list(graph.wires)
        mine = [i for i, w in enumerate(wires) if w.start == wire.start]
        at = next((place for place, i in enumerate(mine) if wires[i] == wire), None)
        if at is None:
            return graph
        to = min(max(at + by, 0), len(mine) - 1)
        order = [wires[i] for i in mine]
        order.insert(to, order.pop(at))
        for i, moved in zip(mine, order, strict=True):
            wires[i] = moved
        return replace(graph, wires=tuple(wires))

    return change_graph(level, graph_id, changed)


def renumber_card(level: Level, graph_id: int, number: int, new: int) -> Level:
    """Give a card another number, by which occasions take their turns; one that has it already changes with it."""

    def swapped(n: int) -> int:
        return {number: new, new: number}.get(n, n)

    def moved(text: str) -> str:
        end = end_of(text)
        return text if end is None else str(End(swapped(end.node), end.port))

    def wires(given: tuple[Wire, ...]) -> tuple[Wire, ...]:
        return tuple(Wire(start=moved(w.start), end=moved(w.end)) for w in given)

    def changed(graph: Graph) -> Graph:
        if all(node.id != number for node in graph.nodes):
            raise KeyError(f"there is no card with the number {number}")
        return replace(
            graph,
            nodes=tuple(replace(n, id=swapped(n.id)) for n in graph.nodes),
            wires=wires(graph.wires),
            values=wires(graph.values),
        )

    return change_graph(level, graph_id, changed)


def part_of(graph: Graph, numbers: Collection[int]) -> Graph:
    """Return some cards of a graph, with the wires among them: what is copied."""

    def inside(wire: Wire) -> bool:
        ends = end_of(wire.start), end_of(wire.end)
        return all(end is not None and end.node in numbers for end in ends)

    return Graph(
        id=0,
        name=graph.name,
        nodes=tuple(n for n in graph.nodes if n.id in numbers),
        wires=tuple(filter(inside, graph.wires)),
        values=tuple(filter(inside, graph.values)),
    )


def paste_cards(
    level: Level, graph_id: int, part: Graph, dx: float = STEP, dy: float = STEP
) -> tuple[Level, list[int]]:
    """Put copied cards, and the wires among them, into a graph; the level and the numbers that they have there."""
    first = free_number(graph_of(level, graph_id))
    numbers = {node.id: first + at for at, node in enumerate(sorted(part.nodes, key=lambda n: n.id))}

    def moved(text: str) -> str:
        end = end_of(text)
        return text if end is None else str(End(numbers.get(end.node, end.node), end.port))

    def wires(given: tuple[Wire, ...]) -> tuple[Wire, ...]:
        return tuple(Wire(start=moved(w.start), end=moved(w.end)) for w in given)

    nodes = tuple(replace(n, id=numbers[n.id], at=(n.at[0] + dx, n.at[1] + dy)) for n in part.nodes)

    def changed(graph: Graph) -> Graph:
        return replace(
            graph,
            nodes=(*graph.nodes, *nodes),
            wires=(*graph.wires, *wires(part.wires)),
            values=(*graph.values, *wires(part.values)),
        )

    return change_graph(level, graph_id, changed), [node.id for node in nodes]


def add_frame(
    level: Level, graph_id: int, title: str, at: tuple[float, float], size: tuple[float, float]
) -> Level:
    """Put a titled frame on a graph's sheet."""
    frame = Frame(title=title, at=at, size=size)
    return change_graph(level, graph_id, lambda g: replace(g, frames=(*g.frames, frame)))
