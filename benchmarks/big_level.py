"""The big level: 10,000 objects, 2,000 of them moving, contacts, 60 rules; written three times.

All three do the same arithmetic in the same order, and their final states are compared.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Kind,
    Level,
    Object,
    Rule,
    Settings,
    Trial,
    Variable,
)
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

RADIUS = 4.0
SKIN = 0.001
BANDS = 48


@dataclass(frozen=True)
class Scene:
    """Where everything starts: shape (n,) each; the first `movers` move."""

    movers: int
    side: float
    x: np.ndarray
    y: np.ndarray
    vx: np.ndarray
    vy: np.ndarray


@dataclass(frozen=True)
class Outcome:
    """What the three ways must agree on."""

    x: np.ndarray
    y: np.ndarray
    hits: np.ndarray
    counts: dict[str, float]

    def agrees(self, other: Outcome) -> bool:
        """Whether positions agree to 1e-6 units and every count is the same."""
        return (
            np.allclose(self.x, other.x, atol=1e-6)
            and np.allclose(self.y, other.y, atol=1e-6)
            and bool((self.hits == other.hits).all())
            and self.counts == other.counts
        )


def scene(objects: int, movers: int, seed: int = 7) -> Scene:
    """A square just dense enough that a few hundred contacts begin in a tick."""
    chance = np.random.default_rng(seed)
    side = math.sqrt(objects) * 40.0
    x, y = (np.round(chance.uniform(0, side, objects), 2) for _ in range(2))
    angle = chance.uniform(0, 2 * math.pi, objects)
    speed = chance.uniform(60, 180, objects)
    vx, vy = np.round(speed * np.cos(angle), 2), np.round(speed * np.sin(angle), 2)
    vx[movers:] = vy[movers:] = 0.0
    return Scene(movers, side, x, y, vx, vy)


def bands(s: Scene) -> list[tuple[float, float, float]]:
    """Half planes that rules ask about, in turn of motes and of stones: across * x + up * y > edge."""
    found = []
    for band in range(BANDS):
        turned = math.pi / 2 * (band + 1) / (BANDS + 1)
        across, up = round(math.cos(turned), 3), round(math.sin(turned), 3)
        found.append((across, up, round(s.side * (across + up) / 2 * (0.8 + 0.4 * band / BANDS), 3)))
    return found


def level(s: Scene, rules: int = 60) -> Level:
    """The scene as a level with its rules: what acts every tick, what waits for contacts, what waits for messages."""

    def c(use: str, **slots: str) -> Clause:
        return Clause(use=use, slots=slots)

    made: list[Rule] = []

    def rule(name: str, when: tuple[Clause, ...], if_: tuple[Clause, ...], *do: Clause) -> None:
        made.append(Rule(id=len(made) + 1, name=name, when=when, if_=if_, do=do))

    start = (c("level_starts"),)
    rule(
        "go",
        start,
        (),
        c("set_variable", variable="Mote.vx", value="Mote.fast_x"),
        c("set_variable", variable="Mote.vy", value="Mote.fast_y"),
    )
    for axis in "xy":
        low = c("compare", left=f"Mote.{axis}", comparison="<", right="0")
        high = c("compare", left=f"Mote.{axis}", comparison=">", right=repr(s.side))
        rule(
            f"{axis} low", (), (low,), c("set_variable", variable=f"Mote.v{axis}", value=f"abs(Mote.v{axis})")
        )
        rule(
            f"{axis} high",
            (),
            (high,),
            c("set_variable", variable=f"Mote.v{axis}", value=f"-abs(Mote.v{axis})"),
        )
    hit = c("add_to", amount="1", variable="Stone.hits")
    rule(
        "hit",
        (c("begins_to_touch", a="Mote", b="Stone"),),
        (),
        hit,
        c("add_to", amount="1", variable="level.begun"),
    )
    rule(
        "part",
        (c("stops_touching", a="Mote", b="Stone"),),
        (),
        c("add_to", amount="1", variable="level.ended"),
    )
    for band, (across, up, edge) in enumerate(bands(s)):
        who = "Stone" if band % 2 else "Mote"
        beyond = c("formula_holds", formula=f"{who}.x * {across!r} + {who}.y * {up!r} > {edge!r}")
        rule(f"band {band}", (), (beyond,), c("add_to", amount="1", variable="level.beyond"))
    while len(made) < rules:
        heard = c("message_heard", message=f"signal {len(made)}")
        rule(f"idle {len(made)}", (heard,), (), c("add_to", amount="1", variable="level.begun"))
    fast = (Variable(name="fast x"), Variable(name="fast y"))
    kinds = (
        Kind(name="Mote", shape=Circle(radius=RADIUS), variables=fast),
        Kind(name="Stone", shape=Circle(radius=RADIUS), variables=(Variable(name="hits"),)),
    )
    objects = tuple(
        Object(
            id=i + 1,
            kind="Mote" if i < s.movers else "Stone",
            name=f"object {i + 1}",
            x=float(s.x[i]),
            y=float(s.y[i]),
            values={"fast x": float(s.vx[i]), "fast y": float(s.vy[i])} if i < s.movers else {},
        )
        for i in range(len(s.x))
    )
    return Level(
        format=FORMAT_VERSION,
        name="big",
        settings=Settings(most_objects=100_000),
        variables=tuple(Variable(name=n) for n in ("begun", "ended", "beyond")),
        kinds=kinds,
        objects=objects,
        order=tuple(made),
        trials=(Trial(name="t", length=60.0),),
    )


def by_gatillo(program: Program, record: bool = True) -> Run:
    """A run that has not started."""
    return Run(program, program.level.trials[0], record=record)


def gatillo_outcome(run: Run, s: Scene) -> Outcome:
    world = run.world
    return Outcome(
        world.x,
        world.y,
        world.variables["hits/number"][s.movers :],
        {k: float(v) for k, v in world.level.items()},
    )


class ByNumPy:
    """Run the big level by hand-written NumPy: arrays, a sorted grid for contacts, nothing that this level does not need."""

    def __init__(self, s: Scene) -> None:
        self.s = s
        m = s.movers
        self.x, self.y = s.x[:m].copy(), s.y[:m].copy()
        self.vx, self.vy = np.zeros(m), np.zeros(m)
        self.stone_x, self.stone_y = s.x[m:], s.y[m:]
        self.hits = np.zeros(len(self.stone_x))
        self.touching = np.zeros(0, dtype=np.int64)
        self.counts = {"begun": 0.0, "ended": 0.0, "beyond": 0.0}
        self.bands = bands(s)
        self.reach = 2 * RADIUS + SKIN
        self.column = np.int64(1 << 31)
        code = np.floor(self.stone_x / self.reach).astype(np.int64) * self.column + np.floor(
            self.stone_y / self.reach
        ).astype(np.int64)
        # stones stand still: their grid is sorted once
        self.order = np.argsort(code, kind="stable")
        self.code = code[self.order]
        self.first = True

    def tick(self) -> None:
        s, dt = self.s, 1 / 60
        self.x += self.vx * dt
        self.y += self.vy * dt
        now = self._contacts()
        begun = np.setdiff1d(now, self.touching, assume_unique=True)
        ended = np.setdiff1d(self.touching, now, assume_unique=True)
        self.touching = now
        if self.first:
            self.vx, self.vy = s.vx[: s.movers].copy(), s.vy[: s.movers].copy()
            self.first = False
        for at, speed in ((self.x, self.vx), (self.y, self.vy)):
            low = at < 0
            if low.any():
                speed[low] = np.abs(speed[low])
            high = at > s.side
            if high.any():
                speed[high] = -np.abs(speed[high])
        np.add.at(self.hits, begun & 0xFFFFFFFF, 1.0)
        self.counts["begun"] += len(begun)
        self.counts["ended"] += len(ended)
        for band, (across, up, edge) in enumerate(self.bands):
            x, y = (self.stone_x, self.stone_y) if band % 2 else (self.x, self.y)
            self.counts["beyond"] += int(np.count_nonzero(x * across + y * up > edge))

    def _contacts(self) -> np.ndarray:
        column = np.floor(self.x / self.reach).astype(np.int64)
        row = np.floor(self.y / self.reach).astype(np.int64)
        cells = (column[:, None] + np.array([-1, 0, 1])) * self.column + row[:, None]
        low = np.searchsorted(self.code, cells - 1, side="left").ravel()
        counts = np.searchsorted(self.code, cells + 1, side="right").ravel() - low
        total = int(counts.sum())
        starts = np.cumsum(counts) - counts
        stone = self.order[np.arange(total) - np.repeat(starts - low, counts)]
        mote = np.repeat(np.repeat(np.arange(len(self.x)), 3), counts)
        meet = (
            np.hypot(self.x[mote] - self.stone_x[stone], self.y[mote] - self.stone_y[stone]) - 2 * RADIUS
            <= SKIN
        )
        return np.sort((mote[meet].astype(np.int64) << 32) | stone[meet])

    def outcome(self) -> Outcome:
        return Outcome(
            np.concatenate((self.x, self.stone_x)),
            np.concatenate((self.y, self.stone_y)),
            self.hits,
            self.counts,
        )


class Mote:
    __slots__ = ("fast_x", "fast_y", "touching", "vx", "vy", "x", "y")


class Stone:
    __slots__ = ("hits", "x", "y")


class ByLoop:
    """Run the big level as a script would: objects, a loop, a dictionary of cells."""

    def __init__(self, s: Scene) -> None:
        self.s = s
        self.motes: list[Mote] = []
        self.stones: list[Stone] = []
        for i in range(len(s.x)):
            if i < s.movers:
                mote = Mote()
                mote.x, mote.y, mote.vx, mote.vy = float(s.x[i]), float(s.y[i]), 0.0, 0.0
                mote.fast_x, mote.fast_y, mote.touching = float(s.vx[i]), float(s.vy[i]), set()
                self.motes.append(mote)
            else:
                stone = Stone()
                stone.x, stone.y, stone.hits = float(s.x[i]), float(s.y[i]), 0
                self.stones.append(stone)
        self.cell = 2 * RADIUS + SKIN
        self.grid: dict[tuple[int, int], list[int]] = {}
        for number, stone in enumerate(self.stones):
            self.grid.setdefault(
                (math.floor(stone.x / self.cell), math.floor(stone.y / self.cell)), []
            ).append(number)
        self.counts = {"begun": 0.0, "ended": 0.0, "beyond": 0.0}
        self.bands = bands(s)
        self.first = True

    def tick(self) -> None:
        dt, side, cell, counts = 1 / 60, self.s.side, self.cell, self.counts
        for mote in self.motes:
            mote.x += mote.vx * dt
            mote.y += mote.vy * dt
        for mote in self.motes:
            now = set()
            column, row = math.floor(mote.x / cell), math.floor(mote.y / cell)
            for i in (column - 1, column, column + 1):
                for j in (row - 1, row, row + 1):
                    for number in self.grid.get((i, j), ()):
                        stone = self.stones[number]
                        if math.hypot(mote.x - stone.x, mote.y - stone.y) - 2 * RADIUS <= SKIN:
                            now.add(number)
            for number in now - mote.touching:
                self.stones[number].hits += 1
                counts["begun"] += 1
            counts["ended"] += len(mote.touching - now)
            mote.touching = now
        if self.first:
            for mote in self.motes:
                mote.vx, mote.vy = mote.fast_x, mote.fast_y
            self.first = False
        for mote in self.motes:
            if mote.x < 0:
                mote.vx = abs(mote.vx)
            if mote.x > side:
                mote.vx = -abs(mote.vx)
            if mote.y < 0:
                mote.vy = abs(mote.vy)
            if mote.y > side:
                mote.vy = -abs(mote.vy)
            for across, up, edge in self.bands[::2]:
                if mote.x * across + mote.y * up > edge:
                    counts["beyond"] += 1
        for stone in self.stones:
            for across, up, edge in self.bands[1::2]:
                if stone.x * across + stone.y * up > edge:
                    counts["beyond"] += 1

    def outcome(self) -> Outcome:
        everything = [*self.motes, *self.stones]
        return Outcome(
            np.array([o.x for o in everything]),
            np.array([o.y for o in everything]),
            np.array([stone.hits for stone in self.stones]),
            self.counts,
        )
