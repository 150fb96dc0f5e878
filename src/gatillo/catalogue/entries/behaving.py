"""Entries about behaviours: whether they are on, and their settings."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, condition, number, role, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("behaviours", place=280)


@condition(
    "{behaviour} of {who} is on",
    "Whether the object has a behaviour and it is switched on.",
    behaviour=slot("behaviour"),
    who=role(),
)
def behaviour_is_on(world: QueryApi, behaviour: str, who: Rows) -> NDArray[np.bool_]:
    return world.behaves(who, behaviour)


@action(
    "switch {behaviour} of {who} on",
    "The behaviour continues from the present state.",
    behaviour=slot("behaviour"),
    who=role(),
)
def switch_behaviour_on(world: ActionApi, behaviour: str, who: Rows) -> None:
    world.switch_behaviour(who, behaviour, True)


@action(
    "switch {behaviour} of {who} off",
    "The behaviour stops; a velocity that it set stays until something else changes it.",
    behaviour=slot("behaviour"),
    who=role(),
)
def switch_behaviour_off(world: ActionApi, behaviour: str, who: Rows) -> None:
    world.switch_behaviour(who, behaviour, False)


@action(
    "set {setting} of {who} to {value}",
    "Changes a number among a behaviour's settings, for this object, from now on.",
    setting=slot("setting"),
    who=role(),
    value=number("0"),
)
def set_setting(world: ActionApi, setting: str, who: Rows, value: Numbers) -> None:
    world.set_setting(who, setting, value)
