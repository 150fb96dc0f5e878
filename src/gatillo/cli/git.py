"""`gatillo install-git`: lets git show what differs between two levels in sentences and merge them, in one repository."""

from __future__ import annotations

import shlex
import shutil
import sys
from contextlib import suppress
from pathlib import Path

from gatillo.cli.console import give_up, out
from gatillo.cli.level_diff import as_lines, merge_files
from gatillo.cli.levels import level_from
from gatillo.files.revisions import NoRevisions, run_git
from gatillo.inspect.level_difference import level_differences

ATTRIBUTES = "*.gatillo diff=gatillo merge=gatillo"
"""The line of `.gitattributes` that says which drivers levels have."""
EARLIER = ("*.gatillo diff=gatillo",)
"""What the line was in earlier versions."""
DRIVERS = {
    "diff.gatillo.command": "{program} git-diff",
    "merge.gatillo.name": "levels of Gatillo",
    "merge.gatillo.driver": "{program} git-merge %O %A %B %P",
}
"""The settings of a repository that name the drivers."""
NOTHING = Path("/dev/null")
"""What git gives in the place of a file that is not there on one side."""


def install(folder: Path, *, remove: bool) -> list[str]:
    """Set the driver up in the repository that holds a folder, or take it away; return what was done, a sentence for each."""
    root = Path(_git(folder, "rev-parse", "--show-toplevel"))
    attributes = root / ".gitattributes"
    try:
        lines = attributes.read_text(encoding="utf-8").splitlines() if attributes.exists() else []
        kept = [line for line in lines if " ".join(line.split()) not in (ATTRIBUTES, *EARLIER)]
        wanted = kept if remove else [*kept, ATTRIBUTES]
        if wanted != lines:
            attributes.write_text("".join(f"{line}\n" for line in wanted), encoding="utf-8")
    except OSError as error:
        give_up(f"“{attributes}” cannot be written: {error.strerror or error}")
    for setting, value in DRIVERS.items():
        if remove:
            with suppress(NoRevisions):
                run_git(root, "config", "--unset-all", setting)
        else:
            _git(root, "config", setting, value.format(program=_this_program()))
    if remove:
        return [f"{root}: git shows and merges levels as text again"]
    return [
        f"{root}: “git diff” shows what differs between levels in sentences, and “git merge” merges them by what they hold",
        ".gitattributes says so for everybody who has this repository; commit it. Each of them runs “gatillo install-git” once",
    ]


def _this_program() -> str:
    """Return how git is to call this program: by its name where that is found, else by this interpreter."""
    return "gatillo" if shutil.which("gatillo") else f"{shlex.quote(sys.executable)} -m gatillo.cli.main"


def _git(folder: Path, *words: str) -> str:
    try:
        return run_git(folder, *words).decode(errors="replace").strip()
    except NoRevisions as error:
        give_up(f"“{folder}” is in no git repository: {error}")


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


def merge_versions(base: Path, ours: Path, theirs: Path, path: str) -> bool:
    """Merge two versions of a level as git asks for it, in the place of ours; return whether something is left to be settled.

    A file that is no level is left to git: an exit with a sentence, and git says that it is not merged.
    """
    left = merge_files(base, ours, theirs, ours)
    if left:
        out.print(
            f"{path or ours}: {len(left)} to be settled; open it in the window: File, Settle the merge",
            markup=False,
        )
    for line in left:
        out.print(f"  {line}", markup=False)
    return bool(left)
