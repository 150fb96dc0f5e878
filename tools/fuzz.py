"""Tries to break the reader, the formulas, the runs and the saving with random input, for as long as it is given.

    python tools/fuzz.py [--seconds 3600] [--seed 1] [--only files,formulas,edits,saves,window,commands,…] [--jobs 2]
    python tools/fuzz.py --try 1/files/204

Every try must end in a level or a sentence, a value or a fault, the first level again when all is undone, a whole file,
a window that still answers, an output of plain letters. What does not is told with the seed that
brings it back, and makes the command fail. `make fuzz` runs it for an hour.
"""

from __future__ import annotations

import argparse
import json
import multiprocessing
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import numpy as np
from fuzz_edits import Editor
from fuzz_strangers import try_commands, try_disk, try_kits, try_pastes, try_pictures, try_state
from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.contexts.values import Candidates
from gatillo.desk.session.history import History
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import LevelFileError, decode_level, encode_level, why_not_written
from gatillo.formula.compiling import compile_formula
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.findings import findings
from gatillo.level.roles import Index
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws
from gatillo.sim.matching.match_table import View, join_role, table_of
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import World

NUMBERS = (0, -0.0, 1, -1, 1e-300, 1e300, -1e308, 1.7e308, 2**31, 2**62, -(2**63), 0.1, 1e9, 1e12, 359.99)
WORDS = (
    "",
    "x",
    "any",
    "another Pod",
    "level.pods",
    "1 / 0",
    "random(0, 1)",
    "anything",
    "pointer",
    "nobody",
    "\u0007",
    "<b>",
    "{",
    "}}",
)
SLOWEST = 2.0
"""Seconds that a tick may take."""


def mutated(chance: random.Random, data: Any, depth: int = 0) -> Any:
    """The data with something in it changed."""
    if isinstance(data, dict) and data and chance.random() < 0.9:
        key = chance.choice(list(data))
        what = chance.random()
        if what < 0.06:
            return {k: v for k, v in data.items() if k != key}
        if what < 0.1:
            return {**data, chance.choice([*WORDS, key.upper()]): data[key]}
        return {**data, key: mutated(chance, data[key], depth + 1)}
    if isinstance(data, list) and data and chance.random() < 0.9:
        at = chance.randrange(len(data))
        what = chance.random()
        if what < 0.08:
            return data[:at] + data[at + 1 :]
        if what < 0.16:
            return [*data, data[at]]
        if what < 0.2:
            return data[::-1]
        return [*data[:at], mutated(chance, data[at], depth + 1), *data[at + 1 :]]
    if isinstance(data, bool):
        return not data
    if isinstance(data, int | float):
        return chance.choice([*NUMBERS, data * 1000, -data, data + 0.5, str(data), None])
    if isinstance(data, str):
        return chance.choice(
            [*WORDS, data * 2, data[:-1], data.upper(), chance.choice(list(CATALOGUE)), 3, None]
        )
    return chance.choice([None, [], {}, 0, "x", [[[]]]])


def try_file(chance: random.Random, seen: Counter[str]) -> None:
    """One study, changed in a few places; if it can be read it is checked and run for a second."""
    data = json.loads(study_path(chance.choice(study_names())).read_bytes())
    for _ in range(chance.choice((1, 1, 2, 4, 12))):
        data = mutated(chance, data)
    raw = json.dumps(data).encode()
    if chance.random() < 0.1:
        at = chance.randrange(len(raw))
        raw = raw[:at] + bytes(chance.randrange(256) for _ in range(3)) + raw[at + chance.randrange(4) :]
    try:
        level = decode_level(raw)
    except LevelFileError as error:
        assert len(str(error)) <= 600
        seen["refused"] += 1
        return
    seen["read"] += 1
    assert decode_level(encode_level(level)) == level
    findings(level)
    if not level.trials:
        return
    run = Run(Program(level), level.trials[0])
    for _ in range(60):
        begun = time.perf_counter()
        run.advance(1)
        took = time.perf_counter() - begun
        assert took < SLOWEST * 4, f"tick {run.done} took {took:.1f} s"
        seen["slow ticks"] += took > SLOWEST
        seen["most ms a tick"] = max(seen["most ms a tick"], round(1000 * took))
    for column in ("x", "y", "vx", "vy", "angle", "scale"):
        assert np.isfinite(getattr(run.world, column)).all(), column
    seen["run"] += 1


