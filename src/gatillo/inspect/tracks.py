"""Where objects have been in a run: worked out by running its past again, a piece at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.world.world import World

SAMPLES = 20
"""A second of time."""
MOST_OBJECTS = 400
MOST_PACE = 0.02
"""With more objects, or when a tick takes more seconds, there are samples only where the run has keyframes anyway."""


@dataclass(frozen=True, slots=True)
class Sample:
    """Who was there at a tick, by id and ascending, and where; arrays of shape (n,)."""

    tick: int
    ids: NDArray[np.int64]
    x: NDArray[np.float64]
    y: NDArray[np.float64]


def sample(world: World) -> Sample:
    """Return where everybody is."""
    live = world.alive
    return Sample(world.tick, world.id[live], world.x[live], world.y[live])


class Tracks:
    """The samples of one run, kept as they are worked out."""

    def __init__(self, run: Run) -> None:
        self.run = run
        self.every = max(1, round(run.program.rate / SAMPLES))
        self._kept: dict[int, Sample] = {}

    def fill(self, first: int, last: int, stop: Callable[[], bool] = lambda: False) -> bool:
        """Work out what is missing between two ticks, the latest piece first; whether nothing is missing then.

        `stop` is asked between samples and ends the call early when it answers yes.
        """
        if len(self.run.world.id) > MOST_OBJECTS or self.run.pace > MOST_PACE:
            return True
        for tick in self._missing(max(first, 0), min(last, self.run.done)):
            if stop():
                return False
            self._kept[tick] = sample(self.run.world_at(Cursor(tick, self.run.trace.count_at(tick))))
        return True

    def _missing(self, first: int, last: int) -> Iterator[int]:
        wanted = range(-(-first // self.every) * self.every, last + 1, self.every)
        pieces = sorted({t // self.run.spacing for t in wanted}, reverse=True)
        for piece in pieces:
            # forward within a piece: each tick goes on from the one before
            yield from (t for t in wanted if t // self.run.spacing == piece and t not in self._kept)

    def between(self, first: int, last: int) -> list[Sample]:
        """Return the samples there are between two ticks, from early to late: what is worked out, and the keyframes."""
        kept = {t: s for t, s in self._kept.items() if first <= t <= last}
        for tick, world in self.run.keyframes.items():
            if first <= tick <= last and tick not in kept:
                kept[tick] = sample(world)
        return [kept[tick] for tick in sorted(kept)]


def paths(samples: list[Sample]) -> dict[int, list[tuple[int, float, float]]]:
    """Return the path of each object that has moved: tick, x and y, from early to late."""
    found: dict[int, list[tuple[int, float, float]]] = {}
    for one in samples:
        for i, x, y in zip(one.ids.tolist(), one.x.tolist(), one.y.tolist(), strict=True):
            found.setdefault(i, []).append((one.tick, x, y))
    return {i: path for i, path in found.items() if any(p[1:] != path[0][1:] for p in path)}
