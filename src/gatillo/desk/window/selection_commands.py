"""Cut, copy, paste, duplicate, delete, rename: of cards, of rules or of objects, whichever has the keyboard."""

from __future__ import annotations

from collections.abc import Callable

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.level_view.object_commands import ObjectCommands
from gatillo.desk.order_list.rule_writer import RuleWriter
from gatillo.desk.session.selection import Selection, Thing, ThingSort
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.level import clip_edits, thing_edits
from gatillo.level.model import Level

COPIES: dict[ThingSort, Callable[[Level, str], tuple[Level, str]]] = {
    "kind": thing_edits.copy_kind,
    "place": thing_edits.copy_place,
    "clip": clip_edits.copy_clip,
    "trial": thing_edits.copy_trial,
    "variant": thing_edits.copy_variant,
}
"""How things with a page of their own are copied, by their sort."""


class SelectionCommands:
    """What the Edit menu does with what is selected.

    `keyboard` says where the keyboard is: “order”, “level” or elsewhere; `shows_graph` whether a graph is on the page;
    `type_name` gives the keyboard to a field of the sheet, `ask_name` asks for a new name.
    """

    def __init__(
        self,
        bench: Workbench,
        writer: RuleWriter,
        objects: ObjectCommands,
        graph_page: GraphPage,
        *,
        keyboard: Callable[[], str],
        shows_graph: Callable[[], bool],
        type_name: Callable[[str], None],
        ask_name: Callable[[str], str | None],
    ) -> None:
        self.bench = bench
        self.writer = writer
        self.objects = objects
        self.graph_page = graph_page
        self.keyboard = keyboard
        self.shows_graph = shows_graph
        self.type_name = type_name
        self.ask_name = ask_name

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "cut": self.cut,
            "copy": self.copy,
            "paste": self.paste,
            "duplicate": self.duplicate,
            "delete": self.delete,
            "select all": self.objects.select_all,
            "rename": self.rename_everywhere,
        }

    def _in_order(self) -> bool:
        """Return whether a command means the order list's row."""
        where = self.keyboard()
        return where == "order" or (self.bench.selection.rule is not None and where != "level")

    def _in_graph(self) -> bool:
        """Return whether a command means cards."""
        return self.shows_graph() and (
            self.graph_page.view.hasFocus() or bool(self.graph_page.commands.opened.chosen)
        )

    def delete(self) -> None:
        """Delete lines, rules and sections in the order list, cards of a graph, else objects."""
        if self._in_graph():
            self.graph_page.commands.delete(self.graph_page.view.wire_shape)
        elif self._in_order():
            self.writer.delete()
        else:
            self.objects.delete_selected()

    def duplicate(self) -> None:
        """Copy what is selected."""
        thing = self.bench.selection.thing
        if self._in_graph():
            self.graph_page.commands.clipboard.duplicate()
        elif thing is not None and thing.sort in COPIES:
            level, name = COPIES[thing.sort](self.bench.level, thing.name)
            self.bench.edit(level, f"copy the {thing.sort} {thing.name}")
            self.bench.select(Selection(thing=Thing(thing.sort, name)))
        elif self._in_order():
            self.writer.duplicate()
        else:
            self.objects.duplicate_selected()

    def cut(self) -> None:
        """Copy the current rule, or the selected cards, and take them away."""
        if self._in_graph():
            self.graph_page.commands.clipboard.copy()
            self.graph_page.commands.delete(None)
            return
        self.writer.copy()
        self.writer.delete()

    def copy(self) -> None:
        """Copy the current rule, or the selected cards."""
        if self._in_graph():
            self.graph_page.commands.clipboard.copy()
        else:
            self.writer.copy()

    def paste(self) -> None:
        """Put in what was copied: cards onto the sheet, else rules into the order list."""
        if not (self.shows_graph() and self.graph_page.commands.clipboard.paste()):
            self.writer.paste()

    def rename_everywhere(self) -> None:
        """Rename what the current slot names, or what is selected, in the whole level."""
        selection, state = self.bench.selection, self.writer.state
        if selection.thing is not None and not state.slots_of(state.current):
            self.type_name(f"{selection.thing.sort}-name")
        elif state.current_slot < 0 and selection.rule is not None:
            self.type_name("rule-name")
        elif selection.objects:
            self.type_name("object-name")
        else:
            self.writer.rename_everywhere(self.ask_name)
