"""The types of slots: each is one record with everything that is particular to it.

Binding, typing, completing, renaming, painting and the documents ask the records. What can stand in a slot is of a few
sorts (`holds`); a type that names things of the level is one record more, with the names that there are.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from gatillo.level.graphs import given_in
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.naming import free_name_problem, is_point_formula
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import Index, Role, type_of

WRITABLE = frozenset(name for name, made in PROPERTIES.items() if made.writable)
"""The properties that an action which sets a variable can set."""

Holds = Literal["formula", "text", "variable", "role", "where", "choice", "name", "entries", "given"]
"""A formula, a text with values in braces, a variable, a role, a place, one of the slot's own words, a name, a menu's entries,
what is given by name."""
Look = Literal["role", "value", "name", "choice"]
"""How it is painted."""
Names = Callable[[Index, tuple[str, ...]], Iterable[str]]
"""What could stand there, from the level and the roles that the rule speaks of already."""


@dataclass(frozen=True, slots=True)
class SlotType:
    """All that is particular to one type of slot."""

    name: str
    hint: str
    """What may stand there, in words."""
    blank: str
    """What is there while it is empty."""
    holds: Holds
    look: Look = "name"
    gives: Literal["", "number", "yes/no"] = ""
    """For a formula or a variable: the type that it must have."""
    names: Names | None = None
    """What is offered there."""
    wrong: Callable[[Index, str], str] | None = None
    """For a name: what is wrong with it, or ""; without it only the names offered may stand there."""
    renamed: tuple[str, ...] = ()
    """For a name: the sorts of things it may be the name of."""
    unit: str = ""
    """What may be typed after it: `s`, `°`."""
    all_matches: bool = False
    """For a role: “all matches” may stand there too."""
    optional: bool = False
    """It may be left empty."""
    presses: bool = False
    """It is something that is pressed: a key, or a button of the pointer."""

    @property
    def tells_objects(self) -> bool:
        """Whether what is there says which objects are meant."""
        return self.holds in ("role", "variable", "where") or self.name == "kind"

    @property
    def has_formulas(self) -> bool:
        """Whether it is a formula, or a text that may have formulas in braces."""
        return self.holds in ("formula", "text")

    def may_be_formula(self, text: str) -> bool:
        """Return whether a text is a formula there, or may have formulas in braces."""
        return self.has_formulas or (self.holds == "where" and is_point_formula(text))


def hint_here(index: Index, hint: str) -> str:
    """Return a hint whose example names a variable that the level has; without its example if there is none of that sort."""
    named = _EXAMPLE.search(hint)
    if named is None:
        return hint
    known = [
        name
        for name in variables_for(index, named["type"] and _TYPES[named["type"]])
        if name in _declared(index)
    ]
    if known:
        return hint[: named.start()] + known[0] + hint[named.end() :]
    before, comma, _ = hint.partition(", such as ")
    return before if comma else hint.partition(":")[0]


_TYPES = {"pods": "number", "done": "yes/no"}
_EXAMPLE = re.compile(r"level\.(?P<type>pods|done)(?: or Pod\.age)?")
"""What hints name for an example: a number, or a yes/no."""


def _declared(index: Index) -> set[str]:
    """Return the variables that the level and its kinds declare, as a slot names them."""
    found = {f"level.{v.name}" for v in index.level.variables}
    return found | {f"{kind.name}.{v.name}" for kind in index.level.kinds for v in kind.variables}


SLOT_TYPES: dict[str, SlotType] = {}


def declare(made: SlotType) -> SlotType:
    """Add a type of slot. Raises TypeError if there is one of that name."""
    if made.name in SLOT_TYPES:
        raise TypeError(f"two types of slots are called {made.name}")
    SLOT_TYPES[made.name] = made
    return made


# what a level has that could stand in a slot


def roles_for(index: Index, here: Iterable[str] = ()) -> list[str]:
    """Roles, those that a rule speaks of already first, then kinds, objects, tags and the rest."""
    first = [r.text for text in here if (r := index.role(text)) is not None]

    def rank(role: Role) -> int:
        if role.text.startswith("another "):
            return 3
        return {"kind": 4 if role.new else 0, "tag": 1, "all": 1, "object": 2, "reference": 5}[role.source]

    rest = sorted(index.role_tokens.values(), key=rank)
    return list(dict.fromkeys([*first, *(r.text for r in rest)]))


def variables_for(index: Index, type: str = "") -> list[str]:
    """Variables as a slot names them, of one type if it is given."""
    level = [f"level.{v.name}" for v in index.level.variables if type in ("", type_of(v.value))]
    owned = [
        f"{kind.name}.{v.name}"
        for kind in index.level.kinds
        for v in kind.variables
        if type in ("", type_of(v.value))
    ]
    plain = sorted(WRITABLE - {"shown"}) if type in ("", "number") else ["shown"] if type == "yes/no" else []
    return [*level, *owned, *(f"{kind.name}.{p}" for kind in index.level.kinds for p in plain)]


@lru_cache(maxsize=256)
def menu_entries(text: str) -> tuple[str, ...]:
    """Return the entries of a menu by their names, as they are written in its slot: `lift if Post.power > 0 | lower`."""
    return tuple(e.partition(" if ")[0].strip() for e in text.split("|") if e.strip())


def _places(index: Index, here: tuple[str, ...]) -> list[str]:
    points = [f"{point} of {kind}" for point, kinds in index.points.items() for kind in kinds]
    spots = [name for name in index.places if name not in index.routes]
    held = [name.replace(" ", "_") for name in variables_for(index, "point")]
    return [*spots, *roles_for(index, here), *points, *held, "pointer"]


def _numbers(index: Index, here: tuple[str, ...]) -> list[str]:
    return [v.replace(" ", "_") for v in variables_for(index, "number")]


def _values(index: Index, here: tuple[str, ...]) -> list[str]:
    return [*(v.replace(" ", "_") for v in variables_for(index)), "yes", "no"]


# what is wrong with a name


def _wrong_key(index: Index, text: str) -> str:
    return (
        ""
        if text in KEYS
        else f"there is no key called “{text}”{index.known('keys', lambda: KEYS).hint(text)}"
    )


def _wrong_kind(index: Index, text: str) -> str:
    return (
        ""
        if text in index.kinds
        else f"there is no kind called “{text}”{index.known('kind names', lambda: index.kinds).hint(text)}"
    )


def _wrong_tag(index: Index, text: str) -> str:
    return (
        ""
        if text in index.tags
        else f"nothing carries the tag “{text}”{index.known('tags', lambda: index.tags).hint(text)}"
    )


def _wrong_colour(index: Index, text: str) -> str:
    right = re.fullmatch(r"#[0-9A-Fa-f]{6}", text)
    return "" if right else "a colour is written as # and six digits, such as #0E6B50"


def _wrong_given(index: Index, text: str) -> str:
    try:
        given_in(text)
    except ValueError as error:
        return str(error)
    return ""


def _wrong_entries(index: Index, text: str) -> str:
    return (free_name_problem(text) or "") if text else ""


for _made in (
    SlotType(
        "role",
        "which object: a kind, one object, any TAG, or anything",
        "who",
        "role",
        "role",
        names=roles_for,
    ),
    SlotType(
        "per",
        "all matches, or a role: then one is kept for each of its objects",
        "whom",
        "role",
        names=lambda index, here: ["all matches", *roles_for(index, here)],
        all_matches=True,
    ),
    SlotType(
        "where",
        "a place, an object's role, one of its points (“hand of Gardener”), the pointer, or a point: (30, 40), Gardener.aim, ahead(Gardener, 40)",
        "where",
        "where",
        names=_places,
    ),
    SlotType("number", "a number or a formula", "number", "formula", "value", "number", _numbers, unit="°"),
    SlotType(
        "seconds",
        "a time in seconds, 0 or more; a number or a formula",
        "seconds",
        "formula",
        "value",
        "number",
        unit="s",
    ),
    SlotType(
        "yes/no formula",
        "a formula that is yes or no, such as level.pods > 3",
        "formula",
        "formula",
        "value",
        "yes/no",
    ),
    SlotType("value", "a formula of the variable's type", "value", "formula", "value", names=_values),
    SlotType("text", "a text; values stand in braces: {level.pods} left", "text", "text", "value"),
    SlotType(
        "variable",
        "a variable, such as level.pods or Pod.age",
        "variable",
        "variable",
        names=lambda index, here: variables_for(index),
    ),
    SlotType(
        "number variable",
        "a variable that holds a number, such as level.pods",
        "variable",
        "variable",
        gives="number",
        names=lambda index, here: variables_for(index, "number"),
    ),
    SlotType(
        "yes/no variable",
        "a variable that is yes or no, such as level.done",
        "variable",
        "variable",
        gives="yes/no",
        names=lambda index, here: variables_for(index, "yes/no"),
    ),
    SlotType("choice", "one of a few words", "choice", "choice", "choice"),
    SlotType(
        "kind",
        "a kind of object",
        "kind",
        "name",
        "role",
        names=lambda index, here: index.kinds,
        wrong=_wrong_kind,
        renamed=("kind",),
    ),
    SlotType(
        "key",
        "a key of the keyboard",
        "key",
        "name",
        names=lambda index, here: KEYS,
        wrong=_wrong_key,
        presses=True,
    ),
    SlotType(
        "any key",
        "a key of the keyboard, or a button of the pointer",
        "key",
        "name",
        names=lambda index, here: (*KEYS, *POINTER_KEYS),
        wrong=lambda index, text: "" if text in POINTER_KEYS else _wrong_key(index, text),
        presses=True,
    ),
    SlotType(
        "tag",
        "a tag that kinds or objects carry",
        "tag",
        "name",
        names=lambda index, here: index.tags,
        wrong=_wrong_tag,
        renamed=("tag",),
    ),
    SlotType("colour", "a colour, such as #0E6B50", "colour", "name", wrong=_wrong_colour),
    SlotType(
        "topic",
        "a topic that some kind can be talked to about",
        "topic",
        "name",
        names=lambda index, here: index.topics,
        renamed=("topic",),
    ),
    SlotType(
        "area",
        "an area of the level",
        "area",
        "name",
        names=lambda index, here: index.areas,
        renamed=("place",),
    ),
    SlotType(
        "route",
        "a route of the level",
        "route",
        "name",
        names=lambda index, here: index.routes,
        renamed=("place",),
    ),
    SlotType(
        "rule",
        "a rule, by its name",
        "rule",
        "name",
        names=lambda index, here: index.rule_names,
        renamed=("rule",),
    ),
    SlotType(
        "section",
        "a section, by its name",
        "section",
        "name",
        names=lambda index, here: index.section_names,
        renamed=("section",),
    ),
    SlotType(
        "clip",
        "a recorded motion",
        "clip",
        "name",
        names=lambda index, here: index.clips,
        renamed=("clip",),
    ),
    SlotType(
        "look",
        "a look that some kind has",
        "look",
        "name",
        names=lambda index, here: index.looks,
        renamed=("look",),
    ),
    SlotType(
        "point",
        "a named point that some kind has, such as a hand",
        "point",
        "name",
        names=lambda index, here: index.points,
        renamed=("point",),
    ),
    SlotType(
        "behaviour",
        "a behaviour that some kind has",
        "behaviour",
        "name",
        names=lambda index, here: index.behaviours,
    ),
    SlotType(
        "given",
        "what its inputs are given: reach = 70, tool = Lantern",
        "nothing",
        "given",
        "value",
        wrong=_wrong_given,
        optional=True,
    ),
    SlotType(
        "entries",
        "the entries of a menu, with a bar between them: lift | lower; one may have a condition: lift if Post.power > 0",
        "entries",
        "entries",
        wrong=_wrong_entries,
        optional=True,
    ),
):
    declare(_made)
