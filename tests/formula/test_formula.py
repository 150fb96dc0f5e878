"""The formula language: what it computes, and what it says of mistakes."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import add, c, kind, level, rule, run, things
from gatillo.catalogue.contexts.values import Candidates
from gatillo.formula.compiling import compile_formula
from gatillo.formula.function_table import FUNCTIONS, function
from gatillo.formula.syntax import FormulaError, parse
from gatillo.formula.template import compile_template
from gatillo.formula.values import half_open_degrees
from gatillo.level.model import Area, Circle, Rectangle, Route, Spot, Stop
from gatillo.level.roles import Index
from gatillo.sim.matching.match_table import View, join_role, table_of
from gatillo.sim.program.program import Program
from gatillo.sim.world.records import Saying
from gatillo.sim.world.world import World

LEVEL = level(
    kinds=(
        kind("Moth", has={"speed": 40.0, "awake": True, "mood": "calm"}),
        kind("Head gardener", drawn_facing=90.0, has={"speed": 90.0}),
    ),
    objects=(
        *things("Moth", (0, 0), (30, 40), (-10, 0)),
        *things("Head gardener", (100, 0), first=10),
    ),
    has={"pods": 3.0, "done": False, "title": "night"},
    places=(
        Spot(name="gate", x=5, y=6),
        Route(name="way", stops=(Stop(x=0, y=0), Stop(x=10, y=0))),
        Area(name="bench", x=0, y=0, shape=Rectangle(width=20, height=10)),
        Area(name="pond", x=200, y=0, shape=Circle(radius=10)),
    ),
)
INDEX = Index(LEVEL)
SAID_BY = 2
"""The id of Moth 2."""


def view(*roles: str) -> View:
    world = World(Program(LEVEL))
    world.tick, world.time = 30, 0.5
    world.input.pointer_x, world.input.pointer_y = 7.0, 8.0
    world.display.telling = "oh"
    world.display.sayings[SAID_BY] = Saying("hm", 1.0)
    table = table_of(Candidates(1))
    for role in roles:
        table = join_role(world, table, INDEX.role_tokens[role])
    return View(world, table, 99)


def value(source: str, *roles: str):
    formula = compile_formula(INDEX, source)
    return formula.evaluate(view(*(roles or formula.roles)))


@pytest.mark.parametrize(
    ("source", "expected"),
    [
        ("1 + 2 * 3", 7),
        ("(1 + 2) * 3", 9),
        ("-2 ^ 2", -4),
        ("2 ^ 3 ^ 2", 512),
        ("2 ^ -1", 0.5),
        ("7 mod 3", 1),
        ("-7 mod 3", 2),
        ("10 - 4 - 3", 3),
        ("1e3 + .5", 1000.5),
        ("3 > 2 and not 2 > 3", True),
        ("no or yes", True),
        ('"a" = "a"', True),
        ('"say ""hi""" = "x"', False),
        ("level.pods <> 3", False),
        ("if(level.pods > 2, 10, 20)", 10),
        ('if(level.done, "over", "on")', "on"),
        ("time", 0.5),
        ("tick * dt", 0.5),
        ("pointer.x + pointer.y", 15),
        ("abs(-3)", 3),
        ("sign(-3)", -1),
        ("min(3, 1, 2)", 1),
        ("max(3, 1, 2)", 3),
        ("clamp(12, 0, 10)", 10),
        ("round(2.5)", 3),
        ("round(-2.5)", -2),
        ("floor(-0.5)", -1),
        ("ceil(0.2)", 1),
        ("sqrt(9)", 3),
        ("exp(0)", 1),
        ("log(1)", 0),
        ("sin(30)", 0.5),
        ("cos(60)", 0.5),
        ("tan(45)", 1),
        ("asin(1)", 90),
        ("acos(0)", 90),
        ("atan(1)", 45),
        ("atan2(1, -1)", 135),
        ("radians(180)", math.pi),
        ("degrees(radians(90))", 90),
        ("mix(10, 20, 0.25)", 12.5),
        ("distance(Head_gardener, gate)", math.hypot(95, 6)),
        ("direction(gate, Head_gardener)", math.degrees(math.atan2(-6, 95))),
        ("turn(170, -170)", 20),
        ("turn(10, 190)", 180),
        ("turn(0, -180)", 180),
        ("facing(Head_gardener)", 90),
        ("speed(Head_gardener)", 0),
        ("bearing(Head_gardener, gate)", 180 - 90 - math.degrees(math.atan2(6, 95))),
        ("bearing(Head_gardener, Moth_2)", math.degrees(math.atan2(40, -70)) - 90),
        ("count(Moth)", 3),
        ("total(Moth.speed)", 120),
        ("lowest(Moth.x)", -10),
        ("highest(Moth.x)", 30),
        ("average(Moth.y)", 40 / 3),
        ("count_in(Moth, pond)", 0),
        ("count_where(Moth, Moth.x > 0)", 1),
        ("count_where(Moth, distance(Moth, Head_gardener) < 1e6 and Head_gardener.x > 0)", 3),
        ('timer("oven")', 0),
        ('items(Moth_2, "key")', 0),
        ('saying(Moth_2) = "hm"', True),
        ('kind(Moth_2) = "Moth"', True),
        ("kind(Head_gardener)", "Head gardener"),
        ('telling() = "oh"', True),
        ('sent("knock", Moth_2)', 0),
        ('key_down("Space")', False),
        ("in_area(gate, bench)", False),
        ("in_area(Head_gardener, pond)", False),
        ("bench.x", 0),
        ("point(3, 4).y", 4),
        ("between(gate, bench, 0)", 5 + 6j),
        ("offset(gate, 0, 2)", 7 + 6j),
        ("along(way, 0.5)", 5 + 0j),
        ("distance(ahead(Head_gardener, 9), Head_gardener)", 9),
        ("text(2.50)", "2.5"),
        ('join("a", 1, yes)', "a1yes"),
        ("Moth_2.x", 30),
        ("Head_gardener.name", "Head gardener 1"),
    ],
)
def test_a_formula_gives_its_value(source, expected):
    got = value(source)
    got = got[0] if isinstance(got, np.ndarray) else got
    if isinstance(expected, float | int) and not isinstance(expected, bool):
        assert got == pytest.approx(expected, abs=1e-9)
    else:
        assert got == expected


