"""Lines for one match: a Python function made from a line, in which its formulas stand as expressions.

What a line does over arrays of one it does so in plain numbers, to the same last bit, at a fraction of the cost. Where it cannot
(a role that many objects can stand for, a formula without an answer, a bound that is reached) the line is done over arrays.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from types import CodeType
from typing import Any

import numpy as np

from gatillo.catalogue.contexts.values import Target
from gatillo.formula.formula import Formula
from gatillo.language.binding import WhereArgument
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import Matches, View, same_base
from gatillo.sim.matching.one_value import HELPERS, NoAnswer, NotWritten, Writer
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.program import Program
from gatillo.sim.rules.one_match import OneMatch, plain
from gatillo.sim.world.world import World

ALONE = True
"""Whether lines for one match are done alone; tests compare both ways."""


@dataclass(frozen=True, slots=True)
class LineAlone:
    """A line for one match."""

    run: Callable[[OneMatch, World, dict[str, int], View | None], Any]
    """Given what it acts on, the world, the row of each role, and its match as formulas see it, where `looks`."""
    looks: bool
    """Whether some of its slots are worked out by way of the match table."""


def line_alone(program: Program, line: CompiledLine) -> LineAlone | None:
    """Return how a line is done for one match, made at the first call; None where its entry is not for that."""
    if line.alone is None:
        line.alone = _made(program, line) or False
    return line.alone or None


def alone_rows(world: World, line: CompiledLine, table: Matches) -> dict[str, int] | None:
    """Return the row of each of a line's roles for the one match of a table; None where a role it brings in is not one object."""
    return rows_alone(world, line.roles, table)


def rows_alone(world: World, roles: tuple[str, ...], table: Matches) -> dict[str, int] | None:
    """Return the row of each of some roles, as `alone_rows`."""
    found: dict[str, int] = {}
    rows = table.rows
    for role in roles:
        here = rows.get(role)
        if here is not None:
            found[role] = here.item(0)
            continue
        row = only_row(world, role)
        if row < 0:
            return None
        if rows or found:
            named = world.program.roles[role]
            # two roles of one sort never stand for the same object
            for other in (*rows, *found):
                if same_base(world, named, other):
                    return None
        found[role] = row
    return found


def formula_alone(index: Index, formula: Formula) -> Callable[[World, dict[str, int]], Any] | None:
    """Return a function that works a formula out for one match, given the world and the row of each role; None where there is none.

    It raises one of NO_ANSWER where the formula has no answer.
    """
    if formula.type == "text":
        # it may be a text with formulas in braces
        return None
    names = {role: f"row_{at}" for at, role in enumerate(formula.roles)}
    writer = Writer(index, names.__getitem__, dict(HELPERS))
    try:
        expression = writer.written(formula)
    except NotWritten:
        return None
    body = [f"{name} = at[{role!r}]" for role, name in names.items()]
    body.append(f"value = {expression}")
    if formula.type == "number":
        body.append("value = finite_number(float(value))")
    worked_out: Callable[[World, dict[str, int]], Any] = function(
        writer, "value(world, at)", [*body, "return value"], formula.source
    )
    return worked_out


def only_row(world: World, token: str) -> int:
    """Return the row of the one object that a role can stand for; -1 where there is not just one, or none is certain."""
    known = world.caches.alone.get(token)
    if known is None:
        role = world.program.roles[token]
        known = -1
        if not (role.new or role.via or role.source == "reference"):
            rows = world.rows_of(role)
            known = rows.item(0) if len(rows) == 1 else -1
        world.caches.alone[token] = known
    return known


def _seen(view: View, value: Any) -> Any:
    """Return a value that was worked out over one match. Raises NoAnswer if that was a fault."""
    if view.faults:
        raise NoAnswer
    return plain(value[0] if isinstance(value, np.ndarray) and value.ndim else value)


