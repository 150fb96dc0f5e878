"""The order list as it is read aloud: each row with its sentence, whether it is on, how often it fired, and its firings as parts."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from gatillo.desk.looks.read_aloud import Heard
from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.rows import Row
from gatillo.sim.run.run import Cursor
from gatillo.sim.trace.trace import Firing

MOST_FIRINGS = 500
"""Firings of a rule that are read one by one, from the cursor's on."""
BEFORE = 50
"""Of these, how many lie before the cursor."""


def rows_aloud(state: ListState, geometry: ListGeometry, open_graph: Callable[[int], object]) -> list[Heard]:
    """Return every row of the list; `open_graph` shows the graph of a number."""
    firings = _by_rule(state)
    found = [_row(state, geometry, at, row, firings) for at, row in enumerate(state.rows)]
    for heard, row in zip(found, state.rows, strict=True):
        if row.sort == "graph" and row.entry is not None:
            heard.deeds["open"] = partial(open_graph, row.entry.id)
    return found


def moment_aloud(state: ListState) -> str:
    """Return what is said when the cursor has come to a moment: its tick, and the firing at it or how many the tick has."""
    run, cursor = state.bench.run, state.bench.cursor
    firings = run.trace.firings_at(cursor.tick)
    if 0 < cursor.position <= len(firings):
        firing = firings[cursor.position - 1]
        return f"tick {cursor.tick}, {cursor.position} of {len(firings)}: {run.program.rules[firing.rule_index].source.name}"
    return f"tick {cursor.tick}, {len(firings)} firings"


def _by_rule(state: ListState) -> dict[int, list[Firing]]:
    found: dict[int, list[Firing]] = {}
    for firing in state.bench.run.trace.firings():
        found.setdefault(firing.rule_index, []).append(firing)
    return found


def _row(
    state: ListState, geometry: ListGeometry, at: int, row: Row, firings: dict[int, list[Firing]]
) -> Heard:
    words = " ".join(" ".join(word.text for word in row.words).split())
    heard = Heard(words, area=geometry.row_area(at).toRect(), selected=at == state.current)
    heard.deeds = {"select": partial(state.choose, at)}
    if row.section is not None:
        heard.name = f"section {row.section.name}"
    elif row.entry is not None and row.sort in ("rule", "graph"):
        heard.name = f"{row.sort} {row.number} {row.entry.name}: {words}"
    if row.sort in ("rule", "graph", "section"):
        heard.checked, heard.folded = row.on, row.folded
        heard.deeds |= {
            "switch on or off": partial(state.toggle_on, at),
            "unfold": partial(state.toggle_fold, at),
        }
    if row.rule_index is not None and row.sort in ("rule", "graph"):
        mine = firings.get(row.rule_index, [])
        heard.detail = ", ".join([*_said(mine, state), *([row.problem] if row.problem else [])])
        heard.parts = partial(_firings, state, geometry, at, mine)
    elif row.verdict is not None:
        heard.detail = row.verdict.outcome
    return heard


def _said(mine: list[Firing], state: ListState) -> list[str]:
    """Return how often a rule fired, and what it does at the cursor."""
    many = f"fired {len(mine)} time{'s' if len(mine) != 1 else ''}"
    cursor = state.bench.cursor
    here = [firing for firing in mine if firing.tick == cursor.tick]
    return [many, *(_at(firing) for firing in here)]


def _at(firing: Firing) -> str:
    matches = f" for {firing.matches} matches" if firing.matches != 1 else ""
    return f"fires in this tick, {firing.position} in order{matches}"


def _firings(state: ListState, geometry: ListGeometry, at: int, mine: list[Firing]) -> list[Heard]:
    """Return firings of a rule, those about the cursor."""
    bench = state.bench
    later = next((n for n, firing in enumerate(mine) if firing.tick >= bench.cursor.tick), len(mine))
    some = mine[max(0, later - BEFORE) :][:MOST_FIRINGS]
    rate = bench.run.program.rate
    row, scale = geometry.lane_area(at).toRect(), geometry.scale
    found = []
    for firing in some:
        area = row.adjusted(0, 0, 0, 0)
        area.setLeft(int(scale.middle(firing.tick)) - 3)
        area.setWidth(6)
        matches = f", {firing.matches} matches" if firing.matches != 1 else ""
        found.append(
            Heard(
                f"fires at {firing.tick / rate:.3f} s, tick {firing.tick}, {firing.position} in order{matches}",
                area=area,
                selected=bench.cursor == Cursor(firing.tick, firing.position),
                deeds={"go there": partial(bench.move_cursor, Cursor(firing.tick, firing.position))},
            )
        )
    return found
