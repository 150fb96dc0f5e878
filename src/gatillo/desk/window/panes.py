"""The panes of the window: one record for each, which layout, keyboard, looks and commands all read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from PySide6.QtWidgets import QWidget

from gatillo.desk.window.commands import Run

Place = Literal["above", "beside", "below", "within"]
"""`above` all others, `beside` one another in the upper half, `below` that, or `within` another pane, which lays it out."""


@dataclass(frozen=True, slots=True)
class Pane:
    """A part of the window. Panes are listed in the order in which Ctrl+Tab goes through them."""

    name: str
    """What it is called in tests."""
    widget: QWidget
    place: Place
    restyle: Callable[[], object]
    """Called after the look (light or dark) or the font has changed."""
    focusable: bool = True
    """Whether Ctrl+Tab stops at it."""
    command: str = ""
    """The checkable command that shows and hides it; "" if it is always shown."""


def shows_and_hides(panes: Sequence[Pane], then: Callable[[], object]) -> dict[str, Run]:
    """Return the commands of panes that can be hidden, by name. Each toggles its pane and calls `then`."""

    def toggle(pane: Pane) -> Run:
        def run() -> None:
            pane.widget.setVisible(pane.widget.isHidden())
            then()

        return run

    return {pane.command: toggle(pane) for pane in panes if pane.command}
