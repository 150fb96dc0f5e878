"""What a run has in common with one that was made before an edit, so that only the rest of it is run again.

An edit of what a rule does matters from the tick on in which that rule fires first, one of its conditions or of how often it may
fire from the tick on in which there is a candidate for it, of an action's card in a graph from the tick on in
which it runs first; an edit of the input from the first tick that has another input. Whatever else is edited may matter from the start: then nothing is taken over.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import cached_property
from typing import Any

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.level.model import Graph, Level, Logic, Rule, Trial
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.program import Program
from gatillo.sim.program.tick_tables import TickTables
from gatillo.sim.run.run import Run, trial_ticks
from gatillo.sim.world.input_script import Script

_OF_KINDS = frozenset({"prompting", "driving"})
"""What follows from kinds and tags alone, which are compared themselves."""
_PROGRAM_WIDE = tuple(
    name
    for name, value in vars(TickTables).items()
    if isinstance(value, cached_property) and name not in _OF_KINDS
)
"""Cached properties derived from all rules. If one of them differs, nothing of the old run can be reused."""


def shared_ticks(before: Run, program: Program, trial: Trial) -> int:
    """Return up to which tick a run of this program and trial equals one that was made before, to the last bit; 0 for none."""
    if before.trial.seed != trial.seed or not _alike_at_the_start(before.program, program):
        return 0
    last = min(before.done, trial_ticks(trial, program.rate))
    last = min(last, before.script.alike_up_to(Script(trial.input, program.rate), last))
    entries = zip(_entries(before.program.level), _entries(program.level), strict=True)
    for at, (was, now) in enumerate(entries):
        if was is now or was == now:
            continue
        if isinstance(was, Graph) and isinstance(now, Graph):
            matters = _matters_from(before, at, was, now)
        elif (
            isinstance(was, Rule)
            and isinstance(now, Rule)
            and not (before.program.rules[at].graph or program.rules[at].graph)
        ):
            matters = _rule_matters_from(before, at, was, now)
        else:
            return 0
        last = min(last, matters - 1)
        if last <= 0:
            return 0
    return last


def differs_until(before: Run, program: Program) -> int | None:
    """Return the last tick of a run in which a change of rules and graphs can matter by itself; None where that cannot be said.

    0 where it never can. A run of the changed program that has the same state after that tick goes on as this one does.
    """
    if not _alike_at_the_start(before.program, program):
        return None
    last = 0
    for at, (was, now) in enumerate(
        zip(_entries(before.program.level), _entries(program.level), strict=True)
    ):
        if was is now or was == now:
            continue
        if not (isinstance(was, Rule) and isinstance(now, Rule)) or before.program.rules[at].graph:
            return None
        if (was.id, was.name, was.on, was.when) != (now.id, now.name, now.on, now.when):
            return None
        trace = before.trace
        rules, ticks = trace.firing_ticks() if _does_otherwise(was, now) else trace.look_ticks()
        last = max(last, int(ticks[rules == at].max(initial=0)))
    return last


def _matters_from(before: Run, at: int, was: Graph, now: Graph) -> int:
    """Return the first tick in which a change of a graph can matter; 1 where that cannot be said.

    An action matters when its card runs first, and where a card is on the sheet never does.
    """
    if _drawn_alike(was, ()) == _drawn_alike(now, ()):
        return before.done + 1
    # those that use an own node have its cards in them
    if is_own_node(was) or not _same_but_actions(was, now):
        return 1
    return _first_run(before, at, was, now)


def _drawn_alike(graph: Graph, without: Collection[int]) -> Graph:
    """Return a graph without what is for people only, and without the slots of some cards."""
    nodes = tuple(
        replace(node, at=(0.0, 0.0), slots={} if node.id in without else node.slots) for node in graph.nodes
    )
    return replace(graph, nodes=nodes, frames=(), notes=(), note="")


def _changed_cards(was: Graph, now: Graph) -> set[int]:
    return {a.id for a, b in zip(was.nodes, now.nodes, strict=False) if a.slots != b.slots}


def _same_but_actions(was: Graph, now: Graph) -> bool:
    changed = _changed_cards(was, now)
    if _drawn_alike(was, changed) != _drawn_alike(now, changed):
        return False
    entries = (CATALOGUE.get(node.use) for node in was.nodes if node.id in changed)
    return all(entry is not None and entry.group == "action" for entry in entries)


def _first_run(before: Run, at: int, was: Graph, now: Graph) -> int:
    compiled = before.program.rules[at].graph
    ticks, ran = before.trace.card_columns()
    if compiled is None or len(ran) >= before.trace.MOST_RUNS:
        return 1
    changed = _changed_cards(was, now)
    mine = ran[:, 2] == at
    found = (
        tick
        for tick, card in zip(ticks[mine].tolist(), ran[mine, 3].tolist(), strict=True)
        if compiled.place_of(card)[0] in changed
    )
    return min(found, default=before.done + 1)


def run_on(before: Run | None, program: Program, trial: Trial, texts: Sequence[str]) -> Run:
    """Return a run of a trial that begins where it parts from one made before, if what is to be followed was followed there too."""
    if before is not None and all(text in before.followed for text in texts):
        shared = shared_ticks(before, program, trial)
        if shared and all(len(before.followed[text]) > shared for text in texts):
            return resumed(before, program, trial, shared)
    return Run(program, trial)


def resumed(before: Run, program: Program, trial: Trial, tick: int) -> Run:
    """Return a run of this program and trial from a tick on that it shares with one made before. That one is only looked at."""
    start = max(t for t in before.keyframes if t <= tick)
    world = before.keyframes[start].clone()
    before.replay_to(world, tick)
    return before.taken_over(program, trial, tick, world)


def _rule_matters_from(before: Run, at: int, was: Rule, now: Rule) -> int:
    """Return the first tick in which a change of a rule can matter; 1 where that cannot be said.

    What it does matters when it fires first; its conditions, and how often it may fire, when there is a candidate first.
    """
    if (was.id, was.name, was.on, was.when) != (now.id, now.name, now.on, now.when):
        return 1
    never = before.done + 1
    if _does_otherwise(was, now):
        return first_ticks(before.trace.firing_ticks()).get(at, never)
    return first_ticks(before.trace.look_ticks()).get(at, never)


def first_ticks(noted: tuple[NDArray[np.int64], NDArray[np.int64]]) -> dict[int, int]:
    """Return the first tick of each rule, from rules and ticks in the order of the ticks."""
    turns, ticks = noted
    first: dict[int, int] = {}
    found, at = np.unique(turns, return_index=True)
    for turn, position in zip(found.tolist(), at.tolist(), strict=True):
        first[turn] = int(ticks[position])
    return first


def _entries(level: Level) -> list[Logic]:
    return [entry for _, _, entry in all_logic(level)]


def _does_otherwise(was: Rule, now: Rule) -> bool:
    """Return whether two rules differ in nothing but what they do, and in notes."""
    # one that does nothing leaves no firing in the trace; with an else it is looked at otherwise
    if bool(was.do) != bool(now.do) or bool(was.else_) != bool(now.else_):
        return False
    return replace(was, do=(), else_=(), note="") == replace(now, do=(), else_=(), note="")


def _alike_at_the_start(one: Program, other: Program) -> bool:
    """Return whether two programs stage a run in the same way, whatever their rules do later."""
    a, b = one.level, other.level
    same = all(
        getattr(a, part) is getattr(b, part) or getattr(a, part) == getattr(b, part)
        for part in ("settings", "variables", "kinds", "places", "clips", "objects")
    )
    if not same or one.index.tags != other.index.tags or list(one.messages) != list(other.messages):
        return False
    if [(id_of(t), t.runs, t.on, t.switched) for t in one.rules] != [
        (id_of(t), t.runs, t.on, t.switched) for t in other.rules
    ]:
        return False
    return all(
        _equal(getattr(one.tick_tables, name), getattr(other.tick_tables, name)) for name in _PROGRAM_WIDE
    )


def id_of(rule: CompiledRule) -> tuple[int, str, str]:
    """Return what distinguishes a rule from the others."""
    return rule.source.id, rule.source.name, rule.section


def _equal(one: Any, other: Any) -> bool:
    if isinstance(one, np.ndarray) and isinstance(other, np.ndarray):
        return one.dtype == other.dtype and np.array_equal(one, other)
    if isinstance(one, dict) and isinstance(other, dict):
        return list(one) == list(other) and all(_equal(one[key], other[key]) for key in one)
    if isinstance(one, tuple | list) and isinstance(other, tuple | list):
        return len(one) == len(other) and all(map(_equal, one, other))
    return bool(one == other)
