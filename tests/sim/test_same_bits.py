"""Runs have the same bits on every machine: elementary functions of our own, and nothing whose last bits depend on a library."""

from __future__ import annotations

import ast
import json
import math
import os
import shutil
import subprocess
import sys
import sysconfig
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import gatillo
import gatillo.kernels as kernels
from gatillo.kernels import as_python, mathematics
from gatillo.sim.collision import complementarity

HERE, SOURCES = Path(__file__).parent, Path(gatillo.__file__).parent
GOLDEN = [
    (name, [float.fromhex(a) for a in given], float.fromhex(exact), answer)
    for name, given, exact, answer in json.loads((HERE / "elementary.json").read_text())
]
"""Stored: a function, what it is given, the exact answer rounded once (found with 400 bits), and ours."""
NAMES = list(dict.fromkeys(name for name, *_ in GOLDEN))
ODD = [
    0.0,
    -0.0,
    5e-324,
    1e-310,
    1.0,
    -1.0,
    0.5,
    2.0,
    -3.0,
    30.0,
    45.0,
    90.0,
    -90.0,
    180.0,
    360.0,
    750.0,
    -750.0,
]
ODD += [1e22, 1e300, -1e300, math.inf, -math.inf, math.nan]
NUMBERS = st.one_of(st.sampled_from(ODD), st.floats(-1000, 1000), st.floats(-1.5, 1.5), st.floats())


def bits(values):
    """What is compared: the bits of numbers, and of no number only that it is none."""
    values = np.asarray(values, dtype=np.float64)
    return np.where(np.isnan(values), np.nan, values).view(np.int64).tolist()


@pytest.mark.parametrize("name", NAMES)
def test_a_function_answers_the_stored_bits_and_nearly_the_exact_number(name):
    for _, given_, exact, answer in (one for one in GOLDEN if one[0] == name):
        ours = getattr(mathematics, name)(*given_)
        assert ours.hex() == answer, given_
        # never farther off than the next number
        assert abs(ours - exact) <= math.ulp(exact), given_


@pytest.mark.parametrize("name", NAMES)
@given(st.lists(st.tuples(NUMBERS, NUMBERS), min_size=1, max_size=70))
def test_one_by_one_over_arrays_in_chains_and_as_python_are_the_same(name, values):
    two = name in ("atan2d", "power")
    columns = [np.array(column) for column in zip(*values, strict=True)][: 2 if two else 1]
    rows = list(zip(*(column.tolist() for column in columns), strict=True))
    over = bits(getattr(mathematics, name)(*columns))
    assert over == bits([getattr(mathematics, name)(*row) for row in rows])
    assert over == bits([getattr(as_python("elementary"), name)(*row) for row in rows])
    with np.errstate(all="ignore"):
        assert over == bits(mathematics._chain(name)(*columns))


@pytest.mark.parametrize("name", ["sind", "exp"])
def test_where_nothing_is_compiled_few_and_many_are_the_same(name):
    over, values = mathematics._uncompiled(name), np.linspace(-700, 700, 3 * mathematics.FEW)
    many = over(values)
    few = np.concatenate([over(part) for part in np.split(values, 6)])
    assert many.tobytes() == few.tobytes() == getattr(mathematics, name)(values).tobytes()
    assert over(3.0) == getattr(mathematics, name)(3.0)


def test_round_angles_have_round_answers():
    quarters = [mathematics.sind(90.0 * n) for n in range(-4, 5)]
    assert quarters == [0.0, 1.0, 0.0, -1.0, 0.0, 1.0, 0.0, -1.0, 0.0]
    assert [mathematics.cosd(90.0 * n) for n in range(5)] == [1.0, 0.0, -1.0, 0.0, 1.0]
    assert mathematics.sind(30.0) == mathematics.cosd(60.0) == mathematics.sind(150.0) == 0.5
    assert mathematics.tand(45.0) == 1.0 and mathematics.tand(135.0) == -1.0
    assert [mathematics.atan2d(y, x) for y, x in ((0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, 0))] == [
        0.0,
        45.0,
        90.0,
        135.0,
        180.0,
        -90.0,
    ]
    assert mathematics.asind(0.5) == 30.0 and mathematics.acosd(0.5) == 60.0
    assert mathematics.power(10.0, 3.0) == 1000.0 and mathematics.power(-2.0, 3.0) == -8.0
    assert mathematics.power(49.0, 0.5) == 7.0 and mathematics.exp(0.0) == 1.0 and mathematics.log(1.0) == 0.0


@given(st.floats(-1e6, 1e6))
def test_sines_are_odd_cosines_even_and_full_turns_change_nothing(angle):
    assert mathematics.sind(-angle) == -mathematics.sind(angle)
    assert mathematics.cosd(-angle) == mathematics.cosd(angle)
    near = math.fmod(angle, 360.0)
    assert mathematics.sind(near) == mathematics.sind(angle)
    assert abs(mathematics.sind(angle)) <= 1.0 and abs(mathematics.cosd(angle)) <= 1.0


@given(st.lists(st.floats(-1e9, 1e9), max_size=900))
def test_sums_do_not_depend_on_how_they_are_laid_out(values):
    array = np.array(values)
    spaced = np.zeros(2 * len(values))
    spaced[::2] = array
    assert mathematics.sum_of(array) == mathematics.sum_of(spaced[::2])
    assert mathematics.sum_of(array) == pytest.approx(math.fsum(values), rel=1e-12, abs=1e-5)


