"""Guarding the open file: drafts of unsaved work, and a notice when another program or window writes it."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from gatillo.files.level_file import LevelFileError
from gatillo.files.unsaved import DraftSaver, OpenMark
from gatillo.level.model import Level

PAUSE = 120
"""Milliseconds of rest after an edit before it is written aside, so that a drag is written once."""


class FileGuard(QObject):
    """Keeps what is not saved, and watches the file that is open."""

    changed = Signal()
    """Somebody else has written the file."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._drafts = DraftSaver()
        self._writer = ThreadPoolExecutor(max_workers=1, thread_name_prefix="unsaved")
        self._waiting: tuple[Level, Path | None] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self._write)
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._on_changed)
        self._mark: OpenMark | None = None
        self._path: Path | None = None
        self._seen: tuple[int, int] | None = None
        self._closed = False

    # what is not saved

    def save_draft(self, level: Level | None, of: Path | None) -> None:
        """Keep a level aside, soon; with None there is nothing to keep any more."""
        if level is None:
            self._timer.stop()
            self._waiting = None
            self._writer.submit(self._drafts.forget)
        else:
            self._waiting = (level, of)
            self._timer.start()

    def _write(self) -> None:
        waiting, self._waiting = self._waiting, None
        if waiting is not None:
            self._writer.submit(self._keep, *waiting)

    def _keep(self, level: Level, of: Path | None) -> None:
        try:
            self._drafts.save(level, of)
        except (OSError, LevelFileError):
            # a full disk must not stop the work; saving will report it
            return

    def flush(self) -> None:
        """Write what waits, now."""
        self._timer.stop()
        self._write()
        self._writer.submit(lambda: None).result()

    # the open file

    def watch(self, path: Path) -> int | None:
        """Watch a file; the process of another window that has it open, if one does."""
        if self._path != path:
            self.let_go()
            self._path, self._mark = path, OpenMark(path)
        assert self._mark is not None
        other = self._mark.other()
        if other is None:
            self._mark.set()
        self._seen = _stamp(path)
        if str(path) not in self._watcher.files():
            self._watcher.addPath(str(path))
        return other

    def let_go(self) -> None:
        """Watch no file any more."""
        if self._watcher.files():
            self._watcher.removePaths(self._watcher.files())
        if self._mark is not None:
            self._mark.clear()
        self._mark = self._path = self._seen = None

    def _on_changed(self) -> None:
        path = self._path
        if path is None:
            return
        # a file that was replaced is another one to the watcher
        if path.exists() and str(path) not in self._watcher.files():
            self._watcher.addPath(str(path))
        stamp = _stamp(path)
        if stamp is not None and stamp != self._seen:
            self._seen = stamp
            self.changed.emit()

    def close(self) -> None:
        """The window closes: what was kept is not needed any more."""
        self._timer.stop()
        self.let_go()
        if not self._closed:
            self._closed = True
            self._writer.submit(self._drafts.forget)
            self._writer.shutdown(wait=True)


def _stamp(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size