def _made(program: Program, line: CompiledLine) -> LineAlone | None:
    names = {role: f"row_{at}" for at, role in enumerate(line.roles)}
    writer = Writer(program.index, names.__getitem__, dict(HELPERS))
    body, call, looks = written(writer, line, names, "")
    fetched = [f"{name} = at[{role!r}]" for role, name in names.items()]
    run = function(writer, "run(one, world, at, view)", [*fetched, *body, f"return {call}"], line.entry.name)
    return LineAlone(run, looks)


def function(writer: Writer, head: str, body: list[str], name: str) -> Any:
    """Return the function with this head and these statements; it knows what its expressions call."""
    lines = [f"def {head}:", *(f"    {statement}" for statement in body)]
    known = writer.known
    known.update(seen=_seen, NoAnswer=NoAnswer)
    exec(_code("\n".join(lines), f"<{name}>"), known)
    return known[head.partition("(")[0]]


@lru_cache(maxsize=4096)
def _code(source: str, name: str) -> CodeType:
    """Return the code of a function, kept: an edit makes most lines anew as they were."""
    return compile(source, name, "exec")


def written(
    writer: Writer, line: CompiledLine, names: dict[str, str], tag: str
) -> tuple[list[str], str, bool]:
    """Return the statements that work out a line's slots, the call that does it, and whether that looks at the match table.

    `names` are those of the rows of its roles; `tag` keeps the names of several lines in one function apart.
    """
    known = writer.known
    known[f"act{tag}"] = line.entry.alone
    body: list[str] = []
    given: list[str] = []
    looks = False
    targets = {name: (key, owner) for name, key, owner in line.targets}
    roles = dict(line.role_slots)
    worked_out = dict(line.worked_out)
    for at, (name, value) in enumerate({**line.fixed, **targets, **roles, **worked_out}.items()):
        local, look, of = f"value{tag}_{at}", f"look{tag}_{at}", f"of{tag}_{at}"
        if name in roles:
            local = names[roles[name]]
        elif name in targets:
            key, owner = targets[name]
            known[of] = line.writes[key, True][1]
            local = f"({key!r}, {names[owner]}, {of})"
        elif name in worked_out:
            formula = worked_out[name]
            expression = _expression(writer, line, name, formula)
            if expression is None:
                looks = True
                known[look] = formula.evaluate
                expression = f"seen(view, {look}(view))"
            body.append(f"{local} = {expression}")
            if formula.type == "number":
                body.append(f"if type({local}) is not float: {local} = float({local})")
                body.append(f"if {local} - {local} != 0: raise NoAnswer")
            if name in line.entry.times:
                body.append(f"if {local} < 0: raise NoAnswer")
        elif name in line.places:
            point = _point(writer, line.arguments[name])
            if point is None:
                looks = True
                known[look] = value.point
                body.append(f"{local} = {look}(view)")
                point = f"(seen(view, {local}[0]), seen(view, {local}[1]))"
            local = point
        elif isinstance(value, Target):
            # a variable of the level
            known[of] = line.writes[value.name, False][1]
            local = f"({value.name!r}, None, {of})"
        else:
            known[local] = value
        given.append(f"{name}={local}")
    return body, f"act{tag}(one, {', '.join(given)})", looks


def _expression(writer: Writer, line: CompiledLine, slot: str, formula: Formula) -> str | None:
    """Return the expression of a formula in a slot; None where it has none. A text's braces hold formulas, as a whole it is none."""
    try:
        return None if line.entry.slots[slot].type == "text" else writer.written(formula)
    except NotWritten:
        return None


def _point(writer: Writer, where: Any) -> str | None:
    """Return the expression of a point; None where it has none of its own."""
    if not isinstance(where, WhereArgument) or where.area is not None or where.formula is not None:
        return None
    if not where.reads:
        x, y = where.point(None)  # type: ignore[arg-type]
        return f"({float(x)!r}, {float(y)!r})"
    what = {(whose, name) for whose, name in where.reads}
    if what == {("pointer", "x"), ("pointer", "y")}:
        return "(world.input.pointer_x, world.input.pointer_y)"
    if len(where.roles) == 1 and what == {(where.roles[0], "x"), (where.roles[0], "y")}:
        return f"({writer.column(where.roles[0], 'x')}, {writer.column(where.roles[0], 'y')})"
    return None
