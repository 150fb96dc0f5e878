"""Laying a graph's cards out: from top to bottom as they run, from left to right by the numbers of the wires.

Layers by the longest way from an occasion, as in Sugiyama, Tagawa, Toda, Methods for visual understanding of hierarchical system
structures, IEEE Transactions on Systems, Man, and Cybernetics 11 (1981); within them each card stands over the middle of those
below it, as in Reingold, Tilford, Tidier drawings of trees, IEEE Transactions on Software Engineering 7 (1981).
"""

from __future__ import annotations

from collections.abc import Mapping

from gatillo.graphs.outline import Told, outline_order
from gatillo.level.graphs import wires_of
from gatillo.level.model import Graph

ACROSS, DOWN = 44.0, 52.0
"""Room between cards, in pixels."""
ROW = 8.0
"""Heights are rounded up to this, so that a card that grows by a little moves none."""
MESSY = 0.3
"""With more of its cards than this out of their order a graph is laid out again as a whole."""

FAR = 240.0
"""How far from where it belongs a card is put into a gap, in pixels."""

Size = tuple[float, float]
Point = tuple[float, float]


def tidied(graph: Graph, sizes: Mapping[int, Size]) -> dict[int, Point]:
    """Return where each card is to stand: its left upper corner, in pixels. `sizes` are the cards' width and height.

    What is in its order already keeps its place from left to right, so that a small change moves little.
    """
    if not graph.nodes:
        return {}
    order = _beside(graph, outline_order(graph))
    layers = _layers(graph, order)
    whole = _whole(order, layers, sizes)
    tops = _tops(layers, sizes)
    now = {node.id: node.at for node in graph.nodes}
    rows: dict[int, list[int]] = {}
    for number, _, _ in order:
        rows.setdefault(layers[number], []).append(number)
    loose = _loose(rows, now, sizes, tops)
    if len(loose) > MESSY * len(now):
        return {number: (x, tops[layers[number]]) for number, x in whole.items()}
    above = {number: up for number, _, up in order}
    # what is new, or out of its order, goes below the card that it hangs on, or beside the one that takes its value
    wanted = {number: at[0] for number, at in now.items()}
    for number in loose:
        up = above[number]
        wanted[number] = (
            wanted[up] + (sizes[up][0] - sizes[number][0]) / 2 if up is not None else whole[number]
        )
    placed: dict[int, Point] = {}
    for layer, row in rows.items():
        for number, x in _row(row, wanted, loose, sizes).items():
            placed[number] = (x, tops[layer])
    return placed


def _row(
    row: list[int], wanted: Mapping[int, float], loose: set[int], sizes: Mapping[int, Size]
) -> dict[int, float]:
    """Return where the cards of a row stand: those that have their place keep it, the others take the nearest gap, or make one."""
    stands = sorted((wanted[n], n) for n in row if n not in loose)
    for number in (n for n in row if n in loose):
        wide = sizes[number][0]
        ends = [float("-inf"), *(x + sizes[n][0] + ACROSS for x, n in stands)]
        begins = [*(x - ACROSS for x, _ in stands), float("inf")]
        gaps = [
            (max(a, min(wanted[number], b - wide)))
            for a, b in zip(ends, begins, strict=True)
            if b - a >= wide
        ]
        x = min(gaps, key=lambda at: abs(at - wanted[number]))
        if abs(x - wanted[number]) > FAR:
            # no room near: those to the right move on
            x = wanted[number]
        stands = sorted([*stands, (x, number)])
    found: dict[int, float] = {}
    end = float("-inf")
    for x, number in stands:
        found[number] = max(x, end)
        end = found[number] + sizes[number][0] + ACROSS
    return found


def _loose(
    rows: Mapping[int, list[int]],
    now: Mapping[int, Point],
    sizes: Mapping[int, Size],
    tops: Mapping[int, float],
) -> set[int]:
    """Return cards that lie over others of their row, or out of its order from left to right, or off it."""
    found: set[int] = set()
    for layer, row in rows.items():
        on = [n for n in row if abs(now[n][1] - tops[layer]) <= DOWN]
        # the most that stand in their order, by dynamic programming
        best: list[tuple[int, int]] = []
        for at, number in enumerate(on):
            most = (1, -1)
            for before in range(at):
                one = on[before]
                if now[one][0] + sizes[one][0] <= now[number][0] + 1 and best[before][0] + 1 > most[0]:
                    most = (best[before][0] + 1, before)
            best.append(most)
        kept: set[int] = set()
        last = max(range(len(on)), key=lambda i: best[i][0], default=-1)
        while last >= 0:
            kept.add(on[last])
            last = best[last][1]
        found |= set(row) - kept
    return found


