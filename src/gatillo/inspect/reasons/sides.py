"""Why a value that differs is what it is, in both runs."""

from __future__ import annotations

import numpy as np

from gatillo.inspect.reasons.journal import upto_end
from gatillo.inspect.reasons.leaves import Leaf, kind_of
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.state import Parted
from gatillo.level.naming import token
from gatillo.level.properties import told_as
from gatillo.sim.program.touched import LEVEL, Access, Site
from gatillo.sim.run.run import Run
from gatillo.sim.world.columns import COLUMNS


def why_on_both_sides(before: Run, after: Run, parted: Parted) -> tuple[Reason, Reason]:
    """Return what wrote a value that differs last, in the run before and in the run after."""
    one, other = (_why(run, parted, value) for run, value in ((before, parted.before), (after, parted.after)))
    return one, other


def _why(run: Run, parted: Parted, value: str) -> Reason:
    explainer = Explainer(run)
    tick = min(parted.tick, run.done)
    world = run.world_at(run.end_of(tick))
    if parted.object_id is None:
        sort, _, name = parted.name.partition(".")
        if sort != "level":
            return Reason(f"{parted.name}: {value}", "value", tick)
        leaf = Leaf(parted.name, value, Site(Access("variable", LEVEL, name)), None)
        return explainer.leaf_reason(leaf, world, upto_end(run, tick))
    if parted.object_id not in run.program.names and parted.object_id not in world.created_of:
        # only the other run has created it
        return Reason(f"{parted.name}: {value}", "value", tick)
    name = parted.name.removeprefix(f"{world.name_of(parted.object_id)}.")
    if name == parted.name:
        return explainer.there(parted.object_id, tick)
    kind = kind_of(run, parted.object_id, world)
    if COLUMNS.get(name) is not None and name != "kind":
        access = Access(told_as(name), kind)
    elif token(name) in run.program.index.variable_tokens(run.program.index.role_tokens[token(kind)]):
        access = Access("variable", kind, token(name))
    else:
        return Reason(f"{parted.name}: {value}", "value", tick)
    leaf = Leaf(parted.name, value, Site(access, ""), parted.object_id)
    with np.errstate(all="ignore"):
        return explainer.leaf_reason(leaf, world, upto_end(run, tick))
