"""Takes: what was pressed while a level was played, kept over a crash.

Each window has one file of them in the user's state folder, named by its process. A file whose process no longer runs was left
by a crash: it is taken over by the window in which the same level is opened next.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Sequence
from pathlib import Path

import msgspec

from gatillo.files.unsaved import is_running, state_folder
from gatillo.level.model import Input, Trial

SUFFIX = ".takes"


class Take(msgspec.Struct, frozen=True):
    """One play of a trial: what was pressed, where it began and how long it is. Ticks are counted at `rate` a second."""

    number: int
    trial: str
    input: Input
    begun: int
    """The tick after which the live keyboard took over."""
    ticks: int
    rate: int
    when: str
    """The time of day, such as 13:05."""

    @property
    def seconds(self) -> float:
        """Its length in seconds, from the start of the trial."""
        return self.ticks / self.rate

    @property
    def label(self) -> str:
        """How it is listed: “Take 3 · 4.2 s · 13:05”."""
        return f"Take {self.number} · {self.seconds:.1f} s · {self.when}"

    def of(self, trial: Trial) -> Trial:
        """Return a trial with this take in the place of its script, as long as the take is."""
        return msgspec.structs.replace(trial, input=self.input, length=self.seconds)


class _Kept(msgspec.Struct):
    """What is in such a file: the level's file (or ""), its name, and the takes."""

    of: str
    name: str
    takes: list[Take]


class TakeKeeper:
    """Keeps the takes of one window in a file of its own."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or state_folder()
        self.file = self._folder / f"{os.getpid()}-{os.urandom(4).hex()}{SUFFIX}"

    def keep(self, takes: Sequence[Take], of: Path | None, name: str) -> None:
        """Write the takes of a level whose file is `of`; with none, nothing is kept. Raises OSError."""
        if not takes:
            self.forget()
            return
        kept = _Kept(of=_absolute(of), name=name, takes=list(takes))
        aside = self.file.with_suffix(".takes-part")
        aside.write_bytes(msgspec.json.encode(kept))
        os.replace(aside, self.file)

    def forget(self) -> None:
        """Nothing is to be kept any more."""
        for file in (self.file, self.file.with_suffix(".takes-part")):
            with contextlib.suppress(OSError):
                file.unlink()

    def left(self, of: Path | None, process: str = "") -> list[Take]:
        """Take over what an ended process left of a level: by its file, or of one that has none by the process."""
        found: list[Take] = []
        for file in sorted(self._folder.glob(f"*{SUFFIX}")):
            owner = file.name.partition("-")[0]
            if not owner.isdigit() or is_running(int(owner)):
                continue
            try:
                kept = msgspec.json.decode(file.read_bytes(), type=_Kept)
            except (OSError, msgspec.MsgspecError):
                continue
            if (of is not None and kept.of == _absolute(of)) or (process and owner == process):
                found += kept.takes
                with contextlib.suppress(OSError):
                    file.unlink()
        return found


def _absolute(path: Path | None) -> str:
    return str(path.absolute()) if path else ""
