"""Running mutants against the trials of their level, and what came of each."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from random import Random
from time import monotonic, process_time
from typing import Any, Literal, get_args

from gatillo.inspect.expectations import all_as_meant, failed_for_good, faults_amiss, judge, to_follow
from gatillo.inspect.mutation.mutants import Mutant, mutants
from gatillo.inspect.mutation.offers import offer_for
from gatillo.inspect.state import differences
from gatillo.inspect.sweep.targets import SweepError
from gatillo.inspect.watching import Following
from gatillo.inspect.work_queue import Crew, WorkQueue
from gatillo.level.edits import as_tried
from gatillo.level.expectations import Expectation
from gatillo.level.model import Level, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import differs_until, first_ticks, run_on
from gatillo.sim.run.run import Run
from gatillo.sim.world.records import Sort
from gatillo.sim.world.world import World

Fate = Literal["caught", "took too long", "unnoticed", "equivalent", "cannot run"]
FATES: dict[Fate, str] = {
    "caught": "noticed: a trial does not pass",
    "took too long": "took far longer than the level as it is, and count as noticed",
    "unnoticed": "not noticed: all trials pass, though something differs",
    "equivalent": "change nothing in any trial, and do not count",
    "cannot run": "cannot run: a rule has a finding then; they do not count",
}
"""What can come of a mutant, and what that means."""
SORTS: tuple[Sort, ...] = get_args(Sort)
LOOKS = 8
"""Into how many parts a run is divided, after each of which it may have failed for good."""
MOST_MOMENTS = 60
"""At so many moments at most, one second or more from each other, the states of two runs are compared."""
TOO_LONG, AT_LEAST = 10.0, 2.0
"""How many times as long as the unchanged run a mutant's may take, and so many seconds in any case."""


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of one mutant."""

    number: int
    """Its place in the list of `mutants(level)`."""
    fate: Fate
    trial: str = ""
    """The trial that caught it, or the first in which something differed."""
    why: str = ""
    """For one that was caught: the verdict; for one that cannot run: the finding; for one unnoticed: what differed first."""
    offer: Expectation | None = None
    """For one unnoticed: an expectation of that trial that holds as the level is and fails with the change."""


@dataclass(slots=True)
class Unchanged:
    """A level and its trials' runs, to which those of mutants are held."""

    level: Level
    runs: dict[str, Run] = field(default_factory=dict)
    """By name of the trial, shortest first: its run. Trials that do not pass are not among them."""
    failing: list[str] = field(default_factory=list)
    """The names of trials that do not pass."""
    seconds: dict[str, float] = field(default_factory=dict)
    """By name of the trial: the processor time of its run."""
    moments: dict[str, dict[int, World]] = field(default_factory=dict)
    """By name of the trial: the states at which mutants are held to it, by tick, from 0 to the last."""
    findings: set[str] = field(default_factory=set)
    """What is wrong with the level itself."""


