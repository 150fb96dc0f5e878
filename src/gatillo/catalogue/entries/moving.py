"""Actions that move and turn objects."""

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.declare.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("moving and turning", place=80)


def along_axes(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> tuple[Numbers, Numbers]:
    """Return an offset along the level's axes, from one that may be ahead and to the left of each object."""
    if axes == "the level's":
        return dx, dy
    facing = np.radians(world.angles(who))
    cos, sin = np.cos(facing), np.sin(facing)
    return dx * cos - dy * sin, dx * sin + dy * cos


@action(
    "move {who} by {dx}, {dy} along {axes} axes",
    "Moves at once by an offset: x to the right and y up, or ahead and to the left of its facing.",
    who=role(),
    dx=number("0", "units along the first axis"),
    dy=number("0", "units along the second axis"),
    axes=choice("the level's", "its own"),
)
def move_by(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    world.shift(who, *along_axes(world, who, dx, dy, axes))


@action(
    "turn {who} by {angle}°",
    "Turns at once; positive is counter-clockwise.",
    who=role(),
    angle=number("90", "degrees, counter-clockwise"),
)
def turn_by(world: ActionApi, who: Rows, angle: Numbers) -> None:
    world.rotate(who, angle)


EASINGS = ("at constant speed", "easing in", "easing out", "easing in and out")
_EASING = choice(*EASINGS)


@action(
    "put {who} at {where}",
    "Moves at once to a spot, into an area, to an object or the pointer.",
    who=role(),
    where=slot("where"),
)
def put_at(world: ActionApi, who: Rows, where: Where) -> None:
    world.put(who, *world.points(where))


@action(
    "put {who} at x {x}, y {y}",
    "Moves at once to a point of the level.",
    who=role(),
    x=number("0", "units to the right"),
    y=number("0", "units up"),
)
def put_at_point(world: ActionApi, who: Rows, x: Numbers, y: Numbers) -> None:
    world.put(who, x, y)


@action(
    "move {who} to {where} over {time} s, {easing}",
    "Moves over a time, and ends exactly there.",
    who=role(),
    where=slot("where"),
    time=seconds("1"),
    easing=_EASING,
)
def move_to_over(world: ActionApi, who: Rows, where: Where, time: Numbers, easing: str) -> None:
    world.glide(who, *world.points(where), time, easing, "")


@action(
    "move {who} to {where} over {time} s, {easing}, then send {message}",
    "Moves over a time, and sends a message on arriving.",
    who=role(),
    where=slot("where"),
    time=seconds("1"),
    easing=_EASING,
    message=slot("message"),
)
def move_to_then(world: ActionApi, who: Rows, where: Where, time: Numbers, easing: str, message: str) -> None:
    world.glide(who, *world.points(where), time, easing, message)


@action(
    "move {who} by {dx}, {dy} along {axes} axes over {time} s, {easing}",
    "Moves by an offset over a time.",
    who=role(),
    dx=number("0", "units along the first axis"),
    dy=number("0", "units along the second axis"),
    axes=choice("the level's", "its own"),
    time=seconds("1"),
    easing=_EASING,
)
def move_by_over(
    world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str, time: Numbers, easing: str
) -> None:
    x, y = world.place(who)
    dx, dy = along_axes(world, who, dx, dy, axes)
    world.glide(who, x + dx, y + dy, time, easing, "")


@action(
    "move {who} toward {where} at {speed}",
    "Moves toward a place by speed × dt, never past it, so it does not jitter there.",
    who=role(),
    where=slot("where"),
    speed=number("100", "units a second"),
)
def move_toward(world: ActionApi, who: Rows, where: Where, speed: Numbers) -> None:
    x, y = world.place(who)
    goal_x, goal_y = world.points(where)
    away = np.hypot(goal_x - x, goal_y - y)
    step = np.minimum(np.maximum(speed, 0.0) * world.dt, away)
    part = np.divide(step, away, out=np.zeros(len(who)), where=away > 0)
    world.shift(who, (goal_x - x) * part, (goal_y - y) * part)


@action(
    "move {who} apart, {gap} between edges",
    "Moves objects away from one another until none overlaps or comes nearer than the gap.",
    who=role(),
    gap=number("0", "units between their edges"),
)
def move_apart(world: ActionApi, who: Rows, gap: Numbers) -> None:
    world.push_apart(who, gap)


@action(
    "let {who} face {where}",
    "Turns at once to face a place, an object or the pointer, whichever way its picture is drawn.",
    who=role(),
    where=slot("where"),
)
def face(world: ActionApi, who: Rows, where: Where) -> None:
    x, y = world.place(who)
    goal_x, goal_y = world.points(where)
    there = (goal_x != x) | (goal_y != y)
    toward = np.degrees(np.arctan2(goal_y - y, goal_x - x))
    # standing on it there is no direction: it keeps its own
    world.face(who, np.where(there, toward, world.angles(who)))


@action(
    "let {who} face {angle}°",
    "Turns at once to a direction, counter-clockwise from the right.",
    who=role(),
    angle=number("0"),
)
def face_angle(world: ActionApi, who: Rows, angle: Numbers) -> None:
    world.face(who, angle)


@action(
    "set the velocity of {who} to {dx}, {dy} along {axes} axes",
    "It keeps moving at this velocity, in units a second.",
    who=role(),
    dx=number("0", "units a second"),
    dy=number("0", "units a second"),
    axes=choice("the level's", "its own"),
)
def set_velocity(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    world.set_velocity(who, *along_axes(world, who, dx, dy, axes))


@action(
    "push {who} by {dx}, {dy} along {axes} axes",
    "Adds to its velocity, in units a second.",
    who=role(),
    dx=number("0", "units a second"),
    dy=number("0", "units a second"),
    axes=choice("the level's", "its own"),
)
def push(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    vx, vy = world.velocity(who)
    dx, dy = along_axes(world, who, dx, dy, axes)
    world.set_velocity(who, vx + dx, vy + dy)


@action(
    "launch {who} at {angle}° with speed {speed}",
    "Gives it a velocity in a direction, counter-clockwise from the right.",
    who=role(),
    angle=number("45"),
    speed=number("200", "units a second"),
)
def launch(world: ActionApi, who: Rows, angle: Numbers, speed: Numbers) -> None:
    turned = np.radians(angle)
    world.set_velocity(who, speed * np.cos(turned), speed * np.sin(turned))


@action("stop {who}", "Removes its velocity and any movement over a time.", who=role())
def stop(world: ActionApi, who: Rows) -> None:
    world.set_velocity(who, 0.0, 0.0)
    world.halt(who)
