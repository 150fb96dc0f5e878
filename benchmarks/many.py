"""Many that move by themselves: 2,000 that flock, 10,000 solid ones that push; and the same flock by hand in NumPy."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from gatillo.level.model import FORMAT_VERSION, Circle, Clause, Kind, Level, Object, Settings, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

APART, ALIGNED, TOGETHER = 12.0, 28.0, 28.0
WEIGHTS = (1.5, 1.0, 1.0)
TOP, MOST = 90.0, 240.0
ONWARD, REACTION = 0.5, 4.0
DT = 1 / 60


def flock_level(count: int = 2_000) -> Level:
    """A flock spread over a square, so that each has some eight neighbours."""
    chance = np.random.default_rng(8)
    side = 18.0 * count**0.5
    settings = {
        "others": "Moth",
        "apart": f"{APART:g}",
        "apart_weight": f"{WEIGHTS[0]:g}",
        "aligned": f"{ALIGNED:g}",
        "aligned_weight": f"{WEIGHTS[1]:g}",
        "together": f"{TOGETHER:g}",
        "together_weight": f"{WEIGHTS[2]:g}",
        "speed": f"{TOP:g}",
        "acceleration": f"{MOST:g}",
    }
    moth = Kind(
        name="Moth",
        shape=Circle(radius=4.0),
        contact="none",
        behaviours=(Clause(use="flock", slots=settings),),
    )
    at = chance.uniform(0, side, (count, 2)).tolist()
    objects = tuple(
        Object(id=i + 1, kind="Moth", name=f"Moth {i + 1}", x=x, y=y) for i, (x, y) in enumerate(at)
    )
    return _level("flock", (moth,), objects)


def pushing_level(count: int = 10_000) -> Level:
    """Solid discs close together that slide, hit and spring back between four walls."""
    chance = np.random.default_rng(5)
    columns = int(count**0.5)
    disc = Kind(name="Disc", shape=Circle(radius=4.0), contact="movable", bounce=0.6)
    objects = tuple(
        Object(
            id=i + 1,
            kind="Disc",
            name=f"Disc {i + 1}",
            x=12.0 * (i % columns) + float(chance.uniform(-1.5, 1.5)),
            y=12.0 * (i // columns) + float(chance.uniform(-1.5, 1.5)),
        )
        for i in range(count)
    )
    return _level("pushing", (disc,), objects)


def _level(name: str, kinds: tuple[Kind, ...], objects: tuple[Object, ...]) -> Level:
    return Level(
        format=FORMAT_VERSION,
        name=name,
        kinds=kinds,
        objects=objects,
        settings=Settings(rate=60),
        trials=(Trial(name="t", length=600.0),),
    )


def by_gatillo(level: Level, speed: float, *, record: bool = True) -> Run:
    """A run of it, each object sent off in a direction of its own."""
    run = Run(Program(level), level.trials[0], record=record)
    run.world.vx[:], run.world.vy[:] = start_velocities(len(run.world.id), speed)
    return run


def start_velocities(count: int, speed: float) -> tuple[np.ndarray, np.ndarray]:
    """Directions drawn at random, shape (count,) each."""
    turned = np.random.default_rng(3).uniform(0, 2 * np.pi, count)
    return speed * np.cos(turned), speed * np.sin(turned)


class FlockByNumPy:
    """Run the flock by code written for this level only: a lower bound for general code."""

    def __init__(self, level: Level) -> None:
        self.x = np.array([o.x for o in level.objects])
        self.y = np.array([o.y for o in level.objects])
        self.vx, self.vy = start_velocities(len(self.x), 60.0)
        self.angle = np.zeros(len(self.x))

    def tick(self) -> None:
        x, y, vx, vy = self.x, self.y, self.vx, self.vy
        n = len(x)
        pairs = cKDTree(np.column_stack((x, y))).query_pairs(
            max(APART, ALIGNED, TOGETHER), output_type="ndarray"
        )
        at = np.concatenate((pairs[:, 0], pairs[:, 1]))
        near = np.concatenate((pairs[:, 1], pairs[:, 0]))
        dx, dy = x[near] - x[at], y[near] - y[at]
        away = np.sqrt(dx * dx + dy * dy)
        away[away < 1e-9] = 1e-9
        onward = ONWARD * np.minimum(np.hypot(vx, vy), 1.0) / np.maximum(np.hypot(vx, vy), 1e-12)
        wish_x, wish_y = onward * vx, onward * vy
        wishes = ONWARD * np.minimum(np.hypot(vx, vy), 1.0)
        count = np.maximum(1 - away / APART, 0) / away
        to_x, to_y = np.bincount(at, -count * dx, n), np.bincount(at, -count * dy, n)
        long = np.sqrt(to_x**2 + to_y**2)
        strength = WEIGHTS[0] * np.minimum(long, 1)
        part = np.divide(strength, long, out=np.zeros(n), where=long > 1e-12)
        wish_x, wish_y, wishes = wish_x + part * to_x, wish_y + part * to_y, wishes + strength
        count = np.maximum(1 - away / ALIGNED, 0)
        many = np.bincount(at, count, n)
        share = WEIGHTS[1] * np.minimum(many, 1)
        part = np.divide(share, many * TOP, out=np.zeros(n), where=many > 0)
        wish_x = wish_x + part * np.bincount(at, count * vx[near], n)
        wish_y = wish_y + part * np.bincount(at, count * vy[near], n)
        wishes = wishes + share
        count = np.maximum(1 - away / TOGETHER, 0)
        many = np.maximum(np.bincount(at, count, n), 1)
        to_x, to_y = np.bincount(at, count * dx, n) / many, np.bincount(at, count * dy, n) / many
        long = np.sqrt(to_x**2 + to_y**2)
        strength = WEIGHTS[2] * np.minimum(long / (TOGETHER / 2), 1)
        part = np.divide(strength, long, out=np.zeros(n), where=long > 1e-12)
        wish_x, wish_y, wishes = wish_x + part * to_x, wish_y + part * to_y, wishes + strength
        ax, ay = REACTION * (wish_x * TOP - wishes * vx), REACTION * (wish_y * TOP - wishes * vy)
        cut = np.minimum(1, MOST / np.maximum(np.sqrt(ax**2 + ay**2), 1e-12))
        vx, vy = vx + ax * cut * DT, vy + ay * cut * DT
        cut = np.minimum(1, TOP / np.maximum(np.sqrt(vx**2 + vy**2), 1e-12))
        self.vx, self.vy = vx * cut, vy * cut
        goes = np.hypot(self.vx, self.vy) > 1.0
        self.angle[goes] = np.degrees(np.arctan2(self.vy[goes], self.vx[goes]))
        self.x, self.y = x + self.vx * DT, y + self.vy * DT
