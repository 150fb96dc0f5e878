"""Another process of the program, with a file open and unsaved work."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

HOLDS = """
import sys
from pathlib import Path
from gatillo.files.unsaved import DraftSaver, OpenMark
from gatillo.level.model import empty_level
OpenMark(Path(sys.argv[1]), Path(sys.argv[2])).set()
DraftSaver(Path(sys.argv[2])).save(empty_level(), Path(sys.argv[3]) if sys.argv[3] else None)
print("set", flush=True)
sys.stdin.read()
"""


@contextmanager
def another_process(path: Path, folder: Path, of: Path | None = None) -> Iterator[subprocess.Popen[str]]:
    """A process that has a file open and unsaved work (of the file `of`) in a state folder, until it is killed."""
    asked = [sys.executable, "-c", HOLDS, str(path), str(folder), str(of or "")]
    with subprocess.Popen(asked, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout.readline() == "set\n"
        try:
            yield other
        finally:
            other.kill()
