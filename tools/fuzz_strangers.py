"""Random things from elsewhere for fuzz.py.

Own nodes, commands on odd levels, kits, pictures, the clipboard, state folders, and files that another program changes under
an open window.
"""

from __future__ import annotations

import json
import os
import random
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import CARDS
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import LevelFileError, decode_level, encode_level, read_level, write_level
from gatillo.level.model import Graph, Level, Variable, empty_level
from gatillo.level.roles import all_logic
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws

JUNK = (b"", b"{", b"[" * 5_000, b"\xff\xfe", b"null", b'{"of": 1}', b'"' * 300, b"\0" * 40)


def _study(chance: random.Random) -> dict[str, Any]:
    data: dict[str, Any] = json.loads(study_path(chance.choice(study_names())).read_bytes())
    return data


def _lines(data: Any, found: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Every line and card of a level."""
    for part in data.values() if isinstance(data, dict) else data if isinstance(data, list) else ():
        if isinstance(part, dict) and "use" in part:
            found.append(part)
        _lines(part, found)
    return found


def odd_level(chance: random.Random) -> Level | None:
    """A study in which lines and cards use something else: unknown entries, own nodes, lines within lines; None where it is refused."""
    data = _study(chance)
    lines = _lines(data["order"], [])
    graphs = [entry["name"] for entry in data["order"] if entry.get("is") == "graph"]
    for line in chance.sample(lines, min(len(lines), chance.choice((1, 1, 2, 4)))):
        what = chance.random()
        if what < 0.4:
            line["use"] = chance.choice(
                ["nope", "", chance.choice(list(CATALOGUE)), chance.choice(list(CARDS))]
            )
        elif what < 0.6:
            line["use"] = chance.choice(["own_does", "own_says", "own_keeps", "own"])
            line["with"] = {"graph": chance.choice([*graphs, "x"])}
        elif what < 0.7:
            line["with"] = {}
        elif what < 0.85:
            inner = [json.loads(json.dumps(chance.choice(lines))) for _ in range(2)]
            line["of"] = [{k: v for k, v in one.items() if k not in ("id", "at")} for one in inner]
        else:
            line["negated"] = not line.get("negated", False)
    try:
        return decode_level(json.dumps(data).encode())
    except LevelFileError:
        return None


def try_commands(chance: random.Random, seen: Counter[str]) -> None:
    """Every command on an odd level ends with an exit code and an output of plain letters."""
    from typer.testing import CliRunner

    from gatillo.cli.console import plain
    from gatillo.cli.main import app

    level = odd_level(chance)
    if level is None:
        seen["refused"] += 1
        return
    level = replace(level, trials=tuple(replace(t, length=0.5, seeds=1, rates=()) for t in level.trials))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.gatillo"
        write_level(path, level)
        names = [entry.name for _, _, entry in all_logic(level)] or ["x"]
        graphs = [entry.name for _, _, entry in all_logic(level) if isinstance(entry, Graph)] or ["x"]
        out = Path(folder) / chance.choice(["a.jsonl", "a.csv", "a.vcd", "a.svg", "a.graphml", "a.dot"])
        words = chance.choice(
            [
                ["print", path],
                ["lint", path, "--json"],
                ["lint", path, "--order"],
                ["check", path, "--jobs", "1"],
                ["run", path, "--trace", out],
                ["run", path, "--json"],
                ["why", path, "--rule", chance.choice(names)],
                ["why-not", path, "--rule", chance.choice(names)],
                ["compare", path, path],
                ["graph", path, chance.choice(graphs), out],
                ["read", path, chance.choice(names)],
            ]
        )
        done = CliRunner().invoke(app, list(map(str, words)))
        if done.exception is not None and not isinstance(done.exception, SystemExit):
            raise done.exception
        shown = done.output.replace("\n", "")
        assert plain(shown) == shown
        seen[f"{words[0]} {done.exit_code}"] += 1


def try_kits(chance: random.Random, seen: Counter[str]) -> None:
    """A kit made of one odd level and brought into another gives a level that can be saved."""
    from gatillo.files.kits import bring_kit, clashes, make_kit

    one, other = odd_level(chance), odd_level(chance)
    if one is None or other is None or not one.kinds:
        seen["refused"] += 1
        return
    kinds = [kind.name for kind in one.kinds]
    kit = make_kit(one, "Kit", chance.sample(kinds, chance.randrange(1, min(4, len(kinds)) + 1)))
    found = clashes(other, kit)
    names = {
        (clash.sort, clash.name): clash.free for clash in found if not clash.same or chance.random() < 0.5
    }
    assert decode_level(encode_level(kit)) == kit
    made = tidied(bring_kit(other, kit, names))
    assert decode_level(encode_level(made)) == made
    seen["brought"] += 1


def try_pictures(chance: random.Random, seen: Counter[str]) -> None:
    """A PNG or an SVG with some bytes changed is brought in, or refused with a sentence."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtGui import QGuiApplication, QImage

    from gatillo.desk.looks.picture_import import import_picture
    from gatillo.level.pictures import as_png

    if QGuiApplication.instance() is None:
        QGuiApplication(["fuzz"])
    with tempfile.TemporaryDirectory() as folder:
        if chance.random() < 0.9:
            path = Path(folder) / "a.png"
            image = QImage(chance.randrange(1, 80), chance.randrange(1, 80), QImage.Format.Format_ARGB32)
            image.fill(chance.randrange(1 << 24))
            image.save(str(path))
        else:
            path = Path(folder) / "a.svg"
            path.write_text(
                '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0 L9 9 Z"/></svg>'
            )
        raw = bytearray(path.read_bytes())
        for _ in range(chance.choice((0, 1, 3, 20))):
            raw[chance.randrange(len(raw))] = chance.randrange(256)
        path.write_bytes(chance.choice([bytes(raw), bytes(raw[: len(raw) // 2]), bytes(raw) * 2]))
        try:
            as_png(import_picture(path))
            seen["brought in"] += 1
        except ValueError:
            seen["refused"] += 1


def try_state(chance: random.Random, seen: Counter[str]) -> None:
    """Whatever the state folder holds, the program finds its own things in it, and keeps work there."""
    from gatillo.files.kept_takes import TakeKeeper
    from gatillo.files.owners import clear_leftovers
    from gatillo.files.unsaved import DraftSaver, OpenMark, left_behind, look_for_work, recover

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for _ in range(chance.randrange(6)):
            stem = chance.choice(["1-2-3+a", "²-x", "9" * 30, "-", "a" * 200, "x.y", "\udcff", "1-2-3"])
            ending = chance.choice([".unsaved", ".takes", ".alive", ".part", ".open", ".unsaved.part"])
            file = folder / f"{stem}{ending}"
            what = chance.random()
            if what < 0.1:
                if not file.exists():
                    file.mkdir()
            elif what < 0.2 and not file.exists():
                os.mkfifo(file)
            elif not file.is_dir() and not file.is_fifo():
                file.write_bytes(chance.choice(JUNK))
        drafts = DraftSaver(folder)
        drafts.save(empty_level(), None)
        OpenMark(folder / "a.gatillo", folder).set()
        clear_leftovers(folder)
        for left in left_behind(folder):
            recover(left)
        seen["left alone"] += len(look_for_work(folder)[1])
        assert TakeKeeper(folder).left(None, "x") == []
        assert drafts.file is not None and drafts.file.exists()
        drafts.forget()
    seen["folders"] += 1


def try_disk(chance: random.Random, seen: Counter[str]) -> None:
    """A file that another program writes, removes and moves under an open window: nothing that it wrote is replaced unasked."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from gatillo.desk.application import make_application
    from gatillo.desk.session.workbench import Workbench
    from gatillo.desk.window.main_window import MainWindow

    make_application()

    def numbered(number: int) -> Level:
        return replace(empty_level(), variables=(Variable(name="n", value=float(number)),))

    with tempfile.TemporaryDirectory() as folder:
        os.environ["GATILLO_STATE"] = str(Path(folder) / "state")
        path = Path(folder) / "a.gatillo"
        write_level(path, numbered(0))
        window = MainWindow(Workbench(), QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat))
        window.files.ask = lambda *_: "discard"
        window.files.choose = lambda *_: "Cancel"
        window.show()
        assert window.open_path(path)
        on_disk: int | None = 0
        theirs = False
        for step in range(1, 20):
            deed = chance.choice(["edit", "save", "save", "write", "remove", "move", "touch", "look"])
            if deed == "edit":
                window.bench.edit(numbered(step), "edit")
            elif deed == "save" and (window.files.save() or on_disk is None):
                assert not theirs, "what another program wrote was replaced"
                on_disk = int(window.bench.level.variables[0].value)  # type: ignore[arg-type]
            elif deed == "write":
                write_level(path, numbered(1_000 + step))
                on_disk, theirs = 1_000 + step, True
            elif deed in ("remove", "move") and path.exists():
                path.unlink() if deed == "remove" else path.rename(path.with_name("b.gatillo"))
                on_disk, theirs = None, False
            elif deed == "touch" and path.exists():
                os.utime(path)
                theirs = True
            else:
                QApplication.processEvents()
            assert path.exists() == (on_disk is not None)
            if on_disk is not None:
                found = read_level(path).variables
                assert found and found[0].value == float(on_disk)
            seen[deed] += 1
        window.close()
        window.deleteLater()
        QApplication.processEvents()


def try_pastes(chance: random.Random, seen: Counter[str]) -> None:
    """Rules and cards with parts changed, pasted: the level can be saved after each."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from gatillo.desk.application import make_application
    from gatillo.desk.graph_view.clipboard import CLIP_START as CARDS_START
    from gatillo.desk.order_list.rule_writer import CLIP_START as RULES_START
    from gatillo.desk.session.workbench import Workbench
    from gatillo.desk.window.main_window import MainWindow

    make_application()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["GATILLO_STATE"] = folder
        level = odd_level(chance)
        if level is None:
            seen["refused"] += 1
            return
        level = replace(level, trials=tuple(replace(t, length=0.5) for t in level.trials))
        window = MainWindow(Workbench(level), QSettings(f"{folder}/s.ini", QSettings.Format.IniFormat))
        window.files.ask = lambda *_: "discard"
        window.show()
        graphs = [entry for _, _, entry in all_logic(level) if isinstance(entry, Graph)]
        if graphs:
            window.region.open_graph(graphs[0].id)
        for _ in range(6):
            data = _study(chance)
            entries = [entry for entry in data["order"] if entry.get("is") != "section"]
            text = json.dumps(chance.sample(entries, min(len(entries), 3)))
            cards = json.dumps(chance.choice([g for g in entries if g.get("is") == "graph"] or [{}]))
            cut = chance.choice([1.0, 1.0, 0.7])
            QApplication.clipboard().setText(RULES_START + text[: int(len(text) * cut)])
            window.order.writer.paste()
            QApplication.clipboard().setText(CARDS_START + cards[: int(len(cards) * cut)])
            if graphs:
                window.graph_page.commands.clipboard.paste()
            QApplication.processEvents()
            now = window.bench.level
            assert not next(flaws(now), None) and decode_level(encode_level(now)) == now
            seen["pasted"] += 1
        window.close()
        window.deleteLater()
        QApplication.processEvents()
