"""What the answer of a condition depends on, so that it can be cached while none of that changes (rules/condition_cache.py).

After Forgy, Rete: A fast algorithm for the many pattern/many object pattern match problem, Artificial
Intelligence 19 (1982): results of matching are kept, and what changes says which of them are stale. Here
every column that such a condition reads carries a count of its changes.
"""

from __future__ import annotations

from gatillo.formula.formula import PROPERTY_TYPES, column_key
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import Index
from gatillo.sim.program.compiled_line import CompiledLine

THERE = "there"
"""Changes when objects come or go."""

_MOST_KINDS = 4


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
