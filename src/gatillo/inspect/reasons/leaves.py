"""What a line read of a match: each value once, with its name and its object."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from gatillo.catalogue.contexts.effects import ANYBODY
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import EVERY, PROPERTY_TYPES, SAYING, Formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.reasons.instruments import Match, rows_table
from gatillo.inspect.reasons.journal import SAME_AS
from gatillo.inspect.reasons.reason_words import called
from gatillo.inspect.value_words import value_words
from gatillo.level.naming import spoken
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import View
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.touched import LEVEL, Access, Site, names_of, reads_of
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import FIRST_CREATED_ID, World

PLACE = frozenset({"x", "y"})
CALLED = {
    "on": "a behaviour of",
    "setting": "a setting of",
    "bond": "what carries",
    "focus": "the focus of",
    "route": "the route of",
    "clip": "the clip on",
    "end": "the end of the clip on",
    "tween": "the move of",
    "offer": "the prompt of",
    "arrival": "the way of",
    "saying": "what is said by",
    "look": "the look of",
    "contact": "the contact of",
}
"""By what is read of an object: how it is called, where its value is no number."""
STANDS_FOR = {
    # what is found out from where two stand, or how they face
    "touching": ("x", "y"),
    "inside": ("x", "y"),
    "pointed": ("x", "y"),
    "grounded": ("x", "y"),
}


@dataclass(frozen=True, slots=True)
class Leaf:
    """Something that was read: its name, its value in words, and what and whose it is."""

    name: str
    value: str
    site: Site
    object_id: int | None


def leaves_of(run: Run, rule: CompiledRule, line: CompiledLine, world: World, match: Match) -> list[Leaf]:
    """Return what a line reads of a match: each value once, places as one."""
    found: dict[tuple[str, int | None], Leaf] = {}
    index = names_of(run.program.index, rule)
    read = {(site.access.what, site.access.named, site.role): site for site in reads_of(index, line)}
    for (what, named, role), site in read.items():
        whats = STANDS_FOR.get(what, SAME_AS.get(what, (what,)))
        if site.access.kind == LEVEL:
            if what == "variable":
                name = f"level.{named}"
                value = world.level.get(named)
                found[name, None] = Leaf(name, _object_or_value(run, world, named, value), site, None)
            continue
        if role == ANYBODY or role not in match:
            continue
        object_id = match[role]
        row = world.row_of_id(object_id)
        if row < 0:
            continue
        who = called(run, object_id, world)
        for one in whats:
            if one in PLACE:
                words = (
                    f"{value_words(round(world.x.item(row), 2))}, {value_words(round(world.y.item(row), 2))}"
                )
                access = Site(Access("x", site.access.kind), role)
                found.setdefault(
                    (f"{who} place", object_id), Leaf(f"{who} stood at", words, access, object_id)
                )
            elif one in ("vx", "vy"):
                words = f"{value_words(round(world.vx.item(row), 2))}, {value_words(round(world.vy.item(row), 2))}"
                access = Site(Access("vx", site.access.kind), role)
                found.setdefault(
                    (f"{who} velocity", object_id),
                    Leaf(f"{who}’s velocity was", words, access, object_id),
                )
            else:
                leaf = _own_leaf(run, world, row, who, one, named, site, object_id)
                if leaf is not None:
                    found[leaf.name, object_id] = leaf
    return list(found.values())


def _own_leaf(
    run: Run, world: World, row: int, who: str, what: str, named: str, site: Site, object_id: int
) -> Leaf | None:
    """Something of an object that is read, with its value."""
    rows = np.array([row])
    if what == "variable":
        key = next((k for k in world.variables if k.partition("/")[0] == named and "/" in k), "")
        if not key:
            return None
        value = world.values_of(rows, key)[0]
        words = called(run, int(value), world) if key.endswith("/object") and value else _plain(value)
        return Leaf(f"{who}.{named}", words, site, object_id)
    if what in ("angle", "facing"):
        facing = float(world.values_of(rows, "facing")[0])
        return Leaf(f"{who} faced", f"{value_words(round(facing, 2))}°", site, object_id)
    if what in PROPERTY_TYPES and what != "name":
        return Leaf(f"{who}.{what}", _plain(world.values_of(rows, what)[0]), site, object_id)
    if what == "tag" and named:
        carries = bool(world.tagged(named)[row])
        return Leaf(f"{who} has tag {named}", "yes" if carries else "no", site, object_id)
    if what == "item":
        return Leaf(
            f"{who}’s {named}", value_words(world.items.get((object_id, named), 0.0)), site, object_id
        )
    if what == "there" and object_id >= FIRST_CREATED_ID:
        return Leaf(f"{who} is there", "", site, object_id)
    if what in CALLED:
        return Leaf(f"{CALLED[what]} {who}" + (f" ({named})" if named else ""), "", site, object_id)
    return None


def leaves_of_reads(
    run: Run, world: World, index: Index, reads: tuple[tuple[str, str], ...], match: Match
) -> list[Leaf]:
    """Return what a formula reads, each value once, for one match."""
    found = []
    for owner, name in reads:
        if owner == "level":
            site = Site(Access("variable", LEVEL, name))
            value = _object_or_value(run, world, name, world.level.get(name))
            found.append(Leaf(f"level.{name}", value, site, None))
        elif owner in match and not owner.startswith(f"{EVERY} "):
            object_id = match[owner]
            kind = kind_of(run, object_id, world)
            own = name in PROPERTY_TYPES or name == SAYING
            try:
                formula = compile_formula(index, f"saying({owner})" if name == SAYING else f"{owner}.{name}")
            except FormulaError:
                continue
            site = Site(Access(name if own else "variable", kind, "" if own else name), owner)
            who = called(run, object_id, world)
            found.append(
                Leaf(f"{who}.{name}", worked_out(world, formula, {owner: object_id}), site, object_id)
            )
    return found


def worked_out(world: World, formula: Formula, match: Match) -> str:
    """Return a formula for one match, in words."""
    table = rows_table(world, match)
    if table is None:
        return "nothing"
    view = View(world, table, 0)
    with np.errstate(all="ignore"):
        value = formula.evaluate(view)
    if view.faults:
        return "nothing: " + view.faults[0][1]
    return _plain(value[0] if isinstance(value, np.ndarray) and value.ndim else value)


def _object_or_value(run: Run, world: World, name: str, value: Any) -> str:
    variable = next((v for v in run.program.level.variables if spoken(v.name) == spoken(name)), None)
    if variable is not None and type(variable.value).__name__ == "Reference":
        return called(run, int(value), world) if value else "nobody"
    return _plain(value)


def kind_of(run: Run, object_id: int, world: World) -> str:
    """Return the kind of an object, by name."""
    program = run.program
    if object_id in world.created_of:
        return program.kinds[world.created_of[object_id]].name
    if object_id in run.world.created_of:
        return program.kinds[run.world.created_of[object_id]].name
    return next((o.kind for o in program.level.objects if o.id == object_id), program.kinds[0].name)


def _plain(value: object) -> str:
    if isinstance(value, np.generic):
        value = value.item()
    return value_words(value)
