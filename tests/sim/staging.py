"""A world in which everything happens at once, told apart into what lines can read and write."""

from __future__ import annotations

from dataclasses import replace as with_fields

import numpy as np

from building import c, kind, level, rule, things
from gatillo.catalogue import CATALOGUE
from gatillo.level.model import (
    Area,
    Clip,
    ClipPoint,
    Look,
    Point,
    Rectangle,
    Route,
    Section,
    Spot,
    Stop,
    Topic,
)
from gatillo.level.naming import spoken
from gatillo.sim.program.bodies import MOVABLE, NONE
from gatillo.sim.program.touched import Access
from gatillo.sim.world.caches import Caches
from gatillo.sim.world.records import Bond, Menu, Offer, Playing, Turning, Tween

KINDS = ("Mover", "Target", "Wall")
HAS = {"v": 3.0, "w": 8.0, "yes": True, "word": "ab"}
PLACES = (
    Area(name="yard", x=0, y=0, shape=Rectangle(width=400, height=300)),
    Spot(name="gate", x=30, y=10),
    Route(name="way", stops=(Stop(x=-50, y=0), Stop(x=50, y=20))),
)
SLOTS = {
    "where": "Target",
    "number": "7",
    "seconds": "0.3",
    "yes/no formula": "Target.v < 100",
    "value": "Mover.w + 2",
    "text": "hi {Mover.v}",
    "variable": "Mover.v",
    "number variable": "Mover.v",
    "yes/no variable": "Mover.yes",
    "kind": "Target",
    "key": "Space",
    "any key": "Space",
    "tag": "hot",
    "colour": "#0E6B50",
    "look": "bright",
    "message": "bang",
    "timer": "oven",
    "item": "coin",
    "topic": "weather",
    "area": "yard",
    "route": "way",
    "rule": "other",
    "section": "part",
    "clip": "wave",
    "point": "hand",
    "behaviour": "spin",
    "setting": "spin: speed",
    "entry": "open",
    "entries": "",
    "per": "all matches",
}


def clause(name, **own):
    """A line of an entry in which every slot is filled: its first role is Mover, its next Target."""
    roles = iter(("Mover", "Target", "Target"))
    if CATALOGUE[name].group == "behaviour":
        roles = iter(("Target", "Target"))
    slots = {}
    for slot, declared in CATALOGUE[name].slots.items():
        if declared.type == "role":
            slots[slot] = next(roles)
        elif declared.type == "choice":
            slots[slot] = declared.options[0]
        else:
            slots[slot] = SLOTS[declared.type]
    return c(name, **{**slots, **own})


LOOKS = (Look(name="bright"), Look(name="dim"))


def staged_level(tried=None, behaviours=()):
    """A level with all that can be named, and the rule that is tried."""
    spin = clause("spin")
    others = (
        c("prompt", text="use", by="Mover", key="F", entries="open"),
        c("spin", **{slot: s.default or SLOTS[s.type] for slot, s in CATALOGUE["spin"].slots.items()}),
    )
    return level(
        *((tried,) if tried else ()),
        rule("other", when=c("key_pressed", key="Q"), do=c("give_tag", who="Mover", tag="hot")),
        Section(
            name="part",
            rules=(
                rule("inner", when=c("key_pressed", key="Q"), do=c("send_along", who="Mover", route="way")),
            ),
        ),
        kinds=(
            kind(
                "Mover",
                6,
                contact="movable",
                has=HAS,
                behaviours=(*behaviours, *(() if any(b.use == "spin" for b in behaviours) else (spin,))),
                points=(Point(name="hand", x=5, y=1),),
                looks=LOOKS,
            ),
            kind(
                "Target",
                6,
                contact="sensed",
                has=HAS,
                behaviours=others,
                points=(Point(name="hand", x=5, y=1),),
                topics=(Topic(name="weather", answer="fine"),),
            ),
            kind("Wall", box=(4, 60), contact="fixed", has=HAS),
        ),
        places=PLACES,
        clips=(Clip(name="wave", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=20, y=0))),),
        objects=(
            *things("Mover", (0, 0), (40, 5), (-70, -60)),
            *things("Target", (9, 2), (60, 30), first=10),
            *things("Wall", (130, 0), first=20),
        ),
        has=HAS,
        seconds=5,
    )


