"""What is done to a graph on its page: cards put, wired, cut, numbered, moved, copied, folded and laid out."""

from __future__ import annotations

import re
from collections.abc import Collection

import msgspec
from PySide6.QtCore import QObject, QPointF, QRectF, Signal
from PySide6.QtWidgets import QApplication

from gatillo.catalogue.cards.faces import card_face
from gatillo.catalogue.cards.graph_cards import ALL_MATCHES, FORMULA, sentence_of
from gatillo.desk.graph_view.card_layout import Sheet, SheetLayout, WireShape
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.formula.compiling import KEEPING, compile_formula, unknown_names
from gatillo.formula.syntax import FormulaError
from gatillo.graphs.folding import NoFolding, fold, name_face, unfold
from gatillo.graphs.layout import DOWN, tidied
from gatillo.graphs.outline import card_words
from gatillo.language.reading import written_out
from gatillo.level import edits, graph_edits
from gatillo.level.graphs import INPUT, OUTPUT, End, wires_of
from gatillo.level.model import Clause, Frame, Graph, Level, Node
from gatillo.level.naming import shortened, token
from gatillo.level.roles import Index, all_logic
from gatillo.sim.program.graph_lowering import index_for
from gatillo.sim.program.program import Program

CLIP_START = "gatillo cards\n"
GRID = 10.0
FREE = tuple("abcdefghijklmnopqrstuvwxyz")
"""Names in a formula card that are its inputs: for values that wires bring."""


