"""A few bodies are taken one by one, many as arrays: which of the two a run takes changes nothing in it."""

from __future__ import annotations

from random import Random

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from building import START, add, c, kind, level, rule, things
from gatillo.catalogue.entries import carrying
from gatillo.catalogue.entries.steering import FACES
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.graphs.conversion import as_graph
from gatillo.level.edits import as_tried
from gatillo.level.model import Object, Route, Settings, Stop
from gatillo.sim.collision import contacts as contact
from gatillo.sim.collision import proximity, regions, shapes, solids
from gatillo.sim.collision import raycast as rays
from gatillo.sim.interaction import focus, prompts
from gatillo.sim.matching import match_table
from gatillo.sim.motion import by_kernel, phase, tweens
from gatillo.sim.motion import integration as flight
from gatillo.sim.motion import routes as walking
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world import world as worlds
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.world import World
from plain_motion import own_of_a_stop
from random_rules import ACTIONS, CONDITIONS, MODES, OCCASIONS

TWO_WAYS = (
    (contact, "A_HANDFUL"),
    (flight, "A_HANDFUL"),
    (tweens, "A_HANDFUL"),
    (phase, "A_FEW"),
    (regions, "A_HANDFUL"),
    (worlds, "A_FEW_IDS"),
    (match_table, "ALONE"),
    (shapes, "A_HANDFUL"),
    (walking, "A_HANDFUL"),
    (by_kernel, "FEW"),
    (by_kernel, "FEW_IN_PAIRS"),
    (carrying, "A_HANDFUL"),
    (contact, "FEW"),
    (flight, "FEW"),
    (solids, "FEW"),
    (prompts, "FEW_PAIRS"),
    (worlds, "A_HANDFUL"),
    (worlds, "FEW_ROWS"),
    (proximity, "FEW_WITHIN"),
    (regions, "FEW_ROWS"),
)


def run_both(built, trial=None, ticks=None):
    """The same run body by body, and over arrays."""
    made = []
    kept = [getattr(module, name) for module, name in TWO_WAYS]
    try:
        for most in (1000, -1):
            for module, name in TWO_WAYS:
                setattr(module, name, max(most, 0) if name == "ALONE" else most)
            program = Program(built)
            assert not program.problems
            one = Run(program, trial or built.trials[0])
            one.advance(ticks)
            made.append(one)
    finally:
        for (module, name), was in zip(TWO_WAYS, kept, strict=True):
            setattr(module, name, was)
    return made


def same(one, other):
    for name in COLUMNS:
        loops, arrays = getattr(one.world, name), getattr(other.world, name)
        assert loops.tolist() == arrays.tolist(), name
    assert one.world.differs_in(other.world) == []
    assert one.trace.to_bytes() == other.trace.to_bytes()


@pytest.mark.parametrize("name", study_names())
def test_a_study_is_the_same_body_by_body_and_over_arrays(name):
    built = read_level(study_path(name))
    same(*run_both(as_tried(built, built.trials[0]), built.trials[0], 300))


@given(
    st.integers(0, 10_000),
    st.integers(1, 7),
    st.integers(0, 5),
    st.sampled_from([0.0, 600.0]),
    st.sampled_from([0.0, 0.3, 0.9]),
    st.sampled_from([0.0, 0.2, 1.0]),
)
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_a_heap_falls_the_same_body_by_body_and_over_arrays(seed, balls, boxes, gravity, bounce, friction):
    chance = np.random.default_rng(seed)

    def spread(n):
        return tuple((float(x), float(y)) for x, y in chance.uniform((-40, 10), (40, 120), (n, 2)))

    solid = {"contact": "movable", "bounce": bounce, "friction": friction}
    throw = rule("throw", when=START, do=c("set_velocity", who="Ball", dx="180", dy="-90"))
    knock = rule(
        "knock", when=c("touches", a="Ball", b="anything"), do=c("add_to", amount="1", variable="level.n")
    )
    built = level(
        throw,
        knock,
        kinds=(
            kind("Ball", 10, mass=2.0, **solid),
            kind("Box", box=(26, 14), **solid),
            kind("Floor", box=(2000, 20), contact="fixed"),
            kind("Ramp", box=(80, 10), contact="fixed"),
        ),
        objects=(
            *things("Ball", *spread(balls)),
            *things("Box", *spread(boxes), first=100),
            *things("Floor", (0.0, -10.0), first=900),
            Object(id=910, kind="Ramp", name="Ramp", x=70.0, y=20.0, angle=35.0),
        ),
        has={"n": 0.0},
        seconds=1.5,
        settings=Settings(gravity=gravity),
    )
    one, other = run_both(built)
    assert one.world.contacts.hits == ()
    same(one, other)


