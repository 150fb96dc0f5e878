"""Expecting what happened: what the trial just did, or where an object just stands, must hold from now on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gatillo.catalogue.sentence import expectation_sentence
from gatillo.inspect.expectations import times_fired
from gatillo.level import thing_edits
from gatillo.level.model import Expectation, FiresTimes, HoldsAt
from gatillo.level.naming import token

if TYPE_CHECKING:
    from gatillo.desk.window.main_window import MainWindow

NEAR = 1
"""How many units off its place an object may be and still be where it is expected."""


class ExpectDeeds:
    """What the Checks menu does with what is selected."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.bench = window.bench

    def as_now(self) -> None:
        """Expect that the selected rule fires as often as it did, or the selected objects to stand where they do."""
        bench, window = self.bench, self.window
        if not bench.level.trials:
            window.tell("There is no trial yet; make one under Level first.")
            return
        wanted = self._of_rule() or self._of_objects()
        new = [e for e in wanted if e not in bench.trial.expectations]
        if not wanted:
            window.tell(
                "Choose a rule or an object first; what it does in this trial is then expected of it."
            )
            return
        if not new:
            window.tell(f"That is expected already: {expectation_sentence(wanted[0])}.")
            return
        level = bench.level
        for expectation in new:
            level = thing_edits.add_expectation(level, bench.trial.name, expectation)
        words = expectation_sentence(new[0])
        more = f", and {len(new) - 1} more" if len(new) > 1 else ""
        bench.edit(level, f"expect that {words}{more}")
        window.tell(f"Expected from now on: {words}{more}.")

    def _of_rule(self) -> list[Expectation]:
        bench = self.bench
        turn = next((t for t in bench.run.program.turns if t.rule.id == bench.selection.rule), None)
        if turn is None:
            return []
        return [FiresTimes(rule=turn.rule.name, times=times_fired(bench.run, turn.position))]

    def _of_objects(self) -> list[Expectation]:
        bench = self.bench
        world, time = bench.world, bench.cursor.tick / bench.program.rate
        found: list[Expectation] = []
        for made in bench.level.objects:
            row = world.row_of_id(made.id)
            if made.id not in bench.selection.objects or row < 0:
                continue
            name, x, y = token(made.name), round(float(world.x[row])), round(float(world.y[row]))
            formula = f"abs({name}.x - {x}) <= {NEAR} and abs({name}.y - {y}) <= {NEAR}"
            formula = formula.replace("- -", "+ ")
            found.append(HoldsAt(formula=formula, when="at", time=round(time, 3)))
        return found
