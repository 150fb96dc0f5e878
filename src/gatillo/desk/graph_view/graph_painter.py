"""Painting a graph: cards as their sentences, wires with their order, and what ran at the cursor."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from gatillo.desk.graph_view.card_layout import LINE, CardShape, Sheet, SheetLayout, WireShape
from gatillo.desk.graph_view.what_ran import WhatRan
from gatillo.desk.graph_view.wire_routes import points_along
from gatillo.desk.looks.theme import figures, text_font, theme, with_alpha
from gatillo.desk.session.answers import PARTLY
from gatillo.level.roles import Index

SMALL = 0.38
"""Below this zoom words would not be read, and are not painted."""
BACK = 0.42
"""How strong is what did not run."""


class GraphPainter:
    """Paints a sheet with a painter that is scaled already; `ran` says what is to step back."""

    def __init__(
        self,
        sheet: Sheet,
        layout: SheetLayout,
        index: Index,
        ran: WhatRan,
        zoom: float,
        stops: Collection[int] = (),
        missed: Mapping[int, str] | None = None,
    ) -> None:
        self.stops = stops
        """The cards at which a run pauses."""
        self.missed = missed or {}
        """The cards that the trials do not reach whole, where that has been asked."""
        self.sheet = sheet
        self.layout = layout
        self.index = index
        self.ran = ran
        self.zoom = zoom

    def paint(
        self,
        p: QPainter,
        sight: QRectF,
        chosen: Collection[int],
        wire: WireShape | None,
        findings: dict[int, str],
        output: tuple[int, str] | None,
    ) -> None:
        """What lies in sight: frames, wires, then cards. `output` is the one at which typing goes on."""
        for frame in self.sheet.graph.frames:
            if not frame.folded:
                self.frame(p, self.sheet.box_of(frame), frame.title)
        wires = self.sheet.wires_in(sight)
        if self.zoom < SMALL:
            self.small(p, wires, chosen)
            return
        for one in wires:
            self.wire(p, one, chosen=one is wire)
        for note in self.sheet.graph.notes:
            p.setFont(text_font(-1, italic=True))
            p.setPen(theme().quiet)
            p.drawText(QRectF(*note.at, 260, 400), int(Qt.TextFlag.TextWordWrap), note.text)
        for card in self.sheet.cards_in(sight):
            number = card.node.id
            self.card(p, card, number in chosen, findings.get(number, ""), output)
        for frame in self.sheet.graph.frames:
            if frame.folded:
                self.folded(p, self.sheet.box_of(frame), frame.title)
        for one in wires:
            if one.place:
                self.place(p, one)

    def folded(self, p: QPainter, box: QRectF, title: str) -> None:
        """A frame whose cards are put away: its title, and how many there are."""
        t = theme()
        inside = [n for n, other in self.sheet.folded.items() if other == box]
        ran = sum(n in self.ran.cards for n in inside)
        p.setOpacity(self.strength(max([self.ran.light(n) for n in inside], default=0.0)))
        p.setPen(QPen(t.quiet, 1.2, Qt.PenStyle.DashLine))
        p.setBrush(t.field)
        p.drawRect(box)
        p.drawRect(box.adjusted(3, 3, -3, -3))
        p.setFont(text_font(0, bold=True))
        p.setPen(t.ink)
        many = f"{len(inside)} card{'s' if len(inside) != 1 else ''}" + (f", {ran} ran" if ran else "")
        words = p.fontMetrics().elidedText(
            f"{title} · {many}", Qt.TextElideMode.ElideRight, int(box.width()) - 18
        )
        p.drawText(box.adjusted(10, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter, words)
        p.setOpacity(1.0)

    def small(self, p: QPainter, wires: list[WireShape], chosen: Collection[int]) -> None:
        """Paint the graph from afar: cards without words, wires in one stroke, what ran and what did not."""
        t = theme()
        went, other, values = QPainterPath(), QPainterPath(), QPainterPath()
        for one in wires:
            (values if one.value else went if one.number in self.ran.wires else other).addPath(one.path)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for path, colour, wide in ((other, t.quiet, 0), (values, t.cursor, 0), (went, t.fires, 3)):
            # the thinnest pen is drawn many times faster
            p.setPen(QPen(colour, wide))
            p.drawPath(path)
        ran = [c.area for n, c in self.sheet.cards.items() if n in self.ran.cards]
        rest = [c.area for n, c in self.sheet.cards.items() if n not in self.ran.cards]
        p.setPen(QPen(t.quiet, 0))
        p.setBrush(t.panel)
        p.drawRects(rest)
        p.setPen(QPen(t.fires, 4))
        p.drawRects(ran)
        p.setPen(QPen(t.cursor, 6))
        p.drawRects([self.sheet.cards[n].area for n in chosen if n in self.sheet.cards])

    def strength(self, light: float) -> float:
        """Return how strong something is painted: what did not run in a turn that came steps back, what fades does so slowly."""
        return 1.0 if not self.ran.known else BACK + (1.0 - BACK) * light

    # wires

    def wire(self, p: QPainter, wire: WireShape, *, chosen: bool) -> None:
        """A wire: matches in the colour of what fires where they went, values in that of the cursor."""
        t = theme()
        path = wire.path
        if wire.value:
            given = self.ran.values.get(wire.start.node, "")
            p.setOpacity(self.strength(self.ran.light(wire.start.node) if given else 0.0))
            p.setPen(QPen(t.cursor, 2.4 if chosen else 1.4))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
            self.dot(p, wire.way[0], t.cursor)
            self.dot(p, wire.way[-1], t.cursor)
            if given and self.zoom >= SMALL:
                self.tag(p, points_along(wire.way, 8)[4], given)
            p.setOpacity(1.0)
            return
        went = wire.number in self.ran.wires
        colour = t.fires if went else t.ink if not self.ran.known else t.quiet
        p.setOpacity(self.strength(self.ran.wire_light(wire.number)))
        p.setPen(QPen(colour, 3.2 if chosen else 2.4 if went else 1.3))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        end = wire.way[-1]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawPolygon(
            QPolygonF([QPointF(end.x() - 4.5, end.y() - 8), QPointF(end.x() + 4.5, end.y() - 8), end])
        )
        p.setOpacity(1.0)

    def dot(self, p: QPainter, at: QPointF, colour: QColor) -> None:
        """The end of a wire of values."""
        p.setPen(QPen(colour, 1.4))
        p.setBrush(theme().panel)
        p.drawEllipse(at, 3.4, 3.4)

    def tag(self, p: QPainter, at: QPointF, words: str) -> None:
        """A value upon its wire."""
        t = theme()
        p.setFont(figures(-1.5))
        words = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 110)
        wide = p.fontMetrics().horizontalAdvance(words) + 10
        box = QRectF(at.x() - wide / 2, at.y() - 8, wide, 16)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.paper)
        p.drawRect(box)
        p.setPen(t.cursor)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def place(self, p: QPainter, wire: WireShape) -> None:
        """The place of a wire among those of its output."""
        t = theme()
        box = wire.place_box
        went = wire.number in self.ran.wires
        p.setOpacity(self.strength(self.ran.wire_light(wire.number)))
        p.setPen(QPen(t.fires if went else t.quiet, 1.2))
        p.setBrush(t.panel)
        p.drawRect(box)
        p.setFont(text_font(-2, bold=True))
        p.setPen(t.ink)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(wire.place))
        p.setOpacity(1.0)

    # cards

    def card(
        self, p: QPainter, card: CardShape, chosen: bool, finding: str, output: tuple[int, str] | None
    ) -> None:
        """A card: its sentence on paper, a rule at its left, its ends at its edges."""
        t, number, area = theme(), card.node.id, card.area
        place, many = self.ran.cards.get(number, (0, 0))
        p.setOpacity(self.strength(self.ran.light(number)))
        edge = t.fires if place else t.quiet
        p.setPen(QPen(t.cursor if chosen else t.fault if finding else t.hairline, 2.0 if chosen else 1.2))
        p.setBrush(t.panel)
        p.drawRect(area)
        p.fillRect(QRectF(area.left(), area.top(), 3, area.height()), edge)
        if self.zoom >= SMALL:
            for word in card.words:
                line = QRectF(area.left() + word.x, area.top() + word.y, word.run.width + 2, LINE)
                single = [type(word.run)(word.run.word, 0.0, word.run.width, word.run.mark)]
                self.layout.words.paint(p, single, line, self.index, True, None)
        self.ends(p, card, output)
        if place:
            self.ran_mark(p, area, place, many, last=number == self.ran.last)
        else:
            p.setFont(text_font(-2))
            p.setPen(t.quiet)
            p.drawText(QRectF(area.left(), area.top() - 15, 40, 14), Qt.AlignmentFlag.AlignLeft, str(number))
        kept = self.ran.kept.get(number, "")
        if kept and self.zoom >= SMALL:
            p.setFont(text_font(-1.5))
            p.setPen(t.cursor)
            p.drawText(QPointF(area.right() + 8, area.center().y() + 4), kept)
        p.setOpacity(1.0)
        if number in self.stops:
            # a run pauses here: a post at its left edge
            p.fillRect(QRectF(area.left() - 9, area.top(), 4, area.height()), t.ink)
        if finding:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(t.finding)
            x, y = area.right() - 9, area.top() + 10
            p.drawPolygon(QPolygonF([QPointF(x, y - 6), QPointF(x + 6, y + 5), QPointF(x - 6, y + 5)]))

        elif number in self.missed:
            self.missed_mark(p, QPointF(area.right() - 9, area.top() + 9), self.missed[number])

    def missed_mark(self, p: QPainter, at: QPointF, words: str) -> None:
        """A ring where no trial comes, half of one where they come a part of the way."""
        ring = QRectF(at.x() - 4.5, at.y() - 4.5, 9, 9)
        p.setPen(QPen(theme().finding, 1.5))
        p.setBrush(Qt.BrushStyle.NoBrush)
        if words.startswith(PARTLY):
            p.drawArc(ring, 90 * 16, 180 * 16)
        else:
            p.drawEllipse(ring)

    def ran_mark(self, p: QPainter, area: QRectF, place: int, many: int, *, last: bool) -> None:
        """The place at which a card ran, and for how many."""
        t = theme()
        at = QPointF(area.left(), area.top())
        p.setPen(QPen(t.cursor, 2.2) if last else Qt.PenStyle.NoPen)
        p.setBrush(t.fires)
        p.drawEllipse(at, 10.5, 10.5)
        p.setFont(text_font(-1.5, bold=True))
        p.setPen(t.on_fires)
        p.drawText(QRectF(at.x() - 12, at.y() - 12, 24, 24), Qt.AlignmentFlag.AlignCenter, str(place))
        if self.zoom >= SMALL:
            p.setFont(text_font(-1.5))
            p.setPen(t.fires)
            words = f"{many} match" if many == 1 else f"{many} matches"
            p.drawText(QPointF(at.x() + 15, at.y() - 5), words)

    def ends(self, p: QPainter, card: CardShape, output: tuple[int, str] | None) -> None:
        """The ends at a card's edges, with their names where there are several."""
        t, face = theme(), card.face
        named = self.zoom >= SMALL
        p.setFont(text_font(-2))
        for name in face.inputs:
            at = card.input_at(name)
            p.fillRect(QRectF(at.x() - 5, at.y() - 1, 10, 2.6), t.quiet)
            if named and len(face.inputs) > 1:
                p.setPen(t.quiet)
                p.drawText(QRectF(at.x() + 6, at.y() - 16, 90, 14), Qt.AlignmentFlag.AlignLeft, name)
        for name in face.outputs:
            at = card.output_at(name)
            here = output == (card.node.id, name)
            p.fillRect(
                QRectF(at.x() - 5, at.y() - 1.4, 10, 4 if here else 2.6), t.cursor if here else t.quiet
            )
            next_one = face.more and name == face.outputs[-1]
            if named and (len(face.outputs) > 1 or here):
                p.setPen(t.cursor if here else t.quiet)
                words = "next" if next_one and len(face.outputs) > 1 else name
                p.drawText(QRectF(at.x() + 6, at.y() + 3, 90, 14), Qt.AlignmentFlag.AlignLeft, words)
        for name in face.takes:
            at = card.slot_at(name)
            p.setPen(QPen(t.quiet, 1))
            p.setBrush(t.panel)
            p.drawRect(QRectF(at.x() - 2.5, at.y() - 2.5, 5, 5))
            if named and not any(word.run.word.slot == name for word in card.words):
                p.setPen(t.quiet)
                p.drawText(QRectF(at.x() - 96, at.y() - 17, 90, 14), Qt.AlignmentFlag.AlignRight, name)
        for name in face.gives:
            at = card.value_at(name)
            p.setPen(QPen(t.cursor, 1.2))
            p.setBrush(t.panel)
            p.drawEllipse(at, 3.2, 3.2)
            if named and len(face.gives) > 1 and name:
                p.setPen(t.quiet)
                p.drawText(QPointF(at.x() + 7, at.y() + 4), name)

    def frame(self, p: QPainter, area: QRectF, title: str) -> None:
        """A titled frame about some cards."""
        t = theme()
        p.setPen(QPen(t.hairline, 1.2, Qt.PenStyle.DashLine))
        p.setBrush(with_alpha(t.field, 0.7))
        p.drawRect(area)
        p.setFont(text_font(-1, bold=True))
        p.setPen(t.quiet)
        p.drawText(QPointF(area.left() + 8, area.top() - 6), title)
