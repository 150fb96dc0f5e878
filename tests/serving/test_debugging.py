"""An editor steps through a run: every message is checked against the protocol's published schema."""

from __future__ import annotations

import json
import queue
import subprocess
import sys
import threading
from functools import cache
from importlib import resources

import jsonschema
import pytest
from pylsp_jsonrpc.streams import JsonRpcStreamReader, JsonRpcStreamWriter

from building import START, add, c, kind, level, rule, send, things
from gatillo.examples import study_path
from gatillo.files.level_file import read_level, write_level
from gatillo.files.rules_page import as_markdown
from gatillo.graphs.conversion import as_graph

FOLDER = "debugpy._vendored.pydevd._pydevd_bundle._debug_adapter"
SCHEMA = json.loads(
    resources.files("debugpy").joinpath(*FOLDER.split(".")[1:], "debugProtocol.json").read_text()
)


def yard():
    return level(
        rule("Begin", when=START, do=send("boom"), id=1),
        rule(
            "Count",
            when=c("each_in_every_tick", who="Pod"),
            if_=c("formula_holds", formula="Pod.age < 9"),
            do=(add("Pod.age"), add("level.n")),
            id=2,
        ),
        rule("Late", when=c("after_start", time="0.5"), do=(add("level.n", "100"), add("level.m")), id=3),
        kinds=(kind("Pod", has={"age": 1.0}),),
        objects=things("Pod", (10, 20), (30, 40)),
        has={"n": 0.0, "m": 0.0},
    )


@cache
def validator(name):
    return jsonschema.Draft4Validator({"$ref": f"#/definitions/{name}", "definitions": SCHEMA["definitions"]})


def proper(command):
    return command[0].upper() + command[1:]


class Editor:
    """An editor's side, made from the schema."""

    def __init__(self, file) -> None:
        words = [sys.executable, "-m", "gatillo.cli.main", "debug"]
        self.process = subprocess.Popen(
            words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        )
        self._writer = JsonRpcStreamWriter(self.process.stdin)
        self._seq = 0
        self._answers, self.events = queue.Queue(), queue.Queue()
        reader = JsonRpcStreamReader(self.process.stdout)
        threading.Thread(target=reader.listen, args=(self._take,), daemon=True).start()
        self.file = file

    def _take(self, message):
        (self.events if message["type"] == "event" else self._answers).put(message)

    def ask(self, command, **arguments):
        answer = self.try_to(command, **arguments)
        assert answer["success"], answer
        return answer.get("body")

    def try_to(self, command, **arguments):
        self._seq += 1
        message = {"seq": self._seq, "type": "request", "command": command, "arguments": arguments}
        validator(f"{proper(command)}Request").validate(message)
        self._writer.write(message)
        answer = self._answers.get(timeout=120)
        assert answer["request_seq"] == self._seq
        validator(f"{proper(command)}Response" if answer["success"] else "Response").validate(answer)
        return answer

    def told(self, event):
        message = self.events.get(timeout=120)
        validator(f"{proper(event)}Event").validate(message)
        assert message["event"] == event, message
        return message.get("body")

    def launch(self, **more):
        self.ask("initialize", adapterID="gatillo", linesStartAt1=True)
        self.ask("launch", program=str(self.file), **more)
        self.told("initialized")

    def begin(self, **more):
        self.ask("configurationDone")
        return self.told("stopped")

    def line_of(self, words):
        text = self.ask("source", sourceReference=1)["content"].splitlines()
        return next(n for n, line in enumerate(text, 1) if words in line)

    def points(self, *lines, condition=None):
        some = [{"line": n, **({"condition": condition} if condition else {})} for n in lines]
        source = {"name": "yard.md", "sourceReference": 1}
        return self.ask("setBreakpoints", source=source, breakpoints=some)["breakpoints"]

    def stack(self):
        return [(f["name"], f["line"]) for f in self.ask("stackTrace", threadId=1)["stackFrames"]]

    def value(self, formula):
        return self.ask("evaluate", expression=formula)["result"]

    def variables(self, reference):
        found = self.ask("variables", variablesReference=reference)["variables"]
        return {one["name"]: one["value"] for one in found}


@pytest.fixture
def editor(tmp_path):
    write_level(tmp_path / "yard.gatillo", yard())
    made = Editor(tmp_path / "yard.gatillo")
    yield made
    made.try_to("disconnect")
    assert made.process.wait(20) == 0
    made.process.stdin.close()
    assert made.process.stderr.read() == b""
    made.process.stdout.close()
    made.process.stderr.close()


def test_the_source_is_the_page_that_gatillo_prints(editor):
    editor.launch()
    assert editor.ask("source", sourceReference=1)["content"].rstrip() == as_markdown(yard()).rstrip()
    (source,) = editor.ask("loadedSources")["sources"]
    assert source["sourceReference"] == 1 and source["name"] == "yard.md"
    assert [one["id"] for one in editor.ask("threads")["threads"]] == [1]


