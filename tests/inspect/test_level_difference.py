"""What differs between two levels is told in sentences, and nothing that differs is left out."""

from __future__ import annotations

from random import Random
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import add, c, kind, level, rule, send, things
from gatillo.examples import example_names, study_path
from gatillo.files.level_file import LevelFileError, decode_level, encode_level, read_level
from gatillo.inspect.level_difference import level_differences
from gatillo.level import thing_edits
from gatillo.level.expectations import FiresTimes
from gatillo.level.model import Input, KeyBar, Level, Section
from gatillo.level.rule_edits import put_rule

LEVELS = [read_level(study_path(name)) for name in sorted(example_names())]


def told(before: Level, after: Level) -> list[str]:
    return [one.sentence() for one in level_differences(before, after)]


def yard() -> Level:
    return level(
        rule("First", when=c("key_pressed", key="E"), do=(add("level.n"), send("bang")), id=1),
        rule(
            "Second",
            when=c("every_tick"),
            if_=c("formula_holds", formula="level.n > 2"),
            do=add("level.m"),
            id=2,
        ),
        rule("Third", when=c("every_tick"), do=add("level.m", "3"), id=3),
        kinds=(kind("Pod", has={"age": 1.0}), kind("Mira", behaviours=(c("steer_eight_ways", speed="120"),))),
        objects=(*things("Pod", (10, 20), (30, 40)), *things("Mira", (0, 0), first=9)),
        has={"n": 0.0, "m": 0.0},
        keys=(("E", 0.1, 0.2),),
    )


def with_rule(lv: Level, number: int, **fields: Any) -> Level:
    return replace(lv, order=tuple(replace(e, **fields) if e.id == number else e for e in lv.order))


def test_a_level_does_not_differ_from_itself():
    for lv in LEVELS:
        assert level_differences(lv, lv) == []


def test_lines_of_a_rule_are_added_removed_and_changed():
    lv = yard()
    more = (c("formula_holds", formula="level.n > 2"), c("formula_holds", formula="level.m < 9"))
    assert told(lv, with_rule(lv, 2, if_=more)) == ["rule “Second”: if added: level.m < 9"]
    assert told(lv, with_rule(lv, 1, do=(send("bang"),))) == ["rule “First”: do removed: add 1 to level.n"]
    assert told(lv, with_rule(lv, 1, do=(add("level.n", "5"), send("bang")))) == [
        "rule “First”: do 1: add 1 to level.n → add 5 to level.n"
    ]
    assert told(lv, with_rule(lv, 1, name="Start", on=False)) == [
        "rule “Start”: renamed, was “First”",
        "rule “Start”: switched off",
    ]


def test_rules_are_moved_added_and_removed():
    lv = yard()
    assert told(lv, put_rule(lv, 3, before=1)) == ["rule “Third”: moved from 3 to 1"]
    less = replace(lv, order=lv.order[1:])
    assert told(lv, less) == ["rule “First”: removed"]
    assert told(less, lv) == ["rule “First”: added as number 1"]
    within = replace(lv, order=(lv.order[0], Section(name="Work", rules=lv.order[1:])))
    assert told(lv, within) == [
        "section Work: added",
        "rule “Second”: moved into “Work”",
        "rule “Third”: moved into “Work”",
    ]


def test_kinds_objects_and_variables_are_told_by_their_names():
    lv = yard()
    faster = replace(lv.kinds[1], behaviours=(c("steer_eight_ways", speed="140"),))
    changed = replace(
        lv,
        variables=(replace(lv.variables[0], value=3.0), lv.variables[1]),
        kinds=(lv.kinds[0], faster),
        objects=(replace(lv.objects[0], x=12.0, name="Seed"), *lv.objects[2:]),
    )
    assert told(lv, changed) == [
        "level variable n: value: 0 → 3",
        "kind Mira: behaviour steer eight ways: speed: 120 → 140",
        "object Pod 2: removed",
        "object Seed: renamed, was Pod 1",
        "object Seed: x: 10 → 12",
    ]


def test_trials_tell_their_keys_and_what_they_expect():
    lv = yard()
    trial = lv.trials[0].name
    changed = thing_edits.add_expectation(lv, trial, FiresTimes(rule="First"))
    changed = thing_edits.set_bars(changed, trial, (KeyBar(key="E", start=0.1, end=0.5),))
    assert told(lv, changed) == [
        f"trial {trial}: input key removed: E from 0.1 to 0.2 s",
        f"trial {trial}: input key added: E from 0.1 to 0.5 s",
        f"trial {trial}: expectation added: “First” fires exactly 1 time",
    ]
    assert told(lv, replace(lv, trials=(replace(lv.trials[0], input=Input()),))) == [
        f"trial {trial}: input key removed: E from 0.1 to 0.2 s"
    ]


# nothing is left out


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Return the paths to every plain value within a level, and to every list."""
    found: list[tuple[Any, ...]] = []
    if isinstance(value, msgspec.Struct):
        for field in msgspec.structs.fields(type(value)):
            if field.name not in ("id", "format"):
                found += places(getattr(value, field.name), (*path, field.name))
    elif isinstance(value, tuple):
        found.append(path)
        for at, one in enumerate(value):
            found += places(one, (*path, at))
    elif isinstance(value, dict):
        found.append(path)
    else:
        found.append(path)
    return found


def changed_at(value: Any, path: tuple[Any, ...], chance: Random) -> Any:
    """Return a value with what is at a path changed: another number or text, an item fewer, twice, or elsewhere."""
    if not path:
        if isinstance(value, bool):
            return not value
        if isinstance(value, float | int):
            return value + 1
        if isinstance(value, str):
            return value + "x"
        if isinstance(value, dict):
            return {**value, "other": "1"}
        if isinstance(value, tuple) and value:
            way = chance.choice(["less", "twice", "turned"])
            return value[1:] if way == "less" else (*value, value[0]) if way == "twice" else value[::-1]
        return value
    first, rest = path[0], path[1:]
    if isinstance(value, tuple):
        return (*value[:first], changed_at(value[first], rest, chance), *value[first + 1 :])
    return replace(value, **{first: changed_at(getattr(value, first), rest, chance)})


PLACES = [places(lv) for lv in LEVELS]


@settings(max_examples=300, deadline=None)
@given(st.integers(0, len(LEVELS) - 1), st.randoms(use_true_random=False))
def test_whatever_is_changed_is_told(number, chance):
    lv = LEVELS[number]
    changed = changed_at(lv, chance.choice(PLACES[number]), chance)
    try:
        # what may not stand there makes no level
        decode_level(encode_level(changed))
    except LevelFileError:
        return
    assert bool(level_differences(lv, changed)) == (changed != lv)
    assert bool(level_differences(changed, lv)) == (changed != lv)


@pytest.mark.parametrize("number", range(0, len(LEVELS), 5))
def test_two_different_levels_differ_in_all_that_each_alone_has(number):
    one, other = LEVELS[number], LEVELS[(number + 1) % len(LEVELS)]
    found = told(one, other)
    assert all(any(f"kind {k.name}: " in line for line in found) for k in one.kinds if k not in other.kinds)
