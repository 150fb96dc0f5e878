"""Hostile levels stop at their bounds with a fault that names the rule, and never hang or grow without end."""

from __future__ import annotations

import numpy as np
import pytest

from building import EVERY_TICK, START, add, c, heard, kind, level, rule, run, send, things
from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.level.model import Area, Clause, Rectangle, Settings

POD = kind("Pod", 5, has={"n": 0.0})
TRAY = Area(name="tray", x=0, y=0, shape=Rectangle(width=100, height=100))
BOUNDS = Settings(most_objects=60, most_creations=20, most_messages=30, most_matches=500, most_repeats=50)


def storm(*rules, pods=5, ticks=30):
    built = level(
        *rules,
        kinds=(POD,),
        objects=things("Pod", *[(i * 20, 0) for i in range(pods)]),
        places=(TRAY,),
        has={"n": 0.0},
        settings=BOUNDS,
    )
    return run(built, ticks)


def first_fault(made):
    return made.trace.faults[0].sentence


def test_a_spawn_storm_stops_at_the_creations_of_a_tick_and_at_the_objects():
    made = storm(
        rule("spawn", if_=c("is_shown", who="Pod"), do=c("create", count="9", kind="Pod", where="tray"))
    )
    assert "“spawn”" in first_fault(made)
    assert "20 creations a tick" in first_fault(made)
    assert made.world.alive.sum() == 60


def test_a_message_storm_stops_at_the_messages_of_a_tick():
    made = storm(
        rule("begin", when=START, do=send("m")),
        rule("double", when=heard("m"), do=[send("m"), send("m")]),
    )
    assert "30 messages a tick" in first_fault(made)
    assert max(f.matches for f in made.trace.firings()) <= 30


def test_waits_that_start_themselves_again_do_not_pile_up():
    for choice in ("ignore", "restart"):
        r = rule("again", when=EVERY_TICK, while_waiting=choice, do=[c("wait", time="5"), add("level.n")])
        assert len(storm(r).world.rules.waits) == 1


def test_a_match_table_stops_at_its_rows():
    r = rule("wide", when=START, if_=c("formula_holds", formula="Pod.x <> another_Pod.x"), do=add("level.n"))
    made = storm(r, pods=40)
    assert "“wide”, if 1" in first_fault(made)
    assert "would make 1,600 matches" in first_fault(made)
    assert made.world.level["n"] == 0


def test_repeats_within_repeats_stop_at_the_turns_of_a_tick():
    inner = Clause(use="repeat", slots={"count": "1e6"}, of=(add("level.n"),))
    made = storm(rule("loop", when=START, do=Clause(use="repeat", slots={"count": "1e6"}, of=(inner,))))
    assert "50 turns of a repeat" in first_fault(made)
    assert made.world.level["n"] <= 50


def test_a_thousand_faults_a_tick_are_told_once_with_their_count():
    objects = things("Pod", *[(0, i) for i in range(1000)])
    r = rule("r", if_=c("is_shown", who="Pod"), do=c("set_variable", variable="Pod.n", value="1 / Pod.x"))
    made = run(level(r, kinds=(POD,), objects=objects), 20)
    ((_, count),) = made.trace.fault_counts().items()
    assert count == 20_000
    assert len(made.trace.faults) == 20


def test_objects_sent_far_away_stay_finite():
    r = rule("r", do=[c("move_by", who="Pod", dx="1e308"), c("set_velocity", who="Pod", dx="1e308")])
    world = storm(r, ticks=400).world
    assert world.alive.all()
    assert np.isfinite(world.x).all()


@pytest.mark.parametrize("rate", [10, 240])
def test_the_slowest_and_the_fastest_tick_rate_run(rate):
    made = run(level(rule("r", when=EVERY_TICK, do=add("level.n", "dt")), has={"n": 0.0}, rate=rate))
    assert made.world.level["n"] == pytest.approx(1)


def test_a_large_file_is_read_or_refused_with_a_sentence():
    many = level(kinds=(POD,), objects=things("Pod", *[(i, i) for i in range(15_000)]))
    raw = encode_level(many)
    assert len(decode_level(raw).objects) == 15_000
    with pytest.raises(LevelFileError):
        decode_level(raw[:-200])
    with pytest.raises(LevelFileError, match="the level has 25,000 objects; its bound is 20,000"):
        decode_level(
            encode_level(level(kinds=(POD,), objects=things("Pod", *[(i, i) for i in range(25_000)])))
        )


def test_two_occasions_that_would_together_make_too_many_matches_are_a_fault_not_a_crash():
    built = level(
        rule(
            "either",
            when=[c("is_created", a="Ball"), c("begins_to_touch", a="Ball", b="Box")],
            do=add("level.n"),
        ),
        rule("make", when=c("level_starts"), do=c("create", count="20", kind="Ball", where="Box 1"), id=7),
        kinds=(kind("Ball", 5), kind("Box", box=(8, 8))),
        objects=things("Box", *((at * 50.0, 0.0) for at in range(40))),
        has={"n": 0.0},
        settings=BOUNDS,
    )
    made = run(built)
    assert "would make 800 matches" in first_fault(made)
