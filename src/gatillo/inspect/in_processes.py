"""Work divided among processes on this machine."""

from __future__ import annotations

import multiprocessing
import os
import signal
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any, TypeVar

POLL = 0.1
"""Seconds between two looks at whether it is cancelled."""
Task = TypeVar("Task")
Result = TypeVar("Result")


def cores() -> int:
    """Return how many processes can run at once: the cores that this one may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def in_processes(
    work: Callable[[Task], Result],
    tasks: Sequence[Task],
    begin: Callable[..., None],
    given: tuple[Any, ...],
    jobs: int,
    stop: Callable[[], bool],
) -> Iterator[Result]:
    """Yield what `work` gives for each task, as they are done, in so many processes. Each calls `begin(*given)` first.

    `stop` is asked now and then; when it answers yes, or the caller goes on no more, nothing is left running.
    """
    pool = None
    try:
        # a fresh interpreter each: a forked one would share the window's threads
        with ctrl_c_later():
            context = multiprocessing.get_context("spawn")
            pool = context.Pool(min(jobs, len(tasks)), _begin, (begin, given))
        found = pool.imap_unordered(work, tasks)
        while True:
            if stop():
                return
            try:
                yield found.next(timeout=POLL)
            except multiprocessing.TimeoutError:
                continue
            except StopIteration:
                return
    finally:
        if pool is not None:
            pool.terminate()
            pool.join()


def _begin(begin: Callable[..., None], given: tuple[Any, ...]) -> None:
    """Make a process ready. Ctrl+C is for the process that asked."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    begin(*given)


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
