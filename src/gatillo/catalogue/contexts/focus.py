"""What behaviours of the phase “focus” may ask and do."""

from __future__ import annotations

from abc import abstractmethod
from typing import Protocol

from gatillo.catalogue.contexts.effects import touches
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.level.roles import Role


class FocusApi(Protocol):
    """The world, as a behaviour of the phase “focus” sees it."""

    @abstractmethod
    @touches(
        reads="x y angle scale shown contact of rows; x y angle scale shown contact of on; x y angle scale contact shown of anybody",
        writes="focus of rows",
    )
    def focus(
        self, rows: Rows, on: Role, reach: Numbers, half_angle: Numbers, measure: str, ray_first: bool
    ) -> None:
        """Let each of these objects have one thing in its focus, or none."""
