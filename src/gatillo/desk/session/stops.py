"""Stops: moments at which a run pauses. They belong to the workspace, not to the level."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, QSettings, Signal

from gatillo.desk.session.workbench import Workbench
from gatillo.inspect.moments import Stop, find_moments, stop_moments
from gatillo.level.roles import all_logic
from gatillo.sim.run.run import Cursor, Run

MOST = 40


class Stops(QObject):
    """The stops of the level that is open; those of each file are kept in the settings."""

    changed = Signal()

    def __init__(self, bench: Workbench, settings: QSettings) -> None:
        super().__init__(bench)
        self.bench = bench
        self.settings = settings
        self.stops: list[Stop] = []
        self._file = ""
        self._moments: tuple[Run, int, list[Cursor]] | None = None
        bench.fileChanged.connect(self._on_file)
        bench.player.held_at = self.first_between
        bench.stops_at = self.holds

    # which

    def toggle(self, rule_id: int, card: int = 0) -> None:
        """Stop wherever a rule fires, or a card runs; or no more."""
        wanted = self._for(rule_id, card)
        there = next((s for s in self.stops if replace(s, on=True) == wanted), None)
        if there is not None:
            self.stops.remove(there)
            self.bench.notify(f"A run does not stop at {self.words(there)} any more.")
        elif len(self.stops) < MOST:
            self.stops.append(wanted)
            self.bench.notify(f"A run stops at {self.words(wanted)} from now on.")
        self._keep()

    def holds(self, rule_id: int, card: int = 0) -> bool:
        """Return whether a run stops at a rule, or at a card of a graph."""
        return bool(self.stops) and any(
            s.on and replace(s, on=True) == self._for(rule_id, card) for s in self.stops
        )

    def _for(self, rule_id: int, card: int) -> Stop:
        if card:
            return Stop(graph_id=rule_id, card=card)
        name = next((e.name for _, _, e in all_logic(self.bench.level) if e.id == rule_id), "")
        return Stop(f"fires {name}")

    def add(self, text: str) -> None:
        """Stop at what a text speaks of; what it cannot mean is told."""
        try:
            find_moments(self.bench.run, text)
        except ValueError as error:
            self.bench.notify(f"{error.args[0]}.")
            return
        if len(self.stops) < MOST and Stop(text) not in self.stops:
            self.stops.append(Stop(text))
        self.bench.notify(f"A run stops at {text} from now on.")
        self._keep()

    def switch(self, at: int) -> None:
        """Heed a stop, or do not."""
        self.stops[at] = replace(self.stops[at], on=not self.stops[at].on)
        self._keep()

    def remove(self, at: int) -> None:
        """Take a stop away."""
        del self.stops[at]
        self._keep()

    def words(self, stop: Stop) -> str:
        """Return what a stop is at."""
        if stop.card:
            name = next((e.name for _, _, e in all_logic(self.bench.level) if e.id == stop.graph_id), "")
            return f"card {stop.card} of “{name}”"
        verb, _, rest = stop.text.partition(" ")
        return f"the firing of “{rest}”" if verb == "fires" else stop.text

    # when

    def moments(self) -> list[Cursor]:
        """Return every moment of the run that is shown at which one of them holds it."""
        run = self.bench.run
        if self._moments is None or self._moments[:2] != (run, run.done):
            self._moments = run, run.done, stop_moments(run, self.stops) if self.stops else []
        return self._moments[2]

    def moments_of(self, rule_id: int, card: int = 0) -> list[Cursor]:
        """Return every moment of the run that is shown at which a rule fires or a card runs."""
        return stop_moments(self.bench.run, [self._for(rule_id, card)])

    def first_between(self, before: Cursor, tick: int) -> Cursor | None:
        """Return the first moment after one, up to the end of a tick, at which a run is held."""
        return next((at for at in self.moments() if before < at and at.tick <= tick), None)

    def step(self, by: int) -> None:
        """Put the cursor at the next moment that a stop holds, or at the one before."""
        now = self.bench.cursor
        found = [at for at in self.moments() if (at > now if by > 0 else at < now)]
        if not found:
            self.bench.notify(
                "There is no stop after this moment." if by > 0 else "There is no stop before this moment."
            )
            return
        self.bench.move_cursor(found[0] if by > 0 else found[-1])

    # keeping

    def _key(self) -> str:
        path = self.bench.path
        return f"stops/{str(path).replace('/', '|')}" if path is not None else ""

    def _on_file(self) -> None:
        key = self._key()
        if key == self._file:
            return
        if key and self._file == "" and self.stops:
            # the level has been given a file of its own
            self._file = key
            self._keep()
            return
        self._file = key
        kept = self.settings.value(key) if key else None
        self.stops = [_read(str(text)) for text in kept] if isinstance(kept, list) else []
        self._moments = None
        self.changed.emit()

    def _keep(self) -> None:
        self._moments = None
        if self._key():
            self.settings.setValue(self._key(), [_written(s) for s in self.stops])
        self.changed.emit()


def _written(stop: Stop) -> str:
    return f"{int(stop.on)} {stop.graph_id} {stop.card} {stop.text}"


def _read(text: str) -> Stop:
    parts = text.split(" ", 3)
    if len(parts) != 4 or not all(part.isascii() and part.isdigit() and len(part) < 10 for part in parts[:3]):
        return Stop("faults", on=False)
    return Stop(parts[3], int(parts[1]), int(parts[2]), parts[0] == "1")
