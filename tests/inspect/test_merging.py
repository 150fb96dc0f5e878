"""Two versions of a level become one: what each changed is in it, and what both changed is told and kept of both."""

from __future__ import annotations

from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from test_level_difference import LEVELS, changed_at, places, with_rule, yard

from building import add, c, level, rule, send
from gatillo.examples import study_path
from gatillo.files.level_file import LevelFileError, decode_level, encode_level, read_level
from gatillo.inspect.merging.levels import merge
from gatillo.inspect.merging.sequences import agree, ordered
from gatillo.inspect.merging.settling import CannotChoose, choose, questions, settle
from gatillo.language.renaming import rename
from gatillo.level import edits, graph_edits, rule_edits
from gatillo.level.model import Clause, Graph, Level, Object, Section, Variable, Wire
from gatillo.level.roles import all_logic
from gatillo.level.validation import flaws

NIGHT_SHIFT = read_level(study_path("night-shift.gatillo"))


def asked(merged: Level) -> list[str]:
    return [one.sentence() for one in questions(merged)]


def either_way(base: Level, one: Level, other: Level) -> Level:
    """Return two versions merged, checked to be the same bytes whichever is ours, with nothing to settle."""
    merged, turned = merge(base, one, other), merge(base, other, one)
    assert asked(merged) == []
    assert encode_level(merged) == encode_level(turned)
    assert not list(flaws(merged))
    return merged


def has(lv: Level, name: str) -> bool:
    return any(logic.name == name for _, _, logic in all_logic(lv))


# rules and their lines


def test_different_lines_of_one_rule_merge():
    lv = yard()
    one = with_rule(lv, 1, do=(add("level.n", "5"), send("bang")))
    other = with_rule(lv, 1, do=(add("level.n"), send("boom")), name="Start")
    merged = either_way(lv, one, other)
    assert merged.order[0] == replace(lv.order[0], do=(add("level.n", "5"), send("boom")), name="Start")


def test_different_slots_of_one_line_merge_and_one_slot_is_told():
    lv = yard()
    line = lv.order[0].do[0]
    one = with_rule(lv, 1, do=(replace(line, slots={**line.slots, "amount": "5"}), send("bang")))
    other = with_rule(lv, 1, do=(replace(line, slots={**line.slots, "variable": "level.m"}), send("bang")))
    assert either_way(lv, one, other).order[0].do[0].slots == {"variable": "level.m", "amount": "5"}
    third = with_rule(lv, 1, do=(replace(line, slots={**line.slots, "amount": "7"}), send("bang")))
    merged = merge(lv, one, third)
    assert asked(merged) == ["rule “First”: do 1 amount: ours is “5”; theirs is “7”"]
    assert merged.order[0].do[0].slots["amount"] == "5"
    chosen = choose(merged, 0, "theirs")
    assert chosen.order[0] == third.order[0]
    assert [one.chosen for one in questions(chosen)] == ["theirs"]
    assert encode_level(settle(chosen, 0)) == encode_level(third)


def test_new_lines_of_both_stand_beside_one_another():
    lv = yard()
    one = with_rule(lv, 1, do=(*lv.order[0].do, send("one")))
    other = with_rule(lv, 1, do=(*lv.order[0].do, send("two")))
    assert either_way(lv, one, other).order[0].do == (*lv.order[0].do, send("one"), send("two"))


def test_a_line_that_one_removed_and_the_other_changed_is_kept_and_asked_about():
    lv = yard()
    gone, changed = (
        with_rule(lv, 1, do=(send("bang"),)),
        with_rule(lv, 1, do=(add("level.n", "9"), send("bang"))),
    )
    merged = merge(lv, gone, changed)
    assert merged.order[0] == changed.order[0]
    assert asked(merged) == ["rule “First”: do 1: ours is removed; theirs is add 9 to level.n"]
    ours = choose(merged, 0, "ours")
    assert ours.order[0] == gone.order[0]
    assert choose(ours, 0, "theirs").order[0] == changed.order[0]


def test_a_line_that_was_taken_away_by_a_choice_moves_the_others_along():
    lv = level(
        rule("Two", when=c("every_tick"), do=(add("level.n"), add("level.m")), id=1), has={"n": 0.0, "m": 0.0}
    )
    gone = with_rule(lv, 1, do=(add("level.m", "2"),))
    changed = with_rule(lv, 1, do=(add("level.n", "9"), add("level.m", "3")))
    merged = merge(lv, gone, changed)
    assert len(merged.unsettled) == 2
    shorter = choose(merged, [q.ours for q in questions(merged)].index("removed"), "ours")
    number = next(at for at, q in enumerate(questions(shorter)) if q.ours != "removed")
    assert choose(shorter, number, "theirs").order[0].do == (add("level.m", "3"),)


