"""Every behaviour that has a kernel does the same by it and over arrays, to the last bit; so do screens and sleeping turns."""

from __future__ import annotations

from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import START, add, c, kind, level, rule, things
from gatillo.catalogue import CATALOGUE
from gatillo.level.model import Area, Clause, Rectangle, Route, Spot, Stop, Trial
from gatillo.sim.motion import by_kernel
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from plain_motion import own_of_a_stop

WITH_KERNELS = sorted(name for name, entry in CATALOGUE.items() if entry.kernel is not None)
KEYS = ("Up", "Down", "Left", "Right", "W", "A", "F")
TRIES = settings(max_examples=12, deadline=None)


def filled(entry, chance, who):
    """A behaviour's line with something of everything in its slots: odd numbers and formulas too."""
    slots = {}
    for name, slot in entry.slots.items():
        if slot.type in ("number", "seconds"):
            numbers = [slot.default, "0", f"{chance.uniform(0, 90):.2f}", "level.n + 20", f"{who}.own"]
            if slot.type == "number":
                numbers.append("-12.5")
            slots[name] = str(chance.choice(numbers))
        elif slot.type == "choice":
            slots[name] = str(chance.choice(slot.options))
        elif slot.type == "role":
            slots[name] = str(chance.choice(["Lamp", who, "Post"]))
        elif slot.type in ("key", "any key"):
            slots[name] = str(chance.choice(KEYS))
        elif slot.type == "route":
            slots[name] = str(chance.choice(["round", "short"]))
        elif slot.type == "area":
            slots[name] = "court"
        elif slot.type == "where":
            slots[name] = str(chance.choice(["Lamp", who, "court", "pointer", "corner", "Moth 1"]))
        elif slot.type == "message":
            slots[name] = "noise"
        else:
            slots[name] = slot.default
    return Clause(use=entry.name, slots=slots)


def random_level(name, seed):
    chance = np.random.default_rng(seed)
    entry = CATALOGUE[name]
    behaviours = [filled(entry, chance, "Moth")]
    if entry.wants:
        behaviours.insert(0, filled(CATALOGUE[entry.wants], chance, "Moth"))
    places = tuple(map(tuple, chance.uniform(-60, 60, (9, 2)).round(int(chance.integers(0, 3))).tolist()))
    moth = kind(
        "Moth",
        4,
        box=(9.0, 5.0) if chance.random() < 0.4 else None,
        has={"own": 7.5},
        behaviours=tuple(behaviours),
        contact=str(chance.choice(["none", "sensed", "movable"])),
    )
    at = int(chance.integers(1, 7))
    rules = (
        rule("grow", do=add("level.n", "0.5")),
        rule(
            "off",
            when=c("every_seconds", period="0.4", first="0.3"),
            do=c("switch_behaviour_off", behaviour=entry.name.replace("_", " "), who="Moth 1"),
        ),
        rule(
            "more",
            when=c("every_seconds", period="9", first="0.5"),
            do=c("create", count="2", kind="Moth", where="court"),
        ),
        rule(
            "noise",
            when=c("every_seconds", period=str(chance.choice(["0.3", "5"])), first="0.2"),
            do=c("send_from", who="Lamp 1", message="noise"),
        ),
        rule("gone", when=c("every_seconds", period="9", first="0.7"), do=c("remove", who="Moth 1")),
    )
    stops = tuple(
        Stop(
            x=x,
            y=y,
            pause=abs(pause) / 100,
            **(own_of_a_stop(Random(f"{seed} {x}")) if seed % 3 == 0 else {}),
        )
        for x, y, pause in chance.uniform(-50, 50, (3, 3)).round(1).tolist()
    )
    keys = tuple(
        (str(k), float(a), float(a) + 0.4)
        for k, a in zip(chance.choice(KEYS, 3, replace=False), (0.0, 0.2, 0.5), strict=True)
    )
    return level(
        *rules,
        kinds=(moth, kind("Lamp", 6), kind("Post", 8, contact="fixed")),
        objects=(
            *things("Moth", *places[:at]),
            *things("Lamp", *places[at : at + 2], first=30),
            *things("Post", *places[7:], first=40),
        ),
        places=(
            Spot(name="corner", x=11.5, y=-20.0),
            Area(name="court", x=0.0, y=0.0, shape=Rectangle(width=90.0, height=70.0)),
            Route(name="round", stops=stops),
            Route(name="short", stops=stops[:1]),
        ),
        has={"n": 3.0},
        keys=keys,
        seconds=1.2,
    )


def both_ways(built):
    """Runs of a level by kernels and over arrays, each with its program and its states."""
    kept = by_kernel.FEW, by_kernel.FEW_IN_PAIRS
    try:
        by_kernels = run_of(built)
        by_kernel.FEW, by_kernel.FEW_IN_PAIRS = -1, 0
        return by_kernels, run_of(built)
    finally:
        by_kernel.FEW, by_kernel.FEW_IN_PAIRS = kept


def run_of(built):
    program = Program(built)
    made = Run(program, built.trials[0])
    states = []
    made.after_tick = lambda world: states.append(hash(world.state_bytes()))
    made.advance()
    return program, made, states


