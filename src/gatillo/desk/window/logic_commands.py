"""Turning the selected rule into a graph, and a graph that is a plain chain into a rule."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from PySide6.QtWidgets import QDialog, QWidget

from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.desk.window.copy_dialog import CopyWith
from gatillo.graphs.conversion import NoConversion, as_graph, as_rule_again
from gatillo.inspect.findings import findings
from gatillo.language.copying import Named, copied_cards_with, copied_with, entries_of, named_in
from gatillo.level.edits import change_logic
from gatillo.level.graph_edits import add_graph, part_of
from gatillo.level.model import Graph, Level, Logic, Rule
from gatillo.level.own_edits import make_own
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import add_section, logic_of
from gatillo.sim.program.program import Program

MOST_CHOICES = 2_000
"""So many names are listed to choose from; others can be typed."""
Look = Callable[[dict[Named, str], bool], list[str]]


class LogicCommands:
    """What the Level menu does with the selected rule or graph as a whole."""

    def __init__(self, bench: Workbench, opens: Callable[[int], None], parent: QWidget) -> None:
        self.bench = bench
        self.parent = parent
        self.ask_with = self._ask_with
        """Asks what stands for the things that a copy names, and whether to make variables; None when it is put away."""
        self.opens = opens
        """Shows a graph beside the level."""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "new graph": self.new_graph,
            "new behaviour": self.new_behaviour,
            "copy with": self.copy_with,
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

    def copy_with(self) -> None:
        """A copy of the selected cards, rule, graph or section in which other things stand for those that it names."""
        bench, selection = self.bench, self.bench.selection
        entries, what = self._meant()
        named = named_in(bench.level, entries)
        if not named:
            bench.notify("It names nothing for which something else could stand; Ctrl+D copies it as it is.")
            return
        chosen = self.ask_with(what, named, self._found_in_copy)
        if chosen is None:
            return
        level, copies = self._copied(*chosen)
        bench.edit(level, f"copy {what} with others")
        if self._cards():
            bench.select(replace(selection, cards=frozenset(copies)))
        elif selection.rule is not None and copies:
            bench.select(Selection(rule=copies[0]))

    def _cards(self) -> frozenset[int]:
        """Return the selected cards of the selected graph."""
        selection = self.bench.selection
        return selection.cards if selection.rule is not None else frozenset()

    def _section(self) -> str:
        thing = self.bench.selection.thing
        return thing.name if thing is not None and thing.sort == "section" else ""

    def _meant(self) -> tuple[list[Logic], str]:
        """Return what is to be copied, and how it is called."""
        level, section, cards = self.bench.level, self._section(), self._cards()
        entries = entries_of(level, self.bench.selection.rule, section)
        if cards and isinstance(entries[0], Graph):
            what = f"{len(cards)} card{'s' if len(cards) > 1 else ''} of “{entries[0].name}”"
            return [part_of(entries[0], cards)], what
        return entries, f"the section “{section}”" if section else f"“{entries[0].name}”"

    def _copied(self, names: dict[Named, str], make: bool) -> tuple[Level, list[int]]:
        """Return the level with a copy, and the numbers of the rules, graphs or cards that are new."""
        level, rule = self.bench.level, self.bench.selection.rule
        if self._cards() and rule is not None:
            return copied_cards_with(level, rule, self._cards(), names, make=make)
        return copied_with(level, rule, self._section(), names, make=make)

    def _found_in_copy(self, names: dict[Named, str], make: bool) -> list[str]:
        """Return what would be wrong with a copy that is not wrong now."""
        bench = self.bench
        level, copies = self._copied(names, make)
        found = findings(level, Program(level, bench.program))
        if self._cards():
            return [one.sentence() for one in found if one.card in copies]
        return [one.sentence() for one in found if one.rule_id in copies]

    def _ask_with(self, what: str, named: list[Named], look: Look) -> tuple[dict[Named, str], bool] | None:
        dialog = CopyWith(what, named, self._choices, look, self.parent)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return None
        return dialog.names(), dialog.make.isChecked()

    def _choices(self, one: Named) -> list[str]:
        """Return what may stand for a thing: others of its sort."""
        level, index = self.bench.level, self.bench.program.index
        others: dict[str, Iterable[str]] = {
            "kind": (kind.name for kind in level.kinds),
            "object": (thing.name for thing in level.objects),
            "place": (place.name for place in level.places),
            "tag": index.tags,
            "level variable": (variable.name for variable in level.variables),
            "clip": (clip.name for clip in level.clips),
        }
        return list(others.get(one.sort, (one.name,)))[:MOST_CHOICES]

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
