"""Moments of a run for the window: worked out at once if the run is quick, else in a worker."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.sim.run.run import Cursor, Run, Witnessed
from gatillo.sim.world.world import World

AT_ONCE = 0.04
"""Seconds up to which the window works a moment out itself; what takes longer is asked of the worker."""


class Moments(QObject):
    """What a run is like at the cursor. While the worker is at it, what was shown last stays."""

    came = Signal()
    """What was awaited is there."""

    def __init__(self, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._worker = Worker("moment", gate, self)
        self._asked: tuple[Run, Cursor] | None = None
        self._run: Run | None = None
        self._cursor = Cursor()
        self._world: World | None = None
        self._seen: list[Witnessed] = []

    @property
    def awaited(self) -> bool:
        """Whether a moment is being worked out."""
        return self._worker.busy

    def forget(self) -> None:
        """Another level is on the bench: nothing of what was shown stays."""
        self._worker.drop()
        self._asked = self._run = self._world = None
        self._seen = []

    def is_at_hand(self, run: Run, cursor: Cursor) -> bool:
        """Return whether the moment can be had without waiting; if not, it is asked for."""
        if run.seconds_to(cursor) <= AT_ONCE or self._has(run, cursor):
            return True
        self._ask(run, cursor)
        return False

    def world(self, run: Run, cursor: Cursor) -> World:
        """Return the state at a moment; what was shown last while it is not at hand."""
        if self._has(run, cursor):
            assert self._world is not None
            return self._world
        if run.seconds_to(cursor) <= AT_ONCE:
            return run.world_at(cursor)
        self._ask(run, cursor)
        return self._world if self._world is not None else run.keyframes[0]

    def witnessed(self, run: Run, cursor: Cursor) -> list[Witnessed]:
        """Return the firings of the cursor's tick in full; none while they are not at hand."""
        if self._has(run, cursor):
            return self._seen
        if run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace <= AT_ONCE:
            return run.witness(cursor.tick)
        self._ask(run, cursor)
        return []

    def close(self) -> None:
        """Stop the worker."""
        self._worker.close()

    def _has(self, run: Run, cursor: Cursor) -> bool:
        return self._run is run and self._cursor == cursor

    def _ask(self, run: Run, cursor: Cursor) -> None:
        if self._worker.busy and self._asked == (run, cursor):
            return
        self._asked = (run, cursor)

        def work(job: Job) -> tuple[Run, Cursor, World, list[Witnessed]]:
            return run, cursor, run.world_at(cursor, job.go_on), run.witness(cursor.tick, job.go_on)

        self._worker.ask(work, self._on_found)

    def _on_found(self, found: tuple[Run, Cursor, World, list[Witnessed]]) -> None:
        self._run, self._cursor, self._world, self._seen = found
        self.came.emit()
