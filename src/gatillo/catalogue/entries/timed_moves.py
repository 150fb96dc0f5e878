"""Actions that move and turn objects over a time, and wait for them."""

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.declare.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.catalogue.entries.moving import along_axes

SUBJECT = Subject("moving over a time", place=85)

EASINGS = ("at constant speed", "easing in", "easing out", "easing in and out")
_EASING = choice(*EASINGS)


@action(
    "move {who} to {where} over {time} s, {easing}",
    "Moves over a time, and ends exactly there.",
    who=role(),
    where=slot("where"),
    time=seconds("1"),
    easing=_EASING,
    says=[
        "glide/slide/bring/ease/travel/tween/float/drift/move/send {who} [back] to/into {where} in/over/within/during/for {time} {easing}",
        "{who} goes/moves/glides/slides/travels/flies to {where} in/over/within {time} {easing}",
        "let {who} go/glide/move/slide/fly to {where} in/over/within {time} {easing}",
        "take {time} to move {who} to {where} {easing}",
        "fly/drift/float/walk/drive/run {who} to {where} in/over/within {time}",
        "let {who} fly/glide/slide/drift/float/walk/drive/run to {where} in/over/within {time}",
        worded("ease {who} to {where} in/over {time} slow at both ends", easing="easing in and out"),
        "slide/glide/bring/carry/take/move/drift {who} over/across/along/right to! {where} in/over/within/during {time}",
        "let/make {who} glide/slide/drift/travel to {where} in/over/within {time}",
        "take/bring/walk/carry/lead/lift {who} to! {where} over/in/within/during {time}",
    ],
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
    says=[
        "glide/slide/bring/ease/travel/tween/move/send {who} to/into {where} in/over/within {time} {easing} and/then send {message}",
        "move/glide/slide {who} to {where} in/over {time} then broadcast/emit {message}",
        "{who} goes/moves/glides to {where} in/over {time} then sends {message}",
        "let {who} go/glide/move to {where} in/over {time} then send {message}",
        "take/bring/walk/carry/lead/lift/slide/glide/drift/ease {who} [over/across] to! {where} over/in/within/during {time} [and/,] [then] [and] send/sends {message}",
        "take/bring/walk/carry/lead/lift/slide/glide/drift/ease/move {who} [over/across] to! {where} over/in/within/during {time} [and/,] when/once there send {message}",
    ],
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
    says=[
        worded("{who} goes/moves/slides/glides up [by] {dy} in/over/within {time}", dx="0"),
        worded("{who} goes/moves/slides/glides down [by] {dy} in/over/within {time}", dx="0", dy="-{dy}"),
        worded("{who} goes/moves/slides/glides [to] [the] right [by] {dx} in/over/within {time}", dy="0"),
        worded(
            "{who} goes/moves/slides/glides [to] [the] left [by] {dx} in/over/within {time}",
            dx="-{dx}",
            dy="0",
        ),
        "move/slide/shift/glide/tween {who} [by] {dx} {dy} in/over/within/during {time} {easing}",
        "move/slide/shift/glide/tween {who} [by] {dx} and {dy} in/over/within/during {time} {easing}",
        "move/slide/shift/glide {who} [by] {dx} {dy} along {axes} axes in/over/within/during {time} {easing}",
        worded(
            "move/slide/shift/glide {who} [by] {dx} [to] [the] right in/over/within/during {time} {easing}",
            dy="0",
        ),
        worded("move/slide/shift/glide {who} right [by] {dx} in/over/within/during {time} {easing}", dy="0"),
        worded(
            "move/slide/shift/glide {who} [by] {dx} [to] [the] left in/over/within/during {time} {easing}",
            dx="-{dx}",
            dy="0",
        ),
        worded(
            "move/slide/shift/glide {who} left [by] {dx} in/over/within/during {time} {easing}",
            dx="-{dx}",
            dy="0",
        ),
        worded(
            "move/slide/shift/glide/raise/lift {who} [by] {dy} up in/over/within/during {time} {easing}",
            dx="0",
        ),
        worded(
            "move/slide/shift/glide/raise/lift {who} up [by] {dy} in/over/within/during {time} {easing}",
            dx="0",
        ),
        worded("raise/lift {who} [by] {dy} in/over/within/during {time} {easing}", dx="0"),
        worded(
            "move/slide/shift/glide/lower {who} [by] {dy} down in/over/within/during {time} {easing}",
            dx="0",
            dy="-{dy}",
        ),
        worded(
            "move/slide/shift/glide/lower {who} down [by] {dy} in/over/within/during {time} {easing}",
            dx="0",
            dy="-{dy}",
        ),
        worded("lower {who} [by] {dy} in/over/within/during {time} {easing}", dx="0", dy="-{dy}"),
        worded("let {who} slide/glide/move/drift up by {dy} in/over/within {time}", dx="0"),
        worded("let {who} slide/glide/move/drift down by {dy} in/over/within {time}", dx="0", dy="-{dy}"),
        worded("let {who} slide/glide/move/drift right by {dx} in/over/within {time}", dy="0"),
        worded("let {who} slide/glide/move/drift left by {dx} in/over/within {time}", dx="-{dx}", dy="0"),
    ],
)
def move_by_over(
    world: ActionApi, who: Rows, dx: Numbers, dy: Numbers, axes: str, time: Numbers, easing: str
) -> None:
    x, y = world.place(who)
    dx, dy = along_axes(world, who, dx, dy, axes)
    world.glide(who, x + dx, y + dy, time, easing, "")


