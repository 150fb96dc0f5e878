"""Edits of rules and things: what they change, and that the level given stays as it is."""

from __future__ import annotations

import pytest

from building import START, add, c, kind, level, rule, send, things
from gatillo.level import rule_edits, thing_edits
from gatillo.level.expectations import FiresTimes
from gatillo.level.model import Area, KeyBar, Rectangle, Route, Section, Spot
from gatillo.level.validation import flaws

A, B, C_, D = (rule(n, when=START, do=add("level.n"), id=i) for i, n in enumerate("abcd", 1))
LEVEL = level(
    Section(name="one", rules=(A, B)),
    C_,
    Section(name="two", rules=(D,)),
    kinds=(kind("Pod", 5, has={"age": 1.0}),),
    objects=things("Pod", (0, 0), (5, 5)),
    has={"n": 0.0},
)


def names(built):
    return [[r.name for r in e.rules] if isinstance(e, Section) else e.name for e in built.order]


def sound(built):
    assert list(flaws(built)) == []
    return built


def test_a_rule_is_added_after_another_in_a_section_or_at_the_end():
    new = rule("new", do=add("level.n"))
    assert names(sound(rule_edits.add_rule(LEVEL, new, after=1)[0])) == [["a", "new", "b"], "c", ["d"]]
    assert names(rule_edits.add_rule(LEVEL, new, after=3)[0]) == [["a", "b"], "c", "new", ["d"]]
    assert names(rule_edits.add_rule(LEVEL, new, section="two")[0]) == [["a", "b"], "c", ["d", "new"]]
    assert names(rule_edits.add_rule(LEVEL, new)[0]) == [["a", "b"], "c", ["d"], "new"]


def test_a_copied_rule_gets_an_id_and_a_name_of_its_own():
    built, made = rule_edits.duplicate_rule(LEVEL, 1)
    assert names(sound(built)) == [["a", "a 1", "b"], "c", ["d"]]
    assert made == 5


def test_a_rule_is_deleted_and_put_before_another():
    assert names(rule_edits.delete_rule(LEVEL, 2)) == [["a"], "c", ["d"]]
    assert names(rule_edits.put_rule(LEVEL, 4, before=1)) == [["d", "a", "b"], "c", []]
    assert names(rule_edits.put_rule(LEVEL, 1, before=3)) == [["b"], "a", "c", ["d"]]
    assert names(rule_edits.put_rule(LEVEL, 1, before=None, section="two")) == [["b"], "c", ["d", "a"]]


def test_lines_are_added_moved_negated_grouped_and_deleted():
    built = rule_edits.add_line(LEVEL, 1, "do", send("x"), 0)
    assert [c.use for c in rule_edits.rule_of(built, 1).do] == ["send_message", "add_to"]
    built, at = rule_edits.move_line(built, 1, "do", 0, 1)
    assert at == 1
    assert [c.use for c in rule_edits.rule_of(built, 1).do] == ["add_to", "send_message"]
    assert rule_edits.rule_of(rule_edits.delete_line(built, 1, "do", 0), 1).do == (send("x"),)
    for condition in (c("past", time="1"), c("chance", percent="5")):
        built = rule_edits.add_line(built, 1, "if", condition)
    assert rule_edits.rule_of(rule_edits.negate_line(built, 1, 1), 1).if_[1].negated
    grouped = rule_edits.group_lines(rule_edits.group_lines(built, 1, 0, "any_of"), 1, 1, "any_of")
    (group,) = rule_edits.rule_of(grouped, 1).if_
    assert [line.use for line in group.of] == ["past", "chance"]
    assert rule_edits.ungroup_line(grouped, 1, "if", 0) == built


def test_sections_are_added_moved_and_taken_away_with_or_without_their_rules():
    name = rule_edits.add_section(LEVEL, "one")[1]
    assert name == "one 1"
    assert names(rule_edits.move_section(LEVEL, "two", -1)) == [["a", "b"], ["d"], "c"]
    assert names(rule_edits.delete_section(LEVEL, "one", keep_rules=True)) == ["a", "b", "c", ["d"]]
    assert names(rule_edits.delete_section(LEVEL, "one", keep_rules=False)) == ["c", ["d"]]


def test_kinds_come_with_free_names_and_colours_that_differ_and_go_with_their_objects():
    built, first = thing_edits.add_kind(LEVEL)
    built, second = thing_edits.add_kind(built, "Pod")
    assert (first, second) == ("Kind 1", "Pod 3")
    assert len({k.colour for k in sound(built).kinds}) == 3
    assert thing_edits.delete_kind(LEVEL, "Pod").objects == ()


def test_a_variable_of_another_type_forgets_the_values_that_objects_gave_it():
    from msgspec.structs import replace

    own = replace(LEVEL, objects=tuple(replace(o, values={"age": 5.0}) for o in LEVEL.objects))
    built = sound(thing_edits.set_variable(own, "Pod", "age", value="old"))
    assert [o.values for o in built.objects] == [{}, {}]
    assert [o.values for o in thing_edits.set_variable(own, "Pod", "age", value=2.0).objects] == [
        {"age": 5.0}
    ] * 2
    assert [o.values for o in thing_edits.delete_variable(own, "Pod", "age").objects] == [{}, {}]


def test_places_are_added_moved_and_taken_away():
    built = LEVEL
    for place in (
        thing_edits.new_spot(1, 2),
        thing_edits.new_area(0, 0, 40, 30),
        thing_edits.new_area(0, 0, 40, 40, circle=True),
        thing_edits.new_route([(0, 0), (5, 5)]),
    ):
        built, _ = thing_edits.add_place(built, place)
    assert [p.name for p in sound(built).places] == ["spot 1", "area 1", "area 2", "route 1"]
    moved = thing_edits.move_place(thing_edits.move_place(built, "route 1", 1, 2), "area 1", 3, 4)
    assert (moved.places[1].x, moved.places[3].stops[1].y) == (3, 7)
    assert isinstance(moved.places[1], Area) and isinstance(moved.places[1].shape, Rectangle)
    assert [type(p) for p in thing_edits.delete_place(built, "area 1").places] == [Spot, Area, Route]


def test_trials_their_expectations_and_keys_are_edited():
    built, name = thing_edits.add_trial(LEVEL)
    built = thing_edits.add_expectation(built, name, FiresTimes(rule="a"))
    a, b = FiresTimes(rule="a"), FiresTimes(rule="b")
    built = thing_edits.set_expectation(built, name, 0, a, b)
    assert built.trials[1].expectations == (FiresTimes(rule="b"),)
    assert thing_edits.set_expectation(built, name, 0, b, None).trials[1].expectations == ()
    for at, was in ((0, a), (1, b)):
        with pytest.raises(LookupError):
            thing_edits.set_expectation(built, name, at, was, a)
    bars = (KeyBar(key="B", start=2, end=3), KeyBar(key="A", start=1, end=2))
    assert [b.key for b in thing_edits.set_bars(built, name, bars).trials[1].input.keys] == ["A", "B"]
    assert thing_edits.delete_trial(built, name).trials == LEVEL.trials


def test_a_rule_that_is_not_there_is_told():
    with pytest.raises(KeyError, match="no rule with the id 99"):
        rule_edits.rule_of(LEVEL, 99)
