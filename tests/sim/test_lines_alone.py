"""A line for one match does the same in plain numbers and over arrays, to the last bit; so do formulas."""

from __future__ import annotations

import inspect

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import add, c, kind, level, rule, things
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.formula.compiling import compile_formula
from gatillo.graphs.conversion import as_graph
from gatillo.inspect.watching import Following
from gatillo.level.model import (
    Area,
    Circle,
    Clause,
    Graph,
    Node,
    Point,
    Rectangle,
    Reference,
    Spot,
    Wire,
)
from gatillo.sim.program.program import Program
from gatillo.sim.rules import lines_alone
from gatillo.sim.rules.one_match import OneMatch
from gatillo.sim.run.run import Run

ALONE = sorted(name for name, entry in CATALOGUE.items() if entry.alone is not None)
TRIES = settings(max_examples=25, deadline=None)

NUMBERS = (
    "0",
    "-3.25",
    "Moth.x - Lamp.y",
    "level.n / (level.n - 2)",
    "Moth.own ^ 2 mod 7",
    "distance(Moth, Lamp) * dt",
    "direction(Lamp, spot)",
    "random(-5, 5)",
    "clamp(level.n, 1, 3) + min(Moth.x, 4, level.n)",
    "if(level.flag, bearing(Moth, Lamp), facing(Lamp))",
    "sqrt(Moth.x - 10)",
    "round(turn(Moth.angle, 170)) + sign(Lamp.x) * abs(Moth.y)",
    "1e300 * level.n ^ 3",
    "count(Moth) + count_in(Moth, court) + highest(Moth.own)",
    'timer("oven") + items(Moth, "key") + time - tick',
    "speed(Moth) + pointer.x - court.y",
    "sin(Moth.angle) * cos(level.n) + atan2(Moth.y, Moth.x)",
    "pick(1, 2, 3)",
    "10",
    "level.n",
)
TRUTHS = (
    "Moth.x > Lamp.x and level.n <> 3",
    "not level.flag or distance(Moth, Lamp) < 20",
    "level.who = Moth",
    'Moth.name = "Moth 1" and level.word <> ""',
    'key_down("W") or Moth.lit',
    "level.who = nobody",
    "sqrt(Moth.x) < 3",
    "level.n / (tick - 3) > 1",
    "if(tick mod 2 = 0, level.flag, not level.flag)",
)


def slot_text(chance, entry, slot):
    """Something of everything that a slot may hold."""
    among = {
        "role": ("Moth", "Lamp", "Moth 1", "Lamp 1", "another Moth", "light", "friend of Moth"),
        "where": ("Lamp", "spot", "court", "pointer", "nose of Moth", "Moth 1"),
        "number": NUMBERS,
        "seconds": NUMBERS,
        "yes/no formula": TRUTHS,
        "number variable": ("level.n", "Moth.own", "Lamp.own", "Moth.x", "Moth.angle", "Lamp.scale"),
        "yes/no variable": ("level.flag", "Moth.lit", "Moth.shown"),
        "area": ("court", "pond"),
        "item": ("key",),
    }
    if slot.type == "choice":
        return str(chance.choice(slot.options))
    return str(chance.choice(among[slot.type])) if slot.type in among else slot.default


def filled(chance, name):
    entry = CATALOGUE[name]
    slots = {at: slot_text(chance, entry, slot) for at, slot in entry.slots.items()}
    if "value" in slots and "variable" in slots:
        pairs = [("level.n", n) for n in NUMBERS] + [("Moth.own", n) for n in NUMBERS]
        pairs += [("level.flag", t) for t in TRUTHS] + [("level.who", "Lamp"), ("level.word", "Moth.name")]
        pairs += [("Moth.friend", "Lamp"), ("Lamp.angle", "Moth.own"), ("Moth.y", "Lamp.y + 1")]
        slots["variable"], slots["value"] = pairs[int(chance.integers(len(pairs)))]
    return Clause(use=name, slots=slots, negated=entry.group == "condition" and bool(chance.random() < 0.3))


def random_level(name, seed):
    chance = np.random.default_rng(seed)
    entry = CATALOGUE[name]
    conditions = [filled(chance, name)] if entry.group == "condition" else []
    actions = [filled(chance, name)] if entry.group == "action" else [add("level.n", "1")]
    others = [n for n in ALONE if CATALOGUE[n].group == "action"]
    actions += [filled(chance, str(chance.choice(others))) for _ in range(int(chance.integers(0, 3)))]
    if chance.random() < 0.4:
        conditions += [
            filled(chance, str(chance.choice([n for n in ALONE if CATALOGUE[n].group != "action"])))
        ]
    when = [
        (),
        c("every_tick"),
        c("each_in_every_tick", who="Moth"),
        c("begins_to_touch", a="Moth", b="Lamp"),
        c("key_held", key="W"),
    ][int(chance.integers(5))]
    spot = chance.uniform(-40, 40, (6, 2)).round(1)
    places = tuple(map(tuple, spot.tolist()))
    many = int(chance.integers(1, 3))
    own = {"own": 2.5, "lit": True, "friend": Reference(to="Lamp 1", kind="Lamp")}
    moth = kind(
        "Moth",
        box=(6.0, 4.0) if chance.random() < 0.5 else None,
        has=own,
        tags=("light",) if chance.random() < 0.5 else (),
        contact=str(chance.choice(["none", "sensed", "movable"])),
        drawn_facing=float(chance.choice([0.0, 90.0])),
        points=(Point(name="nose", x=3.0, y=1.0),),
    )
    lamp = kind("Lamp", 6, has={"own": 1.0}, tags=("light",), contact="sensed")
    return level(
        rule(
            "it",
            when=when,
            if_=tuple(conditions),
            do=tuple(actions),
            else_=(add("level.n", "0.5"),) if chance.random() < 0.2 else (),
        ),
        rule("tied", when=c("level_starts"), do=c("attach", who="Moth 1", carrier="Lamp 1"))
        if chance.random() < 0.3
        else rule("given", when=c("level_starts"), do=c("give", item="key", who="Moth", count="2")),
        rule("gone", when=c("after_start", time="0.2"), do=c("remove", who="Lamp 1")),
        kinds=(moth, lamp),
        objects=(
            *things("Moth", *places[:many]),
            *things("Lamp", *places[3 : 3 + int(chance.integers(1, 3))], first=30),
        ),
        places=(
            Area(name="court", x=0.0, y=5.0, shape=Rectangle(width=50.0, height=40.0)),
            Area(name="pond", x=5.0, y=0.0, shape=Circle(radius=20.0)),
            Spot(name="spot", x=12.5, y=-3.0),
        ),
        has={"n": 3.0, "flag": True, "word": "so", "who": Reference(to="Moth 1", kind="Moth")},
        keys=(("W", 0.05, 0.25),),
        seconds=0.35,
    )


