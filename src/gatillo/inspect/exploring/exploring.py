"""Looking for input that breaks an expectation, or ends in a fault.

Scripts are varied at random. One that reaches what none before it reached is kept and varied further (coverage-guided fuzzing, as in
Zalewski's work of 2013 on fuzzing by instrumentation). What breaks something is made small.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from random import Random
from typing import Any, Literal

import msgspec
from msgspec.structs import replace

from gatillo.inspect.coverage import Reached, reached_by
from gatillo.inspect.expectations import failed_for_good, judge, to_follow
from gatillo.inspect.exploring.listening import Listening, listening
from gatillo.inspect.exploring.scripts import Pieces, input_of, pieces_of, smallest, varied
from gatillo.inspect.watching import Following
from gatillo.inspect.work_queue import Crew, WorkQueue
from gatillo.level.edits import as_tried
from gatillo.level.model import Input, Level, Trial
from gatillo.level.naming import free_name
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

ROUND = 8
"""So many scripts are made before what the first of them reached is looked at, however many processes run them."""
ALONE = Crew()
LOOKS = 6
"""Into how many parts a run is divided, after each of which it may be broken already."""


@dataclass(frozen=True, slots=True)
class Broken:
    """What input broke."""

    sort: Literal["expectation", "fault"]
    what: str
    """The sentence of the expectation, or of the fault."""
    words: str
    """How it came about: the verdict, or the fault."""


@dataclass(frozen=True, slots=True)
class Discovery:
    """Input that breaks something, made small."""

    input: Input
    broken: Broken
    tries: int
    """After how many runs it was found."""
    pieces: int
    """How many keys, pointer moves and choices it had before it was made small."""

    @property
    def presses(self) -> int:
        """How many keys, pointer moves and choices it has."""
        return len(pieces_of(self.input))


@dataclass(frozen=True, slots=True)
class Exploration:
    """What came of exploring."""

    tries: int
    """How many runs were made, without those that made the input small."""
    kept: int
    """How many scripts reached something new."""
    found: Discovery | None = None


def watched_trial(trial: Trial) -> Trial:
    """Return a trial that expects only what must hold whatever is pressed."""
    wanted = tuple(one for one in trial.expectations if one.any_input)
    return replace(trial, expectations=wanted, fails=0)


class Explorer:
    """Tries scripts for a trial of a level, one after the other; the same seed tries the same ones."""

    def __init__(self, level: Level, trial: Trial, seed: int = 0) -> None:
        self.trial = watched_trial(trial)
        self.program = Program(as_tried(level, trial))
        self.heard: Listening = listening(self.program.level)
        self._chance = Random(seed)
        self._pool: list[Pieces] = []
        self._reached: set[object] = set()
        self.tries = 0
        """How many runs were made so far."""
        self._runner = Runner(self.program, self.trial)

    def explore(self, stop: Callable[[], bool], most: int | None = None, crew: Crew = ALONE) -> Exploration:
        """Try scripts until one breaks something, `stop` answers yes, or so many runs are made.

        However large the crew, the same scripts are tried in the same order.
        """
        own = pieces_of(self.trial.input)
        with WorkQueue(_one, _begin, (self.program.level, self.trial), crew) as queue:
            script, broken = own, self._take(own, *self._runner.try_(own))
            while broken is None and not stop() and self.heard.anything:
                room = ROUND if most is None else min(ROUND, most - self.tries)
                if room <= 0:
                    break
                scripts = [self._next() for _ in range(room)]
                for script, found in zip(scripts, queue.results(scripts, stop, ordered=True), strict=False):
                    broken = self._take(script, *found)
                    if broken is not None:
                        break
        if broken is None:
            return Exploration(self.tries, len(self._pool))
        return self._explored(script, broken)

    @property
    def kept(self) -> int:
        """How many scripts reached something new so far."""
        return len(self._pool)

    def _next(self) -> Pieces:
        parent = self._chance.choice(self._pool)
        # now and then from nothing: what is pressed so far may be in the way
        parent = () if self._chance.random() < 0.2 else parent
        return varied(parent, self.heard, self.trial.length, self._chance)

    def _explored(self, script: Pieces, broken: Broken) -> Exploration:
        tries, kept = self.tries, len(self._pool)
        small = smallest(script, lambda some: self._breaks(some) == (broken.sort, broken.what))
        last = self._runner.run(small)[1] or broken
        return Exploration(tries, kept, Discovery(input_of(small), last, tries, len(script)))

    def _breaks(self, script: Pieces) -> tuple[str, str] | None:
        broken = self._runner.run(script)[1]
        return None if broken is None else (broken.sort, broken.what)

    def _take(self, script: Pieces, signature: set[object], broken: Broken | None) -> Broken | None:
        """Keep a script that reached something new; return what it broke."""
        self.tries += 1
        if broken is None and signature - self._reached:
            self._reached |= signature
            self._pool.append(script)
        return broken


class Runner:
    """Runs scripts for a trial that expects only what must hold whatever is pressed."""

    def __init__(self, program: Program, trial: Trial) -> None:
        self.program, self.trial = program, trial
        self._formulas = to_follow(program, trial)
        alone = Run(program, trial)
        alone.advance()
        self._known = {sentence for *_, sentence in alone.trace.fault_counts()}
        """Faults that the trial's own input ends in already."""

    def try_(self, script: Pieces) -> tuple[set[object], Broken | None]:
        """Run a script; return what it reached, or what it broke."""
        run, broken = self.run(script)
        return (_signature(reached_by(run), run) if broken is None else set()), broken

    def run(self, script: Pieces) -> tuple[Run, Broken | None]:
        """Run a script to its end, or until it has broken something; return the run and what is broken."""
        run = Run(self.program, replace(self.trial, input=input_of(script)))
        following = Following(run, list(self._formulas.values()))
        broken: Broken | None = None
        while broken is None and run.done < run.length:
            run.advance(min(max(1, run.length // LOOKS), run.length - run.done))
            broken = self._broken(run, dict(zip(self._formulas, following.values, strict=True)))
        following.end()
        return run, broken

    def _broken(self, run: Run, values: dict[str, list[Any]]) -> Broken | None:
        for *_, sentence in run.trace.fault_counts():
            if sentence not in self._known and not self.trial.faults:
                return Broken("fault", sentence, sentence)
        verdict = failed_for_good(run, values)
        if verdict is None and run.done >= run.length:
            verdict = next((v for v in judge(run, values) if v.outcome == "failed"), None)
        if verdict is None:
            return None
        return Broken("expectation", verdict.expectation.sentence(), verdict.sentence())


# on all cores

_MINE: list[Runner] = []


def _begin(level: Level, trial: Trial) -> None:
    _MINE[:] = [Runner(Program(level), trial)]


def _one(script: Pieces) -> tuple[set[object], Broken | None]:
    return _MINE[0].try_(script)


def _signature(reached: Reached, run: Run) -> set[object]:
    """Return what a run reached, and roughly the numbers that it ended with, as things that can be new."""
    found: set[object] = set(reached.had)
    for number, hits in reached.hits.items():
        found.update((number, name, bool(getattr(hits, name))) for name in ("looks", "fired", "else_"))
        found.update((number, one) for one in (*hits.lines, *hits.cards, *hits.outputs))
        found.update((number, "passed", at) for at, many in hits.passed.items() if many)
        found.update((number, "failed", at) for at, many in hits.failed.items() if many)
        found.add((number, "times", hits.fired.bit_length()))
    for name, value in run.world.level.items():
        if isinstance(value, bool | str):
            found.add((name, value))
        elif isinstance(value, int | float):
            found.add((name, value > 0, int(abs(value)).bit_length()))
    return found


def kept_as_trial(level: Level, trial: Trial, found: Discovery) -> tuple[Level, str]:
    """Return the level with what was found as a trial, and its name. It expects what must hold whatever is pressed."""
    name = free_name(f"{trial.name}, explored", {one.name for one in level.trials})
    made = replace(
        watched_trial(trial), name=name, input=found.input, faults=0, note=f"Broke: {found.broken.words}"
    )
    return msgspec.structs.replace(level, trials=(*level.trials, made)), name