@action(
    "turn {who} by {angle}° over {time} s, {easing}",
    "Turns by an angle over a time; above 0 counter-clockwise, also several times round. It ends exactly there.",
    who=role(),
    angle=number("90", "degrees, counter-clockwise"),
    time=seconds("1"),
    easing=_EASING,
    says=[
        "swing/turn/rotate {who} open/closed/shut [by] {angle} [degrees] in/over/within/during {time} {easing}",
        "rotate/turn/swing/swivel/pivot/tilt {who} [by] {angle} [degrees] in/over/within/during {time} {easing}",
        "turn/rotate/swing {who} [to] [the] left [by] {angle} in/over/within/during {time} {easing}",
        worded(
            "turn/rotate/swing {who} [to] [the] right [by] {angle} in/over/within/during {time} {easing}",
            angle="-{angle}",
        ),
        worded(
            "turn/rotate/swing {who} [by] {angle} clockwise in/over/within/during {time} {easing}",
            angle="-{angle}",
        ),
        worded(
            "turn/rotate/spin {who} clockwise [by] {angle} in/over/within/during {time} {easing}",
            angle="-{angle}",
        ),
        "let/make {who} turn/rotate/swing [by] {angle} in/over/within/during {time} {easing}",
        "{who} turns/rotates/swings [by] {angle} in/over/within/during {time} {easing}",
        worded("turn/spin {who} around/round [once] in/over/within/during {time} {easing}", angle="360"),
    ],
)
def turn_by_over(world: ActionApi, who: Rows, angle: Numbers, time: Numbers, easing: str) -> None:
    world.swing(who, angle, time, easing)


@action(
    "wait until {who} is there",
    "The actions below go on in the tick in which the object has come to the end of what moves or turns it over a "
    "time: a move, a turn, a clip, a route on which it was sent. Each match waits for its own object; where the rule "
    "has matched none, for all that the name can mean.",
    who=role(),
    says=[
        "wait/pause/hold for/till/until {who} has arrived/stopped/finished/come",
        "wait/pause/hold for/till/until {who} arrives/stops/comes",
        "wait/pause/hold for/till/until {who} is done [moving/turning]",
        "wait/pause/hold for/till/until {who} has got/gotten there",
        "wait/pause/hold for/till/until {who} gets/comes there",
        "go on when {who} is there",
        "go on when/once {who} has arrived/come/finished/stopped",
        "when/once {who} is there go on",
        "wait for {who} [to] arrive/finish/stop/come",
        "wait for {who} [to] get/be there",
        "let {who} finish/arrive first",
    ],
)
def wait_until_there(world: ActionApi, who: Rows) -> None:
    world.pause_until_there(who)


UNTIL_THERE = wait_until_there.__name__
"""The entry that lets the lines below it wait until an object is where it goes."""
