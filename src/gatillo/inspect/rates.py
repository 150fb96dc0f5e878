"""A trial at several tick rates or seeds: the first firing that differs, the first value that differs, and why.

At other rates a rule that fires in each tick of a stretch fires more or less often, so stretches are compared, by when they begin
and end: two are the same if both times differ by no more than a tick of the slower rate and what the times of input round to.
Where all stretches are the same, numbers are compared at times that both rates meet: one has parted if it differs by more than it, or the
other, has changed within two ticks of the slower rate anywhere so far, since a thing that sets out a tick later ends a tick's way apart.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from functools import reduce

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from gatillo.formula.syntax import FormulaError
from gatillo.inspect.comparison import compare, first_parted, numbers
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.reason_words import quoted
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.inspect.state import Parted, of_level_and_objects
from gatillo.inspect.value_words import value_words
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Trial
from gatillo.level.naming import token
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Way

Floats = NDArray[np.float64]

SLACK_TICKS = 2.0
"""So many ticks of the slower rate may two stretches begin or end apart."""
DRIFT_SAMPLES = 12
"""At about so many times of a run its numbers are compared with those at another rate."""
NEARLY = 1e-3
"""What numbers may differ by beside that, of their size."""


@dataclass(slots=True)
class Apart:
    """How a run at another rate or with another seed differs from the first one."""

    of: str
    """Such as `30 ticks a second` or `seed 4`."""
    run: Run
    seconds: float | None = None
    """When the first difference is; None if there is none."""
    rule: str = ""
    words: str = ""
    parted: list[Parted] = field(default_factory=list)
    """What values have parted there, the first few."""
    why: list[Reason] = field(default_factory=list)
    """On both sides: why it fired, why it did not."""

    @property
    def same(self) -> bool:
        """Whether nothing differs."""
        return self.seconds is None

    def sentence(self) -> str:
        """Return it in one line."""
        if self.same:
            return f"{self.of}: the same firings"
        tick = round((self.seconds or 0.0) * self.run.program.rate)
        words = f"{self.of}: first differs at {self.seconds:.3f} s (tick {tick}): {self.words}"
        return words + (
            f"; {self.parted[0].name} was {self.parted[0].before}, now {self.parted[0].after}"
            if self.parted
            else ""
        )


def at_rate(level: Level, trial: Trial, rate: int) -> Run:
    """Return a trial run at a tick rate."""
    made = Program(as_tried(replace(level, settings=replace(level.settings, rate=rate)), trial))
    return Run(made, trial)


def rate_check(
    level: Level,
    trial: Trial,
    rates: tuple[int, ...] = (30, 60, 120),
    stop: Callable[[], bool] = lambda: False,
) -> list[Apart]:
    """Return the trial at the level's own rate against each of the others. `stop` is asked between ticks."""
    own = at_rate(level, trial, level.settings.rate)
    own.advance(stop=stop)
    found = []
    for rate in rates:
        if rate == level.settings.rate or stop():
            continue
        other = at_rate(level, trial, rate)
        other.advance(stop=stop)
        found.append(apart_at_rates(own, other))
    return found


def seed_check(
    level: Level, trial: Trial, seeds: int = 10, stop: Callable[[], bool] = lambda: False
) -> list[Apart]:
    """Return the trial with its own seed against those that follow it. `stop` is asked between ticks."""
    program = Program(as_tried(level, trial))
    own = Run(program, trial)
    own.advance(stop=stop)
    found = []
    for seed in range(trial.seed + 1, trial.seed + seeds):
        if stop():
            break
        other = Run(program, replace(trial, seed=seed))
        other.advance(stop=stop)
        apart = Apart(f"seed {seed}", other)
        comparison = compare(own, other)
        if comparison.first_tick is not None:
            tick = comparison.first_tick
            apart.seconds = tick / program.rate
            rule = next(
                r
                for side in (comparison.gone, comparison.new)
                for r, ticks in side.items()
                if ticks[0] == tick
            )
            gone = rule in comparison.gone and comparison.gone[rule][0] == tick
            _explain(apart, own, other, rule, tick, tick, missing=gone)
            apart.parted = first_parted(own, other)[:3]
        found.append(apart)
    return found


Stretch = tuple[float, float, int]
"""When a rule fired in tick after tick: from, to (s), and the tick of the first."""


def stretches(run: Run, gap: float) -> dict[int, list[Stretch]]:
    """Return by rule id when it fired; firings no farther apart than a gap (s) are one stretch."""
    near = max(1.0, gap * run.program.rate)
    found: dict[int, list[list[int]]] = {}
    for firing in run.trace.firings():
        if firing.way is Way.DO:
            mine = found.setdefault(run.program.rules[firing.rule_index].source.id, [])
            if mine and mine[-1][1] >= firing.tick - near:
                mine[-1][1] = firing.tick
            else:
                mine.append([firing.tick, firing.tick])
    rate = run.program.rate
    return {rule: [(a / rate, b / rate, a) for a, b in mine] for rule, mine in found.items()}