def _layers(graph: Graph, order: list[Told]) -> dict[int, int]:
    """Return how far down each card is: below all that lead to it; one that gives a value beside the first that takes it."""
    follows: dict[int, list[int]] = {}
    for start, end in wires_of(graph):
        follows.setdefault(start.node, []).append(end.node)
    layers = {number: depth if above is None else 0 for number, depth, above in order}
    # each below all that lead to it; a wire that closes a circle does not count
    for number in _downwards([n for n, _, _ in order], follows):
        for to in follows[number]:
            layers[to] = max(layers[to], layers[number] + 1)
    takers: dict[int, int] = {}
    for start, end in wires_of(graph, values=True):
        takers.setdefault(start.node, end.node)
    entered = {end.node for _, end in wires_of(graph)}
    for number in reversed([n for n, _, _ in order]):
        if number in takers and number not in entered and not follows[number]:
            seen, at = {number}, takers[number]
            while at in takers and at not in entered and not follows[at] and at not in seen:
                seen.add(at)
                at = takers[at]
            layers[number] = layers[at]
    return layers


def _downwards(numbers: list[int], follows: dict[int, list[int]]) -> list[int]:
    """Return all cards, each before those that it leads to; wires that close a circle are taken out of `follows`."""
    for number in numbers:
        follows.setdefault(number, [])
    done: list[int] = []
    seen: set[int] = set()
    for first in numbers:
        if first in seen:
            continue
        seen.add(first)
        path, on_path, ahead = [first], {first}, [iter(list(follows[first]))]
        while path:
            to = next(ahead[-1], None)
            if to is None:
                done.append(path[-1])
                on_path.discard(path.pop())
                ahead.pop()
            elif to in on_path:
                follows[path[-1]] = [n for n in follows[path[-1]] if n != to]
            elif to not in seen:
                seen.add(to)
                path.append(to)
                on_path.add(to)
                ahead.append(iter(list(follows[to])))
    return done[::-1]


def _tops(layers: Mapping[int, int], sizes: Mapping[int, Size]) -> dict[int, float]:
    highs: dict[int, float] = {}
    for number, layer in layers.items():
        highs[layer] = max(highs.get(layer, 0.0), -(-sizes[number][1] // ROW) * ROW)
    tops: dict[int, float] = {}
    top = 0.0
    for layer in range(max(highs, default=0) + 1):
        tops[layer] = top
        top += highs.get(layer, 0.0) + DOWN
    return tops


def _whole(order: list[Told], layers: Mapping[int, int], sizes: Mapping[int, Size]) -> dict[int, float]:
    """Return each card's left edge, all laid out again: subtrees side by side, as near as their outlines let them."""
    children: dict[int | None, list[int]] = {}
    for number, _, above in order:
        children.setdefault(above, []).append(number)
    middle: dict[int, float] = {}
    right: dict[int, float] = {}
    """By layer: where the next card may begin."""
    for number, _, _ in _upwards(order, children):
        wide = sizes[number][0]
        layer = layers[number]
        below = [middle[child] for child in children.get(number, ()) if layers[child] > layer]
        at = (min(below) + max(below)) / 2 if below else 0.0
        least = right.get(layer, 0.0) + wide / 2
        if not below or at < least:
            shift = least - at
            at = least
            if below and shift > 0:
                _shift(number, shift, children, middle, right, layers, sizes)
        middle[number] = at
        right[layer] = max(right.get(layer, 0.0), at + wide / 2 + ACROSS)
    return {number: at - sizes[number][0] / 2 for number, at in middle.items()}


def _upwards(order: list[Told], children: Mapping[int | None, list[int]]) -> list[Told]:
    """Return cards with all that hang on them before them, from left to right."""
    by_name = {step[0]: step for step in order}
    found: list[Told] = []
    ahead = [(number, False) for number in reversed(children.get(None, []))]
    while ahead:
        number, done = ahead.pop()
        if done:
            found.append(by_name[number])
            continue
        ahead.append((number, True))
        ahead += [(child, False) for child in reversed(children.get(number, []))]
    return found


def _shift(
    number: int,
    by: float,
    children: Mapping[int | None, list[int]],
    middle: dict[int, float],
    right: dict[int, float],
    layers: Mapping[int, int],
    sizes: Mapping[int, Size],
) -> None:
    """Move all that hang on a card to the right."""
    ahead = list(children.get(number, ()))
    while ahead:
        child = ahead.pop()
        middle[child] += by
        end = middle[child] + sizes[child][0] / 2 + ACROSS
        right[layers[child]] = max(right.get(layers[child], 0.0), end)
        ahead += children.get(child, ())


def _beside(graph: Graph, order: list[Told]) -> list[Told]:
    """Return the order with each card that only gives a value right before the first that takes it."""
    takes: dict[int, int] = {}
    for start, end in wires_of(graph, values=True):
        takes.setdefault(start.node, end.node)
    alone = {number for number, depth, above in order if depth == 0 and above is None and number in takes}
    alone -= {above for _, _, above in order if above is not None}
    before: dict[int, list[int]] = {}
    for number in (n for n, _, _ in order if n in alone):
        before.setdefault(takes[number], []).append(number)
    by_name = {step[0]: step for step in order}
    placed: list[Told] = []
    done: set[int] = set()

    def put(number: int, depth: int, above: int | None) -> None:
        if number in done:
            return
        done.add(number)
        for giver in before.get(number, ()):
            put(giver, depth, above)
        placed.append((number, depth, above))

    for number, depth, above in order:
        if number not in alone:
            put(number, depth, above)
    for number in by_name:
        put(number, *by_name[number][1:])
    return placed