def stage(world):
    """Let everything happen in this tick that occasions tell of."""
    mover, target = 1, 10
    world.input.pressed = world.input.held = frozenset({"Space", "F", "pointer left", "E"})
    world.input.released = frozenset({"Space", "pointer left"})
    world.input.pointer_moved = True
    world.input.pointer_x, world.input.pointer_y = 2.0, 1.0
    world.input.under, world.input.was_under = (mover, target), (2,)
    pairs = np.array([(mover << 32) | target], np.int64)
    world.contacts.touching = world.contacts.begun = pairs
    world.contacts.ended = np.array([(2 << 32) | target], np.int64)
    world.contacts.inside = {"yard": np.array([1, 10], np.int64)}
    world.contacts.was_inside = {"yard": np.array([2, 20], np.int64)}
    world.movement.arrivals = (("goal", mover, 0), ("stop", mover, 1), ("end", mover, 0))
    world.movement.clip_ends = (("wave", mover),)
    world.movement.bonds = {2: Bond(11, 3.0, 0.0, 0.0, 0.0), 11: Bond(20, 1.0, 0.0, 0.0, 0.0)}
    world.movement.playing = (Playing(3, "wave", 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, "in a loop"),)
    one = np.array([2], np.int64), *(np.array([v]) for v in (40.0, 5.0, 60.0, 70.0))
    world.movement.tweens = (Tween(*one, 0.0, 2.0, "at constant speed", ""),)
    world.movement.turns = (Turning(*one[:3], 0.0, 2.0, "at constant speed"),)
    world.focus.on = {mover: target}
    world.focus.events = (("gained", target, mover), ("lost", 11, mover))
    world.prompts.offers = (Offer(target, mover, "F", None, 0.0, 0),)
    happened = (("begun", ""), ("completed", ""), ("broken off", ""), ("chosen", "open"))
    world.prompts.events = tuple((what, target, mover, entry) for what, entry in happened)
    world.prompts.menu = Menu(target, mover, "F", ("open",))
    world.prompts.talking, world.prompts.topic = target, "weather"
    world.messages.heard = {"bang": 1}
    world.messages.heard_from = {"bang": {mover: 4.0, target: 5.0}}
    world.items = {(mover, "coin"): 9.0, (target, "coin"): 8.0}
    world.timers = {"oven": (0.15, world.time - 0.1)}
    world.tags = {"hot": np.isin(world.id, [1, 10])}
    world.rules.fired_at = {world.program.index.rule_names["other"]: 3}
    world.display.sayings = {mover: ("oh", 9.0)}
    world.display.looks = {mover: "bright"}
    world.display.telling = "hello"
    world.shown[1] = False
    world.variables["spin.on"][0] = world.variables["prompt.on"][4] = False
    world.grounded[:] = True
    world.vx[:3], world.vy[:3] = 30.0, 12.0
    world.caches = Caches()


def change_what_was_there(world):
    """Between two turns of a rule: a variable, a timer, another rule's firing, one that came and one that went."""
    world.variables["v/number"][:] += 8.0
    world.variables["w/number"][:] -= 8.0
    world.level["v"] += 8.0
    world.timers["oven"] = (0.25, world.time - 0.1)
    world.rules.fired_at = {world.program.index.rule_names["other"]: world.tick - 18}
    world.append(0, np.array([5.0]), np.array([6.0]))
    world.alive[2], world.died[2] = False, world.tick
    world.structure_changed()
    world.caches = Caches()


