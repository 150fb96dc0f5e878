"""Edits of cards: adding, moving, filling slots, tidying, folding into own nodes."""

from __future__ import annotations

from collections.abc import Collection

import msgspec
from PySide6.QtCore import QPointF, QRectF

from gatillo.catalogue.cards.faces import card_face
from gatillo.desk.graph_view.open_graph import OpenGraph
from gatillo.graphs.folding import NoFolding, fold, name_face, unfold
from gatillo.graphs.layout import tidied
from gatillo.graphs.outline import card_words
from gatillo.level import graph_edits
from gatillo.level.graphs import INPUT, OUTPUT, End
from gatillo.level.model import Clause, Frame, Level, Node
from gatillo.level.naming import shortened


class CardEdits:
    """Edits cards of the open graph."""

    def __init__(self, opened: OpenGraph) -> None:
        self.opened = opened

    def put(
        self,
        clause: Clause,
        start: tuple[int, str] | None,
        at: QPointF | None,
        level: Level | None = None,
        join: str = "",
    ) -> int | None:
        """Put a card onto the sheet, wired to an output where one is given; its number. Edits with the same `join` are undone together."""
        graph = self.opened.graph
        if graph is None or self.opened.graph_id is None:
            return None
        level = self.opened.settled(level or self.opened.bench.level)
        node = Node(id=0, use=clause.use, slots=clause.slots, of=clause.of, once=clause.once)
        face = card_face(node, graph, self.opened.graphs)
        spot = self.opened.place_for((200.0, 36.0), start[0] if start is not None else None, at)
        level, number = graph_edits.add_card(level, self.opened.graph_id, clause, spot.x(), spot.y())
        if start is not None and face.inputs:
            level = graph_edits.add_wire(level, self.opened.graph_id, self.opened.out_of(*start), End(number))
        self.opened.bench.edit(level, f"add “{shortened(card_words(node), 60)}”", join)
        self.opened.choose({number})
        self.opened.shown.emit(number)
        return number

    def put_value(self, text: str, to: tuple[int, str], at: QPointF) -> int | None:
        """Put a formula card and wire it to a slot; its number."""
        if self.opened.graph_id is None:
            return None
        level = self.opened.settled(self.opened.bench.level)
        clause = Clause(use="formula", slots={"value": text})
        level, number = graph_edits.add_card(level, self.opened.graph_id, clause, at.x(), at.y())
        level = graph_edits.add_wire(level, self.opened.graph_id, End(number), End(*to), value=True)
        if self.opened.take(level, f"give {to[1]} the value {text}", number):
            self.opened.choose({number})
            return number
        return None

    def move(self, numbers: Collection[int], dx: float, dy: float, join: str = "") -> None:
        """Carry cards."""
        if self.opened.graph_id is None or not numbers:
            return
        level = graph_edits.move_cards(
            self.opened.settled(self.opened.bench.level), self.opened.graph_id, numbers, dx, dy
        )
        many = (
            f"{len(numbers)} cards" if len(numbers) > 1 else f"“{self.opened.words_of(next(iter(numbers)))}”"
        )
        self.opened.bench.edit(level, f"move {many}", join)

    def set_slot(self, number: int, slot: str, text: str, join: str = "") -> None:
        """Give a card's slot another text; the name of an own node's input or output is carried to all its uses."""
        graph = self.opened.graph
        if graph is None or self.opened.graph_id is None:
            return
        node = next((n for n in graph.nodes if n.id == number), None)
        if node is not None and node.use in (INPUT, OUTPUT) and slot == "name" and text.strip():
            level, uses = name_face(self.opened.bench.level, self.opened.graph_id, number, text.strip())
            self.opened.bench.edit(level, f"call it “{shortened(text, 40)}”")
            if uses:
                self.opened.bench.notify(
                    f"The new name was carried to {uses} use{'s' if uses != 1 else ''} of “{graph.name}”."
                )
            return
        level = graph_edits.set_card_slot(self.opened.bench.level, self.opened.graph_id, number, slot, text)
        self.opened.bench.edit(level, f"change {slot} of card {number} to {shortened(text, 40)}", join)

    def tidy(self) -> None:
        """Lay the cards out."""
        graph, sheet = self.opened.graph, self.opened.sheet(at_once=True)
        if graph is None or sheet is None or self.opened.graph_id is None:
            return
        sizes = self.opened.layout_.sizes(graph, self.opened.graphs, self.opened.bench.program.index)
        places = tidied(graph, sizes)
        level = self.opened.placed(self.opened.bench.level, places)
        # frames go with what was in them
        frames = []
        for frame in graph.frames:
            area = QRectF(*frame.at, *frame.size)
            inside = [n for n, c in sheet.cards.items() if area.contains(c.area.center())]
            if frame.folded:
                frames.append(frame)
                continue
            frames.append(_about(frame, [QRectF(*places[n], *sizes[n]) for n in inside]))
        level = graph_edits.change_graph(
            level, self.opened.graph_id, lambda g: msgspec.structs.replace(g, frames=tuple(frames))
        )
        self.opened.bench.edit(level, f"tidy “{graph.name}”")

    def align(self) -> None:
        """Stand the selected cards below one another: their middles where the first one's is."""
        sheet, chosen = self.opened.sheet(at_once=True), sorted(self.opened.chosen)
        if sheet is None or len(chosen) < 2:
            self.opened.bench.notify("Select several cards first.")
            return
        middle = sheet.cards[chosen[0]].area.center().x()
        level = self.opened.settled(self.opened.bench.level)
        places = {n: (middle - sheet.cards[n].area.width() / 2, sheet.cards[n].area.top()) for n in chosen}
        self.opened.bench.edit(self.opened.placed(level, places), "align cards")

    def fold_chosen(self, name: str = "Own node") -> int | None:
        """Return the selected cards as an own node; its id."""
        if self.opened.graph_id is None:
            return None
        try:
            level, own, number = fold(
                self.opened.settled(self.opened.bench.level), self.opened.graph_id, self.opened.chosen, name
            )
        except NoFolding as why:
            self.opened.bench.notify(f"{_capital(str(why))}.")
            return None
        self.opened.bench.edit(level, f"fold {len(self.opened.chosen)} cards")
        self.opened.choose({number})
        return own

    def unfold_chosen(self) -> None:
        """The selected own node's cards in its place."""
        if self.opened.graph_id is None:
            return
        number = next(iter(self.opened.chosen), 0)
        try:
            level, placed = unfold(self.opened.settled(self.opened.bench.level), self.opened.graph_id, number)
        except NoFolding as why:
            self.opened.bench.notify(f"{_capital(str(why))}.")
            return
        self.opened.bench.edit(level, f"unfold “{self.opened.words_of(number)}”")
        self.opened.choose(placed)


def _about(frame: Frame, areas: list[QRectF]) -> Frame:
    """Return a frame about these cards; where it is, if there are none."""
    if not areas:
        return frame
    left, top = min(a.left() for a in areas) - 24, min(a.top() for a in areas) - 28
    size = (max(a.right() for a in areas) + 24 - left, max(a.bottom() for a in areas) + 28 - top)
    return msgspec.structs.replace(
        frame, at=(round(left, 1), round(top, 1)), size=(round(size[0], 1), round(size[1], 1))
    )


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
