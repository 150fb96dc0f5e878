"""The looks with which objects are drawn at the moment that is shown."""

from __future__ import annotations

import numpy as np

from gatillo.formula.values import spread
from gatillo.level.model import Look
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.world.world import World


def shown_looks(world: World) -> dict[int, Look]:
    """Return the look of each object that is not drawn in its kind's plain one, by row.

    A formula of the kind decides where it has one, else what rules have shown last. Where a formula has no answer, or names
    no look of the kind, the plain look is drawn.
    """
    kinds = world.program.kinds
    if not any(kind.looks for kind in kinds):
        return {}
    names = {world.row_of_id(number): look for number, look in world.display.looks.items()}
    for kind, formula in world.program.looks:
        rows = world.rows_of_kind(kind)
        if not len(rows):
            continue
        view = View(world, Matches(len(rows), {world.program.kind_tokens[kind]: rows}), 0)
        with np.errstate(all="ignore"):
            values = spread(formula.evaluate(view), len(rows))
        bad = view.faulted()
        for at, row in enumerate(rows.tolist()):
            names[row] = "" if bad is not None and bad[at] else str(values[at])
    known = [{look.name: look for look in kind.looks} for kind in kinds]
    found = {row: known[world.kind.item(row)].get(name) for row, name in names.items() if row >= 0}
    return {row: look for row, look in found.items() if look is not None}
