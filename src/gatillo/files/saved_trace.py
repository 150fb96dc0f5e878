"""Reading back the firings of a run that was written as JSON Lines."""

from __future__ import annotations

import json
from pathlib import Path

from gatillo.files.reading import NotRead, bytes_of

MOST_BYTES = 256 << 20


class SavedTraceError(ValueError):
    """A file that holds no such trace; the text says where."""


def read_firings(path: Path) -> list[tuple[int, int, str, int]]:
    """Return the firings of a saved trace: tick, place in the tick, rule, matches. Raises SavedTraceError with a sentence."""
    try:
        lines = bytes_of(path, MOST_BYTES).decode("utf-8").splitlines()
    except UnicodeDecodeError:
        raise SavedTraceError(f"“{path}” is no text") from None
    except NotRead as error:
        raise SavedTraceError(f"“{path}” {error}") from None
    found = []
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            record = json.loads(line)
            if number == 1 and "digest" in record:
                continue
            if record["way"] in ("do", "else", "resumed"):
                found.append(
                    (
                        int(record["tick"]),
                        int(record["position"]),
                        str(record["rule"]),
                        int(record["matches"]),
                    )
                )
        except (ValueError, KeyError, TypeError, OverflowError, RecursionError):
            raise SavedTraceError(
                f"“{path}”, line {number}: this is no line of a trace; write one with gatillo run FILE --trace OUT.jsonl"
            ) from None
    return found
