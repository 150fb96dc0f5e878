"""How much a piece of work does, counted in calls: the same on every machine, however busy it is."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import SimpleNamespace


@contextmanager
def at_most(calls: int) -> Iterator[SimpleNamespace]:
    """Fail as soon as what is done within takes more calls of Python and C functions than these."""
    done = SimpleNamespace(calls=0)

    def count(frame: object, event: str, argument: object) -> None:
        if event in ("call", "c_call"):
            done.calls += 1
            if done.calls > calls:
                sys.setprofile(None)
                raise AssertionError(f"more than {calls:,} calls")

    before = sys.getprofile()
    sys.setprofile(count)
    try:
        yield done
    finally:
        sys.setprofile(before)