def run_of(built, alone):
    kept = lines_alone.ALONE
    lines_alone.ALONE = alone
    try:
        program = Program(built)
        made = Run(program, built.trials[0])
        states = []
        made.after_tick = lambda world: states.append(world.state_bytes())
        made.advance()
        return program, made, states
    finally:
        lines_alone.ALONE = kept


@pytest.mark.parametrize("name", ALONE)
@given(st.integers(0, 1_000_000))
@TRIES
def test_a_line_is_the_same_alone_and_over_arrays(name, seed):
    built = random_level(name, seed)
    _, one, states = run_of(built, True)
    _, other, again = run_of(built, False)
    assert states == again
    assert one.trace.to_bytes() == other.trace.to_bytes()
    assert [str(f) for f in one.trace.faults] == [str(f) for f in other.trace.faults]


@pytest.mark.parametrize("name", ("set_variable", "formula_holds", "move_by", "within"))
@given(st.integers(0, 1_000_000))
@TRIES
def test_a_graph_is_the_same_with_its_lines_alone_and_over_arrays(name, seed):
    built = random_level(name, seed)
    logic = as_graph(built.order[0])
    if logic is None:
        return
    built = replace(built, order=(logic, *built.order[1:]))
    _, one, states = run_of(built, True)
    _, other, again = run_of(built, False)
    assert states == again
    assert one.trace.to_bytes() == other.trace.to_bytes()
    assert one.trace.cards_bytes() == other.trace.cards_bytes()


def test_formulas_followed_over_a_run_have_the_same_values_alone_and_over_arrays():
    texts = [*NUMBERS, *TRUTHS, "Moth_1.x", "Lamp_1", "level.word"]
    for seed in range(25):
        built = random_level("move_by", seed)
        program = Program(built)
        formulas = [compile_formula(program.index, text) for text in texts]
        values = []
        for alone in (True, False):
            kept, lines_alone.ALONE = lines_alone.ALONE, alone
            try:
                made = Run(program, built.trials[0])
                following = Following(made, formulas)
                made.advance()
                values.append([[repr(one) for one in column] for column in following.end()])
            finally:
                lines_alone.ALONE = kept
        assert values[0] == values[1]


def test_a_formula_card_is_worked_out_once_for_the_matches_of_a_turn():
    # what the card gave before the first action is what the second one is given too
    nodes = (
        Node(id=1, use="every_tick"),
        Node(id=2, use="set_variable", slots={"variable": "level.n"}),
        Node(id=3, use="formula", slots={"value": "level.n + 1"}),
        Node(id=4, use="set_variable", slots={"variable": "level.m"}),
    )
    wires = (Wire(start="1", end="2"), Wire(start="2", end="4"))
    values = (Wire(start="3", end="2.value"), Wire(start="3", end="4.value"))
    graph = Graph(id=1, name="g", nodes=nodes, wires=wires, values=values)
    built = level(graph, has={"n": 0.0, "m": 0.0}, seconds=0.05)
    for alone in (True, False):
        program, made, _ = run_of(built, alone)
        assert [p.sentence() for p in program.problems] == []
        assert (made.world.level["n"], made.world.level["m"]) == (3.0, 3.0)


def test_what_is_done_alone_asks_only_what_one_match_can_answer():
    asked = {name for api in (ActionApi, QueryApi) for name in vars(api) if not name.startswith("_")}
    for name in ALONE:
        code = inspect.unwrap(CATALOGUE[name].alone).__code__
        lost = {word for word in code.co_names if word in asked and not hasattr(OneMatch, word)}
        assert not lost, f"{name} asks {lost}"
        derived = CATALOGUE[name].derived
        assert not (derived.creates or derived.removes or derived.waits), name


def test_lines_alone_are_met_with_and_have_no_problems():
    done = problems = 0
    for seed in range(60):
        program, _, _ = run_of(random_level("set_variable", seed), True)
        lines = [line for rule in program.rules for line in (*rule.if_, *rule.do)]
        done += sum(bool(line.alone) for line in lines)
        problems += bool(program.problems)
    assert done > 60
    assert problems < 40
