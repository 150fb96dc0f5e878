"""Cut, copy, paste, duplicate, delete, rename: of cards, of rules or of objects, whichever has the keyboard."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PySide6.QtWidgets import QApplication

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.level_view.object_commands import ObjectCommands
from gatillo.desk.order_list.rule_writer import RuleWriter
from gatillo.desk.session.rename_things import delete_thing
from gatillo.desk.session.selection import Selection, Thing, ThingSort
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.files import pasting
from gatillo.language.renaming import Sort
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
DELETIONS: dict[ThingSort, Callable[[Level, str], Level]] = {
    "kind": thing_edits.delete_kind,
    "place": thing_edits.delete_place,
    "clip": clip_edits.delete_clip,
    "trial": thing_edits.delete_trial,
    "variant": thing_edits.delete_variant,
}
"""How such things are taken away."""


class SelectionCommands:
    """What the Edit menu does with what is selected.

    `keyboard` says where the keyboard is: “order”, “level” or elsewhere; `shows_graph` whether a graph is on the page;
    `type_name` gives the keyboard to a field of the sheet, `ask_name` asks for a new name, `paste_at` says to which point of the
    level pasted objects go.
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
        remove_bar: Callable[[], bool],
        type_name: Callable[[str], None],
        ask_name: Callable[[str], str | None],
        paste_at: Callable[[], tuple[float, float]],
    ) -> None:
        self.bench = bench
        self.writer = writer
        self.objects = objects
        self.graph_page = graph_page
        self.keyboard = keyboard
        self.shows_graph = shows_graph
        self.remove_bar = remove_bar
        self.type_name = type_name
        self.ask_name = ask_name
        self.paste_at = paste_at

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "cut": self.cut,
            "copy": self.copy,
            "paste": self.paste,
            "copy with rules": self.copy_with_rules,
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
            if not self.remove_bar():
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
        """Copy what is selected, and take it away."""
        if self._in_graph():
            self.graph_page.commands.clipboard.copy()
            self.graph_page.commands.delete(None)
        elif (copied := self._copied()) is not None:
            self._put_on_clipboard(copied)
            if copied.sort == "objects":
                self.objects.delete_selected()
            else:
                self._delete_thing(copied.sort)
        else:
            self.writer.copy()
            self.writer.delete()

    def copy(self) -> None:
        """Copy the selected cards, objects, rules, or the kind, place, clip, trial or variant on the sheet."""
        if self._in_graph():
            self.graph_page.commands.clipboard.copy()
        elif (copied := self._copied()) is not None:
            self._put_on_clipboard(copied)
        else:
            self.writer.copy()

    def copy_with_rules(self) -> None:
        """Copy the kind on the sheet with the rules that speak of it."""
        thing = self.bench.selection.thing
        if thing is not None and thing.sort == "kind":
            copied = pasting.copied_thing(self.bench.level, "kind", thing.name, with_rules=True)
            self._put_on_clipboard(copied)

    def paste(self) -> None:
        """Put in what was copied: cards onto the sheet, things into the level, else rules into the order list."""
        if self.shows_graph() and self.graph_page.commands.clipboard.paste():
            return
        try:
            copied = pasting.from_text(QApplication.clipboard().text())
            if copied is None:
                self.writer.paste()
                return
            thing = self.bench.selection.thing
            onto = thing.name if thing is not None and thing.sort in ("kind", "trial") else ""
            pasted = pasting.paste(self.bench.level, copied, self.paste_at(), onto)
        except ValueError as error:
            self.bench.notify(str(error))
            return
        self.bench.edit(pasted.level, pasted.label)
        if pasted.objects:
            self.bench.select(Selection(frozenset(pasted.objects)))
        elif copied.sort in COPIES and pasted.name:
            self.bench.select(Selection(thing=Thing(copied.sort, pasted.name)))

    def _copied(self) -> pasting.Copied | None:
        """Return what of objects and things is selected, ready to be copied; None where rules or nothing are meant."""
        selection, level = self.bench.selection, self.bench.level
        ids = selection.objects & {o.id for o in level.objects}
        if ids:
            return pasting.copied_objects(level, ids)
        thing = selection.thing
        if thing is not None and thing.sort in COPIES:
            return pasting.copied_thing(level, cast(pasting.Sort, thing.sort), thing.name)
        return None

    def _put_on_clipboard(self, copied: pasting.Copied) -> None:
        QApplication.clipboard().setText(pasting.as_text(copied))
        self.bench.notify(f"{pasting.counted(copied).capitalize()} copied.")

    def _delete_thing(self, sort: str) -> None:
        thing = self.bench.selection.thing
        assert thing is not None
        level = DELETIONS[thing.sort](self.bench.level, thing.name)
        if sort in ("kind", "place", "clip"):
            delete_thing(self.bench, cast(Sort, sort), thing.name, level)
            return
        self.bench.select(Selection())
        self.bench.edit(level, f"delete the {sort} {thing.name}")

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
