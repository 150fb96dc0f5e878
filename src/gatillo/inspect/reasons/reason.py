"""A reason: one sentence, the moment that it is about, and its own reasons, worked out when they are asked for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, Literal

Sort = Literal[
    "firing",
    "occasion",
    "condition",
    "limit",
    "value",
    "written",
    "motion",
    "start",
    "input",
    "chance",
    "there",
    "obstacle",
    "note",
]
"""What a reason speaks of. A chain ends in `start`, `input` or `chance`, or in a `note` that says why it goes no further."""

MOST_NAMED = 4


@dataclass(slots=True)
class Reason:
    """One reason in words; unfolded, the reasons for it."""

    sentence: str
    sort: Sort
    tick: int = 0
    """When; 0 is the level as laid out."""
    position: int = 0
    """The firing of that tick, from 1; 0 where it is about none."""
    rule_id: int = 0
    card: int = 0
    ids: tuple[int, ...] = ()
    """The objects that it speaks of."""
    grounds: Callable[[], list[Reason]] | None = None
    """Works out the reasons for it; None where the chain ends."""
    _found: tuple[Reason, ...] | None = field(default=None, repr=False)

    @property
    def known(self) -> bool:
        """Whether its reasons have been worked out already, or there are none."""
        return self._found is not None or self.grounds is None

    def because(self) -> tuple[Reason, ...]:
        """Return the reasons for it, worked out at the first asking."""
        if self._found is None:
            self._found = tuple(self.grounds()) if self.grounds is not None else ()
        return self._found

    def because_again(self) -> Callable[[], list[Reason]]:
        """Return its reasons, for another sentence that has the same."""
        return lambda: list(self.because())

    def lines(self, depth: int = 3, indent: int = 0) -> Iterator[str]:
        """Return it and its reasons as lines of text, to a depth."""
        yield "  " * indent + ("· " if indent else "") + self.sentence
        if depth > 0:
            for reason in self.because():
                yield from reason.lines(depth - 1, indent + 1)

    def as_data(self, depth: int = 3) -> dict[str, Any]:
        """Return it and its reasons as plain data, to a depth."""
        data: dict[str, Any] = {"sentence": self.sentence, "sort": self.sort, "tick": self.tick}
        if self.position:
            data["position"] = self.position
        if self.rule_id:
            data["rule_id"] = self.rule_id
        if self.card:
            data["card"] = self.card
        if self.ids:
            data["objects"] = list(self.ids)
        if depth > 0:
            data["because"] = [reason.as_data(depth - 1) for reason in self.because()]
        return data

    def walk(self, depth: int) -> Iterator[Reason]:
        """Yield it and all its reasons, to a depth."""
        yield self
        if depth > 0:
            for reason in self.because():
                yield from reason.walk(depth - 1)


def listed(names: list[str]) -> str:
    """Return names one after the other, the first few."""
    words = ", ".join(names[:MOST_NAMED])
    return words + (f" and {len(names) - MOST_NAMED:,} more" if len(names) > MOST_NAMED else "")
