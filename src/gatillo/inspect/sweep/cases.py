"""The runs that trying values makes: each combination of the values, with each seed."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

from gatillo.inspect.sweep.targets import SweepError, Target, find_target
from gatillo.level.model import Level

MOST_CASES = 2_000
_RANGE = re.compile(
    r"\s*(?P<first>-?\d+(?:\.\d+)?)\s*\.\.\s*(?P<last>-?\d+(?:\.\d+)?)(?:\s+step\s+(?P<step>\d+(?:\.\d+)?))?\s*",
    re.IGNORECASE,
)
_FULL_SPAN = 1e-9


@dataclass(frozen=True, slots=True)
class Case:
    """One run to make: a text for each target, and which seed after the trial's, from 0."""

    texts: tuple[str, ...]
    seed: int = 0


@dataclass(frozen=True, slots=True)
class Sweep:
    """What is tried: some numbers with their values, over some seeds."""

    targets: tuple[Target, ...]
    values: tuple[tuple[str, ...], ...]
    """By target: the texts to try."""
    seeds: int = 1

    @property
    def cases(self) -> list[Case]:
        """Every combination of the values, the last target's fastest, each with every seed."""
        return [Case(texts, seed) for texts in product(*self.values) for seed in range(self.seeds)]

    def level(self, level: Level, case: Case) -> Level:
        """Return a level with the values of a case. Raises SweepError for a value that cannot be put in."""
        for target, text in zip(self.targets, case.texts, strict=True):
            level = target.put(level, text)
        return level


def values_of(text: str) -> tuple[str, ...]:
    """Return the values that a text lists: “20, 40, 80”, or a range “3..9 step 2”. Raises SweepError for a text without any."""
    found = _RANGE.fullmatch(text)
    if found is None:
        listed = tuple(dict.fromkeys(part.strip() for part in _parted(text) if part.strip()))
        if not listed:
            raise SweepError("give values to try, such as “20, 40, 80” or “3..9 step 2”")
        return listed
    first, last, step = float(found["first"]), float(found["last"]), float(found["step"] or 1)
    if step <= 0:
        raise SweepError(f"the step of “{text}” must be above 0")
    many = int(abs(last - first) / step + _FULL_SPAN) + 1
    if many > MOST_CASES:
        raise SweepError(f"“{text}” are {many:,} values; at most {MOST_CASES:,} can be tried")
    way = step if last >= first else -step
    return tuple(f"{first + way * n:.10g}" for n in range(many))


def _parted(text: str) -> list[str]:
    """Return the parts of a text between commas that stand in no brackets."""
    parts, depth = [""], 0
    for letter in text:
        depth += (letter in "([") - (letter in ")]")
        if letter == "," and depth <= 0:
            parts.append("")
        else:
            parts[-1] += letter
    return parts


def sweep_of(level: Level, settings: Sequence[str], seeds: int = 1) -> Sweep:
    """Return what “NAME=VALUES” settings try in a level. Raises SweepError for an unknown name, bad values or too many runs."""
    found: list[tuple[Target, tuple[str, ...]]] = []
    for setting in settings:
        name, equals, values = setting.partition("=")
        if not equals:
            raise SweepError(f"“{setting}” says no values; write “NAME=20,40,80” or “NAME=3..9 step 2”")
        target = find_target(level, name)
        if any(target.name == other.name for other, _ in found):
            raise SweepError(f"“{target.name}” is set twice")
        found.append((target, values_of(values)))
    if not found and seeds < 2:
        raise SweepError("say what to try, such as --set “level.wanted=3..9 step 2”, or several seeds")
    sweep = Sweep(tuple(t for t, _ in found), tuple(v for _, v in found), max(1, seeds))
    many = sweep.seeds
    for values_ in sweep.values:
        many *= len(values_)
    if many > MOST_CASES:
        raise SweepError(f"these are {many:,} runs; at most {MOST_CASES:,} can be made at once")
    return sweep