def test_rules_moved_by_one_and_changed_by_the_other():
    lv = yard()
    merged = either_way(lv, rule_edits.put_rule(lv, 3, before=1), with_rule(lv, 3, do=(add("level.m", "4"),)))
    assert [logic.id for _, _, logic in all_logic(merged)] == [3, 1, 2]
    assert merged.order[0].do == (add("level.m", "4"),)


def test_a_rule_that_both_moved_elsewhere_is_asked_about():
    some = [rule(name, when=c("every_tick"), do=add("level.n"), id=n) for n, name in enumerate("ABCDEFG", 1)]
    lv = level(*some, has={"n": 0.0})
    up, down = rule_edits.put_rule(lv, 4, before=1), rule_edits.put_rule(lv, 4, before=None)
    merged = merge(lv, up, down)
    assert [e.id for e in merged.order] == [e.id for e in up.order]
    assert len(asked(merged)) == 1
    assert [e.id for e in choose(merged, 0, "theirs").order] == [e.id for e in down.order]


def test_a_rule_goes_into_a_section_while_the_other_renames_the_section():
    lv = yard()
    lv = replace(lv, order=(lv.order[0], Section(name="Work", rules=lv.order[1:])))
    one = rename(lv, "section", "Work", "Garden work")
    moved = replace(lv, order=(Section(name="Work", rules=(lv.order[0], *lv.order[1].rules)),))
    merged = either_way(lv, one, moved)
    assert [(e.name, [r.id for r in e.rules]) for e in merged.order] == [("Garden work", [1, 2, 3])]


def test_a_section_that_one_removed_stays_for_what_the_other_put_into_it():
    lv = yard()
    lv = replace(lv, order=(lv.order[0], Section(name="Work", rules=lv.order[1:])))
    gone = replace(lv, order=lv.order[:1])
    more = rule("Fourth", when=c("every_tick"), do=add("level.m"), id=4)
    added = replace(lv, order=(lv.order[0], replace(lv.order[1], rules=(*lv.order[1].rules, more))))
    merged = merge(lv, gone, added)
    assert [(e.name, [r.id for r in e.rules]) for e in merged.order[1:]] == [("Work", [4])]
    assert asked(merged) == ["section “Work”: ours is removed; theirs is “Work” as it is there"]
    assert [e.id for e in choose(merged, 0, "ours").order] == [1, 4]


# numbers and names


def test_new_things_of_both_with_one_number_and_one_name_are_two_things():
    lv = yard()
    one, first = edits.place_object(lv, "Pod", 50, 60)
    other, second = edits.place_object(lv, "Pod", 70, 80)
    assert first == second
    more = rule("Aim", when=c("every_tick"), do=add(f"{other.objects[-1].name}.age"), id=4)
    other = replace(other, order=(*other.order, more))
    merged = either_way(lv, one, other)
    new = merged.objects[len(lv.objects) :]
    assert {(o.x, o.y) for o in new} == {(50, 60), (70, 80)}
    assert len({o.id for o in new}) == len({o.name for o in new}) == 2
    aim = next(logic for _, _, logic in all_logic(merged) if logic.name == "Aim")
    assert next(o for o in new if aim.do == (add(f"{o.name}.age"),)).x == 70


def test_new_rules_of_both_with_one_number_and_one_name():
    lv = yard()
    one = replace(lv, order=(*lv.order, rule("New", when=c("every_tick"), do=send("one"), id=4)))
    other = replace(lv, order=(rule("New", when=c("every_tick"), do=send("two"), id=4), *lv.order))
    merged = either_way(lv, one, other)
    assert len({logic.id for _, _, logic in all_logic(merged)}) == 5
    assert len({logic.name for _, _, logic in all_logic(merged)}) == 5
    assert merged.order[0].do == (send("two"),)
    assert merged.order[-1].do == (send("one"),)


@pytest.mark.parametrize(
    ("sort", "old", "new", "use", "renamed"),
    [
        ("object", "Pod 1", "First pod", "Pod_1.x > 3", "First_pod.x > 3"),
        ("kind", "Mira", "Gardener", "Mira.x > 3", "Gardener.x > 3"),
        ("level variable", "n", "pods found", "level.n > 3", "level.pods_found > 3"),
    ],
)
def test_what_one_renamed_the_other_speaks_of_by_its_new_name(sort, old, new, use, renamed):
    lv = yard()
    one = rename(lv, sort, old, new)
    more = rule("Fourth", when=c("every_tick"), if_=c("formula_holds", formula=use), do=add("level.m"), id=4)
    merged = either_way(lv, one, replace(lv, order=(*lv.order, more)))
    assert merged.order[-1].if_ == (c("formula_holds", formula=renamed),)
    changed = replace(lv, objects=tuple(replace(o, x=o.x + 1) for o in lv.objects))
    assert either_way(lv, one, changed) == replace(
        one, objects=tuple(replace(o, x=o.x + 1) for o in one.objects)
    )


