"""Settings of own behaviours are numbers that can be tried, as each kind has them."""

from __future__ import annotations

import pytest

from building import EVERY_TICK, c, kind, level, rule, things
from gatillo.inspect.sweep.targets import SweepError, find_target, targets
from gatillo.level.model import OwnBehaviour, OwnSetting, OwnUse, Section
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def yard():
    drift = rule("drift", when=EVERY_TICK, do=c("move_by", who="self", dx="self.speed * dt", dy="0"), id=1)
    settings = (OwnSetting(name="speed", value=40.0), OwnSetting(name="mood", value="calm"))
    return level(
        Section(name="flutters", rules=(drift,), own=OwnBehaviour(settings=settings)),
        kinds=(
            kind("Moth", own=(OwnUse(use="flutters"),)),
            kind("Bee", own=(OwnUse(use="flutters", values={"speed": 90.0}),)),
        ),
        objects=(*things("Moth", (0, 0)), *things("Bee", (0, 9), first=5)),
    )


def test_each_kind_has_its_own_number_to_try():
    found = {t.name: t.text for t in targets(yard()) if "flutters." in t.name}
    assert found == {"Moth flutters.speed": "40", "Bee flutters.speed": "90"}


def test_what_is_put_in_is_that_kind_s_alone():
    tried = find_target(yard(), "moth flutters.speed").put(yard(), "7")
    run = Run(Program(tried), tried.trials[0])
    run.advance(None)
    assert run.world.x.round(6).tolist() == [7, 90]
    with pytest.raises(SweepError, match="is not a number"):
        find_target(yard(), "Moth flutters.speed").put(yard(), "fast")
