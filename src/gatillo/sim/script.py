"""Input, tick by tick: from a trial's script, or as it is played."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gatillo.level.model import Choice, Input, KeyBar, PointerMove


def tick_at(seconds: float, rate: int) -> int:
    """The first tick at or after a time; the first tick of a run is 1."""
    return max(1, math.ceil(seconds * rate - 1e-9))


@dataclass(slots=True)
class KeyEvents:
    """Keys that go down and up in one tick."""

    down: set[str]
    up: set[str]


@dataclass(frozen=True, slots=True)
class TickInput:
    """What comes in at one tick: keys, and where the pointer now is if it moved."""

    keys: KeyEvents | None
    pointer: tuple[float, float] | None
    choice: str = ""


class Script:
    """Key events by tick. Grows while a run is played live."""

    def __init__(self, source: Input, rate: int) -> None:
        self.rate = rate
        self.events: dict[int, KeyEvents] = {}
        self.pointer: dict[int, tuple[float, float]] = {}
        for bar in source.keys:
            self.press(tick_at(bar.start, rate), bar.key)
            self.release(tick_at(bar.end, rate), bar.key)
        self._read_pointer(source.pointer)
        self.choices: dict[int, str] = {tick_at(c.at, rate): c.text for c in source.choices}

    def at(self, tick: int) -> TickInput | None:
        """What comes in at a tick, or None."""
        keys, pointer, choice = self.events.get(tick), self.pointer.get(tick), self.choices.get(tick, "")
        return TickInput(keys, pointer, choice) if keys is not None or pointer is not None or choice else None

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
        """Let the pointer be at a point of the level from a tick on."""
        self.pointer[tick] = (x, y)

    def choose(self, tick: int, text: str) -> None:
        """Let a topic be chosen in a tick."""
        self.choices[tick] = text

    def _at(self, tick: int) -> KeyEvents:
        return self.events.setdefault(tick, KeyEvents(set(), set()))

    def press(self, tick: int, key: str) -> None:
        """Let a key go down in a tick."""
        self._at(tick).down.add(key)

    def release(self, tick: int, key: str) -> None:
        """Let a key go up in a tick."""
        self._at(tick).up.add(key)

    def cut(self, tick: int) -> None:
        """Forget every event after a tick; keys still down then stay down."""
        self.events = {t: e for t, e in self.events.items() if t <= tick}
        self.pointer = {t: p for t, p in self.pointer.items() if t <= tick}
        self.choices = {t: c for t, c in self.choices.items() if t <= tick}

    def as_input(self, end: int) -> Input:
        """The script as bars of seconds, keys still down at tick `end` let go there."""
        bars: list[KeyBar] = []
        down: dict[str, int] = {}
        for tick in sorted(self.events):
            events = self.events[tick]
            # a bar that ends where the next begins: up comes before down
            ended = sorted(events.up & set(down))
            bars += [KeyBar(key=k, start=down.pop(k) / self.rate, end=tick / self.rate) for k in ended]
            for key in sorted(events.down - set(down)):
                down[key] = tick
            for key in sorted(events.up & {k for k, t in down.items() if t == tick}):
                if not any(b.key == key and b.end == tick / self.rate for b in bars):
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
