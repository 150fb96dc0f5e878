"""Input, tick by tick: from a trial's script, or as it is played."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from gatillo.level.model import Choice, Input, KeyBar, PointerMove


def tick_at(seconds: float, rate: int) -> int:
    """Return the first tick at or after a time; the first tick of a run is 1."""
    return max(1, math.ceil(seconds * rate - 1e-9))


@dataclass(slots=True)
class KeyEvents:
    """Keys that go down and up in one tick. `stays` says of those that do both whether they are down after it."""

    down: set[str]
    up: set[str]
    stays: set[str] = field(default_factory=set)


@dataclass(frozen=True, slots=True)
class SetOutside:
    """Another program sets a variable: the level's (without an object), or one of an object.

    `name` is the token of a level variable, or the column of an object's; `called` is what people call it.
    """

    name: str
    value: Any
    called: str
    object_id: int = 0


@dataclass(frozen=True, slots=True)
class MovedOutside:
    """Another program puts an object at a place, and turns it to an angle if one is given."""

    object_id: int
    x: float
    y: float
    called: str
    angle: float | None = None


@dataclass(frozen=True, slots=True)
class SentOutside:
    """Another program sends a message."""

    message: str


Outside = SetOutside | MovedOutside | SentOutside


@dataclass(frozen=True, slots=True)
class TickInput:
    """What comes in at one tick: keys, where the pointer now is if it moved, and what another program changes."""

    keys: KeyEvents | None
    pointer: tuple[float, float] | None
    choice: str = ""
    outside: tuple[Outside, ...] = ()


def held_bars(bars: tuple[KeyBar, ...]) -> list[tuple[str, float, float]]:
    """Return when each key is held: (key, from, to in s) by their beginning; bars that overlap or meet are joined."""
    found: list[tuple[str, float, float]] = []
    for bar in sorted(bars, key=lambda b: (b.key, b.start, b.end)):
        before = found[-1] if found else None
        if before is not None and before[0] == bar.key and bar.start <= before[2]:
            found[-1] = (bar.key, before[1], max(before[2], bar.end))
        else:
            found.append((bar.key, bar.start, bar.end))
    return found


class Script:
    """Key events by tick. Grows while a run is played live."""

    def __init__(self, source: Input, rate: int) -> None:
        self.rate = rate
        self.events: dict[int, KeyEvents] = {}
        self.pointer: dict[int, tuple[float, float]] = {}
        for key, start, end in held_bars(source.keys):
            self.press(tick_at(start, rate), key)
            self.release(tick_at(end, rate), key)
        self._read_pointer(source.pointer)
        self.choices: dict[int, str] = {tick_at(c.at, rate): c.text for c in source.choices}
        self.outside: dict[int, tuple[Outside, ...]] = {}

    def at(self, tick: int) -> TickInput | None:
        """Return what comes in at a tick, or None."""
        keys, pointer, choice = self.events.get(tick), self.pointer.get(tick), self.choices.get(tick, "")
        outside = self.outside.get(tick, ())
        if keys is None and pointer is None and not choice and not outside:
            return None
        return TickInput(keys, pointer, choice, outside)

    def alike_up_to(self, other: Script, last: int) -> int:
        """Return the last tick, up to some other, up to which two scripts bring the same in."""
        ticks: set[int] = set()
        for script in (self, other):
            ticks.update(script.events, script.pointer, script.choices, script.outside)
        return next((t - 1 for t in sorted(ticks) if t <= last and self.at(t) != other.at(t)), last)

    def _read_pointer(self, moves: tuple[PointerMove, ...]) -> None:
        before: PointerMove | None = None
        for move in sorted(moves, key=lambda m: m.at):
            end = tick_at(move.at, self.rate)
            if move.glide and before is not None and move.at > before.at:
                for tick in range(tick_at(before.at, self.rate) + 1, end):
                    # the place at the tick's own time, so that every rate sees the same path
                    part = (tick / self.rate - before.at) / (move.at - before.at)
                    self.pointer[tick] = (
                        before.x + (move.x - before.x) * part,
                        before.y + (move.y - before.y) * part,
                    )
            self.pointer[end] = (move.x, move.y)
            before = move

    def point(self, tick: int, x: float, y: float) -> None:
        """Put the pointer at a point of the level from a tick on."""
        self.pointer[tick] = (x, y)

    def choose(self, tick: int, text: str) -> None:
        """Choose a topic in a tick."""
        self.choices[tick] = text

    def come_from_outside(self, tick: int, change: Outside) -> None:
        """Let another program change something in a tick."""
        self.outside[tick] = (*self.outside.get(tick, ()), change)

    def _at(self, tick: int) -> KeyEvents:
        return self.events.setdefault(tick, KeyEvents(set(), set()))

    def press(self, tick: int, key: str) -> None:
        """Press a key in a tick."""
        events = self._at(tick)
        events.down.add(key)
        events.stays.add(key)

    def release(self, tick: int, key: str) -> None:
        """Release a key in a tick."""
        events = self._at(tick)
        events.up.add(key)
        events.stays.discard(key)

    def up_to(self, tick: int) -> Script:
        """Another one without any event after a tick, to be played on with; keys still down then stay down."""
        other = Script(Input(), self.rate)
        other.events = {
            t: KeyEvents(set(e.down), set(e.up), set(e.stays)) for t, e in self.events.items() if t <= tick
        }
        other.pointer = {t: p for t, p in self.pointer.items() if t <= tick}
        other.choices = {t: c for t, c in self.choices.items() if t <= tick}
        other.outside = {t: c for t, c in self.outside.items() if t <= tick}
        return other

    def as_input(self, end: int) -> Input:
        """Return the script as bars of seconds, keys still down at tick `end` let go there."""
        bars: list[KeyBar] = []
        down: dict[str, int] = {}
        for tick in sorted(self.events):
            events = self.events[tick]
            # a key that goes up and down again in one tick ends a little before it, or its two bars would be one
            for key in sorted(events.up & set(down)):
                again = key in events.down
                bars.append(
                    KeyBar(key=key, start=down.pop(key) / self.rate, end=(tick - 0.5 * again) / self.rate)
                )
                if again:
                    down[key] = tick
            for key in sorted(events.down - set(down)):
                down[key] = tick
            for key in sorted(events.up & events.down & set(down) - events.stays):
                bars.append(KeyBar(key=key, start=tick / self.rate, end=tick / self.rate))
                down.pop(key)
        for key, tick in down.items():
            bars.append(KeyBar(key=key, start=tick / self.rate, end=max(end, tick) / self.rate))
        moves = [
            PointerMove(at=tick / self.rate, x=round(x, 2), y=round(y, 2))
            for tick, (x, y) in sorted(self.pointer.items())
        ]
        chosen = tuple(Choice(at=tick / self.rate, text=text) for tick, text in sorted(self.choices.items()))
        return Input(
            keys=tuple(sorted(bars, key=lambda b: (b.start, b.key))), pointer=tuple(moves), choices=chosen
        )
