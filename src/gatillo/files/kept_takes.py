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

from gatillo.files.owners import is_alive, my_name, owner_of, state_folder, write_aside
from gatillo.files.reading import NotRead, bytes_of
from gatillo.level.model import Input, Trial

SUFFIX = ".takes"
MOST_BYTES = 16 << 20


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
        self._own = os.urandom(4).hex()
        self.file: Path | None = None

    def keep(self, takes: Sequence[Take], of: Path | None, name: str) -> None:
        """Write the takes of a level whose file is `of`; with none, nothing is kept. Raises OSError."""
        if not takes:
            self.forget()
            return
        kept = _Kept(of=_absolute(of), name=name, takes=list(takes))
        self.file = self._folder / f"{my_name(self._folder)}+{self._own}{SUFFIX}"
        write_aside(self.file, msgspec.json.encode(kept))

    def forget(self) -> None:
        """Nothing is to be kept any more."""
        if self.file is not None:
            with contextlib.suppress(OSError):
                self.file.unlink()

    def left(self, of: Path | None, process: str = "") -> list[Take]:
        """Take over what an ended process left of a level: by its file, or of one that has none by the process's name."""
        found: list[Take] = []
        try:
            files = sorted(file for file in self._folder.iterdir() if file.name.endswith(SUFFIX))
        except OSError:
            return []
        for file in files:
            owner = owner_of(file)
            if is_alive(self._folder, owner):
                continue
            try:
                kept = msgspec.json.decode(bytes_of(file, MOST_BYTES), type=_Kept)
            except (NotRead, ValueError, RecursionError, msgspec.MsgspecError):
                continue
            if (of is not None and kept.of == _absolute(of)) or (process and owner == process):
                found += kept.takes
                with contextlib.suppress(OSError):
                    file.unlink()
        return found


def _absolute(path: Path | None) -> str:
    return str(path.absolute()) if path else ""
