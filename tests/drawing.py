"""Short ways to draw graphs in tests."""

from __future__ import annotations

from gatillo.level.model import Graph, Node, Wire


def card(number: int, use: str, **slots: str) -> Node:
    return Node(id=number, use=use, slots=slots)


def graph(name: str, *nodes: Node, wires: str = "", values: str = "", id: int = 900, **more) -> Graph:
    """A graph; wires are written `1>2 2.yes>3 3>4.again`, and so are values."""

    def drawn(text: str) -> tuple[Wire, ...]:
        return tuple(Wire(start=w.split(">")[0], end=w.split(">")[1]) for w in text.split())

    return Graph(id=id, name=name, nodes=nodes, wires=drawn(wires), values=drawn(values), **more)
