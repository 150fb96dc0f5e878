"""Entries that move and turn objects by hand."""

import numpy as np

from gatillo.catalogue.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.surroundings import Deed, Numbers, Rows, Where


def along_axes(deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> tuple[Numbers, Numbers]:
    """An offset along the level's axes, from one that may be ahead and to the left of each object."""
    if axes == "the level's":
        return dx, dy
    facing = np.radians(deed.angles(who))
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
def move_by(deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    deed.shift(who, *along_axes(deed, who, dx, dy, axes))


@action(
    "turn {who} by {angle}°",
    "Turns at once; positive is counter-clockwise.",
    who=role(),
    angle=number("90", "degrees, counter-clockwise"),
)
def turn_by(deed: Deed, who: Rows, angle: Numbers) -> None:
    deed.rotate(who, angle)


EASINGS = ("at constant speed", "easing in", "easing out", "easing in and out")
_EASING = choice(*EASINGS)


@action(
    "put {who} at {where}",
    "Moves at once to a spot, into an area, to an object or the pointer.",
    who=role(),
    where=slot("where"),
)
def put_at(deed: Deed, who: Rows, where: Where) -> None:
    deed.put(who, *deed.points(where))


@action(
    "put {who} at x {x}, y {y}",
    "Moves at once to a point of the level.",
    who=role(),
    x=number("0", "units to the right"),
    y=number("0", "units up"),
)
def put_at_point(deed: Deed, who: Rows, x: Numbers, y: Numbers) -> None:
    deed.put(who, x, y)


@action(
    "move {who} to {where} over {time} s, {easing}",
    "Moves over a time, and ends exactly there.",
    who=role(),
    where=slot("where"),
    time=seconds("1"),
    easing=_EASING,
)
def move_to_over(deed: Deed, who: Rows, where: Where, time: Numbers, easing: str) -> None:
    deed.glide(who, *deed.points(where), time, easing, "")


@action(
    "move {who} to {where} over {time} s, {easing}, then send {message}",
    "Moves over a time, and sends a message on arriving.",
    who=role(),
    where=slot("where"),
    time=seconds("1"),
    easing=_EASING,
    message=slot("message"),
)
def move_to_then(deed: Deed, who: Rows, where: Where, time: Numbers, easing: str, message: str) -> None:
    deed.glide(who, *deed.points(where), time, easing, message)


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
    deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str, time: Numbers, easing: str
) -> None:
    x, y = deed.place(who)
    dx, dy = along_axes(deed, who, dx, dy, axes)
    deed.glide(who, x + dx, y + dy, time, easing, "")


@action(
    "move {who} toward {where} at {speed}",
    "Moves toward a place by speed × dt, never past it, so it does not jitter there.",
    who=role(),
    where=slot("where"),
    speed=number("100", "units a second"),
)
def move_toward(deed: Deed, who: Rows, where: Where, speed: Numbers) -> None:
    x, y = deed.place(who)
    goal_x, goal_y = deed.points(where)
    away = np.hypot(goal_x - x, goal_y - y)
    step = np.minimum(np.maximum(speed, 0.0) * deed.dt, away)
    part = np.divide(step, away, out=np.zeros(len(who)), where=away > 0)
    deed.shift(who, (goal_x - x) * part, (goal_y - y) * part)


@action(
    "move {who} apart, {gap} between edges",
    "Moves objects away from one another until none overlaps or comes nearer than the gap.",
    who=role(),
    gap=number("0", "units between their edges"),
)
def move_apart(deed: Deed, who: Rows, gap: Numbers) -> None:
    deed.part(who, gap)


@action(
    "let {who} face {where}",
    "Turns at once to face a place, an object or the pointer, whichever way its picture is drawn.",
    who=role(),
    where=slot("where"),
)
def face(deed: Deed, who: Rows, where: Where) -> None:
    x, y = deed.place(who)
    goal_x, goal_y = deed.points(where)
    there = (goal_x != x) | (goal_y != y)
    toward = np.degrees(np.arctan2(goal_y - y, goal_x - x))
    # standing on it there is no direction: it keeps its own
    deed.face(who, np.where(there, toward, deed.angles(who)))


@action(
    "let {who} face {angle}°",
    "Turns at once to a direction, counter-clockwise from the right.",
    who=role(),
    angle=number("0"),
)
def face_angle(deed: Deed, who: Rows, angle: Numbers) -> None:
    deed.face(who, angle)


@action(
    "set the velocity of {who} to {dx}, {dy} along {axes} axes",
    "It keeps moving at this velocity, in units a second.",
    who=role(),
    dx=number("0", "units a second"),
    dy=number("0", "units a second"),
    axes=choice("the level's", "its own"),
)
def set_velocity(deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    deed.go(who, *along_axes(deed, who, dx, dy, axes))


@action(
    "push {who} by {dx}, {dy} along {axes} axes",
    "Adds to its velocity, in units a second.",
    who=role(),
    dx=number("0", "units a second"),
    dy=number("0", "units a second"),
    axes=choice("the level's", "its own"),
)
def push(deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    vx, vy = deed.velocity(who)
    dx, dy = along_axes(deed, who, dx, dy, axes)
    deed.go(who, vx + dx, vy + dy)


@action(
    "launch {who} at {angle}° with speed {speed}",
    "Gives it a velocity in a direction, counter-clockwise from the right.",
    who=role(),
    angle=number("45"),
    speed=number("200", "units a second"),
)
def launch(deed: Deed, who: Rows, angle: Numbers, speed: Numbers) -> None:
    turned = np.radians(angle)
    deed.go(who, speed * np.cos(turned), speed * np.sin(turned))


@action("stop {who}", "Removes its velocity and any movement over a time.", who=role())
def stop(deed: Deed, who: Rows) -> None:
    deed.go(who, 0.0, 0.0)
    deed.halt(who)
