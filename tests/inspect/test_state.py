"""What differs between two worlds: every declared part of the state is looked at, and told by its name."""

from __future__ import annotations

from dataclasses import fields

import numpy as np
import pytest
from msgspec.structs import replace

from building import EVERY_TICK, POD, START, add, c, fired, kind, level, rule, run, things
from gatillo.inspect.comparison import compare, first_parted
from gatillo.inspect.order import order_findings, swap
from gatillo.inspect.reasons.sides import why_on_both_sides
from gatillo.inspect.state import differences
from gatillo.level.model import Area, Circle, Settings
from gatillo.sim.program.program import Program
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.records import Memory, Wait
from gatillo.sim.world.world import PARTS, RECORDS, World
from other_values import another

NUMBERS = np.array([1], dtype=np.int64)
BY = {
    "": lambda value: value,
    "pointer": lambda value: value,
    "object": lambda value: {1: 1.0},
    "object and name": lambda value: {(1, "key"): 2.0},
    "name": lambda value: {"go": 1.0},
    "rule": lambda value: {0: 3},
    "rule and card": lambda value: {(0, 0): Memory(held={1})},
    "line": lambda value: {(0, "when", 0, "told"): frozenset({1})},
    "card": lambda value: {(30, 1): {(): {None: 1.0}}},
    "wait": lambda value: [Wait(3, 1, 0, "do", 1, {"Pod": NUMBERS}, 1, [1])],
    "alarm": lambda value: [(0.5, 0)],
    "pair": lambda value: np.array([1 << 32 | 2], dtype=np.int64),
    "area": lambda value: {"bed": NUMBERS},
}
"""By what a part is kept by: another value than the one it begins with."""


def worlds():
    built = level(
        rule("pulse", when=c("every_seconds", period="1", first="1"), do=add("level.n"), id=30),
        rule("meet", when=c("begins_to_touch", a="Pod", b="another Pod"), do=add("level.n"), id=31),
        rule("in", when=c("enters", a="Pod", place="bed"), do=add("level.n"), id=32),
        rule("under", when=c("pointer_comes_over", a="Pod"), do=add("level.n"), id=33),
        has={"n": 0.0},
        kinds=(
            kind(
                "Pod", has={"v": 0.0, "mood": "calm"}, tags=("seed",), behaviours=(c("wander", where="bed"),)
            ),
        ),
        objects=things("Pod", (0, 0), (99, 0)),
        places=(Area(name="bed", x=0, y=0, shape=Circle(radius=9)),),
    )
    program = Program(built)
    assert not program.problems
    return World(program), World(program)


def told(one, other):
    return {
        sort: [p.name for p in differences(one, other, sort)] for sort in ("value", "memory", "bookkeeping")
    }


def test_two_worlds_alike_do_not_differ():
    assert told(*worlds()) == {"value": [], "memory": [], "bookkeeping": []}


@pytest.mark.parametrize("name", [n for n in COLUMNS if n not in ("kind", "alive", "id")])
def test_a_column_that_differs_is_found(name):
    one, other = worlds()
    setattr(other, name, another(name, getattr(other, name)))
    found = told(one, other)
    assert found.pop(COLUMNS[name].sort) == [f"Pod 1.{name.replace('_', ' ')}"]
    assert not any(found.values())


def test_a_variable_a_setting_and_what_a_behaviour_remembers_are_found():
    for sort, wanted in (("value", 5), ("memory", 4)):
        names = set()
        for key in worlds()[1].variables:
            one, other = worlds()
            other.variables[key] = another(key, other.variables[key])
            names |= set(told(one, other)[sort])
        assert len(names) >= wanted, names
    for key in worlds()[1].variables:
        one, other = worlds()
        other.variables[key] = another(key, other.variables[key])
        assert sum(map(len, told(one, other).values())) == 1, key


@pytest.mark.parametrize(
    "record, name", [(r, f.name) for r, made in RECORDS.items() for f in fields(made)], ids=lambda part: part
)
def test_a_part_of_a_record_that_differs_is_found(record, name):
    one, other = worlds()
    owner = getattr(other, record)
    part = next(f for f in fields(owner) if f.name == name).metadata["part"]
    value = getattr(owner, name)
    changed = BY[part.by](value)
    setattr(owner, name, another(name, value) if changed is value else changed)
    found = told(one, other)
    assert len(found.pop(part.sort)) == 1
    assert not any(found.values())