def unchanged(level: Level) -> Unchanged:
    """Run all trials of a level once, at its tick rate and with their own seeds."""
    found = Unchanged(level)
    for trial in sorted(level.trials, key=lambda t: t.length):
        begun = process_time()
        program = Program(as_tried(level, trial))
        run, formulas = Run(program, trial), to_follow(program, trial)
        following = Following(run, list(formulas.values()))
        moments = {0: run.world.clone()}
        while run.done < run.length:
            run.advance(min(max(program.rate, -(-run.length // MOST_MOMENTS)), run.length - run.done))
            moments[run.done] = run.world.clone()
        values = dict(zip(formulas, following.end(), strict=True))
        run.followed.update(values)
        found.findings.update(problem.sentence() for problem in program.problems)
        if _passes(run, values):
            found.runs[trial.name] = run
            found.moments[trial.name] = moments
            found.seconds[trial.name] = process_time() - begun
        else:
            found.failing.append(trial.name)
    return found


def _passes(run: Run, values: dict[str, list[Any]]) -> bool:
    return not faults_amiss(run) and all_as_meant(run.trial, judge(run, values))


def order_of_trial(known: Unchanged, seed: int = 0) -> list[int]:
    """Return the numbers of a level's mutants, cheapest first: those that matter latest; of equal ones in a random order by the seed."""
    every = mutants(known.level)
    ticks: dict[int, int] = {}
    for run in known.runs.values():
        first = first_ticks(run.trace.look_ticks())
        for rule in run.program.rules:
            at = first.get(rule.index, run.done if rule.graph is None else 0)
            ticks[rule.source.id] = ticks.get(rule.source.id, 0) + run.done - at
    whole = sum(run.done for run in known.runs.values())
    numbers = list(range(len(every)))
    Random(seed).shuffle(numbers)
    return sorted(numbers, key=lambda number: ticks.get(every[number].rule, whole))


def try_mutant(known: Unchanged, mutant: Mutant, number: int = 0) -> Tried:
    """Run one mutant against the trials, shortest first, until one notices it. Raises ValueError if no trial passes."""
    if not known.runs:
        raise ValueError("no trial of the level passes, so a change shows nothing")
    try:
        made = mutant.make(known.level)
    except SweepError as error:
        return Tried(number, "cannot run", why=str(error))
    differs: Tried | None = None
    for name, before in known.runs.items():
        program = Program(as_tried(made, before.trial))
        new = [p.sentence() for p in program.problems if p.sentence() not in known.findings]
        if new:
            return Tried(number, "cannot run", name, new[0])
        attempt = _Attempt(known, name, program)
        why = attempt.why_not_passed()
        if attempt.late:
            return Tried(number, "took too long", name, f"it took over {TOO_LONG:g} times as long")
        if why:
            return Tried(number, "caught", name, why)
        if differs is None or differs.offer is None:
            parted = attempt.what_parted()
            if parted:
                attempt.finish()
                offer = offer_for(before, attempt.run, attempt.parted_at)
                if differs is None or offer is not None:
                    differs = Tried(number, "unnoticed", name, parted, offer)
    return differs or Tried(number, "equivalent")


class _Attempt:
    """A mutant's run of one trial."""

    def __init__(self, known: Unchanged, name: str, program: Program) -> None:
        self.before, self.moments = known.runs[name], known.moments[name]
        self.trial: Trial = self.before.trial
        formulas = to_follow(program, self.trial)
        self.texts = list(formulas)
        self.run = run_on(self.before, program, self.trial, self.texts)
        self.following = Following(self.run, list(formulas.values()), self.before.followed, self.texts)
        self.ends = process_time() + max(AT_LEAST, TOO_LONG * known.seconds[name])
        self.until = differs_until(self.before, program)
        """After which tick the change does nothing more by itself; None where that cannot be said."""
        self.late = False
        self.parted = ""
        """Which value differs first, at the end of one of the moments that are looked at."""
        self.parted_at: int | None = None
        start = self.moments[0]
        # what a variable starts with, or a behaviour is set to, is the change itself
        first = self.run.keyframes.get(0, start)
        self.known = {(p.name, p.before, p.after) for p in differences(start, first)}

    def why_not_passed(self) -> str:
        """Run it to its end, or until it has failed for good; return why its trial does not pass, or ""."""
        run, ticks = self.run, [tick for tick in self.moments if tick > self.run.done]
        often = max(1, len(self.moments) // LOOKS)
        for count, tick in enumerate(ticks, 1):
            run.advance(tick - run.done, self._is_late)
            if self.late:
                return ""
            self._look(tick)
            if self.until is not None and tick >= self.until and self._is_again_the_same(tick):
                # from here on it goes as the unchanged run does, which passes
                return ""
            if count % often == 0 and tick < run.length and not self.trial.fails:
                verdict = failed_for_good(run, self._values())
                if verdict is not None:
                    return verdict.sentence()
        if run.done < run.length:
            # the unchanged run was ended by a rule; this one may not be
            run.advance(run.length - run.done, self._is_late)
            if self.late:
                return ""
        self.following.end()
        verdicts = judge(run, self._values())
        if amiss := faults_amiss(run):
            return amiss
        if all_as_meant(self.trial, verdicts):
            return ""
        wrong = next((v.sentence() for v in verdicts if v.outcome != "held"), "")
        return wrong or "none of its expectations fails, as they are meant to"

    def _is_again_the_same(self, tick: int) -> bool:
        """Return whether the state is that of the unchanged run, and nothing that is judged has differed so far."""
        run, before = self.run, self.before
        if any(any(differences(self.moments[tick], run.world, sort)) for sort in SORTS):
            return False
        values = self._values()
        followed = all(values[text] == before.followed[text][: tick + 1] for text in self.texts)
        noted = {key: value for key, value in before.noted.items() if key[0] <= tick}
        return followed and noted == run.noted and first_other_firing(before, run, tick) is None

    def finish(self) -> None:
        """Run it to its end, where that was not needed to judge it."""
        self.run.advance(self.run.length - self.run.done, self._is_late)

    def _is_late(self) -> bool:
        self.late = process_time() > self.ends
        return self.late

    def _values(self) -> dict[str, list[Any]]:
        return dict(zip(self.texts, self.following.values, strict=True))

    def _look(self, tick: int) -> None:
        if self.parted:
            return
        for parted in differences(self.moments[tick], self.run.world):
            if (parted.name, parted.before, parted.after) not in self.known:
                self.parted, self.parted_at = parted.sentence(), tick
                return

    def what_parted(self) -> str:
        """Return what is different first: a firing, or a value at a moment that is looked at; "" if nothing."""
        firing = first_other_firing(self.before, self.run, self.run.done)
        if firing is not None and (self.parted_at is None or firing <= self.parted_at):
            return f"the firings differ at tick {firing}"
        return self.parted


def first_other_firing(before: Run, after: Run, last: int) -> int | None:
    """Return the first tick up to `last` in which two runs do not fire alike: the same rules in order, for as many matches."""

    def fired(run: Run) -> list[tuple[int, ...]]:
        ids = [rule.source.id for rule in run.program.rules]
        tick, position, turn, matches, way = (column.tolist() for column in run.trace.columns())
        found = zip(tick, position, (ids[t] for t in turn), matches, way, strict=True)
        return [one for one in found if one[0] <= last]

    one, other = fired(before), fired(after)
    for was, now in zip(one, other, strict=False):
        if was != now:
            return min(was[0], now[0])
    longer = max(one, other, key=len)
    shorter = min(len(one), len(other))
    return longer[shorter][0] if len(longer) > shorter else None


# on all cores

ALONE = Crew()
_MINE: list[tuple[Unchanged, list[Mutant]]] = []


def _begin(level: Level) -> None:
    _MINE[:] = [(unchanged(level), mutants(level))]


def _one(number: int) -> Tried:
    known, every = _MINE[0]
    return try_mutant(known, every[number], number)


def try_mutants(
    known: Unchanged,
    numbers: Sequence[int],
    *,
    crew: Crew = ALONE,
    budget: float | None = None,
    stop: Callable[[], bool] = lambda: False,
) -> Iterator[Tried]:
    """Yield what came of each of these mutants, as they are done, until `budget` seconds are over.

    `stop` is asked now and then; when it answers yes, nothing is left running.
    """
    ends = None if budget is None else monotonic() + budget

    def over() -> bool:
        return stop() or (ends is not None and monotonic() >= ends)

    if not known.runs:
        return
    if crew.alone or len(numbers) < 2:
        every = mutants(known.level)
        for number in numbers:
            if over():
                return
            yield try_mutant(known, every[number], number)
        return
    with WorkQueue(_one, _begin, (known.level,), crew) as queue:
        yield from queue.results(numbers, over)
