"""Entries about time: the start, every tick, intervals, waiting."""

from gatillo.catalogue.entry import ALWAYS, action, occasion, seconds
from gatillo.catalogue.surroundings import NOBODY, ONCE, Asked, Candidates, Deed, Numbers


@occasion("the level starts", "Once, in the first tick.", wakes=lambda: [("start",)])
def level_starts(world: Asked) -> Candidates:
    return ONCE if world.tick == 1 else NOBODY


@occasion("every tick", "In each tick of the run.", continuing=True, wakes=lambda: [ALWAYS])
def every_tick(world: Asked) -> Candidates:
    return ONCE


@occasion(
    "every {period} s, first after {first} s",
    "Again and again at an interval. The interval is worked out anew each time.",
    alarm=("first", "period"),
    period=seconds("1", "time from one to the next, in seconds"),
    first=seconds("1", "time from the start to the first, in seconds"),
)
def every_seconds(world: Asked) -> Candidates:
    return ONCE


@occasion(
    "{time} s after the start",
    "Once, when the run has come to a time.",
    alarm=("time", ""),
    time=seconds("1"),
)
def after_start(world: Asked) -> Candidates:
    return ONCE


@action(
    "wait {time} s",
    "The actions below go on after this time, for the same objects.",
    waits=True,
    time=seconds("1"),
)
def wait(deed: Deed, time: Numbers) -> None:
    deed.pause(time)
