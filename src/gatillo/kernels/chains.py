"""Elementary functions over many numbers where they are not compiled: their source, worked out by NumPy over whole arrays.

A conditional expression becomes `where`, which works out both ways; `and`, `or` and `not` become those of arrays.
"""

from __future__ import annotations

import ast
from pathlib import Path
from typing import Any

import numpy as np


def mantissa(x: Any) -> Any:
    """Return x without its power of two, as `plain.mantissa`."""
    return np.frexp(x)[0]


def exponent(x: Any) -> Any:
    """Return the power of two that `mantissa` leaves out."""
    return np.where(np.isfinite(x), np.frexp(x)[1], 0).astype(np.float64)


def scaled(x: Any, power: Any) -> Any:
    """Return x times a whole power of two."""
    usual = (power > -3000.0) & (power < 3000.0)
    return np.ldexp(x, np.where(usual, power, 0.0).astype(np.int32))


_STEPS = {
    "mantissa": mantissa,
    "exponent": exponent,
    "scaled": scaled,
    "copysign": np.copysign,
    "fabs": np.fabs,
    "floor": np.floor,
    "fmod": np.fmod,
    "sqrt": np.sqrt,
}
"""The exact steps over arrays, by the names in `plain`."""


class _OverArrays(ast.NodeTransformer):
    """Takes what chooses between numbers to what chooses between the elements of arrays."""

    def visit_ImportFrom(self, node: ast.ImportFrom) -> ast.AST | None:
        return None if node.module == "gatillo.kernels.plain" else node

    def visit_IfExp(self, node: ast.IfExp) -> ast.AST:
        self.generic_visit(node)
        return _called("where", node.test, node.body, node.orelse)

    def visit_BoolOp(self, node: ast.BoolOp) -> ast.AST:
        self.generic_visit(node)
        found = node.values[0]
        for value in node.values[1:]:
            found = _called("logical_and" if isinstance(node.op, ast.And) else "logical_or", found, value)
        return found

    def visit_UnaryOp(self, node: ast.UnaryOp) -> ast.AST:
        self.generic_visit(node)
        return _called("logical_not", node.operand) if isinstance(node.op, ast.Not) else node

    def visit_Compare(self, node: ast.Compare) -> ast.AST:
        self.generic_visit(node)
        values = [node.left, *node.comparators]
        found: ast.expr = ast.Compare(values[0], [node.ops[0]], [values[1]])
        for at in range(1, len(node.ops)):
            found = _called("logical_and", found, ast.Compare(values[at], [node.ops[at]], [values[at + 1]]))
        return found


def _called(name: str, *arguments: ast.expr) -> ast.expr:
    function = ast.Attribute(ast.Name("np", ast.Load()), name, ast.Load())
    return ast.Call(function, list(arguments), [])


def over_arrays(source: Path) -> dict[str, Any]:
    """Return what a kernel's source defines, as functions of arrays of one shape."""
    tree = _OverArrays().visit(ast.parse(source.read_text(encoding="utf-8")))
    names: dict[str, Any] = {"np": np, **_STEPS}
    exec(compile(ast.fix_missing_locations(tree), str(source), "exec"), names)
    return names
