"""Created objects in formulas about a run: `Crew_+2.x` is x of the second object that rules created, a Crew.

A level's own formulas cannot name what rules will create. Of a run that has been made they can be asked about.
"""

from __future__ import annotations

import re
from copy import copy

from gatillo.level.naming import token
from gatillo.level.roles import Index, Role
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import FIRST_CREATED_ID

_NAMED = re.compile(r"\b([^\W\d]\w*)_\+(\d+)\b")


def with_created(run: Run, formula: str) -> tuple[str, Index]:
    """Return a formula in which created objects have names that formulas can read, and the names of the level with these.

    A name that stands for no created object of the run is left as it is: reading the formula then says so.
    """
    index, found = run.program.index, dict[str, Role]()

    def named(match: re.Match[str]) -> str:
        object_id = FIRST_CREATED_ID + int(match[2]) - 1
        kind = run.world.created_of.get(object_id)
        if kind is None or token(run.program.kinds[kind].name) != match[1]:
            return match[0]
        name, own = f"{match[1]}_created_{match[2]}", run.program.kinds[kind].name
        found[name] = Role(f"{own} +{match[2]}", name, "object", (own,), own, object_id=object_id)
        return name

    readable = _NAMED.sub(named, formula)
    if not found:
        return formula, index
    index = copy(index)
    index.compiled = {}
    index.role_tokens = {**index.role_tokens, **found}
    return readable, index
