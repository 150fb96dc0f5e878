"""The linear algebra of pushes between bodies, in a fixed order of operations: libraries for it order them by the processor."""

from __future__ import annotations

from typing import Any


def stiffness(a: Any, b: Any, nx: Any, ny: Any, light: Any, out: Any) -> None:
    """Work out by how much each of m contacts parts when another pushes with 1.

    Contact k pushes from body a[k] to body b[k] along the unit normal nx[k], ny[k]; `light` is one over the mass of each body.
    `out`, shape (m, m), takes the answer.
    """
    for k in range(len(a)):
        for n in range(k + 1):
            along = nx[k] * nx[n] + ny[k] * ny[n]
            shared = 0.0
            if a[k] == a[n]:
                shared = shared + light[a[k]]
            if b[k] == b[n]:
                shared = shared + light[b[k]]
            if a[k] == b[n]:
                shared = shared - light[a[k]]
            if b[k] == a[n]:
                shared = shared - light[b[k]]
            out[k, n] = shared * along
            out[n, k] = shared * along


def solve(matrix: Any, found: Any) -> None:
    """Solve a symmetric positive definite system of n equations by elimination, without pivoting (Gauss).

    `matrix`, shape (n, n), is used up; only its upper half is looked at. `found` holds the right side and takes the answer.
    """
    n = len(found)
    for k in range(n):
        for i in range(k + 1, n):
            part = matrix[k, i] / matrix[k, k]
            if part != 0.0:
                for j in range(i, n):
                    matrix[i, j] = matrix[i, j] - part * matrix[k, j]
                found[i] = found[i] - part * found[k]
    for i in range(n - 1, -1, -1):
        rest = found[i]
        for j in range(n - 1, i, -1):
            rest = rest - matrix[i, j] * found[j]
        found[i] = rest / matrix[i, i]


def times(matrix: Any, by: Any, out: Any) -> None:
    """Multiply a matrix, shape (n, n), by a column of n numbers, added up from the first on."""
    n = len(by)
    for i in range(n):
        added = 0.0
        for j in range(n):
            added = added + matrix[i, j] * by[j]
        out[i] = added
