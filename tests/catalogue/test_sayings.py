"""Entries for what could not be said before: tags given, mass, contact, points, branches, waits for something."""

from __future__ import annotations

import math

import pytest
from msgspec.structs import replace
from scenes import ticks

from building import EVERY_TICK, START, add, c, fired, heard, kind, level, rule, run, things
from gatillo.level.model import Choice, Clause, Point, Settings, Topic
from gatillo.sim.interaction.talk import topics
from gatillo.sim.program.program import Program

MOTH = kind("Moth", 5, has={"v": 0.0}, contact="none")
LAMP = kind("Lamp", 5, has={"v": 0.0}, contact="none")


def moths(*order, n=3, lamps=((100, 0),), values=(), **more):
    objects = (*things("Moth", *((float(10 * i), 0.0) for i in range(n))), *things("Lamp", *lamps, first=50))
    objects = tuple(
        replace(o, values={"v": float(values[i])}) if i < len(values) else o for i, o in enumerate(objects)
    )
    return level(*order, kinds=(MOTH, LAMP), objects=objects, has={"n": 0.0, "on": False}, **more)


def values(world, n=3):
    return world.values_of(range(n), "v/number").tolist()


def test_each_in_every_tick_is_once_for_each_object_in_every_tick():
    made = run(moths(rule("r", when=c("each_in_every_tick", who="Moth"), do=add("Moth.v"))), 4)
    assert fired(made, "r") == [(1, 3), (2, 3), (3, 3), (4, 3)]
    assert values(made.world) == [4, 4, 4]


def test_a_wait_until_goes_on_for_each_match_when_the_formula_holds_for_it():
    go = rule(
        "go",
        when=START,
        do=[
            c("set_variable", variable="Moth.v", value="0"),
            c("wait_until", formula="Moth.x > 25"),
            add("Moth.v"),
        ],
    )
    drift = rule("drift", when=c("each_in_every_tick", who="Moth"), do=c("move_by", who="Moth", dx="5"))
    made = run(moths(go, drift), 10)
    # x after tick t is 5 t, 10 + 5 t, 20 + 5 t; a wait looks at the beginning of the tick after
    assert fired(made, "go") == [(1, 1), (3, 1), (5, 1), (7, 1)]


def test_a_wait_until_that_holds_at_once_goes_on_in_the_next_tick():
    made = run(moths(rule("go", when=START, do=[c("wait_until", formula="yes"), add("level.n")])), 5)
    assert ticks(made, "go") == [1, 2]


def test_a_wait_until_without_an_answer_ends_there_and_is_told():
    made = run(
        moths(rule("go", when=START, do=[c("wait_until", formula="1 / level.n > 0"), add("level.n")])), 5
    )
    assert ticks(made, "go") == [1]
    assert "divides by zero" in made.trace.faults[0].sentence


def test_an_if_among_the_actions_parts_the_matches_and_otherwise_takes_the_others():
    r = rule(
        "r",
        when=c("each_in_every_tick", who="Moth"),
        do=[
            Clause(
                use="if_so",
                slots={"formula": "Moth.x > 5"},
                of=(c("set_variable", variable="Moth.v", value="1"),),
            ),
            Clause(use="otherwise", of=(c("set_variable", variable="Moth.v", value="2"), add("level.n"))),
            add("level.n", "10"),
        ],
    )
    made = run(moths(r), 1)
    assert values(made.world) == [2, 1, 1]
    assert made.world.level["n"] == 31


def test_an_otherwise_without_an_if_is_a_finding():
    r = rule("r", when=START, do=[add("level.n"), Clause(use="otherwise", of=(add("level.n"),))])
    assert "no “if” just above" in Program(moths(r)).problems[0].message


def test_cancelled_waits_do_not_go_on_and_those_of_a_rule_switched_off_do():
    slow = rule("slow", when=START, do=[c("wait", time="0.1"), add("level.n")])
    off = rule("off", when=c("after_start", time="0.05"), do=c("switch_rule_off", rule="slow"))
    cancel = rule("cancel", when=c("after_start", time="0.05"), do=c("cancel_waits", rule="slow"))
    assert run(moths(slow, off), 20).world.level["n"] == 1
    assert run(moths(slow, cancel), 20).world.level["n"] == 0


