"""A graph on its sheet: looked at, pointed at, typed into, and read at the cursor."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QToolTip, QWidget

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.desk.graph_view.canvas import GraphCanvas
from gatillo.desk.graph_view.card_layout import Sheet
from gatillo.desk.graph_view.cards_aloud import cards_aloud
from gatillo.desk.graph_view.graph_commands import GraphCommands
from gatillo.desk.graph_view.graph_keys import GraphKeys
from gatillo.desk.graph_view.graph_painter import GraphPainter
from gatillo.desk.graph_view.pointer import GraphPointer
from gatillo.desk.graph_view.small_map import SmallMap
from gatillo.desk.graph_view.wire_routes import signal_way, value_way, way_path
from gatillo.desk.looks.plain import tip
from gatillo.desk.looks.read_aloud import Role, let_be_read
from gatillo.desk.looks.theme import theme, with_alpha
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.pointing import NAME_MIME, name_in
from gatillo.graphs.outline import card_words, wired_slots
from gatillo.inspect.sweep.targets import target_at_card, targets
from gatillo.level.graphs import OWN
from gatillo.level.model import Node


class GraphView(GraphCanvas):
    """A window onto a graph's sheet; one unit is one pixel at 100 %."""

    def __init__(self, bench: Workbench, commands: GraphCommands, parent: QWidget | None = None) -> None:
        super().__init__(bench, commands, parent)
        self.aloud = let_be_read(self, Role.List, lambda: cards_aloud(self))
        for told in (
            bench.levelChanged,
            bench.selectionChanged,
            commands.opened.shown,
            commands.opened.laid_out,
        ):
            told.connect(self.aloud.changed)
        self.small_map = SmallMap(self)
        self.pointer = GraphPointer(self, self.small_map)
        self.keys = GraphKeys(self)
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(NAME_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        name = name_in(event.mimeData())
        if name:
            self.pointer.drop(event.position(), name)
            event.acceptProposedAction()

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
        graph = self.commands.opened.graph
        if graph is not None and sheet is None:
            p.setPen(t.quiet)
            share = round(100 * self.commands.opened.share_laid)
            words = f"Laying out {len(graph.nodes):,} cards: {share} %"
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        if sheet is None or graph is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not sheet.cards:
            p.setPen(t.quiet)
            p.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "An empty graph. Type what begins it, such as “every tick” or “moth touches lamp”, "
                "or click twice here and choose.",
            )
            return
        findings: dict[int, str] = {}
        for found in self.bench.shown.findings:
            if found.rule_id == graph.id and found.card:
                findings.setdefault(found.card, found.sentence())
        p.save()
        p.scale(self.zoom, self.zoom)
        p.translate(-self.corner)
        sight = QRectF(self.corner, self.to_sheet(QPointF(self.width(), self.height())))
        stops = {n for n in sheet.cards if self.bench.stops_at(graph.id, n)}
        painter = GraphPainter(
            sheet,
            self.commands.opened.layout_,
            self.commands.opened.index,
            self.ran,
            self.zoom,
            stops,
            self.bench.answers.cards_missed(graph.id),
        )
        painter.paint(p, sight, self.commands.opened.chosen, self.wire_shape, findings, self.output_now())
        self._paint_drag(p, sheet)
        p.restore()
        carrying = self.drag is not None and self.drag.what == "cards"
        if not carrying and not sight.contains(sheet.area):
            self.small_map.paint(p, sheet, sight)

    def _paint_drag(self, p: QPainter, sheet: Sheet) -> None:
        drag, t = self.drag, theme()
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

    # pointing

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pointer.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointer.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.pointer.let_go(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.pointer.double_click(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.writer.line.scroll(event):
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.corner -= QPointF(event.angleDelta().y(), 0) / self.zoom
            self.update()
        else:
            self.set_zoom(self.zoom * 1.15 ** (event.angleDelta().y() / 120), event.position())

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        sheet = self.commands.opened.sheet(at_once=True)
        if sheet is None:
            return
        at = self.to_sheet(QPointF(event.pos()))
        self.menu_at(at, sheet).exec(event.globalPos())

    def menu_at(self, at: QPointF, sheet: Sheet) -> QMenu:
        """Return the commands that fit what lies at a point of the sheet."""
        menu, commands = QMenu(self), self.commands
        card, wire, frame = sheet.card_under(at), self.wire_near(at), commands.frames.frame_at(at)
        if card is None and frame is not None:
            menu.addAction("Fold or unfold the frame", lambda: commands.frames.fold_frame(frame))
            menu.addAction("Name the frame", lambda: self.pointer.name_frame(frame))
            menu.addAction("Remove the frame", lambda: commands.frames.name_frame(frame, ""))
        elif card is not None:
            if card.node.id not in commands.opened.chosen:
                commands.opened.choose({card.node.id})
            number = self.number_of(card.node)
            if number:
                menu.addAction("Try values …", lambda: self.bench.tryWanted.emit(number))
            menu.addAction("Edit its first slot", lambda: self.writer.edit_first(card.node.id))
            if card.face.outputs:
                menu.addAction("Type what comes next", lambda: self.type_card(self.output_now(), None))
            if card.node.use == OWN:
                menu.addAction(
                    "Open the own node", lambda: self.opened.emit(card.node.slots.get("graph", ""))
                )
                menu.addAction("Unfold it here", commands.cards.unfold_chosen)
            if commands.wires.watch_of(card.node):
                menu.addAction("Watch its value", lambda: commands.wires.watch(card.node))
            menu.addSeparator()
            menu.addAction("Fold into an own node", commands.cards.fold_chosen)
            menu.addAction("Put a frame around it", commands.frames.frame_chosen)
            menu.addAction("Duplicate", commands.clipboard.duplicate)
            menu.addAction("Copy", commands.clipboard.copy)
            menu.addAction("Delete", lambda: commands.delete(None))
        elif wire is not None:
            self.wire = (wire.value, wire.number)
            giver = commands.wires.giver_of(wire)
            if giver is not None and commands.wires.watch_of(giver):
                menu.addAction("Watch what it carries", lambda: commands.wires.watch(giver))
            menu.addAction("Cut the wire", lambda: commands.wires.cut([wire]))
            if wire.place:
                menu.addAction("Run it earlier", lambda: commands.wires.renumber(wire, -1))
                menu.addAction("Run it later", lambda: commands.wires.renumber(wire, 1))
        else:
            menu.addAction("Type a card here", lambda: self.type_card(None, at))
            menu.addAction("Paste cards", commands.clipboard.paste)
            menu.addSeparator()
            menu.addAction("Tidy", commands.cards.tidy)
            menu.addAction("Show all", self.fit)
        self.update()
        return menu

    def number_of(self, node: Node) -> str:
        """Return how the first number on a card is spoken of; "" if it has none."""
        graph = self.commands.opened.graph
        if graph is None:
            return ""
        begin = target_at_card(graph, node.id, "")
        return next((t.name for t in targets(self.bench.level) if t.name.startswith(begin)), "")

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            words = self.hint_at(QPointF(event.pos()))
            if words:
                QToolTip.showText(event.globalPos(), tip(words), self)
            else:
                QToolTip.hideText()
            return True
        tabs = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if pressed and event.key() in tabs and self.keys.tab(tabs[Qt.Key(event.key())]):  # type: ignore[attr-defined]
            return True
        return super().event(event)

    def hint_at(self, point: QPointF) -> str:
        """Return what lies under the pointer, in words: a card's help, findings, and last values."""
        sheet, graph = self.commands.opened.sheet(), self.commands.opened.graph
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
        missed = self.bench.answers.cards_missed(graph.id).get(number)
        if missed:
            lines.append(f"In all trials: {missed}.")
        lines += [
            f.sentence() for f in self.bench.shown.findings if f.rule_id == graph.id and f.card == number
        ]
        return "\n".join(lines)

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.press(event):
            super().keyPressEvent(event)

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
