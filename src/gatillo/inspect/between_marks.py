"""What could be expected of two firings of a run: that one comes before the other, how soon, or how often in between."""

from __future__ import annotations

import math

from gatillo.inspect.expectations import judge, times_fired
from gatillo.level.expectations import Expectation, FiresBefore, FiresInOrder, FiresTimes
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Firing, Way

TENTH = 10
"""How soon one comes after another is rounded up to a tenth of a second."""


def expected_of(run: Run, one: Firing, other: Firing) -> list[Expectation]:
    """Return what two firings of a run say that could be expected of its trial; only what holds in the run.

    Of two rules: which fires before which, with how soon, and in one tick. Of one rule: how often from one to the other.
    """
    first, then = sorted((one, other), key=lambda f: (f.tick, f.position))
    rules = run.program.rules
    before, after = rules[first.rule_index].source.name, rules[then.rule_index].source.name
    rate = run.program.rate
    found: list[Expectation] = []
    if before == after:
        start, end = first.tick / rate, then.tick / rate
        many = sum(
            f.rule_index == first.rule_index and f.way is Way.DO and first.tick <= f.tick <= then.tick
            for f in run.trace.firings()
        )
        found.append(FiresTimes(rule=before, times=many, start=start, end=end))
        found.append(FiresTimes(rule=before, times=times_fired(run, first.rule_index)))
    else:
        within = math.ceil((then.tick - first.tick) / rate * TENTH - 1e-9) / TENTH
        found += [
            FiresBefore(first=before, then=after),
            FiresBefore(first=before, then=after, every=True),
            FiresBefore(first=before, then=after, every=True, within=within),
        ]
        if first.tick == then.tick:
            found.append(FiresInOrder(rules=(before, after), same_tick=True))
    verdicts = judge(run, {}, found)
    return [v.expectation for v in verdicts if v.outcome == "held"]