def test_a_variable_of_a_kind_is_renamed_where_the_other_uses_it():
    lv = replace(yard(), order=())
    lv = replace(lv, order=(rule("Grow", when=c("every_tick"), do=add("Pod.age"), id=1),))
    one = rename(rename(lv, "kind variable", "age", "days", kind="Pod"), "kind", "Pod", "Seed")
    more = rule(
        "Older", when=c("every_tick"), if_=c("formula_holds", formula="Pod.age > 3"), do=add("Pod.age"), id=2
    )
    merged = either_way(lv, one, replace(lv, order=(*lv.order, more)))
    assert merged.order[1].do == (add("Seed.days"),)
    assert merged.order[1].if_ == (c("formula_holds", formula="Seed.days > 3"),)


def test_two_new_names_of_one_thing_are_asked_about():
    lv = yard()
    one, other = rename(lv, "level variable", "n", "pods"), rename(lv, "level variable", "n", "seeds")
    merged = merge(lv, one, other)
    assert asked(merged) == ["the name of the level variable that was “n”: ours is “pods”; theirs is “seeds”"]
    assert encode_level(settle(merged, 0)) == encode_level(one)
    assert encode_level(settle(choose(merged, 0, "theirs"), 0)) == encode_level(other)


def test_names_that_changed_places():
    lv = yard()
    turned = rename(
        rename(rename(lv, "object", "Pod 1", "spare"), "object", "Pod 2", "Pod 1"), "object", "spare", "Pod 2"
    )
    more = rule("Aim", when=c("every_tick"), do=add("Pod 1.age"), id=4)
    merged = either_way(lv, turned, replace(lv, order=(*lv.order, more)))
    assert merged.order[-1].do == (add("Pod 2.age"),)
    assert [o.name for o in merged.objects[:2]] == ["Pod 2", "Pod 1"]


def test_a_name_given_again_while_the_other_changed_what_had_it():
    lv = yard()
    again = edits.delete_objects(lv, {1})
    again, _ = edits.place_object(again, "Pod", 70, 80)
    again = replace(again, objects=(*again.objects[:-1], replace(again.objects[-1], name="Pod 1", id=20)))
    more = rule("Aim", when=c("every_tick"), do=add("Pod 1.age"), id=4)
    again = replace(again, order=(*again.order, more))
    merged = merge(lv, edits.move_objects(lv, {1}, 5, 0), again)
    assert {o.id: o.name for o in merged.objects if o.kind == "Pod"} == {
        1: "Pod 1",
        2: "Pod 2",
        20: "Pod 1 1",
    }
    assert merged.order[-1].do == (add("Pod 1 1.age"),)
    assert asked(merged) == ["object “Pod 1”: ours is “Pod 1” as it is there; theirs is removed"]


# what does not hang together


def test_a_kind_that_one_removed_and_the_other_placed_once_more_is_kept():
    lv = yard()
    gone = replace(lv, kinds=lv.kinds[1:], objects=lv.objects[2:])
    more, _ = edits.place_object(lv, "Pod", 50, 60)
    merged = merge(lv, gone, more)
    assert [o.name for o in merged.objects if o.kind == "Pod"] == [more.objects[-1].name]
    assert asked(merged) == ["kind “Pod”: ours is removed; theirs is “Pod” as it is there"]
    with pytest.raises(CannotChoose, match="is of the kind “Pod”"):
        choose(merged, 0, "ours")


def test_a_variable_that_one_removed_and_a_trial_of_the_other_sets_is_kept():
    lv = yard()
    gone = replace(lv, variables=lv.variables[:1])
    trial = replace(lv.trials[0], values={"m": 4.0})
    merged = merge(lv, gone, replace(lv, trials=(trial,)))
    assert [v.name for v in merged.variables] == ["n", "m"]
    assert asked(merged) == ["level variable “m”: ours is removed; theirs is “m” as it is there"]


