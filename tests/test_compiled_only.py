"""An installation of compiled files, without any source, runs a level and explains it."""

from __future__ import annotations

import compileall
import os
import shutil
import subprocess
import sys
from pathlib import Path

import gatillo

ASK = """
import gatillo
from gatillo.examples import study_path
run = gatillo.run(gatillo.read_level(study_path("01-seed-pods.gatillo")))
assert run.passed(), run.problems()
print(run.why("Good night", 794).because()[0].sentence)
print(run.why_value("level.pods").because()[0].sentence)
"""


def test_an_installation_without_sources_runs_and_explains(tmp_path):
    package = tmp_path / "gatillo"
    left_out = shutil.ignore_patterns("desk", "__pycache__", "*.pyc")
    shutil.copytree(Path(gatillo.__file__).parent, package, ignore=left_out)
    assert compileall.compile_dir(package, quiet=1, legacy=True, workers=2)
    for source in package.rglob("*.py"):
        source.unlink()
    # in a process of its own, which finds this package and no other
    env = {**os.environ, "PYTHONPATH": str(tmp_path), "PYTHONSAFEPATH": "1"}
    told = subprocess.run(
        [
            sys.executable,
            "-c",
            f"import gatillo; assert gatillo.__file__.startswith({str(package)!r})\n{ASK}",
        ],
        capture_output=True,
        text=True,
        env=env,
        cwd=tmp_path,
    )
    assert told.returncode == 0, told.stderr
    assert told.stdout.splitlines()[0] == "because basket full is heard"
