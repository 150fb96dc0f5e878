"""What can be done with the open graph, by subject: cards, wires, frames, the clipboard."""

from __future__ import annotations

from PySide6.QtCore import QObject

from gatillo.desk.graph_view.card_edits import CardEdits
from gatillo.desk.graph_view.card_layout import WireShape
from gatillo.desk.graph_view.clipboard import Clipboard
from gatillo.desk.graph_view.frame_edits import FrameEdits
from gatillo.desk.graph_view.open_graph import OpenGraph
from gatillo.desk.graph_view.wire_edits import WireEdits
from gatillo.desk.session.workbench import Workbench
from gatillo.level import graph_edits


class GraphCommands(QObject):
    """Joins the open graph and its edits."""

    def __init__(self, bench: Workbench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.opened = OpenGraph(bench, self)
        self.cards = CardEdits(self.opened)
        self.wires = WireEdits(self.opened, self.cards)
        self.frames = FrameEdits(self.opened)
        self.clipboard = Clipboard(self.opened)

    def delete(self, wire: WireShape | None) -> None:
        """Delete the selected wire, or else the selected cards with their wires."""
        opened = self.opened
        if opened.graph_id is None:
            return
        if wire is not None:
            self.wires.cut([wire])
        elif gone := opened.chosen:
            what = f"{len(gone)} cards" if len(gone) > 1 else f"“{opened.words_of(next(iter(gone)))}”"
            level = graph_edits.delete_cards(opened.settled(opened.bench.level), opened.graph_id, gone)
            opened.bench.edit(level, f"delete {what}")
