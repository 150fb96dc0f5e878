"""Judging expectations: whether they hold in a run of their trial."""

from __future__ import annotations

import dataclasses
import difflib
import hashlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any, Literal

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import CHANCE, EVERY, SAYING, TELLING, Formula
from gatillo.formula.syntax import FormulaError
from gatillo.formula.values import write_out
from gatillo.inspect.watching import Following, Unanswered, follow, value_in
from gatillo.level.expectations import (
    KINDS,
    Expectation,
    Expected,
    FiresBefore,
    FiresInOrder,
    FiresTimes,
    HoldsAt,
    HoldsWhenever,
    SameOrder,
)
from gatillo.level.model import Trial
from gatillo.level.naming import did_you_mean
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Firing, Way
from gatillo.sim.world.input_script import tick_at

Outcome = Literal["held", "failed", "could not be judged"]


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to one expectation. `tick` is where to look, if there is one place."""

    expectation: Expectation
    outcome: Outcome
    reason: str = ""
    tick: int | None = None

    def sentence(self) -> str:
        """Return the expectation and how it came out, in one line."""
        said = f"{self.expectation.sentence()}: {self.outcome}"
        if self.outcome == "failed" and self.tick is not None:
            said += f" at tick {self.tick}"
        return said + (f" because {self.reason}" if self.reason else "")


Followed = dict[str, list[Any]]
"""By a formula's text: its value at the end of every tick of the run."""


def to_follow(program: Program, trial: Trial) -> dict[str, Formula]:
    """Return the formulas that must be followed over a trial's run to judge it, by their texts."""
    found: dict[str, Formula] = {}
    for expectation in trial.expectations:
        if text := expectation.followed():
            try:
                found[text] = compile_formula(program.index, text, "yes/no")
            except FormulaError:
                # reported when it is judged
                continue
    return found


def run_and_judge(run: Run, advance: Callable[[Run], object] = Run.advance) -> list[Verdict]:
    """Run a trial from its start to its end, and judge it: what is to be followed is followed in the same run."""
    formulas = to_follow(run.program, run.trial)
    following = Following(run, list(formulas.values()))
    advance(run)
    return judge(run, dict(zip(formulas, following.end(), strict=True)))


def judge(
    run: Run, followed: Followed | None = None, expectations: Sequence[Expectation] | None = None
) -> list[Verdict]:
    """Return a verdict for each expectation, in their order: those of the run's trial, or the given ones.

    `followed` are the values of `to_follow`, where they are known; else the run is run once more for all of them.
    """
    if followed is None:
        formulas = to_follow(run.program, run.trial)
        followed = dict(zip(formulas, follow(run, list(formulas.values())), strict=True))
    firings: dict[int, list[Firing]] = {}
    for firing in run.trace.firings():
        # the same firing going on after a wait is not another firing
        if firing.way is Way.DO:
            firings.setdefault(firing.rule_index, []).append(firing)
    judged = Judged(run, firings, followed)
    wanted = run.trial.expectations if expectations is None else expectations
    return [JUDGES[type(expectation)](judged, expectation) for expectation in wanted]


@dataclass(frozen=True, slots=True)
class Judged:
    """What expectations are judged by."""

    run: Run
    firings: dict[int, list[Firing]]
    """By index of the rule; what a firing does after a wait is not another firing."""
    followed: Followed


Judge = Callable[[Judged, Any], Verdict]
JUDGES: dict[type[Expected], Judge] = {}
"""By kind of expectation: what judges it."""


def judges(kind: type[Expected]) -> Callable[[Judge], Judge]:
    """Declare what judges a kind of expectation: `judge(judged, expectation)` returns its verdict."""

    def declare(judge: Judge) -> Judge:
        JUDGES[kind] = judge
        return judge

    return declare


def _found(
    run: Run, firings: dict[int, list[Firing]], names: Iterable[str]
) -> tuple[list[list[Firing]], str]:
    """Return the firings of each rule, or why they cannot be judged."""
    found: list[list[Firing]] = []
    for name in names:
        position, why = _turn_of(run, name)
        if position is None:
            return [], why
        if not firings.get(position):
            return [], f"“{name}” never fired"
        found.append(firings[position])
    return found, ""


