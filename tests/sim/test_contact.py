"""Finding contacts: every way of finding pairs finds the same ones."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import add, c, fired, kind, level, rule, run
from gatillo.level.model import Object
from gatillo.sim.collision import contacts as contact
from gatillo.sim.collision.shapes import separation, separation_by_arrays, separation_of
from gatillo.sim.program.program import Program
from gatillo.sim.world.world import World

KINDS = (kind("Pod", 5), kind("Bed", box=(40, 12)), kind("Hall", box=(400, 300)))


def world_of(seed: int, n: int) -> World:
    chance = np.random.default_rng(seed)
    objects = tuple(
        Object(
            id=i + 1,
            kind=str(chance.choice(["Pod", "Pod", "Pod", "Bed", "Hall"], p=[0.4, 0.3, 0.2, 0.09, 0.01])),
            name=f"o{i}",
            x=float(chance.uniform(-300, 300)),
            y=float(chance.uniform(-300, 300)),
            angle=float(chance.uniform(-180, 180)),
            scale=float(chance.uniform(0.5, 2)),
        )
        for i in range(n)
    )
    r = rule("r", when=c("touches", a="anything", b="anything"), do=add("level.n"))
    return World(Program(level(r, kinds=KINDS, objects=objects, has={"n": 0.0})))


def pairs(found):
    return {(min(a, b), max(a, b)) for a, b in zip(found[0].tolist(), found[1].tolist(), strict=True)}


@given(st.integers(0, 1000), st.integers(2, 160))
@settings(max_examples=40, deadline=None)
def test_loops_arrays_and_grid_find_the_same_pairs(seed, n):
    world = world_of(seed, n)
    every = np.arange(n)
    some = every[:: max(1, n // 7)]
    by_loop = pairs(contact._few_pairs(world, some, every, 0.0))
    assert pairs(contact._every_pair(world, some, every, 0.0)) == by_loop
    most_few, most_all = contact._FEW_PAIRS, contact._ALL_PAIRS_UP_TO
    contact._FEW_PAIRS = contact._ALL_PAIRS_UP_TO = 0
    try:
        assert pairs(contact.near_pairs(world, some, every)) == by_loop
    finally:
        contact._FEW_PAIRS, contact._ALL_PAIRS_UP_TO = most_few, most_all


@given(st.integers(0, 1000))
@settings(max_examples=30, deadline=None)
def test_moving_by_the_gap_along_the_normal_makes_shapes_just_touch(seed):
    world = world_of(seed, 2)
    world.x[1], world.y[1] = world.x[0] + 3, world.y[0] + 2
    one, other = np.array([0]), np.array([1])
    gap, nx, ny = separation(world, one, other)
    if gap[0] < 0:
        world.x[0] += gap[0] * nx[0]
        world.y[0] += gap[0] * ny[0]
        world.caches.reach = None
        assert separation(world, one, other)[0][0] == pytest.approx(0, abs=1e-6)


@given(st.integers(0, 1000))
@settings(max_examples=30, deadline=None)
def test_the_gap_is_the_same_from_both_sides(seed):
    world = world_of(seed, 2)
    one, other = np.array([0]), np.array([1])
    there, back = separation(world, one, other), separation(world, other, one)
    assert there[0][0] == pytest.approx(back[0][0])
    if np.hypot(world.x[1] - world.x[0], world.y[1] - world.y[0]) > 1:
        assert (there[1][0], there[2][0]) == pytest.approx((-back[1][0], -back[2][0]), abs=1e-9)


def test_contacts_of_objects_that_stand_still_go_on_without_being_looked_for():
    r = rule("r", when=c("touches", a="Pod", b="another Pod"), do=add("level.n"))
    objects = (Object(id=1, kind="Pod", name="a", x=0, y=0), Object(id=2, kind="Pod", name="b", x=4, y=0))
    made = run(level(r, kinds=KINDS[:1], objects=objects, has={"n": 0.0}), 5)
    assert [t for t, _ in fired(made, "r")] == [1, 2, 3, 4, 5]


def test_turning_a_box_is_noticed():
    turn = rule(
        "turn", when=c("every_seconds", period="9", first="0.1"), do=c("turn_by", who="Bed", angle="90")
    )
    r = rule("r", when=c("stops_touching", a="Pod", b="Bed"), do=add("level.n"))
    objects = (Object(id=1, kind="Pod", name="a", x=20, y=0), Object(id=2, kind="Bed", name="b", x=0, y=0))
    made = run(level(turn, r, kinds=KINDS[:2], objects=objects, has={"n": 0.0}))
    assert [t for t, _ in fired(made, "r")] == [7]


@given(st.integers(0, 1000), st.lists(st.integers(1, 60), min_size=2, max_size=8))
@settings(max_examples=30, deadline=None)
def test_a_grid_kept_from_tick_to_tick_finds_what_a_fresh_one_finds(seed, moves):
    world = world_of(seed, 150)
    chance = np.random.default_rng(seed)
    most_few, most_all = contact._FEW_PAIRS, contact._ALL_PAIRS_UP_TO
    try:
        for many in moves:
            moved = chance.choice(150, many, replace=False)
            world.x[moved] += chance.uniform(-80, 80, many)
            world.y[moved] += chance.uniform(-80, 80, many)
            world.touch_rows(moved)
            # now and then the search goes another way, and the grid must not miss that tick
            contact._FEW_PAIRS = contact._ALL_PAIRS_UP_TO = 0 if chance.random() < 0.7 else 100_000
            contact.settle_contacts(world)
            fresh = world.clone()
            fresh.contacts.touching, fresh.moved[:], fresh.caches.any_moved = (
                world.contacts.touching[:0],
                True,
                True,
            )
            fresh.structure_changed()
            contact._FEW_PAIRS = 100_000
            contact.settle_contacts(fresh)
            assert world.contacts.touching.tolist() == fresh.contacts.touching.tolist()
    finally:
        contact._FEW_PAIRS, contact._ALL_PAIRS_UP_TO = most_few, most_all


@given(st.integers(0, 10_000))
@settings(max_examples=60, deadline=None)
def test_a_pair_worked_out_alone_and_among_many_is_the_same_to_the_last_bit(seed):
    world = world_of(seed, 40)
    chance = np.random.default_rng(seed)
    # some upright, some one upon the other
    world.angle[chance.random(40) < 0.3] = 0.0
    world.x[:6], world.y[:6] = world.x[6:12], world.y[6:12]
    i, j = chance.integers(0, 40, 200), chance.integers(0, 40, 200)
    i[:6], j[:6] = np.arange(6), np.arange(6, 12)
    i, j = i[i != j], j[i != j]
    by_arrays = separation_by_arrays(world, i, j)
    for at, (a, b) in enumerate(zip(i.tolist(), j.tolist(), strict=True)):
        alone = separation_of(world, a, b)
        assert [float(part[at]).hex() for part in by_arrays] == [float(part).hex() for part in alone]
