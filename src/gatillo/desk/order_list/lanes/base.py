"""What the painters of lanes share: the run they paint, and the scale of time."""

from __future__ import annotations

import numpy as np

from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.lanes.scale import TimeScale
from gatillo.desk.session.workbench import Workbench
from gatillo.level.model import KeyBar


class Lanes:
    """What is painted: a run's lanes at a scale."""

    def __init__(
        self,
        bench: Workbench,
        data: LaneData,
        scale: TimeScale,
        overlaid: LaneData | None = None,
        chosen_bar: KeyBar | None = None,
    ) -> None:
        self.bench = bench
        self.data = data
        self.overlaid = overlaid
        """The run from before an edit, to be shown where the new one has not come to."""
        self.scale = scale
        self.chosen_bar = chosen_bar
        """The bar of the input that keys and commands are about."""

    def in_sight(self, ticks: np.ndarray) -> np.ndarray:
        """Return those of some ticks, in ascending order, that lie in sight."""
        low, high = np.searchsorted(ticks, [self.scale.tick(self.scale.left) - 1, self.scale.last + 1])
        return ticks[low:high]
