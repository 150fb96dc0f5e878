"""A graph of 500 cards and 800 wires in the window: opening, panning, zooming, dragging, tidying: `python -m benchmarks.graph_page`."""

from __future__ import annotations

import os
import random
import statistics
import time
from collections.abc import Callable

from PySide6.QtCore import QPointF, QSettings
from PySide6.QtWidgets import QApplication
from rich.console import Console
from rich.table import Table

from benchmarks.graphs import level
from gatillo.desk.application import make_application
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.level.model import Graph, Node, Wire

CARDS, WIRES = 500, 800
FRAMES = 60


def large() -> Graph:
    """Five hundred cards in layers, with eight hundred wires downwards."""
    chance = random.Random(1)
    nodes = [Node(id=1, use="every_tick", at=(0.0, 0.0))]
    for number in range(2, CARDS + 1):
        slots = {"formula": f"level.n < {number} and time > 1"}
        at = (float(number % 20) * 380.0, float(number // 20) * 120.0)
        nodes.append(Node(id=number, use="formula_holds", slots=slots, at=at))
    wires = [
        Wire(start=f"{max(1, n - 20)}{'' if n <= 21 else '.yes'}", end=str(n)) for n in range(2, CARDS + 1)
    ]
    while len(wires) < WIRES:
        start = chance.randrange(2, CARDS - 25)
        wires.append(Wire(start=f"{start}.no", end=str(start + chance.randrange(15, 25))))
    return Graph(id=10, name="large", nodes=tuple(nodes), wires=tuple(wires))


def worst(deed: Callable[[], object], times: int) -> tuple[float, float]:
    """Milliseconds of a deed: the median, and the longest of nineteen in twenty."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        deed()
        found.append((time.perf_counter() - start) * 1e3)
    return statistics.median(found), sorted(found)[int(len(found) * 0.95)]


def measure() -> None:
    """Measure, and print a table."""
    make_application()
    settings = QSettings("gatillo-bench", "nothing-kept")
    settings.clear()
    bench = Workbench()
    window = MainWindow(bench, settings)
    window.resize(1280, 800)
    window.show()
    made = level(3, (large(),))
    bench.document.take(made)
    bench.edit(made, "nothing")
    for _ in range(20):
        QApplication.processEvents()
    view, commands = window.graph_page.view, window.graph_page.commands

    def opening() -> None:
        commands.opened.forget()
        commands.opened.graph_id = None
        view._places.clear()
        window.region.open_graph(10)
        view.grab()

    table = Table("a graph of 500 cards and 800 wires", "ms, median", "19 of 20", "aim")
    once = worst(opening, 5)
    table.add_row("opened and painted", f"{once[0]:.0f}", f"{once[1]:.0f}", "under 300")

    def pan(zoom: float) -> Callable[[], None]:
        def step() -> None:
            view.zoom = zoom
            view.corner += QPointF(23, 11)
            view.repaint()

        return step

    for zoom, words in ((1.0, "panned at 100 %, a frame"), (0.2, "all of it in sight, panned, a frame")):
        view.corner = QPointF(200, 200)
        found = worst(pan(zoom), FRAMES)
        table.add_row(words, f"{found[0]:.1f}", f"{found[1]:.1f}", "under 16")
    zooms = iter([0.2 + 0.012 * n for n in range(FRAMES + 1)])

    def zoom() -> None:
        view.set_zoom(next(zooms))
        view.repaint()

    found = worst(zoom, FRAMES)
    table.add_row("zoomed from 20 to 90 %, a frame", f"{found[0]:.1f}", f"{found[1]:.1f}", "under 16")
    view.zoom, view.corner = 1.0, QPointF(200, 200)
    commands.opened.choose({60})
    offs = iter(range(1, FRAMES + 2))

    def carry() -> None:
        commands.opened.sheet({60: QPointF(next(offs), 3)})
        view.repaint()

    found = worst(carry, FRAMES)
    table.add_row("a card carried, a frame", f"{found[0]:.1f}", f"{found[1]:.1f}", "under 16")
    found = worst(commands.cards.tidy, 3)
    table.add_row("tidied", f"{found[0]:.0f}", f"{found[1]:.0f}", "under 500")
    Console(highlight=False).print(table)
    settings.clear()
    bench.document.history.mark_saved(bench.level)
    window.close()


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    measure()
