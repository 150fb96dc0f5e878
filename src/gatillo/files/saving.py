"""Writing a file so that a failure at any moment loses nothing.

The new version is written aside, flushed to disk, read back and only then put in the place of the old one, which is kept as
`NAME~`. At every moment either the old or the new version stands whole under the file's name, and a previous version beside it.
"""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import stat
import uuid
from collections.abc import Callable
from pathlib import Path

_ASIDE = re.compile(r"^\.gatillo-(\d+)-[0-9a-f]{8}\.(?:saving|previous)$")
PREVIOUS = "~"
"""At the end of the name under which the previous version is kept."""


class NotSaved(Exception):
    """A file that could not be saved; the message says why. What was on disk is as it was."""


def save(path: Path, raw: bytes, check: Callable[[bytes], None]) -> str:
    """Save bytes under a name; `check` is given what was read back and raises if that will not do.

    Links are followed and stay; mode, owner and attributes are kept where that is allowed. Gives a sentence when the
    previous version could not be kept, else "". Raises NotSaved, and what `check` raises.
    """
    target = Path(os.path.realpath(path))
    before = _state(target)
    clear_leftovers(target.parent)
    aside = target.parent / _aside_name("saving")
    try:
        _write(aside, raw)
        check(aside.read_bytes())
        if before is None:
            umask = os.umask(0)
            os.umask(umask)
            aside.chmod(0o666 & ~umask)
        else:
            _take_over(target, aside, before)
        kept = "" if before is None else _keep_previous(target, before)
        if before is not None and before.st_nlink > 1:
            # other names of the same file are to show the new version too
            _write_over(target, aside)
        else:
            os.replace(aside, target)
        _flush_folder(target.parent)
    except OSError as error:
        raise NotSaved(error.strerror or str(error)) from None
    finally:
        with contextlib.suppress(OSError):
            aside.unlink()
    return kept


def _state(target: Path) -> os.stat_result | None:
    try:
        before = target.stat()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise NotSaved(error.strerror or str(error)) from None
    if not stat.S_ISREG(before.st_mode):
        raise NotSaved("it is not a regular file (it is a folder, a pipe or a device)")
    return before


def _aside_name(what: str) -> str:
    # short, so that names as long as a disk allows can be saved too
    return f".gatillo-{os.getpid()}-{uuid.uuid4().hex[:8]}.{what}"


def _write(path: Path, raw: bytes) -> None:
    with path.open("xb") as out:
        out.write(raw)
        out.flush()
        os.fsync(out.fileno())


def _take_over(target: Path, aside: Path, before: os.stat_result) -> None:
    """Give the new version the owner, the mode and the attributes of the old, where that is allowed."""
    with contextlib.suppress(OSError):
        os.chown(aside, before.st_uid, before.st_gid)
    aside.chmod(stat.S_IMODE(before.st_mode))
    with contextlib.suppress(OSError, AttributeError):
        for name in os.listxattr(target):
            with contextlib.suppress(OSError):
                os.setxattr(aside, name, os.getxattr(target, name))


def _keep_previous(target: Path, before: os.stat_result) -> str:
    """Keep the old version beside the file; there is a whole previous version at every moment."""
    kept = target.with_name(target.name + PREVIOUS)
    link = target.parent / _aside_name("previous")
    try:
        if before.st_nlink > 1:
            shutil.copy2(target, link)
            with link.open("rb+") as copy:
                os.fsync(copy.fileno())
        else:
            os.link(target, link)
        os.replace(link, kept)
    except OSError as error:
        return f"Saved, but its previous version could not be kept: {error.strerror or error}"
    finally:
        # two names of one file are not replaced by one another: the second stays
        with contextlib.suppress(OSError):
            link.unlink()
    return ""


def _write_over(target: Path, aside: Path) -> None:
    raw = aside.read_bytes()
    with target.open("rb+") as out:
        out.write(raw)
        out.truncate()
        out.flush()
        os.fsync(out.fileno())


def clear_leftovers(folder: Path) -> None:
    """Clear away what programs that ended while saving left in a folder."""
    with contextlib.suppress(OSError):
        for name in os.listdir(folder):
            found = _ASIDE.match(name)
            if found and int(found.group(1)) != os.getpid() and not _runs(int(found.group(1))):
                with contextlib.suppress(OSError):
                    (folder / name).unlink()


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _flush_folder(folder: Path) -> None:
    # some disks cannot flush a folder; the file itself is flushed
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