def test_a_run_is_held_at_lines_and_rules_and_looked_at(editor):
    editor.launch()
    line = editor.line_of("add 100 to level.n")
    (point,) = editor.points(line)
    assert point["verified"] and point["line"] == line
    stopped = editor.begin()
    assert (stopped["reason"], stopped["threadId"]) == ("breakpoint", 1)
    assert editor.value("level.n") == "116"
    assert editor.value("level.m") == "0"
    (inner, firing, tick) = editor.stack()
    assert inner == ("*do* 1. add 100 to level.n", line)
    assert firing[0] == "“Late” fires, 1 in tick 30"
    assert tick[0] == "tick 30, 0.500 s"
    assert editor.variables(2) == {"n": "116", "m": "0"}
    assert editor.variables(3).keys() == {"Pod 1", "Pod 2"}
    pod = next(
        one for one in editor.ask("variables", variablesReference=3)["variables"] if one["name"] == "Pod 1"
    )
    assert editor.variables(pod["variablesReference"])["age"] == "9"
    editor.ask("continue", threadId=1)
    editor.told("exited")
    editor.told("terminated")


def test_it_steps_in_over_out_and_back(editor):
    editor.launch(stopOnEntry=True)
    assert editor.begin()["reason"] == "entry"
    for command, place in (
        ("stepIn", "*do* 1. send boom"),
        ("stepIn", "*do* 1. add 1 to Pod.age"),
        ("stepIn", "*do* 2. add 1 to level.n"),
        ("stepBack", "*do* 1. add 1 to Pod.age"),
        ("next", "“Count” fires, 2 in tick 1"),
        ("stepOut", "“Count” fires, 1 in tick 2"),
        ("stepBack", "*do* 2. add 1 to level.n"),
    ):
        editor.ask(command, threadId=1)
        assert editor.told("stopped")["reason"] == "step"
        assert editor.stack()[0][0] == place, command
    scopes = editor.ask("scopes", frameId=1)["scopes"]
    assert [one["name"] for one in scopes] == ["Roles", "Level", "Objects"]
    assert editor.variables(1) == {"Pod": "Pod 1, Pod 2"}


def test_conditions_and_reverse_continue(editor):
    editor.launch()
    editor.points(editor.line_of("**Count**"), condition="level.n >= 8")
    editor.begin()
    assert editor.value("level.n") == "8"
    editor.ask("continue", threadId=1)
    editor.told("stopped")
    assert editor.value("level.n") == "10"
    editor.ask("reverseContinue", threadId=1)
    editor.told("stopped")
    assert editor.value("level.n") == "8"
    editor.ask("reverseContinue", threadId=1)
    assert editor.told("stopped")["reason"] == "entry"
    assert editor.value("level.n") == "0"


def test_a_breakpoint_moves_down_to_the_next_rule_and_bad_ones_are_refused(editor):
    editor.launch()
    first = editor.points(1)[0]
    assert first["line"] == editor.line_of("**Begin**")
    assert not editor.points(9_999)[0]["verified"]
    assert "cannot be read" in editor.points(5, condition="level.n +")[0]["message"]


def test_what_cannot_be_done_is_said(editor, tmp_path):
    assert "nothing has been launched" in editor.try_to("stackTrace", threadId=1)["message"]
    assert "there is no file" in editor.try_to("launch", program=str(tmp_path / "no.gatillo"))["message"]
    assert "has no trial" in editor.try_to("launch", program=str(editor.file), trial="no")["message"]
    editor.launch()
    assert "cannot be read" in editor.try_to("evaluate", expression="level.n +")["message"]
    assert "not supported" in editor.try_to("restartFrame", frameId=1)["message"]


def test_cards_of_a_graph_are_lines_too(tmp_path):
    drawn = yard()
    drawn = type(drawn)(
        **{f: getattr(drawn, f) for f in drawn.__struct_fields__ if f != "order"},
        order=tuple(as_graph(one) for one in drawn.order),
    )
    write_level(tmp_path / "yard.gatillo", drawn)
    editor = Editor(tmp_path / "yard.gatillo")
    editor.launch()
    line = editor.line_of("add 100 to level.n")
    assert editor.points(line)[0]["line"] == line
    editor.begin()
    assert editor.stack()[0][1] == line
    assert editor.value("level.n") == "116"
    editor.try_to("disconnect")
    assert editor.process.wait(20) == 0
    editor.process.stdin.close()
    editor.process.stdout.close()
    editor.process.stderr.close()


def test_the_demo_level_can_be_stepped_through(tmp_path):
    write_level(tmp_path / "night.gatillo", read_level(study_path("night-shift.gatillo")))
    editor = Editor(tmp_path / "night.gatillo")
    editor.launch()
    editor.points(editor.line_of("**Begin to talk**"))
    editor.begin()
    assert "“Begin to talk” fires" in editor.stack()[0][0]
    editor.ask("continue", threadId=1)
    editor.ask("pause", threadId=1)
    assert editor.told("stopped")["reason"] == "pause"
    editor.try_to("disconnect")
    assert editor.process.wait(20) == 0
    editor.process.stdin.close()
    editor.process.stdout.close()
    editor.process.stderr.close()
