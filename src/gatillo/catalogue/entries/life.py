"""Entries that bring objects into the level and take them out."""

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.declare.entry import action, behaviour, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("coming, going, looks", place=90)


@behaviour(
    "live {time} s",
    "Removes the object when its time is over; the time counts while this is on.",
    remembers={"lived": 0.0},
    time=seconds("3", "from when it is created, or from the start"),
)
def life_span(world: BehaviourApi, rows: Rows, time: np.ndarray) -> None:
    lived = world.recall("lived") + world.dt
    world.remember("lived", lived)
    over = lived >= time - 1e-9
    if over.any():
        world.remove(rows[over])


@action(
    "create {count} {kind} at {where}",
    "Makes objects at a spot, at random in an area, at an object or at the pointer. "
    "The actions below can speak of “new KIND”.",
    one_shot=True,
    count=number("1", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
)
def create(world: ActionApi, count: Numbers, kind: str, where: Where) -> None:
    world.create(kind, where, count)


@action("remove {who}", "Takes the object out of the level at the end of the tick.", who=role())
def remove(world: ActionApi, who: Rows) -> None:
    world.remove(who)


@action(
    "create {count} {kind} in a ring about {where}, radius {radius}",
    "Makes objects evenly spaced on a circle.",
    one_shot=True,
    count=number("6", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
    radius=number("60", "units"),
)
def create_ring(world: ActionApi, count: Numbers, kind: str, where: Where, radius: Numbers) -> None:
    world.create(kind, where, count, ring=radius)


@action("show {who}", "Draws it from now on.", who=role())
def show(world: ActionApi, who: Rows) -> None:
    world.put_property(who, "shown", True)


@action(
    "hide {who}",
    "Stops drawing it; it still matches and touches.",
    who=role(),
)
def hide(world: ActionApi, who: Rows) -> None:
    world.put_property(who, "shown", False)


@action(
    "set the depth of {who} to {depth}",
    "Of two overlapping objects, the one with the higher number is in front.",
    who=role(),
    depth=number("0"),
)
def set_depth(world: ActionApi, who: Rows, depth: Numbers) -> None:
    world.put_property(who, "depth", depth)


@action(
    "set the scale of {who} to {scale}",
    "1 is the size of its kind; it stays above 0.",
    who=role(),
    scale=number("1"),
)
def set_scale(world: ActionApi, who: Rows, scale: Numbers) -> None:
    world.put_property(who, "scale", np.maximum(scale, 0.001))


@action(
    "set the colour of {who} to {colour}",
    "Gives it a colour of its own.",
    who=role(),
    colour=slot("colour", "#0E6B50"),
)
def set_colour(world: ActionApi, who: Rows, colour: str) -> None:
    world.colour(who, colour)