def test_sums_of_what_has_no_sum():
    assert mathematics.sum_of([]) == 0.0
    assert mathematics.sum_of([1e308, 1e308]) == math.inf
    assert math.isnan(mathematics.sum_of([math.inf, -math.inf]))


@given(st.floats(1e-9, 1e9))
def test_doublings_are_the_least_that_reach(x):
    n = mathematics.doublings(x)
    assert 2.0**n >= x > 2.0 ** (n - 1)


@given(st.integers(0, 10_000), st.integers(2, 14), st.integers(2, 6))
def test_pushes_are_the_same_by_kernel_and_over_arrays(seed, many, bodies):
    chance = np.random.default_rng(seed)
    a = chance.integers(0, bodies, many)
    b = (a + chance.integers(1, bodies, many)) % bodies
    turned = chance.uniform(-180, 180, many).round(int(chance.integers(-1, 2)))
    light = np.where(chance.random(bodies) < 0.3, 0.0, chance.uniform(0.1, 3, bodies))
    contacts = complementarity.Contacts(a, b, mathematics.cosd(turned), mathematics.sind(turned), light)
    wanted = chance.uniform(-1, 1, many)
    made = []
    by_kernel = complementarity._by_kernel
    try:
        for few in (True, False):
            complementarity._by_kernel = lambda many, few=few: few
            made.append(complementarity.pushes(contacts, wanted).tobytes())
    finally:
        complementarity._by_kernel = by_kernel
    assert made[0] == made[1]


@given(st.integers(0, 10_000), st.integers(1, 12))
def test_elimination_solves_what_it_is_given(seed, many):
    chance = np.random.default_rng(seed)
    parts = chance.normal(size=(many, many))
    matrix, wanted = parts @ parts.T + np.eye(many), chance.normal(size=many)
    found = complementarity._solve(matrix.copy(), wanted)
    assert np.allclose(matrix @ found, wanted, atol=1e-8)


def _elsewhere(of: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Compare the first ticks of the examples with `of` in their names with their stored digests, in another process."""
    tool = HERE.parent.parent / "tools" / "digests.py"
    return subprocess.run(
        [sys.executable, str(tool), "--check", "--ticks", "300", "--of", of],
        env={**os.environ, **environment},
        capture_output=True,
        text=True,
    )


NARROW = {
    "NPY_DISABLE_CPU_FEATURES": "X86_V3 X86_V4 AVX2 FMA3 AVX512F AVX512_SKX",
    "GLIBC_TUNABLES": "glibc.cpu.hwcaps=-AVX2,-FMA,-AVX512F",
    "OPENBLAS_CORETYPE": "Prescott",
}
"""As on a processor without wide vectors and without multiplication and addition in one."""


@pytest.mark.parametrize(
    ("of", "elsewhere"), [("1", NARROW), ("", {"GATILLO_KERNELS": "python"})], ids=["narrow", "as Python"]
)
def test_runs_are_the_same_on_another_processor_and_without_a_compiler(of, elsewhere):
    done = _elsewhere(of, **elsewhere)
    assert done.returncode == 0, done.stdout + done.stderr


def test_a_build_that_multiplies_and_adds_in_one_is_noticed(tmp_path):
    source = SOURCES.parent.parent / "build" / "kernels" / "gatillo" / "kernels" / "elementary.c"
    if not (kernels.COMPILED and source.exists() and shutil.which("gcc")):
        pytest.skip("the kernels are not compiled here")
    if os.uname().machine == "x86_64" and "fma" not in Path("/proc/cpuinfo").read_text().split():
        pytest.skip("this processor does not multiply and add in one")
    flags = ["-mfma"] if os.uname().machine == "x86_64" else []
    include, made = sysconfig.get_path("include"), tmp_path / "elementary.so"
    command = ["gcc", "-O2", "-shared", "-fPIC", "-ffp-contract=fast", *flags, f"-I{include}", str(source)]
    subprocess.run([*command, "-o", str(made)], check=True)
    spec = spec_from_file_location("gatillo.kernels.elementary", made)
    other = module_from_spec(spec)
    spec.loader.exec_module(other)
    answers = [getattr(other, name)(*given_).hex() for name, given_, *_ in GOLDEN]
    assert answers != [answer for *_, answer in GOLDEN]


CORE = ("level", "formula", "catalogue", "language", "graphs", "sim")


def test_the_core_multiplies_no_matrices_and_raises_no_numbers_to_powers():
    # ruff bans the functions whose bits differ (pyproject.toml); operators have no name that it could ban
    wrong = []
    for part in CORE:
        for path in (SOURCES / part).rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.BinOp) and (
                    isinstance(node.op, ast.MatMult)
                    or (isinstance(node.op, ast.Pow) and not isinstance(node.left, ast.Constant))
                ):
                    wrong.append(f"{path.name}:{node.lineno}")
                if isinstance(node, ast.Attribute) and node.attr in ("mean", "dot", "std", "var"):
                    wrong.append(f"{path.name}:{node.lineno}")
    assert not wrong


def test_every_function_has_stored_answers():
    assert {*NAMES, "length"} == set(mathematics.FUNCTIONS)
