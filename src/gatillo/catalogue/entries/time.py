"""Entries about time: the start, every tick, intervals, waiting."""

from typing import Any

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Numbers
from gatillo.catalogue.declare.entry import action, occasion, role, seconds, slot
from gatillo.catalogue.declare.facts import EveryTick, LevelStarts
from gatillo.catalogue.declare.subjects import Subject
from gatillo.level.roles import Role

SUBJECT = Subject("time", place=10)


@occasion("the level starts", "Once, in the first tick.", wakes=lambda: [LevelStarts()])
def level_starts(world: QueryApi) -> Candidates:
    return ONCE if world.tick == 1 else NOBODY


@occasion("every tick", "In each tick of the run.", continuing=True, wakes=lambda: [EveryTick()])
def every_tick(world: QueryApi) -> Candidates:
    return ONCE


@occasion(
    "each {who} in every tick",
    "In each tick of the run, once for each object meant.",
    continuing=True,
    wakes=lambda who: [EveryTick()],
    who=role(),
)
def each_in_every_tick(world: QueryApi, who: Role) -> Candidates:
    rows = world.rows_of(who)
    return Candidates(len(rows), {who.token: rows})


@occasion(
    "every {period} s, first after {first} s",
    "Repeatedly, at an interval that is computed again each time.",
    alarm=("first", "period"),
    period=seconds("1", "time from one to the next, in seconds"),
    first=seconds("1", "time from the start to the first, in seconds"),
)
def every_seconds(world: QueryApi) -> Candidates:
    return ONCE


@occasion(
    "{time} s after the start",
    "Once, when the run reaches a time.",
    alarm=("time", ""),
    time=seconds("1"),
)
def after_start(world: QueryApi) -> Candidates:
    return ONCE


@action(
    "wait {time} s",
    "The actions below go on after this time, for the same objects.",
    time=seconds("1"),
)
def wait(world: ActionApi, time: Numbers) -> None:
    world.pause(time)


@action(
    "wait until {formula}",
    "The actions below go on in the first later tick in which the formula holds at its start, for the "
    "same objects; each match waits for its own.",
    formula=slot("yes/no formula"),
)
def wait_until(world: ActionApi, formula: Any) -> None:
    world.pause_until("formula")
