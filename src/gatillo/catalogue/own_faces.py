"""The faces of own nodes: a graph's inputs and outputs, and what a line or a card gives to them."""

from __future__ import annotations

import re

from gatillo.catalogue.cards import INPUT, MATCHES, OUTPUT, OWN
from gatillo.catalogue.entry import CATALOGUE
from gatillo.catalogue.own import OWN_LINES
from gatillo.level.model import Clause, Graph, Level, Logic, Node
from gatillo.level.roles import all_logic


def is_own_node(graph: Graph) -> bool:
    """Whether a graph is there to be used by others: it has inputs or outputs, and no occasion."""
    face = any(node.use in (INPUT, OUTPUT) for node in graph.nodes)
    occasions = (CATALOGUE.get(node.use) for node in graph.nodes)
    return face and not any(entry is not None and entry.group == "occasion" for entry in occasions)


def faces(graph: Graph, use: str, carries: str) -> dict[str, Node]:
    """By name: the inputs (or outputs) of an own node that carry matches, values, or roles."""
    return {
        node.slots.get("name", "in" if use == INPUT else "then"): node
        for node in graph.nodes
        if node.use == use and node.slots.get("carries", MATCHES) == carries
    }


def face_sentence(graph: Graph) -> str:
    """The sentence that an own node is where it is used: what it is given, and where it leads to."""
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
    """Where an own node is used: by each entry of the order list, and how often there."""
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


def given_in(text: str) -> dict[str, str]:
    """What a line gives to the inputs of an own node, by their names: `reach = 70, tool = Lantern`.

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
    """What is given, as a line has it."""
    return ", ".join(f"{name} = {value}" for name, value in given.items())


_MARKS = re.compile(r'"(?:[^"]|"")*"|[(),]|[^"(),]+|"')


def _pieces(text: str) -> list[str]:
    """The text parted at commas outside brackets and quotes."""
    found, depth = [""], 0
    for mark in _MARKS.findall(text):
        depth += {"(": 1, ")": -1}.get(mark, 0)
        if mark == "," and depth <= 0:
            found.append("")
        else:
            found[-1] += mark
    return found
