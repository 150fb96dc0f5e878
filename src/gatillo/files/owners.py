"""Which of the program's processes a file in the state folder belongs to, and whether that process still runs.

A process has a name of its own and holds a lock on the file `NAME.alive` as long as it runs: the system lets go of it when the
process ends, however it ends. So nothing depends on process numbers, which another process may have by now.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import time
import uuid
from pathlib import Path

from platformdirs import user_state_path

ALIVE = ".alive"
_held: dict[Path, tuple[str, int]] = {}
"""By folder: the name of this process in it, and the file that it holds locked."""


def state_folder() -> Path:
    """Return where the user's state that is not settings is kept. It may not be there yet: `make_folder` makes it."""
    return Path(os.environ.get("GATILLO_STATE", "") or user_state_path("gatillo"))


def make_folder(folder: Path) -> None:
    """Make the state folder, for its owner alone. Raises OSError where that cannot be."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    if folder.stat().st_mode & 0o077:
        with contextlib.suppress(OSError):
            folder.chmod(0o700)


def my_name(folder: Path) -> str:
    """Return the name of this process in a folder, and hold its lock from now on. Raises OSError where the folder cannot be written."""
    known = _held.get(folder)
    if known is not None and _is_mine(folder, *known):
        return known[0]
    make_folder(folder)
    name = f"{time.time_ns():x}-{os.getpid()}-{uuid.uuid4().hex[:8]}"
    handle = os.open(folder / f"{name}{ALIVE}", os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    # where a disk has no locks, work is kept all the same: another window may offer it too early
    with contextlib.suppress(OSError):
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    _held[folder] = name, handle
    return name


def _is_mine(folder: Path, name: str, handle: int) -> bool:
    """Return whether the file that is held is still the one in the folder, which may have been emptied meanwhile."""
    try:
        return os.path.samestat(os.fstat(handle), os.stat(folder / f"{name}{ALIVE}"))
    except OSError:
        return False


def is_alive(folder: Path, name: str) -> bool:
    """Return whether the process of that name runs, this one included."""
    if name and _held.get(folder, ("", 0))[0] == name:
        return True
    try:
        handle = os.open(folder / f"{name}{ALIVE}", os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        # shared: two that ask at once do not take one another for it
        fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False


def owner_of(file: Path) -> str:
    """Return the name of the process that a file in the state folder belongs to: what its name begins with."""
    return file.name.partition(".")[0].partition("+")[0]


def number_of(name: str) -> str:
    """Return the process number in a name, for messages; "" if there is none."""
    parts = name.split("-")
    return parts[1] if len(parts) == 3 and parts[1].isascii() and parts[1].isdigit() else ""


def write_aside(file: Path, raw: bytes) -> None:
    """Write a file of this user alone so that it is whole at every moment. Raises OSError."""
    aside = file.with_name(file.name + ".part")
    handle = os.open(aside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_CLOEXEC, 0o600)
    try:
        with open(handle, "wb") as out:
            out.write(raw)
            out.flush()
            os.fsync(handle)
        os.replace(aside, file)
    except OSError:
        with contextlib.suppress(OSError):
            aside.unlink()
        raise


def clear_leftovers(folder: Path) -> None:
    """Clear away what ended processes left half written, and their marks."""
    with contextlib.suppress(OSError):
        for file in sorted(folder.iterdir()):
            if file.suffix in (".part", ALIVE) and not is_alive(folder, owner_of(file)):
                with contextlib.suppress(OSError):
                    file.unlink()