@pytest.mark.parametrize("name", [n for n in PARTS if n != "level"])
def test_a_part_beside_columns_and_records_that_differs_is_found(name):
    one, other = worlds()
    value = getattr(other, name)
    changed = BY[PARTS[name].by](value)
    setattr(other, name, another(name, value) if changed is value else changed)
    if name == "tags":
        other.tags = {"wet": np.array([True, False])}
    found = told(one, other)
    assert len(found.pop(PARTS[name].sort)) == 1
    assert not any(found.values())


@pytest.mark.parametrize(
    "action, more, words",
    [
        (c("set_scale", who="Pod", scale="{}"), {}, "Pod 1.scale"),
        (c("set_mass", who="Pod", mass="{}"), {}, "Pod 1.mass"),
        (c("set_depth", who="Pod", depth="{}"), {}, "Pod 1.depth"),
        (c("tell_player", text="{}"), {}, "the message to the player"),
        (c("start_timer", timer="t{}"), {}, "timer t2"),
        (c("give", who="Pod", count="1", item="i{}"), {}, "Pod 1.i2 held"),
        (c("set_colour", who="Pod", colour="#00000{}"), {}, "Pod 1.colour"),
        (c("give_tag", who="Pod", tag="t{}"), {}, "Pod 1.tag t2"),
    ],
)
def test_two_runs_that_differ_in_it_are_told_apart_and_an_exchange_is_not_said_to_change_no_value(
    action, more, words
):
    def does(number, id):
        slots = {name: value.format(number) for name, value in action.slots.items()}
        return rule(f"r{number}", when=START, do=replace(action, slots=slots), id=id)

    def built(*order):
        return level(*order, kinds=(replace(POD, contact="movable"),), objects=things("Pod", (0, 0)))

    one, other = run(built(does(2, 1))), run(built(does(3, 1)))
    parted = first_parted(one, other)
    assert words in [p.name for p in parted]
    for side in (p for p in parted for p in why_on_both_sides(one, other, p)):
        assert side.sentence
    both = built(does(2, 1), does(3, 2))
    made = run(both)
    for found in order_findings(made):
        swap(both, made, found)
        # what is kept by a name of its own is no matter of the order
        by_name = action.use in ("start_timer", "give", "give_tag")
        assert ("all values are the same" in found.sentence()) is by_name


def test_firings_of_two_rules_are_not_one_that_moved():
    one = run(level(rule("a", when=START, do=add("level.n"), id=1), has={"n": 0.0}))
    other = run(level(rule("b", when=START, do=add("level.n"), id=2), has={"n": 0.0}))
    assert compare(one, other).words() == "1 firing gone, 1 new"


def test_a_do_and_an_else_in_one_tick_are_not_one_that_moved():
    def built(limit):
        one = rule(
            "a",
            when=START,
            if_=c("formula_holds", formula=f"level.n > {limit}"),
            do=add("level.n"),
            else_=add("level.n"),
            id=1,
        )
        return run(level(one, has={"n": 0.0}))

    found = compare(built(-1), built(1))
    assert (found.words(), found.moved) == ("1 firing gone, 1 new", {})


def test_a_rule_that_only_one_level_has_is_no_value_that_parted():
    looks = rule(
        "looks", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 9"), do=add("level.n"), id=2
    )
    once = rule("once", when=EVERY_TICK, do=add("level.n"), fires="first time only", id=1)
    one = run(level(once, has={"n": 0.0}))
    other = run(level(once, looks, has={"n": 0.0}))
    assert fired(one, "once") == fired(other, "once")
    assert first_parted(one, other) == []
    quiet = run(level(once, looks, has={"n": 0.0}, settings=Settings(rate=60)))
    assert first_parted(other, quiet) == []


def test_a_text_that_an_object_says_is_listed_with_its_end_in_seconds():
    """Such as on the page of the order of rules."""
    said = [rule("r", when=START, do=c("say", who="Moth", text=text, time="2")) for text in ("hi", "ho")]
    kinds, moth = (kind("Moth"),), things("Moth", (0, 0))
    before, after = (run(level(one, kinds=kinds, objects=moth), 3).world for one in said)
    (parted,) = differences(before, after)
    assert parted.before.startswith("“hi”, until 2.0") and parted.before.endswith(" s")