def test_a_tag_given_by_a_rule_is_carried_from_then_on_and_can_be_taken():
    give = rule(
        "give",
        when=START,
        if_=c("compare", left="Moth.x", comparison=">", right="5"),
        do=c("give_tag", who="Moth", tag="bright"),
    )
    count = rule("count", when=c("each_in_every_tick", who="any bright"), do=add("level.n"))
    take = rule("take", when=c("after_start", time="0.1"), do=c("take_tag", tag="bright", who="Moth"))
    made = run(moths(give, count, take), 10)
    assert fired(made, "count") == [(t, 2) for t in range(1, 7)]
    again = made.world_at(made.end_of(3))
    assert again.tagged("bright").tolist() == [False, True, True, False], (
        "a moment looked at again has its own tags"
    )


def test_put_at_a_point_stands_there():
    made = run(moths(rule("r", when=START, do=c("put_at_point", who="Moth", x="Moth.x * 2", y="7"))), 1)
    assert made.world.x[:3].tolist() == [0, 20, 40]
    assert made.world.y[:3].tolist() == [7, 7, 7]


def hitting(*order, mass="1", **more):
    ball = kind("Ball", 5, contact="movable", bounce=1.0)
    return level(
        rule("go", when=START, do=c("set_velocity", who="Ball 1", dx="100", dy="0")),
        *order,
        kinds=(ball,),
        objects=things("Ball", (0, 0), (50, 0)),
        has={"n": 0.0},
        **more,
    )


def test_a_mass_set_by_a_rule_counts_in_the_next_hit_and_one_of_0_is_a_fault():
    made = run(hitting(rule("m", when=START, do=c("set_mass", who="Ball 1", mass="3"))))
    assert made.world.vx.tolist() == pytest.approx([50, 150])
    made = run(hitting(rule("m", when=START, do=c("set_mass", who="Ball 1", mass="0"))))
    assert made.world.vx.tolist() == pytest.approx([0, 100])
    assert "a mass is above 0" in made.trace.faults[0].sentence


@pytest.mark.parametrize("amount", ["5", "-0.5"])
@pytest.mark.parametrize("action", ["set_bounce", "set_friction"])
def test_a_part_of_more_than_a_whole_or_less_than_none_is_a_fault(action, amount):
    slot = action.removeprefix("set_")
    made = run(hitting(rule("m", when=START, do=c(action, who="Ball", **{slot: amount}))), 2)
    assert f"{slot} must be between 0 and 1" in made.trace.faults[0].sentence


def test_a_contact_set_by_a_rule_is_pushed_or_passed_or_noticed_from_then_on():
    ghost = rule("ghost", when=START, do=c("set_contact", who="Ball 2", contact="none"))
    touch = rule("touch", when=c("begins_to_touch", a="Ball 1", b="Ball 2"), do=add("level.n"))
    made = run(hitting(ghost, touch))
    assert made.world.x[0] == pytest.approx(100 * 59 / 60)
    assert fired(made, "touch") == []
    made = run(hitting(rule("wall", when=START, do=c("set_contact", who="Ball 2", contact="fixed")), touch))
    assert made.world.vx.tolist() == pytest.approx([-100, 0])
    assert len(fired(made, "touch")) == 1


def test_what_becomes_movable_falls_by_the_levels_gravity():
    built = level(
        rule("loose", when=START, do=c("set_contact", who="Pod", contact="movable")),
        kinds=(kind("Pod", 5, contact="fixed"),),
        objects=things("Pod", (0, 0)),
        settings=Settings(gravity=600.0),
    )
    assert run(built).world.y[0] == pytest.approx(-300 * (59 / 60) ** 2)


def hands(*order, **more):
    gardener = kind("Gardener", 5, contact="none", points=(Point(name="hand", x=10.0, y=4.0),))
    placed = replace(things("Gardener", (100, 50))[0], angle=90.0, scale=2.0)
    return level(*order, kinds=(gardener, MOTH), objects=(placed, *things("Moth", (0, 0), first=9)), **more)


def test_a_named_point_turns_and_grows_with_its_object():
    made = run(
        hands(rule("r", when=START, do=c("create", count="1", kind="Moth", where="hand of Gardener"))), 1
    )
    # 20 ahead and 8 to the left, turned by 90°
    assert (made.world.x[2], made.world.y[2]) == pytest.approx((92, 70))


def test_what_is_attached_to_a_point_goes_with_it():
    attach = rule("r", when=START, do=c("attach_at_point", who="Moth", point="hand", carrier="Gardener"))
    turn = rule("t", when=c("after_start", time="0.5"), do=c("turn_by", who="Gardener", angle="-90"))
    world = run(hands(attach, turn)).world
    assert (world.x[1], world.y[1], world.angle[1]) == pytest.approx((120, 58, 0))


