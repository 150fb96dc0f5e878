"""The level file: JSON of the document, read strictly, written atomically."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from gatillo.files.locate import line_of
from gatillo.files.reading import NotRead, NotThere, bytes_of
from gatillo.files.saving import NotSaved, save
from gatillo.level.model import FORMAT_VERSION, Level
from gatillo.level.naming import shortened
from gatillo.level.validation import flaws

MOST_BYTES = 64 << 20
SUFFIX = ".gatillo"


class LevelFileError(Exception):
    """A level file that cannot be read or written; the message says in a few lines what, where and what to do."""

    def __init__(self, message: str) -> None:
        super().__init__(shortened(message, 600))


class _Head(msgspec.Struct):
    gatillo: Any = None


def why_not_written(level: Level) -> str:
    """Return what in a level could not stand in a file (a number out of its range, too much of it), in a sentence; "" when all can."""
    raw = msgspec.json.encode(level)
    if len(raw) > MOST_BYTES:
        return _too_large(len(raw))
    try:
        msgspec.json.decode(raw, type=Level)
    except msgspec.ValidationError as error:
        what, _, path = str(error).partition(" - at ")
        return f"{_plain_words(what)} ({path.strip('`').removeprefix('$.')})"
    return ""


def encode_level(level: Level) -> bytes:
    """Return the level as it stands in a file: stable order, one thing a line. Raises LevelFileError if it cannot stand there."""
    # read once more, so that a whole number put where a measure is is written as every measure is
    try:
        plain = msgspec.json.decode(msgspec.json.encode(level), type=Level)
    except msgspec.ValidationError:
        raise LevelFileError(f"this cannot stand in a level file: {why_not_written(level)}") from None
    return msgspec.json.format(msgspec.json.encode(plain), indent=2) + b"\n"


def file_bytes(level: Level) -> bytes:
    """Return what is written of a level: as `encode_level` has it, or without line breaks where that would be too much.

    Raises LevelFileError where the level cannot stand in a file, or takes more than one may have.
    """
    raw = encode_level(level)
    if len(raw) > MOST_BYTES:
        # without its line breaks it may still be read
        raw = msgspec.json.encode(level)
    if len(raw) > MOST_BYTES:
        raise LevelFileError(_too_large(len(raw)))
    return raw


def _too_large(size: int) -> str:
    return f"it would take {size >> 20} MB, and a level file may have at most {MOST_BYTES >> 20} MB; take something out"


def _nothing() -> None:
    """What is called between the steps of reading, where nothing waits for the result."""


def decode_level(raw: bytes, name: str = "the file", between: Callable[[], object] = _nothing) -> Level:
    """Return the level in these bytes. Raises LevelFileError with what is wrong, the path and the line.

    `between` is called now and then, for a worker that is to stand aside for others.
    """
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
    _check_nesting(text, name, between)
    _check_version(raw, text, name)
    try:
        level = msgspec.json.decode(raw, type=Level)
    except (msgspec.ValidationError, RecursionError) as error:
        raise _with_place(str(error), text, name) from None
    for flaw in flaws(level):
        raise LevelFileError(f"{name}, line {line_of(text, flaw.path)} ({flaw.path}): {flaw.message}")
    return level


DEEPEST = 100
"""Far deeper than any level is nested; deeper still would only tire the reader."""


def _check_nesting(text: str, name: str, between: Callable[[], object]) -> None:
    """What the reader itself would let pass: too deep a nesting, and an entry that stands twice."""
    if not _is_plainly_nested(text, between):
        _find_nesting(text, name)


def _is_plainly_nested(text: str, between: Callable[[], object]) -> bool:
    """Return whether nothing stands twice or too deep; False also for what is no JSON. Quick, but cannot say where."""

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        between()
        entries = dict(pairs)
        if len(entries) < len(pairs):
            raise ValueError
        return entries

    try:
        inner: list[Any] = [[json.loads(text, object_pairs_hook=once)]]
    except (ValueError, RecursionError):
        return False
    for _ in range(DEEPEST + 1):
        inner = [
            within
            for part in inner
            for within in (part.values() if isinstance(part, dict) else part)
            if isinstance(within, dict | list)
        ]
        if not inner:
            return True
    return False


MARKS = re.compile(r'("(?:[^"\\]++|\\(?s:.)?+)*+"?)(\s*:)?|[\[{\]}]')
"""A text with the colon after it, or a bracket. An unclosed text extends to the end, so that each character is read once."""


def _find_nesting(text: str, name: str) -> None:
    open_: list[set[str]] = []
    for match in MARKS.finditer(text):
        first = match.group()[0]
        if first == '"':
            if match.group(2) and open_:
                key = _unescaped(match.group(1))
                if key in open_[-1]:
                    line = text.count("\n", 0, match.start()) + 1
                    raise LevelFileError(
                        f"{name}, line {line}: the entry “{key[:80]}” appears twice in one object; remove one of them"
                    )
                open_[-1].add(key)
        elif first in "[{":
            open_.append(set())
            if len(open_) > DEEPEST:
                line = text.count("\n", 0, match.start()) + 1
                raise LevelFileError(
                    f"{name}, line {line}: this is nested more than {DEEPEST} deep; no level file is"
                )
        elif open_:
            open_.pop()


def _unescaped(written: str) -> str:
    try:
        return str(json.loads(written))
    except ValueError:
        return written


def _check_version(raw: bytes, text: str, name: str) -> None:
    try:
        head = msgspec.json.decode(raw, type=_Head)
    except msgspec.ValidationError:
        raise LevelFileError(f"{name} is not a level file: it does not begin with a JSON object") from None
    except (msgspec.DecodeError, RecursionError) as error:
        raise _with_place(str(error), text, name) from None
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


def _with_place(message: str, text: str, name: str) -> LevelFileError:
    """Msgspec's message as a sentence with its line."""
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
        return f"{wanted} is needed here, not {_TYPES.get(expected.group(2), expected.group(2))}"
    bound = re.match(r"Expected `\w+` (>=|<=|>|<) (\S+)$", message)
    if bound:
        words = {">": "above", ">=": "at least", "<": "below", "<=": "at most"}
        return f"this number must be {words[bound.group(1)]} {float(bound.group(2)):,.12g}"
    length = re.match(r"Expected `(\w+)` of length <= (\d+)$", message)
    if length:
        what = "this text may have {} letters" if length.group(1) == "str" else "there may be {} of these"
        return f"{what.format(f'{int(length.group(2)):,}')} at most"
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


