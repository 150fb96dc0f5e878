"""Readouts on objects, and pictures within a level: what they show, and what is refused."""

from __future__ import annotations

import base64

import pytest
from msgspec.structs import replace

from building import START, add, c, kind, level, rule, run, things
from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.inspect.readouts import shown_readouts
from gatillo.level.model import Readout
from gatillo.level.pictures import MOST_BYTES, PREFIX, as_png, as_text
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program

HEAD = b"\x89PNG\r\n\x1a\n" + b"\0\0\0\rIHDR"
PNG = HEAD + (8).to_bytes(4, "big") * 2 + b"0" * 40
WIDE = HEAD + (8_000).to_bytes(4, "big") * 2 + b"0" * 40


def cans(*readouts, order=(), **more):
    can = replace(kind("Can", 5, has={"fill": 2.0}), readouts=readouts)
    return level(
        *order, kinds=(can, kind("Cat", 5)), objects=things("Can", (0, 0), (9, 9)), has={"full": 4.0}, **more
    )


def test_a_text_readout_holds_each_objects_own_values():
    fill = rule("fill", when=START, do=add("Can_1.fill"))
    shown = shown_readouts(run(cans(Readout(value="{Can.fill} in {Can.name}"), order=(fill,))).world)
    assert [(s.row, s.text, s.full) for s in shown] == [(0, "3 in Can 1", None), (1, "2 in Can 2", None)]


def test_a_bar_shows_a_share_of_its_most_and_keeps_within_it():
    bars = cans(
        Readout(value="Can.fill", shows="bar", most="level.full"),
        Readout(value="Can.fill * 9", shows="bar", most="level.full"),
        Readout(value="-1", shows="bar"),
    )
    shown = shown_readouts(run(bars).world)
    assert [(s.place, s.full) for s in shown if s.row == 0] == [(0, 0.5), (1, 1.0), (2, 0.0)]


def test_a_bar_of_nothing_is_empty_and_a_fault_shows_nothing():
    shown = shown_readouts(run(cans(Readout(value="Can.fill", shows="bar", most="0"))).world)
    assert [s.full for s in shown] == [0.0, 0.0]
    assert shown_readouts(run(cans(Readout(value="1 / (Can.fill - 2)", shows="bar"))).world) == []


def test_a_hidden_object_shows_no_readout():
    hide = rule("hide", when=START, do=c("hide", who="Can 1"))
    shown = shown_readouts(run(cans(Readout(value="x"), order=(hide,))).world)
    assert [s.row for s in shown] == [1]


@pytest.mark.parametrize(
    ("readout", "says"),
    [
        (Readout(value="{Can.fil}"), "did you mean “fill”"),
        (Readout(value="{Can.fill"), "no closing }"),
        (Readout(value="{Cat.x}"), "its own Can only"),
        (Readout(value="yes", shows="bar"), "a number is needed here"),
    ],
)
def test_a_readout_that_cannot_be_worked_out_is_told(readout, says):
    (problem,) = Program(cans(readout)).problems
    assert (problem.part, problem.rule) == ("readout", "Can")
    assert says in problem.message


def test_readouts_change_no_run():
    fill = rule("fill", do=add("Can.fill"))
    with_, without = run(cans(Readout(value="{Can.fill}"), order=(fill,))), run(cans(order=(fill,)))
    assert with_.trace.to_bytes() == without.trace.to_bytes()


def test_a_picture_comes_back_from_a_level_file_as_it_was():
    pictured = cans()
    pictured = replace(pictured, kinds=(replace(pictured.kinds[0], picture=as_text(PNG)), pictured.kinds[1]))
    again = decode_level(encode_level(pictured))
    assert as_png(again.kinds[0].picture) == PNG


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("https://example.org/leaf.png", "a picture begins with"),
        (PREFIX + "%%%", "cannot be read"),
        (PREFIX + base64.b64encode(b"GIF89a").decode(), "this is not one"),
        (PREFIX + base64.b64encode(PNG + b"0" * MOST_BYTES).decode(), "Make it smaller"),
        (PREFIX + base64.b64encode(WIDE).decode(), "8,000 × 8,000 pixels"),
        (PREFIX + base64.b64encode(PNG[:20]).decode(), "does not say how large"),
    ],
)
def test_what_is_no_small_png_is_refused_with_its_place(text, says):
    pictured = cans()
    pictured = replace(pictured, kinds=(replace(pictured.kinds[0], picture=text), pictured.kinds[1]))
    assert [f.path for f in flaws(pictured)] == ["$.kinds[0].picture"]
    with pytest.raises(LevelFileError, match=says):
        decode_level(encode_level(pictured))
