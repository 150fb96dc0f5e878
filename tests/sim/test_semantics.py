"""How a level runs, statement by statement."""

from __future__ import annotations

import numpy as np
import pytest

from building import (
    EVERY_TICK,
    GARDENER,
    POD,
    START,
    TOUCH,
    add,
    c,
    fired,
    isnt,
    kind,
    level,
    names_at,
    rule,
    run,
    things,
    touching_level,
)
from gatillo.sim.run.run import Cursor

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
