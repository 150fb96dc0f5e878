"""Texts and bars at objects, worked out for the moment that is shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatillo.formula.values import spread
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.world.world import World


@dataclass(frozen=True, slots=True)
class Shown:
    """One readout of one object: a text, or how full a bar is (0–1)."""

    row: int
    text: str
    full: float | None
    place: int
    """Which of the kind's readouts it is, from 0."""


def shown_readouts(world: World) -> list[Shown]:
    """Return every readout of every object there is; one whose formula has no answer is left out."""
    found: list[Shown] = []
    for kind, place, readout, value, most in world.program.readouts:
        rows = world.rows_of_kind(kind)
        if not len(rows):
            continue
        token = world.program.kind_tokens[kind]
        view = View(world, Matches(len(rows), {token: rows}), 0)
        with np.errstate(all="ignore"):
            values = spread(value.evaluate(view), len(rows))
            limits = spread(most.evaluate(view), len(rows)) if most is not None else None
        bad = view.faulted()
        for at, row in enumerate(rows.tolist()):
            if (bad is not None and bad[at]) or not world.shown[row]:
                continue
            if readout.shows == "text":
                found.append(Shown(row, str(values[at]), None, place))
            else:
                limit = float(limits[at]) if limits is not None else 1.0
                full = float(values[at]) / limit if limit else 0.0
                found.append(Shown(row, "", min(1.0, max(0.0, full)), place))
    return found