LEVEL = decode_level(study_path(study_names()[5]).read_bytes())
INDEX = Index(LEVEL)
PROGRAM = Program(LEVEL)


def random_formula(chance: random.Random, depth: int = 0) -> str:
    """A formula, mostly one that fits; names of the study's own kinds and variables."""
    roles = list(INDEX.role_tokens)
    if depth > 4 or chance.random() < 0.25:
        names = [
            f"{chance.choice(roles)}.{chance.choice(('x', 'y', 'vx', 'angle', 'scale', 'depth'))}",
            "time",
            "tick",
            "pointer.x",
        ]
        return chance.choice(
            [
                *names,
                repr(chance.choice(NUMBERS)),
                f"level.{chance.choice(list(INDEX.level_tokens) or ['none'])}",
            ]
        )

    def inner() -> str:
        return random_formula(chance, depth + 1)

    what = chance.random()
    if what < 0.45:
        return (
            f"({inner()} {chance.choice(('+', '-', '*', '/', '^', 'mod', '<', '=', 'and', 'or'))} {inner()})"
        )
    if what < 0.55:
        return f"{chance.choice(('-', 'not '))}{inner()}"
    if what < 0.6:
        return f"if({inner()} < {inner()}, {inner()}, {inner()})"
    declared = FUNCTIONS[chance.choice(list(FUNCTIONS))]
    given = {
        "role": lambda: chance.choice(roles),
        "location": lambda: chance.choice([*roles, "pointer"]),
        "kind": lambda: chance.choice(list(INDEX.kind_tokens)),
        "kind variable": lambda: f"{chance.choice(list(INDEX.kind_tokens))}.x",
        "area": lambda: chance.choice(list(INDEX.areas) or ["none"]).replace(" ", "_"),
        "each of kind": lambda: f"{inner()} > 0",
        **{name: (lambda: '"Space"') for name in ("message", "timer", "item", "key")},
    }
    parts = [given.get(a, inner)() for a in declared.arguments] + [inner()] * (
        declared.repeats and chance.random() < 0.3
    )
    return f"{declared.name}({', '.join(parts)})"


def try_formula(chance: random.Random, seen: Counter[str]) -> None:
    """One formula over a world of extremes."""
    source = random_formula(chance)
    try:
        formula = compile_formula(INDEX, source)
    except FormulaError:
        seen["refused"] += 1
        return
    world = World(PROGRAM)
    many = len(world.id)
    for column in ("x", "y", "vx", "vy"):
        getattr(world, column)[:] = [chance.choice(NUMBERS) for _ in range(many)]
    table = table_of(Candidates(1))
    for role in formula.roles:
        table = join_role(world, table, INDEX.role_tokens[role])
        if table.n > 20_000:
            seen["too many"] += 1
            return
    view = View(world, table, 0)
    with np.errstate(all="ignore"):
        value = np.broadcast_to(np.asarray(formula.evaluate(view)), (table.n,))
    bad = view.faulted()
    if value.dtype == np.float64:
        good = value if bad is None else value[~bad]
        assert np.isfinite(good).all(), source
    assert all(len(sentence) < 5_000 for _, sentence in view.faults)
    seen["faults" if view.faults else "values"] += 1


SAVER = """
import sys
from pathlib import Path
from gatillo.files.level_file import write_level
from gatillo.level.model import Variable, empty_level
from msgspec.structs import replace
path = Path(sys.argv[1])
def write(n):
    write_level(path, replace(empty_level(), variables=(Variable(name="n", value=float(n)),)))
write(0)
write(1)
print("begun", flush=True)
n = 2
while True:
    write(n)
    n += 1
"""


def try_save(chance: random.Random, seen: Counter[str]) -> None:
    """A program killed while it saves again and again leaves two whole versions."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.gatillo"
        saver = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE)
        assert saver.stdout is not None
        saver.stdout.readline()
        time.sleep(chance.uniform(0, 0.05))
        saver.send_signal(signal.SIGKILL)
        saver.wait()
        now, before = (
            decode_level(p.read_bytes()).variables[0].value for p in (path, path.with_name("a.gatillo~"))
        )
        assert isinstance(now, float) and isinstance(before, float) and now - before in (0, 1)
        seen["whole"] += 1


EDITOR_AT_WORK = """
import sys, time
from msgspec.structs import replace
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from gatillo.desk.application import make_application
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.level.model import Variable, empty_level
make_application()
window = MainWindow(Workbench(empty_level()), QSettings(sys.argv[1], QSettings.Format.IniFormat))
window.show()
n = 0
while True:
    n += 1
    level = window.bench.level
    window.bench.edit(replace(level, variables=(Variable(name="n", value=float(n)),)), "edit")
    print(n, flush=True)
    until = time.monotonic() + 0.15
    while time.monotonic() < until:
        QApplication.processEvents()
        time.sleep(0.002)
