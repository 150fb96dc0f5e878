"""Where everything of a graph is on its sheet: cards with their words, the ends of wires, the wires' ways."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Generator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPath

from gatillo.catalogue.cards.faces import CardFace, PortsUsed, card_face, ports_used
from gatillo.catalogue.cards.graph_cards import FORMULA, find_output, ports_of
from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.desk.graph_view.wire_routes import (
    Blocks,
    cards_between,
    points_along,
    points_of_plain_way,
    signal_way,
    value_way,
    way_path,
)
from gatillo.desk.writing.sentence_layout import Run, SentenceLayout
from gatillo.desk.writing.words import Word
from gatillo.graphs.layout import tidied
from gatillo.graphs.outline import card_pieces, wired_slots
from gatillo.level.graphs import OWN, End, end_of
from gatillo.level.model import MOST_CARDS, Frame, Graph, Node
from gatillo.level.roles import Index

WIDEST, LINE, PAD_X, PAD_Y, NARROWEST = 330.0, 23.0, 15.0, 6.0, 120.0
PORT_ROOM = 46.0
"""Width that an end of a wire with a name needs, in pixels at 100 %."""
FOLDED_WIDE = 200.0
"""Width of a folded frame, in pixels at 100 %."""
A_STEP = 100
"""Cards or wires that are laid out in one step."""
MOST_LED_ROUND = 120
"""Wires that are led round the cards in their way."""
LABELS = {"occasion": "when", "condition": "if", "pick": "if", "action": "do"}


@dataclass(frozen=True, slots=True)
class PlacedWord:
    """A word of a card: its place from the card's corner."""

    run: Run
    x: float
    y: float

    @property
    def area(self) -> QRectF:
        """Its place within the card."""
        return QRectF(self.x, self.y, self.run.width, LINE)


@dataclass(frozen=True, slots=True)
class CardShape:
    """A card on the sheet."""

    node: Node
    face: CardFace
    area: QRectF
    words: tuple[PlacedWord, ...]

    def input_at(self, port: str) -> QPointF:
        """Return the end of a wire of matches at its top edge."""
        return QPointF(self._across(self.face.inputs, port), self.area.top())

    def output_at(self, port: str) -> QPointF:
        """Return the end of a wire of matches at its bottom edge."""
        return QPointF(self._across(self.face.outputs, port), self.area.bottom())

    def slot_at(self, slot: str) -> QPointF:
        """Return the end of a wire of values at its left edge, at the line of the slot."""
        for word in self.words:
            if word.run.word.slot == slot:
                return QPointF(self.area.left(), self.area.top() + word.y + LINE / 2)
        # one that is given in no word: below one another from the top
        among = [s for s in self.face.takes if all(w.run.word.slot != s for w in self.words)]
        at = among.index(slot) if slot in among else 0
        return QPointF(self.area.left(), self.area.top() + (at + 1) * self.area.height() / (len(among) + 1))

    def value_at(self, name: str) -> QPointF:
        """Return the end of a wire of values at its right edge."""
        names = self.face.gives or ("",)
        at = names.index(name) if name in names else 0
        return QPointF(self.area.right(), self.area.top() + (at + 1) * self.area.height() / (len(names) + 1))

    def _across(self, names: tuple[str, ...], name: str) -> float:
        at = names.index(name) if name in names else 0
        return self.area.left() + (at + 1) * self.area.width() / (max(1, len(names)) + 1)


