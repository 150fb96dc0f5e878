"""Arranging objects from the menus: in line, evenly, in rows and rings, in groups."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QInputDialog, QWidget

from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import EDGES, Run
from gatillo.level.arranging import align, copies_in_ring, copies_in_row, distribute, group, ungroup
from gatillo.level.model import Level


class ArrangeCommands:
    """What the Level menu does with the selected objects."""

    def __init__(self, bench: Workbench, parent: QWidget) -> None:
        self.bench = bench
        self.parent = parent
        self.ask_number: Callable[[str, str, int, int, int], int | None] = self._ask_number
        """Asks for a whole number; None when the question is put away."""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            **{f"align {edge}": lambda e=edge: self.arrange(f"align {e}", align, e) for edge in EDGES},  # type: ignore[misc]
            "spread x": lambda: self.arrange("spread", distribute, "x"),
            "spread y": lambda: self.arrange("spread", distribute, "y"),
            "row": self.copies_in_row,
            "ring": self.copies_in_ring,
            "group objects": lambda: self.arrange("group", group),
            "ungroup objects": lambda: self.arrange("ungroup", ungroup),
        }

    def arrange(self, label: str, arranging: Callable[..., Level], *more: object) -> None:
        """Arrange the selected objects by an edit; `label` names it for undo."""
        ids = self.bench.selection.objects
        level = arranging(self.bench.level, ids, *more)
        if level == self.bench.level:
            self.bench.notify("Nothing changes: the selected objects are like this already.")
        else:
            self.bench.edit(level, f"{label} {len(ids)} objects")

    def copies_in_row(self) -> None:
        """Copy the selected objects again and again to the right."""
        ids = self.bench.selection.objects & {o.id for o in self.bench.level.objects}
        count = self.ask_number("Copies in a row", "How many copies?", 3, 1, 500)
        gap = (
            self.ask_number("Copies in a row", "How far from one to the next, in units?", 40, 1, 10_000)
            if count
            else None
        )
        if count and gap:
            level, made = copies_in_row(self.bench.level, ids, count, float(gap), 0.0)
            self.bench.edit(level, f"copy {count} times in a row")
            self.bench.select(Selection(frozenset(made) | ids))

    def copies_in_ring(self) -> None:
        """Copy the selected object around a circle."""
        ids = self.bench.selection.objects & {o.id for o in self.bench.level.objects}
        count = self.ask_number("Copies in a ring", "How many on the ring, with this one?", 6, 2, 500)
        radius = (
            self.ask_number("Copies in a ring", "Its radius, in units?", 80, 1, 10_000) if count else None
        )
        if count and radius:
            level, made = copies_in_ring(self.bench.level, min(ids), count, float(radius))
            self.bench.edit(level, f"copy around a ring of {count}")
            self.bench.select(Selection(frozenset(made) | ids))

    def _ask_number(self, title: str, words: str, value: int, least: int, most: int) -> int | None:
        number, taken = QInputDialog.getInt(self.parent, title, words, value, least, most)
        return number if taken else None
