"""Typing on a graph's page: cards as lines, formulas into slots, and slots edited in place."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPointF, QRectF, QTimer, Signal
from PySide6.QtWidgets import QWidget

from gatillo.catalogue.cards.faces import VALUED
from gatillo.catalogue.cards.graph_cards import CARDS, FORMULA, ports_of, sentence_of
from gatillo.catalogue.declare.entry import CATALOGUE, Slot
from gatillo.desk.graph_view.card_layout import LINE, CardShape
from gatillo.desk.graph_view.graph_commands import GraphCommands
from gatillo.desk.graph_view.wire_edits import FREE
from gatillo.desk.writing.slot_editor import Edited, SlotEditor
from gatillo.desk.writing.typed_line import TypedLine
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.language.answers import with_names_made
from gatillo.language.binding import SlotProblem, bind
from gatillo.language.reading import Reading
from gatillo.level.edits import Part
from gatillo.level.graphs import OWN
from gatillo.level.model import Clause, Graph, Level, Node

_GROUPS = {"occasion": "occasion", "condition": "condition", "pick": "condition", "action": "action"}


class CardWriter(QObject):
    """The line and the field that are laid over the page, and what becomes of what is typed there."""

    done = Signal()
    """Nothing is being typed any more: the page has the keyboard again."""
    placed = Signal(int, bool)
    """A card was put by typing: its number, and whether it was meant the other way round (not)."""

    def __init__(self, page: QWidget, commands: GraphCommands, to_screen: Callable[[QRectF], QRectF]) -> None:
        super().__init__(page)
        self.page = page
        self.to_screen = to_screen
        """Where a part of the sheet is on the page."""
        self.commands = commands
        self.line = TypedLine(page, commands.opened.bench)
        self.line.index_of = lambda: commands.opened.index
        self.line.cards = True
        self.line.plain = self._plain
        self.line.taken.connect(self._take)
        self.line.ended.connect(lambda _: self.done.emit())
        self.editor = SlotEditor(page, commands.opened.bench)
        self.editor.taken.connect(self._take_slot)
        self.editor.walked.connect(self._walk)
        self.editor.closed.connect(self._closed)
        self.start: tuple[int, str] | None = None
        """The output to which the card that is typed is wired."""
        self.at: QPointF | None = None
        """Where on the sheet it is put; None: below the one that it is wired to."""
        self._filling: list[int] | None = None

    @property
    def is_open(self) -> bool:
        """Whether something is being typed."""
        return self.line.is_open or self.editor.field is not None

    def open_line(
        self,
        area: QRectF,
        start: tuple[int, str] | None,
        at: QPointF | None,
        text: str = "",
        *,
        offers: bool = False,
    ) -> None:
        """Begin a card: wired to an output, or an occasion if there is none; with `offers` what fits is listed at once."""
        self.start, self.at = start, at
        parts: tuple[Part, ...] = ("if", "do") if start is not None else ("when", "if", "do")
        hint = (
            "what comes next; “to 5” leads to card 5, “= 2 * dt” gives a value"
            if start is not None
            else "when something happens …"
        )
        self.line.open_line(area, parts, self.roles(), hint, text, self._use_of(start))
        if offers:
            self.line.offer_all()

    def _use_of(self, start: tuple[int, str] | None) -> str:
        """Return what the card uses whose output is gone on from."""
        graph = self.commands.opened.graph
        nodes = graph.nodes if graph is not None and start is not None else ()
        return next((node.use for node in nodes if start is not None and node.id == start[0]), "")

    def roles(self) -> tuple[str, ...]:
        """Return the roles that the cards name already."""
        graph = self.commands.opened.graph
        return roles_of(graph) if graph is not None else ()

    def _plain(self, text: str) -> bool:
        if self.commands.wires.typed(self.start, text):
            QTimer.singleShot(0, self.done.emit)
            return True
        return False

    def _take(self, reading: Reading) -> None:
        """A reading was chosen: put its cards onto the sheet, one below the other, then ask for their empty slots."""
        bench = self.commands.opened.bench
        level, reading = with_names_made(bench.level, self.line.index, reading)
        first: Level | None = level
        start, at = self.start, self.at
        asked: tuple[int, bool] | None = None
        put: list[int] = []
        join = f"cards of a line {id(reading)}" if reading.lines else ""
        for line in reading.all_lines:
            if line.part == "else" and asked is not None:
                # what is done otherwise goes on at the other output of the condition
                start, asked = (asked[0], "yes" if asked[1] else "no"), None
            made = Clause(use=line.clause.use, slots=_whole(line))
            number = self.commands.cards.put(made, start, at, first, join)
            if number is None:
                break
            put.append(number)
            self.placed.emit(number, line.clause.negated)
            if line.part == "if":
                asked = number, line.clause.negated
            start, at, first = (number, _goes_on_at(line)), None, None
        self._filling = put
        if not put:
            self.done.emit()
            return
        self._fill_next()

    def _fill_next(self) -> None:
        """Open the next slot of the new cards that is still empty."""
        sheet = self.commands.opened.sheet(at_once=True)
        for number in self._filling or ():
            card = sheet.cards.get(number) if sheet is not None else None
            entry = sentence_of(card.node.use) if card is not None else None
            if card is None or entry is None:
                continue
            for name, slot in entry.slots.items():
                filled = card.node.slots.get(name, slot.default)
                if not filled and not slot.kind.optional and any(w.run.word.slot == name for w in card.words):
                    self.edit(card, name, listing=self.line.clicked)
                    return
        self._filling = None
        self.done.emit()

    # slots

    def edit(self, card: CardShape, slot: str, *, listing: bool = False) -> bool:
        """Edit a slot of a card in place; False if there is none to edit. `listing` as of `SlotEditor.open_editor`."""
        word = next((w for w in card.words if w.run.word.slot == slot), None)
        edited = self.edited(card.node, slot)
        if word is None or edited is None:
            return False
        if word.run.word.sort == "wired":
            self.commands.opened.bench.notify(
                f"A wire gives this slot its value; cut the wire to type a value here ({slot})."
            )
            return False
        corner = card.area.topLeft()
        area = self.to_screen(QRectF(corner.x() + word.x, corner.y() + word.y, word.run.width, LINE))
        self.editor.open_editor(edited, area, listing=listing)
        return True

    def edited(self, node: Node, slot: str) -> Edited | None:
        """Return a slot of a card, to be edited."""
        entry = sentence_of(node.use)
        declared = entry.slots.get(slot) if entry is not None else None
        index = self.commands.opened.index
        if declared is None:
            if slot not in node.slots or node.use not in (OWN, FORMULA):
                return None
            # what is given to an own node
            declared = Slot("value" if slot != "graph" else "own node")

        def wrong(text: str) -> SlotProblem | None:
            if node.use in CATALOGUE:
                clause = replace(node.clause, slots={**node.slots, slot: text})
                bound = bind(index, clause, _GROUPS[CATALOGUE[node.use].group])  # type: ignore[arg-type]
                return next((p for p in bound.problems if p.slot == slot), None)
            if declared.type in VALUED:
                try:
                    compile_formula(index, text)
                except FormulaError as error:
                    free = node.use == FORMULA and "no" in error.message
                    return None if free else SlotProblem(slot, error.message, error.start, error.end)
            return None

        text = node.slots.get(slot, declared.default)
        also = FREE[:3] if node.use == FORMULA else ()
        heard = f"{slot} of card {node.id}"
        return Edited(heard, text, declared, index, self.roles(), wrong, also, key=(node.id, slot))

    def slots_of(self, card: CardShape) -> list[str]:
        """Return the slots of a card that can be edited, from left to right."""
        return list(
            dict.fromkeys(
                w.run.word.slot for w in card.words if w.run.word.slot and w.run.word.sort != "wired"
            )
        )

    def edit_first(self, number: int) -> bool:
        """Edit the first slot of a card."""
        sheet = self.commands.opened.sheet(at_once=True)
        card = sheet.cards.get(number) if sheet is not None else None
        slots = self.slots_of(card) if card is not None else []
        return bool(card is not None and slots and self.edit(card, slots[0]))

    def _take_slot(self, key: tuple[int, str], text: str) -> None:
        self.commands.cards.set_slot(*key, text)

    def _walk(self, by: int) -> None:
        if not isinstance(self.editor.last_key, tuple):
            return
        number, slot = self.editor.last_key
        sheet = self.commands.opened.sheet(at_once=True)
        card = sheet.cards.get(number) if sheet is not None else None
        slots = self.slots_of(card) if card is not None else []
        if card is not None and slot in slots and 0 <= slots.index(slot) + by < len(slots):
            following = slots[slots.index(slot) + by]
            QTimer.singleShot(0, lambda: self.edit(card, following))

    def _closed(self, kept: bool) -> None:
        if self._filling is not None and kept:
            QTimer.singleShot(0, self._fill_next)
            return
        self._filling = None
        self.done.emit()

    def give_up(self) -> None:
        """Put away what is being typed."""
        self._filling = None
        self.editor.close_editor(keep=False)
        self.line.close_line()


def roles_of(graph: Graph) -> tuple[str, ...]:
    """Return the roles that the cards of a graph name."""
    found: dict[str, None] = {"self": None} if graph.for_ else {}
    for node in graph.nodes:
        entry = sentence_of(node.use)
        for name, slot in entry.slots.items() if entry is not None else ():
            if slot.kind.holds in ("role", "where") and node.slots.get(name) and node.use not in CARDS:
                found[node.slots[name]] = None
    return tuple(found)


def _whole(line: Reading) -> dict[str, str]:
    """Return the slots of a line; what is in a slot at first stands there for good, as in rules."""
    if line.clause.use == OWN:
        return line.clause.slots
    given = line.clause.slots
    return {
        name: text for name, slot in line.entry.slots.items() if (text := given.get(name, "") or slot.default)
    }


def _goes_on_at(line: Reading) -> str:
    """Return the output of a line's card at which the next line goes on."""
    ports = ports_of(line.clause.use)
    outputs = ports.outputs if ports is not None else ()
    if line.clause.negated and "no" in outputs:
        return "no"
    return "after" if "after" in outputs else outputs[0] if outputs else "then"