def test_a_card_that_one_removed_and_the_other_wired_keeps_the_graph_whole():
    base = read_level(study_path("22-night-lamps.gatillo"))
    graph = next(
        logic for _, _, logic in all_logic(base) if isinstance(logic, Graph) and len(logic.wires) > 1
    )
    number = int(graph.wires[0].start.split(".")[0])
    gone = graph_edits.delete_cards(base, graph.id, [number])
    wire = Wire(start=graph.wires[0].start, end=graph.wires[-1].end)
    wired = graph_edits.change_graph(base, graph.id, lambda g: replace(g, wires=(*g.wires, wire)))
    merged = merge(base, gone, wired)
    assert not list(flaws(merged))
    assert merged.unsettled


# places


def test_a_place_is_never_half_of_one_side_and_half_of_the_other():
    lv = yard()
    one, other = edits.set_object(lv, 1, x=11.0, y=20.0), edits.set_object(lv, 1, x=10.0, y=25.0)
    merged = merge(lv, one, other)
    assert (merged.objects[0].x, merged.objects[0].y) == (11.0, 20.0)
    assert asked(merged) == ["object “Pod 1”: x, y: ours is 11, 20; theirs is 10, 25"]
    both = choose(merged, 0, "theirs")
    assert (both.objects[0].x, both.objects[0].y) == (10.0, 25.0)
    assert either_way(lv, one, edits.set_object(lv, 1, angle=30.0)).objects[0].angle == 30.0


# any edits to different things


def an_edit(lv: Level, chance: Random, thing: tuple[str, int]) -> Level:
    """Return a level with something done to one thing: an object, a rule or graph, a kind, a variable or a trial."""
    sort, number = thing
    if sort == "object":
        one = lv.objects[number]
        way = chance.randrange(5)
        if way == 0:
            return edits.move_objects(lv, {one.id}, chance.randint(1, 40), chance.randint(1, 40))
        if way == 1:
            return rename(lv, "object", one.name, f"Thing {number} {chance.randint(0, 99)}")
        if way == 2:
            return edits.set_object(lv, one.id, angle=one.angle + 15, tags=(*one.tags, f"mark {number}"))
        if way == 3:
            return edits.place_object(lv, one.kind, chance.randint(0, 300), chance.randint(0, 300))[0]
        return edits.set_object(lv, one.id, scale=one.scale * 2)
    if sort == "logic":
        logic = list(all_logic(lv))[number][2]
        way = chance.randrange(5)
        if way == 0:
            return edits.switch_rule(lv, logic.id, not logic.on)
        if way == 1:
            return rename(lv, "rule", logic.name, f"Deed {number} {chance.randint(0, 99)}")
        if way == 2:
            return edits.change_logic(
                lv, logic.id, lambda found: replace(found, note=f"note {chance.random()}")
            )
        if way == 3 and isinstance(logic, Graph):
            return graph_edits.add_card(lv, logic.id, Clause(use="every_tick"), 30, chance.randint(0, 300))[0]
        if isinstance(logic, Graph):
            return graph_edits.move_cards(lv, logic.id, {logic.nodes[0].id} if logic.nodes else set(), 12, 0)
        more = Clause(use="send", slots={"message": f"word {chance.randint(0, 999)}"})
        return edits.change_rule(lv, logic.id, lambda found: replace(found, do=(*found.do, more)))
    if sort == "kind":
        one = lv.kinds[number]
        if chance.random() < 0.5:
            return rename(lv, "kind", one.name, f"Sort {number} {chance.randint(0, 99)}")
        return replace(
            lv, kinds=tuple(replace(k, note="as new") if k.name == one.name else k for k in lv.kinds)
        )
    if sort == "variable":
        one = lv.variables[number]
        if chance.random() < 0.5:
            return rename(lv, "level variable", one.name, f"amount {number} {chance.randint(0, 99)}")
        return replace(
            lv,
            variables=tuple(
                replace(v, note=f"of {number}") if v.name == one.name else v for v in lv.variables
            ),
        )
    if sort == "new variable":
        name = f"count {number} {chance.randint(0, 99)}"
        return replace(lv, variables=(*lv.variables, Variable(name=name, value=float(number))))
    return edits.change_trial(lv, lv.trials[number].name, lambda t: replace(t, seed=t.seed + 3, note="anew"))


def things_of(lv: Level) -> list[tuple[str, int]]:
    sorts = {
        "object": len(lv.objects),
        "logic": len(list(all_logic(lv))),
        "kind": len(lv.kinds),
        "variable": len(lv.variables),
        "trial": len(lv.trials),
        "new variable": 3,
    }
    return [(sort, number) for sort, many in sorts.items() for number in range(many)]


def new_in(lv: Level, base: Level) -> bool:
    return max((o.id for o in lv.objects), default=0) > max((o.id for o in base.objects), default=0)