def read_level(path: Path | str) -> Level:
    """Return the level in a file. Raises LevelFileError with a sentence; nothing is half-loaded."""
    path = Path(path)
    name = path.name or str(path)
    try:
        raw = bytes_of(path, MOST_BYTES)
    except NotThere:
        raise LevelFileError(f"there is no file “{path}”") from None
    except NotRead as error:
        raise LevelFileError(f"“{shortened(name, 100)}” {error}") from None
    return decode_level(raw, name)


def write_level(path: Path | str, level: Level, between: Callable[[], object] = _nothing) -> str:
    """Save a level so that nothing is lost (saving.py); the previous version is kept as `NAME~`.

    Gives a sentence when the previous version could not be kept, else "". Raises LevelFileError; the file on disk is then
    as it was. `between` is called now and then, for a worker that is to stand aside for others.
    """
    path = Path(path)
    try:
        raw = file_bytes(level)
    except LevelFileError as error:
        raise LevelFileError(f"“{path.name}” was not saved: {error}. What was on disk is unchanged") from None
    try:
        return save(path, raw, lambda written: _is_whole(written, raw, path.name, between))
    except NotSaved as error:
        raise LevelFileError(
            f"“{path.name}” could not be saved: {error}. What was on disk is unchanged; save it elsewhere"
        ) from None


def _is_whole(written: bytes, raw: bytes, name: str, between: Callable[[], object]) -> None:
    """Whether what is on disk is what was written, and can be read."""
    if written != raw:
        raise NotSaved("what was written could not be read back")
    try:
        decode_level(written, name, between)
    except LevelFileError as error:
        raise NotSaved(f"it could not be opened again ({error})") from None
