"""What some words of a typed line make in a slot, and what it costs."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import NamedTuple

from gatillo.catalogue.declare.entry import Slot

KNOWN_WORDS: set[str] = set()
"""Every word of a wording of the catalogue; wordings.py fills it. A name that is made up is less likely to be one of them."""
VERBS: set[str] = set()
"""The words with which an action can begin; wordings.py fills it. A free text is less likely to hold “and” before one of them."""
PRONOUN = "it"
"""In a slot: the object that was named last, to be put in when the whole line has been read."""
UNKNOWN = 0.9
"""What a name costs that the level lacks."""
UNKNOWN_BUT_A_WORD = 1.6
"""What it costs more if it is a word of some sentence."""
NAME = re.compile(r"[^\W\d]\w*")


@dataclass(frozen=True, slots=True)
class Missing:
    """A name in a slot that the level does not have."""

    typed: str
    """The name as it was typed."""
    make: str
    """What can be made of that name: “kind”, “level variable” …; "" for nothing."""
    owner: str = ""
    """For a variable: the role before its dot, "level" for one of the level."""


def is_length(slot: Slot) -> bool:
    """Return whether a slot takes units of the level, as its help says: a distance, an offset, a speed."""
    return slot.help.startswith("units")


def sort_of(slot: Slot) -> tuple[object, ...]:
    """Return what decides what words make in a slot: two slots for which it is the same take the same words."""
    return (
        slot.type,
        slot.options,
        slot.default if slot.default in SMALL_NUMBERS else None,
        is_length(slot),
    )


SMALL_NUMBERS = frozenset(["", "0", "1", "2", "3"])
"""What a slot holds at first if it may be a count, a factor or a share."""


class Fit(NamedTuple):
    """How ill some words fit a slot (0: well), the text that they make there, and which of its names are missing or were only begun."""

    cost: float
    text: str
    missing: tuple[Missing, ...] = ()
    begun: tuple[tuple[str, str], ...] = ()
    remark: str = ""
