"""Firing modes, rests and waits: which matches of a rule may fire now."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from gatillo.sim.matching.match_table import Matches, keys_of
from gatillo.sim.program.compiled_line import Limits
from gatillo.sim.rules.waits import part_of_wait
from gatillo.sim.rules.work import A_KEY, TooMuchWork, Work
from gatillo.sim.world.records import Memory, Wait
from gatillo.sim.world.world import World

Tell = Callable[[int, str], None]
"""Told how many matches were held back beyond a bound, and a sentence."""
MOST_KEPT = 300_000
"""So many matches of a rule are kept in mind for its firing mode, its rest or its waits; the rest is held back, and told."""


def held_back(
    world: World,
    limits: Limits,
    whose: tuple[int, int],
    table: Matches,
    tell: Tell,
    work: Work,
    name: str = "a rule",
) -> Matches:
    """Return the matches left by the firing mode, the rest and waits still pending.

    `whose` is the turn and, in a graph, the card that keeps them in mind; 0 for a rule.
    """
    tick = world.tick
    if table.n > MOST_KEPT:
        more = table.n - MOST_KEPT
        tell(
            more,
            f"{name} keeps no more than {MOST_KEPT:,} matches in mind; {more:,} are held back",
        )
        table = table.take(np.arange(MOST_KEPT))
    try:
        work.add_matches(table.n, A_KEY)
    except TooMuchWork as error:
        tell(table.n, str(error))
        return table.none()
    memory = world.rules.memory.setdefault(whose, Memory())
    keys = keys_of(world, table)
    # plain lists: what is asked of each is a look into a set
    keep = [True] * table.n
    if limits.fires == "on becoming true":
        before = memory.held if memory.held_tick == tick - 1 else ()
        keep = [key not in before for key in keys]
        memory.held, memory.held_tick = set(keys), tick
    elif limits.fires == "first time only":
        done = memory.fired
        keep = [key not in done for key in keys] if limits.per_match else [None not in done] * table.n
    if limits.rest:
        rests = memory.rests_until
        if limits.rest_per_match:
            keep = [stays and rests.get(key, 0) <= tick for key, stays in zip(keys, keep, strict=True)]
        elif rests.get(None, 0) > tick:
            keep = [False] * table.n
    if limits.meanwhile == "ignore":
        waiting = {k for w in world.rules.waits if w.rule_index == whose[0] for k in w.keys}
        if waiting:
            keep = [stays and key not in waiting for key, stays in zip(keys, keep, strict=True)]
    elif limits.meanwhile == "restart":
        forget_waits(world, whose[0], {key for key, stays in zip(keys, keep, strict=True) if stays})
    left = [key for key, stays in zip(keys, keep, strict=True) if stays]
    if not left:
        return table.none()
    if limits.fires == "first time only":
        memory.fired.update(left if limits.per_match else [None])
    if limits.rest:
        for key in left if limits.rest_per_match else [None]:
            memory.rests_until[key] = tick + limits.rest
    return table if len(left) == table.n else table.take(np.array(keep, dtype=bool))


def forget_waits(world: World, rule_index: int, keys: set[Any]) -> None:
    """Drop the pending waits of these matches: they start again."""
    kept: list[Wait] = []
    for wait in world.rules.waits:
        if wait.rule_index != rule_index or not keys.intersection(wait.keys):
            kept.append(wait)
            continue
        stays = np.array([key not in keys for key in wait.keys])
        if stays.any():
            kept.append(part_of_wait(wait, stays))
    world.rules.waits = kept
