"""Finding and changing what a path leads to within a level as plain values."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import msgspec

from gatillo.inspect.merging.trees import PLACE, TOGETHER, Path, Step, Tree
from gatillo.level.model import Level


def as_tree(level: Level) -> Tree:
    """Return a level as it stands in its file, as plain values."""
    return msgspec.json.decode(msgspec.json.encode(level))


def tree_at(tree: Tree, path: Path) -> Tree | None:
    """Return what a path leads to, or None where nothing is."""
    for step in path:
        if step == PLACE and isinstance(tree, dict):
            return [tree.get(field) for field in TOGETHER]
        at = _index(tree, step)
        if at is None:
            return None
        tree = _held(tree, step)[at]
    return tree


def set_tree_at(tree: Tree, path: Path, value: Tree | None) -> bool:
    """Put a value where a path leads; None takes it away. Returns whether the path led anywhere."""
    for step in path[:-1]:
        at = _index(tree, step)
        if at is None:
            return False
        tree = _held(tree, step)[at]
    last = path[-1]
    if last == PLACE and isinstance(tree, dict) and value is not None:
        tree.update(zip(TOGETHER, value, strict=True))
        return True
    at = _index(tree, last)
    if value is None:
        if at is not None:
            del _held(tree, last)[at]
        return at is not None
    if isinstance(tree, dict) and isinstance(last, str):
        tree[last] = value
    elif at is not None:
        _held(tree, last)[at] = value
    elif isinstance(tree, list):
        tree.append(value)
    else:
        return False
    return True


def _held(tree: Tree, step: Step) -> Any:
    """Return what holds the item that a step leads to: the list or dictionary itself, or the section that has the rule."""
    if not isinstance(tree, list) or not isinstance(step, dict):
        return tree
    return next((held for held in _lists(tree) if _place(held, step) is not None), tree)


def _index(tree: Tree, step: Step) -> int | str | None:
    if isinstance(tree, dict):
        return step if isinstance(step, str) and step in tree else None
    if not isinstance(tree, list):
        return None
    if isinstance(step, dict):
        return next((at for held in _lists(tree) if (at := _place(held, step)) is not None), None)
    return step if isinstance(step, int) and 0 <= step < len(tree) else None


def _lists(tree: list[Tree]) -> Sequence[list[Tree]]:
    """Return a list, and those within it of the sections of an order list."""
    return [tree, *(one["rules"] for one in tree if isinstance(one, dict) and "rules" in one)]


def _place(some: list[Tree], known: dict[str, str | int]) -> int | None:
    """Return where in a list the item is that is known by an id or a name."""
    return next(
        (
            at
            for at, one in enumerate(some)
            if (isinstance(one, dict) and all(one.get(field) == value for field, value in known.items()))
            or ("" in known and one == known[""])
        ),
        None,
    )
