"""Further wordings of an entry: what a designer may type to find its sentence.

A wording is a sentence with some of the entry's slots. It is never shown; the entry's own sentence is. In its text,

- `a/b` are words of which one is meant: `destroy/delete {who}`,
- `[a]` may be left out: `{key} [key] goes down`,
- `a!` must be typed, though it is a small word: `move {who} to! {x} {y}`.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

OPTION_WORDINGS = {
    "=": (
        "==",
        "is",
        "are",
        "equals",
        "equal to",
        "is equal to",
        "is exactly",
        "exactly",
        "is the same as",
        "is same as",
        "matches",
    ),
    ">": (
        "is more than",
        "more than",
        "is greater than",
        "greater than",
        "is above",
        "above",
        "is over",
        "over",
        "exceeds",
        "is bigger than",
        "bigger than",
        "is larger than",
        "larger than",
        "is higher than",
        "higher than",
        "passes",
        "has passed",
        "goes over",
        "goes above",
        "is past",
        "climbs above",
        "climbs over",
    ),
    ">=": (
        "is at least",
        "at least",
        "no less than",
        "is no less than",
        "not less than",
        "no fewer than",
        "not fewer than",
        "greater than or equal to",
        "reaches",
        "has reached",
        "reached",
        "gets to",
        "gets up to",
        "goes up to",
        "climbs to",
        "is up to",
        "is not less than",
        "is greater than or equal to",
    ),
    "<>": (
        "!=",
        "is not",
        "are not",
        "is other than",
        "other than",
        "differs from",
        "is different from",
        "not equal to",
        "is not equal to",
        "does not equal",
    ),
    "<=": (
        "is at most",
        "at most",
        "no more than",
        "is no more than",
        "not more than",
        "less than or equal to",
        "is less than or equal to",
        "up to",
        "is down to",
        "gets down to",
        "goes down to",
        "drops to",
        "falls to",
        "sinks to",
    ),
    "<": (
        "is less than",
        "less than",
        "fewer than",
        "is fewer than",
        "is below",
        "below",
        "is under",
        "under",
        "is smaller than",
        "smaller than",
        "is lower than",
        "lower than",
        "goes below",
        "goes under",
        "gets below",
        "gets under",
    ),
    "at constant speed": ("steadily", "linear", "linearly", "evenly", "without easing"),
    "easing in": ("ease in", "with ease in", "speeding up", "accelerating", "starting slowly"),
    "easing out": ("ease out", "with ease out", "slowing down", "decelerating", "ending slowly"),
    "easing in and out": (
        "ease in and out",
        "ease in out",
        "with ease in and out",
        "smoothly",
        "smooth",
        "eased",
        "with easing",
    ),
    "the level's": ("the level 's", "level", "world", "global", "the world 's"),
    "its own": ("own", "local", "relative", "its local", "their own"),
    "in a loop": (
        "looping",
        "looped",
        "loop",
        "forever",
        "round and round",
        "over and over",
        "repeating",
        "repeatedly",
        "endlessly",
        "again and again",
    ),
    "once": ("one time", "a single time", "one way"),
    "there and back": ("back and forth", "forth and back", "to and fro", "there and back again"),
    "keeping the offset": ("where it is", "keeping its offset", "with its offset", "keeping its distance"),
    "at its middle": (
        "in its middle",
        "centred",
        "centered",
        "at its centre",
        "at its center",
        "in the middle",
    ),
    "the front-most only": (
        "front-most only",
        "frontmost only",
        "topmost only",
        "only the topmost",
        "only the front-most",
        "only the top one",
        "the topmost only",
    ),
    "all under it": ("all", "all of them", "everything under it", "every one", "each"),
    "lowest": ("least", "smallest", "minimum", "min", "fewest", "shortest"),
    "highest": ("most", "largest", "biggest", "greatest", "maximum", "max", "longest"),
    "movable": ("pushable", "free", "dynamic", "loose"),
    "fixed": ("solid", "static", "immovable", "a wall"),
    "sensed": ("sensed only", "a trigger", "trigger", "a sensor", "sensor"),
    "none": ("off", "nothing", "no contact"),
    "left": ("primary",),
    "right": ("secondary",),
    "middle": ("wheel", "centre", "center"),
}
"""Further words for the options of choices, by the option: a typed line may use them."""


@dataclass(frozen=True, slots=True)
class Wording:
    """One further way to say an entry's sentence."""

    text: str
    negated: bool = False
    """Whether it says the opposite of the sentence: “is farther than” of “is within”."""
    filled: dict[str, str] = field(default_factory=dict)
    """Slots that its words fill: the text, in which `{slot}` is replaced by what was typed for that slot."""
    numbers: tuple[str, ...] = ()
    """Slots of its own for numbers, which only `filled` uses."""
    objects: tuple[str, ...] = ()
    """Slots of its own for objects, which only `filled` uses: “behind {other}”."""
    places: tuple[str, ...] = ()
    """Slots of its own for objects or places, which only `filled` uses: “away from {other}”."""
    known: bool = False
    """Whether it is only for names that the level has: “the alarm goes off”, where alarm is a message."""


def worded(
    text: str,
    *,
    negated: bool = False,
    numbers: tuple[str, ...] = (),
    objects: tuple[str, ...] = (),
    places: tuple[str, ...] = (),
    known: bool = False,
    **filled: str,
) -> Wording:
    """Return a wording whose words fill slots themselves, or that says the opposite.

    For example, `worded("double {variable}", factor="2")`, or `worded("subtract {amount} from {variable}", amount="-{amount}")`. `numbers`,
    `objects` and `places` name slots that the entry does not have, for `filled` to make a formula of. `known` as of `Wording`.
    """
    return Wording(text, negated, filled, numbers, objects, places, known)


def check_wordings(
    sentence: str, slots: Iterable[str], wordings: Iterable[str | Wording]
) -> tuple[Wording, ...]:
    """Return the wordings of an entry as records. Raises TypeError for one that names a slot which the entry lacks."""
    made = tuple(Wording(one) if isinstance(one, str) else one for one in wordings)
    known = set(slots)
    for one in made:
        named = set(re.findall(r"\{(\w+)\}", " ".join((one.text, *one.filled.values())))) | set(one.filled)
        if unknown := sorted(named - known - {*one.numbers, *one.objects, *one.places}):
            raise TypeError(f"a wording of {sentence!r} names slots that it does not have: {unknown}")
    return made
