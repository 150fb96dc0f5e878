"""What a world holds is declared: nothing can be held in silence, and all of it is copied and stands in its digest."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from building import START, add, kind, level, rule, things
from gatillo.sim.program.program import Program
from gatillo.sim.world import world as worlds
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.records import Memory
from gatillo.sim.world.snapshot import copied, size_of, written
from gatillo.sim.world.world import World
from other_values import OTHER, another


@pytest.fixture
def world():
    built = level(
        rule("r", when=START, do=add("level.n")),
        has={"n": 0.0},
        kinds=(kind("Pod", has={"v": 0.0, "mood": "calm"}),),
        objects=things("Pod", (0, 0), (9, 0)),
    )
    return World(Program(built))


def fields_of(world):
    """Every declared place: whose attribute it is, and its name."""
    for name in world.state():
        value = getattr(world, name)
        if dataclasses.is_dataclass(value):
            yield from ((value, field.name) for field in dataclasses.fields(value))
        elif name == "variables":
            yield from ((value, key) for key in value)
        else:
            yield world, name


def get(owner, name):
    return owner[name] if isinstance(owner, dict) else getattr(owner, name)


def put(owner, name, value):
    if isinstance(owner, dict):
        owner[name] = value
    else:
        setattr(owner, name, value)


def test_whatever_changes_in_the_state_changes_the_digest(world):
    before, seen = world.state_bytes(), 0
    for owner, name in fields_of(world):
        kept = get(owner, name)
        put(owner, name, another(name, kept))
        assert world.state_bytes() != before, name
        put(owner, name, kept)
        seen += 1
    assert world.state_bytes() == before
    assert seen > 60


def test_a_world_takes_no_attribute_that_is_not_declared(world):
    with pytest.raises(AttributeError):
        world.novelty = 1
    for record in (world.input, world.contacts, world.movement, world.prompts, world.messages, world.caches):
        with pytest.raises(AttributeError):
            record.novelty = 1
    assert {*world.state(), "program", "dt", "caches"} == set(World.__slots__)
    assert set(World.__slots__) == set(World.__annotations__)


def test_a_copy_shares_nothing_that_is_written_into(world):
    world.messages.sent_from["go"] = {1: 2.0}
    world.rules.memory[(0, 0)] = Memory()
    world.rules.lines["key"] = 1
    copy = world.clone()
    assert copy.differs_in(world) == []
    before = world.state_bytes()
    for name in COLUMNS:
        column = getattr(copy, name)
        column[:] = ~column if column.dtype == bool else column + 7
    next(iter(copy.variables.values()))[:] = 5.0
    copy.messages.sent_from["go"][1] = 3.0
    copy.rules.memory[(0, 0)].fired.add("x")
    copy.rules.lines["other"] = 1
    copy.movement.bonds[1] = OTHER["bonds"][1]
    copy.level["n"] = 9.0
    assert world.state_bytes() == before
    assert set(copy.differs_in(world)) >= {*COLUMNS, "variables", "messages", "rules", "movement", "level"}


def test_what_cannot_be_written_down_is_not_left_out_of_the_digest(world):
    world.rules.lines["key"] = object()
    with pytest.raises(TypeError, match="nothing says how to write it down"):
        world.state_bytes()


def test_every_column_begins_in_a_created_object_as_in_one_laid_out(world):
    world.append(0, np.array([0.0]), np.array([0.0]))
    for name in COLUMNS:
        column = getattr(world, name)
        assert column.dtype == getattr(World(world.program), name).dtype, name
        if name != "id":
            assert column[2] == column[0], name
    world.alive[0] = False
    world.died[0] = -1
    world.pack()
    assert all(len(getattr(world, name)) == 2 for name in COLUMNS)


def test_a_property_that_no_column_stores_is_an_error_at_import(monkeypatch):
    assert set(COLUMNS) <= set(World.__slots__)
    monkeypatch.delitem(COLUMNS, "scale")
    with pytest.raises(TypeError, match=r"no column stores.*scale"):
        worlds.check_state()


def test_values_that_look_alike_are_written_apart():
    alike = [
        0,
        0.0,
        -0.0,
        False,
        "",
        "0",
        None,
        (),
        [],
        {},
        (0,),
        ((),),
        np.zeros(1),
        np.zeros(1, dtype=bool),
    ]
    told = [written(value) for value in alike if not isinstance(value, list)]
    assert len(set(told)) == len(told)
    assert copied({"a": [1]}) == {"a": [1]}


def test_the_size_of_many_things_of_one_sort_is_told_from_some_of_them() -> None:
    entries = {i: (f"text {i}", 1.0, [0.0] * 10) for i in range(10_000)}
    whole = 100 + sum(100 + size_of(entry) for entry in entries.values())
    assert size_of(entries) == whole


@given(
    st.lists(st.integers(1, 12), min_size=1, max_size=12, unique=True).map(sorted),
    st.lists(st.integers(-3, 1_000_002), max_size=20),
    st.sets(st.integers(0, 11)),
    st.integers(0, 2),
)
def test_the_row_of_an_id_is_found_whether_ids_have_gaps_or_not(ids, asked, dead, created):
    built = level(kinds=(kind("Stone", 4),), objects=tuple(things("Stone", (0, 0), first=i)[0] for i in ids))
    world = World(Program(built))
    if created:
        world.append(0, np.zeros(created), np.zeros(created))
    world.alive[[row for row in dead if row < len(world.id)]] = False
    world.structure_changed()
    asked += [*world.id.tolist(), 1_000_000]
    there = {
        i: row for row, (i, lives) in enumerate(zip(world.id.tolist(), world.alive, strict=True)) if lives
    }
    assert world.rows_of_ids(np.array(asked)).tolist() == [there.get(i, -1) for i in asked]
