"""Guarding the open file: drafts of unsaved work, and a notice when another program or window writes it."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, Signal

from gatillo.desk.session.draft_writer import DraftWriter
from gatillo.files.unsaved import OpenMark
from gatillo.level.model import Level

Stamp = tuple[int, int, int, int]
"""Of a version of a file: its disk, its number there, when it was written, and its size."""


class FileGuard(QObject):
    """Keeps what is not saved, and watches the file that is open."""

    changed = Signal()
    """Somebody else has written the file."""
    gone = Signal()
    """Somebody else has removed or moved the file."""
    notKept = Signal(str)
    """Unsaved work cannot be saved aside; the sentence says why. Emitted once until it works again."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._drafts = DraftWriter(self._on_not_kept)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._on_changed)
        self._watcher.directoryChanged.connect(self._on_changed)
        self._mark: OpenMark | None = None
        self._path: Path | None = None
        self._seen: Stamp | None = None
        """The version on disk that this window has read or written, or that its user chose to save over."""
        self._reported: Stamp | None = None
        """The version on disk that was reported to the user last."""
        self.is_written = False
        """While this window itself writes the file."""
        self._closed = False

    # what is not saved

    def save_draft(self, level: Level | None, of: Path | None) -> None:
        """Write a level aside, in a thread of its own; None removes what was written, because all is saved."""
        if not self._closed:
            self._drafts.keep(level, of)

    def flush(self) -> None:
        """Wait until the latest level is written."""
        self._drafts.flush()

    def _on_not_kept(self, folder: Path, why: str) -> None:
        self.notKept.emit(
            f"Unsaved work is not saved for recovery: “{folder}” cannot be written ({why}). "
            "Save often, make room there, or set GATILLO_STATE to another folder and start again."
        )

    # the open file

    def watch(self, path: Path, seen: Stamp | None = None) -> str | None:
        """Watch a file; the number of the process of another window that has it open, if one does.

        `seen` is the version that was read or written; without it, the one that is there now.
        """
        if self._path != path:
            self.let_go()
            self._path, self._mark = path, OpenMark(path)
        assert self._mark is not None
        other = self._mark.other()
        if other is None:
            self._mark.set()
        self._seen = self._reported = seen or stamp_of(path)
        self._look_at(path)
        return other

    def _look_at(self, path: Path) -> None:
        # the folder too: a file that was removed may be written again
        for watched in (str(path), str(path.parent)):
            if watched not in (*self._watcher.files(), *self._watcher.directories()) and os.path.exists(
                watched
            ):
                self._watcher.addPath(watched)

    def is_unseen(self) -> bool:
        """Return whether the file on disk is a version that this window has neither read nor written."""
        now = stamp_of(self._path) if self._path is not None else None
        return now is not None and now != self._seen

    def take_as_seen(self) -> None:
        """The user knows of the version on disk, and keeps to their own: saving may replace it."""
        if self._path is not None:
            self._seen = self._reported = stamp_of(self._path)

    def take_up(self, path: Path, since: float) -> None:
        """Watch a file whose unsaved work was brought back; what was written to it `since` then (seconds since 1970) was not seen."""
        self.watch(path)
        with contextlib.suppress(OSError):
            if path.stat().st_mtime > since:
                self._seen = None

    def let_go(self) -> None:
        """Watch no file any more."""
        watched = [*self._watcher.files(), *self._watcher.directories()]
        if watched:
            self._watcher.removePaths(watched)
        if self._mark is not None:
            self._mark.clear()
        self._mark = self._path = self._seen = self._reported = None

    def _on_changed(self) -> None:
        path = self._path
        if path is None or self.is_written:
            return
        # a file that was replaced is another one to the watcher
        self._look_at(path)
        now = stamp_of(path)
        if now in (self._seen, self._reported):
            self._reported = now
            return
        self._reported = now
        if now is None:
            self.gone.emit()
        else:
            self.changed.emit()

    def close(self) -> None:
        """The window closes: what was kept is not needed any more."""
        self.let_go()
        if not self._closed:
            self._closed = True
            self._drafts.close()


def stamp_of(path: Path) -> Stamp | None:
    """Return what tells one version of a file from another, or None where there is no file."""
    try:
        found = path.stat()
    except (OSError, ValueError):
        return None
    return found.st_dev, found.st_ino, found.st_mtime_ns, found.st_size
