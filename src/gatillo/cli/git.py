"""`gatillo install-git`: lets git tell what differs between two levels in sentences, in one repository."""

from __future__ import annotations

import shlex
import shutil
import subprocess
import sys
from pathlib import Path

from gatillo.cli.console import give_up, out
from gatillo.cli.level_diff import as_lines
from gatillo.cli.levels import level_from
from gatillo.inspect.level_difference import level_differences

ATTRIBUTES = "*.gatillo diff=gatillo"
"""The line of `.gitattributes` that says which driver levels have."""
DRIVER = "diff.gatillo.command"
NOTHING = Path("/dev/null")
"""What git gives in the place of a file that is not there on one side."""


def install(folder: Path, *, remove: bool) -> list[str]:
    """Set the driver up in the repository that holds a folder, or take it away; return what was done, a sentence for each."""
    root = Path(_git(folder, "rev-parse", "--show-toplevel"))
    attributes = root / ".gitattributes"
    try:
        lines = attributes.read_text(encoding="utf-8").splitlines() if attributes.exists() else []
        kept = [line for line in lines if line.split() != ATTRIBUTES.split()]
        wanted = kept if remove else [*kept, ATTRIBUTES]
        if wanted != lines:
            attributes.write_text("".join(f"{line}\n" for line in wanted), encoding="utf-8")
    except OSError as error:
        give_up(f"“{attributes}” cannot be written: {error.strerror or error}")
    if remove:
        subprocess.run(
            ["git", "-C", str(root), "config", "--unset-all", DRIVER], check=False, capture_output=True
        )
        return [f"{root}: git shows levels as text again"]
    _git(root, "config", DRIVER, f"{_this_program()} git-diff")
    return [
        f"{root}: “git diff” shows what differs between levels in sentences",
        ".gitattributes says so for everybody who has this repository; commit it. Each of them runs “gatillo install-git” once",
    ]


def _this_program() -> str:
    """Return how git is to call this program: by its name where that is found, else by this interpreter."""
    return "gatillo" if shutil.which("gatillo") else f"{shlex.quote(sys.executable)} -m gatillo.cli.main"


def _git(folder: Path, *words: str) -> str:
    try:
        done = subprocess.run(["git", "-C", str(folder), *words], check=False, capture_output=True, text=True)
    except FileNotFoundError:
        give_up("git is not installed")
    if done.returncode:
        give_up(
            f"“{folder}” is in no git repository: {done.stderr.strip().splitlines()[-1:] or 'git said no more'}"
        )
    return done.stdout.strip()


def show_difference(path: str, before: Path, after: Path, renamed_to: str) -> None:
    """Print what differs between two versions of a level, as git asks for it."""
    if renamed_to:
        out.print(f"{path}: renamed to {renamed_to}", markup=False)
        path = renamed_to
    if before == NOTHING or after == NOTHING:
        out.print(f"{path}: {'added' if before == NOTHING else 'removed'}", markup=False)
        return
    found = level_differences(level_from(before), level_from(after))
    if not found:
        return
    for line in (f"{path}:", *(f"  {one}" for one in as_lines(found))):
        out.print(line, markup=False)
