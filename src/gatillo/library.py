"""Gatillo for programs: read a level, run its trials, step through them, ask for values, verdicts and findings.

    import gatillo

    level = gatillo.read_level(Path("garden.gatillo"))
    run = gatillo.run(level)
    print(run.passed(), [f.rule for f in run.firings()])

Nothing here needs a window. docs/library.md has more examples; the tests run them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from gatillo.files.exports import write_trace
from gatillo.files.level_file import LevelFileError, read_level, write_level
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.created_names import with_created
from gatillo.inspect.expectations import Verdict, all_as_meant, faults_amiss, judge
from gatillo.inspect.finding import Finding
from gatillo.inspect.findings import findings
from gatillo.inspect.level_difference import Difference, level_differences
from gatillo.inspect.merging.levels import merge
from gatillo.inspect.reasons.asking import named_object, named_rule
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.inspect.watching import Unanswered, value_in
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import WAY_WORDS

__all__ = [
    "Difference",
    "Finding",
    "FiredRule",
    "FormulaError",
    "Level",
    "LevelFileError",
    "Placed",
    "Reason",
    "Simulation",
    "Unanswered",
    "Verdict",
    "differences",
    "findings",
    "merge",
    "read_level",
    "run",
    "start",
    "write_level",
]


@dataclass(frozen=True, slots=True)
class FiredRule:
    """One firing of a rule."""

    tick: int
    """From 1."""
    seconds: float
    """Time since the level started, at the end of the tick."""
    place: int
    """Its place among the firings of the tick, from 1."""
    rule: str
    matches: int
    """For how many matches it fired."""
    way: str
    """`do`, `else`, or `resumed` when it went on after a wait."""


@dataclass(frozen=True, slots=True)
class Placed:
    """An object at a moment: x to the right and y up in level units, facing in degrees counter-clockwise from the right."""

    name: str
    kind: str
    x: float
    y: float
    facing: float


class Simulation:
    """A trial of a level, as far as it has been run. `start` and `run` make one.

    Ticks count from 1; tick 0 is the level as laid out. Methods that take a tick look at its end.
    """

    def __init__(self, level: Level, trial: Trial) -> None:
        self._run = Run(Program(as_tried(level, trial)), trial)
        self._explained: tuple[int, Explainer] | None = None

    @property
    def run(self) -> Run:
        """The run itself, as the simulation keeps it; its names may change from one version to the next."""
        return self._run

    def take(self, run: Run) -> None:
        """Go on with another run of the same level and trial."""
        self._run, self._explained = run, None

    @property
    def tick(self) -> int:
        """The last tick that has been run; 0 before the first."""
        return self._run.done

    @property
    def seconds(self) -> float:
        """Seconds since the level started."""
        return self._run.done / self.rate

    @property
    def rate(self) -> int:
        """Ticks a second."""
        return self._run.program.rate

    @property
    def length(self) -> int:
        """How many ticks the trial has. A rule that ends the trial makes it shorter."""
        return self._run.length

    def step(self, ticks: int = 1) -> int:
        """Run some ticks, at most to the trial's end. Return how many were run."""
        return self._run.advance(min(ticks, self._run.length - self._run.done))

    def finish(self) -> Simulation:
        """Run to the trial's end. Return the simulation itself."""
        self._run.advance()
        return self

    def firings(self, tick: int | None = None) -> list[FiredRule]:
        """Return what has fired, in order; with `tick`, in that tick only."""
        trace, rules = self._run.trace, self._run.program.rules
        found = trace.firings() if tick is None else trace.firings_at(tick)
        return [
            FiredRule(
                f.tick,
                f.tick / self.rate,
                f.position,
                rules[f.rule_index].source.name,
                f.matches,
                WAY_WORDS[f.way],
            )
            for f in found
        ]

    def faults(self) -> list[str]:
        """Return what went wrong while running, a sentence each time that it did."""
        return [fault.sentence for fault in self._run.trace.faults]

    def problems(self) -> list[str]:
        """Return why rules cannot run at all, in sentences."""
        return [problem.sentence() for problem in self._run.program.problems]

    def value(self, formula: str, tick: int | None = None) -> Any:
        """Return a formula's value at the end of a tick, the last if none is given.

        An object that a rule has created is named as `objects` names it, with `_` for spaces: `Crew_+2.x`.
        A formula about a kind gives the value for its oldest object; one that is yes or no, whether it is yes for all.
        A formula without an answer gives `Unanswered`, with the reason.

        Raises FormulaError if the formula cannot be read, ValueError if the tick has not been run.
        """
        readable, index = with_created(self._run, formula)
        return value_in(self._world(tick), compile_formula(index, readable), index)

    def objects(self, tick: int | None = None) -> list[Placed]:
        """Return all objects at the end of a tick, oldest first. Raises ValueError if the tick has not been run."""
        world = self._world(tick)
        rows = world.alive.nonzero()[0]
        facing = world.values_of(rows, "facing")
        return [
            Placed(
                world.name_of(world.id.item(row)),
                world.program.kinds[world.kind.item(row)].name,
                world.x.item(row),
                world.y.item(row),
                float(facing[at]),
            )
            for at, row in enumerate(rows.tolist())
        ]

    def verdicts(self) -> list[Verdict]:
        """Return for each expectation of the trial whether it held so far, failed, or could not be judged, and why."""
        return judge(self._run)

    def passed(self) -> bool:
        """Return whether every rule can run, every expectation held, and no fault came that the trial does not expect.

        A trial that shows a mistake says how many expectations fail: it passes if just so many do.
        """
        held = all_as_meant(self._run.trial, self.verdicts())
        return held and not self._run.program.problems and not faults_amiss(self._run)

    def why(self, rule: str, tick: int | None = None, about: str | Sequence[str] = ()) -> Reason:
        """Return why a rule or graph fired in a tick, with its causes to any depth; without a tick, why it fired first.

        With `about`, the name of an object or several of them, for a match of all of these.

        Raises KeyError if there is no such rule or object, ValueError if it did not fire.
        """
        compiled, wanted = named_rule(self._run, rule), self._ids(about)
        when = f"in tick {tick}" if tick is not None else "so far"
        trace = self._run.trace
        fired = [
            f
            for f in (trace.firings() if tick is None else trace.firings_at(tick))
            if f.rule_index == compiled.index
        ]
        if not fired:
            raise ValueError(
                f"“{rule}” did not fire {when}; ask why_not, or look at firings() for when it did"
            )
        for firing in fired:
            reason = self._explainer.fired(firing.tick, firing.position, next(iter(wanted), None))
            seen = (
                self._explainer.turn_seen(firing.tick, compiled).firing(firing.position) if wanted else None
            )
            takes_part = seen is not None and len(seen.after.about(frozenset(wanted)))
            if takes_part or set(wanted) <= set(reason.ids):
                return reason
        raise ValueError(f"“{rule}” fired {when}, but not for {' and '.join(_names(about))}")

    def _ids(self, about: str | Sequence[str]) -> tuple[int, ...]:
        return tuple(named_object(self._run, name) for name in _names(about))

    def why_not(self, rule: str, tick: int | None = None, about: str | Sequence[str] = ()) -> Reason:
        """Return why a rule or graph did not fire in a tick; without a tick, why it never fired in the whole run.

        With `about`, the name of an object or several of them, for a match of all of these.

        Raises KeyError if there is no such rule or object, ValueError if the tick has not been run.
        """
        compiled, why_not = named_rule(self._run, rule), WhyNot(self._explainer)
        if tick is None:
            return why_never(why_not, compiled)
        return why_not.at(compiled, tick, self._ids(about))

    def why_value(self, formula: str, tick: int | None = None) -> Reason:
        """Return why a formula has its value at the end of a tick, the last if none is given: which rules wrote what it reads.

        Raises FormulaError if the formula cannot be read, ValueError if the tick has not been run.
        """
        return self._explainer.value(formula, self._run.done if tick is None else tick)

    def why_there(self, about: str, tick: int | None = None) -> Reason:
        """Return why an object is in the level at a tick or is not: what created or removed it. Raises KeyError."""
        return self._explainer.there(named_object(self._run, about), tick)

    def why_touching(self, one: str, other: str, tick: int | None = None) -> Reason:
        """Return why two objects touch at the end of a tick, or how far apart they are, and what moved each. Raises KeyError."""
        run = self._run
        return self._explainer.touching(
            named_object(run, one), named_object(run, other), run.done if tick is None else tick
        )

    def why_prompt(self, about: str, tick: int | None = None) -> Reason:
        """Return why the prompt on an object is offered at the end of a tick, and to what, or is not. Raises KeyError."""
        return self._explainer.prompt(
            named_object(self._run, about), self._run.done if tick is None else tick
        )

    def why_heard(self, message: str, tick: int) -> list[Reason]:
        """Return what sent the message that is heard in a tick, a reason for each sender."""
        return self._explainer.message(message, tick)

    def caused(self, rule: str, tick: int) -> Reason:
        """Return what a rule's firing in a tick led to. Raises KeyError and ValueError as `why` does."""
        why = self.why(rule, tick)
        return caused(self._explainer, tick, why.position)

    @property
    def _explainer(self) -> Explainer:
        # what was noted of a run is of the ticks that it had then
        if self._explained is None or self._explained[0] != self._run.done:
            self._explained = self._run.done, Explainer(self._run)
        return self._explained[1]

    def write_trace(self, path: Path) -> None:
        """Write the firings to a file: JSON Lines, CSV or VCD, by the ending of its name. Raises ValueError, OSError."""
        write_trace(self._run, path)

    def digest(self) -> str:
        """Return 16 hexadecimal digits that stand for all firings: equal runs have equal digests."""
        return self._run.trace.digest()

    def _world(self, tick: int | None) -> Any:
        return self._run.world_at(self._run.end_of(self._run.done) if tick is None else self._end_of(tick))

    def _end_of(self, tick: int) -> Any:
        if not 0 <= tick <= self._run.done:
            raise ValueError(f"tick {tick} has not been run; the run is at tick {self._run.done}")
        return self._run.end_of(tick)


