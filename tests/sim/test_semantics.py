"""How a level runs, statement by statement."""

from __future__ import annotations

import numpy as np
import pytest

from building import (
    EVERY_TICK,
    START,
    add,
    c,
    fired,
    heard,
    isnt,
    kind,
    level,
    names_at,
    rule,
    run,
    send,
    things,
)
from gatillo.level.model import Area, Circle, Rectangle, Section, Settings, Spot
from gatillo.sim.program import Program
from gatillo.sim.run import Cursor, Run

POD = kind("Pod", 5)
GARDENER = kind("Gardener", 10)


def touching_level(pods, **more):
    """A gardener standing on pods."""
    return dict(
        kinds=(GARDENER, POD), objects=(*things("Gardener", (0, 0)), *things("Pod", *pods, first=10)), **more
    )


TOUCH = c("begins_to_touch", a="Gardener", b="Pod")

# space, time


def test_time_counts_fixed_ticks_from_one():
    made = run(level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}, rate=50))
    assert made.length == 50
    assert fired(made, "r") == [(1, 1)]
    assert made.world.time == 1.0


def test_angles_are_kept_above_minus_180_up_to_180():
    made = run(
        level(rule("r", when=EVERY_TICK, do=c("turn_by", who="Pod", angle="90")), **touching_level([(0, 0)])),
        4,
    )
    angles = [made.world_at(Cursor(t, 1)).angle[1] for t in range(1, 5)]
    assert angles == [90, 180, -90, 0]


def test_y_grows_up_and_angles_turn_counter_clockwise():
    spin = rule(
        "r",
        when=START,
        do=[c("turn_by", who="Pod", angle="90"), c("move_by", who="Pod", dx="10", axes="its own")],
    )
    world = run(level(spin, **touching_level([(0, 0)])), 1).world
    assert (world.x[1], world.y[1]) == pytest.approx((0, 10))


def test_drawn_facing_is_counted_into_where_an_object_faces():
    up = kind("Cart", drawn_facing=90.0)
    go = rule("r", when=START, do=c("move_by", who="Cart", dx="10", axes="its own"))
    world = run(level(go, kinds=(up,), objects=things("Cart", (0, 0))), 1).world
    assert (world.x[0], world.y[0]) == pytest.approx((0, 10))


# occasions


def test_no_occasion_means_every_tick():
    assert len(fired(run(level(rule("r", do=add("level.n")), has={"n": 0.0}), 7), "r")) == 7


def test_several_occasions_are_a_union_and_yield_a_match_once():
    r = rule("r", when=[c("touches", a="Gardener", b="Pod"), TOUCH], do=add("level.n"))
    assert fired(run(level(r, has={"n": 0.0}, **touching_level([(0, 0)])), 1), "r") == [(1, 1)]


def test_an_interval_keeps_to_seconds_at_any_tick_rate():
    r = rule("r", when=c("every_seconds", period="0.25", first="0.1"), do=add("level.n"))
    for rate in (30, 60, 120, 100):
        ticks = [t for t, _ in fired(run(level(r, has={"n": 0.0}, rate=rate)), "r")]
        assert ticks == [int(np.ceil((0.1 + 0.25 * k) * rate - 1e-9)) for k in range(4)]


def test_an_interval_below_a_tick_comes_once_a_tick():
    r = rule("r", when=c("every_seconds", period="0", first="0"), do=add("level.n"))
    assert [t for t, _ in fired(run(level(r, has={"n": 0.0}), 4), "r")] == [1, 2, 3, 4]


def test_a_key_is_pressed_once_held_till_let_go_and_released_once():
    rules = [rule(n, when=c(f"key_{n}", key="W"), do=add("level.n")) for n in ("pressed", "held", "released")]
    made = run(level(*rules, has={"n": 0.0}, keys=(("W", 0.1, 0.2),), rate=60))
    assert [t for t, _ in fired(made, "pressed")] == [6]
    assert [t for t, _ in fired(made, "held")] == list(range(6, 12))
    assert [t for t, _ in fired(made, "released")] == [12]


