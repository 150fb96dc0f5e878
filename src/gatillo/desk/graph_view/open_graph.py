"""The graph that is open: its cards on their sheet, which of them are selected, and how edits are taken."""

from __future__ import annotations

import dataclasses
import time
from collections.abc import Collection, Generator

import msgspec
from PySide6.QtCore import QObject, QPointF, QRectF, QTimer, Signal

from gatillo.desk.graph_view.card_layout import Sheet, SheetLayout, same_words
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.graphs.layout import DOWN
from gatillo.graphs.outline import card_words
from gatillo.level import graph_edits
from gatillo.level.graphs import OWN, End
from gatillo.level.model import Graph, Level
from gatillo.level.naming import shortened
from gatillo.level.roles import Index, all_logic
from gatillo.sim.program.graph_lowering import index_for
from gatillo.sim.program.program import Program

GRID = 10.0
MANY_CARDS = 800
"""A graph of more cards is laid out a little at a time."""
A_SLICE = 0.02
"""Seconds for which a large graph is laid out in one go."""


def _looks_the_same(kept: tuple[Graph, Program, Sheet], graph: Graph, program: Program) -> bool:
    """Return whether a graph's sheet is as it was: only its name, its note or whether it is on may be others."""
    before, program_before, _ = kept
    parts = ("nodes", "wires", "values", "frames")
    return (
        all(getattr(before, part) is getattr(graph, part) for part in parts)
        and before.for_ == graph.for_
        and same_words(program_before.index, program.index)
        # how an own node looks is said elsewhere
        and not any(node.use == OWN for node in graph.nodes)
    )


