"""A formula over one match gives what it gives for that match among others, to the last bit."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from test_formula import INDEX, LEVEL

from gatillo.catalogue.contexts.values import Candidates
from gatillo.formula.compiling import compile_formula
from gatillo.formula.values import spread
from gatillo.sim.matching.match_table import View, join_role, table_of
from gatillo.sim.program.program import Program
from gatillo.sim.world.world import World

NUMBERS = (
    "Moth.x",
    "Moth.y",
    "Moth.angle",
    "Moth.speed",
    "level.pods",
    "Head_gardener.x",
    "time",
    "facing(Moth)",
)
PLACES = (
    "distance(Moth, Head_gardener)",
    "direction(Moth, gate)",
    "speed(Moth)",
    "count(Moth)",
    "total(Moth.speed)",
)
ONE = (
    "abs",
    "sign",
    "round",
    "floor",
    "ceil",
    "sin",
    "cos",
    "tan",
    "atan",
    "exp",
    "sqrt",
    "log",
    "asin",
    "acos",
)
TWO = ("min", "max", "atan2", "turn", "random")
AXES = ("+", "-", "*", "/", "mod", "^")
HOLD = ("Moth.awake", 'Moth.mood = "calm"', "in_area(Moth, bench)", "Moth = Head_gardener", "not Moth.shown")


def bigger(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    asked = st.one_of(
        st.sampled_from(HOLD),
        st.tuples(inner, st.sampled_from(("<", "<=", "=", "<>")), inner).map(" ".join),
    )
    joined = st.tuples(asked, st.sampled_from(("and", "or")), asked).map(lambda t: f"({t[0]} {t[1]} {t[2]})")
    return st.one_of(
        st.tuples(st.sampled_from(ONE), inner).map(lambda t: f"{t[0]}({t[1]})"),
        st.tuples(st.sampled_from(TWO), inner, inner).map(lambda t: f"{t[0]}({t[1]}, {t[2]})"),
        st.tuples(inner, st.sampled_from(AXES), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
        inner.map(lambda t: f"(-{t})"),
        st.tuples(joined, inner, inner).map(lambda t: f"if({t[0]}, {t[1]}, {t[2]})"),
    )


LEAVES = st.one_of(
    st.sampled_from(NUMBERS + PLACES), st.floats(-60, 60).map(lambda v: f"({round(v, 2)})"), st.just("0")
)
MOTHS = INDEX.role_tokens["Moth"]


def seen(rows):
    """The moths at these rows, with the gardener, and the world they are in."""
    world = World(Program(LEVEL))
    world.tick, world.time = 30, 0.5
    world.x[:], world.angle[:] = [0.1, 30.7, -10.0, 100.0], [0.0, 33.3, -170.0, 90.0]
    world.vx[:] = [0.0, 12.5, -3.0, 1.0]
    world.variables["awake/yes/no"][1] = False
    world.variables["mood/text"][2] = "wild"
    table = join_role(world, table_of(Candidates(1)), MOTHS)
    return View(world, join_role(world, table.take(rows), INDEX.role_tokens["Head_gardener"]), 99)


@given(st.recursive(LEAVES, bigger, max_leaves=8))
@settings(max_examples=200, deadline=None)
def test_a_formula_gives_the_same_alone_and_among_others(source):
    formula = compile_formula(INDEX, source)
    with np.errstate(all="ignore"):
        together = seen(np.arange(3))
        values = spread(formula.evaluate(together), 3)
        faulted = together.faulted()
        for at in range(3):
            view = seen(np.array([at]))
            (value,) = spread(formula.evaluate(view), 1)
            assert np.float64(value).tobytes() == np.float64(values[at]).tobytes()
            assert (view.faulted() is not None) == (faulted is not None and bool(faulted[at]))


def test_of_one_match_a_property_is_a_plain_value():
    assert type(compile_formula(INDEX, "Moth.x * 2 + level.pods").evaluate(seen(np.array([1])))) is float
    assert compile_formula(INDEX, "Moth.mood").evaluate(seen(np.array([2]))) == "wild"
    assert compile_formula(INDEX, "Moth.awake").evaluate(seen(np.array([1]))) is False
