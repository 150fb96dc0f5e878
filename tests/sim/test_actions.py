"""What rules do, when they go on after a wait, and in which order they take their turns."""

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
    heard,
    kind,
    level,
    names_at,
    rule,
    run,
    send,
    things,
    touching_level,
)
from gatillo.inspect.expectations import judge
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Area, Rectangle, Section, Spot
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Cursor

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


@pytest.mark.parametrize(
    ("name", "to"),
    [
        ("x", "7"),
        ("y", "-7"),
        ("vx", "0.5"),
        ("vy", "-0.5"),
        ("angle", "30"),
        ("scale", "2"),
        ("depth", "-3"),
        ("shown", "no"),
    ],
)
def test_what_every_object_has_can_be_set(name, to):
    r = rule("r", when=START, do=c("set_variable", variable=f"Pod.{name}", value=to))
    read = HoldsAt(formula=f"Pod.{name} = {to}", time=1 / 60)
    made = run(level(r, kinds=(POD,), objects=things("Pod", (0, 0)), expect=(read,)))
    assert made.program.problems == []
    assert judge(made)[0].outcome == "held"


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
    assert made.world_at(Cursor(1, 1)).display.sayings[1][0] == "2 pods"
    assert made.world_at(made.end_of(6)).display.sayings
    assert not made.world_at(made.end_of(7)).display.sayings


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
