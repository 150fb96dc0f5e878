"""Entries about routes: walking them, being sent along them, arriving at their stops."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Numbers, Rows
from gatillo.catalogue.declare.entry import (
    Kernel,
    action,
    behaviour,
    choice,
    number,
    occasion,
    role,
    seconds,
    slot,
)
from gatillo.catalogue.declare.facts import Arrival
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.catalogue.entries.steering import FACES, KEEPS_FACING
from gatillo.catalogue.entries.timed_moves import EASINGS
from gatillo.kernels import walking as kernel
from gatillo.level.roles import Role

SUBJECT = Subject("routes", place=210)

_HOW = choice("in a loop", "once", "there and back")
_EASING = choice(*EASINGS)


@behaviour(
    "walk the route {route} at {speed}, {how}, {facing}",
    "Walks from where it is to the first stop and on, resting at each stop for that stop's pause.",
    kernel=Kernel(kernel.keep_walking, "turns"),
    route=slot("route"),
    speed=number("60", "units a second"),
    how=_HOW,
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "follow/patrol/travel [the] route/path/track {route}",
        "move/go along {route}",
        "pace {route}",
    ],
)
def walk_route(
    world: BehaviourApi, rows: Rows, route: str, speed: NDArray[np.float64], how: str, facing: str
) -> None:
    world.walk(rows, route, how, facing == FACES, speed, 0.0, EASINGS[0])


@behaviour(
    "ride the route {route}, {time} s for each leg, {easing}, {how}, {facing}",
    "Takes the same time from each stop to the next, whatever the distance, and can ease in and out of "
    "each leg.",
    kernel=Kernel(kernel.keep_riding, "turns"),
    route=slot("route"),
    time=seconds("2", "for each leg"),
    easing=_EASING,
    how=_HOW,
    facing=choice(KEEPS_FACING, FACES),
    says=[
        "follow/travel/move [along] [the] route/path/track {route} in {time}",
        "ride along {route}",
        "moving platform/lift/train",
    ],
)
def walk_route_timed(
    world: BehaviourApi, rows: Rows, route: str, time: NDArray[np.float64], easing: str, how: str, facing: str
) -> None:
    world.walk(rows, route, how, facing == FACES, 0.0, np.maximum(time, 1e-6), easing)


@action(
    "send {who} along {route} at {speed}, {how}",
    "It walks this route from where it is, and no other until it has reached the end.",
    one_shot=True,
    who=role(),
    route=slot("route"),
    speed=number("60", "units a second"),
    how=choice("once", "in a loop", "there and back"),
    says=[
        "send/run/drive/move {who} along {route} {how} at/with [a] [speed] [of] {speed}",
        "move/let/drive/run/walk/start/guide {who} along/down/over/on [the] [route/track/path] {route} [at {speed}] {how}",
        "send {who} down/over/on [the] [route/track/path] {route} at {speed} {how}",
        "{who} follows/walks/runs/travels/rides [along] [the] [route/track/path] {route} [at {speed}] {how}",
        "let/make {who} follow/walk/travel/ride/go [along] [the] [route/track/path] {route} [at {speed}] {how}",
        "send {who} along [the] route/track/path {route} at {speed} {how}",
        "{who} patrols [along] {route} {how} at/with [speed] {speed}",
        "patrol {route} [with {who}]",
        "let/make {who} patrol/follow {route}",
        "{who} follows/walks/rides/patrols {route} {how} at/with [speed] {speed}",
        worded("make/let {who} loop/circle {route} [at/with] [speed] {speed}", how="in a loop"),
        "let/make {who} go/walk/move/ride/run {how} along {route}",
        worded("run/drive/send/move {who} back and forth along {route}", how="there and back"),
        worded("let {who} run/drive/move/go back and forth along {route}", how="there and back"),
        "take {who} along [the] {route} [at {speed}]",
        "let {who} roll/glide/slide along [the] {route} [at {speed}]",
        "{who} rolls/glides/slides along [the] {route} [at {speed}]",
    ],
)
def send_along(world: ActionApi, who: Rows, route: str, speed: Numbers, how: str) -> None:
    world.walk(who, route, how, speed, 0.0, EASINGS[0])


@action(
    "send {who} along {route}, {time} s for each leg, {easing}, {how}",
    "It walks this route, taking the same time from each stop to the next.",
    one_shot=True,
    who=role(),
    route=slot("route"),
    time=seconds("2", "for each leg"),
    easing=_EASING,
    how=choice("once", "in a loop", "there and back"),
    says=[
        "move/let/drive/run/walk/guide {who} along/down/over [the] [route/track/path] {route} [in/with/taking] {time} for/per [each/a] [leg] {easing} {how}",
        "send {who} along/down [the] [route/track/path] {route} [with/taking] {time} per/a/each leg {easing} {how}",
        "{who} follows/walks/travels/rides [along] {route} {time} for/per [each/a] [leg] {easing} {how}",
        "let/make {who} follow/walk/travel/ride [along] {route} {time} for/per [each/a] [leg] {easing} {how}",
        "take {who} along [the] {route} in {time} [a/each/per leg]",
    ],
)
def send_along_timed(world: ActionApi, who: Rows, route: str, time: Numbers, easing: str, how: str) -> None:
    world.walk(who, route, how, 0.0, np.maximum(time, 1e-6), easing)


@occasion(
    "{who} arrives at stop {stop} of its route",
    "Once, each time it reaches that stop; 1 is the first.",
    wakes=lambda who, stop: [Arrival("stop")],
    who=role(),
    stop=number("1", "the number of the stop"),
    says=[
        "{who} reaches/hits/gets [to] stop/waypoint {stop}",
        "{who} is at stop/waypoint {stop}",
        "{who} comes/arrives to/at stop/waypoint {stop}",
        "stop/waypoint {stop} is reached by {who}",
        "{who} comes to stop number {stop}",
        "{who} passes [stop] {stop}",
        "{who} passes stop {stop} of its route",
    ],
)
def arrives_at_stop(world: QueryApi, who: Role, stop: float) -> Candidates:
    rows, numbers = world.arrived("stop", who)
    rows = rows[numbers == round(stop)]
    return Candidates(len(rows), {who.token: rows})


@occasion(
    "{who} arrives at any stop of its route",
    "Once, each time it reaches a stop.",
    wakes=lambda who: [Arrival("stop")],
    who=role(),
    says=[
        "{who} reaches/hits any/a/each/every stop/waypoint",
        "{who} comes/gets to any/a/each/every stop/waypoint",
        "{who} arrives at each/every/a/any stop/waypoint",
        "{who} stops along its route",
        "at every/each/any stop of {who}",
        "{who} stops anywhere",
    ],
)
def arrives_at_any_stop(world: QueryApi, who: Role) -> Candidates:
    rows, _ = world.arrived("stop", who)
    return Candidates(len(rows), {who.token: rows})


@occasion(
    "{who} comes to the end of its route",
    "Once in each round: at the last stop, or back at the first where it walks there and back.",
    wakes=lambda who: [Arrival("end")],
    who=role(),
    says=[
        "{who} reaches/finishes/completes/ends [the] [end] [of] its/the route/track/path",
        "{who} arrives/is at the end [of] [its] [route/track/path]",
        "{who} is done with its route",
        "{who} reaches/gets [to] its/the last stop",
        "{who} reaches/comes [to] the end",
        "{who} gets/comes/goes/arrives/is to/at [the] end [of] [its] [route/way/path]",
        "{who} is done with its route",
        "{who} finishes/completes its route",
    ],
)
def arrives_at_end(world: QueryApi, who: Role) -> Candidates:
    rows, _ = world.arrived("end", who)
    return Candidates(len(rows), {who.token: rows})
