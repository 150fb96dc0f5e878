"""Writes docs/building.md: how many key presses and clicks each study takes, from an empty level, counted by the tests."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from xml.etree import ElementTree

ROOT = Path(__file__).resolve().parent.parent
AIMS = {"study 1": 60, "study 6": 90, "study 7": 90, "study 13": 90, "study 12": 90}
BY_MOUSE = 60
HEAD = """# Building from nothing

What it takes to build the heart of some studies in the window, from an empty level to a trial whose expectations hold: real
key presses and clicks, counted by the tests in tests/desk/test_building.py, test_building_reuse.py, test_drawing_graphs.py and test_by_mouse.py. Every letter that is
typed counts as a press.
Written by `tools/building.py`.

| what is built | key presses | clicks | together | aim |
| --- | ---: | ---: | ---: | ---: |
"""


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "report.xml"
        subprocess.run(
            [
                sys.executable,
                "-m",
                "pytest",
                "-q",
                "tests/desk/test_building.py",
                "tests/desk/test_building_reuse.py",
                "tests/desk/test_drawing_graphs.py",
                "tests/desk/test_by_mouse.py",
                f"--junitxml={report}",
            ],
            cwd=ROOT,
            check=True,
            env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        )
        rows = []
        for found in ElementTree.parse(report).iter("property"):
            if found.get("name") == "building":
                what, presses, clicks = (found.get("value") or "").split("|")
                aim = BY_MOUSE if "mouse" in what else AIMS.get(what.partition(",")[0])
                together = int(presses) + int(clicks)
                said = (
                    "none set" if aim is None else f"under {aim}" + (", not met" if together >= aim else "")
                )
                rows.append(f"| {what} | {presses} | {clicks} | {together} | {said} |")
    (ROOT / "docs" / "building.md").write_text(HEAD + "\n".join(rows) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
