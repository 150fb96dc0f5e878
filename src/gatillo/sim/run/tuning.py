"""Going on with other numbers: a run that is taken on with an edited level, from where it stands.

Only what is written in slots may differ, and what variables start with: then every state of the one level is a state of the
other. Such a run is what a designer sees while tuning; it is no run of a trial, and is made anew when the tuning ends.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec.structs import replace

from gatillo.level.model import Clause, Graph, Kind, Level, Logic, Rule, Section, Variable
from gatillo.level.naming import token
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.world import World


def differ_in_numbers_alone(was: Level, now: Level) -> bool:
    """Return whether two levels differ in nothing but numbers and the texts of slots.

    That is: how often rules fire, what variables start with, and the values of settings of own behaviours.
    """
    if (was.objects, was.places, was.clips, was.settings) != (
        now.objects,
        now.places,
        now.clips,
        now.settings,
    ):
        return False
    if _names(was.variables) != _names(now.variables):
        return False
    if [_shape_of_kind(k) for k in was.kinds] != [_shape_of_kind(k) for k in now.kinds]:
        return False
    old, new = list(all_logic(was)), list(all_logic(now))
    if [_shape_of_section(section) for _, section, _ in old] != [
        _shape_of_section(section) for _, section, _ in new
    ]:
        return False
    return len(old) == len(new) and all(
        a is b or _shape_of_logic(a) == _shape_of_logic(b)
        for (_, _, a), (_, _, b) in zip(old, new, strict=True)
    )


def _names(variables: tuple[Variable, ...]) -> list[tuple[str, type]]:
    return [(v.name, type(v.value)) for v in variables]


def _shape_of_kind(kind: Kind) -> object:
    uses = [_shape_of_clause(b) for b in kind.behaviours]
    own = [use.use for use in kind.own]
    return replace(kind, behaviours=(), variables=(), own=()), uses, own, _names(kind.variables)


def _shape_of_section(section: Section | None) -> object:
    if section is None:
        return None
    own = section.own
    return section.name, section.on, own and (own.tags, [(s.name, type(s.value)) for s in own.settings])


def _shape_of_clause(clause: Clause) -> object:
    inner = [_shape_of_clause(one) for one in clause.of]
    return clause.use, clause.negated, clause.once, inner


def _shape_of_logic(entry: Logic) -> object:
    if isinstance(entry, Graph):
        nodes = [(n.id, n.use) for n in entry.nodes]
        return entry.id, entry.name, entry.on, entry.for_, nodes, entry.wires, entry.values
    assert isinstance(entry, Rule)
    parts = [[_shape_of_clause(c) for c in part] for part in (entry.when, entry.if_, entry.do, entry.else_)]
    return entry.id, entry.name, entry.on, parts


def tuned(run: Run, program: Program) -> Run | None:
    """Return a run on from where another stands, with the program of an edited level; None where that cannot be.

    What variables start with, and the settings of behaviours, are set to their new values wherever those differ from the old
    ones. The other run is only looked at.
    """
    was = run.program
    if not differ_in_numbers_alone(was.level, program.level) or not _fits(was, program):
        return None
    world = run.world.clone().of_program(program)
    before, after = World(was, run.trial.seed), World(program, run.trial.seed)
    _take_starts(world, before, after)
    other = run.taken_over(program, run.trial, run.done, world)
    # moments before this one are of the level as it was
    other.keyframes[run.done] = other.world.clone()
    other.true_from = run.done
    other.script = run.script
    return other


def _fits(was: Program, now: Program) -> bool:
    """Return whether what the rules name has the same places in a state: messages, tags, roles, columns, turns."""
    return (
        list(was.messages) == list(now.messages)
        and was.index.tags == now.index.tags
        and was.tick_tables.columns == now.tick_tables.columns
        and [(t.runs, t.on, t.switched) for t in was.rules] == [(t.runs, t.on, t.switched) for t in now.rules]
        and [(b.kind, b.entry.name) for b in was.behaviours]
        == [(b.kind, b.entry.name) for b in now.behaviours]
    )


def _take_starts(world: World, before: World, after: World) -> None:
    """Give a state the values that differ at the start of two levels: of the level, of kinds, of settings."""
    for variable in world.program.level.variables:
        name = token(variable.name)
        if before.level[name] != after.level[name]:
            world.level[name] = after.level[name]
    for name in COLUMNS:
        if name != "id":
            setattr(
                world,
                name,
                _with_starts(world, getattr(world, name), getattr(before, name), getattr(after, name)),
            )
    for name, column in world.variables.items():
        world.variables[name] = _with_starts(world, column, before.variables[name], after.variables[name])


def _with_starts(world: World, now: Any, before: Any, after: Any) -> Any:
    """Return a column with the new start value of each object whose old one differs; of objects created since, by their kind."""
    differs = np.flatnonzero(before != after)
    if not len(differs):
        return now
    made, laid_out = now.copy(), world.program.level.objects
    ids = np.array(sorted(o.id for o in laid_out), dtype=np.int64)
    by_id = {int(ids[row]): after[row] for row in differs.tolist()}
    numbers = {o.id: world.program.kind_number[o.kind] for o in laid_out}
    by_kind = {numbers[int(ids[row])]: after[row] for row in differs.tolist()}
    for row in range(len(world.id)):
        number = world.id.item(row)
        if number in by_id:
            made[row] = by_id[number]
        elif number not in numbers and world.kind.item(row) in by_kind:
            made[row] = by_kind[world.kind.item(row)]
    return made
