"""A graph as it is read aloud: each card with its sentence, what comes into it, and the wires that leave it as its parts."""

from __future__ import annotations

from functools import partial

from gatillo.desk.graph_view.canvas import GraphCanvas
from gatillo.desk.looks.read_aloud import Heard
from gatillo.graphs.outline import outline_order
from gatillo.level.graphs import wires_of
from gatillo.level.model import Graph


def cards_aloud(canvas: GraphCanvas) -> list[Heard]:
    """Return the cards of the graph that is open, in the order in which they run."""
    sheet = canvas.sheet
    if sheet is None:
        return []
    opened = canvas.commands.opened
    into, out = _ends(sheet.graph)
    found = []
    for number, _, _ in outline_order(sheet.graph):
        shape = sheet.cards.get(number)
        if shape is None:
            continue
        said = []
        if into.get(number):
            said.append(f"comes from {', '.join(into[number])}")
        if out.get(number):
            said.append(f"goes to {', '.join(out[number])}")
        area = canvas.to_screen(shape.area).toRect()
        select = partial(opened.choose, [number])
        words = f"card {number}: {opened.words_of(number)}"
        chosen = number in opened.chosen
        heard = Heard(words, "; ".join(said), area, selected=chosen, deeds={"select": select})
        heard.parts = partial(_wires, canvas, number)
        found.append(heard)
    return found


def _wires(canvas: GraphCanvas, number: int) -> list[Heard]:
    """Return the wires that leave a card, in the order in which they take their turns."""
    sheet, opened = canvas.sheet, canvas.commands.opened
    found = []
    for wire in sheet.wires if sheet is not None else ():
        if wire.start.node != number:
            continue
        to = wire.end.node
        said = [f"from {wire.output}"] if wire.output else []
        said += [f"as {wire.entered}"] if wire.value and wire.entered else []
        found.append(
            Heard(
                f"{'value' if wire.value else 'wire'} to card {to}: {opened.words_of(to)}",
                ", ".join(said),
                canvas.to_screen(wire.bounds).toRect(),
                selected=canvas.wire == (wire.value, wire.number),
                deeds={
                    "select": partial(canvas.choose_wire, wire),
                    "go to its card": partial(opened.choose, [to]),
                    "cut": partial(canvas.commands.wires.cut, [wire]),
                },
            )
        )
    return found


def _ends(graph: Graph) -> tuple[dict[int, list[str]], dict[int, list[str]]]:
    """Return by card where its wires come from, and where they go, in words."""
    into: dict[int, list[str]] = {}
    out: dict[int, list[str]] = {}
    for values in (False, True):
        for start, end in wires_of(graph, values=values):
            slot = f" as {end.port}" if values and end.port else ""
            by = f" by {start.port}" if start.port else ""
            into.setdefault(end.node, []).append(f"card {start.node}{by}{slot}")
            out.setdefault(start.node, []).append(f"card {end.node}{slot}{by}")
    return into, out
