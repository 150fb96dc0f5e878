"""Writing unsaved work aside in a thread of its own: always the latest level, at once if nothing is being written."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from gatillo.files.level_file import LevelFileError
from gatillo.files.unsaved import DraftSaver
from gatillo.level.model import Level

REST = 1.0
"""After each write the thread rests for so many times as long as the write took, so that a drag does not keep it busy."""


class DraftWriter:
    """Keeps the latest level aside.

    While one level is written, further ones wait, and only the last of them is written next.
    """

    def __init__(self, failed: Callable[[Path, str], object]) -> None:
        """`failed` is called in the writing thread with the folder and the reason, once until writing works again."""
        self._failed = failed
        self._drafts = DraftSaver()
        self._thread = ThreadPoolExecutor(max_workers=1, thread_name_prefix="unsaved")
        self._lock = threading.Lock()
        self._waiting: tuple[Level | None, Path | None] | None = None
        """What is to be written next: a level and its file, or None for its level if nothing is to be kept."""
        self._at_work = False
        self._hurry = threading.Event()
        self._works = True

    def keep(self, level: Level | None, of: Path | None) -> None:
        """Write a level aside; None removes what was written, because all is saved."""
        with self._lock:
            self._waiting = level, of
            if level is None:
                self._hurry.set()
            if self._at_work:
                return
            self._at_work = True
        self._thread.submit(self._work)

    def flush(self) -> None:
        """Wait until the latest level is written."""
        self._hurry.set()
        self._thread.submit(lambda: None).result()

    def close(self) -> None:
        """Remove what was written, and end the thread."""
        self.keep(None, None)
        self._hurry.set()
        self._thread.shutdown(wait=True)

    def _work(self) -> None:
        while True:
            with self._lock:
                waiting, self._waiting = self._waiting, None
                if waiting is None:
                    self._at_work = False
                    self._hurry.clear()
                    return
            begun = time.monotonic()
            self._write(*waiting)
            self._hurry.wait(REST * (time.monotonic() - begun))

    def _write(self, level: Level | None, of: Path | None) -> None:
        if level is None:
            self._drafts.forget()
            return
        try:
            self._drafts.save(level, of)
        except (OSError, LevelFileError) as error:
            # it must not stop the work
            if self._works:
                self._works = False
                why = error.strerror or str(error) if isinstance(error, OSError) else str(error)
                self._failed(self._drafts.folder, why)
            return
        self._works = True
