"""Painting lanes: joins the painters of lanes/, which all paint the same run at the same scale."""

from __future__ import annotations

from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.lanes.arrows import ArrowPainter
from gatillo.desk.order_list.lanes.base import Lanes
from gatillo.desk.order_list.lanes.curves import CurvePainter
from gatillo.desk.order_list.lanes.frame import FramePainter
from gatillo.desk.order_list.lanes.marks import MarkPainter
from gatillo.desk.order_list.lanes.scale import TimeScale
from gatillo.desk.order_list.lanes.spans import LaneRowPainter
from gatillo.desk.session.workbench import Workbench
from gatillo.level.model import KeyBar


class LanePainter:
    """Paints the right half of the order list."""

    def __init__(
        self,
        bench: Workbench,
        data: LaneData,
        scale: TimeScale,
        overlaid: LaneData | None = None,
        chosen_bar: KeyBar | None = None,
    ) -> None:
        self.lanes = Lanes(bench, data, scale, overlaid, chosen_bar)
        self.frame = FramePainter(self.lanes)
        self.rows = LaneRowPainter(self.lanes, CurvePainter(self.lanes))
        self.arrows = ArrowPainter(self.lanes)
        self.marks = MarkPainter(self.lanes)
