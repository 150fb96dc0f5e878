"""Arranging objects from the menus: in line, evenly, in rows and rings, in groups."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from gatillo.desk.session.workbench import Selection
from gatillo.level.arranging import copies_in_ring, copies_in_row
from gatillo.level.model import Level

if TYPE_CHECKING:
    from gatillo.desk.window.main_window import MainWindow


class ArrangeDeeds:
    """What the Level menu does with the selected objects."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.bench = window.bench
        self.ask_number: Callable[[str, str, int, int, int], int | None] = self._ask_number
        """Asks for a whole number; None when the question is put away."""

    def arrange(self, deed: str, arranging: Callable[..., Level], *more: object) -> None:
        """Arrange the selected objects by an edit; `deed` names it."""
        ids = self.bench.selection.objects
        level = arranging(self.bench.level, ids, *more)
        if level == self.bench.level:
            self.window.tell(
                "Select two or more objects to arrange: drag a box around them, or click with Shift."
            )
        self.bench.edit(level, f"{deed} {len(ids)} objects")

    def copies_in_row(self) -> None:
        """Copy the selected objects again and again to the right."""
        ids = self.bench.selection.objects & {o.id for o in self.bench.level.objects}
        if not ids:
            self.window.tell("Select an object to copy first.")
            return
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
        if len(ids) != 1:
            self.window.tell("Select one object: it is the first on the ring.")
            return
        count = self.ask_number("Copies in a ring", "How many on the ring, with this one?", 6, 2, 500)
        radius = (
            self.ask_number("Copies in a ring", "Its radius, in units?", 80, 1, 10_000) if count else None
        )
        if count and radius:
            level, made = copies_in_ring(self.bench.level, min(ids), count, float(radius))
            self.bench.edit(level, f"copy around a ring of {count}")
            self.bench.select(Selection(frozenset(made) | ids))

    def _ask_number(self, title: str, words: str, value: int, least: int, most: int) -> int | None:
        number, taken = QInputDialog.getInt(self.window, title, words, value, least, most)
        return number if taken else None
