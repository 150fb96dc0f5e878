"""How a catalogue entry is declared: sentence, typed slots, help, and how it is computed."""

from __future__ import annotations

import inspect
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Literal, get_args

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.effects import Touches
from gatillo.catalogue.contexts.focus import FocusApi
from gatillo.catalogue.contexts.prompts import PromptApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.declare.derived import Derived, derived
from gatillo.catalogue.declare.facts import Wakes, checked
from gatillo.catalogue.declare.slot_types import SLOT_TYPES, SlotType
from gatillo.catalogue.declare.wording import Wording, check_wordings
from gatillo.level.roles import TAG_GIVERS, Role

Phase = Literal["first", "urge", "motion", "follow", "focus", "prompts"]
"""`first` may keep an object from what else it does; `urge` adds to what drives it; `motion` gives velocities; `follow` acts on where all have
come to; `focus` and `prompts` on what is where for good in this tick."""
Group = Literal["occasion", "condition", "pick", "action", "behaviour"]


@dataclass(frozen=True, slots=True)
class Slot:
    """One gap in an entry's sentence: what may stand there and what is there at first."""

    type: str
    """The name of its type (slot_types.py)."""
    default: str = ""
    help: str = ""
    options: tuple[str, ...] = ()
    makes: bool = False
    """Whether a name exists by standing here, as a tag that an action gives."""
    objects: bool = False
    """Whether it is a place at which an object is usually meant."""
    adds: bool = False
    """Whether it is an amount that is added each time: `* dt` makes it an amount a second."""

    def __post_init__(self) -> None:
        if self.type not in SLOT_TYPES:
            raise TypeError(f"there is no type of slot called {self.type!r}")

    @property
    def kind(self) -> SlotType:
        """All that is particular to its type."""
        return SLOT_TYPES[self.type]

    @property
    def is_rate(self) -> bool:
        """Whether it is an amount a second."""
        return "a second" in self.help

    @property
    def hint(self) -> str:
        """What may stand there, in words."""
        return self.help or self.kind.hint


Does = Literal["puts", "turns"]
Alone = bool | Callable[..., Any]


