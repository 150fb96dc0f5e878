"""What the answer of a condition depends on, so that it can be cached while none of that changes (rules/condition_cache.py).

After Forgy, Rete: A fast algorithm for the many pattern/many object pattern match problem, Artificial
Intelligence 19 (1982): results of matching are kept, and what changes says which of them are stale. Here
every column that such a condition reads carries a count of its changes.
"""

from __future__ import annotations

from gatillo.formula.formula import PROPERTY_TYPES, column_key
from gatillo.language.binding import RoleArgument, VariableArgument
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import Index
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule

THERE = "there"
"""Changes when objects come or go."""

_MOST_KINDS = 4


def stirred_by(index: Index, rule: CompiledRule) -> tuple[str, ...] | None:
    """Return what must change before a turn that has led to nobody can lead to somebody; None where not all of it is known."""
    if rule.graph is not None or rule.else_:
        return None
    found: dict[str, None] = {THERE: None}
    for line in rule.when:
        # a number that is worked out may come to have no answer, which is told in each tick
        if line.entry.depends is None or line.worked_out:
            return None
        for name, argument in line.arguments.items():
            role = argument.role if isinstance(argument, RoleArgument | VariableArgument) else None
            if role is not None and role.source not in ("kind", "object"):
                return None
            if name in line.entry.depends and isinstance(argument, VariableArgument):
                if argument.name in PROPERTIES:
                    return None
                found[argument.key if role is not None else f"level.{argument.key}"] = None
    for line in rule.if_:
        if line.depends is None:
            return None
        found.update(dict.fromkeys(line.depends))
    return tuple(found)


def pose_of(kind: int) -> str:
    """Return what changes when an object of a kind moves, turns or grows."""
    return f"pose/{kind}"


def depends_on(index: Index, kind_number: dict[str, int], line: CompiledLine) -> tuple[str, ...] | None:
    """Return what a condition's answer depends on besides its matches; None when not all of it is known."""
    if not line.entry.derived.steady or line.places:
        return None
    found: dict[str, None] = {THERE: None}
    for _, formula in line.worked_out:
        if not formula.steady:
            return None
        for owner, name in formula.reads:
            if owner == "level":
                found[f"level.{name}"] = None
                continue
            role = index.role_tokens[owner]
            if role.source == "reference" or len(role.kinds) > _MOST_KINDS:
                return None
            if name in PROPERTIES and PROPERTIES[name].of_pose:
                found.update(dict.fromkeys(pose_of(kind_number[kind]) for kind in role.kinds))
            else:
                kind = PROPERTY_TYPES.get(name) or index.variable_type(role, name)
                assert kind is not None
                found[column_key(name, kind)] = None
    return tuple(found)
