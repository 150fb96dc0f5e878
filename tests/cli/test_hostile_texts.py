"""Whatever a level's texts and the command line hold, the terminal shows letters, files can be read, and a sentence comes out."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest
from typer.testing import CliRunner

from building import START, add, c, level, rule, send
from drawing import card, graph
from gatillo.cli.console import plain
from gatillo.cli.main import app
from gatillo.files.graph_pictures import as_graphml, as_svg
from gatillo.files.level_file import write_level
from gatillo.inspect.value_words import as_cell
from gatillo.level.expectations import FiresTimes, HoldsAt

STEERS = "a\x1b]0;x\x07b\x1b[2Jc\x9b31md\u202ee\rf"
GATILLO = str(Path(sys.executable).with_name("gatillo"))


def hostile():
    """A level whose texts steer a terminal, wherever a name cannot be refused for it."""
    return level(
        rule("faulty", when=START, if_=c("formula_holds", formula=f'1 / level.n > 0 and "{STEERS}" <> ""'), do=c("note", text=STEERS), note=STEERS, id=1),
        rule("unknown", when=c(f"no{STEERS}"), do=c("remove", who=STEERS), id=2),
        rule("says", when=START, do=[c("note", text=STEERS), send("go"), add("level.n", "0")], id=3),
        graph("drawn", card(1, "level_starts"), card(2, "note", text=STEERS), card(3, f"x{STEERS}"), wires="1>2", id=4),
        has={"n": 0.0, "text": STEERS},
        expect=(FiresTimes(rule="says", times=3), HoldsAt(formula=f'level.text = "{STEERS}x"')),
        note=STEERS,
    )  # fmt: skip


@pytest.fixture
def file(tmp_path):
    path = tmp_path / "hostile.gatillo"
    write_level(path, hostile())
    return path


def asked(*words, **more):
    """Run the program as a shell does."""
    return subprocess.run([GATILLO, *map(str, words)], capture_output=True, check=False, timeout=120, **more)


COMMANDS = [
    ["print"], ["lint"], ["lint", "--json"], ["check"], ["check", "--json"], ["run"], ["run", "--json"],
    ["why", "says", "--at", "1"], ["read", f"set level.n to {STEERS}"], ["compare"], ["sweep", "--set", "level.n=1"],
]  # fmt: skip


@pytest.mark.parametrize("words", COMMANDS, ids=" ".join)
def test_no_command_lets_a_text_steer_the_terminal(file, words):
    files = [file, file] if words == ["compare"] else [file]
    done = CliRunner().invoke(app, [words[0], *map(str, files), *words[1:]])
    assert done.exception is None or isinstance(done.exception, SystemExit)
    shown = done.output.replace("\n", "")
    assert plain(shown) == shown
    assert not any(letter in shown for letter in "\x1b\x07\x9b\u202e\r")
    if "--json" in words:
        json.loads(done.stdout)


def texts_in(data):
    if isinstance(data, dict | list):
        return [
            text for part in (data.values() if isinstance(data, dict) else data) for text in texts_in(part)
        ]
    return [data] if isinstance(data, str) else []


def test_json_still_says_what_the_texts_are(file):
    done = CliRunner().invoke(app, ["run", str(file), "--json"])
    assert any(STEERS in text for text in texts_in(json.loads(done.stdout)))


def test_pictures_of_graphs_and_reports_of_such_texts_are_xml(file, tmp_path):
    drawn = hostile().order[3]
    for written in (as_svg(drawn), as_graphml(drawn)):
        assert "U+001B" in "".join(ElementTree.fromstring(written).itertext())
    report = tmp_path / "report.xml"
    CliRunner().invoke(app, ["check", str(file), "--junit", str(report)])
    assert ElementTree.parse(report).getroot().tag == "testsuites"


@pytest.mark.parametrize(
    ("text", "cell"),
    [("=1+1", "'=1+1"), ("@SUM", "'@SUM"), ("+x", "'+x"), ("-x", "'-x"), ("-1.5", "-1.5"), ("+2", "+2"), ("\tx", "'\tx"), ("plain", "plain"), ("", "")],
)  # fmt: skip
def test_a_cell_is_no_formula(text, cell):
    assert as_cell(text) == cell


def test_a_trace_as_csv_has_no_cells_that_a_spreadsheet_works_out(tmp_path):
    path, out = tmp_path / "a.gatillo", tmp_path / "a.csv"
    write_level(path, level(rule("=1+1", when=START, do=c("note", text="@SUM(A1)"))))
    assert CliRunner().invoke(app, ["run", str(path), "--trace", str(out)]).exit_code == 0
    with out.open(newline="") as rows:
        cells = [cell for row in csv.reader(rows) for cell in row]
    assert "'=1+1" in cells and "'@SUM(A1)" in cells
    assert not [cell for cell in cells if cell[:1] in "=@" and cell]


# odd outputs and words, with the program as it is started


@pytest.mark.parametrize("words", [["print"], ["run", "--json"], ["lint"]], ids=" ".join)
def test_an_output_for_ascii_only_gets_what_it_can_show(file, words):
    done = asked(words[0], file, *words[1:], env={**os.environ, "PYTHONIOENCODING": "ascii"})
    assert done.returncode in (0, 1)
    assert b"Traceback" not in done.stderr
    done.stdout.decode("ascii")


@pytest.mark.parametrize("words", [["print"], ["run", "--json"]], ids=" ".join)
def test_a_full_output_is_told(file, words):
    with open("/dev/full", "wb") as full:
        done = subprocess.run(
            [GATILLO, words[0], str(file), *words[1:]], stdout=full, stderr=subprocess.PIPE, check=False
        )
    assert done.returncode == 2
    assert b"No space left" in done.stderr and b"Traceback" not in done.stderr


def test_a_closed_output_is_no_error_of_the_program(file):
    done = subprocess.run(
        ["sh", "-c", '"$0" print "$1" >&-', GATILLO, str(file)], capture_output=True, check=False
    )
    assert b"Traceback" not in done.stderr
    done = subprocess.run(["sh", "-c", '"$0" schema | head -c 10', GATILLO], capture_output=True, check=False)
    assert b"Traceback" not in done.stderr


@pytest.mark.parametrize(
    "words", [["x" * 5_000], ["check", "x" * 5_000], ["print", "a\udcff.gatillo"], ["é" * 200]]
)
def test_a_path_that_no_disk_has_is_told(words):
    done = asked(*words)
    assert done.returncode == 2
    assert done.stderr and b"Traceback" not in done.stderr


def test_a_pipe_is_refused_at_once(tmp_path):
    pipe = tmp_path / "pipe.gatillo"
    os.mkfifo(pipe)
    done = asked("check", pipe)
    assert done.returncode == 2 and b"pipe" in done.stderr


@pytest.mark.parametrize("words", [[], ["--json"]], ids=["words", "JSON"])
def test_halves_of_pairs_in_a_saved_trace_are_shown_as_numbers(file, tmp_path, words):
    trace = tmp_path / "odd.jsonl"
    trace.write_text('{"way": "do", "tick": 3, "position": 1, "rule": "\\ud800r\\udfff", "matches": 1}\n')
    done = CliRunner().invoke(app, ["compare", str(file), str(trace), *words])
    assert done.exit_code == 1
    assert r"\ud800r\udfff" in done.stdout
    done.stdout.encode()
    if words:
        json.loads(done.stdout)
