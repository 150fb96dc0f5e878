"""Entries about interaction focus: which of several things is meant."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.focus import FocusApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Rows
from gatillo.catalogue.declare.entry import behaviour, choice, condition, number, occasion, role
from gatillo.catalogue.declare.facts import FocusChanged
from gatillo.catalogue.declare.subjects import Subject
from gatillo.level.roles import Role

SUBJECT = Subject("focus", place=260)

Floats = NDArray[np.float64]

MEASURES = ("arc length", "angle", "distance")
RAY_FIRST = "but what lies straight ahead first"


@behaviour(
    "focus on {on} within {reach} and {half_angle}° to either side, by {measure}, {ray}",
    "Selects the focus: of the objects that are near enough and not too far aside, the one with the "
    "lowest measure. Arc length is the angle in radians times the distance. What a ray straight ahead "
    "meets first can have precedence.",
    phase="focus",
    faces=True,
    on=role("which things can have it"),
    reach=number("120", "units between the middles"),
    half_angle=number("60", "degrees to either side of where it faces"),
    measure=choice(*MEASURES),
    ray=choice(RAY_FIRST, "by the measure alone"),
    says=[
        "look for/at {on}",
        "select/choose/highlight {on}",
        "notice/see {on}",
        "attention",
    ],
)
def focus(
    presence: FocusApi, rows: Rows, on: Role, reach: Floats, half_angle: Floats, measure: str, ray: str
) -> None:
    presence.focus(rows, on, reach, half_angle, measure, ray == RAY_FIRST)


@occasion(
    "{a} gains the focus of {by}",
    "Once, in the tick in which it becomes the focus.",
    wakes=lambda a, by: [FocusChanged()],
    a=role("what"),
    by=role("whose focus"),
    says=[
        "{by} focuses [on] {a}",
        "{a} becomes/is/gets [the] focus of {by}",
        "{a} gets/receives [the] focus [of {by}]",
        "{a} comes into focus [of {by}]",
        "{a} is focused [by {by}]",
        "{a} comes/gets into [the] focus of {by}",
        "{a} comes/gets into {by} 's focus",
        "{by} starts looking at {a}",
        "{by} starts/begins focusing [on] {a}",
    ],
)
def gains_focus(world: QueryApi, a: Role, by: Role) -> Candidates:
    rows, whose = world.focus_changes("gained", a, by)
    return Candidates(len(rows), {a.token: rows, by.token: whose})


@occasion(
    "{a} loses the focus of {by}",
    "Once, in the tick in which another object, or none, becomes the focus; not when it is removed.",
    wakes=lambda a, by: [FocusChanged()],
    a=role("what"),
    by=role("whose focus"),
    says=[
        "{by} stops focusing [on] {a}",
        "{a} is no longer [the] focus [of {by}]",
        "{a} goes/drops/comes out of [the] focus [of {by}]",
        "{by} looks away from {a}",
        "{by} stops looking at {a}",
    ],
)
def loses_focus(world: QueryApi, a: Role, by: Role) -> Candidates:
    rows, whose = world.focus_changes("lost", a, by)
    return Candidates(len(rows), {a.token: rows, by.token: whose})


@condition(
    "{a} has the focus of {by}",
    "Whether it is the focus.",
    a=role("what"),
    by=role("whose focus"),
    says=[
        "{a} is [the] focus of {by}",
        "{a} is in focus [of] {by}",
        "{by} has [its] focus on {a}",
        "{by} focuses/focusses on {a}",
        "{by} is focusing on {a}",
        "{a} is focused [by {by}]",
        "{by} has {a} in focus",
        "{by} keeps/holds {a} in focus",
    ],
)
def has_focus(world: QueryApi, a: Rows, by: Rows) -> NDArray[np.bool_]:
    return world.has_focus(a, by)
