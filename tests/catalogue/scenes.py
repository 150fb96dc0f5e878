"""A scene of moths, lamps, walls and places, for trying catalogue entries in."""

from __future__ import annotations

from msgspec.structs import replace

from building import add, c, fired, kind, level, rule, things
from gatillo.level.model import (
    Area,
    Circle,
    PointerMove,
    Rectangle,
    Spot,
)

MOTH = kind("Moth", 5, tags=("insect",), has={"speed": 10.0, "seen": False, "tag": ""})
LAMP = kind("Lamp", 5)
WALL = kind("Wall", box=(10, 100), contact="fixed")
PLACES = (
    Area(name="yard", x=100, y=0, shape=Rectangle(width=40, height=40)),
    Area(name="pond", x=0, y=100, shape=Circle(radius=20)),
    Spot(name="gate", x=30, y=40),
)


def scene(*order, moths=((0, 0),), lamps=(), walls=(), pointer=(), keys=(), seconds=1.0, rate=60, **more):
    """A level with moths (ids from 1), lamps (from 50), walls (from 80), and places."""
    built = level(
        *order,
        kinds=(MOTH, LAMP, WALL),
        places=PLACES,
        objects=(
            *things("Moth", *moths),
            *things("Lamp", *lamps, first=50),
            *things("Wall", *walls, first=80),
        ),
        has={"n": 0.0, "on": False, "word": "", **more.pop("has", {})},
        keys=keys,
        seconds=seconds,
        rate=rate,
        **more,
    )
    moves = tuple(PointerMove(at=t, x=x, y=y) for t, x, y in pointer)
    trial = built.trials[0]
    return replace(built, trials=(replace(trial, input=replace(trial.input, pointer=moves)),))


def ticks(made, name="r"):
    return [t for t, _ in fired(made, name)]


def count(when, **more):
    return rule("r", when=when, do=add("level.n"), **more)


WALK = rule("walk", do=c("move_by", who="Moth", dx="10"))
