"""What a rule's firing mode, its cooldown and its waits leave of its matches."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from gatillo.sim.matching.match_table import Matches, keys_of, where_keys
from gatillo.sim.program.compiled_rule import CompiledLine, CompiledRule
from gatillo.sim.rules.waits import part_of_wait
from gatillo.sim.world.records import Memory, Wait
from gatillo.sim.world.world import World

Fault = Callable[[CompiledRule, CompiledLine, int, str], None]
MOST_KEPT = 300_000
"""So many matches of a rule are kept in mind for its firing mode, its rest or its waits; the rest is held back, and told."""


def held_back(world: World, turn: CompiledRule, table: Matches, fault: Fault) -> Matches:
    """The matches left by the firing mode, the cooldown and waits still pending."""
    rule, tick = turn.rule, world.tick
    if table.n > MOST_KEPT:
        more = table.n - MOST_KEPT
        fault(
            turn,
            (turn.if_ or turn.when or turn.do)[0],
            more,
            f"a rule keeps no more than {MOST_KEPT:,} matches in mind; {more:,} are held back",
        )
        table = table.take(np.arange(MOST_KEPT))
    memory = world.rules.memory.setdefault(turn.position, Memory())
    keys = keys_of(world, table)
    keep = np.ones(table.n, dtype=bool)
    if rule.fires == "on becoming true":
        before = memory.held if memory.held_tick == tick - 1 else ()
        keep &= ~where_keys(keys, before)
        memory.held, memory.held_tick = set(keys), tick
    elif rule.fires == "first time only":
        done = memory.fired
        keep &= ~where_keys(keys, done) if rule.first_per == "object" else None not in done
    if turn.cooldown_ticks:
        rests = memory.rests_until
        if rule.cooldown_per == "rule":
            keep &= rests.get(None, 0) <= tick
        else:
            keep &= np.fromiter((rests.get(key, 0) <= tick for key in keys), dtype=bool)
    if rule.while_waiting == "ignore":
        waiting = {k for w in world.rules.waits if w.turn == turn.position for k in w.keys}
        keep &= ~where_keys(keys, waiting)
    elif rule.while_waiting == "restart":
        forget_waits(world, turn.position, {k for k, kept in zip(keys, keep, strict=True) if kept})
    if not keep.any():
        return table.take(keep)
    left = [key for key, kept in zip(keys, keep, strict=True) if kept]
    if rule.fires == "first time only":
        memory.fired.update(left if rule.first_per == "object" else [None])
    if turn.cooldown_ticks:
        for key in left if rule.cooldown_per == "object" else [None]:
            memory.rests_until[key] = tick + turn.cooldown_ticks
    return table.take(keep)


def forget_waits(world: World, turn: int, keys: set[Any]) -> None:
    """Drop the pending waits of these matches: they start anew."""
    kept: list[Wait] = []
    for wait in world.rules.waits:
        if wait.turn != turn or not keys.intersection(wait.keys):
            kept.append(wait)
            continue
        stays = np.array([key not in keys for key in wait.keys])
        if stays.any():
            kept.append(part_of_wait(wait, stays))
    world.rules.waits = kept