class GraphCommands(QObject):
    """Edits of the graph that is shown; what cannot be is told in a sentence."""

    shown = Signal(int)
    """A card is to be brought into sight."""

    def __init__(self, bench: Workbench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.layout_ = SheetLayout()
        self.graph_id: int | None = None
        self._sheet: tuple[Graph, object, Sheet] | None = None
        self._index: tuple[Index, str, Index] | None = None

    # what there is

    @property
    def graph(self) -> Graph | None:
        """The graph that is shown; None where it is gone."""
        found = next((e for _, _, e in all_logic(self.bench.level) if e.id == self.graph_id), None)
        return found if isinstance(found, Graph) else None

    @property
    def graphs(self) -> dict[str, Graph]:
        """All graphs of the level by their names."""
        return {e.name: e for _, _, e in all_logic(self.bench.level) if isinstance(e, Graph)}

    @property
    def index(self) -> Index:
        """The names that cards may use: with `self` where the graph is for each object of a kind."""
        graph, index = self.graph, self.bench.program.index
        if graph is None or graph.for_ not in index.kinds:
            return index
        if self._index is None or self._index[0] is not index or self._index[1] != graph.for_:
            self._index = (index, graph.for_, index_for(index, graph.for_))
        return self._index[2]

    def sheet(self, moved: dict[int, QPointF] | None = None) -> Sheet | None:
        """The graph on its sheet, with cards that are being carried elsewhere."""
        graph = self.graph
        if graph is None:
            return None
        program = self.bench.program
        if self._sheet is None or self._sheet[0] is not graph or self._sheet[1] is not program:
            made = self.layout_.sheet(graph, self.graphs, program.index)
            self._sheet = (graph, program, made)
        return self.layout_.carried(self._sheet[2], moved) if moved else self._sheet[2]

    def forget(self) -> None:
        """The desktop's font or the theme changed."""
        self.layout_.forget()
        self._sheet = None

    @property
    def chosen(self) -> frozenset[int]:
        """The cards that are selected."""
        selection = self.bench.selection
        return selection.cards if selection.rule == self.graph_id else frozenset()

    def choose(self, cards: Collection[int]) -> None:
        """Select cards of the graph."""
        self.bench.select(Selection(rule=self.graph_id, cards=frozenset(cards)))

    def words_of(self, number: int) -> str:
        """A card in few words, for what is told and undone."""
        graph = self.graph
        node = next((n for n in graph.nodes if n.id == number), None) if graph is not None else None
        return shortened(card_words(node), 60) if node is not None else f"card {number}"

    # cards

    def place_for(
        self,
        size: tuple[float, float],
        below: int | None,
        at: QPointF | None,
        step: tuple[float, float] = (40, 0),
    ) -> QPointF:
        """Where a new card is put: where it was asked for, or below another, and over none; `step` is the way to free ground."""
        sheet = self.sheet()
        assert sheet is not None
        if at is None:
            if below is not None and below in sheet.cards:
                card = sheet.cards[below].area
                at = QPointF(card.center().x() - size[0] / 2, card.bottom() + DOWN)
            else:
                area = sheet.area
                at = QPointF(area.right() + 40, area.top()) if sheet.cards else QPointF(0, 0)
        box = QRectF(round(at.x() / GRID) * GRID, round(at.y() / GRID) * GRID, *size)
        while any(box.adjusted(-16, -8, 16, 8).intersects(c.area) for c in sheet.cards.values()):
            box.translate(*step)
        return box.topLeft()

    def put(
        self, clause: Clause, start: tuple[int, str] | None, at: QPointF | None, level: Level | None = None
    ) -> int | None:
        """Put a card onto the sheet, wired to an output where one is given; its number."""
        graph = self.graph
        if graph is None or self.graph_id is None:
            return None
        level = self.settled(level or self.bench.level)
        node = Node(id=0, use=clause.use, slots=clause.slots, of=clause.of, once=clause.once)
        face = card_face(node, graph, self.graphs)
        spot = self.place_for((200.0, 36.0), start[0] if start is not None else None, at)
        level, number = graph_edits.add_card(level, self.graph_id, clause, spot.x(), spot.y())
        if start is not None and face.inputs:
            level = graph_edits.add_wire(level, self.graph_id, self.out_of(*start), End(number))
        self.bench.edit(level, f"add “{shortened(card_words(node), 60)}”")
        self.choose({number})
        self.shown.emit(number)
        return number

    def put_value(self, text: str, to: tuple[int, str], at: QPointF) -> int | None:
        """Put a formula card and wire it to a slot; its number."""
        if self.graph_id is None:
            return None
        level = self.settled(self.bench.level)
        clause = Clause(use="formula", slots={"value": text})
        level, number = graph_edits.add_card(level, self.graph_id, clause, at.x(), at.y())
        level = graph_edits.add_wire(level, self.graph_id, End(number), End(*to), value=True)
        if self.take(level, f"give {to[1]} the value {text}", number):
            self.choose({number})
            return number
        return None

    def settled(self, level: Level) -> Level:
        """The level with the graph's cards where they are seen: those of a graph that was never laid out lie on one another."""
        graph, sheet = self.graph, self.sheet()
        if graph is None or sheet is None or self.graph_id is None:
            return level
        return self._placed(level, {n: (c.area.left(), c.area.top()) for n, c in sheet.cards.items()})

    def _placed(self, level: Level, places: dict[int, tuple[float, float]]) -> Level:
        assert self.graph_id is not None
        graph = graph_edits.graph_of(level, self.graph_id)
        if all(places.get(n.id, n.at) == n.at for n in graph.nodes):
            return level
        return graph_edits.change_cards(
            level,
            self.graph_id,
            places,
            lambda n: msgspec.structs.replace(n, at=(round(places[n.id][0], 1), round(places[n.id][1], 1))),
        )

    def move(self, numbers: Collection[int], dx: float, dy: float, join: str = "") -> None:
        """Carry cards."""
        if self.graph_id is None or not numbers:
            return
        level = graph_edits.move_cards(self.settled(self.bench.level), self.graph_id, numbers, dx, dy)
        many = f"{len(numbers)} cards" if len(numbers) > 1 else f"“{self.words_of(next(iter(numbers)))}”"
        self.bench.edit(level, f"move {many}", join)

    def delete(self, wire: WireShape | None) -> None:
        """Take away the selected wire, or the selected cards with theirs."""
        if self.graph_id is None:
            return
        if wire is not None:
            self.cut([wire])
        elif self.chosen:
            gone = self.chosen
            many = f"{len(gone)} cards" if len(gone) > 1 else f"“{self.words_of(next(iter(gone)))}”"
            self.bench.edit(
                graph_edits.delete_cards(self.settled(self.bench.level), self.graph_id, gone),
                f"delete {many}",
            )

    def set_slot(self, number: int, slot: str, text: str, join: str = "") -> None:
        """Give a card's slot another text; the name of an own node's input or output is carried to all its uses."""
        graph = self.graph
        if graph is None or self.graph_id is None:
            return
        node = next((n for n in graph.nodes if n.id == number), None)
        if node is not None and node.use in (INPUT, OUTPUT) and slot == "name" and text.strip():
            level, uses = name_face(self.bench.level, self.graph_id, number, text.strip())
            self.bench.edit(level, f"call it “{shortened(text, 40)}”")
            if uses:
                self.bench.notify(
                    f"The new name was carried to {uses} use{'s' if uses != 1 else ''} of “{graph.name}”."
                )
            return
        level = graph_edits.set_card_slot(self.bench.level, self.graph_id, number, slot, text)
        self.bench.edit(level, f"change {slot} of card {number} to {shortened(text, 40)}", join)

    # wires

    def take(self, level: Level, label: str, new: int = 0) -> bool:
        """Take an edit of wires, unless something would then be wrong that is not now: that is told instead.

        What is wrong with a card that is `new` does not count: it is being written.
        """
        before = {p.message for p in self.bench.program.problems}
        program = Program(level, self.bench.program)
        wrong = next(
            (p for p in program.problems if p.message not in before and (not new or p.card != new)), None
        )
        if wrong is not None:
            where = f"{wrong.slot}: " if wrong.slot else ""
            self.bench.notify(f"These cannot be connected: {where}{wrong.message}.")
            return False
        self.bench.edit(level, label)
        return True

    def wire(self, start: tuple[int, str, bool], end: tuple[int, str, bool]) -> bool:
        """Lead an output to an input, or a value into a slot; whether that could be."""
        if self.graph_id is None:
            return False
        if start[2] != end[2]:
            what, other = ("a value", "matches") if start[2] else ("matches", "a value")
            self.bench.notify(f"This end carries {what}, but the other end takes {other}.")
            return False
        level = graph_edits.add_wire(
            self.settled(self.bench.level),
            self.graph_id,
            self.out_of(*start[:2]),
            self.into(*end),
            value=start[2],
        )
        return self.take(level, f"wire card {start[0]} to card {end[0]}")

    def out_of(self, number: int, output: str) -> End:
        """The end at which a wire begins, as it is written: the only output needs no name."""
        sheet = self.sheet()
        face = sheet.cards[number].face if sheet is not None and number in sheet.cards else None
        return End(number, "" if face is not None and face.outputs == (output,) else output)

    def into(self, number: int, entered: str, value: bool) -> End:
        """The end at which a wire ends, as it is written: the first input needs no name."""
        sheet = self.sheet()
        face = sheet.cards[number].face if sheet is not None and number in sheet.cards else None
        first = face is not None and not value and face.inputs[:1] == (entered,)
        return End(number, "" if first else entered)

    def wire_to_card(self, start: tuple[int, str, bool], number: int) -> bool:
        """Lead an output to a card, to the end of it that fits."""
        sheet = self.sheet()
        if sheet is None or number not in sheet.cards:
            self.bench.notify(f"There is no card {number}.")
            return False
        face = sheet.cards[number].face
        if start[2] and face.free:
            return self.wire_to_formula(start, number)
        fits = face.takes if start[2] else face.inputs
        if not fits:
            words = self.words_of(number)
            why = (
                f"“{words}” has no slot for a value; connect it to a formula card"
                if start[2]
                else f"“{words}” has no input, because it starts matches or only gives a value"
            )
            self.bench.notify(f"These cannot be connected: {why}.")
            return False
        free = [
            f
            for f in fits
            if not any(w.value and w.end.node == number and w.entered == f for w in sheet.wires)
        ]
        return self.wire(start, (number, (free or fits)[0] if start[2] else fits[0], start[2]))

    def wire_to_formula(self, start: tuple[int, str, bool], number: int) -> bool:
        """Lead a value into a formula card: by a name in its formula that waits for one, else by a new one."""
        sheet = self.sheet()
        if sheet is None:
            return False
        text = sheet.cards[number].node.slots.get("value", "")
        wired = {w.entered for w in sheet.wires if w.value and w.end.node == number}
        waiting = [name for name in unknown_names(self.index, text) if name not in wired]
        name = waiting[0] if waiting else next((n for n in FREE if n not in wired), "a")
        if not self.wire(start, (number, name, True)):
            return False
        if not waiting:
            self.bench.notify(f"The value is called “{name}” here: use {name} in the formula.")
        return True

    def cut(self, wires: list[WireShape]) -> None:
        """Take wires away."""
        graph = self.graph
        if graph is None or self.graph_id is None or not wires:
            return
        level = self.settled(self.bench.level)
        for wire in wires:
            plain = (graph.values if wire.value else graph.wires)[wire.number]
            level = graph_edits.cut_wire(level, self.graph_id, plain, value=wire.value)
        self.bench.edit(level, f"cut {len(wires)} wires" if len(wires) > 1 else "cut a wire")

    def giver_of(self, wire: WireShape) -> Node | None:
        """The card that a value wire carries the value of."""
        graph = self.graph if wire.value else None
        return next((n for n in graph.nodes if n.id == wire.start.node), None) if graph is not None else None

    def watch_of(self, node: Node) -> str:
        """The formula by which a card's value can be watched over the run; "" where there is none: it speaks of its match."""
        graph, index = self.graph, self.bench.program.index
        if graph is None:
            return ""
        written = ""
        if node.use in KEEPING:
            per = node.slots.get("per", "")
            someone = next((o for o in self.bench.level.objects if o.kind == graph.for_), None)
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
        bench, formula = self.bench, self.watch_of(node)
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

    def renumber(self, wire: WireShape, by: int) -> None:
        """Let a wire take its turn earlier or later among those of its output."""
        graph = self.graph
        if graph is not None and self.graph_id is not None and not wire.value and by:
            level = graph_edits.renumber_wire(self.bench.level, self.graph_id, graph.wires[wire.number], by)
            self.bench.edit(level, "run a wire earlier" if by < 0 else "run a wire later")

    def typed(self, start: tuple[int, str] | None, text: str) -> bool:
        """What is typed in place of a sentence: `to 5` and `to 5.again` wire the selected card, `= formula` gives it a value.

        Says whether the text was one of them.
        """
        if text.startswith("="):
            self.give_chosen(text[1:].strip())
            return True
        found = re.fullmatch(r"(?:to|->|→)\s*(?:card\s*)?(\d+)(?:\.(.+))?", text.strip())
        if found is None:
            return False
        number, port = int(found[1]), (found[2] or "").strip()
        sheet, here = self.sheet(), next(iter(self.chosen), None)
        card = sheet.cards.get(here) if sheet is not None and here is not None else None
        other = sheet.cards.get(number) if sheet is not None else None
        if card is None:
            self.bench.notify("Select the card where the wire should begin.")
        elif other is None:
            self.bench.notify(f"There is no card {number}.")
        elif port in other.face.inputs and start is not None:
            self.wire((*start, False), (number, port, False))
        elif port or start is None:
            if not card.face.gives:
                self.bench.notify(f"“{self.words_of(card.node.id)}” gives no value for “{port}”.")
            elif port:
                self.wire((card.node.id, card.face.gives[0], True), (number, port, True))
            else:
                self.wire_to_card((card.node.id, card.face.gives[0], True), number)
        else:
            self.wire_to_card((*start, False), number)
        return True

    def give_chosen(self, formula: str) -> None:
        """A formula card, wired to the first slot of the selected card that takes a value and has no wire yet."""
        sheet, here = self.sheet(), next(iter(self.chosen), None)
        card = sheet.cards.get(here) if sheet is not None and here is not None else None
        if sheet is None or card is None or self.graph_id is None:
            self.bench.notify("Select the card that should take the value first.")
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
            self.bench.notify(f"“{self.words_of(card.node.id)}” has no slot left for a value.")
            return
        spot = self.place_for((200.0, 36.0), None, QPointF(card.area.left() - 250, card.area.top()), (0, 30))
        self.put_value(written_out(self.index, formula) if formula else "0", (card.node.id, free[0]), spot)

    # as a whole

    def tidy(self) -> None:
        """Lay the cards out."""
        graph, sheet = self.graph, self.sheet()
        if graph is None or sheet is None or self.graph_id is None:
            return
        sizes = self.layout_.sizes(graph, self.graphs, self.bench.program.index)
        places = tidied(graph, sizes)
        level = self._placed(self.bench.level, places)
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
            level, self.graph_id, lambda g: msgspec.structs.replace(g, frames=tuple(frames))
        )
        self.bench.edit(level, f"tidy “{graph.name}”")

    def frame_at(self, point: QPointF) -> int | None:
        """The frame by whose title or edge a point of the sheet takes it."""
        graph = self.graph
        sheet = self.sheet()
        for at, frame in enumerate(graph.frames if graph is not None and sheet is not None else ()):
            assert sheet is not None
            area = sheet.box_of(frame)
            if frame.folded and area.contains(point):
                return at
            if (
                not frame.folded
                and area.adjusted(-4, -22, 4, 4).contains(point)
                and not area.adjusted(6, 6, -6, -6).contains(point)
            ):
                return at
        return None

    def in_frame(self, number: int) -> list[int]:
        """The cards within a frame."""
        graph, sheet = self.graph, self.sheet()
        if graph is None or sheet is None:
            return []
        frame = graph.frames[number]
        if frame.folded:
            return [n for n, box in sheet.folded.items() if box == sheet.box_of(frame)]
        area = sheet.box_of(frame)
        return [n for n, c in sheet.cards.items() if area.contains(c.area.center())]

    def move_frame(self, number: int, dx: float, dy: float) -> None:
        """Carry a frame with all cards in it."""
        if self.graph_id is None:
            return
        level = graph_edits.move_cards(
            self.settled(self.bench.level), self.graph_id, self.in_frame(number), dx, dy
        )

        def moved(graph: Graph) -> Graph:
            frames = list(graph.frames)
            x, y = frames[number].at
            frames[number] = msgspec.structs.replace(frames[number], at=(round(x + dx, 1), round(y + dy, 1)))
            return msgspec.structs.replace(graph, frames=tuple(frames))

        self.bench.edit(graph_edits.change_graph(level, self.graph_id, moved), "move a frame")

    def fold_frame(self, number: int) -> None:
        """Put a frame's cards away behind its title, or bring them back."""

        def folded(graph: Graph) -> Graph:
            frames = list(graph.frames)
            frames[number] = msgspec.structs.replace(frames[number], folded=not frames[number].folded)
            return msgspec.structs.replace(graph, frames=tuple(frames))

        if self.graph_id is not None:
            level = graph_edits.change_graph(self.settled(self.bench.level), self.graph_id, folded)
            self.bench.edit(level, "fold or unfold a frame")

    def name_frame(self, number: int, title: str) -> None:
        """Give a frame another title; with none it is taken away."""

        def named(graph: Graph) -> Graph:
            frames = list(graph.frames)
            if title:
                frames[number] = msgspec.structs.replace(frames[number], title=title)
            else:
                del frames[number]
            return msgspec.structs.replace(graph, frames=tuple(frames))

        if self.graph_id is not None:
            label = f"call a frame “{title}”" if title else "remove a frame"
            self.bench.edit(graph_edits.change_graph(self.bench.level, self.graph_id, named), label)

    def align(self) -> None:
        """Stand the selected cards below one another: their middles where the first one's is."""
        sheet, chosen = self.sheet(), sorted(self.chosen)
        if sheet is None or len(chosen) < 2:
            self.bench.notify("Select several cards first.")
            return
        middle = sheet.cards[chosen[0]].area.center().x()
        level = self.settled(self.bench.level)
        places = {n: (middle - sheet.cards[n].area.width() / 2, sheet.cards[n].area.top()) for n in chosen}
        self.bench.edit(self._placed(level, places), "align cards")

    def fold_chosen(self, name: str = "Own node") -> int | None:
        """The selected cards as an own node; its id."""
        if self.graph_id is None:
            return None
        try:
            level, own, number = fold(self.settled(self.bench.level), self.graph_id, self.chosen, name)
        except NoFolding as why:
            self.bench.notify(f"{_capital(str(why))}.")
            return None
        self.bench.edit(level, f"fold {len(self.chosen)} cards")
        self.choose({number})
        return own

    def unfold_chosen(self) -> None:
        """The selected own node's cards in its place."""
        if self.graph_id is None:
            return
        number = next(iter(self.chosen), 0)
        try:
            level, placed = unfold(self.settled(self.bench.level), self.graph_id, number)
        except NoFolding as why:
            self.bench.notify(f"{_capital(str(why))}.")
            return
        self.bench.edit(level, f"unfold “{self.words_of(number)}”")
        self.choose(placed)

    def frame_chosen(self, title: str = "Frame") -> None:
        """A titled frame about the selected cards."""
        sheet = self.sheet()
        if sheet is None or self.graph_id is None or not self.chosen:
            self.bench.notify("Select some cards first; the frame is put around them.")
            return
        areas = [sheet.cards[n].area for n in self.chosen]
        left, top = min(a.left() for a in areas) - 24, min(a.top() for a in areas) - 28
        size = (max(a.right() for a in areas) + 24 - left, max(a.bottom() for a in areas) + 28 - top)
        level = graph_edits.add_frame(self.settled(self.bench.level), self.graph_id, title, (left, top), size)
        self.bench.edit(level, "put a frame around cards")

    def copy(self) -> None:
        """Put the selected cards, and the wires among them, on the clipboard as text."""
        graph = self.graph
        if graph is None or not self.chosen:
            self.bench.notify("Select some cards first.")
            return
        part = graph_edits.part_of(graph, self.chosen)
        QApplication.clipboard().setText(CLIP_START + msgspec.json.encode(part).decode())

    def paste(self) -> bool:
        """Put copied cards onto the sheet; False where there are none."""
        text = QApplication.clipboard().text()
        if not text.startswith(CLIP_START) or self.graph_id is None:
            return False
        try:
            part = msgspec.json.decode(text[len(CLIP_START) :].encode(), type=Graph)
        except msgspec.DecodeError:
            self.bench.notify("The clipboard does not contain cards.")
            return True
        level, numbers = graph_edits.paste_cards(self.settled(self.bench.level), self.graph_id, part)
        self.bench.edit(level, f"paste {len(numbers)} cards")
        self.choose(numbers)
        return True

    def duplicate(self) -> None:
        """The selected cards once more, with the wires among them."""
        graph = self.graph
        if graph is not None and self.graph_id is not None and self.chosen:
            part = graph_edits.part_of(graph, self.chosen)
            level, numbers = graph_edits.paste_cards(self.settled(self.bench.level), self.graph_id, part)
            self.bench.edit(level, f"duplicate {len(numbers)} cards")
            self.choose(numbers)


def _about(frame: Frame, areas: list[QRectF]) -> Frame:
    """A frame about these cards; where it is, if there are none."""
    if not areas:
        return frame
    left, top = min(a.left() for a in areas) - 24, min(a.top() for a in areas) - 28
    size = (max(a.right() for a in areas) + 24 - left, max(a.bottom() for a in areas) + 28 - top)
    return msgspec.structs.replace(
        frame, at=(round(left, 1), round(top, 1)), size=(round(size[0], 1), round(size[1], 1))
    )


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]
