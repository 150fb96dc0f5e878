"""Which sentence is likely to come next: what this level, and the studies, say after such a line or card.

What the studies say is counted in follows.json, made by `make schema` (tools/follows.py).
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from importlib.resources import files
from weakref import WeakKeyDictionary

from gatillo.level.graphs import wires_of
from gatillo.level.model import Clause, Graph, Level, Rule
from gatillo.level.roles import Index, all_logic

OF_THIS_LEVEL = 3
"""How much more a pair of this level counts than one of the studies."""


def pairs_of(level: Level) -> Iterator[tuple[str, str]]:
    """Yield each line and card of a level as what comes before it, "" for the first, and what it uses."""
    for _, _, entry in all_logic(level):
        if isinstance(entry, Rule):
            yield from _in_order((*entry.when, *entry.if_, *entry.do))
            yield from (("else", clause.use) for clause in entry.else_[:1])
            yield from _in_order(entry.else_)
        elif isinstance(entry, Graph):
            yield from _wired(entry)


def _in_order(lines: tuple[Clause, ...]) -> Iterator[tuple[str, str]]:
    before = ""
    for clause in lines:
        yield before, clause.use
        before = clause.use
        yield from _in_order(clause.of)


def _wired(graph: Graph) -> Iterator[tuple[str, str]]:
    uses = {node.id: node.use for node in graph.nodes}
    entered = set()
    for start, end in wires_of(graph):
        entered.add(end.node)
        if start.node in uses and end.node in uses:
            yield uses[start.node], uses[end.node]
    yield from (("", node.use) for node in graph.nodes if node.id not in entered)


def counted(pairs: Iterable[tuple[str, str]]) -> dict[str, dict[str, int]]:
    """Return how often each use comes after each other."""
    found: dict[str, Counter[str]] = {}
    for before, use in pairs:
        found.setdefault(before, Counter())[use] += 1
    return {before: dict(sorted(uses.items())) for before, uses in sorted(found.items())}


@lru_cache(maxsize=1)
def of_the_studies() -> dict[str, dict[str, int]]:
    """Return how often each use comes after each other in the studies."""
    text = files("gatillo.language").joinpath("follows.json").read_text(encoding="utf-8")
    found: dict[str, dict[str, int]] = json.loads(text)
    return found


_KNOWN: WeakKeyDictionary[Index, dict[str, dict[str, float]]] = WeakKeyDictionary()


def likelihood(index: Index, after: str) -> Mapping[str, float]:
    """Return how likely each use is after another (or at the beginning, for ""): a higher number is likelier."""
    known = _KNOWN.setdefault(index, {})
    if after not in known:
        known[after] = _likelihood(index, after)
    return known[after]


def _likelihood(index: Index, after: str) -> dict[str, float]:
    found: Counter[str] = Counter()
    whole = 0.001
    for before, uses in of_the_studies().items():
        for use, many in uses.items():
            found[use] += many * (1 if before == after else whole)  # type: ignore[assignment]
    for before, use in pairs_of(index.level):
        found[use] += OF_THIS_LEVEL * (1 if before == after else whole)  # type: ignore[assignment]
    return dict(found)
