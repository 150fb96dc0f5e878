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
    says=[
        "{key} [key] down",
        "press/presses/hit/tap/push/strike {key}",
        "{key} [key] is hit/tapped/pushed/struck/pressed",
        "{key} [key] goes down",
        "key/button {key} is pressed/hit/tapped/pushed/down",
        "key/button {key} goes down",
        "player presses/hits/taps/pushes {key} [key]",
        "press/hit/tap/push [the] key/button {key}",
        "press/hit/tap/push [the] {key} key/button",
        "{key} key",
        "key {key}",
        "{key} keypress/keydown",
        "you/player/user press/presses/hit/hits {key} [key]",
        "key down {key}",
    ],
)
def key_pressed(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[0] else NOBODY


@occasion(
    "{key} is held",
    "In every tick in which the key is down.",
    continuing=True,
    wakes=lambda key: [KeyState("held", key)],
    key=key(),
    says=[
        "press and hold {key} [key] [down]",
        "hold/holds/holding [down] {key} [key] [down]",
        "keep {key} [key] pressed/down",
        "{key} [key] is/stays/kept held/down",
        "{key} [key] stays/kept pressed",
        "{key} [key] is held down",
        "{key} [key] is kept/stays down/pressed",
        "key/button {key} is held [down]",
        "player holds/keeps {key} [key] [down]",
        "{key} [key] is down",
        "player keeps pressing/holding {key}",
        "keep pressing/holding {key}",
        "[the] player holds/keeps/hold [down] {key} [down]",
    ],
)
def key_held(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[1] else NOBODY


@occasion(
    "{key} is released",
    "Once, in the tick in which the key goes up.",
    wakes=lambda key: [KeyState("released", key)],
    key=key(),
    says=[
        "release/releases {key} [key]",
        "let/lets go of {key} [key]",
        "{key} [key] is let go",
        "{key} [key] goes/comes up",
        "{key} [key] up",
        "key/button {key} is released",
        "key/button {key} goes/comes up",
        "player releases {key} [key]",
        "player lets go of {key} [key]",
        "{key} [key] is no longer held/down/pressed",
        "{key} [key] is let go",
        "you/player/user let/lets go of {key} [key]",
        "key goes up {key}",
        "player stops pressing/holding {key}",
        "stop pressing/holding {key}",
        "[the] player lets/let go of {key}",
    ],
)
def key_released(world: QueryApi, key: str) -> Candidates:
    return ONCE if world.key_state(key)[2] else NOBODY