def apart_at_rates(own: Run, other: Run) -> Apart:
    """Return how a run at another tick rate differs: the first stretch of firings that only one has, the values, and why on both sides."""
    apart = Apart(f"{other.program.rate} ticks a second", other)
    slack = SLACK_TICKS / min(own.program.rate, other.program.rate) + 1e-9
    before, after = stretches(own, slack), stretches(other, slack)
    first: tuple[float, int, bool, int] | None = None
    end = min(own.done / own.program.rate, other.done / other.program.rate) - slack
    for rule in {*before, *after}:
        here = _first_apart(before.get(rule, []), after.get(rule, []), slack, end)
        if here is not None and (first is None or here[0] < first[0]):
            first = (here[0], rule, *here[1:])
    if first is None:
        drifted = _first_drift(own, other)
        if drifted is not None:
            apart.seconds, apart.parted = drifted
            apart.words = "the same rules have fired, and a value has parted"
            for run in (own, other):
                tick = max(1, round(apart.seconds * run.program.rate))
                with suppress(FormulaError):
                    # what a rule created has no name for formulas
                    apart.why.append(Explainer(run).value(_formula_of(apart.parted[0].name), tick))
        return apart
    seconds, rule, missing, _ = first
    apart.seconds = seconds
    tick, there = (max(1, round(seconds * run.program.rate)) for run in (own, other))
    _explain(apart, own, other, rule, tick, there, missing=missing)
    before_it = (max(0, tick - 1), max(0, there - 1))
    one = own.world_at(own.end_of(before_it[0]))
    two = other.world_at(other.end_of(before_it[1]))
    # places differ a little at each rate; what differs by more than the way of a tick or two, and what is no place, has parted
    apart.parted = [p for p in of_level_and_objects(one, two) if _far(p, slack)][:3]
    return apart


def _first_drift(own: Run, other: Run) -> tuple[float, list[Parted]] | None:
    """Return the first common time at which a number differs by more than a few ticks explain, and the number."""
    rates = own.program.rate, other.program.rate
    common = math.gcd(*rates)
    lag = [math.ceil(SLACK_TICKS * rate / min(rates)) for rate in rates]
    last = min(
        (run.done - late) * common // rate for run, late, rate in zip((own, other), lag, rates, strict=True)
    )
    reached: dict[str, Floats] = {}
    for at in range(max(1, last // DRIFT_SAMPLES), last + 1, max(1, last // DRIFT_SAMPLES)):
        worlds = [
            run.world_at(run.end_of(max(0, at * rate // common + by)))
            for run, late, rate in zip((own, other), lag, rates, strict=True)
            for by in (0, -late, late)
        ]
        ids = reduce(np.intersect1d, [world.id[world.alive] for world in worlds])
        lines = [numbers(world, ids) for world in worlds]
        found = []
        for name, here in lines[0].items():
            sides = [side[name] for side in lines]
            who = np.zeros(1, dtype=np.int64) if name.startswith("level.") else ids
            reach = reached.setdefault(name, np.zeros(1))
            if len(reach) <= who.max(initial=0):
                reach = reached[name] = np.concatenate((reach, np.zeros(who.max() + 1 - len(reach))))
            turns = name == "angle"
            changed = np.maximum(_gap(sides[1], sides[2], turns), _gap(sides[4], sides[5], turns))
            reach[who] = np.maximum(reach[who], changed)
            gap = _gap(here, sides[3], turns)
            for place in np.flatnonzero(gap > reach[who] + NEARLY * np.maximum(1.0, np.abs(here))).tolist():
                object_id = int(who[place]) or None
                full = f"{worlds[0].name_of(object_id)}.{name}" if object_id else name
                mine, theirs = value_words(float(here[place])), value_words(float(sides[3][place]))
                found.append(Parted(worlds[0].tick, full, mine, theirs, object_id))
        if found:
            return at / common, found[:3]
    return None


def _gap(one: Floats, other: Floats, turns: bool) -> Floats:
    """Return how far two numbers are apart; of angles (degrees) the shorter way round."""
    apart = np.abs(one - other)
    return np.minimum(apart % 360.0, 360.0 - apart % 360.0) if turns else apart


def _formula_of(name: str) -> str:
    owner, _, value = name.rpartition(".")
    return f"{token(owner)}.{token(value)}"


def _first_apart(
    before: list[Stretch], after: list[Stretch], slack: float, end: float
) -> tuple[float, bool, int] | None:
    """Return where two lists of stretches first differ: the time, whether the second lacks it, the tick of the stretch."""
    for one, other in zip(before, after, strict=False):
        if abs(one[0] - other[0]) > slack:
            early = min(one, other, key=lambda s: s[0])
            return (early[0], early is one, early[2]) if early[0] < end else None
        if abs(one[1] - other[1]) > slack and min(one[1], other[1]) < end:
            early = min(one, other, key=lambda s: s[1])
            return early[1], early is other, early[2]
    longer = before if len(before) > len(after) else after
    rest = longer[min(len(before), len(after)) :]
    if rest and rest[0][0] < end:
        return rest[0][0], longer is before, rest[0][2]
    return None


def _far(parted: Parted, slack: float) -> bool:
    if parted.object_id is None or not parted.name.endswith((".x", ".y", ".angle", ".vx", ".vy")):
        return True
    try:
        return abs(float(parted.before) - float(parted.after)) > 1e3 * slack
    except ValueError:
        return True


def _explain(
    apart: Apart, own: Run, other: Run, rule_id: int, tick: int, there: int, *, missing: bool
) -> None:
    """Put into words which rule fires on one side only, and why on both."""
    name = next(t.source.name for t in own.program.rules if t.source.id == rule_id)
    apart.rule = name
    fires, lacks, at, not_at = (own, other, tick, there) if missing else (other, own, there, tick)
    apart.words = f"{quoted(name)} " + ("does not fire there" if missing else "fires there, and not here")
    position = next(
        (
            f.position
            for f in fires.trace.firings_at(at)
            if fires.program.rules[f.rule_index].source.id == rule_id
        ),
        None,
    )
    if position is not None:
        apart.why.append(Explainer(fires).fired(at, position))
    rule = next((t for t in lacks.program.rules if t.source.id == rule_id), None)
    if rule is not None and 1 <= not_at <= lacks.done:
        apart.why.append(WhyNot(Explainer(lacks)).at(rule, not_at))
