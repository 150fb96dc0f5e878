"""One queue of plain tasks for everything that makes many runs: checks, changes, sweeps, exploring.

Tasks are divided among processes on this machine, or among the workers of a Dask scheduler.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import BrokenExecutor, Executor, Future, ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from queue import Empty, SimpleQueue
from types import TracebackType
from typing import Any, Generic, Self, TypeVar

POLL = 0.1
"""Seconds between two looks at whether it is cancelled."""
MOST_LOST = 3
"""How often all processes are started again after one has died. One death more is an error."""
Task = TypeVar("Task")
Result = TypeVar("Result")


class ClusterError(Exception):
    """A cluster that cannot be used, in a sentence that says why and what to do."""


def cores() -> int:
    """Return how many processes can run at once: the cores that this one may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


@dataclass(frozen=True, slots=True)
class Crew:
    """Who does the work: so many processes on this machine, or the workers of a Dask scheduler at an address."""

    jobs: int = 1
    cluster: str = ""

    @property
    def alone(self) -> bool:
        """Whether this process does it all."""
        return self.jobs < 2 and not self.cluster


@dataclass(slots=True)
class WorkQueue(Generic[Task, Result]):
    """Does tasks, as many at once as there are workers. Used as a context; at its end nothing is left running.

    `work(task)` is called for each task, after `begin(*given)` was called once in each process. Both are functions of a module.
    """

    work: Callable[[Task], Result]
    begin: Callable[..., None]
    given: tuple[Any, ...]
    crew: Crew
    _workers: _Workers | None = field(default=None, init=False)
    _begun: bool = field(default=False, init=False)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._end()

    def _end(self) -> None:
        if self._workers is not None:
            self._workers.end()
            self._workers = None

    def results(
        self, tasks: Sequence[Task], stop: Callable[[], bool] = lambda: False, *, ordered: bool = False
    ) -> Iterator[Result]:
        """Yield what `work` gives for each task: as they are done, or in the order of the tasks.

        `stop` is asked now and then; when it answers yes, no more is yielded. What a process that died had in hand is done
        again. Raises what `work` raises, and ClusterError for a cluster that cannot be reached.
        """
        if self.crew.alone:
            yield from self._alone(tasks, stop)
            return
        waiting = dict(enumerate(tasks))
        kept: dict[int, Result] = {}
        given_out, lost = 0, 0
        while waiting:
            workers = self._open()
            done: SimpleQueue[tuple[int, Future[Result]]] = SimpleQueue()
            try:
                with ctrl_c_later():
                    for number, task in waiting.items():
                        workers.submit(self.work, task).add_done_callback(_into(done, number))
            except BrokenExecutor:
                # a process died before all tasks were given out
                lost += 1
                self._end()
                if lost > MOST_LOST:
                    raise
                continue
            while waiting:
                if stop():
                    self._end()
                    return
                try:
                    number, future = done.get(timeout=POLL)
                except Empty:
                    continue
                try:
                    result = future.result()
                except BrokenExecutor:
                    lost += 1
                    self._end()
                    if lost > MOST_LOST:
                        raise
                    break
                del waiting[number]
                if not ordered:
                    yield result
                    continue
                kept[number] = result
                while given_out in kept:
                    yield kept.pop(given_out)
                    given_out += 1

    def _alone(self, tasks: Sequence[Task], stop: Callable[[], bool]) -> Iterator[Result]:
        if not self._begun:
            self.begin(*self.given)
            self._begun = True
        for task in tasks:
            if stop():
                return
            yield self.work(task)

    def _open(self) -> _Workers:
        if self._workers is None:
            made = _OnCluster if self.crew.cluster else _InProcesses
            self._workers = made(self.crew, self.begin, self.given)
        return self._workers


def _into(done: SimpleQueue[tuple[int, Future[Any]]], number: int) -> Callable[[Future[Any]], None]:
    return lambda future: done.put((number, future))


class _Workers:
    """Where tasks are done."""

    def submit(self, work: Callable[[Any], Any], task: Any) -> Future[Any]:
        raise NotImplementedError

    def end(self) -> None:
        raise NotImplementedError


_ENDING = threading.Lock()
"""Held while a pool ends: two at once would each restore the other's hook."""


class _InProcesses(_Workers):
    """Processes on this machine: a fresh interpreter each, since a forked one would share the window's threads."""

    def __init__(self, crew: Crew, begin: Callable[..., None], given: tuple[Any, ...]) -> None:
        self._pool = ProcessPoolExecutor(
            crew.jobs,
            mp_context=multiprocessing.get_context("spawn"),
            initializer=_begin,
            initargs=(begin, given),
        )

    def submit(self, work: Callable[[Any], Any], task: Any) -> Future[Any]:
        return self._pool.submit(work, task)

    def end(self) -> None:
        # CPython 3.11: the pool's manager thread can cancel a future that is already cancelled, and raise; silence that
        with _ENDING:
            before, threading.excepthook = threading.excepthook, lambda told: None
            try:
                # the table is taken away while the pool ends
                for process in list((self._pool._processes or {}).values()):
                    process.terminate()
                self._pool.shutdown(wait=True, cancel_futures=True)
            finally:
                threading.excepthook = before


def _begin(begin: Callable[..., None], given: tuple[Any, ...]) -> None:
    """Make a process ready. Ctrl+C is for the process that asked."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    begin(*given)


class _OnCluster(_Workers):
    """The workers of a Dask scheduler. A task of a worker that dies is done by another."""

    def __init__(self, crew: Crew, begin: Callable[..., None], given: tuple[Any, ...]) -> None:
        try:
            from distributed import Client
        except ImportError:
            raise ClusterError(
                "a cluster needs the package “distributed”; install gatillo[cluster], here and where the workers are"
            ) from None
        try:
            self._client = Client(crew.cluster, timeout=5, set_as_default=False)
        except (OSError, ValueError, TimeoutError) as error:
            raise ClusterError(
                f"no Dask scheduler answers at “{crew.cluster}” ({error}); begin one with “dask scheduler” and give its address"
            ) from None
        if not self._client.scheduler_info()["workers"]:
            self._client.close()
            raise ClusterError(
                f"the scheduler at “{crew.cluster}” has no workers; begin one with “dask worker”"
            )
        # as the result of a task: what is scattered is lost with its worker, a task is done again
        self._made_ready = begin, self._client.submit(_same, given, pure=False)
        self._token = self._made_ready[1].key
        self._executor: Executor = self._client.get_executor(pure=False)

    def submit(self, work: Callable[[Any], Any], task: Any) -> Future[Any]:
        begin, given = self._made_ready
        return self._executor.submit(_on_worker, self._token, begin, given, work, task)

    def end(self) -> None:
        # it cancels what is not done
        self._executor.shutdown(wait=False)
        self._client.close()


def _same(given: tuple[Any, ...]) -> tuple[Any, ...]:
    return given


_ONE_AT_A_TIME = threading.Lock()
_READY: list[str] = []
"""In a worker of a cluster: for which queue it is ready."""


def _on_worker(
    token: str, begin: Callable[..., None], given: tuple[Any, ...], work: Callable[[Any], Any], task: Any
) -> Any:
    """Do a task in a worker, which may have been at work for another queue before."""
    with _ONE_AT_A_TIME:
        if [token] != _READY:
            begin(*given)
            _READY[:] = [token]
        return work(task)


@contextmanager
def ctrl_c_later() -> Iterator[None]:
    """Hold Ctrl+C back while processes are started, and let it come afterwards.

    A process that is started within takes no notice of Ctrl+C from its first moment on. The process that
    started it does not lose a Ctrl+C that came meanwhile.
    """
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