def the_objects(lv: Level, base: Level) -> tuple[dict[int, Object], list[Object]]:
    """Return the objects that the base has, by number, and the new ones without number and name."""
    old = {one.id for one in base.objects}
    return {one.id: one for one in lv.objects if one.id in old}, [
        replace(one, id=0, name="") for one in lv.objects if one.id not in old
    ]


@settings(max_examples=500, deadline=None)
@given(st.integers(0, len(LEVELS) - 1), st.randoms(use_true_random=False))
def test_edits_to_different_things_merge_to_what_both_wanted(number, chance):
    base = decode_level(encode_level(LEVELS[number]))
    first, second = chance.sample(things_of(base), 2)
    seeds = chance.random(), chance.random()
    one, other = an_edit(base, Random(seeds[0]), first), an_edit(base, Random(seeds[1]), second)
    merged = either_way(base, one, other)
    if new_in(one, base) and new_in(other, base):
        return
    # what the one does after the other; which number and name a new object gets is the merge's own choice
    wanted = an_edit(one, Random(seeds[1]), second)
    assert replace(merged, objects=(), variables=()) == replace(wanted, objects=(), variables=())
    assert the_objects(merged, base) == the_objects(wanted, base)
    assert {v.name: v for v in merged.variables} == {v.name: v for v in wanted.variables}


PLACES = [places(lv) for lv in LEVELS]


@settings(max_examples=120, deadline=None)
@given(st.integers(0, len(LEVELS) - 1), st.randoms(use_true_random=False))
def test_whatever_both_change_the_result_is_a_level_and_each_side_can_be_chosen(number, chance):
    base = decode_level(encode_level(LEVELS[number]))
    path = chance.choice(PLACES[number])
    near = [one for one in PLACES[number] if one[: chance.randint(1, 4)] == path[: chance.randint(1, 4)]] or [
        path
    ]

    def changed() -> Level:
        lv = base
        for _ in range(chance.randint(1, 3)):
            try:
                lv = decode_level(encode_level(changed_at(lv, chance.choice(near), chance)))
            except (LevelFileError, IndexError, AttributeError):
                continue
        return lv

    one, other = changed(), changed()
    assert encode_level(merge(base, one, base)) == encode_level(merge(base, base, one)) == encode_level(one)
    assert encode_level(merge(base, one, one)) == encode_level(one)
    merged, turned = merge(base, one, other), merge(base, other, one)
    decode_level(encode_level(merged))
    assert len(merged.unsettled) == len(turned.unsettled)
    if not merged.unsettled:
        assert encode_level(merged) == encode_level(turned)
    for at, question in enumerate(questions(merged)):
        assert question.chosen is not None
        for side in ("ours", "theirs"):
            try:
                chosen = choose(merged, at, side)
            except CannotChoose as reason:
                assert str(reason)
                continue
            assert questions(chosen)[at].chosen == side


# orders


@given(st.data())
def test_an_order_has_each_item_once_and_what_one_side_alone_reordered(data):
    base = list(range(data.draw(st.integers(0, 8))))
    ours = data.draw(st.permutations([*base, "a", "b"][data.draw(st.integers(0, 2)) :]))
    theirs = data.draw(st.permutations([*base, "c"][data.draw(st.integers(0, 2)) :]))
    kept = {*ours, *theirs}
    merged = ordered(base, ours, theirs, kept=kept)
    assert sorted(map(str, merged)) == sorted(map(str, kept))
    if agree(base, ours, theirs):
        assert merged == ordered(base, theirs, ours, kept=kept)
    alone = ordered(base, ours, base, kept={*ours, *base})
    assert [one for one in alone if one in ours] == ours


def test_neighbours_that_each_side_changed_with_another_merge():
    assert ordered([1, 2, 3, 4], [2, 1, 3, 4], [1, 2, 4, 3], kept={1, 2, 3, 4}) == [2, 1, 4, 3]
    assert ordered([1, 2, 3], [3, 1, 2], [1, 3, 2], kept={1, 2, 3}) == [3, 1, 2]


def test_an_edit_of_the_demo_level_on_both_sides():
    one = rename(NIGHT_SHIFT, "level variable", "pods", "seeds")
    other = edits.switch_rule(NIGHT_SHIFT, next(all_logic(NIGHT_SHIFT))[2].id, False)
    merged = either_way(NIGHT_SHIFT, one, other)
    assert "level.pods" not in encode_level(merged).decode()


def test_a_level_without_a_common_version():
    nothing = Level(format=1, name="")
    lv = yard()
    assert encode_level(merge(nothing, lv, lv)) == encode_level(lv)
    merged = merge(nothing, lv, replace(lv, name="Other"))
    assert len(merged.unsettled) == 1 and has(merged, "First")
