"""What keeps a rule, a behaviour or a readout from running."""

from __future__ import annotations

from dataclasses import dataclass

from gatillo.level.naming import shortened


@dataclass(frozen=True, slots=True)
class Problem:
    """What keeps a rule from running: where it is, and a sentence."""

    rule_index: int
    rule: str
    part: str
    line: int
    slot: str
    message: str
    card: int = 0
    """Of a graph: at which of its cards."""

    def sentence(self) -> str:
        """Return where it is and what is wrong."""
        place = self.part if self.part in ("settings", "graph") else f"{self.part} {self.line + 1}"
        if self.card:
            place = f"card {self.card}"
        place += f", {self.slot}" if self.slot else ""
        # what is no rule's stands with a kind or an object
        return shortened(f"{self._sort}“{self.rule}”, {place}: {self.message}")

    @property
    def _sort(self) -> str:
        if self.rule_index < 0:
            return ""
        return "graph " if self.card or self.part == "graph" else "rule "
