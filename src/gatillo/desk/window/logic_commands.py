"""Turning the selected rule into a graph, and a graph that is a plain chain into a rule."""

from __future__ import annotations

from collections.abc import Callable

from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.graphs.conversion import NoConversion, as_graph, as_rule_again
from gatillo.level.edits import change_logic
from gatillo.level.graph_edits import add_graph
from gatillo.level.model import Graph, Logic, Rule
from gatillo.level.own_edits import make_own
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import add_section, logic_of


class LogicCommands:
    """What the Level menu does with the selected rule or graph as a whole."""

    def __init__(self, bench: Workbench, opens: Callable[[int], None]) -> None:
        self.bench = bench
        self.opens = opens
        """Shows a graph beside the level."""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "new graph": self.new_graph,
            "new behaviour": self.new_behaviour,
            "to graph": self.to_graph,
            "to rule": self.to_rule,
        }

    def new_behaviour(self) -> None:
        """An own behaviour at the end of the order list: a section whose rules are about `self`."""
        level, name = add_section(self.bench.level, "behaviour 1")
        self.bench.edit(make_own(level, name), f"add the own behaviour “{name}”")
        self.bench.select(Selection(thing=Thing("section", name)))

    def new_graph(self) -> None:
        """An empty graph below what is selected."""
        level, number = add_graph(self.bench.level, "Graph", self.bench.selection.rule)
        self.bench.edit(level, "add a graph")
        self.bench.select(Selection(rule=number))
        self.opens(number)

    def to_graph(self) -> None:
        """The selected rule as a graph in its place; the trace stays as it was."""
        entry = self._selected()
        assert isinstance(entry, Rule)
        try:
            graphs = {e.name: e for _, _, e in all_logic(self.bench.level) if isinstance(e, Graph)}
            self._put(as_graph(entry, graphs), f"turn “{entry.name}” into a graph")
        except NoConversion as why:
            self.bench.notify(f"{why}.")

    def to_rule(self) -> None:
        """The selected graph as a rule in its place, where it is a plain chain."""
        entry = self._selected()
        assert isinstance(entry, Graph)
        try:
            self._put(as_rule_again(entry), f"turn “{entry.name}” into a rule")
        except NoConversion as why:
            self.bench.notify(f"{why}.")

    def _selected(self) -> Logic:
        assert self.bench.selection.rule is not None
        return logic_of(self.bench.level, self.bench.selection.rule)

    def _put(self, new: Logic, label: str) -> None:
        self.bench.edit(change_logic(self.bench.level, new.id, lambda _: new), label)
