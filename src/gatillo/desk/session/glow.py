"""How strongly something that fired a moment ago is still lit while a run goes on: it fades over half a second."""

from __future__ import annotations

from gatillo.desk.looks.motion import reduces_motion
from gatillo.desk.session.workbench import Workbench

FADES_IN = 0.5
"""Seconds, of the user's time, until a mark has faded."""


class Glow:
    """What is lit at the cursor of a run that is running or being played. With less motion, marks stay without fading."""

    def __init__(self, bench: Workbench) -> None:
        self._now = bench.cursor.tick
        self._ticks = max(
            1.0, FADES_IN * bench.program.rate * (1.0 if bench.player.playing else bench.player.speed)
        )
        self._steady = reduces_motion()

    @property
    def first(self) -> int:
        """The first tick whose marks are still lit."""
        return max(1, int(self._now - self._ticks) + 1)

    def of(self, tick: int) -> float:
        """Return how strongly something of a tick is lit, from 1 down to 0."""
        age = self._now - tick
        if not 0 <= age < self._ticks:
            return 0.0
        return 1.0 if self._steady else 1.0 - age / self._ticks


def goes_on(bench: Workbench) -> bool:
    """Return whether the run is running or being played."""
    return bench.player.running or bench.player.playing
