"""The keyboard on a graph: walking along wires, moving, typing what comes next."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from gatillo.desk.graph_view.canvas import GraphCanvas
from gatillo.graphs.outline import outline_order

STEP = 20.0
"""Units by which arrows move a card."""


class GraphKeys:
    """What keys do; all of a graph can be drawn by them."""

    def __init__(self, canvas: GraphCanvas) -> None:
        self.canvas = canvas

    def press(self, event: QKeyEvent) -> bool:
        """Return a key went down; whether it meant something here."""
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
                if self.canvas.wire_shape is not None:
                    self.canvas.commands.wires.renumber(self.canvas.wire_shape, dx or dy)
                else:
                    self.canvas.commands.cards.move(
                        self.canvas.commands.opened.chosen, dx * STEP, dy * STEP, "nudge cards"
                    )
            else:
                self.walk(dx, dy)
        elif key == Qt.Key.Key_Space and not event.isAutoRepeat() and not text.strip():
            self.canvas.panning = True
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.canvas.commands.delete(self.canvas.wire_shape)
            self.canvas.wire = None
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            number = next(iter(self.canvas.commands.opened.chosen), None)
            if number is None:
                self.canvas.type_card(None, None)
            elif not self.canvas.writer.edit_first(number):
                self.canvas.type_card(self.canvas.output_now(), None)
        elif key == Qt.Key.Key_Escape:
            self.canvas.wire = None
            self.canvas.commands.opened.choose(())
        elif plain and text.strip() and text.isprintable():
            self.canvas.type_card(self.canvas.output_now(), None, text)
        else:
            return False
        self.canvas.update()
        return True

    def tab(self, by: int) -> bool:
        """On to the next output of the selected card, and then to the next open one; False if there is none."""
        sheet, graph = self.canvas.commands.opened.sheet(at_once=True), self.canvas.commands.opened.graph
        if sheet is None or graph is None or not sheet.cards:
            return False
        used = {(w.start.node, w.output) for w in sheet.wires if not w.value}
        order = [n for n, _, _ in outline_order(graph)]
        here = self.canvas.output_now()
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
        self.canvas.commands.opened.choose({number})
        self.canvas.output = output
        self.canvas.show_card(number)
        return True

    def walk(self, dx: int, dy: int) -> None:
        """Select the next card: along a wire up or down, else the nearest in that direction."""
        sheet = self.canvas.commands.opened.sheet(at_once=True)
        if sheet is None or not sheet.cards:
            return
        now = next(iter(self.canvas.commands.opened.chosen), None)
        if now is None or now not in sheet.cards:
            first = min(sheet.cards.values(), key=lambda c: (c.area.top(), c.area.left()))
            self.canvas.commands.opened.choose({first.node.id})
            self.canvas.show_card(first.node.id)
            return
        found: int | None = None
        output = self.canvas.output_now()
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
            self.canvas.commands.opened.choose({found})
            self.canvas.show_card(found)
