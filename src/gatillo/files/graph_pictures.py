"""Exporting graphs: GraphML, DOT, and pictures as SVG.

GraphML: Brandes, Eiglsperger, Lerner, GraphML primer (graphml.graphdrawing.org). DOT: the language of Graphviz.
"""

from __future__ import annotations

import html
from collections.abc import Callable
from pathlib import Path
from textwrap import wrap

from gatillo.catalogue.cards.graph_cards import cases_of, find_output, ports_of
from gatillo.files.xml_text import printable
from gatillo.graphs.layout import tidied
from gatillo.graphs.outline import card_words, wired_slots
from gatillo.level.graphs import End, wires_of
from gatillo.level.model import Graph

LETTER, LINE, PAD = 6.6, 17.0, 10.0
WIDEST = 30
"""Letters in a line of a card."""
Place = tuple[float, float, float, float]
"""x, y, width and height, in pixels."""


def escape(text: str) -> str:
    """Return a text between the tags of XML."""
    return html.escape(printable(text), quote=False)


def quoteattr(text: str) -> str:
    """Return a text as an attribute of XML, in its quotes."""
    # what is white space is kept
    kept = {"\n": "&#10;", "\r": "&#13;", "\t": "&#9;"}
    return f'"{"".join(kept.get(letter, letter) for letter in html.escape(printable(text)))}"'


def output_of(graph: Graph, end: End) -> str:
    """Return the output that a wire begins at, by its name; "" for a card with one only."""
    node = next(n for n in graph.nodes if n.id == end.node)
    ports = ports_of(node.use)
    if ports is None or (len(ports.outputs) == 1 and not end.port):
        return end.port
    return find_output(ports, end.port, cases_of(node.slots.get("cases", "1, 2"))) or end.port


def as_graphml(graph: Graph) -> str:
    """Return cards as nodes, wires as edges in their order, with their ports."""
    wired = wired_slots(graph)
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">',
        *(
            f'  <key id="{name}" for="{of}" attr.name="{name}" attr.type="{kind}"/>'
            for name, of, kind in (
                ("use", "node", "string"),
                ("words", "node", "string"),
                ("x", "node", "double"),
                ("y", "node", "double"),
                ("carries", "edge", "string"),
                ("output", "edge", "string"),
                ("input", "edge", "string"),
                ("order", "edge", "int"),
            )
        ),
        f'  <graph id={quoteattr(graph.name)} edgedefault="directed">',
    ]
    for node in graph.nodes:
        data = {
            "use": node.use,
            "words": card_words(node, wired.get(node.id)),
            "x": f"{node.at[0]:g}",
            "y": f"{node.at[1]:g}",
        }
        inner = "".join(f'<data key="{key}">{escape(text)}</data>' for key, text in data.items())
        lines.append(f'    <node id="{node.id}">{inner}</node>')
    for carries, values in (("matches", False), ("value", True)):
        for order, (start, end) in enumerate(wires_of(graph, values=values), 1):
            output = output_of(graph, start)
            data = {"carries": carries, "output": output, "input": end.port, "order": str(order)}
            inner = "".join(f'<data key="{key}">{escape(text)}</data>' for key, text in data.items() if text)
            lines.append(f'    <edge source="{start.node}" target="{end.node}">{inner}</edge>')
    return "\n".join([*lines, "  </graph>", "</graphml>"]) + "\n"


def as_dot(graph: Graph) -> str:
    """Return a graph in the DOT language of Graphviz; value wires are dashed."""
    wired = wired_slots(graph)
    lines = [f"digraph {_quoted(graph.name)} {{", "  node [shape=box];"]
    lines += [
        f"  {n.id} [label={_quoted(f'{n.id}. {card_words(n, wired.get(n.id))}')}];" for n in graph.nodes
    ]
    for values in (False, True):
        for start, end in wires_of(graph, values=values):
            label = end.port if values else output_of(graph, start)
            style = ", style=dashed" if values else ""
            lines.append(f"  {start.node} -> {end.node} [label={_quoted(label)}{style}];")
    return "\n".join([*lines, "}"]) + "\n"