def test_every_declared_function_is_tried_above_or_here():
    # those of chance above, those of graphs in tests/graph/test_kept_values.py
    tried = {"random", "pick", "random_x", "random_y", "kept", "kept_for"}
    for mark in test_a_formula_gives_its_value.pytestmark:
        for source, _ in mark.args[1]:
            tried |= {name for name in FUNCTIONS if f"{name}(" in source}
    assert tried == set(FUNCTIONS)


def test_a_role_gives_one_value_for_each_match():
    assert value("Moth.x * 2", "Moth").tolist() == [0, 60, -20]


def test_two_roles_of_a_kind_are_never_the_same_object():
    pairs = value("distance(Moth, another_Moth)", "Moth", "another_Moth")
    assert len(pairs) == 6
    assert pairs.min() > 0


def test_random_draws_differ_by_match_and_stay_within_bounds():
    drawn = value("random(5, 6)", "Moth")
    assert len(set(drawn.tolist())) == 3
    assert ((drawn >= 5) & (drawn < 6)).all()


def test_random_x_and_random_y_of_one_line_are_of_one_point_of_the_area():
    for seed in range(20):
        look = view("Moth")
        look.identity = seed
        x = compile_formula(INDEX, "random_x(pond)", first_call=0).evaluate(look)
        y = compile_formula(INDEX, "random_y(pond)", first_call=64).evaluate(look)
        assert (np.hypot(x - 200, y) <= 10).all()


def test_pick_gives_one_of_its_values():
    assert set(value("pick(1, 2, 3)", "Moth").tolist()) <= {1.0, 2.0, 3.0}
    assert set(value('pick("a", "b")', "Moth").tolist()) <= {"a", "b"}