def accesses(world):
    """Every value of a world, by what it is (Access) and whose or which (an id, a name)."""
    found = {}
    kinds = [world.program.kinds[k].name for k in world.kind.tolist()]
    ids = world.id.tolist()
    for row, (i, of) in enumerate(zip(ids, kinds, strict=True)):
        found[Access("there", of), i] = bool(world.alive[row])
        for name in (
            "x",
            "y",
            "angle",
            "scale",
            "depth",
            "vx",
            "vy",
            "mass",
            "bounce",
            "friction",
            "gravity",
        ):
            found[Access(name, of), i] = getattr(world, name).item(row)
        for name in ("contact", "grounded", "shown"):
            found[Access(name, of), i] = getattr(world, name).item(row)
        for name, column in world.variables.items():
            found[column_access(name, of), (i, name)] = column[row]
        for tag, mask in world.tags.items():
            found[Access("tag", of, tag), i] = bool(mask[row])
    of_id = dict(zip(ids, kinds, strict=True))
    for what, by_id in (
        ("bond", world.movement.bonds),
        ("focus", world.focus.on),
        ("saying", world.display.sayings),
        ("colour", world.display.colours),
        ("look", world.display.looks),
        (
            "tween",
            {
                i: (t, at)
                for t in (*world.movement.turns, *world.movement.tweens)
                for at, i in enumerate(t.ids.tolist())
            },
        ),
        ("clip", {p.object: p for p in world.movement.playing}),
        ("arrival", {i: (w, n) for w, i, n in world.movement.arrivals}),
        ("offer", {o.prompt: o for o in world.prompts.offers}),
    ):
        found.update({(Access(what, of_id[i]), i): str(value) for i, value in by_id.items()})
    for (i, item), many in world.items.items():
        found[Access("item", of_id[i], item), i] = many
    for what, by_name in (
        ("variable", world.level),
        ("timer", world.timers),
        ("message", {**world.messages.outbox, **{f"{n}!": v for n, v in world.messages.sent_from.items()}}),
        ("switch", world.rules.switched),
    ):
        found.update({(Access(what, "", n.rstrip("!")), n): str(value) for n, value in by_name.items()})
    alone = {
        "talk": world.prompts.talking,
        "over": world.rules.over,
        "telling": world.display.telling,
        "wait": len(world.rules.waits),
    }
    found.update({(Access(what), ""): value for what, value in alone.items()})
    return found


def column_access(column, of):
    """What a column of variables is."""
    behaviour, dot, setting = column.partition(".")
    if not dot:
        return Access("variable", of, column.partition("/")[0])
    if behaviour == "walk":
        return Access("route", of)
    if setting.startswith("~"):
        return Access("own")
    return (
        Access("on", of, spoken(behaviour))
        if setting == "on"
        else Access("setting", of, f"{spoken(behaviour)}: {setting}")
    )


NUMBERS = {
    "x": lambda v: v + 3.7,
    "y": lambda v: v - 2.9,
    "angle": lambda v: v + 41.0,
    "scale": lambda v: v * 1.3,
    "depth": lambda v: v[::-1] + np.arange(len(v)),
    "vx": lambda v: v + 5.0,
    "vy": lambda v: v * 0.0,
    "mass": lambda v: v * 2,
    "bounce": lambda v: v / 2 + 0.1,
    "friction": lambda v: v / 2 + 0.1,
    "gravity": lambda v: v + 90.0,
    "grounded": lambda v: ~v,
    "shown": lambda v: ~v,
    "contact": lambda v: np.where(v == NONE, MOVABLE, NONE),
}


def disturb(world, of, is_free):
    """Change all of a kind (or, with "", of the level) that `is_free` says of, each in some way."""
    if of:
        _disturb_kind(world, of, is_free)
    else:
        _disturb_level(world, is_free)
    world.caches = Caches()


