"""Mutation testing of the core: small changes to the code, each run against the tests that reach the changed line.

    make mutants MUTANTS="--seconds 1800 --seed 7"

Cosmic Ray makes the changes. The suite runs once under coverage, which says which tests reach which line. A change is
run against the quickest of them, then against more of them drawn at random. Changes that none of these notices are
printed as a diff. Which changes are tried, and in which order, follows from the seed; how many from the time.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue
from xml.etree import ElementTree

import coverage
from cosmic_ray.ast import get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator

ROOT = Path(__file__).resolve().parent.parent
FOLDERS = ("catalogue", "sim", "inspect", "level")
TESTS = ("catalogue", "formula", "graph", "hostile", "inspect", "level", "sim", "files", "examples")
"""The tests without a window: each change is run against some of these."""
ROUNDS = (40, 160)
"""How many tests each round has: the quickest ones, then others drawn at random, for what the first do not notice."""
LONGEST = 240
"""Seconds after which a change counts as noticed: it never ends."""
OPERATORS = (
    *(
        f"core/ReplaceComparisonOperator_{one}"
        for one in (
            "Lt_LtE",
            "LtE_Lt",
            "Gt_GtE",
            "GtE_Gt",
            "Eq_NotEq",
            "NotEq_Eq",
            "Lt_Gt",
            "Gt_Lt",
            "Is_IsNot",
            "IsNot_Is",
        )
    ),
    *(
        f"core/ReplaceBinaryOperator_{one}"
        for one in ("Add_Sub", "Sub_Add", "Mul_Div", "Div_Mul", "BitAnd_BitOr")
    ),
    "core/ReplaceAndWithOr",
    "core/ReplaceOrWithAnd",
    "core/ReplaceTrueWithFalse",
    "core/ReplaceFalseWithTrue",
    "core/ReplaceUnaryOperator_Delete_Not",
    "core/ReplaceUnaryOperator_USub_UAdd",
    "core/AddNot",
    "core/NumberReplacer",
    "core/ReplaceBreakWithContinue",
    "core/ReplaceContinueWithBreak",
    "core/ZeroIterationForLoop",
)


@dataclass(frozen=True)
class Mutant:
    """One change: a file, an operator, which of its places, and the line."""

    path: str
    operator: str
    occurrence: int
    line: int


def mutants() -> Iterator[Mutant]:
    """Yield every change there is."""
    for folder in FOLDERS:
        for path in sorted((ROOT / "src" / "gatillo" / folder).rglob("*.py")):
            tree = get_ast(path.read_text())
            nodes = list(_walk(tree))
            for name in OPERATORS:
                operator = get_operator(name)()
                at = 0
                for node in nodes:
                    for start, _ in operator.mutation_positions(node):
                        yield Mutant(str(path.relative_to(ROOT)), name, at, start[0])
                        at += 1


def _walk(node):  # type: ignore[no-untyped-def]
    yield node
    for child in getattr(node, "children", ()):
        yield from _walk(child)


class Reached:
    """Which tests reach which line, and how long each takes (s): from one run of the suite under coverage."""

    def __init__(self, folder: Path) -> None:
        data, report = folder / "reached", folder / "tests.xml"
        if not data.exists():
            self._run(data, report)
        self.data = coverage.CoverageData(str(data))
        self.data.read()
        self.seconds: dict[str, float] = {}
        for case in ElementTree.parse(report).iter("testcase"):
            where = str(case.get("classname", "")).replace(".", "/")
            self.seconds[f"{where}.py::{case.get('name')}"] = float(case.get("time") or 0)
        self._lines: dict[str, dict[int, list[str]]] = {}

    @staticmethod
    def _run(data: Path, report: Path) -> None:
        print("running the tests once, to see which of them reach which line …", flush=True)
        subprocess.run(
            [
                *(sys.executable, "-m", "pytest", "-q", "-n", "2", "-p", "no:cacheprovider"),
                *("--cov=src/gatillo", "--cov-context=test", "--cov-report=", f"--junitxml={report}"),
                *(f"tests/{name}" for name in TESTS),
            ],
            cwd=ROOT,
            env={**os.environ, "COVERAGE_FILE": str(data), "QT_QPA_PLATFORM": "offscreen"},
            stdout=subprocess.DEVNULL,
            check=False,
        )

    def tests_of(self, mutant: Mutant) -> list[list[str]]:
        """Return the tests that reach a line, in rounds; for lines run on import, those that reach the module."""
        path = str(ROOT / mutant.path)
        lines = self._lines.setdefault(mutant.path, self.data.contexts_by_lineno(path))
        contexts = lines.get(mutant.line, [])
        if contexts and not any(contexts):
            contexts = [one for line in lines.values() for one in line]
        tests = {context.partition("|")[0] for context in contexts if context}
        quickest = sorted(tests, key=lambda test: (self.seconds.get(test, 1.0), test))
        first, others = quickest[: ROUNDS[0]], quickest[ROUNDS[0] :]
        more = random.Random(str(mutant)).sample(others, min(len(others), ROUNDS[1]))
        return [one for one in (first, more) if one]


def passes(tests: list[str], workplace: Path) -> bool:
    """Return whether these tests pass in a copy of the project."""
    done = subprocess.run(
        [*(sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider"), *tests],
        cwd=workplace,
        env={**os.environ, "PYTHONPATH": str(workplace / "src"), "QT_QPA_PLATFORM": "offscreen"},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        timeout=LONGEST,
        check=False,
    )
    return done.returncode == 0


def tried(mutant: Mutant, rounds: list[list[str]], workplace: Path) -> tuple[bool, str]:
    """Return whether some test notices a change, and the change as a diff."""
    path = workplace / mutant.path
    before = path.read_text()
    after = mutate_code(before, get_operator(mutant.operator)(), mutant.occurrence)
    if after is None or after == before:
        return True, ""
    lines = zip(before.splitlines(), after.splitlines(), strict=False)
    diff = "\n".join(f"    - {a.strip()}\n    + {b.strip()}" for a, b in lines if a != b)
    path.write_text(after)
    try:
        return not all(passes(tests, workplace) for tests in rounds), diff
    except subprocess.TimeoutExpired:
        return True, diff
    finally:
        path.write_text(before)


def main() -> int:
    arguments = argparse.ArgumentParser(description=__doc__)
    arguments.add_argument("--seconds", type=float, default=7200)
    arguments.add_argument("--seed", type=int, default=1)
    arguments.add_argument("--jobs", type=int, default=2)
    arguments.add_argument("--only", default="", help="changes in files whose path holds this text")
    arguments.add_argument(
        "--reached", type=Path, help="folder with what an earlier run learned of these sources"
    )
    given = arguments.parse_args()
    every = [one for one in mutants() if given.only in one.path]
    random.Random(given.seed).shuffle(every)
    with tempfile.TemporaryDirectory() as held:
        folder = Path(held)
        reached = Reached(given.reached or folder)
        places: SimpleQueue[Path] = SimpleQueue()
        for job in range(given.jobs):
            place = folder / str(job)
            for part in ("src", "tests", "docs"):
                shutil.copytree(ROOT / part, place / part, ignore=shutil.ignore_patterns("__pycache__"))
            for part in ("pyproject.toml", "README.md", "Makefile", "CHANGELOG.md"):
                shutil.copy(ROOT / part, place / part)
            places.put(place)
        some = [rounds[0][0] for one in every[:100] if (rounds := reached.tests_of(one))]
        if not passes(some, place):
            raise SystemExit(f"the tests fail in a copy without any change: {place}")
        end = time.monotonic() + given.seconds
        noticed = unnoticed = unreached = 0
        survivors: list[str] = []

        def run(mutant: Mutant) -> tuple[Mutant, str, str] | None:
            if time.monotonic() > end:
                return None
            rounds = reached.tests_of(mutant)
            if not rounds:
                return mutant, "unreached", ""
            place = places.get()
            try:
                killed, diff = tried(mutant, rounds, place)
            finally:
                places.put(place)
            return mutant, "noticed" if killed else "unnoticed", diff

        with ThreadPoolExecutor(given.jobs) as pool:
            for found in pool.map(run, every):
                if found is None:
                    break
                mutant, outcome, diff = found
                noticed += outcome == "noticed"
                unnoticed += outcome == "unnoticed"
                unreached += outcome == "unreached"
                if outcome != "noticed":
                    name = mutant.operator.partition("/")[2]
                    survivors.append(f"{mutant.path}:{mutant.line} {outcome} ({name})\n{diff}")
                    print(survivors[-1], flush=True)
            pool.shutdown(cancel_futures=True)
    all_tried = noticed + unnoticed + unreached
    score = 100 * noticed / max(1, all_tried)
    print(
        f"\n{all_tried:,} of {len(every):,} changes tried (seed {given.seed}): {noticed:,} noticed, "
        f"{unnoticed:,} not noticed, {unreached:,} on lines that no test reaches: {score:.1f} %"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
