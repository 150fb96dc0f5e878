"""The level file: what is written is read back; what is wrong is told with its place; saving loses nothing."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import EVERY_TICK, add, c, kind, level, rule, things
from gatillo.examples import study_names, study_path
from gatillo.files import level_file
from gatillo.files.level_file import LevelFileError, decode_level, encode_level, read_level, write_level
from gatillo.files.locate import line_of
from gatillo.files.schema import level_schema
from gatillo.level.expectations import FiresTimes, HoldsAt
from gatillo.level.model import Section, Spot, Topic

LEVEL = level(
    Section(name="s", rules=(rule("count", when=EVERY_TICK, do=add("level.n")),)),
    kinds=(kind("Pod", 5, has={"ripe": True}), kind("Bed", box=(10, 20))),
    objects=things("Pod", (1, 2.5), (3, 4)),
    has={"n": 0.0, "title": "x"},
    places=(Spot(name="gate", x=1, y=2),),
    keys=(("Up", 0.1, 0.2),),
    expect=(FiresTimes(rule="count", times=60), HoldsAt(formula="level.n = 60", time=1.0)),
)


def test_a_level_written_is_read_back_equal_and_written_the_same():
    raw = encode_level(LEVEL)
    again = decode_level(raw)
    assert again == LEVEL
    assert encode_level(again) == raw


def test_the_file_is_readable_one_thing_a_line_with_its_version_first():
    lines = encode_level(LEVEL).decode().splitlines()
    assert lines[1].strip() == '"gatillo": 1,'
    assert max(map(len, lines)) < 120


def changed(**fields):
    return {**json.loads(encode_level(LEVEL)), **fields}


def broken(data) -> str:
    raw = data if isinstance(data, bytes) else json.dumps(data, indent=1).encode()
    with pytest.raises(LevelFileError) as caught:
        decode_level(raw, "a.gatillo")
    return str(caught.value)


OBJECT = {"id": 9, "kind": "Pod", "name": "Pod 9", "x": 0, "y": 0}


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is empty"),
        (b"\xff\xfe\x00binary", "it is not text"),
        (b"hello", "not JSON"),
        (b"[1, 2]", "does not begin with a JSON object"),
        (b"{}", "no “gatillo” entry"),
        (encode_level(LEVEL)[:300], "breaks off"),
        ({"gatillo": 99}, "written by a newer Gatillo (format 99; this one reads up to 1)"),
        ({"gatillo": "one"}, "is a whole number"),
        (b'{"gatillo": 1, "name": "a", "note": ' + b"[" * 5000, "nested more than 100 deep"),
        (changed(colour="red"), "no entry called “colour”"),
        (changed(name=3), "a text is needed here, not a whole number"),
        (changed(objects=[{"id": 1}]), "the entry “kind” is missing"),
        (
            changed(objects=[{**OBJECT, "x": "left"}]),
            "($.objects[0].x): a number is needed here, not a text",
        ),
        (changed(objects=[{**OBJECT, "x": 1e400}]), "not JSON"),
        (changed(objects=[{**OBJECT, "kind": "Pot"}]), "“Pot”, which is not defined; did you mean “Pod”?"),
        (changed(objects=[OBJECT, {**OBJECT, "id": 10}]), "two objects are called “Pod 9”"),
        (changed(objects=[OBJECT, {**OBJECT, "name": "b"}]), "has the id 9 too"),
        (changed(objects=[{**OBJECT, "name": "Bed"}]), "two objects are called “Bed”"),
        (changed(objects=[{**OBJECT, "values": {"rip": True}}]), "no variable “rip”; did you mean “ripe”?"),
        (changed(objects=[{**OBJECT, "values": {"ripe": 3}}]), "“ripe” is a yes/no"),
        (changed(kinds=[{"name": "Pod", "shape": {"is": "blob"}}]), "blob"),
        (changed(kinds=[{"name": "Pod", "shape": {"is": "circle", "radius": -1}}]), "must be above 0"),
        (
            changed(kinds=[{"name": "9 Pods", "shape": {"is": "circle", "radius": 1}}]),
            "must start with a letter",
        ),
        (
            changed(kinds=[{"name": "another Pod", "shape": {"is": "circle", "radius": 1}}]),
            "a word of the rule language",
        ),
        (
            changed(
                kinds=[{"name": "Pod", "shape": {"is": "circle", "radius": 1}, "variables": [{"name": "x"}]}],
                objects=[],
            ),
            "every object already has “x”",
        ),
        (changed(settings={"rate": 1000}), "at most 240"),
        (changed(trials=[{"name": "t", "length": -3}]), "a trial lasts more than 0"),
        (
            changed(trials=[{"name": "t", "input": {"keys": [{"key": "A", "from": 3, "to": 1}]}}]),
            "released before it is pressed",
        ),
        (
            changed(order=[{"is": "rule", "id": 1, "name": "a"}, {"is": "rule", "id": 1, "name": "b"}]),
            "the same id 1",
        ),
        (
            changed(order=[{"is": "rule", "id": 1, "name": "a"}, {"is": "rule", "id": 2, "name": "a"}]),
            "two rules are called “a”",
        ),
    ],
)
def test_a_file_that_does_not_hang_together_gets_a_sentence(data, says):
    if not isinstance(data, bytes) and "1e400" in str(data):
        data = json.dumps(data).replace("Infinity", "1e400").encode()
    assert says in broken(data)


def test_the_sentence_names_the_line():
    text = json.dumps(changed(objects=[OBJECT, {**OBJECT, "id": 10, "name": "c", "kind": "Pot"}]), indent=1)
    line = 1 + text[: text.index('"Pot"')].count("\n")
    assert f"a.gatillo, line {line} ($.objects[1].kind)" in broken(text.encode())


def test_lines_are_found_past_brackets_in_strings():
    text = '{"a": "]}\\"",\n "b": [1, {"c": 2},\n 3]}'
    assert [line_of(text, p) for p in ("$.a", "$.b[1].c", "$.b[2]", "$.none")] == [1, 2, 3, 1]


@given(st.binary(max_size=300))
@settings(max_examples=150, deadline=None)
def test_any_bytes_are_a_level_or_a_sentence(raw):
    try:
        decode_level(raw)
    except LevelFileError as error:
        assert str(error)


@given(st.data())
@settings(max_examples=150, deadline=None)
def test_a_damaged_level_is_a_level_or_a_sentence(data):
    raw = bytearray(encode_level(LEVEL))
    for _ in range(data.draw(st.integers(1, 4))):
        at = data.draw(st.integers(0, len(raw) - 1))
        raw[at : at + data.draw(st.integers(0, 30))] = data.draw(st.binary(max_size=6))
    try:
        decode_level(bytes(raw))
    except LevelFileError as error:
        assert str(error)


def test_missing_folders_and_unreadable_files_are_told(tmp_path: Path):
    for path, says in ((tmp_path / "no.gatillo", "there is no file"), (tmp_path, "is a folder")):
        with pytest.raises(LevelFileError, match=says):
            read_level(path)


def test_a_huge_file_is_refused_before_it_is_read(tmp_path: Path):
    path = tmp_path / "huge.gatillo"
    with path.open("wb") as out:
        out.truncate(level_file.MOST_BYTES + 1)
    with pytest.raises(LevelFileError, match="at most 64 MB"):
        read_level(path)


def test_saving_keeps_the_previous_version(tmp_path: Path):
    path = tmp_path / "a.gatillo"
    write_level(path, LEVEL)
    write_level(path, level(has={"m": 1.0}))
    assert read_level(path).variables[0].name == "m"
    assert read_level(tmp_path / "a.gatillo~") == LEVEL
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.gatillo", "a.gatillo~"]


def test_a_failed_save_leaves_the_file_as_it_was(tmp_path: Path, monkeypatch):
    path = tmp_path / "a.gatillo"
    write_level(path, LEVEL)

    def fail(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(LevelFileError, match="could not be saved: No space left on device"):
        write_level(path, level())
    assert read_level(path) == LEVEL
    assert [p.name for p in tmp_path.iterdir()] == ["a.gatillo"]


def test_the_examples_are_written_as_the_program_would_write_them():
    for name in study_names():
        raw = study_path(name).read_bytes()
        assert encode_level(decode_level(raw)) == raw


def test_the_schema_accepts_every_example_and_refuses_an_unknown_entry():
    validator = jsonschema.Draft202012Validator(level_schema())
    for name in study_names():
        validator.validate(json.loads(study_path(name).read_bytes()))
    wrong = changed(order=[{"is": "rule", "id": 1, "name": "a", "do": [{"use": "explode"}]}])
    assert not validator.is_valid(wrong)
    slot = changed(
        order=[{"is": "rule", "id": 1, "name": "a", "do": [{"use": "remove", "with": {"what": "Pod"}}]}]
    )
    assert not validator.is_valid(slot)


def test_a_rule_with_a_mistake_still_loads():
    raw = encode_level(level(rule("r", when=c("touches", a="Nobody", b="Noone"))))
    assert decode_level(raw).order[0].when[0].slots["a"] == "Nobody"


HOSTILE = {
    "one long text": "b'{\"gatillo\": 1, \"name\": \"' + b'x' * (10 << 20) + b'\"}'",
    "brackets": "b'[' * (10 << 20)",
    "many objects of no kind": 'b\'{"gatillo": 1, "name": "n", "objects": [\' + b\',\'.join('
    'b\'{"id": 1, "kind": "K", "name": "a", "x": 0, "y": 0}\' for _ in range(170_000)) + b\']}\'',
    "numbers where texts belong": "b'{\"gatillo\": 1, \"name\": [' + b'1,' * (5 << 20) + b'1]}'",
}


@pytest.mark.parametrize("what", HOSTILE)
def test_ten_megabytes_of_anything_are_read_or_refused_within_500_megabytes(what):
    # address space is bounded in a process of its own; it would end with a MemoryError there
    script = (
        "import resource\n"
        "from gatillo.files.level_file import decode_level, LevelFileError\n"
        "used = int(open('/proc/self/statm').read().split()[0]) * resource.getpagesize()\n"
        "resource.setrlimit(resource.RLIMIT_AS, (used + (500 << 20),) * 2)\n"
        f"raw = {HOSTILE[what]}\n"
        "try:\n    print('level', decode_level(raw).name[:3])\n"
        "except LevelFileError as error:\n    print('told', str(error)[:300])\n"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith(("told", "level"))


@pytest.mark.parametrize("entry", ['"gatillo": 1', '"name": "again"'])
def test_an_entry_that_stands_twice_is_refused_with_its_line(entry):
    raw = encode_level(level()).decode().replace('"name": "test"', f'"name": "test",\n  {entry}', 1).encode()
    with pytest.raises(LevelFileError, match=r"line \d+: the entry .* appears twice"):
        decode_level(raw)


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("mass", 0, "above 0"),
        ("mass", -3, "above 0"),
        ("bounce", 5, "at most 1"),
        ("bounce", -0.1, "at least 0"),
        ("friction", 7, "at most 1"),
        ("depth", 1e300, "at most 1,000,000,000"),
    ],
)
def test_what_a_kind_cannot_be_is_refused_with_its_place(field, value, said):
    import json

    data = json.loads(encode_level(level(kinds=(kind("Pod", 5),))))
    data["kinds"][0][field] = value
    with pytest.raises(LevelFileError) as told:
        decode_level(json.dumps(data, indent=1).encode())
    assert said in str(told.value) and field in str(told.value)


@pytest.mark.parametrize("where", ["rule", "trial", "section", "topic"])
def test_a_control_character_in_a_name_is_refused(where):
    bad = "a\x07b"
    built = {
        "rule": lambda: level(rule(bad)),
        "trial": lambda: replace(level(), trials=(replace(level().trials[0], name=bad),)),
        "section": lambda: level(Section(name=bad)),
        "topic": lambda: level(kinds=(kind("Pod", 5, topics=(Topic(name=bad),)),)),
    }[where]()
    with pytest.raises(LevelFileError, match=r"U\+0007"):
        decode_level(encode_level(built))