@pytest.mark.parametrize(
    ("source", "says", "at"),
    [
        ("", "no formula here yet", 0),
        ("1 +", "breaks off", 3),
        ("(1", "breaks off", 2),
        ("1 2", "an operator such as + or * is missing", 2),
        ("1 < 2 < 3", "compare two things at a time", 6),
        ('"abc', "no closing quotation mark", 0),
        ("a & b", "write “and”", 2),
        ("1)", "cannot stand here", 1),
        ("Moht.x", "did you mean “Moth”", 0),
        ("Moth.spede", "did you mean “speed”", 5),
        ("level.podz", "did you mean “pods”", 6),
        ("pods", "write level.pods", 0),
        ("sinn(3)", "did you mean “sin”", 0),
        ("sin", "is a function: write sin(a)", 0),
        ("sin(1, 2)", "takes 1 value; here are 2", 0),
        ("min(1)", "takes 2 or more values", 0),
        ("1 + yes", "needs a number, but “yes” is a yes/no", 4),
        ("not 3", "needs a yes/no", 4),
        ('"a" < "b"', "can only be compared with = or <>", 0),
        ('1 = "a"', "cannot be compared", 0),
        ('if(yes, 1, "a")', "must be of one type", 0),
        ("if(yes, 1)", "takes 3 values", 0),
        ("distance(Moth, 3)", "is not an object, a place, a point or the pointer", 15),
        ("in_area(Moth, gate)", "is not an area", 14),
        ("count(gate)", "is not a kind", 6),
        ("total(Moth.mood)", "is not a number", 6),
        ("pointer.z", "only x and y", 0),
        ("gate.z", "it has x and y only", 0),
        ("1e999", "too large a number", 0),
        ("(" * 200 + "1" + ")" * 200, "nested too deeply", 60),
        ("-" * 5000, "at most 4000 characters", 4000),
    ],
)
def test_a_mistake_is_told_with_its_place(source, says, at):
    with pytest.raises(FormulaError) as caught:
        compile_formula(INDEX, source)
    assert says in caught.value.message
    assert caught.value.start == at


def test_a_formula_of_the_wrong_type_is_refused():
    with pytest.raises(FormulaError, match="a yes/no is needed here"):
        compile_formula(INDEX, "3", "yes/no")


@pytest.mark.parametrize(
    ("source", "says"),
    [
        ("1 / (level.pods - 3)", "divides by zero: “level.pods - 3” is 0"),
        ("5 mod 0", "remainder of a division by zero"),
        ("sqrt(level.pods - 10)", "square root of a negative number (-7)"),
        ("log(0)", "logarithm of 0"),
        ("asin(2)", "outside -1 … 1"),
        ("10 ^ 400", "no finite answer"),
        ("(-8) ^ 0.5", "no finite answer"),
        ("1e308 * 10", "no finite answer"),
    ],
)
def test_what_has_no_answer_faults_with_a_sentence_and_stays_finite(source, says):
    look = view()
    with np.errstate(all="ignore"):
        got = compile_formula(INDEX, source).evaluate(look)
    assert math.isfinite(float(got))
    assert says in look.faults[0][1]


def test_only_the_matches_without_an_answer_fault():
    look = view("Moth")
    got = compile_formula(INDEX, "100 / Moth.x").evaluate(look)
    assert look.faulted().tolist() == [True, False, False]
    assert got[1:].tolist() == [100 / 30, -10]


@pytest.mark.parametrize(
    "source", ["if(Moth.x = 0, 0, 1 / Moth.x)", "if(Moth.x <> 0 and 1 / Moth.x > 0, 1, 2)"]
)
def test_a_part_that_is_not_needed_does_not_fault(source):
    look = view("Moth")
    compile_formula(INDEX, source).evaluate(look)
    assert look.faults == []


def test_values_in_braces_are_written_into_a_text():
    text = compile_template(INDEX, "{level.pods} pods, {Moth.name}: {{calm}}")
    assert text.evaluate(view("Moth")).tolist()[0] == "3 pods, Moth 1: {calm}"


def test_a_mistake_in_braces_is_told_at_its_place_in_the_text():
    with pytest.raises(FormulaError) as caught:
        compile_template(INDEX, "there are {level.podz} left")
    assert caught.value.start == 17
    with pytest.raises(FormulaError, match="no closing }"):
        compile_template(INDEX, "there are {level.pods left")


scraps = [*"ab .0123456789+-*/^()<>=,{}'", '"', "Moth", "level.pods", "and ", "not ", "if(", "sin(", "é"]


@given(st.lists(st.sampled_from(scraps), max_size=40).map("".join))
@settings(max_examples=400, deadline=None)
def test_any_text_is_a_formula_or_a_sentence(source):
    try:
        formula = compile_formula(INDEX, source)
    except FormulaError as error:
        assert error.message
        assert 0 <= error.start < error.end
        return
    if formula.type not in ("object", "place"):
        with np.errstate(all="ignore"):
            formula.evaluate(view(*formula.roles))


