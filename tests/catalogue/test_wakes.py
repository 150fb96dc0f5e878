"""What wakes a rule is never missed: a rule that is looked at in every tick fires when the one that is woken does."""

from __future__ import annotations

from dataclasses import replace

import pytest
from msgspec.structs import replace as changed

from building import c, kind, level, rule, run, things
from gatillo.catalogue import CATALOGUE
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.level.edits import as_tried
from gatillo.level.model import Area, Circle, PointerMove, Route, Stop
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial


def all_else():
    """A level in which the occasions come that no study has: a moth goes to and fro across a pond with a lamp in it."""
    whens = [
        c("is_in", a="Moth", place="pond"),
        c("leaves", a="Moth", place="pond"),
        c("becomes_occupied", place="pond", a="Moth"),
        c("becomes_empty", place="pond", a="Moth"),
        c("rises_above", variable="level.n", limit="20"),
        c("falls_below", variable="level.n", limit="5"),
        c("is_removed", a="Bud"),
        c("after_rule", time="0.1", rule="leaves"),
        c("timer_reaches", timer="clock", time="0.2"),
        c("touches", a="Moth", b="Lamp"),
        c("heard_from", message="go", a="Moth"),
        c("pointer_held_on", button="left", a="Lamp", which="the front-most only"),
        c("pointer_released_on", button="left", a="Lamp", which="the front-most only"),
        c("pointer_moves"),
        c("pointer_comes_over", a="Lamp"),
        c("pointer_over", a="Lamp"),
        c("pointer_leaves", a="Lamp"),
        c("each_in_every_tick", who="Moth"),
        c("arrives_at_stop", who="Moth", stop="2"),
    ]
    rules = [rule(when.use, when=when, do=c("note", text="x"), id=at) for at, when in enumerate(whens, 10)]
    stir = [
        rule("count", do=c("set_variable", variable="level.n", value="30 - abs(tick - 40)"), id=1),
        rule("begin", when=c("level_starts"), do=c("start_timer", timer="clock"), id=2),
        rule("gone", when=c("after_start", time="0.3"), do=c("remove", who="Bud"), id=3),
        rule(
            "send",
            when=c("after_start", time="0.4"),
            do=c("send_from", who="Moth", message="go", number="1"),
            id=4,
        ),
    ]
    way = Route(name="way", stops=(Stop(x=-60, y=0), Stop(x=60, y=0)))
    built = level(
        *stir,
        *rules,
        kinds=(
            kind("Moth", 5, contact="sensed", behaviours=(c("walk_route", route="way", speed="200"),)),
            kind("Lamp", 5, contact="sensed"),
            kind("Bud", 5, contact="none"),
        ),
        objects=(
            *things("Moth", (-60, 0)),
            *things("Lamp", (0, 0), first=50),
            *things("Bud", (0, 50), first=60),
        ),
        places=(way, Area(name="pond", x=0, y=0, shape=Circle(radius=20))),
        has={"n": 0.0},
        keys=(("pointer left", 0.5, 0.7),),
        seconds=2.0,
    )
    trial = built.trials[0]
    moves = tuple(PointerMove(at=t, x=x, y=0) for t, x in ((0.1, 50), (0.4, 0), (0.8, 50)))
    return changed(built, trials=(changed(trial, input=changed(trial.input, pointer=moves)),))


def levels():
    for name in study_names():
        built = read_level(study_path(name))
        yield name, as_tried(built, built.trials[0]), built.trials[0]
    built = all_else()
    assert not Program(built).problems
    yield "all else", built, built.trials[0]


def firings(built, trial):
    made = run_trial(Program(built), trial)
    return [(f.tick, f.rule_index, f.matches, f.way) for f in made.trace.firings()], made


@pytest.fixture
def always_awake(monkeypatch):
    def wake(built, trial):
        with monkeypatch.context() as patched:
            for name, entry in dict(CATALOGUE).items():
                if entry.wakes is not None:
                    patched.setitem(CATALOGUE, name, replace(entry, wakes=None))
            return firings(built, trial)[0]

    return wake


def test_every_occasion_comes_when_it_would_if_its_rule_were_looked_at_in_every_tick(always_awake):
    came = set()
    for name, built, trial in levels():
        woken, made = firings(built, trial)
        assert always_awake(built, trial) == woken, name
        fired = {turn for _, turn, _, _ in woken}
        came |= {step.entry.name for turn in made.program.rules if turn.index in fired for step in turn.when}
    occasions = {name for name, entry in CATALOGUE.items() if entry.group == "occasion"}
    assert came >= occasions, "each of them has come at least once"


def test_near_pairs_are_found_as_if_all_pairs_were_asked(monkeypatch):
    """Conditions that only near pairs can pass hold for the same pairs when every pair is asked."""
    built = level(
        rule(
            "near",
            if_=c("within", who="Moth", distance="30", where="another Moth"),
            do=c("note", text="x"),
            id=1,
        ),
        rule("touch", if_=c("is_touching", a="Moth", b="another Moth"), do=c("note", text="x"), id=2),
        kinds=(kind("Moth", 5, contact="sensed"),),
        objects=things("Moth", *((x * 9 % 170, x * 31 % 130) for x in range(40))),
        seconds=0.2,
    )
    with_pairs = [(f.tick, f.rule_index, f.matches) for f in run(built).trace.firings()]
    paired = [name for name, entry in CATALOGUE.items() if entry.pair is not None]
    assert {"within", "is_touching"} <= set(paired)
    for name in paired:
        monkeypatch.setitem(CATALOGUE, name, replace(CATALOGUE[name], pair=None))
    assert [(f.tick, f.rule_index, f.matches) for f in run(built).trace.firings()] == with_pairs
