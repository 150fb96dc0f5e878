"""Another value in the place of any part of a world's state."""

from __future__ import annotations

import numpy as np

from gatillo.sim.world.records import Answering, Bond, Memory, Menu, Offer, Playing, Turning, Tween, Wait

NUMBERS = np.array([1, 2], dtype=np.int64)
POINTS = np.array([1.0, 2.0])
OTHER = {
    "waits": [Wait(3, 1, 0, "do", 1, {"Pod": NUMBERS}, 2, [1])],
    "memory": {0: Memory(held={1})},
    "tweens": (Tween(NUMBERS, POINTS, POINTS, POINTS, POINTS, 0.0, 1.0, "evenly", ""),),
    "turns": (Turning(NUMBERS, POINTS, POINTS, 0.0, 1.0, "evenly"),),
    "bonds": {1: Bond(2, 1.0, 0.0, 0.0, 0.0)},
    "playing": (Playing(1, "sway", 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, "once"),),
    "offers": (Offer(1, 2, "E", None, 0.0, 0),),
    "answering": {(2, "E"): Answering(1, 0.0, 1.0)},
    "menu": Menu(1, 2, "E", ("one",)),
}
"""Other values than those a world begins with, where one cannot be told from what is there."""


def another(name, value):
    """Another value in a field's place."""
    if name in OTHER:
        return OTHER[name]
    if isinstance(value, np.ndarray):
        changed = value.copy() if len(value) else np.zeros(1, dtype=value.dtype)
        if changed.dtype == object:
            changed[0] = "other"
        elif changed.dtype == bool:
            changed[0] = not changed[0]
        else:
            changed[0] += 1
        return changed
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return value + 1
    if isinstance(value, str):
        return value + "x"
    if isinstance(value, frozenset):
        return value | {"other"}
    if isinstance(value, tuple):
        return (*value, "other")
    if isinstance(value, list):
        return [*value, "other"]
    if isinstance(value, dict):
        return {**value, "other": 1.0}
    return None
