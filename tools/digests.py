"""Write the digests of the examples' trials, of their state at every tick and of their traces; with --check say which differ.

They are the same on every machine, with any supported NumPy, and with kernels compiled or not: who finds others has found a
fault. `--ticks N` looks at the first N ticks only, `--of TEXT` at the examples with this in their name.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import sys
from pathlib import Path

from gatillo.examples import example_names, study_path
from gatillo.files.level_file import read_level
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import World

TABLE = Path(__file__).parent.parent / "tests" / "examples" / "digests.json"
FIRST = 300
"""After so many ticks the state's digest is noted too, so that a shorter run can be compared."""


def digests_of(name: str, ticks: int | None) -> dict[str, list[str]]:
    """Return, by trial, digests of an example's states up to tick `FIRST`, up to the end, and of its trace."""
    built = read_level(study_path(name))
    found: dict[str, list[str]] = {}
    for trial in built.trials:
        run = Run(Program(built), trial)
        states = hashlib.blake2b(digest_size=8)
        early = [""]

        def look(world: World, states: hashlib.blake2b = states, early: list[str] = early) -> None:
            states.update(world.state_bytes())
            if world.tick == FIRST:
                early[0] = states.hexdigest()

        run.after_tick = look
        run.advance(min(ticks, run.length) if ticks else None)
        found[f"{name}: {trial.name}"] = [early[0], states.hexdigest(), run.trace.digest()[:16]]
    return found


def main() -> int:
    read = argparse.ArgumentParser(description=__doc__)
    read.add_argument("--check", action="store_true")
    read.add_argument("--ticks", type=int)
    read.add_argument("--of", default="")
    given = read.parse_args()
    found: dict[str, list[str]] = {}
    for name in example_names():
        if given.of in name:
            found.update(digests_of(name, given.ticks))
    if not given.check:
        if given.ticks or given.of:
            read.error("all trials are written, and whole")
        TABLE.write_text(json.dumps(found, indent=1) + "\n")
        return 0
    known = json.loads(TABLE.read_text())
    # of a shorter run, only what it has come to
    many = 1 if given.ticks else 3
    wrong = [trial for trial, digests in found.items() if digests[:many] != known.get(trial, [])[:many]]
    if not (given.ticks or given.of):
        wrong += [trial for trial in known if trial not in found]
    for trial in wrong:
        print(f"another run than before: {trial}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
