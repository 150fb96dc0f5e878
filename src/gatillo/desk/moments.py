"""Moments of a run for the window: worked out at once where the run is quick, else in a worker."""

from __future__ import annotations

import sys
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from threading import Event
from typing import Any

from PySide6.QtCore import QObject, Signal

from gatillo.sim.run import Cursor, Run, Witnessed
from gatillo.sim.world import World

AT_ONCE = 0.08
"""Seconds up to which the window works a moment out itself; what takes longer is asked of the worker."""


class Superseded(Exception):
    """Raised within the worker when what it works out is not wanted any more."""


class _Signals(QObject):
    found = Signal(int, object)


class Worker(QObject):
    """One thing at a time in a thread of its own; the newest request drops the one before.

    The answer is told in the window's thread.
    """

    def __init__(self, name: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(1, name)
        self._signals = _Signals(self)
        self._signals.found.connect(self._on_found)
        self._serial = 0
        self._dropped = Event()
        self._told: Callable[[Any], None] | None = None

    @property
    def busy(self) -> bool:
        """Whether an answer is still awaited."""
        return self._told is not None

    def ask(self, work: Callable[[Callable[[], bool]], Any], told: Callable[[Any], None]) -> None:
        """Do some work; `told` gets its result. The work is given a question to ask now and then: whether to give up."""
        self.drop()
        self._serial += 1
        serial, dropped = self._serial, Event()
        self._dropped, self._told = dropped, told

        def do() -> None:
            if dropped.is_set():
                return
            try:
                result = work(dropped.is_set)
            except Superseded:
                return
            if not dropped.is_set():
                self._signals.found.emit(serial, result)

        self._pool.submit(do).add_done_callback(_raise)

    def drop(self) -> None:
        """What was asked is not wanted any more."""
        self._dropped.set()
        self._told = None

    def close(self) -> None:
        """Let the worker end, and wait until it has."""
        self.drop()
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _on_found(self, serial: int, result: Any) -> None:
        told = self._told
        if serial == self._serial and told is not None:
            self._told = None
            told(result)


def _raise(done: Future[None]) -> None:
    # a worker's error would else be lost in its future
    if not done.cancelled() and (error := done.exception()) is not None:
        sys.excepthook(type(error), error, error.__traceback__)


class Moments(QObject):
    """What a run is like at the cursor. While the worker is at it, what was shown last stays."""

    came = Signal()
    """What was awaited is there."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._worker = Worker("moment", self)
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
        """Whether the moment can be had without waiting; if not, it is asked for."""
        if run.seconds_to(cursor) <= AT_ONCE or self._is_kept(run, cursor):
            return True
        self._ask(run, cursor)
        return False

    def world(self, run: Run, cursor: Cursor) -> World:
        """The state at a moment; what was shown last while it is not at hand."""
        if self._is_kept(run, cursor):
            assert self._world is not None
            return self._world
        if run.seconds_to(cursor) <= AT_ONCE:
            return run.world_at(cursor)
        self._ask(run, cursor)
        return self._world if self._world is not None else run.keyframes[0]

    def witnessed(self, run: Run, cursor: Cursor) -> list[Witnessed]:
        """The firings of the cursor's tick in full; none while they are not at hand."""
        if self._is_kept(run, cursor):
            return self._seen
        if run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace <= AT_ONCE:
            return run.witness(cursor.tick)
        self._ask(run, cursor)
        return []

    def close(self) -> None:
        """Let the worker end."""
        self._worker.close()

    def _is_kept(self, run: Run, cursor: Cursor) -> bool:
        return self._run is run and self._cursor == cursor

    def _ask(self, run: Run, cursor: Cursor) -> None:
        if self._worker.busy and self._asked == (run, cursor):
            return
        self._asked = (run, cursor)

        def work(dropped: Callable[[], bool]) -> tuple[Run, Cursor, World, list[Witnessed]]:
            def between() -> None:
                if dropped():
                    raise Superseded

            world = run.world_at(cursor, between)
            return run, cursor, world, run.witness(cursor.tick, between)

        self._worker.ask(work, self._on_found)

    def _on_found(self, found: tuple[Run, Cursor, World, list[Witnessed]]) -> None:
        self._run, self._cursor, self._world, self._seen = found
        self.came.emit()
