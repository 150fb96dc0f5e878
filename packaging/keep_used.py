"""Take out of an environment what Gatillo does not use: `keep_used.py ENVIRONMENT`.

Qt is most of it. Kept are the modules that are imported, the plugins of a desktop, and the libraries that these need;
the packages' tests and their files for compilers and editors go too.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from pathlib import Path

IMPORTED = re.compile(r"^\s*(?:from|import) PySide6(?:\.(Qt\w+)| import ([\w, ]+))", re.MULTILINE)
PLUGINS = (
    "iconengines",
    "imageformats",
    "platforminputcontexts",
    "platforms",
    "platformthemes",
    "wayland-decoration-client",
    "wayland-graphics-integration-client",
    "wayland-shell-integration",
    "xcbglintegrations",
)
PLATFORMS = ("offscreen", "wayland", "xcb")
OF_NO_USE = ("libqtvirtualkeyboardplugin", "libqpdf")
"""Plugins that would bring QML or a reader of documents with them."""
NEEDED = re.compile(r"\(NEEDED\).*\[(.+)\]")


def modules(packages: Path) -> set[str]:
    """Return the modules of PySide6 that Gatillo and its plots import."""
    found = set()
    for source in [*packages.glob("gatillo/**/*.py"), *packages.glob("pyqtgraph/**/*.py")]:
        for one, several in IMPORTED.findall(source.read_text("utf-8")):
            found |= {one} if one else set(re.findall(r"Qt\w+", several))
    return found


def needed(library: Path) -> set[str]:
    """Return the names of the libraries that one needs."""
    told = subprocess.run(["readelf", "--dynamic", library], capture_output=True, text=True, check=True)
    return set(NEEDED.findall(told.stdout))


def keep_qt(side: Path, used: set[str]) -> None:
    """Leave of PySide6 only these modules, the plugins of a desktop, and what they need."""
    plugins = [
        plugin
        for folder in PLUGINS
        for plugin in (side / "Qt/plugins" / folder).glob("*.so")
        if plugin.stem not in OF_NO_USE
        and (folder != "platforms" or plugin.stem.removeprefix("libq") in PLATFORMS)
    ]
    open_ = [*(side / f"{name}.abi3.so" for name in used if (side / f"{name}.abi3.so").exists()), *plugins]
    by_name = {one.name: one for one in [*side.glob("lib*.so*"), *side.glob("Qt/lib/*.so*")]}
    kept: set[Path] = set()
    while open_:
        library = open_.pop()
        if library not in kept:
            kept.add(library)
            open_ += [by_name[name] for name in needed(library) if name in by_name]
    for path in sorted(side.rglob("*"), reverse=True):
        if path.is_dir():
            if not any(path.iterdir()):
                path.rmdir()
        elif path not in kept and not (path.parent == side and path.suffix in (".py", ".typed")):
            path.unlink()


def main(environment: Path) -> None:
    """Take out what is not used."""
    packages = next(environment.glob("lib/python3*/site-packages"))
    side = packages / "PySide6"
    scripts = environment / "bin"
    for script in scripts.iterdir():
        if not script.name.startswith("python") and script.name != "gatillo":
            script.unlink()
    unused = [*packages.glob("**/tests"), *packages.glob("**/include"), packages / "pyqtgraph" / "examples"]
    for folder in [*unused, environment / "include", environment / "share"]:
        shutil.rmtree(folder, ignore_errors=True)
    for pattern in ("*.pyi", "*.pyx", "*.pxd", "*.a", "*.h"):
        for file in packages.rglob(pattern):
            file.unlink()
    keep_qt(side, modules(packages))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
