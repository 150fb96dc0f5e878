"""Levels that ask for too much: each is refused with its place, or made ready, with little work (counted in calls, not in seconds)."""

from __future__ import annotations

import base64
import json
import zlib

import msgspec
import pytest
from msgspec.structs import replace

from building import POD, START, add, c, kind, level, rule, run, things
from drawing import card, graph
from gatillo.files.level_file import MARKS, LevelFileError, decode_level, why_not_written
from gatillo.level.model import Clause, Level, Spot
from gatillo.level.pictures import PREFIX
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from work_done import at_most


def as_file(built: Level) -> bytes:
    return msgspec.json.encode(built)


def png(side):
    """A PNG of so many white pixels each way: large, of a few bytes."""

    def chunk(name, data):
        return len(data).to_bytes(4, "big") + name + data + zlib.crc32(name + data).to_bytes(4, "big")

    head = side.to_bytes(4, "big") * 2 + bytes([1, 0, 0, 0, 0])
    rows = zlib.compress((b"\0" + b"\xff" * ((side + 7) // 8)) * side, 9)
    whole = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")
    return PREFIX + base64.b64encode(whole).decode()


def nested_nodes(depth, times):
    """Own nodes that use the next one several times."""
    last = graph(f"g{depth}", card(1, "input", name="in"), card(2, "note", text="x"), wires="1>2", id=900)
    inner = [
        graph(
            f"g{n}",
            card(1, "input", name="in"),
            *(card(2 + at, "own", graph=f"g{n + 1}") for at in range(times)),
            wires=" ".join(f"1>{2 + at}" for at in range(times)),
            id=100 + n,
        )
        for n in range(depth)
    ]
    return graph("top", card(1, "every_tick"), card(2, "own", graph="g0"), wires="1>2", id=1), *inner, last


def pods(n, attached=lambda at: ""):
    objects = things("Pod", *((12.0 * at, 0.0) for at in range(n)))
    return tuple(replace(o, attached=attached(at)) for at, o in enumerate(objects))


def grouped(deep):
    clause = c("formula_holds", formula="yes")
    for _ in range(deep):
        clause = Clause(use="any_of", of=(clause,))
    return level(rule("deep", if_=clause, do=add("level.n")), has={"n": 0.0})


REFUSED: dict[str, tuple[Level, int, str]] = {
    "pictures of 64 million pixels": (
        level(kinds=(kind("Pod", 5, picture=png(8_000)),)), 20_000, r"\$\.kinds\[0\]\.picture.*8,000 × 8,000 pixels",
    ),
    "pictures that are too much together": (
        level(kinds=tuple(kind(f"K{n}", 5, picture=png(2_000 - n)) for n in range(5))), 20_000, r"kinds\[4\]\.picture.*all of the level",
    ),
    "a slot of a million letters": (
        level(rule("r", do=c("note", text="x" * 1_000_000))), 20_000, r"do\[0\]\.with.*10,000 letters at most",
    ),
    "20,000 places": (
        level(places=tuple(Spot(name=f"S{n}", x=0.0, y=0.0) for n in range(20_000))), 500_000, r"\$\.places.*5,000 of these",
    ),
    "a graph of 20,000 cards": (
        level(graph("g", *(card(n, "every_tick") for n in range(1, 20_001)))), 500_000, r"nodes.*10,000 of these",
    ),
    "lines that stand 45 deep within one another": (grouped(45), 20_000, r"\$\.order\[0\]\.if.*more than 40 deep"),
}  # fmt: skip


@pytest.mark.parametrize("what", REFUSED)
def test_what_is_too_much_is_refused_with_its_place_and_little_work(what):
    built, calls, says = REFUSED[what]
    raw = as_file(built)
    with at_most(calls), pytest.raises(LevelFileError, match=says):
        decode_level(raw)


@pytest.mark.parametrize("what", REFUSED)
def test_an_edit_to_it_is_refused_as_well(what):
    assert next(flaws(REFUSED[what][0]), None) or why_not_written(REFUSED[what][0])


READY: dict[str, tuple[Level, int]] = {
    "a chain of 20,000 bonds": (level(kinds=(POD,), objects=pods(20_000, lambda at: f"Pod {at}" if at else "")), 1_200_000),
    "a chain of 20,000 bonds, the other way round": (
        level(kinds=(POD,), objects=pods(20_000, lambda at: f"Pod {at + 2}" if at < 19_999 else "")), 1_200_000,
    ),
    "20,000 bonds to one": (level(kinds=(POD,), objects=pods(20_000, lambda at: "Pod 1" if at else "")), 1_200_000),
    "a thousand mistyped names among 20,000": (
        level(
            *(rule(f"r{n}", when=START, do=c("remove", who=f"Pood {n}"), id=n + 1) for n in range(1_000)),
            kinds=(POD,), objects=pods(20_000),
        ),
        2_500_000,
    ),
    "a thousand mistyped names in formulas": (
        level(*(rule(f"r{n}", if_=c("formula_holds", formula=f"Pood_{n}.x > 0"), do=c("note", text="x"), id=n + 1) for n in range(300)), kinds=(POD,), objects=pods(2_000)),
        2_500_000,
    ),
    "twenty own nodes that use the next ten times": (level(*nested_nodes(20, 10)), 800_000),
    "a hundred graphs that use a large own node": (
        level(*(graph(f"u{n}", card(1, "every_tick"), *(card(2 + at, "own", graph="g8") for at in range(50)), id=2_000 + n) for n in range(100)), *nested_nodes(10, 3)[1:]),
        4_000_000,
    ),
    "a value that comes over 900 cards": (
        level(
            graph(
                "long", card(1, "every_tick"), card(2, "set_variable", variable="level.n"),
                *(card(10 + n, "formula", value="a + 1" if n else "1") for n in range(900)),
                wires="1>2", values=" ".join(f"{10 + n}>{11 + n}.a" for n in range(899)) + " 909>2.value",
            ),
            has={"n": 0.0},
        ),
        200_000,
    ),
    "10,000 actions in a row": (
        level(graph("row", card(1, "every_tick"), *(card(n, "note", text="x") for n in range(2, 10_001)), wires=" ".join(f"{n}>{n + 1}" for n in range(1, 10_000)))),
        4_000_000,
    ),
    "a switch of 1,500 cases": (
        level(graph("s", card(1, "every_tick"), card(2, "switch_by", value="1", cases=", ".join(map(str, range(1_500)))), wires="1>2")),
        50_000,
    ),
    "a circle of no size to speak of": (level(kinds=(kind("Pod", 1e-300, contact="movable"),), objects=pods(2)), 20_000),
}  # fmt: skip


@pytest.mark.parametrize("what", READY)
def test_what_may_be_is_made_ready_and_run_with_work_that_grows_as_it_does(what):
    built, calls = READY[what]
    raw = as_file(built)
    with at_most(calls):
        program = Program(decode_level(raw))
    if not program.problems:
        run(built, 2)


def test_own_nodes_of_a_level_together_are_bounded_and_one_sentence_names_the_way():
    built, _ = READY["twenty own nodes that use the next ten times"]
    (said,) = [p.sentence() for p in Program(built).problems if p.rule == "top"]
    assert "over a billion cards" in said and "“g0” → “g1”" in said
    many, _ = READY["a hundred graphs that use a large own node"]
    problems = Program(many).problems
    refused = {p.rule for p in problems if "20,000 in all" in p.message}
    assert refused and "u0" not in refused


def test_room_for_own_nodes_that_an_edit_makes_is_given():
    many, _ = READY["a hundred graphs that use a large own node"]
    before = Program(many)
    last = max(int(p.rule[1:]) for p in before.problems if p.rule.startswith("u"))
    order = tuple(e for e in many.order if e.name in (f"u{last}", *(f"g{n}" for n in range(11))))
    after = Program(replace(many, order=order), before)
    assert not [p for p in after.problems if p.rule == f"u{last}" and "20,000 in all" in p.message]
    assert [p.sentence() for p in after.problems] == [p.sentence() for p in Program(after.level).problems]


def test_values_over_many_deep_formulas_do_not_run_out_of_depth():
    deep = "(" * 50 + "a" + "+1)" * 50
    cards = [card(10 + n, "formula", value=deep if n else "1") for n in range(20)]
    built = level(
        graph(
            "deep",
            card(1, "every_tick"),
            card(2, "set_variable", variable="level.n"),
            *cards,
            wires="1>2",
            values=" ".join(f"{10 + n}>{11 + n}.a" for n in range(19)) + " 29>2.value",
        ),
        has={"n": 0.0},
    )
    program = Program(built)
    assert any("too many values depend" in p.message for p in program.problems)


@pytest.mark.parametrize(
    "raw",
    [
        b'{"gatillo": 1, "name": "' + b"\\\"" * 20_000,
        b'{"gatillo": 1, "name": "' + b"\\" * 40_001,
        b'"' * 40_001,
        b'{"gatillo": 1, "name": ' + b'"' * 40_001,
        b'{"a":' * 20_000,
        b'{"gatillo":1,"kinds":[' + b'{"name":"a\\"' * 4_000,
    ],
    ids=["escaped quotes", "backslashes", "quotes", "quotes within", "nested", "unclosed kinds"],
)  # fmt: skip
def test_a_text_that_is_not_closed_is_read_once(raw):
    with pytest.raises(LevelFileError):
        decode_level(raw)
    # no quotation mark is left from which another search for its end would begin
    assert '"' not in MARKS.sub("", raw.decode())


def test_a_file_nested_in_every_other_way_is_refused_or_read():
    for opens, closes in (("[", "]"), ('{"a":', "}"), ('[{"of":', "}]")):
        for deep in (101, 5_000):
            with pytest.raises(LevelFileError):
                decode_level((opens * deep + "1" + closes * deep).encode())
    with pytest.raises(LevelFileError):
        decode_level(json.dumps({"gatillo": 1, "name": "x", "order": [[]] * 50_000}).encode())
