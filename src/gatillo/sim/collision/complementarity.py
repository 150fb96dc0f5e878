"""The least change of velocities with which touching bodies give way to one another: a linear complementarity problem.

Contacts only push, and only where they touch. What moves least, by the masses, while no contact is entered is the
answer of the complementarity problem K f - w >= 0, f >= 0, f (K f - w) = 0 (Moreau, Unilateral contact and dry
friction in finite freedom dynamics, 1988; Baraff, 1994). It is solved by block principal pivoting (Judice and Pires,
Computers and Operations Research 21, 1994), and by projected Gauss-Seidel sweeps where there are too many contacts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatillo.kernels import COMPILED, column, elimination

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_EXACT = 240
"""Up to so many contacts are solved exactly; more in sweeps."""
SWEEPS = 60
_FEW = 6
"""Where kernels are not compiled, up to so many contacts are worked out in plain numbers."""
_STIFF = 1e-12
"""Contacts that say the same twice (a box over two floors) share the push."""
_NOTHING = 1e-14


@dataclass(slots=True)
class Contacts:
    """Contacts between bodies: from body `a` to body `b` along the unit normal; arrays of shape (m,).

    `light` is one over the mass of each body, 0 for what is fast; shape (bodies,).
    """

    a: Ints
    b: Ints
    nx: Floats
    ny: Floats
    light: Floats


def pushes(contacts: Contacts, wanted: Floats) -> Floats:
    """Return how hard each contact pushes so that all part by at least `wanted` along their normals, shape (m,).

    Given closing speeds it answers impulses, given depths it answers shifts times masses.
    """
    light, a, b = contacts.light, contacts.a, contacts.b
    if len(wanted) == 1:
        both = light.item(a.item(0)) + light.item(b.item(0))
        return np.array([max(wanted.item(0), 0.0) / both if both > 0 else 0.0])
    if len(wanted) > MOST_EXACT:
        return _sweeps(contacts, wanted)
    return _pivots(_stiffness(contacts), wanted)


def _stiffness(contacts: Contacts) -> Floats:
    """Return by how much each contact parts when another pushes with 1; shape (m, m)."""
    a, b, nx, ny, light = contacts.a, contacts.b, contacts.nx, contacts.ny, contacts.light
    many = len(a)
    if _by_kernel(many):
        stiffness = np.empty((many, many))
        elimination.stiffness(*map(column, (a, b, nx, ny, light, stiffness)))
        return stiffness
    # the same over arrays, in the same order
    shared = np.where(a[:, None] == a, light[a][:, None], 0.0)
    shared = shared + np.where(b[:, None] == b, light[b][:, None], 0.0)
    shared = shared - np.where(a[:, None] == b, light[a][:, None], 0.0)
    shared = shared - np.where(b[:, None] == a, light[b][:, None], 0.0)
    return np.asarray(shared * (nx[:, None] * nx + ny[:, None] * ny))


def _by_kernel(many: int) -> bool:
    return COMPILED or many <= _FEW


def _solve(matrix: Floats, wanted: Floats) -> Floats:
    """Return the answer of a symmetric positive definite system, shape (n,)."""
    found = wanted.copy()
    if _by_kernel(len(found)):
        elimination.solve(column(matrix), column(found))
        return found
    for k in range(len(found)):
        part = matrix[k, k + 1 :] / matrix[k, k]
        matrix[k + 1 :, k + 1 :] -= part[:, None] * matrix[k, k + 1 :]
        found[k + 1 :] -= part * found[k]
    for i in range(len(found) - 1, -1, -1):
        found[i] /= matrix[i, i]
        found[:i] -= matrix[:i, i] * found[i]
    return found


def _times(matrix: Floats, by: Floats) -> Floats:
    """Return a matrix times a column, added up from the first on; shape (n,)."""
    out = np.zeros(len(by))
    if _by_kernel(len(by)):
        elimination.times(column(matrix), column(by), column(out))
        return out
    for at, value in enumerate(by.tolist()):
        out += matrix[:, at] * value
    return out


def _pivots(stiffness: Floats, wanted: Floats) -> Floats:
    many = len(wanted)
    diagonal = stiffness.diagonal()
    stands = diagonal <= _NOTHING
    stiffness = stiffness + np.diag(np.where(stands, 1.0, _STIFF * np.maximum(diagonal, _NOTHING)))
    wanted = np.where(stands, 0.0, wanted)
    scale = max(float(np.abs(wanted).max()), _NOTHING)
    presses = wanted > 0
    fewest, patience = many + 1, 10
    for _ in range(20 * many + 20):
        at = presses.nonzero()[0]
        force = np.zeros(many)
        if len(at):
            force[at] = _solve(stiffness[np.ix_(at, at)], wanted[at])
        slack = _times(stiffness, force) - wanted
        wrong = np.where(presses, force < 0, slack < -1e-13 * scale)
        count = int(np.count_nonzero(wrong))
        if not count:
            return force
        if count < fewest:
            fewest, patience = count, 10
            presses = presses ^ wrong
        elif patience > 0:
            patience -= 1
            presses = presses ^ wrong
        else:
            # one at a time, which always comes to an end (Murty, 1974)
            last = wrong.nonzero()[0][-1]
            presses = presses.copy()
            presses[last] = not presses[last]
    return np.maximum(force, 0.0)


def _sweeps(contacts: Contacts, wanted: Floats) -> Floats:
    """Return the forces approximately: sweep over all contacts, each body shared among the contacts that press it."""
    a, b, nx, ny, light = contacts.a, contacts.b, contacts.nx, contacts.ny, contacts.light
    bodies = len(light)
    shares = np.maximum(np.bincount(a, minlength=bodies), np.bincount(b, minlength=bodies)).astype(np.float64)
    shares = np.maximum(shares, 1.0)
    both = light[a] * shares[a] + light[b] * shares[b]
    safe = np.where(both > 0, both, 1.0)
    force = np.zeros(len(wanted))
    for _ in range(SWEEPS):
        x, y = moved(contacts, force)
        parted = (x[b] - x[a]) * nx + (y[b] - y[a]) * ny
        change = np.where(both > 0, (wanted - parted) / safe, 0.0)
        new = np.maximum(force + change, 0.0)
        if not np.any(np.abs(new - force) > _NOTHING):
            break
        force = new
    return force


def moved(contacts: Contacts, force: Floats) -> tuple[Floats, Floats]:
    """Return by how much the pushes move each body, along x and y; shape (bodies,)."""
    bodies = len(contacts.light)
    x = np.bincount(contacts.b, force * contacts.nx, bodies) - np.bincount(
        contacts.a, force * contacts.nx, bodies
    )
    y = np.bincount(contacts.b, force * contacts.ny, bodies) - np.bincount(
        contacts.a, force * contacts.ny, bodies
    )
    return x * contacts.light, y * contacts.light
