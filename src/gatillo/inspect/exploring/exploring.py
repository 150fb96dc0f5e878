"""Looking for input that breaks an expectation, ends in a fault, or leaves the level stuck.

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
from gatillo.inspect.exploring.scripts import Pieces, input_of, pieces_of, shifted, smallest, varied
from gatillo.inspect.watching import Following
from gatillo.inspect.work_queue import Crew, WorkQueue
from gatillo.level.edits import as_tried
from gatillo.level.expectations import FiresTimes
from gatillo.level.model import Input, Level, Trial
from gatillo.level.naming import free_name
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

ROUND = 8
"""So many scripts are made before what the first of them reached is looked at, however many processes run them."""
STUCK = "nothing can fire any more"
CONTINUATIONS, PRESSES = 6, 12
"""So many scripts of so many pieces are tried after one, to see whether anything can still fire."""
LOOK_AFTER = 15
"""Ticks between two looks at whether anything has fired."""
ALONE = Crew()
LOOKS = 6
"""Into how many parts a run is divided, after each of which it may be broken already."""


@dataclass(frozen=True, slots=True)
class Broken:
    """What input broke."""

    sort: Literal["expectation", "fault", "stuck"]
    what: str
    """The sentence of the expectation, or of the fault, or that the level is stuck."""
    words: str
    """How it came about: the verdict, the fault, or what is still awaited."""
    awaited: tuple[str, ...] = ()
    """Where the level is stuck: the rules that fire in the trial, and have not fired."""


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
        self._runner = Runner(self.program, self.trial, self.heard)

    def explore(self, stop: Callable[[], bool], most: int | None = None, crew: Crew = ALONE) -> Exploration:
        """Try scripts until one breaks something, `stop` answers yes, or so many runs are made.

        However large the crew, the same scripts are tried in the same order.
        """
        own = pieces_of(self.trial.input)
        with WorkQueue(_one, _begin, (self.program.level, self.trial, self.heard), crew) as queue:
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
        wants_stuck = broken.sort == "stuck"

        def still(some: Pieces) -> bool:
            found = self._runner.broken(some, stuck=wants_stuck)
            return found is not None and (found.sort, found.what) == (broken.sort, broken.what)

        small = smallest(script, still)
        last = self._runner.broken(small, stuck=broken.sort == "stuck") or broken
        return Exploration(tries, kept, Discovery(input_of(small), last, tries, len(script)))

    def _take(self, script: Pieces, signature: set[object], broken: Broken | None) -> Broken | None:
        """Keep a script that reached something new; return what it broke."""
        self.tries += 1
        if broken is None and signature - self._reached:
            self._reached |= signature
            self._pool.append(script)
            broken = self._runner.stuck(script)
        return broken


class Runner:
    """Runs scripts for a trial that expects only what must hold whatever is pressed."""

    def __init__(self, program: Program, trial: Trial, heard: Listening) -> None:
        self.program, self.trial, self.heard = program, trial, heard
        self._formulas = to_follow(program, trial)
        alone = Run(program, trial)
        alone.advance()
        self._known = {sentence for *_, sentence in alone.trace.fault_counts()}
        """Faults that the trial's own input ends in already."""
        self._fired = _rules_fired(alone)
        self._after = self._continuations()

    def _continuations(self) -> list[Pieces]:
        """Return what is pressed after a script, to see whether anything can still fire; nothing if that shows nothing.

        First comes the trial's own input again. It must make something fire after the trial's length of nothing, or else the
        level is silent then by itself.
        """
        length = self.trial.length
        own = shifted(pieces_of(self.trial.input), length)
        if not self.heard.anything or not self._fires_after((), own):
            return []
        chance = Random(0)
        made = [own]
        for _ in range(CONTINUATIONS):
            pieces: Pieces = ()
            for _ in range(PRESSES):
                pieces = varied(pieces, self.heard, length, chance)
            made.append(shifted(pieces, length))
        return made

    def _fires_after(self, script: Pieces, more: Pieces) -> bool:
        """Return whether any rule fires after the trial's length, when that is pressed then; so too if the trial was ended."""
        length = self.trial.length
        run = Run(self.program, replace(self.trial, length=2 * length, input=input_of((*script, *more))))
        first = round(length * self.program.rate)
        run.advance(first)
        while run.done < run.length:
            if run.world.rules.over:
                return True
            run.advance(min(LOOK_AFTER, run.length - run.done))
            if any(
                run.trace.count_at(tick)
                for tick in range(max(first, run.done - LOOK_AFTER) + 1, run.done + 1)
            ):
                return True
        return False

    def stuck(self, script: Pieces) -> Broken | None:
        """Return whether nothing can fire any more after a script, though rules that fire in the trial have not."""
        if not self._after:
            return None
        run, _ = self.run(script)
        fired = _rules_fired(run)
        awaited = tuple(name for name in self._fired if name not in fired)
        if not awaited or any(self._fires_after(script, more) for more in self._after):
            return None
        words = f"after {self.trial.length:g} s nothing fires any more, whatever is pressed; “{awaited[0]}” is still awaited"
        return Broken("stuck", STUCK, words, awaited)

    def broken(self, script: Pieces, *, stuck: bool) -> Broken | None:
        """Return what a script breaks; with `stuck`, also whether it leaves the level stuck."""
        return self.run(script)[1] or (self.stuck(script) if stuck else None)

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


def _begin(level: Level, trial: Trial, heard: Listening) -> None:
    _MINE[:] = [Runner(Program(level), trial, heard)]


def _one(script: Pieces) -> tuple[set[object], Broken | None]:
    return _MINE[0].try_(script)


def _rules_fired(run: Run) -> dict[str, None]:
    """Return the names of the rules that fired, in the order of their first firings."""
    rules = run.program.rules
    return dict.fromkeys(rules[f.rule_index].source.name for f in run.trace.firings())


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
    """Return the level with what was found as a trial, and its name. It expects what must hold whatever is pressed.

    Where the level is stuck, the trial's own input comes again afterwards, and the first rule that is awaited must fire.
    """
    name = free_name(f"{trial.name}, explored", {one.name for one in level.trials})
    note = f"Broke: {found.broken.words}"
    made = replace(watched_trial(trial), name=name, input=found.input, faults=0, note=note)
    if found.broken.sort == "stuck":
        # what is pressed in the trial must still do something afterwards
        again = shifted(pieces_of(trial.input), trial.length)
        wanted = tuple(FiresTimes(rule=rule, how="at least") for rule in found.broken.awaited[:1])
        made = replace(
            made,
            length=2 * trial.length,
            input=input_of((*pieces_of(found.input), *again)),
            expectations=(*made.expectations, *wanted),
        )
    return msgspec.structs.replace(level, trials=(*level.trials, made)), name
