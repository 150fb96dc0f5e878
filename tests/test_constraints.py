"""The list of packages with their hashes holds what the program needs, in the versions that it is tested with."""

from __future__ import annotations

import re
import tomllib
from pathlib import Path

ROOT = Path(__file__).parent.parent
PINNED = re.compile(r"^([A-Za-z0-9_.-]+)==(\S+)", re.MULTILINE)


def pinned(name: str) -> dict[str, str]:
    text = (ROOT / name).read_text()
    return {package.lower().replace("_", "-"): version for package, version in PINNED.findall(text)}


def test_hashed_packages_have_the_versions_of_the_constraints():
    versions, hashed = pinned("constraints.txt"), pinned("constraints-hashed.txt")
    assert hashed
    assert {name: versions.get(name, version) for name, version in hashed.items()} == hashed


def test_every_hashed_package_has_hashes():
    blocks = re.split(r"\n(?=\S)", (ROOT / "constraints-hashed.txt").read_text().strip())
    assert all("--hash=sha256:" in block for block in blocks if PINNED.match(block))


def test_what_the_program_asks_for_is_in_the_list():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    extras = project["optional-dependencies"]
    asked = [*project["dependencies"], *extras["desk"], *extras["kernels"]]
    names = {re.match(r"[A-Za-z0-9_.-]+", one).group().lower() for one in asked}
    assert names <= set(pinned("constraints-hashed.txt"))
