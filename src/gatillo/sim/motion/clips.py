"""Clips being played: recorded motion, from where each object stood when it began."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows
from gatillo.formula.values import half_open_degrees
from gatillo.kernels.mathematics import cosd, sind
from gatillo.level.model import Clip
from gatillo.level.roles import Role
from gatillo.sim.world.records import Playing
from gatillo.sim.world.world import World

_NOBODY = np.zeros(0, dtype=np.int64)


def clip_pose(points: NDArray[np.float64], at: float) -> tuple[float, float, float]:
    """Offset x, y and degrees turned at a time of a clip, in straight lines between its points.

    `points` are their times, x, y and turn; shape (4, points).
    """
    times = points[0]
    last = len(times) - 1
    if last < 0:
        return 0.0, 0.0, 0.0
    after = min(max(int(np.searchsorted(times, at, side="right")), 1), last) if last else 0
    begins, ends = times.item(max(after - 1, 0)), times.item(after)
    part = min(max((at - begins) / (ends - begins), 0.0), 1.0) if ends > begins else 1.0
    left, old = 1.0 - part, after - 1
    return (
        points.item(1, old) * left + points.item(1, after) * part,
        points.item(2, old) * left + points.item(2, after) * part,
        points.item(3, old) * left + points.item(3, after) * part,
    )


def clip_time(clip: Clip, seconds: float, how: str) -> tuple[float, bool]:
    """Return which time of the clip is shown after so many seconds of it, and whether it is over."""
    length = clip.length
    if length <= 0 or (how == "once" and seconds >= length - 1e-9):
        return length, how == "once"
    if how == "in a loop":
        return seconds % length, False
    if how == "there and back":
        seconds = seconds % (2 * length)
        return (seconds if seconds <= length else 2 * length - seconds), False
    return seconds, False


def follow_clips(world: World) -> None:
    """Take every object that plays a clip to where the clip has it at this tick."""
    if world.movement.clip_ends:
        world.movement.clip_ends = ()
    if not world.movement.playing:
        return
    going: list[Playing] = []
    ended: list[tuple[str, int]] = []
    moved: list[int] = []
    turned: list[int] = []
    for playing in world.movement.playing:
        row = world.row_of_id(playing.object)
        if row < 0:
            continue
        clip = world.program.index.clips[playing.clip]
        at, over = clip_time(clip, (world.time - playing.begins) * playing.speed, playing.how)
        dx, dy, by = clip_pose(world.program.kind_tables.clip_points[playing.clip], at)
        cos, sin = cosd(playing.axes), sind(playing.axes)
        if playing.carried:
            if not world.bears_motion(playing.object):
                continue
            world.movement.bonds[playing.object] = replace(
                world.movement.bonds[playing.object],
                along=playing.x + dx * cos - dy * sin,
                across=playing.y + dx * sin + dy * cos,
                angle=playing.angle + by,
            )
            (ended if over else going).append((playing.clip, playing.object) if over else playing)  # type: ignore[arg-type]
            continue
        world.x[row] = playing.x + dx * cos - dy * sin
        world.y[row] = playing.y + dx * sin + dy * cos
        moved.append(row)
        if by or world.angle.item(row) != playing.angle:
            world.angle[row] = half_open_degrees(playing.angle + by)
            turned.append(row)
        if over:
            ended.append((playing.clip, playing.object))
        else:
            going.append(playing)
    if moved:
        world.touch_rows(np.array(moved))
    if turned:
        world.turned(np.array(turned))
    world.movement.playing = tuple(going)
    world.movement.clip_ends = tuple(ended)


def not_playing(playing: tuple[Playing, ...], ids: NDArray[np.int64]) -> tuple[Playing, ...]:
    """Return the clips being played, without those on some objects."""
    gone = set(ids.tolist())
    return tuple(p for p in playing if p.object not in gone) if playing else playing


def clip_ended(world: World, clip: str, role: Role) -> Rows:
    """Return the role's objects on which a clip has ended in this tick."""
    ids = [object_id for name, object_id in world.movement.clip_ends if name == clip]
    rows = world.rows_of_ids(np.array(sorted(ids), dtype=np.int64)) if ids else _NOBODY
    rows = rows[rows >= 0]
    found: Rows = rows[world.member(role)[rows]]
    return found
