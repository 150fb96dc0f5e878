"""Behaviours that make for something: a goal, a target, one point after another, a noise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.entry import area, behaviour, choice, number, occasion, role, seconds, slot
from gatillo.catalogue.steering import FACES, KEEPS_FACING
from gatillo.catalogue.surroundings import Asked, Candidates, Motion, Rows, Where
from gatillo.level.roles import Role

Floats = NDArray[np.float64]

LEAVES = 1.0
"""So many units farther than where it stopped its goal must be before it arrives anew."""


def approach(
    motion: Motion, rows: Rows, goal_x: Floats, goal_y: Floats, speed: Floats, gap: Floats, facing: str
) -> NDArray[np.bool_]:
    """Head for points, never past the gap before them; gives who is there at the end of this tick."""
    x, y = motion.place(rows)
    dx, dy = goal_x - x, goal_y - y
    away = np.hypot(dx, dy)
    left = np.maximum(away - np.maximum(gap, 0.0), 0.0)
    step = np.minimum(np.maximum(speed, 0.0) * motion.dt, left)
    part = np.divide(step, away, out=np.zeros(len(rows)), where=away > 0) / motion.dt
    motion.move(rows, dx * part, dy * part)
    if facing == FACES:
        goes = step > 0
        if goes.any():
            motion.face(rows[goes], np.degrees(np.arctan2(dy[goes], dx[goes])))
    there: NDArray[np.bool_] = left - step <= 1e-9
    return there


def _arrivals(motion: Motion, rows: Rows, there: NDArray[np.bool_], away: Floats, gap: Floats) -> None:
    """Tell of those who have arrived, once each until their goal is farther off again."""
    was = motion.recall("there") > 0
    fresh = there & ~was
    if fresh.any():
        motion.arrive(rows[fresh], "goal")
    motion.keep("there", there | (was & (away <= np.maximum(gap, 0.0) + LEAVES)))


@behaviour(
    "go to {goal} at {speed}, stopping {gap} away, {facing}",
    "Goes straight to a spot, to an object or the pointer as they move, or to a point of its own in an area; "
    "it never goes past, so it does not jitter there.",
    drives=True,
    keeps={"there": 0.0},
    goal=slot("where"),
    speed=number("80", "units a second"),
    gap=number("0", "units before the goal"),
    facing=choice(FACES, KEEPS_FACING),
)
def go_to_goal(motion: Motion, rows: Rows, goal: Where, speed: Floats, gap: Floats, facing: str) -> None:
    goal_x, goal_y = motion.point(rows, goal)
    x, y = motion.place(rows)
    there = approach(motion, rows, goal_x, goal_y, speed, gap, facing)
    _arrivals(motion, rows, there, np.hypot(goal_x - x, goal_y - y), gap)


@behaviour(
    "chase {target} at {speed}, stopping {gap} away, {facing}",
    "Makes for the nearest of those meant, and follows as it moves; with none there it stands still.",
    drives=True,
    keeps={"there": 0.0},
    target=role("whom it is after"),
    speed=number("80", "units a second"),
    gap=number("0", "units between the middles"),
    facing=choice(FACES, KEEPS_FACING),
)
def chase(motion: Motion, rows: Rows, target: Role, speed: Floats, gap: Floats, facing: str) -> None:
    found = motion.nearest(rows, target)
    # with nobody to chase, its own place is its goal, but it never arrives there
    there_is = found >= 0
    goal_x, goal_y = motion.place(np.where(there_is, found, rows))
    x, y = motion.place(rows)
    there = approach(motion, rows, goal_x, goal_y, speed, gap, facing) & there_is
    away = np.where(there_is, np.hypot(goal_x - x, goal_y - y), np.inf)
    _arrivals(motion, rows, there, away, gap)


@behaviour(
    "wander in {where} at {speed}, resting {pause} s at each point, {facing}",
    "Goes to one point of the area after another, drawn for it alone.",
    drives=True,
    keeps={"turn": 0.0, "goal_x": 0.0, "goal_y": 0.0, "rest": 0.0},
    where=area(),
    speed=number("50", "units a second"),
    pause=seconds("1"),
    facing=choice(FACES, KEEPS_FACING),
)
def wander(motion: Motion, rows: Rows, where: str, speed: Floats, pause: Floats, facing: str) -> None:
    x, y = motion.place(rows)
    start_x, start_y = x.copy(), y.copy()
    turn, rest = motion.recall("turn"), motion.recall("rest")
    goal_x, goal_y = motion.recall("goal_x"), motion.recall("goal_y")
    left = np.full(len(rows), motion.dt)
    fast = np.maximum(speed, 1e-9)
    # what is left of a tick on arriving is rested and walked on with: the same at every tick rate
    for _ in range(8):
        new = turn == 0
        if new.any():
            goal_x[new], goal_y[new] = motion.anywhere(rows[new], where, np.ones(int(new.sum())))
            turn[new] = 1
        rests = np.minimum(rest, left)
        rest -= rests
        left -= rests
        away = np.hypot(goal_x - x, goal_y - y)
        step = np.minimum(away / fast, left)
        arrives = (left > 1e-12) & (away / fast <= left + 1e-9)
        part = np.divide(step * fast, away, out=np.zeros(len(rows)), where=away > 0)
        x, y = (
            np.where(arrives, goal_x, x + (goal_x - x) * part),
            np.where(arrives, goal_y, y + (goal_y - y) * part),
        )
        left -= step
        if not arrives.any():
            break
        motion.arrive(rows[arrives], "goal")
        rest[arrives] = np.maximum(pause[arrives], 0.0)
        turn[arrives] += 1
        goal_x[arrives], goal_y[arrives] = motion.anywhere(rows[arrives], where, turn[arrives])
    vx, vy = (x - start_x) / motion.dt, (y - start_y) / motion.dt
    motion.move(rows, vx, vy)
    if facing == FACES:
        goes = (vx != 0) | (vy != 0)
        if goes.any():
            motion.face(rows[goes], np.degrees(np.arctan2(vy[goes], vx[goes])))
    for name, value in (("turn", turn), ("rest", rest), ("goal_x", goal_x), ("goal_y", goal_y)):
        motion.keep(name, value)


GOING, LOOKING, RETURNING = 1, 2, 3


@behaviour(
    "look into {message} heard within {hearing}: go there at {speed}, stop {gap} away, look about for {time} s, go back",
    "Breaks off what it does when the message is sent by an object near enough, goes there, looks about, goes back to "
    "where it broke off, and goes on as before. A new noise on the way leads it there instead.",
    phase="first",
    drives=True,
    keeps={
        "stage": 0.0,
        "goal_x": 0.0,
        "goal_y": 0.0,
        "home_x": 0.0,
        "home_y": 0.0,
        "home_facing": 0.0,
        "left": 0.0,
    },
    message=slot("message", "", "the message that objects send as a noise"),
    hearing=number("260", "units to the one who sends it"),
    speed=number("80", "units a second"),
    gap=number("18", "units before the place of the noise"),
    time=seconds("4", "how long it looks about"),
)
def look_into(
    motion: Motion,
    rows: Rows,
    message: str,
    hearing: Floats,
    speed: Floats,
    gap: Floats,
    time: Floats,
) -> None:
    stage = motion.recall("stage")
    noise_x, noise_y = motion.heard_at(message)
    x, y = motion.place(rows)
    if len(noise_x) and len(rows):
        away = np.hypot(noise_x[None, :] - x[:, None], noise_y[None, :] - y[:, None])
        nearest = np.argmin(away, axis=1)
        hears = away[np.arange(len(rows)), nearest] <= hearing
        leaves = hears & (stage == 0)
        for name, now in (("home_x", x), ("home_y", y), ("home_facing", motion.facing(rows))):
            motion.keep(name, np.where(leaves, now, motion.recall(name)))
        motion.keep("goal_x", np.where(hears, noise_x[nearest], motion.recall("goal_x")))
        motion.keep("goal_y", np.where(hears, noise_y[nearest], motion.recall("goal_y")))
        stage = np.where(hears, GOING, stage)
    if not stage.any():
        return
    left = motion.recall("left")
    looks = stage == LOOKING
    left = np.where(looks, left - motion.dt, left)
    stage = np.where(looks & (left <= 1e-9), RETURNING, stage)
    goes, returns = stage == GOING, stage == RETURNING
    goal_x = np.where(returns, motion.recall("home_x"), motion.recall("goal_x"))
    goal_y = np.where(returns, motion.recall("home_y"), motion.recall("goal_y"))
    away_from_all = stage > 0
    some = away_from_all.nonzero()[0]
    stops = np.where(returns, 0.0, gap)
    pace = np.where(stage == LOOKING, 0.0, speed)
    there = np.zeros(len(rows), dtype=bool)
    there[some] = approach(motion, rows[some], goal_x[some], goal_y[some], pace[some], stops[some], FACES)
    found = goes & there
    if found.any():
        motion.arrive(rows[found], "goal")
    home = returns & there
    if home.any():
        motion.face(rows[home], motion.recall("home_facing")[home])
    motion.keep("left", np.where(found, time, left))
    # one that is back goes on with what it did in the next tick
    motion.keep("stage", np.where(found, LOOKING, np.where(home, 0, stage)))


@occasion(
    "{who} arrives at its goal",
    "Once, in the tick in which it comes to what it goes to, chases, wanders to or looks into.",
    wakes=lambda who: [("arrives", "goal")],
    who=role(),
)
def arrives_at_goal(world: Asked, who: Role) -> Candidates:
    rows, _ = world.arrived("goal", who)
    return Candidates(len(rows), {who.token: rows})
