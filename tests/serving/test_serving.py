"""A run driven by another program: by a JSON-RPC library of somebody else, over standard input and output and sockets."""

from __future__ import annotations

import json
import os
import random
import re
import socket
import subprocess
import sys
import threading
import time
from contextlib import suppress
from functools import cache
from pathlib import Path

import jsonschema
import pytest
from msgspec.structs import replace
from pylsp_jsonrpc.endpoint import Endpoint
from pylsp_jsonrpc.exceptions import JsonRpcException
from pylsp_jsonrpc.streams import JsonRpcStreamReader, JsonRpcStreamWriter
from PySide6.QtCore import Qt

import gatillo
from building import START, add, c, heard, kind, level, rule, send, things
from gatillo.examples import study_path
from gatillo.examples.play_over_the_wire import Game
from gatillo.files.level_file import encode_level, read_level, write_level
from gatillo.level.model import Reference, Variable
from gatillo.serving.client import RemoteError
from gatillo.serving.framing import MOST_BYTES, framed
from gatillo.serving.messages import METHODS, schema
from gatillo.serving.server import MOST_CONNECTIONS, port_server, socket_server

NIGHT_SHIFT = Path(study_path("night-shift.gatillo"))
SCHEMA = schema()
PAGE = Path(__file__).parents[2] / "docs" / "protocol.md"


def yard():
    built = level(
        rule("Hear", when=heard("boom"), do=add("level.n"), id=1),
        rule("Rise", when=c("rises_above", variable="level.m", limit="3"), do=add("level.n", "10"), id=2),
        rule("Begin", when=START, do=send("boom"), id=3),
        rule(
            "Far",
            when=c("every_tick"),
            if_=c("formula_holds", formula="Pod.x > 100"),
            do=add("level.k"),
            id=4,
        ),
        rule(
            "Key",
            when=c("key_pressed", key="E"),
            if_=c("formula_holds", formula="Pod.age > 0"),
            do=add("Pod.age"),
            id=5,
        ),
        kinds=(kind("Pod", has={"age": 1.0}),),
        objects=things("Pod", (10, 20)),
        has={"n": 0.0, "m": 0.0, "k": 0.0},
        keys=(("E", 0.5, 0.6),),
    )
    whom = Variable(name="whom", value=Reference(to="Pod 1"))
    return replace(built, variables=(*built.variables, whom, Variable(name="at", value=(1.0, 2.0))))


@pytest.fixture
def file(tmp_path):
    write_level(tmp_path / "yard.gatillo", yard())
    return tmp_path / "yard.gatillo"


class Somebody:
    """A peer made of somebody else's JSON-RPC library; every message is checked against the schema."""

    def __init__(self, reading, writing) -> None:
        self.told: list[dict] = []
        self._reader = JsonRpcStreamReader(reading)
        writer = JsonRpcStreamWriter(writing)
        self._endpoint = Endpoint({"changed": self._changed}, writer.write)
        self._thread = threading.Thread(
            target=self._reader.listen, args=(self._endpoint.consume,), daemon=True
        )
        self._thread.start()

    def _changed(self, params):
        check("changed.params", params)
        self.told.append(params)

    def ask(self, method, **params):
        check(f"{method}.params", params)
        result = self._endpoint.request(method, params).result(timeout=120)
        check(f"{method}.result", result)
        return result


@cache
def validator(name):
    return jsonschema.Draft202012Validator({"$ref": f"#/$defs/{name}", "$defs": SCHEMA["$defs"]})


def check(name, value):
    validator(name).validate(value)


@pytest.fixture
def started(file):
    """Return a peer of a server process over its standard input and output."""
    words = [sys.executable, "-m", "gatillo.cli.main", "serve", str(file)]
    process = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    yield Somebody(process.stdout, process.stdin)
    process.stdin.close()
    assert process.wait(20) == 0
    assert process.stderr.read() == b""
    process.stdout.close()
    process.stderr.close()


def test_the_schema_is_one_and_describes_every_method():
    jsonschema.Draft202012Validator.check_schema(SCHEMA)
    assert {f"{name}.params" for name in METHODS} <= SCHEMA["$defs"].keys()
    assert [name for name in METHODS if f"`{name}`" not in PAGE.read_text()] == []


