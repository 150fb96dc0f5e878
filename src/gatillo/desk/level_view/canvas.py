"""What shows a piece of the level: which pixel is which point, and how large a unit is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Signal
from PySide6.QtWidgets import QWidget

from gatillo.desk.session.workbench import Workbench
from gatillo.inspect.tracks import Tracks
from gatillo.sim.collision.regions import under_point
from gatillo.sim.world.world import World

LEAST_ZOOM, MOST_ZOOM = 0.02, 20.0
GRID = 20.0
"""Units from one point of the ground's grid to the next."""
MOST_MARKED = 1_000
"""Objects that a paint puts marks of one sort on at most: more could not be distinguished, and would take too long."""


class Canvas(QWidget):
    """A piece of the level on screen. x to the right, y up; one unit is one pixel at 100 %."""

    zoomChanged = Signal()
    followedChanged = Signal()
    """Another object is followed, or none."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.zoom = 1.0
        self.centre = (0.0, 0.0)
        self.overlays: set[str] = set()
        """What is shown over the level."""
        self.tracks: Tracks | None = None
        self.unmarked = 0
        """Of how many objects in sight the last paint left marks out."""
        self.labels: dict[str, QRectF] = {}
        """Where the names of places stand, in pixels, as last painted (level_view/labels.py)."""
        self.labels_for: tuple[object, ...] = ()
        self._fitted = False
        self._as_fitted: tuple[float, tuple[float, float]] | None = None
        """Zoom and middle as the whole level was shown; while they are the same, it is shown whole at any size."""
        self.followed: int | None = None
        """The object that stays in the middle while the run goes on, by its id."""

    def follow(self, wanted: int | None) -> None:
        """Keep an object in the middle, at the same zoom; with None, none."""
        if wanted != self.followed:
            self.followed = wanted
            self.keep_followed()
            self.followedChanged.emit()
            self.update()

    def keep_followed(self) -> None:
        """Put the object that is followed in the middle. Once it is gone, the view stays where it is."""
        if self.followed is None:
            return
        world = self.bench.world
        rows = np.flatnonzero((world.id == self.followed) & world.alive)
        if len(rows):
            self.centre = (world.x.item(rows[0]), world.y.item(rows[0]))

    def followed_name(self) -> str:
        """Return the name of the object that is followed; "" if none is, or it has none."""
        found = (o.name for o in self.bench.level.objects if o.id == self.followed)
        return next(found, "an object" if self.followed is not None else "")

    def fit(self) -> None:
        """Show the whole level."""
        self.follow(None)
        settings = self.bench.level.settings
        self.centre = (settings.width / 2, settings.height / 2)
        room_x, room_y = max(50, self.width() - 28), max(50, self.height() - 24)
        self.set_zoom(min(room_x / settings.width, room_y / settings.height, 2.0))
        self._fitted = True
        self._as_fitted = (self.zoom, self.centre)

    def set_zoom(self, zoom: float, around: QPointF | None = None) -> None:
        """Zoom, keeping the level's point under a pixel in place."""
        before = self.to_level(around) if around is not None else None
        self.zoom = max(LEAST_ZOOM, min(MOST_ZOOM, zoom))
        if before is not None and around is not None:
            after = self.to_level(around)
            self.centre = (self.centre[0] + before[0] - after[0], self.centre[1] + before[1] - after[1])
        self.zoomChanged.emit()
        self.update()

    def to_pixels(self, x: float, y: float) -> QPointF:
        """Return the pixel of a point of the level."""
        return QPointF(
            self.width() / 2 + (x - self.centre[0]) * self.zoom,
            self.height() / 2 - (y - self.centre[1]) * self.zoom,
        )

    def to_level(self, point: QPointF) -> tuple[float, float]:
        """Return the point of the level under a pixel."""
        return (
            self.centre[0] + (point.x() - self.width() / 2) / self.zoom,
            self.centre[1] - (point.y() - self.height() / 2) / self.zoom,
        )

    def object_at(self, point: QPointF) -> int | None:
        """Return the front-most object under a pixel, by id."""
        world = self.bench.world
        rows = under_point(world, *self.to_level(point), slack=4 / self.zoom)
        return world.id.item(rows[0]) if len(rows) else None

    def in_sight(
        self, world: World, rows: NDArray[np.int64], beyond: float | NDArray[np.float64]
    ) -> NDArray[np.int64]:
        """Return those of some rows that lie on screen, or no farther off it than a number of pixels, one for all or one for each."""
        x = self.width() / 2 + (world.x[rows] - self.centre[0]) * self.zoom
        y = self.height() / 2 - (world.y[rows] - self.centre[1]) * self.zoom
        near = (x > -beyond) & (x < self.width() + beyond) & (y > -beyond) & (y < self.height() + beyond)
        return rows[near]

    def marked(self, world: World, rows: NDArray[np.int64]) -> NDArray[np.int64]:
        """Return those of some rows that get marks: the ones in sight, or the first of them if there are too many."""
        seen = self.in_sight(world, rows, 60.0)
        self.unmarked = max(self.unmarked, len(seen) - MOST_MARKED)
        return seen[:MOST_MARKED]

    def resizeEvent(self, event: object) -> None:
        if not self._fitted or self.width() < 60 or self._as_fitted == (self.zoom, self.centre):
            self.fit()
            self._fitted = self.isVisible()

    def forget_fit(self) -> None:
        """Fit again: another level was opened."""
        self.fit()