def test_a_key_tapped_within_one_tick_is_pressed_held_and_released_in_it():
    rules = [rule(n, when=c(f"key_{n}", key="W"), do=add("level.n")) for n in ("pressed", "held", "released")]
    made = run(level(*rules, has={"n": 0.0}, keys=(("W", 0.101, 0.102),), rate=60))
    assert names_at(made, 7) == ["pressed", "held", "released"]
    assert len(made.trace.firings()) == 3


def test_a_contact_begins_goes_on_and_ends():
    rules = [
        rule("begins", when=c("begins_to_touch", a="Gardener", b="Pod"), do=add("level.n")),
        rule("goes on", when=c("touches", a="Gardener", b="Pod"), do=add("level.n")),
        rule("ends", when=c("stops_touching", a="Gardener", b="Pod"), do=add("level.n")),
        rule("walk", when=EVERY_TICK, do=c("move_by", who="Gardener", dx="5")),
    ]
    made = run(level(*rules, has={"n": 0.0}, **touching_level([(30, 0)])), 14)
    # reach is 15: touching while the gardener stands from 15 to 45
    assert [t for t, _ in fired(made, "begins")] == [4]
    assert [t for t, _ in fired(made, "goes on")] == list(range(4, 11))
    assert [t for t, _ in fired(made, "ends")] == [11]


def test_a_contact_caused_in_rules_is_found_at_the_next_tick():
    jump = rule("jump", when=START, do=c("move_by", who="Gardener", dx="100"))
    r = rule("touch", when=TOUCH, do=add("level.n"))
    made = run(level(jump, r, has={"n": 0.0}, **touching_level([(100, 0)])), 3)
    assert fired(made, "touch") == [(2, 1)]


def test_a_rotated_box_touches_by_its_turned_shape():
    beam = kind("Beam", box=(100, 4))
    r = rule("r", when=c("begins_to_touch", a="Pod", b="Beam"), do=add("level.n"))
    turn = rule(
        "turn", when=c("every_seconds", period="9", first="0.05"), do=c("turn_by", who="Beam", angle="90")
    )
    made = run(
        level(
            r,
            turn,
            has={"n": 0.0},
            kinds=(POD, beam),
            objects=(*things("Pod", (0, 40)), *things("Beam", (0, 0), first=5)),
        )
    )
    assert fired(made, "r") == [(4, 1)]


# matching


def test_conditions_drop_matches_from_top_to_bottom():
    r = rule(
        "r",
        when=TOUCH,
        if_=[c("compare", left="Pod.x", comparison=">", right="0"), c("formula_holds", formula="Pod.x < 3")],
        do=add("level.n"),
    )
    made = run(level(r, has={"n": 0.0}, **touching_level([(-1, 0), (1, 0), (2, 0), (4, 0)])), 1)
    look = made.trace.looks_at(1)[0]
    assert (look.candidates, look.passed, look.fired) == (4, (3, 2), 2)


def test_a_negated_condition_keeps_what_it_would_drop():
    tagged = kind("Pod", 5, tags=("ripe",))
    raw = kind("Bud", 5)
    r = rule(
        "r",
        when=c("begins_to_touch", a="Gardener", b="anything"),
        if_=isnt("has_tag", who="anything", tag="ripe"),
        do=c("remove", who="anything"),
    )
    made = run(
        level(
            r,
            kinds=(GARDENER, tagged, raw),
            objects=(
                *things("Gardener", (0, 0)),
                *things("Pod", (1, 0), first=5),
                *things("Bud", (2, 0), first=8),
            ),
        ),
        1,
    )
    assert made.witness(1)[0].ids["anything"] == [8]


def test_a_condition_can_bring_in_a_new_role():
    r = rule(
        "r",
        when=START,
        if_=c("formula_holds", formula="distance(Gardener, Pod) < 50"),
        do=c("remove", who="Pod"),
    )
    made = run(level(r, **touching_level([(10, 0), (40, 0), (90, 0)])), 2)
    assert fired(made, "r") == [(1, 2)]
    assert made.world.alive.sum() == 2


