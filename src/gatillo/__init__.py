"""Gatillo: event rules for level designers, simulated step by step.

As a library: `read_level`, `write_level`, `findings`, `run` and `start` (see gatillo.library and docs/library.md).
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"

if TYPE_CHECKING:
    from gatillo.library import (
        Difference,
        Finding,
        FiredRule,
        FormulaError,
        Level,
        LevelFileError,
        Placed,
        Reason,
        Simulation,
        Unanswered,
        Verdict,
        differences,
        findings,
        merge,
        read_level,
        run,
        start,
        write_level,
    )
    from gatillo.serving.client import connect

__all__ = [
    "Difference",
    "Finding",
    "FiredRule",
    "FormulaError",
    "Level",
    "LevelFileError",
    "Placed",
    "Reason",
    "Simulation",
    "Unanswered",
    "Verdict",
    "connect",
    "differences",
    "findings",
    "merge",
    "read_level",
    "run",
    "start",
    "write_level",
]


def __getattr__(name: str) -> Any:
    # on first use: the commands and the window import this package too, and need not pay for all of it
    if name == "connect":
        from gatillo.serving.client import connect

        return connect
    if name in __all__:
        from gatillo import library

        return getattr(library, name)
    raise AttributeError(f"module 'gatillo' has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted([*globals(), *__all__])
