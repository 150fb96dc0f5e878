"""Installing Gatillo's desktop entry, icon, file type and description, where the XDG standards say."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from importlib.resources import files
from pathlib import Path

ID = "org.gatillo.Gatillo"
MIME = "application/x-gatillo"

PLACES = {
    f"{ID}.desktop": Path("applications"),
    f"{ID}.svg": Path("icons/hicolor/scalable/apps"),
    f"{ID}.xml": Path("mime/packages"),
    f"{ID}.metainfo.xml": Path("metainfo"),
}
"""By file: the folder of a data directory that it belongs into."""
CACHES = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
"""What keeps a list of such files, and of which folder; each is asked where it is there."""


def icon() -> Path:
    """Return the program's icon."""
    return Path(str(files(__name__) / f"{ID}.svg"))


def data_home() -> Path:
    """Return where one user's data is, as the XDG Base Directory Specification has it."""
    named = os.environ.get("XDG_DATA_HOME", "")
    # a path that is not absolute is to be ignored
    return Path(named) if os.path.isabs(named) else Path.home() / ".local" / "share"


def command() -> str:
    """Return what starts this program."""
    beside = Path(sys.executable).with_name("gatillo")
    found = str(beside) if beside.exists() else shutil.which("gatillo")
    return found or f"{sys.executable} -m gatillo.cli.main"


def quoted(argument: str) -> str:
    """Return an argument as it stands in the Exec key of a desktop entry."""
    if not any(c in argument for c in " \t\n\"'\\><~|&;$*?#()`"):
        return argument.replace("%", "%%")
    inner = "".join(f"\\{c}" if c in '"`$\\' else c for c in argument)
    # a backslash stands twice, since the value is a string of the file first
    return '"' + inner.replace("\\", "\\\\").replace("%", "%%") + '"'


def text_of(name: str, start: str) -> str:
    """Return a file's text, with what starts the program in it."""
    return (files(__name__) / name).read_text("utf-8").replace("@COMMAND@", start)


def install(home: Path) -> list[Path]:
    """Put all files into a data directory; gives where. Raises OSError when one cannot be written."""
    start = command()
    made = write_files(home, start if " -m " in start else quoted(start))
    refresh(home)
    return made


def write_files(home: Path, start: str) -> list[Path]:
    """Put all files into a data directory, with the command that starts the program, and return where they are.

    The desktop's own lists are left alone. Raises OSError when a file cannot be written.
    """
    made = []
    for name, folder in PLACES.items():
        path = home / folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text_of(name, start), "utf-8")
        made.append(path)
    return made


def remove(home: Path) -> list[Path]:
    """Take them away again; gives those that were there. Raises OSError when one cannot be removed."""
    gone = []
    for name, folder in PLACES.items():
        path = home / folder / name
        if path.exists():
            path.unlink()
            gone.append(path)
    refresh(home)
    return gone


def refresh(home: Path) -> None:
    """Update the desktop's lists of programs; otherwise it sees the files later."""
    for program, folder in CACHES:
        found = shutil.which(program)
        if found is not None and (home / folder).is_dir():
            extra = ["--ignore-theme-index", "--quiet"] if program.startswith("gtk") else []
            subprocess.run([found, *extra, str(home / folder)], capture_output=True, check=False, timeout=60)
