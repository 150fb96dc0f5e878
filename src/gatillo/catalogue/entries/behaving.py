"""Entries about behaviours: whether they are on, and their settings."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, condition, number, role, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

SUBJECT = Subject("behaviours", place=280)


@condition(
    "{behaviour} of {who} is on",
    "Whether the object has a behaviour and it is switched on.",
    behaviour=slot("behaviour"),
    who=role(),
    says=[
        "{behaviour} of/on/for {who} is working/active/enabled/running",
        "{who} has {behaviour} on",
        worded("{behaviour} of/on/for {who} is off/disabled/inactive", negated=True),
        "behaviour {behaviour} is on for {who}",
        "behaviour {behaviour} of {who} is on/active/enabled",
        "{who} is doing {behaviour}",
        "{who} is [still/busy] {behaviour}",
        "{who} 's {behaviour} is on/active/running",
        worded("{who} 's {behaviour} is off/inactive", negated=True),
        worded("{who} has {behaviour} off", negated=True),
        "{behaviour} is switched/turned on for/on/at {who}",
        worded("{behaviour} is switched/turned off for/on/at {who}", negated=True),
    ],
)
def behaviour_is_on(world: QueryApi, behaviour: str, who: Rows) -> NDArray[np.bool_]:
    return world.behaves(who, behaviour)


@action(
    "switch {behaviour} of {who} on",
    "The behaviour continues from the present state.",
    behaviour=slot("behaviour"),
    who=role(),
    undone_by="switch_behaviour_off",
    says=[
        "turn/switch on {behaviour} of/on/for {who}",
        "turn/switch/set {behaviour} of/on/for {who} on",
        "turn/switch {who} 's {behaviour} on",
        "enable/activate/start/resume/restart {behaviour} of/on/for {who}",
        "enable/activate/start/resume {who} 's {behaviour}",
        "turn/switch on {who} 's {behaviour}",
        "let {who} {behaviour} [again]",
        "{who} starts [to] {behaviour}",
        "let/make {who} {behaviour}",
        "let/make {who} start [to] {behaviour}",
        "{who} starts/begins [to] {behaviour}",
        "turn/switch/enable {behaviour} [back] on for/of/on {who}",
    ],
)
def switch_behaviour_on(world: ActionApi, behaviour: str, who: Rows) -> None:
    world.switch_behaviour(who, behaviour, True)


@action(
    "switch {behaviour} of {who} off",
    "The behaviour stops; a velocity that it set stays until something else changes it.",
    behaviour=slot("behaviour"),
    who=role(),
    undone_by="switch_behaviour_on",
    says=[
        "turn/switch off {behaviour} of/on/for {who}",
        "turn/switch/set {behaviour} of/on/for {who} off",
        "turn/switch {who} 's {behaviour} off",
        "disable/deactivate/stop/pause/end {behaviour} of/on/for {who}",
        "disable/deactivate/stop/pause {who} 's {behaviour}",
        "turn/switch off {who} 's {behaviour}",
        "{who} stops [to] {behaviour}",
        "stop {who} from {behaviour}",
        "stop {who} [from] {behaviour}",
        "let/make {who} stop {behaviour}",
        "turn/switch {behaviour} off for/of/on {who}",
        "{who} stops {behaviour}",
        "make/let {who} quit/cease {behaviour}",
        "{who} quits/ceases {behaviour}",
    ],
)
def switch_behaviour_off(world: ActionApi, behaviour: str, who: Rows) -> None:
    world.switch_behaviour(who, behaviour, False)


@action(
    "set {setting} of {who} to {value}",
    "Changes a number among a behaviour's settings, for this object, from now on.",
    setting=slot("setting"),
    who=role(),
    value=number("0"),
    says=[
        "change/make/adjust {setting} of/for {who} [to] {value}",
        "{setting} of {who} = {value}",
        "set {who} 's {setting} to {value}",
        "set {who} {setting} to {value}",
        "change {who} 's {setting} to {value}",
        "set setting {setting} of {who} to {value}",
    ],
)
def set_setting(world: ActionApi, setting: str, who: Rows, value: Numbers) -> None:
    world.set_setting(who, setting, value)
