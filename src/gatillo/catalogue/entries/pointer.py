"""Entries about the pointer: its buttons, where it is, what lies under it."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Rows
from gatillo.catalogue.declare.entry import choice, condition, occasion, role
from gatillo.catalogue.declare.facts import KeyState, PointerMoved, UnderPointer, UnderPointerChanged
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.level.roles import Role

SUBJECT = Subject("pointer", place=110)

_BUTTON = choice("left", "middle", "right")
_WHICH = choice("the front-most only", "all under it")


def _key(button: str) -> str:
    return f"pointer {button}"


@occasion(
    "the {button} pointer button is pressed",
    "Once, in the tick in which the button goes down, wherever the pointer is.",
    wakes=lambda button: [KeyState("pressed", _key(button))],
    button=_BUTTON,
    says=[
        "[the] [{button}] mouse/pointer [button] is/gets clicked/pressed anywhere/somewhere",
        "[{button}] mouse [button] is pressed/clicked/down",
        "{button} [mouse/pointer] button is pressed/clicked/down",
        "{button} click/clicked",
        "click/clicked/clicks",
        "mouse/pointer/cursor is pressed/clicked",
        "press/click/push [the] {button} [mouse/pointer] button",
        "press/click [the] mouse/pointer [button]",
        "player clicks [the] [{button}] [mouse] [button]",
        "[player] clicks/click/clicked anywhere/somewhere",
        "mouse/pointer [button] goes down",
    ],
)
def pointer_pressed(world: QueryApi, button: str) -> Candidates:
    return ONCE if world.key_state(_key(button))[0] else NOBODY


@occasion(
    "the {button} pointer button is held",
    "In every tick in which the button is down.",
    continuing=True,
    wakes=lambda button: [KeyState("held", _key(button))],
    button=_BUTTON,
    says=[
        "hold/holding [down] [the] {button} [mouse/pointer] button [down]",
        "hold/holding [down] [the] mouse/pointer [button] [down]",
        "{button} [mouse/pointer] button is/stays held/down",
        "{button} [mouse/pointer] button is held down",
        "mouse/pointer [button] is/stays held/down",
        "mouse/pointer [button] is held down",
    ],
)
def pointer_held(world: QueryApi, button: str) -> Candidates:
    return ONCE if world.key_state(_key(button))[1] else NOBODY


@occasion(
    "the {button} pointer button is released",
    "Once, in the tick in which the button goes up, wherever the pointer is.",
    wakes=lambda button: [KeyState("released", _key(button))],
    button=_BUTTON,
    says=[
        "[{button}] mouse/pointer button up",
        "[{button}] mouse/pointer up",
        "release [the] [{button}] mouse/pointer [button]",
        "release [the] {button} button",
        "{button} [mouse/pointer] button is released",
        "{button} [mouse/pointer] button goes/comes up",
        "mouse/pointer [button] is released",
        "mouse/pointer [button] goes/comes up",
        "let go of [the] [{button}] mouse/pointer [button]",
        "click ends",
        "mouse/pointer button is let go",
        "{button} mouse/pointer button is let go",
        "mouse/pointer is let go",
        "button is let go",
        "let go of [the] {button} [mouse/pointer] button",
        "[the] player lets go of/releases [the] [{button}] mouse/pointer [button]",
    ],
)
def pointer_released(world: QueryApi, button: str) -> Candidates:
    return ONCE if world.key_state(_key(button))[2] else NOBODY


def _on(world: QueryApi, happens: bool, a: Role, which: str) -> Candidates:
    if not happens:
        return NOBODY
    rows = world.under(a, which == "the front-most only")
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "the {button} pointer button is pressed on {a}, {which}",
    "Once, for what is under the pointer when the button goes down.",
    wakes=lambda button, a, which: [KeyState("pressed", _key(button))],
    button=_BUTTON,
    a=role(),
    which=_WHICH,
    says=[
        "click/press/tap/clicks [on] {a} {which}",
        "click on {a} {which}",
        "{button} click [on] {a} {which}",
        "{a} is clicked/tapped/pressed {which}",
        "{a} is clicked [on] with the {button} [mouse/pointer] button {which}",
        "{a} gets clicked {which}",
        "player clicks [on] {a}",
        "[{button}] mouse/pointer [button] is pressed/clicked on {a} {which}",
        "{button} button is pressed/clicked on {a} {which}",
        "press [the] {button} [mouse/pointer] button on {a} {which}",
        "pointer/mouse [button] is pressed/clicked over/on {a}",
        worded("{a} is right clicked/right-clicked", button="right"),
        worded("{a} is left clicked/left-clicked", button="left"),
        "player grabs/takes {a} with [the] mouse/pointer",
        "[the] [{button}] [mouse/pointer] button goes down on/over {a}",
    ],
)
def pointer_pressed_on(world: QueryApi, button: str, a: Role, which: str) -> Candidates:
    return _on(world, world.key_state(_key(button))[0], a, which)


@occasion(
    "the {button} pointer button is held on {a}, {which}",
    "In every tick in which the button is down and the pointer is over it.",
    continuing=True,
    wakes=lambda button, a, which: [KeyState("held", _key(button))],
    button=_BUTTON,
    a=role(),
    which=_WHICH,
    says=[
        "hold [the] [{button}] mouse/pointer [button] [down] on/over {a} {which}",
        "hold [the] {button} button on/over {a} {which}",
        "[{button}] mouse/pointer [button] is held [down] on/over {a} {which}",
        "{button} button is held [down] on/over {a} {which}",
        "{a} is held [down] with/by the pointer/mouse",
        "keep [the] mouse/pointer pressed on {a}",
        "{a} is held [down] {which}",
    ],
)
def pointer_held_on(world: QueryApi, button: str, a: Role, which: str) -> Candidates:
    return _on(world, world.key_state(_key(button))[1], a, which)


@occasion(
    "the {button} pointer button is released on {a}, {which}",
    "Once, for what is under the pointer when the button goes up.",
    wakes=lambda button, a, which: [KeyState("released", _key(button))],
    button=_BUTTON,
    a=role(),
    which=_WHICH,
    says=[
        "release [the] [{button}] mouse/pointer [button] on/over {a} {which}",
        "release [the] {button} button on/over {a} {which}",
        "let go of [the] mouse/pointer [button] on/over {a} {which}",
        "[{button}] mouse/pointer [button] is released on/over {a} {which}",
        "{button} button is released on/over {a} {which}",
        "{button} [mouse/pointer] button goes up on/over {a} {which}",
        "click [is] released/ends on/over {a}",
        "click ends on {a}",
        "pointer/mouse/cursor is let go on/over {a}",
        "let go of [the] mouse/pointer on/over {a}",
    ],
)
def pointer_released_on(world: QueryApi, button: str, a: Role, which: str) -> Candidates:
    return _on(world, world.key_state(_key(button))[2], a, which)


@occasion(
    "the pointer moves",
    "In every tick in which the pointer moves.",
    continuing=True,
    wakes=lambda: [PointerMoved()],
    says=[
        "mouse/cursor moves",
        "move [the] mouse/pointer/cursor",
        "pointer/mouse is moved",
        "player moves the mouse/pointer",
    ],
)
def pointer_moves(world: QueryApi) -> Candidates:
    return ONCE if world.pointer_moved else NOBODY


@occasion(
    "the pointer comes over {a}",
    "Once for each object, in the tick in which the pointer comes over it.",
    wakes=lambda a: [UnderPointerChanged()],
    a=role(),
    says=[
        "mouse/pointer/cursor enters {a}",
        "hover/hovers/hovering [over] {a}",
        "mouse/pointer/cursor moves/goes/comes/gets over/onto/on {a}",
        "mouse/pointer/cursor hovers [over] {a}",
        "{a} is hovered [over]",
        "start hovering [over] {a}",
    ],
)
def pointer_comes_over(world: QueryApi, a: Role) -> Candidates:
    rows = world.over_changes(a)[0]
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "the pointer is over {a}",
    "In every tick, for each object under the pointer.",
    continuing=True,
    wakes=lambda a: [UnderPointer()],
    a=role(),
    says=[
        "mouse/cursor is over/on {a}",
        "pointer/mouse/cursor stays/rests/remains over/on {a}",
        "{a} is under [the] pointer/mouse/cursor",
        "keep hovering over {a}",
    ],
)
def pointer_over(world: QueryApi, a: Role) -> Candidates:
    rows = world.under(a, False)
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "the pointer leaves {a}",
    "Once for each object, in the tick in which the pointer leaves it.",
    wakes=lambda a: [UnderPointerChanged()],
    a=role(),
    says=[
        "mouse/pointer/cursor leaves/exits {a}",
        "mouse/pointer/cursor goes/moves off/away [from] {a}",
        "mouse/pointer/cursor goes/moves off {a}",
        "mouse/pointer/cursor [is/goes] out of! {a}",
        "stop hovering [over] {a}",
        "mouse/pointer/cursor is no longer over/on {a}",
    ],
)
def pointer_leaves(world: QueryApi, a: Role) -> Candidates:
    rows = world.over_changes(a)[1]
    return Candidates(len(rows), {a.token: rows})


@condition(
    "the {button} pointer button is down",
    "Whether a pointer button is down.",
    button=_BUTTON,
    says=[
        "[{button}] mouse [button] is down/held/pressed",
        "{button} [mouse/pointer] button is down/held/pressed",
        "mouse/pointer is down/held/pressed",
        "holding/hold the [{button}] mouse/pointer [button]",
    ],
)
def pointer_is_held(world: QueryApi, button: str) -> bool:
    return world.key_state(_key(button))[1]


def is_under(world: Any, a: int) -> bool:
    """Answer for one match what `pointer_is_over` does."""
    return bool(world.is_under(a))


@condition(
    "the pointer is over {a} now",
    "Whether the pointer is over the object.",
    a=role(),
    alone=is_under,
    says=[
        "mouse/cursor is over/on {a} [now]",
        "{a} is under [the] mouse/pointer/cursor",
        "hovering [over] {a}",
        "mouse/pointer/cursor hovers [over] {a}",
        "mouse/pointer/cursor points at {a}",
    ],
)
def pointer_is_over(world: QueryApi, a: Rows) -> NDArray[np.bool_]:
    found: NDArray[np.bool_] = np.isin(world.ids(a), world.under_ids())
    return found
