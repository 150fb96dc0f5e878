"""A rule's turn for one match: its conditions in one Python function, and its actions one after the other.

It is taken where each role of the rule can stand for one object only, or its occasion says which it is. What the conditions come to,
what is recorded and what the actions do is the same as over match tables; where a line has no answer the turn is taken there.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gatillo.sim.matching.match_table import Matches, same_base
from gatillo.sim.matching.one_value import HELPERS, Writer
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.program import Program
from gatillo.sim.rules.lines_alone import LineAlone, function, line_alone, only_row, written
from gatillo.sim.world.world import World


@dataclass(frozen=True, slots=True)
class TurnAlone:
    """A rule for one match."""

    roles: tuple[str, ...]
    """The roles of its conditions and of the actions that are done alone, by their tokens."""
    look: Callable[[Any, World, dict[str, int]], int]
    """Given what it asks, the world and the row of each role: how many conditions hold before one does not."""
    joined: tuple[str, ...]
    """The roles that the conditions bring in, in the order in which they do."""
    acts: tuple[LineAlone, ...]
    """Its actions, up to the first that is not done alone."""
    counts: tuple[list[int], ...]
    """How many passed each condition that was asked, by how many of them hold."""


def turn_alone(program: Program, rule: CompiledRule) -> TurnAlone | None:
    """Return how a rule's turn is taken for one match, made at the first call; None where it is not."""
    if rule.alone is None:
        rule.alone = _made(program, rule) or False
    return rule.alone or None


def rows_of_turn(world: World, turn: TurnAlone, rule: CompiledRule, table: Matches) -> dict[str, int] | None:
    """Return the row of each role of a turn for the one match that it begins with; None where one is not one object."""
    if table.rows:
        return _rows(world, turn, table)
    known = world.caches.turn_rows
    if id(rule) not in known:
        known[id(rule)] = _rows(world, turn, table)
    return known[id(rule)]


def _rows(world: World, turn: TurnAlone, table: Matches) -> dict[str, int] | None:
    found = {role: rows.item(0) for role, rows in table.rows.items()}
    for role in turn.roles:
        if role in found:
            continue
        row = only_row(world, role)
        named = world.program.roles[role]
        if row < 0 or any(same_base(world, named, other) for other in found):
            return None
        found[role] = row
    return found


def table_of_turn(world: World, turn: TurnAlone, table: Matches) -> Matches:
    """Return the match with all that the conditions bring in, as they leave it."""
    if not turn.joined:
        return table
    rows = dict(table.rows)
    for role in turn.joined:
        if role not in rows:
            rows[role] = world.rows_of(world.program.roles[role])
    return Matches(1, rows)


def _made(program: Program, rule: CompiledRule) -> TurnAlone | None:
    if rule.graph is not None or rule.else_ or not rule.plain or len(rule.when) > 1:
        return None
    if any(line.alone is False or line.entry.holds for line in rule.if_):
        return None
    roles = tuple(dict.fromkeys(role for line in rule.if_ for role in line.roles))
    acts: list[LineAlone] = []
    for line in rule.do:
        alone = line_alone(program, line) if line.alone is not False else None
        if alone is None or alone.looks:
            break
        acts.append(alone)
    acting = (role for line in rule.do[: len(acts)] for role in line.roles)
    every = tuple(dict.fromkeys((*roles, *acting)))
    names = {role: f"row_{at}" for at, role in enumerate(every)}
    writer = Writer(program.index, names.__getitem__, dict(HELPERS))
    body = [f"{names[role]} = at[{role!r}]" for role in roles]
    for at, line in enumerate(rule.if_):
        statements, call, looks = written(writer, line, names, f"_{at}")
        if looks:
            return None
        body += [*statements, f"if {'' if line.negated else 'not '}{call}: return {at}"]
    look = function(writer, "look(one, world, at)", [*body, f"return {len(rule.if_)}"], rule.source.name)
    many = len(rule.if_)
    counts = (*([*[1] * held, 0] for held in range(many)), [1] * many)
    return TurnAlone(every, look, _joined(rule.if_), tuple(acts), counts)


def _joined(conditions: tuple[CompiledLine, ...]) -> tuple[str, ...]:
    """Return the roles that conditions which hold bring into the matches, in their order (`Matcher.filter_by_search`)."""
    joined: dict[str, None] = {}
    for line in conditions:
        if any(role not in joined for role in line.subject):
            joined.update(dict.fromkeys(line.subject if len(line.roles) > 1 else line.roles))
        looks_for = any(role not in joined for role in line.roles)
        if not (looks_for and line.entry.group != "pick" and (line.negated or not line.brings)):
            joined.update(dict.fromkeys(line.roles))
    return tuple(joined)
