"""Reading a file within bounds, and only what is a file: a pipe or a device may never end."""

from __future__ import annotations

import os
import stat
from pathlib import Path


class NotRead(Exception):
    """A file that cannot be read; the message is the end of a sentence that begins with its name."""


class NotThere(NotRead):
    """There is no file of that name."""


def bytes_of(path: Path, most: int) -> bytes:
    """Return the contents of a file. Raises NotRead if it is not a regular file, cannot be read, or exceeds `most` bytes."""
    try:
        # a pipe without a writer would be waited for
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with open(handle, "rb") as file:
            found = os.fstat(handle)
            mode = found.st_mode
            if stat.S_ISDIR(mode):
                raise NotRead("is a folder, not a file")
            if not stat.S_ISREG(mode):
                raise NotRead("is a pipe or a device, not a file; copy what it gives into a file first")
            # asked before, so that nothing large is read; a file may grow meanwhile
            raw = file.read(most + 1) if found.st_size <= most else b""
    except FileNotFoundError:
        raise NotThere("is not there") from None
    except IsADirectoryError:
        raise NotRead("is a folder, not a file") from None
    except PermissionError:
        raise NotRead("may not be read; ask its owner for leave, or copy it") from None
    except (OSError, ValueError) as error:
        raise NotRead(f"cannot be read: {getattr(error, 'strerror', None) or error}") from None
    if max(len(raw), found.st_size) > most:
        raise NotRead(f"is {found.st_size >> 20} MB; at most {most >> 20} MB are read")
    return raw