"""


def try_killed_window(chance: random.Random, seen: Counter[str]) -> None:
    """A window killed while it is edited leaves its work to be offered; at most the last edit is lost."""
    from gatillo.files.unsaved import look_for_work, recover

    with tempfile.TemporaryDirectory() as folder:
        state = Path(folder) / "state"
        around = {**os.environ, "GATILLO_STATE": str(state), "QT_QPA_PLATFORM": "offscreen"}
        words = [sys.executable, "-c", EDITOR_AT_WORK, str(Path(folder) / "settings.ini")]
        editor = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=around)
        assert editor.stdout is not None
        editor.stdout.readline()
        time.sleep(chance.uniform(0, 1.5))
        editor.send_signal(signal.SIGKILL)
        reported = [1, *map(int, editor.stdout.read().split())][-1]
        editor.wait()
        found, unreadable = look_for_work(state)
        assert len(found) == 1 and not unreadable, (found, unreadable)
        kept = recover(found[0]).variables[0].value
        assert isinstance(kept, float) and -1 <= kept - reported <= 1, (kept, reported)
        seen["edits"] += reported
        seen["brought back"] += 1


MOST_EDITS = 40


def try_edits(chance: random.Random, seen: Counter[str]) -> None:
    """Random edits of a study; undone they give the first level, done again the last one, byte for byte."""
    editor = Editor(chance)
    first = tidied(decode_level(study_path(chance.choice(study_names())).read_bytes()))
    history = History(first)
    for _ in range(chance.randrange(1, MOST_EDITS)):
        seen["edits"] += 1
        try:
            level = tidied(editor.edited(history.level))
        except (LookupError, ValueError):
            seen["refused"] += 1
            continue
        if any(flaws(level)) or why_not_written(level):
            # the workbench does not take it either
            seen["not taken"] += 1
            continue
        history.do(level, "edit")
        assert decode_level(encode_level(level)) == level
    last = encode_level(history.level)
    Program(history.level)
    while history.undo() is not None:
        pass
    assert encode_level(history.level) == encode_level(first), "undone"
    while history.redo() is not None:
        pass
    assert encode_level(history.level) == last, "done again"


PRESSES = 60
ON_TIME = 2.0
"""Seconds of processor time for which the window's thread may be busy with one deed, which is several events."""


def try_window(chance: random.Random, seen: Counter[str]) -> None:
    """Random presses, clicks and typing on a study; the level can be opened again, and nothing holds the window."""
    from PySide6.QtCore import QEvent, QSettings, QTimer
    from PySide6.QtWidgets import QApplication, QFileDialog

    sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "desk"))
    from anybody import Anybody, answer

    from gatillo.desk.application import make_application
    from gatillo.desk.session.workbench import Workbench
    from gatillo.desk.window.main_window import MainWindow

    make_application()
    for name in ("getOpenFileName", "getSaveFileName"):
        setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    broken: list[str] = []
    sys.excepthook = lambda kind, error, trace: broken.append(
        "".join(traceback.format_exception(kind, error, trace))
    )
    with tempfile.TemporaryDirectory() as folder:
        os.environ["GATILLO_STATE"] = folder
        level = decode_level(study_path(chance.choice(study_names())).read_bytes())
        level = replace(level, trials=tuple(replace(t, length=2.0) for t in level.trials))
        settings = QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Workbench(level), settings)
        window.files.ask = lambda *_: "discard"
        window.ask_name = lambda *_: chance.choice(["Moth", "Zed", "a b", "9x", "", None])
        window.ask_text = lambda *_: chance.choice(
            ["level.n", "sends bang", "faults", "1 = 1", "((", "", None]
        )
        window.resize(1280, 800)
        window.show()
        timer = QTimer()
        timer.timeout.connect(lambda: answer(chance))
        timer.start(10)
        anybody = Anybody(window, chance.random())
        for _ in range(PRESSES):
            # of its own thread, so that a machine busy with other work does not count
            begun = time.thread_time()
            anybody.act()
            QApplication.processEvents()
            took = time.thread_time() - begun
            seen["deeds"] += 1
            seen["busy over 200 ms"] += took > 0.2
            seen["most ms a deed"] = max(seen["most ms a deed"], round(1000 * took))
            assert took < ON_TIME, f"the window was busy for {took:.1f} s"
            assert not broken, broken[0]
        timer.stop()
        level = window.bench.level
        assert decode_level(encode_level(level)) == level
        window.close()
        # or what is done to all windows, such as another look, would take longer with each try
        window.deleteLater()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        QApplication.processEvents()


