"""Earlier versions of a level file, as git keeps them."""

from __future__ import annotations

import subprocess
from dataclasses import dataclass
from pathlib import Path

from gatillo.files.level_file import decode_level
from gatillo.level.model import Level

MOST_REVISIONS = 30
SECONDS = 20
"""How long git may take."""


class NoRevisions(Exception):
    """A file of which git keeps no versions; the message says why, in a sentence."""


@dataclass(frozen=True, slots=True)
class Revision:
    """A version that git keeps: its hash, how long ago it was made, and the first line of what was said of it."""

    hash: str
    age: str
    subject: str

    def words(self) -> str:
        """Return it in a line."""
        return f"{self.subject} ({self.age}, {self.hash})"


def run_git(folder: Path, *words: str) -> bytes:
    """Return what git prints, called in a folder. Raises NoRevisions with a sentence where it fails."""
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), *words], check=False, capture_output=True, timeout=SECONDS
        )
    except FileNotFoundError:
        raise NoRevisions("git is not installed") from None
    except subprocess.TimeoutExpired:
        raise NoRevisions(f"git did not answer within {SECONDS} s") from None
    if done.returncode:
        said = done.stderr.decode(errors="replace").strip().splitlines()
        raise NoRevisions(said[-1] if said else "git failed and said nothing")
    return done.stdout


def revisions(path: Path) -> list[Revision]:
    """Return the versions of a file that git keeps, the latest first. Raises NoRevisions."""
    lines = run_git(
        path.parent, "log", f"-n{MOST_REVISIONS}", "--format=%h%x00%cr%x00%s", "--", path.name
    ).decode(errors="replace")
    found = [Revision(*line.split("\0")) for line in lines.splitlines()]
    if not found:
        raise NoRevisions(f"git keeps no version of “{path.name}” yet")
    return found


def level_of(path: Path, revision: str) -> Level:
    """Return the level that a file held in a version. Raises NoRevisions, or LevelFileError where it was no level."""
    raw = run_git(path.parent, "show", f"{revision}:./{path.name}")
    return decode_level(raw, f"{path.name} at {revision}")
