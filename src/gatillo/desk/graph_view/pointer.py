"""The pointer on a graph: grabbing cards, wires, numbers and frames, and where they are dropped."""

from __future__ import annotations

import itertools

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QLineEdit

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.desk.graph_view.canvas import REACH, Drag, GraphCanvas
from gatillo.desk.graph_view.card_layout import CardShape, Sheet, WireShape
from gatillo.desk.graph_view.small_map import SmallMap
from gatillo.desk.graph_view.wire_routes import points_along
from gatillo.desk.writing.number_drag import PLAIN_NUMBER, dragged
from gatillo.level.graphs import OWN
from gatillo.level.naming import token


class GraphPointer:
    """What presses, drags and double clicks do."""

    def __init__(self, canvas: GraphCanvas, small_map: SmallMap) -> None:
        self.canvas = canvas
        self.small_map = small_map

    def press(self, event: QMouseEvent) -> None:
        """Take hold of what lies under the pointer."""
        self.canvas.writer.editor.close_editor(keep=True)
        self.canvas.writer.line.close_line()
        self.canvas.setFocus()
        point, sheet = event.position(), self.canvas.commands.opened.sheet(at_once=True)
        if sheet is None:
            return
        at, reach = self.canvas.to_sheet(point), REACH / self.canvas.zoom
        if event.button() == Qt.MouseButton.MiddleButton or self.canvas.panning:
            self.canvas.drag = Drag("pan", point, point)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        box, _, _ = self.small_map.place(sheet) if sheet.cards else (QRectF(), 1.0, QRectF())
        sight = QRectF(
            self.canvas.corner, self.canvas.to_sheet(QPointF(self.canvas.width(), self.canvas.height()))
        )
        if sheet.cards and not sight.contains(sheet.area) and box.contains(point):
            self.canvas.drag = Drag("map", point, point, moved=True)
            self.small_map.go_to(point, sheet)
            return
        for wire in sheet.wires:
            if wire.place and wire.place_box.contains(at):
                self.canvas.wire = (False, wire.number)
                self.canvas.drag = Drag("place", point, point, wire=wire)
                self.canvas.update()
                return
        start = sheet.output_near(at, reach)
        if start is not None:
            self.canvas.drag = Drag("wire", point, point, end=start)
            if not start[2]:
                self.canvas.commands.opened.choose({start[0]})
                self.canvas.output = start[1]
            return
        end = sheet.input_near(at, reach)
        if end is not None:
            # the last wire that comes in there is taken by its end; with none, one is drawn backwards
            came = [w for w in sheet.wires if (w.end.node, w.entered, w.value) == end]
            if came:
                wire = came[-1]
                self.canvas.drag = Drag(
                    "wire", point, point, end=(wire.start.node, wire.output, wire.value), wire=wire
                )
            else:
                self.canvas.drag = Drag("wire", point, point, end=end, forward=False)
            return
        card = sheet.card_under(at)
        if card is not None:
            self._press_card(card, event)
            return
        frame = self.canvas.commands.frames.frame_at(at)
        if frame is not None:
            self.canvas.commands.opened.choose(self.canvas.commands.frames.in_frame(frame))
            self.canvas.drag = Drag("frame", point, point, frame=frame)
            return
        near = self.canvas.wire_near(at)
        adding = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if near is not None:
            self.canvas.choose_wire(near)
            return
        self.canvas.wire = None
        if not adding:
            self.canvas.commands.opened.choose(())
        what = "cut" if event.modifiers() & Qt.KeyboardModifier.AltModifier else "box"
        self.canvas.drag = Drag(what, point, point)

    def _press_card(self, card: CardShape, event: QMouseEvent) -> None:
        number, chosen = card.node.id, self.canvas.commands.opened.chosen
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.canvas.commands.opened.choose(chosen ^ {number})
        elif number not in chosen:
            self.canvas.commands.opened.choose({number})
        self.canvas.wire = None
        at = self.canvas.to_sheet(event.position())
        for word in card.words:
            run = word.run.word
            plain = run.sort == "value" and PLAIN_NUMBER.fullmatch(run.text.strip())
            if run.slot and plain and word.area.translated(card.area.topLeft()).contains(at):
                slot = (number, run.slot, float(run.text))
                self.canvas.drag = Drag("number", event.position(), event.position(), slot=slot)
                return
        self.canvas.drag = Drag("cards", event.position(), event.position())

    def move(self, event: QMouseEvent) -> None:
        """The pointer goes on, with or without something in hand."""
        drag, point = self.canvas.drag, event.position()
        if drag is None:
            sheet = self.canvas.commands.opened.sheet()
            at = self.canvas.to_sheet(point)
            near = sheet is not None and (
                sheet.output_near(at, REACH / self.canvas.zoom)
                or sheet.input_near(at, REACH / self.canvas.zoom)
            )
            self.canvas.setCursor(Qt.CursorShape.CrossCursor if near else Qt.CursorShape.ArrowCursor)
            return
        before, drag.now = drag.now, point
        moved = drag.moved or (drag.now - drag.start).manhattanLength() > 4
        if drag.what == "number" and moved:
            self._pull_number(drag, event.modifiers())
        drag.moved = moved
        if drag.what == "pan":
            self.canvas.corner -= (drag.now - before) / self.canvas.zoom
        elif drag.what == "map":
            sheet = self.canvas.commands.opened.sheet()
            if sheet is not None:
                self.small_map.go_to(point, sheet)
        self.canvas.update()

    def _pull_number(self, drag: Drag, modifiers: Qt.KeyboardModifier) -> None:
        """The number follows the pointer, and the run the number."""
        if not drag.moved:
            self.canvas.bench.begin_live()
        number, slot, value = drag.slot
        text = dragged(value, drag.now.x() - drag.start.x(), modifiers)
        self.canvas.commands.cards.set_slot(
            number, slot, text, join=f"drag {self.canvas.commands.opened.graph_id} {number} {slot}"
        )

    def let_go(self, event: QMouseEvent) -> None:
        """The button went up."""
        drag, self.canvas.drag = self.canvas.drag, None
        sheet = self.canvas.commands.opened.sheet(at_once=True)
        if drag is None or sheet is None:
            return
        point = self.canvas.to_sheet(event.position())
        if drag.what == "wire":
            self._drop_wire(drag, point, sheet)
        elif drag.what == "number":
            if drag.moved:
                self.canvas.bench.end_live()
            else:
                self._click_card(point, sheet)
        elif drag.what == "cards":
            if drag.moved:
                off = (drag.now - drag.start) / self.canvas.zoom
                self.canvas.commands.cards.move(
                    self.canvas.commands.opened.chosen, round(off.x()), round(off.y())
                )
            elif event.modifiers() == Qt.KeyboardModifier.NoModifier:
                self._click_card(point, sheet)
        elif drag.what == "frame" and drag.moved:
            off = (drag.now - drag.start) / self.canvas.zoom
            self.canvas.commands.frames.move_frame(drag.frame, round(off.x()), round(off.y()))
        elif drag.what == "box" and drag.moved:
            box = QRectF(self.canvas.to_sheet(drag.start), point).normalized()
            inside = {n for n, c in sheet.cards.items() if box.intersects(c.area)}
            self.canvas.commands.opened.choose(self.canvas.commands.opened.chosen | inside)
        elif drag.what == "cut" and drag.moved:
            self._cut_across(self.canvas.to_sheet(drag.start), point, sheet)
        elif drag.what == "place" and drag.wire is not None:
            self._drop_place(drag.wire, point, sheet)
        self.canvas.update()

    def _click_card(self, point: QPointF, sheet: Sheet) -> None:
        card = sheet.card_under(point)
        if card is None:
            return
        self.canvas.commands.opened.choose({card.node.id})
        for word in card.words:
            area = word.area.translated(card.area.topLeft())
            if word.run.word.slot and area.contains(point):
                self.canvas.writer.edit(card, word.run.word.slot, listing=True)
                return

    def _drop_wire(self, drag: Drag, point: QPointF, sheet: Sheet) -> None:
        assert drag.end is not None
        if not drag.moved:
            if drag.wire is not None:
                self.canvas.wire = (drag.wire.value, drag.wire.number)
            return
        reach = REACH / self.canvas.zoom
        number, name, value = drag.end
        card = sheet.card_under(point)
        other = sheet.input_near(point, reach) if drag.forward else sheet.output_near(point, reach)
        if drag.wire is not None and other == (drag.wire.end.node, drag.wire.entered, value):
            return
        if drag.wire is not None:
            # its end is carried elsewhere, or it is cut
            self.canvas.commands.wires.cut([drag.wire])
            if other is None and card is None:
                return
        if not drag.forward:
            if other is not None:
                self.canvas.commands.wires.wire(other, drag.end)
            elif card is None and value:
                self._type_value((number, name), point)
            return
        if other is not None and other[2] == value:
            self.canvas.commands.wires.wire(drag.end, other)
        elif card is not None:
            self.canvas.commands.wires.wire_to_card(drag.end, card.node.id)
        elif value:
            self.canvas.bench.notify("Drop the value on a slot of a card, or on a formula card.")
        else:
            self.canvas.type_card((number, name), point, offers=True)

    def _drop_place(self, wire: WireShape, point: QPointF, sheet: Sheet) -> None:
        """A wire's number was dropped: on another of its output, it takes its place."""
        mine = [
            w for w in sheet.wires if w.place and (w.start.node, w.output) == (wire.start.node, wire.output)
        ]
        nearest = min(mine, key=lambda w: (w.place_box.center() - point).manhattanLength())
        if nearest.number != wire.number:
            self.canvas.commands.wires.renumber(wire, nearest.place - wire.place)

    def _cut_across(self, start: QPointF, end: QPointF, sheet: Sheet) -> None:
        cut = [w for w in sheet.wires if _crosses(points_along(w.way, 14), start, end)]
        self.canvas.commands.wires.cut(cut)

    def double_click(self, event: QMouseEvent) -> None:
        """Name a frame, begin a card, go into an own node."""
        sheet = self.canvas.commands.opened.sheet(at_once=True)
        card = sheet.card_under(self.canvas.to_sheet(event.position())) if sheet is not None else None
        frame = self.canvas.commands.frames.frame_at(self.canvas.to_sheet(event.position()))
        if card is None and frame is not None:
            self.name_frame(frame)
        elif card is None:
            self.canvas.type_card(None, self.canvas.to_sheet(event.position()), offers=True)
        elif card.node.use == OWN:
            self.canvas.opened.emit(card.node.slots.get("graph", ""))
        else:
            self.press(event)

    def drop(self, point: QPointF, name: str) -> None:
        """A name was dropped: it fills the slot under the pointer, or the cards that speak of it are listed."""
        sheet = self.canvas.commands.opened.sheet(at_once=True)
        if sheet is None:
            return
        at = self.canvas.to_sheet(point)
        card = sheet.card_under(at)
        for word in card.words if card is not None else ():
            slot = word.run.word.slot
            assert card is not None
            if slot and word.area.translated(card.area.topLeft()).contains(at):
                entry = sentence_of(card.node.use)
                formula = (
                    entry is not None and slot in entry.slots and entry.slots[slot].kind.holds == "formula"
                )
                self.canvas.commands.cards.set_slot(card.node.id, slot, token(name) if formula else name)
                return
        self.canvas.setFocus()
        self.canvas.type_card(None, at, f"{name} ", offers=True)

    def name_frame(self, number: int) -> None:
        """Open a field for a frame's title, where the title is."""
        graph = self.canvas.commands.opened.graph
        assert graph is not None
        frame = graph.frames[number]
        field = QLineEdit(frame.title, self.canvas)
        field.setObjectName("frame-title")
        field.setAccessibleName("Title of the frame; leave it empty to remove the frame")
        at = self.canvas.to_screen(QRectF(frame.at[0], frame.at[1] - 26, 220, 24))
        field.setGeometry(int(at.left()), int(at.top()), 220, 26)
        field.selectAll()
        field.show()
        field.setFocus()

        def take() -> None:
            field.deleteLater()
            self.canvas.setFocus()
            if field.text() != frame.title:
                self.canvas.commands.frames.name_frame(number, field.text().strip())

        field.editingFinished.connect(take, Qt.ConnectionType.SingleShotConnection)

    def _type_value(self, to: tuple[int, str], at: QPointF) -> None:
        """Type a formula that is wired to a slot."""
        number = self.canvas.commands.cards.put_value("0", to, QPointF(at.x() - 100, at.y() - 16))
        if number is not None:
            self.canvas.writer.edit_first(number)


def _crosses(points: list[QPointF], start: QPointF, end: QPointF) -> bool:
    """Return whether a line crosses a way that is given by its points."""

    def side(a: QPointF, b: QPointF, c: QPointF) -> float:
        return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x())

    return any(
        side(start, end, one) * side(start, end, other) < 0
        and side(one, other, start) * side(one, other, end) < 0
        for one, other in itertools.pairwise(points)
    )