def test_another_of_a_kind_is_never_the_same_object():
    r = rule("r", when=c("begins_to_touch", a="Pod", b="another Pod"), do=add("level.n"))
    made = run(level(r, has={"n": 0.0}, kinds=(POD,), objects=things("Pod", (0, 0), (4, 0), (100, 0))), 1)
    # each of the two may be "Pod"
    assert fired(made, "r") == [(1, 2)]
    seen = made.witness(1)[0].ids
    assert list(zip(seen["Pod"], seen["another_Pod"], strict=True)) == [(1, 2), (2, 1)]


def test_a_role_may_name_one_object_a_tag_or_anything():
    kinds = (kind("Pod", 5, tags=("seed",)), kind("Nut", 5, tags=("seed",)), kind("Leaf", 5))
    objects = (
        *things("Pod", (0, 0), (1, 0)),
        *things("Nut", (2, 0), first=5),
        *things("Leaf", (3, 0), first=8),
    )
    for role, wanted in (("Pod 2", 1), ("any seed", 3), ("anything", 4), ("Pod", 2)):
        r = rule("r", when=START, do=c("remove", who=role))
        made = run(level(r, kinds=kinds, objects=objects), 1)
        assert made.trace.count_at(1) == 1
        assert 4 - made.world.alive.sum() == wanted


def test_a_role_first_named_in_an_action_stands_for_every_object():
    r = rule("r", when=START, do=[c("move_by", who="Pod", dx="1"), add("level.n")])
    world = run(level(r, has={"n": 0.0}, **touching_level([(10, 0), (20, 0)])), 1).world
    assert world.x.tolist() == [0, 11, 21]
    assert world.level["n"] == 1


def test_matches_are_ordered_by_age():
    r = rule("r", when=TOUCH, do=c("set_variable", variable="level.last", value="Pod.name"))
    built = level(r, has={"last": ""}, **touching_level([(3, 0), (-2, 0), (1, 0)]))
    made = run(built, 1)
    assert made.witness(1)[0].ids["Pod"] == [10, 11, 12]
    assert made.world.level["last"] == "Pod 3"


# when it fires


def test_each_tick_fires_every_tick_the_match_holds():
    r = rule("r", if_=c("formula_holds", formula="tick > 3"), do=add("level.n"))
    assert [t for t, _ in fired(run(level(r, has={"n": 0.0}), 6), "r")] == [4, 5, 6]


def test_on_becoming_true_fires_again_only_after_it_did_not_hold():
    r = rule(
        "r", if_=c("formula_holds", formula="tick mod 4 < 2"), fires="on becoming true", do=add("level.n")
    )
    assert [t for t, _ in fired(run(level(r, has={"n": 0.0}), 10), "r")] == [1, 4, 8]


def test_on_becoming_true_is_told_apart_by_combination():
    walk = rule("walk", when=EVERY_TICK, do=c("move_by", who="Gardener", dx="10"))
    r = rule("r", when=c("touches", a="Gardener", b="Pod"), fires="on becoming true", do=add("level.n"))
    made = run(level(r, walk, has={"n": 0.0}, **touching_level([(0, 0), (20, 0), (30, 0)])), 8)
    assert fired(made, "r") == [(1, 1), (2, 1), (3, 1)]


def test_first_time_only_fires_once_in_a_run():
    r = rule("r", when=c("touches", a="Gardener", b="Pod"), fires="first time only", do=add("level.n"))
    made = run(level(r, has={"n": 0.0}, **touching_level([(0, 0), (3, 0)])), 5)
    assert fired(made, "r") == [(1, 2)]


def test_first_time_only_per_object_fires_once_for_each():
    walk = rule("walk", when=EVERY_TICK, do=c("move_by", who="Gardener", dx="10"))
    r = rule(
        "r",
        when=c("touches", a="Gardener", b="Pod"),
        fires="first time only",
        first_per="object",
        do=add("level.n"),
    )
    made = run(level(r, walk, has={"n": 0.0}, **touching_level([(0, 0), (30, 0)])), 8)
    assert [m for _, m in fired(made, "r")] == [1, 1]


