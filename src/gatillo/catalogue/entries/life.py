"""Entries that bring objects into the level and take them out."""

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.declare.entry import action, behaviour, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

SUBJECT = Subject("coming, going, looks", place=90)


@behaviour(
    "live {time} s",
    "Removes the object when its time is over; the time counts while this is on.",
    remembers={"lived": 0.0},
    time=seconds("3", "from when it is created, or from the start"),
    says=[
        "die/vanish/disappear/expire after {time}",
        "be removed after {time}",
        "last [for] {time}",
        "lifetime/timeout {time}",
    ],
)
def life_span(world: BehaviourApi, rows: Rows, time: np.ndarray) -> None:
    lived = world.recall("lived") + world.dt
    world.remember("lived", lived)
    over = lived >= time - 1e-9
    if over.any():
        world.remove(rows[over])


@action(
    "create {count} {kind} at {where}",
    "Makes objects at a spot, at random in an area, at an object or at the pointer. "
    "The actions below can speak of “new KIND”.",
    one_shot=True,
    count=number("1", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
    says=[
        "{count} new {kind} at/in/on {where}",
        "spawn/make/add/place/generate/produce/drop/put {count} [new] {kind} at/in/on/near/by/inside/from/beside/next {where}",
        "create {count} [new] {kind} in/on/near/by/inside/from/beside/next {where}",
        "spawn/make/generate/produce/add/create [a] [new] {kind}",
        "bring in {count} {kind} at/in {where}",
        "new {kind} at/in/on {where}",
        "{count} {kind} appear/appears/spawn/spawns at/in/on {where}",
        "let {count} {kind} appear at/in/on {where}",
        "create/spawn/make/add/generate/produce {count} [new] {kind}",
        "create/spawn/make at {where} {count} {kind}",
        "spawn/make/add/place/put/create {count} [new] {kind} at [a] random place/position/point/spot in/of/inside {where}",
        "spawn/make/add/place/put/create {count} [new] {kind} somewhere/anywhere in/inside {where}",
        "spawn/make/add/place/put/create {count} [new] {kind} at random/randomly in/inside/over {where}",
        "scatter/strew/sprinkle/spread {count} [new] {kind} in/inside/over/across {where}",
        worded("make/create/spawn [a] copy/clone/duplicate of {kind}", where="{kind}", count="1"),
        worded("copy/clone/duplicate {kind}", where="{kind}", count="1"),
        worded("make/create/spawn [a] copy/clone/duplicate of {kind} at/in/on {where}", count="1"),
        worded("copy/clone/duplicate {kind} at/in/on/to {where}", count="1"),
        "spawn/make/add/place/put/create {count} [new] {kind} next to! {where}",
        "make/create/spawn/add {count} more {kind} at/in/on/near {where}",
        worded("make/create/spawn/add another {kind} at/in/on/near {where}", count="1"),
        "make/create/spawn {count} copies/clones/duplicates of {kind} at/in/on {where}",
        worded("make/create/spawn {count} copies/clones/duplicates of {kind}", where="{kind}"),
        "fill {where} with {count} {kind}",
        "populate/cover/stock {where} with {count} {kind}",
        worded(
            "create/spawn/make/add as many {kind} as [there] are {other}",
            objects=("other",),
            count="count({other})",
        ),
    ],
)
def create(world: ActionApi, count: Numbers, kind: str, where: Where) -> None:
    world.create(kind, where, count)


@action(
    "remove {who}",
    "Takes the object out of the level at the end of the tick.",
    who=role(),
    says=[
        "take/remove/erase {who} from/out-of [the] level/game/world/scene/play",
        "destroy/delete/kill/erase/despawn/eliminate/scrap {who}",
        "throw/chuck away {who}",
        "throw/chuck {who} away",
        "discard/trash {who}",
        "dispose of {who}",
        "collect {who}",
        "get rid of {who}",
        "{who} is removed/destroyed/deleted",
        "{who} vanishes/dies/despawns",
        "take {who} away",
        "take away {who}",
        "let {who} vanish/die",
        "make {who} vanish",
        "clear/wipe [away/out] {who}",
        "blow up {who}",
        "blow {who} up",
        "erase/delete/take {who} from [the] level/game/world",
        "delete/erase/remove this {who}",
        "clear/wipe/sweep [away] [all] [the] {who}",
        "clear {who} away/out/off",
    ],
)
def remove(world: ActionApi, who: Rows) -> None:
    world.remove(who)


@action(
    "create {count} {kind} in a ring about {where}, radius {radius}",
    "Makes objects evenly spaced on a circle.",
    one_shot=True,
    count=number("6", "how many, for each match"),
    kind=slot("kind"),
    where=slot("where"),
    radius=number("60", "units"),
    says=[
        "{count} {kind} in a circle/ring [of] [radius] {radius} around/about/round {where}",
        "{count} {kind} in! a circle/ring around/about/round {where}",
        "make/create/spawn/place/put/draw [a] ring/circle of! {count} {kind} with [a] radius [of] {radius} around/about/round/at {where}",
        "spawn/make/create/place/add/put {count} {kind} in [a] circle/ring around/about/round {where} [with] [radius/of] {radius}",
        "[a] ring/circle of! {count} {kind} around/about/round {where} [with] [radius] {radius}",
        "make/create/spawn [a] ring/circle of! {count} {kind} around/about/round {where} [with] [radius] {radius}",
        "surround {where} with/by {count} {kind} [radius {radius}]",
        "spawn/make/create/place {count} {kind} around/round {where} [with] [radius] {radius}",
        "put/place/create/make/spawn/add {count} {kind} around {where} in a circle/ring",
        "put/place/create/make/spawn/add {count} {kind} around {where} in a circle/ring of [radius] {radius}",
        "put/place/create/make/spawn/add {count} {kind} in a circle/ring of [radius] {radius} around/about {where}",
    ],
)
def create_ring(world: ActionApi, count: Numbers, kind: str, where: Where, radius: Numbers) -> None:
    world.create(kind, where, count, ring=radius)


@action(
    "show {who}",
    "Draws it from now on.",
    who=role(),
    undone_by="hide",
    says=[
        "make {who} visible",
        "let {who} appear",
        "make {who} appear",
        "reveal/unhide/display {who}",
        "not hide {who}",
        "turn {who} visible",
        "{who} appears",
        "let {who} be seen/visible/shown",
        "bring {who} [back] into/to view",
        "{who} comes/appears into/in view",
    ],
)
def show(world: ActionApi, who: Rows) -> None:
    world.put_property(who, "shown", True)


@action(
    "hide {who}",
    "Stops drawing it; it still matches and touches.",
    who=role(),
    undone_by="show",
    says=[
        "make {who} invisible",
        "let {who} disappear",
        "make {who} disappear",
        "conceal {who}",
        "not show/display/draw {who}",
        "turn {who} invisible",
        "{who} disappears",
        "let {who} be hidden/invisible/unseen",
    ],
)
def hide(world: ActionApi, who: Rows) -> None:
    world.put_property(who, "shown", False)


@action(
    "set the depth of {who} to {depth}",
    "Of two overlapping objects, the one with the higher number is in front.",
    who=role(),
    depth=number("0"),
    says=[
        "{who} depth/layer {depth}",
        "depth/layer of {who} = {depth}",
        "change/make/set [the] depth/layer of {who} [to] {depth}",
        "set {who} depth/layer to {depth}",
        "set {who} 's depth/layer to {depth}",
        "draw {who} at/on/in depth/layer {depth}",
        "put/move/bring {who} on/at/to/in depth/layer {depth}",
        worded("put/move/bring/send/draw {who} to/in/at [the] front", depth="100"),
        worded("put/move/bring/send/draw {who} in front of everything/all", depth="100"),
        worded("{who} goes/comes/is put on top of everything/all", depth="100"),
        worded("put/bring/draw {who} on top of everything/all", depth="100"),
        worded("put/move/bring/send/draw {who} to/in/at! [the] back", depth="-100"),
        worded("{who} [goes/comes/is] behind/under/below everything/all", depth="-100"),
        worded("{who} [goes/comes/is] [in] front [of] everything/all", depth="100"),
        worded("{who} [goes/comes/is] above/over everything/all", depth="100"),
        worded("put/move/bring/send/draw {who} behind everything/all", depth="-100"),
        worded(
            "put/move/bring/draw {who} behind/below/under/beneath {other}",
            objects=("other",),
            depth="{other}.depth - 1",
        ),
        worded(
            "put/move/bring/draw {who} [in] front [of] {other}", objects=("other",), depth="{other}.depth + 1"
        ),
        worded(
            "put/move/bring/draw {who} above/over/before {other}",
            objects=("other",),
            depth="{other}.depth + 1",
        ),
    ],
)
def set_depth(world: ActionApi, who: Rows, depth: Numbers) -> None:
    world.put_property(who, "depth", depth)


@action(
    "set the scale of {who} to {scale}",
    "1 is the size of its kind; it stays above 0.",
    who=role(),
    scale=number("1"),
    says=[
        worded("shrink/reduce {who} to half [its/the] [size]", scale="0.5"),
        worded("grow/enlarge {who} to double/twice [its/the] [size]", scale="2"),
        "{who} scale/size {scale}",
        "scale/resize {who} [to/by] {scale}",
        "size/scale of {who} = {scale}",
        "change/make/set [the] size/scale of {who} [to] {scale}",
        "set {who} scale/size to {scale}",
        "set {who} 's scale/size to {scale}",
        "make {who} {scale} times as big/large",
        "make {who} {scale} times bigger/larger",
        worded("make {who} twice as big/large", scale="2"),
        worded("make {who} half as big/large", scale="0.5"),
        "shrink/grow/enlarge/stretch {who} to {scale}",
        worded(
            "shrink/grow/enlarge/scale/stretch {who} by [factor] {factor}",
            numbers=("factor",),
            scale="{who}.scale * {factor}",
        ),
        worded("grow/enlarge {who}", scale="{who}.scale * 1.25"),
        worded(
            "grow/enlarge/stretch {who} by {share} percent/%",
            numbers=("share",),
            scale="{who}.scale * (1 + {share} / 100)",
        ),
        worded(
            "shrink {who} by {share} percent/%",
            numbers=("share",),
            scale="{who}.scale * (1 - {share} / 100)",
        ),
        worded("double/twice [the] size/scale of {who}", scale="{who}.scale * 2"),
        worded("halve/half [the] size/scale of {who}", scale="{who}.scale / 2"),
        worded("double {who} 's size/scale", scale="{who}.scale * 2"),
        worded("halve {who} 's size/scale", scale="{who}.scale / 2"),
        worded("enlarge/grow {who} by half", scale="{who}.scale * 1.5"),
        worded("shrink/reduce {who} by half", scale="{who}.scale / 2"),
        worded("{who} [at/to] {share} percent size", scale="{share} / 100", numbers=("share",)),
        worded("{who} [at/to] half [its] size", scale="0.5"),
        worded("{who} [at/to] double/twice [its] size", scale="2"),
        worded("{who} [at/to] full/normal/usual size", scale="1"),
        worded("{who} grows/swells to twice/double its size", scale="2"),
        worded("{who} shrinks to half its size", scale="0.5"),
        worded("make {who} tiny", scale="0.25"),
        worded("make {who} small/little", scale="0.5"),
        worded("make {who} big/large", scale="2"),
        worded("make {who} huge/giant/enormous", scale="4"),
        worded("make {who} bigger/larger", scale="{who}.scale * 1.25"),
        worded("make {who} smaller", scale="{who}.scale / 1.25"),
        worded("make {who} half its size", scale="{who}.scale / 2"),
        worded("make {who} double/twice its size", scale="{who}.scale * 2"),
        "scale {who} down/up to {scale}",
        worded(
            "make {who} {share} percent bigger/larger",
            numbers=("share",),
            scale="{who}.scale * (1 + {share} / 100)",
        ),
        worded(
            "make {who} {share} percent smaller",
            numbers=("share",),
            scale="{who}.scale * (1 - {share} / 100)",
        ),
        worded("reset [the] size/scale of {who}", scale="1"),
        worded("reset {who} size/scale", scale="1"),
        worded("set {who} back to [its] normal/usual/own size", scale="1"),
    ],
)
def set_scale(world: ActionApi, who: Rows, scale: Numbers) -> None:
    world.put_property(who, "scale", np.maximum(scale, 0.001))


@action(
    "set the colour of {who} to {colour}",
    "Gives it a colour of its own.",
    who=role(),
    colour=slot("colour", "#0E6B50"),
    says=[
        "{who} colour/color {colour}",
        "colour/color/paint/tint/dye {who} [in/with] {colour}",
        "colour/color of {who} = {colour}",
        "change/make/set [the] colour/color of {who} [to] {colour}",
        "set {who} colour/color to {colour}",
        "set {who} 's colour/color to {colour}",
        "make/turn {who} {colour}",
        "give {who} [the/a] colour/color {colour}",
        "give {who} [the/a] {colour} colour/color",
        "swap/change/turn/switch [the] colour/color of {who} to/into {colour}",
        "change/turn/swap/switch {who} colour/color to/into {colour}",
        "change/turn {who} to/into {colour}",
        "{who} turns/becomes/goes {colour}",
        "{who} {colour}",
    ],
)
def set_colour(world: ActionApi, who: Rows, colour: str) -> None:
    world.colour(who, colour)
