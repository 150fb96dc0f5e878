"""Run study trials by this revision and by another, taking turns: `python -m benchmarks.against REVISION [--rounds 3]`.

The other revision is checked out beside this one and runs in a process of its own; the levels are those of the other one, which
both can read. Prints the ratio for each study and their geometric mean: below 1 this one is faster.
"""

from __future__ import annotations

import argparse
import json
import math
import subprocess
import sys
import tempfile
from pathlib import Path

from msgspec.structs import replace
from rich.console import Console
from rich.table import Table

from benchmarks import big_level, few
from gatillo.files.level_file import write_level

ROOT = Path(__file__).resolve().parent.parent
DRIVER = """
import importlib, json, sys, time
from pathlib import Path

def found(*names):
    for name in names:
        module, _, thing = name.rpartition(".")
        try:
            return getattr(importlib.import_module(module), thing)
        except (ImportError, AttributeError):
            continue
    raise SystemExit(f"none of these is there: {names}")

Program = found("gatillo.sim.program.program.Program", "gatillo.sim.program.Program")
Run = found("gatillo.sim.run.run.Run", "gatillo.sim.run.Run")
read_level = found("gatillo.files.level_file.read_level")
kept = {}
print("ready", flush=True)
for line in sys.stdin:
    path = json.loads(line)
    try:
        if path not in kept:
            level = read_level(Path(path))
            kept[path] = Program(level), level.trials[0]
        program, trial = kept[path]
        begun = time.perf_counter()
        run = Run(program, trial)
        run.advance()
        print(json.dumps(time.perf_counter() - begun), flush=True)
    except Exception as error:
        print(json.dumps(str(error)), flush=True)
"""


class Side:
    """A revision in a process of its own."""

    def __init__(self, source: Path) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-c", DRIVER],
            env={"PYTHONPATH": str(source / "src"), "PATH": "", "OMP_NUM_THREADS": "1"},
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert self.process.stdout is not None
        if self.process.stdout.readline().strip() != "ready":
            raise SystemExit(f"{source} cannot be run")

    def seconds(self, path: Path) -> float | str:
        """How long a study's first trial takes there, or why it does not run."""
        assert self.process.stdin is not None and self.process.stdout is not None
        self.process.stdin.write(json.dumps(str(path)) + "\n")
        self.process.stdin.flush()
        found: float | str = json.loads(self.process.stdout.readline())
        return found

    def close(self) -> None:
        """End the process."""
        assert self.process.stdin is not None
        self.process.stdin.close()
        self.process.wait(timeout=20)


def measure(revision: str, rounds: int) -> float:
    """The geometric mean of this revision's times as parts of the other's."""
    with tempfile.TemporaryDirectory() as folder:
        other = Path(folder) / "other"
        subprocess.run(
            ["git", "worktree", "add", "--detach", str(other), revision],
            cwd=ROOT,
            check=True,
            capture_output=True,
        )
        try:
            return _table(other, revision, rounds)
        finally:
            subprocess.run(
                ["git", "worktree", "remove", "--force", str(other)],
                cwd=ROOT,
                check=False,
                capture_output=True,
            )


def _others(folder: Path) -> list[tuple[Path, str]]:
    """Levels of working size beside the studies, as files, and what is aimed at for each."""
    s = big_level.scene(1_000, 200)
    big = big_level.level(s, 60)
    big = replace(big, settings=replace(big.settings, most_objects=50_000))
    made = {
        "1,000 objects, 200 moving, 60 rules": (
            replace(big, trials=(replace(big.trials[0], length=5.0),)),
            "0.35",
        ),
        "60 rules looked at, one match each": (few.looked_at(60), "0.18"),
        "60 rules firing, one match each": (few.firing(60), ""),
    }
    found = []
    for name, (level, aim) in made.items():
        write_level(folder / f"{name}.gatillo", level)
        found.append((folder / f"{name}.gatillo", aim))
    return found


def _table(other: Path, revision: str, rounds: int) -> float:
    here, there = Side(ROOT), Side(other)
    table = Table(f"the first trial of each study, against {revision}", "here, s", f"{revision}, s", "ratio")
    ratios: list[float] = []
    studies = sorted((other / "src" / "gatillo" / "examples").glob("*.gatillo"))
    for path, aim in [(study, None) for study in studies] + _others(other.parent):
        mine: list[float] = []
        theirs: list[float] = []
        why = ""
        for _ in range(rounds):
            for side, times in ((here, mine), (there, theirs)):
                found = side.seconds(path)
                if isinstance(found, str):
                    why = found
                else:
                    times.append(found)
        if why or not mine or not theirs:
            table.add_row(path.stem, "", "", f"not run: {why[:60]}")
            continue
        # the best of several: the rest is what the machine did besides
        ratio = min(mine) / min(theirs)
        if aim is None:
            ratios.append(ratio)
        told = f"{ratio:.2f}" + (f" (aim: {aim})" if aim else "")
        table.add_row(path.stem, f"{min(mine):.3f}", f"{min(theirs):.3f}", told)
    mean = math.exp(sum(map(math.log, ratios)) / len(ratios)) if ratios else math.nan
    table.add_row("geometric mean of the studies", "", "", f"{mean:.3f}")
    Console(highlight=False).print(table)
    for side in (here, there):
        side.close()
    return mean


def main() -> None:
    """Measure against the revision that is given."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("revision")
    words.add_argument("--rounds", type=int, default=3)
    given = words.parse_args()
    measure(given.revision, given.rounds)


if __name__ == "__main__":
    main()