def test_a_cooldown_follows_a_firing():
    r = rule("r", when=EVERY_TICK, cooldown=0.1, do=add("level.n"))
    assert [t for t, _ in fired(run(level(r, has={"n": 0.0}), 20), "r")] == [1, 7, 13, 19]


def test_a_cooldown_per_object_rests_each_by_itself():
    walk = rule("walk", when=EVERY_TICK, do=c("move_by", who="Gardener", dx="10"))
    r = rule(
        "r", when=c("touches", a="Gardener", b="Pod"), cooldown=9.0, cooldown_per="object", do=add("level.n")
    )
    made = run(level(r, walk, has={"n": 0.0}, **touching_level([(0, 0), (30, 0)])), 8)
    assert len(fired(made, "r")) == 2


# actions


def test_one_effect_per_match():
    r = rule("r", when=TOUCH, do=add("level.score"))
    assert (
        run(level(r, has={"score": 0.0}, **touching_level([(0, 0), (1, 0), (2, 0)])), 1).world.level["score"]
        == 3
    )


def test_one_effect_per_match_on_the_same_object_too():
    hungry = kind("Gardener", 10, has={"pods": 0.0})
    r = rule("r", when=TOUCH, do=[add("Gardener.pods"), c("move_by", who="Gardener", dx="2")])
    world = run(
        level(
            r,
            kinds=(hungry, POD),
            objects=(*things("Gardener", (0, 0)), *things("Pod", (0, 0), (1, 0), first=5)),
        ),
        1,
    ).world
    assert world.variables["pods/number"][0] == 2
    assert world.x[0] == 4


def test_once_for_all_matches_does_its_list_once():
    r = rule("r", when=TOUCH, once_for_all=True, do=add("level.score"))
    made = run(level(r, has={"score": 0.0}, **touching_level([(0, 0), (1, 0)])), 1)
    assert made.world.level["score"] == 1
    assert fired(made, "r") == [(1, 2)]


def test_one_match_at_a_time_lets_later_matches_see_earlier_effects():
    steps = [c("set_variable", variable="Pod.place", value="level.n"), add("level.n")]
    numbered = kind("Pod", 5, has={"place": -1.0})
    for at_a_time, wanted in ((True, [0, 1, 2]), (False, [0, 0, 0])):
        r = rule("r", when=TOUCH, one_at_a_time=at_a_time, do=steps)
        objects = (*things("Gardener", (0, 0)), *things("Pod", (0, 0), (1, 0), (2, 0), first=5))
        world = run(level(r, has={"n": 0.0}, kinds=(GARDENER, numbered), objects=objects), 1).world
        assert world.variables["place/number"][1:].tolist() == wanted


def test_else_is_done_for_candidates_that_failed():
    r = rule(
        "r",
        when=TOUCH,
        if_=c("formula_holds", formula="Pod.x > 0"),
        do=add("level.yes"),
        else_=c("remove", who="Pod"),
    )
    made = run(level(r, has={"yes": 0.0}, **touching_level([(-2, 0), (1, 0), (-3, 0)])), 1)
    assert made.world.level["yes"] == 1
    assert [(f.matches, f.way.name) for f in made.trace.firings_at(1)] == [(1, "DO"), (2, "ELSE")]


def test_rules_below_see_changes_at_once_and_rules_above_a_tick_later():
    see = "level.n > 0"
    above = rule("above", if_=c("formula_holds", formula=see), fires="first time only", do=send("a"))
    write = rule("write", when=START, do=add("level.n"))
    below = rule("below", if_=c("formula_holds", formula=see), fires="first time only", do=send("b"))
    made = run(level(above, write, below, has={"n": 0.0}), 3)
    assert names_at(made, 1) == ["write", "below"]
    assert names_at(made, 2) == ["above"]


