"""Conditions about objects and their relations to one another."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import condition, key, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.kernels.mathematics import atan2d, length

SUBJECT = Subject("who and where", place=70)

Yes = NDArray[np.bool_]


@condition(
    "{who} is a {kind}",
    "Whether the object is of a kind.",
    who=role(),
    kind=slot("kind"),
    says=[
        "{who} is of kind/type {kind}",
        "kind/type of {who} is {kind}",
        "{who} is one of the {kind}",
        "{who} counts as {kind}",
        "{who} is any {kind}",
        "thing/it/this/object is a {kind}",
    ],
)
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
    alone=True,
    says=[
        worded("{who} gets/comes/arrives to/at {where}", distance="10"),
        worded("{who} reaches {where}", distance="10"),
        "{who} is {distance} away from {where}",
        "{who} is only {distance} from {where}",
        worded("{who} is standing/waiting/sitting at/on {where}", distance="10"),
        "{who} is/stands/sits/stays/waits [right] next-to/beside/alongside {where}",
        "{who} stands/sits/stays/waits near/by {where}",
        "{who} approaches/nears {where}",
        "{who} is next to {where}",
        "distance from/between {who} to/and {where} < {distance}",
        worded("distance from/between {who} to/and {where} > {distance}", negated=True),
        "{who} is nearer/closer than {distance} to/from {where}",
        "{who} is nearer/closer to {where} than {distance}",
        "{who} is in range/reach of {where}",
        "{who} is in range/reach {distance} of {where}",
        "{who} is within range/reach {distance} of {where}",
        "{who} is near/close to {where}",
        "{who} is near {where}",
        "{who} comes/gets near/close/nearer/closer to/than {distance} to {where}",
        "distance from/between {who} to/and {where} is less/under/below/smaller than {distance}",
        "distance of {who} to/from {where} is less/under/below/smaller than {distance}",
        "{who} is at most {distance} [away] from {where}",
        "{who} is less than {distance} [away] from {where}",
        "{who} is no more than {distance} [away] from {where}",
        "{who} is {distance} or less from {where}",
        "{who} is within {distance} units from/of {where}",
        worded("{who} is farther/further than {distance} [away] from {where}", negated=True),
        worded("{who} is farther/further [away] from {where} than {distance}", negated=True),
        worded("{who} is more than {distance} [away] from {where}", negated=True),
        worded("{who} is over {distance} [away] from {where}", negated=True),
        worded("{who} is at least {distance} [away] from {where}", negated=True),
        worded("{who} is out of range/reach [{distance}] of/from {where}", negated=True),
        worded("{who} is beyond/outside {distance} of/from {where}", negated=True),
        worded("more/greater/farther/further than {distance} [away] from! {where}", negated=True),
        worded("{who} is far [away] from {where}", negated=True),
        worded(
            "distance from/between {who} to/and {where} is more/over/above/greater/larger than {distance}",
            negated=True,
        ),
        worded("{who} is at/on! {where}", distance="10"),
        "{who} and {where} are less/closer/nearer than {distance} apart",
        "{who} and {where} are within {distance} of each other",
        worded("{who} and {where} are more/farther/further than {distance} apart", negated=True),
        "{who} comes/gets/goes within {distance} of {where}",
        "{who} is anywhere/somewhere/right near/around/about {where}",
        "there is [a/an/any/some] {who} near/close-to/by {where}",
    ],
)
def within(world: QueryApi, who: Rows, distance: Numbers, where: tuple[Any, Any]) -> Any:
    x, y = world.place(who)
    return length(where[0] - x, where[1] - y) <= distance


@condition(
    "{b} is within {distance} and within {angle}° of where {a} faces",
    "Whether one object is in the cone before another: near enough, and not too far aside.",
    pair=("a", "b", "distance"),
    b=role(),
    distance=number("140", "units between the middles"),
    angle=number("45", "degrees to either side"),
    a=role(),
    measured=("cone", "a", "b", "distance", "angle"),
    alone=True,
    says=[
        "{a} sees {b} within {distance} and {angle}",
        "{a} sees {b} in/within a cone of {angle} degrees/° and/within {distance}",
        "{a} sees {b} in its cone",
        "{a} sees {b} within {distance} [units]",
        "{b} is in the cone [of view] of {a} [within {distance}] [and {angle}]",
        "{b} is/stands in front of {a} [within {distance}]",
        "{b} is/stands in front of {a} within {distance} and {angle}",
        "{b} is ahead of {a} [within {distance}]",
        "{b} is in sight/view of {a} [within {distance}]",
        "{b} is within {distance} in front of {a}",
        "{a} faces/looks-at {b} within {distance} and {angle}",
        "{b} is/stands in front of {a} within {angle} degrees/° and {distance}",
        "{b} is in {a} 's field of view/vision",
        "{b} is in [the] sight/view of {a} within {angle} degrees/°",
        "{b} is within {angle} degrees/° [in] front [of] {a}",
        "{b} is within {angle} degrees/° of where {a} looks/faces",
        "{a} sees {b} within {angle} degrees/°",
        "{b} is in the field of view/vision of {a}",
        "{a} points/aims at/toward/towards {b}",
    ],
)
def in_cone(world: QueryApi, b: Rows, distance: Numbers, angle: Numbers, a: Rows) -> Any:
    ax, ay = world.place(a)
    bx, by = world.place(b)
    off = atan2d(by - ay, bx - ax) - world.facing(a)
    off = 180.0 - np.mod(180.0 - off, 360.0)
    return (length(bx - ax, by - ay) <= distance) & (np.abs(off) <= angle)


@condition(
    "{a} has a clear view of {b}",
    "Whether no fixed object is between the two centres.",
    a=role(),
    b=role(),
    says=[
        "{b} is in {a} 's line-of-sight/view/sight",
        "{b} is in {a} 's line of sight",
        "{a} 's view/line of {b} is clear/free/open/unblocked",
        worded("{a} is out of sight/view of/from/to {b}", negated=True),
        worded("{a} is hidden/concealed from {b}", negated=True),
        "[clear] line of sight from {a} to {b}",
        "{a} sees/spots {b}",
        "{a} can see {b}",
        "{a} has [a] line of sight to {b}",
        "{a} has [a] free/open/unblocked/clear line/view/sight to/of {b}",
        "[the] way/path/line between {a} and {b} is clear/free",
        "nothing is between {a} and {b}",
        "nothing blocks/bars the view/way/line/path [of sight] from/between {a} to/and {b}",
        "{b} is visible/seen from/to/by {a}",
        worded("something/anything is between {a} and {b}", negated=True),
        worded("view/line/sight from {a} to {b} is blocked", negated=True),
        worded("{a} cannot/can-not see {b}", negated=True),
        "nothing stands/is/lies between {a} and {b}",
        "{a} has {b} in view/sight",
    ],
)
def clear_view(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.clear_view(a, b)


@condition(
    "{a} has a clear view of the place {where}",
    "Whether no fixed object is between its centre and a place or a point. One in which the point lies is between.",
    a=role(),
    where=slot("where"),
    says=[
        "nothing is/lies/stands between {a} and the place/point/spot {where}",
        "[the] place/point/spot {where} is visible/seen from/to/by {a}",
        "{a} sees [the] place/point/spot {where}",
        "[the] way/path/line from {a} to [the] place/point/spot {where} is clear/free/open",
        "[clear] line of sight from {a} to [the] place/point/spot {where}",
        "{a} sees {where}",
        "{a} can see {where}",
        "{a} can see [the] place/point/spot {where}",
    ],
)
def clear_view_to(world: QueryApi, a: Rows, where: tuple[Any, Any]) -> Yes:
    return world.clear_view_to(a, *where)


@condition(
    "{b} is the first thing along a ray from {a}, turned {angle}°, reach {reach}",
    "Whether a straight line from where the object faces meets this one before any other.",
    b=role(),
    a=role(),
    angle=number("0", "degrees from where it faces, counter-clockwise"),
    reach=number("200", "units"),
    says=[
        "[a] ray from {a} hits/meets {b} [first]",
        "[a] ray from {a} turned {angle} [reach {reach}] hits/meets {b} [first]",
        "[the] first thing in front of {a} [within {reach}] is [a] {b}",
        "{b} is [the] first thing in front of {a} [within {reach}]",
        "{b} is straight ahead of {a} [within {reach}]",
        "first thing ahead of {a} is {b}",
        "raycast from {a} hits {b}",
        "{a} looks straight at {b} [reach {reach}]",
    ],
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
    says=[
        "{a} touches/overlaps/hits {b}",
        "{b} has {a} on it/top",
        "{a} is overlapping {b}",
        "{a} is in contact with {b}",
        "{a} stands/rests/lies/sits/is on/against {b}",
        "{a} collides with {b}",
        "{a} and {b} touch/overlap",
        worded("{b} is! pressed/weighed [down]", a="anything"),
        "{a} and {b} are touching",
        "there is [a/an] {a} on/touching {b}",
        worded("nothing is/lies/stands/rests on {b}", negated=True),
        worded("{b} has nothing on it", negated=True),
        worded("no {a} touches/hits/overlaps {b}", negated=True),
        "{a} on {b}",
    ],
)
def is_touching(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.are_touching(a, b)


@condition(
    "{key} is down",
    "Whether a key is down.",
    key=key(),
    same_as='key_down("{key}")',
    says=[
        "{key} [key] is held/pressed [down]",
        "hold/holding [down] {key} [key]",
        "key/button {key} is down/held/pressed",
        "player holds {key} [key] [down]",
        worded("{key} [key] is up/released", negated=True),
        "[the] player holds/keeps [down] {key} [down]",
        "[the] player is holding/pressing [down] {key} [down]",
        "{key} is being held/pressed [down]",
    ],
)
def key_is_held(world: QueryApi, key: str) -> bool:
    return world.key_state(key)[1]


@condition(
    "{who} is shown",
    "Whether the object is shown.",
    who=role(),
    says=[
        "{who} is visible/showing/displayed",
        "{who} can be seen",
        worded("{who} is hidden/invisible", negated=True),
        "{who} shows",
    ],
)
def is_shown(world: QueryApi, who: Rows) -> Any:
    return world.property(who, "shown")


@condition(
    "{a} is attached to {b}",
    "Whether one object follows the other.",
    a=role(),
    b=role(),
    alone=True,
    says=[
        worded("{a} is/has/gets [been] picked up", b="anything"),
        worded("{a} is/has/gets [been] taken/grabbed/lifted", b="anything"),
        worded("{a} is/has/gets [been] dropped/released", b="anything", negated=True),
        worded("{b} has! no {a}", negated=True),
        worded("{a} is [being] carried/attached", b="anything"),
        worded("somebody/someone/anyone/something carries/holds {a}", b="anything"),
        worded("{a} is free/loose/unattached", b="anything", negated=True),
        "{a} is fixed/tied/bound/fastened/joined/stuck/connected to {b}",
        "{a} is held/carried by {b}",
        "{b} holds/carries {a}",
        "{b} has! {a}",
        "{b} is holding/carrying {a}",
        "{a} hangs on/from {b}",
        "{a} is in/inside/aboard {b}",
        "{a} rides/sits in/on {b}",
        worded("{a} is detached/free from {b}", negated=True),
    ],
)
def is_attached(world: QueryApi, a: Rows, b: Rows) -> Yes:
    return world.attached(a, b)


@condition(
    "{who} moves",
    "Whether the object has a velocity.",
    who=role(),
    alone=True,
    says=[
        worded("{who} stops moving", negated=True),
        "{who} starts moving",
        "{who} is moving/going/travelling/underway",
        "{who} is in motion",
        "{who} is on the move",
        "{who} has velocity/speed",
        worded("{who} stands still", negated=True),
        worded("{who} is at rest", negated=True),
        worded("{who} is still/stopped/idle/stationary/resting/motionless", negated=True),
        worded("{who} stays still", negated=True),
        worded("{who} stops/halts moving", negated=True),
        worded("{who} has stopped/halted", negated=True),
        "{who} starts/begins [to] move/moving",
        worded("{who} comes to [a] rest/standstill/halt/stop", negated=True),
        worded("{who} comes/has come to [a] rest/standstill/halt/stop", negated=True),
        worded("{who} stands/sits/remains still/put", negated=True),
        worded("{who} does not move", negated=True),
    ],
)
def moves(world: QueryApi, who: Rows) -> Any:
    return (world.property(who, "vx") != 0) | (world.property(who, "vy") != 0)


@condition(
    "{who} holds at least {count} {item}",
    "Whether the object holds at least a number of an item.",
    who=role(),
    count=number("1"),
    item=slot("item"),
    measured=("items", "who", "count", "item"),
    alone=True,
    says=[
        "{who} has/holds/carries {count} {item} or more",
        "{who} has/carries/owns/possesses [at least] {count} {item}",
        "{who} with! {count} {item}",
        "{who} is carrying/holding [at least] {count} {item}",
        "{who} holds/has/carries {count} of {item}",
        "{who} holds {count} or more {item}",
        "{who} has/carries/owns {count} or more {item}",
        "{who} has got [at least] {count} {item}",
        worded("{who} has/holds/carries/owns no [more] {item}", negated=True, count="1"),
        worded("{who} has/holds/carries/owns fewer/less than {count} {item}", negated=True),
        worded("{who} has/holds/carries/owns at most {count} {item}", negated=True, count="{count} + 1"),
        worded("{who} has/holds/carries/owns no more than {count} {item}", negated=True, count="{count} + 1"),
        worded("{who} has/holds/carries/owns more than {count} {item}", count="{count} + 1"),
        worded("{who} is/has run out of {item}", negated=True, count="1"),
        "{item} is held/carried/owned by {who}",
        worded("{who} lacks {count} {item}", negated=True),
        worded("{who} is missing {count} {item}", negated=True),
        worded("{who} no {item}", negated=True, count="1"),
    ],
)
def holds_item(world: QueryApi, who: Rows, count: Numbers, item: str) -> Any:
    return world.items(who, item) >= count


@condition(
    "{rule} has fired",
    "Whether a rule has fired in this run.",
    rule=slot("rule"),
    measured=("fired", "rule"),
    says=[
        "rule {rule} has fired/run/happened",
        "{rule} has happened/run/triggered/occurred",
        "{rule} already fired/ran/happened",
        "rule {rule} already fired/ran/happened",
        worded("{rule} has yet to fire", negated=True),
    ],
)
def has_fired(world: QueryApi, rule: str) -> bool:
    return world.last_fired(rule) > 0


@condition(
    "{rule} has fired in the last {time} s",
    "Whether a rule has fired a short while ago.",
    rule=slot("rule"),
    time=seconds("1"),
    measured=("fired", "rule", "time"),
    says=[
        "less than {time} after/since {rule}",
        "within/inside {time} of/after {rule}",
        "{rule} fired/ran/happened less than {time} ago",
        "{rule} fired/ran/happened {time} ago",
        "{rule} went/goes off within/in/during the last/past {time}",
        "{rule} fired/ran/happened within/in/during the last/past {time}",
        "{rule} recently/lately fired",
        "{rule} fired/ran/happened recently/lately",
        "it is less than {time} since {rule} fired",
        "rule {rule} fired/ran/happened in/within [the] last/past {time}",
    ],
)
def fired_lately(world: QueryApi, rule: str, time: Numbers) -> Any:
    last = world.last_fired(rule)
    return (last > 0) & ((world.tick - last) * world.dt <= np.asarray(time) + 1e-9)


@condition(
    "chance of {percent} %",
    "Holds at random; each match draws its own.",
    percent=number("50"),
    measured=("chance", "percent"),
    says=[
        "{percent} chance/probability/likelihood",
        "with [a] [chance/probability] [of] {percent}",
        "with a {percent} chance/probability",
        "randomly {percent} of the time",
        "{percent} percent/%",
        "{percent} of the time",
        worded("half the time", percent="50"),
        "probability {percent}",
        "random chance [of] {percent}",
        worded("coin flip/toss", percent="50"),
        worded("one in {percent}", percent="100 / {percent}"),
        worded("half of the time", percent="50"),
        worded("one/1 time/times in/of {n}", numbers=("n",), percent="100 / {n}"),
        worded("one/1 out of {n} times", numbers=("n",), percent="100 / {n}"),
        worded("[with] [a] chance of one in {n}", numbers=("n",), percent="100 / {n}"),
        worded("one time in {n}", numbers=("n",), percent="100 / {n}"),
        worded("one out of {n} [times]", numbers=("n",), percent="100 / {n}"),
        worded("toss/flip [of] a coin", percent="50"),
        worded("[a] coin toss/flip", percent="50"),
    ],
)
def chance(world: QueryApi, percent: Numbers) -> Yes:
    yes: Yes = world.draw() * 100.0 < percent
    return yes


@condition(
    "it is past {time} s",
    "Whether the run has passed a time.",
    time=seconds("10"),
    measured=("time", "time"),
    says=[
        "level/game/run/play time is over/past/above {time}",
        "level/game/run [has] runs/lasts longer than {time}",
        "level/game/run has run/lasted [for] more/longer than {time}",
        "time is past/after/over/beyond {time}",
        "time is more/greater/later than {time}",
        "[it] is later than {time}",
        "after {time}",
        "[more than] {time} have/has gone by",
        "more than {time} have passed/elapsed",
        "{time} have/has passed/elapsed",
        "{time} into the level/run",
        worded("it is before/earlier {time}", negated=True),
        worded("it is earlier than {time}", negated=True),
        worded("less/fewer than {time} have passed/elapsed", negated=True),
        "it has been [more than] {time}",
        "from [second] {time} on/onward/onwards",
        "more than {time} have/has passed/elapsed/gone",
        "more than {time} is/are over/gone/up",
    ],
)
def past(world: QueryApi, time: Numbers) -> Any:
    return world.tick * world.dt > np.asarray(time) - 1e-9


@condition(
    "all of these hold",
    "A group: every condition in it must hold.",
    joins="all",
    says=[
        "all of the following [hold]",
        "all [of] these conditions [hold]",
        "every one of these [holds]",
        "all of these are true",
        "all conditions",
    ],
)
def all_of(world: QueryApi) -> bool:
    return True


@condition(
    "any of these holds",
    "A group: at least one condition in it must hold.",
    joins="any",
    says=[
        "any/one of the following [holds]",
        "at least one of these [holds]",
        "either of these [holds]",
        "any/one of these is true",
        "one of these [holds]",
    ],
)
def any_of(world: QueryApi) -> bool:
    return True


@condition(
    "none of these holds",
    "A group: no condition in it may hold.",
    joins="none",
    says=[
        "none of the following [hold]",
        "neither of these [holds]",
        "not any of these",
        "no one of these",
        "none of these is true",
    ],
)
def none_of(world: QueryApi) -> bool:
    return True
