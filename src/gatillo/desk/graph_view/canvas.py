"""What is shown of a graph: where its sheet is under the page, what is selected and carried, and what ran of it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtWidgets import QWidget

from gatillo.catalogue.cards.faces import CardFace
from gatillo.desk.graph_view.card_layout import Sheet, WireShape
from gatillo.desk.graph_view.card_writer import CardWriter
from gatillo.desk.graph_view.graph_commands import GraphCommands
from gatillo.desk.graph_view.what_ran import WhatRan, what_lately_ran, what_ran
from gatillo.desk.graph_view.wire_routes import points_along
from gatillo.desk.session.glow import goes_on
from gatillo.desk.session.workbench import Workbench
from gatillo.graphs.outline import card_words, outline_order, wired_slots

LEAST, MOST = 0.15, 2.0
READABLE = 0.85
"""Below this zoom words are hard to read: a sheet that would have to be smaller to be seen whole begins at its top."""
REACH = 12.0
"""Pixels off an end of a wire at which it is still meant."""
End3 = tuple[int, str, bool]


@dataclass(slots=True)
class Drag:
    """What the pointer does with a button down."""

    what: str
    """`pan`, `box`, `cards`, `frame`, `number`, `wire`, `cut`, `place`, `map`."""
    start: QPointF
    now: QPointF
    moved: bool = False
    end: End3 | None = None
    """For a wire: the end that stays."""
    forward: bool = True
    """For a wire: whether the end that stays is where it begins."""
    wire: WireShape | None = None
    frame: int = 0
    slot: tuple[int, str, float] = (0, "", 0.0)
    """For a number: the card, its slot, and what it was."""


class GraphCanvas(QWidget):
    """A window onto a graph's sheet; one unit is one pixel at 100 %."""

    opened = Signal(str)
    """An own node is to be shown, by its name."""

    def __init__(self, bench: Workbench, commands: GraphCommands, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.commands = commands
        self.zoom = 1.0
        self.corner = QPointF(-40, -40)
        """The point of the sheet at the left upper corner of the page."""
        self.wire: tuple[bool, int] | None = None
        """The selected wire: whether of values, and its number."""
        self.output = ""
        """The output of the selected card at which typing goes on; "" for its first."""
        self.panning = False
        self.drag: Drag | None = None
        self._ran: tuple[object, WhatRan] | None = None
        self._values: dict[int, tuple[int, str]] = {}
        """While a run goes on: by card, the tick in which it gave a value last, and that value."""
        self._to_show = 0
        """The card that is brought into sight as soon as it is laid out; 0 for none."""
        self._to_begin: int | None = None
        """The graph that is shown from its top as soon as it is laid out."""
        self._places: dict[int, tuple[QPointF, float]] = {}
        """Where the page stood for each graph that was shown."""
        self.writer = CardWriter(self, commands, self.to_screen)
        self.writer.done.connect(self.setFocus)
        self.writer.placed.connect(self._on_placed)
        commands.opened.shown.connect(self.show_card)
        commands.opened.laying.connect(self.update)
        commands.opened.laid_out.connect(self._on_laid_out)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        # all of it is painted: nothing below it needs to be
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(220, 140)
        self.setAccessibleName("Graph")
        bench.levelChanged.connect(self._on_level)
        bench.document.replaced.connect(self._forget)
        bench.runChanged.connect(self.update)
        bench.cursorMoved.connect(self.update)
        bench.answers.changed.connect(self.update)
        bench.selectionChanged.connect(self._on_selection)
        bench.runningChanged.connect(self._on_running)

    # what is shown

    def show_graph(self, graph_id: int) -> None:
        """Show a graph, where it was left; at first whole, or from its top."""
        if self.commands.opened.graph_id == graph_id:
            return
        self.leave()
        self.commands.opened.graph_id = graph_id
        self.wire, self.output = None, ""
        if graph_id in self._places:
            self.corner, self.zoom = self._places[graph_id]
        else:
            self._to_begin = graph_id if self.commands.opened.sheet() is None else None
            self.begin_at_top()
        self._tell()
        self.update()

    def _on_laid_out(self) -> None:
        """The sheet of a large graph is there."""
        if self._to_begin == self.commands.opened.graph_id:
            self.begin_at_top()
        self._to_begin = None
        if self._to_show:
            self.show_card(self._to_show)
            self._to_show = 0
        self._tell()
        self.update()

    def leave(self) -> None:
        """Another page is shown: keep the place."""
        self.writer.give_up()
        if self.commands.opened.graph_id is not None:
            self._places[self.commands.opened.graph_id] = (QPointF(self.corner), self.zoom)

    @property
    def sheet(self) -> Sheet | None:
        """The graph on its sheet, with what is being carried."""
        drag = self.drag
        if drag is not None and drag.what in ("cards", "frame") and drag.moved:
            off = (drag.now - drag.start) / self.zoom
            return self.commands.opened.sheet(dict.fromkeys(self.commands.opened.chosen, off))
        return self.commands.opened.sheet()

    @property
    def ran(self) -> WhatRan:
        """What ran of it by the cursor."""
        graph, bench = self.commands.opened.graph, self.bench
        if graph is None or (bench.live and not goes_on(bench)):
            return WhatRan()
        if goes_on(bench):
            moving: object = (bench.run, bench.cursor, graph)
            if self._ran is None or self._ran[0] != moving:
                self._ran = (moving, what_lately_ran(bench, graph, self._values))
            return self._ran[1]
        key = (bench.run, bench.cursor, graph, bench.moment.awaited, bench.run.done)
        if self._ran is None or self._ran[0] != key:
            self._ran = (key, what_ran(bench, graph))
        return self._ran[1]

    def to_sheet(self, point: QPointF) -> QPointF:
        """Return the point of the sheet under a pixel."""
        return self.corner + point / self.zoom

    def to_screen(self, area: QRectF) -> QRectF:
        """Return where a part of the sheet is on the page."""
        at = (area.topLeft() - self.corner) * self.zoom
        return QRectF(at.x(), at.y(), area.width() * self.zoom, area.height() * self.zoom)

    def fit(self, cards: Iterable[int] = ()) -> None:
        """Show the whole sheet, or some cards, no larger than 100 %."""
        area = self._area_of(cards)
        if not area.isEmpty():
            whole = min(1.0, self.width() / area.width(), self.height() / area.height())
            self._look_at(area, max(LEAST, whole))
        else:
            self.zoom, self.corner = 1.0, QPointF(-40, -40)
        self.update()

    def begin_at_top(self) -> None:
        """Show the whole sheet if it can be read so, else its top at a size at which it can."""
        self.fit()
        if self.zoom < READABLE:
            self._look_at(self._area_of(()), READABLE)

    def _look_at(self, area: QRectF, zoom: float) -> None:
        """Zoom, with an area in the middle, or beginning at its top where it is higher than the view."""
        self.zoom = zoom
        seen = QPointF(self.width(), self.height()) / zoom
        top = area.top() if seen.y() < area.height() else area.center().y() - seen.y() / 2
        self.corner = QPointF(area.center().x() - seen.x() / 2, top)

    def _area_of(self, cards: Iterable[int]) -> QRectF:
        """Return what some cards, or all, take up with some room about it; empty for an empty sheet."""
        sheet = self.commands.opened.sheet()
        chosen = [sheet.cards[n].area for n in cards if n in sheet.cards] if sheet is not None else []
        area = sheet.area if sheet is not None else QRectF()
        if chosen:
            area = chosen[0]
            for one in chosen[1:]:
                area = area.united(one)
        return area.adjusted(-46, -26, 46, 26) if not area.isEmpty() else area

    def set_zoom(self, zoom: float, around: QPointF | None = None) -> None:
        """Zoom, keeping the point under a pixel in place."""
        around = around if around is not None else QPointF(self.width(), self.height()) / 2
        before = self.to_sheet(around)
        self.zoom = max(LEAST, min(MOST, zoom))
        self.corner = before - around / self.zoom
        self.update()

    def show_card(self, number: int) -> None:
        """Bring a card into sight."""
        sheet = self.commands.opened.sheet()
        self._to_show = 0
        if sheet is None or number not in sheet.cards:
            # it is laid out soon
            self._to_show = number
            return
        seen = self.to_screen(sheet.cards[number].area).adjusted(-30, -30, 30, 60)
        page = QRectF(self.rect())
        dx = min(0.0, seen.left()) + max(0.0, seen.right() - page.width())
        dy = min(0.0, seen.top()) + max(0.0, seen.bottom() - page.height())
        self.corner += QPointF(dx, dy) / self.zoom
        self.update()

    def find_card(self, text: str, by: int = 1) -> bool:
        """Select the next card whose words have a text in them; whether there is one."""
        graph = self.commands.opened.graph
        if graph is None or not text.strip():
            return False
        wired = wired_slots(graph)
        nodes = {n.id: n for n in graph.nodes}
        order = [n for n, _, _ in outline_order(graph)]
        hits = [n for n in order if text.lower() in f"{n} {card_words(nodes[n], wired.get(n))}".lower()]
        if not hits:
            return False
        now = next(iter(self.commands.opened.chosen), None)
        at = (hits.index(now) + by) % len(hits) if now in hits else 0
        self.commands.opened.choose({hits[at]})
        self.show_card(hits[at])
        return True

    def _on_running(self) -> None:
        self._ran = None
        self._values.clear()
        self.update()

    def _forget(self) -> None:
        """Put away what is being typed, and the places in graphs of the level before."""
        self.writer.give_up()
        self._places.clear()

    def _on_level(self) -> None:
        if self.commands.opened.graph is None:
            self.writer.give_up()
        self._ran = None
        self._tell()
        self.update()

    def _on_selection(self) -> None:
        chosen = self.commands.opened.chosen
        if chosen:
            self.wire = None
        if len(chosen) != 1:
            self.output = ""
        self._tell()
        self.update()

    def _on_placed(self, number: int, turned: bool) -> None:
        sheet = self.commands.opened.sheet()
        card = sheet.cards.get(number) if sheet is not None else None
        if turned and card is not None and "no" in card.face.outputs:
            self.output = "no"
        self.update()

    def _tell(self) -> None:
        """Say for a screen reader what is selected, with what it hangs on."""
        sheet, chosen = self.commands.opened.sheet(), self.commands.opened.chosen
        if sheet is None or len(chosen) != 1:
            many = len(sheet.cards) if sheet is not None else 0
            self.setAccessibleDescription(f"{len(chosen)} of {many} cards selected")
            return
        card = sheet.cards.get(next(iter(chosen)))
        if card is None:
            return
        words = [f"card {card.node.id}: {card_words(card.node)}"]
        for wire in sheet.wires:
            if wire.end.node == card.node.id:
                words.append(f"from card {wire.start.node} {wire.output}")
            if wire.start.node == card.node.id:
                words.append(f"{wire.output} to card {wire.end.node}")
        self.setAccessibleDescription("; ".join(words))

    @property
    def wire_shape(self) -> WireShape | None:
        """The selected wire."""
        sheet = self.commands.opened.sheet()
        if sheet is None or self.wire is None:
            return None
        return next((w for w in sheet.wires if (w.value, w.number) == self.wire), None)

    def choose_wire(self, wire: WireShape) -> None:
        """Select a wire, and no card."""
        self.commands.opened.choose(())
        self.wire = (wire.value, wire.number)
        self.update()

    def output_now(self) -> tuple[int, str] | None:
        """Return the output at which typing goes on."""
        chosen, sheet = self.commands.opened.chosen, self.commands.opened.sheet()
        if len(chosen) != 1 or sheet is None:
            return None
        card = sheet.cards.get(next(iter(chosen)))
        if card is None or not card.face.outputs:
            return None
        face = card.face
        if self.output in face.outputs:
            return card.node.id, self.output
        return card.node.id, self.free_output(sheet, card.node.id, face)

    def free_output(self, sheet: Sheet, number: int, face: CardFace) -> str:
        """Return the first output that leads nowhere yet; else the first that carries on by itself."""
        used = {w.output for w in sheet.wires if w.start.node == number and not w.value}
        if "after" in face.outputs and "after" not in used:
            return "after"
        return next((o for o in face.outputs if o not in used), face.outputs[0])

    # what lies where

    def wire_near(self, point: QPointF) -> WireShape | None:
        """Return the wire near a point of the sheet."""
        sheet = self.commands.opened.sheet(at_once=True)
        best: tuple[float, WireShape] | None = None
        for wire in sheet.wires if sheet is not None else ():
            off = min((q - point).manhattanLength() for q in points_along(wire.way, 20))
            if off <= REACH / self.zoom and (best is None or off < best[0]):
                best = off, wire
        return best[1] if best else None

    # typing

    def type_card(
        self, start: tuple[int, str] | None, at: QPointF | None, text: str = "", *, offers: bool = False
    ) -> None:
        """Open a line for a new card: at a place, or below the card whose output it is wired to."""
        sheet = self.commands.opened.sheet(at_once=True)
        if sheet is None:
            return
        if at is not None:
            spot = self.to_screen(QRectF(at.x(), at.y(), 10, 10)).topLeft()
        elif start is not None and start[0] in sheet.cards:
            card = sheet.cards[start[0]]
            spot = self.to_screen(card.area).bottomLeft() + QPointF(0, 18 * self.zoom)
        else:
            spot = QPointF(40, 40)
        wide = 420.0
        x = min(max(spot.x(), 10.0), max(10.0, self.width() - wide - 10))
        y = min(max(spot.y(), 6.0), max(6.0, self.height() - 36.0))
        self.writer.open_line(QRectF(x, y, wide, 28), start, at, text, offers=offers)