def test_a_created_object_is_seen_by_the_rules_below_at_once():
    make = rule("make", when=START, do=c("create", count="2", kind="Pod", where="Gardener"))
    below = rule(
        "below", if_=c("formula_holds", formula="count(Pod) = 2"), fires="first time only", do=send("b")
    )
    assert names_at(run(level(make, below, **touching_level([])), 1), 1) == ["make", "below"]


def test_the_created_object_is_a_role_for_the_actions_below():
    make = rule(
        "make",
        when=START,
        do=[c("create", count="3", kind="Pod", where="Gardener"), c("move_by", who="new Pod", dx="7")],
    )
    world = run(level(make, **touching_level([(50, 0)])), 1).world
    assert world.x.tolist() == [0, 50, 7, 7, 7]


def test_speaking_of_a_new_object_that_nothing_creates_is_a_problem():
    built = level(rule("r", when=START, do=c("remove", who="new Pod")), **touching_level([]))
    assert "nothing above creates" in Program(built).problems[0].message


def test_an_area_draws_a_point_of_its_own_for_each_created_object():
    made = rule("make", when=START, do=c("create", count="30", kind="Pod", where="tray"))
    built = level(
        made,
        places=(Area(name="tray", x=100, y=0, shape=Rectangle(width=20, height=10)),),
        **touching_level([]),
    )
    world = run(built, 1).world
    x, y = world.x[1:], world.y[1:]
    assert len(set(x.tolist())) == 30
    assert (np.abs(x - 100) <= 10).all() and (np.abs(y) <= 5).all()


@pytest.mark.parametrize(("where", "point"), [("gate", (3, 4)), ("Gardener", (0, 0))])
def test_a_spot_or_an_object_gives_its_point(where, point):
    built = level(
        rule("r", when=START, do=c("create", kind="Pod", where=where)),
        places=(Spot(name="gate", x=3, y=4),),
        **touching_level([]),
    )
    world = run(built, 1).world
    assert (world.x[1], world.y[1]) == point


def test_a_removed_object_matches_nothing_but_its_last_values_can_be_read():
    r = rule(
        "r", when=TOUCH, do=[c("remove", who="Pod"), c("set_variable", variable="level.x", value="Pod.x")]
    )
    below = rule("below", if_=c("formula_holds", formula="Pod.x > -99"), do=add("level.n"))
    made = run(level(r, below, has={"x": 0.0, "n": 0.0}, **touching_level([(4, 0)])), 2)
    assert made.world.level == {"x": 4.0, "n": 0.0}


def test_a_message_is_heard_at_the_next_tick_by_every_listener_wherever_it_stands():
    above = rule("above", when=heard("hello"), do=add("level.n"))
    sender = rule("sender", when=START, do=send("hello"))
    below = rule("below", when=heard("hello"), do=add("level.n"))
    made = run(level(above, sender, below, has={"n": 0.0}), 3)
    assert names_at(made, 1) == ["sender"]
    assert names_at(made, 2) == ["above", "below"]
    assert names_at(made, 3) == []


def test_a_message_sent_for_three_matches_is_heard_three_times():
    r = rule("r", when=TOUCH, do=send("got"))
    listen = rule("listen", when=heard("got"), do=add("level.n"))
    made = run(level(r, listen, has={"n": 0.0}, **touching_level([(0, 0), (1, 0), (2, 0)])), 2)
    assert made.world.level["n"] == 3


def test_a_saying_is_shown_for_its_time():
    r = rule("r", when=START, do=c("say", text="{level.n} pods", who="Gardener", time="0.1"))
    made = run(level(r, has={"n": 2.0}, **touching_level([])))
    assert made.world_at(Cursor(1, 1)).sayings[1][0] == "2 pods"
    assert made.world_at(made.end_of(6)).sayings
    assert not made.world_at(made.end_of(7)).sayings


# waits


def wait_level(**more):
    r = rule(
        "r",
        when=c("key_pressed", key="W"),
        do=[add("level.before"), c("wait", time="0.5"), add("level.after")],
        **more,
    )
    return level(r, has={"before": 0.0, "after": 0.0}, keys=(("W", 0.1, 0.15), ("W", 0.3, 0.35)), seconds=2.0)


