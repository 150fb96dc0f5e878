"""Random draws: the arrays give what NumPy's Philox gives."""

from __future__ import annotations

import numpy as np

from gatillo.sim.spatial import random_draws as chance


def test_arrays_draw_what_numpys_generator_draws():
    first, second = np.arange(100), np.arange(100) * 7
    many = chance.uniform(5, 77, first, second, 12, 3)
    few = np.concatenate(
        [chance.uniform(5, 77, first[i : i + 10], second[i : i + 10], 12, 3) for i in range(0, 100, 10)]
    )
    by_numpy = [
        np.random.Philox(key=[5, 77], counter=[a, b, 12, 3]).random_raw(1)[0]
        for a, b in zip(first.tolist(), second.tolist(), strict=True)
    ]
    assert len(first) > chance._FEW
    assert (many == few).all()
    assert (many == (np.array(by_numpy, dtype=np.uint64) >> np.uint64(11)) * 2.0**-53).all()


def test_draws_are_spread_evenly():
    drawn = chance.uniform(1, 2, np.arange(20_000), np.zeros(20_000, dtype=np.int64), 1, 0)
    assert ((drawn >= 0) & (drawn < 1)).all()
    counts = np.histogram(drawn, bins=10, range=(0, 1))[0]
    assert abs(counts - 2000).max() < 200


def test_every_part_of_the_key_matters():
    one, none = np.array([1]), np.array([0])
    base = (1, 2, one, none, 3, 4)
    others = [
        (9, 2, one, none, 3, 4),
        (1, 9, one, none, 3, 4),
        (1, 2, one + 1, none, 3, 4),
        (1, 2, one, one, 3, 4),
        (1, 2, one, none, 9, 4),
        (1, 2, one, none, 3, 9),
    ]
    drawn = {chance.uniform(*key)[0] for key in (base, *others)}
    assert len(drawn) == 7
