"""Going on with other numbers: from the next tick on, and only where nothing but numbers differs."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from building import c, kind, level, rule, things
from gatillo.level import edits
from gatillo.level.model import OwnBehaviour, OwnSetting, OwnUse, Section
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.run.tuning import differ_in_numbers_alone, tuned


def yard(amount="1", speed="60", pods=0.0, fuel=50.0, more=()):
    return level(
        rule("Count", when=c("every_tick"), do=c("add_to", amount=amount, variable="level.n"), id=1),
        rule(
            "Make",
            when=c("after_start", time="0.1"),
            do=c("create", count="1", kind="Moth", where="gate"),
            id=2,
        ),
        *more,
        kinds=(kind("Moth", 5, has={"fuel": fuel}, behaviours=(c("spin", speed=speed),)),),
        objects=things("Moth", (10, 10), (50, 10)),
        places=(edits_spot(),),
        has={"n": 0.0, "pods": pods},
        seconds=5,
    )


def edits_spot():
    from gatillo.level.model import Spot

    return Spot(name="gate", x=1, y=2)


def run_of(made, ticks):
    program = Program(made)
    run = Run(program, made.trials[0])
    run.advance(ticks)
    return run


def test_a_slot_acts_from_the_next_tick_on():
    run = run_of(yard(), 30)
    other = tuned(run, Program(yard(amount="10")))
    assert other is not None and other.done == 30
    other.advance(2)
    assert other.world.level["n"] == 30 + 20
    assert run.done == 30 and run.world.level["n"] == 30, "the other run is only looked at"


def test_a_behaviours_setting_acts_on_all_objects_of_the_kind():
    run = run_of(yard(), 30)
    angles = run.world.angle.copy()
    other = tuned(run, Program(yard(speed="600")))
    other.advance(1)
    turned = (other.world.angle - angles) % 360
    assert len(turned) == 3, "the one that was created turns too"
    assert np.allclose(turned, 10.0)


def with_own(speed=40.0, of_kind=None, of_one=None):
    """Moths that have an own behaviour: its setting, the kind's and one object's value of it."""
    flutters = Section(
        name="flutters",
        rules=(rule("Flutter", do=c("add_to", variable="self.x", amount="self.speed * dt"), id=9),),
        own=OwnBehaviour(settings=(OwnSetting(name="speed", value=speed),)),
    )
    made = yard(more=(flutters,))
    use = OwnUse(use="flutters", values={} if of_kind is None else {"speed": of_kind})
    objects = made.objects
    if of_one is not None:
        objects = (replace(objects[0], settings={"flutters: speed": of_one}), *objects[1:])
    return replace(made, kinds=(replace(made.kinds[0], own=(use,)),), objects=objects)


@pytest.mark.parametrize(
    ("was", "now"),
    [
        (with_own(), with_own(speed=400.0)),
        (with_own(of_kind=60.0), with_own(of_kind=400.0)),
        (with_own(), with_own(of_kind=400.0)),
    ],
)
def test_a_setting_of_an_own_behaviour_acts_from_the_next_tick_on_also_on_what_was_created(was, now):
    run = run_of(was, 30)
    assert len(run.world.id) == 3
    x = run.world.x.copy()
    other = tuned(run, Program(now))
    other.advance(1)
    assert other.world.x - x == pytest.approx([400 / 60] * 3)


def test_an_object_with_a_value_of_its_own_keeps_it_when_the_kinds_is_tuned():
    run = run_of(with_own(of_one=10.0), 30)
    x = run.world.x.copy()
    other = tuned(run, Program(with_own(speed=400.0, of_one=10.0)))
    other.advance(1)
    assert other.world.x - x == pytest.approx([10 / 60, 400 / 60, 400 / 60])


def test_what_a_variable_starts_with_is_its_value_from_now_on():
    run = run_of(yard(), 30)
    other = tuned(run, Program(yard(pods=7.0, fuel=20.0)))
    assert other.world.level["pods"] == 7.0 and other.world.level["n"] == 30
    name = next(key for key in other.world.variables if key.startswith("fuel"))
    assert other.world.variables[name].tolist() == [20.0, 20.0, 20.0]


def test_without_a_difference_it_is_the_run_itself_to_the_bit():
    run = run_of(yard(), 30)
    other = tuned(run, Program(yard()))
    whole = run_of(yard(), 90)
    other.advance(60)
    assert other.world.state_bytes() == whole.world.state_bytes()
    assert other.trace.to_bytes() == whole.trace.to_bytes()


@pytest.mark.parametrize(
    "change",
    [
        lambda made: replace(made, objects=made.objects[:1]),
        lambda made: replace(made, settings=replace(made.settings, rate=30)),
        lambda made: replace(made, order=made.order[:1]),
        lambda made: edits.switch_rule(made, 1, False),
        lambda made: replace(made, kinds=(replace(made.kinds[0], behaviours=()),)),
        lambda made: replace(
            made,
            order=(replace(made.order[0], do=(*made.order[0].do, c("stop", who="Moth"))), *made.order[1:]),
        ),
    ],
)
def test_another_object_rule_or_behaviour_is_more_than_a_number(change):
    made = yard()
    assert differ_in_numbers_alone(made, yard(amount="2"))
    assert not differ_in_numbers_alone(made, change(made))
    assert tuned(run_of(made, 10), Program(change(made))) is None


def test_a_slot_that_brings_in_another_message_is_made_anew():
    sends = rule("Send", when=c("after_start", time="1"), do=c("send_message", message="bang"), id=3)
    other = rule("Send", when=c("after_start", time="1"), do=c("send_message", message="boom"), id=3)
    assert tuned(run_of(yard(more=(sends,)), 10), Program(yard(more=(other,)))) is None