numbers = st.floats(-50, 50).map(lambda v: round(v, 3))


@given(
    st.recursive(
        numbers.map(lambda v: f"({v})"),
        lambda inner: st.tuples(inner, st.sampled_from("+-*"), inner).map(
            lambda t: f"({t[0]} {t[1]} {t[2]})"
        ),
        max_leaves=12,
    )
)
@settings(max_examples=150, deadline=None)
def test_arithmetic_agrees_with_pythons(source):
    assert float(value(source)) == pytest.approx(eval(source), rel=1e-9, abs=1e-9)


def test_reading_a_formula_twice_gives_the_same_tree():
    assert parse("a.b + 1") is parse("a.b + 1")


@given(st.floats(-1e6, 1e6) | st.sampled_from([180.0, -180.0, 540.0, 180.00000000000003, -0.0]))
def test_every_angle_lies_above_minus_180_up_to_180(angle):
    turned = half_open_degrees(angle)
    assert -180 < turned <= 180
    assert half_open_degrees(np.array([angle, 1.0])).tolist() == [turned, 1.0]
    assert math.isclose(math.cos(math.radians(turned)), math.cos(math.radians(angle)), abs_tol=1e-8)


@pytest.mark.parametrize(
    "source",
    [
        "atan2(-0 * 1, -1)",
        "turn(180.00000000000003, 0.00000000000001)",
        "turn(-180, 0)",
        "direction(gate, bench)",
    ],
)
def test_functions_that_give_an_angle_never_give_minus_180(source):
    assert -180 < value(source) <= 180


def test_exactly_opposite_is_180_whichever_way_it_was_worked_out():
    assert value("atan2(-0.0, -1)") == 180
    assert value("turn(0, 180.00000000000003)") == 180


def test_a_number_that_is_written_as_0_has_no_sign():
    assert value("text(-0.0000001)") == "0"
    assert value("text(-0.25)") == "-0.25"


# what a function reads follows from its code


@pytest.fixture
def functions():
    before = dict(FUNCTIONS)
    yield FUNCTIONS
    FUNCTIONS.clear()
    FUNCTIONS.update(before)


def test_a_function_that_reads_the_clock_or_draws_is_worked_out_in_every_tick(functions):
    @function("late(a)", ("number",), "yes/no", "For a test.")
    def late(f, a):
        return f.clock("tick") > a

    def by_way(f):
        return f.draw(7)

    @function("lucky(a)", ("number",), "yes/no", "For a test.")
    def lucky(f, a):
        return f.draw(7) < a

    assert FUNCTIONS["late"].reads == {"clock"} and FUNCTIONS["lucky"].reads == {"chance"}
    for source, many in (("late(30)", 30), ("lucky(1)", 60), ("not lucky(0)", 60), ('timer("none") = 0', 60)):
        made = run(
            level(rule("r", if_=c("formula_holds", formula=source), do=add("level.n")), has={"n": 0.0})
        )
        assert made.world.level["n"] == many, source


@pytest.mark.parametrize("source", ["random_x(bed) >= 0 or yes", "random(0, 1) < 2", "random_y(bed) < 99"])
def test_a_condition_may_draw_at_random(source):
    bed = Area(name="bed", x=0, y=0, shape=Circle(radius=9))
    asks = rule("r", if_=c("formula_holds", formula=source), do=add("level.n"))
    assert run(level(asks, has={"n": 0.0}, places=(bed,))).world.level["n"] == 60


@pytest.mark.parametrize(
    "written, arguments, says",
    [
        ("abs(a)", ("number",), "two formula functions are called abs"),
        ("whoever(a)", ("somebody",), "no argument of type somebody"),
        ("two(a, b)", ("number", "number"), "declares 2 arguments, and its computation takes 1"),
    ],
)
def test_a_slip_in_a_functions_declaration_is_an_error(functions, written, arguments, says):
    with pytest.raises(TypeError, match=says):
        function(written, arguments, "number", "For a test.")(lambda f, a: a)


def test_a_function_that_takes_a_call_and_draws_nothing_is_an_error(functions):
    with pytest.raises(TypeError, match="draws nothing"):

        @function("calm(a)", ("number",), "number", "For a test.")
        def calm(f, a, *, call):
            return a
