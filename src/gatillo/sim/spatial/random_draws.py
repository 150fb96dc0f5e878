"""Random draws that depend on what they are for, never on what was drawn before.

Philox-4x64-10, a counter-based generator (Salmon, Moraes, Dror, Shaw: Parallel random numbers: as
easy as 1, 2, 3; SC 2011). The key is the run's seed and what draws; the counter is the objects, the
tick and the call. Worked out here, one by one or as arrays, since NumPy would need a generator for each draw
and asks the system for randomness whenever it makes one. The numbers are those that NumPy's gives.
"""

from __future__ import annotations

import hashlib

import numpy as np
from numpy.typing import NDArray

_FEW = 32
_U = np.uint64
_LOW = _U(0xFFFFFFFF)
_SHIFT = _U(32)
_WIDE = (0xD2E7470EE14C6C93, 0xCA5A826395121157)
_MULTIPLIER = tuple(map(_U, _WIDE))
_WEYL = (0x9E3779B97F4A7C15, 0xBB67AE8584CAA73B)
_MASK = (1 << 64) - 1


def identity(*parts: object) -> int:
    """Return a 64-bit key for what draws, e.g. a rule's id and an action's place in it."""
    digest = hashlib.blake2b("\x1f".join(map(str, parts)).encode(), digest_size=8).digest()
    return int.from_bytes(digest, "little")


def _times(a: NDArray[np.uint64], b: np.uint64) -> tuple[NDArray[np.uint64], NDArray[np.uint64]]:
    """High and low word of a 64 × 64 bit product."""
    a_low, a_high = a & _LOW, a >> _SHIFT
    b_low, b_high = b & _LOW, b >> _SHIFT
    low = a_low * b_low
    middle = a_high * b_low + (low >> _SHIFT)
    other = a_low * b_high + (middle & _LOW)
    return a_high * b_high + (middle >> _SHIFT) + (other >> _SHIFT), a * b


def uniform(
    seed: int, who: int, first: NDArray[np.int64], second: NDArray[np.int64], tick: int, call: int
) -> NDArray[np.float64]:
    """Return one draw from [0, 1) for each pair of object ids.

    `first` and `second` have shape (n,); a role that a rule does not have is id 0.
    """
    n = len(first)
    key = [seed & _MASK, who & _MASK]
    if n <= _FEW:
        # as NumPy does, which steps the counter once before its first output
        raw = np.array(
            [
                _one(key[0], key[1], a + 1, b, tick, call)
                for a, b in zip(first.tolist(), second.tolist(), strict=True)
            ],
            dtype=np.uint64,
        )
    else:
        raw = _block(key, first.astype(np.uint64) + _U(1), second.astype(np.uint64), tick, call)
    return (raw >> _U(11)).astype(np.float64) * 2.0**-53


def _one(k0: int, k1: int, c0: int, c1: int, c2: int, c3: int) -> int:
    for _ in range(10):
        one, other = _WIDE[0] * c0, _WIDE[1] * c2
        c0, c1, c2, c3 = (other >> 64) ^ c1 ^ k0, other & _MASK, (one >> 64) ^ c3 ^ k1, one & _MASK
        k0, k1 = (k0 + _WEYL[0]) & _MASK, (k1 + _WEYL[1]) & _MASK
    return c0


def _block(
    key: list[int], c0: NDArray[np.uint64], c1: NDArray[np.uint64], tick: int, call: int
) -> NDArray[np.uint64]:
    c2 = np.full(len(c0), tick, dtype=np.uint64)
    c3 = np.full(len(c0), call, dtype=np.uint64)
    k0, k1 = key
    with np.errstate(over="ignore"):
        for _ in range(10):
            high0, low0 = _times(c0, _MULTIPLIER[0])
            high1, low1 = _times(c2, _MULTIPLIER[1])
            c0, c1, c2, c3 = high1 ^ c1 ^ _U(k0), low1, high0 ^ c3 ^ _U(k1), low0
            k0, k1 = (k0 + _WEYL[0]) & _MASK, (k1 + _WEYL[1]) & _MASK
    return c0
