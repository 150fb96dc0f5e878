"""Conditions about objects and their relations to one another."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import condition, key, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("who and where", place=70)

Yes = NDArray[np.bool_]


@condition("{who} is a {kind}", "Whether the object is of a kind.", who=role(), kind=slot("kind"))
def is_of_kind(world: QueryApi, who: Rows, kind: str) -> Yes:
    return world.of_kind(who, kind)


@condition(
    "{who} is within {distance} of {where}",
    "Whether the centres are no farther apart than a distance.",
    pair=("who", "where", "distance"),
    who=role(),
    distance=number("100", "units between the middles"),
    where=slot("where"),
    measured=("distance", "who", "distance", "where"),
)
def within(world: QueryApi, who: Rows, distance: Numbers, where: tuple[Any, Any]) -> Any:
    x, y = world.place(who)
    return np.hypot(where[0] - x, where[1] - y) <= distance


@condition(
    "{b} is within {distance} and within {angle}° of where {a} faces",
    "Whether one object is in the cone before another: near enough, and not too far aside.",
    pair=("a", "b", "distance"),
    b=role(),
    distance=number("140", "units between the middles"),
    angle=number("45", "degrees to either side"),
    a=role(),
    measured=("cone", "a", "b", "distance", "angle"),
)
def in_cone(world: QueryApi, b: Rows, distance: Numbers, angle: Numbers, a: Rows) -> Any:
    ax, ay = world.place(a)
    bx, by = world.place(b)
    off = np.degrees(np.arctan2(by - ay, bx - ax)) - world.facing(a)
    off = 180.0 - np.mod(180.0 - off, 360.0)
    return (np.hypot(bx - ax, by - ay) <= distance) & (np.abs(off) <= angle)


@condition(
    "{a} has a clear view of {b}",
    "Whether no fixed object is between the two centres.",
    a=role(),
    b=role(),
)
def clear_view(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.clear_view(a, b)


@condition(
    "{b} is the first thing along a ray from {a}, turned {angle}°, reach {reach}",
    "Whether a straight line from where the object faces meets this one before any other.",
    b=role(),
    a=role(),
    angle=number("0", "degrees from where it faces, counter-clockwise"),
    reach=number("200", "units"),
)
def first_along_ray(world: QueryApi, b: Rows, a: Rows, angle: Numbers, reach: Numbers) -> Yes:
    found: Yes = world.first_hit(a, angle, reach) == b
    return found


@condition(
    "{a} is touching {b}",
    "Whether their shapes met in this tick's Contact phase.",
    pair=("a", "b", "contact"),
    a=role(),
    b=role(),
    measured=("gap", "a", "b"),
)
def is_touching(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.are_touching(a, b)


@condition("{key} is down", "Whether a key is down.", key=key())
def key_is_held(world: QueryApi, key: str) -> bool:
    return world.key_state(key)[1]


@condition("{who} is shown", "Whether the object is shown.", who=role())
def is_shown(world: QueryApi, who: Rows) -> Any:
    return world.property(who, "shown")


@condition("{a} is attached to {b}", "Whether one object follows the other.", a=role(), b=role())
def is_attached(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.attached(a, b)


@condition("{who} moves", "Whether the object has a velocity.", who=role())
def moves(world: QueryApi, who: Rows) -> Any:
    return (world.property(who, "vx") != 0) | (world.property(who, "vy") != 0)


@condition(
    "{who} holds at least {count} {item}",
    "Whether the object holds at least a number of an item.",
    who=role(),
    count=number("1"),
    item=slot("item"),
    measured=("items", "who", "count", "item"),
)
def holds_item(world: QueryApi, who: Rows, count: Numbers, item: str) -> Any:
    return world.items(who, item) >= count


@condition(
    "{rule} has fired",
    "Whether a rule has fired in this run.",
    rule=slot("rule"),
    measured=("fired", "rule"),
)
def has_fired(world: QueryApi, rule: str) -> bool:
    return world.last_fired(rule) > 0


@condition(
    "{rule} has fired in the last {time} s",
    "Whether a rule has fired a short while ago.",
    rule=slot("rule"),
    time=seconds("1"),
    measured=("fired", "rule", "time"),
)
def fired_lately(world: QueryApi, rule: str, time: Numbers) -> Any:
    last = world.last_fired(rule)
    return (last > 0) & ((world.tick - last) * world.dt <= np.asarray(time) + 1e-9)


@condition(
    "chance of {percent} %",
    "Holds at random; each match draws its own.",
    percent=number("50"),
    measured=("chance", "percent"),
)
def chance(world: QueryApi, percent: Numbers) -> Yes:
    yes: Yes = world.draw() * 100.0 < percent
    return yes


@condition(
    "it is past {time} s",
    "Whether the run has passed a time.",
    time=seconds("10"),
    measured=("time", "time"),
)
def past(world: QueryApi, time: Numbers) -> Any:
    return world.tick * world.dt > np.asarray(time) - 1e-9


@condition("all of these hold", "A group: every condition in it must hold.", joins="all")
def all_of(world: QueryApi) -> bool:
    return True


@condition("any of these holds", "A group: at least one condition in it must hold.", joins="any")
def any_of(world: QueryApi) -> bool:
    return True


@condition("none of these holds", "A group: no condition in it may hold.", joins="none")
def none_of(world: QueryApi) -> bool:
    return True