class OpenGraph(QObject):
    """The open graph. What cannot be done is said in a sentence."""

    shown = Signal(int)
    """A card is to be brought into sight."""
    laying = Signal()
    """Some more of a large graph is laid out."""
    laid_out = Signal()
    """The sheet of a large graph is there, after `sheet` has returned None."""

    def __init__(self, bench: Workbench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.layout_ = SheetLayout()
        self.graph_id: int | None = None
        self._sheet: tuple[Graph, Program, Sheet] | None = None
        self._laying: tuple[Graph, Program, Generator[float, None, Sheet]] | None = None
        self._meanwhile: Sheet | None = None
        """What is shown until a large graph is laid out."""
        self.share_laid = 0.0
        """What share of a large graph is laid out, from 0 to 1."""
        self._index: tuple[Index, str, Index] | None = None

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
            return self.bench.index_at(self.graph_id)
        if self._index is None or self._index[0] is not index or self._index[1] != graph.for_:
            self._index = (index, graph.for_, index_for(index, graph.for_))
        return self._index[2]

    def sheet(self, moved: dict[int, QPointF] | None = None, *, at_once: bool = False) -> Sheet | None:
        """Return the graph on its sheet, with cards that are being carried elsewhere.

        None without a graph. A graph of many cards is laid out beside everything else: until then it is None, or as it was
        before the last edit, so that a new card is not there yet. With `at_once` the sheet is waited for.
        """
        graph = self.graph
        if graph is None:
            return None
        program = self.bench.program
        if self._sheet is None or self._sheet[0] is not graph or self._sheet[1] is not program:
            if self._sheet is not None and _looks_the_same(self._sheet, graph, program):
                made = dataclasses.replace(self._sheet[2], graph=graph)
            else:
                same = self._sheet is not None and self._sheet[0].id == graph.id
                before = self._sheet[2] if self._sheet is not None and same else None
                if len(graph.nodes) > MANY_CARDS and not at_once:
                    self._lay_out(graph, program, before)
                    meanwhile = self._meanwhile
                    return (
                        self.layout_.carried(meanwhile, moved)
                        if meanwhile is not None and moved
                        else meanwhile
                    )
                made = self.layout_.sheet(graph, self.graphs, program.index, before)
            if self._laying is not None:
                # what waits for it is shown now
                self._laying = self._meanwhile = None
                QTimer.singleShot(0, self, self._report)
            self._sheet = (graph, program, made)
        return self.layout_.carried(self._sheet[2], moved) if moved else self._sheet[2]

    def _lay_out(self, graph: Graph, program: Program, before: Sheet | None) -> None:
        """Begin to lay a large graph out, a little at a time between everything else that happens."""
        if self._laying is not None and self._laying[0] is graph and self._laying[1] is program:
            return
        going_on = self._laying is not None
        self._meanwhile = before
        if before is not None:
            # what was moved is not seen where it was
            places = {node.id: node.at for node in before.graph.nodes}
            moved = {
                node.id: QPointF(*node.at) - QPointF(*places[node.id])
                for node in graph.nodes
                if node.id in before.cards and places[node.id] != node.at
            }
            self._meanwhile = self.layout_.carried(before, moved) if moved else before
        self.share_laid = 0.0
        self._laying = graph, program, self.layout_.steps(graph, self.graphs, program.index, before)
        if not going_on:
            QTimer.singleShot(0, self, self._go_on)

    def _go_on(self) -> None:
        """Lay out some more of a large graph."""
        if self._laying is None:
            return
        graph, program, steps = self._laying
        until = time.perf_counter() + A_SLICE
        try:
            while time.perf_counter() < until:
                self.share_laid = next(steps)
        except StopIteration as made:
            self._laying = self._meanwhile = None
            if self.graph is graph and self.bench.program is program:
                self._sheet = (graph, program, made.value)
            self.laid_out.emit()
            return
        if self._meanwhile is None:
            self.laying.emit()
        QTimer.singleShot(0, self, self._go_on)

    def _report(self) -> None:
        """Notify what waits for the sheet."""
        self.laid_out.emit()

    def forget(self) -> None:
        """The desktop's font or the theme changed."""
        self.layout_.forget()
        self._sheet = self._laying = None

    @property
    def chosen(self) -> frozenset[int]:
        """The cards that are selected."""
        selection = self.bench.selection
        return selection.cards if selection.rule == self.graph_id else frozenset()

    def choose(self, cards: Collection[int]) -> None:
        """Select cards of the graph."""
        self.bench.select(Selection(rule=self.graph_id, cards=frozenset(cards)))

    def words_of(self, number: int) -> str:
        """Return a card in few words, for what is told and undone."""
        graph = self.graph
        node = next((n for n in graph.nodes if n.id == number), None) if graph is not None else None
        return shortened(card_words(node), 60) if node is not None else f"card {number}"

    def place_for(
        self,
        size: tuple[float, float],
        below: int | None,
        at: QPointF | None,
        step: tuple[float, float] = (40, 0),
    ) -> QPointF:
        """Return where a new card is put: where it was asked for, or below another, and over none; `step` is the way to free ground."""
        sheet = self.sheet(at_once=True)
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

    def settled(self, level: Level) -> Level:
        """Return the level with the graph's cards where they are seen: those of a graph that was never laid out lie on one another."""
        graph, sheet = self.graph, self.sheet(at_once=True)
        if graph is None or sheet is None or self.graph_id is None:
            return level
        return self.placed(level, {n: (c.area.left(), c.area.top()) for n, c in sheet.cards.items()})

    def placed(self, level: Level, places: dict[int, tuple[float, float]]) -> Level:
        """Return a level with cards of the open graph at other places, by their numbers."""
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

    def take(self, level: Level, label: str, new: int = 0) -> bool:
        """Take an edit of wires, unless something would then be wrong that is not now: a message says that instead.

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

    def out_of(self, number: int, output: str) -> End:
        """Return the end at which a wire begins, as it is written: the only output needs no name."""
        sheet = self.sheet(at_once=True)
        face = sheet.cards[number].face if sheet is not None and number in sheet.cards else None
        return End(number, "" if face is not None and face.outputs == (output,) else output)

    def into(self, number: int, entered: str, value: bool) -> End:
        """Return the end at which a wire ends, as it is written: the first input needs no name."""
        sheet = self.sheet(at_once=True)
        face = sheet.cards[number].face if sheet is not None and number in sheet.cards else None
        first = face is not None and not value and face.inputs[:1] == (entered,)
        return End(number, "" if first else entered)
