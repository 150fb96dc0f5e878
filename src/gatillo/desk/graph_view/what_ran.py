"""What ran of a graph by the cursor: which cards, for how many, along which wires, and with which values."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.desk.session.glow import Glow
from gatillo.desk.session.workbench import Workbench
from gatillo.formula.values import write_out
from gatillo.level.model import Graph
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_rule import CompiledRule

MOST_VALUES = 3


@dataclass(slots=True)
class WhatRan:
    """By the cursor, in its tick; empty where no run is at hand."""

    known: bool = False
    """Whether the graph's turn came in this tick."""
    cards: dict[int, tuple[int, int]] = field(default_factory=dict)
    """By card: the place at which it first ran among those of its graph, from 1, and how many matches came in all."""
    wires: set[int] = field(default_factory=set)
    """Wires along which matches went, by their numbers in the document."""
    last: int = 0
    """The card that ran last before the cursor, where it is after a step."""
    values: dict[int, str] = field(default_factory=dict)
    """By card: the value that it gave."""
    kept: dict[int, str] = field(default_factory=dict)
    """By card: what it keeps."""
    lit: dict[int, float] = field(default_factory=dict)
    """By card, while the run goes on: how strongly it is still lit, from 1 down to 0."""
    lit_wires: dict[int, float] = field(default_factory=dict)
    """By wire, while the run goes on: how strongly it is still lit, from 1 down to 0."""

    def light(self, card: int) -> float:
        """Return how strongly a card is lit: 1 if it ran at the cursor, less while it fades, 0 if it did not run."""
        return self.lit.get(card, 1.0) if card in self.cards or card in self.values else 0.0

    def wire_light(self, wire: int) -> float:
        """Return how strongly a wire is lit, as `light` says of cards."""
        return self.lit_wires.get(wire, 1.0) if wire in self.wires else 0.0


def what_ran(bench: Workbench, graph: Graph) -> WhatRan:
    """Return what ran of a graph in the cursor's tick, up to the cursor."""
    found = WhatRan()
    run, cursor = bench.run, bench.cursor
    rule = _rule_of(bench, graph)
    if rule is None or rule.graph is None or bench.moment.awaited:
        return found
    compiled = rule.graph
    for ran in run.trace.cards_at(cursor.tick):
        if ran.rule_index != rule.index:
            continue
        found.known = True
        if (
            (ran.step > cursor.step)
            if cursor.step
            else (ran.firings >= cursor.position and not _ended(bench))
        ):
            continue
        number, _ = compiled.place_of(ran.card)
        place, many = found.cards.get(number, (len(found.cards) + 1, 0))
        found.cards[number] = place, many + ran.matches
        wire = ran.wire if compiled.wire_of is None or ran.wire < 0 else compiled.wire_of[ran.wire]
        if wire >= 0:
            found.wires.add(wire)
        if cursor.step:
            found.last = number
    _values(bench, graph, found)
    return found


def what_lately_ran(bench: Workbench, graph: Graph, values: dict[int, tuple[int, str]]) -> WhatRan:
    """Return what ran of a graph in the last moments of a run that goes on, each as strongly lit as its age says.

    `values` has what cards gave last, with the tick: what is given now is put into it.
    """
    found = WhatRan(known=True)
    run, glow = bench.run, Glow(bench)
    rule = _rule_of(bench, graph)
    if rule is None or rule.graph is None:
        return found
    compiled = rule.graph
    ticks, runs = run.trace.card_columns()
    low, high = np.searchsorted(ticks, [glow.first, bench.cursor.tick + 1])
    mine = np.flatnonzero(runs[low:high, 2] == rule.index) + low
    last: dict[int, int] = {}
    for card, tick in _last_ticks(runs[mine, 3], ticks[mine]).items():
        number, _ = compiled.place_of(card)
        last[number] = max(tick, last.get(number, 0))
    for tick in set(last.values()):
        _lit_in(found, compiled, runs[mine[ticks[mine] == tick]], tick, last)
    found.lit = {number: glow.of(tick) for number, tick in last.items()}
    for wire, tick in _last_ticks(runs[mine, 4], ticks[mine]).items():
        drawn = wire if compiled.wire_of is None or wire < 0 else compiled.wire_of[wire]
        if drawn >= 0:
            found.wires.add(drawn)
            found.lit_wires[drawn] = max(glow.of(tick), found.lit_wires.get(drawn, 0.0))
    own = {node.id for node in graph.nodes}
    for (graph_id, number), value in bench.moment.pulled().items():
        if graph_id == graph.id and number in own:
            values[number] = bench.cursor.tick, _words(value)
    for number, (tick, words) in values.items():
        if glow.of(tick) > 0:
            found.values[number] = words
            found.lit.setdefault(number, glow.of(tick))
    for (graph_id, number), kept in bench.world.rules.cards.items():
        if graph_id == graph.id and number in own:
            found.kept[number] = _kept_words(kept)
    return found


def _last_ticks(numbers: NDArray[np.int32], ticks: NDArray[np.int32]) -> dict[int, int]:
    """Return the last tick of each number, from numbers and their ticks in ascending order."""
    found, at = np.unique(numbers[::-1], return_index=True)
    return dict(zip(found.tolist(), ticks[::-1][at].tolist(), strict=True))


def _lit_in(
    found: WhatRan, compiled: CompiledGraph, runs: NDArray[np.int32], tick: int, last: dict[int, int]
) -> None:
    """Take up the places and matches of the cards that ran last in a tick."""
    places: dict[int, int] = {}
    for card, many in runs[:, [3, 5]].tolist():
        number, _ = compiled.place_of(card)
        place = places.setdefault(number, len(places) + 1)
        if last[number] == tick:
            found.cards[number] = place, found.cards.get(number, (0, 0))[1] + many


def _rule_of(bench: Workbench, graph: Graph) -> CompiledRule | None:
    return next(
        (
            t
            for t in bench.run.program.rules
            if t.graph is not None and t.source.id == graph.id and t.graph.drawn is None
        ),
        None,
    )


def _ended(bench: Workbench) -> bool:
    """Return whether the cursor stands at the end of its tick."""
    return bench.cursor.position >= bench.run.trace.count_at(bench.cursor.tick)


def _values(bench: Workbench, graph: Graph, found: WhatRan) -> None:
    own = {node.id for node in graph.nodes}
    world = bench.world
    for (graph_id, number), kept in world.rules.cards.items():
        if graph_id == graph.id and number in own:
            found.kept[number] = _kept_words(kept)
    if found.known:
        for (graph_id, number), value in bench.moment.pulled().items():
            if graph_id == graph.id and number in own:
                found.values[number] = _words(value)


def _words(value: Any) -> str:
    values = np.atleast_1d(np.asarray(value, dtype=object)).tolist()
    words = ", ".join(_short(v) for v in values[:MOST_VALUES])
    return f"{words}, …" if len(values) > MOST_VALUES else words


def _short(value: Any) -> str:
    if isinstance(value, float | np.floating):
        value = round(float(value), 2)
    return str(write_out(value))


def _kept_words(kept: dict[Any, Any]) -> str:
    if "tick" in kept:
        # what came in this tick, of cards that compare ticks: nothing that a reader could use
        return ""
    sorts = kept.values()
    if not all(isinstance(values, dict) for values in sorts):
        return f"keeps {len(kept)}"
    values = [value for by_match in sorts for value in by_match.values()]
    plain = [v for v in values if isinstance(v, bool | int | float | str | np.generic)]
    if not plain or len(plain) != len(values):
        return f"keeps {len(values)}" if values else ""
    return "keeps " + _words(plain)
