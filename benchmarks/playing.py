"""Night shift while it is played, with a graph of 40 cards in sight: how long a picture takes: `python -m benchmarks.playing`."""

from __future__ import annotations

import statistics
import time
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from rich.console import Console
from rich.table import Table

import gatillo.examples
from gatillo.desk.application import make_application
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.files.level_file import read_level
from gatillo.level.model import Graph, Node, Wire

CARDS, PICTURES = 40, 240
WITHIN = 1000 / 30
"""Milliseconds of a picture at 30 pictures a second."""


def forty_cards() -> Graph:
    """A graph of forty cards that all run in every tick, with wires of values."""
    nodes = [Node(id=1, use="each_in_every_tick", slots={"who": "Moth"}, at=(0.0, 0.0))]
    for number in range(2, CARDS - 3):
        at = (float((number - 2) % 6) * 260.0, 90.0 + float((number - 2) // 6) * 90.0)
        nodes.append(
            Node(id=number, use="formula_holds", slots={"formula": f"Moth.x > {number - 100}"}, at=at)
        )
    wires = [Wire(start="1" if n <= 7 else f"{n - 6}.yes", end=str(n)) for n in range(2, CARDS - 3)]
    for number in range(CARDS - 3, CARDS + 1):
        at = (float(number - CARDS + 3) * 260.0, 720.0)
        nodes.append(Node(id=number, use="formula", slots={"value": f"Moth.x + {number}"}, at=at))
    nodes[12] = replace(nodes[12], use="turn_by", slots={"who": "Moth", "angle": "0"})
    wires = [w for w in wires if w.start != "13.yes"]
    values = (Wire(start=str(CARDS), end="13.angle"),)
    return Graph(id=9_001, name="forty cards", nodes=tuple(nodes), wires=tuple(wires), values=values)


def pictures(window: MainWindow, ticks: int) -> list[float]:
    """Return how many milliseconds each picture took: ticks run, and everything in sight painted."""
    found = []
    for _ in range(PICTURES):
        start = time.perf_counter()
        window.bench.player.go_on(ticks)
        QApplication.processEvents()
        found.append((time.perf_counter() - start) * 1e3)
    return found


def whole_run(bench: Workbench) -> None:
    """Wait until the trial's run is whole and judged."""
    while bench.shown.judged is not bench.run or bench.run.program is not bench.program:
        QApplication.processEvents()
        time.sleep(0.02)
    # what the workers do when they are idle is over then
    end = time.perf_counter() + 1.5
    while time.perf_counter() < end:
        QApplication.processEvents()
        time.sleep(0.02)


def measure() -> None:
    """Measure, and print a table."""
    make_application()
    settings = QSettings("gatillo-bench", "nothing-kept")
    settings.clear()
    whole = read_level(Path(gatillo.examples.__file__).parent / "night-shift.gatillo")
    bench = Workbench()
    window = MainWindow(bench, settings)
    window.resize(1280, 800)
    window.show()
    bench.document.take(replace(whole, order=(*whole.order, forty_cards())))
    window._leave_start()
    whole_run(bench)
    table = Table("Night shift, 1280 × 800, in milliseconds", "a picture, median", "19 of 20", "aim")
    for graph, words in ((None, "level and list"), (9_001, "level, list and a graph of 40 cards")):
        if graph is not None:
            window.region.open_graph(graph)
            window.graph_page.view.fit()
        for mode, begin in (("played", window.play), ("run", bench.player.toggle_run)):
            bench.moment.to_start()
            begin()
            bench.player._clock.stop()
            took = pictures(window, 2)
            bench.player.stop()
            bench.show_script()
            window.message.hide()
            whole_run(bench)
            table.add_row(
                f"{words}, {mode}, 2 ticks a picture",
                f"{statistics.median(took):.1f}",
                f"{sorted(took)[int(0.95 * len(took))]:.1f}",
                f"under {WITHIN:.0f}",
            )
    Console(highlight=False, width=110).print(table)
    settings.clear()
    bench.document.history.mark_saved(bench.level)
    window.close()


if __name__ == "__main__":
    measure()
