"""Entries about areas: which objects are in them, enter and leave. An object is in an area if its middle is."""

from typing import Any

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Numbers, Rows
from gatillo.catalogue.declare.entry import area, choice, condition, number, occasion, role, slot
from gatillo.catalogue.declare.facts import AreaChanged, AreaOccupied
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
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
    says=[
        "{a} lands/drops/arrives in/inside {place}",
        "{a} falls/slides/drops/jumps/sails/hops/bounces/crawls/sneaks in/into/inside {place}",
        "{a} sets foot in/on {place}",
        "{a} goes/comes/walks/gets/steps/moves/runs/flies/crosses/drives/rolls/swims/wanders in/into/inside/to/onto/on {place}",
        "{a} goes/comes/walks/gets/steps/moves inside {place}",
        "{a} arrives in/at {place}",
        "{a} reaches {place}",
        "{place} is entered/reached by {a}",
        "{a} gets to {place}",
        "{a} starts to be in {place}",
    ],
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
    says=[
        "{a} is inside/within {place}",
        "{a} is inside of {place}",
        "{a} stays/remains/stands/waits in/inside {place}",
        "{a} keeps being in {place}",
        "{a} flies/runs/drives/rolls/moves [around/about] in/inside {place}",
    ],
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
    says=[
        "{a} falls/slides/drops/jumps/sails/hops/bounces/crawls/sneaks out/out-of {place}",
        "{a} exits/quits/departs {place}",
        "{a} goes/comes/walks/gets/steps/moves/runs/flies out of {place}",
        "{a} goes/comes/walks/gets/steps/moves/runs out {place}",
        "{a} is no longer in/inside/within {place}",
        "{place} is left/exited by {a}",
        "{a} has left {place}",
        "after {a} leaves/exits {place}",
        "{a} rolls/drives/flies/runs out of {place}",
        "{a} stops being in/inside {place}",
        "{a} is not in {place} any more/longer",
    ],
)
def leaves(world: QueryApi, a: Role, place: str) -> Candidates:
    return _who(world, "left", a, place)


@occasion(
    "{place} becomes occupied by {a}",
    "Once, when the first of them enters and none was inside.",
    wakes=lambda a, place: [AreaChanged(place)],
    place=area(),
    a=role(),
    says=[
        "{place} gets/is occupied by {a}",
        "first {a} enters/reaches/in {place}",
        "{place} is no longer empty of {a}",
        "{a} is first into/in {place}",
        "{place} gets its first {a}",
    ],
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
    says=[
        "{place} is/gets emptied of {a}",
        "{place} gets empty of {a}",
        "last {a} leaves/exits {place}",
        "no [more] {a} is left in {place}",
        "no more {a} in {place}",
        "{place} has no [more] {a} [left]",
        "all {a} have left {place}",
        "every {a} has left {place}",
        "{place} is clear/free of {a}",
        "nobody/nothing is in/inside {place} [any] more/anymore",
        "{place} empties/clears",
    ],
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
    alone=True,
    says=[
        worded("{place} is occupied/taken", who="anything"),
        worded("there is something/somebody/someone/anything in {place}", who="anything"),
        "there is a/an/some {who} in/inside {place}",
        "{who} is in/inside {place}",
        "{who} is on/at! {place}",
        "{who} is inside of {place}",
        "{who} stands/sits/lies/stays/remains in/inside/within {place}",
        worded("{who} is outside [of] {place}", negated=True),
        worded("{who} is out of {place}", negated=True),
        "{place} contains/holds {who}",
        "{who} is somewhere/anywhere in/inside {place}",
    ],
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
    says=[
        worded("there is/are [a/an/any/some] {kind}", comparison=">=", count="1"),
        worded("there is/are [a/an] {kind} left/around/remaining", comparison=">=", count="1"),
        worded("{kind} are gone/removed/destroyed", comparison="=", count="0"),
        "[number/count of] {kind} is {comparison} {count}",
        "number/count of {kind} {comparison} {count}",
        "there is/are {comparison} {count} {kind} left/remaining/around",
        "{comparison} {count} {kind} left/remain/remaining/exist/exists",
        worded("{count} {kind} left/remain/remaining/exist/exists", comparison="="),
        worded("no [more] {kind} [are] left/remaining", comparison="=", count="0"),
        worded("there are/is no [more] {kind} [left/remaining]", comparison="=", count="0"),
        worded("no {kind} exist/exists/remain/remains", comparison="=", count="0"),
        worded("no more {kind}", comparison="=", count="0"),
        worded(
            "all {kind} are gone/removed/destroyed/dead/collected/taken/eaten/gathered",
            comparison="=",
            count="0",
        ),
        worded("only {count} {kind} [are] left", comparison="="),
        worded("any/some {kind} [are] left/exist/exists/remain", comparison=">", count="0"),
        worded("a/an/one {kind} exists/remains", comparison=">=", count="1"),
        worded("there is a {kind}", comparison=">=", count="1"),
        "{comparison} {count} {kind}",
        worded("there is/are still/some/any {kind} [left]", comparison=">", count="0"),
        worded("only {count} {kind} remain/remains", comparison="="),
        worded("no {kind}", comparison="=", count="0"),
    ],
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
    says=[
        worded("there is/are [a/an/any/some] {kind} in/inside {place}", comparison=">=", count="1"),
        "number/count of {kind} in/inside {place} is {comparison} {count}",
        "number/count of {kind} in/inside {place} {comparison} {count}",
        "{place} has/contains/holds {comparison} {count} {kind}",
        "{comparison} {count} {kind} [are] in/inside {place}",
        worded("no [more] {kind} [are] [left] in/inside {place}", comparison="=", count="0"),
        worded("there are/is no [more] {kind} [left] in/inside {place}", comparison="=", count="0"),
        worded("{place} is empty of {kind}", comparison="=", count="0"),
        worded("{place} has/contains/holds no {kind}", comparison="=", count="0"),
        worded("there is/are some/any {kind} in/inside {place}", comparison=">", count="0"),
        worded("nothing/nobody/none [is/are] [left] in/inside {place}", comparison="=", count="0"),
    ],
)
def there_are_in(world: QueryApi, comparison: str, count: Numbers, kind: str, place: str) -> Any:
    return COMPARISONS[comparison](world.count(kind, place), count)