def resumed(made):
    return [f.tick for f in made.trace.firings() if f.way.name == "RESUMED"]


def test_wait_puts_off_the_rest_and_resumes_in_clocks_of_the_due_tick():
    below = rule("below", when=c("every_seconds", period="9", first="0.6"), do=send("x"))
    built = wait_level(while_waiting="ignore")
    made = run(level(*built.order, below, has={"before": 0.0, "after": 0.0}, keys=(("W", 0.1, 0.15),)))
    assert [(f.tick, f.position, f.way.name) for f in made.trace.firings()] == [
        (6, 1, "DO"),
        (36, 1, "RESUMED"),
        (36, 2, "DO"),
    ]


@pytest.mark.parametrize(
    ("choice", "began", "after", "at"),
    [("ignore", 1, 1, [36]), ("restart", 2, 1, [48]), ("stack", 2, 2, [36, 48])],
)
def test_firing_again_while_waiting_ignores_restarts_or_stacks(choice, began, after, at):
    made = run(wait_level(while_waiting=choice))
    assert made.world.level == {"before": began, "after": after}
    assert resumed(made) == at


def test_waits_resume_in_the_order_in_which_they_were_started():
    slow = rule(
        "slow",
        when=START,
        do=[c("wait", time="0.1"), c("set_variable", variable="level.last", value='"slow"')],
    )
    late = rule(
        "late",
        when=c("every_seconds", period="9", first=str(2 / 60)),
        do=[c("wait", time=str(5 / 60)), c("set_variable", variable="level.last", value='"late"')],
    )
    made = run(level(late, slow, has={"last": ""}))
    assert names_at(made, 7) == ["slow", "late"]
    assert made.world.level["last"] == "late"


def test_a_match_whose_object_has_gone_does_not_go_on():
    r = rule("r", when=TOUCH, do=[c("wait", time="0.1"), add("level.n")])
    gone = rule("gone", when=c("every_seconds", period="9", first="0.05"), do=c("remove", who="Pod 1"))
    made = run(level(r, gone, has={"n": 0.0}, **touching_level([(0, 0), (1, 0)])))
    assert made.world.level["n"] == 1


def test_waiting_keeps_what_was_created():
    r = rule(
        "r",
        when=START,
        do=[
            c("create", kind="Pod", where="Gardener"),
            c("wait", time="0.1"),
            c("move_by", who="new Pod", dx="9"),
        ],
    )
    assert run(level(r, **touching_level([(50, 0)]))).world.x.tolist() == [0, 50, 9]


def test_a_wait_may_differ_by_match():
    slow = kind("Pod", 5, has={"delay": 0.1})
    objects = (*things("Gardener", (0, 0)), *things("Pod", (0, 0), (1, 0), first=5))
    r = rule(
        "r",
        when=TOUCH,
        do=[
            c("set_variable", variable="Pod.delay", value="0.1 + Pod.x / 10"),
            c("wait", time="Pod.delay"),
            add("level.n"),
        ],
    )
    made = run(level(r, has={"n": 0.0}, kinds=(GARDENER, slow), objects=objects))
    assert resumed(made) == [7, 13]


# order and switching


def test_the_order_list_takes_its_turn_from_top_to_bottom():
    rules = [rule(name, when=EVERY_TICK, do=add("level.n")) for name in ("c", "a", "b")]
    assert names_at(run(level(*rules, has={"n": 0.0}), 1), 1) == ["c", "a", "b"]


def test_a_switched_off_rule_or_section_does_not_run():
    off = rule("off", when=EVERY_TICK, do=add("level.n"), on=False)
    hidden = Section(name="s", on=False, rules=(rule("in", when=EVERY_TICK, do=add("level.n")),))
    shown = Section(name="t", rules=(rule("yes", when=EVERY_TICK, do=add("level.n")),))
    assert names_at(run(level(off, hidden, shown, has={"n": 0.0}), 1), 1) == ["yes"]


