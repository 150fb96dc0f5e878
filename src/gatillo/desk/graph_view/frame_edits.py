"""Frames around cards: drawing, moving, folding, naming."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QPointF

from gatillo.desk.graph_view.open_graph import OpenGraph
from gatillo.level import graph_edits
from gatillo.level.model import Graph


class FrameEdits:
    """Edits frames of the open graph."""

    def __init__(self, opened: OpenGraph) -> None:
        self.opened = opened

    def frame_at(self, point: QPointF) -> int | None:
        """Return the frame by whose title or edge a point of the sheet takes it."""
        graph = self.opened.graph
        sheet = self.opened.sheet()
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
        """Return the cards within a frame."""
        graph, sheet = self.opened.graph, self.opened.sheet()
        if graph is None or sheet is None:
            return []
        frame = graph.frames[number]
        if frame.folded:
            return [n for n, box in sheet.folded.items() if box == sheet.box_of(frame)]
        area = sheet.box_of(frame)
        return [n for n, c in sheet.cards.items() if area.contains(c.area.center())]

    def move_frame(self, number: int, dx: float, dy: float) -> None:
        """Carry a frame with all cards in it."""
        if self.opened.graph_id is None:
            return
        level = graph_edits.move_cards(
            self.opened.settled(self.opened.bench.level), self.opened.graph_id, self.in_frame(number), dx, dy
        )

        def moved(graph: Graph) -> Graph:
            frames = list(graph.frames)
            x, y = frames[number].at
            frames[number] = msgspec.structs.replace(frames[number], at=(round(x + dx, 1), round(y + dy, 1)))
            return msgspec.structs.replace(graph, frames=tuple(frames))

        self.opened.bench.edit(graph_edits.change_graph(level, self.opened.graph_id, moved), "move a frame")

    def fold_frame(self, number: int) -> None:
        """Put a frame's cards away behind its title, or bring them back."""

        def folded(graph: Graph) -> Graph:
            frames = list(graph.frames)
            frames[number] = msgspec.structs.replace(frames[number], folded=not frames[number].folded)
            return msgspec.structs.replace(graph, frames=tuple(frames))

        if self.opened.graph_id is not None:
            level = graph_edits.change_graph(
                self.opened.settled(self.opened.bench.level), self.opened.graph_id, folded
            )
            self.opened.bench.edit(level, "fold or unfold a frame")

    def name_frame(self, number: int, title: str) -> None:
        """Give a frame another title; with none it is removed."""

        def named(graph: Graph) -> Graph:
            frames = list(graph.frames)
            if title:
                frames[number] = msgspec.structs.replace(frames[number], title=title)
            else:
                del frames[number]
            return msgspec.structs.replace(graph, frames=tuple(frames))

        if self.opened.graph_id is not None:
            label = f"call a frame “{title}”" if title else "remove a frame"
            self.opened.bench.edit(
                graph_edits.change_graph(self.opened.bench.level, self.opened.graph_id, named), label
            )

    def frame_chosen(self, title: str = "Frame") -> None:
        """A titled frame about the selected cards."""
        sheet = self.opened.sheet(at_once=True)
        if sheet is None or self.opened.graph_id is None or not self.opened.chosen:
            self.opened.bench.notify("Select some cards first; the frame is put around them.")
            return
        areas = [sheet.cards[n].area for n in self.opened.chosen]
        left, top = min(a.left() for a in areas) - 24, min(a.top() for a in areas) - 28
        size = (max(a.right() for a in areas) + 24 - left, max(a.bottom() for a in areas) + 28 - top)
        level = graph_edits.add_frame(
            self.opened.settled(self.opened.bench.level), self.opened.graph_id, title, (left, top), size
        )
        self.opened.bench.edit(level, "put a frame around cards")
