"""The page of a graph: its name, its note, and its cards in the order in which they run."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout

from gatillo.catalogue.outline import outline
from gatillo.desk.session.naming import take_name
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.level.edits import change_logic
from gatillo.level.model import Graph, Logic
from gatillo.level.roles import all_logic

MOST_LINES = 300
"""Cards that the page lists."""


def graph_page(bench: Workbench, column: QVBoxLayout, graph: Graph) -> None:
    """What can be changed of a graph outside its own page, and its cards as numbered lines."""
    form = Form(bench, column, "graph")
    taken = [entry.name for _, _, entry in all_logic(bench.level) if entry is not graph]
    form.text("name", "name", graph.name, lambda text: take_name(bench, "rule", graph.name, text, taken))

    def take_note(text: str) -> None:
        def changed(entry: Logic) -> Logic:
            return replace(entry, note=text)

        bench.edit(change_logic(bench.level, graph.id, changed), f"change the note of “{graph.name}”")

    form.text("note", "note", graph.note, take_note)
    form.heading("Its cards, in the order in which they run")
    lines = [line.replace("  ", "\u2003") for line in outline(graph)]
    if len(lines) > MOST_LINES:
        lines = [*lines[:MOST_LINES], f"… and {len(lines) - MOST_LINES} more; `gatillo print` lists all"]
    # one text: hundreds of labels would take longer than all the rest
    form.words("\n".join(lines))
