"""Entries about what objects carry: attached objects and items."""

from gatillo.catalogue.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.surroundings import Deed, Numbers, Rows


@action(
    "attach {who} to {carrier}, {how}",
    "It follows its carrier and turns with it, until detached.",
    who=role(),
    carrier=role(),
    how=choice("keeping the offset", "at its middle"),
)
def attach(deed: Deed, who: Rows, carrier: Rows, how: str) -> None:
    deed.attach(who, carrier, how == "keeping the offset", 0.0)


@action(
    "attach {who} to {carrier}, lagging {time} s",
    "It keeps its present offset and trails its carrier smoothly: it covers 63 % of the remaining way "
    "in this time (after t seconds exp(-t / time) of it is left).",
    who=role(),
    carrier=role(),
    time=seconds("0.2"),
)
def attach_lagging(deed: Deed, who: Rows, carrier: Rows, time: Numbers) -> None:
    deed.attach(who, carrier, True, time)


@action(
    "attach {who} to the {point} of {carrier}",
    "It follows that point of its carrier, and turns with it.",
    who=role(),
    point=slot("point"),
    carrier=role(),
)
def attach_at_point(deed: Deed, who: Rows, point: str, carrier: Rows) -> None:
    deed.attach_at(who, carrier, point)


@action("detach {who}", "It no longer follows anything.", who=role())
def detach(deed: Deed, who: Rows) -> None:
    deed.detach(who)


@action(
    "give {count} {item} to {who}",
    "It holds more of an item.",
    count=number("1"),
    item=slot("item"),
    who=role(),
)
def give(deed: Deed, count: Numbers, item: str, who: Rows) -> None:
    deed.give(who, item, count)


@action(
    "take {count} {item} from {who}",
    "It holds less of an item, never below none.",
    count=number("1"),
    item=slot("item"),
    who=role(),
)
def take(deed: Deed, count: Numbers, item: str, who: Rows) -> None:
    deed.give(who, item, -count)