def test_an_unknown_point_is_a_finding_with_the_nearest_name():
    r = rule("r", when=START, do=c("put_at", who="Moth", where="hnad of Gardener"))
    assert "hand" in Program(hands(r)).problems[0].message


def test_three_roles_of_one_kind_are_three_objects():
    r = rule(
        "r",
        when=START,
        if_=c("formula_holds", formula="Moth.x + another_Moth.x + third_Moth.x > -1"),
        do=add("level.n"),
    )
    assert run(moths(r), 1).world.level["n"] == 6
    assert run(moths(r, n=2), 1).world.level["n"] == 0


def test_a_topic_is_offered_only_while_its_condition_holds():
    gardener = kind(
        "Head",
        5,
        has={"met": False},
        topics=(Topic(name="weather"), Topic(name="the key", only_if="Head.met")),
    )
    built = level(
        rule("talk", when=START, do=c("start_conversation", who="Head")),
        rule(
            "meet",
            when=c("topic_chosen", topic="weather", a="Head"),
            do=c("set_variable", variable="Head.met", value="yes"),
        ),
        rule("key", when=c("topic_chosen", topic="the key", a="Head"), do=add("level.n")),
        kinds=(gardener,),
        objects=things("Head", (0, 0)),
        has={"n": 0.0},
    )
    choices = (Choice(at=0.1, text="the key"), Choice(at=0.2, text="weather"), Choice(at=0.3, text="the key"))
    trial = built.trials[0]
    built = replace(built, trials=(replace(trial, input=replace(trial.input, choices=choices)),))
    made = run(built)
    assert ticks(made, "key") == [18]
    early = made.world_at(made.end_of(3))
    assert [t.name for t in topics(early)] == ["weather"]


def test_a_menu_offers_an_entry_only_where_its_condition_holds():
    post = kind(
        "Post",
        5,
        has={"power": 0.0},
        behaviours=(
            c("prompt", text="use", by="Hand", key="F", reach="50", entries="lift if Post.power > 0 | lower"),
        ),
    )
    built = level(
        rule("on", when=c("after_start", time="0.4"), do=c("set_variable", variable="Post.power", value="1")),
        kinds=(post, kind("Hand", 5)),
        objects=(*things("Post", (0, 0)), *things("Hand", (10, 0), first=5)),
        keys=(("F", 0.1, 0.15), ("F", 0.3, 0.35), ("F", 0.5, 0.55)),
    )
    made = run(built)
    assert made.world_at(made.end_of(12)).prompts.menu.entries == ("lower",)
    assert made.world_at(made.end_of(40)).prompts.menu.entries == ("lift", "lower")


def test_an_unknown_name_in_a_menus_condition_is_a_finding():
    post = kind("Post", 5, behaviours=(c("prompt", text="use", by="Post", entries="lift if Post.pwer > 0"),))
    assert "pwer" in Program(level(kinds=(post,))).problems[0].message


@pytest.mark.parametrize(
    ("behaviour", "moves"), [("chase_those", True), ("go_to_those", True), ("keep_facing_those", False)]
)
def test_only_those_for_whom_a_condition_holds_are_made_for(behaviour, moves):
    slots = {"target": "Lamp", "only": "Lamp.v > 0"}
    mover = kind("Mover", 5, contact="none", behaviours=(c(behaviour, **slots),))
    near, far = (
        replace(o, values={"v": float(i)}) for i, o in enumerate(things("Lamp", (30, 0), (0, 90), first=20))
    )
    built = level(kinds=(mover, LAMP), objects=(*things("Mover", (0, 0)), near, far), seconds=3.0)
    world = run(built).world
    assert (world.x[0], world.y[0], world.angle[0]) == pytest.approx((0, 90 if moves else 0, 90))
    dark = replace(built, objects=(*things("Mover", (0, 0)), near))
    world = run(dark).world
    assert (world.x[0], world.y[0], world.angle[0]) == (0, 0, 0)


def test_a_condition_can_speak_of_the_chaser_and_the_chased():
    mover = kind(
        "Mover",
        5,
        contact="none",
        has={"v": 1.0},
        behaviours=(c("chase_those", target="Lamp", only="Lamp.v = Mover.v", speed="1000"),),
    )
    lamps = tuple(
        replace(o, values={"v": float(i)})
        for i, o in enumerate(things("Lamp", (30, 0), (0, 90), (50, 50), first=20))
    )
    movers = tuple(
        replace(o, values={"v": float(v)})
        for v, o in zip((1, 2), things("Mover", (0, 0), (1, 0)), strict=True)
    )
    world = run(level(kinds=(mover, LAMP), objects=(*movers, *lamps))).world
    assert [(x, y) for x, y in zip(world.x[:2], world.y[:2], strict=True)] == [(0, 90), (50, 50)]


