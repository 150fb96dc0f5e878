"""Commands for work without a pointer: going from pane to pane, and adding an object to the level."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QScrollArea, QWidget

from gatillo.desk.session.workbench import Workbench


class KeyboardCommands:
    """Goes through the parts of the window in the order in which they stand."""

    def __init__(self, bench: Workbench, put: Callable[[str], None], parts: Sequence[QWidget]) -> None:
        self.bench = bench
        self.put = put
        """Puts an object of a kind into the level."""
        self.parts = parts

    def runs(self) -> dict[str, Callable[[], object]]:
        """Return the commands, by their names in the table."""
        return {
            "next part": lambda: self.go(1),
            "previous part": lambda: self.go(-1),
            "put object": self.put_object,
        }

    def go(self, by: int) -> None:
        """Give the keyboard to the next part that is shown, or the one before."""
        parts = [part for part in self.parts if part.isVisible()]
        here = QApplication.focusWidget()
        at = next((n for n, part in enumerate(parts) if here is not None and _holds(part, here)), 0)
        for step in range(1, len(parts) + 1):
            part = parts[(at + by * step) % len(parts)]
            field = _first_of(part)
            if field is not None:
                field.setFocus(Qt.FocusReason.TabFocusReason)
                return

    def put_object(self) -> None:
        """Put an object of the kind at hand in the middle of what is seen, ready to be moved by arrow keys."""
        bench = self.bench
        chosen, kinds = bench.selection, [kind.name for kind in bench.level.kinds]
        of_objects = [o.kind for o in bench.level.objects if o.id in chosen.objects]
        named = [chosen.thing.name] if chosen.thing is not None and chosen.thing.sort == "kind" else []
        kind = next((name for name in (*named, *of_objects, *kinds) if name in kinds), None)
        if kind is None:
            bench.notify("There is no kind yet: make one first, with New kind.")
            return
        self.put(kind)


def _holds(part: QWidget, widget: QWidget) -> bool:
    return part is widget or part.isAncestorOf(widget)


def _first_of(part: QWidget) -> QWidget | None:
    """Return what takes the keyboard in a part: itself, or the first in it that Tab comes to."""
    if part.focusPolicy() & Qt.FocusPolicy.TabFocus and not isinstance(part, QScrollArea):
        return part
    fields = [
        child
        for child in part.findChildren(QWidget)
        if child.isVisible() and child.isEnabled() and child.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]
    return fields[0] if fields else None
