"""Routes, attaching and carrying run by a plain loop, written from docs/: one object after the other, in plain numbers.

It knows carts that walk a route of their own or are sent along one, crates that rules attach and detach, and pots that a
cart picks up and lets go by a key.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

EASINGS = ("at constant speed", "easing in", "easing out", "easing in and out")


def wrapped(angle):
    """An angle above -180 up to 180 degrees."""
    angle = math.fmod(angle, 360.0)
    return angle - 360.0 if angle > 180.0 else angle + 360.0 if angle <= -180.0 else angle


def eased(part, easing):
    return {
        "at constant speed": part,
        "easing in": part * part,
        "easing out": part * (2 - part),
        "easing in and out": 2 * part * part if part < 0.5 else 1 - 2 * (1 - part) ** 2,
    }[easing]


def own_of_a_stop(any_):
    """What a stop may have of its own."""
    own = {}
    legs = any_.choice(["", "time", "speed"])
    if legs:
        own[legs] = {"time": any_.choice([0.2, 0.55]), "speed": any_.choice([40.0, 200.0])}[legs]
    if any_.random() < 0.4:
        own["easing"] = any_.choice(EASINGS)
    if any_.random() < 0.4:
        own["message"] = any_.choice(["ding", "dong"])
    if any_.random() < 0.4:
        own["facing"] = float(any_.randrange(-170, 180, 50))
    return own


@dataclass
class Walk:
    """An object on a route: by a speed, or by a time for each leg."""

    stops: list
    """(x, y, pause) of each, and what it has of its own as a dict: `time`, `speed`, `easing` of the leg after it, `message`, `facing`."""
    how: str
    speed: float = 0.0
    leg_time: float = 0.0
    easing: str = "at constant speed"
    faces: bool = True
    at: int = 0
    """The stop that it makes for."""
    way: int = 1
    rest: float = 0.0
    gone: float = 0.0
    """Seconds of the leg that are over."""
    start: tuple = (0.0, 0.0)
    """Where the leg began."""
    over: bool = False
    left: dict = field(default_factory=dict)
    """What the stop has of its own that was left last."""

    def leg(self, x, y):
        """Speed, time (0 where it goes by speed) and easing of the leg to a point."""
        speed, time, easing = self.speed, self.leg_time, self.easing
        if "time" in self.left:
            time = self.left["time"]
        elif "speed" in self.left:
            speed, time = self.left["speed"], 0.0
        easing = self.left.get("easing", easing)
        if not time and self.left.get("easing", "at constant speed") != "at constant speed":
            time = math.hypot(x - self.start[0], y - self.start[1]) / speed
        return speed, time, easing


@dataclass
class Thing:
    """An object; `bond` is its carrier, its offset in the carrier's frame, its angle off the carrier's, and its lag."""

    id: int
    x: float
    y: float
    angle: float = 0.0
    walk: Walk | None = None
    bond: tuple | None = None
    held: bool = False
    put: tuple = ()
    """Where and at which angle it was put last: by how much it is elsewhere now, it has moved of its own."""


@dataclass
class PlainMotion:
    """The state; `arrivals` are (tick, id, stop) and (tick, id, "end")."""

    rate: int
    things: dict = field(default_factory=dict)
    deeds: list = field(default_factory=list)
    """(tick, what is done in its rules), in their order."""
    presses: frozenset = frozenset()
    """Ticks in which the key goes down."""
    pots: tuple = ()
    """Ids of what can be carried, and by whom, with reach, ahead and far."""
    carriers: tuple = ()
    reach: float = 0.0
    ahead: float = 26.0
    far: float = 90.0
    tick: int = 0
    arrivals: list = field(default_factory=list)
    sent: list = field(default_factory=list)
    """(tick, message) of what stops have sent."""

    def step(self):
        self.tick += 1
        for thing in self.things.values():
            if thing.walk is not None and not thing.walk.over:
                self.walk_on(thing)
        self.follow(self.things)
        if self.pots:
            self.carry()
            self.follow([i for i in self.things if self.things[i].bond is None or not self.things[i].bond[4]])
        for tick, deed in self.deeds:
            if tick == self.tick:
                deed(self)

    # routes

    def walk_on(self, thing):
        walk, left = thing.walk, 1.0 / self.rate
        was = thing.x, thing.y
        facing = None
        for _ in range(16):
            resting = min(walk.rest, left)
            walk.rest -= resting
            left -= resting
            if left <= 1e-12 or walk.over:
                break
            x, y, pause, *own = walk.stops[walk.at]
            away = math.sqrt((x - thing.x) ** 2 + (y - thing.y) ** 2)
            speed, time, easing = walk.leg(x, y)
            need = max(time - walk.gone, 0.0) if time else away / speed
            step = min(need, left)
            walk.gone += step
            if need > left + 1e-9:
                if time:
                    part = eased(walk.gone / time, easing)
                    thing.x = walk.start[0] + (x - walk.start[0]) * part
                    thing.y = walk.start[1] + (y - walk.start[1]) * part
                else:
                    thing.x += (x - thing.x) * step / need
                    thing.y += (y - thing.y) * step / need
                break
            thing.x, thing.y = x, y
            left -= step
            self.arrivals.append((self.tick, thing.id, walk.at + 1))
            walk.rest, walk.start, walk.gone = pause, (x, y), 0.0
            walk.left = own[0] if own else {}
            facing = walk.left.get("facing")
            if "message" in walk.left:
                self.sent.append((self.tick, walk.left["message"]))
            self.turn_to_the_next(thing, walk)
        dx, dy = thing.x - was[0], thing.y - was[1]
        if facing is not None and (not walk.faces or walk.rest or walk.over):
            thing.angle = wrapped(facing)
        elif walk.faces and (dx or dy):
            thing.angle = wrapped(math.degrees(math.atan2(dy, dx)))

    def turn_to_the_next(self, thing, walk):
        last = len(walk.stops) - 1
        at_end = walk.at >= last if walk.way > 0 else walk.at <= 0
        if at_end and (walk.how != "there and back" or walk.way < 0 or not last):
            self.arrivals.append((self.tick, thing.id, "end"))
        if (at_end and walk.how == "once") or not last:
            walk.over = True
        elif at_end and walk.how == "in a loop":
            walk.at = 0
        else:
            walk.way = -walk.way if at_end else walk.way
            walk.at += walk.way

    def send(self, number, stops, **terms):
        thing = self.things[number]
        thing.walk = Walk(stops, start=(thing.x, thing.y), **terms)

    # carriers

    def attach(self, one, other, keeps_offset=True, lag=0.0):
        thing, carrier = self.things[one], self.things[other]
        above = other
        while above is not None:
            if above == one:
                return
            bond = self.things[above].bond
            above = bond[0] if bond else None
        thing.put = thing.x, thing.y, thing.angle
        if not keeps_offset:
            thing.bond = (other, 0.0, 0.0, 0.0, lag)
            return
        turned = math.radians(carrier.angle)
        dx, dy = thing.x - carrier.x, thing.y - carrier.y
        along = dx * math.cos(turned) + dy * math.sin(turned)
        across = dy * math.cos(turned) - dx * math.sin(turned)
        thing.bond = (other, along, across, thing.angle - carrier.angle, lag)

    def detach(self, number):
        self.things[number].bond = None
        self.things[number].held = False

    def follow(self, which):
        done = set()
        for number in which:
            self.follow_one(number, done, which)

    def follow_one(self, number, done, which):
        thing = self.things[number]
        if thing.bond is None or number in done or number not in which:
            return
        carrier_id, along, across, angle, lag = thing.bond
        self.follow_one(carrier_id, done, which)
        carrier = self.things[carrier_id]
        turned = math.radians(carrier.angle)
        bears = not lag and not thing.held
        if bears:
            dx, dy = thing.x - thing.put[0], thing.y - thing.put[1]
            along += dx * math.cos(turned) + dy * math.sin(turned)
            across += dy * math.cos(turned) - dx * math.sin(turned)
            angle += thing.angle - thing.put[2]
            thing.bond = (carrier_id, along, across, angle, lag)
        x = carrier.x + along * math.cos(turned) - across * math.sin(turned)
        y = carrier.y + along * math.sin(turned) + across * math.cos(turned)
        if lag:
            part = 1 - math.exp(-1 / self.rate / lag)
            thing.x += (x - thing.x) * part
            thing.y += (y - thing.y) * part
        else:
            thing.x, thing.y, thing.angle = x, y, wrapped(carrier.angle + angle)
            thing.put = thing.x, thing.y, thing.angle
        done.add(number)

    def carry(self):
        """A held pot that is too far off is let go; a press lets go what is held, or picks up the nearest that lies ahead."""
        emptied = set()
        was_held = {number for number in self.pots if self.things[number].held}
        for number in self.pots:
            pot = self.things[number]
            if pot.held:
                carrier = self.things[pot.bond[0]]
                if math.hypot(pot.x - carrier.x, pot.y - carrier.y) > self.far:
                    self.detach(number)
                    emptied.add(carrier.id)
        if self.tick not in self.presses:
            return
        for carrier_id in self.carriers:
            carrier = self.things[carrier_id]
            mine = [n for n in self.pots if self.things[n].held and self.things[n].bond[0] == carrier_id]
            if mine:
                for number in mine:
                    self.detach(number)
                continue
            if carrier_id in emptied:
                # it has lost one in this tick: the press was meant to let that go
                continue
            best = None
            for number in self.pots:
                pot = self.things[number]
                dx, dy = pot.x - carrier.x, pot.y - carrier.y
                away = math.hypot(dx, dy)
                aside = (
                    abs(wrapped(math.degrees(math.atan2(dy, dx)) - carrier.angle)) if away >= 1e-6 else 0.0
                )
                free = number not in was_held and pot.bond is None and away <= self.reach and aside <= 60
                if free and (best is None or away < best[0]):
                    best = away, number
            if best is not None:
                pot = self.things[best[1]]
                pot.bond = (carrier_id, self.ahead, 0.0, pot.angle - carrier.angle, 0.0)
                pot.held = True
