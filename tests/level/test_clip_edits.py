"""Edits of recorded motion, as properties of the path and of the poses at all times."""

from __future__ import annotations

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from gatillo.level import clip_edits as edits
from gatillo.level.model import Clip, ClipPoint, empty_level
from gatillo.level.validation import flaws

MEASURE = st.integers(-200, 200).map(float)


@st.composite
def clips(draw):
    gaps = draw(st.lists(st.integers(1, 20), min_size=1, max_size=12))
    times = [0.0]
    for gap in gaps:
        times.append(round(times[-1] + gap / 20, 6))
    rest = [ClipPoint(at=at, x=draw(MEASURE), y=draw(MEASURE), turn=draw(MEASURE)) for at in times[1:]]
    return Clip(name="wave", points=(ClipPoint(at=0.0, x=0.0, y=0.0), *rest))


PART = st.floats(0, 1)


def pose(clip, at):
    found = edits.pose_at(clip, at)
    return found.x, found.y, found.turn


def near(one, other):
    assert one == pytest.approx(other, abs=1e-3)


@given(clips(), PART, st.floats(0.1, 60))
def test_another_length_goes_the_same_path_slower_or_faster(clip, part, seconds):
    made = edits.lasting(clip, seconds)
    assert made.length == pytest.approx(seconds, abs=1e-5)
    assume(clip.length / seconds < 100)
    # times are rounded to a millionth of a second, on a path of up to 8,000 units a second
    was = pose(clip, part * clip.length)
    assert pose(made, part * made.length) == pytest.approx(was, abs=0.5 if seconds < 1 else 0.05)


@given(clips(), PART, st.floats(0.1, 10))
def test_another_size_scales_the_path_and_no_turn(clip, part, factor):
    x, y, turn = pose(clip, part * clip.length)
    near(pose(edits.sized(clip, factor), part * clip.length), (x * factor, y * factor, turn))


@given(clips(), PART)
def test_a_mirrored_clip_turns_the_other_way_and_twice_is_the_same(clip, part):
    x, y, turn = pose(clip, part * clip.length)
    near(pose(edits.mirrored(clip), part * clip.length), (-x, y, -turn))
    near(pose(edits.mirrored(clip, upside_down=True), part * clip.length), (x, -y, -turn))
    assert edits.mirrored(edits.mirrored(clip)) == clip


@given(clips(), PART)
def test_backwards_goes_the_path_from_its_end_and_twice_is_the_same(clip, part):
    made = edits.backwards(clip)
    end, at = clip.points[-1], part * clip.length
    x, y, turn = pose(clip, clip.length - at)
    near(pose(made, at), (x - end.x, y - end.y, turn - end.turn))
    near(pose(edits.backwards(made), at), pose(clip, at))


@given(clips(), PART, PART, PART)
def test_a_part_is_the_same_motion_from_where_an_object_stands(clip, one, other, part):
    begins, ends = sorted((one * clip.length, other * clip.length))
    assume(ends - begins >= 0.06)
    made = edits.cut(clip, begins, ends)
    assert made.length == pytest.approx(ends - begins, abs=1e-5)
    at = part * made.length
    x, y, turn = pose(clip, begins)
    to = pose(clip, begins + at)
    # points are rounded to a millionth of a second, on a path of up to 8,000 units a second
    assert pose(made, at) == pytest.approx((to[0] - x, to[1] - y, to[2] - turn), abs=0.05)


@pytest.mark.parametrize(("begins", "ends"), [(0.5, 0.5), (2.0, 1.0), (7.0, 9.0)])
def test_a_part_that_is_none_is_refused(begins, ends):
    clip = Clip(name="wave", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=4, x=9, y=0)))
    with pytest.raises(ValueError, match="at least"):
        edits.cut(clip, begins, ends)


@given(clips())
def test_smoothing_leaves_times_and_ends_and_bends_less(clip):
    made = edits.smoothed(clip)
    assert [p.at for p in made.points] == [p.at for p in clip.points]
    assert (made.points[0], made.points[-1]) == (clip.points[0], clip.points[-1])

    def bends(found):
        triples = zip(found.points, found.points[1:], found.points[2:], strict=False)
        return sum((a.x - 2 * b.x + c.x) ** 2 for a, b, c in triples)

    assert bends(made) <= bends(clip) + 1e-6


def test_along_its_path_it_turns_as_the_way_does_over_several_rounds():
    round_ = [ClipPoint(at=i / 10, x=50 * math.sin(i / 4), y=50 - 50 * math.cos(i / 4)) for i in range(80)]
    made = edits.along_its_path(Clip(name="round", points=tuple(round_)))
    assert made.points[0].turn == 0
    # counter-clockwise, a quarter of a radian from point to point
    assert made.points[40].turn == pytest.approx(math.degrees(40 / 4), abs=0.01)
    assert {p.turn for p in edits.without_turns(made).points} == {0.0}


@given(clips(), st.sampled_from(["lasting", "backwards", "smoothed", "along_its_path"]))
def test_whatever_is_done_a_clip_stays_one_that_can_be_saved(clip, what):
    made = edits.lasting(clip, 0.001) if what == "lasting" else getattr(edits, what)(clip)
    level = edits.set_clip(replace(empty_level(), clips=(clip,)), "wave", made)
    assert list(flaws(level)) == []


def test_a_clip_is_copied_under_a_free_name_and_deleted():
    clip = Clip(name="wave", points=(ClipPoint(at=0, x=0, y=0),))
    level = replace(empty_level(), clips=(clip,))
    level, name = edits.copy_clip(level, "wave")
    assert [c.name for c in level.clips] == ["wave", name] and name == "wave 1"
    assert [c.name for c in edits.delete_clip(level, "wave").clips] == ["wave 1"]
