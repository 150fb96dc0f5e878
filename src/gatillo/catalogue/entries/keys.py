"""Entries about the keyboard."""

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates
from gatillo.catalogue.declare.entry import key, occasion
from gatillo.catalogue.declare.facts import KeyState
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("keys", place=20)


@occasion(
    "{key} is pressed",
    "Once, in the tick in which the key goes down.",
    wakes=lambda key: [KeyState("pressed", key)],
    key=key(),
)
def key_pressed(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[0] else NOBODY


@occasion(
    "{key} is held",
    "In every tick in which the key is down.",
    continuing=True,
    wakes=lambda key: [KeyState("held", key)],
    key=key(),
)
def key_held(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[1] else NOBODY


@occasion(
    "{key} is released",
    "Once, in the tick in which the key goes up.",
    wakes=lambda key: [KeyState("released", key)],
    key=key(),
)
def key_released(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[2] else NOBODY
