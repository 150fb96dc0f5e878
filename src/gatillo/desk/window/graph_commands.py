"""The Graph menu: what is done with the graph that is shown."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from gatillo.catalogue.cards import OWN
from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.desk.window.region import Region
from gatillo.files.graph_pictures import WRITERS, write_graph
from gatillo.level.model import Graph
from gatillo.level.roles import all_logic


class GraphMenu:
    """Commands on the graph's page; without one they say how to come to it."""

    def __init__(self, bench: Workbench, page: GraphPage, region: Callable[[], Region]) -> None:
        self.bench = bench
        self.page = page
        self._region = region

    @property
    def region(self) -> Region:
        """Where the graph is shown; made after the menus."""
        return self._region()

    def runs(self) -> dict[str, Run]:
        """Commands by name, with what they do."""
        commands, view = self.page.commands, self.page.view
        return {
            "open graph": self.open,
            "to level": lambda: self.region.show_level(),
            "back graph": self.back,
            "type card": self.shown(lambda: view.type_card(view.output_now(), None)),
            "fold cards": self.shown(commands.fold_chosen),
            "unfold card": self.shown(commands.unfold_chosen),
            "go into": self.shown(self.go_into),
            "frame cards": self.shown(commands.frame_chosen),
            "align cards": self.shown(commands.align),
            "tidy cards": self.shown(commands.tidy),
            "wire earlier": self.shown(lambda: self.renumber(-1)),
            "wire later": self.shown(lambda: self.renumber(1)),
            "find card": self.shown(self.find),
            "fit graph": self.shown(view.fit),
            "fit cards": self.shown(lambda: view.fit(commands.chosen)),
            "save graph": self.shown(self.save),
        }

    def shown(self, run: Callable[[], object]) -> Callable[[], None]:
        """Only where a graph is shown."""

        def checked() -> None:
            if self.region.shows_graph and self.page.graph is not None:
                run()
            else:
                self.bench.told.emit(
                    "Open a graph first: select its row and choose Graph › Open beside the level."
                )

        return checked

    def open(self) -> None:
        """The selected graph, beside the level."""
        number = self.bench.selection.rule
        found = next((e for _, _, e in all_logic(self.bench.level) if e.id == number), None)
        if isinstance(found, Graph):
            self.region.open_graph(found.id)
        else:
            self.bench.told.emit("Select a graph first: click its row in the order list.")

    def back(self) -> None:
        """From an own node to the graph from which one came."""
        if len(self.page.way) > 1:
            self.page.go_back_to(self.page.way[-2])

    def go_into(self) -> None:
        """The selected card's own node."""
        graph = self.page.graph
        node = next((n for n in graph.nodes if n.id in self.page.commands.chosen), None) if graph else None
        if node is None or node.use != OWN:
            self.bench.told.emit("Select a card that is an own node first.")
        else:
            self.page.go_into(node.slots.get("graph", ""))

    def renumber(self, by: int) -> None:
        """The selected wire comes earlier or later."""
        wire = self.page.view.wire_shape
        if wire is None:
            self.bench.told.emit("Select a wire first: click it.")
        else:
            self.page.commands.renumber(wire, by)

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
            self.bench.told.emit(f"The graph could not be written: {error}.")
        else:
            self.bench.told.emit(f"“{graph.name}” was written to {Path(name).name}.")
