"""Which facts wake which rules: worked out once when a level is compiled."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from gatillo.catalogue.declare.facts import FACTS, EveryTick, Fact
from gatillo.formula.formula import Formula
from gatillo.sim.program.compiled_line import CompiledLine, facts_of
from gatillo.sim.program.compiled_rule import Alarm, CompiledRule


@dataclass(frozen=True, slots=True)
class WakeIndex:
    """What wakes the rules of a level that can run."""

    wakes: dict[Fact, tuple[int, ...]]
    """By fact: the indices of the rules to look at when it comes true."""
    always: tuple[int, ...]
    """The rules to look at in every tick."""
    noticed: tuple[type[Fact], ...]
    """The types of the facts in `wakes`."""
    alarms: list[Alarm]
    """Occasions at times, by the numbers that a run's next times refer to."""


def wake_index(rules: Iterable[CompiledRule]) -> WakeIndex:
    """Return the wake index of a level's rules; rules that cannot run are left out."""
    wakes: dict[Fact, list[int]] = {}
    alarms: list[Alarm] = []
    for rule in rules:
        if not rule.runs:
            continue
        facts = [fact for line in rule.when for fact in _facts(rule, line, alarms)]
        if rule.graph is not None and rule.graph.watchful:
            # it may do something though nothing reaches it
            facts = [*facts, EveryTick()]
        # a rule that runs in every tick must still register its facts: contacts are computed only where some rule needs them
        for fact in dict.fromkeys(facts if rule.when or rule.graph is not None else [EveryTick()]):
            wakes.setdefault(fact, []).append(rule.index)
    # what is looked at in every tick need not be noticed
    always = tuple(wakes.pop(EveryTick(), ()))
    noticed = tuple(kind for kind in FACTS if any(type(fact) is kind for fact in wakes))
    return WakeIndex({fact: tuple(indices) for fact, indices in wakes.items()}, always, noticed, alarms)


def _facts(rule: CompiledRule, line: CompiledLine, alarms: list[Alarm]) -> list[Fact]:
    """Return the facts that an occasion waits for. One that comes at times is added to the alarms instead."""
    entry = line.entry
    if entry.alarm is not None:
        first, period = (line.arguments.get(name) for name in entry.alarm)
        assert isinstance(first, Formula)
        alarms.append(Alarm(rule.index, line.number, first, period if isinstance(period, Formula) else None))
        return []
    return [EveryTick()] if entry.wakes is None else facts_of(line)
