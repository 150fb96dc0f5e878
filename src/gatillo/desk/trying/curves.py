"""The watched formulas of all tried values in one plot: a curve for each, over several seeds with its spread."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg  # type: ignore[import-untyped]
from numpy.typing import NDArray
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from gatillo.desk.looks.theme import kind_colour, theme, with_alpha
from gatillo.inspect.sweep.outcomes import Outcome
from gatillo.level.thing_edits import COLOURS


class Curves(QWidget):
    """One plot over time. A line across it marks the common moment and can be dragged."""

    moved = Signal(float)
    """The line was dragged, to a time in seconds."""

    def __init__(self) -> None:
        super().__init__()
        self.plot = pg.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.setAccessibleName("What is watched, over time, a curve for each value")
        self._legend = self.plot.addLegend(offset=(8, 4))
        self._line = pg.InfiniteLine(angle=90, movable=True)
        self._line.sigPositionChanged.connect(lambda line: self.moved.emit(float(line.value())))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.plot)
        self.restyle()

    def restyle(self) -> None:
        """Take the colours of the look that is chosen."""
        t = theme()
        self.plot.setBackground(t.panel)
        for name in ("bottom", "left"):
            self.plot.getAxis(name).setPen(t.quiet)
            self.plot.getAxis(name).setTextPen(t.ink)
        self._legend.setLabelTextColor(t.ink)
        self._line.setPen(t.cursor, width=2)

    def show_curves(self, label: str, cases: list[tuple[str, list[Outcome]]], watch: int) -> None:
        """Show one watch: of each combination of values, its words and its runs with each seed."""
        self.plot.clear()
        self._legend.clear()
        self.plot.addItem(self._line)
        self.plot.setLabel("bottom", "seconds")
        self.plot.setLabel("left", label)
        for number, (words, outcomes) in enumerate(cases):
            runs = [one for one in outcomes if not one.problem and watch < len(one.watched)]
            if not runs:
                continue
            middle, low, high, seconds = _over_seeds(runs, watch)
            colour = kind_colour(COLOURS[number % len(COLOURS)])
            self.plot.plot(seconds, middle, pen=pg.mkPen(colour, width=2), name=words, connect="finite")
            if len(runs) > 1:
                edges = [self.plot.plot(seconds, edge, pen=None) for edge in (low, high)]
                self.plot.addItem(pg.FillBetweenItem(*edges, brush=with_alpha(colour, 0.18)))

    def show_time(self, seconds: float) -> None:
        """Put the line at another time."""
        if abs(self._line.value() - seconds) > 1e-6:
            self._line.blockSignals(True)
            self._line.setValue(seconds)
            self._line.blockSignals(False)


def _over_seeds(
    runs: list[Outcome], watch: int
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Return the mean of a watch over some runs, one standard deviation below and above it, and the times in seconds."""
    many = max(len(one.watched[watch]) for one in runs)
    table = np.full((len(runs), many), np.nan)
    for at, one in enumerate(runs):
        values = [np.nan if v is None else v for v in one.watched[watch]]
        table[at, : len(values)] = values
    known = np.sum(np.isfinite(table), axis=0)
    with np.errstate(all="ignore"):
        middle = np.nansum(table, axis=0) / np.where(known, known, np.nan)
        off = np.sqrt(np.nansum((table - middle) ** 2, axis=0) / np.where(known, known, np.nan))
    return middle, middle - off, middle + off, np.arange(many) / runs[0].rate
