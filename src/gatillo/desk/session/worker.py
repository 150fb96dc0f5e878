"""Work beside the window: in a thread each, reported in the window's thread, dropped when something newer is wanted."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from threading import Event, Lock
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

HELD_AT_MOST = 0.2
"""Seconds for which a worker stands aside at most, whatever the window does."""


class Dropped(Exception):
    """Raised within a job that is not wanted any more."""


class Gate:
    """Shut while the window paints: beside a worker every Qt call of a paint would wait for the interpreter."""

    def __init__(self) -> None:
        self._open = Event()
        self._open.set()
        self._shut = 0

    @contextmanager
    def shut(self) -> Iterator[None]:
        """Return a context in which the workers wait."""
        self._shut += 1
        self._open.clear()
        try:
            yield
        finally:
            self._shut -= 1
            if not self._shut:
                self._open.set()

    def shut_until_painted(self) -> None:
        """Make the workers wait until the window has painted what has been updated."""
        held = ExitStack()
        held.enter_context(self.shut())
        QTimer.singleShot(0, held.close)

    def wait(self) -> None:
        """Wait until it is open, though not for long."""
        self._open.wait(HELD_AT_MOST)


class Job:
    """What the work of a worker holds: it reports what it found, and asks whether to go on."""

    def __init__(self, gate: Gate, tell: Callable[[Job, Any, bool], None]) -> None:
        self._gate = gate
        self._tell = tell
        self._lock = Lock()
        self._dropped = False

    def report(self, found: Any, *, last: bool = False) -> None:
        """Tell the window something, in its own thread; nothing when the job was dropped."""
        with self._lock:
            if not self._dropped:
                self._tell(self, found, last)

    def drop(self) -> None:
        """Cancel the job: from now on nothing is reported."""
        with self._lock:
            self._dropped = True

    def stand_aside(self) -> None:
        """To be called now and then by what must be done to its end."""
        self._gate.wait()

    def is_dropped(self) -> bool:
        """Return True once this job is cancelled. Call it between ticks; it blocks for up to 0.2 s while the window paints."""
        self._gate.wait()
        return self._dropped

    def go_on(self) -> None:
        """Like `is_dropped`, but raise `Dropped` instead of returning True."""
        if self.is_dropped():
            raise Dropped


class Worker(QObject):
    """A thread that does one thing at a time; asking for another drops the one before.

    A job that raises is over: its error goes to `sys.excepthook`, in the window's thread, and `failed` says so.
    """

    failed = Signal()
    _found = Signal(object, object, bool)
    _broke = Signal(object, object)

    def __init__(self, name: str, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = ThreadPoolExecutor(1, name)
        self._gate = gate
        self._job: Job | None = None
        self._show: Callable[[Any], None] | None = None
        self._closed = False
        self._found.connect(self._on_found)
        self._broke.connect(self._on_broke)

    @property
    def busy(self) -> bool:
        """Whether an answer is still awaited."""
        return self._job is not None

    def ask(self, work: Callable[[Job], Any], show: Callable[[Any], None]) -> None:
        """Do some work. `show` is called with what it reports on the way and with what it returns, in the window's thread."""
        self.drop()
        job = Job(self._gate, self._found.emit)
        self._job, self._show = job, show

        def do() -> None:
            if job.is_dropped():
                return
            try:
                job.report(work(job), last=True)
            except Dropped:
                return
            except BaseException as error:
                self._broke.emit(job, error)

        self._pool.submit(do).add_done_callback(_raise)

    def when_idle(self, work: Callable[[Callable[[], bool]], object]) -> None:
        """Run low-priority work, which stops once a job is started. `work` must call its argument now and then: whether to go on."""

        def go_on() -> bool:
            self._gate.wait()
            return self._job is None and not self._closed

        self._pool.submit(lambda: work(go_on)).add_done_callback(_raise)

    def drop(self) -> None:
        """What was asked is not wanted any more."""
        if self._job is not None:
            self._job.drop()
        self._job = self._show = None

    def close(self) -> None:
        """Ask for nothing more. What is being done ends by itself and is not waited for."""
        self._closed = True
        self.drop()
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _on_found(self, job: Job, found: Any, last: bool) -> None:
        show = self._show
        if job is not self._job or show is None:
            return
        if last:
            self._job = self._show = None
        show(found)

    def _on_broke(self, job: Job, error: BaseException) -> None:
        sys.excepthook(type(error), error, error.__traceback__)
        if job is self._job:
            self._job = self._show = None
            self.failed.emit()


def _raise(done: Future[Any]) -> None:
    # a worker's error would else be lost in its future
    if not done.cancelled() and (error := done.exception()) is not None:
        sys.excepthook(type(error), error, error.__traceback__)
