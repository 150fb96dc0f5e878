"""Takes: what was played in this session. Playing changes no trial; a take can be looked at, compared and kept as a script."""

from __future__ import annotations

import contextlib
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gatillo.files.kept_takes import Take, TakeKeeper
from gatillo.level.model import Input, Trial
from gatillo.sim.run.run import Run

MOST_TAKES = 10


class Takes(QObject):
    """The last takes, and which of them is shown in the place of the trial's script."""

    changed = Signal()
    """There is another take, or another one is shown."""
    ended = Signal(object)
    """A take has just been played to its end."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.all: list[Take] = []
        """From the oldest to the newest."""
        self.shown: Take | None = None
        self._keeper = TakeKeeper()
        self._count = 0

    def tried(self, trial: Trial) -> Trial:
        """Return what a trial is run as: with the shown take, if it is one of that trial, else with its script."""
        take = self.shown_of(trial.name)
        return take.of(trial) if take is not None else trial

    def shown_of(self, trial: str) -> Take | None:
        """Return the shown take, if it is one of the trial of that name."""
        return self.shown if self.shown is not None and self.shown.trial == trial else None

    def of_trial(self, name: str) -> list[Take]:
        """Return the takes of a trial, the newest first."""
        return [take for take in reversed(self.all) if take.trial == name]

    def made_of(self, run: Run, begun: int, trial: str) -> Take:
        """Return a run that was played as a take; it is not listed yet."""
        pressed = run.script.as_input(run.done)
        when = datetime.now().strftime("%H:%M")
        return Take(self._count + 1, trial, pressed, begun, run.done, run.program.rate, when)

    def add(self, take: Take, of: Path | None, name: str) -> None:
        """List a take and show it. `of` and `name` are the level's file and name."""
        self._count = take.number
        self.all = [*self.all, take][-MOST_TAKES:]
        self.shown = take
        self._keep(of, name)
        self.changed.emit()

    def show(self, take: Take | None) -> None:
        """Show a take; with None, the trial's script."""
        if take is not self.shown:
            self.shown = take
            self.changed.emit()

    def forget(self) -> None:
        """Forget all takes: another level is open."""
        if self.all:
            self.all, self.shown, self._count = [], None, 0
            self._keeper.forget()
            self.changed.emit()

    def take_over(self, of: Path | None, process: str = "") -> None:
        """Take over the takes that a crash left of the level that was opened."""
        left = self._keeper.left(of, process)
        if left:
            self.all = left[-MOST_TAKES:]
            self._count = max(take.number for take in left)
            self._keep(of, "")
            self.changed.emit()

    def renamed(self, old: str, new: str) -> None:
        """Follow a trial that was renamed."""
        with_new = {take: _of(take, new) for take in self.all if take.trial == old}
        if with_new:
            self.all = [with_new.get(take, take) for take in self.all]
            self.shown = with_new.get(self.shown, self.shown) if self.shown is not None else None
            self.changed.emit()

    def _keep(self, of: Path | None, name: str) -> None:
        # a full disk must not stop the work
        with contextlib.suppress(OSError):
            self._keeper.keep(self.all, of, name)

    def close(self) -> None:
        """The window closes: nothing was lost."""
        self._keeper.forget()


def _of(take: Take, trial: str) -> Take:
    return Take(take.number, trial, take.input, take.begun, take.ticks, take.rate, take.when)


def is_empty(pressed: Input) -> bool:
    """Return whether nothing at all comes in."""
    return not (pressed.keys or pressed.pointer or pressed.choices)
