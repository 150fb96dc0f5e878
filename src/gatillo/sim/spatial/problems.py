"""What keeps a rule, a behaviour or a readout from running."""

from __future__ import annotations

from dataclasses import dataclass

from gatillo.level.naming import shortened


@dataclass(frozen=True, slots=True)
class Problem:
    """What keeps a rule from running: where it stands, and a sentence."""

    turn: int
    rule: str
    part: str
    line: int
    slot: str
    message: str

    def sentence(self) -> str:
        """Where it is and what is wrong."""
        place = self.part if self.part == "settings" else f"{self.part} {self.line + 1}"
        place += f", {self.slot}" if self.slot else ""
        # what is no rule's stands with a kind or an object
        return shortened(f"{'rule ' if self.turn >= 0 else ''}“{self.rule}”, {place}: {self.message}")
