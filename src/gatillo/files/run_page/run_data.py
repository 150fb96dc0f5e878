"""What the page of a run shows, as plain data: rules and their firings, where everything was, verdicts and their reasons."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import Verdict, judge
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.reason_words import called
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.language.sentence import rule_sentence
from gatillo.level.expectations import RULE, fields_of
from gatillo.level.model import Area, Circle, Graph, Kind, Level, Place, Route, Rule, Shape
from gatillo.level.roles import all_logic
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import NullRecorder, Way
from gatillo.sim.world.world import World

WAYS = {Way.DO: "", Way.ELSE: "else", Way.RESUMED: "went on"}
MOST_NUMBERS = 600_000
"""Numbers for the places of objects: with more, only each second tick has its own, or each third, and so on."""
MOST_SENTENCES = 4_000
"""Firings whose objects are named; the others say only how many."""
NAMED = 3
"""Objects of a firing that are named."""
DEPTH = 3


def run_data(
    run: Run, level: Level | None = None, verdicts: Sequence[Verdict] | None = None
) -> dict[str, Any]:
    """Return a run as plain data for the page. `level` has its scenery too, which takes no part in the run.

    Without `verdicts`, the run is judged first, which runs it once more.
    """
    level = level or run.program.level
    return {
        "level": level.name,
        "trial": run.trial.name,
        "rate": run.program.rate,
        "ticks": run.done,
        "seed": run.trial.seed,
        "width": level.settings.width,
        "height": level.settings.height,
        "kinds": [_kind(kind) for kind in level.kinds],
        "places": [_place(place) for place in level.places],
        "rules": _rules(run),
        "firings": _firings(run),
        "verdicts": _verdicts(run, judge(run) if verdicts is None else verdicts),
        "faults": [[fault.tick, fault.sentence] for fault in run.trace.faults[:200]],
        "notes": [[tick, text] for tick, text in run.trace.notes[:2_000]],
        "scenery": _scenery(level),
        **_moments(run, level),
    }


# the level


def _shape(shape: Shape) -> list[float]:
    return [shape.radius] if isinstance(shape, Circle) else [shape.width, shape.height]


def _kind(kind: Kind) -> dict[str, Any]:
    return {
        "name": kind.name,
        "shape": _shape(kind.shape),
        "colour": kind.colour,
        "glyph": kind.glyph,
        "picture": kind.picture,
        "facing": kind.drawn_facing,
        "scenery": kind.scenery,
        "depth": kind.depth,
    }


def _scenery(level: Level) -> list[list[Any]]:
    """Return what is only looked at: its kind, where it is, its angle and scale."""
    number = {kind.name: at for at, kind in enumerate(level.kinds)}
    only_seen = {kind.name for kind in level.kinds if kind.scenery}
    return [
        [number[o.kind], o.x, o.y, o.angle, o.scale, o.name]
        for o in level.objects
        if o.kind in only_seen and o.shown
    ]


def _place(place: Place) -> dict[str, Any]:
    if isinstance(place, Area):
        return {"name": place.name, "x": place.x, "y": place.y, "shape": _shape(place.shape)}
    if isinstance(place, Route):
        return {"name": place.name, "stops": [[stop.x, stop.y] for stop in place.stops]}
    return {"name": place.name, "x": place.x, "y": place.y}


def _rules(run: Run) -> list[dict[str, Any]]:
    rows = []
    index = {rule.source.id: rule.index for rule in run.program.rules}
    for _, section, logic in all_logic(run.program.level):
        words = rule_sentence(logic) if isinstance(logic, Rule) else f"a graph of {len(logic.nodes)} cards"
        rows.append(
            {
                "at": index.get(logic.id, -1),
                "id": logic.id,
                "name": logic.name,
                "words": words,
                "section": section.name if section is not None else "",
                "graph": isinstance(logic, Graph),
                "on": logic.on and (section is None or section.on),
            }
        )
    return rows


# what fired


class _Parts(NullRecorder):
    """Notes who takes part in each firing of the ticks that are replayed."""

    watching = True

    def __init__(self) -> None:
        self.tick = 0
        self.found: dict[int, list[dict[str, list[int]]]] = {}

    def tick_begins(self, tick: int) -> None:
        self.tick = tick

    def takes_part(self, table: Matches, ids: dict[str, NDArray[np.int64]]) -> None:
        few = {role: column[:NAMED].tolist() for role, column in ids.items()}
        self.found.setdefault(self.tick, []).append(few)


def _firings(run: Run) -> list[list[Any]]:
    """Return each firing: tick, place in the tick, rule, matches, and in words for whom."""
    firings = run.trace.firings()
    parts = _Parts()
    if firings and len(firings) <= MOST_SENTENCES:
        run.replay(run.true_from + 1, run.done, parts)
    found = []
    for tick, some in groupby(firings, lambda firing: firing.tick):
        seen = parts.found.get(tick, [])
        for at, firing in enumerate(some):
            roles = seen[at] if at < len(seen) else {}
            found.append(
                [tick, firing.position, firing.rule_index, firing.matches, _for_whom(run, firing.way, roles)]
            )
    return found


def _for_whom(run: Run, way: Way, roles: dict[str, list[int]]) -> str:
    names = [
        f"{role.replace('_', ' ')}: {', '.join(called(run, one) for one in ids)}"
        for role, ids in roles.items()
        if ids
    ]
    return "; ".join([*([WAYS[way]] if WAYS[way] else []), *names])


# what was expected


def _verdicts(run: Run, verdicts: Sequence[Verdict]) -> list[dict[str, Any]]:
    explainer = Explainer(run)
    found = []
    for verdict in verdicts:
        one: dict[str, Any] = {
            "sentence": verdict.expectation.sentence(),
            "outcome": verdict.outcome,
            "reason": verdict.reason,
            "tick": verdict.tick,
        }
        if verdict.outcome == "failed":
            reason = _why(explainer, run, verdict)
            one["why"] = list(reason.lines(DEPTH)) if reason is not None else []
        found.append(one)
    return found


def _why(explainer: Explainer, run: Run, verdict: Verdict) -> Reason | None:
    """Return the first reason for what went against an expectation: of its formula's value, or of its rule's firing or not."""
    tick = run.done if verdict.tick is None else verdict.tick
    for formula in verdict.expectation.formulas():
        try:
            return explainer.value(formula, tick)
        except (FormulaError, ValueError):
            continue
    by_name = {rule.source.name: rule for rule in run.program.rules}
    for field, holds in fields_of(type(verdict.expectation)).items():
        value = getattr(verdict.expectation, field)
        for name in value if isinstance(value, tuple) else (value,):
            rule = by_name.get(name) if holds == RULE else None
            if rule is None:
                continue
            fired = [f for f in run.trace.firings_at(tick) if f.rule_index == rule.index]
            if fired:
                return explainer.fired(tick, fired[0].position)
            if not run.trace.has_fired(rule.index):
                return why_never(WhyNot(explainer), rule)
    return None


# where everything was


def _moments(run: Run, level: Level) -> dict[str, Any]:
    """Return who was there and where: `objects` by number, and in `moves` for each sampled tick what is other than at the one before.

    A move is object, x, y, angle and scale, one after the other; -1 in the place of the scale takes the object away, and hidden
    ones have a negative scale.
    """
    numbers = {kind.name: at for at, kind in enumerate(level.kinds)}
    every = 1
    while True:
        found = _sampled(run, every, numbers)
        if found is not None:
            return found
        every *= 2


def _sampled(run: Run, every: int, kinds: dict[str, int]) -> dict[str, Any] | None:
    ticks = [*range(0, run.done, every), run.done]
    world = run.world_at(run.end_of(0)).clone()
    numbers: dict[int, int] = {}
    objects: list[list[Any]] = []
    before: dict[int, tuple[float, ...]] = {}
    moves: list[list[float]] = []
    many = 0
    for tick in ticks:
        run.replay_to(world, tick)
        now = _poses(world)
        changed: list[float] = []
        for number, pose in now.items():
            if before.get(number) == pose:
                continue
            if number not in numbers:
                numbers[number] = len(objects)
                objects.append([world.name_of(number), kinds[_kind_of(world, number)]])
            changed += [numbers[number], *pose]
        for number in before.keys() - now.keys():
            changed += [numbers[number], 0, 0, 0, GONE]
        moves.append(changed)
        many += len(changed)
        if many > MOST_NUMBERS and every < run.done:
            return None
        before = now
    return {"every": every, "objects": objects, "moves": moves}


GONE = -1_000
"""In the place of a scale: the object is removed."""


def _kind_of(world: World, number: int) -> str:
    return world.program.kinds[world.kind.item(world.row_of_id(number))].name


def _poses(world: World) -> dict[int, tuple[float, ...]]:
    """Return by id where each object is, rounded to what can be seen: x, y, angle, and its scale, below 0 where it is hidden."""
    rows = world.alive.nonzero()[0]
    scale = np.where(world.shown[rows], world.scale[rows], -world.scale[rows])
    table = np.stack(
        [world.x[rows].round(1), world.y[rows].round(1), world.angle[rows].round(0), scale.round(2)], axis=1
    )
    return dict(zip(world.id[rows].tolist(), map(tuple, _short(table)), strict=True))


def _short(table: NDArray[np.float64]) -> list[list[float]]:
    """Return numbers without a needless decimal point."""
    return [[int(v) if v == int(v) else v for v in row] for row in table.tolist()]
