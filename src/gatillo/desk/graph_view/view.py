"""A graph on its sheet: looked at, pointed at, typed into, and read at the cursor."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtWidgets import QLineEdit, QMenu, QToolTip, QWidget

from gatillo.catalogue.card_faces import CardFace
from gatillo.catalogue.cards import OWN, sentence_of
from gatillo.catalogue.outline import card_words, outline_order, wired_slots
from gatillo.desk.graph_view.card_layout import (
    CardShape,
    Sheet,
    WireShape,
    points_along,
    signal_way,
    value_way,
    way_path,
)
from gatillo.desk.graph_view.card_writer import CardWriter
from gatillo.desk.graph_view.graph_commands import GraphCommands
from gatillo.desk.graph_view.graph_painter import GraphPainter
from gatillo.desk.graph_view.what_ran import WhatRan, what_ran
from gatillo.desk.looks.theme import theme, with_alpha
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.number_drag import PLAIN_NUMBER, dragged

LEAST, MOST = 0.15, 2.0
READABLE = 0.6
"""Below this zoom words are hard to read: what is larger is shown from its top."""
REACH = 12.0
"""Pixels off an end of a wire at which it is still meant."""
STEP = 20.0
MAP = 104.0
"""Width of the small map of a sheet that is larger than the page, in pixels."""
End3 = tuple[int, str, bool]


@dataclass(slots=True)
class _Drag:
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


class GraphView(QWidget):
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
        self._drag: _Drag | None = None
        self._ran: tuple[object, WhatRan] | None = None
        self._map_kept: tuple[object, QPixmap] | None = None
        self._places: dict[int, tuple[QPointF, float]] = {}
        """Where the page stood for each graph that was shown."""
        self.writer = CardWriter(self, commands, self.to_screen)
        self.writer.done.connect(self.setFocus)
        self.writer.placed.connect(self._on_placed)
        commands.shown.connect(self.show_card)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(220, 140)
        self.setAccessibleName("Graph")
        bench.levelChanged.connect(self._on_level)
        bench.runChanged.connect(self.update)
        bench.cursorMoved.connect(self.update)
        bench.selectionChanged.connect(self._on_selection)
        bench.runningChanged.connect(self.update)

    # what is shown

    def show_graph(self, graph_id: int) -> None:
        """Show a graph, where it was left, or whole."""
        if self.commands.graph_id == graph_id:
            return
        self.leave()
        self.commands.graph_id = graph_id
        self.wire, self.output = None, ""
        if graph_id in self._places:
            self.corner, self.zoom = self._places[graph_id]
        else:
            self.fit()
        self._tell()
        self.update()

    def leave(self) -> None:
        """Another page is shown: keep the place."""
        self.writer.give_up()
        if self.commands.graph_id is not None:
            self._places[self.commands.graph_id] = (QPointF(self.corner), self.zoom)

    @property
    def sheet(self) -> Sheet | None:
        """The graph on its sheet, with what is being carried."""
        drag = self._drag
        if drag is not None and drag.what in ("cards", "frame") and drag.moved:
            off = (drag.now - drag.start) / self.zoom
            return self.commands.sheet(dict.fromkeys(self.commands.chosen, off))
        return self.commands.sheet()

    @property
    def ran(self) -> WhatRan:
        """What ran of it by the cursor."""
        graph, bench = self.commands.graph, self.bench
        if graph is None or bench.running or bench.playing or bench.live:
            return WhatRan()
        key = (bench.run, bench.cursor, graph, bench.awaits, bench.run.done)
        if self._ran is None or self._ran[0] != key:
            self._ran = (key, what_ran(bench, graph))
        return self._ran[1]

    def to_sheet(self, point: QPointF) -> QPointF:
        """The point of the sheet under a pixel."""
        return self.corner + point / self.zoom

    def to_screen(self, area: QRectF) -> QRectF:
        """Where a part of the sheet is on the page."""
        at = (area.topLeft() - self.corner) * self.zoom
        return QRectF(at.x(), at.y(), area.width() * self.zoom, area.height() * self.zoom)

    def fit(self, cards: Iterable[int] = ()) -> None:
        """Show the whole sheet, or some cards, no larger than 100 %."""
        sheet = self.commands.sheet()
        chosen = [sheet.cards[n].area for n in cards if n in sheet.cards] if sheet is not None else []
        area = sheet.area if sheet is not None else QRectF()
        if chosen:
            area = chosen[0]
            for one in chosen[1:]:
                area = area.united(one)
        if area.isEmpty():
            self.zoom, self.corner = 1.0, QPointF(-40, -40)
        else:
            area = area.adjusted(-46, -26, 46, 26)
            whole = min(1.0, self.width() / area.width(), self.height() / area.height())
            # no smaller than can be read; then it begins at the top
            self.zoom = max(READABLE, whole)
            seen = QPointF(self.width(), self.height()) / self.zoom
            top = area.top() if seen.y() < area.height() else area.center().y() - seen.y() / 2
            self.corner = QPointF(area.center().x() - seen.x() / 2, top)
        self.update()

    def set_zoom(self, zoom: float, around: QPointF | None = None) -> None:
        """Zoom, keeping the point under a pixel in place."""
        around = around if around is not None else QPointF(self.width(), self.height()) / 2
        before = self.to_sheet(around)
        self.zoom = max(LEAST, min(MOST, zoom))
        self.corner = before - around / self.zoom
        self.update()

    def show_card(self, number: int) -> None:
        """Bring a card into sight."""
        sheet = self.commands.sheet()
        if sheet is None or number not in sheet.cards:
            return
        seen = self.to_screen(sheet.cards[number].area).adjusted(-30, -30, 30, 60)
        page = QRectF(self.rect())
        dx = min(0.0, seen.left()) + max(0.0, seen.right() - page.width())
        dy = min(0.0, seen.top()) + max(0.0, seen.bottom() - page.height())
        self.corner += QPointF(dx, dy) / self.zoom
        self.update()

    def find_card(self, text: str, by: int = 1) -> bool:
        """Select the next card whose words have a text in them; whether there is one."""
        graph = self.commands.graph
        if graph is None or not text.strip():
            return False
        wired = wired_slots(graph)
        nodes = {n.id: n for n in graph.nodes}
        order = [n for n, _, _ in outline_order(graph)]
        hits = [n for n in order if text.lower() in f"{n} {card_words(nodes[n], wired.get(n))}".lower()]
        if not hits:
            return False
        now = next(iter(self.commands.chosen), None)
        at = (hits.index(now) + by) % len(hits) if now in hits else 0
        self.commands.choose({hits[at]})
        self.show_card(hits[at])
        return True

    def _on_level(self) -> None:
        if self.commands.graph is None:
            self.writer.give_up()
        self._ran = None
        self._tell()
        self.update()

    def _on_selection(self) -> None:
        chosen = self.commands.chosen
        if chosen:
            self.wire = None
        if len(chosen) != 1:
            self.output = ""
        self._tell()
        self.update()

    def _on_placed(self, number: int, turned: bool) -> None:
        sheet = self.commands.sheet()
        if turned and sheet is not None and "no" in sheet.cards[number].face.outputs:
            self.output = "no"
        self.update()

    def _tell(self) -> None:
        """Say for a screen reader what is selected, with what it hangs on."""
        sheet, chosen = self.commands.sheet(), self.commands.chosen
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
        sheet = self.commands.sheet()
        if sheet is None or self.wire is None:
            return None
        return next((w for w in sheet.wires if (w.value, w.number) == self.wire), None)

    def output_now(self) -> tuple[int, str] | None:
        """The output at which typing goes on."""
        chosen, sheet = self.commands.chosen, self.commands.sheet()
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
        """The first output that leads nowhere yet; else the first that carries on by itself."""
        used = {w.output for w in sheet.wires if w.start.node == number and not w.value}
        if "after" in face.outputs and "after" not in used:
            return "after"
        return next((o for o in face.outputs if o not in used), face.outputs[0])

    # painting

    def paintEvent(self, event: object) -> None:
        p = QPainter(self)
        # an error must not leave the painter open: Qt would crash on it
        try:
            with self.bench.worker_held():
                self._paint(p)
        finally:
            p.end()

    def _paint(self, p: QPainter) -> None:
        t = theme()
        p.fillRect(self.rect(), t.paper)
        sheet = self.sheet
        graph = self.commands.graph
        if sheet is None or graph is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not sheet.cards:
            p.setPen(t.quiet)
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "An empty graph. Type what begins it, such as “every tick” or “moth touches lamp”.",
            )
            return
        findings: dict[int, str] = {}
        for found in self.bench.findings:
            if found.rule_id == graph.id and found.card:
                findings.setdefault(found.card, found.sentence())
        p.save()
        p.scale(self.zoom, self.zoom)
        p.translate(-self.corner)
        sight = QRectF(self.corner, self.to_sheet(QPointF(self.width(), self.height())))
        stops = {n for n in sheet.cards if self.bench.stops_at(graph.id, n)}
        painter = GraphPainter(sheet, self.commands.layout_, self.commands.index, self.ran, self.zoom, stops)
        painter.paint(p, sight, self.commands.chosen, self.wire_shape, findings, self.output_now())
        self._paint_drag(p, sheet)
        p.restore()
        carrying = self._drag is not None and self._drag.what == "cards"
        if not carrying and not sight.contains(sheet.area):
            self._paint_map(p, sheet, sight)

    def _paint_drag(self, p: QPainter, sheet: Sheet) -> None:
        drag, t = self._drag, theme()
        if drag is None or not drag.moved:
            return
        now = self.to_sheet(drag.now)
        if drag.what == "wire" and drag.end is not None:
            number, name, value = drag.end
            card = sheet.cards[number]
            if drag.forward:
                start = card.value_at(name) if value else card.output_at(name)
                way = value_way(start, now) if value else signal_way(start, now, None)
            else:
                end = card.slot_at(name) if value else card.input_at(name)
                way = value_way(now, end) if value else signal_way(now, end, None)
            p.setPen(QPen(t.cursor, 2, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(way_path(way))
        elif drag.what in ("box", "cut"):
            p.setPen(QPen(t.fault if drag.what == "cut" else t.cursor, 1.4 / self.zoom, Qt.PenStyle.DashLine))
            if drag.what == "box":
                p.setBrush(with_alpha(t.cursor, 0.07))
                p.drawRect(QRectF(self.to_sheet(drag.start), now).normalized())
            else:
                p.drawLine(self.to_sheet(drag.start), now)

    def _map(self, sheet: Sheet) -> tuple[QRectF, float, QRectF]:
        """Where the small map stands, its scale, and what it shows."""
        area = sheet.area.adjusted(-60, -60, 60, 60)
        scale = min(MAP / area.width(), 74.0 / area.height())
        size = (area.width() * scale, area.height() * scale)
        return QRectF(self.width() - size[0] - 10, self.height() - size[1] - 10, *size), scale, area

    def _paint_map(self, p: QPainter, sheet: Sheet, sight: QRectF) -> None:
        t = theme()
        box, scale, area = self._map(sheet)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(with_alpha(t.panel, 0.86))
        p.drawRect(box)
        ran = self.ran
        key = (id(sheet), id(ran), box.size(), t)
        if self._map_kept is None or self._map_kept[0] != key:
            self._map_kept = (key, self._map_picture(sheet, ran, box.size(), scale, area))
        p.drawPixmap(box.topLeft(), self._map_kept[1])
        at = box.topLeft() + (sight.topLeft() - area.topLeft()) * scale
        seen = QRectF(at.x(), at.y(), sight.width() * scale, sight.height() * scale).intersected(box)
        p.setPen(QPen(t.cursor, 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(seen)

    def _map_picture(self, sheet: Sheet, ran: WhatRan, size: QSizeF, scale: float, area: QRectF) -> QPixmap:
        """The cards on the small map, painted once for as long as they stay."""
        t, ratio = theme(), self.devicePixelRatioF()
        picture = QPixmap((size * ratio).toSize())
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        ran_here: list[QRectF] = []
        others: list[QRectF] = []
        for number, card in sheet.cards.items():
            at = (card.area.topLeft() - area.topLeft()) * scale
            small = QRectF(at.x(), at.y(), card.area.width() * scale, max(1.5, card.area.height() * scale))
            (ran_here if number in ran.cards else others).append(small)
        p = QPainter(picture)
        try:
            p.setPen(Qt.PenStyle.NoPen)
            for boxes, colour in ((others, t.quiet), (ran_here, t.fires)):
                p.setBrush(colour)
                p.drawRects(boxes)
        finally:
            p.end()
        return picture

    # pointing

    def wire_near(self, point: QPointF) -> WireShape | None:
        """The wire near a point of the sheet."""
        sheet = self.commands.sheet()
        best: tuple[float, WireShape] | None = None
        for wire in sheet.wires if sheet is not None else ():
            off = min((q - point).manhattanLength() for q in points_along(wire.way, 20))
            if off <= REACH / self.zoom and (best is None or off < best[0]):
                best = off, wire
        return best[1] if best else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.writer.editor.close_editor(keep=True)
        self.writer.line.close_line()
        self.setFocus()
        point, sheet = event.position(), self.commands.sheet()
        if sheet is None:
            return
        at, reach = self.to_sheet(point), REACH / self.zoom
        if event.button() == Qt.MouseButton.MiddleButton or self.panning:
            self._drag = _Drag("pan", point, point)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        box, _, _ = self._map(sheet) if sheet.cards else (QRectF(), 1.0, QRectF())
        sight = QRectF(self.corner, self.to_sheet(QPointF(self.width(), self.height())))
        if sheet.cards and not sight.contains(sheet.area) and box.contains(point):
            self._drag = _Drag("map", point, point, moved=True)
            self._to_map(point, sheet)
            return
        for wire in sheet.wires:
            if wire.place and wire.place_box.contains(at):
                self.wire = (False, wire.number)
                self._drag = _Drag("place", point, point, wire=wire)
                self.update()
                return
        start = sheet.output_near(at, reach)
        if start is not None:
            self._drag = _Drag("wire", point, point, end=start)
            if not start[2]:
                self.commands.choose({start[0]})
                self.output = start[1]
            return
        end = sheet.input_near(at, reach)
        if end is not None:
            # the last wire that comes in there is taken by its end; with none, one is drawn backwards
            came = [w for w in sheet.wires if (w.end.node, w.entered, w.value) == end]
            if came:
                wire = came[-1]
                self._drag = _Drag(
                    "wire", point, point, end=(wire.start.node, wire.output, wire.value), wire=wire
                )
            else:
                self._drag = _Drag("wire", point, point, end=end, forward=False)
            return
        card = sheet.card_under(at)
        if card is not None:
            self._press_card(card, event)
            return
        frame = self.commands.frame_at(at)
        if frame is not None:
            self.commands.choose(self.commands.in_frame(frame))
            self._drag = _Drag("frame", point, point, frame=frame)
            return
        near = self.wire_near(at)
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if near is not None:
            self.commands.choose(())
            self.wire = (near.value, near.number)
            self.update()
            return
        self.wire = None
        if not adding:
            self.commands.choose(())
        what = "cut" if event.modifiers() & Qt.KeyboardModifier.AltModifier else "box"
        self._drag = _Drag(what, point, point)

    def _press_card(self, card: CardShape, event: QMouseEvent) -> None:
        number, chosen = card.node.id, self.commands.chosen
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.commands.choose(chosen ^ {number})
        elif number not in chosen:
            self.commands.choose({number})
        self.wire = None
        at = self.to_sheet(event.position())
        for word in card.words:
            run = word.run.word
            plain = run.sort == "value" and PLAIN_NUMBER.fullmatch(run.text.strip())
            if run.slot and plain and word.area.translated(card.area.topLeft()).contains(at):
                slot = (number, run.slot, float(run.text))
                self._drag = _Drag("number", event.position(), event.position(), slot=slot)
                return
        self._drag = _Drag("cards", event.position(), event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drag, point = self._drag, event.position()
        if drag is None:
            sheet = self.commands.sheet()
            at = self.to_sheet(point)
            near = sheet is not None and (
                sheet.output_near(at, REACH / self.zoom) or sheet.input_near(at, REACH / self.zoom)
            )
            self.setCursor(Qt.CursorShape.CrossCursor if near else Qt.CursorShape.ArrowCursor)
            return
        before, drag.now = drag.now, point
        moved = drag.moved or (drag.now - drag.start).manhattanLength() > 4
        if drag.what == "number" and moved:
            self._pull_number(drag, event.modifiers())
        drag.moved = moved
        if drag.what == "pan":
            self.corner -= (drag.now - before) / self.zoom
        elif drag.what == "map":
            sheet = self.commands.sheet()
            if sheet is not None:
                self._to_map(point, sheet)
        self.update()

    def _pull_number(self, drag: _Drag, modifiers: Qt.KeyboardModifier) -> None:
        """The number follows the pointer, and the run the number."""
        if not drag.moved:
            self.bench.begin_live()
        number, slot, value = drag.slot
        text = dragged(value, drag.now.x() - drag.start.x(), modifiers)
        self.commands.set_slot(number, slot, text, join=f"drag {self.commands.graph_id} {number} {slot}")

    def _to_map(self, point: QPointF, sheet: Sheet) -> None:
        box, scale, area = self._map(sheet)
        middle = area.topLeft() + (point - box.topLeft()) / scale
        self.corner = middle - QPointF(self.width(), self.height()) / 2 / self.zoom
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        sheet = self.commands.sheet()
        if drag is None or sheet is None:
            return
        point = self.to_sheet(event.position())
        if drag.what == "wire":
            self._drop_wire(drag, point, sheet)
        elif drag.what == "number":
            if drag.moved:
                self.bench.end_live()
            else:
                self._click_card(point, sheet)
        elif drag.what == "cards":
            if drag.moved:
                off = (drag.now - drag.start) / self.zoom
                self.commands.move(self.commands.chosen, round(off.x()), round(off.y()))
            elif event.modifiers() == Qt.KeyboardModifier.NoModifier:
                self._click_card(point, sheet)
        elif drag.what == "frame" and drag.moved:
            off = (drag.now - drag.start) / self.zoom
            self.commands.move_frame(drag.frame, round(off.x()), round(off.y()))
        elif drag.what == "box" and drag.moved:
            box = QRectF(self.to_sheet(drag.start), point).normalized()
            inside = {n for n, c in sheet.cards.items() if box.intersects(c.area)}
            self.commands.choose(self.commands.chosen | inside)
        elif drag.what == "cut" and drag.moved:
            self._cut_across(self.to_sheet(drag.start), point, sheet)
        elif drag.what == "place" and drag.wire is not None:
            self._drop_place(drag.wire, point, sheet)
        self.update()

    def _click_card(self, point: QPointF, sheet: Sheet) -> None:
        card = sheet.card_under(point)
        if card is None:
            return
        self.commands.choose({card.node.id})
        for word in card.words:
            area = word.area.translated(card.area.topLeft())
            if word.run.word.slot and area.contains(point):
                self.writer.edit(card, word.run.word.slot, listing=True)
                return

    def _drop_wire(self, drag: _Drag, point: QPointF, sheet: Sheet) -> None:
        assert drag.end is not None
        if not drag.moved:
            if drag.wire is not None:
                self.wire = (drag.wire.value, drag.wire.number)
            return
        reach = REACH / self.zoom
        number, name, value = drag.end
        card = sheet.card_under(point)
        other = sheet.input_near(point, reach) if drag.forward else sheet.output_near(point, reach)
        if drag.wire is not None and other == (drag.wire.end.node, drag.wire.entered, value):
            return
        if drag.wire is not None:
            # its end is carried elsewhere, or it is cut
            self.commands.cut([drag.wire])
            if other is None and card is None:
                return
        if not drag.forward:
            if other is not None:
                self.commands.wire(other, drag.end)
            elif card is None and value:
                self._type_value((number, name), point)
            return
        if other is not None and other[2] == value:
            self.commands.wire(drag.end, other)
        elif card is not None:
            self.commands.wire_to_card(drag.end, card.node.id)
        elif value:
            self.bench.told.emit("Drop the value on a slot of a card, or on a formula card.")
        else:
            self.type_card((number, name), point, offers=True)

    def _drop_place(self, wire: WireShape, point: QPointF, sheet: Sheet) -> None:
        """A wire's number was dropped: on another of its output, it takes its place."""
        mine = [
            w for w in sheet.wires if w.place and (w.start.node, w.output) == (wire.start.node, wire.output)
        ]
        nearest = min(mine, key=lambda w: (w.place_box.center() - point).manhattanLength())
        if nearest.number != wire.number:
            self.commands.renumber(wire, nearest.place - wire.place)

    def _cut_across(self, start: QPointF, end: QPointF, sheet: Sheet) -> None:
        cut = [w for w in sheet.wires if _crosses(points_along(w.way, 14), start, end)]
        self.commands.cut(cut)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        sheet = self.commands.sheet()
        card = sheet.card_under(self.to_sheet(event.position())) if sheet is not None else None
        frame = self.commands.frame_at(self.to_sheet(event.position()))
        if card is None and frame is not None:
            self._name_frame(frame)
        elif card is None:
            self.type_card(None, self.to_sheet(event.position()), offers=True)
        elif card.node.use == OWN:
            self.opened.emit(card.node.slots.get("graph", ""))
        else:
            self.mousePressEvent(event)

    def _name_frame(self, number: int) -> None:
        """Let a frame's title be typed over where it stands."""
        graph = self.commands.graph
        assert graph is not None
        frame = graph.frames[number]
        field = QLineEdit(frame.title, self)
        field.setObjectName("frame-title")
        field.setAccessibleName("Title of the frame; empty takes it away")
        at = self.to_screen(QRectF(frame.at[0], frame.at[1] - 26, 220, 24))
        field.setGeometry(int(at.left()), int(at.top()), 220, 26)
        field.selectAll()
        field.show()
        field.setFocus()

        def take() -> None:
            field.deleteLater()
            self.setFocus()
            if field.text() != frame.title:
                self.commands.name_frame(number, field.text().strip())

        field.editingFinished.connect(take, Qt.ConnectionType.SingleShotConnection)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.corner -= QPointF(event.angleDelta().y(), 0) / self.zoom
            self.update()
        else:
            self.set_zoom(self.zoom * 1.15 ** (event.angleDelta().y() / 120), event.position())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        sheet = self.commands.sheet()
        if sheet is None:
            return
        at = self.to_sheet(QPointF(event.pos()))
        self.menu_at(at, sheet).exec(event.globalPos())

    def menu_at(self, at: QPointF, sheet: Sheet) -> QMenu:
        """The commands that fit what lies at a point of the sheet."""
        menu, commands = QMenu(self), self.commands
        card, wire, frame = sheet.card_under(at), self.wire_near(at), commands.frame_at(at)
        if card is None and frame is not None:
            menu.addAction("Fold or unfold the frame", lambda: commands.fold_frame(frame))
            menu.addAction("Name the frame", lambda: self._name_frame(frame))
            menu.addAction("Take the frame away", lambda: commands.name_frame(frame, ""))
        elif card is not None:
            if card.node.id not in commands.chosen:
                commands.choose({card.node.id})
            menu.addAction("Edit its first slot", lambda: self.writer.edit_first(card.node.id))
            if card.face.outputs:
                menu.addAction("Type what comes next", lambda: self.type_card(self.output_now(), None))
            if card.node.use == OWN:
                menu.addAction(
                    "Open the own node", lambda: self.opened.emit(card.node.slots.get("graph", ""))
                )
                menu.addAction("Unfold it here", commands.unfold_chosen)
            if commands.watch_of(card.node):
                menu.addAction("Watch its value", lambda: commands.watch(card.node))
            menu.addSeparator()
            menu.addAction("Fold into an own node", commands.fold_chosen)
            menu.addAction("Put a frame about it", commands.frame_chosen)
            menu.addAction("Duplicate", commands.duplicate)
            menu.addAction("Copy", commands.copy)
            menu.addAction("Delete", lambda: commands.delete(None))
        elif wire is not None:
            self.wire = (wire.value, wire.number)
            giver = commands.giver_of(wire)
            if giver is not None and commands.watch_of(giver):
                menu.addAction("Watch what it carries", lambda: commands.watch(giver))
            menu.addAction("Cut the wire", lambda: commands.cut([wire]))
            if wire.place:
                menu.addAction("Let it come earlier", lambda: commands.renumber(wire, -1))
                menu.addAction("Let it come later", lambda: commands.renumber(wire, 1))
        else:
            menu.addAction("Type a card here", lambda: self.type_card(None, at))
            menu.addAction("Paste cards", commands.paste)
            menu.addSeparator()
            menu.addAction("Tidy", commands.tidy)
            menu.addAction("Show all", self.fit)
        self.update()
        return menu

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            words = self.hint_at(QPointF(event.pos()))
            if words:
                QToolTip.showText(event.globalPos(), words, self)
            else:
                QToolTip.hideText()
            return True
        tabs = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if pressed and event.key() in tabs and self._tab(tabs[Qt.Key(event.key())]):  # type: ignore[attr-defined]
            return True
        return super().event(event)

    def hint_at(self, point: QPointF) -> str:
        """What lies under the pointer, in words: a card's help, findings, and last values."""
        sheet, graph = self.commands.sheet(), self.commands.graph
        if sheet is None or graph is None:
            return ""
        card = sheet.card_under(self.to_sheet(point))
        if card is None:
            return ""
        entry, ran, number = sentence_of(card.node.use), self.ran, card.node.id
        lines = [f"{number}. {card_words(card.node, wired_slots(graph).get(number))}"]
        if entry is not None:
            lines.append(entry.help)
        if number in ran.cards:
            lines.append(f"ran in this tick, for {ran.cards[number][1]}")
        if number in ran.values:
            lines.append(f"gave {ran.values[number]}")
        if number in ran.kept:
            lines.append(ran.kept[number])
        lines += [f.sentence() for f in self.bench.findings if f.rule_id == graph.id and f.card == number]
        return "\n".join(lines)

    # typing

    def type_card(
        self, start: tuple[int, str] | None, at: QPointF | None, text: str = "", *, offers: bool = False
    ) -> None:
        """Open a line for a new card: at a place, or below the card whose output it is wired to."""
        sheet = self.commands.sheet()
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

    def _type_value(self, to: tuple[int, str], at: QPointF) -> None:
        """Type a formula that is wired to a slot."""
        number = self.commands.put_value("0", to, QPointF(at.x() - 100, at.y() - 16))
        if number is not None:
            self.writer.edit_first(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = event.key(), event.text()
        plain = not event.modifiers() & (
            Qt.KeyboardModifier.ControlModifier
            | Qt.KeyboardModifier.AltModifier
            | Qt.KeyboardModifier.MetaModifier
        )
        arrows = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        if key in arrows:
            dx, dy = arrows[Qt.Key(key)]
            if event.modifiers() & Qt.KeyboardModifier.AltModifier:
                if self.wire_shape is not None:
                    self.commands.renumber(self.wire_shape, dx or dy)
                else:
                    self.commands.move(self.commands.chosen, dx * STEP, dy * STEP, "nudge cards")
            else:
                self.walk(dx, dy)
        elif key == Qt.Key.Key_Space and not event.isAutoRepeat() and not text.strip():
            self.panning = True
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.commands.delete(self.wire_shape)
            self.wire = None
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            number = next(iter(self.commands.chosen), None)
            if number is None:
                self.type_card(None, None)
            elif not self.writer.edit_first(number):
                self.type_card(self.output_now(), None)
        elif key == Qt.Key.Key_Escape:
            self.wire = None
            self.commands.choose(())
        elif plain and text.strip() and text.isprintable():
            self.type_card(self.output_now(), None, text)
        else:
            super().keyPressEvent(event)
        self.update()

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self.panning = False
        super().keyReleaseEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.panning = False
        super().focusOutEvent(event)
        self.update()

    def _tab(self, by: int) -> bool:
        """On to the next output of the selected card, and then to the next open one; False where there is none."""
        sheet, graph = self.commands.sheet(), self.commands.graph
        if sheet is None or graph is None or not sheet.cards:
            return False
        used = {(w.start.node, w.output) for w in sheet.wires if not w.value}
        order = [n for n, _, _ in outline_order(graph)]
        here = self.output_now()
        open_ends = [
            (n, o)
            for n in order
            for o in sheet.cards[n].face.outputs
            if (
                (n, o) not in used
                and not (sheet.cards[n].face.more and o != "1" and o == sheet.cards[n].face.outputs[-1])
            )
            or (n, o) == here
        ]
        if not open_ends or open_ends == [here]:
            return False
        at = open_ends.index(here) + by if here in open_ends else 0
        if not 0 <= at < len(open_ends):
            return False
        number, output = open_ends[at]
        self.commands.choose({number})
        self.output = output
        self.show_card(number)
        return True

    def walk(self, dx: int, dy: int) -> None:
        """Select the next card: along a wire up or down, else the nearest in that direction."""
        sheet = self.commands.sheet()
        if sheet is None or not sheet.cards:
            return
        now = next(iter(self.commands.chosen), None)
        if now is None or now not in sheet.cards:
            first = min(sheet.cards.values(), key=lambda c: (c.area.top(), c.area.left()))
            self.commands.choose({first.node.id})
            self.show_card(first.node.id)
            return
        found: int | None = None
        output = self.output_now()
        if dy > 0:
            wires = [w for w in sheet.wires if w.start.node == now and not w.value]
            along = [w for w in wires if output is not None and w.output == output[1]] or wires
            found = along[0].end.node if along else None
        elif dy < 0:
            found = next((w.start.node for w in sheet.wires if w.end.node == now and not w.value), None)
        elif dx > 0:
            # along a value to the one that takes it, and back
            found = next((w.end.node for w in sheet.wires if w.start.node == now and w.value), None)
        elif dx < 0:
            found = next((w.start.node for w in sheet.wires if w.end.node == now and w.value), None)
        if found is None:
            here = sheet.cards[now].area.center()
            best: tuple[float, int] | None = None
            for number, card in sheet.cards.items():
                off = card.area.center() - here
                ahead = off.x() * dx + off.y() * dy
                aside = abs(off.x() * dy) + abs(off.y() * dx)
                if number != now and ahead > 1 and (best is None or ahead + 2 * aside < best[0]):
                    best = ahead + 2 * aside, number
            found = best[1] if best else None
        if found is not None:
            self.commands.choose({found})
            self.show_card(found)


def _crosses(points: list[QPointF], start: QPointF, end: QPointF) -> bool:
    """Whether a line crosses a way that is given by its points."""

    def side(a: QPointF, b: QPointF, c: QPointF) -> float:
        return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x())

    return any(
        side(start, end, one) * side(start, end, other) < 0
        and side(one, other, start) * side(one, other, end) < 0
        for one, other in itertools.pairwise(points)
    )