def _names(about: str | Sequence[str]) -> Sequence[str]:
    return (about,) if isinstance(about, str) else about


def start(
    level: Level, trial: str | None = None, *, rate: int | None = None, seed: int | None = None
) -> Simulation:
    """Return a trial of a level before its first tick, to be run step by step.

    Parameters
    ----------
    level
        A level, as `read_level` returns it.
    trial
        The name of a trial of the level. Without it, the first.
    rate
        Ticks a second, in the place of the level's own.
    seed
        Seed of all random draws, in the place of the trial's own.

    Raises
    ------
    KeyError
        If the level has no trial of that name.

    See Also
    --------
    run : a trial run to its end.

    Examples
    --------
    >>> import gatillo
    >>> from gatillo.examples import study_path
    >>> level = gatillo.read_level(study_path("01-seed-pods.gatillo"))
    >>> simulation = gatillo.start(level)
    >>> simulation.step(60)
    60
    >>> simulation.value("Gardener.x")
    152.0

    """
    chosen = next((t for t in level.trials if trial in (None, t.name)), None)
    if chosen is None:
        raise KeyError(trial or "the level has no trial")
    if seed is not None:
        chosen = msgspec.structs.replace(chosen, seed=seed)
    if rate is not None:
        level = msgspec.structs.replace(level, settings=msgspec.structs.replace(level.settings, rate=rate))
    return Simulation(level, chosen)


