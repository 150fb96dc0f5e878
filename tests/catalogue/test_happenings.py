"""Occasions, conditions and picks: each does what its sentence says."""

from __future__ import annotations

import math

import numpy as np
import pytest
from msgspec.structs import replace
from scenes import LAMP, MOTH, WALK, WALL, count, scene, ticks

from building import START, add, c, fired, heard, isnt, rule, run, send
from gatillo.level.model import (
    Choice,
    Clause,
    Input,
    PointerMove,
    Topic,
)
from gatillo.sim.interaction.talk import topics
from gatillo.sim.program.program import Program

# time


def test_after_the_start_comes_once_at_its_time():
    for rate in (30, 60, 120):
        assert ticks(run(scene(count(c("after_start", time="0.5")), rate=rate))) == [rate // 2]


def test_after_another_rule_fired_comes_for_each_tick_it_did():
    source = rule("source", when=c("every_seconds", period="0.3", first="0.1"), do=send("x"))
    made = run(scene(count(c("after_rule", time="0.2", rule="source")), source))
    assert ticks(made) == [18, 36, 54]


def test_a_timer_runs_stops_and_is_reset():
    rules = [
        rule("start", when=START, do=c("start_timer", timer="t")),
        rule("stop", when=c("after_start", time="0.2"), do=c("stop_timer", timer="t")),
        rule("again", when=c("after_start", time="0.5"), do=c("start_timer", timer="t")),
        count(c("timer_reaches", timer="t", time="0.3")),
    ]
    made = run(scene(*rules))
    assert ticks(made) == [30 + 19 - 12]
    reset = rule("reset", when=c("after_start", time="0.55"), do=c("reset_timer", timer="t"))
    assert ticks(run(scene(*rules, reset))) == [33 + 18]


def test_past_holds_from_its_time_on():
    made = run(scene(rule("r", if_=c("past", time="0.9"), do=add("level.n"))))
    assert ticks(made) == list(range(54, 61))


# the pointer


def test_pointer_buttons_are_pressed_held_and_released_anywhere():
    rules = [
        rule(n, when=c(f"pointer_{n}", button="left"), do=add("level.n"))
        for n in ("pressed", "held", "released")
    ]
    made = run(scene(*rules, keys=(("pointer left", 0.1, 0.15),)))
    assert [ticks(made, n) for n in ("pressed", "held", "released")] == [[6], [6, 7, 8], [9]]
    assert (
        ticks(run(scene(count(c("pointer_pressed", button="right")), keys=(("pointer left", 0.1, 0.15),))))
        == []
    )


def pots(which, when="pointer_pressed_on"):
    r = rule("r", when=c(when, button="left", a="Moth", which=which), do=c("remove", who="Moth"))
    built = scene(
        r, moths=((0, 0), (2, 0), (50, 0)), pointer=((0, 1, 0),), keys=(("pointer left", 0.1, 0.2),)
    )
    deeper = tuple(replace(o, depth=9.0) if o.id == 1 else o for o in built.objects)
    return run(replace(built, objects=deeper))


def test_a_press_on_an_object_takes_the_front_most_or_all_under_the_pointer():
    assert pots("the front-most only").witness(6)[0].ids["Moth"] == [1]
    assert pots("all under it").witness(6)[0].ids["Moth"] == [1, 2]


def test_hidden_objects_are_not_under_the_pointer():
    hide = rule("hide", when=START, do=c("hide", who="Moth 1"))
    r = count(c("pointer_over", a="Moth"))
    made = run(scene(hide, r, pointer=((0, 0, 0),)), 3)
    assert ticks(made) == [1]


def test_held_and_released_on_an_object():
    for when, wanted in (("pointer_held_on", [6, 7, 8]), ("pointer_released_on", [9])):
        r = count(c(when, button="left", a="Moth", which="all under it"))
        assert ticks(run(scene(r, pointer=((0, 0, 0),), keys=(("pointer left", 0.1, 0.15),)))) == wanted


def test_the_pointer_comes_over_is_over_and_leaves():
    pointer = ((0, 50, 50), (0.1, 0, 0), (0.2, 50, 50))
    rules = [
        rule(n, when=c(f"pointer_{n}", a="Moth"), do=add("level.n")) for n in ("comes_over", "over", "leaves")
    ]
    made = run(scene(*rules, pointer=pointer))
    assert [ticks(made, n) for n in ("comes_over", "over", "leaves")] == [[6], list(range(6, 12)), [12]]


def test_the_pointer_moves_is_told_in_the_ticks_in_which_it_does():
    assert ticks(run(scene(count(c("pointer_moves")), pointer=((0.1, 1, 1), (0.2, 2, 2))))) == [6, 12]


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_gliding_pointer_goes_the_same_way_at_every_rate(rate):
    built = scene(rate=rate)
    moves = (PointerMove(at=0, x=0, y=0), PointerMove(at=1, x=100, y=50, glide=True))
    made = run(replace(built, trials=(replace(built.trials[0], input=Input(pointer=moves)),)))
    for part in (0.5, 0.7, 1.0):
        world = made.world_at(made.end_of(round(part * rate)))
        assert (world.input.pointer_x, world.input.pointer_y) == pytest.approx((100 * part, 50 * part))


def test_conditions_ask_for_pointer_and_keys():
    held = {"pointer": ((0, 0, 0),), "keys": (("pointer left", 0.1, 0.15), ("W", 0.2, 0.25))}
    for condition, wanted in (
        (c("pointer_is_held", button="left"), [6, 7, 8]),
        (c("key_is_held", key="W"), [12, 13, 14]),
        (c("pointer_is_over", a="Moth"), list(range(1, 61))),
    ):
        assert ticks(run(scene(rule("r", if_=condition, do=add("level.n")), **held))) == wanted


# areas


def test_an_object_enters_is_in_and_leaves_an_area_by_its_middle():
    rules = [
        rule(n, when=c(n, a="Moth", place="yard"), do=add("level.n")) for n in ("enters", "is_in", "leaves")
    ]
    made = run(scene(*rules, WALK), 20)
    # rules move it after Contact: at tick t it was found at 10 (t - 1)
    assert [ticks(made, n) for n in ("enters", "is_in", "leaves")] == [[9], [9, 10, 11, 12, 13], [14]]


def test_an_area_becomes_occupied_by_the_first_and_empty_by_the_last():
    rules = [
        rule(n, when=c(n, place="yard", a="Moth"), do=add("level.n"))
        for n in ("becomes_occupied", "becomes_empty")
    ]
    made = run(scene(*rules, WALK, moths=((0, 0), (-30, 0))), 30)
    assert ticks(made, "becomes_occupied") == [9]
    assert ticks(made, "becomes_empty") == [17]


def test_there_are_so_many_of_a_kind_here_or_in_an_area():
    for condition, holds in (
        (c("there_are", comparison="=", count="2", kind="Moth"), True),
        (c("there_are", comparison=">", count="2", kind="Moth"), False),
        (c("there_are_in", comparison="=", count="1", kind="Moth", place="yard"), True),
        (c("there_are_in", comparison="=", count="1", kind="Moth", place="pond"), False),
        (c("in_area", who="Moth", place="yard"), True),
    ):
        made = run(scene(rule("r", when=START, if_=condition, do=add("level.n")), moths=((0, 0), (90, 5))), 1)
        assert bool(ticks(made)) is holds


# what has changed


def test_a_variable_that_changes_is_noticed_wherever_it_was_written():
    write = rule("write", when=c("every_seconds", period="0.1", first="0.1"), do=add("level.n", "0.5"))
    for order in ((write, "r"), ("r", write)):
        r = rule("r", when=c("variable_changes", variable="level.n"), do=add("level.m"))
        made = run(scene(*(r if o == "r" else o for o in order), has={"m": 0.0}), 20)
        assert ticks(made) == ([6, 12, 18] if order[0] is write else [7, 13, 19])


def test_what_has_changed_since_the_layout_is_noticed_in_the_first_tick():
    write = rule("write", when=START, do=add("Moth 2.speed", "99"))
    changes = rule("changes", when=c("variable_changes", variable="Moth.speed"), do=add("level.m"))
    rises = rule("rises", when=c("rises_above", variable="Moth.speed", limit="50"), do=add("level.m"))
    for order, tick in (((write, changes, rises), 1), ((changes, rises, write), 2)):
        made = run(scene(*order, moths=((0, 0), (9, 0)), has={"m": 0.0}), 5)
        assert fired(made, "changes") == fired(made, "rises") == [(tick, 1)]


def test_what_is_new_has_not_changed():
    make = rule(
        "make",
        when=START,
        do=(c("create", count="2", kind="Moth", where="gate"), add("new Moth.speed", "5")),
    )
    r = rule("r", when=c("variable_changes", variable="Moth.speed"), do=add("level.m"))
    assert ticks(run(scene(make, r, has={"m": 0.0}), 5)) == []


def test_one_laid_out_in_an_area_enters_in_the_first_tick_and_one_removed_never_leaves():
    take = rule("take", when=c("after_start", time="0.05"), do=c("remove", who="Moth"))
    enters = rule("r", when=c("enters", a="Moth", place="yard"), do=add("level.n"))
    leaves = rule("r", when=c("leaves", a="Moth", place="yard"), do=add("level.n"))
    empty = rule("r", when=c("becomes_empty", place="yard", a="Moth"), do=add("level.n"))
    for r, told in ((enters, [1]), (leaves, []), (empty, [4])):
        assert ticks(run(scene(take, r, moths=((100, 0),)), 9)) == told


@pytest.mark.parametrize(
    "who, told", [("Moth", [4, 7]), ("Moth 2", [7]), ("any calm", [4]), ("anything", [4, 7])]
)
def test_a_removed_object_is_told_to_those_that_speak_of_it(who, told):
    first = rule(
        "first",
        when=c("after_start", time="0.05"),
        do=(c("give_tag", who="Moth 1", tag="calm"), c("remove", who="Moth 1")),
    )
    second = rule("second", when=c("after_start", time="0.1"), do=c("remove", who="Moth 2"))
    heard = rule("r", when=c("is_removed", a=who), do=add("level.n"))
    # above those that remove: it is told in the tick after
    assert ticks(run(scene(heard, first, second, moths=((0, 0), (9, 0))), 12)) == told


def test_an_area_is_occupied_by_and_empty_of_one_whoever_else_of_its_kind_is_in_it():
    away = rule("away", when=c("after_start", time="0.1"), do=c("put_at_point", who="Moth 2", x="0", y="0"))
    back = rule("back", when=c("after_start", time="0.2"), do=c("put_at_point", who="Moth 2", x="100", y="0"))
    other = rule(
        "other", when=c("every_seconds", period="0.05", first="0.05"), do=c("move_by", who="Moth 3", dx="400")
    )
    moths = ((100, 0), (100, 5), (-300, 0))
    for use, of, told in (
        ("becomes_occupied", "Moth 2", [1, 13]),
        ("becomes_empty", "Moth 2", [7]),
        ("becomes_occupied", "Moth", [1]),
        ("becomes_empty", "Moth", []),
    ):
        r = rule("r", when=c(use, place="yard", a=of), do=add("level.n"))
        assert ticks(run(scene(away, back, other, r, moths=moths), 20)) == told


def test_an_objects_variable_is_told_for_that_object():
    write = rule(
        "write", when=c("after_start", time="0.05"), do=c("set_variable", variable="Moth 2.speed", value="99")
    )
    r = rule("r", when=c("rises_above", variable="Moth.speed", limit="50"), do=c("remove", who="Moth"))
    made = run(scene(write, r, moths=((0, 0), (9, 0))), 5)
    assert fired(made, "r") == [(3, 1)]
    assert made.witness(3)[1].ids["Moth"] == [2]


def test_falls_below_tells_the_crossing_only():
    sink = rule("sink", do=add("level.n", "-1"))
    r = rule("r", when=c("falls_below", variable="level.n", limit="-2.5"), do=add("level.m"))
    assert ticks(run(scene(sink, r, has={"m": 0.0}), 9)) == [3]


def test_created_and_removed_objects_are_told_once_above_and_below():
    make = rule(
        "make", when=c("after_start", time="0.05"), do=c("create", count="2", kind="Moth", where="gate")
    )
    clear = rule("clear", when=c("after_start", time="0.1"), do=c("remove", who="Moth 1"))
    told = [rule(n, when=c(f"is_{n}", a="Moth"), do=add("level.n")) for n in ("created", "removed")]
    made = run(scene(*told, make, clear), 12)
    assert (fired(made, "created"), fired(made, "removed")) == ([(4, 2)], [(7, 1)])
    made = run(scene(make, clear, *told), 12)
    assert (fired(made, "created"), fired(made, "removed")) == ([(3, 2)], [(6, 1)])


def test_a_removed_objects_last_values_can_be_read_by_those_who_hear_of_it():
    hear = rule(
        "hear", when=c("is_removed", a="Moth"), do=c("set_variable", variable="level.n", value="Moth.x")
    )
    clear = rule("clear", when=START, do=c("remove", who="Moth"))
    assert run(scene(hear, clear, moths=((7, 0),)), 3).world.level["n"] == 7


# conditions


@pytest.mark.parametrize(
    ("condition", "holds"),
    [
        (c("is_of_kind", who="Moth", kind="Moth"), True),
        (c("is_of_kind", who="Moth", kind="Lamp"), False),
        (c("within", who="Moth", distance="50", where="gate"), True),
        (c("within", who="Moth", distance="49", where="gate"), False),
        (c("within", who="Moth", distance="60", where="Lamp"), True),
        (c("in_cone", b="Lamp", a="Moth", distance="70", angle="10"), True),
        (c("in_cone", b="Lamp", a="Moth", distance="50", angle="10"), False),
        (c("in_cone", b="Moth", a="Lamp", distance="70", angle="10"), False),
        (c("clear_view", a="Moth", b="Lamp"), True),
        (c("first_along_ray", b="Lamp", a="Moth", angle="0", reach="60"), True),
        (c("first_along_ray", b="Lamp", a="Moth", angle="0", reach="50"), False),
        (c("first_along_ray", b="Lamp", a="Moth", angle="20", reach="90"), False),
        (c("is_touching", a="Moth", b="Lamp"), False),
        (c("is_shown", who="Moth"), True),
        (c("is_attached", a="Moth", b="Lamp"), False),
        (c("moves", who="Moth"), False),
        (c("holds_item", who="Moth", count="1", item="key"), False),
        (c("has_fired", rule="never"), False),
        (c("chance", percent="100"), True),
        (c("chance", percent="0"), False),
    ],
)
def test_a_condition_holds_or_does_not(condition, holds):
    never = rule("never", when=heard("nothing"), do=add("level.n"))
    made = run(scene(never, rule("r", when=START, if_=condition, do=add("level.n")), lamps=((60, 0),)), 1)
    assert bool(ticks(made)) is holds


def test_a_wall_blocks_the_view_and_the_ray():
    built = scene(
        rule("see", when=START, if_=c("clear_view", a="Moth", b="Lamp"), do=add("level.n")),
        rule("ray", when=START, if_=c("first_along_ray", b="Wall", a="Moth", reach="100"), do=add("level.n")),
        lamps=((60, 0),),
        walls=((30, 0),),
    )
    made = run(built, 1)
    assert (ticks(made, "see"), ticks(made, "ray")) == ([], [1])


def test_rays_agree_with_marching_along_them():
    chance = np.random.default_rng(3)
    from gatillo.sim.collision import raycast as rays
    from gatillo.sim.world.world import World

    built = scene(moths=tuple(map(tuple, chance.uniform(-80, 80, (8, 2)))), walls=((40, 20), (-50, 10)))
    turned = tuple(replace(o, angle=float(chance.uniform(-180, 180))) for o in built.objects)
    world = World(Program(replace(built, objects=turned)))
    everything = np.arange(len(world.id))
    for angle in chance.uniform(-180, 180, 40):
        dx, dy = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        _, rows, gaps = rays.meetings(world, np.array([0]), np.array([dx]), np.array([dy]), everything)
        away = np.full(len(everything), np.inf)
        away[rows] = gaps
        for row in everything[1:]:
            from gatillo.sim.collision.regions import under_point

            steps = np.arange(0, 250, 0.05)
            hit = (
                next(
                    (s for s in steps if row in under_point(world, world.x[0] + dx * s, world.y[0] + dy * s)),
                    np.inf,
                )
                if np.isfinite(away[row])
                else np.inf
            )
            if np.isfinite(hit) or np.isfinite(away[row]):
                assert away[row] == pytest.approx(hit, abs=0.06)


def test_rules_that_fired_lately_are_known():
    source = rule("source", when=c("after_start", time="0.1"), do=send("x"))
    late = rule("r", if_=c("fired_lately", rule="source", time="0.05"), do=add("level.n"))
    ever = rule("ever", if_=c("has_fired", rule="source"), fires="first time only", do=add("level.n"))
    made = run(scene(source, late, ever), 20)
    assert (ticks(made), ticks(made, "ever")) == ([6, 7, 8, 9], [6])


def test_chance_draws_for_each_match_and_about_as_often_as_it_says():
    r = rule("r", if_=c("chance", percent="30"), do=c("turn_by", who="Moth", angle="0"))
    keep = rule("r", if_=[c("is_shown", who="Moth"), c("chance", percent="30")], do=add("level.n"))
    made = run(scene(keep, moths=tuple((i, 0) for i in range(200))), 20)
    assert 0.25 < made.world.level["n"] / 4000 < 0.35
    assert Program(scene(r)).problems == []


def group(use, *conditions, negated=False):
    return Clause(use=use, of=conditions, negated=negated)


@pytest.mark.parametrize(
    ("condition", "wanted"),
    [
        (
            group(
                "all_of",
                c("compare", left="Moth.x", comparison=">", right="1"),
                c("compare", left="Moth.x", comparison="<", right="4"),
            ),
            [2, 3],
        ),
        (
            group(
                "any_of",
                c("compare", left="Moth.x", comparison="<", right="1"),
                c("compare", left="Moth.x", comparison=">", right="3"),
            ),
            [0, 4],
        ),
        (
            group(
                "none_of",
                c("compare", left="Moth.x", comparison="<", right="1"),
                c("compare", left="Moth.x", comparison=">", right="3"),
            ),
            [1, 2, 3],
        ),
        (
            group(
                "any_of",
                group(
                    "all_of",
                    c("formula_holds", formula="Moth.x > 2"),
                    isnt("formula_holds", formula="Moth.x = 3"),
                ),
                c("formula_holds", formula="Moth.x = 0"),
            ),
            [0, 4],
        ),
        (group("all_of", c("formula_holds", formula="Moth.x > 2"), negated=True), [0, 1, 2]),
        (group("all_of"), [0, 1, 2, 3, 4]),
        (group("any_of"), []),
    ],
)
def test_groups_nest(condition, wanted):
    r = rule("r", when=START, if_=[c("is_shown", who="Moth"), condition], do=c("remove", who="Moth"))
    made = run(scene(r, moths=tuple((i, 0) for i in range(5))), 1)
    assert made.world.x[~made.world.alive].tolist() == wanted


# picks


@pytest.mark.parametrize(
    ("pick", "wanted"),
    [
        (c("nearest", a="Moth", where="gate"), [30]),
        (c("nearest", a="Moth", where="Lamp", per="Lamp"), [0, 30]),
        (c("best_by", end="lowest", value="Moth.x"), [-5]),
        (c("best_by", end="highest", value="Moth.x"), [30]),
        (c("front_most", a="Moth"), [30]),
        (c("first_n", count="2"), [0, 20]),
        (c("first_n", count="0"), []),
    ],
)
def test_a_pick_keeps_the_one_it_says(pick, wanted):
    r = rule("r", when=START, if_=[c("is_shown", who="Moth"), pick], do=c("remove", who="Moth"))
    made = run(scene(r, moths=((0, 0), (20, 0), (-5, 0), (30, 0)), lamps=((3, 0), (40, 0))), 1)
    assert made.world.x[~made.world.alive].tolist() == wanted


def test_a_random_pick_keeps_one_and_not_always_the_same():
    kept = set()
    for seed in range(12):
        r = rule(
            "r", when=START, if_=[c("is_shown", who="Moth"), c("random_one")], do=c("remove", who="Moth")
        )
        made = run(scene(r, moths=((0, 0), (20, 0), (40, 0)), seed=seed), 1)
        assert (~made.world.alive).sum() == 1
        kept |= set(made.world.x[~made.world.alive].tolist())
    assert len(kept) > 1


def talk_level(*choices):
    """A moth that knows of the key and a lamp that does not; a conversation with the one the rule names."""
    start = rule("start", when=START, do=c("start_conversation", who="Moth"))
    chosen = rule(
        "r",
        when=c("topic_chosen", topic="the key", a="Moth"),
        do=c("give", count="1", item="key", who="Moth"),
    )
    end = rule("end", when=c("after_start", time="0.5"), do=c("end_conversation"))
    going = rule("going", if_=c("is_talking"), do=add("level.n"))
    built = scene(start, chosen, end, going, lamps=((50, 0),))
    moth = replace(MOTH, topics=(Topic(name="the key", answer="Here it is."), Topic(name="the weather")))
    trial = replace(built.trials[0], input=Input(choices=tuple(Choice(at=t, text=w) for t, w in choices)))
    return replace(built, kinds=(moth, LAMP, WALL), trials=(trial,))


def test_a_topic_is_chosen_only_with_someone_who_knows_it_and_while_talking():
    made = run(talk_level((0.1, "the key"), (0.2, "the weather"), (0.3, "the moon"), (0.8, "the key")))
    assert ticks(made) == [6]
    assert made.world_at(made.end_of(7)).display.sayings[1][0] == "Here it is."
    assert made.world.items == {(1, "key"): 1}
    assert ticks(made, "going") == list(range(1, 30))
    assert [t.name for t in topics(made.world_at(made.end_of(9)))] == ["the key", "the weather"]
    assert topics(made.world) == ()


def test_an_unknown_topic_is_a_problem_with_the_nearest_known():
    built = talk_level()
    wrong = replace(built, order=(count(c("topic_chosen", topic="the kee", a="Moth")),))
    assert "did you mean “the key”" in Program(wrong).problems[0].message


def test_an_occasions_number_cannot_speak_of_objects():
    built = scene(count(c("rises_above", variable="level.n", limit="Moth.x")))
    assert "cannot speak of objects" in Program(built).problems[0].message


def test_every_entry_of_the_catalogue_is_tried_by_name_in_the_tests():
    from pathlib import Path

    from gatillo.catalogue import CATALOGUE

    text = "".join(p.read_text() for p in Path(__file__).parents[1].rglob("*.py"))
    told = {
        "pointer_pressed",
        "pointer_held",
        "pointer_released",
        "pointer_comes_over",
        "pointer_leaves",
        "key_released",
    }
    missing = [n for n in CATALOGUE if f'"{n}"' not in text and n not in told]
    assert missing == []
