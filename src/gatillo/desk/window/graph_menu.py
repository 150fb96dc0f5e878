"""The Graph menu: what is done with the graph that is shown."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.desk.window.region import Region
from gatillo.files.graph_pictures import WRITERS, write_graph
from gatillo.level.graphs import OWN


class GraphMenu:
    """Commands on the graph's page. The menus call them only where their needs are met (`needs.py`)."""

    def __init__(self, bench: Workbench, page: GraphPage, region: Region) -> None:
        self.bench = bench
        self.page = page
        self.region = region

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        commands, view = self.page.commands, self.page.view
        return {
            "open graph": self.open,
            "to level": self.region.show_level,
            "back graph": self.back,
            "type card": lambda: view.type_card(view.output_now(), None),
            "fold cards": commands.cards.fold_chosen,
            "unfold card": commands.cards.unfold_chosen,
            "go into": self.go_into,
            "frame cards": commands.frames.frame_chosen,
            "align cards": commands.cards.align,
            "tidy cards": commands.cards.tidy,
            "wire earlier": lambda: self.renumber(-1),
            "wire later": lambda: self.renumber(1),
            "find card": self.find,
            "fit graph": view.fit,
            "fit cards": lambda: view.fit(commands.opened.chosen),
            "save graph": self.save,
        }

    def open(self) -> None:
        """The selected graph, beside the level."""
        assert self.bench.selection.rule is not None
        self.region.open_graph(self.bench.selection.rule)

    def back(self) -> None:
        """Go from an own node back to the graph from which it was opened."""
        self.page.go_back_to(self.page.way[-2])

    def go_into(self) -> None:
        """The selected card's own node."""
        graph = self.page.graph
        assert graph is not None
        chosen = (n for n in graph.nodes if n.id in self.page.commands.opened.chosen)
        node = next(node for node in chosen if node.use == OWN)
        self.page.go_into(node.slots.get("graph", ""))

    def renumber(self, by: int) -> None:
        """The selected wire comes earlier or later."""
        wire = self.page.view.wire_shape
        assert wire is not None
        self.page.commands.wires.renumber(wire, by)

    def find(self) -> None:
        """The keyboard into the field that finds cards."""
        self.page.finding.setFocus()
        self.page.finding.selectAll()

    def save(self) -> None:
        """The graph as a picture, or for another program."""
        graph = self.page.graph
        assert graph is not None
        kinds = ";;".join(f"{ending[1:].upper()} (*{ending})" for ending in reversed(WRITERS))
        name, _ = QFileDialog.getSaveFileName(self.page.view, "Save the graph", f"{graph.name}.svg", kinds)
        if not name:
            return
        try:
            write_graph(graph, Path(name))
        except (OSError, ValueError) as error:
            self.bench.notify(f"The graph could not be written: {error}.")
        else:
            self.bench.notify(f"“{graph.name}” was written to {Path(name).name}.")
