"""Copying cards to the clipboard and from it."""

from __future__ import annotations

import msgspec
from PySide6.QtWidgets import QApplication

from gatillo.desk.graph_view.open_graph import OpenGraph
from gatillo.level import graph_edits
from gatillo.level.model import Graph

CLIP_START = "gatillo cards\n"


class Clipboard:
    """Copies cards of the open graph."""

    def __init__(self, opened: OpenGraph) -> None:
        self.opened = opened

    def copy(self) -> None:
        """Put the selected cards, and the wires among them, on the clipboard as text."""
        graph = self.opened.graph
        if graph is None or not self.opened.chosen:
            self.opened.bench.notify("Select some cards first.")
            return
        part = graph_edits.part_of(graph, self.opened.chosen)
        QApplication.clipboard().setText(CLIP_START + msgspec.json.encode(part).decode())

    def paste(self) -> bool:
        """Put copied cards onto the sheet; False where there are none."""
        text = QApplication.clipboard().text()
        if not text.startswith(CLIP_START) or self.opened.graph_id is None:
            return False
        try:
            part = msgspec.json.decode(text[len(CLIP_START) :].encode(), type=Graph)
        except (msgspec.MsgspecError, UnicodeError, RecursionError):
            self.opened.bench.notify("The clipboard does not contain cards.")
            return True
        level, numbers = graph_edits.paste_cards(
            self.opened.settled(self.opened.bench.level), self.opened.graph_id, part
        )
        self.opened.bench.edit(level, f"paste {len(numbers)} cards")
        self.opened.choose(numbers)
        return True

    def duplicate(self) -> None:
        """The selected cards once more, with the wires among them."""
        graph = self.opened.graph
        if graph is not None and self.opened.graph_id is not None and self.opened.chosen:
            part = graph_edits.part_of(graph, self.opened.chosen)
            level, numbers = graph_edits.paste_cards(
                self.opened.settled(self.opened.bench.level), self.opened.graph_id, part
            )
            self.opened.bench.edit(level, f"duplicate {len(numbers)} cards")
            self.opened.choose(numbers)