@judges(FiresInOrder)
def _in_order(judged: Judged, expectation: FiresInOrder) -> Verdict:
    run, firings = judged.run, judged.firings
    found, why = _found(run, firings, expectation.rules)
    if why:
        return Verdict(expectation, "could not be judged", why)
    if expectation.same_tick:
        return _in_one_tick(expectation, found)
    for before, after in pairwise(range(len(found))):
        first, then = found[before][0], found[after][0]
        if (first.tick, first.position) > (then.tick, then.position):
            why = f"“{expectation.rules[after]}” fired there, before “{expectation.rules[before]}” at tick {first.tick}"
            return Verdict(expectation, "failed", why, then.tick)
    return Verdict(expectation, "held")


def _in_one_tick(expectation: FiresInOrder, found: list[list[Firing]]) -> Verdict:
    at = [{f.tick: f.position for f in reversed(some)} for some in found]
    shared = sorted(set(at[0]).intersection(*at[1:]))
    if not shared:
        return Verdict(expectation, "failed", "there is no tick in which all of them fire", found[-1][0].tick)
    for tick in shared:
        positions = [places[tick] for places in at]
        if positions != sorted(positions):
            words = ", ".join(
                f"“{name}” {place}." for name, place in zip(expectation.rules, positions, strict=True)
            )
            return Verdict(expectation, "failed", f"there they fire as {words}", tick)
    return Verdict(expectation, "held")


@judges(HoldsWhenever)
def _whenever(judged: Judged, expectation: HoldsWhenever) -> Verdict:
    run, firings, followed = judged.run, judged.firings, judged.followed
    found, why = _found(run, firings, [expectation.rule])
    if why:
        return Verdict(expectation, "could not be judged", why)
    try:
        formula = compile_formula(run.program.index, expectation.formula, "yes/no")
    except FormulaError as error:
        return Verdict(expectation, "could not be judged", error.message)
    for tick in dict.fromkeys(f.tick for f in found[0]):
        value = followed[expectation.formula][tick]
        if isinstance(value, Unanswered):
            return Verdict(expectation, "could not be judged", value.reason, tick)
        if not value:
            return Verdict(expectation, "failed", f"it is not true then{_values(run, formula, tick)}", tick)
    return Verdict(expectation, "held")


def firing_lines(run: Run) -> tuple[str, ...]:
    """Return a run's order of firing, a line for each: the tick, the rule, and for how many matches."""
    turns = run.program.rules
    return tuple(f"{f.tick} {turns[f.rule_index].source.name} ×{f.matches}" for f in run.trace.firings())


def accepted(run: Run) -> SameOrder:
    """Return the expectation that a run's order of firing stays as it is."""
    lines = firing_lines(run)
    digest = hashlib.blake2b("\n".join(lines).encode(), digest_size=6).hexdigest()
    return SameOrder(digest=digest, firings=lines, rate=run.program.rate)


def order_differences(before: tuple[str, ...], after: tuple[str, ...]) -> list[str]:
    """Return what has changed in an order of firing: lines that are gone begin with −, new ones with +."""
    told = difflib.unified_diff(before, after, n=0, lineterm="")
    return [line.replace("-", "−", 1) for line in told if line[:1] in "+-" and line[:3] not in ("+++", "---")]


@judges(SameOrder)
def _accepted(judged: Judged, expectation: SameOrder) -> Verdict:
    run = judged.run
    if run.program.rate != expectation.rate:
        return Verdict(
            expectation, "could not be judged", f"it was accepted at {expectation.rate} ticks a second"
        )
    now = accepted(run)
    if now.digest == expectation.digest:
        return Verdict(expectation, "held")
    lines = order_differences(expectation.firings, now.firings)
    if not lines:
        return Verdict(expectation, "could not be judged", "its list of firings does not fit its digest")
    tick = int(lines[0][1:].split(" ", 1)[0])
    words = "; ".join(lines[:4]) + (f"; and {len(lines) - 4} more" if len(lines) > 4 else "")
    return Verdict(expectation, "failed", f"it differs: {words}", min(tick, run.done))


