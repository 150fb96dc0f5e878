"""Hits against closed forms: momentum, energy, place and moment, at 30, 60 and 120 ticks a second."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import START, c, kind, level, rule, run, things
from gatillo.level.model import Settings
from gatillo.sim.collision.shapes import separation

RATES = (30, 60, 120)


def thrown(name, vx, vy):
    return rule(f"throw {name}", when=START, do=c("set_velocity", who=name, dx=f"{vx:.12g}", dy=f"{vy:.12g}"))


def two_discs(mass, bounce, radius, at, velocity, rate, seconds=1.0):
    """Two discs seen from above; the first comes with a velocity, the second stands."""
    built = level(
        thrown("One", *velocity),
        kinds=(
            kind("One", radius[0], contact="movable", mass=mass[0], bounce=bounce[0]),
            kind("Two", radius[1], contact="movable", mass=mass[1], bounce=bounce[1]),
        ),
        objects=(*things("One", (0.0, 0.0)), *things("Two", at, first=10)),
        seconds=seconds,
        settings=Settings(rate=rate),
    )
    return run(built).world


def closed_form(mass, bounce, radius, at, velocity, time):
    """Where two discs are after a time, and how fast, by the moment and the normal of their only hit."""
    here, there = np.zeros(2), np.array(at)
    v, w = np.array(velocity), np.zeros(2)
    # |at - v t| = both radii
    both = sum(radius)
    a, b, q = v @ v, -2 * (there @ v), there @ there - both**2
    inner = b * b - 4 * a * q
    hit = (-b - math.sqrt(inner)) / (2 * a) if inner > 0 and a > 0 else math.inf
    if not 0 <= hit <= time:
        return here + v * time, there + w * time, v, w
    normal = (there - v * hit) / both
    closing = (v - w) @ normal
    impulse = (1 + max(bounce)) * closing / (1 / mass[0] + 1 / mass[1])
    v2, w2 = v - impulse / mass[0] * normal, w + impulse / mass[1] * normal
    return v * hit + v2 * (time - hit), there + w2 * (time - hit), v2, w2


@settings(max_examples=60, deadline=None)
@given(
    mass=st.tuples(st.floats(0.1, 20), st.floats(0.1, 20)),
    bounce=st.tuples(st.floats(0, 1), st.floats(0, 1)),
    radius=st.tuples(st.floats(2, 30), st.floats(2, 30)),
    away=st.floats(5, 60),
    aside=st.floats(-0.999, 0.999),
    speed=st.floats(60, 3000),
    angle=st.floats(-180, 180),
    rate=st.sampled_from(RATES),
)
def test_two_discs_hit_as_their_closed_form_says(mass, bounce, radius, away, aside, speed, angle, rate):
    both = sum(radius)
    turned = math.radians(angle)
    along, across = both + away, aside * both
    cos, sin = math.cos(turned), math.sin(turned)
    at = (along * cos - across * sin, along * sin + across * cos)
    velocity = (speed * cos, speed * sin)
    world = two_discs(mass, bounce, radius, at, velocity, rate)
    # the rule sends it off in the first tick, so it flies one tick less
    x, y, v, w = closed_form(mass, bounce, radius, at, velocity, 1.0 - 1.0 / rate)
    near = 1e-5 * (1 + speed) / max(1e-3, math.sqrt(1 - aside * aside))
    assert (world.x[0], world.y[0]) == pytest.approx(tuple(x), abs=near)
    assert (world.x[1], world.y[1]) == pytest.approx(tuple(y), abs=near)
    assert (world.vx[0], world.vy[0], world.vx[1], world.vy[1]) == pytest.approx((*v, *w), abs=near)
    momentum = mass[0] * world.vx[0] + mass[1] * world.vx[1]
    assert momentum == pytest.approx(mass[0] * velocity[0], rel=1e-9, abs=1e-9 * speed * sum(mass))
    if max(bounce) == 1.0:
        energy = sum(m * (a * a + b * b) for m, a, b in zip(mass, world.vx, world.vy, strict=True))
        assert energy == pytest.approx(mass[0] * speed * speed, rel=1e-9)


@settings(max_examples=30, deadline=None)
@given(
    angle=st.floats(-60, 60),
    tilt=st.floats(-30, 30),
    bounce=st.floats(0, 1),
    speed=st.floats(100, 900),
    rate=st.sampled_from(RATES),
)
def test_a_disc_springs_back_from_a_turned_wall_as_its_closed_form_says(angle, tilt, bounce, speed, rate):
    wall = things("Wall", (200.0, 0.0), first=5)[0]
    from msgspec.structs import replace

    built = level(
        thrown("Ball", speed * math.cos(math.radians(angle)), speed * math.sin(math.radians(angle))),
        kinds=(
            kind("Ball", 7, contact="movable", bounce=bounce),
            kind("Wall", box=(20, 4000), contact="fixed"),
        ),
        objects=(*things("Ball", (0, 0)), replace(wall, angle=tilt)),
        seconds=1.0,
        settings=Settings(rate=rate),
    )
    world = run(built).world
    time = 1 - 1 / rate
    v = speed * np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    normal = np.array([math.cos(math.radians(tilt)), math.sin(math.radians(tilt))])
    hit = (200 * normal[0] - 17) / (v @ normal)
    after = v - (1 + bounce) * (v @ normal) * normal
    end = v * min(hit, time) + (after * (time - hit) if hit < time else 0)
    assert (world.x[0], world.y[0]) == pytest.approx(tuple(end), abs=1e-6)


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("many", [2, 3, 6])
def test_a_hit_through_touching_balls_sends_off_the_last_and_leaves_the_others_where_they_are(rate, many):
    built = level(
        thrown("One", 250.0, 0.0),
        kinds=(
            kind("One", 10, contact="movable", bounce=1.0),
            kind("Ball", 10, contact="movable", bounce=1.0),
        ),
        objects=(
            *things("One", (0, 0)),
            *things("Ball", *((73.0 + 20 * n, 0.0) for n in range(many)), first=10),
        ),
        seconds=1.0,
        settings=Settings(rate=rate),
    )
    world = run(built).world
    assert world.x[0] == pytest.approx(53, abs=1e-6)
    assert world.x[1:-1] == pytest.approx([73.0 + 20 * n for n in range(many - 1)], abs=1e-6)
    hit = 53 / 250
    assert world.x[-1] == pytest.approx(73 + 20 * (many - 1) + 250 * (1 - 1 / rate - hit), abs=1e-6)
    assert world.vx == pytest.approx([0] * many + [250], abs=1e-9)


@settings(max_examples=25, deadline=None)
@given(
    friction=st.floats(0.05, 0.9),
    speed=st.floats(20, 400),
    gravity=st.floats(100, 1000),
    rate=st.sampled_from(RATES),
)
def test_a_box_slides_to_rest_where_coulomb_says(friction, speed, gravity, rate):
    go = rule("go", when=c("after_start", time="0.5"), do=c("set_velocity", who="Box", dx=f"{speed}", dy="0"))
    built = level(
        go,
        kinds=(
            kind("Box", box=(20, 20), contact="movable", friction=friction),
            kind("Floor", box=(200000, 20), contact="fixed"),
        ),
        objects=(*things("Box", (0, 10)), *things("Floor", (0, -10), first=10)),
        seconds=6.0,
        settings=Settings(rate=rate, gravity=gravity),
    )
    made = run(built)
    slows = friction / (1 - friction) * gravity
    rest = speed / slows
    for seconds in (0.8, 1.0, 2.0, 6.0):
        t = seconds - 0.5
        x = speed * t - slows * t * t / 2 if t < rest else speed * speed / (2 * slows)
        assert made.world_at(made.end_of(round(seconds * rate))).x[0] == pytest.approx(x, abs=1e-6)
    assert made.world.y[0] == pytest.approx(10, abs=1e-9)


@pytest.mark.parametrize("rate", RATES)
def test_a_box_slides_down_a_slope_as_fast_as_friction_lets_it(rate):
    from msgspec.structs import replace

    slope = replace(things("Slope", (0, 0), first=10)[0], angle=-30.0)
    cos, sin = math.cos(math.radians(30)), math.sin(math.radians(30))
    box = replace(things("Box", (20 * sin, 20 * cos))[0], angle=-30.0)
    built = level(
        kinds=(
            kind("Box", box=(20, 20), contact="movable", friction=0.2),
            kind("Slope", box=(4000, 20), contact="fixed"),
        ),
        objects=(box, slope),
        seconds=2.0,
        settings=Settings(rate=rate, gravity=600.0),
    )
    world = run(built).world
    way = (sin - 0.25 * cos) * 600 * 2.0**2 / 2
    assert world.x[0] - box.x == pytest.approx(way * cos, abs=1e-6)
    assert world.y[0] - box.y == pytest.approx(-way * sin, abs=1e-6)


@pytest.mark.parametrize("rate", RATES)
def test_a_box_slides_over_the_seam_of_two_floors_and_off_the_edge_in_a_parabola(rate):
    go = rule("go", when=START, do=c("set_velocity", who="Box", dx="150", dy="0"))
    built = level(
        go,
        kinds=(kind("Box", box=(20, 20), contact="movable"), kind("Floor", box=(100, 20), contact="fixed")),
        objects=(*things("Box", (0, 10)), *things("Floor", (0, -10), (100, -10), first=10)),
        seconds=1.5,
        settings=Settings(rate=rate, gravity=600.0),
    )
    world = run(built).world
    t = 1.5 - 1 / rate
    assert world.x[0] == pytest.approx(150 * t, abs=1e-6)
    # its last corner leaves the floor at x = 150 + 10
    falls = t - 160 / 150
    assert world.y[0] == pytest.approx(10 - 300 * falls**2, abs=1e-4)


# what is pushed


def depth_in_fixed(world):
    """How deep the movable objects (all but the last four rows) lie in fixed ones, at most."""
    loose = np.flatnonzero(world.contact == 2)
    fixed = np.flatnonzero(world.contact == 3)
    i, j = np.repeat(loose, len(fixed)), np.tile(fixed, len(loose))
    return float(np.max(-separation(world, i, j)[0]))


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize(
    ("mass", "speed", "thick"), [(10, 100, 10), (3, 300, 4), (3, 60, 10), (1000, 900, 2), (0.2, 200, 4)]
)
def test_what_is_pushed_against_a_wall_is_stopped_by_it_and_stops_what_pushes(rate, mass, speed, thick):
    built = level(
        kinds=(
            kind(
                "Gardener",
                10,
                contact="movable",
                mass=mass,
                behaviours=(c("steer_eight_ways", speed=f"{speed}"),),
            ),
            kind("Crate", box=(20, 20), contact="movable"),
            kind("Wall", box=(thick, 400), contact="fixed"),
        ),
        objects=(
            *things("Gardener", (0, 0)),
            *things("Crate", (40, 0), (60, 0), (85, 0), first=10),
            *things("Wall", (140 + thick / 2, 0), first=50),
        ),
        keys=(("Right", 0.0, 3.0),),
        seconds=3.0,
        settings=Settings(rate=rate),
    )
    made = run(built, 1)
    while made.done < 3 * rate:
        made.advance(1)
        assert depth_in_fixed(made.world) < 1e-6
    assert made.world.x[:4] == pytest.approx([70, 90, 110, 130], abs=1e-6)
    assert not made.world.y.any()


@settings(max_examples=25, deadline=None)
@given(
    seed=st.integers(0, 10_000),
    pushers=st.integers(1, 3),
    crates=st.integers(1, 8),
    gravity=st.sampled_from([0.0, 600.0]),
    rate=st.sampled_from(RATES),
)
def test_nothing_is_ever_pushed_into_a_wall_or_a_corner(seed, pushers, crates, gravity, rate):
    chance = np.random.default_rng(seed)
    spots = [(float(x), float(y)) for x, y in chance.uniform(-80, 80, (pushers + crates, 2))]
    built = level(
        kinds=(
            kind(
                "Pusher",
                9,
                contact="movable",
                mass=50.0,
                behaviours=(c("chase", target="Bait", speed="400"),),
            ),
            kind("Crate", box=(18, 14), contact="movable", bounce=0.3),
            kind("Bait", 2, contact="none"),
            kind("Side", box=(6, 300), contact="fixed"),
            kind("Floor", box=(300, 6), contact="fixed"),
        ),
        objects=(
            *things("Pusher", *spots[:pushers]),
            *things("Crate", *spots[pushers:], first=20),
            *things("Bait", (160, -160), (-160, 160), first=60),
            *things("Side", (-103, 0), (103, 0), first=70),
            *things("Floor", (0, -103), (0, 103), first=80),
        ),
        seconds=1.0,
        settings=Settings(rate=rate, gravity=gravity),
    )
    made = run(built, 1)
    while made.done < rate:
        made.advance(1)
        assert depth_in_fixed(made.world) < 1e-6
        loose = made.world.contact == 2
        assert (np.abs(made.world.x[loose]) < 100).all()
        assert (np.abs(made.world.y[loose]) < 100).all()


@pytest.mark.parametrize("many", [2, 5, 10, 40])
def test_move_apart_leaves_nobody_nearer_than_asked(many):
    chance = np.random.default_rng(many)
    spots = tuple(map(tuple, chance.uniform(-20, 20, (many, 2)).tolist()))
    apart = rule("apart", when=START, do=c("move_apart", who="Moth", gap="4"))
    made = run(level(apart, kinds=(kind("Moth", 6, contact="none"),), objects=things("Moth", *spots)), 1)
    x, y = made.world.x, made.world.y
    away = np.hypot(x[:, None] - x, y[:, None] - y)[np.triu_indices(many, 1)]
    assert away.min() >= 16 - 1e-6