def test_the_example_of_the_page_runs():
    (example,) = re.findall(r"```python\n(.*?)```", PAGE.read_text(), re.DOTALL)
    exec(compile(example, str(PAGE), "exec"), {})


def test_a_run_is_stepped_forward_and_back_by_ticks_firings_and_steps(started):
    opened = started.ask("open")
    assert (opened["trial"], opened["rate"], opened["length"]) == ("trial", 60, 60)
    assert opened["rules"] == ["Hear", "Rise", "Begin", "Far", "Key"]
    assert started.ask("step") | {} == {"tick": 1, "position": 1, "seconds": 1 / 60, "done": 1}
    assert started.ask("step", by="firing")["tick"] == 2
    assert started.ask("value", formula="level.n")["value"] == 1
    assert started.ask("step", by="firing", back=True)["tick"] == 1
    assert started.ask("value", formula="level.n")["value"] == 0
    # the key of the trial's own script
    assert started.ask("step", by="firing", count=2)["tick"] == 30
    assert started.ask("step", by="step", back=True)["step"] == 1
    assert started.ask("step", count=2, back=True)["tick"] == 28
    assert started.ask("go", tick=30, position=0)["position"] == 0
    assert started.ask("objects", names=["Pod 1"])["objects"][0]["values"] == {"age": 1}
    assert started.ask("step")["position"] == 1
    assert started.ask("objects", kind="Pod")["objects"][0]["values"] == {"age": 2}
    end = started.ask("run")
    assert end["over"] and end["tick"] == 60
    assert started.ask("verdicts") == {"verdicts": [], "passed": True}


def test_keys_changes_and_messages_come_in_from_outside_and_are_told(started):
    started.ask("open", scripted=False)
    started.ask("subscribe")
    started.ask("step", count=4)
    assert started.ask("hold", keys=["e"]) == {"tick": 5}
    started.ask("step")
    assert started.ask("release", keys=["E"]) == {"tick": 6}
    assert started.ask("set", variable="m", value=7) == {"tick": 6}
    assert started.ask("move", object="Pod 1", x=200, y=30, angle=90) == {"tick": 6}
    assert started.ask("send", message="boom") == {"tick": 6}
    assert started.ask("set", variable="whom", value="") == {"tick": 6}
    assert started.ask("set", variable="at", value=[3, 4]) == {"tick": 6}
    assert started.ask("set", variable="age", object="Pod 1", value=40) == {"tick": 6}
    started.ask("step", count=2)
    assert started.ask("variables")["values"] == {"n": 12, "m": 7, "k": 2, "whom": "", "at": [3, 4]}
    ticks = {one["tick"]: one for one in started.told}
    assert ticks[5]["own"] == [[1, "age", 2]]
    assert ticks[6]["moved"] == [[1, 200, 30, 90, 1]]
    assert ticks[6]["own"] == [[1, "age", 40]]
    assert ticks[6]["values"] == {"n": 11, "m": 7, "k": 1, "whom": "", "at": [3, 4]}
    assert ticks[6]["notes"][0] == "from outside: set level.m to 7"
    assert [f["rule"] for f in ticks[6]["firings"]] == ["Rise", "Far"]
    assert [f["rule"] for f in ticks[7]["firings"]] == ["Hear", "Far"]
    assert ticks[1]["messages"] == ["boom"]
    reason = started.ask("why", rule="Hear", tick=7)
    assert reason["because"][0]["because"][0]["sentence"].startswith("boom was sent from outside at 0.100 s")
    assert (
        "set from outside at 0.100 s" in started.ask("why_value", formula="level.m")["because"][0]["sentence"]
    )
    assert (
        "Pod 1.x was 10, 90 too little"
        in started.ask("why_not", rule="Far", tick=5)["because"][0]["sentence"]
    )
    # earlier moments are what they were, and again after stepping on
    started.ask("go", tick=5)
    assert started.ask("value", formula="level.m")["value"] == 0
    started.ask("go", tick=7)
    assert started.ask("value", formula="level.m")["value"] == 7
    # what comes in at an earlier moment takes the place of what came after it
    started.ask("go", tick=5)
    assert started.ask("set", variable="m", value=1) == {"tick": 6}
    assert started.ask("step", count=2)["done"] == 7
    assert started.ask("variables")["values"] | {} == {"n": 1, "m": 1, "k": 0, "whom": "Pod 1", "at": [1, 2]}


