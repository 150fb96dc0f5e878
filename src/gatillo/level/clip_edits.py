"""Edits of recorded motion: to another length or size, mirrored, reversed, cut, smoothed, turned along its path."""

from __future__ import annotations

import math
from bisect import bisect_right

from msgspec.structs import replace

from gatillo.level.model import Clip, ClipPoint, Level
from gatillo.level.naming import free_name

SHORTEST = 0.05
"""Seconds that a clip lasts at least, whatever is done to it."""
PLACES = 6
"""Digits after the point to which times, offsets and angles are rounded."""


def set_clip(level: Level, name: str, clip: Clip) -> Level:
    """Return the level with another clip in the place of the one of a name."""
    return replace(level, clips=tuple(clip if c.name == name else c for c in level.clips))


def copy_clip(level: Level, name: str) -> tuple[Level, str]:
    """Return the level with a copy of a clip after it, and the name of the copy."""
    at = next(i for i, c in enumerate(level.clips) if c.name == name)
    new = replace(
        level.clips[at], name=free_name(name.rstrip(" 0123456789") or name, {c.name for c in level.clips})
    )
    return replace(level, clips=(*level.clips[: at + 1], new, *level.clips[at + 1 :])), new.name


def delete_clip(level: Level, name: str) -> Level:
    """Return the level without a clip. Rules that play it stay, with findings."""
    return replace(level, clips=tuple(c for c in level.clips if c.name != name))


def pose_at(clip: Clip, at: float) -> ClipPoint:
    """Return where a clip has come to at a time in seconds, in straight lines between its points."""
    points = clip.points
    if not points:
        return ClipPoint(at=at, x=0.0, y=0.0)
    after = bisect_right(points, at, key=lambda p: p.at)
    if after == 0:
        return replace(points[0], at=at)
    if after == len(points):
        return replace(points[-1], at=at)
    one, other = points[after - 1], points[after]
    part = (at - one.at) / (other.at - one.at)
    return ClipPoint(
        at=at,
        x=one.x + (other.x - one.x) * part,
        y=one.y + (other.y - one.y) * part,
        turn=one.turn + (other.turn - one.turn) * part,
    )


def lasting(clip: Clip, seconds: float) -> Clip:
    """Return a clip whose whole length is so many seconds; slower or faster, along the same path."""
    if clip.length <= 0:
        return clip
    return _changed(clip, time=max(seconds, SHORTEST) / clip.length)


def sized(clip: Clip, factor: float) -> Clip:
    """Return a clip whose path is so many times as large; its turns stay."""
    return _changed(clip, x=factor, y=factor)


def mirrored(clip: Clip, *, upside_down: bool = False) -> Clip:
    """Return a clip with left and right exchanged, or up and down; it turns the other way."""
    return _changed(clip, x=1.0 if upside_down else -1.0, y=-1.0 if upside_down else 1.0, turn=-1.0)


def _changed(clip: Clip, *, time: float = 1.0, x: float = 1.0, y: float = 1.0, turn: float = 1.0) -> Clip:
    return _rounded(
        clip,
        [ClipPoint(at=p.at * time, x=p.x * x, y=p.y * y, turn=p.turn * turn) for p in clip.points],
    )


def backwards(clip: Clip) -> Clip:
    """Return a clip that goes the same path from its end to its beginning, from where an object stands."""
    return _from_its_beginning(clip, [replace(p, at=clip.length - p.at) for p in reversed(clip.points)])


def cut(clip: Clip, begins: float, ends: float) -> Clip:
    """Return the part of a clip between two times in seconds; it begins where an object stands.

    Raises ValueError with a sentence if that is less than a twentieth of a second, or not within the clip.
    """
    begins, ends = max(0.0, begins), min(clip.length, ends)
    if ends - begins < SHORTEST:
        raise ValueError(f"a clip lasts at least {SHORTEST:g} s; choose times within its {clip.length:g} s")
    inner = [p for p in clip.points if begins < p.at < ends]
    return _from_its_beginning(clip, [pose_at(clip, begins), *inner, pose_at(clip, ends)])


def smoothed(clip: Clip) -> Clip:
    """Return a clip whose inner points lie between their neighbours: each the mean, weighed 1, 2, 1 by point.

    Its times, its first and its last point stay. Again and again it comes nearer to a straight line.
    """
    points = list(clip.points)
    for at in range(1, len(clip.points) - 1):
        before, here, after = clip.points[at - 1 : at + 2]
        points[at] = replace(
            here,
            x=(before.x + 2 * here.x + after.x) / 4,
            y=(before.y + 2 * here.y + after.y) / 4,
            turn=(before.turn + 2 * here.turn + after.turn) / 4,
        )
    return _rounded(clip, points)


def along_its_path(clip: Clip) -> Clip:
    """Return a clip that turns as its path does: at each point by the angle between the way on and the first way.

    Where it stands still it keeps the turn that it has.
    """
    points: list[ClipPoint] = []
    first: float | None = None
    turn = last = 0.0
    for at, here in enumerate(clip.points):
        there = next((p for p in clip.points[at + 1 :] if (p.x, p.y) != (here.x, here.y)), None)
        if there is not None:
            # an edit, not a run: what is saved is rounded
            way = math.degrees(math.atan2(there.y - here.y, there.x - here.x))  # noqa: TID251
            if first is None:
                first = last = way
            # the shorter way about, so that several rounds add up
            turn += (way - last + 180.0) % 360.0 - 180.0
            last = way
        points.append(replace(here, turn=turn))
    return _rounded(clip, points)


def without_turns(clip: Clip) -> Clip:
    """Return a clip along the same path that does not turn."""
    return replace(clip, points=tuple(replace(p, turn=0.0) for p in clip.points))


def _from_its_beginning(clip: Clip, points: list[ClipPoint]) -> Clip:
    """Return a clip of these points, moved so that it begins at time 0, at no offset and not turned."""
    zero = points[0]
    return _rounded(
        clip,
        [
            ClipPoint(at=p.at - zero.at, x=p.x - zero.x, y=p.y - zero.y, turn=p.turn - zero.turn)
            for p in points
        ],
    )


def _rounded(clip: Clip, points: list[ClipPoint]) -> Clip:
    found: list[ClipPoint] = []
    for point in points:
        here = ClipPoint(
            at=round(point.at, PLACES),
            x=round(point.x, PLACES),
            y=round(point.y, PLACES),
            turn=round(point.turn, PLACES),
        )
        # what is pressed together into one moment is one point: the later
        if found and here.at <= found[-1].at:
            found[-1] = replace(here, at=found[-1].at)
            continue
        found.append(here)
    return replace(clip, points=tuple(found))
