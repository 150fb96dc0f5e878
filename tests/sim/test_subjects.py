"""What a rule is about: subjects, negation, else; one effect per match; what was removed; keys that abut."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, fired, isnt, kind, level, rule, run, things
from gatillo.level.model import Clause, Input, KeyBar
from gatillo.sim.world.input_script import Script, tick_at

BOAT = kind("Boat", 5, has={"v": 0.0}, contact="none")
LAMP = kind("Lamp", 5, has={"v": 0.0}, contact="none")
NEAR = {"who": "Boat", "distance": "100", "where": "Lamp"}


def harbour(*order, boats=((0, 0), (500, 0)), lamps=((50, 0), (-50, 0)), **more):
    return level(
        *order,
        kinds=(BOAT, LAMP),
        objects=(*things("Boat", *boats), *things("Lamp", *lamps, first=50)),
        has={"a": 1.0, "b": 0.0, "on": False},
        **more,
    )


def boats(world):
    return world.values_of([0, 1], "v/number").tolist()


def test_a_condition_brings_in_each_one_that_it_finds_and_else_is_for_those_that_found_none():
    r = rule("r", if_=c("within", **NEAR), do=add("Boat.v"), else_=add("Boat.v", "100"))
    assert boats(run(harbour(r), 1).world) == [2, 100]


def test_negated_it_holds_for_those_that_have_none_and_brings_none_in():
    r = rule("r", if_=isnt("within", **NEAR), do=add("Boat.v"), else_=add("Boat.v", "100"))
    assert boats(run(harbour(r), 1).world) == [100, 1]
    assert boats(run(harbour(r, lamps=()), 1).world) == [1, 1]
    none = rule("r", if_=Clause(use="none_of", of=(c("within", **NEAR),)), do=add("Boat.v"))
    assert boats(run(harbour(none), 1).world) == [0, 1]


def test_without_an_occasion_every_object_is_on_one_side_or_the_other():
    r = rule(
        "r",
        if_=c("compare", left="Boat.x", comparison=">", right="1"),
        do=add("Boat.v"),
        else_=add("Boat.v", "10"),
    )
    assert boats(run(harbour(r), 1).world) == [10, 1]


def test_where_all_roles_are_there_negation_and_else_are_of_the_pair():
    both = [c("formula_holds", formula="Boat.x < 9999 and Lamp.x < 9999")]
    r = rule("r", if_=[*both, isnt("within", **NEAR)], do=add("level.a"), else_=add("level.b"))
    world = run(harbour(r), 1).world
    # the boat far off has two lamps that are not near
    assert world.level["a"] == 1 + 2
    assert world.level["b"] == 1, "the near boat found lamps, but no pair of it is far apart"


@pytest.mark.parametrize(
    ("action", "end"),
    [
        (c("set_variable", variable="level.a", value="level.a + 1"), 4.0),
        (c("set_variable", variable="level.a", value="level.a * 2"), 8.0),
        (c("multiply", variable="level.a", factor="2"), 8.0),
        (c("add_to", variable="level.a", amount="level.a"), 8.0),
    ],
)
def test_three_matches_that_read_what_they_write_have_three_effects(action, end):
    r = rule(
        "r",
        when=c("each_in_every_tick", who="Lamp"),
        if_=c("formula_holds", formula="Lamp.x < 9999"),
        do=action,
    )
    assert run(harbour(r, lamps=((1, 0), (2, 0), (3, 0))), 1).world.level["a"] == end


def test_toggling_thrice_toggles():
    r = rule("r", when=c("each_in_every_tick", who="Lamp"), do=c("toggle", variable="level.on"))
    for lamps, end in ((3, True), (2, False)):
        world = run(harbour(r, lamps=tuple((float(i), 0.0) for i in range(lamps))), 1).world
        assert world.level["on"] is end


def test_matches_that_write_one_objects_variable_go_in_their_order():
    pairs = c("formula_holds", formula="Boat.x < 9999 and Lamp.x < 9999")
    r = rule("r", if_=pairs, do=c("set_variable", variable="Boat.v", value="Boat.v * 10 + Lamp.x"))
    assert boats(run(harbour(r, lamps=((1, 0), (2, 0), (3, 0))), 1).world) == [123, 123]
    push = rule("p", when=START, if_=pairs, do=c("push", who="Boat", dx="Lamp.x"))
    assert run(harbour(push, lamps=((1, 0), (2, 0))), 1).world.vx[:2].tolist() == [3, 3]


def test_an_action_that_does_not_read_what_it_writes_works_out_all_values_first():
    swap = rule(
        "s",
        when=START,
        if_=c("formula_holds", formula="Boat.x <> another_Boat.x"),
        do=c("put_at", who="Boat", where="another Boat"),
    )
    assert run(harbour(swap), 1).world.x[:2].tolist() == [500, 0]


@pytest.mark.parametrize("who", ["Lamp 2", "Lamp", "any bright"])
def test_what_was_removed_can_still_be_read_by_the_rest_of_the_list(who):
    lamp = replace(LAMP, tags=("bright",))
    role = who.replace(" ", "_")
    r = rule(
        "r",
        when=START,
        do=[c("remove", who=who), c("set_variable", variable="level.b", value=f"level.b + {role}.x")],
    )
    built = harbour(r, lamps=((3, 0), (40, 0)))
    made = run(replace(built, kinds=(BOAT, lamp)), 3)
    assert made.world.level["b"] == (40 if who == "Lamp 2" else 43)
    after = rule("after", when=EVERY_TICK, if_=c("formula_holds", formula=f"{role}.x > 0"), do=add("level.a"))
    made = run(replace(built, kinds=(BOAT, lamp), order=(r, after)), 3)
    assert made.world.level["a"] == 1, "rules below match it no more"


def test_several_under_the_pointer_match_by_their_age():
    r = rule(
        "r",
        when=c("pointer_pressed_on", button="left", a="Boat", which="all under it"),
        do=c("set_variable", variable="level.b", value="level.b * 10 + Boat.v"),
    )
    built = harbour(r, boats=((0, 0), (1, 0), (2, 0)), lamps=(), keys=(("pointer left", 0.1, 0.2),))
    objects = tuple(
        replace(o, values={"v": float(i + 1)}, depth=float(-i)) for i, o in enumerate(built.objects)
    )
    assert run(replace(built, objects=objects)).world.level["b"] == 123


@pytest.mark.parametrize(
    ("given_", "kept"), [(540.0, 180.0), (-180.0, 180.0), (-90.5, -90.5), (1000.25, -79.75)]
)
def test_an_angle_from_the_file_is_kept_in_half_a_turn(given_, kept):
    built = harbour()
    built = replace(built, objects=(replace(built.objects[0], angle=given_), *built.objects[1:]))
    assert run(built, 1).world.angle[0] == kept


# keys


def downs(bars, rate, ticks):
    """For each tick, whether a key is down: pressed, held and released, as a run has it."""
    built = harbour(keys=(), seconds=ticks / rate, rate=rate)
    trial = built.trials[0]
    keys = tuple(KeyBar(key="A", start=a, end=b) for a, b in bars)
    built = replace(built, trials=(replace(trial, input=Input(keys=keys)),))
    made = run(built)
    states = []
    for tick in range(1, made.done + 1):
        world = made.world_at(made.end_of(tick))
        states.append(("A" in world.input.pressed, "A" in world.input.held, "A" in world.input.released))
    return states


def test_a_bar_that_begins_in_the_tick_in_which_another_ends_is_not_lost():
    states = downs([(0, 0.101), (0.11, 1.0)], 60, 30)
    assert [held for _, held, _ in states] == [True] * 30
    assert [t + 1 for t, (pressed, _, _) in enumerate(states) if pressed] == [1, 7]
    assert [t + 1 for t, (_, _, released) in enumerate(states) if released] == [7]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 0.5), st.floats(0, 0.2)), min_size=1, max_size=5),
    st.sampled_from([30, 60, 120]),
)
def test_a_key_is_down_wherever_one_of_its_bars_is(bars, rate):
    bars = [(start, start + long) for start, long in bars]
    states = downs(bars, rate, rate)
    # the union of the bars, in seconds
    union: list[list[float]] = []
    for start, end in sorted(bars):
        if union and start <= union[-1][1]:
            union[-1][1] = max(union[-1][1], end)
        else:
            union.append([start, end])
    spans = [(tick_at(a, rate), tick_at(b, rate)) for a, b in union]
    for tick, (pressed, held, released) in enumerate(states, 1):
        assert held == any(a <= tick < b or a == b == tick for a, b in spans)
        assert pressed == any(a == tick for a, _ in spans)
        assert released == any(b == tick for _, b in spans)


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(1, 30), st.integers(0, 8)), max_size=5))
def test_what_was_recorded_reads_back_as_the_same_key_events(bars):
    keys = tuple(KeyBar(key="A", start=a / 60, end=(a + n) / 60) for a, n in bars)
    first = Script(Input(keys=keys), 60)
    again = Script(first.as_input(60), 60)
    assert again.events == first.events


def test_the_else_of_a_rule_with_a_fault_in_its_match_table_is_left():
    r = rule(
        "r",
        if_=c("formula_holds", formula="Boat.x <> another_Boat.x"),
        do=add("level.a"),
        else_=add("level.b"),
    )
    built = harbour(r, boats=tuple((float(i), 0.0) for i in range(40)))
    built = replace(built, settings=replace(built.settings, most_matches=100))
    made = run(built, 1)
    assert fired(made, "r") == [] and "level's bound is 100" in made.trace.faults[0].sentence


def test_a_key_that_is_down_at_the_end_is_a_bar_up_to_the_end():
    script = Script(Input(), 60)
    script.press(30, "E")
    assert [(b.key, b.start, b.end) for b in script.as_input(90).keys] == [("E", 0.5, 1.5)]
    # pressed in the last tick, it is down in that tick
    script.press(120, "F")
    assert [(b.key, b.start, b.end) for b in script.as_input(90).keys] == [("E", 0.5, 1.5), ("F", 2.0, 2.0)]
    script.release(60, "E")
    assert script.as_input(90).keys[0].end == 1.0
