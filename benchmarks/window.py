"""How long the window's event loop is held at most, on levels made to hold it: `python -m benchmarks.window`.

A timer asks to be called all the time; the longest it had to wait, beside what the loop does anyway, is told for each deed.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QSettings, QTimer
from PySide6.QtWidgets import QApplication
from rich.console import Console
from rich.table import Table

from gatillo.desk.application import make_application
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.files.level_file import write_level
from gatillo.level import edits
from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Kind,
    Level,
    Object,
    Rule,
    Settings,
    Trial,
)

SECONDS = 25.0
"""After which a deed that is still not over is given up."""


def _level(objects: tuple[Object, ...], *rules: Rule, kinds: tuple[Kind, ...], seconds: float = 0.5) -> Level:
    return Level(
        format=FORMAT_VERSION,
        name="Many",
        settings=Settings(),
        kinds=kinds,
        objects=objects,
        order=rules,
        trials=(Trial("t", seconds),),
    )


def _rule(name: str, when: Clause, do: Clause, **more: object) -> Rule:
    return Rule(id=1, name=name, when=(when,), do=(do,), **more)  # type: ignore[arg-type]


def _say(who: str) -> Clause:
    return Clause("say", {"text": "here", "who": who, "time": "1"})


def _pods(n: int, spread: float, **more: object) -> tuple[Object, ...]:
    spots = np.random.default_rng(1).uniform(-spread, spread, (n, 2)).round(2).tolist()
    return tuple(Object(i + 1, "Pod", f"Pod {i + 1}", x, y, **more) for i, (x, y) in enumerate(spots))  # type: ignore[arg-type]


def hostile() -> dict[str, Level]:
    """Levels that ask for as much as a level may."""
    plain = Kind("Pod", Circle(4.0), contact="none")
    solid = replace(plain, contact="movable")
    flock = replace(plain, behaviours=(Clause("flock"),))
    each = Clause("every_tick")
    tagged = tuple(replace(o, tags=(f"tag {o.id}",)) for o in _pods(20_000, 2_000.0))
    cone = {"b": "another Pod", "distance": "140", "angle": "45", "a": "Pod"}
    seen = replace(_rule("r", each, _say("Pod")), if_=(Clause("in_cone", cone),))
    return {
        "20,000 objects with 20,000 tags": _level(tagged, _rule("r", each, _say("Pod")), kinds=(plain,)),
        "2,000 movables at a point": _level(_pods(2_000, 0.0), kinds=(solid,)),
        "20,000 in a cone": _level(_pods(20_000, 500.0), seen, kinds=(plain,)),
        "3,000 in a flock at a point": _level(_pods(3_000, 1.0), kinds=(flock,)),
    }


class Watch:
    """Notes how long the event loop was held at most."""

    def __init__(self) -> None:
        self.longest = 0.0
        self._last = time.perf_counter()
        self._timer = QTimer()
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._on_turn)
        self._timer.start()

    def _on_turn(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self._last)
        self._last = now

    def during(self, deed: Callable[[], object], until: Callable[[], bool] = lambda: True) -> float:
        """The longest hold while something is done, in seconds."""
        QApplication.processEvents()
        self._last, self.longest = time.perf_counter(), 0.0
        end = self._last + SECONDS
        deed()
        self._on_turn()
        while not until() and time.perf_counter() < end:
            QApplication.processEvents()
        for _ in range(50):
            QApplication.processEvents()
        return self.longest


def deeds(window: MainWindow, path: Path) -> dict[str, tuple[Callable[[], object], Callable[[], bool]]]:
    """What is done with a level, and when it is over."""
    bench = window.bench

    def whole() -> bool:
        return (
            bench.run.program is bench.program and bench.run.done >= bench.run.length and bool(bench.run.done)
        )

    def nudge() -> None:
        level = bench.level
        first = level.objects[0]
        bench.edit(edits.move_objects(level, frozenset([first.id]), 3.0, 0.0), "move it")

    start = {"at": 0.0}

    def play() -> None:
        start["at"] = time.perf_counter()
        bench.player.play()

    return {
        "open": (lambda: window.open_path(path, asked=True), lambda: bench.path == path and whole()),
        "look at the middle": (
            lambda: bench.move_cursor(bench.run.end_of(bench.run.done // 2 + 7)),
            lambda: True,
        ),
        "zoom to all": (window.level_view.fit, lambda: True),
        "edit": (nudge, whole),
        "play for 3 s": (play, lambda: time.perf_counter() - start["at"] > 3),
        "stop": (bench.player.stop, whole),
        "save": (lambda: bench.document.save(path), lambda: not bench.document.history.unsaved),
    }


def main() -> None:
    """Measure and print."""
    out = Console(highlight=False)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application = make_application()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["GATILLO_STATE"] = folder
        table = Table("longest hold of the event loop, ms; aim: 200", *deeds_named())
        for name, level in hostile().items():
            path = Path(folder) / "many.gatillo"
            write_level(path, level)
            settings = QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat)
            window = MainWindow(Workbench(), settings)
            window.files.ask = lambda *_: "discard"  # type: ignore[method-assign]
            window.resize(1280, 800)
            window.show()
            watch = Watch()
            found = [watch.during(*deed) for deed in deeds(window, path).values()]
            table.add_row(name, *(f"{seconds * 1e3:.0f}" for seconds in found))
            window.close()
            application.processEvents()
    out.print(table)


def deeds_named() -> list[str]:
    """The deeds' names, in order."""
    return ["open", "look at the middle", "zoom to all", "edit", "play for 3 s", "stop", "save"]


if __name__ == "__main__":
    main()
