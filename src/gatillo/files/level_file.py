"""The level file: JSON of the document, read strictly, written atomically."""

from __future__ import annotations

import contextlib
import os
import re
import tempfile
from pathlib import Path
from typing import Any

import msgspec

from gatillo.files.locate import line_of
from gatillo.level.model import FORMAT_VERSION, Level
from gatillo.level.validation import flaws

MOST_BYTES = 64 << 20
SUFFIX = ".gatillo"


class LevelFileError(Exception):
    """A level file that cannot be read or written; the message says what, where and what to do."""


class _Head(msgspec.Struct):
    gatillo: Any = None


def encode_level(level: Level) -> bytes:
    """The level as it stands in a file: stable order, one thing a line."""
    # read once more, so that a whole number put where a measure stands is written as every measure is
    plain = msgspec.json.decode(msgspec.json.encode(level), type=Level)
    return msgspec.json.format(msgspec.json.encode(plain), indent=2) + b"\n"


def decode_level(raw: bytes, name: str = "the file") -> Level:
    """The level in these bytes. Raises LevelFileError with what is wrong, the path and the line."""
    if len(raw) > MOST_BYTES:
        raise LevelFileError(
            f"{name} is {len(raw) >> 20} MB; a level file may have at most {MOST_BYTES >> 20} MB"
        )
    if not raw.strip():
        raise LevelFileError(f"{name} is empty; it holds no level")
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError as error:
        raise LevelFileError(
            f"{name} is not a level file: it is not text (byte {error.start} cannot be read)"
        ) from None
    _check_nesting(text, name)
    _check_version(raw, text, name)
    try:
        level = msgspec.json.decode(raw, type=Level)
    except (msgspec.ValidationError, RecursionError) as error:
        raise _told(str(error), text, name) from None
    for flaw in flaws(level):
        raise LevelFileError(f"{name}, line {line_of(text, flaw.path)} ({flaw.path}): {flaw.message}")
    return level


def _check_nesting(text: str, name: str) -> None:
    # far deeper than any level; deeper still would only tire the reader
    depth = 0
    for match in re.finditer(r'"(?:[^"\\]++|\\.)*+"|[\[{\]}]', text):
        first = match.group()[0]
        depth += (first in "[{") - (first in "]}")
        if depth > 100:
            line = text.count("\n", 0, match.start()) + 1
            raise LevelFileError(f"{name}, line {line}: this is nested more than 100 deep; no level file is")


def _check_version(raw: bytes, text: str, name: str) -> None:
    try:
        head = msgspec.json.decode(raw, type=_Head)
    except msgspec.ValidationError:
        raise LevelFileError(f"{name} is not a level file: it does not begin with a JSON object") from None
    except (msgspec.DecodeError, RecursionError) as error:
        raise _told(str(error), text, name) from None
    version = head.gatillo
    if version is None:
        raise LevelFileError(
            f"{name} is not a level file: it has no “gatillo” entry with the format's version"
        )
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise LevelFileError(
            f"{name}, line {line_of(text, '$.gatillo')}: the format's version is a whole number, not {version!r}"
        )
    if version > FORMAT_VERSION:
        raise LevelFileError(
            f"{name} was written by a newer Gatillo (format {version}; this one reads up to {FORMAT_VERSION}). "
            "Open it with that version, or save it from there in the older format"
        )


def _told(message: str, text: str, name: str) -> LevelFileError:
    """msgspec's message as a sentence with its line."""
    path = re.search(r" - at `(?:key in )?(\$[^`]*)`", message)
    if path:
        what = message[: path.start()]
        return LevelFileError(
            f"{name}, line {line_of(text, path.group(1))} ({path.group(1)}): {_plain_words(what)}"
        )
    at = re.search(r"\(byte (\d+)\)", message)
    if at:
        line = text.encode().count(b"\n", 0, int(at.group(1))) + 1
        return LevelFileError(
            f"{name}, line {line}: this is not JSON: {message[: at.start()].strip().lower()}"
        )
    if "truncated" in message:
        return LevelFileError(
            f"{name} breaks off after line {text.count(chr(10)) + 1}; it was not written to its end"
        )
    return LevelFileError(f"{name}: {_plain_words(message)}")


_TYPES = {
    "int": "a whole number",
    "float": "a number",
    "str": "a text",
    "bool": "true or false",
    "object": "an object in braces",
    "array": "a list",
    "null": "nothing",
}


def _plain_words(message: str) -> str:
    expected = re.match(r"Expected `(.+)`, got `(.+)`$", message)
    if expected:
        wanted = " or ".join(_TYPES.get(t.strip(), t.strip()) for t in expected.group(1).split("|"))
        return f"here must stand {wanted}, not {_TYPES.get(expected.group(2), expected.group(2))}"
    unknown = re.match(r"Object contains unknown field `(.+)`$", message)
    if unknown:
        return f"there is no entry called “{unknown.group(1)}” here"
    missing = re.match(r"Object missing required field `(.+)`$", message)
    if missing:
        return f"the entry “{missing.group(1)}” is missing"
    value = re.match(r"Invalid (?:enum )?value '?(.+?)'?$", message)
    if value:
        return f"{value.group(1)} is not a value that can stand here"
    return message[:1].lower() + message[1:]


def read_level(path: Path) -> Level:
    """The level in a file. Raises LevelFileError; nothing is half-loaded."""
    name = path.name or str(path)
    try:
        if path.is_dir():
            raise LevelFileError(f"“{name}” is a folder, not a level file")
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise LevelFileError(
                f"{name} is {size >> 20} MB; a level file may have at most {MOST_BYTES >> 20} MB"
            )
        raw = path.read_bytes()
    except FileNotFoundError:
        raise LevelFileError(f"there is no file “{path}”") from None
    except PermissionError:
        raise LevelFileError(f"“{name}” may not be read; ask its owner for leave, or copy it") from None
    except (OSError, ValueError) as error:
        raise LevelFileError(
            f"“{name}” cannot be read: {getattr(error, 'strerror', None) or error}"
        ) from None
    return decode_level(raw, name)


def write_level(path: Path, level: Level) -> None:
    """Save a level atomically: written aside, flushed to disk, then renamed; the previous version is kept as `NAME~`.

    Raises LevelFileError; the file on disk is then as it was.
    """
    raw = encode_level(level)
    aside = ""
    try:
        handle, aside = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "wb") as out:
            out.write(raw)
            out.flush()
            os.fsync(out.fileno())
        if path.exists():
            mode = path.stat().st_mode & 0o777
            before = path.with_name(path.name + "~")
            with contextlib.suppress(FileNotFoundError):
                before.unlink()
            with contextlib.suppress(OSError):  # a disk without hard links keeps no previous version
                os.link(path, before)
        else:
            umask = os.umask(0)
            os.umask(umask)
            mode = 0o666 & ~umask
        os.chmod(aside, mode)
        os.replace(aside, path)
        _flush_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(aside)
        raise LevelFileError(
            f"“{path.name}” could not be saved: {error.strerror or error}. What was on disk is unchanged; save it elsewhere"
        ) from None


def _flush_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
