"""Edits give new levels and leave the old ones alone."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import add, c, kind, level, rule, things
from gatillo.desk.session.history import History
from gatillo.files.level_file import decode_level, encode_level
from gatillo.language.renaming import rename
from gatillo.level import edits
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Input, KeyBar, Section
from gatillo.level.naming import did_you_mean, free_name, name_problem

A, B, C, D = (rule(n, do=add("level.n"), id=i) for i, n in enumerate("abcd", 1))
LEVEL = level(
    Section(name="one", rules=(A, B)),
    C,
    Section(name="two", rules=(D,)),
    kinds=(kind("Pod", 5),),
    objects=things("Pod", (0, 0), (10, 0)),
    has={"n": 0.0},
)


def shape(built):
    return [[r.name for r in e.rules] if isinstance(e, Section) else e.name for e in built.order]


def test_moving_a_rule_crosses_sections_step_by_step():
    seen, built = [], LEVEL
    for _ in range(6):
        built = edits.move_rule(built, 1, 1)
        seen.append(shape(built))
    assert seen == [
        [["b", "a"], "c", ["d"]],
        [["b"], "a", "c", ["d"]],
        [["b"], "c", "a", ["d"]],
        [["b"], "c", ["a", "d"]],
        [["b"], "c", ["d", "a"]],
        [["b"], "c", ["d"], "a"],
    ]


def test_moving_a_rule_back_up_retraces_its_way():
    built = edits.move_rule(LEVEL, 1, 5)
    assert shape(edits.move_rule(built, 1, -5)) == shape(LEVEL)


@given(st.lists(st.tuples(st.integers(1, 4), st.integers(-3, 3)), max_size=12))
@settings(max_examples=100, deadline=None)
def test_moving_rules_never_loses_one(moves):
    built = LEVEL
    for rule_id, by in moves:
        built = edits.move_rule(built, rule_id, by)
    names = [n for e in shape(built) for n in (e if isinstance(e, list) else [e])]
    assert sorted(names) == list("abcd")


def test_an_unknown_rule_is_a_key_error():
    with pytest.raises(KeyError):
        edits.move_rule(LEVEL, 99, 1)
    with pytest.raises(KeyError):
        edits.switch_rule(LEVEL, 99, False)


def test_duplicates_get_free_names_and_young_ids():
    built, made = edits.duplicate_objects(LEVEL, {1, 2}, 5, -5)
    assert [(o.id, o.name, o.x, o.y) for o in built.objects if o.id in made] == [
        (3, "Pod 3", 5, -5),
        (4, "Pod 4", 15, -5),
    ]


def test_placing_numbers_past_names_in_use():
    built, made = edits.place_object(edits.delete_objects(LEVEL, {1}), "Pod", 1, 2)
    assert next(o.name for o in built.objects if o.id == made) == "Pod 1"


def test_a_slot_is_set_in_its_line_only():
    built = edits.set_slot(LEVEL, 3, "do", 0, "amount", "5")
    assert built.order[1].do[0].slots == {"amount": "5", "variable": "level.n"}
    assert LEVEL.order[1].do[0].slots["amount"] == "1"
    assert built.order[0] is LEVEL.order[0]


def test_recording_makes_a_trial_longer_but_never_shorter():
    bars = Input(keys=(KeyBar(key="W", start=0, end=3),))
    assert edits.record_input(LEVEL, "trial", bars, 3.0).trials[0].length == 3.0
    assert edits.record_input(LEVEL, "trial", bars, 0.5).trials[0].length == 1.0


def test_renaming_an_object_is_carried_through_rules_formulas_and_watches():
    r = rule(
        "r",
        if_=c("formula_holds", formula="distance(Pod_1, Pod_2) < 3 and Pod_12.x > 0"),
        do=[c("remove", who="Pod 1"), c("say", text="{Pod_1.x} of Pod 1", who="another Pod")],
    )
    built = level(
        r,
        kinds=(kind("Pod", 5),),
        objects=things("Pod", *[(0, i) for i in range(12)]),
        expect=(HoldsAt(formula="Pod_1.x = 0"),),
    )
    done = rename(built, "object", "Pod 1", "First pod")
    assert done.objects[0].name == "First pod"
    assert done.order[0].if_[0].slots["formula"] == "distance(First_pod, Pod_2) < 3 and Pod_12.x > 0"
    assert done.order[0].do[0].slots["who"] == "First pod"
    assert done.order[0].do[1].slots["text"] == "{First_pod.x} of Pod 1"
    assert done.trials[0].expectations[0].formula == "First_pod.x = 0"


EDITS = st.one_of(
    st.tuples(st.just("move"), st.integers(-9, 9)),
    st.tuples(st.just("place"), st.integers(-9, 9)),
    st.tuples(st.just("delete"), st.integers(1, 6)),
    st.tuples(st.just("copy"), st.integers(1, 6)),
    st.tuples(st.just("order"), st.integers(1, 4)),
    st.tuples(st.just("switch"), st.integers(1, 4)),
    st.tuples(st.just("slot"), st.integers(1, 4)),
)


def apply(built, edit):
    what, n = edit
    if what == "move":
        return edits.move_objects(built, {1, 2}, n, 1)
    if what == "place":
        return edits.place_object(built, "Pod", n, n)[0]
    if what == "delete":
        return edits.delete_objects(built, {n})
    if what == "copy":
        return edits.duplicate_objects(built, {n}, 1, 1)[0]
    if what == "order":
        return edits.move_rule(built, n, 1)
    if what == "switch":
        return edits.switch_rule(built, n, False)
    return edits.set_slot(built, n, "do", 0, "amount", str(n))


@given(st.lists(EDITS, max_size=15))
@settings(max_examples=100, deadline=None)
def test_any_edits_undone_give_back_the_first_level_byte_for_byte(sequence):
    history = History(LEVEL)
    for number, edit in enumerate(sequence):
        history.do(apply(history.level, edit), f"edit {number}")
        assert decode_level(encode_level(history.level)) == history.level
    last = encode_level(history.level)
    while history.undo() is not None:
        pass
    assert encode_level(history.level) == encode_level(LEVEL)
    while history.redo() is not None:
        pass
    assert encode_level(history.level) == last


def test_undo_names_what_it_undoes_and_outlives_a_save():
    history = History(LEVEL)
    history.do(edits.delete_objects(LEVEL, {1}), "delete Pod 1")
    assert history.unsaved
    history.mark_saved(history.level)
    assert not history.unsaved
    assert history.undoes == "delete Pod 1"
    history.undo()
    assert history.unsaved
    assert history.redoes == "delete Pod 1"


def test_a_drag_is_one_step():
    history = History(LEVEL)
    for x in range(1, 6):
        history.do(edits.move_objects(LEVEL, {1}, x, 0), "move Pod 1", join="drag")
    history.undo()
    assert history.level == LEVEL


@pytest.mark.parametrize("name", ["", " x", "a  b", "9a", "a-b", "and", "any", "new Pod", "another", "level"])
def test_a_name_that_would_not_do_is_refused_with_a_reason(name):
    assert name_problem(name)


@pytest.mark.parametrize("name", ["Moth", "Head gardener", "Größe", "pod_2", "newt", "Android"])
def test_a_plain_name_will_do(name):
    assert name_problem(name) is None


def test_names_help():
    assert free_name("Pod", {"Pod 1", "Pod 3"}) == "Pod 2"
    assert did_you_mean("moht", ["Moth", "Lamp"]) == "; did you mean “Moth”?"
    assert did_you_mean("zzz", ["Moth", "Lamp"]) == "; there are: Lamp, Moth"


def test_two_levels_are_the_same_only_if_their_documents_are():
    read, read_again = (decode_level(encode_level(LEVEL)) for _ in range(2))
    assert read is not read_again and edits.same(read, read_again)
    assert not edits.same(replace(LEVEL, name="another"), LEVEL)
    number, answer = (level(has={"n": value}) for value in (0.0, False))
    assert number == answer and not edits.same(number, answer)