def _turn_of(run: Run, name: str) -> tuple[int | None, str]:
    """Return the turn of a rule by name, or None with why it cannot be judged."""
    names = {rule.source.name: rule for rule in run.program.rules}
    rule = names.get(name)
    if rule is None:
        return None, f"there is no rule called “{name}”{did_you_mean(name, names)}"
    if not rule.on:
        return None, f"“{name}” is switched off"
    if not rule.runs:
        return None, f"“{name}” has a finding and cannot run"
    return rule.index, ""


def times_fired(run: Run, rule_index: int) -> int:
    """Return how often a rule fired in the run: carried out its “do” list, not counting where a wait went on."""
    return sum(f.rule_index == rule_index and f.way is Way.DO for f in run.trace.firings())


@judges(FiresTimes)
def _times(judged: Judged, expectation: FiresTimes) -> Verdict:
    run, firings = judged.run, judged.firings
    position, why = _turn_of(run, expectation.rule)
    if position is None:
        return Verdict(expectation, "could not be judged", why)
    rate = run.program.rate
    first = tick_at(expectation.start, rate) if expectation.start is not None else 0
    last = tick_at(expectation.end, rate) if expectation.end is not None else run.done
    if last > run.done or first > run.done:
        return Verdict(expectation, "could not be judged", f"the run ends at {run.done / rate:g} s")
    found = [f for f in firings.get(position, []) if first <= f.tick <= last]
    wanted, many = expectation.times, len(found)
    if expectation.how != "at least" and many > wanted:
        return Verdict(expectation, "failed", f"it fired {many} time{_s(many)}", found[wanted].tick)
    if expectation.how != "at most" and many < wanted:
        return Verdict(expectation, "failed", f"it fired {many} time{_s(many)} by the end", last)
    return Verdict(expectation, "held")


def _s(many: int) -> str:
    return "" if many == 1 else "s"


@judges(FiresBefore)
def _before(judged: Judged, expectation: FiresBefore) -> Verdict:
    run, firings = judged.run, judged.firings
    sides, why = _found(run, firings, (expectation.first, expectation.then))
    if why:
        return Verdict(expectation, "could not be judged", why)
    earlier, later = sides
    within = None if expectation.within is None else expectation.within * run.program.rate + 1e-9
    for then in later if expectation.every else later[:1]:
        before = [f for f in earlier if (f.tick, f.position) < (then.tick, then.position)]
        if not before:
            return Verdict(
                expectation,
                "failed",
                f"“{expectation.then}” fired there with no “{expectation.first}” before it",
                then.tick,
            )
        nearest = before[-1] if expectation.every else before[0]
        if within is not None and then.tick - nearest.tick > within:
            seconds = (then.tick - nearest.tick) / run.program.rate
            return Verdict(
                expectation, "failed", f"“{expectation.first}” had fired {seconds:.3f} s before", then.tick
            )
    return Verdict(expectation, "held")


@judges(HoldsAt)
def _holds(judged: Judged, expectation: HoldsAt) -> Verdict:
    run, followed = judged.run, judged.followed
    try:
        formula = compile_formula(run.program.index, expectation.formula, "yes/no")
    except FormulaError as error:
        return Verdict(expectation, "could not be judged", error.message)
    tick = tick_at(expectation.time, run.program.rate) if expectation.time > 0 else 0
    if expectation.when in ("at", "by") and tick > run.done:
        return Verdict(
            expectation, "could not be judged", f"the run ends at {run.done / run.program.rate:g} s"
        )
    if expectation.when == "at":
        return _holds_then(run, expectation, formula, tick)
    values = followed[expectation.formula]
    if expectation.when == "by":
        values = values[: tick + 1]
    unanswered = next((v for v in values if isinstance(v, Unanswered)), None)
    if unanswered is not None and expectation.when != "by":
        return Verdict(expectation, "could not be judged", unanswered.reason, values.index(unanswered))
    if expectation.when == "by":
        if any(value is True for value in values):
            return Verdict(expectation, "held")
        return Verdict(expectation, "failed", "it had not come true by then", tick)
    wanted = expectation.when == "always"
    wrong = next((at for at, value in enumerate(values) if value is not wanted), None)
    if wrong is None:
        return Verdict(expectation, "held")
    return Verdict(
        expectation,
        "failed",
        f"it is {'not ' if wanted else ''}true then{_values(run, formula, wrong)}",
        wrong,
    )