@dataclass(frozen=True)
class WireShape:
    """A wire on the sheet: its number among those of its sort, its ends, and the points of its way."""

    number: int
    value: bool
    start: End
    end: End
    output: str
    """The output, or the value, that it begins at."""
    entered: str
    place: int = 0
    """Its place among the wires of its output, from 1; 0 where it is the only one."""
    way: tuple[QPointF, ...] = ()
    """Start, both handles and end of each curve, one after the other."""

    @cached_property
    def path(self) -> QPainterPath:
        """Its way as curves."""
        return way_path(self.way)

    @cached_property
    def bounds(self) -> QRectF:
        """What its way takes at most."""
        xs, ys = [p.x() for p in self.way], [p.y() for p in self.way]
        return QRectF(min(xs), min(ys), max(xs) - min(xs) + 1, max(ys) - min(ys) + 1)

    @cached_property
    def place_box(self) -> QRectF:
        """Where its place among those of its output stands: a little way along it."""
        points = points_along(self.way[:4], 12)
        at = next((q for q in points if q.y() - self.way[0].y() > 22), points[len(points) // 2])
        return QRectF(at.x() - 8, at.y() - 8, 16, 16)


@dataclass
class Sheet:
    """Everything of a graph on its sheet, in pixels at 100 %."""

    graph: Graph
    cards: dict[int, CardShape] = field(default_factory=dict)
    wires: list[WireShape] = field(default_factory=list)
    folded: dict[int, QRectF] = field(default_factory=dict)
    """By card within a folded frame: the box that stands for all in it."""
    placing: object = field(default_factory=object)
    """Stays the same object from sheet to sheet for as long as every card stands where it stood."""

    def box_of(self, frame: Frame) -> QRectF:
        """Return what a frame takes: folded, a single line."""
        if frame.folded:
            return QRectF(frame.at[0], frame.at[1], FOLDED_WIDE, LINE + 2 * PAD_Y)
        return QRectF(*frame.at, *frame.size)

    def _start(self, number: int, output: str, value: bool) -> QPointF:
        box = self.folded.get(number)
        if box is not None:
            return (
                QPointF(box.right(), box.center().y()) if value else QPointF(box.center().x(), box.bottom())
            )
        card = self.cards[number]
        return card.value_at(output) if value else card.output_at(output)

    def _end(self, number: int, entered: str, value: bool) -> QPointF:
        box = self.folded.get(number)
        if box is not None:
            return QPointF(box.left(), box.center().y()) if value else QPointF(box.center().x(), box.top())
        card = self.cards[number]
        return card.slot_at(entered) if value else card.input_at(entered)

    def stands_as(self, before: Sheet) -> bool:
        """Return whether every card is where it was, with the same ports, and every frame as it was."""
        graph, other = self.graph, before.graph
        if graph.frames is not other.frames or len(graph.nodes) != len(other.nodes):
            return False
        if before.folded:
            # the cards within folded frames are no longer there to be compared
            return False
        cards = before.cards
        return all(
            (was := cards.get(number)) is not None
            and (was is card or (was.area == card.area and was.face == card.face and _same_lines(was, card)))
            for number, card in self.cards.items()
        )

    def take_over(self, before: Sheet | None) -> None:
        """Take over what was worked out of the sheet before, as far as it is the same."""
        if before is None:
            return
        known = before.__dict__
        if self.wires is before.wires and "_wire_boxes" in known:
            self.__dict__["_wire_boxes"] = known["_wire_boxes"]
        if self.wires is before.wires and not self.folded:
            # so are the cards: see _wires
            self.placing = before.placing
            for name in ("area", "_card_boxes"):
                if name in known:
                    self.__dict__[name] = known[name]

    @cached_property
    def area(self) -> QRectF:
        """What all of it takes."""
        found = QRectF()
        for card in self.cards.values():
            found = found.united(card.area)
        for frame in self.graph.frames:
            found = found.united(self.box_of(frame))
        return found

    def wires_in(self, sight: QRectF) -> list[WireShape]:
        """Return the wires that lie in sight, all or in part."""
        return [self.wires[at] for at in _meeting(self._wire_boxes, sight)]

    def cards_in(self, sight: QRectF) -> list[CardShape]:
        """Return the cards that lie in sight with what is beside them, all or in part."""
        cards = list(self.cards.values())
        return [cards[at] for at in _meeting(self._card_boxes, sight)]

    @cached_property
    def _wire_boxes(self) -> np.ndarray:
        return _boxes([w.bounds for w in self.wires], 12)

    @cached_property
    def _card_boxes(self) -> np.ndarray:
        return _boxes([c.area for c in self.cards.values()], 40)

    def card_under(self, point: QPointF) -> CardShape | None:
        """Return the card under a point, the last painted first."""
        for card in reversed(self.cards.values()):
            if card.area.contains(point):
                return card
        return None

    def output_near(self, point: QPointF, reach: float) -> tuple[int, str, bool] | None:
        """Return the output near a point: the card, its name, and whether it gives a value."""
        best: tuple[float, tuple[int, str, bool]] | None = None
        for number, card in self.cards.items():
            ends = [(card.output_at(o), o, False) for o in card.face.outputs]
            ends += [(card.value_at(g), g, True) for g in card.face.gives]
            for at, name, value in ends:
                off = (at - point).manhattanLength()
                if off <= reach and (best is None or off < best[0]):
                    best = off, (number, name, value)
        return best[1] if best else None

    def input_near(self, point: QPointF, reach: float) -> tuple[int, str, bool] | None:
        """Return the input near a point: the card, its name, and whether it takes a value."""
        best: tuple[float, tuple[int, str, bool]] | None = None
        for number, card in self.cards.items():
            ends = [(card.input_at(i), i, False) for i in card.face.inputs]
            ends += [(card.slot_at(s), s, True) for s in card.face.takes]
            for at, name, value in ends:
                off = (at - point).manhattanLength()
                if off <= reach and (best is None or off < best[0]):
                    best = off, (number, name, value)
        return best[1] if best else None


class SheetLayout:
    """Works out where everything is; what has not changed is kept."""

    def __init__(self) -> None:
        self.words = SentenceLayout()
        self._kept: dict[
            int, tuple[Node, CardFace, dict[str, str], Index, tuple[PlacedWord, ...], float, float]
        ] = {}
        self._tidied: tuple[Graph, dict[int, tuple[float, float]], dict[int, tuple[float, float]]] | None = (
            None
        )

    def forget(self) -> None:
        """The desktop's font or the theme changed."""
        self.words.forget()
        self._kept.clear()

    def sheet(
        self, graph: Graph, graphs: Mapping[str, Graph], index: Index, before: Sheet | None = None
    ) -> Sheet:
        """Return a graph on its sheet; what has not changed is taken from the one before."""
        steps = self.steps(graph, graphs, index, before)
        while True:
            try:
                next(steps)
            except StopIteration as made:
                sheet: Sheet = made.value
                return sheet

    def steps(
        self, graph: Graph, graphs: Mapping[str, Graph], index: Index, before: Sheet | None = None
    ) -> Generator[float, None, Sheet]:
        """Lay a graph out on its sheet a few cards or wires at a time, and return the sheet at the end.

        Each step yields what share of the work is done, from 0 to 1.
        """
        sheet, wired = Sheet(graph), wired_slots(graph)
        ends = ports_used(graph)
        shapes = {}
        for at, node in enumerate(graph.nodes):
            shapes[node.id] = self._card(node, graph, graphs, index, wired.get(node.id, {}), ends)
            if at % A_STEP == A_STEP - 1:
                yield 0.7 * at / len(graph.nodes)
        places: Mapping[int, tuple[float, float]] = {node.id: node.at for node in graph.nodes}
        if len(set(places.values())) < len(places):
            # cards that were never laid out lie on one another
            places = self._laid_out(graph, {n: (w, h) for n, (_, _, w, h) in shapes.items()})
        for at, node in enumerate(graph.nodes):
            if at % A_STEP == A_STEP - 1:
                yield 0.7
            face, words, wide, high = shapes[node.id]
            x, y = places[node.id]
            area = QRectF(x, y, wide, high)
            kept = before.cards.get(node.id) if before is not None else None
            if (
                kept is None
                or (kept.node, kept.face, kept.area) != (node, face, area)
                or kept.words is not words
            ):
                kept = CardShape(node, face, area, words)
            sheet.cards[node.id] = kept
        yield 0.7
        yield from self._wires(sheet, before)
        for number in sheet.folded:
            del sheet.cards[number]
        sheet.take_over(before)
        for at, one in enumerate(sheet.wires if sheet.wires is not getattr(before, "wires", None) else ()):
            if at % A_STEP == A_STEP - 1:
                yield 1.0
            # worked out here a few at a time, and not all at the first painting
            _ = one.bounds
        yield 1.0
        _ = sheet._wire_boxes
        yield 1.0
        _ = sheet._card_boxes, sheet.area
        return sheet

    def _laid_out(
        self, graph: Graph, sizes: dict[int, tuple[float, float]]
    ) -> Mapping[int, tuple[float, float]]:
        """Return where cards stand that lie on one another in the document, as before where nothing has changed."""
        kept = self._tidied
        if (
            kept is None
            or kept[1] != sizes
            or any(
                getattr(kept[0], part) is not getattr(graph, part) for part in ("nodes", "wires", "values")
            )
        ):
            kept = self._tidied = graph, sizes, tidied(graph, sizes)
        return kept[2]

    def carried(self, sheet: Sheet, moved: Mapping[int, QPointF]) -> Sheet:
        """Return the sheet with some cards elsewhere; only what hangs on them is worked out again."""
        cards = {
            n: replace(c, area=c.area.translated(moved[n])) if n in moved else c
            for n, c in sheet.cards.items()
        }
        other = Sheet(sheet.graph, cards, folded=sheet.folded)
        for wire in sheet.wires:
            if wire.start.node in moved or wire.end.node in moved:
                start = other._start(wire.start.node, wire.output, wire.value)
                end = other._end(wire.end.node, wire.entered, wire.value)
                way = value_way(start, end) if wire.value else signal_way(start, end, None)
                other.wires.append(replace(wire, way=way))
            else:
                other.wires.append(wire)
        return other

    def sizes(
        self, graph: Graph, graphs: Mapping[str, Graph], index: Index
    ) -> dict[int, tuple[float, float]]:
        """Width and height of every card."""
        wired, ends = wired_slots(graph), ports_used(graph)
        return {
            node.id: self._card(node, graph, graphs, index, wired.get(node.id, {}), ends)[2:]
            for node in graph.nodes
        }

    def _card(
        self,
        node: Node,
        graph: Graph,
        graphs: Mapping[str, Graph],
        index: Index,
        wired: dict[str, str],
        used: PortsUsed,
    ) -> tuple[CardFace, tuple[PlacedWord, ...], float, float]:
        kept = self._kept.get(node.id)
        face = card_face(node, graph, graphs, used)
        if (
            kept is not None
            and kept[0] is node
            and kept[1] == face
            and kept[2] == wired
            and same_words(kept[3], index)
        ):
            return kept[1], *kept[4:]
        placed, wide, lines = self.placed(card_word_list(node, wired), index)
        ends = max(len(face.inputs), len(face.outputs))
        wide = max(wide, NARROWEST, PORT_ROOM * (ends + 1) if ends > 1 else 0.0)
        high = max(lines, 1) * LINE + 2 * PAD_Y
        if len(self._kept) > 2 * MOST_CARDS:
            self._kept.clear()
        self._kept[node.id] = (node, face, wired, index, placed, wide, high)
        return face, placed, wide, high

    def placed(self, words: list[Word], index: Index) -> tuple[tuple[PlacedWord, ...], float, int]:
        """Return words in lines no wider than a card, each piece broken between its words."""
        room = WIDEST - 2 * PAD_X
        placed: list[PlacedWord] = []
        x, line, widest, ended = 0.0, 0, 0.0, 0.0
        for run in self.words.lay_out(words, index):
            x += run.x - ended
            ended = run.x + run.width
            for part in [run] if x + run.width <= room else self._broken(run):
                blank = not part.word.text.strip()
                if placed and x + part.width > room and not blank:
                    line, x = line + 1, 0.0
                if blank and placed and x == 0.0:
                    continue
                last = placed[-1] if placed else None
                if last is not None and last.y == PAD_Y + line * LINE and _goes_on(last.run.word, part.word):
                    # one word for the painter, not several
                    joined = dataclasses.replace(last.run.word, text=last.run.word.text + part.word.text)
                    wide = x + part.width - (last.x - PAD_X)
                    placed[-1] = PlacedWord(Run(joined, last.run.x, wide), last.x, last.y)
                else:
                    placed.append(PlacedWord(part, PAD_X + x, PAD_Y + line * LINE))
                x += part.width
                widest = max(widest, x)
        return tuple(placed), min(widest, WIDEST) + 2 * PAD_X, line + 1

    def _broken(self, run: Run) -> list[Run]:
        """Return a word of several, between which a line may end; what is short stays whole."""
        word = run.word
        if " " not in word.text or (word.sort != "plain" and run.width <= WIDEST / 2):
            return [run]
        found: list[Run] = []
        for text in re.findall(r"\S+\s*|\s+", word.text):
            mark = run.mark if not found else None
            wide = self.words.width(word.sort, text, mark is not None)
            found.append(Run(dataclasses.replace(word, text=text), run.x, wide, mark))
        return found

    # wires

    def _wires(self, sheet: Sheet, before: Sheet | None) -> Generator[float, None, None]:
        graph = sheet.graph
        ways: dict[tuple[int, bool], WireShape] = {}
        if before is not None:
            was = before.graph.wires
            if was is graph.wires and before.graph.values is graph.values and sheet.stands_as(before):
                # nothing is elsewhere, or has other ports: neither is any wire
                sheet.wires = before.wires
                return
            # those at both ends of which there is what there was
            same = [one is other for one, other in zip(was, graph.wires, strict=False)]
            ways = {
                (wire.number, False): wire
                for wire in before.wires
                if not wire.value and wire.number < len(same) and same[wire.number]
            }
        for frame in graph.frames:
            if frame.folded:
                whole, box = QRectF(*frame.at, *frame.size), sheet.box_of(frame)
                inside = [n for n, c in sheet.cards.items() if whole.contains(c.area.center())]
                sheet.folded.update(dict.fromkeys(inside, box))
        counts: dict[tuple[int, str], int] = {}
        found: list[WireShape] = []
        for number, wire in enumerate(graph.wires):
            if number % A_STEP == A_STEP - 1:
                yield 0.7
            start, end = end_of(wire.start), end_of(wire.end)
            if start is None or end is None or start.node not in sheet.cards or end.node not in sheet.cards:
                continue
            if start.node in sheet.folded and sheet.folded[start.node] == sheet.folded.get(end.node):
                continue
            one, other = sheet.cards[start.node], sheet.cards[end.node]
            output = _output(one, start)
            entered = end.port or next(iter(other.face.inputs), "")
            counts[start.node, output] = counts.get((start.node, output), 0) + 1
            found.append(WireShape(number, False, start, end, output, entered, counts[start.node, output]))
        blocks = Blocks(
            [c.area.adjusted(-6, -4, 6, 4) for n, c in sheet.cards.items() if n not in sheet.folded]
        )
        yield 0.75
        ends = []
        for at, w in enumerate(found):
            if at % A_STEP == A_STEP - 1:
                yield 0.75
            start_at = sheet._start(w.start.node, w.output, False)
            ends.append((start_at, sheet._end(w.end.node, w.entered, False)))
        yield 0.8
        in_the_way = cards_between(ends, blocks)
        led_round = 0
        for at, (shape, (one_end, other_end), hit) in enumerate(zip(found, ends, in_the_way, strict=True)):
            if at % A_STEP == A_STEP - 1:
                yield 0.8 + 0.2 * at / len(found)
            # in a thicket no way round would be free, and to look for one takes long
            led_round += hit
            kept = ways.get((shape.number, False))
            round_ = hit and led_round <= MOST_LED_ROUND
            place = shape.place if counts[shape.start.node, shape.output] > 1 else 0
            if (
                kept is not None
                and (kept.place, kept.output, kept.entered) == (place, shape.output, shape.entered)
                and not round_
                and (kept.way[0], kept.way[-1]) == (one_end, other_end)
                and len(kept.way) == points_of_plain_way(one_end, other_end)
            ):
                # from the one end to the other as before
                sheet.wires.append(kept)
                continue
            way = signal_way(one_end, other_end, blocks if round_ else None)
            sheet.wires.append(replace(shape, place=place, way=way))
        for number, wire in enumerate(graph.values):
            start, end = end_of(wire.start), end_of(wire.end)
            if start is None or end is None or start.node not in sheet.cards or end.node not in sheet.cards:
                continue
            if start.node in sheet.folded and sheet.folded[start.node] == sheet.folded.get(end.node):
                continue
            output = start.port or next(iter(sheet.cards[start.node].face.gives), "")
            way = value_way(sheet._start(start.node, output, True), sheet._end(end.node, end.port, True))
            sheet.wires.append(WireShape(number, True, start, end, output, end.port, 0, way))


def _boxes(areas: list[QRectF], about: float) -> np.ndarray:
    """Areas with some pixels about them, as rows of left, top, right, bottom."""
    found = [(a.left() - about, a.top() - about, a.right() + about, a.bottom() + about) for a in areas]
    return np.array(found, dtype=np.float64).reshape(-1, 4)


def _meeting(boxes: np.ndarray, sight: QRectF) -> list[int]:
    """Return which of the boxes meet an area."""
    seen = (boxes[:, 0] < sight.right()) & (boxes[:, 2] > sight.left())
    seen &= (boxes[:, 1] < sight.bottom()) & (boxes[:, 3] > sight.top())
    found: list[int] = np.flatnonzero(seen).tolist()
    return found


def _same_lines(one: CardShape, other: CardShape) -> bool:
    """Return whether the slots of two cards stand in the same lines, where wires of values end."""
    if one.words is other.words:
        return True
    lines = [[(w.run.word.slot, w.y) for w in card.words if w.run.word.slot] for card in (one, other)]
    return lines[0] == lines[1]


def same_words(one: Index, other: Index) -> bool:
    """Return whether what words speak of looks the same for two indexes."""
    return one is other or (one.level.kinds is other.level.kinds and one.level.objects is other.level.objects)


def _goes_on(one: Word, other: Word) -> bool:
    """Return whether two words are one as far as painting and editing go."""
    return one.sort == other.sort and one.slot == other.slot and one.sort in ("plain", "value", "wired")


def _output(card: CardShape, start: End) -> str:
    """Return the output that a wire begins at, by its name."""
    if start.port:
        return start.port
    ports = ports_of(card.node.use)
    if card.node.use != OWN and ports is not None:
        cases = card.face.outputs
        return find_output(ports, start.port, cases) or next(iter(cases), "")
    return next(iter(card.face.outputs), "")


def card_word_list(node: Node, wired: Mapping[str, str]) -> list[Word]:
    """Return a card's words: the small word for what it is, then its sentence."""
    entry = CATALOGUE.get(node.use)
    label = LABELS.get(entry.group, "") if entry is not None else "own node" if node.use == OWN else ""
    if node.use == FORMULA:
        label = "value"
    words = [Word(label, "label")] if label else []
    named = {slot: slot for slot in wired}
    for piece in card_pieces(node, named):
        if node.use == FORMULA and (piece.slot in wired or piece.text.endswith(" = ")):
            # its name stands in the formula, and at its end of the wire
            continue
        words.append(Word(piece.text, "wired" if piece.slot in wired else piece.sort, slot=piece.slot))
    return words
