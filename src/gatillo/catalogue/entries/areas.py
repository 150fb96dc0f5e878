"""Entries about areas: which objects are in them, enter and leave. An object is in an area if its middle is."""

from typing import Any

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Numbers, Rows
from gatillo.catalogue.declare.entry import area, choice, condition, number, occasion, role, slot
from gatillo.catalogue.declare.facts import AreaChanged, AreaOccupied
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.entries.variables import COMPARISONS
from gatillo.level.roles import Role

SUBJECT = Subject("areas", place=40)


def _who(world: QueryApi, state: str, a: Role, place: str) -> Candidates:
    rows = world.in_area(state, a, place)
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "{a} enters {place}",
    "Once for each object, in the tick in which it enters.",
    wakes=lambda a, place: [AreaChanged(place)],
    a=role(),
    place=area(),
    measured=("inside", "a", "place"),
    begins="been inside",
)
def enters(world: QueryApi, a: Role, place: str) -> Candidates:
    return _who(world, "entered", a, place)


@occasion(
    "{a} is in {place}",
    "In every tick, for each object that is in the area.",
    continuing=True,
    wakes=lambda a, place: [AreaOccupied(place)],
    a=role(),
    place=area(),
    measured=("inside", "a", "place"),
)
def is_in(world: QueryApi, a: Role, place: str) -> Candidates:
    return _who(world, "in", a, place)


@occasion(
    "{a} leaves {place}",
    "Once for each object, in the tick in which it leaves.",
    wakes=lambda a, place: [AreaChanged(place)],
    a=role(),
    place=area(),
    measured=("outside", "a", "place"),
)
def leaves(world: QueryApi, a: Role, place: str) -> Candidates:
    return _who(world, "left", a, place)


@occasion(
    "{place} becomes occupied by {a}",
    "Once, when the first of them enters and none was inside.",
    wakes=lambda a, place: [AreaChanged(place)],
    place=area(),
    a=role(),
)
def becomes_occupied(world: QueryApi, a: Role, place: str) -> Candidates:
    now, before = len(world.in_area("in", a, place)), world.were_in(a, place)
    return ONCE if now and not before else NOBODY


@occasion(
    "{place} becomes empty of {a}",
    "Once, when the last of them has left.",
    wakes=lambda a, place: [AreaChanged(place)],
    place=area(),
    a=role(),
)
def becomes_empty(world: QueryApi, a: Role, place: str) -> Candidates:
    now, before = len(world.in_area("in", a, place)), world.were_in(a, place)
    return ONCE if before and not now else NOBODY


@condition(
    "{who} is within {place}",
    "Whether the object's centre is in the area.",
    who=role(),
    place=area(),
    measured=("inside", "who", "place"),
)
def in_area(world: QueryApi, who: Rows, place: str) -> Any:
    return world.inside(who, place)


@condition(
    "there are {comparison} {count} {kind}",
    "How many objects of a kind there are in the level.",
    comparison=choice("=", ">", ">=", "<>", "<=", "<"),
    count=number("0"),
    kind=slot("kind"),
    measured=("count", "kind"),
)
def there_are(world: QueryApi, comparison: str, count: Numbers, kind: str) -> Any:
    return COMPARISONS[comparison](world.count(kind, None), count)


@condition(
    "there are {comparison} {count} {kind} in {place}",
    "How many objects of a kind there are in an area.",
    comparison=choice("=", ">", ">=", "<>", "<=", "<"),
    count=number("0"),
    kind=slot("kind"),
    place=area(),
    measured=("count", "kind", "place"),
)
def there_are_in(world: QueryApi, comparison: str, count: Numbers, kind: str, place: str) -> Any:
    return COMPARISONS[comparison](world.count(kind, place), count)
