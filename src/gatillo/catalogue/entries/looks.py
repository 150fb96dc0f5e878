"""Entries about looks: the ways in which the objects of a kind can be drawn."""

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Rows
from gatillo.catalogue.declare.entry import action, condition, role, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

SUBJECT = Subject("looks of a kind", place=95)


@condition(
    "{who} shows the look {look}",
    "Whether a rule has given the object this look, and none since.",
    who=role(),
    look=slot("look"),
    says=[
        worded("{who} is/are {look}", known=True),
        "{who} is shown [as/with] [the/its] look {look}",
        "[the] look of {who} is {look}",
        "{who} has [the/its] {look} look",
        "{who} has [the/its] look {look}",
        "{who} shows [its/the] {look} look",
        "{who} is drawn [as/with] [the/its] [look] {look}",
    ],
)
def shows_look(world: QueryApi, who: Rows, look: str) -> NDArray[np.bool_]:
    return world.shows_look(who, look)


@action(
    "show the look {look} of {who}",
    "It is drawn with this look of its kind from now on. What touches others stays the same.",
    look=slot("look"),
    who=role(),
    undone_by="show_plain_look",
    says=[
        "show {who} as/with [the/its] [look] {look}",
        "make/turn/set {who} {look}",
        "swap/switch/change/set {who} look [to] {look}",
        "swap [the] look of {who} to/for {look}",
        "give {who} the look {look}",
        "give {who} the/its {look} look",
        "set/change/switch [the] look of {who} to {look}",
        "change/switch/turn {who} to [the/its] {look} look",
        "change/switch {who} to [the/its] look {look}",
        "draw {who} as/with [the/its] [look] {look}",
        "{who} gets/takes [its/the] {look} look",
        "make {who} look {look}",
    ],
)
def show_look(world: ActionApi, look: str, who: Rows) -> None:
    world.show_look(who, look)


@action(
    "show the plain look of {who}",
    "It is drawn as its kind is, without any of the kind's looks.",
    who=role(),
    says=[
        "show {who} as usual/plain/normal/before",
        "give {who} the/its plain/own/usual/normal/first look [back]",
        "reset/clear/remove [the] look of {who}",
        "set/change/switch [the] look of {who} [back] to plain/normal/usual",
        "take [the] look from {who}",
        "{who} back to its/the plain/normal/usual/own look",
        "[set/put/switch/turn] {who} back to [its/the] plain/normal/usual look",
        "bring/give/put back [the] plain/normal/usual/own look of {who}",
        "bring/give/put back {who} 's plain/normal/usual/own look",
        "{who} looks plain/normal/usual [again]",
        "draw {who} as usual/plain/normal/before",
    ],
)
def show_plain_look(world: ActionApi, who: Rows) -> None:
    world.show_look(who, "")
