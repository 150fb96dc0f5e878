"""Entries about time: the start, every tick, intervals, waiting."""

from typing import Any

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Numbers
from gatillo.catalogue.declare.entry import action, occasion, role, seconds, slot
from gatillo.catalogue.declare.facts import EveryTick, LevelStarts
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.level.roles import Role

SUBJECT = Subject("time", place=10)


@occasion(
    "the level starts",
    "Once, in the first tick.",
    wakes=lambda: [LevelStarts()],
    says=[
        "level/game/run/play starts/begins/loads/opens",
        "at [the] start/beginning/startup",
        "on start/begin/startup",
        "start/beginning/begin [of] [the] level/game/run",
        "everything starts/begins",
        "initially/setup",
        "once/first [of all]",
        "first tick",
        "right at [the] start/beginning",
        "at [the] very start/beginning/outset",
        "right/straight at [the] start/beginning/outset",
    ],
)
def level_starts(world: QueryApi) -> Candidates:
    return ONCE if world.tick == 1 else NOBODY


@occasion(
    "every tick",
    "In each tick of the run.",
    continuing=True,
    depends=(),
    wakes=lambda: [EveryTick()],
    says=[
        "always/constantly/continuously",
        "each/every [single] tick/frame/step",
        "all [the] time",
        "each update",
        "at every moment",
    ],
)
def every_tick(world: QueryApi) -> Candidates:
    return ONCE


@occasion(
    "each {who} in every tick",
    "In each tick of the run, once for each object meant.",
    continuing=True,
    depends=(),
    wakes=lambda who: [EveryTick()],
    who=role(),
    says=[
        "each/every tick/frame for each/every {who}",
        "each/every {who} each/every/always tick/frame/step",
        "for each/every/all {who} each/every tick/frame/step",
        "always for each/every {who}",
        "each/every {who} always",
    ],
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
    says=[
        worded("once per second", period="1"),
        "each/every/repeatedly {period}",
        "once every/each {period}",
        "repeat/repeats every/each {period}",
        "every/each {period} beginning/starting [at/after] {first}",
        "every/each {period} after {first}",
        worded("every/each second", period="1"),
        worded("once a second", period="1"),
        worded("twice a second", period="0.5"),
        worded("every half second", period="0.5"),
        worded("{period} times a/per/each/every second", period="1 / {period}"),
        "once every {period}",
        "every {period} [or] so",
        worded("every other second", period="2"),
        "every {period} from the start [on]",
        worded(
            "every {low} to {high} [seconds/second/s]",
            numbers=("low", "high"),
            period="random({low}, {high})",
            first="random({low}, {high})",
        ),
        worded(
            "every {low} - {high} [seconds/second/s]",
            numbers=("low", "high"),
            period="random({low}, {high})",
            first="random({low}, {high})",
        ),
        worded(
            "between every {low} and {high} [seconds/second/s]",
            numbers=("low", "high"),
            period="random({low}, {high})",
            first="random({low}, {high})",
        ),
        worded("every/each {period} starting/beginning right/straight away/now", first="0"),
        worded("every/each {period} starting/beginning at once/immediately", first="0"),
        "every/each {period} after [the] first {first}",
        "every/each {period} but first/only after {first}",
    ],
)
def every_seconds(world: QueryApi) -> Candidates:
    return ONCE


@occasion(
    "{time} s after the start",
    "Once, when the run reaches a time.",
    alarm=("time", ""),
    time=seconds("1"),
    says=[
        "{time} after/since/from/into the start/beginning/level/run/game",
        "{time} after/into [the] level/run/game/play starts/begins",
        "{time} in/into the level/run/game",
        "after the first {time}",
        "after {time}",
        "at {time}",
        "at time {time}",
        "once {time} have/has passed/elapsed",
        "when {time} have/has passed/elapsed",
        "when/after/once {time} have!/has! gone [by]",
        "{time} have!/has! gone/passed/elapsed [by]",
        "{time} in/into",
        "[at] second {time}",
    ],
)
def after_start(world: QueryApi) -> Candidates:
    return ONCE


@action(
    "wait {time} s",
    "The actions below go on after this time, for the same objects.",
    time=seconds("1"),
    says=[
        "pause/delay/hold/sleep/rest [for] {time}",
        "wait for {time}",
        "{time} later",
        "after {time}",
        "[a] {time} pause/delay/wait",
        "[a] pause/delay of {time}",
        "take a break of {time}",
        worded(
            "wait [from/between] {low} to/and {high} [seconds/second/s]",
            numbers=("low", "high"),
            time="random({low}, {high})",
        ),
        worded(
            "wait [a] random time from/between {low} to/and {high} [seconds/second/s]",
            numbers=("low", "high"),
            time="random({low}, {high})",
        ),
    ],
)
def wait(world: ActionApi, time: Numbers) -> None:
    world.pause(time)


@action(
    "wait until {formula}",
    "The actions below go on in the first later tick in which the formula holds at its start, for the "
    "same objects; each match waits for its own.",
    formula=slot("yes/no formula"),
    says=[
        "wait/pause/hold for/till/until {formula}",
        "wait till {formula}",
        "do nothing until {formula}",
        worded("wait while {formula}", formula="not ({formula})"),
    ],
)
def wait_until(world: ActionApi, formula: Any) -> None:
    world.pause_until("formula")