@dataclass(frozen=True, slots=True)
class Kernel:
    """A loop over numbers in the place of a behaviour's computation (gatillo.kernels)."""

    run: Callable[[Any, Any, float], int]
    """Given columns, settings and the time of a tick: how many rows it wrote into `found`; -1 where it has done nothing."""
    does: Does
    """Whether the rows that it finds have been put elsewhere, or turned."""
    in_pairs: Callable[[Any, Any, Any, Any, float], int] | None = None
    """The loop for many objects, given which of them are near one another."""
    reach: Callable[[Any], float] | None = None
    """How near neighbours must be for `in_pairs`, in level units, given the settings."""
    points: bool = False
    """Whether it can aim at a point and at the pointer, not only at the nearest of some objects."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry of the catalogue. `compute` is called with arrays, one value per match."""

    name: str
    group: Group
    subject: str
    sentence: str
    help: str
    slots: dict[str, Slot]
    compute: Callable[..., Any]
    wakes: Wakes | None = None
    alarm: tuple[str, str] | None = None
    """For an occasion that comes at times: the slots with its first time and its period."""
    one_shot: bool = False
    """Done every tick, this action is nearly always a mistake."""
    pair: tuple[str, str, Literal["distance", "contact"]] | None = None
    """For a condition that only near pairs can pass: the slots of its two roles, and how nearness is measured."""
    measured: tuple[str, ...] = ()
    """For what can be missed by more or less: how that is measured (inspect/reasons/measures.py), and the slots it goes by."""
    begins: str = ""
    """For an occasion that comes once, when something begins: what goes on then, as in “had touched”."""
    depends: tuple[str, ...] | None = None
    """For an occasion that yields the same, or nobody, while nothing changes: the slots with the variables that it reads."""
    continuing: bool = False
    """For an occasion that comes in tick after tick for as long as something goes on."""
    holds: Literal["", "conditions", "actions"] = ""
    """Whether it holds lines of its own: a group of conditions, a repeat."""
    joins: Literal["", "all", "any", "none"] = ""
    """For a group of conditions: how many of them must hold."""
    branch: Literal["", "if", "otherwise"] = ""
    """For an action that holds lines: whether they are done once for those for which it holds, or for the others."""
    undone_by: str = ""
    """For an action: the one that undoes it, by name. That one has no slots but its own."""
    stills: str = ""
    """For an action: the slot whose objects have no motion of their own from then on."""
    phase: Phase = "motion"
    """For a behaviour: when in a tick it acts."""
    remembers: dict[str, float] = field(default_factory=dict)
    """For a behaviour: numbers that each object keeps for it from tick to tick, and what they start with."""
    wants: str = ""
    """For a behaviour: another one without which it does nothing."""
    faces: bool = False
    """For a behaviour: it matters where its object faces, so that this is drawn."""
    urges: Callable[..., Any] | None = None
    """For a behaviour that several urges drive: gives each of them, with its name."""
    kernel: Kernel | None = None
    """For a behaviour: a loop that does the same for a few objects."""
    alone: Callable[..., Any] | None = None
    """For an action or a condition: what it does or answers for one match, given plain values, with a row in the place of rows."""
    same_as: str = ""
    """For a condition: the formula that says the same, with its slots in braces."""
    wordings: tuple[Wording, ...] = ()
    """Further ways to say its sentence, by which a typed line finds it."""
    times: tuple[str, ...] = field(init=False)
    """Slots with a time in seconds."""
    _derived: list[Derived] = field(default_factory=list, init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        times = tuple(name for name, slot in self.slots.items() if slot.type == "seconds")
        object.__setattr__(self, "times", times)

    @property
    def derived(self) -> Derived:
        """What follows of it from its code (derived.py)."""
        if not self._derived:
            seen_by = (
                _SEEN_BY.get(self.phase, BehaviourApi) if self.group == "behaviour" else _SEEN_BY[self.group]
            )
            types = {name: slot.type for name, slot in self.slots.items()}
            telling = frozenset(name for name, slot in self.slots.items() if slot.kind.tells_objects)
            self._derived.append(
                derived(self.name, self.group, types, self.compute, telling, seen_by, bool(self.holds))
            )
        return self._derived[0]

    def touches(self) -> Touches:
        """Return what it reads and writes, in the names of its slots."""
        return self.derived.touches

    @property
    def walks(self) -> bool:
        """Whether it can send an object along a route."""
        return any(slot.type == "route" for slot in self.slots.values())

    def parts(self) -> list[tuple[str, str | None]]:
        """Return the sentence as (plain text, None) and ("", slot name) pieces, in order."""
        return list(_parts_of(self.sentence))


@cache
def _parts_of(sentence: str) -> tuple[tuple[str, str | None], ...]:
    pieces = [piece for piece in re.split(r"(\{\w+\})", sentence) if piece]
    return tuple(("", p[1:-1]) if p.startswith("{") else (p, None) for p in pieces)


_SEEN_BY: dict[str, type] = {
    "occasion": QueryApi,
    "condition": QueryApi,
    "pick": QueryApi,
    "action": ActionApi,
    "focus": FocusApi,
    "prompts": PromptApi,
}

CATALOGUE: dict[str, Entry] = {}


_SOMEBODY = Role("x", "x", "kind", ("x",), "x")


_AMONG: dict[str, tuple[str, ...]] = {
    "phase": get_args(Phase),
    "joins": ("", "all", "any", "none"),
    "holds": ("", "conditions", "actions"),
    "branch": ("", "if", "otherwise"),
}
"""By option of a declaration: what it may be."""


def _check_parameters(
    name: str, group: Group, compute: Any, slots: dict[str, Slot], more: dict[str, Any]
) -> None:
    """Raise TypeError if an entry's computation does not take the world and, by their names, its slots."""
    if more.get("alarm") or more.get("joins"):
        # the program looks after these itself
        return
    code = inspect.unwrap(compute).__code__
    takes = code.co_varnames[: code.co_argcount + code.co_kwonlyargcount]
    given = set(takes[2:] if group == "behaviour" else takes[1:])
    if group == "behaviour" and takes[1:2] != ("rows",):
        raise TypeError(f"{name} is a behaviour: its second parameter is called rows")
    if given != set(slots) and not code.co_flags & inspect.CO_VARKEYWORDS:
        raise TypeError(f"the parameters of {name} and its slots differ: {sorted(given ^ set(slots))}")


def _declare(
    group: Group, sentence: str, help: str, slots: dict[str, Slot], **more: Any
) -> Callable[[Any], Any]:
    named = set(re.findall(r"\{(\w+)\}", sentence))
    if named != set(slots):
        raise TypeError(f"sentence and slots differ in {sentence!r}: {named ^ set(slots)}")
    spoken_of = [
        *filter(None, more.get("alarm") or ()),
        *(more.get("pair") or ())[:2],
        *(slot for slot in more.get("measured", ())[1:] if slot),
    ]
    if unknown := sorted(set(spoken_of) - set(slots)):
        raise TypeError(f"the declaration of {sentence!r} names slots that it does not have: {unknown}")
    for option, among in _AMONG.items():
        if option in more and more[option] not in among:
            raise TypeError(f"{more[option]!r} is no {option}; there are: {', '.join(map(repr, among))}")

    more["wordings"] = check_wordings(sentence, slots, more.pop("says", ()))
    alone = more.pop("alone", False)

    def declare(compute: Any) -> Any:
        name = compute.__name__
        if name in CATALOGUE:
            raise TypeError(f"two catalogue entries are called {name}")
        _check_parameters(name, group, compute, slots, more)
        if alone:
            more["alone"] = compute if alone is True else alone
            _check_parameters(name, group, more["alone"], slots, {})
        subject = compute.__module__.rpartition(".")[2]
        compute.__doc__ = compute.__doc__ or help
        if (wakes := more.get("wakes")) is not None:
            # a slip in it would else be a rule that never fires
            checked(
                wakes(**{k: _SOMEBODY if s.type == "role" else s.default or "x" for k, s in slots.items()}),
                name,
            )
        for at, one in slots.items():
            if one.makes and one.type == "tag":
                TAG_GIVERS[name] = at, next(other for other, s in slots.items() if s.type == "role")
        CATALOGUE[name] = Entry(name, group, subject, sentence, help, slots, compute, **more)
        return compute

    return declare


def check_undone() -> None:
    """Raise TypeError for an action that is undone by something else than an action with some of its slots."""
    for entry in CATALOGUE.values():
        if not entry.undone_by:
            continue
        undoing = CATALOGUE.get(entry.undone_by)
        if undoing is None or undoing.group != "action" or set(undoing.slots) - set(entry.slots):
            raise TypeError(f"{entry.name} cannot be undone by {entry.undone_by}")


def occasion(
    sentence: str,
    help: str,
    *,
    wakes: Wakes | None = None,
    alarm: tuple[str, str] | None = None,
    continuing: bool = False,
    measured: tuple[str, ...] = (),
    begins: str = "",
    depends: tuple[str, ...] | None = None,
    says: Iterable[str | Wording] = (),
    **slots: Slot,
) -> Callable[[Any], Any]:
    """Declare an occasion. `compute(world, **slots)` gives its candidate matches.

    `wakes` gives, from the slots, the facts at which the rule must be looked at; without it and
    without `alarm` the rule is looked at every tick. With `depends`, what it yields depends on who is there
    and on the variables in these slots alone: asked again while none of that has changed, it yields the same, or nobody.
    """
    return _declare(
        "occasion",
        sentence,
        help,
        slots,
        says=says,
        wakes=wakes,
        alarm=alarm,
        continuing=continuing,
        measured=measured,
        begins=begins,
        depends=depends,
    )


def condition(
    sentence: str,
    help: str,
    *,
    pair: tuple[str, str, Literal["distance", "contact"]] | None = None,
    joins: Literal["", "all", "any", "none"] = "",
    measured: tuple[str, ...] = (),
    alone: Alone = False,
    same_as: str = "",
    says: Iterable[str | Wording] = (),
    **slots: Slot,
) -> Callable[[Any], Any]:
    """Declare a condition. `compute(world, **slots)` gives yes/no per match; one that `joins` holds lines of its own.

    `same_as` is the formula that says the same, where there is one. With `alone` its computation also answers for one match given plain values, or another function does (`OneMatch`).
    """
    return _declare(
        "condition",
        sentence,
        help,
        slots,
        says=says,
        pair=pair,
        holds="conditions" if joins else "",
        joins=joins,
        measured=measured,
        alone=alone,
        same_as=same_as,
    )


def pick(
    sentence: str,
    help: str,
    *,
    measured: tuple[str, ...] = (),
    says: Iterable[str | Wording] = (),
    **slots: Slot,
) -> Callable[[Any], Any]:
    """Declare a pick. `compute(world, **slots)` gives which matches it keeps, yes/no per match."""
    return _declare("pick", sentence, help, slots, says=says, measured=measured)


def action(
    sentence: str,
    help: str,
    *,
    one_shot: bool = False,
    holds: Literal["", "conditions", "actions"] = "",
    branch: Literal["", "if", "otherwise"] = "",
    undone_by: str = "",
    stills: str = "",
    alone: Alone = False,
    says: Iterable[str | Wording] = (),
    **slots: Slot,
) -> Callable[[Any], Any]:
    """Declare an action. `compute(deed, **slots)` carries it out, for all its matches at once.

    With `alone` its computation also does so for one match given plain values, or another function does (`OneMatch`).
    """
    return _declare(
        "action",
        sentence,
        help,
        slots,
        says=says,
        one_shot=one_shot,
        holds=holds,
        branch=branch,
        undone_by=undone_by,
        stills=stills,
        alone=alone,
    )


def behaviour(
    sentence: str,
    help: str,
    *,
    phase: Phase = "motion",
    remembers: dict[str, float] | None = None,
    wants: str = "",
    faces: bool = False,
    urges: Callable[..., Any] | None = None,
    kernel: Kernel | None = None,
    says: Iterable[str | Wording] = (),
    **slots: Slot,
) -> Callable[[Any], Any]:
    """Declare a behaviour. `compute(motion, rows, **settings)` acts once a tick on all who have it.

    A `kernel` does the same for a few, to the last bit; of its slots those with numbers, at most one role and at most one choice
    are looked at.

    In the phases “focus” and “prompts” it is given what is where for good in this tick (`Looks`, `Offers`).
    """
    return _declare(
        "behaviour",
        sentence,
        help,
        slots,
        says=says,
        phase=phase,
        remembers=remembers or {},
        wants=wants,
        faces=faces or "facing" in slots,
        urges=urges,
        kernel=kernel,
    )


# Slots by type, for declarations that read like the sentence they belong to.


def role(help: str = "", default: str = "") -> Slot:
    """Return a slot for an object by its role."""
    return Slot("role", default, help)


def number(default: str = "0", help: str = "", *, adds: bool = False) -> Slot:
    """Return a slot for a number or a formula; `help` says its unit, `adds` that it is added each time."""
    return Slot("number", default, help, adds=adds)


def seconds(default: str = "1", help: str = "") -> Slot:
    """Return a slot for a time in seconds, 0 or more."""
    return Slot("seconds", default, help)


def choice(*options: str, help: str = "") -> Slot:
    """Return a slot for one of a few words, the first of them at first. Further words for them are in wording.py."""
    return Slot("choice", options[0], help, options)


def key(default: str = "Space", help: str = "") -> Slot:
    """Return a slot for a key of the keyboard."""
    return Slot("key", default, help)


def any_key(default: str = "Space", help: str = "") -> Slot:
    """Return a slot for a key of the keyboard or a button of the pointer."""
    return Slot("any key", default, help)


def slot(type: str, default: str = "", help: str = "", *, makes: bool = False) -> Slot:
    """Return a slot of any type (slot_types.py). Raises TypeError if there is no such type."""
    return Slot(type, default, help, makes=makes)


def area(help: str = "") -> Slot:
    """Return a slot for an area of the level."""
    return Slot("area", "", help)


def per() -> Slot:
    """Return a slot for all matches, or a role for each of whose objects something is kept."""
    return Slot("per", "all matches")
