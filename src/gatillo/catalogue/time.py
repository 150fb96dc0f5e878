"""Entries about time: the start, every tick, intervals, waiting."""

from typing import Any

from gatillo.catalogue.entry import action, occasion, role, seconds, slot
from gatillo.catalogue.facts import EveryTick, LevelStarts
from gatillo.catalogue.surroundings import NOBODY, ONCE, Asked, Candidates, Deed, Numbers
from gatillo.level.roles import Role


@occasion("the level starts", "Once, in the first tick.", wakes=lambda: [LevelStarts()])
def level_starts(world: Asked) -> Candidates:
    return ONCE if world.tick == 1 else NOBODY


@occasion("every tick", "In each tick of the run.", continuing=True, wakes=lambda: [EveryTick()])
def every_tick(world: Asked) -> Candidates:
    return ONCE


@occasion(
    "each {who} in every tick",
    "In each tick of the run, once for each object meant.",
    continuing=True,
    wakes=lambda who: [EveryTick()],
    who=role(),
)
def each_in_every_tick(world: Asked, who: Role) -> Candidates:
    rows = world.rows_of(who)
    return Candidates(len(rows), {who.token: rows})


@occasion(
    "every {period} s, first after {first} s",
    "Repeatedly, at an interval that is computed again each time.",
    alarm=("first", "period"),
    period=seconds("1", "time from one to the next, in seconds"),
    first=seconds("1", "time from the start to the first, in seconds"),
)
def every_seconds(world: Asked) -> Candidates:
    return ONCE


@occasion(
    "{time} s after the start",
    "Once, when the run reaches a time.",
    alarm=("time", ""),
    time=seconds("1"),
)
def after_start(world: Asked) -> Candidates:
    return ONCE


@action(
    "wait {time} s",
    "The actions below go on after this time, for the same objects.",
    time=seconds("1"),
)
def wait(deed: Deed, time: Numbers) -> None:
    deed.pause(time)


@action(
    "wait until {formula}",
    "The actions below go on in the first later tick in which the formula holds at its start, for the "
    "same objects; each match waits for its own.",
    formula=slot("yes/no formula"),
)
def wait_until(deed: Deed, formula: Any) -> None:
    deed.pause_until("formula")
