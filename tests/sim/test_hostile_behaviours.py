"""Behaviours with settings that nobody would choose: the state stays finite, and the run the same twice."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import c, kind, level, rule, send, things
from gatillo.catalogue import CATALOGUE
from gatillo.level.model import Area, Circle, Rectangle, Route, Settings, Spot, Stop
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

EXTREMES = ("-1e9", "-1", "0", "1e-9", "0.5", "1", "90", "1e9")
NUMBERS = st.sampled_from([f"{float(e):.0f}" if abs(float(e)) >= 1 else f"{float(e):.9f}" for e in EXTREMES])
PLACES = (
    Area(name="yard", x=0, y=0, shape=Rectangle(width=100, height=80)),
    Area(name="dot", x=0, y=0, shape=Circle(radius=0.001)),
    Spot(name="gate", x=30, y=10),
    Route(name="way", stops=(Stop(x=0, y=0), Stop(x=0, y=0, pause=0.1), Stop(x=50, y=0))),
    Route(name="nowhere"),
)
KEYS = tuple((key, 0.05, 0.4) for key in ("Up", "Left", "Space", "E", "F", "pointer left"))
BEHAVIOURS = [name for name, entry in CATALOGUE.items() if entry.group == "behaviour"]


def clauses(draw, name):
    """The behaviour with settings from the extremes, and what it wants beside it."""
    slots = {}
    for slot, declared in CATALOGUE[name].slots.items():
        if declared.type in ("number", "seconds"):
            slots[slot] = draw(NUMBERS)
        elif declared.type == "role":
            of = ["Mover"] if name.endswith("_those") else ["Mover", "another Mover", "Ghost", "anything"]
            slots[slot] = draw(st.sampled_from(of))
        elif declared.type == "choice":
            slots[slot] = draw(st.sampled_from(declared.options))
        elif declared.type == "area":
            slots[slot] = draw(st.sampled_from(["yard", "dot"]))
        elif declared.type == "route":
            slots[slot] = draw(st.sampled_from(["way", "nowhere"]))
        elif declared.type == "where":
            slots[slot] = draw(st.sampled_from(["gate", "yard", "pointer", "Mover", "Ghost"]))
        elif declared.type == "message":
            slots[slot] = "bang"
        elif declared.type == "yes/no formula":
            slots[slot] = draw(st.sampled_from(["yes", "Mover.x < 10", "1 / Mover.x > 0", "no"]))
    also = [c("flock", others="Mover")] if CATALOGUE[name].wants else []
    return (c(name, **slots), *also)


@st.composite
def worlds(draw, name):
    contact = draw(st.sampled_from(["none", "sensed", "movable"]))
    body = {
        "mass": draw(st.sampled_from([1e-6, 1.0, 1e9])),
        "bounce": draw(st.sampled_from([0.0, 0.5, 1.0])),
        "friction": draw(st.sampled_from([0.0, 0.5, 1.0])),
    }
    return level(
        rule("bang", when=c("every_seconds", period="0.1"), do=c("send_from", who="Mover", message="bang")),
        rule("say", when=c("after_start", time="0.2"), do=send("bang")),
        kinds=(
            kind("Mover", 5, contact=contact, behaviours=clauses(draw, name), **body),
            kind("Ghost", 5),
            kind("Wall", box=(4, 60), contact="fixed"),
        ),
        places=PLACES,
        objects=(*things("Mover", (0, 0), (0, 0), (3, 1), (40, 5)), *things("Wall", (20, 0), first=50)),
        keys=KEYS,
        seconds=0.5,
        settings=Settings(gravity=draw(st.sampled_from([0.0, 600.0, 1e5]))),
    )


@pytest.mark.parametrize("name", BEHAVIOURS)
def test_no_setting_lets_infinity_in_or_makes_two_runs_differ(name):
    @given(worlds(name))
    @settings(max_examples=10, deadline=None)
    def tried(built):
        program = Program(built)
        assert not program.problems, [p.message for p in program.problems]
        one, other = (Run(program, built.trials[0]) for _ in range(2))
        one.advance()
        for _ in range(3):
            other.advance(10)
        world = one.world
        for column in ("x", "y", "vx", "vy", "angle"):
            assert np.isfinite(getattr(world, column)).all(), column
        for label, values in world.variables.items():
            if values.dtype == np.float64:
                assert np.isfinite(values).all(), label
        assert other.world.differs_in(one.world) == []

    tried()


def test_a_setting_beyond_all_measure_is_a_problem_in_the_level_and_a_fault_in_a_run():
    def chaser(speed, *order):
        return level(
            *order,
            kinds=(kind("Mover", 5, behaviours=(c("chase", target="Ghost", speed=speed),)), kind("Ghost", 5)),
            objects=(*things("Mover", (0, 0)), *things("Ghost", (90, 0), first=9)),
        )

    assert "must lie between" in Program(chaser("2000000000")).problems[0].message
    faster = rule(
        "r",
        when=c("level_starts"),
        do=c("set_setting", setting="chase: speed", who="Mover", value="10 ^ 12"),
    )
    built = chaser("10", faster)
    made = Run(Program(built), built.trials[0])
    made.advance()
    assert "must lie between" in made.trace.faults[0].sentence
    assert made.world.x[0] == 90