def _disturb_kind(world, of, is_free):
    rows = np.flatnonzero(world.kind == world.program.kind_number[of])
    ids = set(world.id[rows].tolist())

    def free(what, named=""):
        return is_free(Access(what, of, named))

    for name, change in NUMBERS.items():
        if free(name):
            column = getattr(world, name).copy()
            column[rows] = change(column[rows])
            setattr(world, name, column)
    for name, column in world.variables.items():
        what = column_access(name, of)
        if what.kind and is_free(what) and what.what in ("variable", "setting", "on"):
            own = column[rows]
            column[rows] = (
                ~own
                if own.dtype == bool
                else [f"{v}x" for v in own]
                if own.dtype == object
                else own * 1.7 + 1
            )
    if free("tag", "hot"):
        world.tags = {"hot": world.tags["hot"] ^ np.isin(world.id, list(ids))}
    if free("item", "coin"):
        world.items = {k: v * 3 if k[0] in ids else v for k, v in world.items.items()}
    if free("bond"):
        world.movement.bonds = {i: b for i, b in world.movement.bonds.items() if i not in ids}
    if free("tween"):
        world.movement.tweens = tuple(t for t in world.movement.tweens if not ids & set(t.ids.tolist()))
        world.movement.turns = tuple(t for t in world.movement.turns if not ids & set(t.ids.tolist()))
    if free("clip"):
        world.movement.playing = tuple(p for p in world.movement.playing if p.object not in ids)
    if free("focus"):
        world.focus.on = {a: b for a, b in world.focus.on.items() if a not in ids}
        world.focus.events = tuple(e for e in world.focus.events if e[2] not in ids)
    if free("offer"):
        world.prompts.offers = tuple(o for o in world.prompts.offers if not ids & {o.prompt, o.by})
        world.prompts.events = tuple(e for e in world.prompts.events if not ids & {e[1], e[2]})
    if free("arrival"):
        world.movement.arrivals = tuple(a for a in world.movement.arrivals if a[1] not in ids)
    if free("end"):
        world.movement.clip_ends = tuple(e for e in world.movement.clip_ends if e[1] not in ids)
    if free("pointed"):
        world.input.under = tuple(i for i in world.input.under if i not in ids)
        world.input.was_under = tuple(i for i in world.input.was_under if i not in ids)
    if free("touching"):
        for name in ("touching", "begun", "ended"):
            pairs = getattr(world.contacts, name)
            kept = [p for p in pairs.tolist() if not ids & {p >> 32, p & 0xFFFFFFFF}]
            setattr(world.contacts, name, np.array(kept, np.int64))
    if free("inside", "yard"):
        world.contacts.inside = {a: np.setdiff1d(i, list(ids)) for a, i in world.contacts.inside.items()}
        world.contacts.was_inside = {
            a: np.setdiff1d(i, list(ids)) for a, i in world.contacts.was_inside.items()
        }
    if free("saying"):
        world.display.sayings = {}
    if free("colour"):
        world.display.colours = dict.fromkeys(ids, "#010203")
    if free("look"):
        world.display.looks = {**world.display.looks, **dict.fromkeys(ids, "dim")}
    if free("there"):
        gone = rows[-1:]
        world.alive[gone], world.died[gone] = False, 1


def _disturb_level(world, is_free):
    def free(what, named=""):
        return is_free(Access(what, "", named))

    for name, value in world.level.items():
        if free("variable", name):
            world.level[name] = (
                not value if isinstance(value, bool) else f"{value}x" if isinstance(value, str) else value + 4
            )
    if free("input"):
        world.input = with_fields(world.input, held=frozenset(), pressed=frozenset(), released=frozenset())
        world.input.pointer_moved, world.input.pointer_x = False, 77.0
    if free("timer", "oven"):
        world.timers = {"oven": (99.0, None)}
    if free("message", "bang"):
        world.messages.heard, world.messages.heard_from = {}, {}
    if free("talk"):
        world.prompts.talking, world.prompts.topic = 0, ""
    if free("fired", "other"):
        world.rules.fired_at = {}
    if free("chance"):
        world.seed += 5
    if free("clock"):
        world.tick += 100
        world.time = world.tick * world.dt
    if free("telling"):
        world.display.telling = "something"
