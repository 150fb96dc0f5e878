"""The file of the open level: reading and writing it, large ones in a worker."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.file_guard import FileGuard, Stamp, stamp_of
from gatillo.desk.session.worker import Gate, Worker
from gatillo.files.level_file import LevelFileError, read_level, write_level
from gatillo.level import edits
from gatillo.level.model import Level, empty_level
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

FEW_OBJECTS = 1_000
MOST_AT_ONCE = 300_000
"""Objects, and bytes of a file, that are written and read in the window's thread: some hundredths of a second."""


def _is_large(path: Path) -> bool:
    try:
        return path.stat().st_size > MOST_AT_ONCE
    except (OSError, ValueError):
        return False


def _made_ready(path: Path) -> tuple[Level, Run] | LevelFileError:
    """Return the level in a file and the run of its first trial, at its start; or why it cannot be read."""
    try:
        level = read_level(path)
    except LevelFileError as error:
        return error
    trial = (level.trials or empty_level().trials)[0]
    return level, Run(Program(edits.as_tried(level, trial)), trial)


def nothing() -> None:
    """What is done when nothing is to be done."""


def _written(path: Path, level: Level, between: Callable[[], object] = nothing) -> str | LevelFileError:
    """Save a level: a sentence where there is something to say, or why it failed."""
    try:
        return write_level(path, level, between)
    except LevelFileError as error:
        return error


class LevelFile(QObject):
    """Where the level is saved, and what is going on with that file."""

    notified = Signal(str)
    """A message for the user, in a sentence."""
    awaited = Signal(str)
    """The file is being read or written, in a sentence; with "" that is over."""
    changedOnDisk = Signal()
    """The file was written by another program."""
    goneFromDisk = Signal()
    """The file was removed or moved by another program."""

    def __init__(self, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.path: Path | None = None
        self._worker = Worker("files", gate, self)
        self._worker.failed.connect(self._on_failed)
        self._saving = False
        self._guard = FileGuard(self)
        self._guard.changed.connect(self.changedOnDisk)
        self._guard.gone.connect(self.goneFromDisk)
        self._guard.notKept.connect(self.notified)

    def read(self, path: Path, wanted: Callable[[], bool], opened: Callable[[Level, Run], object]) -> bool:
        """Read a level file and give it to `opened`; when it cannot be read, say why.

        A large one is read in a worker: then True says no more than that it is being read, and it is given only if it is
        still `wanted`.
        """
        self.drop()
        # before it is read: a version that is written meanwhile has not been seen
        seen = stamp_of(path)
        if not _is_large(path):
            return self._take_read(_made_ready(path), path, seen, opened)

        def read(found: tuple[Level, Run] | LevelFileError) -> None:
            self.awaited.emit("")
            if not wanted():
                self.notified.emit(
                    f"“{path.name}” was not opened, because this level was changed in the meantime."
                )
                return
            self._take_read(found, path, seen, opened)

        self.awaited.emit(f"Reading “{path.name}” …")
        self._worker.ask(lambda job: _made_ready(path), read)
        return True

    def _take_read(
        self,
        found: tuple[Level, Run] | LevelFileError,
        path: Path,
        seen: Stamp | None,
        opened: Callable[[Level, Run], object],
    ) -> bool:
        if isinstance(found, LevelFileError):
            self.notified.emit(str(found))
            return False
        self.forget_path()
        self.path = path
        other = self._guard.watch(path, seen)
        opened(*found)
        if other is not None:
            self.notified.emit(
                f"“{path.name}” is open in another window too (process {other}). Whichever saves last wins; "
                "save under another name to keep both."
            )
        return True

    def write(
        self, path: Path, level: Level, wanted: Callable[[], bool], saved: Callable[[], object]
    ) -> bool:
        """Save a level and call `saved`; when that fails, say why.

        A large one is written in a worker: then True says no more than that it is being written, and what follows is done
        only if it is still `wanted`.
        """
        self.drop()
        if len(level.objects) <= FEW_OBJECTS and not (path == self.path and _is_large(path)):
            return self._take_written(_written(path, level), path, saved)

        def written(found: str | LevelFileError) -> None:
            self._saving = self._guard.is_written = False
            self.awaited.emit("")
            if wanted():
                self._take_written(found, path, saved)

        self._saving = self._guard.is_written = True
        self.awaited.emit(f"Saving “{path.name}” …")
        self._worker.ask(lambda job: _written(path, level, job.stand_aside), written)
        return True

    def _take_written(self, found: str | LevelFileError, path: Path, saved: Callable[[], object]) -> bool:
        if found:
            self.notified.emit(str(found))
        if isinstance(found, LevelFileError):
            return False
        self.path = path
        self._guard.watch(path)
        saved()
        return True

    def _on_failed(self) -> None:
        self._saving = self._guard.is_written = False
        self.awaited.emit("")

    def drop(self) -> None:
        """Give up reading a file; what is being written is written to its end."""
        if self._worker.busy and not self._saving:
            self._worker.drop()
            self.awaited.emit("")

    def is_unseen(self) -> bool:
        """Return whether another program has written the file since it was read or saved here, so that saving would lose that."""
        return self._guard.is_unseen()

    def take_up(self, path: Path, since: float) -> None:
        """Go on with a file whose unsaved work was brought back; the work was kept aside `since` then, in seconds since 1970."""
        self.path = path
        self._guard.take_up(path, since)

    def take_as_seen(self) -> None:
        """Let saving replace what is on disk now."""
        self._guard.take_as_seen()

    def forget_path(self) -> None:
        """The level has no file of its own any more."""
        self._guard.let_go()
        self.path = None

    def save_draft(self, level: Level | None, of: Path | None) -> None:
        """Keep a level that is not saved, in case the program ends; with None there is nothing to keep."""
        self._guard.save_draft(level, of)

    def flush(self) -> None:
        """Keep what is to be kept now."""
        self._guard.flush()

    def close(self) -> None:
        """Stop the worker. The draft is not needed any more."""
        self._worker.close()
        self._guard.close()
