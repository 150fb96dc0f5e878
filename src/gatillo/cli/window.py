"""Starting the window from the command line, on a screen or without one."""

from __future__ import annotations

import gc
import os
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING

from gatillo.cli.console import give_up

if TYPE_CHECKING:
    from gatillo.inspect.expectations import Verdict
    from gatillo.sim.run.run import Run


def has_screen() -> bool:
    """Return whether there is a display to open a window on."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def need_desk() -> None:
    """Give up where the window cannot be made for want of what it needs."""
    if not has_desk():
        give_up('the window needs the desk extra: pip install "gatillo[desk]"')


def open_window(path: Path | None) -> int:
    """Open the window and stay until it is closed; its exit code."""
    need_desk()
    if not has_screen() and "QT_QPA_PLATFORM" not in os.environ:
        give_up("there is no screen to open the window on; try gatillo demo, check or shot")
    # hardly anything that is made on the way to the first paint can be thrown away: looking for it is a tenth of that way
    gc.disable()
    from gatillo.desk.application import start

    return int(start(path))


def has_desk() -> bool:
    """Return whether there is what the window needs, so that a picture of it can be made."""
    return find_spec("PySide6") is not None


def shoot(path: Path, view: str, picture: Path) -> tuple[Run, list[Verdict]]:
    """Save a picture of a view of a level; gives the run that it shows and what became of its expectations.

    Raises ValueError for an unknown view, OSError if it cannot be saved.
    """
    need_desk()
    if not has_screen():
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gatillo.desk.shots import save_shot

    return save_shot(path, view, picture)