def test_reordering_or_adding_a_rule_leaves_the_draws_of_others_as_they_were():
    def draws(*order):
        made = run(level(*order, has={"a": 0.0, "b": 0.0}), 5)
        return made.world.level["a"]

    a = rule("a", when=EVERY_TICK, do=c("set_variable", variable="level.a", value="random(0, 1)"), id=5)
    b = rule("b", when=EVERY_TICK, do=c("set_variable", variable="level.b", value="random(0, 1)"), id=6)
    assert draws(a) == draws(a, b) == draws(b, a)


def test_another_seed_draws_other_numbers():
    a = rule("a", when=START, do=c("set_variable", variable="level.a", value="random(0, 1)"))
    drawn = {run(level(a, has={"a": 0.0}, seed=seed), 1).world.level["a"] for seed in range(5)}
    assert len(drawn) == 5


# faults and bounds


def test_a_fault_skips_that_match_marks_the_firing_and_says_where():
    r = rule("share", when=TOUCH, do=c("set_variable", variable="level.n", value="6 / Pod.x"))
    made = run(level(r, has={"n": 0.0}, **touching_level([(0, 0), (3, 0)])), 1)
    assert made.world.level["n"] == 2
    assert made.trace.firings_at(1)[0].faulted
    fault = made.trace.faults[0]
    assert (fault.part, fault.line, fault.count) == ("do", 0, 1)
    assert fault.sentence == "“share”, do 1: divides by zero: “Pod.x” is 0"


def test_a_fault_in_a_condition_drops_the_match():
    r = rule("r", when=TOUCH, if_=c("formula_holds", formula="6 / Pod.x > 0"), do=add("level.n"))
    made = run(level(r, has={"n": 0.0}, **touching_level([(0, 0), (3, 0)])), 1)
    assert made.world.level["n"] == 1


def test_infinity_never_enters_the_level():
    r = rule(
        "r",
        when=EVERY_TICK,
        do=[c("set_variable", variable="level.n", value="1e308"), add("level.n", "1e308")],
    )
    made = run(level(r, has={"n": 0.0}), 2)
    assert made.world.level["n"] == 1e308
    assert "range of numbers" in made.trace.faults[0].sentence


def test_a_negative_wait_faults():
    r = rule("r", when=START, do=[c("wait", time="0 - 1"), add("level.n")])
    made = run(level(r, has={"n": 0.0}))
    assert made.world.level["n"] == 0
    assert "cannot be below 0" in made.trace.faults[0].sentence