TRIES: dict[str, Callable[[random.Random, Counter[str]], None]] = {
    "files": try_file,
    "formulas": try_formula,
    "edits": try_edits,
    "saves": try_save,
    "kills": try_killed_window,
    "window": try_window,
    "commands": try_commands,
    "kits": try_kits,
    "pictures": try_pictures,
    "state": try_state,
    "disk": try_disk,
    "pastes": try_pastes,
}
SHARE = {
    "files": 0.24,
    "formulas": 0.15,
    "edits": 0.1,
    "saves": 0.03,
    "kills": 0.04,
    "window": 0.12,
    "commands": 0.1,
    "kits": 0.05,
    "pictures": 0.04,
    "state": 0.03,
    "disk": 0.05,
    "pastes": 0.05,
}


MEMORY = 5_000_000_000
"""Bytes that one worker may ask for: a level that asks for more is told with its seed, like any other that breaks."""
BREAKS = 20
"""As many are told of a part before it ends."""


def try_part(name: str, seed: int, first: int, step: int, seconds: float) -> tuple[int, int, Counter[str]]:
    """Tries `first`, `first + step` … of a part until its time is over; how many, how many broke, what was seen."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    seen: Counter[str] = Counter()
    end, tries, broken = time.monotonic() + seconds, 0, 0
    while time.monotonic() < end and broken < BREAKS:
        one = f"{seed}/{name}/{first + tries * step}"
        tries += 1
        try:
            TRIES[name](random.Random(one), seen)
        except Exception:
            broken += 1
            print(f"{name}, seed {one}:\n{traceback.format_exc(limit=-4)}", flush=True)
    seen["most MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000
    return tries, broken, seen


def merged(one: Counter[str], other: Counter[str]) -> Counter[str]:
    """What two workers saw: of what is named “most …” the larger, of the rest the sum."""
    both = one + other
    both.update({name: max(one[name], other[name]) - both[name] for name in both if name.startswith("most ")})
    return both


def main() -> int:
    """Try for the time given, on all cores; 1 if anything broke."""
    words = argparse.ArgumentParser()
    words.add_argument("--seconds", type=float, default=3600)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--only", default=",".join(TRIES))
    words.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    words.add_argument(
        "--try", dest="one", help="one try alone, by the seed that was told, such as 1/files/204"
    )
    given = words.parse_args()
    if given.one:
        TRIES[given.one.split("/")[1]](random.Random(given.one), Counter())
        return 0
    only = given.only.split(",")
    whole = sum(SHARE[name] for name in only)
    in_all = 0
    for name in only:
        # new processes for each part: the windows of one leave nothing to the next
        with ProcessPoolExecutor(given.jobs, mp_context=multiprocessing.get_context("spawn")) as workers:
            seconds = given.seconds * SHARE[name] / whole
            parts = [
                workers.submit(try_part, name, given.seed, n, given.jobs, seconds) for n in range(given.jobs)
            ]
            tries, broken, seen = 0, 0, Counter[str]()
            for n, part in enumerate(parts):
                try:
                    one = part.result()
                except BrokenProcessPool:
                    broken += 1
                    print(f"{name}: worker {n} of {given.jobs} died, or one beside it", flush=True)
                    continue
                tries, broken, seen = tries + one[0], broken + one[1], merged(seen, one[2])
        in_all += broken
        print(f"{name}: {tries:,} tries, {broken} broke, {dict(seen)}", flush=True)
    print(f"{in_all} broke" if in_all else "nothing broke")
    return 1 if in_all else 0


if __name__ == "__main__":
    sys.exit(main())
