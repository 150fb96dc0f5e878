"""Where objects have been: samples are the run's own past, however they are come by."""

from __future__ import annotations

import numpy as np

from building import START, c, kind, level, rule, run, things
from gatillo.inspect import tracks
from gatillo.inspect.tracks import Tracks, paths
from gatillo.level.model import Settings


def thrown():
    throw = rule("throw", when=START, do=c("set_velocity", who="Ball", dx="90", dy="300"))
    gone = rule(
        "gone",
        when=c("every_seconds", period="9", first="1.5"),
        do=c("remove", who="Stone"),
        fires="each tick",
    )
    return run(
        level(
            throw,
            gone,
            kinds=(kind("Ball", 5, contact="movable"), kind("Stone", 5)),
            objects=(*things("Ball", (0, 100)), *things("Stone", (300, 300), first=10)),
            seconds=3.0,
            settings=Settings(gravity=600.0),
        )
    )


def test_a_track_goes_through_where_the_object_has_been():
    made = thrown()
    found = Tracks(made)
    assert found.fill(0, 120)
    samples = found.between(0, 120)
    assert [s.tick for s in samples] == list(range(0, 121, 3))
    path = paths(samples)[1]
    for tick, x, y in path:
        world = made.world_at(made.end_of(tick))
        assert (x, y) == (world.x[0], world.y[0])
    # an arc: its top lies between the keyframes, well above the chord
    assert max(y for _, _, y in path) > 170


def keyframes(made):
    """Those that are there up to two seconds."""
    return sorted(tick for tick in made.keyframes if tick <= 120)


def test_what_is_asked_to_stop_goes_on_where_it_was():
    found = Tracks(thrown())
    asked = iter([False, False, True])
    assert not found.fill(0, 120, lambda: next(asked))
    before = {s.tick for s in found.between(0, 120)}
    # the latest piece first, beside the keyframes that are there anyway
    assert {120, *keyframes(found.run)} <= before < set(range(0, 121, 3))
    assert found.fill(0, 120)
    assert len(found.between(0, 120)) == 41


def test_what_stands_still_or_is_gone_has_no_track_of_its_own():
    found = Tracks(thrown())
    found.fill(0, 120)
    assert set(paths(found.between(0, 120))) == {1}
    assert [10 in s.ids for s in found.between(84, 96)] == [True, True, False, False, False]


def test_of_a_crowd_only_the_keyframes_are_shown(monkeypatch):
    monkeypatch.setattr(tracks, "MOST_OBJECTS", 1)
    found = Tracks(thrown())
    assert found.fill(0, 120)
    assert [s.tick for s in found.between(0, 120)] == keyframes(found.run)
    assert np.all(np.diff([s.x[0] for s in found.between(0, 120)]) > 0)
