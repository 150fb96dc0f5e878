"""Drafts: unsaved work, saved aside after each edit. The start page offers what a crash left.

Each window has one file in the user's state folder (XDG), named by its process. A file whose process no
longer runs was left by a crash.
"""

from __future__ import annotations

import contextlib
import os
import uuid
from dataclasses import dataclass
from pathlib import Path

import msgspec
from platformdirs import user_state_path

from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.level.model import Level

SUFFIX = ".unsaved"


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


def state_folder() -> Path:
    """Return where state of the user's that is not settings is kept; made if it is not there."""
    folder = Path(os.environ.get("GATILLO_STATE", "") or user_state_path("gatillo"))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


class DraftSaver:
    """Saves drafts: the unsaved edits of one window, in a file of its own. Its methods may be called from a worker."""

    def __init__(self, folder: Path | None = None) -> None:
        self.file = (folder or state_folder()) / f"{os.getpid()}-{uuid.uuid4().hex[:8]}{SUFFIX}"

    def save(self, level: Level, of: Path | None) -> None:
        """Write a draft of a level whose file is `of`. Raises OSError, LevelFileError."""
        draft = _Draft(
            of=str(of.absolute()) if of else "", name=level.name, level=msgspec.Raw(encode_level(level))
        )
        aside = self.file.with_suffix(".part")
        with aside.open("wb") as out:
            out.write(msgspec.json.encode(draft))
            out.flush()
            os.fsync(out.fileno())
        os.replace(aside, self.file)

    def forget(self) -> None:
        """There is nothing unsaved any more."""
        for file in (self.file, self.file.with_suffix(".part")):
            with contextlib.suppress(OSError):
                file.unlink()


def left_behind(folder: Path | None = None) -> list[Left]:
    """Unsaved work of processes that have ended, the newest first."""
    found: list[Left] = []
    for file in (folder or state_folder()).glob(f"*{SUFFIX}"):
        process = file.name.partition("-")[0]
        if process.isdigit() and is_running(int(process)):
            continue
        try:
            draft = msgspec.json.decode(file.read_bytes(), type=_Draft)
        except (OSError, msgspec.MsgspecError):
            continue
        of = Path(draft.of) if draft.of else None
        found.append(Left(file, of, draft.name, file.stat().st_mtime))
    return sorted(found, key=lambda left: -left.when)


def recover(left: Left) -> Level:
    """Return the level that was left. Raises LevelFileError."""
    try:
        draft = msgspec.json.decode(left.file.read_bytes(), type=_Draft)
    except (OSError, msgspec.MsgspecError) as error:
        raise LevelFileError(f"the unsaved work “{left.name}” cannot be read: {error}") from None
    return decode_level(bytes(draft.level), f"the unsaved work “{left.name}”")


def throw_away(left: Left) -> None:
    """Unsaved work that is not wanted any more."""
    with contextlib.suppress(OSError):
        left.file.unlink()


def is_running(process: int) -> bool:
    """Return whether a process runs."""
    if process == os.getpid():
        return True
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


# one file, two windows


class OpenMark:
    """Says which process has a level file open, so that a second window knows."""

    def __init__(self, path: Path, folder: Path | None = None) -> None:
        name = uuid.uuid5(uuid.NAMESPACE_URL, str(path.absolute())).hex
        self.file = (folder or state_folder()) / f"{name}.open"

    def other(self) -> int | None:
        """Return the process that has the file open, if another one does."""
        try:
            process = int(self.file.read_text())
        except (OSError, ValueError):
            return None
        return process if process != os.getpid() and is_running(process) else None

    def set(self) -> None:
        """Record that this process has the file open."""
        with contextlib.suppress(OSError):
            self.file.write_text(str(os.getpid()))

    def clear(self) -> None:
        """Record that this process has closed the file."""
        if self.other() is None:
            with contextlib.suppress(OSError):
                self.file.unlink()
