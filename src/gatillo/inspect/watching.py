"""Formulas followed over a run: for watches, and for expectations about values."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.level.expectations import HoldsAt
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import ONE_MATCH, Matches, TooManyMatches, View, join_role
from gatillo.sim.matching.one_value import NO_ANSWER
from gatillo.sim.rules import lines_alone
from gatillo.sim.rules.lines_alone import formula_alone, rows_alone
from gatillo.sim.run.run import Run
from gatillo.sim.world.input_script import tick_at
from gatillo.sim.world.world import World


class Unanswered:
    """Stands where a formula had no answer: it faulted, or speaks of objects that are not there."""

    def __init__(self, reason: str) -> None:
        self.reason = reason

    def __repr__(self) -> str:
        return f"Unanswered({self.reason!r})"


def value_in(world: World, formula: Formula, index: Index | None = None) -> Any:
    """Return the formula's value in a world: one value; for yes/no over several objects, whether all say yes.

    A number or text over several objects is that of the oldest. Unanswered if there is none.
    """
    with np.errstate(all="ignore"):
        return _value(world, formula, index or world.program.index)


def _value(world: World, formula: Formula, index: Index) -> Any:
    """Like `value_in`, called with NumPy's warnings off."""
    table: Matches = ONE_MATCH
    try:
        for role in formula.roles:
            table = join_role(world, table, index.role_tokens[role])
    except TooManyMatches as error:
        return Unanswered(str(error))
    if not table.n:
        return Unanswered(
            f"there is no {' and '.join(index.role_tokens[r].text for r in formula.roles)} then"
        )
    view = View(world, table, 0)
    value = formula.evaluate(view)
    if view.faults:
        return Unanswered(view.faults[0][1])
    many = isinstance(value, np.ndarray) and value.ndim > 0
    if formula.type == "yes/no":
        return bool(value.all() if many else value)
    first = value[0] if many else value
    return first.item() if isinstance(first, np.generic | np.ndarray) else first


def _of_one(world: World, formula: Formula, alone: Callable[[World, dict[str, int]], Any]) -> Any:
    """Return the value of a formula about one object a role, or about none; None where it has to be worked out otherwise."""
    rows = rows_alone(world, formula.roles, ONE_MATCH)
    if rows is None:
        return None
    try:
        value = alone(world, rows)
    except NO_ANSWER:
        return None
    return bool(value) if formula.type == "yes/no" else value


def asked_at(run: Run) -> dict[int, list[tuple[str, Formula]]]:
    """Return what a run's trial expects at single times: by tick, the formulas with their texts. What is wrong is left out."""
    found: dict[int, list[tuple[str, Formula]]] = {}
    for expectation in run.trial.expectations:
        if isinstance(expectation, HoldsAt) and expectation.when == "at":
            tick = tick_at(expectation.time, run.program.rate) if expectation.time > 0 else 0
            try:
                formula = compile_formula(run.program.index, expectation.formula, "yes/no")
            except FormulaError:
                # reported when it is judged
                continue
            found.setdefault(tick, []).append((expectation.formula, formula))
    return found


class Following:
    """Formulas followed while a run is run on: `values` holds of each its value at tick 0 and at the end of every tick since.

    What the trial expects at a single time is noted in the run when it comes there.
    """

    def __init__(
        self,
        run: Run,
        formulas: Sequence[Formula],
        known: Mapping[str, list[Any]] | None = None,
        texts: Sequence[str] = (),
    ) -> None:
        """Follow formulas from where a run is. Past its start, `known` has their values up to there, by their `texts`."""
        self.run = run
        self.formulas = formulas
        self.values: list[list[Any]] = (
            [list((known or {})[text][: run.done + 1]) for text in texts]
            if run.done
            else [[value_in(run.world, f)] for f in formulas]
        )
        self._asked = asked_at(run)
        for text, formula in self._asked.get(0, ()) if not run.done else ():
            run.noted[0, text] = value_in(run.world, formula)
        self._alone = [formula_alone(run.program.index, f) for f in formulas]
        if formulas or self._asked:
            run.after_tick = self._note

    def _note(self, world: World) -> None:
        for text, formula in self._asked.get(world.tick, ()):
            self.run.noted[world.tick, text] = value_in(world, formula)
        with np.errstate(all="ignore"):
            for formula, alone, column in zip(self.formulas, self._alone, self.values, strict=True):
                found = _of_one(world, formula, alone) if alone is not None and lines_alone.ALONE else None
                column.append(_value(world, formula, world.program.index) if found is None else found)

    def end(self) -> list[list[Any]]:
        """Follow no longer; gives the values."""
        self.run.after_tick = None
        return self.values


def follow(
    run: Run, formulas: Sequence[Formula], stop: Callable[[], bool] = lambda: False
) -> list[list[Any]]:
    """Return each formula's value at the end of every tick of a run, ticks 0 to the last, by running it once more.

    `stop` is asked between ticks and ends the call early when it answers yes.
    """
    if not formulas:
        return []
    again = Run(run.program, run.trial, record=False)
    again.script = run.script
    values: list[list[Any]] = [[value_in(again.world, f)] for f in formulas]
    for _ in range(run.done):
        again.advance(1, stop)
        if again.done < len(values[0]):
            break
        for formula, column in zip(formulas, values, strict=True):
            column.append(value_in(again.world, formula))
    return values
