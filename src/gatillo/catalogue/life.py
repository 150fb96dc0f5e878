"""Entries that bring objects into the level and take them out."""

from gatillo.catalogue.entry import action, number, role, slot
from gatillo.catalogue.surroundings import Deed, Numbers, Rows, Where


@action(
    "create {count} {kind} at {where}",
    "Makes objects at a spot, at random in an area, at an object or at the pointer. "
    "The actions below can speak of “new KIND”.",
    creates="kind",
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
