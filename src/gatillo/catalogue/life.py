"""Entries that bring objects into the level and take them out."""

import numpy as np

from gatillo.catalogue.entry import action, behaviour, number, role, seconds, slot
from gatillo.catalogue.surroundings import Deed, Motion, Numbers, Rows, Where


@behaviour(
    "live {time} s",
    "Removes the object when its time is over; the time counts while this is on.",
    keeps={"lived": 0.0},
    time=seconds("3", "from when it is created, or from the start"),
)
def life_span(motion: Motion, rows: Rows, time: np.ndarray) -> None:
    lived = motion.recall("lived") + motion.dt
    motion.keep("lived", lived)
    over = lived >= time - 1e-9
    if over.any():
        motion.remove(rows[over])


@action(
    "create {count} {kind} at {where}",
    "Makes objects at a spot, at random in an area, at an object or at the pointer. "
    "The actions below can speak of “new KIND”.",
    one_shot=True,
    count=number("1", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
)
def create(deed: Deed, count: Numbers, kind: str, where: Where) -> None:
    deed.create(kind, where, count)


@action("remove {who}", "Takes the object out of the level at the end of the tick.", who=role())
def remove(deed: Deed, who: Rows) -> None:
    deed.remove(who)


@action(
    "create {count} {kind} in a ring about {where}, radius {radius}",
    "Makes objects evenly spaced on a circle.",
    one_shot=True,
    count=number("6", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
    radius=number("60", "units"),
)
def create_ring(deed: Deed, count: Numbers, kind: str, where: Where, radius: Numbers) -> None:
    deed.create(kind, where, count, ring=radius)


@action("show {who}", "Draws it from now on.", who=role())
def show(deed: Deed, who: Rows) -> None:
    deed.put_property(who, "shown", True)


@action(
    "hide {who}",
    "Stops drawing it; it still matches and touches.",
    who=role(),
)
def hide(deed: Deed, who: Rows) -> None:
    deed.put_property(who, "shown", False)


@action(
    "set the depth of {who} to {depth}",
    "Of two overlapping objects, the one with the higher number is in front.",
    who=role(),
    depth=number("0"),
)
def set_depth(deed: Deed, who: Rows, depth: Numbers) -> None:
    deed.put_property(who, "depth", depth)


@action(
    "set the scale of {who} to {scale}",
    "1 is the size of its kind; it stays above 0.",
    who=role(),
    scale=number("1"),
)
def set_scale(deed: Deed, who: Rows, scale: Numbers) -> None:
    deed.put_property(who, "scale", np.maximum(scale, 0.001))


@action(
    "set the colour of {who} to {colour}",
    "Gives it a colour of its own.",
    who=role(),
    colour=slot("colour", "#0E6B50"),
)
def set_colour(deed: Deed, who: Rows, colour: str) -> None:
    deed.colour(who, colour)
