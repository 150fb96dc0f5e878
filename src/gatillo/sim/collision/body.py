"""Bodies as collisions see them: plain numbers for one object, and for two that may hit."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from gatillo.kernels.mathematics import exp
from gatillo.sim.collision.shapes import Outline, outline_of
from gatillo.sim.program.bodies import MOVABLE
from gatillo.sim.world.world import World

Floats = NDArray[np.float64]
HOP = 0.001
"""What hits no faster than it would from a fall of this height, in level units, does not spring back."""
CLOSED = 1e-12
"""By so much a gap may be more than closed, in level units, when its closing is worked out."""
NEVER = math.inf
THERE = 1e-9
"""A hit is where two shapes are no farther apart than this, in level units."""
UPRIGHT = 0.5
"""From this part of a contact's direction on that is vertical, the upper one rests on the lower."""
DRIVE = 1e4
"""What a behaviour drives counts as so many times as heavy: its speed is given again in each tick, so that with ever shorter
ticks it would push what is free before it as if it weighed nothing. So it does at every tick rate."""


class Body:
    """A solid thing within a tick: where it was at time `t` (s, from the tick's start), and how it goes on from there."""

    __slots__ = (
        "ax",
        "ay",
        "bounce",
        "carries",
        "changes",
        "drag",
        "driven",
        "fixed",
        "friction",
        "gravity",
        "hits",
        "light",
        "outline",
        "pairs",
        "rested",
        "row",
        "still",
        "supports",
        "t",
        "version",
        "vx",
        "vy",
        "x",
        "y",
    )  # fmt: skip

    def __init__(self, world: World, row: int, drag: float, gravity: float, driven: bool, held: bool) -> None:
        self.row = row
        self.t = 0.0
        self.x, self.y = world.x.item(row), world.y.item(row)
        self.vx, self.vy = world.vx.item(row), world.vy.item(row)
        self.drag, self.gravity = drag, gravity
        self.still = world.asleep.item(row) and not (self.vx or self.vy)
        self.ax, self.ay = 0.0, 0.0 if self.still else -gravity
        self.fixed = held or world.contact.item(row) != MOVABLE
        self.light = 0.0 if self.fixed else 1.0 / (world.mass.item(row) * (DRIVE if driven else 1.0))
        self.bounce, self.friction = world.bounce.item(row), world.friction.item(row)
        self.driven = driven
        self.outline: Outline = outline_of(world, row)
        self.pairs: list[Pair] = []
        self.supports: list[tuple[Body, float, float]] = []
        """On what it lies, with the unit normal to it."""
        self.carries: list[Body] = []
        self.changes: tuple[float, str] = (NEVER, "")
        self.rested = world.grounded.item(row) and not (self.vx or self.vy)
        """It lay still at the end of the tick before."""
        self.hits = 0
        self.version = 0

    def state(self, t: float) -> tuple[float, float, float, float]:
        """x, y and velocity at a time."""
        d = t - self.t
        if d == 0.0:
            return self.x, self.y, self.vx, self.vy
        left, reach, drop = 1.0, d, d * d / 2
        if self.drag:
            left = exp(-self.drag * d)
            if self.drag > 1e-9:
                reach = (1.0 - left) / self.drag
                drop = (d - reach) / self.drag
        return (
            self.x + (self.vx * reach + self.ax * drop),
            self.y + (self.vy * reach + self.ay * drop),
            self.vx * left + self.ax * reach,
            self.vy * left + self.ay * reach,
        )

    def advance(self, t: float) -> None:
        """Move it to where it is at a time."""
        self.x, self.y, self.vx, self.vy = self.state(t)
        self.t = t


class Pair:
    """Two bodies that may hit one another within the tick."""

    __slots__ = ("a", "b", "hit", "left", "pressed")

    def __init__(self, a: Body, b: Body) -> None:
        self.a, self.b = a, b
        self.hit = False
        """They have hit one another in this tick."""
        self.left = False
        """One has slid off the other in this tick."""
        self.pressed: float | None = None
        """Since when gravity presses one onto the other, which is made up for at the tick's end."""

    def weighs(self, closing: float, t: float) -> bool:
        """Return whether they close no faster than gravity has pressed them, or have hit and hardly close any more."""
        gravity = max(self.a.gravity, self.b.gravity)
        if self.hit and closing * closing <= 2.0 * gravity * HOP:
            return True
        return self.pressed is not None and closing <= 2.0 * gravity * (t - self.pressed) + THERE
