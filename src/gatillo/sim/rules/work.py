"""How much all rules and graphs together may do in a tick, so that no level can hold a tick up.

Work is counted in matches that conditions and actions handle; slower steps count as several matches. The count is the same
whether a line is evaluated, taken from a cache, or evaluated in plain numbers, so that runs do not depend on that.
"""

from __future__ import annotations

from gatillo.sim.matching.match_table import TooManyMatches

MOST_WORK = 50_000_000
"""Of a tick: between half a second and two seconds."""
A_CROWD = 4_096
"""Tables of fewer matches are not counted: a level cannot have that many lines."""
A_LINE = 2_000
"""What a line within a repeat counts besides its matches."""
A_CARD = 250
"""What a card counts where a turn runs very many of them."""
FREE_CARDS = 1_000
"""So many cards of a turn are not counted."""
A_KEY = 60
"""What it counts to remember one match."""
A_MEETING = 8
"""So many rays times things count as one match."""
FEW_RAYS = 64
"""So many rays of a line are not counted."""


class TooMuchWork(TooManyMatches):
    """A tick has done as much as it may."""

    def __init__(self) -> None:
        Exception.__init__(self, "a tick has done as much as it may; the rest of it is left out")


class Work:
    """What has been done in a tick."""

    def __init__(self) -> None:
        self.done = 0
        self.is_over = False
        """Whether nothing more is to be done."""

    def takes(self, many: int) -> bool:
        """Return whether there is room for so much more."""
        return self.done + many <= MOST_WORK

    def add(self, many: int) -> None:
        """Count work before it is done. Raises TooMuchWork where it would be too much."""
        self.done += many
        if self.done > MOST_WORK:
            self.is_over = True
            raise TooMuchWork

    def add_matches(self, many: int, each: int = 1) -> None:
        """Count matches, where they are many. Raises TooMuchWork where it would be too much."""
        if many > A_CROWD:
            self.add(many * each)
