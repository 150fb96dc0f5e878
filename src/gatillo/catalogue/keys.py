"""Entries about the keyboard, and steering by it."""

import numpy as np

from gatillo.catalogue.entry import behaviour, key, number, occasion
from gatillo.catalogue.surroundings import NOBODY, ONCE, Asked, Candidates, Motion, Rows

KEYS = (
    *(chr(c) for c in range(ord("A"), ord("Z") + 1)),
    *(str(d) for d in range(10)),
    "Left",
    "Right",
    "Up",
    "Down",
    "Space",
    "Enter",
    "Tab",
    "Shift",
    "Control",
    "Backspace",
)
"""Every key a rule or a trial may name."""


@occasion(
    "{key} is pressed",
    "Once, in the tick in which the key goes down.",
    wakes=lambda key: [("pressed", key)],
    key=key(),
)
def key_pressed(world: Asked, key: str) -> Candidates:
    return ONCE if world.key_state(key)[0] else NOBODY


@occasion(
    "{key} is held",
    "In every tick in which the key is down.",
    continuing=True,
    wakes=lambda key: [("held", key)],
    key=key(),
)
def key_held(world: Asked, key: str) -> Candidates:
    return ONCE if world.key_state(key)[1] else NOBODY


@occasion(
    "{key} is released",
    "Once, in the tick in which the key goes up.",
    wakes=lambda key: [("released", key)],
    key=key(),
)
def key_released(world: Asked, key: str) -> Candidates:
    return ONCE if world.key_state(key)[2] else NOBODY


@behaviour(
    "steer by keys: {forward} ahead, {back} back, {left} and {right} turn; speed {speed}, turning {turning}",
    "Turn and go: ahead and back along the way it faces. Speed in units a second, turning in degrees a second.",
    forward=key("Up"),
    back=key("Down"),
    left=key("Left"),
    right=key("Right"),
    speed=number("120", "units a second"),
    turning=number("180", "degrees a second"),
)
def steer_by_keys(
    motion: Motion,
    rows: Rows,
    forward: str,
    back: str,
    left: str,
    right: str,
    speed: np.ndarray,
    turning: np.ndarray,
) -> None:
    turn = motion.key_state(left)[1] - motion.key_state(right)[1]
    ahead = motion.key_state(forward)[1] - motion.key_state(back)[1]
    if turn:
        motion.rotate(rows, turn * turning * motion.dt)
    motion.go(rows, ahead * speed)
