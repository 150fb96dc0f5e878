"""Making expectations of what happened: what a rule did in the trial, or where an object is now."""

from __future__ import annotations

from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.inspect.between_marks import expected_of
from gatillo.inspect.expectations import times_fired
from gatillo.level import thing_edits
from gatillo.level.expectations import Expectation, FiresTimes, HoldsAt
from gatillo.level.naming import token
from gatillo.sim.run.run import Cursor

NEAR = 1
"""How many units off its place an object may be and still be where it is expected."""


class ExpectationCommands:
    """What the Checks menu does with what is selected."""

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "expect as now": self.as_now,
            "next finding": self.next_finding,
            "repair": self.repair_rule,
        }

    def as_now(self) -> None:
        """Expect that the selected rule fires as often as it did, or the selected objects to stand where they do."""
        bench = self.bench
        if not bench.level.trials:
            bench.notify("There is no trial yet; make one under Level first.")
            return
        wanted = self._of_rule() or self._of_objects()
        new = [e for e in wanted if e not in bench.trial.expectations]
        if not wanted:
            bench.notify("Select a rule or an object first; what it does in this trial is then expected.")
            return
        if not new:
            bench.notify(f"This is expected already: {wanted[0].sentence()}.")
            return
        level = bench.level
        for expectation in new:
            level = thing_edits.add_expectation(level, bench.trial.name, expectation)
        words = new[0].sentence()
        more = f", and {len(new) - 1} more" if len(new) > 1 else ""
        bench.edit(level, f"expect that {words}{more}")
        bench.notify(f"Expected from now on: {words}{more}.")

    def between(self, one: Cursor, other: Cursor) -> list[Expectation]:
        """Return what could be expected of two firings of the shown run, and is not yet."""
        bench, found = self.bench, []
        for at in (one, other):
            firings = bench.run.trace.firings_at(at.tick)
            found += [f for f in firings if f.position == at.position]
        if len(found) != 2 or not bench.level.trials:
            return []
        return [e for e in expected_of(bench.run, *found) if e not in bench.trial.expectations]

    def add(self, expectation: Expectation) -> None:
        """Let the viewed trial expect something."""
        bench, words = self.bench, expectation.sentence()
        bench.edit(
            thing_edits.add_expectation(bench.level, bench.trial.name, expectation), f"expect that {words}"
        )
        bench.notify(f"Expected from now on: {words}.")

    def next_finding(self) -> None:
        """Select the next rule that has a finding."""
        ids = [f.rule_id for f in self.bench.shown.findings if f.rule_id is not None]
        if not ids:
            self.bench.notify(
                "There are no findings."
                if not self.bench.shown.findings
                else self.bench.shown.findings[0].sentence()
            )
            return
        ids = list(dict.fromkeys(ids))
        now = self.bench.selection.rule
        after = ids[(ids.index(now) + 1) % len(ids)] if now in ids else ids[0]
        self.bench.select(Selection(rule=after))

    def repair_rule(self) -> None:
        """Do the repair of the selected rule's first finding that has one."""
        found = self.bench.shown.findings_of(self.bench.selection.rule)
        finding = next((f for f in found if f.repair is not None), None)
        if finding is None:
            self.bench.notify("This rule has no finding with a repair.")
        else:
            self.bench.repair(finding)

    def _of_rule(self) -> list[Expectation]:
        bench = self.bench
        rule = next((t for t in bench.run.program.rules if t.source.id == bench.selection.rule), None)
        if rule is None:
            return []
        return [FiresTimes(rule=rule.source.name, times=times_fired(bench.run, rule.index))]

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
