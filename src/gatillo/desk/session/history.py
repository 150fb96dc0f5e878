"""Undo and redo: since levels never change, it is enough to keep them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from gatillo.level.edits import same
from gatillo.level.model import Level

MOST_STEPS = 500


@dataclass(frozen=True, slots=True)
class Step:
    """A level and what was done to get to it."""

    level: Level
    label: str


class History:
    """The levels before and after the present one, and which of them is on disk."""

    def __init__(self, level: Level) -> None:
        self._steps = [Step(level, "")]
        self._at = 0
        self._saved: Level | None = level
        self._joining = ""

    @property
    def level(self) -> Level:
        """The level as it is now."""
        return self._steps[self._at].level

    @property
    def unsaved(self) -> bool:
        """Whether the present level differs from what was saved last."""
        return self._saved is None or not same(self.level, self._saved)

    def mark_saved(self, level: Level) -> None:
        """Remember that a level is what is on disk."""
        self._saved = level

    def mark_unsaved(self) -> None:
        """The present level stands nowhere on disk."""
        self._saved = None

    def do(self, level: Level, label: str, join: str = "") -> None:
        """Take a new level. Steps with the same non-empty `join` in a row become one, as in a drag."""
        if same(level, self.level):
            return
        del self._steps[self._at + 1 :]
        if join and join == self._joining and self._at > 0:
            self._steps[self._at] = Step(level, label)
        else:
            self._steps.append(Step(level, label))
            del self._steps[: max(0, len(self._steps) - MOST_STEPS)]
            self._at = len(self._steps) - 1
        self._joining = join

    @contextmanager
    def restored_on_error(self) -> Iterator[None]:
        """Put everything back as it was if what is done within raises."""
        before = [*self._steps], self._at, self._saved, self._joining
        try:
            yield
        except BaseException:
            self._steps, self._at, self._saved, self._joining = before
            raise

    def settle(self) -> None:
        """The next step stands by itself, whatever it joins."""
        self._joining = ""

    @property
    def undoes(self) -> str | None:
        """What undo would take back, or None."""
        return self._steps[self._at].label if self._at > 0 else None

    @property
    def redoes(self) -> str | None:
        """What redo would do again, or None."""
        return self._steps[self._at + 1].label if self._at + 1 < len(self._steps) else None

    def undo(self) -> str | None:
        """Go back one step; what was taken back."""
        label = self.undoes
        if label is not None:
            self._at -= 1
            self._joining = ""
        return label

    def redo(self) -> str | None:
        """Go on one step; what was done again."""
        label = self.redoes
        if label is not None:
            self._at += 1
            self._joining = ""
        return label
