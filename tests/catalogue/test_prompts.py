"""Prompts, menus, clips, references and switched behaviours: each does what its sentence says."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from scenes import ticks

from building import START, add, c, kind, level, rule, run, things
from gatillo.level.model import Choice, Clip, ClipPoint, Input, Reference
from gatillo.sim.interaction.prompts import prompt_text
from gatillo.sim.program.program import Program


def valve(**slots):
    given = {"text": "turn {Valve.turns}", "by": "Hand", "key": "F", "reach": "50", **slots}
    return kind("Valve", 5, has={"turns": 2.0}, behaviours=(c("prompt", **given),))


WALL = kind("Wall", box=(4, 200), contact="fixed")
EVENTS = [
    rule(name, when=c(entry, a="Valve", by="Hand"), do=add("level.n"))
    for name, entry in (
        ("begun", "prompt_begun"),
        ("done", "prompt_completed"),
        ("off", "prompt_broken_off"),
    )
]


def prompting(*order, of=None, hands=((0, 0),), valves=((30, 0),), walls=(), keys=(), choices=(), **more):
    built = level(
        *EVENTS,
        *order,
        kinds=(of or valve(), kind("Hand", 5), WALL),
        objects=(
            *things("Valve", *valves),
            *things("Hand", *hands, first=20),
            *things("Wall", *walls, first=40),
        ),
        has={"n": 0.0},
        keys=keys,
        **more,
    )
    trial = built.trials[0]
    chosen = tuple(Choice(at=at, text=text) for at, text in choices)
    return replace(built, trials=(replace(trial, input=Input(keys=trial.input.keys, choices=chosen)),))


def happened(built):
    made = run(built)
    return {name: ticks(made, name) for name in ("begun", "done", "off")}


def test_a_prompt_without_a_hold_is_begun_and_completed_by_a_press():
    assert happened(prompting(keys=(("F", 0.1, 0.2),))) == {"begun": [6], "done": [6], "off": []}


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_held_prompt_is_completed_after_its_hold_at_any_rate(rate):
    found = happened(prompting(of=valve(hold="0.5"), keys=(("F", 0.1, 0.9),), rate=rate))
    assert found == {"begun": [rate // 10], "done": [rate // 10 + rate // 2], "off": []}


def test_letting_go_early_breaks_a_prompt_off():
    assert happened(prompting(of=valve(hold="0.5"), keys=(("F", 0.1, 0.3),)))["off"] == [18]


@pytest.mark.parametrize("rate", [10, 30, 60, 120])
def test_letting_go_just_in_time_is_not_too_early(rate):
    found = happened(prompting(of=valve(hold="0.3"), keys=(("F", 0.1, 0.4), ("F", 0.6, 0.8)), rate=rate))
    assert (len(found["done"]), len(found["off"])) == (1, 1)
    assert found["done"] == [rate * 4 // 10]


def test_walking_out_of_reach_breaks_a_prompt_off():
    away = rule("walk", do=c("move_by", who="Hand", dx="-2"))
    found = happened(prompting(away, of=valve(hold="2"), keys=(("F", 0.1, 0.9),)))
    # 10 units to the edge of its reach at 2 a tick; what moves in Rules is seen at the next Contact
    assert found == {"begun": [6], "done": [], "off": [12]}


def test_a_prompt_is_not_offered_out_of_reach_or_behind_a_wall_that_hides_it():
    press = (("F", 0.1, 0.2),)
    assert happened(prompting(valves=((51, 0),), keys=press))["begun"] == []
    assert happened(prompting(walls=((15, 0),), keys=press))["begun"] == []
    through = valve(view="even without a clear view")
    assert happened(prompting(of=through, walls=((15, 0),), keys=press))["begun"] == [6]


def test_of_two_prompts_on_one_key_the_nearer_is_offered():
    made = run(prompting(valves=((40, 0), (0, 30)), keys=(("F", 0.1, 0.2),)))
    assert made.witness(6)[0].ids == {"Valve": [2], "Hand": [20]}


def test_a_completed_prompt_rests_before_it_is_offered_again():
    presses = tuple(("F", at, at + 0.05) for at in (0.1, 0.3, 0.7))
    assert happened(prompting(of=valve(rest="0.5"), keys=presses))["done"] == [6, 42]


def test_a_prompt_is_disabled_and_enabled_by_rules():
    order = [
        rule("no", when=START, do=c("disable_prompt", who="Valve")),
        rule("yes", when=c("after_start", time="0.5"), do=c("enable_prompt", who="Valve")),
    ]
    presses = (("F", 0.3, 0.35), ("F", 0.7, 0.75))
    assert happened(prompting(*order, keys=presses))["done"] == [42]


def test_whether_a_prompt_is_offered_can_be_asked():
    asked = rule("asked", if_=c("prompt_offered", a="Valve", by="Hand"), do=add("level.n"))
    assert len(ticks(run(prompting(asked)), "asked")) == 60
    assert ticks(run(prompting(asked, valves=((60, 0),))), "asked") == []


def test_a_prompts_words_hold_values():
    world = run(prompting()).world
    assert [prompt_text(world, offer) for offer in world.prompts.offers] == ["turn 2"]


def test_a_menu_offers_its_entries_and_tells_which_is_chosen():
    lift = rule("lift", when=c("entry_chosen", entry="lift", a="Valve", by="Hand"), do=add("level.n"))
    menu = valve(entries="lift | lower")
    made = run(prompting(lift, of=menu, keys=(("F", 0.1, 0.2),), choices=((0.5, "lift"),)))
    assert ticks(made, "lift") == [30]
    assert made.world.prompts.menu is None
    other = run(prompting(lift, of=menu, keys=(("F", 0.1, 0.2),), choices=((0.5, "lower"),)))
    assert ticks(other, "lift") == []
    shut = run(prompting(lift, of=menu, choices=((0.5, "lift"),)))
    assert ticks(shut, "lift") == []


def test_pressing_the_key_again_leaves_a_menu():
    made = run(prompting(of=valve(entries="lift"), keys=(("F", 0.1, 0.2), ("F", 0.5, 0.6))))
    assert ticks(made, "off") == [30]
    assert made.world.prompts.menu is None


def test_an_entry_no_menu_has_is_told_with_the_nearest():
    wrong = rule("r", when=c("entry_chosen", entry="lyft", a="Valve", by="Hand"), do=add("level.n"))
    (problem,) = Program(prompting(wrong, of=valve(entries="lift"))).problems
    assert "did you mean “lift”" in problem.message


# behaviours


WALKER = kind("Walker", 5, behaviours=(c("steer_by_keys", speed="60"),))


def walking(*order):
    return run(
        level(
            *order,
            kinds=(WALKER, kind("Rock", 5)),
            objects=(*things("Walker", (0, 0), (0, 99)), *things("Rock", (9, 9), first=8)),
            has={"n": 0.0},
            keys=(("Up", 0.0, 2.0),),
        )
    )


def test_a_behaviour_is_switched_off_and_on_for_one_object():
    off = rule(
        "off",
        when=START,
        do=(
            c("switch_behaviour_off", behaviour="steer by keys", who="Walker 1"),
            c("stop", who="Walker 1"),
        ),
    )
    world = walking(off).world
    assert world.x[0] == pytest.approx(1)
    assert world.x[1] == pytest.approx(60)
    on = rule(
        "on",
        when=c("after_start", time="0.5"),
        do=c("switch_behaviour_on", behaviour="steer by keys", who="Walker"),
    )
    assert walking(off, on).world.x[0] == pytest.approx(31)


def test_whether_a_behaviour_is_on_can_be_asked():
    asked = rule(
        "r",
        when=START,
        if_=c("behaviour_is_on", behaviour="steer by keys", who="anything"),
        do=add("level.n"),
    )
    assert walking(asked).world.level["n"] == 2


def test_a_setting_of_a_behaviour_is_changed_for_one_object():
    faster = rule(
        "r",
        when=c("after_start", time="0.5"),
        do=c("set_setting", setting="steer by keys: speed", who="Walker 2", value="120"),
    )
    assert walking(faster).world.x.tolist()[:2] == pytest.approx([60, 90])


# clips


NOD = Clip(name="nod", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=0.5, x=10, y=0, turn=90)))


def playing(how="once", speed="1", axes="the level's", angle=0.0, *order, rate=60):
    start = rule(
        "play", when=START, do=c("play_clip", clip="nod", who="Rock", how=how, speed=speed, axes=axes)
    )
    ends = rule("ends", when=c("clip_ends", clip="nod", a="Rock"), do=add("level.n"))
    rocks = tuple(replace(o, angle=angle) for o in things("Rock", (5, 5)))
    return run(
        level(
            start,
            ends,
            *order,
            kinds=(kind("Rock", 5),),
            objects=rocks,
            has={"n": 0.0},
            clips=(NOD,),
            rate=rate,
        )
    )


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_clip_played_once_moves_turns_and_ends(rate):
    made = playing(rate=rate)
    assert (made.world.x[0], made.world.y[0], made.world.angle[0]) == pytest.approx((15, 5, 90))
    assert ticks(made, "ends") == [rate // 2 + 1]


def test_a_clip_goes_in_a_loop_there_and_back_faster_and_along_own_axes():
    assert playing("in a loop").world.x[0] == pytest.approx(5 + 10 * (59 / 60 - 0.5) * 2)
    assert playing("there and back").world.x[0] == pytest.approx(5 + 10 / 30)
    assert ticks(playing(speed="2"), "ends") == [16]
    turned = playing(axes="its own", angle=90.0).world
    assert (turned.x[0], turned.y[0]) == pytest.approx((5, 15))


def test_a_stopped_clip_leaves_the_object_where_it_is():
    stop = rule("stop", when=c("after_start", time="0.25"), do=c("stop_clip", who="Rock"))
    made = playing("once", "1", "the level's", 0.0, stop)
    assert made.world.x[0] == pytest.approx(5 + 10 * 14 / 30)
    assert ticks(made, "ends") == []


# references


def hatches(*order, **more):
    to = {"target": Reference(kind="Post")}
    built = level(
        *order,
        kinds=(kind("Hatch", 5, has=to), kind("Post", 5, has={"taken": False}), kind("Cat", 5)),
        objects=(
            *things("Hatch", (0, 0), (0, 50), (0, 90)),
            *things("Post", (200, 0), (300, 0), first=10),
            *things("Cat", (9, 0), first=20),
        ),
        has={"n": 0.0, "lead": Reference()},
        **more,
    )
    leads = {1: "Post 2", 2: "Post 1"}
    return replace(
        built,
        objects=tuple(
            replace(o, values={"target": Reference(to=leads[o.id], kind="Post")}) if o.id in leads else o
            for o in built.objects
        ),
    )


def test_a_rule_speaks_of_the_object_that_a_variable_refers_to():
    go = rule(
        "go",
        when=START,
        if_=c("within", who="Cat", distance="20", where="Hatch"),
        do=(
            c("put_at", who="Cat", where="target of Hatch"),
            c("set_variable", variable="target of Hatch.taken", value="yes"),
        ),
    )
    world = run(hatches(go)).world
    assert world.x[-1] == 300
    assert world.variables["taken/yes/no"].tolist() == [False] * 4 + [True, False]


def test_a_reference_is_set_compared_and_cleared():
    order = [
        rule("set", when=START, do=c("set_variable", variable="level.lead", value="Cat")),
        rule(
            "is",
            if_=c("formula_holds", formula="level.lead = Cat and Hatch.target <> nobody"),
            do=add("level.n"),
        ),
        rule(
            "clear",
            when=c("after_start", time="0.5"),
            do=c("set_variable", variable="level.lead", value="nobody"),
        ),
    ]
    made = run(hatches(*order))
    assert len(ticks(made, "is")) == 30
    assert made.world.level["lead"] == 0
    assert made.trace.firings_at(1)[1].matches == 2


def test_a_reference_to_nobody_is_a_fault_and_the_rest_goes_on():
    show = rule("r", when=START, do=c("set_variable", variable="target of Hatch.taken", value="yes"))
    made = run(hatches(show), 1)
    (fault,) = made.trace.faults
    assert fault.count == 1
    assert "“target of Hatch” refers to nobody" in fault.sentence
    assert made.world.variables["taken/yes/no"].tolist()[3:5] == [True, True]


def test_an_occasion_about_a_reference_is_refused_with_what_to_do():
    r = rule("r", when=c("begins_to_touch", a="Cat", b="target of Hatch"), do=add("level.n"))
    (problem,) = Program(hatches(r)).problems
    assert "compare the two in a condition" in problem.message


@pytest.mark.parametrize("valves", [((30, 0), (-30, 0)), ((-30, 0), (30, 0)), ((0, 30), (30, 0))])
def test_of_two_equally_near_prompts_the_older_is_offered(valves):
    made = run(prompting(valves=valves), 3)
    assert [(offer.prompt, offer.by) for offer in made.world.prompts.offers] == [(1, 20)]


def test_nobody_answers_its_own_prompt():
    own = kind("Valve", 5, behaviours=(c("prompt", text="turn", by="Valve", key="F", reach="50"),))
    made = run(level(kinds=(own,), objects=things("Valve", (0, 0))), 3)
    assert made.world.prompts.offers == ()
    both = run(level(kinds=(own,), objects=things("Valve", (0, 0), (30, 0))), 3)
    assert sorted((offer.prompt, offer.by) for offer in both.world.prompts.offers) == [(1, 2), (2, 1)]
