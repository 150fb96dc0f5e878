"""Entries about what objects carry: attached objects and items."""

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("attaching, items", place=160)


@action(
    "attach {who} to {carrier}, {how}",
    "It follows its carrier and turns with it, until detached.",
    who=role(),
    carrier=role(),
    how=choice("keeping the offset", "at its middle"),
)
def attach(world: ActionApi, who: Rows, carrier: Rows, how: str) -> None:
    world.attach(who, carrier, how == "keeping the offset", 0.0)


@action(
    "attach {who} to {carrier}, lagging {time} s",
    "It keeps its present offset and trails its carrier smoothly: it covers 63 % of the remaining way "
    "in this time (after t seconds exp(-t / time) of it is left).",
    who=role(),
    carrier=role(),
    time=seconds("0.2"),
)
def attach_lagging(world: ActionApi, who: Rows, carrier: Rows, time: Numbers) -> None:
    world.attach(who, carrier, True, time)


@action(
    "attach {who} to the {point} of {carrier}",
    "It follows that point of its carrier, and turns with it.",
    who=role(),
    point=slot("point"),
    carrier=role(),
)
def attach_at_point(world: ActionApi, who: Rows, point: str, carrier: Rows) -> None:
    world.attach_at(who, carrier, point)


@action("detach {who}", "It no longer follows anything.", who=role())
def detach(world: ActionApi, who: Rows) -> None:
    world.detach(who)


@action(
    "give {count} {item} to {who}",
    "It holds more of an item.",
    count=number("1"),
    item=slot("item"),
    who=role(),
)
def give(world: ActionApi, count: Numbers, item: str, who: Rows) -> None:
    world.give(who, item, count)


@action(
    "take {count} {item} from {who}",
    "It holds less of an item, never below none.",
    count=number("1"),
    item=slot("item"),
    who=role(),
)
def take(world: ActionApi, count: Numbers, item: str, who: Rows) -> None:
    world.give(who, item, -count)
