"""Key bars of a trial's input, edited in their lanes: drawn, moved, stretched, split and removed. They snap to ticks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from msgspec.structs import replace
from PySide6.QtCore import QPointF

from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.rows import Row
from gatillo.level import thing_edits
from gatillo.level.model import KeyBar
from gatillo.sim.world.input_script import tick_at

END = 5.0
"""So near to an end of a bar, in pixels, the end is meant."""
FEWEST = 4.0
"""Pixels that the pointer must move before something is dragged."""
Part = Literal["new", "whole", "start", "end"]


@dataclass(slots=True)
class Held:
    """A bar that is being dragged: which part of it, from which tick, and the bars of the trial without it."""

    part: Part
    bar: KeyBar
    others: tuple[KeyBar, ...]
    tick: int
    x: float
    moved: bool = False


class BarDrag:
    """What the pointer does to the bars of the viewed trial's input."""

    def __init__(self, state: ListState, geometry: ListGeometry) -> None:
        self.state, self.geometry = state, geometry
        self.bench = state.bench
        self.held: Held | None = None

    def may_edit(self, row: Row) -> bool:
        """Return whether the bars of a row are the trial's own, one key's, and shown as they are run."""
        own = row.sort == "input" and not row.pale and not row.keys and bool(row.bars)
        return own and self.bench.take is None and not self.bench.player.playing

    def under(self, row: Row, point: QPointF) -> tuple[KeyBar, Part] | None:
        """Return the bar under a point, and which part of it."""
        if not self.may_edit(row):
            return None
        scale, rate = self.geometry.scale, self.bench.program.rate
        best: tuple[float, KeyBar, Part] | None = None
        for bar in row.bars:
            left, right = scale.x(tick_at(bar.start, rate)), scale.x(tick_at(bar.end, rate))
            if not left - END <= point.x() <= right + END:
                continue
            # of a short bar the middle moves it, and its ends lie outside
            inner = min(END, (right - left) / 4)
            ends: tuple[tuple[float, Part], ...] = ((left, "start"), (right, "end"))
            part: Part = "whole"
            for x, name in ends:
                outside = point.x() < left if name == "start" else point.x() > right
                if abs(point.x() - x) <= inner or outside:
                    part = name
            off = max(left - point.x(), point.x() - right, 0.0)
            if best is None or off < best[0]:
                best = off, bar, part
        return best[1:] if best is not None else None

    def take_hold(self, row: Row, point: QPointF) -> bool:
        """Take hold of the bar under a point, or of empty room for a new one. False where bars are not edited."""
        if not self.may_edit(row):
            return False
        found = self.under(row, point)
        tick = max(0, self.geometry.scale.tick(point.x()))
        every = self.bench.trial.input.keys
        if found is None:
            self.choose(None)
            at = tick / self.bench.program.rate
            self.held = Held("new", KeyBar(key=row.bars[0].key, start=at, end=at), every, tick, point.x())
            return True
        bar, part = found
        place = every.index(bar)
        self.held = Held(part, bar, (*every[:place], *every[place + 1 :]), tick, point.x())
        self.choose(bar)
        return True

    def choose(self, bar: KeyBar | None) -> None:
        """Make a bar the one that Del, Shift with arrows and the menu are about."""
        self.state.chosen_bar = bar
        self.state.currentChanged.emit()

    def pull(self, x: float) -> None:
        """The bar follows the pointer, and the run the bar."""
        held = self.held
        assert held is not None
        if not held.moved and abs(x - held.x) < FEWEST:
            return
        if not held.moved:
            self.bench.begin_live()
        held.moved = True
        rate = self.bench.program.rate
        last = round(self.bench.trial.length * rate)
        tick = min(max(0, self.geometry.scale.tick(x)), last)
        start, end = tick_at(held.bar.start, rate), tick_at(held.bar.end, rate)
        if held.part == "new":
            start, end = sorted((held.tick, tick))
        elif held.part == "start":
            start = min(tick, end)
        elif held.part == "end":
            end = max(tick, start)
        else:
            by = max(-start, min(tick - held.tick, last - end))
            start, end = start + by, end + by
        bar = replace(held.bar, start=start / rate, end=end / rate)
        words = {"new": "hold", "whole": "move", "start": "press", "end": "release"}[held.part]
        self._put(bar, held.others, f"{words} {bar.key}", join="drag a key bar")

    def let_go(self) -> bool:
        """Return the button went up; False where nothing was dragged."""
        held, self.held = self.held, None
        if held is None or not held.moved:
            return False
        self.bench.end_live()
        return True

    def _put(self, bar: KeyBar | None, others: tuple[KeyBar, ...], label: str, join: str = "") -> None:
        trial = self.bench.trial.name
        bars = (*others, bar) if bar is not None else others
        self.state.chosen_bar = bar
        self.bench.edit(
            thing_edits.set_bars(self.bench.level, trial, bars), f"{label} in “{trial}”", join=join
        )

    # by keys and commands

    def _chosen(self) -> tuple[KeyBar, tuple[KeyBar, ...]] | None:
        bar, every = self.state.chosen_bar, self.bench.trial.input.keys
        if bar is None or bar not in every:
            return None
        place = every.index(bar)
        return bar, (*every[:place], *every[place + 1 :])

    def nudge(self, by: int, *, end_only: bool) -> bool:
        """Move the chosen bar by ticks, or its end alone; False where none is chosen."""
        found = self._chosen()
        if found is None:
            return False
        bar, others = found
        rate = self.bench.program.rate
        start, end = tick_at(bar.start, rate), tick_at(bar.end, rate)
        start, end = (
            (start, max(start, end + by))
            if end_only
            else (max(0, start + by), max(0, start + by) + end - start)
        )
        self._put(
            replace(bar, start=start / rate, end=end / rate),
            others,
            f"move {bar.key}",
            join="nudge a key bar",
        )
        return True

    def remove(self) -> bool:
        """Remove the chosen bar; False where none is chosen."""
        found = self._chosen()
        if found is not None:
            self._put(None, found[1], f"no longer press {found[0].key}")
        return found is not None

    def split(self) -> bool:
        """Split the chosen bar at the cursor: the key is let go there and pressed again a tick later."""
        found = self._chosen()
        if found is None:
            return False
        bar, others = found
        rate, tick = self.bench.program.rate, self.bench.cursor.tick
        start, end = tick_at(bar.start, rate), tick_at(bar.end, rate)
        if not start < tick < end:
            self.bench.notify("Put the cursor within the key's bar first: it is split there.")
            return True
        first = replace(bar, end=tick / rate)
        self._put(replace(bar, start=(tick + 1) / rate), (*others, first), f"split {bar.key}")
        return True
