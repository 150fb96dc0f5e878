"""The words of a sentence, each with its sort."""

from __future__ import annotations

from dataclasses import dataclass

from gatillo.level.edits import Part


@dataclass(frozen=True, slots=True)
class Word:
    """A piece of a row's text. A slot's word can be edited in place."""

    text: str
    sort: str = "plain"
    part: Part | None = None
    line: int = 0
    slot: str = ""
    within: tuple[int, ...] = ()
    """For a line within a group or a repeat: the way to it, number by number."""

    @property
    def editable(self) -> bool:
        """Whether it stands in a slot that can be edited."""
        return bool(self.slot)