@given(
    st.integers(0, 10_000),
    st.integers(1, 5),
    st.integers(1, 5),
    st.sampled_from(["once", "in a loop", "there and back"]),
    st.sampled_from(["", "at constant speed", "easing in and out"]),
    st.booleans(),
)
@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_walkers_come_to_the_same_stops_one_by_one_and_over_arrays(
    seed, walkers, stops, how, easing, own_legs
):
    chance = np.random.default_rng(seed)
    points = chance.uniform(0, 60, (stops, 2)).round(2)
    rests = chance.choice([0.0, 0.0, 0.05, 0.4], stops)
    round_ = Route(
        name="Round",
        stops=tuple(
            Stop(x=x, y=y, pause=p, **(own_of_a_stop(Random(f"{seed} {x}")) if own_legs else {}))
            for (x, y), p in zip(points.tolist(), rests.tolist(), strict=True)
        ),
    )
    walk = {"route": "Round", "how": how, "facing": FACES}
    if easing:
        clause = c("walk_route_timed", time=str(chance.choice(["0.02", "0.3"])), easing=easing, **walk)
    else:
        clause = c("walk_route", speed=str(chance.choice(["40", "900", "0"])), **walk)
    arrived = rule(
        "arrived", when=c("arrives_at_any_stop", who="Crow"), do=c("add_to", amount="1", variable="level.n")
    )
    heard = [
        rule(word, when=c("message_heard", message=word), do=add("level.n", number), id=at)
        for at, (word, number) in enumerate((("ding", "100"), ("dong", "10000")), 50)
    ]
    built = level(
        arrived,
        *heard,
        kinds=(kind("Crow", 5, behaviours=(clause,)),),
        objects=things("Crow", *map(tuple, chance.uniform(0, 60, (walkers, 2)).tolist())),
        places=(round_,),
        has={"n": 0.0},
        seconds=2.0,
    )
    same(*run_both(built))


@given(st.integers(0, 10_000), st.integers(2, 12))
@settings(max_examples=60, deadline=None)
def test_a_ray_meets_the_same_thing_alone_and_among_many(seed, many):
    chance = np.random.default_rng(seed)
    shapes_ = ("Ball", "Box", "Wall")
    built = level(
        kinds=(
            kind("Ball", 12),
            kind("Box", box=(30, 14), contact="fixed"),
            kind("Wall", box=(4, 90), contact="fixed"),
        ),
        objects=tuple(
            Object(
                id=at + 1,
                kind=str(chance.choice(shapes_)),
                name=f"o{at}",
                x=float(chance.integers(-80, 80)),
                y=float(chance.integers(-80, 80)),
                angle=float(chance.choice([0.0, 90.0, chance.uniform(-180, 180)])),
                scale=float(chance.uniform(0.5, 2)),
            )
            for at in range(many)
        ),
    )
    world = World(Program(built))
    rows, others = chance.integers(0, many, (2, 30))
    angles, reach = chance.choice([0.0, 90.0, 180.0, 37.5], 30), chance.choice([40.0, 300.0], 30)
    found = []
    kept = rays.FEW_MEETINGS
    try:
        for rays.FEW_MEETINGS in (10_000, 0):
            hits = rays.first_hits(world, rows, angles, reach)
            found.append((hits.tolist(), rays.clear_views(world, rows, others).tolist()))
    finally:
        rays.FEW_MEETINGS = kept
    assert found[0] == found[1]


@given(st.integers(0, 10_000), st.integers(2, 14), st.sampled_from(["arc length", "angle", "distance"]))
@settings(max_examples=60, deadline=None)
def test_what_is_meant_is_the_same_among_few_and_among_many(seed, many, measure):
    chance = np.random.default_rng(seed)
    built = level(
        kinds=(kind("Looker", 6), kind("Thing", 6)),
        objects=tuple(
            Object(
                id=at + 1,
                kind="Looker" if at < 2 else "Thing",
                name=f"o{at}",
                x=float(chance.integers(-60, 60)),
                y=float(chance.integers(-60, 60)),
                angle=float(chance.uniform(-180, 180)),
                shown=bool(chance.random() < 0.8),
            )
            for at in range(many)
        ),
    )
    world = World(Program(built))
    on = world.program.index.role("Thing" if many > 2 else "Looker")
    lookers = np.array([0, 1])
    found = []
    kept = focus.FEW_PAIRS
    try:
        for focus.FEW_PAIRS in (10_000, -1):
            found.append(
                focus.meant(
                    world, lookers, on, np.array([60.0, 90.0]), np.array([70.0, 180.0]), measure, False
                )
            )
    finally:
        focus.FEW_PAIRS = kept
    assert found[0] == found[1]


@given(
    st.integers(1, 3),
    OCCASIONS,
    st.lists(CONDITIONS, max_size=3),
    st.lists(ACTIONS, max_size=4),
    st.lists(ACTIONS, max_size=3),
    MODES,
)
@settings(max_examples=80, deadline=None)
def test_any_rule_and_its_graph_run_the_same_over_plain_values_and_over_arrays(
    moths, when, conditions, do, else_, modes
):
    one = rule("r", when=when, if_=conditions, do=do, else_=else_, id=900, **modes)
    starter = rule("starter", when=c("after_start", time="0.03"), do=c("send", message="go"))
    for logic in (one, as_graph(one)):
        built = level(
            starter,
            logic,
            kinds=(kind("Moth", 5, has={"n": 0.0}), kind("Lamp", 5, has={"n": 0.0})),
            objects=(
                *things("Moth", *[(40.0 * at, 0.0) for at in range(moths)]),
                *things("Lamp", (0, 30), first=50),
            ),
            has={"n": 0.0},
            settings=Settings(most_objects=40),
        )
        if not Program(built).problems:
            same(*run_both(built, ticks=25))