def test_it_is_held_at_rules_and_formulas(started):
    started.ask("open")
    assert started.ask("stop", rule="Key") == {"rules": ["Key"], "formulas": []}
    held = started.ask("run")
    assert (held["tick"], held["stopped"]) == (30, "“Key” fired")
    assert started.ask("matches", tick=30, position=1) == {
        "rule": "Key",
        "matches": 1,
        "roles": {"Pod": ["Pod 1"]},
    }
    started.ask("stop", formula="level.m > 2")
    started.ask("set", variable="m", value=3)
    held = started.ask("run")
    assert (held["tick"], held["stopped"]) == (31, "level.m > 2")
    assert started.ask("stop") == {"rules": [], "formulas": []}
    assert started.ask("run")["over"]


@pytest.mark.parametrize(
    ("method", "params", "code", "words"),
    [
        ("fly", {}, -32601, "there is no method “fly”"),
        ("step", {"by": "hour"}, -32602, "step: Invalid enum value"),
        ("step", {"counts": 3}, -32602, "unknown field"),
        ("step", {"count": 0}, -32602, "count"),
        ("open", {"trial": "Tri"}, -32000, "has no trial “Tri”"),
        ("open", {"level": {"gatillo": 1}}, -32000, "the entry “name” is missing"),
        ("open", {"file": "../../etc/passwd"}, -32000, "is not in the folder"),
        ("open", {"file": "other.gatillo"}, -32000, "there is no file"),
        ("set", {"variable": "o", "value": 3}, -32000, "the level has no variable “o”"),
        ("set", {"variable": "m", "value": "much"}, -32000, "“m” is a number"),
        ("set", {"variable": "whom", "value": "Pod 9"}, -32000, "there is no object “Pod 9”; did you mean"),
        ("move", {"object": "Pad 1", "x": 0, "y": 0}, -32000, "did you mean “Pod 1”"),
        ("send", {"message": "bom"}, -32000, "did you mean “boom”"),
        ("hold", {"keys": ["Any"]}, -32000, "there is no key “Any”"),
        ("value", {"formula": "level.n +"}, -32000, "cannot be read"),
        ("why", {"rule": "Key"}, -32000, "did not fire"),
        ("go", {"tick": 900}, -32000, "the trial has 60 ticks"),
        ("matches", {"tick": 1, "position": 9}, -32000, "tick 1 has 0 firings so far"),
    ],
)
def test_what_cannot_be_done_is_said_and_nothing_else_happens(started, method, params, code, words):
    started.ask("open")
    with pytest.raises(JsonRpcException) as refused:
        started._endpoint.request(method, params).result(timeout=120)
    assert refused.value.code == code
    assert words in refused.value.message
    assert started.ask("step", count=3)["tick"] in (3, 60)


# sockets


@pytest.fixture
def at_port(file):
    server = port_server(0, read_level(file), file.parent)
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    yield server.port
    server.shutdown()
    server.server_close()
    thread.join()


def test_several_connections_have_a_run_each(at_port):
    one, other = gatillo.connect(at_port), gatillo.connect(at_port)
    one.open(), other.open()
    one.step(count=10)
    assert (other.step().tick, one.step().tick) == (1, 11)
    one.close()
    assert other.step().tick == 2
    other.close()
    with pytest.raises(ConnectionError):
        other.step()


def test_a_socket_file_serves_its_owner_only(file, tmp_path):
    path = tmp_path / "s"
    server = socket_server(path, read_level(file), None)
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    assert path.stat().st_mode & 0o777 == 0o600
    with gatillo.connect(path) as client:
        assert client.open().level == "test"
        with pytest.raises(RemoteError, match="opens no files"):
            client.open(file="yard.gatillo")
        with pytest.raises(AttributeError, match="no method “fly”"):
            client.fly()
        assert "step" in dir(client)
    server.shutdown()
    server.server_close()
    thread.join()