@pytest.mark.parametrize("name", WITH_KERNELS)
@given(st.integers(0, 100_000))
@TRIES
def test_a_behaviour_is_the_same_by_its_kernel_and_over_arrays(name, seed):
    (program, one, states), (_, other, again) = both_ways(random_level(name, seed))
    assert [p.sentence() for p in program.problems if "does nothing" not in p.sentence()] == []
    assert states == again
    assert one.trace.to_bytes() == other.trace.to_bytes()


@given(st.integers(0, 100_000))
@settings(max_examples=25, deadline=None)
def test_turns_are_the_same_asleep_screened_and_taken(seed):
    chance = np.random.default_rng(seed)
    near = str(chance.choice(["20", "0", "45.5", "level.n"]))
    rules = (
        rule("drift", do=c("move_by", who="Moth", dx=f"{chance.uniform(-2, 2):.3f}", dy="0.5")),
        rule("count", when=c("every_seconds", period="0.2", first="0.1"), do=add("level.n", "4")),
        rule(
            "meet",
            when=c("each_in_every_tick", who="Moth"),
            if_=(c("within", who="Moth", distance=near, where="Lamp"),),
            do=add("level.met"),
        ),
        rule("any", if_=(c("within", who="Moth", distance="15", where="Lamp"),), do=add("level.some")),
        rule("rises", when=c("rises_above", variable="level.n", limit="10"), do=add("level.met", "100")),
        rule("changes", when=c("variable_changes", variable="Moth.own"), do=add("level.some", "10")),
        rule(
            "write",
            when=c("every_seconds", period="0.3", first="0.2"),
            do=c("set_variable", variable="Moth.own", value="level.n"),
        ),
        rule("born", when=c("is_created", a="Moth"), do=add("level.met", "1000")),
        rule(
            "make",
            when=c("every_seconds", period="0.5", first="0.4"),
            do=c("create", count="1", kind="Moth", where="Lamp 1"),
        ),
        rule(
            "high",
            if_=(c("compare", left="level.n", comparison=">", right="12"),),
            do=add("level.some", "0.5"),
        ),
        rule("start", when=START, do=add("level.n", "0")),
    )
    points = tuple(map(tuple, chance.uniform(-60, 60, (6, 2)).tolist()))
    built = level(
        *(rules[at] for at in chance.permutation(len(rules))),
        kinds=(kind("Moth", 4, has={"own": 1.0}), kind("Lamp", 6)),
        objects=(*things("Moth", *points[:4]), *things("Lamp", *points[4:], first=30)),
        has={"n": 3.0, "met": 0.0, "some": 0.0},
        seconds=1.5,
    )
    made = []
    for quick in (True, False):
        program = Program(built)
        assert not program.problems, [p.sentence() for p in program.problems]
        assert not quick or any(turn.screen for turn in program.rules)
        for turn in program.rules:
            if not quick:
                turn.screen = turn.stirs = None
        states = []
        one = Run(program, Trial(name="t", length=1.5))
        one.after_tick = lambda world, states=states: states.append(hash(world.state_bytes()))
        one.advance()
        made.append((one.trace.to_bytes(), states))
    assert made[0] == made[1]


@pytest.mark.parametrize("many", [75, 150])
@given(st.integers(0, 10_000), st.booleans())
@settings(max_examples=4, deadline=None)
def test_a_large_flock_is_steered_the_same_in_pairs_and_over_arrays(many, seed, alike):
    # so many that near ones are looked for first; more than some 140 are found by a tree
    chance = np.random.default_rng(seed)
    slots = {"others": "Moth", "apart": "14" if alike else "Moth.own", "speed": "60", "together": "35"}
    slots |= {"acceleration": "240", "apart_weight": "1.5"}
    line = filled(CATALOGUE["flock"], chance, "Moth")
    moth = kind(
        "Moth", 3, has={"own": 12.0}, behaviours=(Clause(use="flock", slots={**line.slots, **slots}),)
    )
    points = tuple(map(tuple, chance.uniform(-90, 90, (many, 2)).round(1).tolist()))
    built = level(
        rule("own", when=START, do=c("set_variable", variable="Moth.own", value="random(0, 30)")),
        kinds=(moth,),
        objects=things("Moth", *points),
        has={"n": 3.0},
        seconds=0.4,
    )
    (_, one, states), (_, _, again) = both_ways(built)
    assert states == again
    assert not np.allclose(one.world.vx, 0.0)


def test_a_turn_whose_limit_comes_to_have_no_answer_says_so_in_each_tick():
    built = level(
        rule("rises", when=c("rises_above", variable="level.n", limit="1 / level.k"), do=add("level.met")),
        rule("zero", when=c("after_start", time="0.1"), do=c("set_variable", variable="level.k", value="0")),
        has={"n": 0.0, "k": 1.0, "met": 0.0},
        seconds=0.5,
    )
    _, made, _ = run_of(built)
    # told from the tick after the one in which it is set: the rule above has had its turn by then
    assert [fault.tick for fault in made.trace.faults] == list(range(7, 31))
