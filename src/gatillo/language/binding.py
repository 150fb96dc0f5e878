"""Binding a clause to a level: each slot's text becomes what it names, or a problem with its place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from typing import Any, Literal

from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Slot
from gatillo.catalogue.declare.slot_types import WRITABLE
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import CHANCE, PROPERTY_TYPES, Formula, column_key
from gatillo.formula.frame import Frame
from gatillo.formula.functions import random_point
from gatillo.formula.syntax import FormulaError
from gatillo.formula.template import compile_template
from gatillo.level.model import Area, Clause, Spot
from gatillo.level.naming import KnownNames, did_you_mean, is_point_formula, token
from gatillo.level.roles import Index, Role, ValueType

DRAWS_PER_SLOT = 64


@dataclass(frozen=True, slots=True)
class SlotProblem:
    """Something wrong in one slot (or, with an empty slot, in the whole clause)."""

    slot: str
    message: str
    start: int = 0
    end: int = 0


@dataclass(frozen=True, slots=True)
class RoleArgument:
    role: Role


@dataclass(frozen=True, slots=True)
class VariableArgument:
    """A variable to write: of the level (role is None) or of a role's object."""

    role: Role | None
    name: str
    key: str
    type: ValueType


@dataclass(frozen=True, slots=True)
class WhereArgument:
    """A point: fixed, of an object, of the pointer, or drawn again in an area."""

    point: Callable[[Frame], tuple[Any, Any]]
    roles: tuple[str, ...] = ()
    area: Area | None = None
    reads: tuple[tuple[str, str], ...] = ()
    """What it reads, as a formula says it."""
    formula: Formula | None = None
    """The formula that gives it, where it is not a name."""


@dataclass(frozen=True, slots=True)
class Word:
    """A plain name or word: a key, a message, a tag, a kind, one of a choice."""

    text: str


Argument = RoleArgument | VariableArgument | WhereArgument | Word | Formula


@dataclass(slots=True)
class Bound:
    """A clause whose slots have been looked up. With problems it cannot run."""

    clause: Clause
    entry: Entry | None
    arguments: dict[str, Argument] = field(default_factory=dict)
    problems: list[SlotProblem] = field(default_factory=list)


ClauseGroup = Literal["occasion", "condition", "action", "behaviour"]


@cache
def _entries(group: ClauseGroup) -> KnownNames:
    return KnownNames(name for name, entry in CATALOGUE.items() if entry.group == group)


def why_not_a(group: ClauseGroup, use: str) -> str:
    """Return why an entry of this name cannot stand where a clause of this group is wanted; "" if it can."""
    entry = CATALOGUE.get(use)
    if entry is not None and (entry.group == group or (group == "condition" and entry.group == "pick")):
        return ""
    return f"“{use}” is not {'an' if group[0] in 'ao' else 'a'} {group}{_entries(group).hint(use)}"


def bind(index: Index, clause: Clause, group: ClauseGroup) -> Bound:
    """Look up everything a clause names. Never raises: what is wrong is listed as problems."""
    entry = CATALOGUE.get(clause.use)
    bound = Bound(clause, entry)
    if wrong := why_not_a(group, clause.use):
        bound.problems.append(SlotProblem("", wrong))
        bound.entry = None
        return bound
    assert entry is not None
    for name in clause.slots:
        if name not in entry.slots:
            bound.problems.append(
                SlotProblem(name, f"“{clause.use}” has no slot “{name}”{did_you_mean(name, entry.slots)}")
            )
    for at, (name, slot) in enumerate(entry.slots.items()):
        text = clause.slots.get(name, slot.default)
        try:
            bound.arguments[name] = _bind_slot(index, bound, slot, text, at * DRAWS_PER_SLOT)
        except FormulaError as error:
            bound.problems.append(SlotProblem(name, error.message, error.start, error.end))
    return bound


def _bind_slot(index: Index, bound: Bound, slot: Slot, text: str, first_call: int) -> Argument:
    kind = slot.kind
    if kind.holds == "formula":
        wanted: ValueType | None = kind.gives or None
        if wanted is None:
            # a formula of the type of the variable before it
            variable = next((a for a in bound.arguments.values() if isinstance(a, VariableArgument)), None)
            wanted = variable.type if variable else None
        return compile_formula(index, text, wanted, first_call=first_call)
    if kind.holds == "text":
        return compile_template(index, text, first_call=first_call)
    if kind.holds == "role":
        if kind.all_matches and text.strip() == "all matches":
            return Word("all matches")
        return RoleArgument(_role(index, text))
    if kind.holds == "variable":
        return _variable(index, text, kind.gives)
    if kind.holds == "where":
        return _where(index, text, first_call)
    return Word(_word(index, slot, text))


