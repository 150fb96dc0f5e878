"""Causes by their names: what moved an object, who carries it, what broke a prompt off, which match a pick kept."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, c, fired, kind, level, rule, run, things
from gatillo.inspect.findings import findings
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.model import Route, Settings, Stop

WAY = Route(name="way", stops=(Stop(x=100, y=0), Stop(x=100, y=100)))
VAGUE = "by what it touched, by gravity or by friction"


def pod(*behaviours, **more):
    return kind("Pod", 5, behaviours=tuple(behaviours), contact=more.pop("contact", "movable"), **more)


def why(formula, tick, *order, kinds=None, objects=None, gravity=0.0, depth=3, **more):
    """The lines of why a formula has its value at the end of a tick."""
    built = level(
        *order,
        kinds=kinds or (pod(),),
        objects=objects or things("Pod", (0, 0)),
        places=(WAY,),
        settings=Settings(rate=60, gravity=gravity),
        **more,
    )
    return "\n".join(Explainer(run(built)).value(formula, tick).lines(depth=depth))


def going(dx="100", dy="0"):
    return rule("go", when=START, do=c("set_velocity", who="Pod", dx=dx, dy=dy))


@pytest.mark.parametrize("formula", ["Pod_1.x", "Pod_1.vx"])
@pytest.mark.parametrize(
    "walk, says",
    [
        (c("walk_route", route="way", speed="60"), "by its behaviour “walk the route way at 60"),
        (
            c("walk_route_timed", route="way", time="2"),
            "by its behaviour “ride the route way, 2 s for each leg",
        ),
    ],
)
def test_an_object_on_a_route_was_moved_by_the_behaviour_that_walks_it(walk, says, formula):
    told = why(formula, 30, kinds=(pod(walk, contact="none"),))
    assert says in told
    assert VAGUE not in told


def test_an_object_that_a_rule_has_sent_along_a_route_says_which_rule():
    told = why("Pod_1.vx", 30, rule("send", when=START, do=c("send_along", who="Pod", route="way")))
    assert "by its way along way" in told and "begun at 0.017 s by “send”, action 1" in told


def test_gravity_is_told_by_name_and_whose_it_is():
    assert "by the level’s gravity, 300" in why("Pod_1.vy", 30, gravity=300.0)
    own = why("Pod_1.vy", 30, kinds=(pod(c("fall_and_bounce", gravity="200")),))
    assert "by gravity, as its behaviour “fall and bounce: gravity 200" in own
    ruled = why("Pod_1.vy", 30, rule("pull", when=START, do=c("set_gravity", who="Pod", gravity="50")))
    assert "by gravity 50" in ruled and "set at 0.017 s by “pull”, action 1" in ruled


def test_friction_and_what_a_behaviour_loses_are_told_by_name():
    assert "by friction of Pod, 0.5" in why("Pod_1.vx", 30, going(), kinds=(pod(friction=0.5),))
    losing = why("Pod_1.vx", 30, going(), kinds=(pod(c("fall_and_bounce", gravity="0", slowing="0.5")),))
    assert "by the speed that it loses by its behaviour “fall and bounce" in losing


def test_what_was_hit_is_told_by_name_though_no_rule_asks_for_the_contact():
    wall = kind("Wall", box=(10, 80), contact="fixed")
    both = (*things("Pod", (0, 0)), *things("Wall", (40, 0), first=9))
    told = why("Pod_1.vx", 60, going(), kinds=(pod(), wall), objects=both)
    assert "by hitting Wall 1" in told and VAGUE not in told
    pushed = why("Pod_2.vx", 60, rule("go", when=START, do=c("set_velocity", who="Pod 1", dx="100", dy="0")),
                 objects=things("Pod", (0, 0), (40, 0)))  # fmt: skip
    assert "by hitting Pod 1" in pushed


def test_what_is_carried_by_a_key_says_when_it_was_picked_up():
    carried = pod(c("be_carried", by="Gardener", key="E", reach="40"), contact="sensed")
    told = why(
        "Pod_1.x",
        90,
        kinds=(
            carried,
            kind("Gardener", 5, contact="none", behaviours=(c("steer_eight_ways", speed="100"),)),
        ),
        objects=(*things("Pod", (0, 0)), *things("Gardener", (-20, 0), first=9)),
        keys=(("E", 0.6, 0.7), ("Left", 0.8, 2)),
        seconds=2.0,
    )
    assert "Gardener 1 picked it up at 0.600 s, by its behaviour “be carried by Gardener" in told
    assert "E was pressed at 0.600 s" in told
    assert "at the start" not in told


def test_what_is_attached_from_the_start_says_so():
    first, second = things("Pod", (0, 0), (20, 0))
    told = why("Pod_2.x", 30, going(), objects=(first, replace(second, attached="Pod 1")))
    assert "Pod 2 was attached at the start" in told


# prompts


def broken_off(*, keys, order=(), hidden=()):
    built = level(
        rule("broken", when=c("prompt_broken_off", a="Valve", by="Gardener"), do=c("note", text="x"), id=5),
        *order,
        kinds=(
            kind("Gardener", 5, contact="none", behaviours=(c("steer_eight_ways", speed="100"),)),
            kind(
                "Valve",
                5,
                contact="none",
                behaviours=(c("prompt", by="Gardener", key="E", hold="1", reach="40"),),
            ),
        ),
        objects=(*things("Gardener", (-20, 0)), *things("Valve", (0, 0), first=9)),
        keys=keys,
        seconds=2.0,
    )
    made = run(built)
    ((tick, _),) = fired(made, "broken")
    position = next(
        f.position for f in made.trace.firings_at(tick) if made.program.rules[f.rule_index].source.id == 5
    )
    return "\n".join(Explainer(made).fired(tick, position).lines(depth=4))


def test_a_prompt_that_was_walked_away_from_says_who_walked_off_and_how_far():
    told = broken_off(keys=(("E", 0.1, 2), ("Left", 0.5, 2)))
    assert "Gardener 1 was 41.67 units from Valve 1, 1.67 beyond its reach of 40" in told
    assert "Left was pressed at 0.500 s" in told


def test_a_prompt_whose_key_was_let_go_says_so():
    assert "E was let go at 0.500 s" in broken_off(keys=(("E", 0.1, 0.5),))


def test_a_prompt_that_was_hidden_or_switched_off_says_so():
    hide = rule("hide", when=c("after_start", time="0.5"), do=c("hide", who="Valve"))
    assert "Valve 1 is hidden" in broken_off(keys=(("E", 0.1, 2),), order=(hide,))
    off = rule("off", when=c("after_start", time="0.5"), do=c("disable_prompt", who="Valve"))
    assert "the prompt of Valve 1 is switched off" in broken_off(keys=(("E", 0.1, 2),), order=(off,))


# why not, about an object that a line brings in


def why_not(name, tick, *about, if_=(), when=c("after_start", time="0.5"), do=c("note", text="x"), **more):
    built = level(
        rule("meet", when=when, if_=if_, do=do, id=5, **more),
        kinds=tuple(kind(n, 5, contact="none") for n in ("Gardener", "Seed", "Lamp")),
        objects=(
            *things("Gardener", (0, 0)),
            *things("Seed", (30, 0), (45, 0), (300, 0), first=10),
            *things("Lamp", (10, 0), first=20),
        ),
    )
    made = run(built)
    turn = next(t for t in made.program.rules if t.source.id == 5)
    ids = {o.name: o.id for o in built.objects}
    reason = WhyNot(Explainer(made)).at(turn, tick, tuple(ids[n] for n in about))
    return "\n".join(reason.lines(depth=2))


NEAR = c("within", who="Gardener", distance="50", where="Seed")
NEAREST = c("nearest", a="Seed", where="Gardener", per="all matches")


@pytest.mark.parametrize(
    "seed, says",
    [
        ("Seed 2", "Seed 1 was kept with 30 units; this one has 45 units, 15 behind"),
        ("Seed 3", "Gardener 1 was 300 units from Seed 3, 250 too far"),
    ],
)
def test_an_object_that_a_condition_brings_in_is_asked_about_where_it_comes_in(seed, says):
    told = why_not("meet", 30, seed, if_=(NEAR, NEAREST))
    assert says in told
    assert "none of its candidates" not in told


def test_a_pick_that_brings_a_role_in_says_whom_it_kept_instead():
    told = why_not("meet", 30, "Seed 2", if_=c("nearest", a="Seed", where="Lamp", per="all matches"))
    assert "keep the nearest Seed 2 to Lamp 1" in told
    assert "Seed 1 was kept with 20 units; this one has 35 units, 15 behind" in told
    assert "there is no" not in told


@pytest.mark.parametrize(
    "more, says",
    [
        ({"fires": "first time only"}, "it fires the first time only, and that was used at 0.017 s"),
        ({"cooldown": 3.0}, "it rests until 3.017 s (tick 181)"),
    ],
)
def test_a_role_of_an_action_is_not_blamed_for_a_rest_or_for_the_first_time_only(more, says):
    told = why_not("meet", 30, when=EVERY_TICK, do=c("remove", who="Lamp"), **more)
    assert says in told
    assert "there was no Lamp" not in told


def test_an_object_that_was_removed_earlier_in_the_tick_is_told_to_be_gone():
    remove = rule("gone", when=c("after_start", time="0.5"), do=c("remove", who="Pod 2"), id=4)
    look = rule(
        "look",
        when=EVERY_TICK,
        if_=c("formula_holds", formula="Pod.x > 0"),
        do=c("note", text="x"),
        id=5,
        fires="first time only",
    )
    made = run(level(remove, look, kinds=(pod(contact="none"),), objects=things("Pod", (5, 0), (9, 0))))
    told = "\n".join(WhyNot(Explainer(made)).at(made.program.rules[1], 30, (2,)).lines(depth=2))
    assert "Pod 2 was not there: Pod 2 was removed at 0.500 s by “gone”, action 1" in told


# what a behaviour does over again


def lint(*order, behaviour="steer_eight_ways", **more):
    built = level(*order, kinds=(pod(c(behaviour), contact="none"),), objects=things("Pod", (0, 0)), **more)
    return [f.sentence() for f in findings(built)]


def test_a_velocity_that_a_behaviour_replaces_in_the_next_tick_is_a_finding():
    (told,) = [s for s in lint(going()) if "velocity" in s]
    assert "“go”, do 1: Pod has this velocity for the rest of the tick only" in told
    assert "“steer eight ways”" in told


def test_where_the_behaviour_is_switched_off_by_a_rule_or_does_not_drive_there_is_no_finding():
    off = rule("off", when=START, do=c("switch_behaviour_off", behaviour="steer eight ways", who="Pod"))
    assert not [s for s in lint(off, going()) if "velocity" in s]
    assert not [s for s in lint(going(), behaviour="spin") if "velocity" in s]
