"""Behaviours that go to something: a goal, a target, one point after another, a noise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Rows, Where
from gatillo.catalogue.declare.entry import (
    Kernel,
    area,
    behaviour,
    choice,
    number,
    occasion,
    role,
    seconds,
    slot,
)
from gatillo.catalogue.declare.facts import Arrival
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.entries.steering import FACES, KEEPS_FACING
from gatillo.formula.formula import Formula
from gatillo.kernels import goals as goal_kernel
from gatillo.kernels import wandering
from gatillo.kernels.mathematics import atan2d, length
from gatillo.level.roles import Role

SUBJECT = Subject("goals", place=200)

Floats = NDArray[np.float64]

LEAVES = 1.0
"""How many units farther off than where it stops an object must have been before it can arrive again."""


def approach(
    world: BehaviourApi, rows: Rows, goal_x: Floats, goal_y: Floats, speed: Floats, gap: Floats, facing: str
) -> NDArray[np.bool_]:
    """Head for points, never past the gap before them; gives who is there at the end of this tick."""
    x, y = world.place(rows)
    dx, dy = goal_x - x, goal_y - y
    away = length(dx, dy)
    left = np.maximum(away - np.maximum(gap, 0.0), 0.0)
    step = np.minimum(np.maximum(speed, 0.0) * world.dt, left)
    part = np.divide(step, away, out=np.zeros(len(rows)), where=away > 0) / world.dt
    world.set_velocity(rows, dx * part, dy * part)
    if facing == FACES:
        goes = step > 0
        if goes.any():
            world.face(rows[goes], atan2d(dy[goes], dx[goes]))
    there: NDArray[np.bool_] = left - step <= 1e-9
    return there


def _arrivals(world: BehaviourApi, rows: Rows, there: NDArray[np.bool_], away: Floats, gap: Floats) -> None:
    """Report which objects have arrived: each once, until it has been farther off again."""
    was = world.recall("there") > 0
    fresh = there & ~was
    if fresh.any():
        world.arrive(rows[fresh], "goal")
    world.remember("there", there | (was & (away <= np.maximum(gap, 0.0) + LEAVES)))


@behaviour(
    "go to {goal} at {speed}, stopping {gap} away, {facing}",
    "Goes straight to a spot, to an object or the pointer as they move, or to a point of its own in an "
    "area. It never passes its goal, so it does not jitter there.",
    remembers={"there": 0.0},
    goal=slot("where"),
    speed=number("80", "units a second"),
    gap=number("0", "units before the goal"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "move/walk/travel/head to/towards {goal}",
        "approach {goal}",
        "seek {goal}",
        "navigate to {goal}",
    ],
)
def go_to_goal(world: BehaviourApi, rows: Rows, goal: Where, speed: Floats, gap: Floats, facing: str) -> None:
    goal_x, goal_y = world.goal(rows, goal)
    x, y = world.place(rows)
    there = approach(world, rows, goal_x, goal_y, speed, gap, facing)
    _arrivals(world, rows, there, length(goal_x - x, goal_y - y), gap)


@behaviour(
    "go to the nearest {target} for which {only} at {speed}, stopping {gap} away, {facing}",
    "Goes to the nearest object for which a condition holds, such as Bed.dry; where there is none, it "
    "stands still.",
    remembers={"there": 0.0},
    target=role("the objects it goes to"),
    only=slot("yes/no formula"),
    speed=number("80", "units a second"),
    gap=number("0", "units before the goal"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "move/walk/travel to/towards [the] nearest/closest {target}",
        "approach the nearest/closest {target}",
        "seek those {target}",
    ],
)
def go_to_those(
    world: BehaviourApi, rows: Rows, target: Role, only: Formula, speed: Floats, gap: Floats, facing: str
) -> None:
    _chase(world, rows, world.nearest(rows, target, only), speed, gap, facing)


@behaviour(
    "chase {target} at {speed}, stopping {gap} away, {facing}",
    "Makes for the nearest of the objects named and follows as it moves; with none there, it stands still.",
    remembers={"there": 0.0},
    target=role("the objects it chases"),
    speed=number("80", "units a second"),
    gap=number("0", "units between the middles"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "follow/pursue/hunt {target}",
        "run after {target}",
        "catch {target}",
    ],
)
def chase(world: BehaviourApi, rows: Rows, target: Role, speed: Floats, gap: Floats, facing: str) -> None:
    _chase(world, rows, world.nearest(rows, target), speed, gap, facing)


@behaviour(
    "chase the nearest {target} for which {only} at {speed}, stopping {gap} away, {facing}",
    "Chases only objects for which a condition holds, such as Moth.awake; the condition can name the "
    "chaser too.",
    remembers={"there": 0.0},
    target=role("the objects it chases"),
    only=slot("yes/no formula"),
    speed=number("80", "units a second"),
    gap=number("0", "units between the middles"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "follow/pursue/hunt [the] nearest/closest {target}",
        "run after the nearest {target}",
        "hunt only those {target}",
    ],
)
def chase_those(
    world: BehaviourApi, rows: Rows, target: Role, only: Formula, speed: Floats, gap: Floats, facing: str
) -> None:
    _chase(world, rows, world.nearest(rows, target, only), speed, gap, facing)


def _chase(world: BehaviourApi, rows: Rows, found: Rows, speed: Floats, gap: Floats, facing: str) -> None:
    # with nothing to chase, its own place is its goal, but it never arrives there
    there_is = found >= 0
    x, y = world.place(rows)
    goal_x, goal_y = world.place_at_end(np.where(there_is, found, rows))
    goal_x, goal_y = np.where(there_is, goal_x, x), np.where(there_is, goal_y, y)
    there = approach(world, rows, goal_x, goal_y, speed, gap, facing) & there_is
    away = np.where(there_is, length(goal_x - x, goal_y - y), np.inf)
    _arrivals(world, rows, there, away, gap)


@behaviour(
    "wander in {where} at {speed}, resting {pause} s at each point, {facing}",
    "Goes to one random point of the area after another; each object draws its own.",
    kernel=Kernel(wandering.wander, "turns"),
    remembers={"nth": 0.0, "goal_x": 0.0, "goal_y": 0.0, "rest": 0.0},
    where=area(),
    speed=number("50", "units a second"),
    pause=seconds("1"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "roam/stroll/patrol [about] in {where}",
        "walk about/around in {where}",
        "move/go at random/randomly in {where}",
        "idle about",
    ],
)
def wander(world: BehaviourApi, rows: Rows, where: str, speed: Floats, pause: Floats, facing: str) -> None:
    x, y = world.place(rows)
    start_x, start_y = x.copy(), y.copy()
    nth, rest = world.recall("nth"), world.recall("rest")
    goal_x, goal_y = world.recall("goal_x"), world.recall("goal_y")
    left = np.full(len(rows), world.dt)
    fast = np.maximum(speed, 1e-9)
    # what is left of a tick on arriving is rested and walked on with: the same at every tick rate
    for _ in range(8):
        new = nth == 0
        if new.any():
            goal_x[new], goal_y[new] = world.anywhere(rows[new], where, np.ones(int(new.sum())))
            nth[new] = 1
        rests = np.minimum(rest, left)
        rest -= rests
        left -= rests
        away = length(goal_x - x, goal_y - y)
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
        world.arrive(rows[arrives], "goal")
        rest[arrives] = np.maximum(pause[arrives], 0.0)
        nth[arrives] += 1
        goal_x[arrives], goal_y[arrives] = world.anywhere(rows[arrives], where, nth[arrives])
    _wandered(world, rows, x, y, start_x, start_y, facing)
    for name, value in (("nth", nth), ("rest", rest), ("goal_x", goal_x), ("goal_y", goal_y)):
        world.remember(name, value)


def _wandered(
    world: BehaviourApi, rows: Rows, x: Floats, y: Floats, start_x: Floats, start_y: Floats, facing: str
) -> None:
    vx, vy = (x - start_x) / world.dt, (y - start_y) / world.dt
    if facing == FACES:
        _go_facing(world, rows, vx, vy, vx, vy)
    else:
        world.set_velocity(rows, vx, vy)


GOING, LOOKING, RETURNING, HOME = goal_kernel.STAGES


@behaviour(
    "look into {message} heard within {hearing}: go there at {speed}, stop {gap} away, look about for {time} s, go back",
    "When an object near enough sends the message, interrupts its behaviour, goes there, looks about, "
    "returns to where it was, and continues. A new noise on the way leads it there instead.",
    faces=True,
    phase="first",
    kernel=Kernel(goal_kernel.look_into, "turns"),
    remembers={
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
    says=[
        "investigate {message}",
        "react/respond to {message}",
        "go and see {message}",
        "hear {message}",
    ],
)
def look_into(
    world: BehaviourApi,
    rows: Rows,
    message: str,
    hearing: Floats,
    speed: Floats,
    gap: Floats,
    time: Floats,
) -> None:
    stage = world.recall("stage")
    noise_x, noise_y = world.heard_at(message)
    if not len(noise_x) and not stage.any():
        return
    back = stage == HOME
    if back.any():
        # exactly where it broke off, and from here on it does what it did
        world.put(rows[back], world.recall("home_x")[back], world.recall("home_y")[back])
        world.face(rows[back], world.recall("home_facing")[back])
        stage = np.where(back, 0, stage)
        world.remember("stage", stage)
    x, y = world.place(rows)
    if len(noise_x) and len(rows):
        away = length(noise_x[None, :] - x[:, None], noise_y[None, :] - y[:, None])
        nearest = np.argmin(away, axis=1)
        hears = away[np.arange(len(rows)), nearest] <= hearing
        leaves = hears & (stage == 0)
        for name, now in (("home_x", x), ("home_y", y), ("home_facing", world.facing(rows))):
            world.remember(name, np.where(leaves, now, world.recall(name)))
        world.remember("goal_x", np.where(hears, noise_x[nearest], world.recall("goal_x")))
        world.remember("goal_y", np.where(hears, noise_y[nearest], world.recall("goal_y")))
        stage = np.where(hears, GOING, stage)
    some = (stage > 0).nonzero()[0]
    if not len(some):
        return
    _look_into(world, rows, some, stage, speed, gap, time)


def _look_into(
    world: BehaviourApi,
    rows: Rows,
    some: NDArray[np.int64],
    stage: Floats,
    speed: Floats,
    gap: Floats,
    time: Floats,
) -> None:
    """Take those who look into something through the tick; what is left of it on arriving is gone on with."""
    mine = rows[some]
    start_x, start_y = world.place(mine)
    x, y, step_x, step_y = start_x.copy(), start_y.copy(), np.zeros(len(mine)), np.zeros(len(mine))
    now, looks_on = stage[some].copy(), world.recall("left")[some]
    pace = np.maximum(speed[some], 1e-12)
    left = np.full(len(mine), world.dt)
    goals = {
        GOING: (
            world.recall("goal_x")[some],
            world.recall("goal_y")[some],
            np.maximum(gap[some], 0.0),
            LOOKING,
        ),
        RETURNING: (world.recall("home_x")[some], world.recall("home_y")[some], 0.0, HOME),
    }
    for leg in (GOING, LOOKING, RETURNING):
        here = (now == leg) & (left > 1e-12)
        if not here.any():
            continue
        if leg == LOOKING:
            spent = np.where(here, np.minimum(looks_on, left), 0.0)
            looks_on, left = looks_on - spent, left - spent
            now = np.where(here & (looks_on <= 1e-9), RETURNING, now)
            continue
        goal_x, goal_y, stops, then = goals[leg]
        dx, dy = goal_x - x, goal_y - y
        away = length(dx, dy)
        way = np.maximum(away - stops, 0.0)
        step = np.where(here, np.minimum(pace * left, way), 0.0)
        part = np.divide(step, away, out=np.zeros(len(mine)), where=away > 0)
        x, y = x + dx * part, y + dy * part
        step_x, step_y = np.where(step > 0, dx, step_x), np.where(step > 0, dy, step_y)
        left = left - step / pace
        there = here & (way - step <= 1e-9)
        now = np.where(there, then, now)
        if leg == GOING and there.any():
            world.arrive(mine[there], "goal")
            looks_on = np.where(there, time[some], looks_on)
    vx, vy = (x - start_x) / world.dt, (y - start_y) / world.dt
    _go_facing(world, mine, vx, vy, step_x, step_y)
    for name, value, kept in (("stage", now, stage), ("left", looks_on, world.recall("left"))):
        kept = kept.copy()
        kept[some] = value
        world.remember(name, kept)


def _go_facing(world: BehaviourApi, rows: Rows, vx: Floats, vy: Floats, way_x: Floats, way_y: Floats) -> None:
    """Give a velocity, and let those face their way that have one."""
    world.set_velocity(rows, vx, vy)
    goes = (way_x != 0) | (way_y != 0)
    if goes.any():
        world.face(rows[goes], atan2d(way_y[goes], way_x[goes]))


@occasion(
    "{who} arrives at its goal",
    "Once, in the tick in which it reaches what it goes to, chases, wanders to or looks into.",
    wakes=lambda who: [Arrival("goal")],
    who=role(),
    says=[
        "{who} reaches/gets [to] its/the/his/her goal/target/destination",
        "{who} arrives",
        "{who} arrives at its/the goal/target/destination",
        "{who} is/comes at its goal/target/destination",
        "{who} has arrived",
        "{who} gets/comes to where it was going/heading",
        "{who} got/gets/came/comes where it was going/heading",
        "{who} is where it was going/heading",
        "{who} reaches where it was going/heading",
    ],
)
def arrives_at_goal(world: QueryApi, who: Role) -> Candidates:
    rows, _ = world.arrived("goal", who)
    return Candidates(len(rows), {who.token: rows})