def test_a_level_is_handed_over(at_port):
    with gatillo.connect(at_port) as client:
        given = json.loads(encode_level(read_level(study_path("01-seed-pods.gatillo"))))
        assert client.open(level=given, rate=30, seed=4).rate == 30
        assert client.run().over
        assert client.firings().firings


def exchanged(port, raw, answers):
    """Return the answers to bytes that are sent as they are."""
    with socket.create_connection(("127.0.0.1", port), timeout=120) as peer:
        peer.sendall(raw)
        if answers is None:
            peer.shutdown(socket.SHUT_WR)
        stream = peer.makefile("rb")
        found = []
        while answers is None or len(found) < answers:
            header = stream.readline()
            if not header:
                break
            size = int(header.split(b":")[1])
            stream.readline()
            found.append(json.loads(stream.read(size)))
        return found


def request(number, method="step", **params):
    return {"jsonrpc": "2.0", "id": number, "method": method, "params": params}


def test_a_page_in_a_browser_cannot_drive_a_level(at_port):
    body = json.dumps(request(1)).encode()
    page = b"POST / HTTP/1.1\r\nHost: localhost\r\nContent-Type: text/plain\r\n" + framed(body)
    found = exchanged(at_port, page, None)
    assert [one["error"]["code"] for one in found] == [-32700]


def test_batches_notifications_and_ids_are_as_the_standard_says(at_port):
    several = [
        request(1),
        {"jsonrpc": "2.0", "method": "step"},
        {"foo": 1},
        5,
        request("a", "value", formula="1 + 1"),
    ]
    (found,) = exchanged(at_port, framed(json.dumps(several).encode()), None)
    assert [one["id"] for one in found] == [1, None, None, "a"]
    assert found[0]["result"]["tick"] == 1
    assert [one["error"]["code"] for one in found[1:3]] == [-32600, -32600]
    assert found[3]["result"]["value"] == 2
    quiet = framed(json.dumps({"jsonrpc": "2.0", "method": "nothing"}).encode())
    assert exchanged(at_port, quiet, None) == []
    by_place = {"jsonrpc": "2.0", "id": None, "method": "go", "params": [3]}
    (answer,) = exchanged(at_port, framed(json.dumps(by_place).encode()), None)
    assert answer["id"] is None and answer["result"]["tick"] == 3


def test_ten_thousand_broken_messages_bring_error_objects_and_nothing_else(file):
    words = [sys.executable, "-m", "gatillo.cli.main", "serve", str(file)]
    process = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    chance = random.Random(34)
    answers: list[dict] = []

    def read():
        while header := process.stdout.readline():
            size = int(header.split(b":")[1])
            process.stdout.readline()
            answers.append(json.loads(process.stdout.read(size)))

    thread = threading.Thread(target=read)
    thread.start()
    good = [json.dumps(request(n, name)).encode() for n, name in enumerate(METHODS)]
    for number in range(10_000):
        process.stdin.write(broken(chance, good))
        if number % 1_000 == 999:
            pages = Path(f"/proc/{process.pid}/statm").read_text().split()[1]
            assert int(pages) * os.sysconf("SC_PAGE_SIZE") < 200e6
    process.stdin.write(framed(json.dumps(request("last", "go", tick=0)).encode()))
    process.stdin.close()
    assert process.wait(60) == 0
    thread.join()
    process.stdout.close()
    assert answers[-1]["id"] == "last" and answers[-1]["result"]["tick"] == 0
    flat = [one for answer in answers[:-1] for one in (answer if isinstance(answer, list) else [answer])]
    assert len(flat) > 5_000
    assert {one["error"]["code"] for one in flat} <= {-32700, -32600, -32601, -32602, -32000}


