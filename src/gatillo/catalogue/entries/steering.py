"""Behaviours that steer by the keyboard."""

import numpy as np

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Rows
from gatillo.catalogue.declare.entry import Kernel, behaviour, choice, key, number
from gatillo.catalogue.declare.subjects import Subject
from gatillo.kernels import steering as kernel
from gatillo.kernels.mathematics import atan2d, length

SUBJECT = Subject("steering", place=190)

FACES = "facing the way it goes"
KEEPS_FACING = "keeping its facing"


@behaviour(
    "steer by keys: {forward} ahead, {back} back, {left} and {right} turn; speed {speed}, turning {turning}",
    "Turn and go: ahead and back along the way it faces. Speed in units a second, turning in degrees a second.",
    faces=True,
    kernel=Kernel(kernel.steer_by_keys, "turns"),
    forward=key("Up"),
    back=key("Down"),
    left=key("Left"),
    right=key("Right"),
    speed=number("120", "units a second"),
    turning=number("180", "degrees a second"),
    says=[
        "drive/move/turn with/by [the] keys",
        "keyboard control/controls",
        "player controls",
        "car controls",
    ],
)
def steer_by_keys(
    world: BehaviourApi,
    rows: Rows,
    forward: str,
    back: str,
    left: str,
    right: str,
    speed: np.ndarray,
    turning: np.ndarray,
) -> None:
    rule_index = world.key_state(left)[1] - world.key_state(right)[1]
    ahead = world.key_state(forward)[1] - world.key_state(back)[1]
    if rule_index:
        world.rotate(rows, rule_index * turning * world.dt)
    world.set_forward_speed(rows, ahead * speed)


@behaviour(
    "steer in eight directions: {up}, {down}, {left}, {right}; speed {speed}, {facing}",
    "Moves along the level's axes by keys; two keys together move diagonally at the same speed.",
    kernel=Kernel(kernel.steer_eight_ways, "turns"),
    up=key("Up"),
    down=key("Down"),
    left=key("Left"),
    right=key("Right"),
    speed=number("120", "units a second"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "move/walk in eight/all directions with/by [the] keys",
        "top down/view controls/movement",
        "keyboard movement",
        "arrow keys",
    ],
)
def steer_eight_ways(
    world: BehaviourApi, rows: Rows, up: str, down: str, left: str, right: str, speed: np.ndarray, facing: str
) -> None:
    dx = world.key_state(right)[1] - world.key_state(left)[1]
    dy = world.key_state(up)[1] - world.key_state(down)[1]
    if not dx and not dy:
        world.set_velocity(rows, 0.0, 0.0)
        return
    # two keys are no faster than one
    part = 1.0 / length(float(dx), float(dy))
    world.set_velocity(rows, dx * part * speed, dy * part * speed)
    if facing == FACES:
        world.face(rows, atan2d(dy, dx))


@behaviour(
    "run and jump: {left} and {right} run, {jump} jumps; speed {speed}, jump {take_off}, {facing}",
    "For a view from the side: runs sideways, and jumps when it is on something solid. It needs a "
    "movable kind, and gravity of the level or “fall and bounce”.",
    left=key("Left"),
    right=key("Right"),
    jump=key("Space"),
    speed=number("120", "units a second"),
    take_off=number("260", "units a second upward, at the start of the jump"),
    facing=choice(FACES, KEEPS_FACING),
    says=[
        "jump and run",
        "platform/platformer/side controls/movement",
        "walk and jump with/by [the] keys",
    ],
)
def run_and_jump(
    world: BehaviourApi,
    rows: Rows,
    left: str,
    right: str,
    jump: str,
    speed: np.ndarray,
    take_off: np.ndarray,
    facing: str,
) -> None:
    dx = world.key_state(right)[1] - world.key_state(left)[1]
    world.set_velocity(rows, dx * speed, None)
    if dx and facing == FACES:
        world.face(rows, 0.0 if dx > 0 else 180.0)
    if world.key_state(jump)[0]:
        stands = world.grounded(rows)
        world.set_upward_speed(rows[stands], take_off[stands])