def _quoted(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", " ")
    return f'"{escaped}"'


def _lines_of(words: str) -> list[str]:
    return wrap(words, WIDEST) or [""]


def laid_out(graph: Graph) -> dict[int, Place]:
    """Return where each card is: as on its sheet, or, where all lie on one another, from top to bottom as they run."""
    wired = wired_slots(graph)
    sizes = {}
    for node in graph.nodes:
        lines = _lines_of(f"{node.id}. {card_words(node, wired.get(node.id))}")
        wide = max(len(line) for line in lines) * LETTER + 2 * PAD
        sizes[node.id] = (wide, len(lines) * LINE + 2 * PAD - 4)
    if len({node.at for node in graph.nodes}) == len(graph.nodes) > 1:
        return {n.id: (n.at[0], n.at[1], *sizes[n.id]) for n in graph.nodes}
    return {number: (x, y, *sizes[number]) for number, (x, y) in tidied(graph, sizes).items()}


def as_svg(graph: Graph) -> str:
    """Return a picture: cards as their sentences, matches from top to bottom with their numbers, values dashed from the left."""
    wired = wired_slots(graph)
    places = laid_out(graph)
    left = min((p[0] for p in places.values()), default=0.0) - 20
    top = min((p[1] for p in places.values()), default=0.0) - 20
    wide = max((p[0] + p[2] for p in places.values()), default=0.0) + 20 - left
    high = max((p[1] + p[3] for p in places.values()), default=0.0) + 20 - top
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.0f}" height="{high:.0f}" '
        f'viewBox="{left:.0f} {top:.0f} {wide:.0f} {high:.0f}" font-family="sans-serif" font-size="12">',
        f"<title>{escape(graph.name)}</title>",
        f'<rect x="{left:.0f}" y="{top:.0f}" width="{wide:.0f}" height="{high:.0f}" fill="#fbfaf6"/>',
    ]
    outs: dict[int, int] = {}
    many: dict[int, int] = {}
    for start, _ in wires_of(graph):
        many[start.node] = many.get(start.node, 0) + 1
    for start, end in wires_of(graph):
        outs[start.node] = outs.get(start.node, 0) + 1
        x, y, w, h = places[start.node]
        to_x, to_y, to_w, _ = places[end.node]
        x1, y1 = x + w * outs[start.node] / (many[start.node] + 1), y + h
        x2, bend = to_x + to_w / 2, max(18.0, abs(to_y - y1) / 2)
        label = output_of(graph, start)
        label = f"{outs[start.node]} {label}".strip() if many[start.node] > 1 else label
        # beside its end, on the side from which the wire does not come
        beside = f'x="{x2 - 5:.1f}" text-anchor="end"' if x1 > x2 + 1 else f'x="{x2 + 5:.1f}"'
        parts.append(
            f'<path d="M{x1:.1f},{y1:.1f} C{x1:.1f},{y1 + bend:.1f} {x2:.1f},{to_y - bend:.1f} {x2:.1f},{to_y:.1f}" '
            'fill="none" stroke="#2b2b2b" stroke-width="1.4"/>'
        )
        parts.append(f'<text {beside} y="{to_y - 7:.1f}" fill="#5a5750">{escape(label)}</text>')
    for start, end in wires_of(graph, values=True):
        x, y, w, h = places[start.node]
        to_x, to_y, _, to_h = places[end.node]
        parts.append(
            f'<path d="M{x + w:.1f},{y + h / 2:.1f} L{to_x:.1f},{to_y + to_h / 2:.1f}" fill="none" '
            'stroke="#2b6f6a" stroke-width="1.2" stroke-dasharray="4 3"/>'
        )
    for node in graph.nodes:
        x, y, w, h = places[node.id]
        parts.append(
            f'<rect x="{x:.1f}" y="{y:.1f}" width="{w:.1f}" height="{h:.1f}" fill="#ffffff" stroke="#8a867c"/>'
        )
        for at, line in enumerate(_lines_of(f"{node.id}. {card_words(node, wired.get(node.id))}")):
            parts.append(
                f'<text x="{x + PAD:.1f}" y="{y + PAD + 10 + at * LINE:.1f}" fill="#1c1c1c">{escape(line)}</text>'
            )
    return "\n".join([*parts, "</svg>"]) + "\n"


WRITERS: dict[str, Callable[[Graph], str]] = {".graphml": as_graphml, ".dot": as_dot, ".svg": as_svg}


def write_graph(graph: Graph, path: Path) -> None:
    """Write a graph; the name's ending says how. Raises ValueError for another ending, OSError when it cannot be written."""
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise ValueError(f"a graph is written as {', '.join(WRITERS)}; “{path.name}” ends otherwise")
    path.write_text(writer(graph), encoding="utf-8")
