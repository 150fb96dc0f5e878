"""Numbers beyond all measure: whatever a formula or a rule works out, it is a value or a fault, never an error."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import START, add, c, kind, level, rule, run, things
from gatillo.catalogue.contexts.values import Candidates
from gatillo.formula.compiling import compile_formula
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError
from gatillo.formula.template import compile_template
from gatillo.inspect.findings import findings
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Area, Circle, Clause, Reference, Settings
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import View, join_role, table_of
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import World

EXTREMES = (0.0, -0.0, 1.0, -1.0, 0.5, 1e-300, 1e300, -1e300, 1.7e308, 5e-324, 359.999, 1e16)
LEVEL = level(
    kinds=(
        kind(
            "Moth", 5, has={"v": 1.0, "w": 0.0, "on": True, "mood": "calm", "friend": Reference(kind="Moth")}
        ),
        kind("Lamp", 5),
    ),
    objects=things("Moth", *((float(i), 0.0) for i in range(len(EXTREMES)))),
    has={"a": 1.7e308, "b": -1e-300, "yes": True, "title": "x"},
    places=(Area(name="pond", x=0, y=0, shape=Circle(radius=10)),),
)
INDEX = Index(LEVEL)


def extreme_world():
    world = World(Program(LEVEL))
    world.variables["v/number"][:] = EXTREMES
    world.variables["w/number"][:] = EXTREMES[::-1]
    return world


OF_ONE = (
    "abs", "sign", "round", "floor", "ceil", "sqrt", "exp", "log", "sin", "cos", "tan", "asin", "acos", "atan",
    "radians", "degrees",
)  # fmt: skip
OF_TWO = ("min", "max", "atan2", "random", "turn", "pick")
OF_THREE = ("clamp", "mix")
WRITTEN_OUT = ("count_where", "text", "join", "point")
"""Functions that the random formulas below call."""

numbers = st.recursive(
    st.sampled_from(
        [
            "Moth.v",
            "Moth.w",
            "level.a",
            "level.b",
            "0",
            "1e308",
            "1e-308",
            "time",
            "-7",
            "pointer.x",
            "Moth.x",
        ]
    ),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from(["+", "-", "*", "/", "^", "mod"]), inner).map(
            lambda p: f"({p[0]} {p[1]} {p[2]})"
        ),
        inner.map(lambda a: f"(-{a})"),
        st.tuples(
            st.sampled_from(OF_ONE),
            inner,
        ).map(lambda p: f"{p[0]}({p[1]})"),
        st.tuples(st.sampled_from(OF_TWO), inner, inner).map(lambda p: f"{p[0]}({p[1]}, {p[2]})"),
        st.tuples(inner, inner, st.sampled_from("xy")).map(lambda p: f"point({p[0]}, {p[1]}).{p[2]}"),
        st.tuples(inner, inner, inner).map(lambda p: f"offset(({p[0]}, {p[1]}) * 2, {p[2]}, 3).y"),
        st.tuples(inner, inner).map(lambda p: f"between(Moth, ({p[0]}, 1), {p[1]}).x"),
        st.tuples(st.sampled_from(OF_THREE), inner, inner, inner).map(
            lambda p: f"{p[0]}({p[1]}, {p[2]}, {p[3]})"
        ),
        st.tuples(inner, st.sampled_from(["<", "=", ">=", "<>"]), inner, inner, inner).map(
            lambda p: f"if({p[0]} {p[1]} {p[2]}, {p[3]}, {p[4]})"
        ),
        inner.map(lambda a: f"count_where(Moth, {a} > 0)"),
    ),
    max_leaves=8,
)
formulas = st.one_of(
    numbers,
    st.tuples(numbers, st.sampled_from(["<", "=", ">=", "<>"]), numbers).map(
        lambda p: f"{p[0]} {p[1]} {p[2]}"
    ),
    numbers.map(lambda a: f"text({a})"),
    st.tuples(numbers, numbers).map(lambda p: f'join("is ", {p[0]}, {p[1]} < 3)'),
    numbers.map(lambda a: f'text({a}) = "3"'),
)


@settings(max_examples=200, deadline=None)
@given(formulas)
def test_any_formula_gives_a_value_or_a_fault_in_columns_and_one_by_one_alike(source):
    formula = compile_formula(INDEX, source)
    world = extreme_world()
    table = table_of(Candidates(1))
    for role in formula.roles:
        table = join_role(world, table, INDEX.role_tokens[role])
    with np.errstate(all="ignore"):
        whole, bad = worked_out(world, table, formula)
        for at in range(table.n if formula.roles and "random" not in source and "pick" not in source else 0):
            value, fault = worked_out(world, table.take(np.array([at])), formula)
            assert fault[0] == bad[at], f"{source} for {at}"
            if not bad[at]:
                same = whole[at] == value[0] or (
                    isinstance(value[0], float) and math.isclose(value[0], whole[at], rel_tol=1e-12)
                )
                assert same, f"{source} for {at}: {whole[at]} and {value[0]}"


def worked_out(world, table, formula):
    view = View(world, table, 0)
    value = np.broadcast_to(np.asarray(formula.evaluate(view)), (table.n,)).tolist()
    faulted = view.faulted()
    bad = [False] * table.n if faulted is None else faulted.tolist()
    for one, fault in zip(value, bad, strict=True):
        assert fault or not isinstance(one, float) or math.isfinite(one)
    assert all(sentence for _, sentence in view.faults)
    return value, bad


@pytest.mark.parametrize(
    "text",
    ["{exp(1000)}", "{sqrt(-level.a * 10)} and {log(0 - exp(900))}", "{1e308 * 10}", "{5 mod exp(800)}"],
)
def test_a_text_with_an_endless_number_is_a_fault(text):
    view = View(extreme_world(), table_of(Candidates(1)), 0)
    with np.errstate(all="ignore"):
        assert isinstance(compile_template(INDEX, text).evaluate(view), str)
    assert view.faults


def test_functions_over_nobody_give_nothing_and_no_error():
    world = extreme_world()
    nobody = join_role(world, table_of(Candidates(1)), INDEX.role_tokens["Lamp"])
    for source in (
        "sqrt(-Lamp.x)",
        "log(Lamp.x - 5)",
        "text(Lamp.x / 0)",
        "Lamp.x mod 0",
        "asin(Lamp.x + 7)",
    ):
        compile_formula(INDEX, source).evaluate(View(world, nobody, 0))


HUGE = ["1e19", "1e308", "-1e308", "1e-308"]


@pytest.mark.parametrize("number", HUGE)
@pytest.mark.parametrize(
    ("action", "slot"),
    [
        (c("create", kind="Lamp", where="Moth"), "count"),
        (c("create_ring", kind="Lamp", where="Moth", count="3"), "radius"),
        (c("create_ring", kind="Lamp", where="Moth", radius="5"), "count"),
        (c("wait"), "time"),
        (c("move_by", who="Moth", dy="0"), "dx"),
        (c("put_at_point", who="Moth", y="0"), "x"),
        (c("move_by_over", who="Moth", dx="1e308", dy="5"), "time"),
        (c("move_by_over", who="Moth", dy="5", time="1"), "dx"),
        (c("set_velocity", who="Moth", dy="0"), "dx"),
        (c("launch", who="Moth", angle="30"), "speed"),
        (c("push", who="Moth", dx="1e308"), "dy"),
        (c("turn_by", who="Moth"), "angle"),
        (c("set_scale", who="Moth"), "scale"),
        (c("set_depth", who="Moth"), "depth"),
        (c("set_mass", who="Moth"), "mass"),
        (c("set_gravity", who="Moth"), "gravity"),
        (c("set_variable", variable="Moth.x"), "value"),
        (c("set_variable", variable="Moth.vx"), "value"),
        (c("set_variable", variable="Moth.scale"), "value"),
        (c("add_to", variable="Moth.v"), "amount"),
        (c("multiply", variable="level.a"), "factor"),
        (c("say", text="x", who="Moth"), "time"),
        (Clause(use="repeat", of=(add("Moth.w"),)), "count"),
    ],
)
def test_a_rule_with_a_number_beyond_all_measure_runs_on(action, slot, number):
    clause = replace(action, slots={**action.slots, slot: number})
    wall = kind("Wall", box=(4, 100), contact="fixed")
    moth = replace(LEVEL.kinds[0], contact="movable")
    built = replace(
        LEVEL,
        kinds=(moth, LEVEL.kinds[1], wall),
        objects=(*LEVEL.objects[:3], *things("Wall", (50, 0), first=90)),
        order=(rule("r", when=START, do=[clause, add("level.b")]),),
        settings=Settings(gravity=600.0, most_creations=100, most_repeats=50),
    )
    made = run(built, 20)
    for column in ("x", "y", "vx", "vy", "angle", "scale"):
        assert np.isfinite(getattr(made.world, column)).all(), column


def test_times_of_expectations_beyond_every_run_could_not_be_judged():
    from gatillo.inspect.expectations import judge

    built = level(
        rule("r", when=START, do=add("level.n")),
        has={"n": 0.0},
        expect=(HoldsAt(formula="level.n = 1", time=1e9),),
    )
    assert judge(run(built))[0].outcome == "could not be judged"


def test_a_setting_of_what_lacks_the_behaviour_is_a_fault():
    mover = kind("Mover", 5, behaviours=(c("go_to_goal", goal="pointer"),))
    r = rule("r", when=START, do=c("set_setting", setting="go to goal: speed", who="anything", value="3"))
    made = run(
        level(
            r,
            kinds=(mover, kind("Lamp", 5)),
            objects=(*things("Mover", (0, 0)), *things("Lamp", (9, 9), first=5)),
        ),
        2,
    )
    assert "Lamp does not have “go to goal”" in made.trace.faults[0].sentence
    assert made.world.variables["go_to_goal.speed"].tolist()[0] == 3


def test_a_setting_of_a_behaviour_that_cannot_run_is_a_fault():
    mover = kind("Mover", 5, behaviours=(c("circle_around", centre="Nobody there"),))
    r = rule("r", when=START, do=c("set_setting", setting="circle around: radius", who="Mover", value="3"))
    program = Program(level(r, kinds=(mover,), objects=things("Mover", (0, 0))))
    made = Run(program, program.level.trials[0])
    made.advance(2)
    assert "no kind has a “circle around” that can run" in made.trace.faults[0].sentence


def test_a_behaviour_that_cannot_run_is_not_on():
    mover = kind("Mover", 5, behaviours=(c("circle_around", centre="Nobody there"),))
    asks = rule(
        "asks",
        if_=c("behaviour_is_on", behaviour="circle around", who="Mover"),
        do=add("level.n"),
        else_=add("level.n", "100"),
    )
    program = Program(level(asks, kinds=(mover,), objects=things("Mover", (0, 0)), has={"n": 0.0}))
    made = Run(program, program.level.trials[0])
    made.advance(1)
    assert made.world.level["n"] == 100


def test_a_repeat_over_too_many_matches_is_a_fault():
    inner = Clause(use="repeat", slots={"count": "Moth.x + another_Moth.x"}, of=(add("level.b"),))
    built = replace(LEVEL, order=(rule("r", when=START, do=inner),), settings=Settings(most_matches=20))
    assert "bound is 20" in run(built, 2).trace.faults[0].sentence


def test_lint_tells_of_messages_that_answer_one_another_however_they_are_sent():
    one = rule("one", when=c("message_heard", message="a"), else_=c("send_from", who="Moth", message="b"))
    two = rule(
        "two",
        when=c("message_heard", message="b"),
        do=Clause(use="repeat", of=(c("send_message", message="a"),)),
    )
    assert any(
        "cause one another without end" in f.message for f in findings(replace(LEVEL, order=(one, two)))
    )


@pytest.mark.parametrize(
    "name", ["most_objects", "most_creations", "most_messages", "most_matches", "most_repeats"]
)
@pytest.mark.parametrize("value", [0, -1, 2**62])
def test_a_levels_own_bounds_have_bounds(name, value):
    import json

    from gatillo.files.level_file import LevelFileError, decode_level, encode_level

    data = json.loads(encode_level(LEVEL))
    data.setdefault("settings", {})[name] = value
    with pytest.raises(LevelFileError, match=name):
        decode_level(json.dumps(data).encode())


@pytest.mark.parametrize("long", [3_000, 200_000])
def test_no_sentence_about_a_level_is_longer_than_a_few_lines(long):
    name = "x" * long
    r = rule(
        name,
        when=c("message_heard", message=name),
        if_=c("formula_holds", formula=f"{name} > 3"),
        do=[c("remove", who=name), c("create", kind=name, where=name)],
    )
    built = level(r, has={"n": 0.0})
    assert all(len(f.sentence()) <= 400 for f in findings(built))
    assert all(len(p.sentence()) <= 400 for p in Program(built).problems)


def test_every_function_is_among_the_random_formulas_or_needs_an_object():
    needs = {
        n
        for n, f in FUNCTIONS.items()
        if not f.arguments
        or {
            "role",
            "location",
            "route",
            "area",
            "kind",
            "kind variable",
            "message",
            "timer",
            "item",
            "key",
            "card",
        }
        & set(f.arguments)
    }
    assert {*OF_ONE, *OF_TWO, *OF_THREE, *WRITTEN_OUT} | needs == set(FUNCTIONS)
    with pytest.raises(FormulaError):
        compile_formula(INDEX, "nothing()")


def test_values_that_are_finite_but_not_their_sum_are_no_fault():
    built = level(
        rule(
            "r",
            when=c("each_in_every_tick", who="Moth"),
            do=[add("Moth.n", "Moth.x * 1e306"), c("note", text="{Moth.n}")],
        ),
        kinds=(kind("Moth", 5, has={"n": 0.0}),),
        objects=things("Moth", *((150.0, 0.0),) * 3),
    )
    made = run(built, 1)
    assert not made.trace.faults
    assert [value.tolist() for value in made.world.variables.values()] == [[1.5e308] * 3]