def _role(index: Index, text: str) -> Role:
    role = index.role(text)
    if role is None:
        if not text.strip():
            raise FormulaError("choose which object this is about", 0, 1)
        raise FormulaError(index.unknown_role(text), 0, len(text))
    return role


def _variable(index: Index, text: str, wanted: str) -> VariableArgument:
    owner, dot, name = text.strip().rpartition(".")
    if not dot:
        spoken = index.known("level with owner", lambda: [f"level.{t}" for t in index.level_tokens])
        raise FormulaError(
            f"name a variable with its owner, such as level.score{spoken.hint(f'level.{name}')}",
            0,
            len(text),
        )
    name = token(name)
    role: Role | None = None
    if owner == "level":
        kind = index.level_tokens.get(name)
        if kind is None:
            raise FormulaError(
                f"the level has no variable “{name}”{index.known('level', lambda: index.level_tokens).hint(name)}",
                len("level."),
                len(text),
            )
        key = name
    else:
        role = _role(index, owner)
        kind = (PROPERTY_TYPES.get(name) if name in WRITABLE else None) or index.variable_type(role, name)
        if kind is None:
            known = [*index.variable_tokens(role), *sorted(WRITABLE)]
            raise FormulaError(
                f"“{role.text}” has no variable “{name}” to write{did_you_mean(name, known)}",
                len(owner) + 1,
                len(text),
            )
        key = column_key(name, kind)
    if wanted and kind != wanted:
        raise FormulaError(f"“{text.strip()}” is not a {wanted}", 0, len(text))
    return VariableArgument(role, name, key, kind)


def _where(index: Index, text: str, first_call: int) -> WhereArgument:
    if is_point_formula(text):
        return point_by_formula(compile_formula(index, text, "point", first_call=first_call))
    name = token(text.strip())
    if name == "pointer":
        return WhereArgument(
            lambda f: (f.pointer("x"), f.pointer("y")), reads=(("pointer", "x"), ("pointer", "y"))
        )
    place = index.place_tokens.get(name)
    if isinstance(place, Spot):
        point = (place.x, place.y)
        return WhereArgument(lambda f: point)
    if isinstance(place, Area):
        area = place
        return WhereArgument(
            lambda f: random_point(area, f.draw(first_call), f.draw(first_call + 1)),
            area=area,
            reads=((CHANCE, ""),),
        )
    role = index.role_tokens.get(name)
    if role is not None:
        return WhereArgument(
            lambda f: (f.property(name, "x"), f.property(name, "y")),
            (name,),
            reads=((name, "x"), (name, "y")),
        )
    if not name:
        raise FormulaError("choose a place, an object or the pointer", 0, 1)
    if " of " in text:
        return _point_of(index, text)
    known = index.known(
        "where", lambda: (*index.places, *(r.text for r in index.role_tokens.values()), "pointer")
    )
    raise FormulaError(f"there is no place or object called “{text}”{known.hint(text)}", 0, len(text))


def point_by_formula(formula: Formula) -> WhereArgument:
    """Return the point that a formula gives."""

    def point(f: Frame) -> tuple[Any, Any]:
        value = formula.evaluate(f)
        return value.real, value.imag

    return WhereArgument(point, formula.roles, reads=formula.reads, formula=formula)


def _point_of(index: Index, text: str) -> WhereArgument:
    """Return a named point of an object, as it stands and is turned and scaled."""
    point, _, whose = text.strip().partition(" of ")
    role = _role(index, whose)
    known = [name for name, kinds in index.points.items() if set(role.kinds) <= set(kinds)]
    if point not in known:
        raise FormulaError(
            f"“{role.text}” has no point called “{point}”{did_you_mean(point, known)}", 0, len(point)
        )
    reads = tuple((role.token, what) for what in ("x", "y", "angle", "scale"))
    return WhereArgument(lambda f: f.point_of(role.token, point), (role.token,), reads=reads)


def _word(index: Index, slot: Slot, text: str) -> str:
    text, kind = text.strip(), slot.kind
    if kind.holds == "choice":
        if text not in slot.options:
            raise FormulaError(f"“{text}” is not one of: {', '.join(slot.options)}", 0, len(text))
    elif kind.wrong is not None:
        problem = kind.wrong(index, text)
        if problem:
            raise FormulaError(problem, 0, max(1, len(text)))
    else:
        assert kind.names is not None
        known = list(dict.fromkeys(kind.names(index, ())))
        if not text:
            a = "an" if slot.type[0] in "aeiou" else "a"
            none = "" if known else f"; the level has no {slot.type} yet, so make one first"
            raise FormulaError(f"choose {a} {slot.type} here{none}", 0, 1)
        if text not in known:
            raise FormulaError(
                f"there is no {slot.type} called “{text}”{index.known(f'slot {slot.type}', lambda: known).hint(text)}",
                0,
                len(text),
            )
    return text