@pytest.mark.parametrize(
    ("bound", "do", "says"),
    [
        (
            {"most_creations": 10},
            c("create", count="100", kind="Pod", where="Gardener"),
            "10 creations a tick",
        ),
        ({"most_objects": 20}, c("create", count="100", kind="Pod", where="Gardener"), "20 objects"),
        ({"most_messages": 5}, c("send_message", message="m"), "5 messages a tick"),
        (
            {"most_matches": 50},
            c("set_variable", variable="level.n", value="Pod.x + another_Pod.x"),
            "level's bound is 50",
        ),
    ],
)
def test_reaching_a_bound_is_a_fault_with_a_sentence(bound, do, says):
    r = rule("storm", when=c("touches", a="Gardener", b="Pod"), do=do)
    built = level(
        r, has={"n": 0.0}, **touching_level([(i % 5, i // 5) for i in range(15)]), settings=Settings(**bound)
    )
    made = run(built, 3)
    assert "storm" in made.trace.faults[0].sentence
    assert says in made.trace.faults[0].sentence


# motion


def test_turn_and_go_walks_along_where_it_faces():
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60", turning="90"),))
    keys = (("Up", 0.0, 1.0), ("Left", 1.0, 2.0), ("Down", 2.0, 3.0))
    made = run(level(kinds=(walker,), objects=things("Gardener", (0, 0)), keys=keys, seconds=4.0))
    end = made.world
    assert (end.x[0], end.y[0], end.angle[0]) == pytest.approx((59, -60, 90), abs=1.01)
    assert end.vx[0] == end.vy[0] == 0


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_walking_goes_equally_far_at_any_tick_rate(rate):
    walker = kind("Gardener", 10, behaviours=(c("steer_by_keys", speed="60"),))
    made = run(
        level(
            kinds=(walker,),
            objects=things("Gardener", (0, 0)),
            keys=(("Up", 0.5, 1.5),),
            seconds=2.0,
            rate=rate,
        )
    )
    assert made.world.x[0] == pytest.approx(60)


def test_a_movable_object_is_stopped_by_a_fixed_one():
    walker = kind("Gardener", 10, contact="movable", behaviours=(c("steer_by_keys", speed="60"),))
    wall = kind("Wall", box=(10, 100), contact="fixed")
    objects = (*things("Gardener", (0, 0)), *things("Wall", (50, 0), first=5))
    made = run(level(kinds=(walker, wall), objects=objects, keys=(("Up", 0.0, 3.0),), seconds=3.0))
    assert made.world.x[0] == pytest.approx(35)


def test_a_movable_object_slides_along_a_turned_wall():
    walker = kind("Gardener", 10, contact="movable", behaviours=(c("steer_by_keys", speed="60"),))
    wall = kind("Wall", box=(400, 10), contact="fixed")
    from msgspec.structs import replace

    beam = replace(things("Wall", (100, 0), first=5)[0], angle=45.0)
    made = run(
        level(
            kinds=(walker, wall),
            objects=(*things("Gardener", (0, 0)), beam),
            keys=(("Up", 0.0, 3.0),),
            seconds=3.0,
        )
    )
    assert made.world.y[0] > 10
    assert made.world.x[0] < 180


def test_two_movable_objects_part_by_half_each():
    loose = kind("Pot", 10, contact="movable")
    made = run(level(kinds=(loose,), objects=things("Pot", (0, 0), (10, 0))), 1)
    assert made.world.x.tolist() == pytest.approx([-5, 15])


def test_a_kind_without_contact_is_never_touched():
    ghost = kind("Pod", 5, contact="none")
    r = rule("r", when=TOUCH, do=add("level.n"))
    made = run(
        level(
            r,
            has={"n": 0.0},
            kinds=(GARDENER, ghost),
            objects=(*things("Gardener", (0, 0)), *things("Pod", (0, 0), first=5)),
        ),
        2,
    )
    assert fired(made, "r") == []


def test_circles_touch_where_their_edges_meet():
    r = rule("r", when=TOUCH, do=add("level.n"))
    near = run(level(r, has={"n": 0.0}, **touching_level([(15, 0)])), 1)
    far = run(level(r, has={"n": 0.0}, **touching_level([(15.1, 0)])), 1)
    assert (len(fired(near, "r")), len(fired(far, "r"))) == (1, 0)


def test_a_level_without_objects_or_rules_runs():
    made = run(level())
    assert made.done == 60 and made.trace.firings() == []


def test_an_area_shape_may_be_a_circle():
    built = level(
        rule("r", when=START, do=c("create", count="20", kind="Pod", where="pond")),
        places=(Area(name="pond", x=0, y=0, shape=Circle(radius=3)),),
        **touching_level([]),
    )
    world = run(built, 1).world
    assert (np.hypot(world.x, world.y) <= 3).all()


def test_a_run_can_be_stopped_between_ticks():
    built = level(seconds=10)
    made = Run(Program(built), built.trials[0])
    seen = iter([False, False, False, True])
    assert made.advance(stop=lambda: next(seen)) == 3
    assert made.done == 3


def test_a_contact_is_felt_beside_an_occasion_that_is_looked_at_in_every_tick():
    either = rule(
        "either",
        when=[c("variable_changes", variable="level.n"), c("begins_to_touch", a="Gardener", b="Pod")],
        do=c("send_message", message="m"),
    )
    made = run(level(either, has={"n": 0.0}, **touching_level([(0, 0)])), 5)
    assert [tick for tick, _ in fired(made, "either")] == [1]
