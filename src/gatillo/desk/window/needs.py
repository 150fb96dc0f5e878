"""What commands need before they can act: a selected rule, an open graph, a comparison."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.session.workbench import Workbench
from gatillo.level.graphs import OWN
from gatillo.level.model import Graph, Logic
from gatillo.level.roles import all_logic


@dataclass(frozen=True, slots=True)
class Need:
    """One thing that commands need: whether it is met now, and what to do where it is not."""

    met: Callable[[], bool]
    otherwise: str
    """A sentence: what to do first."""


def needs_of(bench: Workbench, page: GraphPage, shows_graph: Callable[[], bool]) -> dict[str, Need]:
    """Return every need by the name that the table of commands uses."""

    def logic() -> Logic | None:
        return next((e for _, _, e in all_logic(bench.level) if e.id == bench.selection.rule), None)

    def graph() -> bool:
        return shows_graph() and page.graph is not None

    def own_node() -> bool:
        nodes = page.graph.nodes if graph() and page.graph is not None else ()
        return any(node.use == OWN for node in nodes if node.id in page.commands.opened.chosen)

    return {
        "": Need(lambda: True, ""),
        "stretch": Need(
            lambda: bench.stretch is not None,
            "Mark a stretch first: drag along the time axis with Shift.",
        ),
        "take": Need(
            lambda: bench.take is not None,
            "Play first (Ctrl+P), or choose a take in the list of trials in the run bar.",
        ),
        "rule": Need(
            lambda: (found := logic()) is not None and not isinstance(found, Graph),
            "Select a rule first: click its row in the order list.",
        ),
        "graph": Need(
            lambda: isinstance(logic(), Graph), "Select a graph first: click its row in the order list."
        ),
        "logic": Need(
            lambda: logic() is not None, "Select a rule or a graph first: click its row in the order list."
        ),
        "logic or section": Need(
            lambda: (
                logic() is not None
                or (bench.selection.thing is not None and bench.selection.thing.sort == "section")
            ),
            "Select a rule, a graph or a section first: click its row in the order list.",
        ),
        "logic or objects": Need(
            lambda: logic() is not None or bool(bench.selection.objects),
            "Select a rule, a graph or some objects first.",
        ),
        "kind": Need(
            lambda: (thing := bench.selection.thing) is not None and thing.sort == "kind",
            "Select a kind first: click it on the shelf below the level.",
        ),
        "object": Need(
            lambda: bool(bench.selection.objects), "Select an object first: click it in the level."
        ),
        "one object": Need(
            lambda: len(bench.selection.objects) == 1, "Select one object first: click it in the level."
        ),
        "objects": Need(
            lambda: len(bench.selection.objects) > 1,
            "Select two or more objects first: drag a box around them, or click with Shift.",
        ),
        "shown graph": Need(
            graph, "Open a graph first: select its row and choose Graph › Open beside the level."
        ),
        "way back": Need(
            lambda: graph() and len(page.way) > 1, "Open an own node first: double-click its card."
        ),
        "cards": Need(
            lambda: graph() and bool(page.commands.opened.chosen),
            "Select some cards first: drag a box around them.",
        ),
        "own node": Need(own_node, "Select a card that is an own node first."),
        "wire": Need(lambda: graph() and page.view.wire_shape is not None, "Select a wire first: click it."),
        "merge": Need(
            lambda: bool(bench.level.unsettled),
            "Open a level that was merged first; in this one nothing is to be settled.",
        ),
        "answer": Need(lambda: bench.answers.page is not None, "No answer is shown. Ask a question first."),
        "comparison": Need(
            lambda: bench.shown.compared or bench.beside.run is not None,
            "No comparison is shown. Choose Ask › Compare first.",
        ),
    }
