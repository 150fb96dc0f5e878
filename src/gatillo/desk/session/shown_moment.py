"""The moment that is shown: the cursor, and the state of the level there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.moment_cache import AT_ONCE, Moments
from gatillo.desk.session.shown_run import ShownRun
from gatillo.desk.session.worker import Gate
from gatillo.sim.run.run import Cursor, Run, Witnessed
from gatillo.sim.world.world import World


class ShownMoment(QObject):
    """The cursor in the shown run."""

    moved = Signal()
    """The cursor has moved, or the state at the cursor has been worked out."""
    ready = Signal()
    """The state at the cursor has been worked out."""
    notified = Signal(str)

    def __init__(self, shown: ShownRun, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.cursor = Cursor()
        self.pause: Callable[[], object] = lambda: None
        """Called before the cursor is moved by hand: what runs is paused."""
        self.goes_on: Callable[[], bool] = lambda: False
        """Whether the run is running or being played."""
        self._shown = shown
        self._moments = Moments(gate, self)
        self._moments.came.connect(self._on_ready)
        self._pulled: tuple[Run, Cursor, dict[tuple[int, int], Any]] | None = None
        """The values of cards at the cursor, once they have been asked for."""

    def reset(self) -> None:
        """Go to the start of another run and forget the states of the one before."""
        self._moments.forget()
        self.cursor = Cursor()

    def close(self) -> None:
        """Stop the worker."""
        self._moments.close()

    def _on_ready(self) -> None:
        self.moved.emit()
        self.ready.emit()

    # the state there

    @property
    def world(self) -> World:
        """The state at the cursor; the last one that was shown while a slow run is replayed for it."""
        # while a shortened run is made again the cursor can stand beyond it
        run = self._shown.run
        beyond = self.cursor.tick > run.done
        return self._moments.world(run, run.end_of(run.done) if beyond else self.cursor)

    @property
    def awaited(self) -> bool:
        """Whether the state at the cursor is still being worked out."""
        return self._moments.awaited

    def world_at_end(self, tick: int) -> World | None:
        """Return the state at the end of a tick; None where it must be worked out first, which begins then."""
        run = self._shown.run
        end = run.end_of(tick)
        return self._moments.world(run, end) if self._moments.is_at_hand(run, end) else None

    def witnessed(self) -> list[Witnessed]:
        """Return the firings of the cursor's tick in full; none while a slow run is replayed for them, or the run goes on."""
        return [] if self.goes_on() else self._moments.witnessed(self._shown.run, self.cursor)

    def pulled(self) -> dict[tuple[int, int], Any]:
        """Return the values that cards gave in the cursor's tick up to it; none while the run goes on or where it is slow."""
        run, cursor = self._shown.run, self.cursor
        if self.goes_on():
            # those of the frame, if a graph wanted them
            return self._pulled[2] if self._pulled is not None and self._pulled[:2] == (run, cursor) else {}
        if not 1 <= cursor.tick <= run.done:
            return {}
        if run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace > AT_ONCE:
            return {}
        if self._pulled is None or self._pulled[0] is not run or self._pulled[1] != cursor:
            self._pulled = (run, cursor, run.pulled_at(cursor))
        return self._pulled[2]

    def give_pulled(self, run: Run, given: dict[tuple[int, int], Any]) -> None:
        """Give `pulled` what cards gave in the last tick of a run that goes on."""
        self._pulled = (run, run.end_of(run.done), given)

    def pull_at_end(self, run: Run, tick: int) -> None:
        """Work out for `pulled` what cards gave in a tick that a run has passed, and the state at its end."""
        if 1 <= tick <= run.done:
            cursor = run.end_of(tick)
            self._pulled = (run, cursor, run.pulled_at(cursor))

    # moving the cursor

    def move(self, cursor: Cursor | None) -> None:
        """Pause, and put the cursor at a moment of the run; None leaves it."""
        if cursor is not None:
            self.pause()
            self.put(cursor)

    def put(self, cursor: Cursor) -> None:
        """Put the cursor at a moment, or at the last one that the run has come to."""
        run = self._shown.run
        tick = min(cursor.tick, run.done)
        count = run.trace.count_at(tick)
        position = min(cursor.position, count) if tick == cursor.tick else count
        self.cursor = Cursor(tick, position, cursor.step if tick == cursor.tick else 0)
        self.moved.emit()

    def to_start(self) -> None:
        """Put the cursor before the first tick."""
        self.move(Cursor())

    def to_end(self) -> None:
        """Put the cursor at the end of the run."""
        self.move(self._shown.run.end_of(self._shown.run.done))

    def step_tick(self, by: int) -> None:
        """Go some ticks on or back, to the end of the tick."""
        self.move(self._shown.run.end_of(self.cursor.tick + by))

    def step_firing(self, by: int) -> None:
        """Go one firing on (by = 1) or back (by = -1)."""
        run = self._shown.run
        found = (run.next_firing if by > 0 else run.previous_firing)(self.cursor)
        if found is None:
            self.notified.emit(
                "Nothing fires after this moment." if by > 0 else "Nothing fired before this moment."
            )
        self.move(found)

    def step_within(self, by: int) -> None:
        """Go one step on (by = 1) or back (by = -1): an action's line, or a card of a graph."""
        run = self._shown.run
        found = (run.next_step if by > 0 else run.previous_step)(self.cursor)
        if found is None:
            self.notified.emit("No step follows this moment." if by > 0 else "No step precedes this moment.")
        self.move(found)
