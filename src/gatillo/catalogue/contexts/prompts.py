"""What behaviours of the phase “prompts” may ask and do."""

from __future__ import annotations

from abc import abstractmethod
from typing import Protocol

from gatillo.catalogue.contexts.effects import touches
from gatillo.catalogue.contexts.values import Numbers, PromptTerms, Rows


class PromptApi(Protocol):
    """The world, as a behaviour of the phase “prompts” sees it."""

    @abstractmethod
    @touches(
        reads="x y of rows; x y angle scale shown contact there of anybody; input; offer of rows",
        writes="offer of rows",
    )
    def offer(self, rows: Rows, terms: PromptTerms, hold: Numbers, reach: Numbers, rest: Numbers) -> None:
        """Let objects offer a prompt in this tick."""
