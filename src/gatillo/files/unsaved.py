"""Drafts: unsaved work, saved aside after each edit. The start page offers what a crash left.

Each window has one file in the user's state folder (XDG), named by its process (owners.py). A file whose process no
longer runs was left by a crash.
"""

from __future__ import annotations

import contextlib
import os
import uuid
from dataclasses import dataclass
from pathlib import Path

import msgspec

from gatillo.files.level_file import MOST_BYTES, LevelFileError, decode_level, file_bytes
from gatillo.files.owners import is_alive, my_name, number_of, owner_of, state_folder, write_aside
from gatillo.files.reading import NotRead, bytes_of
from gatillo.level.model import Level

SUFFIX = ".unsaved"
_HEAD = 1 << 20
"""Maximum size in bytes of such a file without its level."""


class _Draft(msgspec.Struct):
    """What is in such a file: where the level came from (or ""), its name, and the level itself."""

    of: str
    name: str
    level: msgspec.Raw


@dataclass(frozen=True, slots=True)
class Left:
    """Unsaved work that an ended process left."""

    file: Path
    of: Path | None
    name: str
    when: float
    """Seconds since 1970."""

    @property
    def owner(self) -> str:
        """The name of the process that left it."""
        return owner_of(self.file)


class DraftSaver:
    """Saves drafts: the unsaved edits of one window, in a file of its own. Its methods may be called from a worker."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or state_folder()
        self._own = uuid.uuid4().hex[:8]
        self.file: Path | None = None
        """Where the draft is, once there is one."""

    def save(self, level: Level, of: Path | None) -> None:
        """Write a draft of a level whose file is `of`. Raises OSError, LevelFileError."""
        raw = msgspec.Raw(file_bytes(level))
        draft = _Draft(of=str(of.absolute()) if of else "", name=level.name, level=raw)
        self.file = self.folder / f"{my_name(self.folder)}+{self._own}{SUFFIX}"
        write_aside(self.file, msgspec.json.encode(draft))

    def forget(self) -> None:
        """There is nothing unsaved any more."""
        if self.file is not None:
            with contextlib.suppress(OSError):
                self.file.unlink()


def left_behind(folder: Path | None = None) -> list[Left]:
    """Return unsaved work of processes that have ended, newest first; other files in the folder are ignored."""
    return look_for_work(folder)[0]


def look_for_work(folder: Path | None = None) -> tuple[list[Left], list[str]]:
    """Return unsaved work of processes that have ended, newest first, and a sentence for each file of it that cannot be read."""
    folder = folder or state_folder()
    found: list[Left] = []
    alone: list[str] = []
    try:
        files = sorted(file for file in folder.iterdir() if file.name.endswith(SUFFIX))
    except OSError:
        return [], []
    for file in files:
        if is_alive(folder, owner_of(file)):
            continue
        try:
            draft = msgspec.json.decode(bytes_of(file, MOST_BYTES + _HEAD), type=_Draft)
            of = Path(draft.of) if draft.of else None
            found.append(Left(file, of, draft.name, file.stat().st_mtime))
        except NotRead as error:
            alone.append(f"“{file.name}” {error}")
        except (OSError, ValueError, RecursionError, msgspec.MsgspecError):
            alone.append(f"“{file.name}” is not what this program writes")
    return sorted(found, key=lambda left: -left.when), alone


def recover(left: Left) -> Level:
    """Return the level that was left. Raises LevelFileError."""
    try:
        draft = msgspec.json.decode(bytes_of(left.file, MOST_BYTES + _HEAD), type=_Draft)
    except (NotRead, ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise LevelFileError(f"the unsaved work “{left.name}” cannot be read: {error}") from None
    return decode_level(bytes(draft.level), f"the unsaved work “{left.name}”")


def throw_away(left: Left) -> None:
    """Unsaved work that is not wanted any more."""
    with contextlib.suppress(OSError):
        left.file.unlink()


# one file, two windows


class OpenMark:
    """Records which process has a level file open, so that a second window can warn, also through another link to the file."""

    def __init__(self, path: Path, folder: Path | None = None) -> None:
        self._folder = folder or state_folder()
        self.file = self._folder / f"{_key(path)}.open"

    def other(self) -> str | None:
        """Return the number of the process that has the file open, if another one does."""
        try:
            name = bytes_of(self.file, 200).decode("ascii")
        except (NotRead, ValueError):
            return None
        if not is_alive(self._folder, name) or name == self._mine():
            return None
        return number_of(name) or "of another time"

    def _mine(self) -> str:
        try:
            return my_name(self._folder)
        except OSError:
            return ""

    def set(self) -> None:
        """Record that this process has the file open."""
        with contextlib.suppress(OSError):
            write_aside(self.file, my_name(self._folder).encode())

    def clear(self) -> None:
        """Record that this process has closed the file."""
        if self.other() is None:
            with contextlib.suppress(OSError):
                self.file.unlink()


def _key(path: Path) -> str:
    """Return a name for a file that is the same for every link and path to it, also after it is saved again."""
    real = os.path.realpath(path)
    with contextlib.suppress(OSError):
        found = os.stat(real)
        if found.st_nlink > 1:
            # saving writes into it, so that it stays the same file under all its names
            return uuid.uuid5(uuid.NAMESPACE_URL, f"{found.st_dev} {found.st_ino}").hex
    return uuid.uuid5(uuid.NAMESPACE_URL, real).hex