def run(
    level: Level, trial: str | None = None, *, rate: int | None = None, seed: int | None = None
) -> Simulation:
    """Run a trial of a level to its end and return it.

    Equal levels, trials, rates and seeds give equal runs.

    Parameters
    ----------
    level
        A level, as `read_level` returns it.
    trial
        The name of a trial of the level. Without it, the first.
    rate
        Ticks a second, in the place of the level's own.
    seed
        Seed of all random draws, in the place of the trial's own.

    Returns
    -------
    Simulation
        The finished run: its firings, values, verdicts, and the reasons for them.

    Raises
    ------
    KeyError
        If the level has no trial of that name.

    Notes
    -----
    A rule that cannot run does not raise: `Simulation.problems` says why, and `Simulation.passed` is False.

    See Also
    --------
    start : the same trial before its first tick.

    Examples
    --------
    >>> import gatillo
    >>> from gatillo.examples import study_path
    >>> level = gatillo.read_level(study_path("01-seed-pods.gatillo"))
    >>> run = gatillo.run(level)
    >>> run.passed()
    True
    >>> first = run.firings()[0]
    >>> first.rule, first.tick, first.matches
    ('Gather a pod', 49, 1)
    >>> print(run.why("Gather a pod").sentence)
    “Gather a pod” fired at 0.817 s, 1st of tick 49, for Gardener 1, Pod 1
    >>> run.value("level.pods", tick=49), run.value("level.pods")
    (1.0, 16.0)

    """
    return start(level, trial, rate=rate, seed=seed).finish()


def differences(before: Level, after: Level) -> list[Difference]:
    """Return what differs between two levels, by what it concerns; an empty list if they are equal.

    Each has `about`, what it concerns; `sort`, such as “added” or “moved”; `words`; and `sentence()`, all in one line.

    >>> from gatillo.examples import study_path
    >>> from msgspec.structs import replace
    >>> level = read_level(study_path("01-seed-pods.gatillo"))
    >>> [one.sentence() for one in differences(level, replace(level, name="Pods"))]
    ['the level: name: “Seed pods” → “Pods”']
    """
    return level_differences(before, after)