def _holds_then(run: Run, expectation: HoldsAt, formula: Formula, tick: int) -> Verdict:
    noted = (tick, expectation.formula)
    value = run.noted[noted] if noted in run.noted else value_in(run.world_at(run.end_of(tick)), formula)
    if isinstance(value, Unanswered):
        return Verdict(expectation, "could not be judged", value.reason, tick)
    if value:
        return Verdict(expectation, "held")
    return Verdict(expectation, "failed", f"it is not true then{_values(run, formula, tick)}", tick)


def _values(run: Run, formula: Formula, tick: int) -> str:
    """Return what the formula read at a tick, for a verdict's sentence: “ (level.pods is 3)”."""
    world = run.world_at(run.end_of(tick))
    seen = []
    for owner, name in formula.reads:
        source = _asked(owner, name)
        if not source:
            continue
        value = value_in(world, compile_formula(run.program.index, source))
        if not isinstance(value, Unanswered):
            seen.append(f"{source} is {write_out(value)}")
    return f" ({', '.join(seen)})" if seen else ""


def _asked(owner: str, name: str) -> str:
    """Return a formula for one thing that a formula reads; "" where that is no single value."""
    if owner.startswith(f"{EVERY} ") or owner in ("message", CHANCE):
        return ""
    if name == SAYING:
        return f"saying({owner})"
    if owner == TELLING:
        return "telling()"
    if name.startswith("item "):
        return f'items({owner}, "{name.removeprefix("item ")}")'
    if owner in ("timer", "key"):
        return f'{"timer" if owner == "timer" else "key_down"}("{name}")'
    return name if owner == "clock" else f"{owner}.{name}"


def faults_amiss(run: Run) -> str:
    """Return why a run does not pass for its faults: there are others than its trial expects; "" if there are as many."""
    many, expected = sum(run.trace.fault_counts().values()), run.trial.faults
    if many == expected:
        return ""
    return f"there {'was' if many == 1 else 'were'} {many or 'no'} fault{_s(many)}; the trial expects {expected or 'none'}"


def failed_for_good(run: Run, followed: Followed) -> Verdict | None:
    """Return an expectation that a run which is not at its end has failed already, whatever comes; None if there is none."""
    early = [e for e in run.trial.expectations if not e.at_end_only]
    for verdict in judge(run, followed, early):
        if verdict.outcome == "failed" and verdict.expectation.stays_failed(verdict.tick, run.done):
            return verdict
    return None


def tally(verdicts: Sequence[Verdict]) -> dict[Outcome, int]:
    """Return how many expectations came out each way."""
    counts: dict[Outcome, int] = {"held": 0, "failed": 0, "could not be judged": 0}
    for verdict in verdicts:
        counts[verdict.outcome] += 1
    return counts


def all_as_meant(trial: Trial, verdicts: Sequence[Verdict]) -> bool:
    """Return whether a trial passes by its expectations: all hold, or just so many fail as are to catch a mistake in it."""
    counts = tally(verdicts)
    return not counts["could not be judged"] and counts["failed"] == trial.fails


def as_data(verdict: Verdict) -> dict[str, object]:
    """Return a verdict for programs to read."""
    return {
        "expectation": verdict.expectation.sentence(),
        **{k: v for k, v in dataclasses.asdict(verdict).items() if k in ("outcome", "reason", "tick")},
    }


if missing := [kind.__name__ for kind in KINDS if kind not in JUDGES]:
    raise TypeError(f"nothing judges these expectations: {missing}")
