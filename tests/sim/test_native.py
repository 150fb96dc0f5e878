"""Kernels: compiled or not, and over arrays, they find the same to the last bit; runs are the same with them and without."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import gatillo.kernels as kernels
from building import kind, level, things
from gatillo.cli.main import main
from gatillo.level.model import Trial
from gatillo.sim.collision import contacts, proximity
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

ODD = [0.0, -0.0, 1e-320, 5.0, -7.25, 1e308, -1e308, math.inf, -math.inf, math.nan]
NUMBERS = st.one_of(st.sampled_from(ODD), st.floats(-60, 60))


def each_way(name, function, arrays, *more, out=()):
    """Return what a kernel's function makes compiled, if it is, and as Python: its answer and its buffers."""
    made = []
    for kernel in (kernels.KERNELS[name], kernels.as_python(name)):
        column = memoryview if str(kernel.__file__).endswith(".py") else np.asarray
        buffers = [np.full(shape, -9, dtype=np.int64) for shape in out]
        answer = getattr(kernel, function)(*map(column, arrays), *more, *map(column, buffers))
        made.append((answer, [buffer.tolist() for buffer in buffers]))
    return made


@given(st.lists(st.tuples(NUMBERS, NUMBERS, NUMBERS), min_size=1, max_size=9), st.integers(1, 4), NUMBERS)
@settings(max_examples=150, deadline=None)
def test_every_kernel_finds_the_same_compiled_and_as_python(places, step, margin):
    x, y, size = (np.array(column) for column in zip(*places, strict=True))
    rows, some = np.arange(len(x)), np.arange(len(x))[::step]
    pairs = (2, len(some) * len(rows))
    compiled, plain = each_way(
        "nearness", "overlapping", (x, y, size, size, some, rows), 0.5, margin, out=(pairs,)
    )
    assert compiled == plain
    for most in (1, pairs[1]):
        reach = np.abs(size[some])
        compiled, plain = each_way("nearness", "within", (x, y, some, rows, reach), most, out=(pairs,))
        assert compiled == plain and plain[0] <= most
    compiled, plain = each_way("nearness", "nearest", (x, y, some, rows), out=((len(some),),))
    assert compiled == plain


@given(st.integers(0, 10_000), st.integers(2, 40))
@settings(max_examples=60, deadline=None)
def test_kernels_find_what_arrays_find(seed, many):
    chance = np.random.default_rng(seed)
    at = chance.uniform(0, 90, (many, 2)).round(int(chance.integers(0, 3)))
    world = Run(
        Program(level(kinds=(kind("Moth", 4),), objects=things("Moth", *map(tuple, at.tolist())))),
        Trial(name="t", length=1.0),
    ).world
    rows = world.rows_of_kind(0)
    some, reach = rows[:: int(chance.integers(1, 4))], float(chance.uniform(0, 40))
    few = proximity.FEW_WITHIN, contacts._FEW_PAIRS
    found = []
    try:
        for most in (1 << 30, 0):
            proximity.FEW_WITHIN = contacts._FEW_PAIRS = most
            near = proximity.within_reach(world, some, rows, np.full(len(some), reach), 10**6)
            pairs = sorted(
                zip(
                    *(part.tolist() for part in contacts._near_pairs(world, some, rows, 2.0, 10**6)),
                    strict=True,
                )
            )
            nearest = proximity.nearest_rows(world, some, rows).tolist()
            found.append(([part.tolist() for part in near[:2]], near[2], pairs, nearest))
    finally:
        proximity.FEW_WITHIN, contacts._FEW_PAIRS = few
    assert found[0] == found[1]


def test_the_kernels_are_those_of_the_sources():
    if not kernels.COMPILED:
        pytest.skip("the kernels are not compiled here")
    assert not any(map(kernels._is_stale, kernels.KERNELS.values())), "“make setup” compiles them"


def test_every_kernel_has_types_and_is_loaded():
    folder = Path(kernels.__file__).parent
    typed = {path.stem for path in folder.glob("*.pxd")} - {"native"}
    assert typed == set(kernels.KERNELS) <= {path.stem for path in folder.glob("*.py")}


def test_the_version_says_whether_kernels_are_compiled(capsys, monkeypatch):
    monkeypatch.setattr("sys.argv", ["gatillo", "--version"])
    main()
    assert kernels.SENTENCE in " ".join(capsys.readouterr().out.split())


def test_compiled_kernels_have_the_types_of_their_declarations():
    if not kernels.COMPILED:
        pytest.skip("the kernels are not compiled here")
    numbers, rows = np.zeros(3), np.arange(3, dtype=np.int32)
    with pytest.raises(ValueError, match="Buffer dtype mismatch"):
        kernels.nearness.nearest(numbers, numbers, rows, rows, np.zeros(3, dtype=np.int64))
    with pytest.raises(TypeError, match="columns"):
        kernels.flocking.flock(numbers, rows, 0.1)
