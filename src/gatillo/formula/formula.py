"""A compiled formula: its type, what it reads, and the function over arrays that works it out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gatillo.formula.frame import Frame
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import ValueType

Evaluate = Callable[[Frame], Any]
EVERY = "every"
"""Before a kind's name in a formula's `reads`: all objects of the kind are read."""
THERE = "there"
"""In the place of a property in `reads`: whether objects are in the level at all."""
SAYING = "saying"
"""In the place of a property in `reads`: what an object says."""
TELLING = "telling"
"""In the place of an owner in `reads`: the message to the player."""
CHANCE = "chance"
"""In the place of an owner in `reads`: something is drawn at random."""
PROPERTY_TYPES: dict[str, ValueType] = {name: made.type for name, made in PROPERTIES.items() if made.named}
"""The properties that formulas name, with their types."""


def column_key(variable: str, kind: ValueType) -> str:
    """Name of the world's column for a property or variable.

    The type is part of a variable's column, so that two kinds may use one name for two types.
    """
    return variable if variable in PROPERTY_TYPES else f"{variable}/{kind}"


@dataclass(frozen=True, slots=True)
class Formula:
    """A compiled formula.

    `roles` are the tokens of the roles it speaks of in their order, `reads` what it reads: ("level", name), (role token, name)
    or ("every KIND", name), and ("pointer", axis), ("clock", name), ("timer", name), ("message", name), ("key", name),
    ("chance", ""); an item of a role's is called "item NAME". `evaluate` gives one Python value, or an array with one value per match.
    """

    source: str
    type: ValueType
    roles: tuple[str, ...]
    reads: tuple[tuple[str, str], ...]
    evaluate: Evaluate
    constant: Any = None
    """What it comes to, where that is known and nothing asks to see it worked out."""
    steady: bool = False
    """Whether its value can only change when something in `reads` is written, or objects come or go."""
    given: bool = False
    """Whether it gives what cards of a graph give, or names in it may: it says more than its text."""
    always: Any = None
    """What it comes to, where that is known; of a card of a graph too, whose value is worked out to be seen."""
    deep: int = 0
    """Depth of the evaluation, including the formulas whose values it uses."""