def broken(chance, good):
    """Return a message that is none, or one that asks for what there is not."""
    way = chance.randrange(8)
    whole = bytearray(chance.choice(good))
    if way == 0:
        # cut, or with other bytes in it
        for _ in range(chance.randint(1, 6)):
            whole[chance.randrange(len(whole))] = chance.randrange(256)
        whole = whole[: chance.randint(1, len(whole))] + b"\x00{"
        return framed(bytes(whole))
    if way == 1:
        return framed(chance.randbytes(chance.randint(0, 200)) + b"\xff")
    if way == 2:
        return framed(
            json.dumps(request(1, "step", by=chance.random(), count="x" * chance.randint(0, 999))).encode()
        )
    if way == 3:
        return framed(json.dumps(request(1, "no" + chance.choice([*METHODS]))).encode())
    if way == 4:
        return framed(b"[" * chance.randint(1, 5_000))
    if way == 5:
        return framed(json.dumps(chance.choice([1, None, "x", [], {}, [1, 2], {"jsonrpc": "1.0"}])).encode())
    if way == 6:
        return b"Content-Length: many\r\n"
    return framed(json.dumps({"jsonrpc": "2.0", "id": {"a": 1}, "method": "step"}).encode())


def test_a_message_that_is_too_large_ends_the_connection(at_port):
    found = exchanged(at_port, b"Content-Length: %d\r\n\r\n" % (MOST_BYTES + 1), 1)
    assert "16,777,216 bytes at most" in found[0]["error"]["message"]


def test_a_peer_that_does_not_read_is_dropped_and_others_go_on(monkeypatch):
    monkeypatch.setattr("gatillo.serving.server.PATIENCE", 0.3)
    monkeypatch.setattr("gatillo.serving.server.MOST_WAITING", 20)
    server = port_server(0, read_level(NIGHT_SHIFT), None)
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    with socket.create_connection(("127.0.0.1", server.port), timeout=120) as deaf:
        asked = [request(1, "open"), *(request(n, "objects") for n in range(2_000))]
        with suppress(OSError):
            deaf.sendall(b"".join(framed(json.dumps(one).encode()) for one in asked))
        begun = time.monotonic()
        while server.room._value < MOST_CONNECTIONS:
            assert time.monotonic() - begun < 60
            time.sleep(0.05)
    with gatillo.connect(server.port) as client:
        assert client.step().tick == 1
    server.shutdown()
    server.server_close()
    thread.join()


# a process of its own


def test_the_client_starts_a_server_and_drives_the_demo_level():
    with gatillo.connect(NIGHT_SHIFT) as client:
        opened = client.open()
        client.subscribe()
        client.step(count=120)
        changes = client.changes()
        assert [one.tick for one in changes] == list(range(1, 121))
        run = gatillo.start(read_level(NIGHT_SHIFT), opened.trial)
        run.step(120)
        # what was told adds up to where everything is
        places = {o.id: [o.x, o.y] for o in client.objects().objects}
        first = gatillo.start(read_level(NIGHT_SHIFT), opened.trial).run.world
        told = {
            i: [x, y] for i, x, y in zip(first.id.tolist(), first.x.tolist(), first.y.tolist(), strict=True)
        }
        for change in changes:
            told |= {i: [x, y] for i, x, y, *_ in change.moved}
        assert told == places
        fired = [(f.tick, f.rule, f.matches) for one in changes for f in one.firings]
        assert fired == [(f.tick, f.rule, f.matches) for f in run.firings()]


def test_a_port_is_printed_by_the_command(file):
    words = [sys.executable, "-m", "gatillo.cli.main", "serve", str(file), "--port", "0"]
    process = subprocess.Popen(words, stderr=subprocess.PIPE, text=True)
    said = process.stderr.readline()
    port = int(said.split("port ")[1].split(";")[0])
    with gatillo.connect(port) as client:
        assert client.open().trial == "trial"
    process.terminate()
    process.wait(10)
    process.stderr.close()


def test_the_demo_client_draws_the_level_and_sends_keys(qtbot):
    with gatillo.connect(NIGHT_SHIFT) as client:
        game = Game(client)
        game.timer.stop()
        qtbot.addWidget(game)
        game.show()
        mira = next(one for one in game.objects.values() if one.name == "Mira")
        before = mira.x, mira.y
        picture = game.grab().toImage()
        qtbot.keyPress(game, Qt.Key.Key_Up)
        for _ in range(60):
            game.tick()
        qtbot.keyRelease(game, Qt.Key.Key_Up)
        assert (mira.x, mira.y) != before
        assert game.grab().toImage() != picture
        # what no rule can name is no key
        qtbot.keyPress(game, Qt.Key.Key_F9)
        game.tick()
        assert client.objects(names=["Mira"]).objects[0].x == mira.x