def test_a_setting_can_be_a_formula_for_each_object_anew_in_every_tick():
    mover = kind(
        "Mover",
        5,
        contact="none",
        has={"v": 10.0},
        behaviours=(c("go_to_goal", goal="Lamp", speed="Mover.v + level.n"),),
    )
    movers = tuple(
        replace(o, values={"v": v})
        for v, o in zip((10.0, 30.0), things("Mover", (0, 0), (0, 50)), strict=True)
    )
    built = level(
        rule("fast", when=c("after_start", time="0.5"), do=c("set_variable", variable="level.n", value="20")),
        kinds=(mover, LAMP),
        objects=(*movers, *things("Lamp", (1000, 25), first=9)),
        has={"n": 0.0},
    )
    made = run(built)

    def gone(t):
        world = made.world_at(made.end_of(t))
        return [math.hypot(world.x[i], world.y[i] - 50 * i) for i in (0, 1)]

    # the rule fires in tick 30, after that tick's motion
    assert gone(30) == pytest.approx([5, 15], abs=1e-6)
    assert gone(60) == pytest.approx([5 + 15, 15 + 25], abs=1e-6)


def test_a_setting_without_an_answer_keeps_its_last_and_is_told_and_a_rule_cannot_set_it():
    mover = kind("Mover", 5, contact="none", behaviours=(c("go_to_goal", goal="Lamp", speed="10 / level.n"),))
    built = level(
        rule("stop", when=c("after_start", time="0.5"), do=c("set_variable", variable="level.n", value="0")),
        rule("set", when=START, do=c("set_setting", setting="go to goal: speed", who="Mover", value="3")),
        kinds=(mover, LAMP),
        objects=(*things("Mover", (0, 0)), *things("Lamp", (1000, 0), first=9)),
        has={"n": 1.0},
    )
    made = run(built)
    assert made.world.x[0] == pytest.approx(10)
    said = {f.sentence for f in made.trace.faults}
    assert any("go to goal" in s and "divides by zero" in s for s in said)
    assert any("worked out by a formula" in s for s in said)


# formulas that ask what could not be asked


def test_formulas_ask_for_timers_items_numbers_sent_keys_and_counts():
    ask = rule(
        "ask",
        when=heard("knock"),
        do=c(
            "set_variable",
            variable="level.n",
            value='1000 * sent("knock", Moth 1) + 100 * items(Moth 1, "key") + 10 * count_where(Moth, Moth.x > 5)'.replace(
                "Moth 1", "Moth_1"
            ),
        ),
    )
    r = rule(
        "r",
        when=c("after_start", time="0.5"),
        do=[
            c("give", count="2", item="key", who="Moth 1"),
            c("send_from", who="Moth 1", message="knock", number="7"),
        ],
    )
    assert run(moths(ask, r)).world.level["n"] == 7000 + 200 + 20
    run_timer = rule("t", when=START, do=c("start_timer", timer="oven"))
    at = rule(
        "at",
        when=c("after_start", time="0.5"),
        do=c("set_variable", variable="level.n", value='timer("oven")'),
    )
    assert run(moths(run_timer, at)).world.level["n"] == pytest.approx(29 / 60)
    down = rule(
        "down", when=EVERY_TICK, if_=c("formula_holds", formula='key_down("Space")'), do=add("level.n")
    )
    assert ticks(run(moths(down, keys=(("Space", 0.1, 0.2),))), "down") == list(range(6, 12))


def test_counting_where_can_speak_of_the_match():
    r = rule(
        "r",
        when=c("each_in_every_tick", who="Lamp"),
        do=c("set_variable", variable="Lamp.v", value="count_where(Moth, distance(Moth, Lamp) < 95)"),
    )
    made = run(moths(r, lamps=((100, 0), (-300, 0), (50, 0))), 1)
    assert made.world.values_of([3, 4, 5], "v/number").tolist() == [2, 0, 3]


def test_a_message_renamed_is_renamed_in_formulas():
    from gatillo.language.renaming import rename

    built = moths(
        rule("r", when=heard("knock"), do=c("set_variable", variable="level.n", value='sent("knock", Moth)'))
    )
    after = rename(built, "message", "knock", "rap")
    assert after.order[0].do[0].slots["value"] == 'sent("rap", Moth)'
