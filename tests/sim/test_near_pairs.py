"""Conditions about near pairs find the same as trying every pair, and contacts do not depend on kept lists."""

from __future__ import annotations

import numpy as np
import pytest

from building import START, add, c, fired, kind, level, rule, run, things
from gatillo.sim.collision.contacts import near_pairs
from gatillo.sim.collision.proximity import nearest_rows, within_reach
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def crowd(count, side, seed=3):
    chance = np.random.default_rng(seed)
    return [(float(x), float(y)) for x, y in chance.uniform(0, side, (count, 2)).round(1)]


def crowded(*order, moths=300, lamps=200, **more):
    return level(
        *order,
        kinds=(kind("Moth", 4, has={"speed": 0.0}), kind("Lamp", 4, has={"lit": 0.0})),
        objects=(*things("Moth", *crowd(moths, 900)), *things("Lamp", *crowd(lamps, 900, 5), first=5000)),
        has={"n": 0.0},
        **more,
    )


def test_within_finds_what_every_pair_would():
    world = run(crowded(), 1).world
    a, b = world.rows_of_kind(0), world.rows_of_kind(1)
    at, rows, more = within_reach(world, a, b, 60.0, 10**6)
    away = np.hypot(world.x[a][:, None] - world.x[b], world.y[a][:, None] - world.y[b]) <= 60
    assert [at.tolist(), rows.tolist()] == [away.nonzero()[0].tolist(), b[away.nonzero()[1]].tolist()]
    assert not more


@pytest.mark.parametrize(
    "condition",
    [
        c("within", who="Moth", distance="40", where="Lamp"),
        c("in_cone", b="Moth", distance="60", angle="30", a="Lamp"),
    ],
)
def test_a_pair_condition_passes_the_same_pairs_as_its_formula(condition):
    full = {
        "within": "distance(Moth, Lamp) <= 40",
        "in_cone": "distance(Lamp, Moth) <= 60 and abs(turn(facing(Lamp), direction(Lamp, Moth))) <= 30",
    }[condition.use]
    near = run(crowded(rule("r", when=START, if_=condition, do=add("level.n"))), 1)
    every = run(crowded(rule("r", when=START, if_=c("formula_holds", formula=full), do=add("level.n"))), 1)
    assert near.world.level["n"] > 20
    pairs = [
        sorted(zip(*(seen.witness(1)[0].ids[role] for role in ("Moth", "Lamp")), strict=True))
        for seen in (near, every)
    ]
    assert pairs[0] == pairs[1]


def test_a_pair_condition_of_many_objects_stays_within_the_bound_that_all_pairs_would_break():
    near = rule(
        "r", when=START, if_=c("within", who="Moth", distance="5", where="another Moth"), do=add("level.n")
    )
    made = run(crowded(near, moths=3000), 1)
    assert made.trace.faults == []
    assert fired(made, "r")[0][1] == made.world.level["n"] > 0


def test_too_many_near_pairs_are_a_fault_that_names_the_rule():
    near = rule(
        "near",
        when=START,
        if_=c("within", who="Moth", distance="9999", where="another Moth"),
        do=add("level.n"),
    )
    (fault,) = run(crowded(near, moths=3000), 1).trace.faults
    assert "“near”" in fault.sentence
    assert "1,000,000" in fault.sentence


def test_a_touching_pair_is_brought_in_from_the_ticks_contacts():
    touch = rule("r", if_=c("is_touching", a="Moth", b="Lamp"), do=add("level.n"))
    hit = rule("hit", when=c("touches", a="Moth", b="Lamp"), do=add("level.n"))
    made = run(crowded(touch, hit), 3)
    assert fired(made, "r") == fired(made, "hit") != []


def test_contacts_found_with_kept_lists_are_those_found_without():
    moving = rule(
        "go", when=START, do=c("set_velocity", who="Moth", dx="random(-200, 200)", dy="random(-200, 200)")
    )
    jump = rule("jump", when=c("every_seconds", period="0.2"), do=c("put_at", who="Moth 3", where="Lamp 7"))
    count = rule("hit", when=c("begins_to_touch", a="Moth", b="Lamp"), do=add("level.n"))
    program = Program(crowded(moving, jump, count, moths=600, lamps=600))
    kept, fresh = (Run(program, program.level.trials[0]) for _ in range(2))
    listed = 0
    for _ in range(60):
        fresh.world.caches.neighbours, fresh.world.caches.lists_rest_until = (), 10**9
        kept.advance(1)
        fresh.advance(1)
        listed += bool(kept.world.caches.neighbours)
        assert kept.world.differs_in(fresh.world) == []
    assert listed > 20
    assert kept.world.level["n"] > 100


def test_near_pairs_come_from_a_list_only_while_nobody_can_have_come_near():
    program = Program(
        crowded(
            rule("hit", when=c("begins_to_touch", a="Moth", b="Lamp"), do=add("level.n")),
            moths=600,
            lamps=600,
        )
    )
    run_ = Run(program, program.level.trials[0])
    run_.advance(2)
    world = run_.world
    moths, lamps = world.rows_of_kind(0), world.rows_of_kind(1)
    near_pairs(world, moths, lamps)
    world.x[moths[0]], world.y[moths[0]] = world.x[lamps[9]], world.y[lamps[9]]
    world.touch_rows(moths[:1])
    i, j = near_pairs(world, moths, lamps)
    assert (moths[0], lamps[9]) in set(zip(i.tolist(), j.tolist(), strict=True))


@pytest.mark.parametrize("step", [1.0, 30.0, 7.3])
@pytest.mark.parametrize("side", [4, 12, 20])
def test_of_equally_near_objects_the_oldest_is_the_nearest_however_many_there_are(side, step):
    at = [(column * step, line * step) for line in range(side) for column in range(side)]
    world = run(level(kinds=(kind("Moth", 1, contact="none"),), objects=things("Moth", *at)), 0).world
    rows = np.arange(side * side)
    away = np.hypot(world.x[None, :] - world.x[:, None], world.y[None, :] - world.y[:, None])
    np.fill_diagonal(away, np.inf)
    assert nearest_rows(world, rows, rows).tolist() == np.argmin(away, axis=1).tolist()


def test_in_a_crowd_at_one_point_the_oldest_other_is_the_nearest():
    at = [(0.0, 0.0)] * 300 + [(5.0, 0.0)] * 2
    world = run(level(kinds=(kind("Moth", 1, contact="none"),), objects=things("Moth", *at)), 0).world
    rows = np.arange(302)
    assert nearest_rows(world, rows, rows).tolist() == [1, *[0] * 299, 301, 300]
