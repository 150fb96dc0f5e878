"""Edits of wires, and watching the values that they carry."""

from __future__ import annotations

import re

import msgspec
from PySide6.QtCore import QPointF

from gatillo.catalogue.cards.graph_cards import ALL_MATCHES, FORMULA, sentence_of
from gatillo.desk.graph_view.card_edits import CardEdits
from gatillo.desk.graph_view.card_layout import WireShape
from gatillo.desk.graph_view.open_graph import OpenGraph
from gatillo.formula.compiling import KEEPING, compile_formula, unknown_names
from gatillo.formula.syntax import FormulaError
from gatillo.language.formula_fits import written_out
from gatillo.level import edits, graph_edits
from gatillo.level.graphs import end_of, wires_of
from gatillo.level.model import Graph, Node, Wire
from gatillo.level.naming import token

FREE = tuple("abcdefghijklmnopqrstuvwxyz")
"""Names in a formula card that are its inputs: for values that wires bring."""


class WireEdits:
    """Edits wires of the open graph."""

    def __init__(self, opened: OpenGraph, cards: CardEdits) -> None:
        self.opened = opened
        self.cards = cards

    def wire(self, start: tuple[int, str, bool], end: tuple[int, str, bool]) -> bool:
        """Lead an output to an input, or a value into a slot; whether that could be."""
        if self.opened.graph_id is None:
            return False
        if start[2] != end[2]:
            what, other = ("a value", "matches") if start[2] else ("matches", "a value")
            self.opened.bench.notify(f"This end carries {what}, but the other end takes {other}.")
            return False
        level = graph_edits.add_wire(
            self.opened.settled(self.opened.bench.level),
            self.opened.graph_id,
            self.opened.out_of(*start[:2]),
            self.opened.into(*end),
            value=start[2],
        )
        return self.opened.take(level, f"wire card {start[0]} to card {end[0]}")

    def wire_to_card(self, start: tuple[int, str, bool], number: int) -> bool:
        """Lead an output to a card, to the end of it that fits."""
        sheet = self.opened.sheet(at_once=True)
        if sheet is None or number not in sheet.cards:
            self.opened.bench.notify(f"There is no card {number}.")
            return False
        face = sheet.cards[number].face
        if start[2] and face.free:
            return self.wire_to_formula(start, number)
        fits = face.takes if start[2] else face.inputs
        if not fits:
            words = self.opened.words_of(number)
            why = (
                f"“{words}” has no slot for a value; connect it to a formula card"
                if start[2]
                else f"“{words}” has no input, because it starts matches or only gives a value"
            )
            self.opened.bench.notify(f"These cannot be connected: {why}.")
            return False
        free = [
            f
            for f in fits
            if not any(w.value and w.end.node == number and w.entered == f for w in sheet.wires)
        ]
        return self.wire(start, (number, (free or fits)[0] if start[2] else fits[0], start[2]))

    def wire_to_formula(self, start: tuple[int, str, bool], number: int) -> bool:
        """Lead a value into a formula card: by a name in its formula that waits for one, else by a new one."""
        sheet = self.opened.sheet(at_once=True)
        if sheet is None:
            return False
        text = sheet.cards[number].node.slots.get("value", "")
        wired = {w.entered for w in sheet.wires if w.value and w.end.node == number}
        waiting = [name for name in unknown_names(self.opened.index, text) if name not in wired]
        name = waiting[0] if waiting else next((n for n in FREE if n not in wired), "a")
        if not self.wire(start, (number, name, True)):
            return False
        if not waiting:
            self.opened.bench.notify(f"The value is called “{name}” here: use {name} in the formula.")
        return True

    def cut(self, wires: list[WireShape]) -> None:
        """Take wires away."""
        graph = self.opened.graph
        if graph is None or self.opened.graph_id is None or not wires:
            return
        level = self.opened.settled(self.opened.bench.level)
        for wire in wires:
            plain = _in_graph(graph, wire)
            if plain is None:
                continue
            level = graph_edits.cut_wire(level, self.opened.graph_id, plain, value=wire.value)
        self.opened.bench.edit(level, f"cut {len(wires)} wires" if len(wires) > 1 else "cut a wire")

    def renumber(self, wire: WireShape, by: int) -> None:
        """Move a wire earlier or later among those of its output."""
        graph = self.opened.graph
        plain = _in_graph(graph, wire) if graph is not None else None
        if plain is not None and self.opened.graph_id is not None and not wire.value and by:
            level = graph_edits.renumber_wire(self.opened.bench.level, self.opened.graph_id, plain, by)
            self.opened.bench.edit(level, "run a wire earlier" if by < 0 else "run a wire later")

    def typed(self, start: tuple[int, str] | None, text: str) -> bool:
        """Return what is typed in place of a sentence: `to 5` and `to 5.again` wire the selected card, `= formula` gives it a value.

        Says whether the text was one of them.
        """
        if text.startswith("="):
            self.give_chosen(text[1:].strip())
            return True
        found = re.fullmatch(r"(?:to|->|→)\s*(?:card\s*)?(\d+)(?:\.(.+))?", text.strip())
        if found is None:
            return False
        number, port = int(found[1]), (found[2] or "").strip()
        sheet, here = self.opened.sheet(at_once=True), next(iter(self.opened.chosen), None)
        card = sheet.cards.get(here) if sheet is not None and here is not None else None
        other = sheet.cards.get(number) if sheet is not None else None
        if card is None:
            self.opened.bench.notify("Select the card where the wire should begin.")
        elif other is None:
            self.opened.bench.notify(f"There is no card {number}.")
        elif port in other.face.inputs and start is not None:
            self.wire((*start, False), (number, port, False))
        elif port or start is None:
            if not card.face.gives:
                self.opened.bench.notify(
                    f"“{self.opened.words_of(card.node.id)}” gives no value for “{port}”."
                )
            elif port:
                self.wire((card.node.id, card.face.gives[0], True), (number, port, True))
            else:
                self.wire_to_card((card.node.id, card.face.gives[0], True), number)
        else:
            self.wire_to_card((*start, False), number)
        return True

    def give_chosen(self, formula: str) -> None:
        """A formula card, wired to the first slot of the selected card that takes a value and has no wire yet."""
        sheet, here = self.opened.sheet(at_once=True), next(iter(self.opened.chosen), None)
        card = sheet.cards.get(here) if sheet is not None and here is not None else None
        if sheet is None or card is None or self.opened.graph_id is None:
            self.opened.bench.notify("Select the card that should take the value first.")
            return
        wired = {w.entered for w in sheet.wires if w.value and w.end.node == here}
        free = [slot for slot in card.face.takes if slot not in wired]
        # where nothing of one's own has been written
        entry = sentence_of(card.node.use)
        free.sort(
            key=lambda s: (
                entry is not None
                and s in entry.slots
                and card.node.slots.get(s, entry.slots[s].default) != entry.slots[s].default
            )
        )
        if not free:
            self.opened.bench.notify(f"“{self.opened.words_of(card.node.id)}” has no slot left for a value.")
            return
        spot = self.opened.place_for(
            (200.0, 36.0), None, QPointF(card.area.left() - 250, card.area.top()), (0, 30)
        )
        self.cards.put_value(
            written_out(self.opened.index, formula) if formula else "0", (card.node.id, free[0]), spot
        )

    def giver_of(self, wire: WireShape) -> Node | None:
        """Return the card that a value wire carries the value of."""
        graph = self.opened.graph if wire.value else None
        return next((n for n in graph.nodes if n.id == wire.start.node), None) if graph is not None else None

    def watch_of(self, node: Node) -> str:
        """Return the formula by which a card's value can be watched over the run; "" if there is none: it speaks of its match."""
        graph, index = self.opened.graph, self.opened.bench.program.index
        if graph is None:
            return ""
        written = ""
        if node.use in KEEPING:
            per = node.slots.get("per", "")
            someone = next((o for o in self.opened.bench.level.objects if o.kind == graph.for_), None)
            if graph.for_ and per != ALL_MATCHES and someone is not None:
                written = f'kept_for("{graph.name}", {node.id}, {token(someone.name)})'
            else:
                written = f'kept("{graph.name}", {node.id})'
        elif node.use == FORMULA and not any(end.node == node.id for _, end in wires_of(graph, values=True)):
            written = node.slots.get("value", "")
        try:
            return "" if compile_formula(index, written).roles and node.use == FORMULA else written
        except FormulaError:
            return ""

    def watch(self, node: Node) -> None:
        """Follow a card's value over the viewed trial."""
        bench, formula = self.opened.bench, self.watch_of(node)
        if not formula:
            return
        if formula in bench.trial.watches:
            bench.notify(f"“{formula}” is watched already: its curve is below the rules.")
            return
        level = edits.change_trial(
            bench.level, bench.trial.name, lambda t: msgspec.structs.replace(t, watches=(*t.watches, formula))
        )
        bench.edit(level, f"watch {formula}")
        bench.notify(f"Watched: {formula}. Its curve is below the rules.")


def _in_graph(graph: Graph, wire: WireShape) -> Wire | None:
    """Return the wire of a graph that a shape on its sheet shows; None if it has gone since."""
    wires = graph.values if wire.value else graph.wires
    plain = wires[wire.number] if wire.number < len(wires) else None
    ends = (end_of(plain.start), end_of(plain.end)) if plain is not None else None
    return plain if ends == (wire.start, wire.end) else None
