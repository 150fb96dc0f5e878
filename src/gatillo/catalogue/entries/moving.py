"""Actions that move and turn objects."""

from typing import Any

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.declare.entry import action, choice, number, role, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.kernels.mathematics import atan2d, cosd, length, sind

SUBJECT = Subject("moving and turning", place=80)


def along_axes(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> tuple[Numbers, Numbers]:
    """Return an offset along the level's axes, from one that may be ahead and to the left of each object."""
    if axes == "the level's":
        return dx, dy
    facing = world.angles(who)
    cos, sin = cosd(facing), sind(facing)
    return dx * cos - dy * sin, dx * sin + dy * cos


@action(
    "move {who} by {dx}, {dy} along {axes} axes",
    "Moves at once by an offset: x to the right and y up, or ahead and to the left of its facing.",
    who=role(),
    dx=number("0", "units along the first axis", adds=True),
    dy=number("0", "units along the second axis", adds=True),
    axes=choice("the level's", "its own"),
    alone=True,
    says=[
        worded("move/slide/walk {who} [to] [the] right/rightwards", dx="100 * dt", dy="0"),
        worded("move/slide/walk {who} [to] [the] left/leftwards", dx="-100 * dt", dy="0"),
        worded("move/slide {who} up/upward/upwards", dx="0", dy="100 * dt"),
        worded("move/slide {who} down/downward/downwards", dx="0", dy="-100 * dt"),
        worded("{who} slides/walks/moves/goes [to] [the] right", dx="100 * dt", dy="0"),
        worded("{who} slides/walks/moves/goes [to] [the] left", dx="-100 * dt", dy="0"),
        worded("{who} slides/walks/moves/goes up/upward/upwards", dx="0", dy="100 * dt"),
        worded("{who} slides/walks/moves/goes down/downward/downwards", dx="0", dy="-100 * dt"),
        "shift/slide/nudge/displace/translate/move {who} [by] {dx} {dy} [along] [the] {axes} [axes]",
        worded(
            "move/shift/slide/nudge {who} in/at [the/an] direction/angle [of] {angle} [degrees] by {n}",
            dx="{n} * cos({angle})",
            dy="{n} * sin({angle})",
            numbers=("angle", "n"),
        ),
        worded(
            "move/shift/slide/nudge {who} [by] {n} [units] in/at [the/an] direction/angle [of] {angle}",
            dx="{n} * cos({angle})",
            dy="{n} * sin({angle})",
            numbers=("angle", "n"),
        ),
        "move/shift/slide/nudge {who} by {dx} and {dy}",
        worded(
            "move/shift/nudge/pull/drag/bring {who} [by] {n} [units] toward/towards/closer-to/nearer-to {other}",
            places=("other",),
            numbers=("n",),
            dx="{n} * cos(direction({who}, {other}))",
            dy="{n} * sin(direction({who}, {other}))",
        ),
        worded(
            "move/shift/nudge/pull/drag {who} toward/towards {other} by {n} [units]",
            places=("other",),
            numbers=("n",),
            dx="{n} * cos(direction({who}, {other}))",
            dy="{n} * sin(direction({who}, {other}))",
        ),
        worded(
            "move/shift/nudge/push {who} [by] {n} [units] away from {other}",
            places=("other",),
            numbers=("n",),
            dx="{n} * cos(direction({other}, {who}))",
            dy="{n} * sin(direction({other}, {who}))",
        ),
        worded(
            "move/shift/nudge {who} away from {other} by {n} [units]",
            places=("other",),
            numbers=("n",),
            dx="{n} * cos(direction({other}, {who}))",
            dy="{n} * sin(direction({other}, {who}))",
        ),
        worded("move/shift/slide/nudge {who} [by] {dx} [to] [the] right/rightwards", dy="0"),
        worded("move/shift/slide/nudge {who} right/rightwards [by] {dx}", dy="0"),
        worded("move/shift/slide/nudge {who} [by] {dx} [to] [the] left/leftwards", dx="-{dx}", dy="0"),
        worded("move/shift/slide/nudge {who} left/leftwards [by] {dx}", dx="-{dx}", dy="0"),
        worded("move/shift/slide/nudge {who} [by] {dy} up/upward/upwards", dx="0"),
        worded("move/shift/slide/nudge {who} up/upward/upwards [by] {dy}", dx="0"),
        worded("move/shift/slide/nudge/raise/lift {who} up {dy}", dx="0"),
        worded("move/shift/slide/nudge {who} [by] {dy} down/downward/downwards", dx="0", dy="-{dy}"),
        worded("move/shift/slide/nudge {who} down/downward/downwards [by] {dy}", dx="0", dy="-{dy}"),
        worded("raise/lift {who} [by] {dy}", dx="0"),
        worded("raise/lift {who}", dx="0", dy="20"),
        worded("lower {who} [by] {dy}", dx="0", dy="-{dy}"),
        worded("lower {who}", dx="0", dy="-20"),
        worded(
            "move/shift/slide/nudge {who} [by] {dx} {dy} in/along/on its own direction/axes", axes="its own"
        ),
        worded("move/shift/slide/nudge {who} [by] {dx} forward/forwards/ahead", dy="0", axes="its own"),
        worded("move/shift/slide/nudge {who} forward/forwards/ahead [by] {dx}", dy="0", axes="its own"),
        worded(
            "move/shift/slide/nudge {who} [by] {dx} back/backward/backwards",
            dx="-{dx}",
            dy="0",
            axes="its own",
        ),
        worded(
            "move/shift/slide/nudge {who} back/backward/backwards [by] {dx}",
            dx="-{dx}",
            dy="0",
            axes="its own",
        ),
        worded(
            "move/run {who} away from {other} at/with [speed] {speed}",
            objects=("other",),
            numbers=("speed",),
            dx="{speed} * dt * cos(direction({other}, {who}))",
            dy="{speed} * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "move/run/walk {who} away from {other}",
            objects=("other",),
            dx="100 * dt * cos(direction({other}, {who}))",
            dy="100 * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "{who} moves/runs/walks/goes/flees away from {other} at/with [speed] {speed}",
            objects=("other",),
            numbers=("speed",),
            dx="{speed} * dt * cos(direction({other}, {who}))",
            dy="{speed} * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "let/make {who} move/run/walk/go/flee away from {other} at/with [speed] {speed}",
            objects=("other",),
            numbers=("speed",),
            dx="{speed} * dt * cos(direction({other}, {who}))",
            dy="{speed} * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "let/make {who} run/move/go/flee/get away [from] {other}",
            objects=("other",),
            dx="100 * dt * cos(direction({other}, {who}))",
            dy="100 * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "let/make {who} flee {other}",
            objects=("other",),
            dx="100 * dt * cos(direction({other}, {who}))",
            dy="100 * dt * sin(direction({other}, {who}))",
        ),
        worded(
            "{who} moves/walks/goes/flies [to] [the] right/rightwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="{speed} * dt",
            dy="0",
        ),
        worded(
            "{who} moves/walks/goes/flies [to] [the] left/leftwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="-{speed} * dt",
            dy="0",
        ),
        worded(
            "{who} moves/walks/goes/flies up/upward/upwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="0",
            dy="{speed} * dt",
        ),
        worded(
            "{who} moves/walks/goes/falls down/downward/downwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="0",
            dy="-{speed} * dt",
        ),
        worded(
            "move/walk/slide {who} [to] [the] right/rightwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="{speed} * dt",
            dy="0",
        ),
        worded(
            "move/walk/slide {who} [to] [the] left/leftwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="-{speed} * dt",
            dy="0",
        ),
        worded(
            "move/walk/slide {who} up/upward/upwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="0",
            dy="{speed} * dt",
        ),
        worded(
            "move/walk/slide {who} down/downward/downwards at/with [speed] {speed}",
            numbers=("speed",),
            dx="0",
            dy="-{speed} * dt",
        ),
        worded(
            "{who} moves/walks/goes/flies forward/forwards/ahead at/with [speed] {speed}",
            numbers=("speed",),
            dx="{speed} * dt",
            dy="0",
            axes="its own",
        ),
        worded(
            "move/walk/slide {who} forward/forwards/ahead at/with [speed] {speed}",
            numbers=("speed",),
            dx="{speed} * dt",
            dy="0",
            axes="its own",
        ),
        worded("{who} moves/goes/slides/shifts [by] {dx} [to] [the] right/rightwards", dy="0"),
        worded("{who} moves/goes/slides/shifts [by] {dx} [to] [the] left/leftwards", dx="-{dx}", dy="0"),
        worded("{who} moves/goes/slides/shifts [by] {dy} up/upward/upwards", dx="0"),
        worded("{who} moves/goes/slides/shifts [by] {dy} down/downward/downwards", dx="0", dy="-{dy}"),
        worded("step/move/walk/go {who} forward/ahead by {dx}", dy="0", axes="its own"),
        worded("step/move/walk/go {who} back/backward/backwards by {dx}", dx="-{dx}", dy="0", axes="its own"),
        worded("pull/drag/draw {who} down by {dy}", dx="0", dy="-{dy}"),
        worded("pull/drag/draw {who} up by {dy}", dx="0"),
        worded("pull/drag/draw {who} left by {dx}", dx="-{dx}", dy="0"),
        worded("pull/drag/draw {who} right by {dx}", dy="0"),
        worded("{who} right/rightwards [by] {dx}", dy="0"),
        worded("{who} left/leftwards [by] {dx}", dx="-{dx}", dy="0"),
        worded("{who} up/upwards [by] {dy}", dx="0"),
        worded("{who} down/downwards [by] {dy}", dx="0", dy="-{dy}"),
    ],
)
def move_by(world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    world.shift(who, *along_axes(world, who, dx, dy, axes))


@action(
    "turn {who} by {angle}°",
    "Turns at once; positive is counter-clockwise.",
    who=role(),
    angle=number("90", "degrees, counter-clockwise", adds=True),
    alone=True,
    says=[
        worded("turn/rotate {who} in a random direction", angle="random(0, 360)"),
        worded("turn/rotate {who} back", angle="180"),
        worded("turn/rotate {who} back/around [to] where [it] came from", angle="180"),
        "let/make {who} turn/rotate [by] {angle} [degrees] left/counterclockwise",
        worded("let/make {who} turn/rotate [by] {angle} [degrees] right/clockwise", angle="-{angle}"),
        "rotate/spin/swivel/twist/pivot {who} [by] {angle}",
        "turn {who} {angle}",
        "turn/rotate/spin {who} [by] {angle} counterclockwise/counter-clockwise/anticlockwise",
        worded("turn/rotate/spin {who} [by] {angle} clockwise", angle="-{angle}"),
        worded("turn/rotate/spin {who} clockwise [by] {angle}", angle="-{angle}"),
        "turn/rotate/spin {who} [by] {angle} [to] [the] left",
        "turn/rotate/spin {who} left [by] {angle}",
        worded("turn/rotate/spin {who} [by] {angle} [to] [the] right", angle="-{angle}"),
        worded("turn/rotate/spin {who} right [by] {angle}", angle="-{angle}"),
        worded("turn/rotate/spin {who} back [by] {angle}", angle="-{angle}"),
        worded("let/make {who} turn around/round", angle="180"),
        worded("turn {who} around/round", angle="180"),
        "tilt/lean/tip/rotate {who} [by] {angle}",
        worded("{who} turns/rotates/spins at! [speed] {speed}", angle="{speed} * dt", numbers=("speed",)),
        worded("turn/rotate/spin {who} at! [speed] {speed}", angle="{speed} * dt", numbers=("speed",)),
        "{who} turns/rotates/spins [to] [the] left [by] {angle}",
        "{who} turns/rotates/spins counterclockwise/counter-clockwise/anticlockwise [by] {angle}",
        worded("{who} turns/rotates/spins [to] [the] right [by] {angle}", angle="-{angle}"),
        worded("{who} turns/rotates/spins clockwise [by] {angle}", angle="-{angle}"),
        worded("{who} turns/looks/faces the other way", angle="180"),
        worded("turn {who} the other way", angle="180"),
        "{who} turns/rotates/spins [by] {angle}",
        worded("flip/spin/turn {who} around/round", angle="180"),
        "turn/rotate {who} counterclockwise/counter-clockwise/anticlockwise [by] {angle}",
        worded("turn/rotate {who} [by] a quarter/quarter-turn turn", angle="90"),
        worded("turn/rotate {who} [by] a half turn", angle="180"),
        "make/let {who} spin/turn/rotate [round/around] [at/by] {angle}",
    ],
)
def turn_by(world: ActionApi, who: Rows, angle: Numbers) -> None:
    world.rotate(who, angle)


@action(
    "put {who} at {where}",
    "Moves at once to a spot, into an area, to an object or the pointer.",
    who=role(),
    where=slot("where"),
    alone=True,
    says=[
        "set [the] position/place/location of {who} to {where}",
        "set {who} position/place/location to {where}",
        "set {who} 's position/place/location to {where}",
        "teleport/place/warp/jump/position/drop/bring/transport/respawn/return {who} to/at/on/in/into/onto/back {where}",
        worded("{who} to! {where}", known=True),
        "put/set {who} at/on/in/into/onto/to {where}",
        "move {who} to/into {where} instantly/immediately/directly",
        "move/send {who} to/back {where}",
        "snap/reset/return {who} to/at {where}",
        "put/move/place/teleport/drop {who} at/to [a] random place/position/point/spot in/of/inside {where}",
        "put/move/place/teleport {who} somewhere/anywhere in/inside {where}",
        "put/bring/move/send {who} back at/to/in {where}",
        "put/place/move/teleport {who} next to! {where}",
        "set/put {who} down at/on/in {where}",
        "send/move/bring/take {who} to {where} at once/instantly/immediately",
        "put {who} instantly/immediately at/to {where}",
        "center/centre {who} in/on/at {where}",
        "put/place/set {who} on/atop top of {where}",
        "{who} snaps/teleports/warps/respawns to/at/onto {where}",
    ],
)
def put_at(world: ActionApi, who: Rows, where: Where) -> None:
    world.put(who, *world.points(where))


@action(
    "put {who} at x {x}, y {y}",
    "Moves at once to a point of the level.",
    who=role(),
    x=number("0", "units to the right"),
    y=number("0", "units up"),
    alone=True,
    says=[
        "teleport/place/jump/position {who} to/at [position/coordinates/point] {x} {y}",
        "teleport/place/set/move/jump/position/put {who} to/at x {x} y {y}",
        "put {who} at position/coordinates/point {x} {y}",
        "set/change [the] position/location of {who} to {x} {y}",
        "set/change {who} position/location to {x} {y}",
        "set {who} 's position/location to {x} {y}",
        "put/teleport/place {who} at/to {x} and {y}",
        worded(
            "put/place/teleport/move {who} {gap} [units] above/over {other}",
            objects=("other",),
            numbers=("gap",),
            x="{other}.x",
            y="{other}.y + {gap}",
        ),
        worded(
            "put/place/teleport/move {who} {gap} [units] below/under {other}",
            objects=("other",),
            numbers=("gap",),
            x="{other}.x",
            y="{other}.y - {gap}",
        ),
        worded(
            "put/place/teleport/move {who} {gap} [units] [to] [the] left [of] {other}",
            objects=("other",),
            numbers=("gap",),
            x="{other}.x - {gap}",
            y="{other}.y",
        ),
        worded(
            "put/place/teleport/move {who} {gap} [units] [to] [the] right [of] {other}",
            objects=("other",),
            numbers=("gap",),
            x="{other}.x + {gap}",
            y="{other}.y",
        ),
        "move/send/bring {who} to! {x} {y}",
    ],
)
def put_at_point(world: ActionApi, who: Rows, x: Numbers, y: Numbers) -> None:
    world.put(who, x, y)


def step_toward(world: ActionApi, who: Any, where: Any, speed: float) -> None:
    """Do for one match what `move_toward` does."""
    x, y = world.place(who)
    goal_x, goal_y = world.points(where)
    away = length(goal_x - x, goal_y - y)
    step = min(max(speed, 0.0) * world.dt, away)
    part = step / away if away > 0 else 0.0
    world.shift(who, (goal_x - x) * part, (goal_y - y) * part)


@action(
    "move {who} toward {where} at {speed}",
    "Moves toward a place by speed × dt, never past it, so it does not jitter there.",
    who=role(),
    where=slot("where"),
    speed=number("100", "units a second"),
    alone=step_toward,
    says=[
        "walk/step/bring/steer/pull/drive/head/fly {who} to/toward/towards {where} at/with [speed] {speed}",
        "move {who} to/towards {where} at/with [speed] {speed}",
        "{who} goes/moves/walks/heads/flies/runs to/toward/towards {where} at/with [speed] {speed}",
        "{who} chases/follows/approaches/pursues {where} at/with [speed] {speed}",
        "let/make {who} chase/approach/follow/pursue {where} at/with [speed] {speed}",
        "let/make {who} go/move/walk to/toward/towards {where} at/with [speed] {speed}",
        "chase {where} with {who} at/with [speed] {speed}",
        "move/go/walk/head/fly to/toward/towards {where}",
        "{who} heads/makes for {where} at/with [speed] {speed}",
        "{who} heads/makes for {where}",
        "go/run after {where} at/with [speed] {speed}",
        "{who} goes/runs after {where} at/with [speed] {speed}",
        "creep/crawl/sneak/inch toward/towards/to {where} at/with [speed] {speed}",
        "creep/crawl/sneak/inch {who} toward/towards/to {where} at/with [speed] {speed}",
        "move {who} step by step toward/towards {where} at/with [speed] {speed}",
        "send {who} toward/towards {where} [at/with] [speed] {speed}",
        "send {who} toward/towards {where}",
        "move {who} step by step toward/towards {where}",
        "let/make {who} roll/drive/swim/crawl/sail to/toward/towards {where} [at/with] [speed] {speed}",
        "drive/roll/sail {who} to/toward/towards {where} at/with [speed] {speed}",
    ],
)
def move_toward(world: ActionApi, who: Rows, where: Where, speed: Numbers) -> None:
    x, y = world.place(who)
    goal_x, goal_y = world.points(where)
    away = length(goal_x - x, goal_y - y)
    step = np.minimum(np.maximum(speed, 0.0) * world.dt, away)
    part = np.divide(step, away, out=np.zeros(len(who)), where=away > 0)
    world.shift(who, (goal_x - x) * part, (goal_y - y) * part)


@action(
    "move {who} apart, {gap} between edges",
    "Moves objects away from one another until none overlaps or comes nearer than the gap.",
    who=role(),
    gap=number("0", "units between their edges"),
    says=[
        "separate/spread/space/push {who} [apart] with [a] gap/space/distance of {gap} [between]",
        "keep {who} {gap} [units] apart",
        "keep {who} [at] least {gap} [units] apart",
        "push/keep/force/separate/spread/space {who} apart [with/by] {gap} [between]",
        "keep {who} from overlapping",
        "separate/spread [overlapping] {who} [by/with] {gap}",
        "push/move/keep {who} away from each other",
        "push/move {who} off each other",
        "push overlapping {who} apart",
        "stop {who} [from] overlapping",
        "spread {who} out [by] {gap} [apart]",
        "spread out {who} [by] {gap} [apart]",
    ],
)
def move_apart(world: ActionApi, who: Rows, gap: Numbers) -> None:
    world.push_apart(who, gap)


@action(
    "let {who} face {where}",
    "Turns at once to face a place, an object or the pointer, whichever way its picture is drawn.",
    who=role(),
    where=slot("where"),
    alone=True,
    says=[
        "turn/rotate {who} to face {where}",
        "face {where}",
        "turn/point/aim/rotate/orient/direct {who} to/toward/towards/at {where}",
        "{who} looks/points/aims/turns at/to/toward/towards {where}",
        "{who} faces {where}",
        "let/make {who} look/point/aim/face at/to/toward/towards {where}",
        "make {who} face {where}",
        "face {who} to/toward/towards {where}",
        "look at {where} with {who}",
        "face/look in/into [the] direction of {where}",
    ],
)
def face(world: ActionApi, who: Rows, where: Where) -> None:
    x, y = world.place(who)
    goal_x, goal_y = world.points(where)
    there = (goal_x != x) | (goal_y != y)
    toward = atan2d(goal_y - y, goal_x - x)
    # standing on it there is no direction: it keeps its own
    world.face(who, np.where(there, toward, world.angles(who)))


@action(
    "let {who} face {angle}°",
    "Turns at once to a direction, counter-clockwise from the right.",
    who=role(),
    angle=number("0"),
    alone=True,
    says=[
        worded(
            "turn/rotate/point/let/make {who} [to] [face/look] away from {other}",
            places=("other",),
            angle="direction({other}, {who})",
        ),
        worded(
            "{who} faces/looks/turns away from {other}", places=("other",), angle="direction({other}, {who})"
        ),
        "turn/rotate/point {who} to [an] [angle] {angle}",
        "set/change [the] facing/direction/heading/orientation of {who} to {angle}",
        "set/change {who} facing/direction/heading/orientation to {angle}",
        "set [the] angle/rotation of {who} to {angle}",
        "set {who} 's facing/direction/heading/angle/rotation to {angle}",
        "{who} faces/looks {angle}",
        "point {who} at [angle] {angle}",
        "face {who} {angle}",
        worded(
            "{who} points/faces/looks [in] [the] same way/direction as {other}",
            objects=("other",),
            angle="{other}.angle",
        ),
        worded(
            "turn/point/rotate {who} [in] [the] same way/direction as {other}",
            objects=("other",),
            angle="{other}.angle",
        ),
        "turn/rotate {who} back to {angle}",
        worded("let/make {who} face/point/look [to] [the] right/rightwards", angle="0"),
        worded("let/make {who} face/point/look [to] [the] left/leftwards", angle="180"),
        worded("let/make {who} face/point/look up/upward/upwards", angle="90"),
        worded("let/make {who} face/point/look down/downward/downwards", angle="-90"),
        worded("face/point/aim {who} [to] [the] right/rightwards", angle="0"),
        worded("face/point/aim {who} [to] [the] left/leftwards", angle="180"),
        worded("face/point/aim {who} up/upward/upwards", angle="90"),
        worded("face/point/aim {who} down/downward/downwards", angle="-90"),
    ],
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
    alone=True,
    says=[
        "set/change/make {who} velocity to {dx} {dy} [along] [{axes}] [axes]",
        "set {who} 's velocity to {dx} {dy} [along] [{axes}] [axes]",
        "velocity of {who} = {dx} {dy}",
        "{who} velocity [is/to] {dx} {dy}",
        "move/fly {who} with/at velocity {dx} {dy}",
        "give {who} [the/a] speed [of] {dx} {dy}",
        "give {who} [the/a] velocity [of] {dx} {dy}",
        "change/make [the] velocity of {who} [to] {dx} {dy}",
        worded("give {who} [a/the] speed/velocity of {dx} [units] [to] [the] right/rightwards", dy="0"),
        worded(
            "give {who} [a/the] speed/velocity of {dx} [units] [to] [the] left/leftwards", dx="-{dx}", dy="0"
        ),
        worded("give {who} [a/the] speed/velocity of {dy} [units] up/upward/upwards", dx="0"),
        worded(
            "give {who} [a/the] speed/velocity of {dy} [units] down/downward/downwards", dx="0", dy="-{dy}"
        ),
    ],
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
    alone=True,
    says=[
        worded("accelerate {who} [to] [the] right [by/with] {dx}", dy="0"),
        worded("accelerate {who} [to] [the] left [by/with] {dx}", dx="-{dx}", dy="0"),
        worded("accelerate {who} up [by/with] {dy}", dx="0"),
        worded("accelerate {who} down [by/with] {dy}", dx="0", dy="-{dy}"),
        worded("accelerate {who} forward/ahead [by/with] {dx}", dy="0", axes="its own"),
        worded(
            "push/shove/kick/knock {who} with/by {force} toward/towards {other}",
            places=("other",),
            numbers=("force",),
            dx="{force} * cos(direction({who}, {other}))",
            dy="{force} * sin(direction({who}, {other}))",
        ),
        "shove/kick/knock/impulse/bump/hit {who} [by/with] {dx} {dy} [along] [{axes}] [axes]",
        "push {who} {dx} {dy}",
        "apply [an/a] impulse/force [of] {dx} {dy} to {who}",
        "give {who} [a/an] push/kick/shove/impulse [of/by] {dx} {dy}",
        "add [a] velocity [of] {dx} {dy} to {who}",
        worded("push/shove/kick {who} up [by/with] {dy}", dx="0"),
        worded("push/shove/kick {who} up/upward/upwards", dx="0", dy="100"),
        worded("push/shove/kick {who} down/downward/downwards", dx="0", dy="-100"),
        worded("push/shove/kick {who} left", dx="-100", dy="0"),
        worded("push/shove/kick {who} right", dx="100", dy="0"),
        worded("push/shove/kick {who} right [by/with] {dx}", dy="0"),
        worded("push/shove/kick {who} left [by/with] {dx}", dx="-{dx}", dy="0"),
        worded("push/shove/kick {who} forward/ahead [by/with] {dx}", dy="0", axes="its own"),
        worded(
            "push/shove/kick/knock {who} away from {other}",
            places=("other",),
            dx="100 * cos(direction({other}, {who}))",
            dy="100 * sin(direction({other}, {who}))",
        ),
        worded(
            "push/shove/kick/knock {who} away from {other} by/with/at [speed/force] {force}",
            places=("other",),
            numbers=("force",),
            dx="{force} * cos(direction({other}, {who}))",
            dy="{force} * sin(direction({other}, {who}))",
        ),
        worded(
            "push/shove/kick/pull/knock {who} to/toward/towards {other} by/with/at [speed/force] {force}",
            places=("other",),
            numbers=("force",),
            dx="{force} * cos(direction({who}, {other}))",
            dy="{force} * sin(direction({who}, {other}))",
        ),
        worded("push/shove/kick {who} down [by/with] {dy}", dx="0", dy="-{dy}"),
        worded("jump/hop/launch/throw/toss {who} [up/upward/upwards] by/with/at {dy}", dx="0"),
        worded("let/make {who} jump/hop/leap [up/upward/upwards] by/with/at {dy}", dx="0"),
        worded("{who} jumps/hops/leaps [up/upward/upwards] by/with/at {dy}", dx="0"),
        worded("let/make {who} jump/hop/leap [up/upward/upwards]", dx="0", dy="260"),
        worded("{who} jumps/hops/leaps [up/upward/upwards]", dx="0", dy="260"),
        worded("give {who} a push/kick/shove [to] [the] left [of/by/with] {dx}", dx="-{dx}", dy="0"),
        worded("give {who} a push/kick/shove [to] [the] right [of/by/with] {dx}", dy="0"),
        worded(
            "knock/push/kick {who} back/backward/backwards by/with {dx}", dx="-{dx}", dy="0", axes="its own"
        ),
        worded("push/kick/shove/knock {who} {dx} [units] [to] [the] right/rightwards", dy="0"),
        worded("push/kick/shove/knock {who} {dx} [units] [to] [the] left/leftwards", dx="-{dx}", dy="0"),
        worded("push/kick/shove/knock {who} {dy} [units] up/upward/upwards", dx="0"),
        worded("push/kick/shove/knock {who} {dy} [units] down/downward/downwards", dx="0", dy="-{dy}"),
        worded("make/let {who} jump/hop/leap [up] [by/with/at] {dy}", dx="0"),
        worded("give {who} a push/kick/shove [of/by/with] {dy} up/upward/upwards", dx="0"),
        worded("give {who} a push/kick/shove [of/by/with] {dy} down/downward/downwards", dx="0", dy="-{dy}"),
        worded("give {who} a push/kick/shove of/by/with {dx} [to] [the] right", dy="0"),
        worded("give {who} a push/kick/shove of/by/with {dx} [to] [the] left", dx="-{dx}", dy="0"),
        worded("accelerate {who} [by] {dx}", dy="0", axes="its own"),
        worded("{who} jumps/hops/leaps [up]", dx="0", dy="260"),
        worded("jump/hop [with] {who} [up]", dx="0", dy="260"),
    ],
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
    alone=True,
    says=[
        "throw/shoot/fire/launch {who} in [the/a] {angle}",
        "throw/shoot/fire/launch {who} in [the/a] {angle} at/with [speed] {speed}",
        "throw/shoot/fire/fling/hurl/toss/catapult/launch {who} at [angle] {angle} with/at [a] [speed] [of] {speed}",
        "throw/shoot/fire/fling/hurl/toss/launch {who} with [a] [speed] [of] {speed} at [an] [angle] [of] {angle}",
        "throw/shoot/fire/launch {who} with! {speed} as [its] speed at [angle] {angle}",
        "throw/shoot/fire/launch {who} at {angle} degrees/° with! {speed} as [its] speed",
        "let {who} fly at {angle} with [speed] {speed}",
        "throw/shoot/fire/fling/hurl/toss {who}",
        "{who} shoots off at {angle} with [speed] {speed}",
        worded("throw/shoot/fire/fling/hurl/toss/launch {who} [to] [the] right/rightwards", angle="0"),
        worded("throw/shoot/fire/fling/hurl/toss/launch {who} [to] [the] left/leftwards", angle="180"),
        worded("throw/shoot/fire/fling/hurl/toss/launch {who} up/upward/upwards", angle="90"),
        worded("throw/shoot/fire/fling/hurl/toss/launch {who} down/downward/downwards", angle="-90"),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} at/toward/towards {other}",
            places=("other",),
            angle="direction({who}, {other})",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} away from {other}",
            places=("other",),
            angle="direction({other}, {who})",
        ),
        worded("throw/shoot/fire/fling/hurl/toss/launch {who} forward/forwards/ahead", angle="facing({who})"),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} [to] [the] right/rightwards with/at [a] [speed] [of] {speed}",
            angle="0",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} [to] [the] left/leftwards with/at [a] [speed] [of] {speed}",
            angle="180",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} up/upward/upwards with/at [a] [speed] [of] {speed}",
            angle="90",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} at/toward/towards {other} with/at [a] [speed] [of] {speed}",
            places=("other",),
            angle="direction({who}, {other})",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} away from {other} with/at [a] [speed] [of] {speed}",
            places=("other",),
            angle="direction({other}, {who})",
        ),
        worded(
            "throw/shoot/fire/fling/hurl/toss/launch {who} forward/forwards/ahead with/at [a] [speed] [of] {speed}",
            angle="facing({who})",
        ),
        worded(
            "launch/shoot/throw/fling {who} straight up/upward/upwards [at/with] [speed] {speed}", angle="90"
        ),
        worded("launch/shoot/throw/fling {who} straight up/upward/upwards", angle="90"),
        worded(
            "launch/shoot/throw/fling {who} straight down/downward/downwards [at/with] [speed] {speed}",
            angle="-90",
        ),
    ],
)
def launch(world: ActionApi, who: Rows, angle: Numbers, speed: Numbers) -> None:
    world.set_velocity(who, speed * cosd(angle), speed * sind(angle))


@action(
    "stop {who}",
    "Removes its velocity and any movement over a time.",
    who=role(),
    alone=True,
    says=[
        "halt/freeze/brake {who}",
        "{who} stops/halts",
        "bring {who} to a stop/halt/standstill",
        "let/make {who} stop/halt",
        "let/make {who} stand still",
        "hold/keep {who} still",
        "stop {who} moving",
        "set [the] velocity of {who} to zero",
        "stop moving {who}",
        "stop [the] movement/motion of {who}",
        "stop all [movement/motion] of {who}",
        "halt all movement/motion of {who}",
    ],
)
def stop(world: ActionApi, who: Rows) -> None:
    world.set_velocity(who, 0.0, 0.0)
    world.halt(who)
