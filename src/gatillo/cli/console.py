"""Where the commands write, and how they exit with an error.

A level's texts may contain anything. Everything written here shows control characters as numbers, so that no level can
control the terminal, and works with every encoding of the output.
"""

from __future__ import annotations

import io
import json
import math
import os
import re
import sys
from functools import cache
from typing import TYPE_CHECKING, Any, NoReturn

import typer

if TYPE_CHECKING:
    from rich.console import Console

_STEERS = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")
"""Control characters, marks that change the direction of writing, and lone surrogates."""


def plain(text: str) -> str:
    """Return a text as a terminal can show it: an escape character stands as its number."""
    return _STEERS.sub(_number, text)


def _number(found: re.Match[str]) -> str:
    code = ord(found.group())
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}"


def write_text(text: str) -> None:
    """Write a text on the standard output."""
    sys.stdout.write(plain(text))


def write_json(data: Any) -> None:
    """Write data as JSON to the standard output, with control characters escaped."""
    try:
        written = json.dumps(data, ensure_ascii=not _is_unicode(sys.stdout), indent=2, allow_nan=False)
    except ValueError:
        # JSON has no infinity and no NaN: write null
        return write_json(_finite(data))
    # within JSON they can only stand in texts
    written = _STEERS.sub(lambda found: f"\\u{ord(found.group()):04x}", written)
    sys.stdout.write(written + "\n")


def _finite(data: Any) -> Any:
    if isinstance(data, dict):
        return {key: _finite(value) for key, value in data.items()}
    if isinstance(data, list | tuple):
        return [_finite(value) for value in data]
    return None if isinstance(data, float) and not math.isfinite(data) else data


def _is_unicode(out: Any) -> bool:
    return (getattr(out, "encoding", None) or "utf-8").lower().replace("-", "").startswith("utf")


def make_ready() -> None:
    """Make the standard outputs accept every text, and replace closed ones."""
    for name in ("stdout", "stderr"):
        out = getattr(sys, name)
        if out is None:
            setattr(sys, name, open(os.devnull, "w", encoding="utf-8"))  # noqa: SIM115
        elif isinstance(out, io.TextIOWrapper):
            out.reconfigure(errors="backslashreplace")


def cannot_write(error: OSError) -> NoReturn:
    """Exit with code 2 because the output is full or closed; a closed pipe is not reported."""
    # otherwise Python flushes the rest at exit, and fails again
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    if not isinstance(error, BrokenPipeError):
        what = f"“{error.filename}”" if error.filename else "the output"
        sys.stderr.write(f"{plain(what)} cannot be written or read: {error.strerror or error}\n")
    sys.exit(2)


class Later:
    """A console that is made when it is first written to: the window and `--help` need none."""

    def __init__(self, *, stderr: bool = False) -> None:
        self._stderr = stderr

    @property
    def made(self) -> Console:
        """The console itself."""
        return _console(self._stderr)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.made, name)


@cache
def _console(stderr: bool) -> Console:
    from rich.console import Console

    class Plain(Console):
        def print(self, *objects: Any, **how: Any) -> None:
            super().print(*(plain(o) if isinstance(o, str) else o for o in objects), **how)

    return Plain(stderr=stderr, highlight=False, soft_wrap=True)


out = Later()
err = Later(stderr=True)


def give_up(sentence: str) -> NoReturn:
    """Say what is wrong and leave with exit code 2."""
    err.print(sentence, markup=False)
    raise typer.Exit(2)
