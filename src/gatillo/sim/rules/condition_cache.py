"""Cached answers of conditions and of whole turns, for as long as nothing that they depend on has changed.

What an answer depends on is worked out in program/dependencies.py.
"""

from __future__ import annotations

from dataclasses import dataclass

from gatillo.sim.matching.match_table import Matches

TRIES = 4
"""So often in a row may remembering be in vain before it is tried only now and then."""
NOW_AND_THEN = 32


@dataclass(slots=True)
class Sleep:
    """A turn that led to nobody: how often each thing that could wake it had changed then, and how the look came out."""

    rule: object
    changes: tuple[tuple[str, int], ...]
    reached: int
    passed: list[int]
    work: int
    """How much was done for it."""


@dataclass(slots=True)
class CacheEntry:
    """What a condition made of a match table, and how often each thing it depends on had changed then."""

    table: Matches
    changes: list[int]
    answer: Matches
    in_vain: int
    work: int = 0
    """How much was done for it."""
